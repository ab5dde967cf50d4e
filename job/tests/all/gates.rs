//! What each gate asks for, and the states that gates allow.

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
        lasted_s: 1_800.0,
        proves: String::new(),
        too_low: None,
        too_old: None,
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
        has_open_leak: false,
        instrument_marks: vec![],
        struck: vec![],
        sections: vec!["all".into()],
        untouched: vec![],
        dry: vec![],
        soiled: vec![],
        inside: None,
        stands: vec!["all: nitrogen, 300 psig".into()],
        before: vec![],
        fine: FineFact::default(),
        ports: None,
        charge: None,
        start: None,
        without_consent: vec![],
    }
}
/// Gates that are missing, fine tightness apart.
fn missing(f: &GateFacts) -> Vec<GateCode> {
    gates(f)
        .into_iter()
        .filter(|g| !g.met && g.code != GateCode::Fine)
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
    assert_eq!(missing(&split), vec![GateCode::Decay]);
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
        leak_likely: false,
        stands_wet: false,
        is_lax: false,
        too_old: None,
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
        leak_likely: false,
        stands_wet: false,
        is_lax: false,
        too_old: None,
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
    assert!(!states(&g, &[]).contains(&State::PassedWithReservations));
    let answered = states(&g, &[GateCode::Hold, GateCode::Fine]);
    assert!(
        !answered.contains(&State::Passed) && answered.contains(&State::PassedWithReservations)
    );
    let reservation = HoldFact {
        loss_detected: true,
        ..day(1)
    };
    assert!(!states(&gates(&facts(vec![reservation])), &[]).contains(&State::Passed));
    assert!(states(&gates(&facts(vec![day(1)])), &[]).contains(&State::Passed));
}

fn states(gates: &[Gate], overridden: &[GateCode]) -> Vec<State> {
    allowed_states(&Standing {
        gates,
        overridden,
        has_run: false,
        history_says_leak: false,
        was_worked_on: true,
        was_read: true,
    })
}
/// A hold of a day: coarse and fine.
fn day(from_ms: i64) -> HoldFact {
    HoldFact {
        lasted_s: 90_000.0,
        ..hold(from_ms, HoldOutcome::Holds, 300.0)
    }
}

#[test]
fn a_state_needs_what_it_says() {
    let good = gates(&facts(vec![day(1)]));
    let of = |has_run, history_says_leak| {
        allowed_states(&Standing {
            gates: &good,
            overridden: &[],
            has_run,
            history_says_leak,
            was_worked_on: true,
            was_read: true,
        })
    };
    // Temporary and failed take anything; provisional a running set; not proven a charge that went missing.
    assert_eq!(
        of(false, false),
        [State::Passed, State::Temporary, State::Failed]
    );
    assert_eq!(
        of(true, false),
        [
            State::Passed,
            State::Temporary,
            State::Provisional,
            State::Failed
        ]
    );
    assert_eq!(
        of(false, true),
        [
            State::PassedWithReservations,
            State::Temporary,
            State::NotProven,
            State::Failed
        ]
    );
    let bad = gates(&facts(vec![hold(1, HoldOutcome::Falls, 300.0)]));
    let fallen = allowed_states(&Standing {
        gates: &bad,
        overridden: &[],
        has_run: false,
        history_says_leak: true,
        was_worked_on: true,
        was_read: true,
    });
    assert_eq!(
        fallen,
        [State::Temporary, State::Failed],
        "a fall is no hold that stands"
    );
}

fn gate_of(f: &GateFacts, code: GateCode) -> Gate {
    gates(f).into_iter().find(|g| g.code == code).unwrap()
}

#[test]
fn fine_tightness_is_every_joint_under_pressure_or_a_day() {
    let place = |n: &str| FinePlace {
        name: n.into(),
        sections: vec!["all".into()],
    };
    let look = |n: &str, at_ms| ClearLook {
        place: n.into(),
        at_ms,
        method: ruhe_job::search::Method::Bubbles,
        dwell_s: Some(150.0),
        at_pa: Some(300.0),
    };
    let with = |looks: Vec<ClearLook>, happened| GateFacts {
        fine: FineFact {
            places: vec![place("flare"), place("port")],
            names_no_joint: false,
            looks,
            has_tracer: false,
        },
        happened,
        ..facts(vec![hold(1, HoldOutcome::Holds, 300.0)])
    };
    let half = gate_of(&with(vec![look("flare", 2)], vec![]), GateCode::Fine);
    assert!(
        !half.met && half.evidence.contains("1 of 2 open. port"),
        "{half:?}"
    );
    let all = vec![look("flare", 2), look("port", 2)];
    assert!(gate_of(&with(all.clone(), vec![]), GateCode::Fine).met);
    let late = gate_of(&with(all, vec![mended(3)]), GateCode::Fine);
    assert!(
        !late.met && late.evidence.contains("before the last repair"),
        "{late:?}"
    );
    let nothing = gate_of(
        &facts(vec![hold(1, HoldOutcome::Holds, 300.0)]),
        GateCode::Fine,
    );
    assert!(!nothing.met && nothing.evidence.contains("Nothing to look at"));
    assert!(gate_of(&facts(vec![day(1)]), GateCode::Fine).met);
}

