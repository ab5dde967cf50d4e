//! Rules of the trade through commands alone: no server, no store.

use crate::work::{PSI, START, Work, no_kit, stock};
use proptest::prelude::*;
use ruhe_core::quantity::Units;
use ruhe_core::reading::EventKind;
use ruhe_job::act::*;
use ruhe_job::charge::{ArrivalDoc, RowDoc, TargetDoc};
use ruhe_job::log::Deed;
use ruhe_job::people::By;
use ruhe_job::ports::PortsDoc;
use ruhe_job::procedure::{BreakDoc, JobKind, Stage, Step};
use ruhe_job::refusal::Refusal;
use ruhe_job::search::{LookResult, Method, PlaceState};
use ruhe_job::signoff::{Carried, GateCode, State};
use ruhe_job::startup::SetDoc;
use ruhe_job::state::Circuit;
use ruhe_job::survey::SurveyDoc;
use ruhe_job::tell::{GateView, allowed, gate_views, search_view, test_view};

const PLACE: &str = "flare at the coil";

fn gate(w: &Work, code: GateCode) -> Option<GateView> {
    gate_views(&w.circuit(), Units::default())
        .into_iter()
        .find(|g| g.code == code)
}

fn is_met(w: &Work, code: GateCode) -> bool {
    gate(w, code).is_some_and(|g| g.met)
}

fn states(w: &Work) -> Vec<State> {
    let c = w.circuit();
    let mut gates = gate_views(&c, Units::default());
    // Fine tightness is apart from what is shown here; the states that take anything say nothing.
    gates.retain(|g| g.code != GateCode::Fine);
    let mut out = allowed(&c, &gates);
    out.retain(|s| matches!(s, State::Passed | State::PassedWithReservations));
    out
}

fn place(w: &Work) -> PlaceState {
    let c = w.circuit();
    let view = search_view(&c, Units::default());
    view.places.iter().find(|p| p.name == PLACE).unwrap().state
}

/// Everything that a person must say besides.
fn confirmed(w: &mut Work) {
    w.step(Step::BoundaryValves, "two, both shut");
    w.step(Step::Instruments, "same set");
    w.labelled();
}

fn void(w: &mut Work, entry: &str, reason: &str) -> Result<String, Refusal> {
    let b = VoidInput {
        reason: reason.into(),
    };
    w.act(|c, _| strike(c, entry, &b, &By::machine("", "")))
}

#[test]
fn no_look_clears_a_leak_that_no_repair_mended() {
    let mut w = Work::bench();
    confirmed(&mut w);
    w.hold(300.0, 6.0);
    w.look(PLACE, Method::Bubbles, LookResult::Leak, 300.0);
    assert_eq!(place(&w), PlaceState::Leak);
    for method in Method::ALL {
        for found in [LookResult::Clear, LookResult::Suspect, LookResult::Clear] {
            w.look(PLACE, *method, found, 300.0);
            assert_eq!(place(&w), PlaceState::Leak, "{method:?} {found:?}");
        }
    }
    // Neither does a hold that passes, as long as nobody did anything about it.
    w.hold(300.0, 0.0);
    assert!(!place(&w).eq(&PlaceState::Proven) && place(&w).is_open());
    assert!(states(&w).is_empty());
    // A repair alone is not enough, nor a hold below.
    w.mend(PLACE);
    assert!(!is_met(&w, GateCode::Retest));
    w.hold(200.0, 0.0);
    assert!(!is_met(&w, GateCode::Retest));
    assert!(states(&w).is_empty());
    w.hold(300.0, 0.0);
    assert_eq!(place(&w), PlaceState::Proven);
    assert!(is_met(&w, GateCode::Retest));
    assert!(states(&w).contains(&State::Passed));
}

#[derive(Debug, Clone, Copy)]
enum Act {
    Look(usize, usize),
    Mend,
    /// Psig; tight or not.
    Hold(f64, bool),
    Open,
}

