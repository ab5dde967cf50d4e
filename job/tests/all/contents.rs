//! What is inside now, asked before every dangerous act and every signature: each case was possible once.

use crate::work::{MINUTE, PSI, Work, both, hold_input, no_kit, stock, vacuum_input};
use ruhe_core::quantity::Units;
use ruhe_core::reading::{EventKind, Kind};
use ruhe_job::act::*;
use ruhe_job::charge::*;
use ruhe_job::contents::Share;
use ruhe_job::log::{GaugeSide, Left};
use ruhe_job::ports::Core;
use ruhe_job::procedure::{BreakDoc, BreakWith, JobKind, PortPressure, Step};
use ruhe_job::refusal::Refusal;
use ruhe_job::search::{LookResult, Method, RepairOpened};
use ruhe_job::signoff::{GateCode, State};
use ruhe_job::startup::{SetDoc, When};
use ruhe_job::survey::{SectionDoc, SurveyDoc, Typed, ValveDoc};
use ruhe_job::tell::inside_view;

fn line(w: &Work) -> String {
    w.circuit().inside().line(Units::default())
}

fn gate(w: &Work, code: GateCode) -> Option<(bool, String)> {
    let g = w.circuit().gates(Units::default());
    g.into_iter()
        .find(|g| g.code == code)
        .map(|g| (g.met, g.evidence))
}

fn words(told: Result<String, Refusal>) -> String {
    told.unwrap_err().to_string()
}

fn typed(text: &str, unit: &str) -> Option<Typed> {
    Some(Typed {
        typed: text.into(),
        unit: unit.into(),
    })
}

fn plan(w: &mut Work, b: TestInput) -> Result<String, Refusal> {
    let (c, id, kit) = (w.circuit(), w.fresh(), no_kit());
    w.now += 1_000;
    let deeds = plan_test(&c, b, stock(&kit), &id, w.now, Units::default())?;
    w.keep(&id, deeds);
    Ok(id)
}

fn repair(w: &mut Work, opened: RepairOpened, with_torch: bool) -> Result<String, Refusal> {
    let b = RepairInput {
        place: "flare at the coil".into(),
        cause: "not tight".into(),
        words: String::new(),
        torque: None,
        section: None,
        opened: Some(opened),
        with_torch,
        is_safe: true,
        is_risky: false,
        at_ms: None,
    };
    w.act(|c, now| mend(c, b, now))
}

fn arrives(w: &mut Work, arrival: ArrivalDoc) {
    let b = ArrivalInput {
        arrival,
        at_ms: None,
        may_answer: true,
    };
    w.act(|c, now| arrive(c, b, now)).unwrap();
}

fn breaks(w: &mut Work, with: BreakWith, psig: &str) -> Result<String, Refusal> {
    let broken = BreakDoc {
        gauge_isolated: true,
        hose_purged: true,
        with: Some(with),
        vapour_to: typed(psig, "psig"),
        ports: vec![PortPressure {
            port: "suction".into(),
            pressure: typed(psig, "psig").unwrap(),
        }],
        ..BreakDoc::default()
    };
    let b = BreakInput {
        broken,
        at_ms: None,
    };
    w.act(|c, now| break_vacuum(c, b, now))
}

fn weighs(w: &mut Work, kind: LedgerKind, grams: &str) -> Result<String, Refusal> {
    let row = RowDoc {
        kind,
        refrigerant: "R-32".into(),
        net: typed(grams, "g"),
        is_weighed: true,
        ..RowDoc::default()
    };
    w.act(|c, now| weigh(c, RowInput { row, at_ms: None }, now))
}

fn surveys(w: &mut Work, change: impl Fn(&mut SurveyDoc)) {
    w.act(|c, _| {
        let mut survey = c.doc.clone();
        change(&mut survey);
        let version = c.version;
        keep_survey(c, SurveyInput { survey, version })
    })
    .unwrap();
}

