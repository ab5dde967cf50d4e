//! Whatever cannot be right on the pressure side is refused with its field and a reason, and nothing is kept of it.

use crate::support::{Ruhe, hold_body};
use serde_json::{Value, json};

const PSI: f64 = 6_894.757;

fn with(mut base: Value, pointer: &str, value: Value) -> Value {
    let (parent, key) = pointer.rsplit_once('/').unwrap();
    let at = if parent.is_empty() {
        &mut base
    } else {
        base.pointer_mut(parent).unwrap()
    };
    at[key] = value;
    base
}

/// Status, field and message of a refusal.
fn refused(ruhe: &Ruhe, path: &str, body: &Value) -> (u16, String, String) {
    let r = ruhe.post(path, body);
    let status = r.status().as_u16();
    let v: Value = r.json().unwrap_or_default();
    (
        status,
        v["field"].as_str().unwrap_or_default().to_owned(),
        v["message"].as_str().unwrap_or_default().to_owned(),
    )
}

#[test]
fn plans() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let id = ruhe.job("bench_component");
    let path = format!("/api/circuits/{id}/tests");
    for (pointer, value, field, says) in [
        ("/plan/test_pa", json!(-1.0), "test_pa", "above zero"),
        (
            "/plan/test_pa",
            json!(null),
            "test_pa",
            "needs its test pressure",
        ),
        ("/plan/planned_s", json!(0.0), "planned_s", "above zero"),
        ("/plan/drop_pa", json!(5_000.0), "over_s", "needs its time"),
        ("/plan/altitude_m", json!(12_000.0), "altitude_m", "9000"),
        (
            "/plan/barometer_pa",
            json!(1_013.0),
            "barometer_pa",
            "not the pressure of any air",
        ),
        ("/plan/gas", json!("air"), "plan.gas", "nitrogen"),
        (
            "/plan/behind",
            json!("fog"),
            "plan.behind",
            "factory_charge",
        ),
        ("/plan/section", json!("cellar"), "section", "no section"),
        ("/plan/fittings_pa", json!(0.0), "fittings_pa", "above zero"),
        ("/plan/tracer_pa", json!(-3.0), "tracer_pa", "above zero"),
        (
            "/plan/read_every_s",
            json!(-60.0),
            "read_every_s",
            "above zero",
        ),
        (
            "/plan/strength",
            json!({"code": "c", "edition": "e", "factor": 9.0, "reason": "r"}),
            "test_pa",
            "between 1 and 1.5",
        ),
        ("/channels/0/range", json!(100.0), "test_pa", "hard stop"),
        (
            "/channels/0/unit",
            json!("degC"),
            "unit",
            "not a unit of gauge pressure",
        ),
        (
            "/channels/0/reference",
            json!("open"),
            "channels.0.reference",
            "vented, sealed",
        ),
        (
            "/channels/0/calibration_due",
            json!("31/03/2027"),
            "calibration_due",
            "not a date",
        ),
        (
            "/channels/1/volume_share",
            json!(1.5),
            "volume_share",
            "between 0 and 1",
        ),
        ("/channels/1/name", json!("P"), "channels", "two channels"),
        ("/channels", json!([]), "channels", "gauge"),
    ] {
        // The strength test is only asked for above a plate.
        let base = hold_body(if pointer == "/plan/strength" {
            500.0
        } else {
            300.0
        });
        let (status, at, message) = refused(&ruhe, &path, &with(base, pointer, value));
        assert!(
            status == 422 && at == field && message.contains(says),
            "{pointer}: {status} {at}: {message}"
        );
    }
    assert_eq!(
        ruhe.get(&format!("/api/circuits/{id}"))["stages"][1]["tests"],
        json!([])
    );
}

