//! A circuit: its log, folded.

use super::kept::Kept;
use super::test::{Now, Test};
use super::visit::Visit;
use crate::contents::Contents;
use crate::log::{
    Chain, Confirmed, Deed, Entry, Is, Looked, Mended, MovedAway, Opened, Overridden, Planned,
    Seen, Signed, Visited,
};
use crate::procedure::Step;
use crate::refusal::Refusal;
use crate::survey::{Survey, SurveyDoc, name_now, renamed};
use ruhe_core::ENGINE_VERSION;
use ruhe_core::reading::Kind;
use std::collections::{HashMap, HashSet};
use std::sync::{Arc, OnceLock};

/// So long a tap that decides can be undone without a word, ms.
pub const UNDO_MS: i64 = 10_000;
/// Undoing takes its way over the network, ms.
const APART_MS: i64 = 2_000;

/// Something that was said and counts no longer.
#[derive(Debug, Clone)]
pub struct StruckOut {
    /// Id of the entry.
    pub id: String,
    /// What it said.
    pub deed: Arc<Deed>,
    /// What it was, in words.
    pub what: String,
    /// When it had been kept, ms since 1970 UTC.
    pub kept_ms: i64,
    /// Why.
    pub reason: String,
    /// When it was struck out, ms since 1970 UTC.
    pub at_ms: i64,
}

impl StruckOut {
    /// It was undone at once: a slip of the thumb, not a correction.
    #[must_use]
    pub fn is_undone(&self) -> bool {
        self.at_ms - self.kept_ms <= UNDO_MS + APART_MS
    }
}

/// A correction of what a circuit is.
#[derive(Debug, Clone)]
pub struct Correction {
    /// What it changed, in words.
    pub words: String,
    /// Why.
    pub reason: String,
    /// Who said so.
    pub actor: String,
    /// When it was kept, ms since 1970 UTC.
    pub at_ms: i64,
}

/// A circuit.
#[derive(Debug, Clone)]
pub struct Circuit {
    /// Its id: that of its log.
    pub id: String,
    /// Where and what it is.
    pub opened: Opened,
    /// When it was taken on, ms since 1970 UTC.
    pub created_ms: i64,
    /// The survey as it was written down.
    pub doc: SurveyDoc,
    /// Its version.
    pub version: i64,
    /// The survey as it is worked with.
    pub survey: Survey,
    /// Every version of the survey, of earlier visits too: when it was kept, which entry, who, what.
    pub surveys: Vec<(i64, String, String, Arc<SurveyDoc>)>,
    /// Readings outside any test, in the order of time.
    pub seen: Vec<Kept<Seen>>,
    /// Overrides that somebody answers for who may: by their entry, and who.
    pub approved: Vec<(String, String)>,
    /// Ids of photos.
    pub photos: Vec<String>,
    /// Looks in the order of time.
    pub looks: Vec<Kept<Looked>>,
    /// Repairs in the order of time.
    pub repairs: Vec<Kept<Mended>>,
    /// Steps in the order of time.
    pub steps: Vec<Kept<Confirmed>>,
    /// Overrides in the order they were said.
    pub overrides: Vec<Kept<Overridden>>,
    /// Tests in the order they were opened, without those that were voided.
    pub tests: Vec<Test>,
    /// Tests that were voided: no evidence, but their gas was inside.
    pub voided: Vec<Test>,
    /// Tests that were made on another circuit, and where they stand now.
    pub elsewhere: Vec<(Test, Kept<MovedAway>)>,
    /// Corrections of what it is, and what each changed, in words.
    pub corrections: Vec<Correction>,
    /// Of this visit: arrival, charge, ports, start-up, what came after the signature.
    pub visit: Visit,
    /// The signature of this visit.
    pub signature: Option<Kept<Signed>>,
    /// What was signed: the circuit as it stood then.
    pub signed_on: Option<Arc<Circuit>>,
    /// Earlier visits, each as it was signed and what was added to it.
    pub past: Vec<Arc<Circuit>>,
    /// What counts no longer.
    pub struck: Vec<StruckOut>,
    /// Ids of this visit's entries, struck out or not.
    here: HashSet<String>,
    /// Entries of this visit by id: what can be struck out.
    pub(crate) ids: HashMap<String, Arc<Deed>>,
    /// Who said each of them.
    pub(crate) actors: HashMap<String, String>,
    /// The place of every entry in the log, of earlier visits too.
    pub(crate) seqs: HashMap<String, u64>,
    /// What is inside, once somebody asked; it is worked out anew when running tests show more.
    pub(super) folded: OnceLock<Arc<Contents>>,
    /// Last attempt of each kind of test, those voided too.
    attempts: HashMap<Kind, u32>,
    /// The end of its log.
    pub chain: Chain,
    /// Id of the last entry.
    pub last: String,
}

