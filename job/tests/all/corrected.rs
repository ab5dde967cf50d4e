//! What was entered about the wrong thing: a valve by the wrong side, a name, a refrigerant, a circuit, a plate.

use crate::work::{Work, no_kit};
use ruhe_core::quantity::Units;
use ruhe_core::reading::{Behind, EventKind};
use ruhe_job::act::*;
use ruhe_job::charge::*;
use ruhe_job::contents::Share;
use ruhe_job::log::ValveMove;
use ruhe_job::people::By;
use ruhe_job::plan::Plan;
use ruhe_job::procedure::{JobKind, Step};
use ruhe_job::refusal::Refusal;
use ruhe_job::search::{LookResult, Method};
use ruhe_job::signoff::{GateCode, State};
use ruhe_job::state::record;
use ruhe_job::survey::{JointDoc, SectionDoc, SurveyDoc, TubeDoc, Typed, ValveDoc};

fn words(told: Result<String, Refusal>) -> String {
    told.unwrap_err().to_string()
}

fn field(told: Result<String, Refusal>) -> String {
    match told.unwrap_err() {
        Refusal::Wrong { field, .. } => field.unwrap_or_default(),
        other => other.to_string(),
    }
}

fn typed(text: &str, unit: &str) -> Option<Typed> {
    Some(Typed {
        typed: text.into(),
        unit: unit.into(),
    })
}

fn surveys(w: &mut Work, change: impl Fn(&mut SurveyDoc)) -> Result<String, Refusal> {
    w.act(|c, _| {
        let mut survey = c.doc.clone();
        change(&mut survey);
        let version = c.version;
        keep_survey(c, SurveyInput { survey, version })
    })
}

fn valve(name: &str, section: &str, behind: Behind, other: Option<&str>) -> ValveDoc {
    ValveDoc {
        name: name.into(),
        section: section.into(),
        is_shut: true,
        behind,
        other: other.map(Into::into),
        ..ValveDoc::default()
    }
}

fn joint(name: &str, section: &str) -> JointDoc {
    JointDoc {
        name: name.into(),
        section: section.into(),
        ..JointDoc::default()
    }
}

fn moves(w: &mut Work, test: &str, valve: &str, is_open: bool) -> Result<String, Refusal> {
    let b = EventInput {
        id: "unused".into(),
        kind: EventKind::ValveMoved,
        note: String::new(),
        photo_id: None,
        moved: Some(ValveMove {
            valve: valve.into(),
            is_open,
        }),
        with_tool: None,
        at_ms: None,
        logged_ms: None,
        client_ms: None,
    };
    w.act(|c, now| mark(c, test, &b, now))
}

/// Two halves of one name's section: behind one valve another empty half, behind the other the factory charge.
fn two_valves() -> Work {
    let mut w = Work::of(JobKind::NewSplit);
    surveys(&mut w, |s| {
        let first = s.sections[0].name.clone();
        s.sections.push(SectionDoc {
            name: "branch".into(),
            is_tested: true,
            ..SectionDoc::default()
        });
        s.valves = vec![
            valve("branch valve", &first, Behind::Section, Some("branch")),
            valve("liquid valve", &first, Behind::FactoryCharge, None),
            valve("gas valve", &first, Behind::FactoryCharge, None),
        ];
    })
    .unwrap();
    w
}

#[test]
fn a_valve_is_asked_about_what_stands_behind_it_and_not_behind_another() {
    let mut w = two_valves();
    let test = w.plan(300.0);
    // Under nitrogen: the branch may be joined to it, the factory charge may not.
    for name in ["gas valve", "liquid valve"] {
        let told = words(moves(&mut w, &test, name, true));
        assert!(told.contains("A charge meets only"), "{told}");
        assert_eq!(field(moves(&mut w, &test, name, true)), "moved.valve");
    }
    moves(&mut w, &test, "branch valve", true).unwrap();
}

