//! The words of a decay, from its finding.

use super::finding::{DecayCase, DecayFinding, DecayOutcome, Forecast, Noticed, Rise, TwoGauges};
use super::prior::{Cause, prior};
use crate::quantity::{Units, significant, span};
use crate::reason::Reason;
use crate::words::{Shape, Words, words};

/// An explanation with less belief than this is not worth a sentence.
const WORTH: f64 = 0.02;
/// Between these a leak is neither likely nor unlikely.
const DOUBT: (f64, f64) = (0.05, 0.95);

/// Says what was found, in these units.
#[must_use]
pub fn say_decay(v: &DecayFinding, u: Units) -> Words {
    let said = match &v.case {
        DecayCase::NothingRead => words(
            "No vacuum read yet",
            "No absolute pressure has been recorded.",
            "Log the vacuum gauge, isolate, and log it again.",
        ),
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
        DecayCase::SeemsPumped { from, to, took } => seems_pumped((*from, *to), *took, u),
        DecayCase::Judged { rise, noticed } => judged(v, rise, noticed, u),
    };
    let (word, shape) = match v.outcome {
        DecayOutcome::Passes if v.rising => ("Passes, but rising", Shape::Losing),
        DecayOutcome::Passes => ("Passes", Shape::Holds),
        DecayOutcome::Fails => ("Over limit", Shape::Notch),
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

fn likelihood(probability: f64, first: bool) -> &'static str {
    match probability {
        p if p >= 0.5 && first => "Most likely",
        p if p >= 0.2 => "Possible",
        p if p >= WORTH => "Unlikely",
        // A share of belief rules nothing out; only something physical does.
        _ => "Very unlikely",
    }
}

fn per_minute(rate: f64, u: Units) -> String {
    format!("{} a minute", u.level_change(rate * 60.0))
}

/// One sentence for each explanation: how likely it is, and the fact that decides it.
pub(super) fn explanations(list: &[Forecast], r: &Rise, u: Units) -> Vec<String> {
    list.iter()
        .enumerate()
        .map(|(i, e)| format!("{}: {}", likelihood(e.probability, i == 0), fact(e, r, u)))
        .collect()
}

fn fact(e: &Forecast, r: &Rise, u: Units) -> String {
    let (early, late) = (per_minute(r.early, u), per_minute(r.late, u));
    match e.cause {
        Cause::Still if e.probability >= 0.2 => format!(
            "the rise is {} in {}, too little to matter.",
            u.level_change(r.last - r.first),
            span(r.lasted)
        ),
        Cause::Still => format!("it still rises {late} at the end."),
        Cause::Leak if e.probability >= 0.2 => {
            format!("it rises straight, {early} early and {late} at the end.")
        }
        Cause::Leak => format!("the rise bends: {early} early, {late} at the end."),
        Cause::Moisture => match e.level {
            Some(level) if e.probability >= WORTH => {
                format!("it flattens towards about {}.", u.level(level))
            }
            _ if r.late < 0.8 * r.early => "it bends, but not towards a level.".into(),
            _ => "it shows no sign of flattening.".into(),
        },
        Cause::Water if e.probability < WORTH => {
            "the curve does not head for where free water would level.".into()
        }
        Cause::Water => free_water(r, u),
        Cause::Outgassing => outgassing(e, r),
        Cause::LeakAndMoisture | Cause::LeakAndOutgassing => {
            let other = if e.cause == Cause::LeakAndMoisture {
                "a part that flattens"
            } else {
                "a part that bends"
            };
            if e.probability >= WORTH {
                format!("{other} on top of a straight rise fits as well.")
            } else {
                format!("{other} on top of a straight rise is not needed.")
            }
        }
    }
}

fn free_water(r: &Rise, u: Units) -> String {
    let [chilled, high] = prior().water_band.ends;
    match r.saturation.zip(r.cold) {
        Some((p, k)) => format!(
            "free water at {} would level between {} (chilled) and {}{}.",
            u.temperature(k),
            u.level(chilled * p),
            u.level(if r.thermal { high * p } else { p }),
            if r.thermal {
                " (a heat-loss gauge reads vapour high)"
            } else {
                ""
            }
        ),
        None => "no temperature was taken, so the level of free water is not known.".into(),
    }
}

fn outgassing(e: &Forecast, r: &Rise) -> String {
    match r.evacuated {
        Some(t0) if e.probability >= WORTH => format!(
            "after {} under vacuum, oil or rubber giving off gas bends {}.",
            span(t0),
            if t0 > 2.0 * r.lasted {
                "too little to see in this time"
            } else {
                "like this"
            }
        ),
        None if e.probability >= WORTH => {
            "oil or rubber giving off gas bends more the shorter the pull was; how long it was is not known.".into()
        }
        _ => "the curve does not bend the way oil or rubber does.".into(),
    }
}

/// Name of a cause on screen.
fn name(cause: Cause) -> &'static str {
    match cause {
        Cause::Still => "still",
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
    evidence.extend(leak(v, u));
    evidence.extend(water(v, r, noticed, u));
    if !v.explanations.is_empty() {
        evidence.extend(besides(noticed, r.lasted, u));
    }
    Words {
        evidence,
        explanations: explanations(&v.explanations, r, u),
        ..words(&headline(v, r, u), &summary(v, r, u), &next(v, r.lasted))
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
    let through = (limit.level_pa - r.first) / limit.at_s;
    if through > 0.0 {
        out.push(format!(
            "From this start the rule would let {} through.",
            per_minute(through, u)
        ));
    }
    out
}

fn leak(v: &DecayFinding, u: Units) -> Vec<String> {
    let mut out = Vec::new();
    if let Some((r, _)) = v.leak_rate.zip(v.leak_probability.filter(|p| *p > DOUBT.0)) {
        out.push(format!(
            "If gas flows in, it is between {} and {} (95\u{a0}%).",
            per_minute(r.low, u),
            per_minute(r.high, u)
        ));
    }
    let is_doubtful = |p: f64| p > DOUBT.0 && p < DOUBT.1;
    if v.leak_probability.is_some_and(is_doubtful) {
        out.push(match v.comes_apart_s {
            Some(t) => format!(
                "Leak and no leak come apart about {} after isolation.",
                span(t)
            ),
            None => {
                "Waiting won’t tell leak from no leak apart; only a changed experiment will.".into()
            }
        });
    }
    if v.warns {
        out.push("At this rate it crosses the limit within the hour.".into());
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

fn summary(v: &DecayFinding, r: &Rise, u: Units) -> String {
    let limit = v.limit;
    let (most, after) = (u.level(limit.level_pa), span(limit.at_s));
    let rise = match v.explanations.first() {
        Some(e) if e.probability >= 0.5 => {
            format!(" The rise is most likely {}.", name(e.cause))
        }
        Some(_) => " What makes it rise is not clear yet.".into(),
        None => String::new(),
    };
    match (v.outcome, v.gap) {
        (DecayOutcome::Passes, _) if !v.rising => {
            format!("Within {most} after {after}, and as good as still.")
        }
        (DecayOutcome::Passes, _) => {
            format!("Within {most} after {after}, but it is still rising.{rise}")
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
        _ => format!(
            "The rule’s time is not up: {} to go.{rise}",
            span(limit.at_s - r.lasted)
        ),
    }
}

fn next(v: &DecayFinding, now: f64) -> String {
    let rule = v.limit.at_s;
    let top = v.explanations.first().map(|e| e.cause);
    match (v.outcome, top) {
        (DecayOutcome::Undecided, _) if now < rule => {
            format!("Leave it alone for another {}.", span(rule - now))
        }
        (DecayOutcome::Undecided, _) => "Repeat it with readings through the rule’s time; set the gauge not to switch itself off.".into(),
        (DecayOutcome::Fails, Some(_)) if v.reasons.contains(&Reason::StartTooHigh) => {
            "Keep pulling, then isolate again.".into()
        }
        (DecayOutcome::Passes, _) if !v.rising => "Break the vacuum: gauge isolated, to a slight positive pressure before any core goes back.".into(),
        (_, Some(Cause::Moisture | Cause::Water)) => "Break the vacuum with nitrogen, pull again and repeat: a smaller rise after a pull as long as before means it is drying.".into(),
        (_, Some(Cause::Outgassing)) => {
            "Take hoses and core tools out of the test and repeat.".into()
        }
        (_, Some(cause)) if cause.has_leak() => "Break with nitrogen and repeat: the same slope means a leak. Check cores, caps and core tools, then bubble the joints at pressure.".into(),
        _ => "Repeat after a nitrogen break; the same slope means a leak, a smaller one means drying.".into(),
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
            "The hoses stayed in: {test} tells that they add about {} a minute, which was taken off before the shapes were weighed.",
            u.level_change(60.0 * rate)
        )
    }));
    out
}

/// A heat-loss gauge reads water vapour up to this many times too high (common practice, no source).
const READS_HIGH: f64 = 1.75;
/// Gas constant of water, J/(kg K): R/M with M = 18.015 g/mol.
const WATER_GAS: f64 = 461.5;

/// Water: a level in the saturation band of the coldest place, and the mass of vapour a levelling rise stands for.
fn water(v: &DecayFinding, r: &Rise, n: &Noticed, u: Units) -> Vec<String> {
    let mut out = Vec::new();
    let wet = |e: &&Forecast| {
        matches!(
            e.cause,
            Cause::Moisture | Cause::Water | Cause::LeakAndMoisture
        ) && e.probability > 0.2
    };
    let Some(wet) = v.explanations.iter().find(wet) else {
        return out;
    };
    let high = if r.thermal { READS_HIGH } else { 1.0 };
    if let (Some(level), Some(k), Some(over)) = (wet.level, r.cold, r.saturation) {
        if (0.9 * over..1.1 * high * over).contains(&level) {
            let what = if k < 273.15 { "ice" } else { "water" };
            out.push(format!(
                "It heads for {}, where {what} at {} stands ({} to {} on this gauge): look for it there.",
                u.level(level),
                u.temperature(k),
                u.level(over),
                u.level(high * over)
            ));
        } else if (0.25 * over..0.9 * over).contains(&level) {
            out.push(format!(
                "It heads for {}, below the {} of water at {}: water that has chilled itself, or ice, or bound moisture.",
                u.level(level),
                u.level(over),
                u.temperature(k)
            ));
        }
    }
    if let Some(rise) = wet.levelling {
        // p V = m R T with water's own gas constant.
        let mg = 1e6 * rise.max(0.0) * n.litres * 1e-3 / (WATER_GAS * r.cold.unwrap_or(293.15));
        let band = if r.thermal {
            format!("{} to {}", significant(mg / high, 2), significant(mg, 2))
        } else {
            significant(mg, 2)
        };
        let guessed = if n.is_assumed {
            " in about the volume assumed"
        } else {
            ""
        };
        out.push(format!(
            "Levelled off, the vapour would be {band} mg of water{guessed}; what is still bound or frozen is not in this."
        ));
    }
    out
}
