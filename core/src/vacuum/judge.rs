//! The verdict on a decay: the procedure's rule exactly, and what the rise is most likely made of.

use super::background::{Background, GaugePlace};
use super::doubts::{self, Doubt};
use super::explain::{Explanation, Explanations, explain};
use super::finding::{
    DecayCase, DecayFinding, DecayOutcome, Forecast, LeakRate, Rise, VacuumPoint,
};
use super::gauges::{coldest, drawn, drift, far_gauge};
use super::notes;
use super::trace::Noise;
use crate::matter::atmosphere::SEA_LEVEL;
use crate::matter::water;
use crate::quantity::{MICRON, Temperature};
use crate::reading::{DecayLimit, EventKind, Position, Principle, Quantity, Recording, Series};
use crate::reason::Reason;

/// Stays below 500 micron for 10 min: common practice, no source.
const DEFAULT: DecayLimit = DecayLimit {
    level_pa: 500.0 * MICRON,
    at_s: 600.0,
    start_max_pa: None,
    rise: None,
};
/// Points of a drawn trace, at most.
pub(super) const DRAWN: usize = 240;

/// Judges a decay.
#[must_use]
pub fn judge_decay(recording: &Recording) -> DecayFinding {
    let mut v = blank(recording);
    let Some((channel, whole)) = far_gauge(recording) else {
        let case = on_a_dial(recording).unwrap_or(DecayCase::NothingRead);
        return because(v, Reason::TooFewReadings, case);
    };
    v.trace = drawn(&whole, DRAWN);
    let level = whole.v.last().copied().unwrap_or(0.0);
    let isolated = recording.last_event(EventKind::Isolated);
    if !recording.settings.isolated || pump_runs(recording) {
        v.outcome = DecayOutcome::NotApplicable;
        return because(v, Reason::NotIsolated, DecayCase::NotIsolated { level });
    }
    if recording.settings.awaits_isolation && isolated.is_none() {
        return because(v, Reason::AwaitsIsolation, DecayCase::Awaits { level });
    }
    let start = isolated.unwrap_or(whole.t[0]);
    v.isolated_at_s = Some(start);
    let mut series = whole.between(start, f64::INFINITY);
    series.t.iter_mut().for_each(|t| *t -= start);
    if series.len() < 2 {
        return because(v, Reason::TooFewReadings, DecayCase::JustIsolated);
    }
    let digit = digit_of(recording, channel);
    let (series, slips) = doubts::without_slips(&series);
    if !slips.is_empty() {
        v.doubts = slips;
        v.reasons.push(Reason::ReadingInDoubt);
    }
    let seems_pumped = DecayCase::SeemsPumped {
        from: series.v[0],
        to: series.v[series.len() - 1],
        took: series.t[series.len() - 1],
    };
    if let Some(late) = doubts::isolated_later(&series, digit) {
        v.doubts.push(late);
        return because(v, Reason::IsolatedLater, seems_pumped);
    }
    let top = doubts::top_of_display(&series, digit);
    v.doubts.extend(top);
    let shown = below_top(&series, top_of(&v));
    let jumps = notes::jumps(&shown, digit);
    if jumps || notes::falls(&series, digit, drift(recording)) {
        let reason = if jumps {
            Reason::JumpsAsIfPumped
        } else {
            Reason::FallsAsIfPumped
        };
        return because(v, reason, seems_pumped);
    }
    under_the_rule(v, recording, channel, &series)
}

/// Below this against the air a gauge of pressure reads a vacuum, Pa.
const VACUUM: f64 = -0.5 * SEA_LEVEL.pa();

/// A dial that reads against the air, where a gauge of absolute pressure was wanted.
fn on_a_dial(recording: &Recording) -> Option<DecayCase> {
    let (channel, reads) = recording
        .channels_of(Quantity::GaugePressure)
        .filter_map(|i| Some((i, *recording.series(i).v.last()?)))
        .min_by(|a, b| a.1.total_cmp(&b.1))?;
    let c = &recording.channels[channel];
    (reads < VACUUM).then(|| DecayCase::OnADial {
        reads,
        unit: c.unit,
        digit: c.resolution_si().unwrap_or_else(|| c.unit.delta_to_si(1.0)),
    })
}

/// When the display ended, s since isolation, if it did.
fn top_of(v: &DecayFinding) -> Option<f64> {
    v.doubts.iter().find_map(|d| match d {
        Doubt::TopOfDisplay { from, .. } => Some(*from),
        _ => None,
    })
}

/// The readings before the display ended at `top`, s.
fn below_top(s: &Series, top: Option<f64>) -> Series {
    let below = s.t.partition_point(|t| top.is_none_or(|top| *t < top));
    Series {
        t: s.t[..below].to_vec(),
        v: s.v[..below].to_vec(),
    }
}

