//! What becomes of what somebody says, by a keeper in memory: every door does this.

use crate::work::{MINUTE, START, Work, hold_input, no_kit};
use ruhe_core::quantity::Units;
use ruhe_core::reading::EventKind;
use ruhe_job::act::{
    ClockInput, EventInput, ReadingInput, ReadingsInput, StrikeInput, VoidInput, strike,
};
use ruhe_job::kit::InUse;
use ruhe_job::log::{Chain, Deed, PROCEDURES, ReadingLine, Seal, Who};
use ruhe_job::people::{ADDRESSES, By, NobodyKnown, Role, Standing};
use ruhe_job::procedure::Step;
use ruhe_job::refusal::Refusal;
use ruhe_job::service::{self, Added, Keeper, VERBS, Word};
use ruhe_job::signoff::State;
use ruhe_job::state::{Circuit, KitState, Now, Procedures, Test};
use ruhe_job::tell::{Rows, Wanted};
use serde_json::json;
use std::sync::Arc;

impl Keeper for Work {
    type Error = Refusal;

    fn circuit(&mut self, id: &str) -> Result<Circuit, Refusal> {
        if id == self.id {
            Ok(Work::circuit(self))
        } else {
            Err(Refusal::Missing("circuit".into()))
        }
    }
    fn folded(&mut self, id: &str) -> Result<Arc<Circuit>, Refusal> {
        Keeper::circuit(self, id).map(Arc::new)
    }
    fn circuit_of(&mut self, test: &str) -> Result<String, Refusal> {
        let planned =
            |e: &&ruhe_job::log::Entry| e.id == test && matches!(e.deed, Deed::Planned(_));
        let found = self.entries.iter().find(planned);
        found
            .map(|_| self.id.clone())
            .ok_or_else(|| Refusal::Missing("test".into()))
    }
    fn log_with(&mut self, entry: &str) -> Result<Option<String>, Refusal> {
        if entry == "elsewhere" {
            return Ok(Some("another circuit".into()));
        }
        let found = self.entries.iter().any(|e| e.id == entry);
        Ok(found.then(|| self.id.clone()))
    }
    fn rig(&mut self, _: &str) -> Result<Option<Circuit>, Refusal> {
        Ok(None)
    }
    fn kit(&mut self) -> Result<KitState, Refusal> {
        Ok(no_kit())
    }
    fn procedures(&mut self) -> Result<Procedures, Refusal> {
        Ok(Procedures::fold(vec![], Chain::empty(PROCEDURES)))
    }
    fn in_use(&mut self) -> Result<Vec<InUse>, Refusal> {
        Ok(vec![])
    }
    fn reading(&mut self, id: &str) -> Result<Option<(String, ReadingLine)>, Refusal> {
        Ok(self.readings.iter().find_map(|(test, all)| {
            let line = all.iter().find(|l| l.id == id)?;
            Some((test.clone(), line.clone()))
        }))
    }
    fn latest(&mut self, test: &str, most: usize) -> Result<Vec<ReadingLine>, Refusal> {
        let all = self.readings.get(test).map_or(&[][..], Vec::as_slice);
        Ok(all.iter().rev().take(most).cloned().collect())
    }
    fn wanted(&mut self, test: &str, wanted: &Wanted) -> Result<Vec<ReadingLine>, Refusal> {
        Ok(wanted.of(self.readings.get(test).map_or(&[][..], Vec::as_slice)))
    }
    fn judged(&mut self, t: &Test) -> Result<(Arc<Now>, Seal), Refusal> {
        let all = self.readings.get(&t.id).map_or(&[][..], Vec::as_slice);
        let (now, seal) = service::judged(t, all);
        Ok((Arc::new(now), seal))
    }
    fn append(
        &mut self,
        chain: &mut Chain,
        who: &Who,
        now_ms: i64,
        deeds: Vec<Deed>,
    ) -> Result<(), Refusal> {
        for (entry, line, _) in chain.append(who, now_ms, deeds).unwrap() {
            self.entries.push(entry);
            self.lines.push(line);
        }
        self.chain = chain.clone();
        Ok(())
    }
    fn add_readings(&mut self, test: &str, lines: &[ReadingLine]) -> Result<Added, Refusal> {
        let all = self.readings.entry(test.to_owned()).or_default();
        let mut added = Added::default();
        for line in lines {
            if all.iter().any(|l| l.id == line.id) {
                added.known += 1;
            } else {
                added.new += 1;
                all.push(line.clone());
            }
        }
        all.sort_by(|a, b| (a.at_ms, &a.id).cmp(&(b.at_ms, &b.id)));
        Ok(added)
    }
    fn correct_reading(&mut self, test: &str, line: &ReadingLine) -> Result<(), Refusal> {
        self.add_readings(test, std::slice::from_ref(line))
            .map(|_| ())
    }
}

