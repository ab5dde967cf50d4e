//! A rig check: the pump alone, blanked off, or hoses and tools alone, shut off from the pump.
//!
//! A test of the kit, never of a system: it tells what a system must not be judged through, and what hoses that have to
//! stay in a decay add to it.

use super::explain::{Explanations, Known, explain};
use super::gauges::{coldest, drawn, far_gauge};
use super::judge::forecasts;
use super::{Forecast, VacuumPoint, words};
use crate::matter::water;
use crate::quantity::{MICRON, Temperature, Units, significant, span};
use crate::reading::{EventKind, Principle, Recording, RigPart, Series};

/// What a rig check says.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum RigOutcome {
    /// Fit to judge a system through.
    Good,
    /// The pump stays above its blank-off level.
    Short,
    /// Hoses give off gas or moisture.
    GivesGas,
    /// Hoses or tools leak.
    Leaks,
    /// They rise too fast to judge a system through; leak or gas is not told.
    Rises,
    /// Not to be said yet.
    Undecided,
}

/// All that is said about a rig check.
#[derive(Debug, Clone)]
pub struct RigVerdict {
    /// Outcome.
    pub outcome: RigOutcome,
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
    /// What was checked.
    pub part: RigPart,
    /// Lowest level, Pa.
    pub lowest: Option<f64>,
    /// Rise of the rig alone over its last part, Pa/s: smallest and largest.
    pub rate: Option<(f64, f64)>,
    /// The same as gas, Pa·L/s, where the rig's volume is known.
    pub flow: Option<(f64, f64)>,
    /// What makes it rise, most likely first.
    pub explanations: Vec<Forecast>,
    /// Limit of the pump's level, Pa.
    pub limit_pa: f64,
    /// When the hoses were shut off, s since the recording's start.
    pub isolated_at_s: Option<f64>,
    /// Points to draw.
    pub trace: Vec<VacuumPoint>,
}

/// A pump with fresh oil reaches this blanked off, micron: common practice, no source.
const BLANK_OFF: f64 = 50.0;
/// Hoses alone may rise so much a minute at the end, micron: in 5 L it would be one micron a minute. Common practice,
/// no source.
const RIG_RISE: f64 = 20.0;
/// Hoses are pumped down at least so far before they are shut off, micron: common practice, no source.
const DEEP: f64 = 1_500.0;
/// A hose set is watched at least so long, s.
const LEAST: f64 = 300.0;

/// Judges a rig check; sentences in `u`.
#[must_use]
pub fn judge_rig(recording: &Recording, u: Units) -> RigVerdict {
    let part = recording.settings.part.unwrap_or(RigPart::Hoses);
    let mut v = RigVerdict {
        outcome: RigOutcome::Undecided,
        reasons: vec![],
        headline: "No vacuum read yet".into(),
        summary: "Nothing has been recorded.".into(),
        evidence: vec![],
        next_step: match part {
            RigPart::Pump => "Blank the pump off on its own gauge, start it, and log the level until it no longer falls.".into(),
            RigPart::Hoses => "Pump the hoses down with their far ends shut, shut the valve at the pump, mark it “isolated”, and log the rise.".into(),
        },
        part,
        lowest: None,
        rate: None,
        flow: None,
        explanations: vec![],
        limit_pa: recording.settings.decay_limit.map_or(BLANK_OFF * MICRON, |l| l.level_pa),
        isolated_at_s: None,
        trace: vec![],
    };
    let Some((channel, whole)) = far_gauge(recording) else {
        v.reasons.push("too_few_readings");
        return v;
    };
    v.trace = drawn(&whole, 240);
    v.lowest = whole.v.iter().copied().reduce(f64::min);
    match part {
        RigPart::Pump => pump(&mut v, &whole, u),
        RigPart::Hoses => hoses(&mut v, recording, channel, &whole, u),
    }
    v
}

fn pump(v: &mut RigVerdict, s: &Series, u: Units) {
    let (lowest, limit, end) = (
        v.lowest.unwrap_or(f64::INFINITY),
        v.limit_pa,
        s.t[s.len() - 1],
    );
    let window = 180.0f64.min(0.5 * (end - s.t[0]));
    let falls = s
        .mean(end - window, end - 0.7 * window)
        .zip(s.mean(end - 0.3 * window, end))
        .is_none_or(|(a, b)| b < 0.95 * a);
    v.headline = format!("{} blanked off", u.level(lowest));
    v.evidence.push(format!(
        "A pump with good oil should reach {}.",
        u.level(limit)
    ));
    if lowest <= limit {
        (v.outcome, v.reasons) = (RigOutcome::Good, vec!["blank_off_reached"]);
        v.summary = "The pump is fit for this work.".into();
        v.next_step = "Check hoses and tools alone, then go to the system.".into();
    } else if falls || end - s.t[0] < 120.0 {
        v.reasons = vec!["still_falling"];
        v.summary = "It is still on its way down.".into();
        v.next_step = "Leave it running, ballast shut, until it no longer falls.".into();
    } else {
        (v.outcome, v.reasons) = (RigOutcome::Short, vec!["blank_off_missed"]);
        v.summary = format!(
            "It stands at {} and goes no lower: do not blame a system for what this pump cannot do.",
            u.level(lowest)
        );
        v.next_step = "Change the oil while the pump is warm, run it with the ballast open for a while, and check it again.".into();
    }
}

