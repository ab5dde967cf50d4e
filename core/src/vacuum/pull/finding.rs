//! What is found about a pull-down.

use super::arrive::Arrival;
use super::stall::Stall;
use crate::flow::Gain;
use crate::named;
use crate::quantity::MICRON;
use crate::reason::Reason;
use crate::vacuum::VacuumPoint;
use serde::{Deserialize, Serialize};

named! {
    /// Where it stands.
    PullOutcome {
        /// The last target is reached.
        Reached = "reached",
        /// Under way.
        Pulling = "pulling",
        /// It no longer gets anywhere.
        Stalled = "stalled",
        /// A nitrogen break stands, or one is due.
        Break = "break",
        /// Nothing read.
        NotBegun = "undecided",
    }
}

/// One pull of the run.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Pull {
    /// From and to, s since the recording's start.
    pub from: f64,
    /// Its last reading.
    pub to: f64,
    /// Target, Pa.
    pub target: f64,
    /// Lowest level, Pa; `None`: nothing read in it.
    pub lowest: Option<f64>,
    /// Time to its target, s.
    pub took: Option<f64>,
    /// Time to the target of the pull before it, s: what tells drying.
    pub took_before: Option<f64>,
}

/// A valve-off in between: the rise it showed.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct ValveOff {
    /// When, s since the recording's start.
    pub at: f64,
    /// How long, s.
    pub lasted: f64,
    /// Rise, Pa/s.
    pub rate: f64,
    /// The lowest level pumping against such an inflow would reach, Pa, if the speed is known from the trace.
    pub floor: Option<f64>,
}

/// The break after a pull.
#[derive(Debug, Clone, Copy, Default, PartialEq, Serialize, Deserialize)]
pub struct After {
    /// Nitrogen to, Pa absolute; `None`: no break.
    pub break_pa: Option<f64>,
    /// For so long, s.
    pub dwell_s: f64,
}

/// All that is found about a pull-down.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct PullFinding {
    /// Where it stands.
    pub outcome: PullOutcome,
    /// Codes of what decided.
    pub reasons: Vec<Reason>,
    /// Pulls so far.
    pub pulls: Vec<Pull>,
    /// Which pull one is at, from 0, and how many there are.
    pub at: (usize, usize),
    /// Level now, Pa.
    pub level: Option<f64>,
    /// Target of this pull, Pa.
    pub target: f64,
    /// What follows this pull.
    pub after: After,
    /// The last reading, s since the recording's start.
    pub now: f64,
    /// A break stands until then, s since the recording's start.
    pub break_until: Option<f64>,
    /// Arrival, s since the recording's start.
    pub arrival: Option<Arrival>,
    /// It came from the rig alone, before readings could tell.
    pub is_from_rig: bool,
    /// What changes to the rig would gain.
    pub gains: Vec<Gain>,
    /// A stall.
    pub stall: Option<Stall>,
    /// Level at the pump, Pa, where a second gauge stands there.
    pub at_pump: Option<f64>,
    /// Valve-offs.
    pub valve_offs: Vec<ValveOff>,
    /// Points to draw.
    pub trace: Vec<VacuumPoint>,
}

/// What counts as a gross fault in a quick valve-off: the pump would never get below the target against it.
pub(super) fn is_gross(v: &ValveOff, target: f64) -> bool {
    v.floor
        .map_or(v.rate > 2_000.0 * MICRON / 60.0, |f| f > 0.8 * target)
}
