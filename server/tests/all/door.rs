//! The gauges' door: a token, JSON lines, once; what nobody bound is not kept; simulated gauges are its clients and
//! go on after a restart.

use crate::support::*;
use serde_json::{Value, json};
use std::process::{Command, Stdio};
use std::time::{Duration, Instant};

fn send(ruhe: &Ruhe, token: &str, sent_ms: Option<i64>, lines: &str) -> (u16, Value) {
    let r = ruhe
        .client
        .post(format!("{}/api/door", ruhe.url))
        .bearer_auth(token)
        .header("Content-Type", "application/x-ndjson")
        .body(lines.to_owned());
    let r = match sent_ms {
        Some(t) => r.header("Ruhe-Sent", t.to_string()),
        None => r,
    };
    let r = r.send().unwrap();
    (r.status().as_u16(), r.json().unwrap_or_default())
}

/// A time as a gauge writes it.
fn stamp(ms: i64) -> String {
    jiff::Timestamp::from_millisecond(ms).unwrap().to_string()
}

fn line(source: &str, n: u32, at_ms: i64, value: &str, unit: &str) -> String {
    json!({"source": source, "n": n, "at": stamp(at_ms), "value": value, "unit": unit}).to_string()
        + "\n"
}

/// A gauge that was let in: its id and token.
fn gauge(ruhe: &Ruhe, name: &str) -> (String, String) {
    let made: Value = ruhe
        .post("/api/gauges", &json!({"name": name}))
        .json()
        .unwrap();
    (
        made["id"].as_str().unwrap().into(),
        made["token"].as_str().unwrap().into(),
    )
}

fn bind(ruhe: &Ruhe, test: &str, channel: &str, gauge: &str, source: &str) -> u16 {
    let url = format!("{}/api/tests/{test}/channels/{channel}/gauge", ruhe.url);
    let body = json!({"gauge": gauge, "source": source});
    ruhe.client
        .put(url)
        .json(&body)
        .send()
        .unwrap()
        .status()
        .as_u16()
}

#[test]
fn a_gauge_sends_into_what_it_was_bound_to_and_nowhere_else() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let c = ruhe.job("bench_component");
    let (test, p, t) = ruhe.hold(&c);
    let (id, token) = gauge(&ruhe, "Manifold 3");
    assert_eq!(
        ruhe.refused("/api/gauges", &json!({"name": "manifold 3"}))
            .0,
        422
    );
    let now = now_ms();
    // Before anybody bound it, it is only seen.
    let (status, told) = send(
        &ruhe,
        &token,
        None,
        &line("P1", 1, now - 9_000, "300.20", "psig"),
    );
    assert_eq!(
        (status, &told["unbound"], &told["stored"]),
        (200, &json!(1), &json!(0))
    );
    let seen = ruhe.get("/api/gauges");
    assert_eq!(seen[0]["sources"][0]["value"], "300.20");
    assert_eq!(seen[0]["sources"][0]["test_id"], Value::Null);
    assert_eq!(bind(&ruhe, &test, &p, &id, "P1"), 201);
    assert_eq!(bind(&ruhe, &test, &t, &id, "T1"), 201);
    assert_eq!(bind(&ruhe, &test, "none", &id, "T1"), 404);
    assert_eq!(bind(&ruhe, &test, &t, "none", "T1"), 422);
    let two =
        line("P1", 2, now - 5_000, "300.10", "psig") + &line("T1", 2, now - 5_000, "70.5", "degF");
    let (_, told) = send(&ruhe, &token, None, &two);
    assert_eq!((&told["stored"], &told["known"]), (&json!(2), &json!(0)));
    // The same again, as after a lost answer: kept once. The same number with another figure is not let pass.
    assert_eq!(send(&ruhe, &token, None, &two).1["known"], 2);
    assert_eq!(
        send(&ruhe, &token, None, &line("P1", 2, now, "299.00", "psig")).0,
        409
    );
    let v = ruhe.test(&test);
    assert_eq!(v["reading_count"], 2);
    let r = v["readings"]
        .as_array()
        .unwrap()
        .iter()
        .find(|r| r["typed"] == "300.10")
        .unwrap();
    assert_eq!(
        (&r["origin"], &r["at_ms"]),
        (&json!("gauge"), &json!(now - 5_000))
    );
    assert_eq!(
        (&v["is_live"], &v["has_simulated"]),
        (&json!(true), &json!(false))
    );
    // A gauge whose clock is an hour off: what it waited is known all the same.
    let hour = 3_600_000;
    let late = line("P1", 3, now_ms() + hour - 2_000, "300.00", "psig");
    assert_eq!(
        send(&ruhe, &token, Some(now_ms() + hour), &late).1["stored"],
        1
    );
    let v = ruhe.test(&test);
    let r = v["readings"]
        .as_array()
        .unwrap()
        .iter()
        .find(|r| r["typed"] == "300.00")
        .unwrap();
    assert!(
        (r["at_ms"].as_i64().unwrap() - (now_ms() - 2_000)).abs() < 3_000 && r["skewed"] == true,
        "{r}"
    );
    // What was done by hand is told, so that a gauge may show it.
    ruhe.shut_supply(&test, now);
    let (_, told) = send(&ruhe, &token, None, "");
    assert_eq!(told["done"][0]["event"], "supply_isolated");
    // Ended, it takes nothing more; the good lines of other channels would still be taken.
    assert_eq!(
        ruhe.post(&format!("/api/tests/{test}/end"), &json!({}))
            .status(),
        201
    );
    let (status, told) = send(
        &ruhe,
        &token,
        None,
        &line("P1", 9, now_ms(), "300.0", "psig"),
    );
    assert!(
        status == 200
            && told["refused"][0]["message"]
                .as_str()
                .unwrap()
                .contains("has ended"),
        "{told}"
    );
    assert_eq!(bind(&ruhe, &test, &p, &id, "P1"), 409);
}

