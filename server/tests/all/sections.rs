//! Several sections of one circuit, each with its attempts; a hold outlives the server; a download is judged the same.

use crate::support::{Ruhe, command, hold_body, now_ms};
use serde_json::{Value, json};

fn two_sections(ruhe: &Ruhe, id: &str) {
    let survey = json!({
        "sections": [{"name": "liquid side", "is_tested": true}, {"name": "vapour side", "is_tested": true}],
        "components": [
            {"name": "receiver", "place": "outdoor", "section": "liquid side", "high": {"typed": "450",
                "unit": "psig"}, "only_one": true, "volume_l": 2.0},
            {"name": "coil", "place": "indoor", "section": "vapour side", "high": {"typed": "300",
                "unit": "psig"}, "only_one": true, "volume_l": 1.0}],
        "valves": [
            {"name": "solenoid", "section": "liquid side", "is_shut": true, "behind": "section",
                "other": "vapour side"},
            {"name": "suction stop", "section": "vapour side", "is_shut": true, "behind": "factory_charge"}]
    });
    let r = ruhe
        .client
        .put(format!("{}/api/circuits/{id}/survey", ruhe.url))
        .json(&json!({"survey": survey, "version": 1}))
        .send()
        .unwrap();
    assert_eq!(r.status(), 200);
}

fn on(section: &str, psig: f64) -> Value {
    let mut b = hold_body(psig);
    b["plan"]["section"] = json!(section);
    b
}

#[test]
fn each_section_has_its_ceiling_its_attempts_and_must_hold() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let id = ruhe.job("bench_component");
    two_sections(&ruhe, &id);
    let gate = || {
        ruhe.get(&format!("/api/circuits/{id}"))["gates"]
            .as_array()
            .unwrap()
            .iter()
            .find(|g| g["code"] == "hold_with_temperature")
            .unwrap()
            .clone()
    };
    // 400 psig suits the receiver and not the coil.
    assert!(
        ruhe.refused(
            &format!("/api/circuits/{id}/tests"),
            &on("vapour side", 400.0)
        )
        .1
        .contains("coil is rated 300 psig")
    );
    ruhe.finished_hold(&id, &on("liquid side", 400.0), 400.0, 0.0);
    assert!(
        gate()["met"] == false
            && gate()["evidence"]
                .as_str()
                .unwrap()
                .contains("No hold of vapour side"),
        "{}",
        gate()
    );
    ruhe.finished_hold(&id, &on("vapour side", 250.0), 250.0, 0.2);
    assert!(
        gate()["evidence"]
            .as_str()
            .unwrap()
            .contains("Hold 2, vapour side fell"),
        "{}",
        gate()
    );
    ruhe.looked_at(&id, "vapour side", "238");
    ruhe.finished_hold(&id, &on("vapour side", 250.0), 250.0, 0.0);
    assert_eq!(gate()["met"], true, "{}", gate());
    let c = ruhe.get(&format!("/api/circuits/{id}"));
    let titles: Vec<&str> = c["stages"][1]["tests"]
        .as_array()
        .unwrap()
        .iter()
        .map(|t| t["title"].as_str().unwrap())
        .collect();
    assert_eq!(
        titles,
        [
            "Hold 1, liquid side",
            "Hold 2, vapour side",
            "Hold 3, vapour side"
        ]
    );
}

