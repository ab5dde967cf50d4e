//! ruhe-job: the trade. What a job is and may become.
//!
//! In come commands and the state of a circuit; out come entries of its log, or a refusal. Out of the state come views.
//! It must not know the web, the database, files or the clock, so that the server and later the browser run the same
//! code.
#![warn(missing_docs)]
#![cfg_attr(test, allow(clippy::unwrap_used))]

pub mod act;
pub mod argue;
pub mod charge;
pub mod contents;
pub mod kit;
pub mod log;
pub mod order;
pub mod people;
pub mod plan;
pub mod ports;
pub mod procedure;
pub mod record;
pub mod refusal;
pub mod search;
pub mod service;
pub mod signoff;
pub mod startup;
pub mod state;
pub mod survey;
pub mod tell;