fn act() -> impl Strategy<Value = Act> {
    prop_oneof![
        2 => (0..Method::ALL.len(), 0..LookResult::ALL.len()).prop_map(|(m, f)| Act::Look(m, f)),
        1 => Just(Act::Mend),
        3 => (prop::sample::select(vec![150.0, 300.0, 450.0]), any::<bool>()).prop_map(|(p, t)| Act::Hold(p, t)),
        1 => Just(Act::Open),
    ]
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 16, ..ProptestConfig::default() })]
    /// Worked by commands, whatever the order: a circuit can be signed as passed only when a hold since the last find,
    /// repair, opening and fall is tight and at least as high as every fall and find. A lower hold after that one,
    /// tight too, takes nothing back.
    #[test]
    fn a_pass_needs_a_tight_hold_as_high_as_all_that_spoke_against_it(acts in prop::collection::vec(act(), 1..7)) {
        let mut w = Work::bench();
        confirmed(&mut w);
        // What speaks against it: pressure it was shown at.
        let mut against: Vec<f64> = vec![];
        let (mut at, mut is_open_leak, mut good) = (0.0, false, false);
        for a in &acts {
            match *a {
                Act::Look(m, f) => {
                    let (method, found) = (Method::ALL[m], LookResult::ALL[f]);
                    w.look(PLACE, method, found, at);
                    if place(&w) == PlaceState::Leak {
                        (is_open_leak, good) = (true, false);
                        against.push(at);
                    }
                }
                Act::Mend => {
                    w.mend(PLACE);
                    (is_open_leak, good) = (false, false);
                }
                Act::Hold(p, tight) => {
                    w.hold(p, if tight { 0.0 } else { 0.02 * p });
                    at = p;
                    if !tight {
                        against.push(p);
                    }
                    good = tight && (good || against.iter().all(|x| p >= 0.94 * x));
                }
                Act::Open => {
                    let test = w.plan(300.0);
                    w.emptied(Step::Released, "0").unwrap();
                    w.mark(&test, EventKind::Opened);
                    at = 0.0;
                    w.end(&test);
                    good = false;
                }
            }
        }
        let passes = states(&w).contains(&State::Passed);
        prop_assert!(!passes || (good && !is_open_leak), "{acts:?}");
    }
}

#[test]
fn a_lower_hold_takes_nothing_back_and_proves_nothing_more() {
    for (then, passes) in [([300.0, 150.0], true), ([150.0, 150.0], false)] {
        let mut w = Work::bench();
        confirmed(&mut w);
        w.hold(300.0, 6.0);
        for p in then {
            w.hold(p, 0.0);
        }
        assert_eq!(is_met(&w, GateCode::Retest), passes, "{then:?}");
        assert_eq!(states(&w).contains(&State::Passed), passes, "{then:?}");
    }
}

#[test]
fn a_hold_that_was_voided_is_no_evidence_but_the_record_says_so() {
    let mut w = Work::bench();
    confirmed(&mut w);
    let tight = w.hold(300.0, 0.0);
    assert!(states(&w).contains(&State::Passed));
    void(&mut w, &tight, "wrong circuit").unwrap();
    assert!(!is_met(&w, GateCode::Hold));
    assert!(
        w.circuit().pressure_left().is_some(),
        "its gas is still inside"
    );

    // A fall that is struck out no longer asks for a retest; signed as passed without a word it cannot be.
    let falls = w.hold(300.0, 6.0);
    w.hold(300.0, 0.0);
    assert!(is_met(&w, GateCode::Retest));
    assert!(states(&w).contains(&State::Passed));
    w.now += 60_000;
    void(&mut w, &falls, "hose was leaking").unwrap();
    assert!(gate(&w, GateCode::Retest).is_none());
    let hold = gate(&w, GateCode::Hold).unwrap();
    assert!(hold.met);
    let words = hold.reservation.unwrap();
    assert!(
        words.contains("Hold 2") && words.contains("hose was leaking"),
        "{words}"
    );
    assert!(!states(&w).contains(&State::Passed));
    assert!(states(&w).contains(&State::PassedWithReservations));
}

