//! What was assumed, dropped or thinned when a recording was read from a file: typed, and put into words when it is shown.

use serde::{Deserialize, Serialize};
use std::fmt;

/// See [`self`].
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(tag = "remark", rename_all = "snake_case")]
pub enum Remark {
    /// Readings that stood there more than once.
    Duplicates {
        /// So many.
        count: usize,
    },
    /// A field of the descriptor that nobody knows.
    Unknown {
        /// Its path below "ruhe".
        field: String,
    },
    /// A refrigerant that is in no table.
    Refrigerant {
        /// As it was written.
        name: String,
    },
    /// Volume shares of the temperatures that do not make one.
    Shares {
        /// Their sum.
        sum: f64,
    },
    /// One row in so many was taken.
    Thinned {
        /// In so many.
        every: u32,
        /// Of this file.
        file: String,
    },
}

impl fmt::Display for Remark {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Duplicates { count } => {
                write!(f, "{count} exact duplicate readings were counted once.")
            }
            Self::Unknown { field } => write!(
                f,
                "“ruhe.{field}” in datapackage.json is no field that is known: it was left out and decides nothing."
            ),
            Self::Refrigerant { name } => write!(
                f,
                "The refrigerant “{name}” is not in Ruhe’s tables: nothing is worked out with it."
            ),
            Self::Shares { sum } => write!(
                f,
                "The volume shares of the temperatures sum to {sum:.2}; they were scaled to 1."
            ),
            Self::Thinned { every, file } => write!(
                f,
                "One row in {every} of {file} was taken: it holds more readings than a test takes."
            ),
        }
    }
}
