//! The words of a decay, from its finding.

mod doubts;
mod next;
mod shape;

use super::explain::{DOUBT, is_open};
use super::finding::{DecayCase, DecayFinding, DecayOutcome, Forecast, Noticed, Rise, TwoGauges};
use super::prior::Cause;
use crate::quantity::{Units, span};
use crate::reason::Reason;
use crate::words::{Shape, Words, words};

use shape::per_minute;

pub(super) use shape::{Risen, explanations};

/// Says what was found, in these units.
#[must_use]
pub fn say_decay(v: &DecayFinding, u: Units) -> Words {
    let said = match &v.case {
        DecayCase::NothingRead => words(
            "No vacuum read yet",
            "No absolute pressure has been recorded.",
            "Log the vacuum gauge, isolate, and log it again.",
        ),
        DecayCase::OnADial { reads, unit, digit } => doubts::on_a_dial(*reads, *unit, *digit, u),
        DecayCase::JustIsolated => words(
            "Just isolated",
            "There is only one reading since isolation.",
            "Keep logging: every ten seconds at first, then every minute.",
        ),
        DecayCase::NotIsolated { level } => not_isolated(*level, u),
        DecayCase::Awaits { level } => words(
            "Not isolated yet",
            &format!(
                "It stands at {} with the pump still on it; a decay counts from the moment the valve is shut.",
                u.level(*level)
            ),
            "Shut the valve at the system, so that pump and hoses are outside, and mark it “isolated”.",
        ),
        DecayCase::SeemsPumped { .. } if v.reasons.contains(&Reason::IsolatedLater) => {
            doubts::isolated_later(&v.doubts, u)
        }
        DecayCase::SeemsPumped { from, to, took } => seems_pumped((*from, *to), *took, u),
        DecayCase::Judged { rise, noticed } => judged(v, rise, noticed, u),
    };
    let (word, shape) = match v.outcome {
        DecayOutcome::Passes if v.leak_likely => {
            ("Passes the rule, but a leak is likely", Shape::Losing)
        }
        DecayOutcome::Passes if v.rising => ("Passes, watch", Shape::Losing),
        DecayOutcome::Passes => ("Passes", Shape::Holds),
        DecayOutcome::Fails => ("Over limit", Shape::Notch),
        DecayOutcome::Undecided if v.reasons.contains(&Reason::TooCloseToCall) => {
            ("Too close to call on this gauge", Shape::Open)
        }
        DecayOutcome::Undecided if v.reasons.contains(&Reason::RuleTimeNotReached) => {
            ("Running", Shape::Open)
        }
        DecayOutcome::Undecided => ("Can’t tell yet", Shape::Open),
        DecayOutcome::NotApplicable => ("Not a test", Shape::None),
    };
    Words {
        word: word.into(),
        shape,
        ..said
    }
}

fn not_isolated(level: f64, u: Units) -> Words {
    Words {
        evidence: vec![format!(
            "The last reading, {}, is what the pump holds, not what the system keeps.",
            u.level(level)
        )],
        ..words(
            "Not a decay test",
            "The system was not isolated from pump and hoses, so nothing can be said about its tightness or dryness.",
            "Shut the valve to the pump and hoses, mark it “isolated”, and follow the rise.",
        )
    }
}

/// The trace says that something still pulls.
fn seems_pumped((from, to): (f64, f64), took: f64, u: Units) -> Words {
    Words {
        evidence: vec![format!(
            "From {} to {} in {}: a closed system does not do that once its ends are even.",
            u.level(from),
            u.level(to),
            span(took)
        )],
        ..words(
            "Not shut, by the look of it",
            "It was marked as isolated, but the trace behaves as if the pump were still on it.",
            "Check the valve to the pump, shut it, mark it “isolated” again, and follow the rise.",
        )
    }
}

/// Name of a cause on screen.
fn name(cause: Cause) -> &'static str {
    match cause {
        Cause::Still => "no rise that matters",
        Cause::Leak => "a leak",
        Cause::Moisture => "moisture",
        Cause::Water => "free water or ice",
        Cause::Outgassing => "outgassing",
        Cause::LeakAndMoisture => "a leak with moisture",
        Cause::LeakAndOutgassing => "a leak with outgassing",
    }
}