/// A line set beside the factory charge, held at 300 psig with everything confirmed.
fn split_held() -> Work {
    let mut w = Work::of(JobKind::NewSplit);
    w.step(Step::BoundaryValves, "both shut");
    w.step(Step::Instruments, "same set");
    w.hold(300.0, 0.0);
    w.look_everywhere(300.0);
    w
}

#[test]
fn a_job_says_what_its_kind_usually_finds() {
    for (kind, says) in [
        (JobKind::BenchComponent, "component: open to the air"),
        (JobKind::StandingLineSet, "line set: open to the air"),
        (
            JobKind::NewSplit,
            "line set and indoor coil: air, pressure not seen · outdoor unit: factory charge",
        ),
        (
            JobKind::Repair,
            "whole circuit: refrigerant as found, pressure not seen",
        ),
    ] {
        assert_eq!(line(&Work::of(kind)), says);
    }
}

#[test]
fn each_act_says_what_is_inside_afterwards() {
    let mut w = Work::of(JobKind::Repair);
    w.see("188", "psig").unwrap();
    assert_eq!(line(&w), "whole circuit: refrigerant, 188 psig");
    w.emptied(Step::Recovered, "0").unwrap();
    assert_eq!(line(&w), "whole circuit: traces only, 0 psig");
    w.plan(300.0);
    assert!(line(&w).contains("perhaps nitrogen") && line(&w).contains("bottle is open"));
    w.emptied(Step::Released, "0").unwrap();
    w.hold(300.0, 0.0);
    assert_eq!(line(&w), "whole circuit: nitrogen, 300 psig");
    w.evacuated();
    assert_eq!(line(&w), "whole circuit: vacuum, 200 micron");
    breaks(&mut w, BreakWith::Vapour, "120").unwrap();
    assert_eq!(line(&w), "whole circuit: refrigerant, 120 psig");
    // The line of time: the last first, who said it, and what stood there afterwards.
    let view = inside_view(&w.circuit(), Units::default());
    let told: Vec<&str> = view.story.iter().map(|m| m.words.as_str()).collect();
    assert_eq!(told[0], "vacuum broken with vapour");
    assert!(view.story[0].by == "Ilse Marrow" && view.story[0].after[0].contains("120 psig"));
    assert_eq!(told.last(), Some(&"as the job began"));
    assert!(view.spaces[0].can_hurt);
}

#[test]
fn nobody_signs_a_pass_over_nitrogen_however_the_order_was() {
    // Decay first, hold afterwards, never pumped again.
    let mut w = Work::of(JobKind::Repair);
    w.emptied(Step::Recovered, "0").unwrap();
    w.step(Step::BoundaryValves, "both shut");
    w.step(Step::Instruments, "same set");
    w.evacuated();
    breaks(&mut w, BreakWith::Nitrogen, "2").unwrap();
    w.hold(300.0, 0.0);
    w.look_everywhere(300.0);
    let (met, why) = gate(&w, GateCode::Decay).unwrap();
    assert!(!met && why.contains("nitrogen or air came in"), "{why}");
    assert!(words(weighs(&mut w, LedgerKind::Vapour, "1800")).contains("nitrogen, 300 psig"));
    // Pressed onto the vacuum without a word about it: the same.
    let told = words(w.sign(State::PassedWithReservations));
    assert!(told.contains("cannot be signed"), "{told}");
    assert!(!gate(&w, GateCode::Inside).unwrap().0);
    // Nobody can answer for what is inside.
    let b = OverrideInput {
        gate: GateCode::Inside,
        words: "the customer wants it so".into(),
        may_answer: true,
    };
    assert!(words(w.act(|c, _| override_gate(c, &b))).contains("nobody can answer for that"));
}

