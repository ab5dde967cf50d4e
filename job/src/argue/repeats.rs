//! Successive decays beside each other: the same slope is a leak, a smaller one is drying, a larger one when warm is
//! moisture or oil, one that goes with the hoses is the rig.

use ruhe_core::quantity::{Units, significant, span};
use ruhe_core::vacuum::VacuumPoint;

/// How one decay rose over the window they all share.
#[derive(Debug, Clone, PartialEq)]
pub struct Compared {
    /// What it is called on screen.
    pub title: String,
    /// Mean slope over the window, Pa/s: middle, low, high.
    pub rate: (f64, f64, f64),
    /// From and to, s since isolation.
    pub window: (f64, f64),
    /// Coldest temperature, K, if one was taken.
    pub kelvin: Option<f64>,
    /// Pump hoses stayed in.
    pub hoses_in: bool,
    /// The vacuum was broken with nitrogen between it and the one before.
    pub after_break: bool,
    /// Time pumped in all before it, since the system was last opened or mended, s; `None`: nobody knows.
    pub pumped_s: Option<f64>,
}

/// What the last repeat says against the one before.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Trend {
    /// Same slope.
    Same,
    /// Smaller: drying.
    Smaller,
    /// Larger, and warmer.
    LargerWhenWarm,
    /// Larger, and not warmer.
    Larger,
    /// It went when the hoses went.
    WentWithTheHoses,
    /// Too rough to tell.
    Unclear,
}

/// The comparison, in words with figures.
#[derive(Debug, Clone, PartialEq)]
pub struct Repeats {
    /// Of the last two.
    pub trend: Trend,
    /// Sentences.
    pub words: Vec<String>,
}

/// The first minutes belong to the ends evening out.
const FROM: f64 = 120.0;
/// Slopes within this share of each other are the same: common practice, no source.
const ALIKE: f64 = 0.25;
/// A forecast of the slope of what runs out is off by about this share either way: common practice, no source.
const FORECAST: f64 = 0.1;
/// Warmer by so much counts, K.
const WARMER: f64 = 3.0;

/// A slope with its band, Pa/s, and the window it was taken over, s.
pub type Slope = ((f64, f64, f64), (f64, f64));

/// Slope of a decay between two and `to` seconds after isolation, from its trace. `None`: too short.
#[must_use]
pub fn rise(trace: &[VacuumPoint], isolated_at_s: f64, to: f64, digit: f64) -> Option<Slope> {
    let p: Vec<(f64, f64)> = trace
        .iter()
        .map(|p| (p.at_s - isolated_at_s, p.level))
        .filter(|p| p.0 >= FROM && p.0 <= to)
        .collect();
    let (first, last) = (p.first()?, p.last()?);
    let length = last.0 - first.0;
    if p.len() < 3 || length < 60.0 {
        return None;
    }
    let n = p.len() as f64;
    let (mt, mv) = (
        p.iter().map(|p| p.0).sum::<f64>() / n,
        p.iter().map(|p| p.1).sum::<f64>() / n,
    );
    let rate = p.iter().map(|p| (p.0 - mt) * (p.1 - mv)).sum::<f64>()
        / p.iter().map(|p| (p.0 - mt).powi(2)).sum::<f64>();
    // Digits, and a gauge that wanders by 0.15 % per root minute, at twice their standard deviation.
    let doubt = 2.0 * (digit / 3.0 + 0.0015 * mv * (length / 60.0).sqrt()) / length;
    Some(((rate, rate - doubt, rate + doubt), (first.0, last.0)))
}

/// Compares successive decays, the last one last. `None` with fewer than two.
#[must_use]
pub fn repeats(all: &[Compared], u: Units) -> Option<Repeats> {
    let [.., a, b] = all else { return None };
    let per_minute = |r: f64| significant(u.vacuum.delta_of_si(60.0 * r), 2);
    let mut words: Vec<String> = vec![format!(
        "{}: {} {} a minute between {} and {} after isolation.",
        all.iter()
            .map(|r| r.title.as_str())
            .collect::<Vec<_>>()
            .join(", "),
        all.iter()
            .map(|r| per_minute(r.rate.0))
            .collect::<Vec<_>>()
            .join(", "),
        u.vacuum.info().label,
        span(b.window.0),
        span(b.window.1)
    )];
    let warmer = a.kelvin.zip(b.kelvin).map(|(x, y)| y - x);
    let smaller = b.rate.2 < (1.0 - ALIKE) * a.rate.1
        || (b.rate.2 < a.rate.1 && b.rate.0 < (1.0 - ALIKE) * a.rate.0);
    let larger = b.rate.1 > (1.0 + ALIKE) * a.rate.2
        || (b.rate.1 > a.rate.2 && b.rate.0 > (1.0 + ALIKE) * a.rate.0);
    let width = (b.rate.2 - b.rate.1).max(a.rate.2 - a.rate.1);
    let too_rough = width > 1.2 * a.rate.0.max(b.rate.0).max(1e-12);
    let runs_out = runs_out(a, b);
    // The same slope tells only where what runs out would by now rise visibly less than what was seen.
    let tells = runs_out.is_some_and(|(_, most)| (1.0 + FORECAST) * most < b.rate.1);
    let trend = match () {
        () if smaller && a.hoses_in && !b.hoses_in && !b.after_break => Trend::WentWithTheHoses,
        () if smaller => Trend::Smaller,
        () if larger && warmer.is_some_and(|w| w > WARMER) => Trend::LargerWhenWarm,
        () if larger => Trend::Larger,
        () if too_rough || !tells => Trend::Unclear,
        () => Trend::Same,
    };
    let (x, y) = (per_minute(a.rate.0), per_minute(b.rate.0));
    words.push(match trend {
        Trend::WentWithTheHoses => format!("Without the hoses it fell from {x} to {y}: what rose was in the hoses."),
        Trend::Smaller if b.after_break && a.hoses_in && !b.hoses_in => {
            format!("It fell from {x} to {y}, but the vacuum was broken and the hoses went in one step: either \
                 may be why. No leak of the system, at any rate.")
        }
        Trend::Smaller if b.after_break => format!("After the nitrogen break it fell from {x} to {y}: it is \
             drying. A leak would have stayed as it was."),
        Trend::Smaller => format!("It fell from {x} to {y} without anything being done: something that runs \
             out, not a leak."),
        Trend::LargerWhenWarm => format!("Warmer by {} it rose from {x} to {y}: moisture or oil. A leak hardly \
             feels that.", u.interval(warmer.unwrap_or(0.0))),
        Trend::Larger => format!("It rose from {x} to {y} though nothing was warmed: look for what was touched \
             in between."),
        Trend::Same => format!("The same slope again ({x} and {y}){}: that is what a leak does.",
            foretold(runs_out, &per_minute)),
        Trend::Unclear if !too_rough => format!(
            "About the same slope again ({x} and {y}){}: the two are too near to be told apart. Pull at least \
             as long as all before, then repeat.",
            foretold(runs_out, &per_minute)
        ),
        Trend::Unclear => "Both rises are too small or too short to be compared.".into(),
    });
    if a.hoses_in != b.hoses_in
        && (trend == Trend::Same
            || (trend == Trend::Unclear && !too_rough && !tells && !smaller && !larger))
    {
        words.push("Taking the hoses off changed nothing: they are not the source.".into());
    }
    Some(Repeats { trend, words })
}

