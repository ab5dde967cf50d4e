//! What must never happen, through the API: no verdict, gate, plan or advice is bolder than its evidence.

use crate::support::{Ruhe, hold_body, now_ms, vacuum_body};
use serde_json::{Value, json};

pub const PSI: f64 = 6_894.757;
pub const FLARE: &str = "flare at the coil";

pub fn ruhe() -> (tempfile::TempDir, Ruhe) {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    (dir, ruhe)
}

pub fn put_survey(ruhe: &Ruhe, id: &str, survey: &Value) {
    let version = ruhe.get(&format!("/api/circuits/{id}"))["survey"]["version"].clone();
    let r = ruhe
        .client
        .put(format!("{}/api/circuits/{id}/survey", ruhe.url))
        .json(&json!({"survey": survey, "version": version}))
        .send()
        .unwrap();
    let status = r.status();
    assert_eq!(status, 200, "{}", r.text().unwrap());
}

/// A hold of an hour whose pressures and temperatures are typed: seconds, then a value for each channel or none.
pub fn typed_hold(ruhe: &Ruhe, circuit: &str, rows: &[(i64, [Option<f64>; 2])]) -> Value {
    let (test, p, t) = ruhe.hold(circuit);
    let start = ruhe.later(10);
    ruhe.later(70);
    let readings: Vec<Value> = rows
        .iter()
        .flat_map(|(s, values)| [(&p, values[0]), (&t, values[1])].map(|(c, v)| (*s, c.clone(), v)))
        .filter_map(|(s, c, v)| {
            Some(
                json!({"id": format!("{c}.{s}"), "channel_id": c, "typed": format!("{:.1}", v?),
                "at_ms": start + s * 1_000, "client_ms": now_ms()}),
            )
        })
        .collect();
    assert_eq!(
        ruhe.post(
            &format!("/api/tests/{test}/readings"),
            &json!({"readings": readings})
        )
        .status(),
        201
    );
    ruhe.shut_supply(&test, start);
    ruhe.test(&test)["verdict"].clone()
}

/// 3 psi lost in an hour at 300 psig, hidden by +5 °F (0.625 psi/°F, reference/isochores.csv).
pub fn hidden_leak(s: i64) -> f64 {
    300.0 + (0.625 * 5.0 - 3.0) * s as f64 / 3_600.0
}

#[test]
fn one_temperature_reading_is_no_thermometer() {
    let (_dir, ruhe) = ruhe();
    let id = ruhe.job("bench_component");
    let rows = |warm: &dyn Fn(i64) -> Option<f64>| -> Vec<(i64, [Option<f64>; 2])> {
        (0..=120)
            .map(|k| (30 * k, [Some(hidden_leak(30 * k)), warm(30 * k)]))
            .collect()
    };
    let once = typed_hold(&ruhe, &id, &rows(&|s| (s == 0).then_some(70.0)));
    assert_eq!(
        (once["outcome"].as_str(), once["reasons"][0].as_str()),
        (Some("undecided"), Some("no_temperature")),
        "{once}"
    );
    let all = typed_hold(
        &ruhe,
        &id,
        &rows(&|s| Some(70.0 + 5.0 * s as f64 / 3_600.0)),
    );
    assert_ne!(all["outcome"], "holds", "{all}");
    // The probe that died half-way measured half of it, and the verdict says so.
    let half = typed_hold(&ruhe, &id, &rows(&|s| (s <= 1_800).then_some(70.0)));
    assert!(
        half["evidence"]
            .to_string()
            .contains("T was not read in the last 30 min"),
        "{half}"
    );
    assert_eq!(ruhe.gate(&id, "hold_with_temperature")["met"], false);
}

#[test]
fn a_hold_that_loses_everything_falls() {
    let (_dir, ruhe) = ruhe();
    let id = ruhe.job("bench_component");
    let rows: Vec<_> = (0..=60)
        .map(|k| {
            (
                30 * k,
                [Some((300.0 - 5.0 * k as f64).max(0.0)), Some(70.0)],
            )
        })
        .collect();
    let v = typed_hold(&ruhe, &id, &rows);
    assert_eq!(
        (v["outcome"].as_str(), v["reasons"][0].as_str()),
        (Some("falls"), Some("lost_everything")),
        "{v}"
    );
}

