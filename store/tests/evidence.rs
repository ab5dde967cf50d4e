//! What was kept stays as it is; a signed circuit takes nothing more; a repeated reading is stored once.
#![allow(clippy::unwrap_used)]

use diesel::connection::SimpleConnection;
use diesel::prelude::*;
use ruhe_store::rows::{Circuit, Entry, EntrySignature, Gauge, Person, Photo, Reading, Site};
use ruhe_store::{Store, StoreError, Stored, Wanted};

fn entry(seq: i64, id: &str, deed: &str) -> Entry {
    Entry {
        log: "c".into(),
        seq,
        id: id.into(),
        deed: deed.into(),
        json: format!("{{\"seq\":{seq}}}"),
        hash: format!("h{seq}"),
    }
}

fn circuit(seq: i64) -> Circuit {
    let text = |s: &str| s.to_owned();
    Circuit {
        id: text("c"),
        seq,
        job: text("new_split"),
        site: text("Site"),
        place: String::new(),
        system: text("Unit"),
        serial: text("S-17"),
        tag: text("A"),
        name: text("One"),
        refrigerant: text("R-32"),
        stage: text("Survey"),
        state: None,
        is_open: true,
        at_ms: 5,
        words: text("site unit s-17 a one r-32 100% survey"),
        json: text("{}"),
    }
}

fn reading(id: &str, typed: &str) -> Reading {
    Reading {
        id: id.into(),
        test: 1,
        channel: 0,
        at_ms: 10,
        typed: typed.into(),
        value: typed.parse().unwrap(),
        origin: "live".into(),
        actor: "A. Fitter".into(),
        device: "phone".into(),
        client_ms: Some(10),
        received_ms: 11,
        skewed: false,
    }
}

/// A store with a circuit, a test, a reading, a photo and a site, in a folder of its own.
fn store() -> (tempfile::TempDir, Store) {
    let dir = tempfile::tempdir().unwrap();
    let store = Store::open(dir.path()).unwrap();
    store
        .write(|tx| {
            tx.append(&[entry(1, "c", "opened"), entry(2, "t", "planned")])?;
            assert_eq!(tx.add_test("t", "c")?.n, 1);
            tx.add_recording("digest", "t")?;
            tx.add_readings(&[reading("a", "300.20")])?;
            tx.add_photo(&Photo {
                id: "p".into(),
                circuit: "c".into(),
                mime: "image/png".into(),
                bytes: vec![1, 2],
            })?;
            tx.put_site(&Site {
                id: "s".into(),
                name: "Site".into(),
                place: String::new(),
            })?;
            tx.sign(&[EntrySignature {
                log: "c".into(),
                seq: 1,
                key: "k".into(),
                signature: "s".into(),
            }])?;
            tx.tell("a", "what was asked")?;
            tx.add_person(&Person {
                id: "h".into(),
                name: "Odo Fenn".into(),
                role: "lead".into(),
                password: "x".into(),
                is_out: false,
            })?;
            tx.add_gauge(&Gauge {
                id: "g".into(),
                name: "Manifold 3".into(),
                token: "x".into(),
                made_by: "Odo Fenn".into(),
                made_ms: 0,
                seen_ms: None,
                is_simulated: false,
                is_out: false,
            })?;
            tx.index(&circuit(2))?;
            Ok::<_, StoreError>(())
        })
        .unwrap();
    (dir, store)
}

fn raw(dir: &tempfile::TempDir) -> SqliteConnection {
    SqliteConnection::establish(dir.path().join("ruhe.sqlite").to_str().unwrap()).unwrap()
}

#[derive(QueryableByName)]
struct Named {
    #[diesel(sql_type = diesel::sql_types::Text)]
    name: String,
}

