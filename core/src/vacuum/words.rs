//! What a decay verdict says, in plain words with the fact that decides.

use super::explain::{Explanations, Known};
use super::judge::{DecayOutcome, DecayVerdict};
use super::prior::{Cause, prior};
use crate::quantity::{Units, span};
use crate::reading::Series;

/// The four texts of a verdict.
pub struct Said {
    pub headline: String,
    pub summary: String,
    pub evidence: Vec<String>,
    pub next_step: String,
}

/// What the words may point at.
pub struct Scene<'a> {
    pub series: &'a Series,
    pub known: &'a Known,
    pub cold: Option<f64>,
    pub thermal: bool,
    pub units: Units,
}

fn said(headline: &str, summary: &str, next_step: &str) -> Said {
    Said {
        headline: headline.into(),
        summary: summary.into(),
        evidence: vec![],
        next_step: next_step.into(),
    }
}

pub fn nothing_read() -> Said {
    said(
        "No vacuum read yet",
        "No absolute pressure has been recorded.",
        "Log the vacuum gauge, isolate, and log it again.",
    )
}
pub fn just_isolated() -> Said {
    said(
        "Just isolated",
        "There is only one reading since isolation.",
        "Keep logging: every ten seconds at first, then every minute.",
    )
}
pub fn not_isolated(level: f64, u: Units) -> Said {
    Said {
        evidence: vec![format!(
            "The last reading, {}, is what the pump holds, not what the system keeps.",
            u.level(level)
        )],
        ..said(
            "Not a decay test",
            "The system was not isolated from pump and hoses, so nothing can be said about its tightness or dryness.",
            "Shut the valve to the pump and hoses, mark it “isolated”, and follow the rise.",
        )
    }
}

/// Before the valve is shut.
pub fn awaits(level: f64, u: Units) -> Said {
    said(
        "Not isolated yet",
        &format!(
            "It stands at {} with the pump still on it; a decay counts from the moment the valve is shut.",
            u.level(level)
        ),
        "Shut the valve at the system, so that pump and hoses are outside, and mark it “isolated”.",
    )
}
/// The trace says that something still pulls.
pub fn seems_pumped(s: &Series, u: Units) -> Said {
    Said {
        evidence: vec![format!(
            "From {} to {} in {}: a closed system does not do that once its ends are even.",
            u.level(s.v[0]),
            u.level(s.v[s.len() - 1]),
            span(end(s))
        )],
        ..said(
            "Not shut, by the look of it",
            "It was marked as isolated, but the trace behaves as if the pump were still on it.",
            "Check the valve to the pump, shut it, mark it “isolated” again, and follow the rise.",
        )
    }
}

impl Scene<'_> {
    /// Slopes (Pa/s) of the second and last quarters, when the ends have evened out.
    fn slopes(&self) -> (f64, f64) {
        let s = self.series;
        let end = s.t[s.len() - 1];
        let mean = |a: f64, b: f64| {
            let w = s.between(a * end, b * end);
            if w.is_empty() {
                s.at(0.5 * (a + b) * end).unwrap_or(0.0)
            } else {
                w.v.iter().sum::<f64>() / w.len() as f64
            }
        };
        let early = (mean(0.4, 0.55) - mean(0.15, 0.3)) / (0.25 * end);
        let late = (mean(0.85, 1.0) - mean(0.6, 0.75)) / (0.25 * end);
        (early, late)
    }
    fn per_minute(&self, rate: f64) -> String {
        format!("{} a minute", self.units.level_change(rate * 60.0))
    }
}

fn likelihood(probability: f64, first: bool) -> &'static str {
    match probability {
        p if p >= 0.5 && first => "Most likely",
        p if p >= 0.2 => "Possible",
        p if p >= 0.02 => "Unlikely",
        // A share of belief rules nothing out; only something physical does.
        _ => "Very unlikely",
    }
}

