//! A learner's way through a drill: its clock, what was done, what was decided. All of it can be worked out again from
//! the scenario and the acts, so nothing else is kept.

use crate::decision::Decision;
use crate::scenario::Scenario;
use ruhe_sim::plant::{Doing, DrillPlant, EVERY, Outcome, Part, SEEN_EVERY, Sensor};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// Standard atmosphere, Pa: a stand at pressure is told from one under vacuum by it.
const ATMOSPHERE: f64 = 101_325.0;
/// Below this it is a vacuum, Pa.
const UNDER_VACUUM: f64 = 5_000.0;

/// What the learner gets to see.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Level {
    /// Ruhe's words are shown.
    Words,
    /// Gauges only; a look at Ruhe's words costs points.
    Gauges,
    /// The same, on figures that nobody has seen.
    Exam,
}

/// How fast the clock goes.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Speed {
    /// It stands.
    Still,
    /// As the real one.
    Real,
    /// Ten times as fast.
    Ten,
    /// Sixty times as fast.
    Sixty,
}

impl Speed {
    /// Seconds of the plant in a second.
    #[must_use]
    pub fn times(self) -> f64 {
        match self {
            Self::Still => 0.0,
            Self::Real => 1.0,
            Self::Ten => 10.0,
            Self::Sixty => 60.0,
        }
    }
}

/// Something that was done.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Did {
    /// When it began, s since the learner came.
    pub at_s: f64,
    /// When it was done.
    pub until_s: f64,
    /// What.
    pub doing: Doing,
    /// What came of it.
    pub outcome: Outcome,
}

/// A way through a drill.
#[derive(Debug, Clone)]
pub struct Session {
    scenario: Scenario,
    plant: DrillPlant,
    did: Vec<Did>,
    /// Times at which pressure was changed by hand, and what stood afterwards, Pa absolute.
    stands: Vec<(f64, f64, bool)>,
    decided: Option<(f64, Decision)>,
}

impl Session {
    /// Begins.
    #[must_use]
    pub fn new(scenario: Scenario) -> Self {
        let plant = DrillPlant::new(scenario.truth.clone());
        let mut out = Self {
            scenario,
            plant,
            did: vec![],
            stands: vec![],
            decided: None,
        };
        out.note_stand(0.0);
        out
    }

    /// Begins, and goes the same way again.
    #[must_use]
    pub fn again(scenario: Scenario, did: &[Did], decided: Option<(f64, Decision)>) -> Self {
        let mut out = Self::new(scenario);
        for d in did {
            out.run_to(d.at_s);
            out.act(d.doing.clone());
        }
        if let Some((at_s, decision)) = decided {
            out.run_to(at_s);
            out.decide(decision);
        }
        out
    }

    fn note_stand(&mut self, at_s: f64) {
        let p = self.plant.pressure(Part::Near);
        self.stands.push((at_s, p, self.plant.is_shut_off()));
    }

    /// The drill.
    #[must_use]
    pub fn scenario(&self) -> &Scenario {
        &self.scenario
    }
    /// The plant as it stands.
    #[must_use]
    pub fn plant(&self) -> &DrillPlant {
        &self.plant
    }
    /// What was done.
    #[must_use]
    pub fn did(&self) -> &[Did] {
        &self.did
    }
    /// What was decided, and when.
    #[must_use]
    pub fn decided(&self) -> Option<&(f64, Decision)> {
        self.decided.as_ref()
    }
    /// Harm that ended it: what would have happened, and the caution that was acted against.
    #[must_use]
    pub fn harm(&self) -> Option<(String, String)> {
        let done = self.did.iter().map(|d| &d.outcome);
        let burst = self.plant.harm();
        done.chain(burst.as_ref()).find_map(|o| match o {
            Outcome::Harm { what, caution } => Some((what.clone(), caution.clone())),
            _ => None,
        })
    }
    /// Whether nothing more can be done.
    #[must_use]
    pub fn is_over(&self) -> bool {
        self.decided.is_some() || self.harm().is_some()
    }

    /// Lets the plant run on to a time.
    pub fn run_to(&mut self, at_s: f64) {
        if !self.is_over() {
            self.plant.run_to(at_s);
        }
    }

