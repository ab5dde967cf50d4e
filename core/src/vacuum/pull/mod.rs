//! A pull-down: where it stands, when it arrives, and what holds it up.

mod arrive;
mod bank;
mod finding;
mod judge;
mod stall;
mod words;

pub use arrive::{Arrival, arrive};
pub use finding::{After, Pull, PullFinding, PullOutcome, ValveOff};
pub use judge::judge_pull;
pub use stall::{HeldBy, Hindrance, Scene, Stall, Why, stall};
pub use words::{BALLAST, EXERCISE, say_pull};
