//! Every reply that a route gives is one that its description lists, and every refusal says what and where.

use crate::support::Ruhe;
use crate::support::people::*;
use reqwest::Method;
use reqwest::blocking::Client;
use serde_json::{Value, json};

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

/// What replies are none that is described, of all operations with all bodies; and how many were sent.
fn faults(ruhe: &Ruhe, client: &Client, ids: [&str; 4]) -> (Vec<String>, usize) {
    let spec: Value = ruhe_server::specification();
    let (mut faults, mut sent) = (vec![], 0);
    for (path, operations) in spec["paths"].as_object().unwrap() {
        for (verb, operation) in operations.as_object().unwrap() {
            let described: Vec<u16> = operation["responses"]
                .as_object()
                .unwrap()
                .keys()
                .map(|k| k.parse().unwrap())
                .collect();
            for refusal in [400, 401, 403, 404, 409, 413, 422, 429, 500] {
                if !described.contains(&refusal) {
                    faults.push(format!("{verb} {path} does not describe {refusal}"));
                }
            }
            if !described.iter().any(|s| (200..300).contains(s)) {
                faults.push(format!("{verb} {path} describes no success"));
            }
            // Signing out would end the rest.
            if verb == "delete" && path.starts_with("/api/session") {
                continue;
            }
            let method = Method::from_bytes(verb.to_uppercase().as_bytes()).unwrap();
            for id in ids {
                for body in BODIES
                    .iter()
                    .take(if verb == "get" { 1 } else { BODIES.len() })
                {
                    let mut at = path.clone();
                    for name in ["{id}", "{entry}", "{channel}"] {
                        at = at.replace(name, id);
                    }
                    let url = format!("{}{at}", ruhe.url);
                    let reply = client
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
    (faults, sent)
}

fn must_be_none((faults, sent): (Vec<String>, usize)) {
    assert!(sent > 400, "{sent}");
    assert!(
        faults.is_empty(),
        "{} of {sent}:\n{}",
        faults.len(),
        faults.join("\n")
    );
}

#[test]
fn every_reply_is_one_that_is_described() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let circuit = ruhe.job("bench_component");
    let (test, _, _) = ruhe.hold(&circuit);
    // What is there, what is not, and what cannot be an id.
    let ids = [circuit.as_str(), test.as_str(), "nothing", "%00%20"];
    must_be_none(faults(&ruhe, &ruhe.client, ids));
}

#[test]
fn every_reply_to_a_lead_and_to_an_office_worker_too() {
    let (_dir, ruhe) = house();
    let lead = signed_in(&ruhe, LEAD, "desk");
    let job = json!({"site_name": "Saltmarsh School", "system_name": "Gym split",
        "circuits": [{"tag": "A", "name": "Line set", "kind": "bench_component", "refrigerant": "R-32",
            "plates": []}]});
    let (_, made) = call(&ruhe, &lead, "POST", "/api/jobs", &job);
    let circuit = made["circuit_ids"][0].as_str().unwrap().to_owned();
    let people = call(&ruhe, &lead, "GET", "/api/people", &Value::Null).1;
    let person = people[0]["id"].as_str().unwrap();
    let ids = [circuit.as_str(), person, "nothing", "%00%20"];
    must_be_none(faults(&ruhe, &lead, ids));
    let office = signed_in(&ruhe, ("Tess Quill", PASSWORD), "office");
    must_be_none(faults(&ruhe, &office, ids));
}