impl Circuit {
    /// Folds a log. `hash`: that of its last entry.
    ///
    /// # Errors
    /// If it does not begin with a circuit.
    pub fn fold(entries: Vec<Entry>, hash: &str) -> Result<Self, Refusal> {
        let broken = || Refusal::Broken("this log does not begin with a circuit".into());
        let mut list = entries.into_iter();
        let first = list.next().ok_or_else(broken)?;
        let newer = first.newer();
        let Deed::Opened(opened) = first.deed else {
            return Err(broken());
        };
        let mut out = Self {
            chain: Chain {
                log: first.log.clone(),
                seq: first.seq,
                hash: hash.into(),
                newer,
            },
            id: first.log,
            last: first.id,
            opened,
            created_ms: first.kept_ms,
            doc: SurveyDoc::default(),
            version: 0,
            survey: Survey::default(),
            surveys: vec![],
            seen: vec![],
            approved: vec![],
            photos: vec![],
            looks: vec![],
            repairs: vec![],
            steps: vec![],
            overrides: vec![],
            tests: vec![],
            voided: vec![],
            elsewhere: vec![],
            corrections: vec![],
            visit: Visit::default(),
            signature: None,
            signed_on: None,
            past: vec![],
            struck: vec![],
            here: HashSet::new(),
            ids: HashMap::new(),
            actors: HashMap::new(),
            seqs: HashMap::new(),
            folded: OnceLock::new(),
            attempts: HashMap::new(),
        };
        let rest: Vec<Entry> = list.collect();
        out.strike_out(&rest);
        for e in rest {
            if let Deed::Visited(v) = &e.deed {
                let visit = Kept {
                    id: e.id.clone(),
                    actor: e.actor.clone(),
                    said: v.clone(),
                };
                out.next_visit(visit, &e.before)?;
            }
            if matches!(e.deed, Deed::Signed(_)) {
                out.settle()?;
                out.signed_on = Some(Arc::new(out.clone()));
            }
            out.chain.seq = e.seq;
            out.chain.newer = out.chain.newer.take().or_else(|| e.newer());
            out.last.clone_from(&e.id);
            out.take(e);
        }
        out.settle()?;
        Ok(out)
    }

    /// The visit so far becomes a past one; what the circuit is stays.
    /// `before`: hash of the last entry of the visit so far.
    fn next_visit(&mut self, visit: Kept<Visited>, before: &str) -> Result<(), Refusal> {
        self.settle()?;
        let mut past = self.clone();
        past.chain.hash = before.into();
        past.past.clear();
        self.past.push(Arc::new(past));
        self.visit = self.visit.next(visit);
        if let Some(v) = &self.visit.began {
            self.opened.job = v.said.job;
        }
        self.seen.clear();
        self.approved.clear();
        self.looks.clear();
        self.repairs.clear();
        self.steps.clear();
        self.overrides.clear();
        self.tests.clear();
        self.voided.clear();
        self.elsewhere.clear();
        self.corrections.clear();
        self.signature = None;
        self.signed_on = None;
        // What an earlier visit said stays as it was signed.
        self.ids.clear();
        self.actors.clear();
        self.here.clear();
        Ok(())
    }

    /// What counts no longer.
    fn strike_out(&mut self, entries: &[Entry]) {
        for e in entries {
            if let Deed::Planned(p) = &e.deed {
                let last = self.attempts.entry(p.kind).or_default();
                *last = p.attempt.max(*last);
            }
            if let Deed::Struck { entry, reason } = &e.deed {
                let Some(was) = entries.iter().find(|x| x.id == *entry) else {
                    continue;
                };
                self.struck.push(StruckOut {
                    id: entry.clone(),
                    deed: Arc::new(was.deed.clone()),
                    what: words(&was.deed),
                    kept_ms: was.kept_ms,
                    reason: reason.clone(),
                    at_ms: e.kept_ms,
                });
            }
        }
    }

