//! A house one can live in: Today, a circuit, a search and a stored reading with 10,000 circuits, 200 of them open, one
//! live gauge; then what a stored reading takes with 20 gauges. Over HTTP, the release build.
//! `cargo bench -p ruhe-server --bench house`
#![allow(clippy::unwrap_used, clippy::print_stdout)]

#[path = "../tests/all/support/mod.rs"]
mod support;

use ruhe_job::log::{Entry, sha256};
use ruhe_job::record::Key;
use ruhe_store::{Store, rows};
use serde_json::{Value, json};
use std::path::Path;
use std::time::{Duration, Instant};
use support::{Ruhe, hold_body, now_ms};

const SIGNED: usize = 9_800;
const OPEN: usize = 200;
/// So many circuits go into one transaction.
const CHUNK: usize = 100;

/// One circuit as it stands in the store.
struct Mould {
    entries: Vec<rows::Entry>,
    index: rows::Circuit,
    /// Tests with their readings.
    tests: Vec<(rows::Test, Vec<rows::Reading>)>,
}

fn mould(store: &Store, id: &str) -> Mould {
    store
        .read(|tx| {
            let entries = tx.log(id)?;
            let mut tests = vec![];
            for e in entries.iter().filter(|e| e.deed == "planned") {
                let t = tx.test(&e.id)?;
                let readings = tx.readings(t.n)?;
                tests.push((t, readings));
            }
            let wanted = ruhe_store::Wanted {
                most: 1_000,
                ..Default::default()
            };
            let index = tx
                .search(&wanted, "kit")?
                .into_iter()
                .find(|c| c.id == id)
                .unwrap();
            Ok::<_, ruhe_store::StoreError>(Mould {
                entries,
                index,
                tests,
            })
        })
        .unwrap()
}

/// Casts copies: every id gets an ending of its own, and the chain is made anew.
fn cast(store: &Store, key: &Key, m: &Mould, from: usize, to: usize) {
    store
        .write(|tx| {
            for k in from..to {
                let renamed = |text: &str| {
                    let mut out = text.to_owned();
                    for e in &m.entries {
                        out = out.replace(&e.id, &format!("{}-{k}", e.id));
                    }
                    out
                };
                let mut before = "0".repeat(64);
                let mut cast = vec![];
                for e in &m.entries {
                    let mut entry: Entry = serde_json::from_str(&renamed(&e.json)).unwrap();
                    entry.before = before;
                    let json = entry.canonical().unwrap();
                    before = sha256(json.as_bytes());
                    // Signed as when it is kept: nothing else is shown.
                    tx.sign(&[rows::EntrySignature {
                        log: entry.log.clone(),
                        seq: e.seq,
                        key: key.public(),
                        signature: key.sign_entry(&entry.log, entry.seq, &before),
                    }])?;
                    cast.push(rows::Entry {
                        log: entry.log,
                        id: entry.id,
                        json,
                        hash: before.clone(),
                        ..e.clone()
                    });
                }
                // The store takes nothing more once it is signed.
                let last = cast.split_off(cast.len() - 1);
                tx.append(&cast)?;
                for (t, readings) in &m.tests {
                    let n = tx.add_test(&renamed(&t.id), &cast[0].log)?.n;
                    let copies: Vec<rows::Reading> = readings
                        .iter()
                        .map(|r| rows::Reading {
                            id: format!("{}-{k}", r.id),
                            test: n,
                            ..r.clone()
                        })
                        .collect();
                    tx.add_readings(&copies)?;
                    tx.set_open(&renamed(&t.id), t.is_open)?;
                }
                tx.append(&last)?;
                let serial = format!("invented-{k:05}");
                tx.index(&rows::Circuit {
                    id: renamed(&m.index.id),
                    json: renamed(&m.index.json),
                    words: format!("{} {serial}", m.index.words),
                    serial,
                    ..m.index.clone()
                })?;
            }
            Ok::<_, ruhe_store::StoreError>(())
        })
        .unwrap();
}

/// Two circuits made as a person makes them: one signed, one in work with a finished and a running hold.
fn moulds(dir: &Path) -> (Mould, Mould) {
    let (signed, open) = {
        let ruhe = Ruhe::start(dir);
        let made = |is_signed: bool| {
            let c = ruhe.job("bench_component");
            ruhe.step(&c, "boundary_valves_checked", "two, both shut");
            ruhe.step(&c, "instruments_in_date", "same set");
            ruhe.finished_hold(&c, &hold_body(300.0), 300.0, 0.0);
            if is_signed {
                ruhe.look_everywhere(&c);
                ruhe.step(&c, "capped_and_labelled", "nitrogen, 300 psig");
                let s = json!({"name": "Odo Fenn", "role": "Technician", "statement": "Seen.", "state": "passed"});
                assert_eq!(
                    ruhe.post(&format!("/api/circuits/{c}/signature"), &s)
                        .status(),
                    201
                );
            } else {
                ruhe.hold(&c);
            }
            c
        };
        (made(true), made(false))
    };
    let store = Store::open(dir).unwrap();
    (mould(&store, &signed), mould(&store, &open))
}

fn timed(name: &str, target: f64, times: usize, mut act: impl FnMut(usize)) {
    let mut took: Vec<f64> = (0..times)
        .map(|i| {
            let started = Instant::now();
            act(i);
            started.elapsed().as_secs_f64() * 1e3
        })
        .collect();
    took.sort_by(f64::total_cmp);
    let of = |share: f64| took[((times - 1) as f64 * share) as usize];
    println!(
        "{name:44} median {:6.1} ms   p95 {:6.1} ms   worst {:6.1} ms   target {target} ms",
        of(0.5),
        of(0.95),
        of(1.0)
    );
}

