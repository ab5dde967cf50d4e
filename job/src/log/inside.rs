//! What an entry can say of what is inside: a reading outside any test, and what both sides showed after a release.
#![allow(missing_docs)] // a field says what its name says

use crate::survey::Typed;
use ruhe_core::named;
use serde::{Deserialize, Serialize};

named! {
    /// Where a gauge sat.
    GaugeSide {
        /// On the high side: liquid, discharge.
        High = "high",
        /// On the low side: suction.
        Low = "low",
        /// On both, joined at the manifold, or on the only port there is.
        Both = "both",
    }
}

named! {
    /// What somebody knows to be in a space besides. It only ever adds to what may be in it.
    Besides {
        /// Air.
        Air = "air",
        /// Nitrogen.
        Nitrogen = "nitrogen",
        /// Refrigerant.
        Refrigerant = "refrigerant",
    }
}

impl GaugeSide {
    /// Name on screen.
    pub fn title(self) -> &'static str {
        match self {
            Self::High => "high side",
            Self::Low => "low side",
            Self::Both => "both, joined at the manifold, or the only port",
        }
    }
}
impl Besides {
    /// What is said of it on screen.
    pub fn title(self) -> &'static str {
        match self {
            Self::Air => "air may be in it too",
            Self::Nitrogen => "nitrogen may be in it too",
            Self::Refrigerant => "refrigerant may be in it too",
        }
    }
}

/// A pressure as a gauge showed it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Left {
    /// Section; none: the only one under test.
    #[serde(default)]
    pub section: Option<String>,
    pub side: GaugeSide,
    pub pressure: Typed,
}

/// A reading outside any test.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Seen {
    pub left: Left,
    /// What somebody knows to be in it besides.
    pub besides: Option<Besides>,
    /// When, ms since 1970 UTC.
    pub at_ms: i64,
}

/// A valve of the survey that was moved.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ValveMove {
    /// As the survey names it; empty: a valve of the rig.
    pub valve: String,
    pub is_open: bool,
}