    fn take(&mut self, e: Entry) {
        self.here.insert(e.id.clone());
        self.seqs.insert(e.id.clone(), e.seq);
        if self.struck.iter().any(|s| s.id == e.id) {
            match &e.deed {
                Deed::Planned(p) => self.voided.push(planned(e.id, p)),
                // Its test runs on: what was frozen before this end does not come back.
                Deed::Ended(x) => {
                    if let Some(t) = self.test_mut(&x.test) {
                        t.ended = None;
                    }
                }
                _ => {}
            }
            return;
        }
        let deed = Arc::new(e.deed);
        self.ids.insert(e.id.clone(), deed.clone());
        self.actors.insert(e.id.clone(), e.actor.clone());
        match &*deed {
            Deed::Surveyed { version, survey } => {
                self.rename(&renamed(&self.doc.joints, &survey.joints));
                (self.version, self.doc) = (*version, survey.clone());
                self.surveys
                    .push((e.kept_ms, e.id, e.actor, Arc::new(survey.clone())));
            }
            Deed::PhotoTaken { .. } => self.photos.push(e.id),
            Deed::VacuumBroken(x) => {
                // It is a step too: on the path, in the run, to be struck out.
                let step = Confirmed {
                    step: Step::VacuumBroken,
                    note: x.broken.words(),
                    left: vec![],
                    at_ms: x.at_ms,
                };
                self.steps.push(kept(e.id.clone(), e.actor.clone(), &step));
                self.visit.take(&e.id, &e.actor, &deed);
            }
            Deed::Seen(x) => self.seen.push(kept(e.id, e.actor, x)),
            Deed::Approved { entry } => self.approved.push((entry.clone(), e.actor)),
            Deed::Looked(x) => self.looks.push(kept(e.id, e.actor, x)),
            Deed::Mended(x) => self.repairs.push(kept(e.id, e.actor, x)),
            Deed::Confirmed(x) => self.steps.push(kept(e.id, e.actor, x)),
            Deed::Overridden(x) => self.overrides.push(kept(e.id, e.actor, x)),
            Deed::Signed(x) => self.signature = Some(kept(e.id, e.actor, x)),
            Deed::Planned(p) => self.tests.push(planned(e.id, p)),
            Deed::Marked(m) => {
                if let Some(t) = self.test_mut(&m.test) {
                    t.events.push((e.id, m.clone()));
                }
            }
            Deed::ClockStarted { test, at_ms, .. } => {
                if let Some(t) = self.test_mut(test) {
                    t.clock_ms = Some(*at_ms);
                }
            }
            Deed::ReadingStruck {
                test,
                reading,
                reason,
                ..
            } => {
                if let Some(t) = self.test_mut(test) {
                    t.struck.push((reading.clone(), reason.clone()));
                }
            }
            Deed::Ended(x) => {
                if let Some(t) = self.test_mut(&x.test) {
                    t.ended = Some((e.id, Arc::new(x.clone())));
                }
            }
            Deed::Corrected(x) => {
                let words = x.is.differs(&Is::of(&self.opened)).join("; ");
                self.opened = x.is.on(&self.opened);
                // What is judged by the refrigerant is judged by the right one.
                for t in self.tests.iter_mut().chain(&mut self.voided) {
                    t.plan.refrigerant = Some(self.opened.refrigerant.clone());
                }
                self.corrections.push(Correction {
                    words,
                    reason: x.reason.clone(),
                    actor: e.actor,
                    at_ms: e.kept_ms,
                });
            }
            Deed::MovedAway(x) => {
                let at = self.tests.iter().position(|t| t.id == x.test);
                if let Some(at) = at {
                    let test = self.tests.remove(at);
                    self.elsewhere.push((test, kept(e.id, e.actor, x)));
                }
            }
            Deed::PortsKept(x) => {
                self.rename(&renamed(&self.ports().ports, &x.ports.ports));
                self.visit.take(&e.id, &e.actor, &deed);
            }
            Deed::Arrived(_)
            | Deed::Targeted(_)
            | Deed::Weighed(_)
            | Deed::Measured(_)
            | Deed::Consented(_)
            | Deed::Countersigned(_)
            | Deed::Added(_) => self.visit.take(&e.id, &e.actor, &deed),
            Deed::Opened(_)
            | Deed::Visited(_)
            | Deed::Struck { .. }
            | Deed::SiteKept { .. }
            | Deed::PersonKept(_)
            | Deed::KitKept { .. }
            | Deed::House(_)
            | Deed::ProcedureKept { .. }
            | Deed::Later(_) => {}
        }
    }

    /// What was said of a place counts for it under its new name: a joint of the survey and a port of the register that
    /// were called the same are one place.
    fn rename(&mut self, names: &[(String, String)]) {
        if names.is_empty() {
            return;
        }
        let set = |name: &mut String| {
            if let Some(now) = name_now(name, names) {
                *name = now;
            }
        };
        self.looks.iter_mut().for_each(|l| set(&mut l.said.place));
        self.repairs.iter_mut().for_each(|r| set(&mut r.said.place));
        self.doc.joints.iter_mut().for_each(|j| set(&mut j.name));
        self.visit.rename(set);
    }