fn blank(recording: &Recording) -> DecayFinding {
    DecayFinding {
        outcome: DecayOutcome::Undecided,
        reasons: vec![],
        case: DecayCase::NothingRead,
        explanations: vec![],
        leak_probability: None,
        matters_pa_s: None,
        matters_probability: None,
        leak_rate: None,
        rate_of_leak: None,
        accuracy_pa: None,
        doubts: vec![],
        hidden_pa_s: None,
        rising: false,
        leak_likely: false,
        reaches_s: None,
        warns: false,
        comes_apart_s: None,
        isolated_at_s: None,
        limit: recording.settings.decay_limit.unwrap_or(DEFAULT),
        limit_is_default: recording.settings.decay_limit.is_none(),
        at_rule: None,
        gap: None,
        trace: vec![],
    }
}

fn because(mut v: DecayFinding, reason: Reason, case: DecayCase) -> DecayFinding {
    v.reasons.push(reason);
    v.case = case;
    v
}

/// Whether the pump was started after the last isolation, and not stopped since.
fn pump_runs(recording: &Recording) -> bool {
    let last = |kind| recording.last_event(kind);
    last(EventKind::PumpOn).is_some_and(|on| {
        last(EventKind::Isolated).is_none_or(|i| i < on)
            && last(EventKind::PumpOff).is_none_or(|off| off < on)
    })
}

pub(super) fn digit_of(recording: &Recording, channel: usize) -> f64 {
    recording.channels[channel]
        .resolution_si()
        .unwrap_or(MICRON)
}

/// A closed system's rise: the rule exactly, then what it is most likely made of.
fn under_the_rule(
    mut v: DecayFinding,
    recording: &Recording,
    channel: usize,
    series: &Series,
) -> DecayFinding {
    v.accuracy_pa = recording.channels[channel].accuracy_si();
    apply_rule(&mut v, series);
    if recording.calibration_overdue().is_some() {
        v.reasons.push(Reason::CalibrationOverdue);
    }
    if recording.beyond_range().is_some() {
        v.reasons.push(Reason::BeyondRange);
    }
    let digit = digit_of(recording, channel);
    let mut known = known(recording, channel, series, &v.limit, digit);
    let litres = notes::system_litres(recording);
    let rig = recording.settings.rig_share.as_ref();
    let bare = rig.map(|r| notes::without_rig(series, r, litres));
    let weighed = bare.as_ref().unwrap_or(series);
    known.top = top_of(&v);
    let standing = known
        .top
        .is_none()
        .then(|| doubts::stuck(weighed, digit))
        .flatten();
    let moving = match standing {
        Some(Doubt::Stuck {
            from,
            moved_before: true,
            ..
        }) => Some(weighed.between(0.0, from)),
        _ => None,
    };
    stood_still(&mut v, standing);
    let weighed = moving.as_ref().unwrap_or(weighed);
    let found = explain(weighed, &known);
    let noise = found.as_ref().map(|f| f.noise);
    let shown = below_top(weighed, known.top);
    let shown = if shown.len() < 2 { weighed } else { &shown };
    let rise = Rise {
        last: weighed.v[weighed.len() - 1],
        lasted: weighed.span(),
        ..rise_of(shown, recording, channel, noise)
    };
    watch(&mut v, &rise, &known, found.as_ref());
    v.case = DecayCase::Judged {
        rise,
        noticed: notes::noticed(recording, channel, series),
    };
    let Some(found) = found else {
        v.reasons.push(Reason::TooFewReadings);
        return v;
    };
    let first = weighed.v[0];
    if !found.fits {
        // Something else happened in it: no cause is named, and nothing is bounded.
        v.reasons.push(Reason::NoShapeFits);
        return v;
    }
    (v.matters_pa_s, v.matters_probability) = (Some(known.matters), Some(found.matters));
    v.hidden_pa_s = Some(
        found
            .leak_rate
            .2
            .max(known.negligible.0 / known.negligible.1),
    );
    reason(&mut v, &found, first);
    let last = series.t[series.len() - 1];
    let until = (2.0 * last)
        .max(v.limit.at_s * 1.2)
        .min(last + 3600.0)
        .max(last + 300.0);
    // What was taken off for the rig is put back on what is drawn.
    let added = rig.map_or(0.0, |r| notes::rig_rate(r, litres));
    v.explanations = forecasts(&found, v.isolated_at_s.unwrap_or(0.0), until, added);
    v
}