/// Who says something at the clock of the work.
struct Said {
    who: Who,
    by: By,
    at_ms: i64,
    is_confirmed: bool,
}

fn said(w: &Work, id: &str) -> Said {
    let by = By::machine("Ilse Marrow", "phone");
    Said {
        who: Who {
            id: id.into(),
            actor: by.name.clone(),
            device: by.device.clone(),
            said_ms: None,
        },
        by,
        at_ms: w.now,
        is_confirmed: false,
    }
}

impl Said {
    fn by(mut self, name: &str, standing: Standing) -> Self {
        (self.by.name, self.by.standing) = (name.into(), standing);
        self
    }
    fn word(&self) -> Word<'_> {
        Word {
            who: &self.who,
            by: &self.by,
            at_ms: self.at_ms,
            now_ms: self.at_ms,
            is_confirmed: self.is_confirmed,
        }
    }
}

fn event(id: &str, kind: EventKind, at_ms: Option<i64>) -> EventInput {
    EventInput {
        photo_id: None,
        moved: None,
        with_tool: None,
        id: id.into(),
        kind,
        note: String::new(),
        at_ms,
        logged_ms: None,
        client_ms: None,
    }
}

/// A hold that stood for an hour and was ended by the service.
fn ended() -> (Work, String) {
    let mut w = Work::bench();
    let test = w.plan(300.0);
    w.mark(&test, EventKind::SupplyIsolated);
    w.read(&test, 300.0, 0.0);
    let s = said(&w, "the-end");
    service::end(&mut w, &test, &s.word()).unwrap();
    (w, test)
}

fn ends(w: &Work, test: &str) -> Vec<ruhe_job::log::Ended> {
    let of = |e: &ruhe_job::log::Entry| match &e.deed {
        Deed::Ended(x) if x.test == test => Some(x.clone()),
        _ => None,
    };
    w.entries.iter().filter_map(of).collect()
}

#[test]
fn every_verb_has_its_address_and_every_address_of_a_circuit_its_verb() {
    const BY_HAND: [&str; 7] = [
        "bag",
        "correction",
        "csv",
        "packages",
        "photos",
        "record",
        "tests",
    ];
    let of_circuit: Vec<&str> = ADDRESSES
        .iter()
        .filter(|a| a.0 != "GET")
        .filter_map(|a| a.1.strip_prefix("/api/circuits/{id}/"))
        .filter(|rest| !rest.contains('/') && !BY_HAND.contains(rest))
        .collect();
    for verb in VERBS {
        assert!(of_circuit.contains(verb), "{verb} has no address");
    }
    for address in of_circuit {
        assert!(VERBS.contains(&address), "{address} is no verb");
    }
}

#[test]
fn what_is_said_twice_is_kept_once_and_an_id_is_of_one_circuit() {
    let mut w = Work::bench();
    let body = json!({"left": {"side": "both", "pressure": {"typed": "120", "unit": "psig"}}});
    let circuit = w.id.clone();
    let mut say = |id: &str| {
        let s = said(&w, id);
        service::decide(&mut w, &circuit, &s.who, START + MINUTE, |_, c| {
            service::said("seen", body.clone(), c, &s.word()).unwrap()
        })
    };
    let first = say("one").unwrap();
    let again = say("one").unwrap();
    assert_eq!((first.id.as_str(), again.id.as_str()), ("one", "one"));
    assert!(matches!(say("elsewhere"), Err(Refusal::Conflict(_))));
    assert!(matches!(say("no id at all!"), Err(Refusal::Wrong { .. })));
    let kept = w.entries.iter().filter(|e| e.deed.name() == "seen").count();
    assert_eq!(kept, 1);
    assert!(service::said("nonsense", body, &w.circuit(), &said(&w, "x").word()).is_none());
}

