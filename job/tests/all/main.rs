//! Every test of this crate through its public doors, in one program: linked once, a subject a file.
#![allow(clippy::unwrap_used)]

mod acts;
mod argument;
mod cases;
mod cautions;
mod contents;
mod corrected;
mod forged;
mod gates;
mod kept;
mod leads;
mod log;
mod order_laws;
mod people;
mod press_up;
mod service;
mod small_rules;
mod sources;
mod sums;
mod visit;
mod walk;
mod walks;
mod work;