#[test]
fn a_retest_is_as_high_as_the_highest_fall_and_of_the_same_section() {
    let (_dir, ruhe) = ruhe();
    let id = ruhe.job("bench_component");
    let met = |code: &str| ruhe.gate(&id, code)["met"].clone();
    ruhe.finished_hold(&id, &hold_body(450.0), 450.0, 0.3);
    ruhe.finished_hold(&id, &hold_body(175.0), 175.0, 0.2);
    ruhe.finished_hold(&id, &hold_body(175.0), 175.0, 0.0);
    let gate = ruhe.gate(&id, "retest_after_repair");
    assert!(
        gate["met"] == false
            && gate["evidence"]
                .as_str()
                .unwrap()
                .contains("lower pressure than Hold 1"),
        "{gate}"
    );
    let again = ruhe.get(&format!("/api/circuits/{id}"))["search"]["retests"][0].clone();
    assert!(
        (again["at_least_pa"].as_f64().unwrap() / PSI - 450.0).abs() < 1.0
            && again["is_met"] == false,
        "{again}"
    );
    ruhe.finished_hold(&id, &hold_body(450.0), 450.0, 0.0);
    assert_eq!(
        (met("retest_after_repair"), met("hold_with_temperature")),
        (json!(true), json!(true))
    );

    let two = ruhe.job("bench_component");
    let survey = json!({"sections": [{"name": "left", "is_tested": true}, {"name": "right", "is_tested": true}],
        "components": [
        {"name": "coil", "place": "indoor", "section": "left", "high": {"typed": "500", "unit": "psig"},
            "only_one": true},
        {"name": "header", "place": "indoor", "section": "right", "high": {"typed": "500", "unit": "psig"},
            "only_one": true}]});
    put_survey(&ruhe, &two, &survey);
    let on = |section: &str| {
        let mut b = hold_body(300.0);
        b["plan"]["section"] = json!(section);
        b
    };
    ruhe.finished_hold(&two, &on("left"), 300.0, 0.3);
    ruhe.finished_hold(&two, &on("right"), 300.0, 0.0);
    assert_eq!(
        ruhe.gate(&two, "retest_after_repair")["met"],
        false,
        "the right half's hold says nothing of the left"
    );
}

#[test]
fn a_confirmed_leak_is_closed_by_a_repair_and_a_hold_as_high_as_the_find() {
    let (_dir, ruhe) = ruhe();
    let id = ruhe.job("bench_component");
    let state = || ruhe.place(&id, FLARE)["state"].clone();
    // Found while the hold stood at 400 psig: the find carries that pressure.
    let (test, p, _) = ruhe.hold(&id);
    let at = ruhe.later(10);
    let reading = json!({"readings": [{"id": "r", "channel_id": p, "typed": "400.0", "at_ms": at,
        "client_ms": now_ms()}]});
    assert_eq!(
        ruhe.post(&format!("/api/tests/{test}/readings"), &reading)
            .status(),
        201
    );
    assert_eq!(ruhe.look(&id, FLARE, "bubbles", "leak").status(), 201);
    assert!(
        ruhe.place(&id, FLARE)["log"][0]["words"]
            .as_str()
            .unwrap()
            .contains("at 400 psig, leak"),
        "{}",
        ruhe.place(&id, FLARE)
    );
    ruhe.post(&format!("/api/tests/{test}/end"), &json!({}));
    for _ in 0..2 {
        ruhe.look(&id, FLARE, "bubbles", "clear");
    }
    assert_eq!(state(), "leak", "a clear look closes no leak");
    ruhe.repair(&id, FLARE);
    assert_eq!(state(), "mended");
    assert_eq!(ruhe.gate(&id, "search_closed")["met"], false);
    ruhe.finished_hold(&id, &hold_body(300.0), 300.0, 0.0);
    assert_eq!(
        state(),
        "mended",
        "300 psig is not the 400 at which it showed"
    );
    ruhe.finished_hold(&id, &hold_body(400.0), 400.0, 0.0);
    assert_eq!(
        (state(), ruhe.gate(&id, "search_closed")),
        (json!("proven"), Value::Null)
    );
}

