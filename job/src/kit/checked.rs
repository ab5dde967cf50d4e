//! The last check of a rig.

use crate::state::Circuit;
use ruhe_core::judge::Finding;
use serde::{Deserialize, Serialize};

/// The last finished check of a rig: which one, and what was found.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct RigChecked {
    /// Which one, from 1.
    pub attempt: u32,
    /// What was found, without what is only drawn.
    pub finding: Finding,
}

impl RigChecked {
    /// From the circuit of a rig's tests; `None`: none has ended.
    #[must_use]
    pub fn of(rig: &Circuit) -> Option<Self> {
        let last = rig.tests.iter().rev().find(|t| t.is_over())?;
        Some(Self {
            attempt: last.attempt,
            finding: last.finding().undrawn(),
        })
    }
}
