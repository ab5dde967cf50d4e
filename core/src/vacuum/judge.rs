//! The verdict on a decay: the procedure's rule exactly, and what the rise is most likely made of.

use super::explain::{Explanation, Explanations, Known, Place, explain};
use super::gauges::{coldest, drawn, drift, far_gauge};
use super::prior::Cause;
use super::{notes, words};
use crate::matter::water;
use crate::quantity::{MICRON, Temperature, Units};
use crate::reading::{DecayLimit, EventKind, Position, Principle, Recording, Series};

/// Outcome of a decay.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum DecayOutcome {
    /// Within the rule.
    Passes,
    /// Over it.
    Fails,
    /// The rule's time has not come.
    Undecided,
    /// Not a decay test.
    NotApplicable,
}

/// Leak rate, Pa/s.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct LeakRate {
    /// Mean.
    pub value: f64,
    /// 2.5 % bound.
    pub low: f64,
    /// 97.5 % bound.
    pub high: f64,
}

/// A point of the trace, seconds since the recording's start and Pa.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct VacuumPoint {
    /// Seconds since the recording's start.
    pub at_s: f64,
    /// Level.
    pub level: f64,
}

/// One explanation, drawn and in words.
#[derive(Debug, Clone)]
pub struct Forecast {
    /// The shape.
    pub cause: Cause,
    /// Share of belief.
    pub probability: f64,
    /// How likely and why.
    pub words: String,
    /// The curve, from isolation into the future.
    pub curve: Vec<VacuumPoint>,
}

/// All that is said about a decay.
#[derive(Debug, Clone)]
pub struct DecayVerdict {
    /// Outcome.
    pub outcome: DecayOutcome,
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
    /// Most likely first.
    pub explanations: Vec<Forecast>,
    /// Sum over causes with a leak.
    pub leak_probability: Option<f64>,
    /// A leak of at least this rate (Pa/s) matters: a micron a minute, or what crosses the limit within the hour.
    pub matters_pa_s: Option<f64>,
    /// Probability of such a leak.
    pub matters_probability: Option<f64>,
    /// The leak's size.
    pub leak_rate: Option<LeakRate>,
    /// The largest straight inflow that this test could have hidden, Pa/s.
    pub hidden_pa_s: Option<f64>,
    /// It passes, but something still flows in.
    pub rising: bool,
    /// The forecast crosses the limit within the hour.
    pub warns: bool,
    /// Seconds since isolation at which leak and no leak will differ visibly; `None`: waiting won't do it (or they do already).
    pub comes_apart_s: Option<f64>,
    /// Isolation, s since the recording's start.
    pub isolated_at_s: Option<f64>,
    /// The rule used.
    pub limit: DecayLimit,
    /// It was the default.
    pub limit_is_default: bool,
    /// The explanations themselves, for those who argue on.
    pub found: Option<Explanations>,
    /// Level at the rule's time, Pa.
    pub at_rule: Option<f64>,
    /// The gap in which it crossed the limit, s since isolation.
    pub gap: Option<(f64, f64)>,
    /// Points to draw.
    pub trace: Vec<VacuumPoint>,
}

/// Stays below 500 micron for 10 min: common practice, no source.
const DEFAULT: DecayLimit = DecayLimit {
    level_pa: 500.0 * MICRON,
    at_s: 600.0,
    start_max_pa: None,
    rise: None,
};
/// How far ahead coming apart is looked for, s.
const PATIENCE: f64 = 4.0 * 3600.0;