#[test]
fn nothing_is_pumped_brazed_or_let_out_that_must_not_be() {
    let (_dir, ruhe) = ruhe();
    let id = ruhe.job("repair");
    let at = |p: &str| format!("/api/circuits/{id}{p}");
    let mut traced = hold_body(300.0);
    traced["plan"]["tracer_pa"] = json!(50_000.0);
    ruhe.finished_hold(&id, &traced, 300.0, 0.0);
    let pull = vacuum_body("pull-down", json!({"targets_pa": [66.66]}));
    let (status, why) = ruhe.refused(&at("/tests"), &pull);
    assert!(
        status == 409 && why.contains("refrigerant with nitrogen, 300 psig (Hold 1)"),
        "{why}"
    );
    let torch = |safe: bool| {
        json!({"place": "U-bend", "cause": "pinhole", "opened": "opened",
        "with_torch": true, "is_safe": safe})
    };
    assert!(
        ruhe.refused(&at("/repairs"), &torch(true))
            .1
            .contains("Recover it, and write down")
    );
    // Tracer is inside: it is recovered, not released.
    let (status, why) = ruhe.refused(
        &at("/steps"),
        &json!({"step": "released", "note": "vapour port"}),
    );
    assert!(
        status == 422 && why.contains("recover it into a cylinder"),
        "{why}"
    );
    let cautions = |stage: &str| {
        let c = ruhe.get(&at(""));
        c["stages"]
            .as_array()
            .unwrap()
            .iter()
            .find(|s| s["code"] == stage)
            .unwrap()["cautions"]
            .clone()
    };
    assert!(
        cautions("release")
            .to_string()
            .contains("recover it into a cylinder"),
        "{}",
        cautions("release")
    );
    // A recovery of which nobody says what it left is none.
    let note = "cylinder 7, marked as a mixture";
    assert_eq!(ruhe.step(&id, "recovered", note).status(), 422);
    let zero = || json!({"step": "recovered", "note": note, "left": [Ruhe::both("0", "psig")]});
    assert_eq!(ruhe.post(&at("/steps"), &zero()).status(), 201);
    // A torch still takes the list; then the compressor's lock before the pump.
    assert!(
        ruhe.refused(&at("/repairs"), &torch(false))
            .1
            .contains("0 psig on both sides")
    );
    assert_eq!(ruhe.post(&at("/repairs"), &torch(true)).status(), 201);
    assert!(
        ruhe.refused(&at("/tests"), &pull)
            .1
            .contains("lock its power out")
    );
    ruhe.step(&id, "compressor_locked_out", "isolator");
    assert_eq!(ruhe.post(&at("/tests"), &pull).status(), 201);
    // R-32 burns: said first wherever gas can come out, and no heater is advised.
    for stage in [
        "survey",
        "hold",
        "search",
        "release",
        "evacuate",
        "decay",
        "break_vacuum",
        "charge",
        "start_up",
    ] {
        let first = cautions(stage)[0].clone();
        assert!(
            first["can_kill"] == true && first["words"].as_str().unwrap().contains("burns"),
            "{stage}: {first}"
        );
    }
}

#[test]
fn an_unknown_refrigerant_can_be_named_and_counts_as_flammable() {
    let (_dir, ruhe) = ruhe();
    let job = json!({"site_name": "S", "system_name": "Y", "circuits": [{"tag": "A", "name": "N",
        "kind": "repair", "refrigerant": "a blend of 2031", "plates": [
        {"part": "coil", "low": "300", "high": "450", "unit": "psig"}]}]});
    let made: Value = ruhe.post("/api/jobs", &job).json().unwrap();
    let c = ruhe.get(&format!(
        "/api/circuits/{}",
        made["circuit_ids"][0].as_str().unwrap()
    ));
    assert_eq!(
        (c["refrigerant"].as_str(), c["is_flammable"].as_bool()),
        (Some("a blend of 2031"), Some(true))
    );
    assert!(
        c["stages"][1]["cautions"][0]["words"]
            .as_str()
            .unwrap()
            .contains("Nobody has said that this refrigerant does not burn")
    );
}

