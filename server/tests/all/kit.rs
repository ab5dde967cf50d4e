//! The kit through the API: registering, changing, refusing, rigs with their own checks, and what a test keeps of it.

use crate::support::{Ruhe, curve, vacuum_body};
use serde_json::{Value, json};

fn gauge() -> Value {
    json!({"kind": "vacuum_gauge", "name": "Far gauge", "unit": "micron", "principle": "thermal",
        "resolution": 1.0, "range": 25_000.0, "auto_off_min": 15.0, "calibration_due": "2027-08-31"})
}
fn pump() -> Value {
    json!({"kind": "pump", "name": "Pump", "flow": {"typed": "5", "unit": "cfm"}, "ultimate": {"typed": "20",
        "unit": "micron"}, "oil_changed": "2026-11-16"})
}
fn hose(name: &str, bore: f64) -> Value {
    json!({"kind": "hose", "name": name, "bore_mm": bore, "length_m": 1.5})
}

fn item(ruhe: &Ruhe, id: &str) -> Value {
    ruhe.get("/api/kit")["items"]
        .as_array()
        .unwrap()
        .iter()
        .find(|i| i["id"] == id)
        .unwrap()
        .clone()
}

/// A rig of a pump and one hose: ids of rig, pump and hose.
fn rig(ruhe: &Ruhe, bore: f64) -> (String, String, String) {
    let (p, h) = (
        ruhe.register_kit(&pump()),
        ruhe.register_kit(&hose("Hose", bore)),
    );
    (
        ruhe.register_kit(&json!({"kind": "rig", "name": "Roof set", "parts": [p, h]})),
        p,
        h,
    )
}

#[test]
fn a_thing_is_registered_once_and_changed_by_versions() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let id = ruhe.register_kit(&gauge());
    assert_eq!(
        item(&ruhe, &id)["words"],
        "to 25000 micron, step 1 micron, off after 15 min, heat-loss, calibrated until 2027-08-31"
    );
    let (status, why) = ruhe.refused("/api/kit", &gauge());
    assert!(status == 422 && why.contains("already"), "{why}");
    let mut late = gauge();
    late["calibration_due"] = json!("2026-01-31");
    let put = |id: &str, doc: &Value| {
        ruhe.client
            .put(format!("{}/api/kit/{id}", ruhe.url))
            .json(doc)
            .send()
            .unwrap()
    };
    assert_eq!(put(&id, &late).status(), 201);
    assert_eq!(item(&ruhe, &id)["warning"], "Its calibration has run out.");
    assert_eq!(put("nobody", &late).status(), 404);
    let refused: Value = put(&id, &pump()).json().unwrap();
    assert_eq!(refused["field"], "kind");
    // Two versions, one thing; it outlives a restart.
    drop(ruhe);
    let ruhe = Ruhe::start(dir.path());
    assert_eq!(ruhe.get("/api/kit")["items"].as_array().unwrap().len(), 1);
}

#[test]
fn what_cannot_be_used_is_refused_by_its_field() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let h = ruhe.register_kit(&hose("Hose", 9.5));
    let g = ruhe.register_kit(&gauge());
    for (doc, field, words) in [
        (
            json!({"kind": "ladder", "name": "x"}),
            "kind",
            "is not one of",
        ),
        (json!({"kind": "hose", "name": " "}), "name", "needs a name"),
        (
            json!({"kind": "hose", "name": "x", "length_m": 1.0}),
            "bore_mm",
            "decides how fast it pumps",
        ),
        (
            json!({"kind": "hose", "name": "x", "bore_mm": -2.0, "length_m": 1.0}),
            "bore_mm",
            "above zero",
        ),
        (
            json!({"kind": "pump", "name": "x"}),
            "flow",
            "needs its flow",
        ),
        (
            json!({"kind": "pump", "name": "x", "flow": {"typed": "fast", "unit": "cfm"}}),
            "flow",
            "fast",
        ),
        (
            json!({"kind": "pump", "name": "x", "flow": {"typed": "5", "unit": "gal"}}),
            "flow",
            "cfm",
        ),
        (
            json!({"kind": "pump", "name": "x", "flow": {"typed": "5", "unit": "cfm"}, "oil_changed": "yesterday"}),
            "oil_changed",
            "2027-03-31",
        ),
        (
            json!({"kind": "vacuum_gauge", "name": "x", "unit": "furlong"}),
            "unit",
            "“furlong” is not one of psi",
        ),
        (
            json!({"kind": "vacuum_gauge", "name": "x", "unit": "micron", "principle": "magic"}),
            "principle",
            "magic",
        ),
        (
            json!({"kind": "rig", "name": "x", "parts": []}),
            "parts",
            "at least a pump or a hose",
        ),
        (
            json!({"kind": "rig", "name": "x", "parts": [h, g]}),
            "parts",
            "pumps, hoses and core tools",
        ),
    ] {
        let r = ruhe.post("/api/kit", &doc);
        assert_eq!(r.status(), 422, "{doc}");
        let said: Value = r.json().unwrap();
        assert!(
            said["field"] == field && said["message"].as_str().unwrap().contains(words),
            "{doc}: {said}"
        );
    }
    assert_eq!(ruhe.get("/api/kit")["items"].as_array().unwrap().len(), 2);
}