#[test]
fn a_tap_undone_at_once_leaves_no_mark_and_one_struck_out_later_does() {
    for (wait, is_marked) in [(0, false), (60_000, true)] {
        let mut w = Work::bench();
        confirmed(&mut w);
        w.hold(300.0, 0.0);
        let found = w.look(PLACE, Method::Bubbles, LookResult::Leak, 300.0);
        assert!(!is_met(&w, GateCode::Retest));
        w.now += wait;
        void(&mut w, &found, "pressed by mistake").unwrap();
        assert_eq!(states(&w).contains(&State::Passed), !is_marked);
        assert_eq!(
            gate(&w, GateCode::Hold).unwrap().reservation.is_some(),
            is_marked
        );
        // Struck out twice it is struck out once.
        let before = w.entries.len();
        void(&mut w, &found, "again").unwrap();
        assert_eq!(w.entries.len(), before);
    }
}

#[test]
fn a_running_test_is_ended_before_it_is_voided() {
    let mut w = Work::bench();
    let test = w.plan(300.0);
    w.mark(&test, EventKind::SupplyIsolated);
    w.read(&test, 300.0, 0.0);
    assert!(
        matches!(void(&mut w, &test, "wrong one"), Err(Refusal::Conflict(m)) if m.contains("end it first"))
    );
    let end = w.end(&test);
    assert_eq!(
        void(&mut w, &end, " ").unwrap_err(),
        Refusal::wrong("reason", "say why it is struck out")
    );
    // Its end undone, it runs on; what an earlier end had frozen does not come back.
    let c = w.circuit();
    let t = c.test(&test).unwrap();
    let again = freeze(t, &t.now, w.seal(&test), w.now);
    w.keep("again", vec![again]);
    let end = "again".to_owned();
    void(&mut w, &end, "undone at once").unwrap();
    assert!(!w.circuit().test(&test).unwrap().is_over());
    w.end(&test);
    void(&mut w, &test, "wrong one").unwrap();
    assert!(w.circuit().test(&test).is_none());
    // The next is called by the next number: what is gone was there.
    assert!(matches!(&w.hold_planned().deed, Deed::Planned(p) if p.attempt == 2));
}

#[test]
fn what_was_struck_out_cannot_be_what_stays() {
    let mut w = Work::bench();
    let survey = w
        .act(|c, _| {
            keep_survey(
                c,
                SurveyInput {
                    survey: SurveyDoc {
                        sections: c.doc.sections.clone(),
                        ..c.doc.clone()
                    },
                    version: c.version,
                },
            )
        })
        .unwrap();
    assert!(matches!(
        void(&mut w, &survey, "no"),
        Err(Refusal::Conflict(_))
    ));
    assert_eq!(
        void(&mut w, "nothing", "no"),
        Err(Refusal::Missing("entry".into()))
    );
}

