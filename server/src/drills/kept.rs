//! What is kept of a drill: from it the plant is worked out again.

use super::debrief::ResultView;
use crate::error::ApiError;
use crate::key::keep_secret;
use ruhe_drill::{Decision, Did, Level, Scenario, Speed};
use serde::{Deserialize, Serialize};
use std::path::Path;

/// Name of the file.
pub const FILE: &str = "drill.json";

/// Who works a drill.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct Learner {
    /// Id of the person, where people are known.
    pub person: Option<String>,
    /// Their name, or of the device.
    pub name: String,
}

/// See [`self`].
#[derive(Debug, Clone, Serialize, Deserialize)]
pub struct Kept {
    pub id: String,
    pub who: Learner,
    pub level: Level,
    pub scenario: Scenario,
    /// The practice circuit.
    pub circuit: String,
    pub begun_ms: i64,
    /// How far its clock is, s.
    pub at_s: f64,
    pub speed: Speed,
    pub did: Vec<Did>,
    pub decided: Option<(f64, Decision)>,
    /// How often Ruhe's words were looked at.
    pub looks: u32,
    /// Once it is over.
    pub result: Option<ResultView>,
}

impl Kept {
    /// That of a folder.
    pub fn load(folder: &Path) -> Result<Self, ApiError> {
        let inside = |e: &dyn std::fmt::Display| ApiError::Inside(e.to_string());
        let text = std::fs::read_to_string(folder.join(FILE)).map_err(|e| inside(&e))?;
        serde_json::from_str(&text).map_err(|e| inside(&e))
    }
    /// Written beside and put in its place, so that there is always a whole one.
    pub fn save(&self, folder: &Path) -> Result<(), ApiError> {
        let inside = |e: &dyn std::fmt::Display| ApiError::Inside(e.to_string());
        let text = serde_json::to_string(self).map_err(|e| inside(&e))?;
        let new = folder.join("drill.json.new");
        let _ = std::fs::remove_file(&new);
        keep_secret(&new, text.as_bytes()).map_err(ApiError::Inside)?;
        std::fs::rename(&new, folder.join(FILE)).map_err(|e| inside(&e))
    }
}
