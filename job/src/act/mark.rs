//! Marking what is done during a test; starting its clock by hand.

use super::inside::{Asking, stopped};
use super::{happened_at, logged_at};
use crate::log::{Deed, Marked, ValveMove};
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
    /// Which valve was moved, and how.
    pub moved: Option<ValveMove>,
    /// A core was moved inside a tool that kept its port shut.
    pub with_tool: Option<bool>,
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
/// One that comes in after the end (it waited for the network, or was remembered later) counts all the same: the test
/// is judged again.
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
    if c.job().is_system() {
        may_mark(c, test, b, at_ms)?;
    }
    Ok(vec![Deed::Marked(Marked {
        moved: b.moved.clone(),
        with_tool: b.with_tool,
        test: test.into(),
        event: b.kind,
        note: clipped(&b.note, 500),
        photo_id: b.photo_id.clone(),
        at_ms,
    })])
}

/// What is opened, moved or let in during a test asks what is inside.
fn may_mark(c: &Circuit, test: &str, b: &EventInput, at_ms: i64) -> Result<(), Refusal> {
    let t = c.must_have(test)?;
    let names = c.sections_of(t);
    let a = Asking::at(c, at_ms);
    match b.kind {
        EventKind::Opened => a
            .contents
            .may_open(&names, at_ms, a.units)
            .map_err(stopped("kind")),
        EventKind::CoreMoved => {
            let has_tool = b.with_tool.ok_or_else(|| {
                Refusal::wrong("with_tool", "say whether a core tool kept the port shut")
            })?;
            a.contents
                .may_move_core(&names, has_tool, at_ms, a.units)
                .map_err(stopped("with_tool"))
        }
        EventKind::ValveMoved => may_move(c, b, &a),
        _ => Ok(()),
    }
}

/// A valve that the survey names opens onto what stands behind it.
fn may_move(c: &Circuit, b: &EventInput, a: &Asking) -> Result<(), Refusal> {
    let Some(m) = &b.moved else {
        if c.doc.valves.is_empty() {
            return Ok(());
        }
        return Err(Refusal::wrong(
            "moved",
            "say which valve was moved, and whether it is open now",
        ));
    };
    if m.valve.trim().is_empty() {
        return Ok(());
    }
    let v = c
        .doc
        .valves
        .iter()
        .find(|v| v.name == m.valve)
        .ok_or_else(|| {
            Refusal::wrong(
                "moved.valve",
                format!("the survey has no valve “{}”", m.valve),
            )
        })?;
    if !m.is_open {
        return Ok(());
    }
    c.passage(v).map_or(Ok(()), |p| {
        a.contents
            .may_join(&p, c.is_proven(), a.units)
            .map_err(stopped("moved.valve"))
    })
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
