//! What an entry can say of the second half of a job: arrival, charge, ports, start-up, sign-off, visits.

use crate::charge::{ArrivalDoc, RowDoc, TargetDoc};
use crate::ports::PortsDoc;
use crate::procedure::{BreakDoc, JobKind};
use crate::signoff::{Carried, Reservation};
use crate::startup::SetDoc;
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

/// The register of ports, whole, in its next version.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[allow(missing_docs)]
pub struct PortsKept {
    pub version: i64,
    pub ports: PortsDoc,
    /// When, ms since 1970 UTC.
    pub at_ms: i64,
}

/// A reading set of the running unit.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[allow(missing_docs)]
pub struct Measured {
    pub set: SetDoc,
    /// When, ms since 1970 UTC.
    pub at_ms: i64,
}

/// Somebody agreed, or did not, to what was put to them.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[allow(missing_docs)]
pub struct Consented {
    /// The repair that was asked about, by its entry; none: something else.
    pub repair: Option<String>,
    pub question: String,
    pub options: String,
    /// In plain words.
    pub risk: String,
    /// They agreed.
    pub is_agreed: bool,
    pub answer: String,
    pub name: String,
    /// Who said that it was them, where the name is of nobody known; none: nobody was known at all.
    pub said_by: Option<String>,
    /// The signature as a path of an SVG; empty: by telephone.
    pub drawing: String,
    /// When, ms since 1970 UTC.
    pub at_ms: i64,
}

/// How a visit was signed beyond its state: what that state must carry.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[allow(missing_docs)]
pub struct Carries {
    pub carried: Carried,
    pub reservations: Vec<Reservation>,
    /// The signature as a path of an SVG, if it was drawn.
    pub drawing: String,
}

/// A witness signed too.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[allow(missing_docs)]
pub struct Countersigned {
    pub name: String,
    pub role: String,
    pub statement: String,
    pub drawing: String,
    /// Who said that it was them, where they did not confirm it themselves.
    pub said_by: Option<String>,
    /// When, by the clock of who keeps the log, ms since 1970 UTC.
    pub at_ms: i64,
    /// When by the device's own word, where that is another time.
    pub device_ms: Option<i64>,
}

/// Words added to a signed visit.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[allow(missing_docs)]
pub struct Added {
    pub name: String,
    pub words: String,
    /// What was outstanding is done.
    pub completes: bool,
    /// When, by the clock of who keeps the log, ms since 1970 UTC.
    pub at_ms: i64,
    /// When by the device's own word, where that is another time.
    pub device_ms: Option<i64>,
}

/// Somebody came back: the next visit.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[allow(missing_docs)]
pub struct Visited {
    pub reason: String,
    pub job: JobKind,
    /// When, ms since 1970 UTC.
    pub at_ms: i64,
}