#[test]
fn a_charge_let_onto_nitrogen_is_refused_and_never_passes() {
    let mut w = split_held();
    w.evacuated();
    assert!(gate(&w, GateCode::Decay).unwrap().0);
    breaks(&mut w, BreakWith::Nitrogen, "2").unwrap();
    let told = words(breaks(&mut w, BreakWith::FactoryCharge, "120"));
    assert!(
        told.contains("a charge meets only a space") || told.contains("A charge meets only"),
        "{told}"
    );
    let stems = StepInput {
        step: Step::StemsOpen,
        note: "both".into(),
        left: vec![],
        at_ms: None,
    };
    let told = words(w.act(|c, now| confirm(c, &stems, now)));
    assert!(told.contains("nitrogen, 2"), "{told}");
    // Pulled down and tested again it may.
    w.evacuated();
    surveys(&mut w, |_| {});
    let survey_has_no_joint = gate(&w, GateCode::Fine).unwrap();
    assert!(!survey_has_no_joint.0 && survey_has_no_joint.1.contains("no joint of them is named"));
    breaks(&mut w, BreakWith::FactoryCharge, "120").unwrap();
    assert_eq!(
        line(&w),
        "line set and indoor coil, outdoor unit: refrigerant, 120 psig"
    );
}

#[test]
fn no_flame_and_no_nut_on_a_charge_on_pressure_or_on_a_vacuum() {
    let mut w = Work::of(JobKind::Repair);
    arrives(
        &mut w,
        ArrivalDoc {
            standing: typed("201", "psig"),
            coldest: typed("70", "degF"),
            ..ArrivalDoc::default()
        },
    );
    for (opened, torch) in [(RepairOpened::Opened, true), (RepairOpened::Opened, false)] {
        let told = words(repair(&mut w, opened, torch));
        assert!(
            told.contains("whole circuit: refrigerant, 201 psig (arrival)")
                && told.contains("Recover it"),
            "{told}"
        );
    }
    repair(&mut w, RepairOpened::Nothing, false).unwrap();
    // Recovered to nothing: a nut, and a flame only once it is swept, since R-32 burns.
    w.emptied(Step::Recovered, "0").unwrap();
    repair(&mut w, RepairOpened::Opened, false).unwrap();
    let told = words(repair(&mut w, RepairOpened::Opened, true));
    assert!(told.contains("sweep with nitrogen"), "{told}");
    w.hold(300.0, 0.0);
    let told = words(repair(&mut w, RepairOpened::Opened, true));
    assert!(
        told.contains("nitrogen, 300 psig (Hold 1)") && told.contains("Let it out"),
        "{told}"
    );
    w.emptied(Step::Released, "0").unwrap();
    // Seen a quarter of an hour ago is seen too long ago.
    w.now += 20 * MINUTE;
    let told = words(repair(&mut w, RepairOpened::Opened, true));
    assert!(told.contains("seen too long ago"), "{told}");
    w.see("0", "psig").unwrap();
    repair(&mut w, RepairOpened::Opened, true).unwrap();
    w.evacuated();
    let told = words(repair(&mut w, RepairOpened::Opened, false));
    assert!(told.contains("draws in air"), "{told}");
    // What was opened for it must be said; nothing is filled in.
    let b = RepairInput {
        opened: None,
        ..RepairInput {
            place: "x".into(),
            cause: "y".into(),
            words: String::new(),
            torque: None,
            section: None,
            opened: None,
            with_torch: false,
            is_safe: true,
            is_risky: false,
            at_ms: None,
        }
    };
    assert!(words(w.act(|c, now| mend(c, b, now))).contains("say what was opened"));
}

