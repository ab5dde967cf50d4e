//! The doors of the server as the page uses them: jobs, tests, evidence, sign-off, imports, the live stream.

use crate::support::{Ruhe, hold_body, now_ms};
use serde_json::{Value, json};
use std::io::{BufRead, BufReader};

const MINUTE: i64 = 60_000;

fn finished_hold(ruhe: &Ruhe, circuit: &str, psig: f64, loss_per_minute: f64) -> String {
    ruhe.finished_hold(circuit, &hold_body(psig), psig, loss_per_minute)
}

fn gate<'a>(circuit: &'a Value, code: &str) -> &'a Value {
    circuit["gates"]
        .as_array()
        .unwrap()
        .iter()
        .find(|g| g["code"] == code)
        .unwrap_or_else(|| panic!("no gate {code}"))
}

#[test]
fn a_job_kind_decides_stages_and_gates() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    for (kind, stages, has_decay, has_charge) in [
        ("new_split", 11, true, true),
        // What had a charge is arrived at first; nothing is asked for before something was opened.
        ("repair", 12, false, false),
        ("package_circuit", 12, false, false),
        ("standing_line_set", 9, false, false),
        ("bench_component", 5, false, false),
    ] {
        let c = ruhe.get(&format!("/api/circuits/{}", ruhe.job(kind)));
        assert_eq!(c["stages"].as_array().unwrap().len(), stages, "{kind}");
        let codes: Vec<&str> = c["gates"]
            .as_array()
            .unwrap()
            .iter()
            .map(|g| g["code"].as_str().unwrap())
            .collect();
        assert_eq!(
            (
                codes.contains(&"isolation_test"),
                codes.contains(&"charge_weighed")
            ),
            (has_decay, has_charge),
            "{kind}"
        );
        assert_eq!(c["stages"][0]["state"], "now");
        assert!(
            (c["survey"]["sections"][0]["ceiling_pa"].as_f64().unwrap() / 6894.757 - 450.0).abs()
                < 1e-3
        );
    }
}

#[test]
fn a_job_that_is_not_whole_is_refused_field_by_field() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let good = || {
        json!({"site_name": "S", "system_name": "Y", "circuits": [{"tag": "A", "name": "N",
        "kind": "repair", "refrigerant": "R-32", "plates": [{"part": "coil", "low": "300", "high": "450",
        "unit": "psig"}]}]})
    };
    let mut cases: Vec<(&str, Value)> = Vec::new();
    let mut case = |field: &'static str, change: &dyn Fn(&mut Value)| {
        let mut body = good();
        change(&mut body);
        cases.push((field, body));
    };
    case("site_name", &|b| b["site_name"] = json!(" "));
    case("system_name", &|b| b["system_name"] = json!(""));
    case("circuits", &|b| b["circuits"] = json!([]));
    case("circuits.0.kind", &|b| {
        b["circuits"][0]["kind"] = json!("magic")
    });
    case("circuits.0.tag", &|b| b["circuits"][0]["tag"] = json!(""));
    case("circuits.0.volume_l", &|b| {
        b["circuits"][0]["volume_l"] = json!(-1)
    });
    case("circuits.0.plates.0.high", &|b| {
        b["circuits"][0]["plates"][0]["high"] = json!("4,5")
    });
    case("circuits.0.plates.0.high", &|b| {
        b["circuits"][0]["plates"][0]["high"] = json!("0")
    });
    case("circuits.0.plates.0.low", &|b| {
        b["circuits"][0]["plates"][0]["low"] = json!("")
    });
    case("circuits.0.plates.0.low.unit", &|b| {
        b["circuits"][0]["plates"][0]["unit"] = json!("psia")
    });
    case("circuits.0.plates.0.low.unit", &|b| {
        b["circuits"][0]["plates"][0]["unit"] = json!("degC")
    });
    case("circuits.1.tag", &|b| {
        let again = b["circuits"][0].clone();
        b["circuits"].as_array_mut().unwrap().push(again);
    });
    case("site_id", &|b| b["site_id"] = json!("nowhere"));
    for (field, body) in cases {
        let reply = ruhe.post("/api/jobs", &body);
        assert_eq!(reply.status(), 422, "{field}");
        let problem: Value = reply.json().unwrap();
        assert_eq!(problem["field"], field, "{problem}");
    }
    assert_eq!(ruhe.get("/api/today"), json!([]));
}

