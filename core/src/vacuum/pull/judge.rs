//! Where a pull-down stands: which pull, how far, when it arrives, what holds it up, what to do at this level.

use super::arrive::{Arrival, arrive};
use super::finding::{After, Pull, PullFinding, PullOutcome, ValveOff, is_gross};
use super::stall::{Scene, stall};
use crate::flow::{Pumping, gains, time_to};
use crate::quantity::MICRON;
use crate::reading::{EventKind, Position, Principle, PullStage, Quantity, Recording, Series};
use crate::reason::Reason;
use crate::vacuum::gauges::{coldest, drawn, far_gauge};

/// The air's pressure, Pa: what a pull-down begins at.
const AIR: f64 = 101_325.0;
/// Points of the drawn trace, at most.
const DRAWN: usize = 300;

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

/// Judges a pull-down.
#[must_use]
pub fn judge_pull(recording: &Recording) -> PullFinding {
    let stages = stages(recording);
    let mut v = blank(&stages);
    let Some((channel, whole)) = far_gauge(recording) else {
        v.reasons.push(Reason::TooFewReadings);
        from_rig(&mut v, recording, AIR, 0.0);
        return v;
    };
    v.trace = drawn(&whole, DRAWN);
    v.now = whole.t[whole.len() - 1];
    let breaks: Vec<f64> = recording
        .events
        .iter()
        .filter(|e| e.kind == EventKind::NitrogenBreak)
        .map(|e| e.at_s)
        .collect();
    let current = split(&mut v, &whole, &breaks, &stages);
    v.valve_offs = valve_offs(recording, &whole);
    v.level = whole.v.last().copied();
    let stage = stages[v.at.0.min(stages.len() - 1)];
    v.target = stage.target_pa;
    v.after = After {
        break_pa: stage.break_pa,
        dwell_s: stage.dwell_s,
    };
    v.at_pump = recording
        .channels_of(Quantity::AbsolutePressure)
        .find(|&i| recording.channels[i].position == Some(Position::NearPump) && i != channel)
        .and_then(|i| recording.series(i).v.last().copied());
    let reached = v.pulls.get(v.at.0).is_some_and(|p| p.took.is_some());
    let broken = breaks
        .last()
        .map(|&at| (at, stages[(breaks.len() - 1).min(stages.len() - 1)]))
        .filter(|_| current.len() < 3);
    if let Some((at, before)) = broken {
        v.outcome = PullOutcome::Break;
        v.reasons.push(Reason::BreakStands);
        v.break_until = Some(at + before.dwell_s);
    } else if reached && v.at.0 + 1 >= stages.len() {
        v.outcome = PullOutcome::Reached;
        v.reasons.push(Reason::TargetReached);
    } else if reached {
        v.outcome = PullOutcome::Break;
        v.reasons.push(Reason::BreakDue);
    } else {
        pulling(&mut v, recording, channel, &current);
    }
    v
}

fn blank(stages: &[PullStage]) -> PullFinding {
    PullFinding {
        outcome: PullOutcome::NotBegun,
        reasons: vec![],
        pulls: vec![],
        at: (0, stages.len()),
        level: None,
        target: stages[0].target_pa,
        after: After::default(),
        now: 0.0,
        break_until: None,
        arrival: None,
        is_from_rig: false,
        gains: vec![],
        stall: None,
        at_pump: None,
        valve_offs: vec![],
        trace: vec![],
    }
}

/// Under way: does it stand, when does it arrive, what would help.
fn pulling(v: &mut PullFinding, recording: &Recording, channel: usize, current: &Series) {
    v.outcome = PullOutcome::Pulling;
    v.reasons.push(Reason::Pulling);
    if is_off(recording) {
        // The rise of a valve-off is not a stall.
        v.reasons.push(Reason::ValveOff);
        return;
    }
    let c = &recording.channels[channel];
    let level = v.level.unwrap_or(0.0);
    let scene = Scene {
        cold: coldest(recording),
        rig: recording.settings.rig.as_ref(),
        at_pump: v.at_pump,
        thermal: c.principle != Some(Principle::Diaphragm),
    };
    v.stall = stall(current, v.target, &scene);
    if v.stall.is_some() {
        v.outcome = PullOutcome::Stalled;
        v.reasons.push(Reason::Stalled);
    } else {
        let from = v.pulls.get(v.at.0).map_or(0.0, |p| p.from);
        let shift = |a: Arrival| Arrival {
            low: a.low.map(|t| t + from),
            middle: a.middle.map(|t| t + from),
            high: a.high.map(|t| t + from),
            floor: a.floor,
        };
        let top = c.range.map(|r| c.to_si(r));
        v.arrival = arrive(current, v.target, top).map(shift);
        if v.arrival.is_none() {
            from_rig(v, recording, level, v.now);
        }
    }
    if v.valve_offs.last().is_some_and(|o| is_gross(o, v.target)) {
        v.reasons.push(Reason::GrossRise);
    }
    if let Some(rig) = &recording.settings.rig {
        let (low, high) = litres(recording);
        let pumping = Pumping {
            volume: (low * high).sqrt() * 1e-3,
            from: level.max(2.0 * v.target),
            load: 0.0,
        };
        v.gains = gains(rig, &pumping, v.target);
    }
}

/// Cuts the trace into pulls at the breaks; returns the current pull on its own clock.
fn split(v: &mut PullFinding, whole: &Series, breaks: &[f64], stages: &[PullStage]) -> Series {
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
        let held = held(&part);
        let reaches = |level: f64| held.iter().position(|&p| p <= level).map(|i| part.t[i]);
        let took = reaches(target);
        let took_before = v.pulls.last().and_then(|before| reaches(before.target));
        let lowest = held.iter().copied().reduce(f64::min);
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
    // As many pulls as there were breaks, whatever was planned; a further one has the last one's target.
    v.at = (breaks.len(), stages.len().max(breaks.len() + 1));
    current
}

/// A level is reached when the mean over so long is at it, s: a gauge that flickers touches it long before.
const HELD: f64 = 30.0;

/// So many readings in that time make a mean; with fewer, typed by hand, the last one counts.
const MEAN_OF: usize = 4;

/// The mean of the last half minute at every reading; the reading itself where there are few.
fn held(s: &Series) -> Vec<f64> {
    let (mut from, mut sum) = (0, 0.0);
    (0..s.len())
        .map(|i| {
            sum += s.v[i];
            while s.t[i] - s.t[from] > HELD {
                sum -= s.v[from];
                from += 1;
            }
            let n = i + 1 - from;
            if n < MEAN_OF { s.v[i] } else { sum / n as f64 }
        })
        .collect()
}

/// Times by the rig's conductances, with a band: real speeds are a third above to half of the rated.
fn from_rig(v: &mut PullFinding, recording: &Recording, from: f64, now: f64) {
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