/// Judges a decay; sentences in `units`.
#[must_use]
pub fn judge_decay(recording: &Recording, units: Units) -> DecayVerdict {
    let limit = recording.settings.decay_limit.unwrap_or(DEFAULT);
    let mut v = DecayVerdict {
        outcome: DecayOutcome::Undecided,
        reasons: vec![],
        headline: String::new(),
        summary: String::new(),
        evidence: vec![],
        next_step: String::new(),
        explanations: vec![],
        leak_probability: None,
        matters_pa_s: None,
        matters_probability: None,
        leak_rate: None,
        hidden_pa_s: None,
        rising: false,
        warns: false,
        comes_apart_s: None,
        isolated_at_s: None,
        limit,
        limit_is_default: recording.settings.decay_limit.is_none(),
        found: None,
        at_rule: None,
        gap: None,
        trace: vec![],
    };
    let Some((channel, whole)) = far_gauge(recording) else {
        v.reasons.push("too_few_readings");
        return v.said(words::nothing_read());
    };
    v.trace = drawn(&whole, 240);
    let isolated = recording.last_event(EventKind::Isolated);
    let pump_on = recording.last_event(EventKind::PumpOn);
    let pump_runs = pump_on.is_some_and(|on| {
        isolated.is_none_or(|i| i < on)
            && recording
                .last_event(EventKind::PumpOff)
                .is_none_or(|off| off < on)
    });
    if !recording.settings.isolated || pump_runs {
        v.outcome = DecayOutcome::NotApplicable;
        v.reasons.push("not_isolated");
        return v.said(words::not_isolated(
            whole.v.last().copied().unwrap_or(0.0),
            units,
        ));
    }
    if recording.settings.awaits_isolation && isolated.is_none() {
        v.reasons.push("awaits_isolation");
        return v.said(words::awaits(whole.v.last().copied().unwrap_or(0.0), units));
    }
    let start = isolated.unwrap_or(whole.t[0]);
    v.isolated_at_s = Some(start);
    let mut series = whole.between(start, f64::INFINITY);
    series.t.iter_mut().for_each(|t| *t -= start);
    if series.len() < 2 {
        v.reasons.push("too_few_readings");
        return v.said(words::just_isolated());
    }
    let c = &recording.channels[channel];
    let digit = c.resolution_si().unwrap_or(MICRON);
    let jumps = notes::jumps(&series, digit);
    if jumps || notes::falls(&series, digit, drift(recording)) {
        v.reasons.push(if jumps {
            "jumps_as_if_pumped"
        } else {
            "falls_as_if_pumped"
        });
        return v.said(words::seems_pumped(&series, units));
    }
    apply_rule(&mut v, &series);
    if recording.calibration_overdue().is_some() {
        v.reasons.push("calibration_overdue");
    }
    if recording.beyond_range().is_some() {
        v.reasons.push("beyond_range");
    }
    let cold = coldest(recording);
    let known = known(recording, channel, &series, &limit, digit);
    let bare = recording
        .settings
        .rig_share
        .as_ref()
        .map(|r| notes::without_rig(&series, r, notes::system_litres(recording)));
    let weighed = bare.as_ref().unwrap_or(&series);
    let scene = words::Scene {
        series: weighed,
        known: &known,
        cold,
        thermal: c.principle != Some(Principle::Diaphragm),
        units,
    };
    let Some(found) = explain(weighed, &known) else {
        v.reasons.push("too_few_readings");
        let said = words::judged(&v, None, &scene);
        return v.said(said);
    };
    (v.matters_pa_s, v.matters_probability) = (Some(known.matters), Some(found.matters));
    v.hidden_pa_s = Some(
        found
            .leak_rate
            .2
            .max(known.negligible.0 / known.negligible.1),
    );
    reason(&mut v, &found, weighed, digit);
    let last = series.t[series.len() - 1];
    // What was taken off for the rig is put back on what is drawn.
    let rig = recording
        .settings
        .rig_share
        .as_ref()
        .map_or(0.0, |r| notes::rig_rate(r, notes::system_litres(recording)));
    let until = (2.0 * last)
        .max(limit.at_s * 1.2)
        .min(last + 3600.0)
        .max(last + 300.0);
    v.explanations = forecasts(&found, &scene, start, until, rig);
    let mut said = words::judged(&v, Some(&found), &scene);
    said.evidence
        .extend(notes::water(recording, &found, cold, scene.thermal, units));
    said.evidence
        .extend(notes::notes(recording, channel, &series, units));
    v.found = Some(found);
    v.said(said)
}

/// Every explanation in words, with its curve from isolation at `start` to `until` s after it; `added` Pa/s on top.
pub(super) fn forecasts(
    found: &Explanations,
    scene: &words::Scene<'_>,
    start: f64,
    until: f64,
    added: f64,
) -> Vec<Forecast> {
    let times = || (0..=60).map(|k| until * f64::from(k) / 60.0);
    let drawn = |e: &Explanation| {
        times()
            .map(|t| VacuumPoint {
                at_s: start + t,
                level: e.at(t) + added * t,
            })
            .collect()
    };
    let one = |(i, e): (usize, &Explanation)| Forecast {
        cause: e.cause,
        probability: e.probability,
        words: words::explanation(found, i, scene),
        curve: drawn(e),
    };
    found.list.iter().enumerate().map(one).collect()
}

