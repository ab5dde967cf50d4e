//! What a repair, an opening, a moved core or a failed hold undoes, through the API.

use crate::safety::*;
use crate::support::{Ruhe, curve, hold_body, now_ms, vacuum_body};
use serde_json::{Value, json};

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
