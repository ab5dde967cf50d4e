//! The run of a circuit in miniature, and its clocks.

use crate::state::{Circuit, Test};
use ruhe_core::judge::{Finding, say};
use ruhe_core::quantity::Units;
use ruhe_core::reading::Kind;
use ruhe_core::reason::Reason;
use ruhe_core::words::Shape;
use serde::{Deserialize, Serialize};

/// One stretch of the run: a test's trace in miniature.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RunSegment {
    pub test_id: String,
    pub kind: Kind,
    pub title: String,
    pub from_ms: i64,
    pub to_ms: i64,
    /// Shape of what was found.
    pub shape: Shape,
    /// Gauge pressure (Pa) above the atmosphere line, or absolute (Pa) below it.
    pub is_vacuum: bool,
    pub points: Vec<RunPoint>,
}

#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RunPoint {
    pub at_ms: i64,
    pub pa: f64,
}

#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RunMark {
    pub at_ms: i64,
    pub text: String,
}

#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Run {
    pub segments: Vec<RunSegment>,
    pub marks: Vec<RunMark>,
}

#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct TestRow {
    pub id: String,
    pub kind: Kind,
    pub title: String,
    pub attempt: u32,
    pub created_ms: i64,
    pub ended_ms: Option<i64>,
    pub word: String,
    pub shape: Shape,
    pub headline: String,
    pub is_live: bool,
}

/// What the time of a clock is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum ClockKind {
    /// It counts from then on.
    Since,
    /// Something is due then.
    Due,
}

/// The clock that matters on a circuit.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Clock {
    pub kind: ClockKind,
    pub at_ms: i64,
    /// Of what is due: what it is. Else what has been going on since.
    pub label: String,
}

/// A test as a row of a list.
#[must_use]
pub fn test_row(c: &Circuit, t: &Test, u: Units) -> TestRow {
    let words = say(t.finding(), u);
    let proves = c.tightness(t);
    TestRow {
        id: t.id.clone(),
        kind: t.kind,
        title: t.title.clone(),
        attempt: t.attempt,
        created_ms: t.created_ms,
        ended_ms: t.ended_ms(),
        word: proves.map_or(words.word, |p| p.word),
        shape: words.shape,
        headline: words.headline,
        is_live: t.now.is_live,
    }
}

fn segment(t: &Test, most: usize) -> Option<RunSegment> {
    let o = t.outline();
    let trace = o.run.as_ref()?;
    let every = trace.points.len().div_ceil(most.max(2)).max(1);
    let last = trace.points.len() - 1;
    let points: Vec<RunPoint> = trace
        .points
        .iter()
        .enumerate()
        .filter(|(i, _)| i % every == 0 || *i == last)
        .map(|(_, &(at_s, pa))| RunPoint {
            at_ms: o.at_ms(at_s),
            pa,
        })
        .collect();
    Some(RunSegment {
        test_id: t.id.clone(),
        kind: t.kind,
        title: t.title.clone(),
        from_ms: points.first()?.at_ms,
        to_ms: points.last()?.at_ms,
        shape: say(t.finding(), Units::default()).shape,
        is_vacuum: trace.is_vacuum,
        points,
    })
}

/// Points of a trace in the run of a circuit.
pub const POINTS: usize = 80;
/// Points of a trace in the list of today.
pub const FEW_POINTS: usize = 24;

/// The run: each test's trace with at most so many points, and marks for what was done.
#[must_use]
pub fn run(c: &Circuit, most: usize, with_steps: bool) -> Run {
    let mark = |at_ms: i64, text: String| RunMark { at_ms, text };
    let mut marks: Vec<RunMark> = c
        .steps
        .iter()
        .filter(|_| with_steps)
        .map(|s| mark(s.said.at_ms, s.said.step.title().into()))
        .collect();
    marks.extend(
        c.repairs
            .iter()
            .map(|r| mark(r.said.at_ms, format!("Mended: {}", r.said.place))),
    );
    for (_, e) in c.tests.iter().flat_map(|t| &t.events) {
        let text = if e.note.is_empty() {
            e.event.code().replace('_', " ")
        } else {
            e.note.clone()
        };
        marks.push(mark(e.at_ms, text));
    }
    marks.sort_by_key(|m| m.at_ms);
    Run {
        segments: c.tests.iter().filter_map(|t| segment(t, most)).collect(),
        marks,
    }
}

/// When a running test is due, if its clock runs.
#[must_use]
pub fn due_ms(t: &Test) -> Option<i64> {
    let from = |s: f64| t.outline().at_ms(s);
    if t.is_over() {
        return None;
    }
    match t.finding() {
        Finding::PressureHold(v) => Some(from(v.settled_at_s? + t.plan.planned_s?)),
        Finding::PullDown(v) => v.break_until.or(v.arrival.and_then(|a| a.middle)).map(from),
        Finding::VacuumDecay(v) => v.isolated_at_s.map(|i| from(i + v.limit.at_s)),
        Finding::RigCheck(_) | Finding::LeakBy(_) => None,
    }
}

/// When the next reading is due, if one was asked for.
#[must_use]
pub fn read_at_ms(t: &Test) -> Option<i64> {
    let every = t
        .plan
        .read_every_s
        .filter(|_| !t.is_over() && !t.now.is_live)?;
    Some(t.outline().last_ms().unwrap_or(t.created_ms) + (every * 1e3) as i64)
}

/// When the gauge will switch itself off, counted from the last reading (each is a touch of the gauge).
#[must_use]
pub fn off_at_ms(t: &Test) -> Option<i64> {
    let after = t
        .plan
        .auto_off_s
        .filter(|_| !t.is_over() && !t.now.is_live)?;
    t.outline().last_ms().map(|l| l + (after * 1e3) as i64)
}

/// The clock that matters on a circuit: that of the test that runs.
#[must_use]
pub fn clock(c: &Circuit) -> Option<Clock> {
    clock_of(c.tests.iter().rev().find(|t| !t.is_over())?)
}

/// The clock of a test: a reading that is due first, then when it is due itself, else since when it runs.
#[must_use]
pub fn clock_of(t: &Test) -> Option<Clock> {
    if t.is_over() {
        return None;
    }
    let due = |at_ms: i64, label: &str| Clock {
        kind: ClockKind::Due,
        at_ms,
        label: label.into(),
    };
    let end = match t.finding() {
        Finding::PullDown(v) if v.break_until.is_some() => "the end of the break",
        Finding::PullDown(_) => "the target",
        Finding::VacuumDecay(_) => "the rule’s time",
        _ => "the planned end",
    };
    let test = due_ms(t).map(|at| due(at, end));
    let reading = read_at_ms(t).map(|at| due(at, "the next reading"));
    let soonest = [reading, test]
        .into_iter()
        .flatten()
        .min_by_key(|c| c.at_ms);
    soonest.or_else(|| {
        let is_open = t.outline().last_s.is_none()
            || t.finding().reasons().contains(&Reason::SupplyNotIsolated);
        let is_pumped = t.kind == Kind::PullDown;
        let label = if is_pumped {
            "pumping since".into()
        } else if is_open {
            "pressing up since".into()
        } else if t.plan.planned_s.is_some() {
            "settling since".into()
        } else {
            format!("{} since", t.title)
        };
        Some(Clock {
            kind: ClockKind::Since,
            at_ms: t.outline().start_ms,
            label,
        })
    })
}
