//! The explanations of a rise in words: how likely each is, and the fact that decides it.

use super::super::explain::WARM;
use super::super::finding::{DecayFinding, Forecast, Noticed, Rise};
use super::super::prior::{Cause, prior};
use crate::quantity::{Units, significant, span};

/// An explanation with less belief than this is not worth a sentence.
const WORTH: f64 = 0.02;

fn likelihood(probability: f64, first: bool) -> &'static str {
    match probability {
        p if p >= 0.5 && first => "Most likely",
        p if p >= 0.2 => "Possible",
        p if p >= WORTH => "Unlikely",
        // A share of belief rules nothing out; only something physical does.
        _ => "Very unlikely",
    }
}

pub(super) fn per_minute(rate: f64, u: Units) -> String {
    format!("{} a minute", u.level_change(rate * 60.0))
}

/// How much a rise is against what the limit left.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Risen {
    /// Little.
    Slightly,
    /// More, and below it.
    Far,
    /// It stands over it.
    Over,
}

/// One sentence for each explanation: how likely it is, and the fact that decides it.
pub fn explanations(list: &[Forecast], r: &Rise, risen: Risen, u: Units) -> Vec<String> {
    list.iter()
        .enumerate()
        .map(|(i, e)| {
            format!(
                "{}: {}",
                likelihood(e.probability, i == 0),
                fact(e, r, risen, u)
            )
        })
        .collect()
}

/// A record this long, s, shows a flow that no rule of minutes would.
pub(super) const LONG: f64 = 4.0 * 3600.0;

fn fact(e: &Forecast, r: &Rise, risen: Risen, u: Units) -> String {
    let (early, late) = (per_minute(r.early, u), per_minute(r.late, u));
    match e.cause {
        Cause::Still if e.probability >= 0.2 => format!(
            "{} in {}{}.",
            moved(r, u),
            span(r.lasted),
            match risen {
                Risen::Slightly => ", too little to matter".into(),
                Risen::Far =>
                    ", as ends that even out give; beside that too little comes in to matter".into(),
                Risen::Over if r.lasted > LONG && r.late > 0.0 => {
                    format!(", {late}: slower than a rule of minutes looks for")
                }
                Risen::Over => ", but from where it stood that is over the limit".into(),
            }
        ),
        Cause::Still if r.late > 0.0 => format!("it still rises {late} at the end."),
        Cause::Still => "it moves more than the gauge does by itself.".into(),
        Cause::Leak if e.probability >= 0.2 && r.bends => {
            format!("after the first minutes it rises straight, {late} at the end.")
        }
        Cause::Leak if e.probability >= 0.2 => format!("it rises straight, {late} at the end."),
        Cause::Leak if r.bends => format!("the rise bends: {early} early, {late} at the end."),
        Cause::Leak => "a straight rise alone fits less well.".into(),
        Cause::Moisture | Cause::Water if beyond_water(r) => format!(
            "{} is more than water at any place here would give.",
            u.level(r.last)
        ),
        Cause::Moisture => match e.level {
            Some(level) if e.probability >= WORTH => {
                format!("it flattens towards about {}.", u.level(level))
            }
            _ if r.bends => "it bends, but not towards a level.".into(),
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

/// How far it has moved, in words.
fn moved(r: &Rise, u: Units) -> String {
    let by = r.last - r.first;
    if by < 0.0 {
        format!("it fell by {}", u.level_change(-by))
    } else {
        format!("the rise is {}", u.level_change(by))
    }
}

/// Higher than water gives on the warmest day, as a heat-loss gauge reads it.
fn beyond_water(r: &Rise) -> bool {
    let high = if r.thermal {
        prior().water_band.ends[1]
    } else {
        1.0
    };
    r.last > high * r.saturation.unwrap_or(WARM)
}

/// A heat-loss gauge reads water vapour up to this many times too high (common practice, no source).
const READS_HIGH: f64 = 1.75;
/// Gas constant of water, J/(kg K): R/M with M = 18.015 g/mol.
const WATER_GAS: f64 = 461.5;

/// Water: a level in the saturation band of the coldest place, and the mass of vapour a levelling rise stands for.
pub fn water(v: &DecayFinding, r: &Rise, n: &Noticed, u: Units) -> Vec<String> {
    let mut out = Vec::new();
    let wet = |e: &&Forecast| {
        matches!(
            e.cause,
            Cause::Moisture | Cause::Water | Cause::LeakAndMoisture
        ) && e.probability > 0.2
    };
    // What has not risen has no water to show.
    let Some(wet) = v.explanations.iter().find(wet).filter(|_| r.last > r.first) else {
        return out;
    };
    let high = if r.thermal { READS_HIGH } else { 1.0 };
    let mut stands = false;
    if let (Some(level), Some(k), Some(over)) = (wet.level, r.cold, r.saturation) {
        if (0.9 * over..1.1 * high * over).contains(&level) {
            stands = true;
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
                "It heads for {}, below the {} of water at {}: water that has chilled itself, or ice, or bound \
                 moisture.",
                u.level(level),
                u.level(over),
                u.temperature(k)
            ));
        }
    }
    if let Some(rise) = wet.levelling.filter(|r| *r > 0.0) {
        // p V = m R T with water's own gas constant.
        let mg = 1e6 * rise * n.litres * 1e-3 / (WATER_GAS * r.cold.unwrap_or(293.15));
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
        out.push(if stands {
            format!(
                "Liquid or ice stands in it: the vapour alone is {band} mg of water{guessed}, the pool may be \
                 grams. Find the low, cold place and warm it."
            )
        } else {
            format!(
                "Levelled off, the vapour would be {band} mg of water{guessed}; what is still bound or frozen \
                 is not in this."
            )
        });
    }
    out
}
