//! Surveys, photos, looks, repairs and procedures: added, never changed; versions are told apart.
#![allow(clippy::unwrap_used)]

mod support;

use diesel::connection::SimpleConnection;
use diesel::prelude::*;
use ruhe_store::StoreError;
use ruhe_store::rows::*;
use support::{signature, store};

fn look(id: &str, at_ms: i64) -> Look {
    Look {
        id: id.into(),
        circuit_id: "c".into(),
        place: "flare".into(),
        section: None,
        method: "bubbles".into(),
        finding: "leak".into(),
        dwell_s: Some(120.0),
        at_pa: None,
        note: String::new(),
        photo_id: None,
        at_ms,
    }
}

fn repair(id: &str) -> Repair {
    Repair {
        id: id.into(),
        circuit_id: "c".into(),
        place: "flare".into(),
        cause: "not tight".into(),
        words: String::new(),
        torque_nm: Some(42.0),
        section: None,
        with_torch: false,
        at_ms: 7,
    }
}

fn photo(id: &str) -> Photo {
    Photo {
        id: id.into(),
        circuit_id: "c".into(),
        mime: "image/png".into(),
        bytes: vec![0, 255, 7],
        at_ms: 5,
    }
}

#[test]
fn a_survey_has_versions_and_the_second_of_two_writers_is_told() {
    let (_dir, store) = store();
    assert_eq!(store.survey("c").unwrap(), (Some("{}".into()), 1));
    store.add_survey("c", r#"{"a":1}"#, 1, 10).unwrap();
    assert!(matches!(
        store.add_survey("c", r#"{"b":1}"#, 1, 11),
        Err(StoreError::Conflict(_))
    ));
    assert_eq!(store.survey("c").unwrap(), (Some(r#"{"a":1}"#.into()), 2));
    store.add_survey("c", r#"{"b":1}"#, 2, 12).unwrap();
    assert_eq!(store.survey("c").unwrap().1, 3);
    assert_eq!(store.survey("nowhere").unwrap(), (None, 0));
}

#[test]
fn looks_and_repairs_come_back_in_the_order_things_happened() {
    let (_dir, store) = store();
    store.add_look(&look("later", 20)).unwrap();
    store.add_look(&look("earlier", 10)).unwrap();
    store.add_repair(&repair("r")).unwrap();
    let ids: Vec<String> = store
        .looks("c")
        .unwrap()
        .into_iter()
        .map(|l| l.id)
        .collect();
    assert_eq!(ids, ["earlier", "later"]);
    assert_eq!(store.repairs("c").unwrap()[0].torque_nm, Some(42.0));
    // A photo that is not there cannot be pointed at.
    assert!(
        store
            .add_look(&Look {
                photo_id: Some("none".into()),
                ..look("x", 30)
            })
            .is_err()
    );
    store.add_photo(&photo("p")).unwrap();
    store
        .add_look(&Look {
            photo_id: Some("p".into()),
            ..look("x", 30)
        })
        .unwrap();
    assert_eq!(store.photo("p").unwrap().bytes, [0, 255, 7]);
    assert!(matches!(
        store.photo("q"),
        Err(StoreError::Missing("photo"))
    ));
}

#[test]
fn none_of_it_can_be_changed_or_taken_away() {
    let (dir, store) = store();
    store.add_photo(&photo("p")).unwrap();
    store.add_look(&look("l", 1)).unwrap();
    store.add_repair(&repair("r")).unwrap();
    store.add_procedure("own", "{}", 1).unwrap();
    store
        .add_step(&Step {
            id: "s".into(),
            circuit_id: "c".into(),
            step: "released".into(),
            note: String::new(),
            at_ms: 1,
        })
        .unwrap();
    let mut raw =
        SqliteConnection::establish(dir.path().join("ruhe.sqlite").to_str().unwrap()).unwrap();
    for table in [
        "surveys",
        "photos",
        "looks",
        "repairs",
        "procedures",
        "steps",
    ] {
        for sql in [
            format!("UPDATE {table} SET at_ms = 99"),
            format!("DELETE FROM {table}"),
        ] {
            let e = raw.batch_execute(&sql).unwrap_err().to_string();
            assert!(e.contains("insert-only"), "{sql}: {e}");
        }
    }
}

#[test]
fn a_signed_circuit_takes_no_survey_photo_look_or_repair() {
    let (_dir, store) = store();
    store.sign(&signature()).unwrap();
    assert!(matches!(
        store.add_survey("c", "{}", 1, 50),
        Err(StoreError::Closed(_))
    ));
    assert!(matches!(
        store.add_photo(&photo("p")),
        Err(StoreError::Closed(_))
    ));
    assert!(matches!(
        store.add_look(&look("l", 50)),
        Err(StoreError::Closed(_))
    ));
    assert!(matches!(
        store.add_repair(&repair("r")),
        Err(StoreError::Closed(_))
    ));
}

#[test]
fn every_version_of_a_procedure_is_kept_in_order() {
    let (_dir, store) = store();
    for json in ["1", "2"] {
        store.add_procedure("own", json, 1).unwrap();
    }
    store.add_procedure("other", "3", 1).unwrap();
    let all = store.procedures().unwrap();
    assert_eq!(
        all.iter()
            .map(|(c, j)| format!("{c}{j}"))
            .collect::<Vec<_>>(),
        ["own1", "own2", "other3"]
    );
}
