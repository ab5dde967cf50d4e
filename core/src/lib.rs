//! ruhe-core: physics and judging.
//!
//! In comes a recording: readings with their units and what is known of the test. Out goes a finding, and its words.
//! It must not know files, clocks, threads, the web or the database, nor the rules of the trade, so that it can be
//! tested alone and run inside the browser.
#![warn(missing_docs)]
#![cfg_attr(test, allow(clippy::unwrap_used))]

mod named;

pub mod flow;
pub mod hold;
pub mod judge;
pub mod matter;
pub mod quantity;
pub mod reading;
pub mod reason;
pub mod stat;
pub mod vacuum;
pub mod words;

/// Version of the judging method, printed on every verdict. A change of method raises it.
pub const ENGINE_VERSION: &str = concat!("ruhe ", env!("CARGO_PKG_VERSION"));
