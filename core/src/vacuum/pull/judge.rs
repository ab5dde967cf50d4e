//! Where a pull-down stands: which pull, how far, when it arrives, what holds it up, what to do at this level.

use super::arrive::{Arrival, arrive};
use super::stall::{Scene, Stall, stall};
use super::words;
use crate::flow::{Gain, Pumping, gains, time_to};
use crate::quantity::{MICRON, Units};
use crate::reading::{EventKind, Position, Principle, PullStage, Quantity, Recording, Series};
use crate::vacuum::VacuumPoint;
use crate::vacuum::gauges::{coldest, drawn, far_gauge};

/// Where it stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum PullOutcome {
    /// The last target is reached.
    Reached,
    /// Under way.
    Pulling,
    /// It no longer gets anywhere.
    Stalled,
    /// A nitrogen break stands, or one is due.
    Break,
    /// Nothing read.
    NotApplicable,
}

/// One pull of the run.
#[derive(Debug, Clone, PartialEq)]
pub struct Pull {
    /// From and to, s since the recording's start.
    pub from: f64,
    /// Its last reading.
    pub to: f64,
    /// Target, Pa.
    pub target: f64,
    /// Lowest level, Pa.
    pub lowest: f64,
    /// Time to its target, s.
    pub took: Option<f64>,
    /// Time to the target of the pull before it, s: what tells drying.
    pub took_before: Option<f64>,
}

/// A valve-off in between: the rise it showed.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct ValveOff {
    /// When, s since the recording's start.
    pub at: f64,
    /// How long, s.
    pub lasted: f64,
    /// Rise, Pa/s.
    pub rate: f64,
    /// The lowest level pumping against such an inflow would reach, Pa, if the speed is known from the trace.
    pub floor: Option<f64>,
}

/// All that is said about a pull-down.
#[derive(Debug, Clone)]
pub struct PullVerdict {
    /// Where it stands.
    pub outcome: PullOutcome,
    /// Codes of what decided.
    pub reasons: Vec<&'static str>,
    /// A few words.
    pub headline: String,
    /// One sentence.
    pub summary: String,
    /// Sentences with figures.
    pub evidence: Vec<String>,
    /// What to do next.
    pub next_step: String,
    /// Things to do at this level.
    pub prompts: Vec<String>,
    /// Pulls so far.
    pub pulls: Vec<Pull>,
    /// Which pull one is at, from 0, and how many there are.
    pub at: (usize, usize),
    /// Level now, Pa.
    pub level: Option<f64>,
    /// Target of this pull, Pa.
    pub target: f64,
    /// A break stands until then, s since the recording's start.
    pub break_until: Option<f64>,
    /// Arrival, s since the recording's start.
    pub arrival: Option<Arrival>,
    /// It came from the rig alone, before readings could tell.
    pub is_from_rig: bool,
    /// What changes to the rig would gain.
    pub gains: Vec<Gain>,
    /// A stall.
    pub stall: Option<Stall>,
    /// Level at the pump, Pa, where a second gauge stands there.
    pub at_pump: Option<f64>,
    /// Valve-offs.
    pub valve_offs: Vec<ValveOff>,
    /// Points to draw.
    pub trace: Vec<VacuumPoint>,
}

/// What counts as a gross fault in a quick valve-off: the pump would never get below the target against it.
pub(super) fn is_gross(v: &ValveOff, target: f64) -> bool {
    v.floor
        .map_or(v.rate > 2_000.0 * MICRON / 60.0, |f| f > 0.8 * target)
}

/// The default: one pull to 500 micron. Common practice, no source.
fn stages(recording: &Recording) -> Vec<PullStage> {
    let s = &recording.settings;
    if s.stages.is_empty() {
        vec![PullStage {
            target_pa: s.decay_limit.map_or(500.0 * MICRON, |l| l.level_pa),
            break_pa: None,
            dwell_s: 0.0,
        }]
    } else {
        s.stages.clone()
    }
}

