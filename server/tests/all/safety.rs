//! What must never happen, through the API: no verdict, gate, plan or advice is bolder than its evidence.

use crate::support::{Ruhe, curve, hold_body, now_ms, vacuum_body};
use serde_json::{Value, json};

const PSI: f64 = 6_894.757;
const FLARE: &str = "flare at the coil";

fn ruhe() -> (tempfile::TempDir, Ruhe) {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    (dir, ruhe)
}

fn put_survey(ruhe: &Ruhe, id: &str, survey: &Value) {
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
fn typed_hold(ruhe: &Ruhe, circuit: &str, rows: &[(i64, [Option<f64>; 2])]) -> Value {
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
fn hidden_leak(s: i64) -> f64 {
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

fn decay(ruhe: &Ruhe, id: &str) -> String {
    let body = vacuum_body(
        "vacuum-decay",
        json!({"level_pa": 66.66, "at_s": 600.0, "evacuated_s": 3_600.0}),
    );
    ruhe.vacuum(
        id,
        &body,
        &curve(12, |t| 250.0 + 0.02 * t),
        &[("isolated", 0.0)],
        true,
    )
}

#[test]
fn evidence_counts_only_after_the_last_repair_opening_core_or_failed_hold() {
    let (_dir, ruhe) = ruhe();
    let now = || now_ms() + 1_000;
    for (what, undo) in [
        ("mended", "repair"),
        ("opened", "event"),
        ("core was moved", "core"),
        ("fell", "hold"),
    ] {
        let id = ruhe.job("standing_line_set");
        ruhe.finished_hold(&id, &hold_body(300.0), 300.0, 0.0);
        let test = decay(&ruhe, &id);
        assert_eq!(
            ruhe.gate(&id, "isolation_test")["met"],
            true,
            "{}",
            ruhe.gate(&id, "isolation_test")
        );
        match undo {
            "repair" => drop(ruhe.post(
                &format!("/api/circuits/{id}/repairs"),
                &json!({"place": FLARE, "opened": "nothing", "cause": "not tight", "at_ms": now()}),
            )),
            "hold" => {
                let (hold, p, _) = ruhe.hold(&id);
                let rows: Vec<Value> = (0..40)
                    .map(|k| json!({"id": format!("{hold}{k}"), "channel_id": p, "typed": format!("{:.1}",
                        300.0 - 8.0 * f64::from(k)), "at_ms": now() + i64::from(k) * 60_000, "client_ms": now_ms()}))
                    .collect();
                assert_eq!(
                    ruhe.post(
                        &format!("/api/tests/{hold}/readings"),
                        &json!({"readings": rows})
                    )
                    .status(),
                    201
                );
                ruhe.shut_supply(&hold, now());
                ruhe.post(&format!("/api/tests/{hold}/end"), &json!({}));
            }
            kind => {
                // Said in a later test of the same section.
                let body = vacuum_body("vacuum-decay", json!({"level_pa": 66.66, "at_s": 600.0}));
                let later = ruhe.vacuum(&id, &body, &curve(1, |_| 250.0), &[], false);
                let code = if kind == "core" {
                    "core_moved"
                } else {
                    // It was let up to the air first.
                    let seen = json!({"left": Ruhe::both("0", "psig"), "at_ms": now() - 500});
                    let r = ruhe.post(&format!("/api/circuits/{id}/seen"), &seen);
                    assert_eq!(r.status(), 201);
                    "opened"
                };
                assert_eq!(
                    ruhe.post(
                        &format!("/api/tests/{later}/events"),
                        &json!({"id": format!("{later}x"), "kind": code, "with_tool": kind == "core", "at_ms": now()})
                    )
                    .status(),
                    201
                );
            }
        }
        let gate = ruhe.gate(&id, "isolation_test");
        assert!(
            gate["met"] == false && gate["evidence"].as_str().unwrap().contains(what),
            "{undo}: {gate}"
        );
        let _ = test;
    }
    // A hold that a repair came after must be made again.
    let id = ruhe.job("bench_component");
    ruhe.finished_hold(&id, &hold_body(300.0), 300.0, 0.0);
    ruhe.repair(&id, FLARE);
    let gate = ruhe.gate(&id, "hold_with_temperature");
    assert!(
        gate["met"] == false && gate["evidence"].as_str().unwrap().contains("hold again"),
        "{gate}"
    );
}

#[test]
fn repeats_are_not_compared_across_a_repair() {
    let (_dir, ruhe) = ruhe();
    let id = ruhe.job("standing_line_set");
    let body = vacuum_body(
        "vacuum-decay",
        json!({"level_pa": 66.66, "at_s": 600.0, "evacuated_s": 3_600.0}),
    );
    let steep = ruhe.vacuum(
        &id,
        &body,
        &curve(12, |t| 250.0 + 0.4 * t),
        &[("isolated", 0.0)],
        true,
    );
    let again = |of: &str| ruhe.test(of)["argued"]["repeats"].clone();
    let flat = ruhe.vacuum(
        &id,
        &body,
        &curve(12, |t| 250.0 + 0.1 * t),
        &[("isolated", 0.0)],
        true,
    );
    assert!(
        again(&flat).to_string().contains("fell from"),
        "{}",
        again(&flat)
    );
    let between = ruhe.test(&steep)["start_ms"].as_i64().unwrap() + 1;
    ruhe.post(
        &format!("/api/circuits/{id}/repairs"),
        &json!({"place": FLARE, "opened": "nothing", "cause": "not tight", "at_ms": between}),
    );
    assert_eq!(again(&flat), json!([]), "it is not drying, it was mended");
}

fn halves() -> Value {
    let part = |name: &str, section: &str, psig: &str| {
        json!({"name": name, "place": "indoor",
        "section": section, "high": {"typed": psig, "unit": "psig"}, "only_one": true, "volume_l": 2.0})
    };
    json!({"sections": [{"name": "line set", "is_tested": true}, {"name": "outdoor unit", "is_tested": false}],
        "components": [part("coil", "line set", "500"), part("condenser", "outdoor unit", "300")],
        "valves": [{"name": "service valve", "section": "line set", "is_shut": true, "behind": "section",
            "other": "outdoor unit"}]})
}

fn leak_by_body(plan: &Value) -> Value {
    let gauge = |name: &str, position: &str| {
        json!({"name": name, "quantity": "gauge_pressure", "unit": "psig",
        "resolution": 0.1, "position": position})
    };
    json!({"kind": "leak-by", "plan": plan, "channels": [gauge("A", "half_a"), gauge("B", "half_b"),
        {"name": "T", "quantity": "temperature", "unit": "degF"}]})
}

/// A falls by 10 psi and B rises by as much in ten minutes; what is said of it.
fn leak_by(ruhe: &Ruhe, id: &str, plan: &Value, from: f64) -> Value {
    let r = ruhe.post(&format!("/api/circuits/{id}/tests"), &leak_by_body(plan));
    let made: Value = r.json().unwrap();
    let test = made["id"]
        .as_str()
        .unwrap_or_else(|| panic!("{made}"))
        .to_owned();
    let channels = ruhe.test(&test)["channels"].clone();
    let start = ruhe.later(20);
    let rows: Vec<Value> = (0..=5)
        .flat_map(|k| {
            let psi = 2.0 * f64::from(k);
            let values = [from - psi, psi, 70.0];
            let at = start + i64::from(k) * 120_000;
            (0..3)
                .map(|c| {
                    json!({"id": format!("{test}{k}{c}"), "channel_id": channels[c]["id"],
                        "typed": format!("{:.1}", values[c]), "at_ms": at, "client_ms": now_ms()})
                })
                .collect::<Vec<_>>()
        })
        .collect();
    assert_eq!(
        ruhe.post(
            &format!("/api/tests/{test}/readings"),
            &json!({"readings": rows})
        )
        .status(),
        201
    );
    ruhe.test(&test)
}

#[test]
fn a_valve_is_never_opened_onto_a_charge_or_nobody_knows_what_or_beyond_a_ceiling() {
    let (_dir, ruhe) = ruhe();
    let id = ruhe.job("new_split");
    let tests = format!("/api/circuits/{id}/tests");
    let says = |v: &Value| v["verdict"].to_string();
    let offers =
        |v: &Value| says(v).contains("Open the valve") || says(v).contains("open the valve slowly");
    // The survey a new split begins with: the factory charge behind shut valves.
    let plan = json!({"test_pa": 300.0 * PSI});
    let (status, why) = ruhe.refused(
        &tests,
        &leak_by_body(&json!({"test_pa": 300.0 * PSI, "behind": "nitrogen"})),
    );
    assert!(
        status == 422 && why.contains("the survey says that factory charge stands behind"),
        "{why}"
    );
    let charged = leak_by(&ruhe, &id, &plan, 300.0);
    assert_eq!(charged["plan"]["behind"], "factory_charge");
    assert!(!offers(&charged), "{}", says(&charged));
    // Nobody has said what the other section holds.
    let id = ruhe.job("new_split");
    let tests = format!("/api/circuits/{id}/tests");
    put_survey(&ruhe, &id, &halves());
    let with = |more: Value| {
        let mut p =
            json!({"test_pa": 300.0 * PSI, "section": "line set", "section_b": "outdoor unit"});
        p.as_object_mut()
            .unwrap()
            .extend(more.as_object().unwrap().clone());
        p
    };
    ruhe.looked_at(&id, "line set", "290");
    let unknown = leak_by(&ruhe, &id, &with(json!({})), 300.0);
    assert_eq!(unknown["plan"]["behind"], "unknown");
    assert!(
        !offers(&unknown) && says(&unknown).contains("do not open the valve"),
        "{}",
        says(&unknown)
    );
    ruhe.looked_at(&id, "line set", "290");
    let nitrogen = leak_by(&ruhe, &id, &with(json!({"behind": "nitrogen"})), 300.0);
    assert!(offers(&nitrogen), "{}", says(&nitrogen));
    // 490 psig let into the other half would bring both to up to 330 psig: the condenser may take 300.
    ruhe.looked_at(&id, "line set", "290");
    let high = leak_by(
        &ruhe,
        &id,
        &with(json!({"behind": "nitrogen", "test_pa": 490.0 * PSI})),
        490.0,
    );
    assert!(
        !offers(&high) && says(&high).contains("do not open it"),
        "{}",
        says(&high)
    );
    // Half A has its ceiling like any hold, and needs a pressure.
    assert!(
        ruhe.refused(
            &tests,
            &leak_by_body(&with(json!({"test_pa": 600.0 * PSI})))
        )
        .1
        .contains("coil is rated 500 psig")
    );
    assert!(
        ruhe.refused(&tests, &leak_by_body(&json!({})))
            .1
            .contains("needs its test pressure")
    );
    // Half B above its own: said before anything else.
    let rows = |v: &Value| v["channels"][1]["id"].clone();
    let over = json!({"readings": [{"id": "over", "channel_id": rows(&nitrogen), "typed": "320.0",
        "at_ms": ruhe.later(0) + 601_000, "client_ms": now_ms()}]});
    let test = nitrogen["id"].as_str().unwrap();
    assert_eq!(
        ruhe.post(&format!("/api/tests/{test}/readings"), &over)
            .status(),
        201
    );
    let v = ruhe.test(test)["verdict"].clone();
    assert!(
        v["evidence"][0]
            .as_str()
            .unwrap()
            .contains("Half B stands at 320 psig, above the 300 psig"),
        "{v}"
    );
}

#[test]
fn a_new_job_reads_both_figures_of_a_plate_and_begins_with_its_usual_sections() {
    let (_dir, ruhe) = ruhe();
    let job = |kind: &str, plates: Value| {
        json!({"site_name": "Saltmarsh School", "system_name": "Gym",
        "circuits": [{"tag": "A", "name": "Line set", "kind": kind, "refrigerant": "R-32", "plates": plates}]})
    };
    let both = json!([{"part": "indoor coil", "low": "250", "high": "450", "unit": "psig"},
        {"part": "outdoor unit", "high": "600", "only_one": true, "unit": "psig"}]);
    let (status, why) = ruhe.refused(
        "/api/jobs",
        &job(
            "repair",
            json!([{"part": "coil", "high": "450", "unit": "psig"}]),
        ),
    );
    assert!(
        status == 422 && why.contains("there is only one on the plate"),
        "{why}"
    );
    let made: Value = ruhe
        .post("/api/jobs", &job("new_split", both.clone()))
        .json()
        .unwrap();
    let id = made["circuit_ids"][0].as_str().unwrap().to_owned();
    let survey = ruhe.get(&format!("/api/circuits/{id}"))["survey"].clone();
    let names: Vec<(&str, bool)> = survey["sections"]
        .as_array()
        .unwrap()
        .iter()
        .map(|s| (s["name"].as_str().unwrap(), s["is_tested"] == true))
        .collect();
    assert_eq!(
        names,
        [("line set and indoor coil", true), ("outdoor unit", false)]
    );
    assert!(
        survey["sections"][0]["bounds"]
            .to_string()
            .contains("factory charge"),
        "{survey}"
    );
    // The low side binds what is under test.
    assert_eq!(
        survey["sections"][0]["ceiling_name"],
        "indoor coil, low side"
    );
    let (_, why) = ruhe.refused(&format!("/api/circuits/{id}/tests"), &hold_body(300.0));
    assert!(
        why.contains("indoor coil, low side is rated 250 psig"),
        "{why}"
    );
    let made: Value = ruhe.post("/api/jobs", &job("repair", both)).json().unwrap();
    let whole = ruhe.get(&format!(
        "/api/circuits/{}",
        made["circuit_ids"][0].as_str().unwrap()
    ))["survey"]["sections"]
        .clone();
    assert_eq!(
        (whole.as_array().unwrap().len(), whole[0]["name"].as_str()),
        (1, Some("whole circuit"))
    );
    // A plate somebody read only half of stands in the way of pressing up.
    let mut half = ruhe.get(&format!("/api/circuits/{id}"))["survey"]["survey"].clone();
    half["components"][0]["low"] = Value::Null;
    put_survey(&ruhe, &id, &half);
    assert!(
        ruhe.refused(&format!("/api/circuits/{id}/tests"), &hold_body(200.0))
            .1
            .contains("the plate of indoor coil has not been read in full")
    );
}

#[test]
fn every_rating_binds_and_a_running_hold_is_watched() {
    let (_dir, ruhe) = ruhe();
    let id = ruhe.job("bench_component");
    let tests = format!("/api/circuits/{id}/tests");
    let plan = |psig: f64, more: Value| {
        let mut b = hold_body(psig);
        b["plan"]
            .as_object_mut()
            .unwrap()
            .extend(more.as_object().unwrap().clone());
        b
    };
    for (field, psig, words) in [
        ("regulator_pa", 250.0, "the regulator is good for 250 psig"),
        (
            "fittings_pa",
            250.0,
            "the weakest fitting is good for 250 psig",
        ),
        (
            "relief_pa",
            320.0,
            "the relief valve is approached to 288 psig",
        ),
        (
            "switch_pa",
            250.0,
            "the pressure switch is good for 250 psig",
        ),
        ("sensor_pa", 250.0, "the sensor is good for 250 psig"),
    ] {
        let (status, why) = ruhe.refused(&tests, &plan(300.0, json!({field: psig * PSI})));
        assert!(
            status == 422 && why.contains(words) && why.contains("hard stop"),
            "{field}: {why}"
        );
    }
    // An absolute transducer has a range too: 250 psia ends at 235 psig, less the margin.
    let mut absolute = hold_body(300.0);
    absolute["channels"][0] = json!({"name": "P", "quantity": "absolute_pressure", "unit": "psia",
        "resolution": 0.1, "range": 250.0});
    assert!(
        ruhe.refused(&tests, &absolute)
            .1
            .contains("may be used to 224 psig")
    );
    // 440 of 450 psig is fine now and not when the sun has been on it: +40 °F adds 37 psi.
    let (_, why) = ruhe.refused(&tests, &plan(440.0, json!({"warming_k": 40.0 / 1.8})));
    assert!(
        why.contains("warmer by 40 °F it would stand at 477 psig") && why.contains("begin lower"),
        "{why}"
    );
    let made: Value = ruhe.post(&tests, &plan(440.0, json!({}))).json().unwrap();
    let test = made["id"].as_str().unwrap();
    let channel = ruhe.test(test)["channels"][0]["id"].clone();
    let start = now_ms() - 600_000;
    let log = |psig: &str, s: i64| {
        let one = json!({"readings": [{"id": psig, "channel_id": channel, "typed": psig,
            "at_ms": start + s * 1_000, "client_ms": now_ms()}]});
        assert_eq!(
            ruhe.post(&format!("/api/tests/{test}/readings"), &one)
                .status(),
            201
        );
        ruhe.test(test)["watch"].clone()
    };
    log("440.0", 0);
    ruhe.shut_supply(test, start);
    let watch = log("440.1", 30);
    assert!(
        watch["level"] == "within"
            && watch["words"]
                .as_str()
                .unwrap()
                .contains("warmer before 450 psig"),
        "{watch}"
    );
    assert_eq!(log("453.0", 60)["level"], "amber");
    let red = log("465.0", 90);
    assert!(
        red["level"] == "red" && red["words"].as_str().unwrap().contains("let it down now"),
        "{red}"
    );
    // Nobody is told to wait above a ceiling.
    assert_eq!(ruhe.test(test)["next"], red["words"]);
    // A strength test moves the ceiling that pressing up is told of.
    let strength = json!({"strength": {"code": "local code 4.2", "edition": "2021", "factor": 1.1,
        "reason": "inspector asked"}});
    let made: Value = ruhe.post(&tests, &plan(480.0, strength)).json().unwrap();
    let ceiling = ruhe.test(made["id"].as_str().unwrap())["plan"]["ceiling_pa"]
        .as_f64()
        .unwrap()
        / PSI;
    assert!((ceiling - 495.0).abs() < 0.5, "{ceiling}");
}

#[test]
fn pressing_up_waits_for_the_bottle_to_be_looked_at_and_going_on_above_the_plan_takes_a_reason() {
    let (_dir, ruhe) = ruhe();
    let id = ruhe.job("bench_component");
    let (test, p, _) = ruhe.hold(&id);
    let press = || ruhe.test(&test)["press"].clone();
    assert!(
        press()["confirm"]["title"]
            .as_str()
            .unwrap()
            .contains("NITROGEN")
            && press()["cautions"][0]
                .as_str()
                .unwrap()
                .contains("never oxygen"),
        "{}",
        press()
    );
    assert!(
        press()["cautions"].to_string().contains("kJ"),
        "the stored energy is said"
    );
    ruhe.step(&id, "gas_ready", "20 L bottle");
    assert_eq!(press()["confirm"], Value::Null);
    assert!(
        press()["words"]
            .as_str()
            .unwrap()
            .contains("Set the regulator’s outlet to 100 psig first")
    );
    let reading = json!({"readings": [{"id": "r", "channel_id": p, "typed": "318.0", "client_ms": now_ms()}]});
    ruhe.post(&format!("/api/tests/{test}/readings"), &reading);
    let shut = |note: &str| {
        ruhe.post(
            &format!("/api/tests/{test}/events"),
            &json!({"id": format!("s{}", note.len()), "kind": "supply_isolated", "note": note}),
        )
    };
    let refused: Value = shut("").json().unwrap();
    assert!(
        refused["field"] == "note"
            && refused["message"]
                .as_str()
                .unwrap()
                .contains("say why it goes on"),
        "{refused}"
    );
    assert_eq!(
        shut("the regulator crept; stays below every plate").status(),
        201
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
fn an_absolute_unit_is_no_plate_and_no_gauge_above_the_air() {
    let (_dir, ruhe) = ruhe();
    let id = ruhe.job("bench_component");
    let mut survey = ruhe.get(&format!("/api/circuits/{id}"))["survey"]["survey"].clone();
    survey["components"][0]["high"] = json!({"typed": "450", "unit": "psia"});
    let r = ruhe
        .client
        .put(format!("{}/api/circuits/{id}/survey", ruhe.url))
        .json(&json!({"survey": survey, "version": 1}))
        .send()
        .unwrap();
    let problem: Value = r.json().unwrap();
    assert!(
        problem["field"] == "components.0.high.unit"
            && problem["message"]
                .as_str()
                .unwrap()
                .contains("absolute unit"),
        "{problem}"
    );
    let (status, why) = ruhe.refused(
        "/api/kit",
        &json!({"kind": "pressure_gauge", "name": "G", "unit": "psia"}),
    );
    assert!(status == 422 && why.contains("absolute unit"), "{why}");
    // A transducer in psia is a gauge like any other: its hold holds, and at the pressure it stood at.
    let mut body = hold_body(300.0);
    body["channels"][0] = json!({"name": "P", "quantity": "absolute_pressure", "unit": "psia",
        "resolution": 0.1, "range": 500.0});
    ruhe.finished_hold(&id, &body, 314.7, 0.0);
    assert_eq!(
        ruhe.gate(&id, "hold_with_temperature")["met"],
        true,
        "{}",
        ruhe.gate(&id, "hold_with_temperature")
    );
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
