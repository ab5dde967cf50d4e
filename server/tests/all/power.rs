//! The power goes at any moment: what lies on the disk then, with half a write behind it, has every acknowledged reading.
//! `RUHE_POWER=rounds` goes on for longer.

use crate::support::{Ruhe, Stop, command, now_ms};
use serde_json::{Value, json};
use std::io::Write as _;
use std::path::Path;
use std::process::Command;
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::mpsc;
use std::time::Duration;

/// A house whose files are copied while nothing moves: the process is stopped for so long, as the power would stop it.
fn as_it_lies(ruhe: &Ruhe, from: &Path, to: &Path) {
    let pid = ruhe.process.id().to_string();
    let signal = |name: &str| {
        let sent = Command::new("kill").args([name, &pid]).status().unwrap();
        assert!(sent.success());
    };
    signal("-STOP");
    std::fs::create_dir(to).unwrap();
    for file in std::fs::read_dir(from).unwrap() {
        let file = file.unwrap();
        // What SQLite shares between processes does not outlive them.
        let name = file.file_name();
        if file.path().is_file() && name != "ruhe.sqlite-shm" {
            std::fs::copy(file.path(), to.join(name)).unwrap();
        }
    }
    signal("-CONT");
}

#[test]
fn every_acknowledged_reading_lies_on_the_disk_when_the_power_goes() {
    let rounds: usize = std::env::var("RUHE_POWER").map_or(6, |n| n.parse().unwrap());
    let dir = tempfile::tempdir().unwrap();
    let house = dir.path().join("house");
    let ruhe = Ruhe::start(&house);
    let (test, p, _) = ruhe.hold(&ruhe.job("bench_component"));
    let (tx, rx) = mpsc::channel();
    let done = AtomicBool::new(false);
    std::thread::scope(|s| {
        for writer in 0..3 {
            let (url, client, tx) = (ruhe.url.clone(), ruhe.client.clone(), tx.clone());
            let (test, p, done) = (&test, &p, &done);
            s.spawn(move || {
                for n in 0.. {
                    if done.load(Ordering::Relaxed) {
                        break;
                    }
                    let id = format!("w{writer}-{n}");
                    let body = json!({"readings": [{"id": id, "channel_id": p, "typed": "300.1",
                        "client_ms": now_ms()}]});
                    let path = format!("{url}/api/tests/{test}/readings");
                    let r = client.post(path).json(&body).send().unwrap();
                    assert_eq!(r.status(), 201);
                    tx.send(id).unwrap();
                }
            });
        }
        let _stop = Stop(&done);
        let mut acknowledged: Vec<String> = vec![];
        for round in 0..rounds {
            std::thread::sleep(Duration::from_millis(90 + 37 * (round as u64 % 11)));
            // Whatever was acknowledged before the power went.
            acknowledged.extend(rx.try_iter());
            let lies = dir.path().join(format!("lies-{round}"));
            as_it_lies(&ruhe, &house, &lies);
            // Half a write of what came next: a torn page, or a few letters of a line.
            for (name, torn) in [
                ("ruhe.sqlite-wal", 1_000 + 517 * (round % 7)),
                ("heads.log", round % 9),
            ] {
                let path = lies.join(name);
                if path.exists() {
                    let mut file = std::fs::OpenOptions::new().append(true).open(path).unwrap();
                    file.write_all(&vec![b'x'; torn]).unwrap();
                }
            }
            let again = Ruhe::start(&lies);
            let all: Vec<Value> = acknowledged
                .iter()
                .map(|id| json!({"id": id, "channel_id": p, "typed": "300.1", "client_ms": now_ms()}))
                .collect();
            for some in all.chunks(400) {
                let path = format!("/api/tests/{test}/readings");
                let stored: Value = again
                    .post(&path, &json!({"readings": some}))
                    .json()
                    .unwrap();
                assert_eq!(
                    (stored["new"].as_u64(), stored["known"].as_u64()),
                    (Some(0), Some(some.len() as u64)),
                    "round {round}: {stored}"
                );
            }
            drop(again);
            let told = command(&["verify", "--data", lies.to_str().unwrap()]);
            let words = String::from_utf8_lossy(&told.stdout).into_owned();
            assert_eq!(told.status.code(), Some(0), "round {round}: {words}");
            std::fs::remove_dir_all(&lies).unwrap();
        }
        assert!(acknowledged.len() > 5 * rounds, "{}", acknowledged.len());
    });
}