/// How likely one explanation is and the fact that decides it.
pub fn explanation(found: &Explanations, i: usize, scene: &Scene<'_>) -> String {
    let e = &found.list[i];
    let (early, late) = scene.slopes();
    let u = scene.units;
    let how = likelihood(e.probability, i == 0);
    let bends = late < 0.8 * early;
    let fact = match e.cause {
        Cause::Still if e.probability >= 0.2 => format!("the rise is {} in {}, too little to matter.", u.level_change(change(scene.series)), span(end(scene.series))),
        Cause::Still => format!("it still rises {} at the end.", scene.per_minute(late)),
        Cause::Leak if e.probability >= 0.2 => format!("it rises straight, {} early and {} at the end.", scene.per_minute(early), scene.per_minute(late)),
        Cause::Leak => format!("the rise bends: {} early, {} at the end.", scene.per_minute(early), scene.per_minute(late)),
        Cause::Moisture => match e.level() {
            Some(level) if e.probability >= 0.02 => format!("it flattens towards about {}.", u.level(level)),
            _ if bends => "it bends, but not towards a level.".into(),
            _ => "it shows no sign of flattening.".into(),
        },
        Cause::Water if e.probability < 0.02 => "the curve does not head for where free water would level.".into(),
        Cause::Water => {
            let [chilled, high] = prior().water_band.ends;
            let band = scene.known.saturation.map(|p| (chilled * p, if scene.thermal { high * p } else { p }));
            match (band, scene.cold) {
                (Some((low, high)), Some(k)) => format!(
                    "free water at {} would level between {} (chilled) and {}{}.",
                    u.temperature(k),
                    u.level(low),
                    u.level(high),
                    if scene.thermal { " (a heat-loss gauge reads vapour high)" } else { "" }
                ),
                _ => "no temperature was taken, so the level of free water is not known.".into(),
            }
        }
        Cause::Outgassing => match scene.known.evacuated {
            Some(t0) if e.probability >= 0.02 => format!(
                "after {} under vacuum, oil or rubber giving off gas bends {}.",
                span(t0),
                if t0 > 2.0 * end(scene.series) { "too little to see in this time" } else { "like this" }
            ),
            None if e.probability >= 0.02 => "oil or rubber giving off gas bends more the shorter the pull was; how long it was is not known.".into(),
            _ => "the curve does not bend the way oil or rubber does.".into(),
        },
        Cause::LeakAndMoisture | Cause::LeakAndOutgassing => {
            let other = if e.cause == Cause::LeakAndMoisture { "a part that flattens" } else { "a part that bends" };
            if e.probability >= 0.02 { format!("{other} on top of a straight rise fits as well.") } else { format!("{other} on top of a straight rise is not needed.") }
        }
    };
    format!("{how}: {fact}")
}

fn end(s: &Series) -> f64 {
    s.t[s.len() - 1]
}
fn change(s: &Series) -> f64 {
    s.v[s.len() - 1] - s.v[0]
}