#[test]
fn a_bad_line_is_named_and_the_good_ones_are_kept() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let c = ruhe.job("bench_component");
    let (test, p, _) = ruhe.hold(&c);
    let (id, token) = gauge(&ruhe, "Manifold 3");
    assert_eq!(bind(&ruhe, &test, &p, &id, "P1"), 201);
    let now = now_ms();
    let good = |n| line("P1", n, now - 1_000, "300.0", "psig");
    let lines = [
        good(1),
        "not json\n".into(),
        line("P1", 2, now, "20.7", "bar"),
        line("P1", 3, now, "OL", "psig"),
        line("P1", 4, now, "99999", "psig"),
        line("P 1", 5, now, "300.0", "psig"),
        json!({"source": "P1", "n": 6, "at": "yesterday", "value": "300.0", "unit": "psig"})
            .to_string()
            + "\n",
        line("P1", 7, now, "300.0", "furlong"),
        line("P1", 8, now + 90 * 60_000, "300.0", "psig"),
        good(9),
    ];
    let (status, told) = send(&ruhe, &token, None, &lines.concat());
    assert_eq!((status, &told["stored"]), (200, &json!(2)), "{told}");
    let refused: Vec<(i64, &str)> = told["refused"]
        .as_array()
        .unwrap()
        .iter()
        .map(|r| {
            (
                r["line"].as_i64().unwrap(),
                r["field"].as_str().unwrap_or(""),
            )
        })
        .collect();
    let wanted = [
        (2, ""),
        (3, "unit"),
        (4, "value"),
        (5, "value"),
        (6, "source"),
        (7, "at"),
        (8, "unit"),
        (9, "at"),
    ];
    assert_eq!(refused, wanted);
    assert!(
        told["refused"][1]["message"]
            .as_str()
            .unwrap()
            .contains("the gauge sends bar")
    );
    let flood = good(1).repeat(2_001);
    assert_eq!(send(&ruhe, &token, None, &flood).0, 413);
}