#[test]
fn a_fall_a_repair_and_a_retest_lead_to_a_signature_with_one_deviation() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let id = ruhe.job("bench_component");
    let at = |p: &str| format!("/api/circuits/{id}{p}");
    finished_hold(&ruhe, &id, 400.0, 0.2);
    let c = ruhe.get(&at(""));
    assert_eq!(
        (
            gate(&c, "hold_with_temperature")["met"].as_bool(),
            gate(&c, "retest_after_repair")["met"].as_bool()
        ),
        (Some(false), Some(false))
    );
    assert_eq!(ruhe.repair(&id, "liquid port").status(), 201);
    assert_eq!(
        ruhe.refused(&at("/steps"), &json!({"step": "danced"})).0,
        422
    );
    // A retest below the pressure of the find does not count as one.
    finished_hold(&ruhe, &id, 200.0, 0.0);
    let c = ruhe.get(&at(""));
    assert_eq!(
        gate(&c, "hold_with_temperature")["met"],
        true,
        "{}",
        gate(&c, "hold_with_temperature")["evidence"]
    );
    assert!(
        gate(&c, "retest_after_repair")["evidence"]
            .as_str()
            .unwrap()
            .contains("lower pressure")
    );
    finished_hold(&ruhe, &id, 400.0, 0.0);
    ruhe.post(
        &at("/steps"),
        &json!({"step": "boundary_valves_checked", "note": "blanked"}),
    );
    let c = ruhe.get(&at(""));
    assert_eq!(gate(&c, "retest_after_repair")["met"], true);
    let states = |c: &Value| -> Vec<String> {
        let all = c["allowed_states"].as_array().unwrap().iter();
        all.map(|s| s["code"].as_str().unwrap().to_owned())
            .collect()
    };
    assert_eq!(states(&c), ["temporary", "failed"]);
    ruhe.look_everywhere(&id);
    let words =
        json!({"name": "Odo Fenn", "role": "Technician", "statement": "Seen.", "state": "passed"});
    let (status, why) = ruhe.refused(&at("/signature"), &words);
    assert!(
        status == 422 && why.contains("Instruments in date and range") && why.contains("label it"),
        "{why}"
    );
    for words in ["", "n/a"] {
        let told = ruhe.refused(
            &at("/overrides"),
            &json!({"gate": "instruments", "words": words}),
        );
        assert_eq!(told.0, 422, "{words}");
    }
    // What is inside is nobody's to answer for: it is labelled.
    let why = json!({"gate": "inside", "words": "it was always left so"});
    assert!(
        ruhe.refused(&at("/overrides"), &why)
            .1
            .contains("nobody can answer")
    );
    assert_eq!(
        ruhe.step(&id, "capped_and_labelled", "nitrogen").status(),
        201
    );
    ruhe.post(
        &at("/overrides"),
        &json!({"gate": "instruments", "words": "sent in for calibration"}),
    );
    assert!(
        ruhe.refused(&at("/signature"), &words)
            .1
            .contains("reservations")
    );
    let (status, why) = ruhe.refused(
        &at("/signature"),
        &json!({"name": " ", "role": "T", "statement": "S", "state": "failed"}),
    );
    assert!(status == 422 && why.contains("name"), "{why}");
    let mut words = words;
    words["state"] = json!("passed_with_reservations");
    let told = ruhe.refused(&at("/signature"), &words).1;
    assert!(told.contains("each reservation"), "{told}");
    words["reservations"] = json!([{"what": "gauge", "why": "calibration ran out", "whose": ""}]);
    let told = ruhe.refused(&at("/signature"), &words).1;
    assert!(told.contains("whose risk"), "{told}");
    words["reservations"][0]["whose"] = json!("ours");
    assert_eq!(ruhe.post(&at("/signature"), &words).status(), 201);
    let record = ruhe.get(&at("/record"));
    assert_eq!(record["circuit"]["hash"].as_str().unwrap().len(), 64);
    assert_eq!(
        gate(&record["circuit"], "instruments")["overridden"],
        "sent in for calibration"
    );
    assert_eq!(record["tests"].as_array().unwrap().len(), 3);
    for (path, body) in [
        ("/signature", words),
        ("/tests", hold_body(300.0)),
        ("/steps", json!({"step": "released"})),
        (
            "/overrides",
            json!({"gate": "ports", "words": "nobody could get there"}),
        ),
    ] {
        assert_eq!(
            ruhe.refused(&at(path), &body).0,
            409,
            "{path} after signing"
        );
    }
    // Signed work leaves Today and is found by search.
    assert_eq!(ruhe.get("/api/today").as_array().unwrap().len(), 0);
    let found = ruhe.get("/api/search?q=signed&state=passed_with_reservations");
    assert_eq!(
        (found[0]["circuit_id"].as_str(), found[0]["stage"].as_str()),
        (Some(id.as_str()), Some("Signed"))
    );
    assert_eq!(
        ruhe.get("/api/search?state=failed")
            .as_array()
            .unwrap()
            .len(),
        0
    );
}

