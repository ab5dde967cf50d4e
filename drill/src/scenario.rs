//! A situation with a hidden truth. Its JSON is the open file that a teacher hands out.

use crate::clue::Clue;
use crate::decision::{Cause, Decision, Give};
use rand::{Rng, SeedableRng};
use rand_chacha::ChaCha8Rng;
use ruhe_sim::plant::{Doing, Leak, PlantTruth};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// Part of the work that a drill is about.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
#[schema(as = DrillPhase)]
pub enum Phase {
    /// Pressure.
    Pressure,
    /// Vacuum.
    Vacuum,
    /// Charge and start-up.
    Charge,
}

/// What the job sheet says.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Sheet {
    /// Name of the system.
    pub system: String,
    /// Refrigerant, as the register of refrigerants has it.
    pub refrigerant: String,
    /// Test pressure, Pa gauge, where there is one.
    #[serde(default)]
    pub test_pa: Option<f64>,
    /// How long it is to be held, min, where the situation says it.
    #[serde(default)]
    pub hold_minutes: Option<f64>,
    /// Volume of the circuit, m³, as somebody worked out.
    pub volume: f64,
}

/// What is answered when it is asked for.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(default)]
pub struct Answers {
    /// Plates of the near and the far half.
    pub plates: [String; 2],
    /// What was done before, and what was fitted since.
    pub before: String,
    /// What the measure says of the line.
    pub line: String,
}

/// What is right.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[schema(as = DrillRight)]
pub struct Right {
    /// What it was.
    pub cause: Cause,
    /// Where.
    #[serde(default)]
    pub place: String,
    /// What becomes of it, where it does not follow from whether a fault is left.
    #[serde(default)]
    pub give: Option<Give>,
}

/// A test that is watched on the way.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum TestKind {
    /// A pressure hold.
    Hold,
    /// Two halves.
    LeakBy,
    /// A decay.
    Decay,
    /// A pull-down.
    Pull,
    /// Nothing that Ruhe judges.
    None,
}

/// A step of a way through a drill.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "step", rename_all = "snake_case")]
#[schema(as = DrillStep)]
pub enum Step {
    /// Something done.
    Do {
        /// What.
        doing: Doing,
    },
    /// Something watched, as a test.
    Watch {
        /// Which.
        test: TestKind,
        /// Minutes.
        minutes: f64,
    },
}

/// A drill.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Scenario {
    /// Its place in the list; 0: a teacher's own.
    pub number: u32,
    /// What it is called: nothing of the truth.
    pub title: String,
    /// Part of the work.
    pub phase: Phase,
    /// The situation, as it is told.
    pub told: String,
    /// The job sheet.
    pub sheet: Sheet,
    /// What is answered when it is asked for.
    #[serde(default)]
    pub answers: Answers,
    /// The hidden truth.
    pub truth: PlantTruth,
    /// The hidden truth in words, shown at the end.
    pub reveals: String,
    /// What decides.
    pub clues: Vec<Clue>,
    /// What is right.
    pub right: Right,
    /// Minutes of the plant that are par.
    pub par_minutes: f64,
    /// The cheapest way, decision at its end.
    pub path: Vec<Step>,
    /// The way that is usually gone wrong.
    #[serde(default)]
    pub wrong: Vec<Step>,
    /// How it is usually decided wrongly.
    #[serde(default)]
    pub wrong_decision: Option<Decision>,
}

impl Scenario {
    /// The same with another seed and its figures up to 30 % away: nobody who has seen it knows it.
    #[must_use]
    pub fn varied(&self, seed: u64) -> Self {
        let mut rng = ChaCha8Rng::seed_from_u64(seed ^ 0x7a11);
        let mut by = || 0.7 + 0.6 * rng.random::<f64>();
        let mut s = self.clone();
        let t = &mut s.truth;
        t.seed = seed;
        for l in &mut t.places {
            let k = by();
            l.out *= k;
            l.draws = l.draws.map(|d| d * k);
        }
        t.between_lets_by *= by();
        if let Some(h) = &mut t.held_back {
            h.lets_by *= by();
        }
        t.free_water *= by();
        t.oil_gas.0 *= by();
        t.fill.0 *= by();
        s
    }

    /// The same with another seed alone.
    #[must_use]
    pub fn seeded(&self, seed: u64) -> Self {
        let mut s = self.clone();
        s.truth.seed = seed;
        s
    }

    /// Places that can be looked at, in an order that tells nothing.
    #[must_use]
    pub fn places(&self) -> Vec<String> {
        let mut out: Vec<String> = self
            .truth
            .places
            .iter()
            .map(|l: &Leak| l.place.clone())
            .collect();
        out.sort();
        out
    }

    /// What a file must have to be worked.
    ///
    /// # Errors
    /// The field, and what is wrong with it.
    pub fn check(&self) -> Result<(), (&'static str, String)> {
        let wrong = |field, why: &str| Err((field, why.to_owned()));
        let t = &self.truth;
        if self.title.trim().is_empty() {
            return wrong("title", "say what the drill is called");
        }
        if self.told.trim().is_empty() {
            return wrong("told", "tell the situation");
        }
        if t.volumes.iter().any(|v| !(1e-5..=1.0).contains(v)) {
            return wrong("truth.volumes", "each volume is between 0.01 and 1,000 L");
        }
        if t.limits.iter().any(|p| !(1e5..=2e7).contains(p)) {
            return wrong("truth.limits", "each limit is between 1 and 200 bar");
        }
        if !(230.0..=330.0).contains(&t.kelvin) {
            return wrong("truth.kelvin", "the air is between −43 and 57 °C");
        }
        if t.places.len() > 20 {
            return wrong("truth.places", "at most 20 places");
        }
        if !(1.0..=2_000.0).contains(&self.par_minutes) {
            return wrong("par_minutes", "par is between 1 and 2,000 minutes");
        }
        if self.right.cause.has_place() && !t.places.iter().any(|l| l.place == self.right.place) {
            return wrong(
                "right.place",
                "the place that is right is none of the places",
            );
        }
        let figures = t.places.iter().flat_map(|l| [l.out, l.at, l.opens_above]);
        if figures
            .chain([t.free_water, t.oil_gas.0, t.sun, t.barometer])
            .any(|x| !x.is_finite())
        {
            return wrong("truth", "a figure is missing or not a number");
        }
        Ok(())
    }
}
