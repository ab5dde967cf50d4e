//! Plates and ratings through the API: everything that gas reaches binds.

use crate::safety::*;
use crate::support::{hold_body, now_ms};
use serde_json::{Value, json};

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
