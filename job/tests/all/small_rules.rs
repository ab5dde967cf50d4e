//! Rules of a line or two that nothing else asked about: each was found by changing it and seeing that no test minded.

use crate::work::{MINUTE, Work, hold_input, no_kit, stock, vacuum_input};
use ruhe_core::quantity::Units;
use ruhe_core::reading::{EventKind, Kind};
use ruhe_job::act::plan_test;
use ruhe_job::kit::{KitDoc, KitKind, KitUsed, in_use, must_be_free};
use ruhe_job::log::Deed;
use ruhe_job::procedure::{JobKind, Step};
use ruhe_job::tell::{run, test_view};

/// A test of this kind with one thing of the kit in it.
fn with(kind: Kind, thing: KitKind, hoses_in: bool) -> (Work, String) {
    let mut w = Work::of(JobKind::NewSplit);
    w.step(Step::LockedOut, "own lock");
    match kind {
        Kind::PressureHold => {}
        Kind::PullDown => drop(w.emptied(Step::Released, "0").unwrap()),
        _ => drop(w.see("1500", "micron").unwrap()),
    }
    w.now += 1_000;
    let (c, id, kit) = (w.circuit(), w.fresh(), no_kit());
    let mut b = if kind == Kind::PressureHold {
        hold_input(300.0)
    } else {
        vacuum_input(kind)
    };
    b.plan.hoses_in = hoses_in;
    let mut deeds = plan_test(&c, b, stock(&kit), &id, w.now, Units::default()).unwrap();
    for d in &mut deeds {
        if let Deed::Planned(p) = d {
            p.plan.used = vec![KitUsed {
                id: "thing".into(),
                doc: KitDoc {
                    kind: thing,
                    name: "The thing".into(),
                    ..KitDoc::default()
                },
                checked: None,
            }];
        }
    }
    w.keep(&id, deeds);
    (w, id)
}

#[test]
fn what_pumps_is_in_use_until_the_pump_is_off_and_a_gauge_until_it_is_taken_off() {
    let pumps = [
        KitKind::Pump,
        KitKind::Hose,
        KitKind::CoreTool,
        KitKind::Rig,
    ];
    let is_used = |w: &Work| !in_use(&w.circuit()).is_empty();
    for thing in pumps {
        let (mut w, test) = with(Kind::PullDown, thing, false);
        assert!(is_used(&w), "{thing:?} in a pull");
        let all = in_use(&w.circuit());
        let wanted = w.circuit().test(&test).unwrap().plan.used.clone();
        assert!(must_be_free("elsewhere", &wanted, &all).is_err());
        assert!(
            must_be_free(&w.id, &wanted, &all).is_ok(),
            "its own circuit"
        );
        w.mark(&test, EventKind::PumpOff);
        assert!(!is_used(&w), "{thing:?} once the pump is off");
        w.mark(&test, EventKind::PumpOn);
        assert!(is_used(&w), "{thing:?} when it is on again");
    }
    for (kind, thing, hoses_in, held) in [
        (Kind::VacuumDecay, KitKind::Pump, false, false),
        (Kind::VacuumDecay, KitKind::Hose, true, true),
        (Kind::PressureHold, KitKind::PressureGauge, false, true),
        (Kind::PressureHold, KitKind::Hose, false, false),
        (Kind::PressureHold, KitKind::Bottle, false, false),
    ] {
        let (w, _) = with(kind, thing, hoses_in);
        assert_eq!(is_used(&w), held, "{kind:?} {thing:?}");
    }
    let (mut w, test) = with(Kind::PressureHold, KitKind::PressureGauge, false);
    w.mark(&test, EventKind::GaugeTakenOff);
    assert!(!is_used(&w));
    w.mark(&test, EventKind::GaugeReattached);
    assert!(is_used(&w));
}

#[test]
fn only_a_hold_with_tracer_in_it_has_tracer() {
    let mut w = Work::bench();
    w.hold(300.0, 0.0);
    let has = |w: &Work| w.circuit().gate_facts(Units::default()).fine.has_tracer;
    assert!(!has(&w));
    let mut b = hold_input(310.0);
    b.plan.tracer_pa = Some(20_000.0);
    w.now += MINUTE;
    let (c, id, kit) = (w.circuit(), w.fresh(), no_kit());
    w.keep(
        &id,
        plan_test(&c, b, stock(&kit), &id, w.now, Units::default()).unwrap(),
    );
    w.mark(&id, EventKind::SupplyIsolated);
    w.read(&id, 310.0, 0.0);
    assert!(!has(&w), "it runs");
    w.end(&id);
    assert!(has(&w));
}

#[test]
fn a_decay_leads_on_only_when_it_has_passed_and_ended() {
    let mut w = Work::of(JobKind::NewSplit);
    w.step(Step::LockedOut, "own lock");
    w.see("1500", "micron").unwrap();
    let leads = |w: &Work, id: &str| {
        let c = w.circuit();
        let t = c.test(id).unwrap();
        test_view(&c, t, &[], None, w.now, Units::default())
            .onward
            .map(|o| o.text)
    };
    let test = w.vacuum_test(Kind::VacuumDecay, &[200.0; 31]);
    assert_eq!(leads(&w, &test), None, "it runs");
    w.end(&test);
    assert!(leads(&w, &test).is_some());
    let high = w.vacuum_test(Kind::VacuumDecay, &[1_500.0; 31]);
    w.end(&high);
    assert_eq!(leads(&w, &high), None, "it failed");
}

#[test]
fn a_thinned_trace_keeps_its_last_reading() {
    let mut w = Work::bench();
    let test = w.hold(300.0, 0.0);
    let c = w.circuit();
    let ends = |most: usize| {
        let all = run(&c, most, false).segments;
        assert_eq!((all.len(), all[0].test_id.as_str()), (1, test.as_str()));
        (all[0].from_ms, all[0].to_ms)
    };
    for most in [2, 5, 7, 50] {
        assert_eq!(ends(most), ends(100_000), "{most}");
    }
}
