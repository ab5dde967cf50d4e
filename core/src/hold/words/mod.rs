//! The words of a hold, from its finding.

mod cases;
mod judged;
mod untempered;

use super::finding::{Doubt, HoldCase, HoldFinding, HoldOutcome, Unread};
use crate::quantity::{Units, span};
use crate::reason::Reason;
use crate::words::{Shape, Words};

/// The word on screen and its shape.
fn word(v: &HoldFinding) -> (&'static str, Shape) {
    match v.outcome {
        HoldOutcome::Holds if v.loss_detected => ("Within limit, but losing", Shape::Losing),
        HoldOutcome::Holds => ("Holds", Shape::Holds),
        HoldOutcome::Falls => ("Falling", Shape::Falling),
        HoldOutcome::Undecided => (open_word(v), Shape::Open),
        HoldOutcome::NotApplicable => ("Not this test", Shape::None),
    }
}

/// A clock is not a verdict: what runs is told apart from what is looked for and not shown.
fn open_word(v: &HoldFinding) -> &'static str {
    let says = |r: Reason| v.reasons.contains(&r);
    let is_foretold = || v.foretold.is_some_and(|f| f.likely_s.is_some());
    if says(Reason::SupplyNotIsolated) {
        "Not started"
    } else if says(Reason::StillSettling) {
        "Settling"
    } else if says(Reason::TooSoon) {
        "Running"
    } else if says(Reason::Gained) {
        "Gained: check"
    } else if says(Reason::TooWide) || says(Reason::LossNotBounded) {
        if is_foretold() {
            "Needs longer"
        } else {
            "Needs more"
        }
    } else {
        "Can’t tell yet"
    }
}

/// Says what was found, in these units.
#[must_use]
pub fn say_hold(v: &HoldFinding, u: Units) -> Words {
    let (word, shape) = word(v);
    let said = match &v.case {
        HoldCase::NothingRead => cases::nothing_read(),
        HoldCase::NotTogether => cases::not_together(),
        HoldCase::OneReading => cases::one_reading(),
        HoldCase::FitFailed => cases::fit_failed(),
        HoldCase::RefrigerantInside => cases::refrigerant_inside(),
        HoldCase::MovesLikeRefrigerant { times } => cases::moves_like_refrigerant(*times),
        HoldCase::SupplyNotIsolated => cases::supply_not_isolated(),
        HoldCase::TracerTooHeavy { tracer, half } => cases::tracer_too_heavy(*tracer, *half, u),
        HoldCase::NoTestPressure { least } => cases::no_test_pressure(*least, u),
        HoldCase::LostEverything { from, took } => cases::lost_everything(*from, *took, u),
        HoldCase::BeyondRange { gauge } => cases::beyond_range(gauge),
        HoldCase::GaugeStopped { gauge, from, to } => cases::gauge_stopped(gauge, to - from),
        HoldCase::BelowTestPressure { held, planned } => {
            cases::below_test_pressure(*held, *planned, u)
        }
        HoldCase::SettlingNotExplained { change } => cases::settling_not_explained(*change, u),
        HoldCase::SettlingUntempered(seen) => untempered::settling_untempered(seen, u),
        HoldCase::FallsUntempered(seen) => untempered::falls_untempered(seen, u),
        HoldCase::Untempered {
            seen,
            allowed,
            digit,
            is_read,
        } => untempered::untempered(seen, *allowed, *digit, *is_read, u),
        HoldCase::Settling {
            to_come,
            threshold,
            ready_in,
            per_kelvin,
            unread,
        } => cases::settling((*to_come, *threshold), *ready_in, *per_kelvin, unread, u),
        HoldCase::Judged(judged) => judged::judged(v, judged, u),
    };
    let mut evidence = said.evidence;
    evidence.extend(v.doubts.iter().filter_map(|d| slip(d, u)));
    Words {
        word: word.into(),
        shape,
        evidence,
        ..said
    }
}

/// A reading that stands alone is asked about.
fn slip(doubt: &Doubt, u: Units) -> Option<String> {
    let Doubt::Slip {
        channel,
        is_temperature,
        at,
        value,
        about,
    } = doubt
    else {
        return None;
    };
    let say = |x: f64| {
        if *is_temperature {
            u.temperature(x)
        } else {
            u.gauge(x)
        }
    };
    Some(format!(
        "{channel} read {} at {}, far from its neighbours at about {}: it is left out. If it was a slip, strike \
         it out.",
        say(*value),
        span(*at),
        say(*about)
    ))
}

/// A change of temperature known to better than this, K, needs no word about how seldom it was read.
const STRAYED: f64 = 0.25;

/// What was not read, or not long enough to be used.
fn unread(evidence: &mut Vec<String>, seen: &Unread, u: Units) {
    if let Some((name, first, last)) = &seen.cut {
        evidence.push(format!(
            "{name} was read from {} to {} only: what came before or after is drawn, but not judged.",
            span(*first),
            span(*last)
        ));
    }
    for name in &seen.unused {
        evidence.push(format!(
            "{name} was not read over the whole time and is not used."
        ));
    }
    if let Some(s) = &seen.silent {
        evidence.push(format!(
            "{} was not read in the last {}, in which the gauge {}: the weather does that, and so does a leak.",
            s.channel,
            span(s.over),
            if s.fell > 0.0 {
                format!("fell {}", u.difference(s.fell))
            } else {
                format!("rose {}", u.difference(-s.fell))
            }
        ));
    }
    if seen.strayed_k > STRAYED {
        evidence.push(format!(
            "The temperature was not read all the time; it may have strayed by {} unread, which is in the interval.",
            u.interval(1.96 * seen.strayed_k)
        ));
    }
}

fn signed(x: f64, say: impl Fn(f64) -> String) -> String {
    if x > 0.0 {
        format!("+{}", say(x))
    } else {
        say(x)
    }
}
