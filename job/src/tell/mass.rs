//! A mass in every form, and one that is being typed.

use crate::charge::{Slip, slips};
use crate::refusal::Refusal;
use crate::survey::Typed;
use ruhe_core::quantity::Mass;
use serde::{Deserialize, Serialize};

/// A mass in every form.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct MassView {
    pub g: f64,
    /// g, kg, oz, lb, lb and oz.
    pub forms: Vec<String>,
    /// As sentences give it.
    pub words: String,
}

impl From<Mass> for MassView {
    fn from(m: Mass) -> Self {
        Self {
            g: m.g(),
            forms: m.forms(),
            words: m.words(),
        }
    }
}

/// A mass that is being typed, and what else may be meant.
#[derive(Debug, Clone, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct MassInput {
    pub mass: Typed,
    /// What is expected, g, and what speaks for it.
    pub expected_g: Option<f64>,
    #[serde(default)]
    pub speaks: String,
}

#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct MassRead {
    pub mass: MassView,
    pub slips: Vec<Slip>,
}

/// Reads a mass that is being typed.
///
/// # Errors
/// What is wrong with it.
pub fn read_mass(b: &MassInput) -> Result<MassRead, Refusal> {
    let m = crate::charge::mass(&b.mass, "mass")?;
    let expected = b.expected_g.map(|g| (Mass::from_g(g), b.speaks.as_str()));
    Ok(MassRead {
        slips: slips(&b.mass, expected),
        mass: m.into(),
    })
}
