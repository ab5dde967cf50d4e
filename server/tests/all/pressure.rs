//! The pressure side through the API: survey, plan, press up, search, repair, re-test, reminders, procedures.

use crate::support::{Ruhe, hold_body, now_ms};
use serde_json::{Value, json};

fn survey() -> Value {
    json!({
        "sections": [{"name": "line set", "is_tested": true, "gauge": "vapour port"}, {"name": "outdoor",
            "is_tested": false}],
        "components": [
            {"name": "indoor coil", "place": "indoor", "section": "line set", "high": {"typed": "42",
                "unit": "bar"}, "only_one": true, "volume_l": 1.5},
            {"name": "outdoor unit", "place": "outdoor", "section": "outdoor", "low": {"typed": "300",
                "unit": "psig"}, "high": {"typed": "550", "unit": "psig"}}],
        "tubes": [{"size": "3/8 in", "length": {"typed": "32.8084", "unit": "ft"}, "section": "line set"}],
        "joints": [{"name": "flare indoors", "kind": "flare", "section": "line set", "torque": {"typed": "31",
            "unit": "lbft"}, "is_torqued": false}],
        "valves": [{"name": "service valve", "section": "line set", "is_shut": true, "behind": "section",
            "other": "outdoor"}],
        "charge": {"typed": "1.2", "unit": "kg"}
    })
}

fn put(ruhe: &Ruhe, circuit: &str, survey: &Value, version: i64) -> (u16, Value) {
    let r = ruhe
        .client
        .put(format!("{}/api/circuits/{circuit}/survey", ruhe.url))
        .json(&json!({"survey": survey, "version": version}))
        .send()
        .unwrap();
    (r.status().as_u16(), r.json().unwrap())
}

#[test]
fn a_survey_gives_volume_ceiling_and_what_is_missing_and_keeps_its_versions_apart() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let id = ruhe.job("new_split");
    let first = ruhe.get(&format!("/api/circuits/{id}"))["survey"]["version"]
        .as_i64()
        .unwrap();
    let (status, view) = put(&ruhe, &id, &survey(), first);
    assert_eq!(status, 200, "{view}");
    let line = &view["sections"][0];
    // 1.5 L and 10 m of 3/8 in (0.0490 L/m) within five per cent.
    assert!(
        (line["volume_low_l"].as_f64().unwrap() - 1.966).abs() < 0.002
            && (line["volume_high_l"].as_f64().unwrap() - 2.0145).abs() < 0.002,
        "{line}"
    );
    assert_eq!(
        (
            line["ceiling_name"].as_str(),
            line["ceiling_pa"].as_f64().map(f64::round)
        ),
        (Some("indoor coil"), Some(4_200_000.0))
    );
    assert_eq!(line["bounds"][0], "service valve shut, behind it outdoor");
    assert_eq!(
        line["missing"][0],
        "flare indoors: not ticked as tightened to 42 N·m (31 lb·ft)."
    );
    assert_eq!(view["charge_g"], 1200.0);
    // Somebody else's version in between is not overwritten.
    let (status, problem) = put(&ruhe, &id, &survey(), first);
    assert!(
        status == 409
            && problem["message"]
                .as_str()
                .unwrap()
                .contains("another device"),
        "{problem}"
    );
    for (field, pointer, value) in [
        (
            "components.0.high.typed",
            "/components/0/high/typed",
            json!("4,2"),
        ),
        (
            "components.1.section",
            "/components/1/section",
            json!("attic"),
        ),
        ("tubes.0.size", "/tubes/0/size", json!("3/7 in")),
        ("tubes.0.length.unit", "/tubes/0/length/unit", json!("yd")),
        ("survey.joints.0.kind", "/joints/0/kind", json!("glue")),
        ("valves.0.other", "/valves/0/other", json!(null)),
        ("sections.1.name", "/sections/1/name", json!("line set")),
        ("charge.typed", "/charge/typed", json!("-1")),
    ] {
        let mut wrong = survey();
        *wrong.pointer_mut(pointer).unwrap() = value;
        let (status, problem) = put(&ruhe, &id, &wrong, first + 1);
        assert_eq!(
            (status, problem["field"].as_str()),
            (422, Some(field)),
            "{problem}"
        );
    }
    assert_eq!(
        ruhe.get(&format!("/api/circuits/{id}"))["survey"]["version"],
        first + 1
    );
}

