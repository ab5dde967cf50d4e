//! The bench's calculators, against figures worked elsewhere.

use crate::support::Ruhe;
use serde_json::{Value, json};

const PSI: f64 = 6_894.757_293;
const AIR: f64 = 101_325.0;

fn ask(ruhe: &Ruhe, path: &str, body: &Value) -> Value {
    let r = ruhe.post(&format!("/api/bench/{path}"), body);
    assert_eq!(r.status(), 200, "{path}");
    r.json().unwrap()
}

#[test]
fn the_corrected_pressure_is_the_reference_equations() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    // Span et al. 2000, CoolProp 8.0.0 (reference/isochores.csv): 500 psig from 70 to 80 °F rises 10.540 psi, ideal
    // 9.717.
    let body = |end: f64| {
        json!({"start_pa": 500.0 * PSI, "end_pa": end * PSI, "start_k": 294.261_111,
        "end_k": 299.816_667, "air_pa": AIR})
    };
    // That is a rigid vessel's; copper grows by 5e-5 of its volume a kelvin, which takes 514.7·5e-5·5.56 = 0.143 psi.
    let v = ask(&ruhe, "corrected", &body(510.540 - 0.143));
    assert!((v["lost_pa"].as_f64().unwrap() / PSI).abs() < 0.003, "{v}");
    assert!(
        (v["by_temperature_pa"].as_f64().unwrap() / PSI - 10.397).abs() < 0.003,
        "{v}"
    );
    // Worked by hand: 514.696 − (510.397 + 14.696)·529.67/539.67 = −0.667.
    assert!(
        (v["lost_ideal_pa"].as_f64().unwrap() / PSI + 0.667).abs() < 0.003,
        "{v}"
    );
    let (status, why) = ruhe.refused(
        "/api/bench/corrected",
        &json!({"start_pa": 1e6, "end_pa": 1e6, "start_k": 20.0, "end_k": 293.0, "air_pa": AIR}),
    );
    assert!(status == 422 && why.contains("−45 and 85"), "{why}");
}

#[test]
fn how_long_is_enough_names_what_helps() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let mut body = json!({"test_pa": 500.0 * PSI, "air_pa": AIR, "k": 294.0, "digit_pa": 0.1 * PSI,
        "range_pa": 800.0 * PSI, "probes": 1, "every_s": 60.0,
        "has_barometer": false, "sky": "day", "sky_k": 6.0, "hour": 10.0, "volume_low_l": 4.0,
            "volume_high_l": 6.0, "refrigerant": "R-410A", "rate": 1.5 * PSI / 3600.0});
    let v = ask(&ruhe, "enough", &body);
    let names: Vec<&str> = v["variants"]
        .as_array()
        .unwrap()
        .iter()
        .map(|x| x["name"].as_str().unwrap())
        .collect();
    assert_eq!(
        names,
        [
            "as planned",
            "with a second probe",
            "begun at dusk",
            "with a barometer"
        ]
    );
    let rate = |variant: usize, hours: f64| {
        v["variants"][variant]["reaches"]
            .as_array()
            .unwrap()
            .iter()
            .find(|r| r["after_s"] == hours * 3600.0)
            .unwrap()["rate"]
            .as_f64()
            .unwrap()
    };
    // A morning warms quickly under a changing sun, an evening cools slowly; a day ends as warm as it began.
    assert!(rate(2, 0.5) < rate(0, 0.5), "dusk");
    assert!(rate(1, 2.0) < rate(0, 2.0), "a second probe");
    assert!(rate(0, 24.0) < 0.2 * rate(0, 4.0), "a whole day");
    // A probe that is strapped on is told sooner than one nobody spoke of.
    body["probe"] = json!("strapped");
    let strapped = ask(&ruhe, "enough", &body);
    body["probe"] = json!(null);
    let first = |v: &Value| v["variants"][0]["reaches"][4]["rate"].as_f64().unwrap();
    assert!(first(&strapped) < first(&v), "strapped");
    body["grams"] = json!(500.0);
    let by_grams = ask(&ruhe, "enough", &body)["variants"][0].clone();
    let enough = by_grams["needed_s"].as_f64().unwrap();
    let there = by_grams["reaches"]
        .as_array()
        .unwrap()
        .iter()
        .find(|r| r["after_s"] == enough)
        .unwrap();
    assert!(there["high_g_per_year"].as_f64().unwrap() <= 500.0);
    body["sky"] = json!("snow");
    assert_eq!(ruhe.refused("/api/bench/enough", &body).0, 422);
}

#[test]
fn the_bottle_and_the_retest() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let fill = |bar: f64| {
        json!({"bottle_l": 10.0, "bottle_pa": bar * 1e5, "k": 293.15, "system_l": 20.0,
        "from_pa": 0.0, "to_pa": 34e5, "keeps_pa": 3e5, "air_pa": AIR})
    };
    let short = ask(&ruhe, "nitrogen", &fill(99.0));
    assert!(
        short["reaches"] == false && short["reached_pa"].as_f64().unwrap() < 33e5,
        "{short}"
    );
    let plenty = ask(&ruhe, "nitrogen", &fill(199.0));
    assert!(
        plenty["reaches"] == true && plenty["fills"].as_i64().unwrap() >= 2,
        "{plenty}"
    );
    // The volume comes back from what the bottle lost.
    let v = ask(
        &ruhe,
        "volume",
        &json!({"bottle_l": 10.0, "bottle_before_pa": 199e5, "bottle_after_pa": plenty["left_pa"],
            "bottle_digit_pa": 1e5,
        "system_before_pa": 0.0, "system_after_pa": 34e5, "system_digit_pa": 700.0, "k": 293.15, "air_pa": AIR}),
    );
    assert!(
        (v["volume_l"].as_f64().unwrap() - 20.0).abs() < 0.01
            && v["low_l"].as_f64().unwrap() < 20.0,
        "{v}"
    );
    // Worked by hand from P² − P_a² and from P: found at 550 psig, at 150 only 0.03 of 0.4 laminar and 0.12 choked.
    let r = ask(
        &ruhe,
        "retest",
        &json!({"found_pa": 550.0 * PSI, "again_pa": 150.0 * PSI, "air_pa": AIR}),
    );
    assert!(
        (0.4 * r["laminar"].as_f64().unwrap() - 0.03).abs() < 0.005
            && (0.4 * r["choked"].as_f64().unwrap() - 0.12).abs() < 0.005,
        "{r}"
    );
    assert_eq!(r["is_lower"], true);
    assert_eq!(
        ruhe.refused(
            "/api/bench/retest",
            &json!({"found_pa": 0.0, "again_pa": 1e6, "air_pa": AIR})
        )
        .0,
        422
    );
}