#[test]
fn a_body_that_is_no_body_of_its_verb_is_refused() {
    let w = Work::bench();
    let s = said(&w, "x");
    for verb in VERBS {
        let done = service::said(verb, json!([1, 2]), &w.circuit(), &s.word()).unwrap();
        assert!(matches!(done, Err(Refusal::Wrong { .. })), "{verb}");
    }
}

#[test]
fn the_end_seals_what_was_read_and_a_second_end_changes_nothing() {
    let (mut w, test) = ended();
    let all = ends(&w, &test);
    assert_eq!((all.len(), all[0].seal.count), (1, 242));
    for id in ["the-end", "another"] {
        let s = said(&w, id);
        service::end(&mut w, &test, &s.word()).unwrap();
    }
    assert_eq!(ends(&w, &test).len(), 1);
}

#[test]
fn what_bears_on_a_test_that_is_over_judges_it_again_at_the_time_it_ended() {
    let (mut w, test) = ended();
    let at = ends(&w, &test)[0].at_ms;
    let when = Some(w.now - 30 * MINUTE);
    w.now += 10 * MINUTE;
    // An event that comes late.
    let s = said(&w, "late");
    service::mark(
        &mut w,
        &test,
        event("late", EventKind::Sun, when),
        &s.word(),
    )
    .unwrap();
    // It is struck out.
    let s = said(&w, "void");
    let circuit = w.id.clone();
    let b = VoidInput {
        reason: "it was cloudy".into(),
    };
    service::decide(&mut w, &circuit, &s.who, s.at_ms, |_, c| {
        strike(c, "late", &b, &s.by)
    })
    .unwrap();
    // A reading is struck out, with the one that stands for it.
    let reading = w.readings[&test][40].id.clone();
    let b = StrikeInput {
        reason: "read wrong".into(),
        instead: Some("300.0".into()),
    };
    let s = said(&w, "slip");
    service::strike_reading(&mut w, &reading, &b, &s.word()).unwrap();
    // The clock is started by hand while it runs, and not afterwards.
    let s = said(&w, "clock");
    let b = ClockInput {
        at_ms: at - 40 * MINUTE,
        reason: "it stood before".into(),
    };
    let late = service::start_clock(&mut w, &test, b, &s.word());
    assert!(matches!(late, Err(Refusal::Conflict(_))));
    let all = ends(&w, &test);
    assert_eq!(all.len(), 4);
    assert!(all.iter().all(|e| e.at_ms == at));
    assert_eq!(all[3].seal.count, 243, "the corrected one is sealed too");
    let c = Work::circuit(&w);
    let t = c.test(&test).unwrap();
    assert_eq!(t.struck(&reading).map(|_| ()), Some(()));
    assert_eq!(t.ended.as_ref().map(|e| e.1.seal.count), Some(243));
}

#[test]
fn readings_sent_again_after_the_end_are_known_and_new_ones_refused() {
    let mut w = Work::bench();
    let test = w.plan(300.0);
    let channel = w.circuit().test(&test).unwrap().channels[0].id.clone();
    let sent = |typed: &str| ReadingsInput {
        readings: vec![ReadingInput {
            id: "r1".into(),
            channel_id: channel.clone(),
            typed: typed.into(),
            at_ms: None,
            logged_ms: None,
            client_ms: START + MINUTE,
        }],
    };
    w.now = START + MINUTE;
    let s = said(&w, "readings");
    let new = service::read(&mut w, &test, &sent("300.1"), &s.word()).unwrap();
    assert_eq!((new.new, new.known, new.skewed), (1, 0, 0));
    let known = service::read(&mut w, &test, &sent("300.1"), &s.word()).unwrap();
    assert_eq!((known.new, known.known), (0, 1));
    let e = said(&w, "end");
    service::end(&mut w, &test, &e.word()).unwrap();
    let known = service::read(&mut w, &test, &sent("300.1"), &s.word()).unwrap();
    assert_eq!((known.new, known.known), (0, 1));
    for other in ["300.2", ""] {
        let mut b = sent(other);
        b.readings.retain(|r| !r.typed.is_empty());
        let done = service::read(&mut w, &test, &b, &s.word());
        assert!(matches!(done, Err(Refusal::Conflict(_))), "“{other}”");
    }
}

