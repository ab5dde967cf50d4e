//! Observations that decide a drill, and whether they were made.

use ruhe_sim::plant::Doing;
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
