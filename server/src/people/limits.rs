//! How large a body may be, and how long it may take: by address, known before the first byte of it is read.

use std::time::Duration;

/// Limits of one request's body.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Limits {
    /// Most bytes.
    pub bytes: usize,
}

const KB: usize = 1 << 10;
const MB: usize = 1 << 20;

/// Bytes that a body has to bring a second, after a start: a poor mobile network brings ten times as much.
const SLOWEST: u64 = 4 << 10;
/// The start.
const START: Duration = Duration::from_secs(20);
/// Longest silence within a body.
pub const SILENCE: Duration = Duration::from_secs(15);

impl Limits {
    /// Those of an address.
    #[must_use]
    pub fn of(method: &str, pattern: &str) -> Self {
        let last = pattern.rsplit('/').next().unwrap_or_default();
        let bytes = match (method, last) {
            // Before anybody is known, and what is about people: a name and a password.
            _ if [
                "/api/session",
                "/api/pairing",
                "/api/people",
                "/api/devices",
            ]
            .iter()
            .any(|p| pattern.starts_with(p)) =>
            {
                4 * KB
            }
            ("POST", "packages") => 20 * MB,
            // A logger's file as it is; what is said of it later is small.
            ("POST", "csv") if pattern == "/api/csv" => 50 * MB,
            ("POST", "photos") => 8 * MB,
            ("POST", "door") => 512 * KB,
            ("POST", "readings") => 4 * MB,
            _ => MB,
        };
        Self { bytes }
    }

    /// How long a body may have taken by the time so many bytes of it came.
    #[must_use]
    pub fn until(bytes: usize) -> Duration {
        START + Duration::from_secs(bytes as u64 / SLOWEST)
    }
}