#[test]
fn two_spaces_are_one_until_the_last_valve_between_them_is_shut() {
    let mut w = two_valves();
    surveys(&mut w, |s| {
        for v in &mut s.valves[1..] {
            v.behind = Behind::Nitrogen;
        }
    })
    .unwrap();
    let test = w.plan(300.0);
    let unit = w.circuit().passages()[1].b.clone();
    let near = w.circuit().passages()[1].a.clone();
    let is_joined = |w: &Work| {
        let inside = w.circuit().inside();
        let reached = inside.reached(std::slice::from_ref(&near));
        reached.iter().any(|s| s.name == unit)
    };
    moves(&mut w, &test, "liquid valve", true).unwrap();
    moves(&mut w, &test, "gas valve", true).unwrap();
    moves(&mut w, &test, "liquid valve", false).unwrap();
    assert!(is_joined(&w), "the gas valve still stands open");
    // Renamed it is the same valve, by its old name and by its new one.
    surveys(&mut w, |s| s.valves[2].name = "suction valve".into()).unwrap();
    assert!(is_joined(&w));
    moves(&mut w, &test, "suction valve", false).unwrap();
    assert!(!is_joined(&w));
}

#[test]
fn a_place_that_is_renamed_keeps_its_looks_and_no_two_places_share_them() {
    let mut w = Work::of(JobKind::NewSplit);
    let section = w.circuit().doc.sections[0].name.clone();
    surveys(&mut w, |s| {
        s.joints = vec![joint("flare 1", &section), joint("flare 2", &section)];
    })
    .unwrap();
    w.hold(300.0, 0.0);
    w.look("flare 1", Method::Bubbles, LookResult::Clear, 300.0);
    let looked = |w: &Work| -> Vec<(String, bool)> {
        let fine = w.circuit().gate_facts(Units::default()).fine;
        let is_looked = |name: &str| fine.looks.iter().any(|l| l.place == name);
        fine.places
            .iter()
            .filter(|p| p.name.contains("flare"))
            .map(|p| (p.name.clone(), is_looked(&p.name)))
            .collect()
    };
    let said = |a: &str, b: &str, first: bool| vec![(a.to_owned(), first), (b.to_owned(), !first)];
    assert_eq!(looked(&w), said("flare 1", "flare 2", true));
    // The names change places: the look stays at its joint.
    surveys(&mut w, |s| {
        s.joints[0].name = "flare 2".into();
        s.joints[1].name = "flare 1".into();
    })
    .unwrap();
    assert_eq!(looked(&w), said("flare 2", "flare 1", true));
    // A new joint under an old name was not looked at.
    surveys(&mut w, |s| s.joints[0].name = "flare at the coil".into()).unwrap();
    surveys(&mut w, |s| s.joints.push(joint("flare 2", &section))).unwrap();
    assert!(looked(&w).contains(&("flare at the coil".into(), true)));
    assert!(looked(&w).contains(&("flare 2".into(), false)));
    let twice = |s: &mut SurveyDoc| s.joints.push(joint(" flare 2", &section));
    assert!(words(surveys(&mut w, twice)).contains("count for both"));
    assert_eq!(field(surveys(&mut w, twice)), "joints.3.name");
    // A port of the register too.
    w.look(
        "liquid service port",
        Method::Bubbles,
        LookResult::Clear,
        300.0,
    );
    w.act(|c, now| {
        let mut ports = c.ports();
        ports.ports[1].name = "king valve port".into();
        let version = c.ports_version();
        let b = PortsInput {
            ports,
            version,
            at_ms: None,
        };
        keep_ports(c, b, now)
    })
    .unwrap();
    let c = w.circuit();
    assert!(c.looks.iter().any(|l| l.said.place == "king valve port"));
    assert!(
        c.looks
            .iter()
            .all(|l| l.said.place != "liquid service port")
    );
    // A section that was pressed keeps its name.
    let told = words(surveys(&mut w, |s| {
        s.sections[0].name = "pipes".into();
        for j in &mut s.joints {
            j.section = "pipes".into();
        }
        for v in &mut s.valves {
            v.section = "pipes".into();
        }
        for c in &mut s.components {
            c.section = "pipes".into();
        }
    }));
    assert!(told.contains("Hold 1 is about"), "{told}");
}