#[test]
fn a_wrong_token_a_revoked_one_and_too_many_calls() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let (id, token) = gauge(&ruhe, "Manifold 3");
    assert_eq!(send(&ruhe, "nonsense", None, "").0, 401);
    assert_eq!(send(&ruhe, "", None, "").0, 401);
    assert_eq!(send(&ruhe, &token, None, "").0, 200);
    let raw = [
        dir.path().join("ruhe.sqlite"),
        dir.path().join("ruhe.sqlite-wal"),
    ]
    .map(|f| std::fs::read(f).unwrap_or_default());
    assert!(
        !raw.iter()
            .any(|b| b.windows(token.len()).any(|w| w == token.as_bytes())),
        "only its digest is kept"
    );
    let mut last = (0, Value::Null);
    let until = Instant::now() + Duration::from_secs(20);
    while last.0 != 429 && Instant::now() < until {
        last = send(&ruhe, &token, None, "");
    }
    assert_eq!(last.0, 429, "a flood is slowed down");
    let url = format!("{}/api/gauges/{id}", ruhe.url);
    assert_eq!(ruhe.client.delete(&url).send().unwrap().status(), 204);
    assert_eq!(send(&ruhe, &token, None, "").0, 401);
    assert_eq!(ruhe.client.delete(&url).send().unwrap().status(), 404);
    // Its name is free again.
    gauge(&ruhe, "Manifold 3");
}

fn waits_for(what: &str, mut is: impl FnMut() -> bool) {
    let until = Instant::now() + Duration::from_secs(20);
    while !is() {
        assert!(Instant::now() < until, "{what}");
        std::thread::sleep(Duration::from_millis(100));
    }
}

#[test]
fn the_simulated_gauge_is_a_client_of_the_door() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let c = ruhe.job("bench_component");
    let (test, p, t) = ruhe.hold(&c);
    let (id, token) = gauge(&ruhe, "On the bench");
    bind(&ruhe, &test, &p, &id, "P1");
    bind(&ruhe, &test, &t, &id, "T1");
    let mut child = Command::new(env!("CARGO_BIN_EXE_ruhe"))
        .args(["gauge", "--server", &ruhe.url, "--psig", "300"])
        .env("RUHE_GAUGE_TOKEN", &token)
        .stdout(Stdio::null())
        .stderr(Stdio::piped())
        .spawn()
        .unwrap();
    waits_for("it sends", || {
        ruhe.test(&test)["reading_count"].as_i64().unwrap() >= 4
    });
    let url = format!("{}/api/gauges/{id}", ruhe.url);
    assert_eq!(ruhe.client.delete(url).send().unwrap().status(), 204);
    // Shut out, it stops and says why.
    waits_for("it ends", || child.try_wait().unwrap().is_some());
    let out = child.wait_with_output().unwrap();
    assert!(!out.status.success() && String::from_utf8_lossy(&out.stderr).contains("shut out"));
    let bad = command(&["gauge", "--token", "x", "--plant", "fridge"]);
    assert!(String::from_utf8_lossy(&bad.stderr).contains("hold, decay, pull"));
}

#[test]
fn a_simulated_gauge_goes_on_after_a_restart() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start_with(dir.path(), &["--simulated-gauges"]);
    let c = ruhe.job("bench_component");
    let (test, ..) = ruhe.hold(&c);
    assert_eq!(
        ruhe.post(&format!("/api/tests/{test}/gauge"), &json!({}))
            .status(),
        201
    );
    waits_for("it sends", || {
        ruhe.test(&test)["reading_count"].as_i64().unwrap() >= 4
    });
    let before = ruhe.test(&test)["reading_count"].as_i64().unwrap();
    drop(ruhe);
    let ruhe = Ruhe::start_with(dir.path(), &["--simulated-gauges"]);
    waits_for("it goes on", || {
        ruhe.test(&test)["reading_count"].as_i64().unwrap() >= before + 4
    });
    let v = ruhe.test(&test);
    assert_eq!(
        (&v["has_simulated"], &v["is_live"]),
        (&json!(true), &json!(true))
    );
    // One plant all the time: what it shows now follows from what it showed before.
    let shown: Vec<f64> = v["readings"]
        .as_array()
        .unwrap()
        .iter()
        .filter(|r| r["channel_id"] == v["channels"][0]["id"])
        .map(|r| r["typed"].as_str().unwrap().parse().unwrap())
        .collect();
    assert!(
        shown.windows(2).all(|w| (w[0] - w[1]).abs() < 3.0),
        "{shown:?}"
    );
    let url = format!("{}/api/tests/{test}/gauge", ruhe.url);
    assert_eq!(ruhe.client.delete(url).send().unwrap().status(), 204);
    std::thread::sleep(Duration::from_millis(1_500));
    let stopped = ruhe.test(&test)["reading_count"].clone();
    std::thread::sleep(Duration::from_millis(2_500));
    assert_eq!(ruhe.test(&test)["reading_count"], stopped);
    drop(ruhe);
    let ruhe = Ruhe::start_with(dir.path(), &["--simulated-gauges"]);
    std::thread::sleep(Duration::from_millis(2_500));
    assert_eq!(
        ruhe.test(&test)["reading_count"],
        stopped,
        "stopped is stopped"
    );
}