#[test]
fn the_bench() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let enough = json!({"test_pa": 300.0 * PSI, "air_pa": 101_325.0, "k": 294.0, "digit_pa": 700.0,
        "range_pa": 5.5e6, "probes": 1, "every_s": 60.0, "has_barometer": false,
        "sky": "ramp", "sky_k": 2.0, "hour": 9.0, "volume_low_l": 3.0, "volume_high_l": 8.0, "refrigerant": "R-410A"});
    for (pointer, value, field) in [
        ("/test_pa", json!(0.0), "test_pa"),
        ("/test_pa", json!(5_000.0), "test_pa"),
        ("/digit_pa", json!(-1.0), "digit_pa"),
        ("/probes", json!(0), "probes"),
        ("/probes", json!(9), "probes"),
        ("/every_s", json!(0.0), "every_s"),
        ("/sky", json!("snow"), "sky"),
        ("/sky_k", json!(400.0), "sky_k"),
        ("/volume_low_l", json!(0.0), "volume_low_l"),
    ] {
        let (status, at, message) = refused(
            &ruhe,
            "/api/bench/enough",
            &with(enough.clone(), pointer, value),
        );
        assert!(
            status == 422 && at == field,
            "{pointer}: {status} {at}: {message}"
        );
    }
    let bottle = json!({"bottle_l": 10.0, "bottle_pa": 1e7, "k": 294.0, "system_l": 5.0, "from_pa": 0.0,
        "to_pa": 2e6, "keeps_pa": 2e5, "air_pa": 101_325.0});
    for (pointer, value, field) in [
        ("/bottle_l", json!(0.0), "bottle_l"),
        ("/bottle_pa", json!(5e7), "bottle_pa"),
        ("/k", json!(90.0), "bottle_pa"),
        ("/system_l", json!(-1.0), "system_l"),
        ("/keeps_pa", json!(-1.0), "bottle_pa"),
    ] {
        let (status, at, message) = refused(
            &ruhe,
            "/api/bench/nitrogen",
            &with(bottle.clone(), pointer, value),
        );
        assert!(
            status == 422 && at == field,
            "{pointer}: {status} {at}: {message}"
        );
    }
    let volume = json!({"bottle_l": 10.0, "bottle_before_pa": 1e7, "bottle_after_pa": 9e6,
        "bottle_digit_pa": 1e5, "system_before_pa": 0.0, "system_after_pa": 2e6, "system_digit_pa": 700.0,
        "k": 294.0, "air_pa": 101_325.0});
    for (pointer, value, says) in [
        ("/bottle_after_pa", json!(1.1e7), "must have fallen"),
        ("/system_after_pa", json!(0.0), "must have risen"),
    ] {
        let (status, _, message) = refused(
            &ruhe,
            "/api/bench/volume",
            &with(volume.clone(), pointer, value),
        );
        assert!(
            status == 422 && message.contains(says),
            "{pointer}: {message}"
        );
    }
    // A figure that is no figure is not taken for one.
    let text = r#"{"found_pa": "high", "again_pa": 1e6, "air_pa": 101325}"#;
    let r = ruhe
        .client
        .post(format!("{}/api/bench/retest", ruhe.url))
        .header("Content-Type", "application/json")
        .body(text)
        .send()
        .unwrap();
    assert_eq!(r.status(), 422);
}

#[test]
fn looks_repairs_photos_and_procedures() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let id = ruhe.job("repair");
    let at = |p: &str| format!("/api/circuits/{id}{p}");
    let look = json!({"place": "flare", "method": "bubbles", "finding": "clear", "dwell_s": 120.0});
    for (pointer, value, field) in [
        ("/place", json!("  "), "place"),
        ("/place", json!("x".repeat(200)), "place"),
        ("/method", json!("smell"), "method"),
        ("/finding", json!("maybe"), "finding"),
        ("/dwell_s", json!(-5.0), "dwell_s"),
    ] {
        let (status, wrong, message) =
            refused(&ruhe, &at("/looks"), &with(look.clone(), pointer, value));
        assert!(status == 422 && wrong == field, "{pointer}: {message}");
    }
    assert_eq!(
        refused(
            &ruhe,
            &at("/looks"),
            &with(look.clone(), "/photo_id", json!("none"))
        )
        .0,
        404
    );
    assert_eq!(refused(&ruhe, "/api/circuits/nowhere/looks", &look).0, 404);
    let repair = json!({"place": "flare", "cause": "not tight"});
    for (pointer, value, field) in [
        ("/place", json!(""), "place"),
        ("/cause", json!(""), "cause"),
        (
            "/torque",
            json!({"typed": "0", "unit": "Nm"}),
            "torque.typed",
        ),
    ] {
        let (status, wrong, message) = refused(
            &ruhe,
            &at("/repairs"),
            &with(repair.clone(), pointer, value),
        );
        assert!(status == 422 && wrong == field, "{pointer}: {message}");
    }
    assert_eq!(
        ruhe.client
            .get(format!("{}/api/photos/none", ruhe.url))
            .send()
            .unwrap()
            .status(),
        404
    );
    let own = json!({"title": "Mine", "kind": "pressure-hold", "pressure_pa": 2e6, "time_s": 600.0,
        "source": "manual"});
    for (pointer, value, field) in [
        ("/title", json!(""), "title"),
        ("/source", json!(" "), "source"),
        ("/kind", json!("leak-by"), "kind"),
        ("/time_s", json!(0.0), "time_s"),
        ("/pressure_pa", json!(-2.0), "pressure_pa"),
        ("/pressure_pa", json!(null), "pressure_pa"),
        ("/share_of_plate", json!(0.75), "pressure_pa"),
        ("/code", json!("timed"), "code"),
    ] {
        let (status, wrong, message) =
            refused(&ruhe, "/api/procedures", &with(own.clone(), pointer, value));
        assert!(
            status == 422 && wrong == field,
            "{pointer}: {status} {wrong}: {message}"
        );
    }
    // Nothing of it was kept.
    let c = ruhe.get(&at(""));
    assert!(
        c["search"]["places"]
            .as_array()
            .unwrap()
            .iter()
            .all(|p| p["log"].as_array().unwrap().is_empty())
    );
    assert!(
        ruhe.get("/api/meta")["procedures"]
            .as_array()
            .unwrap()
            .iter()
            .all(|p| p["is_own"] == false)
    );
}

