//! `ruhe analyse` from a shell, and the promise that a downloaded test is judged the same.

use crate::support::{Ruhe, command, now_ms};
use serde_json::{Value, json};
use std::path::{Path, PathBuf};

fn case(name: &str) -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR"))
        .parent()
        .unwrap()
        .join("core/tests/cases")
        .join(name)
}

fn analyse(path: &Path) -> Value {
    let out = command(&["analyse", path.to_str().unwrap(), "--json"]);
    assert_eq!(
        out.status.code(),
        Some(0),
        "{}",
        String::from_utf8_lossy(&out.stderr)
    );
    serde_json::from_slice(&out.stdout).unwrap()
}

#[test]
fn the_command_is_no_bolder_than_what_was_read() {
    let outcome = |name: &str| analyse(&case(name))["outcome"].as_str().unwrap().to_owned();
    assert_eq!(outcome("one-temperature-reading"), "undecided");
    assert_eq!(outcome("probe-dies-half-way"), "undecided");
    assert_eq!(outcome("second-gauge-stops"), "falls");
    assert_eq!(outcome("loses-everything"), "falls");
    let coarse = analyse(&case("steady-357-five-psi-steps"));
    assert!(
        coarse["evidence"]
            .to_string()
            .contains("this gauge cannot show it"),
        "{coarse:#}"
    );
}

#[test]
fn the_json_keeps_its_contract() {
    let hold = analyse(&case("tight-hold-30-min"));
    for field in [
        "kind",
        "outcome",
        "reasons",
        "summary",
        "evidence",
        "next_step",
        "engine_version",
        "loss",
        "loss_detected",
        "ideal_loss",
        "settled_at_s",
        "limit_rate",
        "proves",
    ] {
        assert!(!hold[field].is_null(), "{field} is missing: {hold:#}");
    }
    assert_eq!(
        (
            hold["outcome"].as_str(),
            hold["loss"]["unit"].as_str(),
            hold["loss"]["confidence"].as_f64()
        ),
        (Some("holds"), Some("psi/h"), Some(0.95))
    );
    assert!(
        hold["loss"]["low"].as_f64() < hold["loss"]["value"].as_f64()
            && hold["loss"]["value"].as_f64() < hold["loss"]["high"].as_f64()
    );
    let decay = analyse(&case("straight-leak"));
    assert_eq!(decay["outcome"], "passes");
    assert_eq!(decay["leak_rate"]["unit"], "micron/min");
    let rate = decay["leak_rate"]["value"].as_f64().unwrap();
    assert!(
        (15.0..25.0).contains(&rate),
        "22 micron a minute went in: {rate}"
    );
    let total: f64 = decay["explanations"]
        .as_array()
        .unwrap()
        .iter()
        .map(|e| e["probability"].as_f64().unwrap())
        .sum();
    assert!((total - 1.0).abs() < 1e-6);
    assert!(decay["explanations"][0].get("curve").is_none());
    let nothing = analyse(&case("refrigerant-275"));
    assert_eq!(
        (nothing["outcome"].as_str(), nothing["loss"].is_null()),
        (Some("not_applicable"), true)
    );
    let outside = analyse(&case("leak-by-136"));
    assert_eq!(outside["outcome"], "leak_by");
}

#[test]
fn exit_codes_tell_a_bad_package_from_a_bad_command() {
    let dir = tempfile::tempdir().unwrap();
    let path = dir.path().to_str().unwrap();
    let out = command(&["analyse", path]);
    assert_eq!(out.status.code(), Some(1));
    assert!(String::from_utf8_lossy(&out.stderr).contains("datapackage.json: is missing"));
    std::fs::write(
        dir.path().join("datapackage.json"),
        r#"{"ruhe":{"kind":"pressure-hold"}}"#,
    )
    .unwrap();
    std::fs::write(
        dir.path().join("channels.csv"),
        "channel,quantity,unit\nP,gauge_pressure,psig\n",
    )
    .unwrap();
    std::fs::write(
        dir.path().join("readings.csv"),
        "elapsed_s,channel,value\n0,P,300\n1,P,x\n",
    )
    .unwrap();
    let out = command(&["analyse", path, "--json"]);
    assert_eq!(out.status.code(), Some(1));
    assert!(
        String::from_utf8_lossy(&out.stderr)
            .contains("readings.csv, line 3, column value: “x” is not a number")
    );
    assert_eq!(command(&["analyse"]).status.code(), Some(2));
    assert_eq!(command(&["analyze", path]).status.code(), Some(2));
    // Degenerate but readable: an outcome, never a panic.
    for rows in ["0,P,300\n", "", "0,P,300\n1,P,300\n", "0,P,0\n600,P,0\n"] {
        std::fs::write(
            dir.path().join("readings.csv"),
            format!("elapsed_s,channel,value\n{rows}"),
        )
        .unwrap();
        let v = analyse(dir.path());
        assert!(
            ["undecided", "not_applicable"].contains(&v["outcome"].as_str().unwrap()),
            "{rows:?}: {v}"
        );
    }
}

#[test]
fn a_hold_typed_through_the_api_downloads_to_the_same_verdict() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(&dir.path().join("data"));
    let circuit = ruhe.job("bench_component");
    let (test, p, t) = ruhe.hold(&circuit);
    let start = now_ms() - 3_600_000;
    let rows: Vec<Value> = (0..60)
        .flat_map(|k| {
            let at = start + k * 60_000;
            let wobble = f64::from((k * 7 % 5) as i32) * 0.02;
            [
                (&p, format!("{:.1}", 300.0 - 0.05 * k as f64 + wobble)),
                (&t, "70.0".to_owned()),
            ]
            .map(|(c, typed)| {
                json!({"id": format!("{k}{c}"), "channel_id": c, "typed": typed, "at_ms": at,
                    "client_ms": now_ms()})
            })
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
    ruhe.post(
        &format!("/api/tests/{test}/events"),
        &json!({"id": "e", "kind": "supply_isolated", "at_ms": start}),
    );
    assert_eq!(
        ruhe.post(&format!("/api/tests/{test}/end"), &json!({}))
            .status(),
        201
    );
    let here = ruhe.get(&format!("/api/tests/{test}"));
    let zip = ruhe
        .client
        .get(format!("{}/api/tests/{test}/package", ruhe.url))
        .send()
        .unwrap()
        .bytes()
        .unwrap();
    let file = dir.path().join("hold.zip");
    std::fs::write(&file, &zip).unwrap();
    let there = analyse(&file);
    assert_eq!(there["outcome"], here["verdict"]["outcome"], "{there:#}");
    assert_eq!(there["loss"], here["verdict"]["hold"]["loss"]);
    assert_eq!(there["outcome"], "falls");
    // Struck out, it comes back in as a test of its own, judged the same again.
    let strike = format!("/api/circuits/{circuit}/entries/{test}/strike");
    let r = ruhe.post(&strike, &json!({"reason": "taken from the file"}));
    assert_eq!(r.status(), 201, "{}", r.text().unwrap());
    let made: Value = ruhe
        .client
        .post(format!(
            "{}/api/circuits/{circuit}/packages?file=hold.zip",
            ruhe.url
        ))
        .body(zip)
        .send()
        .unwrap()
        .json()
        .unwrap();
    let again = ruhe.get(&format!("/api/tests/{}", made["id"].as_str().unwrap()));
    assert_eq!(
        again["verdict"]["hold"]["loss"],
        here["verdict"]["hold"]["loss"]
    );
}