#[test]
fn a_test_that_ended_or_was_struck_out_is_no_longer_listened_to() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start_with(dir.path(), &["--simulated-gauges"]);
    let c = ruhe.job("bench_component");
    let gauges = || ruhe.get("/api/gauges").as_array().unwrap().len();
    let (ended, ..) = ruhe.hold(&c);
    let listen = |test: &str| {
        let path = format!("/api/tests/{test}/gauge");
        assert_eq!(ruhe.post(&path, &json!({})).status(), 201);
    };
    listen(&ended);
    waits_for("it sends", || {
        ruhe.test(&ended)["reading_count"].as_i64().unwrap() >= 2
    });
    assert_eq!(
        ruhe.post(&format!("/api/tests/{ended}/end"), &json!({}))
            .status(),
        201
    );
    assert_eq!(gauges(), 0, "its gauge went with it");
    // Nothing was read yet: it can be struck out as it is, and what listens to it goes.
    let (struck, ..) = ruhe.hold(&c);
    listen(&struck);
    let path = format!("/api/circuits/{c}/entries/{struck}/strike");
    let why = json!({"reason": "wrong circuit"});
    let until = Instant::now() + Duration::from_secs(5);
    while ruhe.post(&path, &why).status() == 409 && Instant::now() < until {
        assert_eq!(
            ruhe.post(&format!("/api/tests/{struck}/end"), &json!({}))
                .status(),
            201
        );
    }
    assert_eq!(gauges(), 0);
}

/// The test that a sensor is read into, if any.
fn read_into(ruhe: &Ruhe, source: &str) -> Value {
    let all = ruhe.get("/api/gauges");
    let sensors = all[0]["sources"].as_array().unwrap();
    let of = sensors.iter().find(|s| s["source"] == source).unwrap();
    of["test_id"].clone()
}

#[test]
fn a_gauge_of_the_kit_is_read_into_the_test_that_was_planned_with_it() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let (id, token) = gauge(&ruhe, "Far logger");
    let sent = |n: u32, value: &str| {
        send(
            &ruhe,
            &token,
            None,
            &line("V1", n, now_ms() - 1_000, value, "micron"),
        )
        .1
    };
    sent(1, "900");
    let thing = json!({"kind": "vacuum_gauge", "name": "Far gauge", "unit": "micron",
        "sends": {"gauge": id, "source": "V1"}});
    let kit = ruhe.register_kit(&thing);
    let mut twin = thing.clone();
    twin["name"] = json!("Near gauge");
    assert!(
        ruhe.refused("/api/kit", &twin)
            .1
            .contains("sends so already")
    );
    let hose = json!({"kind": "hose", "name": "Hose", "bore_mm": 9.5, "length_m": 1.5,
        "sends": {"gauge": id, "source": "V2"}});
    assert!(
        ruhe.refused("/api/kit", &hose)
            .1
            .contains("only what reads")
    );
    let c = ruhe.job("bench_component");
    let body = vacuum_body("pull-down", json!({"kit": [kit]}));
    let first = ruhe.vacuum(&c, &body, &[(0.0, 900.0)], &[], false);
    assert_eq!(read_into(&ruhe, "V1"), json!(first));
    assert_eq!(sent(2, "800")["stored"], 1);
    // By hand again, and what it sends is only seen.
    let channel = ruhe.test(&first)["channels"][0]["id"].clone();
    let path = format!(
        "{}/api/tests/{first}/channels/{}/gauge",
        ruhe.url,
        channel.as_str().unwrap()
    );
    assert_eq!(ruhe.client.delete(&path).send().unwrap().status(), 204);
    assert_eq!(read_into(&ruhe, "V1"), Value::Null);
    assert_eq!(sent(3, "700")["unbound"], 1);
    assert_eq!(
        bind(&ruhe, &first, channel.as_str().unwrap(), &id, "V1"),
        201
    );
    let end = |test: &str| {
        ruhe.post(&format!("/api/tests/{test}/end"), &json!({}))
            .status()
    };
    assert_eq!(end(&first), 201);
    // The next one takes it over; where two channels could be meant, nobody is bound to anything.
    let second = ruhe.vacuum(&c, &body, &[(0.0, 500.0)], &[], false);
    assert_eq!(read_into(&ruhe, "V1"), json!(second));
    assert_eq!(end(&second), 201);
    let mut two = body.clone();
    let mut near = two["channels"][0].clone();
    near["name"] = json!("Near the pump");
    two["channels"].as_array_mut().unwrap().push(near);
    ruhe.vacuum(&c, &two, &[(0.0, 500.0)], &[], false);
    assert_eq!(read_into(&ruhe, "V1"), json!(second));
}

