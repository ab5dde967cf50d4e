//! An acknowledged reading survives `kill -9` at any moment, again and again.

use crate::support::{Ruhe, now_ms};
use serde_json::json;
use std::collections::HashSet;
use std::sync::mpsc;
use std::time::Duration;

#[test]
fn every_acknowledged_reading_survives_kill_9() {
    let dir = tempfile::tempdir().unwrap();
    let mut ruhe = Ruhe::start(dir.path());
    let (test, p, _) = ruhe.hold(&ruhe.job("bench_component"));
    let mut acknowledged: HashSet<String> = HashSet::new();
    for round in 0..6u64 {
        let (tx, rx) = mpsc::channel();
        let (url, client, path, channel) = (
            ruhe.url.clone(),
            ruhe.client.clone(),
            format!("/api/tests/{test}/readings"),
            p.clone(),
        );
        let writer = std::thread::spawn(move || {
            for i in 0.. {
                let id = format!("r{round}-{i}");
                let body = json!({"readings": [{"id": id, "channel_id": channel, "typed": "300.1",
                    "client_ms": now_ms()}]});
                match client
                    .post(format!("{url}{path}"))
                    .json(&body)
                    .timeout(Duration::from_secs(5))
                    .send()
                {
                    Ok(r) if r.status() == 201 => tx.send(id).unwrap(),
                    _ => break,
                }
            }
        });
        std::thread::sleep(Duration::from_millis(120 + 53 * round));
        // SIGKILL: no handler, no flush, no goodbye.
        ruhe.process.kill().unwrap();
        ruhe.process.wait().unwrap();
        writer.join().unwrap();
        acknowledged.extend(rx.iter());
        ruhe = Ruhe::start(dir.path());
        let kept = ruhe.get(&format!("/api/tests/{test}"))["reading_count"]
            .as_u64()
            .unwrap();
        assert!(
            kept >= acknowledged.len() as u64,
            "round {round}: {kept} kept of {} acknowledged",
            acknowledged.len()
        );
    }
    assert!(
        acknowledged.len() > 20,
        "too few were acknowledged to say anything: {}",
        acknowledged.len()
    );
    // Each of them, not only as many: sending all again finds every one known.
    let all: Vec<_> = acknowledged
        .iter()
        .map(|id| json!({"id": id, "channel_id": p, "typed": "300.1", "client_ms": now_ms()}))
        .collect();
    let stored: serde_json::Value = ruhe
        .post(
            &format!("/api/tests/{test}/readings"),
            &json!({"readings": all}),
        )
        .json()
        .unwrap();
    assert_eq!(
        (stored["new"].as_u64(), stored["known"].as_u64()),
        (Some(0), Some(acknowledged.len() as u64))
    );
}
