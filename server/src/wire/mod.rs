//! The one door between core's types and JSON: requests in, views out, verdicts, plans, recordings.

mod bench;
mod plan;
mod recording;
mod request;
mod search;
mod survey;
mod verdict;
mod view;

pub use bench::*;
pub use plan::{ChannelInput, Plan, channel_row};
pub use recording::{ReadTest, read_test, recording_of, store_recording};
pub use request::*;
pub use search::*;
pub use survey::*;
pub use verdict::{Verdict, contract, verdict_of};
pub use view::*;
