//! The record of a circuit, as it prints.

use super::circuit::CircuitView;
use super::test::TestView;
use super::verdict::Verdict;
use crate::log::{Ended, Seal};
use ruhe_core::judge::{Finding, say};
use ruhe_core::quantity::Units;
use serde::Serialize;

#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct TestRecord {
    /// Readings struck out among those shown.
    pub struck: usize,
    pub test: TestView,
}

/// A circuit's record, as it prints.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RecordView {
    pub circuit: CircuitView,
    pub tests: Vec<TestRecord>,
    /// Some of its readings came from a simulated gauge.
    pub has_simulated: bool,
    pub printed_ms: i64,
}

/// An ended test judged again, beside what was frozen.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct JudgedAgain {
    /// What was frozen when it ended.
    pub frozen: Verdict,
    /// What this version of the method finds.
    pub now: Verdict,
    /// The readings are those that were sealed.
    pub is_sealed: bool,
    /// Both are the same.
    pub is_same: bool,
    /// What differs, in words.
    pub differs: Vec<String>,
}

/// Puts what was frozen beside what is found now.
#[must_use]
pub fn judged_again(frozen: &Ended, now: &Finding, seal: &Seal, u: Units) -> JudgedAgain {
    let (was, is) = (say(&frozen.finding, u), say(now, u));
    let mut differs = Vec::new();
    let mut compare = |what: &str, was: &str, is: &str| {
        if was != is {
            differs.push(format!("{what}: was “{was}”, is “{is}”."));
        }
    };
    compare("Word", &was.word, &is.word);
    compare("Headline", &was.headline, &is.headline);
    compare("Summary", &was.summary, &is.summary);
    let is_same = frozen.finding.agrees_with(now);
    if !is_same && differs.is_empty() {
        differs.push("Only figures that no sentence shows differ.".into());
    }
    JudgedAgain {
        frozen: Verdict::by(&frozen.finding, &frozen.engine, u),
        now: Verdict::of(now, u),
        is_sealed: frozen.seal == *seal,
        is_same,
        differs,
    }
}
