//! What a circuit's log says of its evidence: finished tests as facts, what happened in the order of time, gates,
//! pressure and refrigerant left inside.

use super::circuit::Circuit;
use super::kept::Kept;
use super::looks::look_of;
use super::test::Test;
use super::visit::day_of;
use crate::contents::{Contents, Space};
use crate::log::{Deed, GateSigned, Marked, Overridden};
use crate::order::{Happening, Order, TOLERANCE, What, is_as_high};
use crate::plan::Plan;
use crate::procedure::{JobKind, Step};
use crate::search::{
    LookResult, PlaceEntry, PlaceState, RepairOpened, state as place_state, typical,
};
use crate::signoff::{
    ClearLook, DecayFact, FineFact, FinePlace, Gate, GateCode, GateFacts, HoldFact, gates, in_order,
};
use crate::tell::tightness;
use ruhe_core::hold::HoldOutcome;
use ruhe_core::judge::{Finding, say};
use ruhe_core::quantity::{MICRON, Units};
use ruhe_core::reading::{EventKind, Gas, Kind};
use ruhe_core::reason::Reason;
use ruhe_core::vacuum::DecayOutcome;

/// Water's triple point (IAPWS: 611.657 Pa): above it liquid stands, Pa.
const TRIPLE: f64 = 611.657;
/// A limit of one's own above this is lax, micron (common practice, no source).
const LAX: f64 = 1_000.0;
/// A hold below this share of its weakest plate shows little (common practice, no source).
const SHARE: f64 = 1.0 / 3.0;
/// Evidence older than this, beside the rest of a visit, is of another time, ms (31 days).
const OLD_MS: i64 = 31 * 86_400_000;

/// What a hold cannot show that stood far below what its parts are made for, where no procedure and no source asks so.
fn too_low(t: &Test, u: Units) -> Option<String> {
    let (held, most) = (t.outline().held_pa, t.plan.ceiling_pa?);
    // A procedure stands for what it asks for, not for less.
    let asks = t.plan.procedure.as_ref().and_then(|p| p.asks_pa);
    let is_named = t.plan.source.is_some() || asks.is_some_and(|p| is_as_high(held, p));
    (!is_named && held > 0.0 && held < SHARE * most).then(|| {
        format!(
            "it stood at {}, and its weakest part is made for {}: what opens only under pressure did not show. \
             Hold it higher, or name the source that asks for so little.",
            u.gauge(held),
            u.gauge(most)
        )
    })
}

/// A decay's limit is wide, and neither a person nor a procedure asks for so wide a one.
fn is_lax(p: &Plan) -> bool {
    let asks = p.procedure.as_ref().and_then(|x| x.asks_pa);
    let wide = |l: f64| l > LAX * MICRON && asks.is_none_or(|a| l > a * (1.0 + TOLERANCE));
    p.source.is_none() && p.level_pa.is_some_and(wide)
}

/// Why a place is listed in the search.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Listed {
    /// A joint made today.
    MadeToday,
    /// A port of the register.
    Port,
    /// Usual for this job.
    Usual,
    /// Somebody looked or mended there.
    Added,
}

/// The gates a visit was signed with.
pub struct SignedGates<'a> {
    /// When, ms since 1970 UTC.
    pub at_ms: i64,
    /// By whom.
    pub name: &'a str,
    /// As the signature keeps them.
    pub gates: &'a [GateSigned],
    /// What is found of each in what was signed; `None`: this version of the rules finds otherwise.
    pub found: Vec<Option<Gate>>,
}

impl Circuit {
    /// Kind of job.
    #[must_use]
    pub fn job(&self) -> JobKind {
        self.opened.job
    }

    /// A step was confirmed.
    #[must_use]
    pub fn has_confirmed(&self, step: Step) -> bool {
        self.steps.iter().any(|r| r.said.step == step)
    }

    /// Sections that must be shown tight; at least one.
    #[must_use]
    pub fn tested(&self) -> Vec<String> {
        let tested: Vec<String> = self
            .doc
            .sections
            .iter()
            .filter(|x| x.is_tested)
            .map(|x| x.name.clone())
            .collect();
        match (tested.is_empty(), self.doc.sections.first()) {
            (false, _) => tested,
            (true, Some(first)) => vec![first.name.clone()],
            (true, None) => vec!["whole circuit".into()],
        }
    }

