//! Views: what a page, a record or a drill shows of a state. Pure functions; the JSON is theirs.
#![allow(missing_docs)] // a field of a view says what its name says

mod argued;
mod bag;
mod bench;
mod circuit;
mod figure;
mod finish;
mod gates;
mod kit;
mod meta;
mod press;
mod procedure;
mod record;
mod reply;
mod run;
mod search;
mod stage;
mod test;
mod tightness;
mod today;
mod vacuum;
mod verdict;
mod visits;

pub use argued::*;
pub use bag::*;
pub use bench::*;
pub use circuit::*;
pub use figure::*;
pub use finish::*;
pub use gates::*;
pub use kit::*;
pub use meta::*;
pub use press::*;
pub use procedure::*;
pub use record::*;
pub use reply::*;
pub use run::*;
pub use search::*;
pub use stage::*;
pub use test::*;
pub use tightness::*;
pub use today::*;
pub use vacuum::*;
pub use verdict::*;
pub use visits::*;