fn correction(c: &ruhe_job::state::Circuit) -> CorrectionInput {
    let o = &c.opened;
    CorrectionInput {
        system_name: o.system.clone(),
        tag: o.tag.clone(),
        name: o.name.clone(),
        kind: o.job,
        refrigerant: o.refrigerant.clone(),
        safety_class: o.safety_class.clone(),
        model: o.model.clone(),
        serial: o.serial.clone(),
        scope: o.scope.clone(),
        volume_l: o.volume_l,
        reason: "the plate was misread".into(),
    }
}

fn corrects(w: &mut Work, change: impl Fn(&mut CorrectionInput)) -> Result<String, Refusal> {
    w.act(|c, _| {
        let mut b = correction(c);
        change(&mut b);
        correct(c, &b)
    })
}

fn gate(w: &Work, code: GateCode) -> (bool, String) {
    let all = w.circuit().gates(Units::default());
    let g = all.into_iter().find(|g| g.code == code).unwrap();
    (g.met, g.evidence)
}

#[test]
fn what_a_circuit_is_can_be_corrected_with_a_reason_until_it_is_signed() {
    let mut w = Work::of(JobKind::Repair);
    w.emptied(Step::Recovered, "0").unwrap();
    let hold = w.hold(300.0, 0.0);
    w.evacuated();
    let row = RowDoc {
        kind: LedgerKind::Liquid,
        refrigerant: "R-32".into(),
        net: typed("1500", "g"),
        is_weighed: true,
        ..RowDoc::default()
    };
    let vapour = RowDoc {
        kind: LedgerKind::Vapour,
        ..row.clone()
    };
    w.act(|c, now| {
        weigh(
            c,
            RowInput {
                row: vapour,
                at_ms: None,
            },
            now,
        )
    })
    .unwrap();
    assert!(words(corrects(&mut w, |_| ())).contains("nothing differs"));
    assert_eq!(field(corrects(&mut w, |b| b.reason.clear())), "reason");
    assert_eq!(field(corrects(&mut w, |b| b.kind = JobKind::Kit)), "kind");
    assert_eq!(
        field(corrects(&mut w, |b| b.safety_class = "C9".into())),
        "safety_class"
    );
    corrects(&mut w, |b| {
        b.refrigerant = "R-410A".into();
        b.tag = "B".into();
    })
    .unwrap();
    let c = w.circuit();
    assert_eq!((&*c.opened.refrigerant, &*c.opened.tag), ("R-410A", "B"));
    // What its tests are judged by is the right one, and what was charged before is said.
    assert_eq!(
        c.test(&hold).unwrap().plan.refrigerant.as_deref(),
        Some("R-410A")
    );
    let trace = &c.corrections[0];
    assert_eq!(trace.words, "letter A, now B; refrigerant R-32, now R-410A");
    assert_eq!(trace.reason, "the plate was misread");
    let target = TargetDoc {
        scope: Scope::AllLost,
        metering: Metering::Valve,
        plate: typed("1.5", "kg"),
        ..TargetDoc::default()
    };
    let b = TargetInput {
        target,
        at_ms: None,
    };
    w.act(|c, now| keep_target(c, b, now)).unwrap();
    let (met, evidence) = gate(&w, GateCode::Charge);
    assert!(!met && evidence.contains("R-32 was charged"), "{evidence}");
    w.sign(State::Failed).unwrap();
    let told = words(corrects(&mut w, |b| b.refrigerant = "R-32".into()));
    assert!(told.contains("signed"), "{told}");
    // What is signed stays as it was; the next visit may put it right.
    let visit = VisitInput {
        reason: "again".into(),
        job: JobKind::Repair,
        at_ms: None,
    };
    w.act(|c, now| come_back(c, &visit, now)).unwrap();
    corrects(&mut w, |b| b.refrigerant = "R-32".into()).unwrap();
    let c = w.circuit();
    assert_eq!(c.past[0].opened.refrigerant, "R-410A");
    assert_eq!(c.opened.refrigerant, "R-32");
}

