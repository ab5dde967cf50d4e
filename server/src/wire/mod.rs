//! The one door between core's types and JSON: requests in, views out, verdicts, plans, recordings.

mod plan;
mod recording;
mod request;
mod verdict;
mod view;

pub use plan::{ChannelInput, Plan, channel_row};
pub use recording::{recording_of, store_recording};
pub use request::*;
pub use verdict::{Verdict, contract, verdict_of};
pub use view::*;
