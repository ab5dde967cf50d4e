//! A pull-down: where it stands, when it arrives, and what holds it up.

mod arrive;
mod bank;

pub use arrive::{Arrival, arrive};
