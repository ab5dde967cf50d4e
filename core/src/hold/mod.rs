//! A nitrogen hold: settle → amount of gas → loss with its interval → what it proves; and leak-by.
//!
//! In: a [`Recording`](crate::reading::Recording). Out: a [`HoldFinding`] or [`LeakByFinding`]. docs/method.md
//! tells the whole story; each file here is one chapter of it.

mod again;
mod amount;
mod blocks;
mod draw;
mod enough;
mod fading;
mod figures;
mod finding;
mod fitted;
mod foretell;
mod gather;
mod inside;
mod judge;
mod leak_by;
mod model;
mod path;
mod proves;
mod settle;
mod untempered;
mod words;

pub use again::{Retest, as_warm_again, retest};
pub use amount::COPPER;
pub use enough::{Foreseen, LENGTHS, Reach, Sky, Volume, digit_takes, needed, reach};
pub use finding::{
    ChargeBehind, Correction, Doubt, Foretold, HoldCase, HoldFinding, HoldOutcome, Judged, Loss,
    Moved, Silent, TracePoint, Unread,
};
pub use gather::{HeldGas, gather};
pub use judge::{DEFAULT_SHARE, judge_hold, loss_bound};
pub use leak_by::{
    Balance, BesideCharge, Blocked, Half, LeakByCase, LeakByFinding, LeakByOutcome, OverCeiling,
    Share, judge_leak_by, say_leak_by,
};
pub use model::KnownPlant;
pub use proves::{Proof, assumptions, proof};
pub use untempered::Untempered;
pub use words::say_hold;