#[test]
fn a_rig_is_tested_apart_from_every_system_and_warns_until_it_is_good() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let (rig, _, _) = rig(&ruhe, 9.5);
    assert_eq!(
        ruhe.get("/api/today").as_array().unwrap().len(),
        0,
        "a rig is no job"
    );
    assert!(
        ruhe.get("/api/meta")["job_kinds"]
            .as_array()
            .unwrap()
            .iter()
            .all(|k| k["code"] != "kit")
    );
    assert!(
        ruhe.get("/api/meta")["sites"]
            .as_array()
            .unwrap()
            .is_empty(),
        "the kit is no site"
    );
    let check = |part: &str| vacuum_body("rig-check", json!({"part": part, "evacuated_s": 120.0}));
    let bad = ruhe.vacuum(
        &rig,
        &check("hoses"),
        &curve(8, |t| 75.0 + 110.0 * ((120.0 + t).sqrt() - 120f64.sqrt())),
        &[],
        true,
    );
    let v = ruhe.test(&bad)["verdict"].clone();
    assert_eq!(
        (v["outcome"].as_str(), v["word"].as_str()),
        (Some("gives_gas"), Some("Gives off gas"))
    );
    assert!(
        v["rig"]["low_pa_s"].as_f64().unwrap() > 0.0
            && !v["rig"]["explanations"].as_array().unwrap().is_empty()
    );
    assert!(
        item(&ruhe, &rig)["warning"]
            .as_str()
            .unwrap()
            .contains("Do not judge a system through it")
    );
    // The volume of 1.5 m of 9.5 mm is known from the kit, so the gas can be said for a system.
    assert!(
        v["evidence"]
            .to_string()
            .contains("In a system of 5 L it would add"),
        "{v}"
    );
    let good = ruhe.vacuum(
        &rig,
        &check("hoses"),
        &curve(10, |t| 60.0 + 60.0 * (1.0 - (-t / 60.0).exp())),
        &[],
        true,
    );
    assert_eq!(ruhe.test(&good)["verdict"]["outcome"], "good");
    assert_eq!(item(&ruhe, &rig)["warning"], Value::Null);
    assert_eq!(item(&ruhe, &rig)["tests"].as_array().unwrap().len(), 2);
    let pump = ruhe.vacuum(
        &rig,
        &check("pump"),
        &curve(6, |t| 40.0 + 9_000.0 * (-t / 30.0).exp()),
        &[],
        true,
    );
    assert_eq!(
        ruhe.test(&pump)["verdict"]["reasons"][0],
        "blank_off_reached"
    );
    // A system's test that uses the rig keeps what its last check was worth.
    let circuit = ruhe.job("package_circuit");
    let id = ruhe.vacuum(
        &circuit,
        &vacuum_body("pull-down", json!({"rig": {"rig_id": rig}})),
        &[],
        &[],
        false,
    );
    let used = ruhe.test(&id)["used"][0].clone();
    assert!(
        used["words"]
            .as_str()
            .unwrap()
            .starts_with("Pump, Hose; Rig check 3: good, 40 micron blanked off"),
        "{used}"
    );
}

