//! ruhe-server: routes, live stream, the built page, and the `ruhe` command.
//!
//! A handler extracts, calls the service, maps the error and replies; what may be done and what is shown stands in
//! `ruhe-job`.
#![cfg_attr(test, allow(clippy::unwrap_used))]

pub mod analyse;
pub mod app;
pub mod backup;
mod body;
mod connections;
pub mod demo;
pub mod doctor;
mod drills;
mod error;
mod feed;
mod feeds;
pub mod files;
pub mod gauge;
mod heads;
mod held;
pub mod key;
mod lock;
mod openapi;
mod paper;
pub mod people;
mod plants;
mod query;
pub mod record;
mod routes;
mod service;
mod state;
pub mod tls;

pub use app::{Reach, Served, serve};
pub use drills::Drills;
pub use openapi::specification;
pub use service::{HouseChecked, PersonChange, Said, now_ms};
pub use state::AppState;