    /// Does something now; the clock jumps by what it takes.
    pub fn act(&mut self, doing: Doing) -> Option<&Did> {
        if self.is_over() {
            return None;
        }
        let at_s = self.plant.now();
        let outcome = self.plant.act(&doing);
        let until_s = self.plant.now();
        let changes = !matches!(
            doing,
            Doing::Wait { .. }
                | Doing::Look { .. }
                | Doing::ShadeGauge
                | Doing::ProbeOnPipe
                | Doing::ReadPlate { .. }
                | Doing::ReadBarometer
                | Doing::TapGauge
                | Doing::Ask
                | Doing::MeasureLine
                | Doing::LockOut
                | Doing::SecondGauge
                | Doing::Sniff
                | Doing::Fan
        );
        if changes {
            // A look into the far half needs no end of a stand; what moves gas does.
            self.note_stand(if matches!(doing, Doing::ValveOff) {
                at_s
            } else {
                until_s
            });
        }
        self.did.push(Did {
            at_s,
            until_s,
            doing,
            outcome,
        });
        self.did.last()
    }

    /// Decides; the drill is over.
    pub fn decide(&mut self, decision: Decision) {
        if !self.is_over() {
            self.decided = Some((self.plant.now(), decision));
        }
    }

    /// Stands that were shut off: pressure they began at, Pa absolute, and minutes of them that somebody or a logger
    /// saw on a gauge that was awake.
    fn shut_off(&self) -> Vec<(f64, f64)> {
        let ends = self.stands.iter().skip(1).map(|s| s.0);
        let ends = ends.chain([self.plant.now()]);
        let stands = self.stands.iter().zip(ends);
        stands
            .filter(|((_, _, shut), _)| *shut)
            .map(|((from, p, _), to)| (*p, self.seen_minutes(*from, to, *p > UNDER_VACUUM)))
            .collect()
    }

    fn seen_minutes(&self, from: f64, to: f64, is_pressure: bool) -> f64 {
        let wanted = |s: Sensor| {
            if is_pressure {
                matches!(s, Sensor::Pressure | Sensor::SecondPressure)
            } else {
                s == Sensor::Vacuum
            }
        };
        let all = self.plant.history();
        let first = all.partition_point(|s| s.at_s < from);
        let seen = all[first..]
            .iter()
            .take_while(|s| s.at_s <= to)
            .filter(|s| {
                s.faces
                    .iter()
                    .any(|f| wanted(f.sensor) && f.value.is_some())
                    && self.was_seen(s.at_s)
            });
        (seen.count() as f64 * SEEN_EVERY).min(to - from) / 60.0
    }

    /// Stands at pressure, Pa gauge, and minutes of them that were seen.
    #[must_use]
    pub fn stood(&self) -> Vec<(f64, f64)> {
        let all = self.shut_off().into_iter();
        all.filter(|(p, _)| *p > UNDER_VACUUM)
            .map(|(p, m)| (p - ATMOSPHERE, m))
            .filter(|(p, _)| *p > 5_000.0)
            .collect()
    }

    /// Minutes of stands under vacuum that were seen.
    #[must_use]
    pub fn isolated(&self) -> Vec<f64> {
        let all = self.shut_off().into_iter();
        all.filter(|(p, _)| *p <= UNDER_VACUUM)
            .map(|(_, m)| m)
            .collect()
    }

    /// Minutes that the unit has run.
    #[must_use]
    pub fn ran(&self) -> Option<f64> {
        let started = self.did.iter().rfind(|d| d.doing == Doing::StartUp)?;
        Some((self.plant.now() - started.until_s) / 60.0)
    }

    /// Minutes of the plant so far.
    #[must_use]
    pub fn minutes(&self) -> f64 {
        self.plant.now() / 60.0
    }

    /// Whether what stood on the gauges at a time was seen by somebody or kept by a logger.
    #[must_use]
    pub fn was_seen(&self, at_s: f64) -> bool {
        let has_logger = self.scenario.truth.has_logger;
        has_logger
            || !self
                .did
                .iter()
                .any(|d| at_s > d.at_s + EVERY && at_s < d.until_s - EVERY)
    }
}
