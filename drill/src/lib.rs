//! ruhe-drill: practice on a plant that hides its fault.
//!
//! A [`Scenario`] is a situation, a hidden truth, what decides, what is right, and a par. A [`Session`] is a learner's
//! way through it: a clock that can be hurried, acts, one decision. [`account`] gives points with the reason for each.
//! Nothing here knows the judge: Ruhe's own verdict stands beside the truth, and is laid there by the server.
#![cfg_attr(test, allow(clippy::unwrap_used))]

mod account;
mod catalogue;
mod clue;
mod decision;
mod form;
mod met;
mod offers;
mod scenario;
mod session;
mod solver;

pub use account::{Account, Line, RecordFacts, account, brier};
pub use catalogue::all;
pub use clue::{Clue, What};
pub use decision::{Cause, Decision, Give};
pub use form::Form;
pub use offers::{Need, Offer, offers};
pub use scenario::{Answers, Phase, Right, Scenario, Sheet, Step, TestKind};
pub use session::{Did, Level, Session, Speed};
pub use solver::{Walked, walk};
