//! SHA-256, and the digest that seals the readings of a test.

use serde::{Deserialize, Serialize};
use sha2::{Digest, Sha256};

/// Bytes as lower-case hexadecimal digits.
#[must_use]
pub fn hex(bytes: &[u8]) -> String {
    bytes.iter().map(|b| format!("{b:02x}")).collect()
}

/// SHA-256 of bytes, as hexadecimal digits.
#[must_use]
pub fn sha256(bytes: &[u8]) -> String {
    hex(&Sha256::digest(bytes))
}

/// A reading as it is sealed (a field that is added later is left out where it has no value, or no older seal would
/// fit): what was typed, when, how it came in. Those struck out are sealed with the rest.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ReadingLine {
    /// When it was read, ms since 1970 UTC.
    pub at_ms: i64,
    /// Its id.
    pub id: String,
    /// Channel, counted from 0 in the order of the plan.
    pub channel: u32,
    /// As typed.
    pub typed: String,
    /// The same as a number in the channel's unit.
    pub value: f64,
    /// live, later, corrected, imported or simulated.
    pub origin: String,
    /// Who read it; empty for a gauge that sends by itself, and where nobody is known by name.
    pub actor: String,
    /// On which device it was typed, or which gauge sent it.
    pub device: String,
    /// The device's clock when it was sent.
    pub client_ms: Option<i64>,
    /// The clock of who keeps it.
    pub received_ms: i64,
    /// The two clocks were apart.
    pub skewed: bool,
}

impl ReadingLine {
    /// As a line of the sealed file: its canonical JSON (RFC 8785) and a line feed.
    #[must_use]
    pub fn line(&self) -> String {
        serde_jcs::to_string(self).unwrap_or_default() + "\n"
    }
}

/// SHA-256 over the lines in the order of time and id.
#[must_use]
pub fn readings_digest(lines: &[ReadingLine]) -> String {
    let mut h = Sha256::new();
    for l in lines {
        h.update(l.line().as_bytes());
    }
    hex(&h.finalize())
}