#[test]
fn opening_a_valve_brings_the_weaker_plate_into_scope_and_tools_are_hard_stops() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let id = ruhe.job("new_split");
    put(&ruhe, &id, &survey(), 1);
    let tests = format!("/api/circuits/{id}/tests");
    let plan = |psig: f64, more: Value| {
        let mut b = hold_body(psig);
        b["plan"]["section"] = json!("line set");
        b["plan"]
            .as_object_mut()
            .unwrap()
            .extend(more.as_object().unwrap().clone());
        b
    };
    assert_eq!(ruhe.post(&tests, &plan(500.0, json!({}))).status(), 201);
    let (status, why) = ruhe.refused(
        &tests,
        &plan(500.0, json!({"regulator_pa": 450.0 * 6894.757})),
    );
    assert!(
        status == 422
            && why.contains("the regulator is good for 450 psig")
            && why.contains("hard stop"),
        "{why}"
    );
    assert!(
        ruhe.refused(&tests, &plan(780.0, json!({})))
            .1
            .contains("may be used to 760 psig")
    );
    assert!(
        ruhe.refused(&tests, &plan(500.0, json!({"section": "attic"})))
            .1
            .contains("no section")
    );
    let strength = json!({"strength": {"code": "local code 4.2", "edition": "2021", "factor": 1.1,
        "reason": "inspector asked"}});
    assert!(
        ruhe.refused(&tests, &plan(640.0, json!({})))
            .1
            .contains("strength test")
    );
    assert_eq!(
        ruhe.post(&tests, &plan(640.0, strength.clone())).status(),
        201
    );
    assert!(
        ruhe.refused(&tests, &plan(700.0, strength))
            .1
            .contains("above 1.1 times")
    );
    let mut open = survey();
    open["valves"][0]["is_shut"] = json!(false);
    assert_eq!(put(&ruhe, &id, &open, 2).0, 200);
    assert!(
        ruhe.refused(&tests, &plan(500.0, json!({})))
            .1
            .contains("outdoor unit, low side is rated 300 psig")
    );
}

#[test]
fn pressing_up_leads_from_step_to_step_and_the_hold_counts_from_the_shut_supply() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let id = ruhe.job("bench_component");
    let (test, p, t) = ruhe.hold(&id);
    let press = || ruhe.get(&format!("/api/tests/{test}"))["press"].clone();
    assert_eq!(press()["coarse"], Value::Null);
    let log = |psig: &str, ago_s: i64| {
        let at = now_ms() - ago_s * 1000;
        let one = |c: &str, typed: &str| {
            json!({"id": format!("{psig}{c}"), "channel_id": c, "typed": typed,
            "at_ms": at, "client_ms": now_ms()})
        };
        assert_eq!(
            ruhe.post(
                &format!("/api/tests/{test}/readings"),
                &json!({"readings": [one(&p, psig), one(&t, "70.0")]})
            )
            .status(),
            201
        );
    };
    assert_eq!(press()["headline"], "Up to 100 psig");
    log("100.2", 400);
    log("100.1", 390);
    // The look and listen is over after three minutes.
    assert_eq!(press()["headline"], "Up to 300 psig");
    log("316.0", 60);
    assert!(
        press()["headline"]
            .as_str()
            .unwrap()
            .contains("16 psi above the plan"),
        "{}",
        press()
    );
    assert_eq!(
        ruhe.test(&test)["next"],
        press()["words"],
        "letting down comes before shutting the supply"
    );
    log("300.4", 30);
    assert!(
        press()["words"]
            .as_str()
            .unwrap()
            .contains("Shut the nitrogen off")
    );
    assert_eq!(
        ruhe.get(&format!("/api/tests/{test}"))["verdict"]["reasons"][0],
        "supply_not_isolated"
    );
    ruhe.shut_supply(&test, now_ms() - 20_000);
    assert_eq!(press(), Value::Null);
    log("300.3", 10);
    // The overshoot while pressing up is no part of what was held.
    assert_ne!(
        ruhe.get(&format!("/api/tests/{test}"))["verdict"]["reasons"][0],
        "supply_not_isolated"
    );
}

