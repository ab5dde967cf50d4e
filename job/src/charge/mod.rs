//! The charge: what the maker wants, what the scale must stop at, what was weighed in and out, and what was missing.
//!
//! In: what was typed from plate, manual and scale. Out: a target, a number to stop at, a signed sum with its
//! tolerance, a cylinder's limit. All sums are in grams and rounded only where they are shown; a stop rounds towards
//! too little.

mod doc;
mod known;
mod ledger;
mod recovery;
mod scale;
mod slip;
mod target;

pub use doc::*;
pub use known::*;
pub use ledger::*;
pub use recovery::*;
pub use scale::*;
pub use slip::*;
pub use target::*;
