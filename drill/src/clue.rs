//! Observations that decide a drill, and whether they were made.

use crate::session::Session;
use ruhe_sim::plant::{Doing, Outcome};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// What must have been seen or done.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "what", rename_all = "snake_case")]
pub enum What {
    /// It stood shut off at this pressure or more, Pa gauge, for so long.
    Stood {
        /// Pa gauge.
        pa: f64,
        /// Minutes.
        minutes: f64,
    },
    /// It stood shut off under vacuum for so long, so many times.
    Isolated {
        /// Minutes.
        minutes: f64,
        /// Times.
        times: u32,
    },
    /// One of these acts was done.
    Did {
        /// Codes of acts.
        any: Vec<String>,
    },
    /// The leak at a place was found by looking.
    Found {
        /// Where.
        place: String,
    },
    /// A place was mended.
    Mended {
        /// Where.
        place: String,
    },
    /// A plate was read, twice where it says so.
    Plates {
        /// How many different ones, or readings.
        times: u32,
    },
    /// The unit ran for so long.
    Ran {
        /// Minutes.
        minutes: f64,
    },
    /// What is in it is right within 2 %, kg.
    Charged {
        /// Kg.
        kg: f64,
    },
    /// The learner came back for a reading so long after the start, hours.
    After {
        /// Hours.
        hours: f64,
    },
}

/// A deciding observation, and why it decides.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Clue {
    /// What.
    #[serde(flatten)]
    pub what: What,
    /// In words.
    pub says: String,
}

/// The code of an act, as its JSON has it.
pub(crate) fn code(doing: &Doing) -> String {
    serde_json::to_value(doing)
        .ok()
        .and_then(|v| v["act"].as_str().map(str::to_owned))
        .unwrap_or_default()
}

impl Clue {
    /// Whether it was made.
    #[must_use]
    pub fn is_met(&self, s: &Session) -> bool {
        let enough = |had: f64, wanted: f64| had >= 0.95 * wanted;
        match &self.what {
            What::Stood { pa, minutes } => s
                .stood()
                .iter()
                .any(|(p, m)| *p >= 0.97 * pa && enough(*m, *minutes)),
            What::Isolated { minutes, times } => {
                let had = s
                    .isolated()
                    .iter()
                    .filter(|m| enough(**m, *minutes))
                    .count();
                had >= *times as usize
            }
            What::Did { any } => s.did().iter().any(|d| any.contains(&code(&d.doing))),
            What::Found { place } => s.did().iter().any(|d| {
                matches!(&d.doing, Doing::Look { place: p, .. } if p == place)
                    && d.outcome == Outcome::Found
            }),
            What::Mended { place } => s.plant().mended(place),
            What::Plates { times } => {
                let reads = s
                    .did()
                    .iter()
                    .filter(|d| matches!(d.doing, Doing::ReadPlate { .. }));
                reads.count() >= *times as usize
            }
            What::Ran { minutes } => s.ran().is_some_and(|m| enough(m, *minutes)),
            What::Charged { kg } => (s.plant().charge() / kg - 1.0).abs() <= 0.02,
            What::After { hours } => enough(s.plant().now() / 3_600.0, *hours),
        }
    }
}
