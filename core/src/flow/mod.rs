//! How gas gets from a system to the pump: conductance of tubes, the effective speed of a rig, and pumping down.
//!
//! In: bores, lengths, the pump. Out: speeds (m³/s) and times (s). SI throughout; it knows nothing of readings.

mod conductance;
mod pump_down;
mod rig;

pub use conductance::Tube;
pub use pump_down::{Gain, Pumping, gains, time_to};
pub use rig::{CORE_IN, CORE_TOOL, Flow, Pump, Restriction, Rig, TEE};
