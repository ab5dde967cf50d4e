//! What an entry can say of the running unit.

use crate::startup::SetDoc;
use serde::{Deserialize, Serialize};

/// A reading set of the running unit.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[allow(missing_docs)]
pub struct Measured {
    pub set: SetDoc,
    /// When, ms since 1970 UTC.
    pub at_ms: i64,
}