#[test]
fn a_test_keeps_what_it_used_as_it_was_then() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let (rig, pump, hose_id) = rig(&ruhe, 9.5);
    let g = ruhe.register_kit(&gauge());
    let circuit = ruhe.job("package_circuit");
    let plan = json!({"kit": [g], "rig": {"rig_id": rig, "core_in": true}, "volume_l": 8.0,
        "targets_pa": [66.66]});
    let id = ruhe.vacuum(&circuit, &vacuum_body("pull-down", plan), &[], &[], false);
    let test = ruhe.test(&id);
    let used: Vec<&str> = test["used"]
        .as_array()
        .unwrap()
        .iter()
        .map(|u| u["name"].as_str().unwrap())
        .collect();
    assert_eq!(used, ["Far gauge", "Roof set", "Pump", "Hose"]);
    // The rig's conductances say when it should arrive, before anything was read, and that the core costs most.
    let said = test["verdict"]["summary"].as_str().unwrap();
    assert!(
        said.contains("By its conductances the rig should be at 500 micron in about"),
        "{said}"
    );
    let speed = test["plan"]["assembled"]["pump"]["speed"].as_f64().unwrap();
    assert!(
        (speed - 5.0 * 0.028_316_846_592 / 60.0).abs() < 1e-9,
        "{speed}"
    );
    assert_eq!(
        test["plan"]["assembled"]["line"][1]["name"],
        "the valve core"
    );
    // The hose is swapped in the kit; the test does not change.
    assert_eq!(
        ruhe.client
            .put(format!("{}/api/kit/{hose_id}", ruhe.url))
            .json(&hose("Hose", 4.8))
            .send()
            .unwrap()
            .status(),
        201
    );
    assert!(
        (ruhe.test(&id)["plan"]["assembled"]["line"][0]["tube"]["bore"]
            .as_f64()
            .unwrap()
            - 0.0095)
            .abs()
            < 1e-12
    );
    assert!(
        item(&ruhe, &pump)["words"]
            .as_str()
            .unwrap()
            .contains("oil 2026-11-16")
    );
    let (status, why) = ruhe.refused(
        &format!("/api/circuits/{circuit}/tests"),
        &vacuum_body("pull-down", json!({"kit": ["nobody"]})),
    );
    assert!(status == 422 && why.contains("no such thing"), "{why}");
}

#[test]
fn hoses_that_stay_in_are_taken_off_by_their_own_check() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let (rig, _, _) = rig(&ruhe, 12.7);
    ruhe.vacuum(
        &rig,
        &vacuum_body("rig-check", json!({"part": "hoses", "evacuated_s": 3600.0})),
        &curve(10, |t| 60.0 + 0.9 * t),
        &[],
        true,
    );
    let circuit = ruhe.job("package_circuit");
    let plan = |hoses_in: bool| {
        json!({"level_pa": 66.66, "at_s": 600.0, "volume_l": 5.0, "evacuated_s": 3600.0,
        "hoses_in": hoses_in, "rig": {"rig_id": rig}})
    };
    let level = |t: f64| 250.0 + 0.9 * 0.19 / 5.19 * t;
    let id = ruhe.vacuum(
        &circuit,
        &vacuum_body("vacuum-decay", plan(true)),
        &curve(14, level),
        &[("isolated", 0.0)],
        true,
    );
    let test = ruhe.test(&id);
    assert!((test["plan"]["rig_share"]["volume_l"].as_f64().unwrap() - 0.19).abs() < 0.001);
    assert!(
        test["verdict"]["evidence"]
            .to_string()
            .contains("Rig check 1 tells that they add about"),
        "{}",
        test["verdict"]["evidence"]
    );
    let alone = ruhe.vacuum(
        &circuit,
        &vacuum_body("vacuum-decay", plan(false)),
        &curve(14, level),
        &[("isolated", 0.0)],
        true,
    );
    let leak = |id: &str| {
        ruhe.test(id)["verdict"]["decay"]["leak_rate"]["value"]
            .as_f64()
            .unwrap()
    };
    assert!(leak(&id) <= leak(&alone), "{} {}", leak(&id), leak(&alone));
}

#[test]
fn a_certificate_lies_with_its_thing_as_a_photo() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let send = |bytes: Vec<u8>| {
        let r = ruhe.client.post(format!("{}/api/kit/photos", ruhe.url));
        r.body(bytes).send().unwrap()
    };
    let png = include_bytes!("support/two.png").to_vec();
    let made: Value = send(png.clone()).json().unwrap();
    assert_eq!(send(b"%PDF-1.7 no picture".to_vec()).status(), 422);
    let mut doc = gauge();
    doc["certificate"] = json!("K 1187");
    doc["certificate_photo"] = made["id"].clone();
    let id = ruhe.register_kit(&doc);
    let kept = item(&ruhe, &id);
    assert_eq!(kept["doc"]["certificate_photo"], made["id"]);
    let photo = made["id"].as_str().unwrap();
    let back = ruhe.client.get(format!("{}/api/photos/{photo}", ruhe.url));
    assert_eq!(back.send().unwrap().bytes().unwrap().to_vec(), png);
    doc["name"] = json!("Near gauge");
    doc["certificate_photo"] = json!("another");
    let (status, why) = ruhe.refused("/api/kit", &doc);
    assert!(status == 422 && why.contains("no such photo"), "{why}");
}