/// Judges a pull-down; sentences in `u`.
#[must_use]
pub fn judge_pull(recording: &Recording, u: Units) -> PullVerdict {
    let stages = stages(recording);
    let mut v = PullVerdict {
        outcome: PullOutcome::NotApplicable,
        reasons: vec![],
        headline: String::new(),
        summary: String::new(),
        evidence: vec![],
        next_step: String::new(),
        prompts: vec![],
        pulls: vec![],
        at: (0, stages.len()),
        level: None,
        target: stages[0].target_pa,
        break_until: None,
        arrival: None,
        is_from_rig: false,
        gains: vec![],
        stall: None,
        at_pump: None,
        valve_offs: vec![],
        trace: vec![],
    };
    let Some((channel, whole)) = far_gauge(recording) else {
        v.reasons.push("too_few_readings");
        from_rig(&mut v, recording, 101_325.0, 0.0);
        words::say(&mut v, None, u);
        return v;
    };
    v.trace = drawn(&whole, 300);
    let breaks: Vec<f64> = recording
        .events
        .iter()
        .filter(|e| e.kind == EventKind::NitrogenBreak)
        .map(|e| e.at_s)
        .collect();
    let current = split(&mut v, &whole, &breaks, &stages);
    let c = &recording.channels[channel];
    let top = c.range.map(|r| c.to_si(r));
    v.valve_offs = valve_offs(recording, &whole);
    let level = whole.v.last().copied().unwrap_or(0.0);
    v.level = Some(level);
    let stage = stages[v.at.0.min(stages.len() - 1)];
    v.target = stage.target_pa;
    let reached = v.pulls.get(v.at.0).is_some_and(|p| p.took.is_some());
    let cold = coldest(recording);
    let at_pump = recording
        .channels_of(Quantity::AbsolutePressure)
        .find(|&i| recording.channels[i].position == Some(Position::NearPump) && i != channel);
    v.at_pump = at_pump.and_then(|i| recording.series(i).v.last().copied());
    let broken = breaks
        .last()
        .map(|&at| (at, stages[(breaks.len() - 1).min(stages.len() - 1)]))
        .filter(|_| current.len() < 3);
    if let Some((at, before)) = broken {
        v.outcome = PullOutcome::Break;
        v.reasons.push("break_stands");
        v.break_until = Some(at + before.dwell_s);
    } else if reached {
        v.outcome = if v.at.0 + 1 == stages.len() {
            PullOutcome::Reached
        } else {
            PullOutcome::Break
        };
        v.reasons.push(if v.outcome == PullOutcome::Reached {
            "target_reached"
        } else {
            "break_due"
        });
    } else {
        v.outcome = PullOutcome::Pulling;
        v.reasons.push("pulling");
        if is_off(recording) {
            // The rise of a valve-off is not a stall.
            v.reasons.push("valve_off");
            words::say(&mut v, Some(&stage), u);
            return v;
        }
        let from = v.pulls.get(v.at.0).map_or(0.0, |p| p.from);
        let scene = Scene {
            cold,
            rig: recording.settings.rig.as_ref(),
            at_pump: v.at_pump,
            thermal: c.principle != Some(Principle::Diaphragm),
            units: u,
        };
        v.stall = stall(&current, v.target, &scene);
        if v.stall.is_some() {
            v.outcome = PullOutcome::Stalled;
            v.reasons.push("stalled");
        } else {
            let shift = |a: Arrival| Arrival {
                low: a.low.map(|t| t + from),
                middle: a.middle.map(|t| t + from),
                high: a.high.map(|t| t + from),
                floor: a.floor,
            };
            v.arrival = arrive(&current, v.target, top).map(shift);
            if v.arrival.is_none() {
                from_rig(&mut v, recording, level, whole.t[whole.len() - 1]);
            }
        }
        if v.valve_offs.last().is_some_and(|o| is_gross(o, v.target)) {
            v.reasons.push("gross_rise");
        }
    }
    if let Some(rig) = recording
        .settings
        .rig
        .as_ref()
        .filter(|_| matches!(v.outcome, PullOutcome::Pulling | PullOutcome::Stalled))
    {
        let (low, high) = litres(recording);
        v.gains = gains(
            rig,
            &Pumping {
                volume: (low * high).sqrt() * 1e-3,
                from: level.max(2.0 * v.target),
                load: 0.0,
            },
            v.target,
        );
    }
    words::say(&mut v, Some(&stage), u);
    v
}