    /// Sections a test was made on.
    #[must_use]
    pub fn sections_of(&self, t: &Test) -> Vec<String> {
        match (&t.plan.reaches[..], &t.plan.section) {
            ([], None) => self.tested(),
            ([], Some(s)) => vec![s.clone()],
            (all, _) => all.to_vec(),
        }
    }

    /// Sections a place lies in: as stated, as the joint of its name, else any that is under test.
    pub fn sections_of_place(&self, place: &str, stated: Option<&str>) -> Vec<String> {
        let joint = || {
            self.survey
                .joints
                .iter()
                .find(|j| j.name == place)
                .map(|j| j.section.clone())
        };
        stated
            .map(str::to_owned)
            .or_else(joint)
            .map_or_else(|| self.tested(), |s| vec![s])
    }

    fn finished(&self, kind: Kind) -> impl Iterator<Item = &Test> {
        self.tests
            .iter()
            .filter(move |t| t.is_over() && t.kind == kind)
    }

    /// Finished holds in the order they began.
    #[must_use]
    pub fn holds(&self, u: Units) -> Vec<HoldFact> {
        let charge = self.whole_charge();
        let fact = |t: &Test| match t.finding() {
            Finding::PressureHold(v) => Some(HoldFact {
                proves: tightness(t, charge, false).map_or_else(String::new, |x| x.words),
                name: t.title.clone(),
                from_ms: t.outline().start_ms,
                sections: self.sections_of(t),
                pressure: t.outline().held_pa,
                planned: t.plan.test_pa.unwrap_or(t.outline().held_pa),
                headline: say(t.finding(), u).headline,
                loss_detected: v.loss_detected,
                outcome: v.outcome,
                too_low: too_low(t, u),
                too_old: self.too_old(t),
                lasted_s: v
                    .settled_at_s
                    .and_then(|s| Some(t.outline().last_s? - s))
                    .unwrap_or(0.0),
            }),
            _ => None,
        };
        let mut out: Vec<HoldFact> = self.finished(Kind::PressureHold).filter_map(fact).collect();
        out.sort_by_key(|h| h.from_ms);
        out
    }

    /// Why a test is too old to speak for this visit: it was recorded long before the newest thing that was done in it.
    fn too_old(&self, t: &Test) -> Option<String> {
        let steps = self.steps.iter().map(|s| s.said.at_ms);
        let looks = self.looks.iter().map(|l| l.said.at_ms);
        let repairs = self.repairs.iter().map(|r| r.said.at_ms);
        let seen = self.seen.iter().map(|s| s.said.at_ms);
        let tests = self.tests.iter().map(|t| t.outline().start_ms);
        let newest = steps
            .chain(looks)
            .chain(repairs)
            .chain(seen)
            .chain(tests)
            .max()?;
        let ended = t.outline().last_ms()?;
        (newest - ended > OLD_MS).then(|| {
            format!(
                "it was recorded on {}, long before the rest of this visit: make it again.",
                day_of(ended)
            )
        })
    }

    fn decays(&self, u: Units) -> Vec<DecayFact> {
        let fact = |t: &Test| match t.finding() {
            Finding::VacuumDecay(v) => Some(DecayFact {
                name: t.title.clone(),
                from_ms: t.outline().start_ms,
                sections: self.sections_of(t),
                headline: say(t.finding(), u).headline,
                rising: v.rising,
                leak_likely: v.leak_likely,
                stands_wet: t
                    .outline()
                    .last_pa
                    .is_some_and(|p| p + t.outline().air_pa > TRIPLE),
                is_lax: is_lax(&t.plan),
                too_old: self.too_old(t),
                outcome: v.outcome,
            }),
            _ => None,
        };
        self.finished(Kind::VacuumDecay).filter_map(fact).collect()
    }