/// Name of a cause on screen.
pub fn name(cause: Cause) -> &'static str {
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
pub fn judged(v: &DecayVerdict, found: Option<&Explanations>, scene: &Scene<'_>) -> Said {
    let u = scene.units;
    let s = scene.series;
    let (first, last) = (s.v[0], s.v[s.len() - 1]);
    let limit = v.limit;
    let mut evidence = vec![format!(
        "From {} at isolation to {} after {}.",
        u.level(first),
        u.level(last),
        span(end(s))
    )];
    evidence.push(format!(
        "The rule: at most {} after {}{}.",
        u.level(limit.level_pa),
        span(limit.at_s),
        if v.limit_is_default {
            " (Ruhe's default; no limit was given)"
        } else {
            ""
        }
    ));
    let through = (limit.level_pa - first) / limit.at_s;
    if through > 0.0 {
        evidence.push(format!(
            "From this start the rule would let {} through.",
            scene.per_minute(through)
        ));
    }
    if let (Some(r), Some(p)) = (v.leak_rate, v.leak_probability)
        && p > 0.05
    {
        evidence.push(format!(
            "If gas flows in, it is between {} and {} (95\u{a0}%).",
            scene.per_minute(r.low),
            scene.per_minute(r.high)
        ));
    }
    let top = found.and_then(|f| f.list.first());
    let doubtful = found.is_some_and(|f| f.leak_probability > 0.05 && f.leak_probability < 0.95);
    if doubtful {
        evidence.push(match v.comes_apart_s {
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
        evidence.push("At this rate it crosses the limit within the hour.".into());
    }
    let what = top.map_or("", |e| name(e.cause));
    let sure = top.is_some_and(|e| e.probability >= 0.5);
    let headline = match v.outcome {
        DecayOutcome::Passes => format!(
            "{} after {}",
            u.level(v.at_rule.unwrap_or(last)),
            span(limit.at_s)
        ),
        _ => format!("{} after {}", u.level(last), span(end(s))),
    };
    let rise = if sure {
        format!(" The rise is most likely {what}.")
    } else if found.is_some() {
        " What makes it rise is not clear yet.".into()
    } else {
        String::new()
    };
    let summary = match v.outcome {
        DecayOutcome::Passes if !v.rising => format!(
            "Within {} after {}, and as good as still.",
            u.level(limit.level_pa),
            span(limit.at_s)
        ),
        DecayOutcome::Passes => format!(
            "Within {} after {}, but it is still rising.{rise}",
            u.level(limit.level_pa),
            span(limit.at_s)
        ),
        DecayOutcome::Fails if v.reasons.contains(&"start_too_high") => {
            format!(
                "It was isolated at {}, above the {} the rule allows.",
                u.level(first),
                u.level(limit.start_max_pa.unwrap_or(0.0))
            )
        }
        DecayOutcome::Fails => format!("Over {}.{rise}", u.level(limit.level_pa)),
        _ if v.gap.is_some() => {
            let (from, to) = v.gap.unwrap_or_default();
            format!(
                "It was under {} at {} and over it at {}; when it crossed nobody saw.{rise}",
                u.level(limit.level_pa),
                span(from),
                span(to)
            )
        }
        _ => format!(
            "The rule’s time is not up: {} to go.{rise}",
            span(limit.at_s - end(s))
        ),
    };
    let next_step = next(v, top.map(|e| (e.cause, e.probability)), end(s), limit.at_s);
    Said {
        headline,
        summary,
        evidence,
        next_step,
    }
}

fn next(v: &DecayVerdict, top: Option<(Cause, f64)>, now: f64, rule: f64) -> String {
    match (v.outcome, top) {
        (DecayOutcome::Undecided, _) if now < rule => format!("Leave it alone for another {}.", span(rule - now)),
        (DecayOutcome::Undecided, _) => "Repeat it with readings through the rule’s time; set the gauge not to switch itself off.".into(),
        (DecayOutcome::Fails, Some(_)) if v.reasons.contains(&"start_too_high") => "Keep pulling, then isolate again.".into(),
        (DecayOutcome::Passes, _) if !v.rising => "Break the vacuum: gauge isolated, to a slight positive pressure before any core goes back.".into(),
        (_, Some((Cause::Moisture | Cause::Water, _))) => {
            "Break the vacuum with nitrogen, pull again and repeat: a smaller rise after a pull as long as before means it is drying.".into()
        }
        (_, Some((Cause::Outgassing, _))) => "Take hoses and core tools out of the test and repeat.".into(),
        (_, Some((cause, _))) if cause.has_leak() => {
            "Break with nitrogen and repeat: the same slope means a leak. Check cores, caps and core tools, then bubble the joints at pressure.".into()
        }
        _ => "Repeat after a nitrogen break; the same slope means a leak, a smaller one means drying.".into(),
    }
}
