//! What is known of a circuit besides the rise in question.

use ruhe_core::reading::Behind;
use ruhe_core::vacuum::{Cause, RigOutcome};

/// A finished hold on the same section, with no repair since.
#[derive(Debug, Clone, PartialEq)]
pub struct HoldBound {
    /// What it is called on screen.
    pub title: String,
    /// Absolute pressure it was held at, Pa.
    pub at_pa: f64,
    /// 95 % upper bound of what it lost, Pa/s.
    pub lost_pa_s: f64,
    /// How long it was followed, s.
    pub followed_s: f64,
    /// Volume it was made on, L.
    pub litres: f64,
}

/// The last check of the hoses.
#[derive(Debug, Clone, PartialEq)]
pub struct RigFact {
    /// What it is called.
    pub title: String,
    /// What it said.
    pub outcome: RigOutcome,
}

/// Everything an argument may point at.
#[derive(Debug, Clone, PartialEq)]
pub struct RiseFacts {
    /// Shapes with their shares.
    pub causes: Vec<(Cause, f64)>,
    /// The inflow, Pa/s: middle, low, high (95 %); of the leak if there is one.
    pub rate: (f64, f64, f64),
    /// Mean rise, Pa/s, whatever it is.
    pub rise: f64,
    /// Finished holds of this section, the last one last.
    pub holds: Vec<HoldBound>,
    /// Opened or fitted since the last hold; `None`: nobody was asked.
    pub changed: Option<Vec<String>>,
    /// What stands behind shut valves, with its pressure (Pa absolute) where known.
    pub behind: Vec<(Behind, Option<f64>)>,
    /// Pump hoses stayed in the test.
    pub hoses_in: bool,
    /// Their own check.
    pub rig: Option<RigFact>,
    /// Oil is in it: a system that has run, or a compressor in the section.
    pub has_oil: bool,
    /// Its refrigerant burns, or nobody knows.
    pub is_flammable: bool,
    /// Volume under vacuum, L.
    pub litres: f64,
    /// Time under vacuum before, s.
    pub evacuated_s: Option<f64>,
    /// Length of the decay so far, s.
    pub lasted_s: f64,
    /// When leak and no leak will differ visibly, s since isolation.
    pub comes_apart_s: Option<f64>,
    /// The gauge sits near the pump.
    pub near_pump: bool,
    /// The local atmosphere, Pa.
    pub atmosphere: f64,
    /// What the repeats said, if there were any.
    pub trend: Option<super::Trend>,
}
