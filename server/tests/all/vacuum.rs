//! The vacuum side through the API: evacuation by stages, decays that await isolation, sources, repeats, next steps.

use crate::support::{Ruhe, curve, hold_body, vacuum_body};
use serde_json::{Value, json};

const MICRON: f64 = 0.133_322_368;

fn stages(targets: &[f64]) -> Value {
    let list: Vec<f64> = targets.iter().map(|t| t * MICRON).collect();
    json!({ "targets_pa": list })
}

fn decay_plan() -> Value {
    json!({"level_pa": 500.0 * MICRON, "at_s": 600.0, "evacuated_s": 3600.0, "volume_l": 5.0, "changed": []})
}

/// Ended decay of a circuit.
fn decay(ruhe: &Ruhe, circuit: &str, plan: Value, level: impl Fn(f64) -> f64) -> Value {
    let id = ruhe.vacuum(
        circuit,
        &vacuum_body("vacuum-decay", plan),
        &curve(16, level),
        &[("isolated", 0.0)],
        true,
    );
    ruhe.test(&id)
}

fn source<'a>(test: &'a Value, code: &str) -> &'a Value {
    test["argued"]["sources"]
        .as_array()
        .unwrap()
        .iter()
        .find(|s| s["code"] == code)
        .unwrap_or_else(|| panic!("no {code} in {}", test["argued"]))
}

#[test]
fn a_triple_evacuation_is_run_as_stages() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let circuit = ruhe.job("package_circuit");
    let body = vacuum_body("pull-down", stages(&[2_000.0, 1_000.0, 500.0]));
    let down = |from: f64, floor: f64| {
        move |t: f64| (floor + 24_000.0 * (-(t - from) / 60.0).exp()).min(25_000.0)
    };
    let first: Vec<(f64, f64)> = curve(6, down(0.0, 1_500.0));
    let id = ruhe.vacuum(&circuit, &body, &first, &[], false);
    let pull = ruhe.test(&id);
    assert_eq!(
        (
            pull["verdict"]["outcome"].as_str(),
            pull["verdict"]["pull"]["at"].as_u64()
        ),
        (Some("break"), Some(0))
    );
    assert!(
        pull["verdict"]["next_step"]
            .as_str()
            .unwrap()
            .contains("let dry nitrogen in"),
        "{}",
        pull["verdict"]["next_step"]
    );
    // With both breaks marked the trace falls into three pulls, each with its own target.
    let all: Vec<(f64, f64)> = curve(30, |t| match t {
        t if t < 600.0 => down(0.0, 1_500.0)(t),
        t if t < 1_200.0 => down(700.0, 700.0)(t.max(700.0)),
        t => down(1_300.0, 240.0)(t.max(1_300.0)),
    });
    let id = ruhe.vacuum(
        &circuit,
        &body,
        &all,
        &[("nitrogen_break", 600.0), ("nitrogen_break", 1_200.0)],
        true,
    );
    let v = ruhe.test(&id)["verdict"].clone();
    assert_eq!(v["outcome"], "reached", "{v}");
    let pulls = v["pull"]["pulls"].as_array().unwrap();
    assert_eq!(pulls.len(), 3);
    for (p, target) in pulls.iter().zip([2_000.0, 1_000.0, 500.0]) {
        assert!(
            (p["target_pa"].as_f64().unwrap() / MICRON - target).abs() < 0.1
                && p["took_s"].as_f64().unwrap() > 60.0,
            "{p}"
        );
    }
    let (status, why) = ruhe.refused(
        &format!("/api/circuits/{circuit}/tests"),
        &vacuum_body("pull-down", json!({"targets_pa": [0.0]})),
    );
    assert!(
        status == 422 && why.contains("pull 1 needs a target above zero"),
        "{why}"
    );
}

