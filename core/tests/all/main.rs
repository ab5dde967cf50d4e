//! Every test of this crate through its public doors, in one program: linked once, a subject a file.
#![allow(clippy::unwrap_used)]

mod any_recording;
mod cases;
mod correction;
mod decays;
mod files;
mod hold_doubts;
mod inside;
mod laws;
mod logger;
mod logger_asked;
mod odd_decays;
mod otherwise;
mod package;
mod plants;
mod pressure_laws;
mod round_trip;
mod rules;
mod sparse;
mod thinned;
mod vacuum_plant;