/// Every command, given something it would otherwise take.
fn every_command(
    c: &Circuit,
    test: &str,
    entry: &str,
    now: i64,
) -> Vec<(&'static str, Result<Vec<Deed>, Refusal>)> {
    let event = EventInput {
        moved: None,
        with_tool: None,
        photo_id: None,
        id: "x".into(),
        kind: EventKind::Opened,
        note: String::new(),
        at_ms: None,
        logged_ms: None,
        client_ms: None,
    };
    let step = StepInput {
        left: vec![],
        step: Step::Released,
        note: "slowly".into(),
        at_ms: None,
    };
    let override_ = OverrideInput {
        gate: GateCode::Hold,
        may_answer: true,
        words: "so".into(),
    };
    let a_look = LookInput {
        place: PLACE.into(),
        method: Method::Bubbles,
        finding: LookResult::Clear,
        dwell_s: Some(60.0),
        at_pa: Some(300.0 * PSI),
        section: None,
        note: String::new(),
        photo_id: None,
        at_ms: None,
    };
    let a_repair = RepairInput {
        opened: Some(ruhe_job::search::RepairOpened::Tool),
        place: PLACE.into(),
        cause: "worn".into(),
        words: String::new(),
        torque: None,
        section: None,
        with_torch: false,
        is_safe: false,
        is_risky: false,
        at_ms: None,
    };
    let survey = SurveyInput {
        survey: c.doc.clone(),
        version: c.version,
    };
    let plan = crate::work::hold_input(300.0);
    let void = VoidInput {
        reason: "so".into(),
    };
    let clock = ClockInput {
        at_ms: START,
        reason: "cold".into(),
    };
    let signature = SignatureInput {
        name: "I".into(),
        role: "T".into(),
        statement: "S".into(),
        state: State::Failed,
        seen: None,
        carried: crate::work::carried(),
        reservations: vec![],
        drawing: String::new(),
    };
    let line = crate::work::line(test, 0, START, 300.0);
    let instead = StrikeInput {
        reason: "so".into(),
        instead: None,
    };
    let reading = ReadingsInput {
        readings: vec![ReadingInput {
            id: "r".into(),
            channel_id: c.test(test).unwrap().channels[0].id.clone(),
            typed: "300".into(),
            at_ms: None,
            logged_ms: None,
            client_ms: now,
        }],
    };
    let t = c.test(test).unwrap();
    let arrival = ArrivalInput {
        arrival: ArrivalDoc::default(),
        at_ms: None,
        may_answer: true,
    };
    let target = TargetInput {
        target: TargetDoc::default(),
        at_ms: None,
    };
    let row = RowInput {
        row: RowDoc::default(),
        at_ms: None,
    };
    let ports = PortsInput {
        ports: PortsDoc::default(),
        version: c.ports_version(),
        at_ms: None,
    };
    let broken = BreakInput {
        broken: BreakDoc::default(),
        at_ms: None,
    };
    let set = SetInput {
        set: SetDoc::default(),
        at_ms: None,
    };
    let agreed = ConsentInput {
        repair: None,
        question: "q".into(),
        options: String::new(),
        risk: "r".into(),
        is_agreed: true,
        answer: "yes".into(),
        name: "Otto Brandt".into(),
        drawing: String::new(),
        by_phone: true,
        at_ms: None,
        said_by: None,
    };
    let seen = SeenInput {
        left: crate::work::both("0", "psig"),
        besides: None,
        at_ms: None,
    };
    let correction = CorrectionInput {
        system_name: "Another name".into(),
        tag: c.opened.tag.clone(),
        name: c.opened.name.clone(),
        kind: c.job(),
        refrigerant: c.opened.refrigerant.clone(),
        safety_class: String::new(),
        model: String::new(),
        serial: String::new(),
        scope: String::new(),
        volume_l: None,
        reason: "so".into(),
    };
    let moved = MoveInput {
        to: "another".into(),
        section: None,
        reason: "so".into(),
    };
    vec![
        ("mark", mark(c, test, &event, now)),
        ("clock", start_clock(c, test, &clock, now)),
        (
            "read",
            read(c, test, &reading, &By::machine("", ""), now).map(|_| vec![]),
        ),
        (
            "strike_reading",
            strike_reading(c, test, &line, &instead, "s", (&By::machine("", ""), now)).map(|x| x.0),
        ),
        (
            "end",
            end(c, test, &t.now, crate::work::seal_of(&[]), now).map(|d| d.into_iter().collect()),
        ),
        ("confirm", confirm(c, &step, now)),
        ("override", override_gate(c, &override_)),
        ("look", look(c, a_look, now)),
        ("mend", mend(c, a_repair, now)),
        ("survey", keep_survey(c, survey)),
        (
            "plan",
            plan_test(c, plan, stock(&no_kit()), "p", now, Units::default()),
        ),
        ("strike", strike(c, entry, &void, &By::machine("", ""))),
        ("sign", sign(c, &signature, now, now)),
        ("arrive", arrive(c, arrival, now)),
        ("target", keep_target(c, target, now)),
        ("weigh", weigh(c, row, now)),
        ("ports", keep_ports(c, ports, now)),
        ("break", break_vacuum(c, broken, now)),
        ("measure", measure(c, set, now)),
        ("consent", consent(c, agreed, now)),
        ("see", see(c, seen, now)),
        ("approve", approve(c, entry)),
        ("photo", take_photo(c, b"no picture")),
        ("correct", correct(c, &correction)),
        ("move", move_away(c, test, &moved, ("there", "B"), now)),
    ]
}

