//! Confirming a step; answering for a gate without its evidence.

use crate::log::{Confirmed, Deed, Overridden};
use crate::procedure::Step;
use crate::refusal::{Refusal, clipped, filled};
use crate::signoff::GateCode;
use crate::state::Circuit;
use serde::Deserialize;

/// Longest note, letters.
const NOTE: usize = 2_000;

/// A step that is confirmed.
#[derive(Debug, Clone, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct StepInput {
    /// Which.
    pub step: Step,
    /// In words.
    #[serde(default)]
    pub note: String,
    /// When, if not now: ms since 1970 UTC.
    pub at_ms: Option<i64>,
}

/// A gate that is answered for.
#[derive(Debug, Clone, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct OverrideInput {
    /// Which.
    pub gate: GateCode,
    /// A reason of those offered.
    pub preset: String,
    /// In words.
    #[serde(default)]
    pub words: String,
}

/// Confirms a step.
///
/// # Errors
/// If refrigerant would be let out, or the circuit is signed.
pub fn confirm(c: &Circuit, b: &StepInput, now: i64) -> Result<Vec<Deed>, Refusal> {
    c.must_be_open()?;
    if let Some(test) = c.refrigerant_in().filter(|_| b.step == Step::Released) {
        return Err(Refusal::wrong(
            "step",
            format!(
                "refrigerant or tracer is in the gas of {test}: recover it into a cylinder and confirm that; it is not let out"
            ),
        ));
    }
    Ok(vec![Deed::Confirmed(Confirmed {
        step: b.step,
        note: clipped(&b.note, NOTE),
        at_ms: super::happened_at("at_ms", b.at_ms, now)?,
    })])
}

/// Overrides a gate with a written reason that prints on the record.
///
/// # Errors
/// If the reason is missing, or the circuit is signed.
pub fn override_gate(c: &Circuit, b: &OverrideInput) -> Result<Vec<Deed>, Refusal> {
    c.must_be_open()?;
    if b.preset.trim().is_empty() {
        return Err(Refusal::wrong("preset", "choose a reason"));
    }
    if b.preset.contains("see words") {
        filled("words", &b.words, NOTE)
            .map_err(|_| Refusal::wrong("words", "this reason needs words"))?;
    }
    Ok(vec![Deed::Overridden(Overridden {
        gate: b.gate,
        preset: b.preset.trim().into(),
        words: clipped(&b.words, NOTE),
    })])
}