/// What oil or rubber alone would rise by after the pull between, Pa/s: t₀/(t₀ + D) and √(t₀/(t₀ + D)) of before, t₀
/// the time pumped before the first, D until the second. `None`: nobody knows how long it was pumped.
fn runs_out(a: &Compared, b: &Compared) -> Option<(f64, f64)> {
    let (t0, by_then) = a.pumped_s.zip(b.pumped_s)?;
    let share = (t0 > 0.0 && by_then > 0.0).then(|| (t0 / by_then).min(1.0))?;
    Some((share * a.rate.0, share.sqrt() * a.rate.0))
}

fn foretold(runs_out: Option<(f64, f64)>, per_minute: &dyn Fn(f64) -> String) -> String {
    runs_out.map_or_else(
        || ", and how long it was pumped in between is not known".into(),
        |(low, high)| {
            format!(
                ", where oil or rubber would by now rise at {} to {}",
                per_minute(low),
                per_minute(high)
            )
        },
    )
}

#[cfg(test)]
mod tests {
    use super::*;
    use ruhe_core::quantity::MICRON;

    fn of(per_minute: f64, after_break: bool) -> Compared {
        let r = per_minute * MICRON / 60.0;
        Compared {
            title: "Decay".into(),
            rate: (r, 0.95 * r, 1.05 * r),
            window: (120.0, 600.0),
            kelvin: Some(290.0),
            hoses_in: false,
            after_break,
            pumped_s: Some(if after_break { 7_200.0 } else { 3_600.0 }),
        }
    }

    #[test]
    fn the_trades_rules_of_repeats() {
        let trend = |a: Compared, b: Compared| repeats(&[a, b], Units::default()).unwrap().trend;
        assert_eq!(trend(of(20.0, false), of(20.5, true)), Trend::Same);
        // A short pull makes nothing less that runs out: the same slope then proves nothing.
        let short = repeats(
            &[
                of(20.0, false),
                Compared {
                    pumped_s: Some(4_200.0),
                    ..of(20.5, true)
                },
            ],
            Units::default(),
        )
        .unwrap();
        assert!(
            short.trend == Trend::Unclear && short.words[1].contains("too near to be told apart"),
            "{short:?}"
        );
        assert_eq!(trend(of(20.0, false), of(7.0, true)), Trend::Smaller);
        assert_eq!(
            trend(
                of(20.0, false),
                Compared {
                    kelvin: Some(300.0),
                    ..of(40.0, true)
                }
            ),
            Trend::LargerWhenWarm
        );
        assert_eq!(
            trend(
                Compared {
                    hoses_in: true,
                    ..of(20.0, false)
                },
                of(3.0, false)
            ),
            Trend::WentWithTheHoses
        );
        // Two changes at once: less, but nobody can say by which.
        let both = repeats(
            &[
                Compared {
                    hoses_in: true,
                    ..of(20.0, false)
                },
                of(3.0, true),
            ],
            Units::default(),
        )
        .unwrap();
        assert!(
            both.trend == Trend::Smaller
                && both.words.iter().any(|w| w.contains("either may be why")),
            "{both:?}"
        );
        assert_eq!(repeats(&[of(1.0, false)], Units::default()), None);
    }

    #[test]
    fn a_slope_is_found_again_with_its_doubt() {
        let trace: Vec<VacuumPoint> = (0..200)
            .map(|k| VacuumPoint {
                at_s: 50.0 + 5.0 * f64::from(k),
                level: 40.0 + 0.02 * 5.0 * f64::from(k),
            })
            .collect();
        let ((rate, low, high), window) = rise(&trace, 50.0, 600.0, MICRON).unwrap();
        assert!((rate - 0.02).abs() < 1e-9 && low < rate && rate < high);
        assert_eq!(window, (120.0, 600.0));
    }
}