#[test]
fn what_the_door_does_not_take_it_says_in_a_sentence() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let c = ruhe.job("bench_component");
    let (test, p, _) = ruhe.hold(&c);
    let (id, token) = gauge(&ruhe, "Manifold 3");
    assert_eq!(bind(&ruhe, &test, &p, &id, "P1"), 201);
    let at = stamp(now_ms() - 1_000);
    let lines = [
        (
            json!({"source": "P1", "n": 1, "at": at, "value": 300.2, "unit": "psig"}).to_string(),
            "value",
            "as a text",
        ),
        (
            json!({"source": "P1", "n": 2, "at": at, "value": "300.2", "unit": "psi"}).to_string(),
            "unit",
            "psig",
        ),
        (
            json!({"source": "P1", "n": -3, "at": at, "value": "300.2", "unit": "psig"})
                .to_string(),
            "n",
            "cannot be read",
        ),
        (
            json!({"source": "P1", "at": at, "value": "300.2", "unit": "psig"}).to_string(),
            "",
            "n",
        ),
        ("P1;300.2".into(), "", "no JSON"),
    ];
    for (line, field, words) in lines {
        let (status, told) = send(&ruhe, &token, None, &line);
        assert_eq!((status, &told["stored"]), (200, &json!(0)), "{told}");
        let refused = &told["refused"][0];
        assert_eq!(
            refused["field"].as_str().unwrap_or_default(),
            field,
            "{told}"
        );
        assert!(
            refused["message"].as_str().unwrap().contains(words),
            "{told}"
        );
    }
    // Another kind of body is none of it.
    let r = ruhe
        .client
        .post(format!("{}/api/door", ruhe.url))
        .bearer_auth(&token);
    let r = r
        .header("Content-Type", "application/json")
        .body("[]")
        .send()
        .unwrap();
    assert_eq!(r.status(), 400);
    assert!(r.text().unwrap().contains("application/x-ndjson"));
}

/// The document's example, with what a broker's client writes.
#[test]
fn the_bridge_from_a_broker_sends_what_was_published() {
    use std::io::Write as _;
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let c = ruhe.job("bench_component");
    let (test, p, _) = ruhe.hold(&c);
    let (id, token) = gauge(&ruhe, "Van");
    assert_eq!(bind(&ruhe, &test, &p, &id, "P1"), 201);
    let script =
        std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("../docs/examples/bridge.mjs");
    let mut bridge = Command::new("node")
        .arg(script)
        .arg(&ruhe.url)
        .env("RUHE_GAUGE_TOKEN", &token)
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .spawn()
        .unwrap();
    let mut input = bridge.stdin.take().unwrap();
    for value in ["300.20", "300.10"] {
        let published = json!({"value": value, "unit": "psig"});
        writeln!(input, "van/P1 {published}").unwrap();
    }
    drop(input);
    let told = bridge.wait_with_output().unwrap();
    let told = String::from_utf8(told.stdout).unwrap();
    assert_eq!(told.matches("\"stored\":1").count(), 2, "{told}");
    let rows = ruhe.get(&format!("/api/tests/{test}/readings"));
    assert!(rows.to_string().contains("300.20"), "{rows}");
}