#[test]
fn a_running_test_blocks_the_signature_and_an_ended_one_takes_no_readings() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let id = ruhe.job("bench_component");
    let (test, p, _) = ruhe.hold(&id);
    let sign = json!({"name": "N", "role": "R", "statement": "S", "state": "failed"});
    assert!(
        ruhe.refused(&format!("/api/circuits/{id}/signature"), &sign)
            .1
            .contains("Hold 1 is still running")
    );
    assert_eq!(
        ruhe.post(&format!("/api/tests/{test}/end"), &json!({}))
            .status(),
        201
    );
    assert_eq!(
        ruhe.post(&format!("/api/tests/{test}/end"), &json!({}))
            .status(),
        201
    );
    let reading =
        json!({"readings": [{"id": "x", "channel_id": p, "typed": "300", "client_ms": now_ms()}]});
    let (status, why) = ruhe.refused(&format!("/api/tests/{test}/readings"), &reading);
    assert!(status == 409 && why.contains("has ended"), "{status} {why}");
}

#[test]
fn evidence_is_marked_struck_and_superseded() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let (test, p, _) = ruhe.hold(&ruhe.job("bench_component"));
    let at = |path: &str| format!("/api/tests/{test}{path}");
    let logged = now_ms() - 2 * MINUTE;
    // One waited for the network for two minutes: it keeps its time and is not called skewed.
    let stored: Value = ruhe
        .post(
            &at("/readings"),
            &json!({"readings": [{"id": "late", "channel_id": p, "typed": "399.0",
            "logged_ms": logged, "client_ms": now_ms()}]}),
        )
        .json()
        .unwrap();
    assert_eq!(
        (stored["new"].as_i64(), stored["skewed"].as_i64()),
        (Some(1), Some(0))
    );
    assert!(
        ruhe.refused("/api/readings/late/strike", &json!({"reason": " "}))
            .1
            .contains("why")
    );
    assert!(
        ruhe.refused(
            "/api/readings/late/strike",
            &json!({"reason": "slip", "instead": "3oo"})
        )
        .1
        .contains("not a number")
    );
    assert_eq!(
        ruhe.post(
            "/api/readings/late/strike",
            &json!({"reason": "slip of the finger", "instead": "300.0"})
        )
        .status(),
        201
    );
    assert_eq!(
        ruhe.refused("/api/readings/none/strike", &json!({"reason": "x"}))
            .0,
        404
    );
    let view = ruhe.get(&at(""));
    let row = |typed: &str| {
        view["readings"]
            .as_array()
            .unwrap()
            .iter()
            .find(|r| r["typed"] == typed)
            .unwrap()
            .clone()
    };
    assert_eq!(
        (
            row("399.0")["struck"].as_str(),
            row("399.0")["at_ms"].as_i64()
        ),
        (Some("slip of the finger"), Some(logged))
    );
    assert_eq!(
        (
            row("300.0")["origin"].as_str(),
            row("300.0")["at_ms"].as_i64()
        ),
        (Some("corrected"), Some(logged))
    );
    assert_eq!(view["channels"][0]["last"], "300.0");
    for (body, says) in [
        (json!({"id": "e", "kind": "party"}), "is not one of"),
        (json!({"id": "e", "kind": "other"}), "what happened"),
        (json!({"id": "", "kind": "sun"}), "an id has"),
    ] {
        let (status, why) = ruhe.refused(&at("/events"), &body);
        assert!(status == 422 && why.contains(says), "{why}");
    }
    for _ in 0..2 {
        assert_eq!(
            ruhe.post(
                &at("/events"),
                &json!({"id": "once", "kind": "valve_moved", "note": "liquid side"})
            )
            .status(),
            201
        );
    }
    assert_eq!(ruhe.get(&at(""))["events"].as_array().unwrap().len(), 1);
    assert!(
        ruhe.refused(&at("/clock"), &json!({"at_ms": logged, "reason": ""}))
            .1
            .contains("by hand")
    );
}