    /// What was done in a section, if anything was: it keeps its name.
    #[must_use]
    pub fn work_in(&self, section: &str) -> Option<String> {
        let is = |s: &Option<String>| s.as_deref() == Some(section);
        let of_test = |t: &&Test| {
            is(&t.plan.section)
                || is(&t.plan.section_b)
                || t.plan.reaches.iter().any(|r| r == section)
        };
        let of_step = |x: &&Kept<Confirmed>| x.said.left.iter().any(|l| is(&l.section));
        let test = self.every_test().find(of_test).map(|t| t.title.clone());
        test.or_else(|| {
            let look = self.looks.iter().find(|l| is(&l.said.section));
            look.map(|l| format!("the look at {}", l.said.place))
        })
        .or_else(|| {
            let mended = self.repairs.iter().find(|r| is(&r.said.section));
            mended.map(|r| format!("the repair at {}", r.said.place))
        })
        .or_else(|| {
            self.steps
                .iter()
                .find(of_step)
                .map(|s| s.said.step.title().to_owned())
        })
        .or_else(|| {
            let seen = self.seen.iter().any(|s| is(&s.said.left.section));
            seen.then(|| "a reading of what is inside".to_owned())
        })
    }

    /// Puts everything in the order of time, names the tests, and shows what is known without readings.
    fn settle(&mut self) -> Result<(), Refusal> {
        self.folded = OnceLock::new();
        self.survey = self.doc.as_known()?;
        self.looks.sort_by_key(|x| x.said.at_ms);
        self.repairs.sort_by_key(|x| x.said.at_ms);
        self.steps.sort_by_key(|x| x.said.at_ms);
        self.seen.sort_by_key(|x| x.said.at_ms);
        self.visit.settle();
        // With several sections under test a name says which.
        let several = self.doc.sections.iter().filter(|s| s.is_tested).count() > 1;
        let elsewhere = self.elsewhere.iter_mut().map(|(t, _)| t);
        for t in self
            .tests
            .iter_mut()
            .chain(&mut self.voided)
            .chain(elsewhere)
        {
            t.events.sort_by_key(|(_, e)| e.at_ms);
            let section = t
                .plan
                .section
                .as_ref()
                .filter(|_| several)
                .map_or_else(String::new, |s| format!(", {s}"));
            t.title = format!("{}{section}", Test::name(t.kind, t.attempt));
            let now = match &t.ended {
                Some((_, e)) => Now {
                    finding: e.finding.clone(),
                    outline: e.outline.clone(),
                    recording: None,
                    is_live: false,
                },
                None => t.unread(),
            };
            t.show(Arc::new(now));
        }
        Ok(())
    }

    /// Shows running tests by their readings.
    pub fn show(&mut self, now: impl Fn(&Test) -> Option<Arc<Now>>) {
        self.folded = OnceLock::new();
        for t in self.tests.iter_mut().filter(|t| t.ended.is_none()) {
            if let Some(n) = now(t) {
                t.show(n);
            }
        }
    }

    /// The test whose recording an entry bears on, if it does.
    #[must_use]
    pub fn test_of(&self, entry: &str) -> Option<String> {
        match &**self.ids.get(entry)? {
            Deed::Marked(m) => Some(m.test.clone()),
            Deed::ClockStarted { test, .. } => Some(test.clone()),
            _ => None,
        }
    }

    /// One of its tests, of an earlier visit too.
    #[must_use]
    pub fn test(&self, id: &str) -> Option<&Test> {
        let now = self.tests.iter().find(|t| t.id == id);
        now.or_else(|| self.past.iter().find_map(|p| p.test(id)))
    }

    fn own_tests(&self) -> impl Iterator<Item = &Test> {
        let elsewhere = self.elsewhere.iter().map(|(t, _)| t);
        self.tests.iter().chain(&self.voided).chain(elsewhere)
    }

    /// Every test, those of earlier visits and those voided too.
    pub fn every_test(&self) -> impl Iterator<Item = &Test> {
        let past = self.past.iter().flat_map(|p| p.own_tests());
        past.chain(self.own_tests())
    }

    /// What was struck out in this visit.
    pub fn struck_here(&self) -> impl Iterator<Item = &StruckOut> {
        self.struck.iter().filter(|s| self.here.contains(&s.id))
    }

