//! What a device does without the server is what the server does: the same views of what was taken along, the same
//! refusals, and the same circuit once what waited was sent.

use crate::bounds::{package, send_package};
use crate::forged::open;
use crate::support::*;
use diesel::prelude::*;
use reqwest::Method;
use ruhe_core::reading::PackageFiles;
use ruhe_job::tell::{BY_HAND, Bag};
use ruhe_pocket::{Pocket, Reply, Request};
use ruhe_server::files::zip;
use serde_json::{Value, json};
use std::path::Path;

/// A device that took a circuit along.
fn taken(ruhe: &Ruhe, circuits: &[&str]) -> Pocket {
    let mut p = Pocket::default();
    p.take_shelf(&serde_json::from_value(ruhe.get("/api/pocket")).unwrap())
        .unwrap();
    for id in circuits {
        let mut ask = String::new();
        loop {
            let bag: Bag =
                serde_json::from_value(ruhe.get(&format!("/api/circuits/{id}/bag{ask}"))).unwrap();
            let seq = bag.from_seq + bag.lines.len() as u64;
            ask = format!("?seq={seq}&after={}", bag.cursor);
            let more = bag.more;
            p.take(bag).unwrap();
            if !more {
                break;
            }
        }
    }
    p
}

fn see(p: &mut Pocket, path: &str) -> Value {
    let r = Request {
        method: "GET".into(),
        path: path.into(),
        ..Request::default()
    };
    let reply = p.answer(&r, &[], now_ms());
    assert_eq!(reply.status, 200, "{path}: {}", reply.body);
    reply.body
}

/// The same, without what the clock of the moment decides.
fn timeless(mut v: Value) -> Value {
    fn strip(v: &mut Value) {
        match v {
            Value::Object(o) => {
                o.remove("printed_ms");
                o.values_mut().for_each(strip);
            }
            Value::Array(a) => a.iter_mut().for_each(strip),
            _ => {}
        }
    }
    strip(&mut v);
    v
}

#[test]
fn every_case_is_judged_in_the_pocket_as_on_the_server() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let circuit = ruhe.job("bench_component");
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("../core/tests/cases");
    let mut tests = vec![];
    for case in std::fs::read_dir(root).unwrap().map(|e| e.unwrap().path()) {
        if !case.is_dir() {
            continue;
        }
        let files = std::fs::read_dir(&case).unwrap().map(|e| e.unwrap());
        let files = files.map(|e| {
            let name = e.file_name().to_string_lossy().into_owned();
            (name, std::fs::read(e.path()).unwrap())
        });
        let url = format!("{}/api/circuits/{circuit}/packages?file=case.zip", ruhe.url);
        let body = zip(&PackageFiles(files.collect())).unwrap();
        let made: Value = ruhe
            .client
            .post(url)
            .body(body)
            .send()
            .unwrap()
            .json()
            .unwrap();
        tests.push(made["id"].as_str().unwrap().to_owned());
    }
    let mut p = taken(&ruhe, &[&circuit]);
    for id in &tests {
        for path in [
            format!("/api/tests/{id}"),
            format!("/api/tests/{id}/judged-again"),
        ] {
            assert_eq!(see(&mut p, &path), ruhe.get(&path), "{path}");
        }
    }
    assert!(tests.len() > 50);
    for path in [
        format!("/api/circuits/{circuit}"),
        format!("/api/circuits/{circuit}/record"),
        "/api/today".into(),
        "/api/kit".into(),
    ] {
        assert_eq!(
            timeless(see(&mut p, &path)),
            timeless(ruhe.get(&path)),
            "{path}"
        );
    }
}

#[derive(QueryableByName)]
struct Made {
    #[diesel(sql_type = diesel::sql_types::Text)]
    sql: String,
}

/// A long recording is taken along in pieces, none of them large, and is whole in the end.
#[test]
fn a_long_recording_is_taken_along_in_pieces() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let circuit = ruhe.job("bench_component");
    let start: jiff::Timestamp = "2026-11-02T08:00:00Z".parse().unwrap();
    let rows = (0..15_000).map(|k| {
        let at = start + jiff::SignedDuration::from_secs(k);
        format!("{at},P,{:.1}\n{at},T,70.0\n", 300.0 + (k % 3) as f64 * 0.1)
    });
    let rows = "time,channel,value\n".to_owned() + &rows.collect::<String>();
    let (status, made) = send_package(&ruhe.client, &ruhe.url, &circuit, package(&rows));
    assert_eq!(status, 201, "{made}");
    let made: Value = serde_json::from_str(&made).unwrap();
    let about = made["id"].as_str().unwrap().to_owned();
    let first = ruhe.get(&format!("/api/circuits/{circuit}/bag"));
    let count = |bag: &Value| bag["readings"][&about].as_array().map_or(0, Vec::len);
    assert_eq!(
        (count(&first), first["more"].as_bool()),
        (20_000, Some(true))
    );
    let mut p = taken(&ruhe, &[&circuit]);
    let path = format!("/api/tests/{about}");
    assert_eq!(see(&mut p, &path)["reading_count"], 30_000);
    assert_eq!(see(&mut p, &path)["verdict"], ruhe.get(&path)["verdict"]);
    // What people typed is what the store has an index over.
    let index: Made =
        diesel::sql_query("SELECT sql FROM sqlite_master WHERE name = 'readings_by_hand'")
            .get_result(&mut open(dir.path()))
            .unwrap();
    let by_hand = format!("origin IN ('{}')", BY_HAND.join("', '"));
    assert!(index.sql.ends_with(&by_hand), "{}", index.sql);
}

