//! What an entry can say around a signature: consents, what it carries, witnesses, words added, the next visit.

use crate::procedure::JobKind;
use crate::signoff::{Carried, Reservation};
use serde::{Deserialize, Serialize};

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
