//! A test as its page shows it.

use super::argued::{ArguedView, argued_view};
use super::kit::{UsedView, used_views};
use super::near::{NearView, near};
use super::phase::{Phase, asks_isolation, phase};
use super::press::{PressView, WatchView, next_step, press_view, watch_view};
use super::reading::{ReadingView, reading_view};
use super::run::{Clock, clock_of, due_ms, off_at_ms, read_at_ms};
use super::stage::{current_stage, stage_of};
use super::table::doubtful_ms;
use super::verdict::Verdict;
use crate::log::ReadingLine;
use crate::plan::Plan;
use crate::procedure::{JobKind, Stage};
use crate::state::{Circuit, Test};
use ruhe_core::ENGINE_VERSION;
use ruhe_core::hold::HoldOutcome;
use ruhe_core::judge::Finding;
use ruhe_core::quantity::{Unit, Units, span};
use ruhe_core::reading::{EventKind, Kind, Position, Quantity};
use ruhe_core::vacuum::DecayOutcome;
use ruhe_core::vacuum::pull::PullOutcome;
use serde::Serialize;

#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ChannelView {
    pub id: String,
    pub name: String,
    pub quantity: Quantity,
    pub unit: Unit,
    pub resolution: Option<f64>,
    pub range: Option<f64>,
    pub position: Option<Position>,
    /// Last value as typed.
    pub last: Option<String>,
    pub last_ms: Option<i64>,
    /// What the next one is expected within.
    pub near: Option<NearView>,
}

#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct EventView {
    pub id: String,
    pub kind: EventKind,
    pub note: String,
    pub photo_id: Option<String>,
    pub at_ms: i64,
}

#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct TestView {
    pub id: String,
    pub circuit_id: String,
    pub kind: Kind,
    pub title: String,
    pub attempt: u32,
    pub plan: Plan,
    /// What was assumed or noticed when it was read from a file.
    pub remarks: Vec<String>,
    /// What it used of the kit, as it was then.
    pub used: Vec<UsedView>,
    /// Where its limit comes from, in words.
    pub limit_from: String,
    pub created_ms: i64,
    pub ended_ms: Option<i64>,
    /// Zero of the verdict's seconds.
    pub start_ms: i64,
    pub channels: Vec<ChannelView>,
    pub readings: Vec<ReadingView>,
    pub reading_count: u64,
    /// Readings that the judge left out, far from their neighbours.
    pub doubtful: usize,
    /// Readings that do not count because they came before the shut supply.
    pub before_shut: Option<BeforeShutView>,
    pub events: Vec<EventView>,
    pub verdict: Verdict,
    /// How much a hold that holds proves, a sentence.
    pub tightness: Option<String>,
    /// Where a rise comes from and what to do next, of a decay.
    pub argued: Option<ArguedView>,
    /// While the supply is not shut.
    pub press: Option<PressView>,
    /// Its pressure against the ceiling, while it runs.
    pub watch: Option<WatchView>,
    /// What to do next: what stands above a plan or a ceiling comes before what the verdict would ask for.
    pub next: String,
    /// The stage that follows from what was found.
    pub onward: Option<OnwardView>,
    /// Some of its readings came from a simulated gauge.
    pub has_simulated: bool,
    /// The clock that matters.
    pub clock: Option<Clock>,
    /// When the test is due.
    pub due_ms: Option<i64>,
    /// When the next reading is due.
    pub read_at_ms: Option<i64>,
    /// When the gauge will switch itself off.
    pub off_at_ms: Option<i64>,
    pub is_live: bool,
    pub is_signed: bool,
    /// Id of the entry that ended it, to undo it.
    pub end_id: Option<String>,
    /// What ending it now would cut short, in words.
    pub cuts_short: Option<String>,
    /// Clock, supply and valve.
    pub phase: Phase,
    /// It counts from a valve that nobody has said to be shut.
    pub asks_isolation: bool,
    /// The valve to the pump is shut and not opened again since.
    pub is_valve_off: bool,
    /// What can be marked on it now.
    pub marks: Vec<MarkView>,
    /// Valves of the survey: which of them was moved is asked.
    pub valves: Vec<String>,
}

/// Readings at the pressure of the hold that came before its supply was said to be shut.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct BeforeShutView {
    pub count: u64,
    /// When the first of them was read.
    pub from_ms: i64,
}

/// Those that are worth asking about, while something can be said of it.
fn before_shut(t: &Test) -> Option<BeforeShutView> {
    let (from, count) = t.outline().stood_before.filter(|_| !t.is_over())?;
    Some(BeforeShutView {
        count,
        from_ms: t.outline().at_ms(from),
    })
}

/// A stage to go on to.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct OnwardView {
    pub stage: Stage,
    pub text: String,
}

