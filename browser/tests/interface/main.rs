//! Tests that drive the real interface in headless Chromium, one server and one browser each.
#![allow(clippy::unwrap_used)]

mod corrected;
mod decay_live;
mod drills;
mod handbook;
mod hold_by_hand;
mod import;
mod inside;
mod leak_by;
mod live_cost;
mod long_job;
mod lost_network;
mod now;
mod offline;
mod people;
mod phone;
mod pressure;
mod safety;
mod sign;
mod support;
mod survey;
mod undo;
mod vacuum;
mod views;
mod visit;