#[test]
fn a_pull_says_when_to_be_back_and_a_quick_valve_off_what_is_gross() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let circuit = ruhe.job("package_circuit");
    let body = vacuum_body("pull-down", stages(&[500.0]));
    let id = ruhe.vacuum(
        &circuit,
        &body,
        &curve(12, |t| 90.0 + 24_000.0 * (1.0 + t / 20.0).powf(-1.05)),
        &[],
        false,
    );
    let test = ruhe.test(&id);
    let p = &test["verdict"]["pull"];
    let (low, mid, high) = (
        p["arrival_low_s"].as_f64().unwrap(),
        p["arrival_s"].as_f64().unwrap(),
        p["arrival_high_s"].as_f64().unwrap(),
    );
    assert!(700.0 < low && low <= mid && mid <= high, "{p}");
    assert_eq!(
        test["due_ms"].as_i64().unwrap(),
        test["start_ms"].as_i64().unwrap() + (mid * 1e3) as i64
    );
    let tighten = curve(6, |t| {
        4_000.0
            + 21_000.0 * (-t / 100.0).exp()
            + if (300.0..=320.0).contains(&t) {
                120.0 * (t - 300.0)
            } else {
                0.0
            }
    });
    let id = ruhe.vacuum(
        &circuit,
        &body,
        &tighten,
        &[("isolated", 300.0), ("pump_on", 320.0)],
        false,
    );
    let v = ruhe.test(&id)["verdict"].clone();
    let off = ruhe.vacuum(
        &circuit,
        &body,
        &curve(6, |t| 4_000.0 + 21_000.0 * (-t / 100.0).exp()),
        &[("isolated", 350.0)],
        false,
    );
    let shut = ruhe.test(&off)["verdict"].clone();
    assert!(
        shut["reasons"].to_string().contains("valve_off") && shut["pull"]["arrival_s"].is_null(),
        "{shut}"
    );
    assert!(
        v["reasons"].to_string().contains("gross_rise")
            && v["next_step"]
                .as_str()
                .unwrap()
                .contains("before pumping on"),
        "{v}"
    );
}

#[test]
fn a_decay_awaits_its_isolation() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let circuit = ruhe.job("package_circuit");
    let id = ruhe.vacuum(
        &circuit,
        &vacuum_body("vacuum-decay", decay_plan()),
        &curve(14, |_| 240.0),
        &[],
        false,
    );
    let v = ruhe.test(&id)["verdict"].clone();
    assert_eq!(
        (v["outcome"].as_str(), v["reasons"][0].as_str()),
        (Some("undecided"), Some("awaits_isolation"))
    );
    let start = ruhe.test(&id)["start_ms"].clone();
    assert_eq!(
        ruhe.post(
            &format!("/api/tests/{id}/events"),
            &json!({"id": "shut", "kind": "isolated", "at_ms": start})
        )
        .status(),
        201
    );
    assert_eq!(ruhe.test(&id)["verdict"]["outcome"], "passes");
}

#[test]
fn both_tests_argue_with_each_other() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let circuit = ruhe.job("package_circuit");
    let leaking = |t: f64| 240.0 + t;
    // Nothing is bounded before there is a hold.
    let before = decay(&ruhe, &circuit, decay_plan(), leaking);
    assert!(
        before["argued"]["wedge"].is_null()
            && before["argued"]["words"]
                .to_string()
                .contains("No finished hold"),
        "{}",
        before["argued"]
    );
    assert_ne!(source(&before, "joint")["standing"], "ruled_out");
    let mut hold = hold_body(300.0);
    hold["plan"]["volume_l"] = json!(5.0);
    ruhe.finished_hold(&circuit, &hold, 300.0, 0.0);
    let after = decay(
        &ruhe,
        &circuit,
        json!({"changed": ["core tool"], "level_pa": 66.66, "at_s": 600.0, "evacuated_s": 3600.0, "volume_l": 5.0}),
        leaking,
    );
    let wedge = &after["argued"]["wedge"];
    let (careful, likely) = (
        wedge["careful_pa_s"].as_f64().unwrap(),
        wedge["likely_pa_s"].as_f64().unwrap(),
    );
    assert_eq!(wedge["hold"], "Hold 1");
    // P_a/(P − P_a) and its laminar twin at 300 psig: 0.0490 and 0.0022.
    assert!(
        (careful / likely / (0.0490 / 0.0022) - 1.0).abs() < 0.05,
        "{careful} {likely}"
    );
    let says = after["argued"]["words"].to_string();
    assert!(says.contains("would have lost at least"), "{says}");
    // Sixty a minute is more than this hold allows any of its joints; what was fitted since comes first.
    assert_eq!(
        source(&after, "joint")["standing"],
        "ruled_out",
        "{}",
        after["argued"]
    );
    assert_eq!(after["argued"]["sources"][0]["code"], "fitted");
    assert!(
        source(&after, "fitted")["speaks_for"]
            .to_string()
            .contains("core tool")
    );
    // Both stand on the ladder: the hold rules out, the decay shows.
    let ladder = ruhe.get(&format!("/api/circuits/{circuit}"))["ladder"].clone();
    let rungs: Vec<(&str, bool)> = ladder
        .as_array()
        .unwrap()
        .iter()
        .map(|r| {
            (
                r["title"].as_str().unwrap(),
                r["is_leak"].as_bool().unwrap(),
            )
        })
        .collect();
    assert_eq!(
        rungs,
        [("Decay 1", true), ("Hold 1", false), ("Decay 2", true)]
    );
}