    /// Leaks found, repairs, openings and cores moved.
    #[must_use]
    pub fn happened(&self) -> Vec<Happening> {
        let found = self
            .looks
            .iter()
            .map(|l| &l.said)
            .filter(|l| look_of(l).confirms());
        let mut out: Vec<Happening> = found
            .map(|l| Happening {
                at_ms: l.at_ms,
                sections: self.sections_of_place(&l.place, l.section.as_deref()),
                what: What::Found {
                    place: l.place.clone(),
                    pressure: l.at_pa,
                },
            })
            .collect();
        out.extend(self.repairs.iter().map(|r| Happening {
            at_ms: r.said.at_ms,
            sections: self.sections_of_place(&r.said.place, r.said.section.as_deref()),
            what: What::Mended {
                place: r.said.place.clone(),
            },
        }));
        for t in &self.tests {
            let moved = |e: &Marked| {
                Some(Happening {
                    at_ms: e.at_ms,
                    sections: self.sections_of(t),
                    what: match e.event {
                        EventKind::Opened => What::Opened,
                        EventKind::CoreMoved => What::CoreMoved,
                        _ => return None,
                    },
                })
            };
            out.extend(t.events.iter().filter_map(|(_, e)| moved(e)));
        }
        let whole = |at_ms: i64, what: What| Happening {
            at_ms,
            sections: vec![],
            what,
        };
        let of = |step: Step| {
            self.steps
                .iter()
                .map(|r| &r.said)
                .filter(move |r| r.step == step)
        };
        out.extend(of(Step::VacuumBroken).map(|r| whole(r.at_ms, What::VacuumBroken)));
        out.extend(self.moved_cores());
        out
    }

    /// All of it in the order of time.
    #[must_use]
    pub fn order(&self) -> Order {
        in_order(&self.holds(Units::default()), &self.happened())
    }

    /// What was done at a place, in order.
    #[must_use]
    pub fn entries_of(&self, place: &str) -> Vec<(i64, PlaceEntry)> {
        let looks = self
            .looks
            .iter()
            .map(|l| &l.said)
            .filter(|l| l.place == place)
            .map(|l| (l.at_ms, PlaceEntry::Look(look_of(l))));
        let repairs = self
            .repairs
            .iter()
            .filter(|r| r.said.place == place)
            .map(|r| (r.said.at_ms, PlaceEntry::Repair));
        let mut out: Vec<(i64, PlaceEntry)> = looks.chain(repairs).collect();
        out.sort_by_key(|e| e.0);
        out
    }

    /// The sections all entries of a place name, else where its joint lies.
    #[must_use]
    pub fn place_sections(&self, place: &str) -> Vec<String> {
        let looked = self.looks.iter().map(|l| (&l.said.place, &l.said.section));
        let mended = self
            .repairs
            .iter()
            .map(|r| (&r.said.place, &r.said.section));
        let stated = looked
            .chain(mended)
            .filter(|(p, _)| *p == place)
            .filter_map(|(_, s)| s.as_deref())
            .next_back();
        self.sections_of_place(place, stated)
    }

    /// Every suspect place, once, and why it is listed: for the search and for the gates.
    #[must_use]
    pub fn places(&self) -> Vec<(String, Listed)> {
        let joints = self
            .doc
            .joints
            .iter()
            .map(|j| (&*j.name, Listed::MadeToday));
        let register = self.job().has_vacuum().then(|| self.ports());
        let ports: Vec<(&str, Listed)> = register
            .iter()
            .flat_map(|r| &r.ports)
            .map(|p| (p.name.as_str(), Listed::Port))
            .collect();
        let usual = typical(self.job()).iter().map(|t| (*t, Listed::Usual));
        let looked = self.looks.iter().map(|l| &*l.said.place);
        let added = looked
            .chain(self.repairs.iter().map(|r| &*r.said.place))
            .map(|p| (p, Listed::Added));
        let mut out: Vec<(String, Listed)> = Vec::new();
        for (name, why) in joints.chain(ports).chain(usual).chain(added) {
            if !out.iter().any(|(n, _)| n == name) {
                out.push((name.into(), why));
            }
        }
        out
    }