/// What the rig gives off is taken off a rise, and a hold counts from the shut supply: nobody says either with a plan.
#[test]
fn what_only_rules_write_is_refused_in_a_plan() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let id = ruhe.job("bench_component");
    ruhe.made_ready(&id, "pressure-hold");
    for (field, value) in [
        ("awaits_isolation", json!(false)),
        ("isolated", json!(true)),
        (
            "rig_share",
            json!({"low_pa_s": 1.0, "high_pa_s": 2.0, "volume_l": 0.2, "test": "Rig check 1"}),
        ),
        ("ceiling_pa", json!(9e6)),
        ("ceiling_b_pa", json!(9e6)),
        ("reaches", json!(["nothing"])),
        ("refrigerant", json!("R-32")),
        ("imported_from", json!("x.csv")),
        ("remarks", json!(["as good as new"])),
        ("used", json!([])),
        (
            "stages",
            json!([{"target_pa": 66.0, "break_pa": null, "dwell_s": 0.0}]),
        ),
        (
            "procedure",
            json!({"title": "x", "source": "x", "version": "1", "is_verified": true, "asks_pa": 689_000.0}),
        ),
    ] {
        let mut body = hold_body(300.0);
        body["plan"][field] = value;
        let (status, why) = ruhe.refused(&format!("/api/circuits/{id}/tests"), &body);
        assert!(
            status == 422 && why.contains("is not said here"),
            "{field}: {status} {why}"
        );
    }
    // What is said of another kind of test is not said of this one.
    for (field, value) in [
        ("level_pa", json!(66.0)),
        ("hoses_in", json!(true)),
        ("part", json!("pump")),
        ("volume_ratio", json!(2.0)),
        ("targets_pa", json!([66.0])),
    ] {
        let mut body = hold_body(300.0);
        body["plan"][field] = value;
        let (status, why) = ruhe.refused(&format!("/api/circuits/{id}/tests"), &body);
        assert!(
            status == 422 && why.contains("of this kind"),
            "{field}: {status} {why}"
        );
    }
}

#[test]
fn what_a_dial_cannot_show_is_foretold_before_the_supply_is_shut() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let id = ruhe.job("bench_component");
    let mut body = hold_body(300.0);
    body["channels"][0]["resolution"] = json!(5.0);
    body["plan"]["drop_pa"] = json!(6894.757);
    body["plan"]["over_s"] = json!(86_400.0);
    body["plan"]["planned_s"] = json!(86_400.0);
    ruhe.made_ready(&id, "pressure-hold");
    let test: Value = ruhe
        .post(&format!("/api/circuits/{id}/tests"), &body)
        .json()
        .unwrap();
    let test = test["id"].clone();
    let view = ruhe.get(&format!("/api/tests/{}", test.as_str().unwrap()));
    assert_eq!(
        view["press"]["coarse"],
        "This gauge shows steps of 5.0 psi. In 24 h it says no more than that less than about 5.0 psi was lost; \
         for 1.0 psi in 24 h it takes about 120 h. Put on a finer gauge, or plan for that."
    );
}

