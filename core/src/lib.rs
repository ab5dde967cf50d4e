//! ruhe-core: the rules of the job.
//!
//! In come readings with their units and the plan of a test; out go verdicts, intervals,
//! explanations and gates. It must not know about files, clocks, threads, the web or the database,
//! so that it can be tested alone and one day run inside the browser.
#![warn(missing_docs)]
#![cfg_attr(test, allow(clippy::unwrap_used))]

mod named;

pub mod argue;
pub mod flow;
pub mod hold;
pub mod judge;
pub mod kit;
pub mod matter;
pub mod order;
pub mod procedure;
pub mod quantity;
pub mod reading;
pub mod reason;
pub mod search;
pub mod signoff;
pub mod stat;
pub mod survey;
pub mod vacuum;
pub mod words;

/// Version of the judging method, printed on every verdict. A change of method raises it.
pub const ENGINE_VERSION: &str = concat!("ruhe ", env!("CARGO_PKG_VERSION"));