#[test]
fn a_signed_circuit_takes_nothing_more() {
    let mut w = Work::of(JobKind::BenchComponent);
    confirmed(&mut w);
    let test = w.hold(300.0, 0.0);
    w.look_everywhere(300.0);
    let look = w.look(PLACE, Method::Bubbles, LookResult::Clear, 300.0);
    w.sign(State::Passed).unwrap();
    let c = w.circuit();
    for (name, told) in every_command(&c, &test, &look, w.now) {
        assert!(
            matches!(&told, Err(Refusal::Conflict(m)) if m.contains("signed")),
            "{name}: {told:?}"
        );
    }
}

#[test]
fn nobody_signs_what_changed_since_it_was_seen() {
    let mut w = Work::bench();
    confirmed(&mut w);
    w.hold(300.0, 0.0);
    w.look_everywhere(300.0);
    let seen = w.circuit().head();
    let b = |seen: &str| SignatureInput {
        name: "Odo Fenn".into(),
        role: "Technician".into(),
        statement: "Seen.".into(),
        state: State::Passed,
        seen: Some(seen.into()),
        carried: Carried::default(),
        reservations: vec![],
        drawing: String::new(),
    };
    w.look(PLACE, Method::Bubbles, LookResult::Clear, 300.0);
    let told = w.act(|c, now| sign(c, &b(&seen), now, now));
    assert!(matches!(told, Err(Refusal::Conflict(m)) if m.contains("meanwhile")));
    let (seen, bar) = (
        w.circuit().head(),
        Units::of_codes(Some("bar"), Some("degC"), Some("Pa")),
    );
    let before = [Units::default(), bar].map(|u| gate_views(&w.circuit(), u));
    w.act(|c, now| sign(c, &b(&seen), now, now)).unwrap();
    let mut c = w.circuit();
    assert!(c.is_signed());
    // The gates are those that were signed, in whatever units they are read.
    assert_eq!([Units::default(), bar].map(|u| gate_views(&c, u)), before);
    assert_ne!(before[0], before[1]);
    // What was signed stands, also where these rules would find otherwise: that is said, and nothing is made up.
    let signed = c.signature.as_mut().unwrap();
    signed.said.gates[0].met = false;
    signed.said.gates[1].is_reserved = true;
    let [now, reserved, ..] = &gate_views(&c, bar)[..] else {
        panic!("two gates at the least")
    };
    assert!(
        !now.met && now.evidence.contains("finds otherwise"),
        "{}",
        now.evidence
    );
    assert!(reserved.met && reserved.reservation.is_some());
}

#[test]
fn what_was_found_leads_on_to_the_stage_that_follows() {
    let mut w = Work::bench();
    let onward = |w: &Work, test: &str| {
        let c = w.circuit();
        let view = test_view(
            &c,
            c.test(test).unwrap(),
            &[],
            None,
            w.now,
            Units::default(),
        );
        (view.onward.map(|o| o.stage), view.clock.map(|c| c.label))
    };
    let falls = w.hold(300.0, 6.0);
    assert_eq!(onward(&w, &falls), (Some(Stage::Search), None));
    let test = w.plan(300.0);
    w.mark(&test, EventKind::SupplyIsolated);
    w.read(&test, 300.0, 0.0);
    // It holds, and its planned end is past; but as long as it runs nothing is to be let out.
    let (stage, clock) = onward(&w, &test);
    assert_eq!(stage, None);
    assert_eq!(clock.as_deref(), Some("the planned end"));
    w.end(&test);
    // Its ports were looked at by nobody yet, and the pressure is still on.
    assert_eq!(onward(&w, &test), (Some(Stage::Search), None));
    confirmed(&mut w);
    w.mend("coil");
    w.hold(300.0, 0.0);
    w.look_everywhere(300.0);
    w.sign(State::Passed).unwrap();
    assert_eq!(onward(&w, &test), (None, None));
}