#[test]
fn a_find_is_confirmed_mended_and_proven_by_a_hold_as_high() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let id = ruhe.job("bench_component");
    let at = |p: &str| format!("/api/circuits/{id}{p}");
    let place = |name: &str| {
        let c = ruhe.get(&at(""));
        c["search"]["places"]
            .as_array()
            .unwrap()
            .iter()
            .find(|p| p["name"] == name)
            .cloned()
            .unwrap_or_default()
    };
    let gate = |code: &str| {
        ruhe.get(&at(""))["gates"]
            .as_array()
            .unwrap()
            .iter()
            .find(|g| g["code"] == code)
            .cloned()
    };
    ruhe.finished_hold(&id, &hold_body(400.0), 400.0, 0.2);
    assert!(
        ruhe.get(&at(""))["search"]["retests"][0]["words"]
            .as_str()
            .unwrap()
            .contains("at 400 psig or higher: that is where Hold 1 showed it")
    );
    let look = |method: &str, finding: &str| {
        json!({"place": "U-bends and end plates", "method": method,
        "finding": finding, "dwell_s": 30.0, "at_ms": ruhe.later(5)})
    };
    assert_eq!(place("U-bends and end plates")["state"], "not_looked");
    assert_eq!(
        ruhe.post(&at("/looks"), &look("electronic", "leak"))
            .status(),
        201
    );
    assert_eq!(place("U-bends and end plates")["state"], "unconfirmed");
    assert!(
        gate("search_closed").unwrap()["evidence"]
            .as_str()
            .unwrap()
            .contains("unconfirmed hit")
    );
    ruhe.post(&at("/looks"), &look("bubbles", "leak"));
    assert_eq!(place("U-bends and end plates")["state"], "leak");
    ruhe.post(
        &at("/looks"),
        &json!({"place": "header and stubs", "method": "bubbles", "finding": "clear",
        "dwell_s": 15.0, "at_ms": ruhe.later(5)}),
    );
    assert!(
        place("header and stubs")["log"][0]["remark"]
            .as_str()
            .unwrap()
            .contains("15 s only")
    );
    assert_eq!(
        ruhe.post(
            &at("/repairs"),
            &json!({"place": "U-bends and end plates", "opened": "nothing",
            "cause": "pinhole", "words": "plug pressed in", "at_ms": ruhe.later(5)})
        )
        .status(),
        201
    );
    assert_eq!(place("U-bends and end plates")["state"], "mended");
    ruhe.finished_hold(&id, &hold_body(200.0), 200.0, 0.0);
    assert_eq!(
        place("U-bends and end plates")["state"],
        "mended",
        "a lower hold proves nothing"
    );
    ruhe.finished_hold(&id, &hold_body(400.0), 400.0, 0.0);
    assert_eq!(place("U-bends and end plates")["state"], "proven");
    assert_eq!(
        (
            gate("search_closed"),
            gate("retest_after_repair").unwrap()["met"].as_bool()
        ),
        (None, Some(true))
    );
    // Every finished hold has its rung: a leak shown, then leaks ruled out.
    let ladder = ruhe.get(&at(""))["ladder"].clone();
    assert_eq!(
        (
            ladder[0]["is_leak"].as_bool(),
            ladder[2]["is_leak"].as_bool()
        ),
        (Some(true), Some(false))
    );
    assert!(ladder[2]["high"].as_f64() < ladder[0]["low"].as_f64().map(|l| 100.0 * l));
    for (body, says) in [
        (look("sniffed", "leak"), "“sniffed” is not one of listen"),
        (look("bubbles", "perhaps"), "“perhaps” is not one of clear"),
    ] {
        let (status, why) = ruhe.refused(&at("/looks"), &body);
        assert!(status == 422 && why.contains(says), "{why}");
    }
    assert_eq!(
        ruhe.refused(
            &at("/repairs"),
            &json!({"place": "x", "opened": "nothing", "cause": " "})
        )
        .0,
        422
    );
}

#[test]
fn a_photo_is_kept_as_it_came_and_nothing_else_is() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let id = ruhe.job("repair");
    let send = |bytes: Vec<u8>| {
        ruhe.client
            .post(format!("{}/api/circuits/{id}/photos", ruhe.url))
            .body(bytes)
            .send()
            .unwrap()
    };
    let png = include_bytes!("support/two.png").to_vec();
    let made: Value = send(png.clone()).json().unwrap();
    let back = ruhe
        .client
        .get(format!(
            "{}/api/photos/{}",
            ruhe.url,
            made["id"].as_str().unwrap()
        ))
        .send()
        .unwrap();
    assert_eq!(back.headers()["content-type"], "image/png");
    assert_eq!(back.bytes().unwrap().to_vec(), png);
    assert_eq!(send(b"<svg onload=x>".to_vec()).status(), 422);
    // One whose head is damaged: nobody knows how large it is.
    assert_eq!(send(png[..12].to_vec()).status(), 422);
    assert_eq!(
        send(
            vec![0xff, 0xd8, 0xff]
                .into_iter()
                .chain(std::iter::repeat_n(0, 9 << 20))
                .collect()
        )
        .status(),
        413
    );
}