#[test]
fn pressure_goes_only_by_a_reading_of_a_pressure_gauge_on_both_sides() {
    let mut w = Work::of(JobKind::Repair);
    w.emptied(Step::Recovered, "0").unwrap();
    w.step(Step::LockedOut, "own lock");
    w.hold(300.0, 0.0);
    // A vacuum figure, a note, a tick, one side alone: none of them lets it out.
    assert!(words(w.see("20000", "micron")).contains("A vacuum gauge says nothing of that"));
    assert!(words(plan(&mut w, vacuum_input(Kind::VacuumDecay))).contains("begins in a vacuum"));
    let released = |left: Vec<Left>| StepInput {
        step: Step::Released,
        note: "all gone, 0 psig everywhere".into(),
        left,
        at_ms: None,
    };
    let told = words(w.act(|c, now| confirm(c, &released(vec![]), now)));
    assert!(told.contains("both sides"), "{told}");
    let one = Left {
        side: GaugeSide::High,
        ..both("0", "psig")
    };
    let told = words(w.act(|c, now| confirm(c, &released(vec![one.clone()]), now)));
    assert!(told.contains("low side"), "{told}");
    let b = SeenInput {
        left: one,
        besides: None,
        at_ms: None,
    };
    w.act(|c, now| see(c, b, now)).unwrap();
    assert!(
        line(&w).contains("0 psig high side, 300 psig low side"),
        "{}",
        line(&w)
    );
    let told = words(plan(&mut w, vacuum_input(Kind::PullDown)));
    assert!(
        told.contains("Let it out and write down what both sides show"),
        "{told}"
    );
    // What is left counts, not that it was confirmed.
    w.act(|c, now| confirm(c, &released(vec![both("60", "psig")]), now))
        .unwrap();
    let told = words(plan(&mut w, vacuum_input(Kind::PullDown)));
    assert!(told.contains("nitrogen, 60.0 psig"), "{told}");
    w.emptied(Step::Released, "1").unwrap();
    plan(&mut w, vacuum_input(Kind::PullDown)).unwrap();
}

#[test]
fn the_other_half_let_out_lets_nothing_out_of_this_one() {
    let mut w = Work::bench();
    surveys(&mut w, |s| {
        s.sections = ["left half", "right half"]
            .map(|n| SectionDoc {
                name: n.into(),
                is_tested: true,
                ..SectionDoc::default()
            })
            .into();
        s.components[0].section = "left half".into();
        s.components.push(s.components[0].clone());
        (s.components[1].name, s.components[1].section) =
            ("other coil".into(), "right half".into());
    });
    let held = |w: &mut Work, section: &str| {
        let mut b = hold_input(300.0);
        b.plan.section = Some(section.into());
        let test = plan(w, b).unwrap();
        w.mark(&test, EventKind::SupplyIsolated);
        w.read(&test, 300.0, 0.0);
        w.end(&test);
    };
    held(&mut w, "left half");
    held(&mut w, "right half");
    let of = |section: &str| Left {
        section: Some(section.into()),
        ..both("0", "psig")
    };
    // Which half must be said.
    assert!(words(w.emptied(Step::Released, "0")).contains("say at which section"));
    let b = StepInput {
        step: Step::Released,
        note: String::new(),
        left: vec![of("right half")],
        at_ms: None,
    };
    w.act(|c, now| confirm(c, &b, now)).unwrap();
    assert_eq!(
        line(&w),
        "left half: nitrogen, 300 psig · right half: nitrogen, 0 psig"
    );
    let torch = |section: &str| RepairInput {
        place: "joint".into(),
        cause: "pinhole".into(),
        words: String::new(),
        torque: None,
        section: Some(section.into()),
        opened: Some(RepairOpened::Opened),
        with_torch: true,
        is_safe: true,
        is_risky: false,
        at_ms: None,
    };
    assert!(
        words(w.act(|c, now| mend(c, torch("left half"), now))).contains("left half: nitrogen")
    );
    w.act(|c, now| mend(c, torch("right half"), now)).unwrap();
}

#[test]
fn nothing_is_pressed_or_pumped_through_an_open_valve_onto_a_charge() {
    let mut w = Work::of(JobKind::NewSplit);
    surveys(&mut w, |s| s.valves[0].is_shut = false);
    assert!(line(&w).contains("refrigerant"), "{}", line(&w));
    let told = words(plan(&mut w, hold_input(100.0)));
    assert!(told.contains("never pressed onto a charge"), "{told}");
    w.step(Step::LockedOut, "own lock");
    let told = words(plan(&mut w, vacuum_input(Kind::PullDown)));
    assert!(told.contains("recover"), "{told}");
    // A valve opened in the middle of a hold asks too.
    let mut w = Work::of(JobKind::NewSplit);
    let test = w.plan(300.0);
    let moved = |moved| EventInput {
        id: "m".into(),
        kind: EventKind::ValveMoved,
        note: String::new(),
        photo_id: None,
        moved,
        with_tool: None,
        at_ms: None,
        logged_ms: None,
        client_ms: None,
    };
    assert!(words(w.act(|c, now| mark(c, &test, &moved(None), now))).contains("which valve"));
    let open = |name: &str| {
        Some(ruhe_job::log::ValveMove {
            valve: name.into(),
            is_open: true,
        })
    };
    let b = moved(open("liquid service valve"));
    let told = words(w.act(|c, now| mark(c, &test, &b, now)));
    assert!(told.contains("A charge meets only"), "{told}");
    // One of the rig's own is nobody's business here.
    let b = moved(open(""));
    w.act(|c, now| mark(c, &test, &b, now)).unwrap();
}

