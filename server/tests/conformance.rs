//! Every reply that a route gives is one that its description lists, and every refusal says what and where.
#![allow(clippy::unwrap_used)]

mod support;

use reqwest::Method;
use serde_json::Value;
use support::Ruhe;

/// Bodies that somebody may send: none, an empty one, the wrong shape, no JSON, wrong values in the right places.
const BODIES: [&str; 7] = [
    "",
    "{}",
    "[1, 2]",
    "no JSON",
    r#"{"readings": [{"id": "a b", "channel_id": "x", "typed": "NaN", "client_ms": -1}]}"#,
    r#"{"kind": "nonsense", "plan": {"planned_s": -5}, "channels": []}"#,
    r#"{"reason": "", "name": "", "step": 7, "place": null, "survey": {}, "version": "one"}"#,
];

#[test]
fn every_reply_is_one_that_is_described() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let circuit = ruhe.job("bench_component");
    let (test, _, _) = ruhe.hold(&circuit);
    let spec: Value =
        serde_json::from_str(&ruhe_server::specification().to_json().unwrap()).unwrap();
    let (mut faults, mut sent) = (vec![], 0);
    for (path, operations) in spec["paths"].as_object().unwrap() {
        for (verb, operation) in operations.as_object().unwrap() {
            let described: Vec<u16> = operation["responses"]
                .as_object()
                .unwrap()
                .keys()
                .map(|k| k.parse().unwrap())
                .collect();
            for refusal in [400, 404, 409, 413, 422, 500] {
                // The live stream takes nothing that it could refuse.
                if path != "/api/live" && !described.contains(&refusal) {
                    faults.push(format!("{verb} {path} does not describe {refusal}"));
                }
            }
            if !described.iter().any(|s| (200..300).contains(s)) {
                faults.push(format!("{verb} {path} describes no success"));
            }
            let method = Method::from_bytes(verb.to_uppercase().as_bytes()).unwrap();
            // What is there, what is not, and what cannot be an id.
            for id in [circuit.as_str(), test.as_str(), "nothing", "%00%20"] {
                for body in BODIES
                    .iter()
                    .take(if verb == "get" { 1 } else { BODIES.len() })
                {
                    let url = format!(
                        "{}{}",
                        ruhe.url,
                        path.replace("{id}", id).replace("{entry}", id)
                    );
                    let reply = ruhe
                        .client
                        .request(method.clone(), &url)
                        .header("Content-Type", "application/json")
                        .body(*body)
                        .send()
                        .unwrap();
                    sent += 1;
                    let status = reply.status();
                    let what = format!("{verb} {url} {body}: {status}");
                    if !described.contains(&status.as_u16()) || status.as_u16() == 500 {
                        faults.push(what);
                    } else if status.is_client_error() {
                        let told: Value = reply.json().unwrap_or_default();
                        if told["message"].as_str().is_none_or(|m| m.len() < 8) {
                            faults.push(format!("{what} says nothing: {told}"));
                        }
                    }
                }
            }
        }
    }
    assert!(sent > 400, "{sent}");
    assert!(
        faults.is_empty(),
        "{} of {sent}:\n{}",
        faults.len(),
        faults.join("\n")
    );
}
