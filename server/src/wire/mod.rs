//! The one door between core's types and JSON: requests in, views out, verdicts, plans, recordings.

mod argued;
mod bench;
mod kit;
mod plan;
mod recording;
mod request;
mod search;
mod survey;
mod vacuum;
mod verdict;
mod view;

pub use argued::*;
pub use bench::*;
pub use kit::*;
pub use plan::{ChannelInput, Plan, RigShareDoc, StageDoc, channel_row};
pub use recording::{ReadTest, read_test, recording_of, store_recording};
pub use request::*;
pub use search::*;
pub use survey::*;
pub use verdict::{Judgement, Point, Verdict, contract, judged_of};
pub use view::*;
