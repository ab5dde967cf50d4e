//! Every test of this crate through its public doors, in one program: linked once, a subject a file.
#![allow(clippy::unwrap_used)]

mod analyse;
mod api;
mod bench;
mod bounds;
mod cases;
mod ceilings;
mod changed;
mod conformance;
mod contract;
mod corrected;
mod demo;
mod door;
mod drills;
mod durable;
mod forged;
mod gate;
mod golden;
mod halves;
mod kit;
mod log;
mod newer;
mod people;
mod pocket;
mod pressure;
mod pressure_refusals;
mod refusals;
mod safety;
mod sections;
mod shut_out;
mod support;
mod vacuum;
mod verifier;
mod visit;