fn hoses(v: &mut RigVerdict, recording: &Recording, channel: usize, whole: &Series, u: Units) {
    let start = recording
        .last_event(EventKind::Isolated)
        .unwrap_or(whole.t[0]);
    v.isolated_at_s = Some(start);
    let mut s = whole.between(start, f64::INFINITY);
    s.t.iter_mut().for_each(|t| *t -= start);
    if s.len() < 3 {
        v.reasons.push("too_few_readings");
        v.summary = "There is too little since the valve was shut.".into();
        return;
    }
    if s.v[0] > DEEP * MICRON {
        v.reasons.push("not_pumped_down");
        v.headline = u.level(s.v[0]);
        v.summary = format!(
            "It was shut off above {}: what hoses give off shows only in a vacuum.",
            u.level(DEEP * MICRON)
        );
        return;
    }
    let end = s.t[s.len() - 1];
    let c = &recording.channels[channel];
    let digit = c.resolution_si().unwrap_or(MICRON);
    let cold = coldest(recording);
    let known = Known {
        evacuated: recording.settings.evacuated_s,
        digit,
        negligible: (RIG_RISE * MICRON * 10.0, 600.0),
        saturation: cold.map(|k| water::saturation(Temperature::from_k(k)).pa()),
        kelvin: cold.unwrap_or(293.15),
        drift: None,
        place: None,
        matters: RIG_RISE * MICRON / 60.0,
        limit: 500.0 * MICRON,
    };
    let (early, (low, high)) = slopes(&s, digit);
    v.rate = Some((low, high));
    v.flow = recording.settings.volume_l.map(|l| (low * l, high * l));
    let per_minute = |r: f64| format!("{} a minute", u.level_change(60.0 * r));
    v.headline = format!("{} after {}", u.level(s.v[s.len() - 1]), span(end));
    v.evidence.push(format!(
        "From {} when shut off; it rose {} at first and {} to {} at the end.",
        u.level(s.v[0]),
        per_minute(early),
        significant(u.vacuum.delta_of_si(60.0 * low), 2),
        per_minute(high)
    ));
    if let Some((low, high)) = v.flow {
        let litres = recording.settings.volume_l.unwrap_or(0.0);
        let add = |q: f64| 60.0 * q / (5.0 + litres);
        v.evidence.push(format!(
            "In a system of 5 L it would add {} to {} a minute.",
            significant(u.vacuum.delta_of_si(add(low)), 2),
            u.level_change(add(high))
        ));
    }
    let found = explain(&s, &known);
    if let Some(found) = &found {
        let scene = words::Scene {
            series: &s,
            known: &known,
            cold,
            thermal: c.principle != Some(Principle::Diaphragm),
            units: u,
        };
        v.explanations = forecasts(found, &scene, start, (2.0 * end).max(LEAST), 0.0);
    }
    decide(v, found.as_ref(), early, (low, high), end);
}

/// Slope after the first twentieth, and the band of the slope over the last two fifths, Pa/s.
fn slopes(s: &Series, digit: f64) -> (f64, (f64, f64)) {
    let end = s.t[s.len() - 1];
    let third = s.at(end / 3.0).unwrap_or(s.v[0]);
    let early = (third - s.v[0]) / (end / 3.0);
    let part = s.between(0.6 * end, end);
    let (a, b) = if part.len() >= 4 {
        let half = 0.5 * (part.t[0] + end);
        (part.mean(part.t[0], half), part.mean(half, end))
    } else {
        (s.at(0.6 * end), s.at(end))
    };
    let span = if part.len() >= 4 {
        0.5 * (end - part.t[0])
    } else {
        0.4 * end
    };
    let late = (b.unwrap_or(0.0) - a.unwrap_or(0.0)) / span;
    let doubt = (digit + 0.004 * s.v[s.len() - 1]) / span;
    (early, ((late - doubt).max(0.0), (late + doubt).max(0.0)))
}

fn decide(
    v: &mut RigVerdict,
    found: Option<&Explanations>,
    early: f64,
    (low, high): (f64, f64),
    end: f64,
) {
    let limit = RIG_RISE * MICRON / 60.0;
    let bends = high < 0.7 * early;
    if high <= limit && end >= LEAST {
        (v.outcome, v.reasons) = (RigOutcome::Good, vec!["rig_holds"]);
        v.summary = "Hoses and tools hold: what a system shows through them is its own.".into();
        v.next_step = "Go to the system.".into();
        return;
    }
    let leak = found.map_or(0.5, |f| f.leak_probability);
    if low > limit && (bends || leak < 0.5) && (end >= 100.0) {
        (v.outcome, v.reasons) = (RigOutcome::GivesGas, vec!["rig_gives_gas"]);
        v.summary = "It rises and bends: rubber, oil or moisture in the hoses gives off gas. Do not judge a system through them.".into();
        v.next_step = "Pump the hoses for hours, warm them, or use others; until then valve them off before any decay test.".into();
    } else if low > limit && leak > 0.8 && end >= LEAST {
        (v.outcome, v.reasons) = (RigOutcome::Leaks, vec!["rig_leaks"]);
        v.summary = "It rises straight: a seal, a core tool or a hose end lets air in.".into();
        v.next_step = "Tighten and swap one piece after the other: gaskets, core depressors, the core tool’s slide.".into();
    } else if low > limit && end >= LEAST {
        (v.outcome, v.reasons) = (RigOutcome::Rises, vec!["rig_rises"]);
        v.summary =
            "It rises too fast to judge a system through, whether it leaks or gives off gas."
                .into();
        v.next_step = "Swap one piece after the other, or valve the hoses off before any decay test; a longer pull tells gas from a leak.".into();
    } else {
        v.reasons = vec![if end < LEAST {
            "too_short"
        } else {
            "shape_unclear"
        }];
        v.summary = if high <= limit {
            "It rises little so far.".into()
        } else {
            "It rises; what it is that rises is not clear yet.".into()
        };
        v.next_step = format!("Watch it for at least {}.", span(LEAST.max(1.5 * end)));
    }
}
