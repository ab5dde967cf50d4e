//! What a log amounts to: a circuit with its tests, looks, repairs, steps and signature; the kit; procedures.
//!
//! In: entries in their order. Out: the state, without what was struck out. A running test is judged by whoever holds
//! its readings, and put in with [`Circuit::show`]; an ended one is what was frozen when it ended.

mod circuit;
mod facts;
mod handover;
mod inside;
mod kept;
mod looks;
mod outline;
mod shelf;
mod test;
mod visit;

pub use circuit::{Circuit, Correction, StruckOut, UNDO_MS};
pub use facts::Listed;
pub use kept::Kept;
pub use looks::look_of;
pub use outline::{Outline, RunTrace, SideEnd, outline};
pub use shelf::{KitState, KitThing, Procedures};
pub use test::{Now, Test, record};
pub use visit::{Moved, Visit, day_of};