#[test]
fn no_core_and_no_flare_under_pressure_without_a_tool() {
    let mut w = Work::of(JobKind::Repair);
    w.emptied(Step::Recovered, "0").unwrap();
    let test = w.plan(300.0);
    w.mark(&test, EventKind::SupplyIsolated);
    w.read(&test, 300.0, 0.0);
    let event = |kind, with_tool| EventInput {
        id: "x".into(),
        kind,
        note: String::new(),
        photo_id: None,
        moved: None,
        with_tool,
        at_ms: None,
        logged_ms: None,
        client_ms: None,
    };
    for b in [
        event(EventKind::CoreMoved, Some(false)),
        event(EventKind::Opened, None),
    ] {
        let told = words(w.act(|c, now| mark(c, &test, &b, now)));
        assert!(told.contains("nitrogen, 300 psig"), "{told}");
    }
    let told = words(w.act(|c, now| mark(c, &test, &event(EventKind::CoreMoved, None), now)));
    assert!(told.contains("whether a core tool"), "{told}");
    w.act(|c, now| mark(c, &test, &event(EventKind::CoreMoved, Some(true)), now))
        .unwrap();
    w.end(&test);
    let ports = |c: &ruhe_job::state::Circuit, tool| {
        let mut ports = c.ports();
        (ports.ports[0].core, ports.ports[0].has_tool) = (Core::Out, tool);
        PortsInput {
            ports,
            version: c.ports_version(),
            at_ms: None,
        }
    };
    let told = words(w.act(|c, now| keep_ports(c, ports(c, false), now)));
    assert!(told.contains("Let it out"), "{told}");
    w.act(|c, now| keep_ports(c, ports(c, true), now)).unwrap();
}

#[test]
fn refrigerant_is_recovered_and_liquid_waits_for_the_freeze_guard() {
    let mut w = Work::of(JobKind::Repair);
    w.emptied(Step::Recovered, "0").unwrap();
    // Tracer in the test gas: the word is recover.
    let mut traced = hold_input(300.0);
    traced.plan.tracer_pa = Some(5.0 * PSI);
    let test = plan(&mut w, traced).unwrap();
    w.mark(&test, EventKind::SupplyIsolated);
    w.read(&test, 300.0, 0.0);
    w.end(&test);
    assert!(words(w.emptied(Step::Released, "0")).contains("it is not let out"));
    w.emptied(Step::Recovered, "0").unwrap();
    w.hold(300.0, 0.0);
    w.evacuated();
    let told = words(weighs(&mut w, LedgerKind::Liquid, "900"));
    assert!(
        told.contains("Vapour only until it shows 112 psig"),
        "{told}"
    );
    weighs(&mut w, LedgerKind::Vapour, "200").unwrap();
    w.see("118", "psig").unwrap();
    weighs(&mut w, LedgerKind::Liquid, "900").unwrap();
    // And nothing but its own goes onto it.
    let told = words(plan(&mut w, hold_input(300.0)));
    assert!(told.contains("never pressed onto a charge"), "{told}");
}