/// A leak that matters is likely from here on, and no longer left out of the word.
const LIKELY: f64 = 0.5;
/// Less likely than this it is not reckoned with where the trace has levelled.
const UNLIKELY: f64 = 0.1;

/// What a decay that passes is worth: by when it would stand at the limit if it went on as it last did, and by how
/// likely a leak is. From two readings that is their mean slope, which a bending rise never exceeds later: fewer
/// readings make the word no stronger.
fn watch(v: &mut DecayFinding, r: &Rise, known: &Background, found: Option<&Explanations>) {
    // What stands lower than at isolation has not risen, whatever may come.
    if v.outcome != DecayOutcome::Passes || r.last <= r.first {
        return;
    }
    let mean = (r.last - r.first) / r.lasted.max(1.0);
    let shape = found.filter(|f| f.fits);
    let rate = shape.map_or(mean, |_| r.late.max(0.0));
    let leak = shape.map_or(0.0, |f| f.matters);
    let slowest = known.negligible.0 / known.negligible.1;
    v.leak_likely = leak >= LIKELY;
    // Where something happened in the trace nothing says what it did since: any rise that counts is watched.
    let is_odd = found.is_some_and(|f| !f.fits) && r.last - r.first > known.negligible.0;
    // Slower than what counts in ten minutes, but watched for so long that it is seen: it has crossed the limit, or
    // will within as long again.
    let crosses = r.last > v.limit.level_pa || v.limit.level_pa - r.last < rate * r.lasted;
    v.rising = rate > slowest || leak >= UNLIKELY || is_odd || crosses;
    // A leak that hides in a levelling trace goes on for ever: its own slope counts then.
    let onward = rate.max(if v.leak_likely { known.matters } else { 0.0 });
    v.reaches_s =
        (v.rising && onward > 0.0).then(|| ((v.limit.level_pa - r.last) / onward).max(0.0));
}

/// A gauge that stood still at the rule's time shows nothing of it.
fn stood_still(v: &mut DecayFinding, standing: Option<Doubt>) {
    let Some(doubt) = standing else { return };
    v.doubts.push(doubt);
    let Doubt::Stuck {
        from, moved_before, ..
    } = doubt
    else {
        return;
    };
    if moved_before {
        v.reasons.push(Reason::GaugeStuck);
        if v.outcome == DecayOutcome::Passes && from < v.limit.at_s {
            v.outcome = DecayOutcome::Undecided;
        }
    }
}

/// What a rise since isolation showed.
pub(super) fn rise_of(
    s: &Series,
    recording: &Recording,
    channel: usize,
    noise: Option<Noise>,
) -> Rise {
    let end = s.t[s.len() - 1];
    // Mean level and when it stood, of a part of the time; a gap has its middle.
    let mean = |a: f64, b: f64| {
        let w = s.between(a * end, b * end);
        let n = w.len() as f64;
        if w.is_empty() {
            let middle = 0.5 * (a + b) * end;
            (middle, s.at(middle).unwrap_or(0.0))
        } else {
            (w.t.iter().sum::<f64>() / n, w.v.iter().sum::<f64>() / n)
        }
    };
    // Of the second and the last quarter, when the ends have evened out; a short trace has no slope.
    let slope = |from: (f64, f64), to: (f64, f64)| {
        if to.0 > from.0 {
            (to.1 - from.1) / (to.0 - from.0)
        } else {
            0.0
        }
    };
    let cold = coldest(recording);
    let early = slope(mean(0.15, 0.3), mean(0.4, 0.55));
    let late = slope(mean(0.6, 0.75), mean(0.85, 1.0));
    // Either slope is off by what fast noise and digits leave of its means and by what the gauge wanders between them.
    let noise = noise.unwrap_or_else(Noise::usual);
    let (level, each) = (s.v[s.len() - 1], (0.15 * s.len() as f64).max(1.0));
    let digit = digit_of(recording, channel);
    let mean_off = ((noise.fast * level).powi(2) / each + digit * digit / 12.0) * 2.0;
    let wandered = (noise.wander * level).powi(2) * 0.25 * end / 60.0;
    let doubt = (2.0 * (mean_off + wandered)).sqrt() / (0.25 * end).max(1.0);
    Rise {
        first: s.v[0],
        last: level,
        lasted: end,
        early,
        late,
        bends: (early - late).abs() > (0.2 * early.abs().max(late.abs())).max(2.0 * doubt),
        cold,
        saturation: cold.map(|k| water::saturation(Temperature::from_k(k)).pa()),
        thermal: recording.channels[channel].principle != Some(Principle::Diaphragm),
        evacuated: recording.settings.evacuated_s,
    }
}

