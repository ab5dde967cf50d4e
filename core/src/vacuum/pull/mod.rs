//! A pull-down: where it stands, when it arrives, and what holds it up.

mod arrive;
mod bank;
mod judge;
mod stall;
mod words;

pub use arrive::{Arrival, arrive};
pub use judge::{Pull, PullOutcome, PullVerdict, ValveOff, judge_pull};
pub use stall::{Held, HeldBy, Scene, Stall, stall};
