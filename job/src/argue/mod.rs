//! What the tests of one circuit say together: the leak ladder, where a rise comes from, repeats, the next step.
//!
//! In: verdicts and facts of one circuit, none of which this room judges itself. Out: words, bounds and orders.

mod facts;
mod ladder;
mod next;
mod repeats;
mod sources;

pub use facts::{HoldBound, RigFact, RiseFacts};
pub use ladder::{Rung, rung, rung_of_rise};
pub use next::{Action, chance, next_steps};
pub use repeats::{Compared, Repeats, Trend, repeats, rise};
pub use sources::{Argued, Source, Standing, Wedge, argue, shares};