#[test]
fn a_second_tap_stores_nothing_and_an_event_has_a_time_it_can_have() {
    let (_dir, ruhe) = ruhe();
    let (test, p, _) = ruhe.hold(&ruhe.job("bench_component"));
    let path = format!("/api/tests/{test}");
    ruhe.post(
        &format!("{path}/readings"),
        &json!({"readings": [{"id": "a", "channel_id": p, "typed": "301.1",
        "client_ms": now_ms()}]}),
    );
    let strike = json!({"reason": "misread", "instead": "300.1"});
    assert_eq!(ruhe.post("/api/readings/a/strike", &strike).status(), 201);
    assert_eq!(ruhe.post("/api/readings/a/strike", &strike).status(), 201);
    let view = ruhe.test(&test);
    let kept: Vec<&str> = view["readings"]
        .as_array()
        .unwrap()
        .iter()
        .filter(|r| r["struck"].is_null())
        .map(|r| r["typed"].as_str().unwrap())
        .collect();
    assert_eq!(
        (kept, view["reading_count"].as_i64()),
        (vec!["300.1"], Some(2))
    );
    let event = |id: &str, at: i64| {
        ruhe.refused(
            &format!("{path}/events"),
            &json!({"id": id, "kind": "sun", "at_ms": at}),
        )
    };
    for (id, at) in [
        ("old", -4_600_000_000_000_000i64),
        ("ahead", now_ms() + 7_200_000),
        ("other year", now_ms() - 400 * 86_400_000),
    ] {
        let (status, why) = event(id, at);
        assert!(status == 422 && !why.is_empty(), "{id}: {status} {why}");
    }
    // One that waited for the network keeps the time it was logged at, and the page's clock is kept with it.
    let logged = now_ms() - 90_000;
    let body = json!({"id": "w", "kind": "sun", "logged_ms": logged, "client_ms": now_ms()});
    assert_eq!(ruhe.post(&format!("{path}/events"), &body).status(), 201);
    assert_eq!(ruhe.test(&test)["events"][0]["at_ms"], logged);
}

#[test]
fn a_simulated_gauge_is_not_in_a_real_job_and_is_said_where_it_was_used() {
    let (_dir, ruhe) = ruhe();
    let id = ruhe.job("bench_component");
    let (test, ..) = ruhe.hold(&id);
    let (status, why) = ruhe.refused(&format!("/api/tests/{test}/gauge"), &json!({}));
    assert!(
        status == 409 && why.contains("only in the demo"),
        "{status} {why}"
    );
    assert_eq!(ruhe.get("/api/meta")["simulated_gauges"], json!([]));
    assert_eq!(
        ruhe.get(&format!("/api/circuits/{id}/record"))["has_simulated"],
        false
    );
    let dir = tempfile::tempdir().unwrap();
    let trying = Ruhe::start_with(dir.path(), &["--simulated-gauges"]);
    let id = trying.job("bench_component");
    let (test, ..) = trying.hold(&id);
    assert_eq!(
        trying
            .post(&format!("/api/tests/{test}/gauge"), &json!({}))
            .status(),
        201
    );
    let deadline = std::time::Instant::now() + std::time::Duration::from_secs(10);
    while trying.get(&format!("/api/circuits/{id}/record"))["has_simulated"] == false {
        assert!(
            std::time::Instant::now() < deadline,
            "the record never says so"
        );
        std::thread::sleep(std::time::Duration::from_millis(100));
    }
    let zip = trying
        .client
        .get(format!("{}/api/tests/{test}/package", trying.url))
        .send()
        .unwrap()
        .bytes()
        .unwrap();
    let made: Value = trying
        .client
        .post(format!(
            "{}/api/circuits/{id}/packages?file=t.zip",
            trying.url
        ))
        .body(zip)
        .send()
        .unwrap()
        .json()
        .unwrap();
    assert_eq!(
        trying.test(made["id"].as_str().unwrap())["has_simulated"],
        true,
        "nor is it lost through a file"
    );
}
