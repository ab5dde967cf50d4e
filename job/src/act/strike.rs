//! Striking out: a reading, or anything else that was said, with a reason. Nothing is erased.

use super::read::value_of;
use crate::log::{Deed, ReadingLine};
use crate::people::By;
use crate::refusal::{Refusal, filled};
use crate::state::Circuit;
use serde::Deserialize;

/// A reading that is struck out.
#[derive(Debug, Clone, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct StrikeInput {
    /// Why.
    pub reason: String,
    /// What it should have been, if known, as typed.
    pub instead: Option<String>,
}

/// Something else that is struck out: an event, a step, a look, a repair, an override, the end of a test, a test.
#[derive(Debug, Clone, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct VoidInput {
    /// Why.
    pub reason: String,
}

/// Strikes a reading out, with the one that stands for it. Nothing: it is struck out already.
///
/// # Errors
/// If the reason is missing, the other reading cannot be, or the circuit is signed.
pub fn strike_reading(
    c: &Circuit,
    test: &str,
    old: &ReadingLine,
    b: &StrikeInput,
    id: &str,
    (by, now): (&By, i64),
) -> Result<(Vec<Deed>, Option<ReadingLine>), Refusal> {
    c.must_be_open()?;
    let t = c.must_have(test)?;
    let reason = filled("reason", &b.reason, 500)
        .map_err(|_| Refusal::wrong("reason", "say why it is struck out"))?;
    if t.struck(&old.id).is_some() {
        return Ok((vec![], None));
    }
    by.must_own(&old.actor)?;
    let typed = b
        .instead
        .as_deref()
        .map(str::trim)
        .filter(|x| !x.is_empty());
    let channel = t
        .channels
        .get(old.channel as usize)
        .ok_or_else(|| Refusal::Missing("channel".into()))?;
    let instead = typed
        .map(|typed| {
            Ok(ReadingLine {
                id: format!("{id}.r"),
                typed: typed.into(),
                value: value_of(channel, typed, "instead")?,
                origin: "corrected".into(),
                actor: by.name.clone(),
                device: by.device.clone(),
                client_ms: None,
                received_ms: now,
                skewed: false,
                ..old.clone()
            })
        })
        .transpose()?;
    let deed = Deed::ReadingStruck {
        test: test.into(),
        reading: old.id.clone(),
        reason,
        instead: instead.as_ref().map(|r| r.id.clone()),
    };
    Ok((vec![deed], instead))
}

/// Strikes an entry out. Nothing: it is struck out already.
///
/// # Errors
/// If it is something that stays as it is, or the circuit is signed.
pub fn strike(c: &Circuit, entry: &str, b: &VoidInput, by: &By) -> Result<Vec<Deed>, Refusal> {
    c.must_be_open()?;
    let reason = filled("reason", &b.reason, 500)
        .map_err(|_| Refusal::wrong("reason", "say why it is struck out"))?;
    if c.struck.iter().any(|s| s.id == entry) {
        return Ok(vec![]);
    }
    let deed = c
        .ids
        .get(entry)
        .ok_or_else(|| Refusal::Missing("entry".into()))?;
    by.must_own(c.actors.get(entry).map_or("", String::as_str))?;
    match &**deed {
        Deed::Ended(e) => {
            let is_last = c
                .test(&e.test)
                .and_then(|t| t.ended.as_ref())
                .is_some_and(|(id, _)| id == entry);
            if !is_last {
                return Err(Refusal::Conflict(
                    "the test was judged again since; strike that out".into(),
                ));
            }
        }
        Deed::Planned(_)
            if c.test(entry)
                .is_some_and(|t| !t.is_over() && t.outline().last_s.is_some()) =>
        {
            return Err(Refusal::Conflict(
                "it is running: end it first, so that what stands in the circuit is known".into(),
            ));
        }
        Deed::Marked(_)
        | Deed::ClockStarted { .. }
        | Deed::Looked(_)
        | Deed::Mended(_)
        | Deed::Confirmed(_)
        | Deed::Overridden(_)
        | Deed::Weighed(_)
        | Deed::VacuumBroken(_)
        | Deed::Measured(_)
        | Deed::Consented(_)
        | Deed::Seen(_)
        | Deed::Approved { .. }
        | Deed::Planned(_) => {}
        _ => {
            return Err(Refusal::Conflict(
                "this stays as it is; a survey, a target or a register is changed by its next version".into(),
            ));
        }
    }
    Ok(vec![Deed::Struck {
        entry: entry.into(),
        reason,
    }])
}
