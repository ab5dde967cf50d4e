//! A log that a later version wrote on: it is read as far as it is known, and nothing is added, printed or given out.

use crate::forged::{copied, house};
use crate::support::*;
use ruhe_job::log::{FORMAT, sha256};
use ruhe_server::AppState;
use ruhe_store::rows;
use serde_json::{Value, json};
use std::path::Path;

/// Appends to a log what a later version would have, signed with the house's own key.
fn written_later(dir: &Path, log: &str, deed: &Value) {
    let house = AppState::open_folder(dir).unwrap();
    house
        .store
        .write(|tx| {
            let last = tx.last(log)?.unwrap();
            let mut line = json!({"log": log, "seq": last.seq + 1, "id": format!("{log}.later"),
                "actor": "Ada Tarn", "device": "phone",
                "said_ms": now_ms(), "kept_ms": now_ms(), "before": last.hash, "format": FORMAT + 1,
                    "ruhe": "ruhe 7.1"});
            line.as_object_mut()
                .unwrap()
                .extend(deed.as_object().unwrap().clone());
            let json = serde_jcs::to_string(&line).unwrap();
            let hash = sha256(json.as_bytes());
            let seq = last.seq + 1;
            tx.sign(&[rows::EntrySignature {
                log: log.into(),
                seq,
                key: house.key.public(),
                signature: house
                    .key
                    .sign_entry(log, u64::try_from(seq).unwrap(), &hash),
            }])?;
            tx.append(&[rows::Entry {
                log: log.into(),
                seq,
                id: format!("{log}.later"),
                deed: deed["deed"].as_str().unwrap().into(),
                json,
                hash,
            }])
        })
        .unwrap();
}

#[test]
fn what_a_later_version_wrote_is_shown_as_far_as_it_is_known_and_closed() {
    let (dir, signed, _) = house();
    let ruhe = Ruhe::start(dir.path());
    let running = ruhe.job("new_split");
    let (test, ..) = ruhe.hold(&running);
    drop(ruhe);
    // A deed that nobody knows here, one that says more than is known, and a person of the kit.
    written_later(
        dir.path(),
        &running,
        &json!({"deed": "taken_back", "what": "all of it"}),
    );
    written_later(
        dir.path(),
        &signed,
        &json!({"deed": "added", "name": "Odo Fenn", "words": "late", "completes": false, "at_ms": 1,
            "device_ms": null, "weight": 3}),
    );
    let copy = copied(dir.path());
    let ruhe = Ruhe::start(copy.path());
    for id in [&running, &signed] {
        let c = ruhe.get(&format!("/api/circuits/{id}"));
        let says = c["newer"].as_str().unwrap();
        assert!(
            says.contains("was written by ruhe 7.1") && says.contains("number 2"),
            "{says}"
        );
    }
    let closed = |r: reqwest::blocking::Response| {
        let status = r.status();
        let words = r.text().unwrap();
        assert_eq!(status, 409, "{words}");
        assert!(words.contains("Go on with ruhe 7.1"), "{words}");
    };
    closed(ruhe.look(&running, "flare indoors", "bubbles", "clear"));
    closed(ruhe.post(&format!("/api/tests/{test}/end"), &json!({})));
    let name = json!({"name": "Odo Fenn", "role": "Witness", "statement": "Seen."});
    closed(ruhe.post(&format!("/api/circuits/{signed}/witness"), &name));
    closed(ruhe.post(
        &format!("/api/circuits/{signed}/visits"),
        &json!({"reason": "again", "job": "repair"}),
    ));
    let ended = ruhe.get(&format!("/api/circuits/{signed}"))["stages"]
        .as_array()
        .unwrap()
        .iter()
        .find_map(|s| s["tests"][0]["id"].as_str().map(ToOwned::to_owned))
        .unwrap();
    for file in [
        format!("circuits/{signed}/record.pdf"),
        format!("circuits/{signed}/record.zip"),
        format!("tests/{ended}/package"),
        "season.zip?from=2000-01-01&to=2100-01-01".into(),
    ] {
        let r = ruhe.client.get(format!("{}/api/{file}", ruhe.url));
        let r = r.send().unwrap();
        assert!(r.status().is_client_error(), "{file}: {}", r.status());
        assert!(r.text().unwrap().contains("ruhe 7.1"), "{file}");
    }
    // Other circuits go on, and all is as it was kept.
    ruhe.job("bench_component");
    drop(ruhe);
    let folder = copy.path().to_str().unwrap();
    let told = command(&["verify", "--data", folder]);
    assert!(
        told.status.success(),
        "{}",
        String::from_utf8_lossy(&told.stdout)
    );
    // Written anew by this version, the list names no state that may be another by now.
    assert!(command(&["rebuild", "--data", folder]).status.success());
    let ruhe = Ruhe::start(copy.path());
    let found = ruhe.get("/api/search");
    let row = found
        .as_array()
        .unwrap()
        .iter()
        .find(|c| c["circuit_id"] == json!(signed))
        .unwrap();
    assert_eq!(row["stage"], "Written by a newer version", "{row}");
    assert_eq!(row["state"], Value::Null, "{row}");
}
