//! Durable readings through the store beside a bare prepared insert of the same batches, in one run.
//! `cargo bench -p ruhe-store`
#![allow(clippy::unwrap_used, clippy::print_stdout)]

use diesel::connection::SimpleConnection;
use diesel::prelude::*;
use ruhe_store::Store;
use ruhe_store::rows::{Entry, Reading};
use std::time::Instant;

const BATCHES: usize = 300;
const BATCH: usize = 20;

fn main() {
    let dir = tempfile::tempdir().unwrap();
    let store = Store::open(dir.path()).unwrap();
    let text = |s: &str| s.to_owned();
    let test = store
        .write(|tx| {
            tx.append(&[Entry {
                log: text("c"),
                seq: 1,
                id: text("c"),
                deed: text("opened"),
                json: text("{}"),
                hash: text("h"),
            }])?;
            tx.add_test("t", "c")
        })
        .unwrap()
        .n;
    let batches: Vec<Vec<Reading>> = (0..BATCHES)
        .map(|b| {
            (0..BATCH)
                .map(|i| Reading {
                    id: format!("{b:016x}{i:016x}"),
                    test,
                    channel: 0,
                    at_ms: (b * BATCH + i) as i64,
                    typed: text("300.1"),
                    value: 300.1,
                    origin: text("live"),
                    actor: text("A. Fitter"),
                    device: text("phone"),
                    client_ms: Some(1),
                    received_ms: 2,
                    skewed: false,
                })
                .collect()
        })
        .collect();
    let started = Instant::now();
    for b in &batches {
        store.write(|tx| tx.add_readings(b)).unwrap();
    }
    let ours = (BATCHES * BATCH) as f64 / started.elapsed().as_secs_f64();

    let mut c =
        SqliteConnection::establish(dir.path().join("bare.sqlite").to_str().unwrap()).unwrap();
    c.batch_execute(
        "PRAGMA journal_mode = WAL; PRAGMA synchronous = FULL; CREATE TABLE r (seq INTEGER PRIMARY KEY, id TEXT UNIQUE, t INTEGER, c INTEGER, at INTEGER, typed TEXT, v REAL, o TEXT, cm INTEGER, rm INTEGER, k INTEGER) STRICT;
         CREATE INDEX rt ON r(t, at);",
    )
    .unwrap();
    let started = Instant::now();
    for b in &batches {
        c.immediate_transaction(|c| {
            for r in b {
                // The same statement text each time: Diesel keeps it prepared.
                diesel::sql_query("INSERT INTO r (id, t, c, at, typed, v, o, cm, rm, k) VALUES (?,?,?,?,?,?,?,?,?,0)")
                    .bind::<diesel::sql_types::Text, _>(&r.id)
                    .bind::<diesel::sql_types::BigInt, _>(r.test)
                    .bind::<diesel::sql_types::Integer, _>(r.channel)
                    .bind::<diesel::sql_types::BigInt, _>(r.at_ms)
                    .bind::<diesel::sql_types::Text, _>(&r.typed)
                    .bind::<diesel::sql_types::Double, _>(r.value)
                    .bind::<diesel::sql_types::Text, _>(&r.origin)
                    .bind::<diesel::sql_types::BigInt, _>(1)
                    .bind::<diesel::sql_types::BigInt, _>(r.received_ms)
                    .execute(c)?;
            }
            diesel::QueryResult::Ok(())
        })
        .unwrap();
    }
    let bare = (BATCHES * BATCH) as f64 / started.elapsed().as_secs_f64();
    println!(
        "durable acknowledged readings: {ours:.0}/s through the store, {bare:.0}/s bare, ratio {:.2}",
        ours / bare
    );
}
