//! What each gate asks for, and the states that gates allow.
#![allow(clippy::unwrap_used)]

use ruhe_core::hold::HoldOutcome;
use ruhe_core::vacuum::DecayOutcome;
use ruhe_job::order::{Happening, What};
use ruhe_job::procedure::{JobKind, Step};
use ruhe_job::signoff::*;

fn hold(from_ms: i64, outcome: HoldOutcome, psig: f64) -> HoldFact {
    HoldFact {
        name: "Hold".into(),
        from_ms,
        sections: vec!["all".into()],
        outcome,
        loss_detected: false,
        pressure: psig,
        planned: psig,
        headline: "Tight".into(),
    }
}
fn facts(holds: Vec<HoldFact>) -> GateFacts {
    GateFacts {
        kind: JobKind::BenchComponent,
        holds,
        decays: vec![],
        steps: vec![
            (Step::BoundaryValves, "done".into()),
            (Step::Instruments, "done".into()),
        ],
        happened: vec![],
        open_places: vec![],
        instrument_marks: vec![],
        struck: vec![],
        sections: vec!["all".into()],
    }
}
fn missing(f: &GateFacts) -> Vec<GateCode> {
    gates(f)
        .into_iter()
        .filter(|g| !g.met)
        .map(|g| g.code)
        .collect()
}
fn mended(at_ms: i64) -> Happening {
    Happening {
        at_ms,
        sections: vec![],
        what: What::Mended {
            place: "flare".into(),
        },
    }
}

#[test]
fn a_bench_component_needs_no_vacuum_and_no_charge() {
    assert_eq!(
        missing(&facts(vec![hold(1, HoldOutcome::Holds, 300.0)])),
        vec![]
    );
    let split = GateFacts {
        kind: JobKind::NewSplit,
        ..facts(vec![hold(1, HoldOutcome::Holds, 300.0)])
    };
    assert_eq!(
        missing(&split),
        vec![GateCode::Decay, GateCode::Cores, GateCode::Charge]
    );
}

#[test]
fn a_retest_must_be_at_least_as_high_as_the_highest_fall() {
    let low = facts(vec![
        hold(1, HoldOutcome::Falls, 450.0),
        hold(2, HoldOutcome::Falls, 175.0),
        hold(3, HoldOutcome::Holds, 175.0),
    ]);
    assert_eq!(missing(&low), vec![GateCode::Retest]);
    let high = facts(vec![
        hold(1, HoldOutcome::Falls, 450.0),
        hold(2, HoldOutcome::Holds, 450.0),
    ]);
    assert_eq!(missing(&high), vec![]);
}

#[test]
fn what_comes_after_a_test_takes_its_gate_back() {
    let f = GateFacts {
        happened: vec![mended(5)],
        ..facts(vec![hold(1, HoldOutcome::Holds, 300.0)])
    };
    assert_eq!(missing(&f), vec![GateCode::Hold, GateCode::Retest]);
    let decay = |from_ms| DecayFact {
        name: "Decay 1".into(),
        from_ms,
        sections: vec!["all".into()],
        outcome: DecayOutcome::Passes,
        rising: false,
        headline: "270 micron".into(),
    };
    let job = |decay_ms, happened| GateFacts {
        kind: JobKind::NewSplit,
        decays: vec![decay(decay_ms)],
        happened,
        ..facts(vec![
            hold(1, HoldOutcome::Holds, 300.0),
            hold(9, HoldOutcome::Holds, 300.0),
        ])
    };
    assert!(!missing(&job(2, vec![])).contains(&GateCode::Decay));
    let opened = Happening {
        at_ms: 5,
        sections: vec![],
        what: What::Opened,
    };
    for disturbance in [
        mended(5),
        opened,
        Happening {
            at_ms: 5,
            sections: vec![],
            what: What::CoreMoved,
        },
    ] {
        assert!(
            missing(&job(2, vec![disturbance.clone()])).contains(&GateCode::Decay),
            "{disturbance:?}"
        );
        assert!(!missing(&job(7, vec![disturbance])).contains(&GateCode::Decay));
    }
    let mut fell = job(2, vec![]);
    fell.holds.insert(1, hold(5, HoldOutcome::Falls, 300.0));
    assert!(
        gates(&fell)
            .iter()
            .any(|g| g.code == GateCode::Decay && !g.met && g.evidence.contains("Hold fell"))
    );
}

#[test]
fn every_section_under_test_must_hold_and_be_evacuated() {
    let of = |section: &str, from_ms, outcome| HoldFact {
        sections: vec![section.into()],
        ..hold(from_ms, outcome, 300.0)
    };
    let one = GateFacts {
        sections: vec!["line".into(), "rack".into()],
        ..facts(vec![of("line", 1, HoldOutcome::Holds)])
    };
    assert_eq!(missing(&one), vec![GateCode::Hold]);
    assert!(gates(&one)[0].evidence.contains("No hold of rack"));
    let both = GateFacts {
        holds: vec![
            of("rack", 1, HoldOutcome::Falls),
            of("rack", 2, HoldOutcome::Holds),
            of("line", 3, HoldOutcome::Holds),
        ],
        ..one.clone()
    };
    assert_eq!(missing(&both), vec![]);
    // The rack fell; the line set's hold proves nothing of it.
    let other = GateFacts {
        holds: vec![
            of("rack", 1, HoldOutcome::Falls),
            of("line", 3, HoldOutcome::Holds),
        ],
        ..one
    };
    assert_eq!(missing(&other), vec![GateCode::Hold, GateCode::Retest]);
    let decay = DecayFact {
        name: "Decay 1".into(),
        from_ms: 9,
        sections: vec!["line".into()],
        outcome: DecayOutcome::Passes,
        rising: false,
        headline: "270 micron".into(),
    };
    let vacuum = GateFacts {
        kind: JobKind::NewSplit,
        decays: vec![decay],
        ..both
    };
    assert!(
        gates(&vacuum)
            .iter()
            .any(|g| g.code == GateCode::Decay && !g.met && g.evidence.contains("rack"))
    );
}

#[test]
fn an_open_place_and_a_gauge_out_of_date_stand_in_the_way() {
    let good = facts(vec![hold(1, HoldOutcome::Holds, 300.0)]);
    let f = GateFacts {
        open_places: vec!["flare: unconfirmed hit".into()],
        instrument_marks: vec!["Gauge out of date.".into()],
        ..good
    };
    assert_eq!(missing(&f), vec![GateCode::Search, GateCode::Instruments]);
}

#[test]
fn an_override_opens_the_door_only_with_reservations() {
    let g = gates(&facts(vec![hold(1, HoldOutcome::Undecided, 300.0)]));
    assert!(allowed_states(&g, &[]).is_empty());
    let states = allowed_states(&g, &[GateCode::Hold]);
    assert!(!states.contains(&State::Passed) && states.contains(&State::PassedWithReservations));
    let reservation = HoldFact {
        loss_detected: true,
        ..hold(1, HoldOutcome::Holds, 300.0)
    };
    assert!(!allowed_states(&gates(&facts(vec![reservation])), &[]).contains(&State::Passed));
}