#[test]
fn a_clock_started_by_hand_is_on_the_record() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let circuit = ruhe.job("bench_component");
    let (test, p, t) = ruhe.hold(&circuit);
    let start = now_ms() - 20 * MINUTE;
    // Still falling from the fill when the clock is started by hand.
    let rows: Vec<Value> = (0..40)
        .flat_map(|k| {
            let psig = 300.0 + 3.0 * (-(k as f64) / 12.0).exp();
            [(&p, format!("{psig:.1}")), (&t, "70.0".into())].map(|(c, typed)| {
                json!({"id": format!("{k}{c}"), "channel_id": c, "typed": typed,
                    "at_ms": start + k * MINUTE / 2, "client_ms": now_ms()})
            })
        })
        .collect();
    ruhe.post(
        &format!("/api/tests/{test}/readings"),
        &json!({"readings": rows}),
    );
    ruhe.shut_supply(&test, start);
    let before = ruhe.get(&format!("/api/tests/{test}"));
    assert_eq!(
        before["verdict"]["reasons"][0], "still_settling",
        "{}",
        before["verdict"]["summary"]
    );
    assert_eq!(
        ruhe.post(
            &format!("/api/tests/{test}/clock"),
            &json!({"at_ms": start + 5 * MINUTE, "reason": "no time"})
        )
        .status(),
        201
    );
    let after = ruhe.get(&format!("/api/tests/{test}"));
    assert_eq!(after["verdict"]["hold"]["settled_at_s"], 300.0);
    assert!(
        after["verdict"]["reasons"]
            .as_array()
            .unwrap()
            .contains(&json!("settling_overridden")),
        "{}",
        after["verdict"]["reasons"]
    );
}

#[test]
fn sentences_come_in_the_units_asked_for() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let test = finished_hold(&ruhe, &ruhe.job("bench_component"), 300.0, 0.0);
    let said = |query: &str| {
        ruhe.get(&format!("/api/tests/{test}{query}"))["verdict"]["evidence"].to_string()
    };
    assert!(said("").contains("0.94 psi in 30 min"));
    assert!(
        said("?pressure=bar&temperature=degC").contains("0.065 bar in 30 min"),
        "{}",
        said("?pressure=bar")
    );
    assert!(
        said("?pressure=degC").contains("psi"),
        "a unit that does not fit falls back"
    );
}

#[test]
fn a_loggers_csv_comes_in_as_confirmed_or_not_at_all() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let circuit = ruhe.job("standing_line_set");
    let rows: Vec<String> = (0..=60)
        .map(|k| {
            format!(
                "2026-05-04 10:{:02}:{:02},{},20.0",
                k / 6,
                k % 6 * 10,
                250 + k / 4
            )
        })
        .collect();
    let content = format!("time,vacuum micron,air C\n{}\n", rows.join("\n"));
    let guess = ruhe.file("v.csv", &content);
    assert_eq!(
        (
            guess["columns"][0]["is_time"].as_bool(),
            guess["columns"][1]["unit"].as_str(),
            guess["columns"][2]["unit"].as_str()
        ),
        (Some(true), Some("micron"), Some("degC"))
    );
    let columns = json!([
        {"heading": "vacuum micron", "channel": {"name": "V", "quantity": "absolute_pressure", "unit": "micron",
            "resolution": 1.0}},
        {"heading": "air C", "channel": {"name": "T", "quantity": "temperature", "unit": "degC"}}]);
    let token = |content: &str| ruhe.file("v.csv", content)["token"].clone();
    let body = |content: &str| {
        json!({"token": token(content), "kind": "vacuum-decay",
        "plan": {"level_pa": 66.66, "at_s": 600.0}, "time_heading": "time", "offset_minutes": 120, "columns": columns})
    };
    let (status, why) = ruhe.refused(
        &format!("/api/circuits/{circuit}/csv"),
        &body(&content.replace("255,20.0", "255,warm")),
    );
    assert!(
        status == 422 && why.contains("v.csv, line") && why.contains("air C"),
        "{why}"
    );
    assert_eq!(
        ruhe.get(&format!("/api/circuits/{circuit}"))["run"]["segments"],
        json!([])
    );
    let made: Value = ruhe
        .post(&format!("/api/circuits/{circuit}/csv"), &body(&content))
        .json()
        .unwrap();
    let test = ruhe.get(&format!("/api/tests/{}", made["id"].as_str().unwrap()));
    assert_eq!(
        (
            test["verdict"]["outcome"].as_str(),
            test["plan"]["imported_from"].as_str(),
            test["ended_ms"].is_i64()
        ),
        (Some("passes"), Some("v.csv"), true)
    );
    // 10:00 at two hours east of UTC.
    assert_eq!(test["start_ms"], 1_777_881_600_000i64);
}

