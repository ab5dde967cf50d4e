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
    #[serde(default)]
    pub note: String,
    pub photo_id: Option<String>,
}

#[derive(Debug, Deserialize, ToSchema)]
pub struct RepairInput {
    pub place: String,
    pub cause: String,
    #[serde(default)]
    pub words: String,
    pub torque_nm: Option<f64>,
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
    pub state: String,
    pub state_title: String,
    pub is_open: bool,
    pub log: Vec<LookView>,
}

#[derive(Debug, Serialize, ToSchema)]
pub struct SearchView {
    pub places: Vec<PlaceView>,
    /// How many nobody has looked at.
    pub not_looked: usize,
    /// What a re-test has to be like, if a hold fell.
    pub retest: Option<String>,
    /// Highest pressure that showed a leak, Pa gauge.
    pub found_pa: Option<f64>,
}

#[derive(Debug, Serialize, ToSchema)]
pub struct MethodView {
    pub code: String,
    pub title: String,
    pub hint: String,
    /// Shortest look that says something, s; 0: any.
    pub least_s: f64,
}
