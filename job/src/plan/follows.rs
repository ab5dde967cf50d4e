//! The procedure that a plan follows, as it was then.

use crate::procedure::{DECAY_SCHOOLS, EVACUATION_SCHOOLS, HOLD_SCHOOLS, SCHOOLS_VERSION};
use crate::tell::ProcedureInput;
use ruhe_core::quantity::Unit;
use ruhe_core::reading::Kind;
use serde::{Deserialize, Serialize};

/// Where the built-in procedures come from.
pub const HABIT: &str = "common practice";

/// A procedure of the house: its code, its version, what it says.
pub type OwnProcedure = (String, u32, ProcedureInput);

/// What a test followed.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ProcedureUsed {
    /// Its name.
    pub title: String,
    /// Where it comes from.
    pub source: String,
    /// Its version.
    pub version: String,
    /// Somebody has checked it against the maker and the local code.
    pub is_verified: bool,
    /// The pressure it asks for: Pa gauge of a hold, Pa absolute of a decay; none: a share of the plate, or none at
    /// all.
    pub asks_pa: Option<f64>,
}

impl ProcedureUsed {
    /// Where a limit comes from that it gives, in words.
    #[must_use]
    pub fn words(&self) -> String {
        let checked = if self.is_verified {
            "checked"
        } else {
            "a rule of thumb"
        };
        format!("{} ({}, {checked})", self.title, self.source)
    }
}

/// The procedure of this code; `None`: there is none for such a test.
#[must_use]
pub fn procedure_used(own: &[OwnProcedure], kind: Kind, code: &str) -> Option<ProcedureUsed> {
    if let Some((_, version, p)) = own.iter().find(|o| o.0 == code && o.2.kind == kind) {
        return Some(ProcedureUsed {
            title: p.title.clone(),
            source: p.source.clone(),
            version: version.to_string(),
            is_verified: p.is_verified,
            asks_pa: p.pressure_pa,
        });
    }
    let (title, asks_pa) = match kind {
        Kind::PressureHold => {
            let s = HOLD_SCHOOLS.iter().find(|s| s.code == code)?;
            (s.title, s.psig.map(|p| Unit::Psig.to_si(p)))
        }
        Kind::VacuumDecay => {
            let s = DECAY_SCHOOLS.iter().find(|s| s.code == code)?;
            (s.title, Some(Unit::Micron.to_si(s.micron)))
        }
        Kind::PullDown => (
            EVACUATION_SCHOOLS.iter().find(|s| s.code == code)?.title,
            None,
        ),
        Kind::RigCheck | Kind::LeakBy => return None,
    };
    Some(ProcedureUsed {
        title: title.into(),
        source: HABIT.into(),
        version: SCHOOLS_VERSION.into(),
        is_verified: false,
        asks_pa,
    })
}