#[test]
fn no_unit_is_run_on_a_vacuum_and_no_look_is_made_at_a_pressure_that_was_not_there() {
    let mut w = Work::of(JobKind::Repair);
    w.emptied(Step::Recovered, "0").unwrap();
    w.hold(300.0, 0.0);
    w.evacuated();
    let set = SetDoc {
        when: When::After,
        running_min: "12".into(),
        suction: typed("-14", "psig"),
        suction_line: typed("50", "degF"),
        ..SetDoc::default()
    };
    let told = words(w.act(|c, now| measure(c, SetInput { set, at_ms: None }, now)));
    assert!(
        told.contains("never on nitrogen, air or a vacuum"),
        "{told}"
    );
    let b = LookInput {
        place: "flare".into(),
        method: Method::Bubbles,
        finding: LookResult::Clear,
        dwell_s: Some(150.0),
        at_pa: Some(300.0 * PSI),
        section: None,
        note: String::new(),
        photo_id: None,
        at_ms: None,
    };
    let told = words(w.act(|c, now| look(c, b, now)));
    assert!(
        told.contains("no more than") && told.contains("300 psig was typed"),
        "{told}"
    );
}

#[test]
fn nobody_answers_for_a_proven_leak_and_a_reason_is_ones_own() {
    let mut w = Work::bench();
    w.step(Step::BoundaryValves, "capped");
    w.step(Step::Instruments, "same set");
    w.labelled();
    w.hold(300.0, 12.0);
    let reason = |gate, words: &str, may_answer| OverrideInput {
        gate,
        words: words.into(),
        may_answer,
    };
    let told = |w: &mut Work, b: OverrideInput| w.act(|c, _| override_gate(c, &b));
    let why = "does not apply to this system";
    for code in [GateCode::Hold, GateCode::Retest] {
        let said = words(told(&mut w, reason(code, why, true)));
        assert!(said.contains("nobody can answer"), "{code:?}: {said}");
    }
    assert!(
        words(told(&mut w, reason(GateCode::Fine, "n/a", true))).contains("sentence of your own")
    );
    assert!(words(w.sign(State::PassedWithReservations)).contains("Coarse tightness"));
    // A technician says why; it waits for a lead.
    w.hold(300.0, 0.0);
    let said = told(
        &mut w,
        reason(GateCode::Fine, "the joints are behind the wall", false),
    )
    .unwrap();
    assert!(words(w.sign(State::PassedWithReservations)).contains("waits for a lead"));
    w.act(|c, _| approve(c, &said)).unwrap();
    assert!(w.act(|c, _| approve(c, "nothing")).is_err());
    w.sign(State::PassedWithReservations).unwrap();
}

#[test]
fn an_inspection_a_top_up_and_the_end_of_a_provisional_visit_are_signed_as_what_they_are() {
    // An inspection: nothing opened, so no hold and no decay is asked for, and no word of them is said.
    let mut w = Work::of(JobKind::Repair);
    assert!(gate(&w, GateCode::Hold).is_none() && gate(&w, GateCode::Decay).is_none());
    assert!(words(w.sign(State::Inspected)).contains("Nobody has seen what is in it"));
    w.see("188", "psig").unwrap();
    assert!(words(w.sign(State::Passed)).contains("nothing was tested"));
    w.sign(State::Inspected).unwrap();

    // A top-up on the next visit: the ledger, the reason, where it went is not shown.
    let visit = VisitInput {
        reason: "warm since June".into(),
        job: JobKind::Repair,
        at_ms: None,
    };
    w.act(|c, now| come_back(c, &visit, now)).unwrap();
    w.see("150", "psig").unwrap();
    weighs(&mut w, LedgerKind::TopUp, "150").unwrap();
    let (met, evidence) = gate(&w, GateCode::Charge).unwrap();
    assert!(
        met && evidence.contains("150 g") && evidence.contains("warm since June"),
        "{evidence}"
    );
    assert!(gate(&w, GateCode::Hold).is_none());
    assert!(w.sign(State::Passed).is_err() && w.sign(State::Inspected).is_err());

    // A provisional visit finished on the next: what was shown stays shown.
    let mut w = Work::of(JobKind::Repair);
    w.emptied(Step::Recovered, "0").unwrap();
    w.step(Step::BoundaryValves, "both shut");
    w.step(Step::Instruments, "same set");
    w.hold(300.0, 0.0);
    w.look_everywhere(300.0);
    w.evacuated();
    breaks(&mut w, BreakWith::Vapour, "120").unwrap();
    let target = TargetDoc {
        scope: Scope::AllLost,
        metering: Metering::Valve,
        plate: typed("1.80", "kg"),
        plate_again: typed("1.80", "kg"),
        ..TargetDoc::default()
    };
    let b = TargetInput {
        target,
        at_ms: None,
    };
    w.act(|c, now| keep_target(c, b, now)).unwrap();
    weighs(&mut w, LedgerKind::Liquid, "1800").unwrap();
    w.step(Step::StemsOpen, "both");
    let set = SetDoc {
        when: When::After,
        running_min: "4".into(),
        suction: typed("131", "psig"),
        suction_line: typed("53", "degF"),
        liquid: typed("372", "psig"),
        liquid_line: typed("97", "degF"),
        ..SetDoc::default()
    };
    w.act(|c, now| measure(c, SetInput { set, at_ms: None }, now))
        .unwrap();
    w.sign(State::Provisional).unwrap();
    w.act(|c, now| come_back(c, &visit, now)).unwrap();
    for code in [
        GateCode::Hold,
        GateCode::Fine,
        GateCode::Decay,
        GateCode::Charge,
    ] {
        let (met, evidence) = gate(&w, code).unwrap();
        assert!(
            met && evidence.starts_with("Shown on 2026-05-04"),
            "{code:?} {evidence}"
        );
    }
    // What it was signed without is still asked for.
    assert!(!gate(&w, GateCode::Ports).unwrap().0 && !gate(&w, GateCode::StartUp).unwrap().0);
}