#[test]
fn the_survey_as_it_was_when_the_test_was_planned_is_what_counts() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let id = ruhe.job("bench_component");
    two_sections(&ruhe, &id);
    let test = ruhe.finished_hold(&id, &on("vapour side", 250.0), 250.0, 0.2);
    let view = || ruhe.get(&format!("/api/tests/{test}"));
    let before = view();
    assert_eq!(
        (
            before["plan"]["volume_low_l"].as_f64(),
            before["plan"]["behind"].as_str()
        ),
        (Some(1.0), Some("factory_charge"))
    );
    assert!(
        before["verdict"]["evidence"]
            .to_string()
            .contains("factory charge at about"),
        "{}",
        before["verdict"]["evidence"]
    );
    // Measured afterwards: the finished test keeps what it was judged with, the next one takes the new figure.
    let mut survey = ruhe.get(&format!("/api/circuits/{id}"))["survey"]["survey"].clone();
    survey["sections"][1]["volume_l"] = json!(7.5);
    ruhe.client
        .put(format!("{}/api/circuits/{id}/survey", ruhe.url))
        .json(&json!({"survey": survey, "version": 2}))
        .send()
        .unwrap();
    assert_eq!(view()["verdict"], before["verdict"]);
    ruhe.looked_at(&id, "vapour side", "238");
    let next = ruhe.finished_hold(&id, &on("vapour side", 250.0), 250.0, 0.0);
    assert_eq!(
        ruhe.get(&format!("/api/tests/{next}"))["plan"]["volume_high_l"],
        7.5
    );
}

#[test]
fn a_running_hold_outlives_the_server_and_its_clock_does_not_start_again() {
    let dir = tempfile::tempdir().unwrap();
    let started = now_ms() - 2_400_000;
    let (test, before) = {
        let ruhe = Ruhe::start(dir.path());
        let (test, p, t) = ruhe.hold(&ruhe.job("bench_component"));
        let rows: Vec<Value> = (0..80)
            .flat_map(|k| {
                let psig = 300.0 + 0.02 * f64::from(k * 7 % 5);
                [(&p, format!("{psig:.1}")), (&t, "70.0".to_owned())].map(|(c, typed)| {
                    json!({"id": format!("{k}{c}"), "channel_id": c, "typed": typed,
                        "at_ms": started + i64::from(k) * 30_000, "client_ms": now_ms()})
                })
            })
            .collect();
        ruhe.post(
            &format!("/api/tests/{test}/readings"),
            &json!({"readings": rows}),
        );
        ruhe.shut_supply(&test, started);
        let view = ruhe.get(&format!("/api/tests/{test}"));
        (test, view)
    };
    let ruhe = Ruhe::start(dir.path());
    let after = ruhe.get(&format!("/api/tests/{test}"));
    assert_eq!(after["verdict"], before["verdict"]);
    assert_eq!(
        (after["due_ms"].as_i64(), after["start_ms"].as_i64()),
        (before["due_ms"].as_i64(), Some(started))
    );
    assert!(after["due_ms"].as_i64().unwrap() >= started + 1_800_000);
    // Two devices watching see the same reading, whoever logged it.
    let channel = after["channels"][0]["id"].clone();
    let one = json!({"readings": [{"id": "device-a", "channel_id": channel, "typed": "300.1", "client_ms": now_ms()}]});
    assert_eq!(
        ruhe.post(&format!("/api/tests/{test}/readings"), &one)
            .status(),
        201
    );
    assert_eq!(
        ruhe.post(&format!("/api/tests/{test}/readings"), &one)
            .json::<Value>()
            .unwrap()["known"],
        1
    );
    assert_eq!(
        ruhe.get(&format!("/api/tests/{test}"))["channels"][0]["last"],
        "300.1"
    );
}