#[test]
fn whoever_is_known_signs_by_their_own_name_and_speaks_for_who_is_not() {
    let mut w = Work::bench();
    let consent = json!({"question": "May the roof be opened?", "risk": "rain", "answer": "yes", "name": "Otto Brandt",
        "is_agreed": true, "by_phone": true});
    let known = || said(&Work::bench(), "c").by("Ilse Marrow", Standing::Person(Role::Technician));
    let said_by =
        |s: &Said, c: &Circuit| match &service::said("consents", consent.clone(), c, &s.word()) {
            Some(Ok(deeds)) => match &deeds[0] {
                Deed::Consented(x) => x.said_by.clone(),
                other => panic!("{other:?}"),
            },
            other => panic!("{other:?}"),
        };
    let c = Work::circuit(&w);
    assert_eq!(said_by(&known(), &c), Some("Ilse Marrow".into()));
    let nobody = Standing::Anyone(NobodyKnown::if_so(false).unwrap());
    assert_eq!(said_by(&known().by("x", nobody), &c), None);
    // Words that were sent with a witness's own password stand in their name, whatever was typed.
    w.step(Step::BoundaryValves, "two, both shut");
    w.step(Step::Instruments, "same set");
    w.labelled();
    w.hold(300.0, 0.0);
    w.look_everywhere(300.0);
    w.sign(State::Passed).unwrap();
    let c = Work::circuit(&w);
    let witness = json!({"name": "somebody else", "role": "supervisor"});
    for (is_confirmed, name, by) in [
        (true, "Runa Okafor", None),
        (false, "somebody else", Some("Runa Okafor".to_owned())),
    ] {
        let mut s = known().by("Runa Okafor", Standing::Person(Role::Witness));
        s.is_confirmed = is_confirmed;
        let deeds = service::said("witness", witness.clone(), &c, &s.word());
        match &deeds.unwrap().unwrap()[0] {
            Deed::Countersigned(x) => assert_eq!((x.name.as_str(), &x.said_by), (name, &by)),
            other => panic!("{other:?}"),
        }
    }
}

#[test]
fn a_plan_and_its_views_come_through_the_same_door() {
    let (mut w, test) = ended();
    let units = Units::default();
    let (circuit, now) = (w.id.clone(), w.now);
    let view = service::circuit(&mut w, &circuit, units).unwrap();
    assert_eq!(view.id, circuit);
    let shown = service::test(&mut w, &test, now, units).unwrap();
    assert_eq!(shown.id, test);
    let table = service::table(&mut w, &test, Rows::All, None).unwrap();
    assert!(!table.rows.is_empty());
    let again = service::again(&mut w, &test, units).unwrap();
    assert!(again.differs.is_empty(), "{:?}", again.differs);
    let record = service::record(&mut w, &circuit, None, now, units).unwrap();
    assert_eq!((record.tests.len(), record.has_simulated), (1, false));
    assert!(service::record(&mut w, &circuit, Some(1), now, units).is_ok());
    for none in [0, 2] {
        let none = service::record(&mut w, &circuit, Some(none), now, units);
        assert!(matches!(none, Err(Refusal::Missing(_))));
    }
    let s = said(&w, "second");
    let planned = service::decide(&mut w, &circuit, &s.who, s.at_ms, |w, c| {
        service::plan(w, c, hold_input(310.0), &s.word(), units)
    });
    assert_eq!(planned.unwrap().test.as_deref(), Some("second"));
    assert!(service::again(&mut w, "second", units).is_err(), "it runs");
}
