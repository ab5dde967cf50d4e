//! The log: everything that decides is an entry, added and never changed, chained to the one before.
//!
//! Each circuit has a log of its own; so have the kit, the sites and the procedures. An entry says what was done, by
//! whom, on which device, by which clocks. Its bytes are its JSON in the canonical form of RFC 8785; its hash is the
//! SHA-256 of those bytes, and the next entry carries it. Readings lie beside the log: the end of a test seals them
//! with a digest.

mod chain;
mod charge;
mod correct;
mod deed;
mod digest;
mod format;
mod inside;
mod ports;
mod signoff;
mod startup;

pub use chain::{Chain, Fault, check, exactly, parse};
pub use charge::{Arrived, Broken, Targeted, Weighed};
pub use correct::{Corrected, Is, MovedAway};
pub use deed::{
    Confirmed, Deed, Ended, GateSigned, HouseDeed, Looked, Marked, Mended, Opened, Overridden,
    Planned, PlannedChannel, Seal, Signed,
};
pub use digest::{ReadingLine, hex, readings_digest, sha256};
pub use ports::PortsKept;
pub use signoff::{Added, Carries, Consented, Countersigned, Visited};
pub use startup::Measured;

pub use format::{FORMAT, Later, Newer, WRITER, read};
pub use inside::{Besides, GaugeSide, Left, Seen, ValveMove};

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
    /// Number of the form it is written in.
    pub format: u32,
    /// What wrote it: the program and its version.
    pub ruhe: String,
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

/// Why an entry cannot be kept.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum Unkept {
    /// It would not be read back as it was said.
    #[error("this cannot be kept: {0}")]
    Unreadable(String),
    /// A later version wrote on.
    #[error(transparent)]
    Newer(Newer),
}

/// The largest whole number that a double, and so RFC 8785, carries exactly: 2⁵³ − 1.
const EXACT: u64 = (1 << 53) - 1;

/// Refuses whole numbers that would come back as others.
fn must_be_exact(value: &serde_json::Value) -> Result<(), Unkept> {
    use serde_json::Value;
    match value {
        Value::Number(n) => {
            let size = n.as_u64().or_else(|| n.as_i64().map(i64::unsigned_abs));
            if size.is_some_and(|s| s > EXACT) {
                return Err(Unkept::Unreadable(format!("{n} is larger than 2⁵³ − 1")));
            }
            Ok(())
        }
        Value::Array(all) => all.iter().try_for_each(must_be_exact),
        Value::Object(all) => all.values().try_for_each(must_be_exact),
        Value::Null | Value::Bool(_) | Value::String(_) => Ok(()),
    }
}

impl Entry {
    /// Its canonical bytes (RFC 8785).
    ///
    /// # Errors
    /// If a number in it is not finite, or is a whole one that the form cannot carry.
    pub fn canonical(&self) -> Result<String, Unkept> {
        // By way of a value: one set of code for the canonical form and for what is shown, which a phone has to load.
        let value = serde_json::to_value(self).map_err(|e| Unkept::Unreadable(e.to_string()))?;
        must_be_exact(&value)?;
        serde_jcs::to_string(&value).map_err(|e| Unkept::Unreadable(e.to_string()))
    }
}
