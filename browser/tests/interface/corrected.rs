//! What was entered about the wrong thing is put right where it is seen: a refrigerant, a circuit, a name.

use crate::hold_by_hand::new_job;
use crate::support::{Page, on_page};
use serde_json::json;

const PHONE: (u32, u32) = (390, 844);

#[test]
fn a_misread_plate_is_put_right_on_a_phone_with_its_reason() {
    on_page(false, PHONE, |p| async move {
        // Neither the kind of job nor the site is chosen for anybody.
        p.open("/jobs/new?all").await;
        p.fill("Name of the site", "Saltmarsh School").await;
        p.fill("What it is called", "Gym split").await;
        p.fill("Name of the circuit", "Line set and coil").await;
        p.pick("Refrigerant", "R-410A (A1)").await;
        p.press("Start the job").await;
        p.says("Say what kind of job circuit A is.").await;
        new_job(&p, "Repair on an existing charge").await;
        p.stage("Survey").await;
        p.press("Something here is wrong").await;
        p.pick("Refrigerant", "R-454B (A2L)").await;
        p.fill("Letter on the unit", "C").await;
        p.is_sound("a correction, on a phone").await;
        p.picture("correction-phone").await;
        p.press("Correct it").await;
        p.says("say what was wrong").await;
        p.fill("What was wrong", "the plate is behind the conduit")
            .await;
        p.press("Correct it").await;
        p.says("Corrected: letter A, now C; refrigerant R-410A, now R-454B")
            .await;
        p.says("Gym split, circuit C").await;
        // From now on it burns.
        let path = p.js("return location.pathname", vec![]).await;
        p.open(&format!("{}?stage=search", path.as_str().unwrap()))
            .await;
        p.says("burn").await;
        p.open("/jobs/new?all").await;
        p.press("Start the job").await;
        p.says("Say at which site.").await;
    });
}

/// Two circuits of one system, and a hold of an hour on the first of them that loses so many psi a minute. Its
/// circuits.
pub async fn held_on_a(p: &Page, loses: f64) -> [String; 2] {
    let circuit = |tag: &str| {
        json!({"tag": tag, "name": "Coil", "kind": "bench_component", "refrigerant": "R-32",
            "plates": [{"part": "coil", "high": "600", "unit": "psig", "only_one": true}]})
    };
    let job = json!({"site_name": "Saltmarsh School", "system_name": "Gym split",
        "circuits": [circuit("A"), circuit("B")]});
    let (_, made) = p.api("POST", "/api/jobs", job).await;
    let ids = [0, 1].map(|i| made["circuit_ids"][i].as_str().unwrap().to_owned());
    let body = json!({"kind": "pressure-hold", "plan": {"test_pa": 2_068_427.0, "planned_s": 1_800.0},
        "channels": [{"name": "Gauge", "quantity": "gauge_pressure", "unit": "psig", "resolution": 0.1},
            {"name": "Probe", "quantity": "temperature", "unit": "degF", "resolution": 0.1}]});
    let (_, made) = p
        .api("POST", &format!("/api/circuits/{}/tests", ids[0]), body)
        .await;
    let test = made["id"].as_str().unwrap().to_owned();
    let (_, view) = p
        .api("GET", &format!("/api/tests/{test}"), json!(null))
        .await;
    let now = p.js("return Date.now()", vec![]).await.as_i64().unwrap();
    let start = now - 3_600_000;
    let rows: Vec<_> = (0..60)
        .flat_map(|k| {
            let psig = format!("{:.1}", 300.0 - loses * f64::from(k));
            [(0, k, psig), (1, k, "70.0".to_owned())]
        })
        .map(|(c, k, typed)| {
            json!({"id": format!("{test}{k}{c}"), "channel_id": view["channels"][c]["id"],
                "typed": typed, "at_ms": start + i64::from(k) * 60_000, "client_ms": now})
        })
        .collect();
    for (verb, body) in [
        ("readings", json!({ "readings": rows })),
        (
            "events",
            json!({"id": format!("{test}s"), "kind": "supply_isolated", "at_ms": start}),
        ),
        ("end", json!({})),
    ] {
        let (status, said) = p
            .api("POST", &format!("/api/tests/{test}/{verb}"), body)
            .await;
        assert_eq!(status, 201, "{verb}: {said}");
    }
    ids
}

#[test]
fn a_hold_on_the_wrong_circuit_goes_to_the_right_one_and_a_port_keeps_its_looks() {
    on_page(false, (1280, 800), |p| async move {
        p.open("/").await;
        let [a, b] = held_on_a(&p, 0.0).await;
        p.open(&format!("/circuits/{a}?stage=hold")).await;
        p.press("It was another circuit").await;
        p.pick("It was made on", "Gym split, circuit B").await;
        p.press("Move it there").await;
        p.says("say how it came to be entered here").await;
        p.fill("How it came to be entered here", "the hoses were on B")
            .await;
        p.is_sound("a test that is moved").await;
        p.press("Move it there").await;
        p.says("Gym split, circuit B").await;
        p.open(&format!("/circuits/{b}?stage=hold")).await;
        p.says("Hold 1").await;
        p.says("from Gym split, circuit A: Hold 1").await;
        p.open(&format!("/circuits/{a}?stage=sign_off")).await;
        p.says("Hold 1, moved to Gym split, circuit B (the hoses were on B)")
            .await;
    });
}
