//! Channels, readings and events of one test; the data package they travel in; logger CSV.

mod behind;
mod channel;
mod coverage;
mod descriptor;
pub mod doubt;
mod event;
pub mod fault;
mod logger;
mod package;
mod recording;
mod remark;
mod series;
mod surroundings;
mod write;

pub use behind::Behind;
pub use channel::{CALIBRATION_DUE, Channel, Position, Principle, Quantity, Reference};
pub use event::{Event, EventKind};
pub use fault::Fault;
pub use logger::{
    Answers, Ask, Choice, ColumnGuess, DayOrder, Figures, LoggerFile, LoggerMapping, MOST_READINGS,
    MappedColumn, Open, Question, SameTime, Taken, TimeIs, Understood, doubts,
};
pub use package::{PackageFiles, impossible, read_package};
pub use recording::{
    DecayLimit, Gas, HoldLimit, Kind, PullStage, Reading, Recording, RigPart, RigShare, Settings,
};
pub use remark::Remark;
pub use series::Series;
pub use surroundings::{Placement, Sky};
pub use write::{Cell, Sheet, write_package, write_sheets};