/// What a device entered: applied in the pocket, and sent later to the server as it was made.
struct Device {
    pocket: Pocket,
    name: &'static str,
    /// How far its clock is ahead, ms.
    ahead: i64,
    n: u32,
    waiting: Vec<Request>,
}

impl Device {
    fn of(pocket: Pocket, name: &'static str, ahead: i64) -> Self {
        Self {
            pocket,
            name,
            ahead,
            n: 0,
            waiting: vec![],
        }
    }
    fn now(&self) -> i64 {
        now_ms() + self.ahead
    }
    /// Enters something `ago_ms` before now.
    fn enter(&mut self, method: &str, path: &str, body: Value, ago_ms: i64) -> Reply {
        self.n += 1;
        let r = Request {
            method: method.into(),
            path: path.into(),
            body,
            id: format!("{}-{}", self.name, self.n),
            device: self.name.into(),
            said_ms: Some(self.now() - ago_ms),
            ..Request::default()
        };
        let reply = self.pocket.answer(&r, &[], self.now() - ago_ms);
        if reply.status < 400 {
            self.waiting.push(r);
        }
        reply
    }
    fn entered(&mut self, path: &str, body: Value, ago_ms: i64) -> Value {
        let reply = self.enter("POST", path, body, ago_ms);
        assert!(reply.status < 400, "{path}: {}", reply.body);
        reply.body
    }
    /// Sends what waits, in order: statuses and answers.
    fn send(&mut self, ruhe: &Ruhe) -> Vec<(u16, Value)> {
        let now = self.now();
        let send = |r: Request| {
            let method = Method::from_bytes(r.method.as_bytes()).unwrap();
            let reply = ruhe
                .client
                .request(method, format!("{}{}", ruhe.url, r.path))
                .header("Ruhe-Id", r.id)
                .header("Ruhe-Device", r.device)
                .header("Ruhe-Clock", r.said_ms.unwrap().to_string())
                .header("Ruhe-Sent", now.to_string())
                .json(&r.body)
                .send()
                .unwrap();
            (reply.status().as_u16(), reply.json().unwrap_or_default())
        };
        self.waiting.drain(..).map(send).collect()
    }
}

const MINUTE: i64 = 60_000;