fn listen(ruhe: &Ruhe, test: &str) {
    let r = ruhe.post(&format!("/api/tests/{test}/gauge"), &json!({}));
    assert!(r.status().is_success(), "{}", r.text().unwrap());
}

fn main() {
    let dir = tempfile::tempdir().unwrap();
    let (signed, open) = moulds(dir.path());
    let started = Instant::now();
    {
        let store = Store::open(dir.path()).unwrap();
        let key = ruhe_server::key::load(dir.path(), false).unwrap();
        for from in (0..SIGNED).step_by(CHUNK) {
            cast(&store, &key, &signed, from, (from + CHUNK).min(SIGNED));
        }
        for from in (0..OPEN).step_by(CHUNK) {
            cast(
                &store,
                &key,
                &open,
                SIGNED + from,
                SIGNED + (from + CHUNK).min(OPEN),
            );
        }
    }
    println!(
        "{SIGNED} signed and {OPEN} open circuits in {:.0} s",
        started.elapsed().as_secs_f64()
    );

    let started = Instant::now();
    let ruhe = Ruhe::start_with(dir.path(), &["--simulated-gauges"]);
    println!("usable after {:.2} s", started.elapsed().as_secs_f64());
    let (circuit, test) = (&open.index.id, &open.tests[1].0.id);
    let of = |id: &str, k: usize| format!("{id}-{}", SIGNED + k);
    listen(&ruhe, &of(test, 0));
    std::thread::sleep(Duration::from_secs(3));
    timed("Today", 50.0, 200, |_| {
        ruhe.get("/api/today");
    });
    timed(
        "a circuit in work, each for the first time",
        100.0,
        OPEN - 1,
        |i| {
            ruhe.get(&format!("/api/circuits/{}", of(circuit, 1 + i)));
        },
    );
    timed("the circuit whose gauge is live", 100.0, 200, |_| {
        ruhe.get(&format!("/api/circuits/{}", of(circuit, 0)));
    });
    timed(
        "a signed circuit, each for the first time",
        100.0,
        200,
        |i| {
            ruhe.get(&format!("/api/circuits/{}-{}", signed.index.id, 40 * i));
        },
    );
    timed("a search by serial number", 50.0, 200, |i| {
        let found = ruhe.get(&format!("/api/search?q=invented-{:05}", 31 * i));
        assert_eq!(found.as_array().unwrap().len(), 1);
    });
    let read = |k: usize, i: usize| {
        let id = of(test, k);
        let r = json!({"readings": [{"id": format!("r{k}-{i}"), "channel_id": format!("{id}.c0"),
            "typed": "300.1", "client_ms": now_ms()}]});
        let told = ruhe.post(&format!("/api/tests/{id}/readings"), &r);
        assert_eq!(told.status(), 201, "{}", told.text().unwrap());
    };
    timed("a reading stored", 10.0, 300, |i| read(1, i));
    for k in 1..20 {
        listen(&ruhe, &of(test, 10 + k));
    }
    std::thread::sleep(Duration::from_secs(5));
    timed("a reading stored, 20 gauges live", 10.0, 300, |i| {
        read(2, i)
    });
    timed("Today, 20 gauges live", 50.0, 200, |_| {
        ruhe.get("/api/today");
    });
    // A day at a reading a second comes in as a file; others go on typing.
    let url = format!(
        "{}/api/circuits/{}/packages?file=day.zip",
        ruhe.url,
        of(circuit, 60)
    );
    let day = package_of_a_day();
    let import = std::thread::spawn(move || {
        let started = Instant::now();
        let r = reqwest::blocking::Client::new()
            .post(url)
            .header("Content-Type", "application/zip")
            .timeout(Duration::from_secs(600))
            .body(day)
            .send()
            .unwrap();
        assert_eq!(r.status(), 201, "{}", r.text().unwrap());
        started.elapsed()
    });
    let mut n = 0;
    timed("a reading stored while a day is imported", 50.0, 400, |i| {
        if !import.is_finished() {
            n = i;
        }
        read(3, i);
    });
    println!(
        "the day was imported in {:.1} s; {n} readings were stored meanwhile",
        import.join().unwrap().as_secs_f64()
    );
    let _: Value = ruhe.get("/api/meta");
}

/// A hold of a day at a reading a second, four channels.
fn package_of_a_day() -> Vec<u8> {
    let about = json!({"profile": "tabular-data-package", "resources": [], "ruhe": {"version": 1,
        "kind": "pressure-hold"}});
    let mut channels = "channel,quantity,unit,resolution\nP,gauge_pressure,psig,0.1\n".to_owned();
    for t in 1..4 {
        channels += &format!("T{t},temperature,degF,0.1\n");
    }
    let mut readings = "elapsed_s,channel,value\n".to_owned();
    for k in 0..86_400u32 {
        let wave = f64::from(k % 7) / 10.0;
        readings += &format!("{k},P,{:.1}\n", 300.0 + wave);
        for t in 1..4 {
            readings += &format!("{k},T{t},{:.1}\n", 70.0 + wave);
        }
    }
    let files = [
        ("datapackage.json", about.to_string()),
        ("channels.csv", channels),
        ("readings.csv", readings),
    ];
    let files = files.map(|(n, t)| (n.to_owned(), t.into_bytes()));
    ruhe_server::files::zip(&ruhe_core::reading::PackageFiles(files.into())).unwrap()
}