#[test]
fn no_note_tick_look_or_override_changes_what_is_inside() {
    let mut w = split_held();
    let before = w.circuit().inside().spaces.clone();
    for step in Step::ALL {
        let b = StepInput {
            step: *step,
            note: "let out, 0 psig, empty, vacuum".into(),
            left: vec![],
            at_ms: None,
        };
        let _ = w.act(|c, now| confirm(c, &b, now));
    }
    for method in Method::ALL {
        w.look("flare", *method, LookResult::Clear, 300.0);
    }
    repair(&mut w, RepairOpened::Nothing, false).unwrap();
    repair(&mut w, RepairOpened::Tool, false).unwrap();
    let b = OverrideInput {
        gate: GateCode::Fine,
        words: "it is empty, I let it out".into(),
        may_answer: true,
    };
    w.act(|c, _| override_gate(c, &b)).unwrap();
    assert_eq!(w.circuit().inside().spaces, before);
    // A choice only ever adds: nobody talks a gas out of a space.
    let told = SeenInput {
        left: both("300", "psig"),
        besides: Some(ruhe_job::log::Besides::Refrigerant),
        at_ms: None,
    };
    w.act(|c, now| see(c, told, now)).unwrap();
    let inside = w.circuit().inside();
    let gas = inside.spaces[0].gas;
    assert_eq!((gas.nitrogen, gas.refrigerant), (Share::Sure, Share::Maybe));
    assert!(words(w.emptied(Step::Released, "0")).contains("not let out"));
}

#[test]
fn a_pressure_that_nothing_explains_is_the_worst_that_fits() {
    let mut w = Work::of(JobKind::NewSplit);
    w.hold(300.0, 0.0);
    w.emptied(Step::Released, "0").unwrap();
    // The line set stands beside a charge: what came in overnight may be that.
    w.now += 14 * 60 * MINUTE;
    w.see("90", "psig").unwrap();
    let told = words(plan(&mut w, hold_input(300.0)));
    assert!(told.contains("perhaps refrigerant"), "{told}");
    // A valve behind which stands nobody knows what.
    let mut w = Work::bench();
    surveys(&mut w, |s| {
        s.valves = vec![ValveDoc {
            id: String::new(),
            name: "ball valve".into(),
            section: "component".into(),
            is_shut: true,
            ..ValveDoc::default()
        }];
    });
    assert!(
        line(&w).contains("behind the valves: nobody knows what"),
        "{}",
        line(&w)
    );
}
