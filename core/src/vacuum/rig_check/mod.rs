//! A rig check: the pump alone, blanked off, or hoses and tools alone, shut off from the pump.
//!
//! A test of the kit, never of a system: it tells what a system must not be judged through, and what hoses that have to
//! stay in a decay add to it.

mod words;

pub use words::say_rig;

use super::background::Background;
use super::explain::{Explanations, explain};
use super::gauges::{coldest, drawn, far_gauge};
use super::judge::{DRAWN, digit_of, forecasts, rise_of};
use super::{Forecast, Rise, VacuumPoint};
use crate::matter::water;
use crate::named;
use crate::quantity::{MICRON, Temperature};
use crate::reading::{EventKind, Recording, RigPart, Series};
use crate::reason::Reason;
use serde::{Deserialize, Serialize};

named! {
    /// What a rig check says.
    RigOutcome {
        /// Fit to judge a system through.
        Good = "good",
        /// The pump stays above its blank-off level.
        Short = "short",
        /// Hoses give off gas or moisture.
        GivesGas = "gives_gas",
        /// Hoses or tools leak.
        Leaks = "leaks",
        /// They rise too fast to judge a system through; leak or gas is not told.
        Rises = "rises",
        /// Not to be said yet.
        Undecided = "undecided",
    }
}

/// Which case a rig check is, with the figures that its words need.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(tag = "case", rename_all = "snake_case")]
#[allow(missing_docs)] // levels in Pa
pub enum RigCase {
    /// No level yet.
    NothingRead,
    /// The pump alone.
    Pump { lowest: f64 },
    /// Too little since the valve was shut.
    TooLittle,
    /// Shut off before it was in a vacuum.
    NotPumpedDown { at: f64 },
    /// Hoses and tools alone: their rise, the slope at first (Pa/s), the volume of the rig (L) if it is known.
    Hoses {
        rise: Rise,
        early: f64,
        litres: Option<f64>,
    },
}

/// All that is found about a rig check.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct RigFinding {
    /// Outcome.
    pub outcome: RigOutcome,
    /// What decided.
    pub reasons: Vec<Reason>,
    /// Which case it is.
    pub case: RigCase,
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

/// Judges a rig check.
#[must_use]
pub fn judge_rig(recording: &Recording) -> RigFinding {
    let part = recording.settings.part.unwrap_or(RigPart::Hoses);
    let mut v = RigFinding {
        outcome: RigOutcome::Undecided,
        reasons: vec![],
        case: RigCase::NothingRead,
        part,
        lowest: None,
        rate: None,
        flow: None,
        explanations: vec![],
        limit_pa: recording
            .settings
            .decay_limit
            .map_or(BLANK_OFF * MICRON, |l| l.level_pa),
        isolated_at_s: None,
        trace: vec![],
    };
    let Some((channel, whole)) = far_gauge(recording) else {
        v.reasons.push(Reason::TooFewReadings);
        return v;
    };
    v.trace = drawn(&whole, DRAWN);
    v.lowest = whole.v.iter().copied().reduce(f64::min);
    match part {
        RigPart::Pump => pump(&mut v, &whole),
        RigPart::Hoses => hoses(&mut v, recording, channel, &whole),
    }
    v
}

fn pump(v: &mut RigFinding, s: &Series) {
    let lowest = v.lowest.unwrap_or(s.v[0]);
    v.case = RigCase::Pump { lowest };
    let end = s.t[s.len() - 1];
    let window = 180.0f64.min(0.5 * (end - s.t[0]));
    let falls = s
        .mean(end - window, end - 0.7 * window)
        .zip(s.mean(end - 0.3 * window, end))
        .is_none_or(|(a, b)| b < 0.95 * a);
    if lowest <= v.limit_pa {
        (v.outcome, v.reasons) = (RigOutcome::Good, vec![Reason::BlankOffReached]);
    } else if falls || end - s.t[0] < 120.0 {
        v.reasons = vec![Reason::StillFalling];
    } else {
        (v.outcome, v.reasons) = (RigOutcome::Short, vec![Reason::BlankOffMissed]);
    }
}

fn hoses(v: &mut RigFinding, recording: &Recording, channel: usize, whole: &Series) {
    let start = recording
        .last_event(EventKind::Isolated)
        .unwrap_or(whole.t[0]);
    v.isolated_at_s = Some(start);
    let mut s = whole.between(start, f64::INFINITY);
    s.t.iter_mut().for_each(|t| *t -= start);
    if s.len() < 3 {
        v.reasons.push(Reason::TooFewReadings);
        v.case = RigCase::TooLittle;
        return;
    }
    if s.v[0] > DEEP * MICRON {
        v.reasons.push(Reason::NotPumpedDown);
        v.case = RigCase::NotPumpedDown { at: s.v[0] };
        return;
    }
    let end = s.t[s.len() - 1];
    let digit = digit_of(recording, channel);
    let (early, (low, high)) = slopes(&s, digit);
    v.rate = Some((low, high));
    v.flow = recording.settings.volume_l.map(|l| (low * l, high * l));
    let found = explain(&s, &known(recording, digit)).filter(|f| f.fits);
    v.case = RigCase::Hoses {
        rise: rise_of(&s, recording, channel, found.as_ref().map(|f| f.noise)),
        early,
        litres: recording.settings.volume_l,
    };
    if let Some(found) = &found {
        v.explanations = forecasts(found, start, (2.0 * end).max(LEAST), 0.0);
    }
    decide(v, found.as_ref(), early, (low, high), end);
}

/// What is known beside the rise of the hoses.
fn known(recording: &Recording, digit: f64) -> Background {
    let cold = coldest(recording);
    Background {
        evacuated: recording.settings.evacuated_s,
        digit,
        negligible: (RIG_RISE * MICRON * 10.0, 600.0),
        saturation: cold.map(|k| water::saturation(Temperature::from_k(k)).pa()),
        kelvin: cold.unwrap_or(293.15),
        drift: None,
        place: None,
        matters: RIG_RISE * MICRON / 60.0,
        limit: 500.0 * MICRON,
        top: None,
    }
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
    v: &mut RigFinding,
    found: Option<&Explanations>,
    early: f64,
    (low, high): (f64, f64),
    end: f64,
) {
    let limit = RIG_RISE * MICRON / 60.0;
    let bends = high < 0.7 * early;
    let leak = found.map_or(0.5, |f| f.leak_probability);
    let (outcome, reason) = if high <= limit && end >= LEAST {
        (RigOutcome::Good, Reason::RigHolds)
    } else if low > limit && (bends || leak < 0.2) && end >= 100.0 {
        (RigOutcome::GivesGas, Reason::RigGivesGas)
    } else if low > limit && leak > 0.8 && end >= LEAST {
        (RigOutcome::Leaks, Reason::RigLeaks)
    } else if low > limit && end >= LEAST {
        (RigOutcome::Rises, Reason::RigRises)
    } else if end < LEAST {
        (RigOutcome::Undecided, Reason::TooShort)
    } else {
        (RigOutcome::Undecided, Reason::ShapeUnclear)
    };
    (v.outcome, v.reasons) = (outcome, vec![reason]);
}
