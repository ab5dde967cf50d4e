//! Everything of one circuit, read once: its tests with their verdicts, steps, looks, repairs, survey; and what follows
//! from their order.

use super::summary::{Known, all_with};
use crate::error::ApiError;
use crate::state::AppState;
use crate::wire::SurveyDoc;
use ruhe_core::hold::HoldOutcome;
use ruhe_core::order::{Entry, Order, What};
use ruhe_core::procedure::{JobKind, SLIGHT, Step};
use ruhe_core::quantity::Units;
use ruhe_core::reading::{EventKind, Gas, Kind};
use ruhe_core::search::{Finding, Look, Method, PlaceEntry, state as place_state};
use ruhe_core::signoff::{DecayFact, Facts, Gate, HoldFact, gates, in_order};
use ruhe_core::survey::Survey;
use ruhe_core::vacuum::DecayOutcome;
use ruhe_store::{CircuitPlace, rows};

pub struct Dossier {
    pub place: CircuitPlace,
    pub tests: Vec<Known>,
    pub steps: Vec<rows::Step>,
    pub doc: SurveyDoc,
    pub version: i64,
    pub survey: Survey,
    pub looks: Vec<rows::Look>,
    pub repairs: Vec<rows::Repair>,
    pub signature: Option<rows::Signature>,
}

impl Dossier {
    pub fn read(s: &AppState, id: &str, units: Units) -> Result<Self, ApiError> {
        let (doc, version) = super::survey::survey_of(s, id)?;
        Ok(Self {
            place: s.store.circuit(id)?,
            tests: all_with(s, id, &doc, units)?,
            steps: s.store.steps(id)?,
            survey: doc.as_known()?,
            doc,
            version,
            looks: s.store.looks(id)?,
            repairs: s.store.repairs(id)?,
            signature: s.store.signature(id)?,
        })
    }

    pub fn kind(&self) -> JobKind {
        JobKind::from_code(&self.place.circuit.kind).unwrap_or(JobKind::NewSplit)
    }

    pub fn has_confirmed(&self, step: Step) -> bool {
        self.steps.iter().any(|r| r.step == step.code())
    }