/// Where what was found leads to. A fall and a reached target lead on while the test runs; a pass when it has ended:
/// where a hold has passed, that is whatever of the circuit is at hand, joints that nobody has looked at among it.
fn onward(c: &Circuit, t: &Test) -> Option<OnwardView> {
    let stage = match t.finding() {
        Finding::PressureHold(v) => match v.outcome {
            HoldOutcome::Falls => Stage::Search,
            HoldOutcome::Holds if t.is_over() => current_stage(c, &c.gates(Units::default()))?,
            _ => return None,
        },
        Finding::PullDown(v) if v.outcome == PullOutcome::Reached => Stage::Decay,
        Finding::VacuumDecay(v) if v.outcome == DecayOutcome::Passes && t.is_over() => {
            Stage::BreakVacuum
        }
        _ => return None,
    };
    let leads = !c.is_signed() && stage != stage_of(t.kind) && c.job().stages().contains(&stage);
    leads.then(|| OnwardView {
        stage,
        text: stage.way().into(),
    })
}

/// Something that can be marked.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct MarkView {
    pub kind: EventKind,
    pub title: String,
}

/// What can be marked on a test; that the supply is shut only while it is not (`in_box`: the box above asks for it).
fn marks(t: &Test, in_box: bool) -> Vec<MarkView> {
    use EventKind as E;
    let latest = |kind: E| {
        let of = t.events.iter().filter(|(_, e)| e.event == kind);
        of.map(|(_, e)| e.at_ms).max().unwrap_or(i64::MIN)
    };
    let is_shut = latest(E::SupplyIsolated) > latest(E::ToppedUp);
    let all: &[(E, &str)] = match t.kind {
        Kind::PressureHold => &[
            (E::SupplyIsolated, "Supply shut"),
            (E::ValveMoved, "Valve moved"),
            (E::GaugeTakenOff, "Gauge off"),
            (E::GaugeReattached, "Gauge back on"),
            (E::Sun, "Sun on it"),
            (E::ToppedUp, "Topped up"),
            (E::Opened, "Opened"),
        ],
        Kind::LeakBy => &[(E::ValveMoved, "Valve opened"), (E::Sun, "Sun on it")],
        Kind::VacuumDecay => &[
            (E::Isolated, "Isolated"),
            (E::PumpOn, "Pump on"),
            (E::NitrogenBreak, "Nitrogen break"),
            (E::ValveMoved, "Valve moved"),
            (E::CoreMoved, "Core moved"),
            (E::Opened, "Opened"),
        ],
        Kind::PullDown => &[
            (E::PumpOn, "Pump on"),
            (E::PumpOff, "Pump off"),
            (E::ValveMoved, "Valve moved"),
            (E::CoreMoved, "Core moved"),
            (E::Opened, "Opened"),
        ],
        Kind::RigCheck => &[(E::Isolated, "Isolated"), (E::PumpOn, "Pump on")],
    };
    all.iter()
        .filter(|(kind, _)| *kind != E::SupplyIsolated || !(is_shut || in_box))
        .map(|(kind, title)| MarkView {
            kind: *kind,
            title: (*title).into(),
        })
        .collect()
}

/// Whether the valve to the pump was shut and not opened again since.
fn is_valve_off(t: &Test) -> bool {
    use EventKind as E;
    let moves = |e: E| {
        matches!(
            e,
            E::Isolated | E::PumpOff | E::PumpOn | E::ValveMoved | E::NitrogenBreak
        )
    };
    let last = t.events.iter().rev().find(|(_, e)| moves(e.event));
    last.is_some_and(|(_, e)| matches!(e.event, E::Isolated | E::PumpOff))
}

/// What ending a running test now would cut short, in words; `None`: nothing.
#[must_use]
pub fn cuts_short(t: &Test, now_ms: i64) -> Option<String> {
    if t.is_over() || phase(t) == Phase::Open {
        return None;
    }
    let left = due_ms(t).map(|due| (due - now_ms) as f64 / 1e3);
    match (t.finding(), left) {
        (Finding::PressureHold(v), _) if v.settled_at_s.is_none() && v.loss.is_none() => {
            Some("It has not settled: as it stands it says nothing of tightness.".into())
        }
        (Finding::PressureHold(_), Some(left)) if left >= MINUTE => Some(format!(
            "The plan asks for another {}: that lowers what could still hide.",
            span(left)
        )),
        (Finding::VacuumDecay(_), Some(left)) if left > 0.0 => Some(format!(
            "The rule’s time is not up: another {}. Ended now, it stays undecided.",
            span(left)
        )),
        (Finding::PullDown(v), _) if v.at.0 + 1 < v.at.1 => {
            Some(format!("Pull {} of {} is under way.", v.at.0 + 1, v.at.1))
        }
        _ => None,
    }
}

/// Less than this is not worth a word, s.
const MINUTE: f64 = 60.0;