#[test]
fn a_signed_circuit_takes_nothing_of_the_pressure_side() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let id = ruhe.job("bench_component");
    let at = |p: &str| format!("/api/circuits/{id}{p}");
    for gate in ["hold_with_temperature", "boundary_valves", "instruments"] {
        ruhe.post(
            &at("/overrides"),
            &json!({"gate": gate, "words": "it is a part alone, on the bench"}),
        );
    }
    let words = json!({"name": "Odo Fenn", "role": "Technician", "statement": "Seen.", "state": "failed",
            "carried": {"wrong": "it leaks", "left_in": "empty", "told": "the owner"}});
    assert_eq!(ruhe.post(&at("/signature"), &words).status(), 201);
    assert_eq!(
        ruhe.refused(
            &at("/looks"),
            &json!({"place": "x", "method": "bubbles", "finding": "leak"})
        )
        .0,
        409
    );
    assert_eq!(
        ruhe.refused(
            &at("/repairs"),
            &json!({"place": "x", "opened": "nothing", "cause": "y"})
        )
        .0,
        409
    );
    let c = ruhe.get(&at(""));
    let body = json!({"survey": c["survey"]["survey"], "version": c["survey"]["version"]});
    assert_eq!(
        ruhe.client
            .put(format!("{}{}", ruhe.url, at("/survey")))
            .json(&body)
            .send()
            .unwrap()
            .status(),
        409
    );
    assert_eq!(
        ruhe.client
            .post(format!("{}{}", ruhe.url, at("/photos")))
            .body(vec![0xff, 0xd8, 0xff, 0])
            .send()
            .unwrap()
            .status(),
        409
    );
}

#[test]
fn the_stage_is_the_search_after_a_fall_until_something_was_mended() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let id = ruhe.job("bench_component");
    let stage = || {
        ruhe.get("/api/today")[0]["stage"]
            .as_str()
            .unwrap()
            .to_owned()
    };
    ruhe.post(
        &format!("/api/circuits/{id}/steps"),
        &json!({"step": "boundary_valves_checked", "note": "blanked"}),
    );
    ruhe.post(
        &format!("/api/circuits/{id}/steps"),
        &json!({"step": "instruments_in_date", "note": "fine"}),
    );
    assert_eq!(stage(), "Pressure hold");
    ruhe.finished_hold(&id, &hold_body(300.0), 300.0, 0.2);
    assert_eq!(stage(), "Leak search");
    ruhe.repair(&id, "header");
    assert_eq!(stage(), "Pressure hold");
    ruhe.finished_hold(&id, &hold_body(300.0), 300.0, 0.0);
    // It holds, which is coarse: before the pressure goes, joints are looked at under it.
    assert_eq!(stage(), "Leak search");
    ruhe.look_everywhere(&id);
    assert_eq!(stage(), "Release");
}