/// Cuts the trace into pulls at the breaks; returns the current pull on its own clock.
fn split(v: &mut PullVerdict, whole: &Series, breaks: &[f64], stages: &[PullStage]) -> Series {
    let end = whole.t[whole.len() - 1];
    let mut current = Series::default();
    for k in 0..=breaks.len() {
        let from = if k == 0 { whole.t[0] } else { breaks[k - 1] };
        let to = breaks.get(k).copied().unwrap_or(end);
        let mut part = whole.between(from, to);
        // A pull begins at the break's highest level.
        let peak = if k == 0 {
            0
        } else {
            (0..part.len())
                .max_by(|&a, &b| part.v[a].total_cmp(&part.v[b]))
                .unwrap_or(0)
        };
        part = Series {
            t: part.t.split_off(peak),
            v: part.v.split_off(peak),
        };
        let start = part.t.first().copied().unwrap_or(from);
        part.t.iter_mut().for_each(|t| *t -= start);
        let target = stages[k.min(stages.len() - 1)].target_pa;
        let reaches = |level: f64| part.v.iter().position(|&p| p <= level).map(|i| part.t[i]);
        let took = reaches(target);
        let took_before = v.pulls.last().and_then(|before| reaches(before.target));
        let lowest = part.v.iter().copied().fold(f64::INFINITY, f64::min);
        v.pulls.push(Pull {
            from: start,
            to,
            target,
            lowest,
            took,
            took_before,
        });
        current = part;
    }
    v.at.0 = breaks.len().min(stages.len() - 1);
    current
}

/// Times by the rig's conductances, with a band: real speeds are a third above to half of the rated.
fn from_rig(v: &mut PullVerdict, recording: &Recording, from: f64, now: f64) {
    let s = &recording.settings;
    let Some(rig) = &s.rig else { return };
    let (low_l, high_l) = litres(recording);
    let pumping = |litres: f64| Pumping {
        volume: litres * 1e-3,
        from,
        load: 0.0,
    };
    let time = |litres: f64| time_to(rig, &pumping(litres), v.target);
    let middle = time((low_l * high_l).sqrt());
    v.arrival = Some(Arrival {
        low: time(low_l).map(|t| now + t / 1.3),
        middle: middle.map(|t| now + t),
        high: time(high_l).map(|t| now + 2.0 * t),
        floor: Some(rig.pump.ultimate),
    });
    v.is_from_rig = true;
}

/// Volume under vacuum: as measured or surveyed, else what is usual (CP), L.
fn litres(recording: &Recording) -> (f64, f64) {
    let s = &recording.settings;
    s.volume_l
        .map(|l| (0.9 * l, 1.1 * l))
        .or(s.volume_band_l)
        .unwrap_or((2.0, 15.0))
}

/// Whether the valve was shut and not opened again since.
fn is_off(recording: &Recording) -> bool {
    let moved = |e: &&crate::reading::Event| {
        matches!(
            e.kind,
            EventKind::Isolated
                | EventKind::PumpOff
                | EventKind::PumpOn
                | EventKind::ValveMoved
                | EventKind::NitrogenBreak
        )
    };
    recording
        .events
        .iter()
        .rev()
        .find(moved)
        .is_some_and(|e| matches!(e.kind, EventKind::Isolated | EventKind::PumpOff))
}

/// Rises between a valve shut and opened again while pumping.
fn valve_offs(recording: &Recording, whole: &Series) -> Vec<ValveOff> {
    let mut out = Vec::new();
    let mut shut = None;
    for e in &recording.events {
        match (e.kind, shut) {
            (EventKind::Isolated | EventKind::PumpOff, None) => shut = Some(e.at_s),
            (EventKind::PumpOn | EventKind::ValveMoved, Some(at)) => {
                shut = None;
                let s = whole.between(at, e.at_s);
                if s.len() < 2 || s.t[s.len() - 1] - s.t[0] < 4.0 {
                    continue;
                }
                let lasted = s.t[s.len() - 1] - s.t[0];
                let rate = ((s.v[s.len() - 1] - s.v[0]) / lasted).max(0.0);
                // Pumping out at k per second against this inflow ends at rate/k.
                let was = whole
                    .mean(at - 90.0, at - 60.0)
                    .zip(whole.mean(at - 30.0, at));
                let k = was.map(|(a, b)| (a / b).ln() / 60.0).filter(|k| *k > 2e-4);
                out.push(ValveOff {
                    at,
                    lasted,
                    rate,
                    floor: k.map(|k| rate / (k + rate / s.v[0].max(1e-3))),
                });
            }
            _ => {}
        }
    }
    out
}