    /// Places that are still open, in words, and whether one of them is a leak that nobody mended.
    fn open_places(&self, order: &Order) -> (Vec<String>, bool) {
        let open: Vec<(String, PlaceState)> = self
            .places()
            .into_iter()
            .filter_map(|(place, _)| {
                let entries = self.entries_of(&place);
                let now = place_state(&place, &self.place_sections(&place), &entries, order);
                now.is_open().then_some((place, now))
            })
            .collect();
        let words = |(place, now): &(String, PlaceState)| {
            format!("{place}, {}", now.title().to_lowercase())
        };
        let leaks = open.iter().any(|(_, now)| *now == PlaceState::Leak);
        (open.iter().map(words).collect(), leaks)
    }

    /// A leak was found, and nobody mended it.
    #[must_use]
    pub fn has_open_leak(&self, order: &Order) -> bool {
        self.open_places(order).1
    }

    /// The gates that the last visit was signed with, and by whom, in words.
    fn signed_before(&self, u: Units) -> Vec<(GateCode, bool, String)> {
        let Some(s) = self.past.last().and_then(|p| p.signed_gates(u)) else {
            return vec![];
        };
        let by = format!("on {}, signed by {}", day_of(s.at_ms), s.name);
        s.gates
            .iter()
            .zip(s.found)
            .map(|(g, found)| {
                let words = match found {
                    Some(found) if found.is_carried => found.evidence,
                    Some(found) => {
                        format!(
                            "Shown {by}, and nothing was opened since. {}",
                            found.evidence
                        )
                    }
                    None => format!("Shown {by}, and nothing was opened since."),
                };
                (g.code, g.met, words)
            })
            .collect()
    }

    /// What was wrong with the instruments of the tests that are evidence: the last hold and decay of a section; an
    /// earlier one with a bad gauge has been replaced by it.
    fn instrument_marks(&self) -> Vec<String> {
        let last = |t: &&Test| {
            !self.tests.iter().any(|o| {
                o.is_over()
                    && o.kind == t.kind
                    && o.plan.section == t.plan.section
                    && o.created_ms > t.created_ms
            })
        };
        let marks = |t: &Test| {
            [
                (Reason::CalibrationOverdue, "a calibration had run out"),
                (Reason::BeyondRange, "a gauge was read beyond its range"),
            ]
            .into_iter()
            .filter(|(r, _)| t.finding().reasons().contains(r))
            .map(|(_, words)| format!("{}: {words}.", t.title))
            .collect::<Vec<_>>()
        };
        self.finished(Kind::PressureHold)
            .chain(self.finished(Kind::VacuumDecay))
            .filter(last)
            .flat_map(marks)
            .collect()
    }

    /// What was struck out though it spoke against a gate, and why: the record must say so.
    fn struck_against(&self) -> Vec<(GateCode, String)> {
        let later = self.struck_here().filter(|s| !s.is_undone());
        later
            .filter_map(|s| {
                let (gate, was) = match &*s.deed {
                    Deed::Planned(_) => {
                        let t = self.voided.iter().find(|t| t.id == s.id)?;
                        let gate = failed_gate(t)?;
                        let headline = say(t.finding(), Units::default()).headline;
                        (gate, format!("{} ({headline})", t.title))
                    }
                    Deed::Looked(l) if look_of(l).confirms() => {
                        (GateCode::Hold, format!("a leak found at {}", l.place))
                    }
                    Deed::Mended(m) => (GateCode::Hold, format!("the repair at {}", m.place)),
                    Deed::Marked(m) if m.event == EventKind::Opened => {
                        (GateCode::Hold, "an opening".into())
                    }
                    Deed::Marked(m) if m.event == EventKind::CoreMoved => {
                        (GateCode::Decay, "a moved core".into())
                    }
                    _ => return None,
                };
                Some((
                    gate,
                    format!("Struck out: {was}: {}.", s.reason.trim_end_matches('.')),
                ))
            })
            .chain(self.elsewhere.iter().filter_map(|(t, m)| {
                let headline = say(t.finding(), Units::default()).headline;
                let reason = m.said.reason.trim_end_matches('.');
                let words = format!(
                    "Moved to {}: {} ({headline}): {reason}.",
                    m.said.to_name, t.title
                );
                Some((failed_gate(t)?, words))
            }))
            .collect()
    }