/// Words for a decay under a rule.
fn judged(v: &DecayFinding, r: &Rise, noticed: &Noticed, u: Units) -> Words {
    let mut evidence = by_the_rule(v, r, u);
    if v.reasons.contains(&Reason::TooFewReadings) && v.outcome == DecayOutcome::Passes {
        evidence.push("So few readings say how far it rose, not what makes it rise.".into());
    }
    evidence.extend(doubts::asked(&v.doubts, u));
    if v.reasons.contains(&Reason::NoShapeFits) {
        evidence.push("No shape fits the trace: something stepped or was touched in it. What makes it rise is \
             not known, and what it could hide is not bounded.".into());
    }
    evidence.extend(never_rose(v, r));
    evidence.extend(leak(v, r, u));
    evidence.extend(shape::water(v, r, noticed, u));
    if !v.explanations.is_empty() {
        evidence.extend(besides(noticed, r.lasted, u));
    }
    let is_over = v.outcome == DecayOutcome::Fails || r.last > v.limit.level_pa;
    let risen = match is_slight(v, r) {
        _ if is_over => Risen::Over,
        true => Risen::Slightly,
        false => Risen::Far,
    };
    Words {
        evidence,
        explanations: explanations(&v.explanations, r, risen, u),
        ..words(
            &headline(v, r, u),
            &summary(v, r, u),
            &next::step(v, r, noticed, u),
        )
    }
}

fn by_the_rule(v: &DecayFinding, r: &Rise, u: Units) -> Vec<String> {
    let limit = v.limit;
    let mut out = vec![
        format!(
            "From {} at isolation to {} after {}.",
            u.level(r.first),
            u.level(r.last),
            span(r.lasted)
        ),
        format!(
            "The rule: at most {} after {}{}.",
            u.level(limit.level_pa),
            span(limit.at_s),
            if v.limit_is_default {
                " (Ruhe's default; no limit was given)"
            } else {
                ""
            }
        ),
    ];
    if let Some(accuracy) = v
        .accuracy_pa
        .filter(|_| v.reasons.contains(&Reason::TooCloseToCall))
    {
        out.push(format!(
            "{} ± {} on this gauge: too close to {} to call.",
            u.level(v.at_rule.unwrap_or(r.last)),
            u.level_change(accuracy),
            u.level(limit.level_pa)
        ));
    }
    let through = (limit.level_pa - r.first) / limit.at_s;
    if through > 0.0 {
        out.push(format!(
            "From this start the rule would let {} through.",
            per_minute(through, u)
        ));
    }
    out
}

fn leak(v: &DecayFinding, r: &Rise, u: Units) -> Vec<String> {
    let mut out = Vec::new();
    if let Some((low, high)) = v
        .rate_of_leak
        .filter(|r| r.1 > 0.0 && v.leak_probability.is_some_and(|p| p > DOUBT.0))
    {
        out.push(format!(
            "If it is a leak, {} to {} a minute come in (95\u{a0}%).",
            u.level_change(60.0 * low),
            u.level_change(60.0 * high)
        ));
    }
    if v.leak_probability.is_some_and(is_open) {
        out.push(match v.comes_apart_s {
            Some(t) => format!(
                "Leak and no leak will most likely have come apart by about {} after isolation.",
                span(t)
            ),
            None => {
                "Waiting won’t tell leak from no leak apart; only a changed experiment will.".into()
            }
        });
    }
    if v.warns {
        out.push(if r.last > v.limit.level_pa {
            "It has crossed the limit since.".into()
        } else {
            "At this rate it crosses the limit within the hour.".into()
        });
    }
    out
}

fn headline(v: &DecayFinding, r: &Rise, u: Units) -> String {
    match v.outcome {
        DecayOutcome::Passes => format!(
            "{} after {}",
            u.level(v.at_rule.unwrap_or(r.last)),
            span(v.limit.at_s)
        ),
        _ => format!("{} after {}", u.level(r.last), span(r.lasted)),
    }
}

/// Sooner than so many seconds it is there.
const SOON: f64 = 5.0;
/// A rise of no more than this share of what the limit left is slight.
const SLIGHT: f64 = 0.1;

fn is_slight(v: &DecayFinding, r: &Rise) -> bool {
    r.last - r.first <= SLIGHT * (v.limit.level_pa - r.first).max(0.0)
}