#[test]
fn due_times_leave_as_a_calendar() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let id = ruhe.job("bench_component");
    let mut body = hold_body(300.0);
    body["plan"]["read_every_s"] = json!(300.0);
    body["plan"]["auto_off_s"] = json!(900.0);
    let made: Value = ruhe
        .post(&format!("/api/circuits/{id}/tests"), &body)
        .json()
        .unwrap();
    let test = made["id"].as_str().unwrap();
    let view = ruhe.get(&format!("/api/tests/{test}"));
    let reading = json!({"readings": [{"id": "r", "channel_id": view["channels"][0]["id"], "typed": "300.0",
        "client_ms": now_ms()}]});
    assert_eq!(
        ruhe.post(&format!("/api/tests/{test}/readings"), &reading)
            .status(),
        201
    );
    let view = ruhe.get(&format!("/api/tests/{test}"));
    assert_eq!(
        view["read_at_ms"].as_i64().unwrap() - view["readings"][0]["at_ms"].as_i64().unwrap(),
        300_000
    );
    assert_eq!(
        view["off_at_ms"].as_i64().unwrap() - view["readings"][0]["at_ms"].as_i64().unwrap(),
        900_000
    );
    assert_eq!(
        ruhe.get("/api/today")[0]["clock"]["label"],
        "the next reading"
    );
    let calendar = || {
        let at = format!("{}/api/tests/{test}/calendar.ics", ruhe.url);
        ruhe.client.get(at).send().unwrap().text().unwrap()
    };
    let ics = calendar();
    assert!(
        ics.starts_with("BEGIN:VCALENDAR") && ics.contains("BEGIN:VALARM"),
        "{ics}"
    );
    assert!(
        ics.matches("reading due").count() > 10 && ics.contains("about to switch"),
        "{ics}"
    );
    assert!(
        ruhe.post(&format!("/api/tests/{test}/end"), &json!({}))
            .status()
            .is_success()
    );
    let ended = calendar();
    // A calendar without an event is none: the reminder is called off.
    assert!(
        ended.matches("BEGIN:VEVENT").count() == 1 && ended.contains("STATUS:CANCELLED"),
        "{ended}"
    );
    assert!(ended.contains(&format!("{test}-due@ruhe")), "{ended}");
}

#[test]
fn a_procedure_of_ones_own_has_versions_and_a_source() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let of = |code: &str| {
        ruhe.get("/api/meta")["procedures"]
            .as_array()
            .unwrap()
            .iter()
            .find(|p| p["code"] == code)
            .cloned()
            .unwrap_or_default()
    };
    let own = |minutes: f64, code: Value| {
        json!({"code": code, "title": "Maker, page 41",
        "kind": "pressure-hold", "pressure_pa": 4.15e6, "time_s": minutes * 60.0,
        "source": "service manual, page 41", "is_verified": true})
    };
    assert_eq!(
        ruhe.post("/api/procedures", &own(60.0, Value::Null))
            .status(),
        201
    );
    let code = "own_maker__page_41";
    assert_eq!(
        (
            of(code)["version"].as_str(),
            of(code)["time_s"].as_f64(),
            of(code)["is_verified"].as_bool()
        ),
        (Some("1"), Some(3600.0), Some(true))
    );
    assert_eq!(
        ruhe.post("/api/procedures", &own(90.0, json!(code)))
            .status(),
        201
    );
    assert_eq!(
        (of(code)["version"].as_str(), of(code)["time_s"].as_f64()),
        (Some("2"), Some(5400.0))
    );
    assert!(
        ruhe.refused("/api/procedures", &own(60.0, json!("timed")))
            .1
            .contains("built-in")
    );
    let mut unsourced = own(60.0, Value::Null);
    unsourced["source"] = json!("");
    assert_eq!(ruhe.refused("/api/procedures", &unsourced).0, 422);
    assert_eq!(
        (
            of("timed")["is_verified"].as_bool(),
            of("timed")["source"].as_str()
        ),
        (Some(false), Some("common practice"))
    );
}

#[test]
fn a_gauge_out_of_date_marks_the_hold_and_stands_in_the_way() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let id = ruhe.job("bench_component");
    let mut body = hold_body(300.0);
    body["channels"][0]["calibration_due"] = json!("2020-01-31");
    let test = ruhe.finished_hold(&id, &body, 300.0, 0.0);
    let v = ruhe.get(&format!("/api/tests/{test}"))["verdict"].clone();
    assert!(
        v["outcome"] == "holds"
            && v["reasons"]
                .as_array()
                .unwrap()
                .contains(&json!("calibration_overdue")),
        "{v}"
    );
    ruhe.post(
        &format!("/api/circuits/{id}/steps"),
        &json!({"step": "instruments_in_date", "note": "fine"}),
    );
    let gates = ruhe.get(&format!("/api/circuits/{id}"))["gates"].clone();
    let gate = gates
        .as_array()
        .unwrap()
        .iter()
        .find(|g| g["code"] == "instruments")
        .unwrap()
        .clone();
    assert!(
        gate["met"] == false
            && gate["evidence"]
                .as_str()
                .unwrap()
                .contains("calibration had run out"),
        "{gate}"
    );
    body["channels"][0]["calibration_due"] = json!("next spring");
    assert!(
        ruhe.refused(&format!("/api/circuits/{id}/tests"), &body)
            .1
            .contains("not a date")
    );
}