    /// What the gates look at.
    #[must_use]
    pub fn gate_facts(&self, u: Units) -> GateFacts {
        let (holds, happened) = (self.holds(u), self.happened());
        let inside = self.inside();
        let tested = || inside.spaces.iter().filter(|s| s.is_tested);
        let names =
            |is: fn(&Space) -> bool| tested().filter(|s| is(s)).map(|s| s.name.clone()).collect();
        let is_labelled = self.has_confirmed(Step::Labelled);
        let before = self.signed_before(u);
        let asked = Asked::of(self, &inside, &before);
        let (open_places, has_open_leak) = self.open_places(&in_order(&holds, &happened));
        GateFacts {
            kind: self.job(),
            open_places,
            has_open_leak,
            untouched: names(|s| s.opened.is_none()),
            dry: names(|s| s.wetted.is_none()),
            soiled: tested()
                .filter_map(|s| Some((s.name.clone(), s.soiled_ms?)))
                .collect(),
            inside: inside
                .may_sign(self.job().has_charge(), is_labelled, u)
                .err(),
            stands: inside
                .spaces
                .iter()
                .map(|s| format!("{}: {}", s.name, s.holds(u)))
                .collect(),
            before,
            holds,
            decays: self.decays(u),
            steps: self
                .steps
                .iter()
                .map(|s| (s.said.step, s.said.note.clone()))
                .collect(),
            happened,
            instrument_marks: self.instrument_marks(),
            struck: self.struck_against(),
            sections: self.tested(),
            fine: self.fine_fact(),
            ports: asked.ports.then(|| self.ports_fact()),
            charge: asked.charge.then(|| self.charge_fact(asked.is_top_up)),
            start: asked.start.then(|| self.start_fact()),
            without_consent: self
                .without_consent()
                .into_iter()
                .map(|w| w.1.into())
                .collect(),
        }
    }

    /// What must be looked at with fluid, and what was.
    fn fine_fact(&self) -> FineFact {
        let tested = self.tested();
        // A joint that was opened for a repair was made today too.
        let remade: Vec<&str> = self
            .repairs
            .iter()
            .filter(|r| r.said.opened == RepairOpened::Opened)
            .map(|r| &*r.said.place)
            .collect();
        let is_named = |(name, why): &(String, Listed)| {
            matches!(why, Listed::MadeToday | Listed::Port) || remade.contains(&&**name)
        };
        let named = self.places().into_iter().filter(is_named);
        let bench = self.places().into_iter().filter(|p| p.1 == Listed::Usual);
        // On the bench nothing is joined: what is usual there is looked at.
        let all: Vec<(String, Listed)> = if self.job() == JobKind::BenchComponent {
            bench.chain(named).collect()
        } else {
            named.collect()
        };
        let builds = matches!(self.job(), JobKind::NewSplit | JobKind::StandingLineSet);
        FineFact {
            names_no_joint: builds && self.doc.joints.is_empty(),
            places: all
                .into_iter()
                .map(|(name, _)| FinePlace {
                    sections: self.place_sections(&name),
                    name,
                })
                .filter(|p| p.sections.iter().any(|s| tested.contains(s)))
                .collect(),
            looks: self
                .looks
                .iter()
                .map(|l| &l.said)
                .filter(|l| l.finding == LookResult::Clear)
                .map(|l| ClearLook {
                    place: l.place.clone(),
                    at_ms: l.at_ms,
                    method: l.method,
                    dwell_s: l.dwell_s,
                    at_pa: l.at_pa,
                })
                .collect(),
            has_tracer: self.finished(Kind::PressureHold).any(|t| {
                t.plan.tracer_pa.is_some() || t.plan.gas == Some(Gas::NitrogenWithRefrigerant)
            }),
        }
    }

    /// The gates with their evidence, in the words of these units.
    #[must_use]
    pub fn gates(&self, u: Units) -> Vec<Gate> {
        gates(&self.gate_facts(u))
    }