fn summary(v: &DecayFinding, r: &Rise, u: Units) -> String {
    let limit = v.limit;
    let (most, after) = (u.level(limit.level_pa), span(limit.at_s));
    let rise = what_rises(v, r);
    let still = |e: &Forecast| e.cause == Cause::Still && e.probability >= 0.5 && is_slight(v, r);
    match (v.outcome, v.gap) {
        (DecayOutcome::Passes, _) if !v.rising => match v.explanations.first() {
            Some(e) if still(e) => format!("Within {most} after {after}, and as good as still."),
            Some(_) if r.last > r.first => format!(
                "Within {most} after {after}, and it stands at {}.",
                u.level(r.last)
            ),
            Some(_) => format!("Within {most} after {after}, and no higher than at isolation."),
            None => format!("Within {most} after {after}.{rise}"),
        },
        (DecayOutcome::Passes, _) if r.last > limit.level_pa => format!(
            "Within {most} after {after}, but it has crossed the limit since and stands at {}.{rise}",
            u.level(r.last)
        ),
        (DecayOutcome::Passes, _) => {
            let goes_on = v.reaches_s.map_or_else(String::new, |s| {
                if s < SOON {
                    return " It stands at the limit.".into();
                }
                format!(
                    " If it goes on like this it stands at the limit in about {}.",
                    span(s)
                )
            });
            format!("Within {most} after {after}, but it rises.{goes_on}{rise}")
        }
        (DecayOutcome::Fails, _) if v.reasons.contains(&Reason::StartTooHigh) => format!(
            "It was isolated at {}, above the {} the rule allows.",
            u.level(r.first),
            u.level(limit.start_max_pa.unwrap_or(0.0))
        ),
        (DecayOutcome::Fails, _) => format!("Over {most}.{rise}"),
        (_, Some((from, to))) => format!(
            "It was under {most} at {} and over it at {}; when it crossed nobody saw.{rise}",
            span(from),
            span(to)
        ),
        _ if v.reasons.contains(&Reason::TooCloseToCall) => {
            format!("It stands nearer to {most} than this gauge is accurate.{rise}")
        }
        _ if v.reasons.contains(&Reason::GaugeStuck) => format!(
            "The gauge stood still before the rule’s time, so what stood there after {after} nobody saw."
        ),
        _ => format!(
            "The rule’s time is not up: {} to go.{rise}",
            span((limit.at_s - r.lasted).max(0.0))
        ),
    }
}

/// Flat from end to end: no trace can tell that from a valve left open to a pump that holds its level.
fn never_rose(v: &DecayFinding, r: &Rise) -> Option<String> {
    let is_flat = (r.last - r.first).abs() <= FLAT * r.first && r.lasted >= v.limit.at_s;
    (v.outcome == DecayOutcome::Passes && is_flat).then(|| {
        "It has hardly moved: a pump left on it would look the same, so make sure that the valve was shut.".into()
    })
}

/// Moved by less than this share it has hardly moved.
const FLAT: f64 = 0.01;

/// What makes it rise, as far as it is known. While it is open that there is a leak, the shape leads and not a cause.
fn what_rises(v: &DecayFinding, r: &Rise) -> String {
    let Some(top) = v.explanations.first() else {
        return if v.reasons.contains(&Reason::NoShapeFits) {
            " The trace fits no shape: something happened in it.".into()
        } else {
            String::new()
        };
    };
    if !v.leak_probability.is_some_and(is_open) {
        return match top.probability >= 0.5 {
            true if top.cause == Cause::Still => String::new(),
            true => format!(" The rise is most likely {}.", name(top.cause)),
            false if v.leak_probability.is_some_and(|p| p >= DOUBT.1) => {
                " Gas flows in; whether that is all is not clear yet.".into()
            }
            false => " It is hardly a leak; what else makes it rise is not clear yet.".into(),
        };
    }
    let shape = if r.bends {
        "It bends so far"
    } else {
        "It is straight so far"
    };
    let fit: Vec<&str> = v
        .explanations
        .iter()
        .filter(|e| e.probability >= 0.1)
        .take(3)
        .map(|e| name(e.cause))
        .collect();
    match fit.as_slice() {
        [a, b] => format!(" {shape}: {a} and {b} both fit."),
        [a, b, c] => format!(" {shape}: {a}, {b} and {c} all fit."),
        _ => format!(" {shape}: a leak is neither shown nor excluded."),
    }
}

/// The ends of two gauges should be even after so long, s (common practice, no source).
const EVEN: f64 = 600.0;

fn two_gauges(g: TwoGauges, lasted: f64, u: Units) -> String {
    let which = if g.is_far {
        "the far one counts"
    } else {
        "the higher one counts"
    };
    let apart = match (g.agree, lasted > EVEN) {
        (true, _) => "they agree",
        (false, true) => {
            "they have not evened out in ten minutes: one of them reads wrong, or a valve between them is shut"
        }
        (false, false) => "they have not evened out yet",
    };
    format!(
        "Two gauges, {} and {}: {which}, and {apart}.",
        u.level(g.counts),
        u.level(g.other)
    )
}

/// The other gauge, gaps and the rig.
fn besides(n: &Noticed, lasted: f64, u: Units) -> Vec<String> {
    let mut out: Vec<String> = n
        .gauges
        .map(|g| two_gauges(g, lasted, u))
        .into_iter()
        .collect();
    out.extend(n.gaps.iter().map(|(from, to)| {
        format!(
            "No readings from {} to {}: the curve is carried across by its shape, not by readings.",
            span(*from),
            span(*to)
        )
    }));
    out.extend(n.rig.as_ref().map(|(test, rate)| {
        format!(
            "The hoses stayed in: {test} tells that they add about {} a minute, which was taken off before the \
             shapes were weighed.",
            u.level_change(60.0 * rate)
        )
    }));
    out
}
