//! The record on paper: what the printer needs besides the view.

use crate::error::ApiError;
use crate::lock::lock;
use crate::state::AppState;
use jiff::Timestamp;
use jiff::tz::{Offset, TimeZone};
use ruhe_core::quantity::Units;
use ruhe_job::tell::RecordView;
use ruhe_paper::{Paper, Print, Reader, pdf};

/// How a record is asked for.
#[derive(Debug, Clone, Copy)]
pub struct Asked {
    pub reader: Reader,
    pub paper: Paper,
    pub units: Units,
    /// Minutes east of UTC; none: as this machine has it.
    pub offset: Option<i32>,
}

impl Default for Asked {
    fn default() -> Self {
        Self {
            reader: Reader::All,
            paper: Paper::A4,
            units: Units::default(),
            offset: None,
        }
    }
}

fn zone(offset: Option<i32>) -> TimeZone {
    offset
        .and_then(|m| Offset::from_seconds(m.checked_mul(60)?).ok())
        .map_or_else(TimeZone::system, TimeZone::fixed)
}

/// Prints a record.
pub fn print(s: &AppState, record: &RecordView, asked: Asked) -> Result<Vec<u8>, ApiError> {
    // One at a time: many who print at once wait for each other, not for all the cores.
    let _alone = lock(&s.printing);
    let zone = zone(asked.offset);
    let clock = |ms: i64| {
        let at = Timestamp::from_millisecond(ms)
            .ok()
            .map(|t| zone.to_datetime(t));
        at.map_or_else(Default::default, |z| {
            (
                z.strftime("%-d %b %Y").to_string(),
                z.strftime("%H:%M").to_string(),
            )
        })
    };
    let offset = |ms: i64| {
        let at = Timestamp::from_millisecond(ms).unwrap_or_default();
        format!("UTC{}", zone.to_offset(at))
    };
    let photo = |id: &str| {
        let found = s.store.read(|tx| Ok::<_, ApiError>(tx.photo(id)?)).ok()?;
        Some((found.mime, found.bytes))
    };
    let print = Print {
        paper: asked.paper,
        reader: asked.reader,
        units: asked.units,
        fingerprint: &s.key.fingerprint(),
        is_drill: s.is_drill,
        clock: &clock,
        zone: &offset,
        photo: &photo,
    };
    pdf(record, &print).map_err(|e| ApiError::Inside(e.to_string()))
}
