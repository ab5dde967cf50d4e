//! A vacuum decay: which shapes could have made this rise, and what the limit says.
//!
//! In: a [`Recording`](crate::reading::Recording). Out: a [`DecayVerdict`]. The data tell shapes apart; where a
//! straight rise comes from (air, a charged side, the rig) is argued elsewhere.

mod explain;
mod gauges;
mod hypothesis;
mod judge;
mod notes;
mod prior;
pub mod pull;
mod rig_check;
mod shape;
mod words;

pub use explain::{Explanation, Explanations, Known, Place, explain};
pub use gauges::coldest;
pub use judge::{DecayOutcome, DecayVerdict, Forecast, LeakRate, VacuumPoint, judge_decay};
pub use notes::{rig_rate, system_litres, without_rig};
pub use prior::{Cause, prior_shares};
pub use rig_check::{RigOutcome, RigVerdict, judge_rig};