    /// Sections that must be shown tight; at least one.
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
    pub fn sections_of(&self, t: &Known) -> Vec<String> {
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

    fn finished(&self, kind: Kind) -> impl Iterator<Item = &Known> {
        self.tests
            .iter()
            .filter(move |t| t.ended_ms.is_some() && t.row.kind == kind.code())
    }

    /// Finished holds in the order they began.
    pub fn holds(&self) -> Vec<HoldFact> {
        let mut out: Vec<HoldFact> = self
            .finished(Kind::PressureHold)
            .map(|t| HoldFact {
                name: t.title.clone(),
                from_ms: t.judged.start_ms,
                sections: self.sections_of(t),
                pressure: t.held_pa(),
                planned: t.plan.test_pa.unwrap_or_else(|| t.held_pa()),
                headline: t.verdict().headline.clone(),
                loss_detected: t.verdict().hold.as_ref().is_some_and(|h| h.loss_detected),
                outcome: match t.verdict().outcome.as_str() {
                    "holds" => HoldOutcome::Holds,
                    "falls" => HoldOutcome::Falls,
                    "not_applicable" => HoldOutcome::NotApplicable,
                    _ => HoldOutcome::Undecided,
                },
            })
            .collect();
        out.sort_by_key(|h| h.from_ms);
        out
    }

    fn decays(&self) -> Vec<DecayFact> {
        let fact = |t: &Known| DecayFact {
            name: t.title.clone(),
            from_ms: t.judged.start_ms,
            sections: self.sections_of(t),
            headline: t.verdict().headline.clone(),
            rising: t.verdict().decay.as_ref().is_some_and(|d| d.rising),
            outcome: match t.verdict().outcome.as_str() {
                "passes" => DecayOutcome::Passes,
                "fails" => DecayOutcome::Fails,
                "not_applicable" => DecayOutcome::NotApplicable,
                _ => DecayOutcome::Undecided,
            },
        };
        self.finished(Kind::VacuumDecay).map(fact).collect()
    }

    /// Leaks found, repairs, openings and cores moved.
    pub fn happened(&self) -> Vec<Entry> {
        let mut out: Vec<Entry> = self
            .looks
            .iter()
            .filter(|l| look_of(l).is_some_and(|look| look.confirms()))
            .map(|l| Entry {
                at_ms: l.at_ms,
                sections: self.sections_of_place(&l.place, l.section.as_deref()),
                what: What::Found {
                    place: l.place.clone(),
                    pressure: l.at_pa,
                },
            })
            .collect();
        out.extend(self.repairs.iter().map(|r| Entry {
            at_ms: r.at_ms,
            sections: self.sections_of_place(&r.place, r.section.as_deref()),
            what: What::Mended {
                place: r.place.clone(),
            },
        }));
        for t in &self.tests {
            let moved = t
                .judged
                .recording()
                .events
                .iter()
                .filter_map(|e| match e.kind {
                    EventKind::Opened => Some((e.at_s, What::Opened)),
                    EventKind::CoreMoved => Some((e.at_s, What::CoreMoved)),
                    _ => None,
                });
            out.extend(moved.map(|(at_s, what)| Entry {
                at_ms: t.judged.start_ms + (at_s * 1e3) as i64,
                sections: self.sections_of(t),
                what,
            }));
        }
        let of = |step: Step| self.steps.iter().filter(move |r| r.step == step.code());
        out.extend(of(Step::VacuumBroken).map(|r| Entry {
            at_ms: r.at_ms,
            sections: vec![],
            what: What::VacuumBroken,
        }));
        // The first word on the cores says where they are; a later one that they were moved.
        out.extend(of(Step::Cores).skip(1).map(|r| Entry {
            at_ms: r.at_ms,
            sections: vec![],
            what: What::CoreMoved,
        }));
        out
    }

    /// All of it in the order of time.
    pub fn order(&self) -> Order {
        in_order(&self.holds(), &self.happened())
    }

    /// What was done at a place, in order.
    pub fn entries_of(&self, place: &str) -> Vec<(i64, PlaceEntry)> {
        let looks = self
            .looks
            .iter()
            .filter(|l| l.place == place)
            .filter_map(|l| Some((l.at_ms, PlaceEntry::Look(look_of(l)?))));
        let mut out: Vec<(i64, PlaceEntry)> = looks
            .chain(
                self.repairs
                    .iter()
                    .filter(|r| r.place == place)
                    .map(|r| (r.at_ms, PlaceEntry::Repair)),
            )
            .collect();
        out.sort_by_key(|e| e.0);
        out
    }

    /// The sections all entries of a place name, else where its joint lies.
    pub fn place_sections(&self, place: &str) -> Vec<String> {
        let stated = self
            .looks
            .iter()
            .filter(|l| l.place == place)
            .map(|l| &l.section)
            .chain(
                self.repairs
                    .iter()
                    .filter(|r| r.place == place)
                    .map(|r| &r.section),
            );
        self.sections_of_place(place, stated.flatten().next_back().map(String::as_str))
    }

    fn open_places(&self, order: &Order) -> Vec<String> {
        let mut names: Vec<&String> = self
            .looks
            .iter()
            .map(|l| &l.place)
            .chain(self.repairs.iter().map(|r| &r.place))
            .collect();
        names.sort();
        names.dedup();
        let open = |place: &String| {
            let now = place_state(
                place,
                &self.place_sections(place),
                &self.entries_of(place),
                order,
            );
            now.is_open()
                .then(|| format!("{place}, {}", now.title().to_lowercase()))
        };
        names.into_iter().filter_map(open).collect()
    }

    /// What the gates look at.
    pub fn facts(&self) -> Facts {
        // Only the last hold and decay of a section are evidence; an earlier one with a bad gauge has been replaced by it.
        let last = |t: &Known| {
            !self.tests.iter().any(|o| {
                o.ended_ms.is_some()
                    && o.row.kind == t.row.kind
                    && o.plan.section == t.plan.section
                    && o.row.created_ms > t.row.created_ms
            })
        };
        let marks = |t: &Known| {
            let said = |code: &str, words: &str| {
                t.verdict()
                    .reasons
                    .iter()
                    .any(|r| r == code)
                    .then(|| format!("{}: {words}.", t.title))
            };
            [
                said("calibration_overdue", "a calibration had run out"),
                said("beyond_range", "a gauge was read beyond its range"),
            ]
        };
        let (holds, happened) = (self.holds(), self.happened());
        Facts {
            kind: self.kind(),
            open_places: self.open_places(&in_order(&holds, &happened)),
            holds,
            decays: self.decays(),
            steps: self
                .steps
                .iter()
                .filter_map(|s| Some((Step::from_code(&s.step)?, s.note.clone())))
                .collect(),
            happened,
            instrument_marks: self
                .finished(Kind::PressureHold)
                .chain(self.finished(Kind::VacuumDecay))
                .filter(|t| last(t))
                .flat_map(marks)
                .flatten()
                .collect(),
            sections: self.tested(),
        }
    }

    pub fn gates(&self) -> Vec<Gate> {
        gates(&self.facts())
    }

    /// The last test with pressure in it.
    fn last_pressed(&self) -> Option<&Known> {
        let is_pressure = |t: &&Known| {
            t.row.kind == Kind::PressureHold.code() || t.row.kind == Kind::LeakBy.code()
        };
        self.tests
            .iter()
            .filter(is_pressure)
            .filter(|t| t.last_ms().is_some())
            .max_by_key(|t| t.last_ms())
    }

    fn let_out_since(&self, t: &Known) -> bool {
        let last = t.last_ms().unwrap_or(i64::MAX);
        let pumped = |o: &Known| {
            (o.row.kind == Kind::PullDown.code() || o.row.kind == Kind::VacuumDecay.code())
                && o.last_ms().is_some()
                && o.judged.start_ms > last
        };
        self.steps.iter().any(|r| {
            [Step::Released, Step::Recovered]
                .iter()
                .any(|s| s.code() == r.step)
                && r.at_ms >= last
        }) || self.tests.iter().any(pumped)
    }

    /// A pressure that nobody has said to be let out: of which test, Pa gauge.
    pub fn pressure_left(&self) -> Option<(&str, f64)> {
        let t = self.last_pressed().filter(|t| !self.let_out_since(t))?;
        let now = t.last_pa()?;
        (now > SLIGHT).then_some((&t.title, now))
    }

    /// Refrigerant or tracer is in the test gas, and nobody has recovered it: of which test.
    pub fn refrigerant_in(&self) -> Option<&str> {
        let t = self.last_pressed()?;
        let s = &t.judged.recording().settings;
        let recovered = self
            .steps
            .iter()
            .any(|r| r.step == Step::Recovered.code() && r.at_ms >= t.judged.start_ms);
        ((s.gas == Gas::NitrogenWithRefrigerant || s.tracer_pa.is_some()) && !recovered)
            .then_some(t.title.as_str())
    }

    /// What a running test shows now of these sections, Pa gauge.
    pub fn pressure_now(&self, sections: &[String]) -> Option<f64> {
        let running = self
            .tests
            .iter()
            .filter(|t| t.ended_ms.is_none() && t.row.kind == Kind::PressureHold.code());
        running
            .filter(|t| self.sections_of(t).iter().any(|s| sections.contains(s)))
            .filter_map(Known::last_pa)
            .reduce(f64::max)
    }
}

/// A look as the core takes it; `None` for a method or finding this version does not know.
pub fn look_of(row: &rows::Look) -> Option<Look> {
    Some(Look {
        method: Method::from_code(&row.method)?,
        finding: Finding::from_code(&row.finding)?,
        dwell_s: row.dwell_s,
    })
}
