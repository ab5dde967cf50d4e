//! A store with one circuit and one test, in a folder of its own.
#![allow(dead_code, clippy::unwrap_used)]

use ruhe_store::rows::*;
use ruhe_store::{NewJob, Store};

pub fn store() -> (tempfile::TempDir, Store) {
    let dir = tempfile::tempdir().unwrap();
    let store = Store::open(dir.path()).unwrap();
    store
        .add_job(&NewJob {
            site: Site {
                id: "s".into(),
                name: "Site".into(),
                place: String::new(),
            },
            system: System {
                id: "y".into(),
                site_id: "s".into(),
                name: "Unit".into(),
                model: String::new(),
                serial: String::new(),
            },
            circuits: vec![(
                Circuit {
                    id: "c".into(),
                    system_id: "y".into(),
                    tag: "A".into(),
                    name: "One".into(),
                    kind: "new_split".into(),
                    refrigerant: "R-32".into(),
                    scope: String::new(),
                    volume_l: None,
                    created_ms: 1,
                },
                "{}".into(),
            )],
        })
        .unwrap();
    let test = Test {
        id: "t".into(),
        circuit_id: "c".into(),
        kind: "pressure-hold".into(),
        attempt: 0,
        plan: "{}".into(),
        created_ms: 2,
    };
    let channel = Channel {
        id: "ch".into(),
        test_id: "t".into(),
        place: 0,
        name: "P".into(),
        quantity: "gauge_pressure".into(),
        unit: "psig".into(),
        resolution: None,
        accuracy: None,
        range_top: None,
        position: None,
        volume_share: None,
        reference: None,
        principle: None,
        extra: "[]".into(),
    };
    assert_eq!(store.add_test(test, &[channel]).unwrap().attempt, 1);
    (dir, store)
}

pub fn reading(id: &str, typed: &str) -> Reading {
    Reading {
        id: id.into(),
        test_id: "t".into(),
        channel_id: "ch".into(),
        at_ms: 10,
        typed: typed.into(),
        value: typed.parse().unwrap(),
        origin: "live".into(),
        client_ms: Some(10),
        received_ms: 11,
        skewed: false,
    }
}

pub fn signature() -> Signature {
    Signature {
        id: "g".into(),
        circuit_id: "c".into(),
        name: "N".into(),
        role: "R".into(),
        statement: "S".into(),
        state: "failed".into(),
        gates: "[]".into(),
        digest: "d".into(),
        at_ms: 40,
    }
}
