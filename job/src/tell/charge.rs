//! The charge: what the maker wants, the number to stop at.

use super::mass::MassView;
use crate::charge::{ScaleInput, Slip, Stop, TargetDoc, stop, target};
use crate::refusal::Refusal;
use crate::state::Circuit;
use ruhe_core::quantity::Mass;
use serde::Serialize;

/// A part of a target.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PartView {
    pub words: String,
    pub mass: MassView,
}

/// A slip at a field of a document.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SlipView {
    pub field: String,
    pub slip: Slip,
}

/// What the maker wants, worked out.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct TargetView {
    pub parts: Vec<PartView>,
    pub total: MassView,
    pub inside: Option<MassView>,
    pub tolerance: MassView,
    pub tolerance_words: String,
    pub stops: Vec<String>,
    pub remarks: Vec<String>,
    pub slips: Vec<SlipView>,
}

impl From<crate::charge::Target> for TargetView {
    fn from(t: crate::charge::Target) -> Self {
        Self {
            parts: t
                .parts
                .into_iter()
                .map(|(words, mass)| PartView {
                    words,
                    mass: mass.into(),
                })
                .collect(),
            total: t.total.into(),
            inside: t.inside.map(Into::into),
            tolerance: t.tolerance.into(),
            tolerance_words: t.tolerance_words,
            stops: t.stops,
            remarks: t.remarks,
            slips: t
                .slips
                .into_iter()
                .map(|(field, slip)| SlipView { field, slip })
                .collect(),
        }
    }
}

/// A target that is being typed.
///
/// # Errors
/// What cannot be read, with its field.
pub fn tried_target(c: &Circuit, d: &TargetDoc) -> Result<TargetView, Refusal> {
    Ok(target(d, c.refrigerant(), &c.known_of_target())
        .map_err(|e| e.within("target"))?
        .into())
}

/// The number to stop at.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct StopView {
    pub stop: String,
    pub throttle: String,
    pub adds: MassView,
    pub to_add: MassView,
    pub words: Vec<String>,
}

/// Where to stop to bring a circuit to its target.
///
/// # Errors
/// What cannot be read, with its field; no target, or one that is stopped; nothing left to add.
pub fn tried_stop(c: &Circuit, b: &ScaleInput) -> Result<StopView, Refusal> {
    let t = c
        .charge_target()
        .ok_or_else(|| Refusal::Conflict("say first what the maker wants".into()))?;
    if let Some(why) = t.stops.first() {
        return Err(Refusal::Conflict(why.clone()));
    }
    let (s, _) = c.ledger_sum();
    let add = Mass::from_g(t.total.g() - s.inside.g());
    let Stop {
        stop,
        throttle,
        adds,
        words,
        ..
    } = stop(b, add, c.refrigerant())?;
    Ok(StopView {
        stop,
        throttle,
        adds: adds.into(),
        to_add: add.into(),
        words,
    })
}