#[test]
fn a_test_with_everything_in_it_is_judged_the_same_from_its_package() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let id = ruhe.job("bench_component");
    two_sections(&ruhe, &id);
    let mut body = on("vapour side", 250.0);
    body["plan"]["tracer_pa"] = json!(150_000.0);
    body["plan"]["altitude_m"] = json!(540.0);
    body["channels"][0]["calibration_due"] = json!("2021-03-31");
    body["channels"].as_array_mut().unwrap().push(
        json!({"name": "Coil probe", "quantity": "temperature", "unit": "degC", "resolution": 0.1,
            "position": "indoor", "volume_share": 0.4}),
    );
    let test = ruhe.finished_hold(&id, &body, 250.0, 0.0);
    let here = ruhe.get(&format!("/api/tests/{test}"))["verdict"].clone();
    let zip = ruhe
        .client
        .get(format!("{}/api/tests/{test}/package", ruhe.url))
        .send()
        .unwrap()
        .bytes()
        .unwrap();
    let file = dir.path().join("test.zip");
    std::fs::write(&file, &zip).unwrap();
    let out = command(&["analyse", file.to_str().unwrap(), "--json"]);
    let there: Value = serde_json::from_slice(&out.stdout).unwrap();
    assert_eq!(
        (there["outcome"].clone(), there["reasons"].clone()),
        (here["outcome"].clone(), here["reasons"].clone())
    );
    assert!(
        here["reasons"]
            .as_array()
            .unwrap()
            .contains(&json!("calibration_overdue")),
        "{}",
        here["reasons"]
    );
    for bound in ["value", "low", "high"] {
        let (a, b) = (
            there["loss"][bound].as_f64().unwrap(),
            here["hold"]["loss"][bound].as_f64().unwrap(),
        );
        assert!((a - b).abs() < 1e-9 + 1e-6 * b.abs(), "{bound}: {a} {b}");
    }
    // It was made once, on one circuit: another does not take it. Another house does, and it says the same once more.
    let takes = |ruhe: &Ruhe| {
        let other = ruhe.job("bench_component");
        let url = format!("{}/api/circuits/{other}/packages?file=test.zip", ruhe.url);
        ruhe.client.post(url).body(zip.clone()).send().unwrap()
    };
    let told = takes(&ruhe).text().unwrap();
    assert!(
        told.contains("taken already, as Hold 1, vapour side of"),
        "{told}"
    );
    let house = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(house.path());
    let made: Value = takes(&ruhe).json().unwrap();
    let again = ruhe.get(&format!("/api/tests/{}", made["id"].as_str().unwrap()));
    assert_eq!(
        (
            again["verdict"]["outcome"].clone(),
            again["verdict"]["hold"]["loss"].clone()
        ),
        (here["outcome"].clone(), here["hold"]["loss"].clone())
    );
}

#[test]
fn two_halves_through_the_api() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let id = ruhe.job("repair");
    ruhe.made_ready(&id, "leak-by");
    let gauge = |name: &str, position: &str| {
        json!({"name": name, "quantity": "gauge_pressure", "unit": "psig",
        "resolution": 0.1, "position": position})
    };
    let body = |plan: Value| {
        json!({"kind": "leak-by", "plan": plan, "channels": [gauge("A", "half_a"),
        gauge("B", "half_b"), {"name": "T", "quantity": "temperature", "unit": "degF"}]})
    };
    let (status, why) = ruhe.refused(
        &format!("/api/circuits/{id}/tests"),
        &body(json!({"test_pa": 9.4e5, "behind": "jelly"})),
    );
    assert!(
        status == 422 && why.contains("is not one of section"),
        "{why}"
    );
    let made: Value = ruhe
        .post(
            &format!("/api/circuits/{id}/tests"),
            &body(json!({"test_pa": 9.4e5, "volume_ratio": 1.0})),
        )
        .json()
        .unwrap();
    let test = made["id"].as_str().unwrap();
    let channels = ruhe.get(&format!("/api/tests/{test}"))["channels"].clone();
    let start = now_ms() - 900_000;
    let rows: Vec<Value> = (0..7)
        .flat_map(|k| {
            let at = start + k * 120_000;
            let values = [
                format!("{:.1}", 136.0 - 1.7 * k as f64),
                format!("{:.1}", 1.7 * k as f64),
                "70.0".into(),
            ];
            values
                .into_iter()
                .enumerate()
                .map(|(c, typed)| {
                    json!({"id": format!("{k}-{c}"), "channel_id": channels[c]["id"],
                    "typed": typed, "at_ms": at, "client_ms": now_ms()})
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
    let v = ruhe.get(&format!("/api/tests/{test}"))["verdict"].clone();
    assert_eq!(
        (v["outcome"].as_str(), v["word"].as_str()),
        (Some("leak_by"), Some("Lets by"))
    );
    assert!(
        v["leak_by"]["outside"]["low"].as_f64().unwrap() < 0.0
            && v["trace"].as_array().unwrap().len() == 7,
        "{v}"
    );
}