#[test]
fn a_change_is_told_to_whoever_listens() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let circuit = ruhe.job("bench_component");
    let stream = ruhe
        .client
        .get(format!("{}/api/live", ruhe.url))
        .send()
        .unwrap();
    assert_eq!(stream.headers()["content-type"], "text/event-stream");
    let mut lines = BufReader::new(stream).lines();
    let (test, _, _) = ruhe.hold(&circuit);
    let told = lines
        .by_ref()
        .map_while(Result::ok)
        .find(|l| l.starts_with("data:"))
        .unwrap();
    let change: Value = serde_json::from_str(told.trim_start_matches("data:")).unwrap();
    assert_eq!(
        (change["circuit_id"].as_str(), change["test_id"].as_str()),
        (Some(circuit.as_str()), Some(test.as_str()))
    );
}

#[test]
fn a_simulated_gauge_posts_until_it_is_stopped() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start_with(dir.path(), &["--simulated-gauges"]);
    let (test, ..) = ruhe.hold(&ruhe.job("bench_component"));
    let count = || {
        ruhe.get(&format!("/api/tests/{test}"))["reading_count"]
            .as_i64()
            .unwrap()
    };
    assert_eq!(
        ruhe.post(&format!("/api/tests/{test}/gauge"), &json!({}))
            .status(),
        201
    );
    let deadline = std::time::Instant::now() + std::time::Duration::from_secs(10);
    while count() < 4 {
        assert!(
            std::time::Instant::now() < deadline,
            "the gauge never spoke"
        );
        std::thread::sleep(std::time::Duration::from_millis(100));
    }
    let view = ruhe.get(&format!("/api/tests/{test}"));
    assert_eq!(
        (
            view["is_live"].as_bool(),
            view["readings"][0]["origin"].as_str()
        ),
        (Some(true), Some("simulated"))
    );
    assert!(
        ruhe.client
            .delete(format!("{}/api/tests/{test}/gauge", ruhe.url))
            .send()
            .unwrap()
            .status()
            .is_success()
    );
    assert_eq!(ruhe.get(&format!("/api/tests/{test}"))["is_live"], false);
}

