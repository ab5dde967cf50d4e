//! What stands in the address of a request.

use ruhe_core::quantity::Units;
use ruhe_job::refusal::Refusal;
use ruhe_job::tell::Rows;
use serde::Deserialize;
use utoipa::IntoParams;

/// Units sentences are written in.
#[derive(Debug, Clone, Default, Deserialize, IntoParams)]
pub struct UnitsQuery {
    pub pressure: Option<String>,
    pub temperature: Option<String>,
    pub vacuum: Option<String>,
}

impl UnitsQuery {
    /// The units, with defaults where none is named or one does not fit.
    pub fn units(&self) -> Units {
        Units::of_codes(
            self.pressure.as_deref(),
            self.temperature.as_deref(),
            self.vacuum.as_deref(),
        )
    }
}

/// Which rows of the table of readings.
#[derive(Debug, Clone, Default, Deserialize, IntoParams)]
pub struct RowsQuery {
    /// all, doubtful, typed or struck; none: all.
    pub rows: Option<String>,
    /// Those before this, ms since 1970 UTC.
    pub before_ms: Option<i64>,
}

impl RowsQuery {
    /// The rows that are asked for.
    pub fn rows(&self) -> Result<Rows, Refusal> {
        Rows::of(self.rows.as_deref())
    }
}

#[derive(Debug, Deserialize, IntoParams)]
pub struct FileQuery {
    /// Name of the file, for messages.
    pub file: Option<String>,
}

/// How a record is printed.
#[derive(Debug, Clone, Default, Deserialize, IntoParams)]
pub struct PrintQuery {
    /// For whom: owner, inspector, maker, regulator, technician, all.
    pub reader: Option<String>,
    /// a4 or letter.
    pub paper: Option<String>,
    /// Which visit, from 1; none: the last one.
    pub visit: Option<usize>,
    /// Minutes east of UTC, for the times on it.
    pub offset: Option<i32>,
    pub pressure: Option<String>,
    pub temperature: Option<String>,
    pub vacuum: Option<String>,
}

impl PrintQuery {
    /// The units, as [`UnitsQuery::units`].
    pub fn units(&self) -> Units {
        UnitsQuery {
            pressure: self.pressure.clone(),
            temperature: self.temperature.clone(),
            vacuum: self.vacuum.clone(),
        }
        .units()
    }
}

/// What is searched for.
#[derive(Debug, Clone, Default, Deserialize, IntoParams)]
pub struct SearchQuery {
    /// Words that must all be there.
    pub q: Option<String>,
    /// Signed in this state.
    pub state: Option<String>,
    /// Signed (else taken on) from this day on, ms since 1970 UTC.
    pub from_ms: Option<i64>,
    /// Before this moment.
    pub to_ms: Option<i64>,
}

/// From where on a bag is wanted.
#[derive(Debug, Clone, Default, Deserialize, IntoParams)]
pub struct BagQuery {
    /// So many entries are known already.
    pub seq: Option<u64>,
    /// The cursor of the last bag.
    pub after: Option<i64>,
}

/// What a page shows, so that it is told only of that.
#[derive(Debug, Clone, Default, Deserialize, IntoParams)]
pub struct LiveQuery {
    /// One circuit; none: all.
    pub circuit: Option<String>,
}
