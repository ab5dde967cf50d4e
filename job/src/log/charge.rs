//! What an entry can say of the charge: how a system was found, what the maker wants, what was weighed, how the vacuum
//! was broken.

use crate::charge::{ArrivalDoc, RowDoc, TargetDoc};
use crate::procedure::BreakDoc;
use serde::{Deserialize, Serialize};

/// How a system was found, whole; a later one replaces it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[allow(missing_docs)]
pub struct Arrived {
    pub arrival: ArrivalDoc,
    /// When, ms since 1970 UTC.
    pub at_ms: i64,
}

/// What the maker wants inside, whole; a later one replaces it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[allow(missing_docs)]
pub struct Targeted {
    pub target: TargetDoc,
    /// When, ms since 1970 UTC.
    pub at_ms: i64,
}

/// A row of the ledger.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[allow(missing_docs)]
pub struct Weighed {
    pub row: RowDoc,
    /// When, ms since 1970 UTC.
    pub at_ms: i64,
}

/// The vacuum was broken.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[allow(missing_docs)]
pub struct Broken {
    pub broken: BreakDoc,
    /// When, ms since 1970 UTC.
    pub at_ms: i64,
}