/// A rise to 2,720 micron whose thousands stand behind a comma, and whose times nobody explains: read otherwise it
/// passes.
#[test]
fn a_file_of_two_readings_is_asked_about_with_what_either_gives() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let circuit = ruhe.job("standing_line_set");
    let grouped = |v: u32| match v {
        0..1_000 => v.to_string(),
        _ => format!("{},{:03}", v / 1_000, v % 1_000),
    };
    let rows: String = (0..=40)
        .map(|k| format!("{}\t{}\n", 60 * k, grouped(850 + 187 * k / 4)))
        .collect();
    let content = format!("Elapsed\tV micron\n{rows}");
    let columns = json!([{"heading": "V micron", "channel": {"name": "V", "quantity": "absolute_pressure",
        "unit": "micron", "resolution": 1.0}}]);
    let token = ruhe.file("v.txt", &content)["token"].clone();
    let body = |answers: Value, is_sure: bool| {
        json!({"token": token, "kind": "vacuum-decay",
        "plan": {"level_pa": 66.66, "at_s": 600.0}, "time_heading": "Elapsed", "columns": columns,
        "answers": answers, "is_sure": is_sure})
    };
    let at = format!("/api/circuits/{circuit}/csv");
    let look = |answers: Value| -> Value {
        ruhe.post(&format!("{at}/look"), &body(answers, false))
            .json()
            .unwrap()
    };
    let about = |v: &Value| -> Vec<String> {
        let all = v["questions"].as_array().unwrap();
        all.iter()
            .map(|q| q["about"].as_str().unwrap().into())
            .collect()
    };
    let open = look(json!({}));
    assert_eq!(about(&open), ["figures", "time_is"]);
    assert!(open["gives"].is_null());
    // With the times said, either way of the figures comes with its verdict.
    let half = look(json!({"time_is": "s"}));
    assert_eq!(about(&half), ["figures"]);
    let gives: Vec<(String, f64)> = half["questions"][0]["choices"]
        .as_array()
        .unwrap()
        .iter()
        .map(|c| {
            let column = &c["gives"]["columns"][0];
            let word = c["gives"]["word"].as_str().unwrap();
            (word.to_owned(), column["last"].as_f64().unwrap())
        })
        .collect();
    assert_eq!((gives[0].1, gives[1].1), (2_720.0, 2.72));
    assert_eq!(gives[0].0, "Over limit", "{gives:?}");
    assert_ne!(gives[1].0, gives[0].0);
    let (status, why) = ruhe.refused(&at, &body(json!({}), true));
    assert!(status == 422 && why.contains("say which"), "{why}");
    // The other way makes a leap of a thousandfold: it is asked once more.
    let odd = json!({"time_is": "s", "figures": "comma"});
    let (status, why) = ruhe.refused(&at, &body(odd, false));
    assert!(status == 422 && why.contains("in one step"), "{why}");
    let right = json!({"time_is": "s", "figures": "point"});
    assert_eq!(look(right.clone())["gives"]["doubts"], json!([]));
    let made: Value = ruhe.post(&at, &body(right, false)).json().unwrap();
    let test = ruhe.get(&format!("/api/tests/{}", made["id"].as_str().unwrap()));
    assert_eq!(test["verdict"]["outcome"], "fails");
    // Looking kept nothing.
    let all = ruhe.get(&format!("/api/circuits/{circuit}"))["run"]["segments"].clone();
    assert_eq!(all.as_array().map(Vec::len), Some(1), "{all}");
    let mut lost = body(json!({"time_is": "s"}), false);
    lost["token"] = json!("another");
    assert!(ruhe.refused(&at, &lost).1.contains("choose it again"));
    let (status, why) = ruhe.refused(&at, &body(json!({"time": "s"}), false));
    assert!(status >= 400 && why.contains("time"), "{why}");
}

/// Berlin is two hours ahead in May and one in January: the file's own dates decide.
#[test]
fn a_place_is_asked_where_stamps_have_no_offset() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let circuit = ruhe.job("standing_line_set");
    let columns = json!([{"heading": "P psig", "channel": {"name": "P", "quantity": "gauge_pressure",
        "unit": "psig"}}]);
    let body = |day: &str, zone: Value| {
        let content = format!("Time,P psig\n{day} 10:00:00,300.1\n{day} 10:20:00,300.0\n");
        json!({"token": ruhe.file("p.csv", &content)["token"], "kind": "pressure-hold", "plan": {},
            "time_heading": "Time", "zone": zone, "columns": columns})
    };
    let at = format!("/api/circuits/{circuit}/csv");
    let (status, why) = ruhe.refused(&at, &body("2026-05-04", Value::Null));
    assert!(
        status == 422 && why.contains("say where the logger stood"),
        "{why}"
    );
    let (status, why) = ruhe.refused(&at, &body("2026-05-04", json!("Middle/Earth")));
    assert!(status == 422 && why.contains("no time zone"), "{why}");
    for (day, hour) in [("2026-05-04", "08:00:00"), ("2026-01-12", "09:00:00")] {
        let look: Value = ruhe
            .post(&format!("{at}/look"), &body(day, json!("Europe/Berlin")))
            .json()
            .unwrap();
        let ms = look["gives"]["start_ms"].as_i64().unwrap();
        let begins = jiff::Timestamp::from_millisecond(ms).unwrap().to_string();
        assert_eq!(begins, format!("{day}T{hour}Z"));
    }
}

