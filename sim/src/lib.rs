//! ruhe-sim: a simulated plant with hidden faults, and simulated gauges.
//!
//! It integrates physics in time from a hidden truth and shows only what gauges would show. It must not know the
//! judge: no code, no fits and no priors are shared with ruhe-core; nitrogen here is GERG-2008 from a library.
//! The same seed gives the same readings.

mod draw;
mod gauge;
mod hold;
pub mod plant;
mod pull;
mod vacuum;
mod weather;

pub use draw::DrawnDecay;
pub use gauge::Gauge;
pub use hold::{HoldPlant, HoldTruth, Probe};
pub use pull::{PullPlant, PullTruth};
pub use vacuum::{VacuumPlant, VacuumTruth};
pub use weather::Weather;

/// Standard atmosphere, Pa.
pub const ATMOSPHERE: f64 = 101_325.0;
/// Pascal per psi.
pub const PSI: f64 = 6_894.757_293;
/// Pascal per micron.
pub const MICRON: f64 = 0.133_322_368;

/// What a gauge shows at one time.
#[derive(Debug, Clone, PartialEq)]
pub struct Shown {
    /// Seconds since the plant started.
    pub at_s: f64,
    /// Index of the gauge or probe.
    pub gauge: usize,
    /// SI value as shown: Pa gauge, Pa absolute, or K.
    pub value: f64,
}
