//! Evidence is added, never changed; a signed circuit takes nothing more; a repeated reading is stored once.
#![allow(clippy::unwrap_used)]

mod support;

use diesel::connection::SimpleConnection;
use diesel::prelude::*;
use ruhe_store::rows::*;
use ruhe_store::{Store, StoreError, Stored};
use support::{reading, signature, store};

#[test]
fn a_reading_sent_twice_is_stored_once_and_one_that_changed_is_refused() {
    let (_dir, store) = store();
    let batch = [reading("a", "300.20"), reading("b", "300.1")];
    assert_eq!(
        store.add_readings(&batch).unwrap(),
        Stored { new: 2, known: 0 }
    );
    assert_eq!(
        store.add_readings(&batch).unwrap(),
        Stored { new: 0, known: 2 }
    );
    assert_eq!(store.valid_readings("t").unwrap()[0].typed, "300.20");
    // All or nothing: the new one beside the changed one is not kept.
    assert!(matches!(
        store.add_readings(&[reading("n", "1"), reading("a", "301")]),
        Err(StoreError::Conflict(_))
    ));
    assert_eq!(store.valid_readings("t").unwrap().len(), 2);
}

#[test]
fn a_correction_strikes_out_and_keeps_what_was_typed() {
    let (_dir, store) = store();
    store.add_readings(&[reading("a", "3002")]).unwrap();
    let strike = Strike {
        id: "k".into(),
        reading_id: "a".into(),
        reason: "slipped".into(),
        superseded_by: Some("a2".into()),
        at_ms: 12,
    };
    store
        .strike(&strike, Some(&reading("a2", "300.2")))
        .unwrap();
    assert_eq!(
        store
            .valid_readings("t")
            .unwrap()
            .iter()
            .map(|r| r.typed.as_str())
            .collect::<Vec<_>>(),
        ["300.2"]
    );
    let all = store.latest_readings("t", 9).unwrap();
    assert!(
        all.iter()
            .any(|(r, k)| r.typed == "3002" && k.as_ref().is_some_and(|k| k.reason == "slipped"))
    );
    assert!(matches!(
        store.strike(
            &Strike {
                id: "k2".into(),
                reading_id: "zz".into(),
                ..strike
            },
            None
        ),
        Err(StoreError::Missing("reading"))
    ));
}

#[test]
fn the_database_itself_refuses_to_change_evidence() {
    let (dir, store) = store();
    store.add_readings(&[reading("a", "300")]).unwrap();
    let mut raw =
        SqliteConnection::establish(dir.path().join("ruhe.sqlite").to_str().unwrap()).unwrap();
    for sql in [
        "UPDATE readings SET value = 1",
        "DELETE FROM readings",
        "UPDATE readings SET typed = '1' WHERE id = 'a'",
    ] {
        let e = raw.batch_execute(sql).unwrap_err().to_string();
        assert!(e.contains("insert-only"), "{sql}: {e}");
    }
    // Foreign keys are indexed: no table is scanned to check one.
    assert_eq!(store.valid_readings("t").unwrap().len(), 1);
}

#[test]
fn a_signed_circuit_takes_nothing_more() {
    let (_dir, store) = store();
    store.add_readings(&[reading("a", "300")]).unwrap();
    let verdict = Verdict {
        id: "v".into(),
        test_id: "t".into(),
        engine: "e".into(),
        json: "{}".into(),
        at_ms: 20,
    };
    store.end_test(&verdict).unwrap();
    assert_eq!(
        store
            .end_test(&Verdict {
                id: "v2".into(),
                at_ms: 30,
                ..verdict
            })
            .unwrap()
            .at_ms,
        20
    );
    assert!(matches!(
        store.add_readings(&[reading("late", "1")]),
        Err(StoreError::Closed(_))
    ));
    let signature = signature();
    store.sign(&signature).unwrap();
    assert!(matches!(
        store.sign(&Signature {
            id: "g2".into(),
            ..signature
        }),
        Err(StoreError::Closed(_))
    ));
    let event = Event {
        id: "e".into(),
        test_id: "t".into(),
        kind: "sun".into(),
        note: String::new(),
        at_ms: 50,
        client_ms: None,
        received_ms: 50,
    };
    assert!(matches!(
        store.add_event(&event),
        Err(StoreError::Closed(_))
    ));
    let step = Step {
        id: "x".into(),
        circuit_id: "c".into(),
        step: "released".into(),
        note: String::new(),
        at_ms: 50,
    };
    assert!(matches!(store.add_step(&step), Err(StoreError::Closed(_))));
    let strike = Strike {
        id: "k".into(),
        reading_id: "a".into(),
        reason: "no".into(),
        superseded_by: None,
        at_ms: 50,
    };
    assert!(matches!(
        store.strike(&strike, None),
        Err(StoreError::Closed(_))
    ));
}

#[test]
fn a_backup_opens_and_does_not_overwrite() {
    let (dir, store) = store();
    store.add_readings(&[reading("a", "300")]).unwrap();
    let copy = dir.path().join("copy");
    std::fs::create_dir(&copy).unwrap();
    store.backup(&copy.join("ruhe.sqlite")).unwrap();
    assert_eq!(
        Store::open(&copy).unwrap().valid_readings("t").unwrap(),
        store.valid_readings("t").unwrap()
    );
    assert!(matches!(
        store.backup(&copy.join("ruhe.sqlite")),
        Err(StoreError::Conflict(_))
    ));
}