/// What is known beside the trace, for the rule `limit`.
fn known(
    recording: &Recording,
    channel: usize,
    series: &Series,
    limit: &DecayLimit,
    digit: f64,
) -> Known {
    let first = series.v[0];
    let cold = coldest(recording);
    Known {
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
            Some(Position::NearPump) => Some(Place::NearPump),
            Some(Position::Far) => Some(Place::Far),
            _ => None,
        },
        matters: (MICRON / 60.0).max((limit.level_pa - first) / 3600.0),
        limit: limit.level_pa,
    }
}

/// The rule, exactly: level at its time, level at isolation, rise over a time.
fn apply_rule(v: &mut DecayVerdict, s: &Series) {
    let (last_t, last_v) = (s.t[s.len() - 1], s.v[s.len() - 1]);
    let limit = v.limit;
    let over_start = limit.start_max_pa.is_some_and(|max| s.v[0] > max);
    let over_rise = limit
        .rise
        .is_some_and(|(pa, over)| s.at(over.min(last_t)).unwrap_or(0.0) - s.v[0] > pa);
    if over_start {
        v.reasons.push("start_too_high");
    }
    if over_rise {
        v.reasons.push("rises_too_much");
    }
    // First read after the rule's time and over it: it may have crossed before or after.
    let late = s.t[0] > limit.at_s + 0.5 && s.v[0] > limit.level_pa;
    if late {
        v.gap = Some((0.0, s.t[0]));
        v.reasons.push("crossed_in_a_gap");
    } else if last_t + 0.5 < limit.at_s {
        if last_v > limit.level_pa && last_v >= s.v[0] {
            v.reasons.push("already_over");
            v.outcome = DecayOutcome::Fails;
        } else {
            v.reasons.push("rule_time_not_reached");
        }
    } else if let Some((from, to)) = notes::crossing_unseen(s, limit.at_s, limit.level_pa) {
        // Under it before the gap and over it after: when it crossed nobody saw.
        v.gap = Some((from, to));
        v.reasons.push("crossed_in_a_gap");
    } else {
        v.at_rule = s.at(limit.at_s);
        let over = v.at_rule.is_none_or(|p| p > limit.level_pa);
        v.reasons
            .push(if over { "over_limit" } else { "within_limit" });
        v.outcome = if over {
            DecayOutcome::Fails
        } else {
            DecayOutcome::Passes
        };
    }
    if over_start || over_rise {
        v.outcome = DecayOutcome::Fails;
    }
}

fn reason(v: &mut DecayVerdict, found: &Explanations, s: &Series, digit: f64) {
    let last = s.t[s.len() - 1];
    v.leak_probability = Some(found.leak_probability);
    let (value, low, high) = found.leak_rate;
    v.leak_rate = Some(LeakRate { value, low, high });
    let still = found
        .list
        .iter()
        .find(|e| e.cause == Cause::Still)
        .map_or(0.0, |e| e.probability);
    v.rising = v.outcome == DecayOutcome::Passes && still < 0.5;
    if v.outcome != DecayOutcome::Fails {
        v.warns = found.crosses >= 0.5;
    }
    let leak = found
        .list
        .iter()
        .find(|e| e.cause.has_leak() && e.probability > 0.05);
    let other = found
        .list
        .iter()
        .find(|e| !e.cause.has_leak() && e.probability > 0.05);
    if let (Some(a), Some(b)) = (leak, other) {
        let (fast, wander) = found.noise;
        v.comes_apart_s = (1..240)
            .map(|k| last + f64::from(k) * 60.0)
            .take_while(|t| *t < PATIENCE)
            .find(|&t| {
                let sd = a.at(t) * (fast * fast + wander * wander * (t - last) / 60.0).sqrt();
                (a.at(t) - b.at(t)).abs() > 3.0 * sd + digit
            });
    }
}

impl DecayVerdict {
    fn said(mut self, said: words::Said) -> Self {
        (self.headline, self.summary, self.evidence, self.next_step) =
            (said.headline, said.summary, said.evidence, said.next_step);
        self
    }
}
