//! Correcting what a job is, and moving a test to the circuit it was made on: with a reason, until the visit is signed.

use super::open::checked;
use crate::log::{Corrected, Deed, Is, MovedAway};
use crate::procedure::JobKind;
use crate::refusal::{Refusal, filled};
use crate::state::Circuit;
use ruhe_core::reading::Kind;
use serde::Deserialize;

/// What the circuit is, as it should have been written down.
#[derive(Debug, Clone, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CorrectionInput {
    /// What the system is called.
    pub system_name: String,
    /// Letter on the unit.
    pub tag: String,
    /// What it is called.
    pub name: String,
    /// Kind of job; of a later visit: what this visit is.
    pub kind: JobKind,
    /// Refrigerant.
    pub refrigerant: String,
    /// Safety class, of one that is not in the list; empty: nobody knows.
    #[serde(default)]
    pub safety_class: String,
    /// Model of the unit.
    #[serde(default)]
    pub model: String,
    /// Its serial number.
    #[serde(default)]
    pub serial: String,
    /// What is under test, in words.
    #[serde(default)]
    pub scope: String,
    /// Its volume, L, if known.
    pub volume_l: Option<f64>,
    /// Why.
    pub reason: String,
}

/// A test that was made on another circuit than the one it was entered on.
#[derive(Debug, Clone, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct MoveInput {
    /// The circuit it was made on.
    pub to: String,
    /// Its section there.
    pub section: Option<String>,
    /// Why.
    pub reason: String,
}

/// Corrects what the circuit is. Tests of this visit are judged again by it; what is signed stays as it was.
///
/// # Errors
/// What is missing or cannot be, with its field; nothing that differs; a signed visit.
pub fn correct(c: &Circuit, b: &CorrectionInput) -> Result<Vec<Deed>, Refusal> {
    c.must_be_open()?;
    if !c.job().is_system() || !b.kind.is_system() {
        return Err(Refusal::wrong(
            "kind",
            "a rig belongs to the kit; it is changed there",
        ));
    }
    let is = checked(Is {
        system: b.system_name.clone(),
        tag: b.tag.clone(),
        name: b.name.clone(),
        job: b.kind,
        refrigerant: b.refrigerant.clone(),
        safety_class: b.safety_class.clone(),
        model: b.model.clone(),
        serial: b.serial.clone(),
        scope: b.scope.clone(),
        volume_l: b.volume_l,
    })?;
    if is == Is::of(&c.opened) {
        return Err(Refusal::wrong("reason", "nothing differs from what it is"));
    }
    let reason = filled("reason", &b.reason, 500)
        .map_err(|_| Refusal::wrong("reason", "say what was wrong"))?;
    Ok(vec![Deed::Corrected(Corrected { is, reason })])
}

/// Whether a test may be moved from here. Returns the reason.
///
/// # Errors
/// If it still runs, belongs to a valve or a rig, or the visit is signed.
pub fn may_move_away(c: &Circuit, test: &str, b: &MoveInput) -> Result<String, Refusal> {
    c.must_be_open()?;
    let t = c.must_have(test)?;
    if b.to == c.id {
        return Err(Refusal::wrong("to", "it is on this circuit"));
    }
    if matches!(t.kind, Kind::LeakBy | Kind::RigCheck) {
        return Err(Refusal::wrong(
            "to",
            "this one belongs to its valve or its rig: strike it out, and do it again there",
        ));
    }
    if !t.is_over() {
        return Err(Refusal::Conflict("it is running: end it first".into()));
    }
    if t.outline().last_s.is_none() {
        return Err(Refusal::Conflict(
            "it has no readings: strike it out instead".into(),
        ));
    }
    filled("reason", &b.reason, 500)
        .map_err(|_| Refusal::wrong("reason", "say how it came to be entered here"))
}

/// Takes a test off this circuit: it stands on another one now, as `there`.
///
/// # Errors
/// As [`may_move_away`].
pub fn move_away(
    c: &Circuit,
    test: &str,
    b: &MoveInput,
    (there, to_name): (&str, &str),
    now: i64,
) -> Result<Vec<Deed>, Refusal> {
    let reason = may_move_away(c, test, b)?;
    Ok(vec![Deed::MovedAway(MovedAway {
        test: test.into(),
        to: b.to.clone(),
        to_name: to_name.into(),
        there: there.into(),
        reason,
        at_ms: now,
    })])
}