fn move_input(to: &str) -> MoveInput {
    MoveInput {
        to: to.into(),
        section: None,
        reason: "the letters were mixed up".into(),
    }
}

#[test]
fn a_test_that_is_moved_leaves_no_gas_behind_and_nobody_has_looked_here() {
    let mut w = Work::of(JobKind::StandingLineSet);
    let b = move_input("circuit-b");
    let running = w.plan(300.0);
    let move_it = |w: &mut Work, test: &str, b: &MoveInput| {
        w.act(|c, now| move_away(c, test, b, ("t-there", "Dough room, circuit B"), now))
    };
    assert!(words(move_it(&mut w, &running, &b)).contains("running"));
    w.mark(&running, EventKind::SupplyIsolated);
    w.read(&running, 300.0, 6.0);
    w.end(&running);
    let own = move_input(&w.id.clone());
    assert!(words(move_it(&mut w, &running, &own)).contains("on this circuit"));
    move_it(&mut w, &running, &b).unwrap();
    let c = w.circuit();
    assert!(c.tests.is_empty() && c.voided.is_empty() && c.test(&running).is_none());
    let inside = c.inside();
    assert_eq!(inside.spaces[0].gas.nitrogen, Share::None);
    // But no nut comes off before somebody has looked.
    let u = Units::default();
    assert!(inside.may_open(&[], w.now, u).is_err());
    w.see("0", "psig").unwrap();
    assert!(w.circuit().inside().may_open(&[], w.now, u).is_ok());
    // That it failed is printed wherever it went.
    let reserved = gate(&w, GateCode::Hold);
    assert!(!reserved.0);
    let facts = w.circuit().gates(u);
    let hold = facts.iter().find(|g| g.code == GateCode::Hold).unwrap();
    let told = hold.reservation.clone().unwrap_or_default();
    assert!(told.contains("Moved to Dough room, circuit B"), "{hold:?}");
    // A pressure that is there all the same is nitrogen that nobody entered.
    w.see("300", "psig").unwrap();
    assert!(w.circuit().inside().spaces[0].gas.nitrogen > Share::Trace);
}

#[test]
fn a_repair_from_before_the_fall_mends_nothing_of_it() {
    let next = |w: &Work| {
        let leak = ruhe_job::tell::untested(&w.circuit()).unwrap();
        leak.view(Units::default()).next
    };
    let mut w = Work::bench();
    w.hold(300.0, 12.0);
    assert_eq!(next(&w), "To the leak search");
    w.mend("header");
    assert_eq!(next(&w), "All mended: test again at 300 psig");
    w.hold(300.0, 12.0);
    assert_eq!(next(&w), "To the leak search");
    w.mend("header");
    w.hold(300.0, 0.0);
    assert!(ruhe_job::tell::untested(&w.circuit()).is_none());
}