#[test]
fn every_table_has_triggers_and_refuses_what_it_must() {
    let (dir, _store) = store();
    let mut c = raw(&dir);
    let tables: Vec<Named> = diesel::sql_query(
        "SELECT name FROM sqlite_master WHERE type = 'table' AND name NOT LIKE 'sqlite_%' AND name NOT LIKE \
         '__diesel%'",
    )
    .load(&mut c)
    .unwrap();
    // What each table must refuse, and with which words.
    let refusals: &[(&str, &[&str], &str)] = &[
        (
            "entries",
            &[
                "UPDATE entries SET json = '{}'",
                "UPDATE entries SET hash = 'x' WHERE seq = 1",
                "DELETE FROM entries",
            ],
            "insert-only",
        ),
        (
            "signatures",
            &[
                "UPDATE signatures SET signature = 'x'",
                "DELETE FROM signatures",
            ],
            "insert-only",
        ),
        (
            "told",
            &["UPDATE told SET what = 'x'", "DELETE FROM told"],
            "insert-only",
        ),
        (
            "readings",
            &[
                "UPDATE readings SET value = 1",
                "UPDATE readings SET typed = '1' WHERE id = 'a'",
                "DELETE FROM readings",
            ],
            "insert-only",
        ),
        (
            "photos",
            &["UPDATE photos SET bytes = x'00'", "DELETE FROM photos"],
            "insert-only",
        ),
        (
            "tests",
            &["UPDATE tests SET circuit = 'd'", "DELETE FROM tests"],
            "insert-only",
        ),
        (
            "recordings",
            &["UPDATE recordings SET test = 'x'", "DELETE FROM recordings"],
            "insert-only",
        ),
        ("circuits", &["DELETE FROM circuits"], "stay in the index"),
        (
            "sites",
            &["UPDATE sites SET id = 'z'", "DELETE FROM sites"],
            "stay in the index",
        ),
        (
            "people",
            &["DELETE FROM people"],
            "are shut out, not erased",
        ),
        (
            "gauges",
            &["DELETE FROM gauges"],
            "are shut out, not erased",
        ),
        // What only matters now: who is signed in, what is read into what.
        ("sessions", &[], ""),
        ("known_devices", &[], ""),
        // Counted by the hour, and forgotten after a year.
        ("refusals", &[], ""),
        ("bindings", &[], ""),
        ("simulated", &[], ""),
    ];
    for t in &tables {
        let Some((_, statements, words)) = refusals.iter().find(|r| r.0 == t.name) else {
            panic!("nobody says what {} refuses", t.name);
        };
        for sql in *statements {
            let e = c.batch_execute(sql).unwrap_err().to_string();
            assert!(e.contains(words), "{sql}: {e}");
        }
    }
    assert_eq!(tables.len(), refusals.len());
    // The index says what the log says, and no other.
    for sql in [
        "UPDATE circuits SET seq = 1",
        "UPDATE circuits SET id = 'd'",
        "INSERT INTO circuits SELECT 'd', 1, job, site, place, system, serial, tag, name, refrigerant, stage, \
         state, is_open, at_ms, words, json FROM circuits",
    ] {
        let e = c.batch_execute(sql).unwrap_err().to_string();
        assert!(e.contains("does not follow the log"), "{sql}: {e}");
    }
}

#[test]
fn an_entry_stands_right_after_the_one_before_it() {
    let (_dir, store) = store();
    for (seq, id) in [(2, "x"), (4, "x"), (0, "x"), (3, "t")] {
        let done = store.write(|tx| tx.append(&[entry(seq, id, "marked")]));
        assert!(matches!(done, Err(StoreError::Database(_))), "{seq} {id}");
    }
    store
        .write(|tx| tx.append(&[entry(3, "x", "marked")]))
        .unwrap();
    let log = store.read(|tx| tx.log("c")).unwrap();
    assert_eq!(log.iter().map(|e| e.seq).collect::<Vec<_>>(), [1, 2, 3]);
    assert!(store.read(|tx| tx.is_last("c", 3, "h3")).unwrap());
}