/// A column whose heading says nothing is asked about like any other, once a person says what it is.
#[test]
fn what_was_mapped_by_hand_is_asked_about_too() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let circuit = ruhe.job("standing_line_set");
    let rows: String = (0..=40)
        .map(|k| format!("{};{}.{:03}\n", 60 * k, 1 + k / 30, 100 + 20 * (k % 30)))
        .collect();
    let seen = ruhe.file("odd.txt", &format!("t;x\n{rows}"));
    assert_eq!(seen["columns"][1]["quantity"], Value::Null);
    let body = json!({"token": seen["token"], "kind": "vacuum-decay", "plan": {"level_pa": 66.66, "at_s": 600.0},
        "time_heading": "t", "columns": [{"heading": "x", "channel": {"name": "V",
            "quantity": "absolute_pressure", "unit": "micron"}}]});
    let at = format!("/api/circuits/{circuit}/csv/look");
    let look: Value = ruhe.post(&at, &body).json().unwrap();
    let about: Vec<&str> = look["questions"]
        .as_array()
        .unwrap()
        .iter()
        .map(|q| q["about"].as_str().unwrap())
        .collect();
    assert_eq!(about, ["figures", "time_is"], "{look}");
    assert_eq!(look["needs_place"], false);
}

/// A season for the office: three tables with a row each visit, test and channel, read by their own description.
#[test]
fn a_season_goes_out_as_tables() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let circuit = ruhe.job("repair");
    ruhe.finished_hold(&circuit, &hold_body(300.0), 300.0, 0.3);
    let other = ruhe.job("bench_component");
    ruhe.hold(&other);
    let get = |query: &str| {
        let r = ruhe
            .client
            .get(format!("{}/api/season.zip?{query}", ruhe.url));
        let r = r.send().unwrap();
        (r.status().as_u16(), r.bytes().unwrap().to_vec())
    };
    let (status, zip) = get("from=2020-01-01&to=2100-01-01&zone=Europe/Berlin&pressure=psig");
    assert_eq!(status, 200);
    let text = |name: &str| String::from_utf8(crate::support::file_of(&zip, name)).unwrap();
    let about: Value = serde_json::from_str(&text("datapackage.json")).unwrap();
    assert_eq!(about["name"], "season-from-2020-01-01-to-2100-01-01");
    for resource in about["resources"].as_array().unwrap() {
        let table = text(resource["path"].as_str().unwrap());
        let mut rows = csv::Reader::from_reader(table.as_bytes());
        let fields = resource["schema"]["fields"].as_array().unwrap();
        let named: Vec<&str> = fields.iter().map(|f| f["name"].as_str().unwrap()).collect();
        assert_eq!(rows.headers().unwrap().iter().collect::<Vec<_>>(), named);
        for row in rows.records() {
            for (cell, field) in row.unwrap().iter().zip(fields) {
                let is_right = match field["type"].as_str().unwrap() {
                    "number" => cell.is_empty() || cell.parse::<f64>().is_ok(),
                    "datetime" => cell.is_empty() || cell.parse::<jiff::Timestamp>().is_ok(),
                    "boolean" => ["true", "false"].contains(&cell),
                    _ => true,
                };
                assert!(is_right, "{cell} in {field}");
            }
        }
    }
    let (visits, tests, channels) = (text("visits.csv"), text("tests.csv"), text("channels.csv"));
    assert_eq!(
        (
            visits.lines().count(),
            tests.lines().count(),
            channels.lines().count()
        ),
        (3, 3, 5)
    );
    assert!(
        tests.contains(",Hold 1,pressure-hold,") && tests.contains(",falls,Falling,"),
        "{tests}"
    );
    assert!(
        channels.contains("gauge_pressure,psig,[psi],60,0,"),
        "{channels}"
    );
    // Nothing was weighed: no figure stands for that.
    assert!(visits.contains(",In work,,,,,,false,0,"), "{visits}");
    let (_, none) = get("from=2020-01-01&to=2020-12-31");
    let table = String::from_utf8(crate::support::file_of(&none, "visits.csv")).unwrap();
    assert_eq!(table.lines().count(), 1);
    assert_eq!(get("from=2026-02-30&to=2026-03-01").0, 422);
    assert_eq!(get("from=2026-03-02&to=2026-03-01").0, 422);
    assert_eq!(get("from=2026-03-01&to=2026-03-02&zone=Nowhere").0, 422);
    assert!(get("from=2026-03-01").0 >= 400);
}
