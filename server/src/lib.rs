//! ruhe-server: routes, live stream, the built page, and the `ruhe` command.
//!
//! A handler extracts, calls, maps the error and replies. `wire` is the one door between core's types and JSON.
#![cfg_attr(test, allow(clippy::unwrap_used))]

pub mod analyse;
pub mod app;
pub mod demo;
mod error;
mod feed;
mod files;
mod judge;
mod routes;
mod state;
mod wire;

pub use app::{Served, serve, specification};
pub use state::AppState;
