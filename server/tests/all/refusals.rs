//! Bad input: the right status, words that say where, and nothing half-stored.

use crate::support::{Ruhe, command, hold_body, now_ms};
use serde_json::{Value, json};

#[test]
fn readings_that_cannot_be_are_named_and_none_of_their_batch_is_stored() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let (test, p, t) = ruhe.hold(&ruhe.job("new_split"));
    let path = format!("/api/tests/{test}/readings");
    let good = json!({"id": "ok", "channel_id": p, "typed": "300.1", "client_ms": now_ms()});
    for (channel, typed, status, says) in [
        (&p, "abc", 422, "“abc” is not a number"),
        (&p, "", 422, "no number given"),
        (&p, "NaN", 422, "not a finite number"),
        (&p, "inf", 422, "not a finite number"),
        (&p, "300,5", 422, "has a comma"),
        (&p, "-20", 422, "below a perfect vacuum"),
        (&p, "900", 422, "above this gauge's range of 800"),
        (&t, "5000", 422, "outside −100…260 °F"),
        (
            &"nobody".to_owned(),
            "1",
            422,
            "this test has no such channel",
        ),
    ] {
        let bad =
            json!({"id": "bad", "channel_id": channel, "typed": typed, "client_ms": now_ms()});
        let (got, message) = ruhe.refused(&path, &json!({"readings": [good, bad]}));
        assert_eq!(got, status, "{typed}: {message}");
        assert!(message.contains(says), "{typed}: {message}");
    }
    assert_eq!(ruhe.get(&format!("/api/tests/{test}"))["reading_count"], 0);
    let future = json!({"readings": [{"id": "f", "channel_id": p, "typed": "1", "at_ms": now_ms() + 86_400_000,
        "client_ms": now_ms()}]});
    assert_eq!(ruhe.refused(&path, &future).0, 422);
    // A clock that is off is flagged, not refused.
    let skewed: Value = ruhe
        .post(
            &path,
            &json!({"readings": [{"id": "s", "channel_id": p, "typed": "300",
        "client_ms": now_ms() - 60_000}]}),
        )
        .json()
        .unwrap();
    assert_eq!(skewed["skewed"], 1);
}

#[test]
fn plans_above_a_plate_or_a_gauge_are_refused_with_the_reason() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let circuit = ruhe.job("new_split");
    let path = format!("/api/circuits/{circuit}/tests");
    let (status, message) = ruhe.refused(&path, &hold_body(451.0));
    assert_eq!(status, 422);
    assert!(
        message.contains("indoor coil is rated 450 psig"),
        "{message}"
    );
    let mut body = hold_body(300.0);
    body["channels"][0]["range"] = json!(250.0);
    assert!(
        ruhe.refused(&path, &body)
            .1
            .contains("may be used to 237 psig")
    );
    body["channels"][0]["unit"] = json!("degF");
    assert!(
        ruhe.refused(&path, &body)
            .1
            .contains("degF is not a unit of gauge pressure")
    );
    let mut decay = json!({"kind": "vacuum-decay", "plan": {"level_pa": 66.0}, "channels": [{"name": "V",
        "quantity": "absolute_pressure", "unit": "micron"}]});
    assert!(
        ruhe.refused(&path, &decay)
            .1
            .contains("a limit needs its time")
    );
    decay["plan"]["at_s"] = json!(-5);
    assert!(ruhe.refused(&path, &decay).1.contains("above zero"));
    assert_eq!(
        ruhe.get(&format!("/api/circuits/{circuit}"))["stages"][1]["tests"],
        json!([])
    );
}

#[test]
fn unreadable_is_400_wrong_is_422_large_is_413_and_elsewhere_is_403() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let circuit = ruhe.job("new_split");
    let at = |p: &str| format!("{}{p}", ruhe.url);
    let raw = |path: &str, kind: &str, body: Vec<u8>| {
        ruhe.client
            .post(at(path))
            .header("Content-Type", kind)
            .body(body)
            .send()
            .unwrap()
    };
    assert_eq!(
        raw("/api/jobs", "application/json", b"{\"site".to_vec()).status(),
        400
    );
    assert_eq!(
        raw("/api/jobs", "text/plain", b"hello".to_vec()).status(),
        400
    );
    assert_eq!(
        raw(
            "/api/jobs",
            "application/json",
            b"{\"site_name\": 3}".to_vec()
        )
        .status(),
        422
    );
    assert_eq!(
        raw(
            "/api/csv?file=x.csv",
            "application/octet-stream",
            vec![b' '; 51 << 20]
        )
        .status(),
        413
    );
    let package = format!("/api/circuits/{circuit}/packages?file=x.zip");
    assert_eq!(
        raw(&package, "application/zip", vec![0; 65 << 20]).status(),
        413
    );
    let binary = raw(&package, "application/zip", vec![0, 159, 146, 150]);
    assert_eq!(binary.status(), 422);
    assert!(binary.text().unwrap().contains("x.zip: is not a .zip file"));
    assert_eq!(
        ruhe.client
            .get(at("/api/circuits/none"))
            .send()
            .unwrap()
            .status(),
        404
    );
    assert_eq!(
        ruhe.client.get(at("/api/nothing")).send().unwrap().status(),
        404
    );
    let foreign = ruhe
        .client
        .post(at("/api/jobs"))
        .header("Origin", "http://elsewhere.example")
        .json(&json!({}))
        .send()
        .unwrap();
    assert_eq!(foreign.status(), 403);
    let renamed = ruhe
        .client
        .get(at("/api/meta"))
        .header("Host", "elsewhere.example")
        .send()
        .unwrap();
    assert_eq!(renamed.status(), 403);
    let csp = ruhe.client.get(at("/api/meta")).send().unwrap().headers()["content-security-policy"]
        .to_str()
        .unwrap()
        .to_owned();
    assert!(
        csp.starts_with("default-src 'none'") && !csp.contains("unsafe"),
        "{csp}"
    );
}

#[test]
fn it_does_not_listen_where_others_can_reach_it() {
    let dir = tempfile::tempdir().unwrap();
    let out = command(&[
        "serve",
        "--bind",
        "0.0.0.0:0",
        "--data",
        dir.path().to_str().unwrap(),
    ]);
    assert_eq!(out.status.code(), Some(1));
    let said = String::from_utf8_lossy(&out.stderr).into_owned();
    assert!(said.contains("nobody is known here yet"), "{said}");
}
