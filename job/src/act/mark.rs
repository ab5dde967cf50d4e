//! Marking what is done during a test; starting its clock by hand.

use super::{happened_at, logged_at};
use crate::log::{Deed, Marked};
use crate::refusal::{Refusal, clipped, filled};
use crate::state::Circuit;
use crate::tell::over_plan_needs_reason;
use ruhe_core::reading::EventKind;
use serde::Deserialize;

/// An event belongs to its test: no earlier than this before it was planned, ms (a hold written down afterwards may be
/// days old).
const BEFORE: i64 = 31 * 86_400_000;

/// Something that was done during a test.
#[derive(Debug, Clone, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct EventInput {
    /// Made where it was said, so that sending twice keeps once.
    pub id: String,
    /// What was done.
    pub kind: EventKind,
    /// In words.
    #[serde(default)]
    pub note: String,
    /// A photo that was taken of it.
    pub photo_id: Option<String>,
    /// When it happened, if that was said.
    pub at_ms: Option<i64>,
    /// The page's clock when it was logged; it may have waited for the network since.
    pub logged_ms: Option<i64>,
    /// The page's clock now, as it is sent.
    pub client_ms: Option<i64>,
}

/// The technician's own word on when the clock starts.
#[derive(Debug, Clone, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ClockInput {
    /// When, ms since 1970 UTC.
    pub at_ms: i64,
    /// Why.
    pub reason: String,
}

/// Marks an event.
///
/// # Errors
/// What cannot be, with its field; above the plan without a reason.
///
/// One that comes in after the end (it waited for the network, or was remembered later) counts all the same: the test is
/// judged again.
pub fn mark(c: &Circuit, test: &str, b: &EventInput, now: i64) -> Result<Vec<Deed>, Refusal> {
    c.must_be_open()?;
    let t = c.must_have(test)?;
    if b.photo_id.as_ref().is_some_and(|p| !c.photos.contains(p)) {
        return Err(Refusal::Missing("photo".into()));
    }
    if b.kind == EventKind::Other {
        filled("note", &b.note, 500)
            .map_err(|_| Refusal::wrong("note", "say in a few words what happened"))?;
    }
    // One that waited for the network keeps the time it was logged at.
    let logged = b
        .logged_ms
        .map(|l| b.client_ms.map_or(l, |sent| logged_at(l, sent, now)));
    let at_ms = happened_at("at_ms", b.at_ms.or(logged), now)?;
    if at_ms < t.created_ms - BEFORE {
        return Err(Refusal::wrong(
            "at_ms",
            "that is more than a month before this test",
        ));
    }
    if b.kind == EventKind::SupplyIsolated && b.note.trim().is_empty() {
        over_plan_needs_reason(t, at_ms, now)?;
    }
    Ok(vec![Deed::Marked(Marked {
        test: test.into(),
        event: b.kind,
        note: clipped(&b.note, 500),
        photo_id: b.photo_id.clone(),
        at_ms,
    })])
}

/// Starts the clock by hand, with a reason; the record says so.
///
/// # Errors
/// If the reason is missing, or the test has ended.
pub fn start_clock(
    c: &Circuit,
    test: &str,
    b: &ClockInput,
    now: i64,
) -> Result<Vec<Deed>, Refusal> {
    c.must_be_open()?;
    let t = c.must_have(test)?;
    if t.is_over() {
        return Err(Refusal::Conflict(format!("{} has ended", t.title)));
    }
    let reason = filled("reason", &b.reason, 500)
        .map_err(|_| Refusal::wrong("reason", "say why the clock is started by hand"))?;
    Ok(vec![Deed::ClockStarted {
        test: test.into(),
        at_ms: happened_at("at_ms", Some(b.at_ms), now)?,
        reason,
    }])
}
