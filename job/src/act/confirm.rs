//! Confirming a step; answering for a gate without its evidence.

use super::inside::{Asking, check_all_left, stopped};
use crate::log::{Confirmed, Deed, Left, Overridden};
use crate::procedure::Step;
use crate::refusal::{Refusal, clipped, filled};
use crate::signoff::GateCode;
use crate::state::Circuit;
use ruhe_core::quantity::Units;
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
    /// What the gauges showed afterwards: of a release or a recovery.
    #[serde(default)]
    pub left: Vec<Left>,
    /// When, if not now: ms since 1970 UTC.
    pub at_ms: Option<i64>,
}

/// A gate that is answered for.
#[derive(Debug, Clone, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct OverrideInput {
    /// Which.
    pub gate: GateCode,
    /// Why it was not done, in one's own words.
    pub words: String,
    /// Whoever says so may answer for it: never taken from what was sent.
    #[serde(skip)]
    pub may_answer: bool,
}

/// Confirms a step.
///
/// # Errors
/// If refrigerant would be let out, a charge would meet what it must not, or the circuit is signed.
pub fn confirm(c: &Circuit, b: &StepInput, now: i64) -> Result<Vec<Deed>, Refusal> {
    c.must_be_open()?;
    let at_ms = super::happened_at("at_ms", b.at_ms, now)?;
    if c.job().is_system() {
        may_confirm(c, b, at_ms)?;
    }
    Ok(vec![Deed::Confirmed(Confirmed {
        step: b.step,
        note: clipped(&b.note, NOTE),
        left: b.left.clone(),
        at_ms,
    })])
}

fn may_confirm(c: &Circuit, b: &StepInput, at_ms: i64) -> Result<(), Refusal> {
    let a = Asking::at(c, at_ms);
    let names: Vec<String> = b.left.iter().filter_map(|l| l.section.clone()).collect();
    match b.step {
        Step::Released => {
            a.contents
                .may_let_out(&names, a.units)
                .map_err(stopped("step"))?;
            check_all_left(c, &b.left)
        }
        Step::Recovered => check_all_left(c, &b.left),
        Step::StemsOpen => {
            let proven = c.is_proven();
            for p in c.passages() {
                a.contents
                    .may_join(&p, proven, a.units)
                    .map_err(stopped("step"))?;
            }
            Ok(())
        }
        Step::VacuumBroken => Err(Refusal::wrong(
            "step",
            "say with what the vacuum was broken, and what the gauges showed afterwards",
        )),
        _ => Ok(()),
    }
}

/// Fewest letters of a reason: a word is none.
const REASON: usize = 12;

/// Says that what a gate asks for was not done, and why, in one's own words; it prints. It counts when somebody answers
/// for it who may.
///
/// # Errors
/// If the reason is missing, the gate is one that nobody can answer for, or the circuit is signed.
pub fn override_gate(c: &Circuit, b: &OverrideInput) -> Result<Vec<Deed>, Refusal> {
    c.must_be_open()?;
    let words = filled("words", &b.words, NOTE)?;
    if words.chars().count() < REASON {
        return Err(Refusal::wrong(
            "words",
            "say in a sentence of your own why it was not done: it prints",
        ));
    }
    let gates = c.gates(Units::default());
    let gate = gates.iter().find(|g| g.code == b.gate);
    if let Some(g) = gate.filter(|g| !g.met && !g.can_be_answered) {
        return Err(Refusal::wrong(
            "gate",
            format!("nobody can answer for that: {}", g.evidence),
        ));
    }
    Ok(vec![Deed::Overridden(Overridden {
        gate: b.gate,
        words,
        is_answered: b.may_answer,
    })])
}

/// Answers for what another said was not done. Nothing: it is answered for already.
///
/// # Errors
/// If there is no such override, or the circuit is signed.
pub fn approve(c: &Circuit, entry: &str) -> Result<Vec<Deed>, Refusal> {
    c.must_be_open()?;
    let o = c
        .overrides
        .iter()
        .find(|o| o.id == entry)
        .ok_or_else(|| Refusal::Missing("override".into()))?;
    if c.is_answered(o) {
        return Ok(vec![]);
    }
    Ok(vec![Deed::Approved {
        entry: entry.into(),
    }])
}