/// Every explanation with its curve from isolation at `start` to `until` s after it; `added` Pa/s on top.
pub(super) fn forecasts(found: &Explanations, start: f64, until: f64, added: f64) -> Vec<Forecast> {
    let drawn = |e: &Explanation| {
        (0..=60)
            .map(|k| until * f64::from(k) / 60.0)
            .map(|t| VacuumPoint {
                at_s: start + t,
                level: e.at(t) + added * t,
            })
            .collect()
    };
    found
        .list
        .iter()
        .map(|e| Forecast {
            cause: e.cause,
            probability: e.probability,
            level: e.level(),
            levelling: e.levelling(),
            curve: drawn(e),
        })
        .collect()
}

/// What is known beside the trace, for the rule `limit`.
fn known(
    recording: &Recording,
    channel: usize,
    series: &Series,
    limit: &DecayLimit,
    digit: f64,
) -> Background {
    let first = series.v[0];
    let cold = coldest(recording);
    Background {
        evacuated: recording.settings.evacuated_s,
        digit,
        negligible: (
            (2.0 * digit).max(0.05 * (limit.level_pa - first)),
            limit.at_s.max(600.0),
        ),
        saturation: cold.map(|k| water::saturation(Temperature::from_k(k)).pa()),
        kelvin: cold.unwrap_or(293.15),
        drift: drift(recording),
        place: match recording.channels[channel].position {
            Some(Position::NearPump) => Some(GaugePlace::NearPump),
            Some(Position::Far) => Some(GaugePlace::Far),
            _ => None,
        },
        matters: (MICRON / 60.0).max((limit.level_pa - first) / 3600.0),
        limit: limit.level_pa,
        top: None,
    }
}

/// The rule, exactly: level at its time, level at isolation, rise over a time.
fn apply_rule(v: &mut DecayFinding, s: &Series) {
    let (last_t, last_v) = (s.t[s.len() - 1], s.v[s.len() - 1]);
    let limit = v.limit;
    let over_start = limit.start_max_pa.is_some_and(|max| s.v[0] > max);
    let over_rise = limit
        .rise
        .is_some_and(|(pa, over)| s.at(over.min(last_t)).unwrap_or(0.0) - s.v[0] > pa);
    if over_start {
        v.reasons.push(Reason::StartTooHigh);
    }
    if over_rise {
        v.reasons.push(Reason::RisesTooMuch);
    }
    // First read after the rule's time and over it: it may have crossed before or after.
    let late = s.t[0] > limit.at_s + 0.5 && s.v[0] > limit.level_pa;
    if late {
        v.gap = Some((0.0, s.t[0]));
        v.reasons.push(Reason::CrossedInAGap);
    } else if last_t + 0.5 < limit.at_s {
        if last_v > limit.level_pa && last_v >= s.v[0] {
            v.reasons.push(Reason::AlreadyOver);
            v.outcome = DecayOutcome::Fails;
        } else {
            v.reasons.push(Reason::RuleTimeNotReached);
        }
    } else if let Some((from, to)) = notes::crossing_unseen(s, limit.at_s, limit.level_pa) {
        // Under it before the gap and over it after: when it crossed nobody saw.
        v.gap = Some((from, to));
        v.reasons.push(Reason::CrossedInAGap);
    } else {
        v.at_rule = s.at(limit.at_s);
        let over = v.at_rule.is_none_or(|p| p > limit.level_pa);
        v.reasons.push(if over {
            Reason::OverLimit
        } else {
            Reason::WithinLimit
        });
        v.outcome = if over {
            DecayOutcome::Fails
        } else {
            DecayOutcome::Passes
        };
    }
    // A gauge says no more of an absolute level than its accuracy: a rise is a difference and does not feel it.
    let level = v.at_rule.unwrap_or(last_v);
    let is_decided = matches!(v.outcome, DecayOutcome::Passes | DecayOutcome::Fails);
    if is_decided
        && v.accuracy_pa
            .is_some_and(|a| (level - limit.level_pa).abs() < a)
    {
        v.reasons.push(Reason::TooCloseToCall);
        v.outcome = DecayOutcome::Undecided;
    }
    if over_start || over_rise {
        v.outcome = DecayOutcome::Fails;
    }
}

fn reason(v: &mut DecayFinding, found: &Explanations, first: f64) {
    v.leak_probability = Some(found.leak_probability);
    let (value, low, high) = found.leak_rate;
    v.leak_rate = Some(LeakRate { value, low, high });
    v.rate_of_leak = Some(found.rate_of_leak);
    // A limit is crossed from below.
    let is_below = first <= v.limit.level_pa;
    v.warns = v.outcome != DecayOutcome::Fails && is_below && found.crosses >= 0.5;
    v.comes_apart_s = found.comes_apart;
}