#[test]
fn the_charge_is_weighed_and_what_was_wanted() {
    use ruhe_job::charge::{LedgerKind, Row, Scope, TargetDoc, balance, sum, target};
    use ruhe_job::survey::Typed;
    let typed = |t: &str| {
        Some(Typed {
            typed: t.into(),
            unit: "g".into(),
        })
    };
    let fact = |grams: &[(f64, bool)]| {
        let d = TargetDoc {
            scope: Scope::AllLost,
            plate: typed("2000"),
            plate_again: typed("2000"),
            ..TargetDoc::default()
        };
        let t = target(&d, None, &ruhe_job::charge::Known::default()).unwrap();
        let rows: Vec<Row> = grams
            .iter()
            .map(|(g, is_weighed)| Row {
                net: Some(ruhe_core::quantity::Mass::from_g(*g)),
                is_weighed: *is_weighed,
                kind: LedgerKind::Liquid,
            })
            .collect();
        let sum = sum(&rows);
        GateFacts {
            charge: Some(ChargeFact {
                stops: t.stops.clone(),
                remarks: t.remarks.clone(),
                wants_nothing: false,
                balance: Some(balance(&t, &sum)),
                tolerance: Some(t.tolerance_words.clone()),
                sum,
                topped_up: None,
                reason: String::new(),
            }),
            ..facts(vec![day(1)])
        }
    };
    let of = |rows: &[(f64, bool)]| {
        let g = gate_of(&fact(rows), GateCode::Charge);
        (g.met, g.reservation.is_some())
    };
    assert_eq!(of(&[]), (false, false), "nothing weighed");
    assert_eq!(of(&[(2_000.0, true)]), (true, false));
    assert_eq!(
        of(&[(1_500.0, true), (400.0, true)]),
        (true, true),
        "5 % short is a reservation"
    );
    assert_eq!(
        of(&[(1_700.0, true)]),
        (false, false),
        "15 % short is not the charge"
    );
    assert_eq!(
        of(&[(1_990.0, true), (10.0, false)]),
        (true, true),
        "a row nobody weighed"
    );
    let mut stopped = fact(&[(2_000.0, true)]);
    stopped.charge.as_mut().unwrap().stops = vec!["The plate was read twice.".into()];
    assert!(!gate_of(&stopped, GateCode::Charge).met);
    let nobody = GateFacts {
        charge: Some(ChargeFact {
            balance: None,
            ..fact(&[]).charge.unwrap()
        }),
        ..facts(vec![day(1)])
    };
    assert!(
        gate_of(&nobody, GateCode::Charge)
            .evidence
            .contains("what the maker wants")
    );
}

#[test]
fn ports_start_up_and_consent() {
    use ruhe_job::startup::{SetWord, Steadiness};
    let ports = |is_kept, open: &[&str]| GateFacts {
        ports: Some(PortsFact {
            is_kept,
            open: open.iter().map(|s| (*s).into()).collect(),
            deviations: vec!["The tee was brazed without nitrogen: no bottle.".into()],
            count: 2,
        }),
        ..facts(vec![day(1)])
    };
    assert!(!gate_of(&ports(false, &[]), GateCode::Ports).met);
    assert!(!gate_of(&ports(true, &["liquid port: no cap"]), GateCode::Ports).met);
    let closed = gate_of(&ports(true, &[]), GateCode::Ports);
    assert!(closed.met && closed.reservation.unwrap().contains("without nitrogen"));
    let started = |stems: bool, word: Option<(SetWord, bool)>| {
        let mut f = GateFacts {
            start: Some(StartFact {
                steadiness: word.map(|(word, is_steady)| Steadiness {
                    word,
                    is_steady,
                    words: "said".into(),
                    wait_s: None,
                }),
                sets: 3,
            }),
            ..facts(vec![day(1)])
        };
        if stems {
            f.steps.push((Step::StemsOpen, String::new()));
        }
        let g = gate_of(&f, GateCode::StartUp);
        (g.met, g.reservation.is_some())
    };
    assert_eq!(
        started(false, Some((SetWord::InTarget, true))),
        (false, false)
    );
    assert_eq!(started(true, None), (false, false));
    assert_eq!(
        started(true, Some((SetWord::NotSteady, false))),
        (false, false)
    );
    assert_eq!(
        started(true, Some((SetWord::OffTarget, true))),
        (true, true)
    );
    assert_eq!(
        started(true, Some((SetWord::WeightDecides, true))),
        (true, false)
    );
    let risky = GateFacts {
        without_consent: vec!["header".into()],
        ..facts(vec![day(1)])
    };
    assert!(
        gate_of(&risky, GateCode::Hold)
            .reservation
            .unwrap()
            .contains("header")
    );
}