fn channels(t: &Test, latest: &[ReadingLine]) -> Vec<ChannelView> {
    let last = |i: usize| {
        latest
            .iter()
            .find(|r| r.channel as usize == i && t.struck(&r.id).is_none())
    };
    t.channels
        .iter()
        .enumerate()
        .map(|(i, c)| ChannelView {
            last: last(i).map(|r| r.typed.clone()),
            last_ms: last(i).map(|r| r.at_ms),
            near: last(i).and_then(|r| near(t, c.channel.quantity, c.channel.unit, r.value)),
            id: c.id.clone(),
            name: c.channel.name.clone(),
            quantity: c.channel.quantity,
            unit: c.channel.unit,
            resolution: c.channel.resolution,
            range: c.channel.range,
            position: c.channel.position,
        })
        .collect()
}

/// The version of the method that found what is shown.
fn engine(t: &Test) -> &str {
    t.ended.as_ref().map_or(ENGINE_VERSION, |(_, e)| &e.engine)
}

/// One next step where the job knows more than the recording: what settles most of a decay that did not pass, and how a
/// part or a line set that holds is left.
fn next_of(c: &Circuit, t: &Test, argued: Option<&ArguedView>) -> Option<String> {
    if !t.is_over() {
        return None;
    }
    match t.finding() {
        Finding::VacuumDecay(v) if v.outcome == DecayOutcome::Fails || v.rising => {
            let first = argued?.next.first()?;
            Some(format!("{}. {}", first.title, first.why))
        }
        Finding::PressureHold(v) if v.outcome == HoldOutcome::Holds && !v.loss_detected => {
            match c.job() {
                JobKind::BenchComponent => Some(
                    "The part is tight: cap it, tag it with what is inside and at what pressure, or let it out.".into(),
                ),
                JobKind::StandingLineSet => Some(
                    "The line set is tight: cap it, tag it and leave it under pressure, or let it out and \
                     evacuate.".into(),
                ),
                _ => None,
            }
        }
        _ => None,
    }
}

/// So many of the latest readings are looked through for the last of each channel.
pub const SHOWN: u16 = 60;

/// So many of them are sent with a test; all of them stand in its table.
const LISTED: usize = 16;

/// A test with its latest readings, newest first, and the circuit of its rig if it used one.
#[must_use]
pub fn test_view(
    c: &Circuit,
    t: &Test,
    latest: &[ReadingLine],
    rig: Option<&Circuit>,
    now_ms: i64,
    units: Units,
) -> TestView {
    // A test of an earlier visit is shown as it stood in that visit.
    let c = c.visit_of(&t.id);
    let press = press_view(c, t, now_ms, units);
    let tightness = c.tightness(t);
    let mut verdict = Verdict::by(t.finding(), engine(t), units);
    if let Some(x) = &tightness {
        verdict.word = x.word.clone();
    }
    let watch = watch_view(t, units);
    let argued = argued_view(c, t, rig, units);
    let next = next_of(c, t, argued.as_ref())
        .unwrap_or_else(|| next_step(t, press.as_ref(), watch.as_ref(), units));
    TestView {
        tightness: tightness.map(|x| x.words),
        valves: c.doc.valves.iter().map(|v| v.name.clone()).collect(),
        marks: marks(t, press.is_some()),
        onward: onward(c, t),
        is_valve_off: is_valve_off(t),
        next,
        press,
        watch,
        argued,
        verdict,
        channels: channels(t, latest),
        readings: latest
            .iter()
            .take(LISTED)
            .filter_map(|r| reading_view(t, r))
            .collect(),
        doubtful: doubtful_ms(t).len(),
        before_shut: before_shut(t),
        reading_count: t.outline().count + t.struck.len() as u64,
        events: t
            .events
            .iter()
            .map(|(id, e)| EventView {
                id: id.clone(),
                kind: e.event,
                note: e.note.clone(),
                photo_id: e.photo_id.clone(),
                at_ms: e.at_ms,
            })
            .collect(),
        start_ms: t.outline().start_ms,
        has_simulated: t.outline().is_simulated,
        clock: clock_of(t),
        due_ms: due_ms(t),
        read_at_ms: read_at_ms(t),
        off_at_ms: off_at_ms(t),
        is_live: t.now.is_live,
        is_signed: c.is_signed(),
        end_id: t.ended.as_ref().map(|(id, _)| id.clone()),
        cuts_short: cuts_short(t, now_ms),
        phase: phase(t),
        asks_isolation: asks_isolation(t),
        id: t.id.clone(),
        circuit_id: c.id.clone(),
        kind: t.kind,
        title: t.title.clone(),
        attempt: t.attempt,
        plan: t.plan.clone(),
        remarks: t.plan.remarks.iter().map(ToString::to_string).collect(),
        used: used_views(&t.plan.used, units),
        limit_from: t.plan.limit_from(),
        created_ms: t.created_ms,
        ended_ms: t.ended_ms(),
    }
}