#[test]
fn repeats_are_overlaid_and_say_leak_or_drying() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let wet = |size: f64| move |t: f64| 240.0 + size * (1.0 - (-t / 500.0).exp());
    let broken = |circuit: &str| {
        ruhe.vacuum(
            circuit,
            &vacuum_body("pull-down", stages(&[500.0])),
            &curve(2, |t| 24_000.0 * (-t / 30.0).exp() + 300.0),
            &[("nitrogen_break", 5.0)],
            true,
        )
    };
    let drying = ruhe.job("package_circuit");
    decay(&ruhe, &drying, decay_plan(), wet(800.0));
    broken(&drying);
    let second = decay(&ruhe, &drying, decay_plan(), wet(260.0));
    assert!(
        second["argued"]["repeats"]
            .to_string()
            .contains("it is drying"),
        "{}",
        second["argued"]["repeats"]
    );
    assert_eq!(second["argued"]["overlays"][0]["title"], "Decay 1");
    assert!(
        second["argued"]["overlays"][0]["points"][0]["at_s"]
            .as_f64()
            .unwrap()
            < 11.0
    );

    let leaking = ruhe.job("package_circuit");
    decay(&ruhe, &leaking, decay_plan(), |t| 240.0 + 0.5 * t);
    broken(&leaking);
    let short = decay(&ruhe, &leaking, decay_plan(), |t| 260.0 + 0.51 * t);
    assert!(
        short["argued"]["repeats"]
            .to_string()
            .contains("too near to be told apart"),
        "{}",
        short["argued"]["repeats"]
    );
    // Pumped as long again as before: now the same slope says something.
    let mut long = decay_plan();
    long["evacuated_s"] = json!(2.0 * long["evacuated_s"].as_f64().unwrap());
    let second = decay(&ruhe, &leaking, long, |t| 260.0 + 0.5 * t);
    assert!(
        second["argued"]["repeats"]
            .to_string()
            .contains("that is what a leak does"),
        "{}",
        second["argued"]["repeats"]
    );
}

#[test]
fn the_next_step_is_a_real_action_with_its_time_and_both_results() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let circuit = ruhe.job("package_circuit");
    let mut plan = decay_plan();
    plan["hoses_in"] = json!(true);
    plan["changed"] = json!(null);
    let test = decay(&ruhe, &circuit, plan, |t| 240.0 + 0.6 * t);
    let next = test["argued"]["next"].as_array().unwrap();
    assert_eq!(next[0]["code"], "hoses_off", "{next:?}");
    for a in next {
        assert!(
            a["minutes"].as_f64().unwrap() > 0.0
                && !a["why"].as_str().unwrap().is_empty()
                && a["either"].as_array().unwrap().len() == 2,
            "{a}"
        );
    }
    // What is not possible here is not offered.
    assert!(
        next.iter()
            .all(|a| a["code"] != "stem" && a["code"] != "far_gauge")
    );
    assert!(
        source(&test, "rig_leak")["speaks_for"]
            .to_string()
            .contains("not checked alone")
    );
}

#[test]
fn an_evacuation_of_ones_own_is_a_procedure_like_the_others() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let mine = json!({"title": "Maker 350 twice", "kind": "pull-down", "time_s": 0.0,
        "targets_pa": [1_500.0 * MICRON, 350.0 * MICRON], "source": "maker's sheet, page 9"});
    assert_eq!(ruhe.post("/api/procedures", &mine).status(), 201);
    let all = ruhe.get("/api/meta")["procedures"].clone();
    let own = all
        .as_array()
        .unwrap()
        .iter()
        .find(|p| p["title"] == "Maker 350 twice")
        .unwrap();
    assert_eq!(
        (
            own["targets_pa"].as_array().unwrap().len(),
            own["version"].as_str(),
            own["is_verified"].as_bool()
        ),
        (2, Some("1"), Some(false))
    );
    let triple = all
        .as_array()
        .unwrap()
        .iter()
        .find(|p| p["code"] == "triple")
        .unwrap();
    assert!((triple["targets_pa"][2].as_f64().unwrap() / MICRON - 500.0).abs() < 0.01);
    for bad in [json!([]), json!([-1.0])] {
        let (status, why) = ruhe.refused(
            "/api/procedures",
            &json!({"title": "x", "kind": "pull-down",
            "time_s": 0.0, "targets_pa": bad, "source": "habit"}),
        );
        assert!(
            status == 422 && why.contains("target of each pull"),
            "{why}"
        );
    }
}
