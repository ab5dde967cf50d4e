//! A nitrogen hold: settle → amount of gas → loss with its interval → what it proves; and leak-by.
//!
//! In: a [`Recording`](crate::reading::Recording). Out: a [`HoldVerdict`] or [`LeakByVerdict`]. docs/method.md
//! tells the whole story; each file here is one chapter of it.

mod again;
mod amount;
mod enough;
mod gather;
mod judge;
mod leak_by;
mod model;
mod proves;
mod settle;
mod untempered;
mod verdict;
mod words;

pub use again::{Retest, as_warm_again, retest};
pub use amount::COPPER;
pub use enough::{Foreseen, LENGTHS, Reach, Sky, needed, reach};
pub use gather::{HeldGas, gather};
pub use judge::{judge_hold, loss_bound};
pub use leak_by::{LeakByOutcome, LeakByVerdict, Share, judge_leak_by};
pub use model::Known;
pub use proves::{Proof, proof};
pub use verdict::{Correction, HoldOutcome, HoldVerdict, Loss, TracePoint};
