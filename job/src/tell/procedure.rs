//! Procedures: the built-in ones, and those of one's own.

use crate::plan::HABIT;
use crate::procedure::{
    DECAY_SCHOOLS, EVACUATION_SCHOOLS, HOLD_SCHOOLS, SCHOOLS_VERSION, SHARE as SHARE_OF_PLATE,
};
use crate::state::Procedures;
use ruhe_core::quantity::Unit;
use ruhe_core::reading::Kind;
use serde::{Deserialize, Serialize};

/// A procedure of one's own.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ProcedureInput {
    /// Of an earlier version; none: a new procedure.
    pub code: Option<String>,
    pub title: String,
    /// For a hold, a pull-down or a decay.
    pub kind: Kind,
    /// Pa gauge for a hold, Pa absolute for a decay.
    pub pressure_pa: Option<f64>,
    /// A hold at this share of the lowest plate.
    pub share_of_plate: Option<f64>,
    pub time_s: f64,
    pub start_max_pa: Option<f64>,
    /// Targets of an evacuation's pulls, Pa absolute; between two the vacuum is broken with nitrogen.
    #[serde(default)]
    pub targets_pa: Vec<f64>,
    #[serde(default)]
    pub gives_up: String,
    /// Maker's page, code, habit.
    pub source: String,
    /// Somebody has checked it against the maker and the local code.
    #[serde(default)]
    pub is_verified: bool,
}

/// A procedure.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SchoolView {
    pub code: String,
    pub title: String,
    pub kind: Kind,
    pub gives_up: String,
    /// Pa; none: from the plate.
    pub pressure_pa: Option<f64>,
    pub share_of_plate: Option<f64>,
    pub time_s: f64,
    pub start_max_pa: Option<f64>,
    /// Targets of an evacuation's pulls, Pa absolute.
    pub targets_pa: Vec<f64>,
    pub version: String,
    pub source: String,
    pub is_verified: bool,
    pub is_own: bool,
}

fn built_in() -> Vec<SchoolView> {
    let holds = HOLD_SCHOOLS.iter().map(|s| SchoolView {
        code: s.code.into(),
        title: s.title.into(),
        kind: Kind::PressureHold,
        gives_up: s.gives_up.into(),
        pressure_pa: s.psig.map(|p| Unit::Psig.to_si(p)),
        share_of_plate: s.psig.is_none().then_some(SHARE_OF_PLATE),
        time_s: s.minutes * 60.0,
        start_max_pa: None,
        targets_pa: vec![],
        version: SCHOOLS_VERSION.into(),
        source: HABIT.into(),
        is_verified: false,
        is_own: false,
    });
    let decays = DECAY_SCHOOLS.iter().map(|s| SchoolView {
        code: s.code.into(),
        title: s.title.into(),
        kind: Kind::VacuumDecay,
        gives_up: s.gives_up.into(),
        pressure_pa: Some(Unit::Micron.to_si(s.micron)),
        share_of_plate: None,
        time_s: s.minutes * 60.0,
        start_max_pa: s.start_max.map(|m| Unit::Micron.to_si(m)),
        targets_pa: vec![],
        version: SCHOOLS_VERSION.into(),
        source: HABIT.into(),
        is_verified: false,
        is_own: false,
    });
    let pulls = EVACUATION_SCHOOLS.iter().map(|s| SchoolView {
        code: s.code.into(),
        title: s.title.into(),
        kind: Kind::PullDown,
        gives_up: s.gives_up.into(),
        pressure_pa: None,
        share_of_plate: None,
        time_s: 0.0,
        start_max_pa: None,
        targets_pa: s.targets(),
        version: SCHOOLS_VERSION.into(),
        source: HABIT.into(),
        is_verified: false,
        is_own: false,
    });
    holds.chain(pulls).chain(decays).collect()
}

/// The built-in procedure of this code.
#[must_use]
pub fn is_built_in(code: &str) -> bool {
    built_in().iter().any(|b| b.code == code)
}

/// All procedures: one's own newest versions first, then the built-in ones.
#[must_use]
pub fn schools(own: &Procedures) -> Vec<SchoolView> {
    let mine = own.own.iter().map(|(code, version, p)| SchoolView {
        code: code.clone(),
        title: p.title.clone(),
        kind: p.kind,
        gives_up: p.gives_up.clone(),
        pressure_pa: p.pressure_pa,
        share_of_plate: p.share_of_plate,
        time_s: p.time_s,
        start_max_pa: p.start_max_pa,
        targets_pa: p.targets_pa.clone(),
        version: version.to_string(),
        source: p.source.clone(),
        is_verified: p.is_verified,
        is_own: true,
    });
    mine.chain(built_in()).collect()
}