#[test]
fn a_job_done_without_the_server_is_the_same_once_it_was_sent() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let c = ruhe.job("bench_component");
    let at = |p: &str| format!("/api/circuits/{c}{p}");
    let mut d = Device::of(taken(&ruhe, &[&c]), "roof-phone", 0);
    // Refused without the server, in the server's words and with its field.
    let wild = json!({"kind": "pressure-hold", "plan": {"test_pa": 9e6, "planned_s": 1800.0},
        "channels": hold_body(300.0)["channels"]});
    let here = d.enter("POST", &at("/tests"), wild.clone(), 0);
    let there = ruhe.post(&at("/tests"), &wild);
    assert_eq!(here.status, there.status().as_u16());
    assert_eq!(here.body, there.json::<Value>().unwrap());

    d.entered(
        &at("/steps"),
        json!({"step": "gas_ready", "note": "nitrogen, read aloud"}),
        50 * MINUTE,
    );
    let test = d.entered(&at("/tests"), hold_body(300.0), 45 * MINUTE)["id"]
        .as_str()
        .unwrap()
        .to_owned();
    let view = see(&mut d.pocket, &format!("/api/tests/{test}"));
    let channel = |i: usize| view["channels"][i]["id"].clone();
    let start = d.now() - 40 * MINUTE;
    let rows: Vec<Value> = (0..35)
        .flat_map(|k| {
            let p = 300.0 + 0.02 * f64::from(k * 7 % 5);
            [(0, format!("{p:.1}")), (1, "70.0".to_owned())].map(|(i, typed)| {
                json!({"id": format!("{test}{k}{i}"), "channel_id": channel(i), "typed": typed,
                    "logged_ms": start + i64::from(k) * MINUTE, "client_ms": d.now()})
            })
        })
        .collect();
    let stored = d.entered(
        &format!("/api/tests/{test}/readings"),
        json!({"readings": rows}),
        0,
    );
    assert_eq!(stored["new"], 70);
    let shut = json!({"id": "shut", "kind": "supply_isolated", "at_ms": start});
    d.entered(&format!("/api/tests/{test}/events"), shut, 0);
    let live = see(&mut d.pocket, &format!("/api/tests/{test}"));
    assert_eq!(
        live["verdict"]["outcome"], "holds",
        "{}",
        live["verdict"]["summary"]
    );
    d.entered(&format!("/api/tests/{test}/end"), json!({}), 2 * MINUTE);
    let look = json!({"place": "flare", "method": "bubbles", "finding": "clear", "dwell_s": 120.0, "at_pa": 2e6});
    let look = d.entered(&at("/looks"), look, MINUTE);
    d.entered(
        &at(&format!("/entries/{}/strike", look["id"].as_str().unwrap())),
        json!({"reason": "wrong flare"}),
        0,
    );
    // Signed on the head that this device saw: the server finds the same one once it has taken just this.
    let seen = see(&mut d.pocket, &at(""));
    let signed = json!({"name": "Odo Fenn", "role": "Technician", "statement": "Seen.", "state": "temporary",
        "seen": seen["head"],
        "carried": {"done_for_now": "capped", "revisit_on": "2099-03-01", "told": "the cook"}});
    d.entered(&at("/signature"), signed, 0);
    assert_eq!(
        d.enter(
            "POST",
            &at("/looks"),
            json!({"place": "x", "method": "bubbles", "finding": "clear"}),
            0
        )
        .status,
        409,
        "signed is signed"
    );

    let here = see(&mut d.pocket, &at(""));
    let replies = d.send(&ruhe);
    for (status, said) in &replies {
        assert!(*status < 300, "{status} {said}");
    }
    let there = ruhe.get(&at(""));
    assert_eq!(here["head"], there["head"]);
    assert_eq!(here["signature"]["state"], there["signature"]["state"]);
    assert_eq!(here["gates"], there["gates"]);
    let (a, b) = (
        see(&mut d.pocket, &format!("/api/tests/{test}")),
        ruhe.get(&format!("/api/tests/{test}")),
    );
    assert_eq!(a["verdict"], b["verdict"]);
    // Done when it was done, not when it was sent.
    let apart = (a["ended_ms"].as_i64().unwrap() - b["ended_ms"].as_i64().unwrap()).abs();
    assert!(apart < 2_000, "{apart} ms");
}

#[test]
fn two_devices_on_one_circuit_merge_by_appending() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let c = ruhe.job("bench_component");
    let at = |p: &str| format!("/api/circuits/{c}{p}");
    let (test, p, t) = ruhe.hold(&c);
    // One of them is ten minutes ahead.
    let mut roof = Device::of(taken(&ruhe, &[&c]), "roof", 10 * MINUTE);
    let mut plant = Device::of(taken(&ruhe, &[&c]), "plant", 0);
    let reading = |d: &Device, k: i64, channel: &str, typed: &str| {
        json!({"readings": [{"id": format!("{}{k}",
        d.name), "channel_id": channel, "typed": typed, "logged_ms": d.now() - 5 * MINUTE, "client_ms": d.now()}]})
    };
    let path = format!("/api/tests/{test}/readings");
    let one = reading(&roof, 1, &p, "300.0");
    roof.entered(&path, one, 0);
    let other = reading(&plant, 1, &t, "70.0");
    plant.entered(&path, other, 0);
    let look = |place: &str| json!({"place": place, "method": "bubbles", "finding": "clear", "dwell_s": 60.0});
    roof.entered(&at("/looks"), look("roof flare"), 5 * MINUTE);
    plant.entered(&at("/looks"), look("coil flare"), 5 * MINUTE);
    // Both would sign what they saw; the second sees less than there is.
    assert!(plant.send(&ruhe).iter().all(|(s, _)| *s == 201));
    assert!(roof.send(&ruhe).iter().all(|(s, _)| *s == 201));
    let v = ruhe.get(&format!("/api/tests/{test}"));
    let times: Vec<i64> = v["readings"]
        .as_array()
        .unwrap()
        .iter()
        .map(|r| r["at_ms"].as_i64().unwrap())
        .collect();
    assert_eq!(times.len(), 2);
    assert!(
        (times[0] - times[1]).abs() < 5_000,
        "one moment, whatever the clocks: {times:?}"
    );
    let skewed: Vec<bool> = v["readings"]
        .as_array()
        .unwrap()
        .iter()
        .map(|r| r["skewed"].as_bool().unwrap())
        .collect();
    assert_eq!(
        skewed.iter().filter(|s| **s).count(),
        1,
        "and the record says that one was off"
    );
    let all = ruhe.get(&at("")).to_string();
    assert!(all.contains("roof flare") && all.contains("coil flare"));
    // Sent twice, nothing is doubled; taken along again, both have both.
    let before = ruhe.get(&at(""))["head"].clone();
    roof.waiting = vec![Request {
        method: "POST".into(),
        path: at("/looks"),
        body: look("roof flare"),
        id: "roof-2".into(),
        device: "roof".into(),
        said_ms: Some(roof.now()),
        ..Request::default()
    }];
    assert_eq!(roof.send(&ruhe)[0].0, 201);
    assert_eq!(ruhe.get(&at(""))["head"], before);
    let signed = json!({"name": "Odo Fenn", "role": "Technician", "statement": "Seen.", "state": "temporary",
        "seen": see(&mut roof.pocket, &at(""))["head"],
        "carried": {"done_for_now": "capped", "revisit_on": "2099-03-01", "told": "the cook"}});
    assert_eq!(
        ruhe.post(&format!("/api/tests/{test}/end"), &json!({}))
            .status(),
        201
    );
    let (status, why) = ruhe.refused(&at("/signature"), &signed);
    assert!(
        status == 409 && why.contains("on another device"),
        "nobody signs what they did not see: {why}"
    );
}

