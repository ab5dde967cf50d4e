//! A lax test needs a source that a person typed, or a procedure that asks for so little: nothing else stands for one.

use crate::work::{PSI, Work, hold_input, no_kit, vacuum_input};
use ruhe_core::quantity::{MICRON, Units};
use ruhe_core::reading::{EventKind, Kind};
use ruhe_job::act::{Stock, plan_test};
use ruhe_job::plan::{OwnProcedure, PlanInput};
use ruhe_job::procedure::{JobKind, Step};
use ruhe_job::signoff::GateCode;
use ruhe_job::tell::{ProcedureInput, gate_views};

fn gate(w: &Work, code: GateCode) -> (bool, String) {
    let gates = gate_views(&w.circuit(), Units::default());
    let g = gates.into_iter().find(|g| g.code == code).unwrap();
    (g.met, g.evidence)
}

/// A procedure of the house: a hold at 100 psig.
fn house() -> OwnProcedure {
    let p = ProcedureInput {
        code: None,
        title: "Low hold".into(),
        kind: Kind::PressureHold,
        pressure_pa: Some(100.0 * PSI),
        share_of_plate: None,
        time_s: 1_800.0,
        start_max_pa: None,
        targets_pa: vec![],
        gives_up: String::new(),
        source: "page 12 of the plan".into(),
        is_verified: true,
    };
    ("low".into(), 1, p)
}

/// A bench part for 600 psig that stood still at so many psig for an hour.
fn held(psig: f64, change: impl Fn(&mut PlanInput)) -> (bool, String) {
    let mut w = Work::bench();
    let mut b = hold_input(psig);
    change(&mut b.plan);
    let (c, id, kit, own) = (w.circuit(), w.fresh(), no_kit(), [house()]);
    let stock = Stock {
        kit: &kit,
        rig: None,
        procedures: &own,
    };
    let deeds = plan_test(&c, b, stock, &id, w.now, Units::default()).unwrap();
    w.keep(&id, deeds);
    w.mark(&id, EventKind::SupplyIsolated);
    w.read(&id, psig, 0.0);
    w.end(&id);
    gate(&w, GateCode::Hold)
}

#[test]
fn a_low_hold_counts_only_with_a_source_that_was_typed_or_a_procedure_that_asks_for_it() {
    let school = |code: &'static str| move |p: &mut PlanInput| p.school = Some(code.into());
    let source = |text: &'static str| move |p: &mut PlanInput| p.source = Some(text.into());
    assert!(held(300.0, |_| {}).0, "high enough needs no source");
    for (what, (met, evidence)) in [
        ("nothing said", held(100.0, |_| {})),
        ("the own procedure, no source", held(100.0, school("own"))),
        ("blanks", held(100.0, source("  "))),
        (
            "a procedure of 300 psig, held at 100",
            held(100.0, school("timed")),
        ),
        (
            "a share of the plate, held at a sixth",
            held(100.0, school("plate_based")),
        ),
        (
            "a name that no procedure has",
            held(100.0, school("low.low")),
        ),
        ("one of the house, held lower", held(60.0, school("low"))),
    ] {
        assert!(!met, "{what}");
        assert!(evidence.contains("name the source"), "{what}: {evidence}");
    }
    assert!(held(100.0, source("maker's page 4")).0);
    assert!(held(175.0, school("after_repair")).0);
    assert!(held(100.0, school("low")).0);
}

/// What the gate reserves of a line set that stood at 1,500 micron for half an hour and passed by 2,000.
fn reserved(change: impl Fn(&mut PlanInput)) -> Option<String> {
    let mut w = Work::of(JobKind::NewSplit);
    w.step(Step::LockedOut, "own lock");
    w.see("1500", "micron").unwrap();
    let mut b = vacuum_input(Kind::VacuumDecay);
    b.plan.evacuated_s = Some(1_800.0);
    b.plan.level_pa = Some(2_000.0 * MICRON);
    change(&mut b.plan);
    let id = w.vacuum_planned(b, &[1_500.0; 31]);
    w.end(&id);
    let gates = gate_views(&w.circuit(), Units::default());
    let g = gates
        .into_iter()
        .find(|g| g.code == GateCode::Decay)
        .unwrap();
    assert!(g.met, "{}", g.evidence);
    g.reservation
}

#[test]
fn a_wide_limit_is_reserved_unless_somebody_typed_where_it_comes_from() {
    for change in [
        (|_| {}) as fn(&mut PlanInput),
        |p| p.source = Some(" ".into()),
        |p| p.school = Some("own".into()),
        // It asks for 1,000, not for twice that.
        |p| p.school = Some("below_1000_10".into()),
    ] {
        let said = reserved(change).unwrap();
        assert!(said.contains("above 1000 micron"), "{said}");
    }
    assert_eq!(reserved(|p| p.source = Some("maker, page 9".into())), None);
}
