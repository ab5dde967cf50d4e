//! What is found about a decay: figures in SI and reasons. The words are made from it in `words`.

use super::doubts::Doubt;
use super::prior::Cause;
use crate::named;
use crate::quantity::Unit;
use crate::reading::DecayLimit;
use crate::reason::Reason;
use serde::{Deserialize, Serialize};

named! {
    /// Outcome of a decay.
    DecayOutcome {
        /// Within the rule.
        Passes = "passes",
        /// Over it.
        Fails = "fails",
        /// The rule's time has not come.
        Undecided = "undecided",
        /// Not a decay test.
        NotApplicable = "not_applicable",
    }
}

/// Leak rate, Pa/s.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct LeakRate {
    /// Mean.
    pub value: f64,
    /// 2.5 % bound.
    pub low: f64,
    /// 97.5 % bound.
    pub high: f64,
}

/// A point of the trace, seconds since the recording's start and Pa.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct VacuumPoint {
    /// Seconds since the recording's start.
    pub at_s: f64,
    /// Level.
    pub level: f64,
}

/// One explanation of a rise with its forecast.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Forecast {
    /// The shape.
    pub cause: Cause,
    /// Share of belief.
    pub probability: f64,
    /// Where it levels, Pa, if it does.
    pub level: Option<f64>,
    /// Size of its levelling part, Pa, if it has one.
    pub levelling: Option<f64>,
    /// The curve, from isolation into the future.
    pub curve: Vec<VacuumPoint>,
}

/// What a rise showed, and what is known beside it: the figures that its words need.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct Rise {
    /// Level at isolation, Pa.
    pub first: f64,
    /// Last level, Pa.
    pub last: f64,
    /// Time between, s.
    pub lasted: f64,
    /// Slope of the second quarter, Pa/s.
    pub early: f64,
    /// Slope of the last quarter, Pa/s.
    pub late: f64,
    /// The two differ by a fifth, and by twice what the gauge's noise may do.
    pub bends: bool,
    /// Coldest temperature read, K.
    pub cold: Option<f64>,
    /// Saturation pressure of water there, Pa.
    pub saturation: Option<f64>,
    /// The gauge is of the heat-loss kind, or nobody said.
    pub thermal: bool,
    /// Time under vacuum before isolation, s.
    pub evacuated: Option<f64>,
}

/// A second vacuum gauge beside the one that counts.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct TwoGauges {
    /// Last level of the gauge that counts, Pa.
    pub counts: f64,
    /// Last level of the other, Pa.
    pub other: f64,
    /// It counts because it is far from the pump; else because it reads higher.
    pub is_far: bool,
    /// They agree.
    pub agree: bool,
}

/// What was noticed besides the shape.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
pub struct Noticed {
    /// The other gauge.
    pub gauges: Option<TwoGauges>,
    /// Times without readings: from and to, s since isolation.
    pub gaps: Vec<(f64, f64)>,
    /// The hoses stayed in: the test that told what they give off, and how much that is, Pa/s.
    pub rig: Option<(String, f64)>,
    /// Volume under vacuum, L.
    pub litres: f64,
    /// Nobody stated that volume.
    pub is_assumed: bool,
}

/// Which case a decay is, with the figures that its words need.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(tag = "case", rename_all = "snake_case")]
#[allow(missing_docs)] // levels in Pa, times in s
pub enum DecayCase {
    /// No level yet.
    NothingRead,
    /// Only a dial that reads against the air, Pa, in this unit and steps of this size, Pa.
    OnADial { reads: f64, unit: Unit, digit: f64 },
    /// Pump or hoses were on it.
    NotIsolated { level: f64 },
    /// Nobody said that it is isolated.
    Awaits { level: f64 },
    /// One level since isolation.
    JustIsolated,
    /// The trace behaves as under a pump.
    SeemsPumped { from: f64, to: f64, took: f64 },
    /// A rise under the rule.
    Judged { rise: Rise, noticed: Noticed },
}

/// All that is found about a decay.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct DecayFinding {
    /// Outcome.
    pub outcome: DecayOutcome,
    /// What decided.
    pub reasons: Vec<Reason>,
    /// Which case it is.
    pub case: DecayCase,
    /// Most likely first; empty: nothing is known of the shape.
    pub explanations: Vec<Forecast>,
    /// Sum over causes with a leak.
    pub leak_probability: Option<f64>,
    /// A leak of at least this rate (Pa/s) matters: a micron a minute, or what crosses the limit within the hour.
    pub matters_pa_s: Option<f64>,
    /// Probability of such a leak.
    pub matters_probability: Option<f64>,
    /// The leak's size.
    pub leak_rate: Option<LeakRate>,
    /// The leak's size if there is a leak: 95 % bounds, Pa/s.
    pub rate_of_leak: Option<(f64, f64)>,
    /// Stated accuracy of the gauge that counts, Pa.
    pub accuracy_pa: Option<f64>,
    /// What makes the readings doubtful.
    pub doubts: Vec<Doubt>,
    /// The largest straight inflow that this test could have hidden, Pa/s.
    pub hidden_pa_s: Option<f64>,
    /// It passes, but something still flows in: it would stand at the limit within hours.
    pub rising: bool,
    /// It passes and rises, and a leak that matters is more likely than not.
    pub leak_likely: bool,
    /// It passes and rises: when it stands at the limit if it goes on as it last did, s from the last reading.
    pub reaches_s: Option<f64>,
    /// The forecast crosses the limit within the hour.
    pub warns: bool,
    /// Seconds since isolation at which leak and no leak will differ visibly; `None`: waiting won't do it (or they do
    /// already).
    pub comes_apart_s: Option<f64>,
    /// Isolation, s since the recording's start.
    pub isolated_at_s: Option<f64>,
    /// The rule used.
    pub limit: DecayLimit,
    /// It was the default.
    pub limit_is_default: bool,
    /// Level at the rule's time, Pa.
    pub at_rule: Option<f64>,
    /// The gap in which it crossed the limit, s since isolation.
    pub gap: Option<(f64, f64)>,
    /// Points to draw.
    pub trace: Vec<VacuumPoint>,
}