#[test]
fn a_reading_sent_twice_is_stored_once_and_one_that_changed_is_refused() {
    let (_dir, store) = store();
    let batch = [reading("a", "300.20"), reading("b", "300.1")];
    let send = |batch: &[Reading]| store.write(|tx| tx.add_readings(batch));
    assert_eq!(send(&batch).unwrap(), Stored { new: 1, known: 1 });
    assert_eq!(send(&batch).unwrap(), Stored { new: 0, known: 2 });
    let typed = || {
        store
            .read(|tx| tx.readings(1))
            .unwrap()
            .into_iter()
            .map(|r| r.typed)
            .collect::<Vec<_>>()
    };
    assert_eq!(typed(), ["300.20", "300.1"]);
    // All or nothing: the new one beside the changed one is not kept.
    assert!(matches!(
        send(&[reading("n", "1"), reading("a", "301")]),
        Err(StoreError::Conflict(_))
    ));
    assert_eq!(typed().len(), 2);
}

#[test]
fn an_ended_test_takes_no_readings_and_a_signed_circuit_nothing_at_all() {
    let (_dir, store) = store();
    store.write(|tx| tx.set_open("t", false)).unwrap();
    let late = store.write(|tx| tx.add_readings(&[reading("late", "1")]));
    assert!(matches!(late, Err(StoreError::Closed(_))));
    store
        .write(|tx| tx.append(&[entry(3, "g", "signed")]))
        .unwrap();
    let again = store.write(|tx| tx.append(&[entry(4, "g2", "signed")]));
    assert!(matches!(again, Err(StoreError::Closed(_))));
    let more = store.write(|tx| tx.append(&[entry(4, "e", "marked")]));
    assert!(matches!(more, Err(StoreError::Closed(_))));
    let open = store.write(|tx| tx.set_open("t", true));
    assert!(matches!(open, Err(StoreError::Closed(_))));
    let photo = store.write(|tx| {
        tx.add_photo(&Photo {
            id: "q".into(),
            circuit: "c".into(),
            mime: "image/png".into(),
            bytes: vec![],
        })
    });
    assert!(matches!(photo, Err(StoreError::Closed(_))));
}

#[test]
fn what_fails_half_way_keeps_nothing() {
    let (_dir, store) = store();
    let done: Result<(), StoreError> = store.write(|tx| {
        tx.append(&[entry(3, "x", "marked")])?;
        tx.add_readings(&[reading("b", "1")])?;
        Err(StoreError::Conflict("changed my mind".into()))
    });
    assert!(matches!(done, Err(StoreError::Conflict(_))));
    assert_eq!(store.read(|tx| tx.log("c")).unwrap().len(), 2);
    assert_eq!(store.read(|tx| tx.count_readings(1)).unwrap(), 1);
}

#[test]
fn a_search_takes_words_as_they_are() {
    let (_dir, store) = store();
    let found = |words: &[&str]| {
        let wanted = Wanted {
            words: words.iter().map(|w| (*w).into()).collect(),
            most: 10,
            ..Wanted::default()
        };
        store.read(|tx| tx.search(&wanted, "kit")).unwrap().len()
    };
    assert_eq!((found(&[]), found(&["S-17", "unit"])), (1, 1));
    assert_eq!((found(&["100%"]), found(&["10_%"])), (1, 0));
    assert_eq!(found(&["unit", "nowhere"]), 0);
}

#[test]
fn a_backup_opens_and_does_not_overwrite() {
    let (dir, store) = store();
    let copy = dir.path().join("copy");
    std::fs::create_dir(&copy).unwrap();
    store.backup(&copy.join("ruhe.sqlite")).unwrap();
    let copied = Store::open(&copy).unwrap();
    assert_eq!(
        copied.read(|tx| tx.readings(1)).unwrap(),
        store.read(|tx| tx.readings(1)).unwrap()
    );
    assert!(matches!(
        store.backup(&copy.join("ruhe.sqlite")),
        Err(StoreError::Conflict(_))
    ));
}