    /// The gates that this visit was signed with, each with what is found of it in what was signed; nothing, where this
    /// version of the rules finds otherwise.
    #[must_use]
    pub fn signed_gates(&self, u: Units) -> Option<SignedGates<'_>> {
        let (s, on) = self.signature.as_ref().zip(self.signed_on.as_ref())?;
        let found = on.gates(u);
        let same = |g: &GateSigned| {
            let is = |f: &&Gate| {
                (f.code, f.met, f.can_be_answered) == (g.code, g.met, g.can_be_answered)
                    && f.reservation.is_some() == g.is_reserved
            };
            found.iter().find(is).cloned()
        };
        Some(SignedGates {
            at_ms: s.said.at_ms,
            name: &s.said.name,
            gates: &s.said.gates,
            found: s.said.gates.iter().map(same).collect(),
        })
    }

    /// Whether a hold and a decay both stand: what a charge may be let into.
    #[must_use]
    pub fn is_proven(&self) -> bool {
        let gates = self.gates(Units::default());
        let stands = |code| {
            gates.iter().any(|g| g.code == code)
                && gates.iter().filter(|g| g.code == code).all(|g| g.met)
        };
        let retested = gates
            .iter()
            .filter(|g| g.code == GateCode::Retest)
            .all(|g| g.met);
        stands(GateCode::Hold) && retested && stands(GateCode::Decay)
    }

    /// Something was opened, tested or added in this visit.
    #[must_use]
    pub fn was_worked_on(&self) -> bool {
        !self.tests.is_empty() || !self.repairs.is_empty() || !self.visit.ledger.is_empty()
    }

    /// Somebody who may answers for it.
    #[must_use]
    pub fn is_answered(&self, o: &Kept<Overridden>) -> bool {
        o.said.is_answered || self.approved.iter().any(|(entry, _)| *entry == o.id)
    }

    /// A pressure that nobody has said to be let out: of which space, Pa gauge.
    #[must_use]
    pub fn pressure_left(&self) -> Option<(String, f64)> {
        let inside = self.inside();
        let (s, pa) = inside.pressure_left()?;
        Some((s.name.clone(), pa))
    }

    /// Refrigerant or tracer is with nitrogen, and nobody has recovered it: in which space.
    #[must_use]
    pub fn refrigerant_in(&self) -> Option<String> {
        self.inside().mixture().map(|s| s.name.clone())
    }

    /// What a running test shows now of these sections, Pa gauge.
    #[must_use]
    pub fn pressure_now(&self, sections: &[String]) -> Option<f64> {
        self.tests
            .iter()
            .filter(|t| !t.is_over() && t.kind == Kind::PressureHold)
            .filter(|t| self.sections_of(t).iter().any(|s| sections.contains(s)))
            .filter_map(|t| t.outline().last_pa)
            .reduce(f64::max)
    }
}

/// Which gates after the tests are asked for: those of what was opened, of what was done in this visit, and of what
/// the last visit was signed without.
struct Asked {
    ports: bool,
    charge: bool,
    is_top_up: bool,
    start: bool,
}

impl Asked {
    fn of(c: &Circuit, inside: &Contents, before: &[(GateCode, bool, String)]) -> Self {
        let opened = inside
            .spaces
            .iter()
            .any(|s| s.is_tested && s.wetted.is_some());
        let added = c.visit.ledger.iter().any(|r| r.said.row.kind.sign() > 0.0);
        let unmet = |code| before.iter().any(|(c, met, _)| *c == code && !met);
        let (has_charge, has_vacuum) = (c.job().has_charge(), c.job().has_vacuum());
        let is_used = added || c.visit.ports.is_some() || !c.tests.is_empty();
        Self {
            ports: has_vacuum && (opened || is_used || unmet(GateCode::Ports)),
            charge: has_charge
                && (opened || added || c.visit.target.is_some() || unmet(GateCode::Charge)),
            is_top_up: added && !opened,
            start: has_charge
                && (opened || added || !c.visit.sets.is_empty() || unmet(GateCode::StartUp)),
        }
    }
}

/// The gate that a test which failed speaks against.
fn failed_gate(t: &Test) -> Option<GateCode> {
    match t.finding() {
        Finding::PressureHold(v) if v.outcome == HoldOutcome::Falls => Some(GateCode::Hold),
        Finding::VacuumDecay(v) if v.outcome == DecayOutcome::Fails => Some(GateCode::Decay),
        _ => None,
    }
}
