//! A valve between two halves, through the API: it is never opened onto what nobody knows.

use crate::safety::*;
use crate::support::{Ruhe, now_ms};
use serde_json::{Value, json};

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
