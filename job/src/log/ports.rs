//! What an entry can say of the ports.

use crate::ports::PortsDoc;
use serde::{Deserialize, Serialize};

/// The register of ports, whole, in its next version.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[allow(missing_docs)]
pub struct PortsKept {
    pub version: i64,
    pub ports: PortsDoc,
    /// When, ms since 1970 UTC.
    pub at_ms: i64,
}