#[test]
fn a_bag_goes_on_where_the_last_one_ended() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let c = ruhe.job("bench_component");
    let (test, p, _) = ruhe.hold(&c);
    let send = |k: u32| {
        let row = json!({"readings": [{"id": format!("r{k}"), "channel_id": p, "typed": "300.0",
            "client_ms": now_ms()}]});
        assert_eq!(
            ruhe.post(&format!("/api/tests/{test}/readings"), &row)
                .status(),
            201
        );
    };
    send(1);
    let mut pocket = taken(&ruhe, &[&c]);
    let first = ruhe.get(&format!("/api/circuits/{c}/bag"));
    let seq = first["lines"].as_array().unwrap().len();
    // Whoever has so much already need not ask for it again, but for readings of a test that takes them.
    let in_work = || ruhe.get("/api/pocket")["circuits"].clone();
    assert_eq!(in_work(), json!([{"id": c, "seq": seq, "is_read": true}]));
    // Entered here, not sent: forgotten with the next bag, and entered again by whoever holds it.
    let look = Request {
        method: "POST".into(),
        path: format!("/api/circuits/{c}/looks"),
        body: json!({"place": "flare", "method": "bubbles", "finding": "clear"}),
        id: "mine".into(),
        ..Request::default()
    };
    assert_eq!(pocket.answer(&look, &[], now_ms()).status, 201);
    send(2);
    let more = ruhe.get(&format!(
        "/api/circuits/{c}/bag?seq={seq}&after={}",
        first["cursor"]
    ));
    assert_eq!(
        (more["lines"].as_array().unwrap().len(), &more["from_seq"]),
        (0, &json!(seq))
    );
    assert_eq!(more["readings"][&test].as_array().unwrap().len(), 1);
    pocket
        .take(serde_json::from_value(more.clone()).unwrap())
        .unwrap();
    assert_eq!(
        see(&mut pocket, &format!("/api/tests/{test}"))["reading_count"],
        2
    );
    assert!(
        !see(&mut pocket, &format!("/api/circuits/{c}"))
            .to_string()
            .contains("flare")
    );
    assert_eq!(pocket.answer(&look, &[], now_ms()).status, 201);
    // One that does not fit is refused, and nothing is lost by it.
    let mut gap = more;
    gap["from_seq"] = json!(seq + 3);
    assert!(pocket.take(serde_json::from_value(gap).unwrap()).is_err());
    assert_eq!(
        see(&mut pocket, &format!("/api/tests/{test}"))["reading_count"],
        2
    );
    assert_eq!(
        ruhe.post(&format!("/api/tests/{test}/end"), &json!({}))
            .status(),
        201
    );
    assert_eq!(
        in_work(),
        json!([{"id": c, "seq": seq + 1, "is_read": false}])
    );
    // What needs the server says so.
    let job = Request {
        method: "POST".into(),
        path: "/api/jobs".into(),
        ..Request::default()
    };
    let said = pocket.answer(&job, &[], now_ms());
    assert!(
        said.status == 409
            && said.body["message"]
                .as_str()
                .unwrap()
                .contains("needs the server")
    );
}
