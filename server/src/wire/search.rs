//! The leak search: looks and repairs in, places with their state out.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

#[derive(Debug, Deserialize, ToSchema)]
pub struct LookInput {
    pub place: String,
    pub method: String,
    /// clear, suspect or leak.
    pub finding: String,
    pub dwell_s: Option<f64>,
    /// Pressure it was looked at under, Pa gauge; none: what the gauge of a running test showed last.
    pub at_pa: Option<f64>,
    /// Section it lies in; none: that of the joint of this name, or the only one under test.
    pub section: Option<String>,
    #[serde(default)]
    pub note: String,
    pub photo_id: Option<String>,
    /// When, if not now: ms since 1970 UTC.
    pub at_ms: Option<i64>,
}

#[derive(Debug, Deserialize, ToSchema)]
pub struct RepairInput {
    pub place: String,
    pub cause: String,
    #[serde(default)]
    pub words: String,
    pub torque_nm: Option<f64>,
    /// Section it lies in; none: as for a look.
    pub section: Option<String>,
    /// A flame or torch was used.
    #[serde(default)]
    pub with_torch: bool,
    /// 0 psig on both sides, vent open, and the rest of what comes before a flame.
    #[serde(default)]
    pub is_safe: bool,
    /// When, if not now: ms since 1970 UTC.
    pub at_ms: Option<i64>,
}

#[derive(Debug, Serialize, ToSchema)]
pub struct LookView {
    /// "look" or "repair".
    pub kind: String,
    /// What was done, in words.
    pub words: String,
    pub remark: Option<String>,
    pub photo_id: Option<String>,
    pub at_ms: i64,
}

#[derive(Debug, Serialize, ToSchema)]
pub struct PlaceView {
    pub name: String,
    /// Why it is listed: "made today", "usual for this job", "added".
    pub why: String,
    /// Sections it may lie in.
    pub sections: Vec<String>,
    pub state: String,
    pub state_title: String,
    pub is_open: bool,
    pub log: Vec<LookView>,
}

/// How high a section must be held again.
#[derive(Debug, Serialize, ToSchema)]
pub struct AgainView {
    pub section: String,
    /// Pa gauge.
    pub at_least_pa: f64,
    pub words: String,
    pub is_met: bool,
}

#[derive(Debug, Serialize, ToSchema)]
pub struct SearchView {
    pub places: Vec<PlaceView>,
    /// How many nobody has looked at.
    pub not_looked: usize,
    /// What re-tests have to be like, a section each.
    pub retests: Vec<AgainView>,
}

#[derive(Debug, Serialize, ToSchema)]
pub struct MethodView {
    pub code: String,
    pub title: String,
    pub hint: String,
    /// Shortest look that says something, s; 0: any.
    pub least_s: f64,
}