#[test]
fn one_recording_is_taken_once() {
    let mut w = Work::bench();
    let hold = w.hold(300.0, 0.0);
    let c = w.circuit();
    let lines = &w.readings[&hold];
    let values: Vec<(i64, u32, f64)> = lines
        .iter()
        .map(|l| (l.at_ms, l.channel, l.value))
        .collect();
    let recording = record(c.test(&hold).unwrap(), &values);
    let take = |w: &Work, id: &str, start: i64| {
        let c = w.circuit();
        let by = By::machine("", "");
        let from = (start, "imported");
        let kit = no_kit();
        let rest = (&kit, None);
        import(
            &c,
            &recording,
            Plan::default(),
            from,
            rest,
            (id, &by),
            w.now,
        )
    };
    let start = recording.start_ms.unwrap();
    // Under another hour it is the same recording.
    for at in [start, start - 3_600_000] {
        let told = take(&w, "second", at).unwrap_err().to_string();
        assert!(told.contains("taken already, as Hold 1"), "{told}");
    }
    // Struck out it stands no longer, and the file may be taken where it belongs.
    let b = VoidInput {
        reason: "the wrong file".into(),
    };
    let by = By::machine("", "");
    w.act(|c, _| strike(c, &hold, &b, &by)).unwrap();
    take(&w, "third", start).unwrap();
}

#[test]
fn a_plate_and_a_length_are_asked_once_and_a_difference_is_said() {
    let mut w = Work::of(JobKind::Repair);
    let section = w.circuit().doc.sections[0].name.clone();
    surveys(&mut w, |s| {
        s.charge = typed("6 lb 11 oz", "lb-oz");
        s.tubes = vec![TubeDoc {
            size: "3/8 in".into(),
            length: typed("38", "ft"),
            section: section.clone(),
        }];
    })
    .unwrap();
    let tube = TubeShare {
        size: "3/8 in".into(),
        included: typed("15", "ft"),
        rate: typed("0.6", "oz/ft"),
        source: "manual, page 9".into(),
        ..TubeShare::default()
    };
    let doc = TargetDoc {
        scope: Scope::AllLost,
        metering: Metering::Valve,
        tubes: vec![tube],
        ..TargetDoc::default()
    };
    let works = |w: &Work, d: &TargetDoc| {
        let c = w.circuit();
        target(d, c.refrigerant(), &c.known_of_target()).unwrap()
    };
    // 6 lb 11 oz and 23 ft of 0.6 oz: 107 + 13.8 oz.
    let t = works(&w, &doc);
    assert!((t.total.g() / 28.349_523 - 120.8).abs() < 0.01, "{t:?}");
    assert_eq!(t.remarks, ["The plate’s charge was read once."]);
    assert!(t.stops.is_empty());
    let arrival = ArrivalDoc {
        plate: typed("5 lb 11 oz", "lb-oz"),
        ..ArrivalDoc::default()
    };
    let b = ArrivalInput {
        arrival,
        at_ms: None,
        may_answer: false,
    };
    w.act(|c, now| arrive(c, b, now)).unwrap();
    let found = w.circuit().arrived().unwrap();
    assert!(found.words[0].contains("in the survey"), "{found:?}");
    let mut other = doc;
    other.tubes[0].bought = typed("52", "ft");
    let t = works(&w, &other);
    assert!(t.stops[0].contains("in the survey and") && t.stops[0].contains("arrival"));
    assert!(
        t.remarks.iter().any(|r| r.contains("in the survey")),
        "{t:?}"
    );
    let b = TargetInput {
        target: other,
        at_ms: None,
    };
    w.act(|c, now| keep_target(c, b, now)).unwrap();
    let stop = ScaleInput::default();
    let told = ruhe_job::tell::tried_stop(&w.circuit(), &stop).unwrap_err();
    assert!(told.to_string().contains("Look at the plate"), "{told}");
}

#[test]
fn nobody_leaves_liquid_shut_in_between_valves() {
    let mut w = Work::of(JobKind::Repair);
    surveys(&mut w, |s| {
        let first = s.sections[0].name.clone();
        s.valves = vec![valve("liquid valve", &first, Behind::FactoryCharge, None)];
    })
    .unwrap();
    w.see("150", "psig").unwrap();
    let told = words(w.sign(State::Failed));
    assert!(told.contains("bursts the tube"), "{told}");
    // Empty there is nothing that expands.
    w.emptied(Step::Recovered, "0").unwrap();
    w.sign(State::Failed).unwrap();
}