    /// The visit a test was made in.
    #[must_use]
    pub fn visit_of(&self, test: &str) -> &Self {
        self.past
            .iter()
            .find(|p| p.test(test).is_some())
            .map_or(self, |p| p)
    }

    fn test_mut(&mut self, id: &str) -> Option<&mut Test> {
        self.tests
            .iter_mut()
            .chain(&mut self.voided)
            .chain(self.elsewhere.iter_mut().map(|(t, _)| t))
            .find(|t| t.id == id)
    }

    /// Which of its kind the next test will be.
    #[must_use]
    pub fn next_attempt(&self, kind: Kind) -> u32 {
        1 + self.attempts.get(&kind).copied().unwrap_or(0)
    }

    /// Where its log ends: how many entries there are, and the id of the last. It is the same on a device that has
    /// entered something without the server, once the server has taken just that and nothing else.
    #[must_use]
    pub fn head(&self) -> String {
        format!("{} {}", self.chain.seq, self.last)
    }

    /// It is signed, and takes nothing more.
    #[must_use]
    pub fn is_signed(&self) -> bool {
        self.signature.is_some()
    }

    /// Refuses what would change a signed circuit.
    ///
    /// # Errors
    /// If it is signed.
    pub fn must_be_open(&self) -> Result<(), Refusal> {
        self.must_be_known()?;
        if self.is_signed() {
            return Err(Refusal::Conflict(
                "this visit is signed and read-only; begin a new one to go on".into(),
            ));
        }
        Ok(())
    }

    /// Nothing is added to, printed or given out of a log that a later version wrote on.
    ///
    /// # Errors
    /// Which version.
    pub fn must_be_known(&self) -> Result<(), Refusal> {
        match &self.chain.newer {
            Some(newer) => Err(Refusal::Conflict(newer.to_string())),
            None => Ok(()),
        }
    }

    /// A test that must be there, of any visit: to look at.
    ///
    /// # Errors
    /// If it is not.
    pub fn must_show(&self, test: &str) -> Result<&Test, Refusal> {
        self.test(test)
            .ok_or_else(|| Refusal::Missing("test".into()))
    }

    /// A test of this visit that must be there: to do something with it.
    ///
    /// # Errors
    /// If it is not.
    pub fn must_have(&self, test: &str) -> Result<&Test, Refusal> {
        let is_past = self.past.iter().any(|p| p.test(test).is_some());
        match self.must_show(test)? {
            _ if is_past => Err(Refusal::Conflict(
                "this test belongs to a visit that is signed; it stays as it is".into(),
            )),
            t => Ok(t),
        }
    }

    /// An ended test was frozen by another version of the method.
    #[must_use]
    pub fn has_older_engine(&self) -> bool {
        self.tests
            .iter()
            .filter_map(|t| t.ended.as_ref())
            .any(|(_, e)| e.engine != ENGINE_VERSION)
    }
}

fn kept<T: Clone>(id: String, actor: String, said: &T) -> Kept<T> {
    Kept {
        id,
        actor,
        said: said.clone(),
    }
}

fn planned(id: String, p: &Planned) -> Test {
    let mut out = Test {
        id,
        kind: p.kind,
        attempt: p.attempt,
        title: String::new(),
        plan: p.plan.clone(),
        channels: p.channels.clone(),
        created_ms: p.at_ms,
        events: vec![],
        clock_ms: None,
        struck: vec![],
        ended: None,
        now: Arc::new(Now::empty(p.kind)),
    };
    out.title = Test::name(p.kind, p.attempt);
    out
}

/// What an entry that can be struck out was, in words.
fn words(deed: &Deed) -> String {
    match deed {
        Deed::Looked(x) => format!("look at {}", x.place),
        Deed::Mended(x) => format!("repair at {}", x.place),
        Deed::Confirmed(x) => x.step.title().to_lowercase(),
        Deed::Overridden(x) => format!("override of {}", x.gate.title().to_lowercase()),
        Deed::Planned(x) => Test::name(x.kind, x.attempt),
        Deed::Marked(x) => x.event.code().replace('_', " "),
        Deed::ClockStarted { .. } => "clock started by hand".into(),
        Deed::Ended(_) => "end of a test".into(),
        Deed::Weighed(x) => format!("ledger row, {}", x.row.kind.title().to_lowercase()),
        Deed::VacuumBroken(_) => "vacuum broken".into(),
        Deed::Measured(_) => "reading set".into(),
        Deed::Seen(_) => "reading of what is inside".into(),
        Deed::Approved { .. } => "approval".into(),
        Deed::Consented(_) => "consent".into(),
        _ => String::new(),
    }
}
