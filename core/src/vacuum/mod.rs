//! A vacuum decay: which shapes could have made this rise, and what the limit says.
//!
//! In: a [`Recording`](crate::reading::Recording). Out: a [`DecayFinding`]. The data tell shapes apart; where a
//! straight rise comes from (air, a charged side, the rig) is argued elsewhere.

mod apart;
mod background;
mod doubts;
mod explain;
mod finding;
mod gauges;
mod hypothesis;
mod judge;
mod notes;
mod prior;
pub mod pull;
mod rig_check;
mod shape;
mod sums;
mod trace;
mod weigh;
pub(crate) mod words;

pub use background::{Background, GaugePlace};
pub use doubts::Doubt;
pub use explain::{Explanation, Explanations, explain};
pub use finding::{
    DecayCase, DecayFinding, DecayOutcome, Forecast, LeakRate, Noticed, Rise, TwoGauges,
    VacuumPoint,
};
pub use gauges::coldest;
pub use judge::judge_decay;
pub use notes::{rig_rate, system_litres, without_rig};
pub use prior::{Cause, prior_shares};
pub use rig_check::{RigCase, RigFinding, RigOutcome, judge_rig, say_rig};
pub use words::say_decay;
