//! Between requests and the store. What becomes of what somebody says stands in `ruhe_job::service`; here is the
//! database that keeps it (`desk`), and what only a house does: files, people, rebuilding, looking after itself.

mod act;
mod bound;
mod check;
mod desk;
mod end;
mod keep;
mod load;
mod people;
mod rebuild;
mod refresh;
mod running;
mod shelf;

pub use act::Said;
pub use bound::place;
pub use check::HouseChecked;
pub use load::{entry_rows, judged_whole, line, readings_of};
pub use people::{Confirmed, Known, PersonChange};
pub use refresh::{Waiting, refresh_forever};
pub use running::{Patience, Running};

use jiff::civil::Date;

/// Milliseconds since 1970 UTC, now.
pub fn now_ms() -> i64 {
    jiff::Timestamp::now().as_millisecond()
}

/// A fresh id.
pub fn fresh_id() -> String {
    uuid::Uuid::new_v4().to_string()
}

/// The day, UTC: a calibration runs out with it.
pub fn today() -> Date {
    jiff::tz::Offset::UTC
        .to_datetime(jiff::Timestamp::now())
        .date()
}
