//! The log: everything that decides is an entry, added and never changed, chained to the one before.
//!
//! Each circuit has a log of its own; so have the kit, the sites and the procedures. An entry says what was done, by
//! whom, on which device, by which clocks. Its bytes are its JSON in the canonical form of RFC 8785; its hash is the
//! SHA-256 of those bytes, and the next entry carries it. Readings lie beside the log: the end of a test seals them with
//! a digest.

mod chain;
mod deed;
mod digest;
mod finish;

pub use chain::{Chain, Fault, check, parse};
pub use deed::{
    Confirmed, Deed, Ended, Looked, Marked, Mended, Opened, Overridden, Planned, PlannedChannel,
    Seal, Signed,
};
pub use digest::{ReadingLine, hex, readings_digest, sha256};
pub use finish::{
    Added, Arrived, Broken, Carries, Consented, Countersigned, Measured, PortsKept, Targeted,
    Visited, Weighed,
};

use serde::{Deserialize, Serialize};

/// The log of the kit.
pub const KIT: &str = "kit";
/// The log of sites and systems.
pub const SITES: &str = "sites";
/// The log of procedures of one's own.
pub const PROCEDURES: &str = "procedures";

/// One entry of a log.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Entry {
    /// Which log.
    pub log: String,
    /// Its place in it, from 1.
    pub seq: u64,
    /// Made where it was said, so that sending twice keeps once.
    pub id: String,
    /// Who said it.
    pub actor: String,
    /// On which device.
    pub device: String,
    /// That device's clock, ms since 1970 UTC.
    pub said_ms: i64,
    /// The clock of who keeps the log, ms since 1970 UTC.
    pub kept_ms: i64,
    /// Hash of the entry before; of the first, sixty-four zeros.
    pub before: String,
    /// What was done.
    #[serde(flatten)]
    pub deed: Deed,
}

/// Who does something, where and by which clock.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Who {
    /// Id of the first entry, made where it was said.
    pub id: String,
    /// A name.
    pub actor: String,
    /// A device.
    pub device: String,
    /// That device's clock; `None`: that of who keeps the log.
    pub said_ms: Option<i64>,
}

impl Entry {
    /// Its canonical bytes (RFC 8785).
    ///
    /// # Errors
    /// If a number in it is not finite.
    pub fn canonical(&self) -> Result<String, serde_json::Error> {
        // By way of a value: one set of code for the canonical form and for what is shown, which a phone has to load.
        serde_jcs::to_string(&serde_json::to_value(self)?)
    }
}
