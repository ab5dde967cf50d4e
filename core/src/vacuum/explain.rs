//! Competing explanations of a rise: how well each fits, with sizes, time constants and noise summed over.

use super::apart::comes_apart;
use super::background::Background;
use super::hypothesis::{common, hypotheses};
use super::prior::{Cause, prior};
use super::shape::Shape;
use super::sums::{Fit, Sums, heaviest};
use super::trace::{Blocks, Columns, Noise, covariance, moved, noises};
use super::weigh::{Choice, weigh};
use crate::matter::atmosphere::SEA_LEVEL;
use crate::quantity::MICRON;
use crate::reading::Series;
use crate::stat::{Gram, Mixture, whiten};
use statrs::function::erf::erfc;

/// One explanation with its probability and its best curve.
#[derive(Debug, Clone)]
pub struct Explanation {
    /// The shape.
    pub cause: Cause,
    /// Share of belief.
    pub probability: f64,
    curve: Vec<(Shape, f64)>,
}

impl Explanation {
    /// Its forecast at `t` seconds after isolation, Pa.
    #[must_use]
    pub fn at(&self, t: f64) -> f64 {
        self.curve.iter().map(|(s, a)| a * s.at(t)).sum()
    }
    /// Where it levels, Pa, if it does.
    #[must_use]
    pub fn level(&self) -> Option<f64> {
        let at_isolation = self.size(|s| matches!(s, Shape::Level))?;
        matches!(self.cause, Cause::Moisture | Cause::Water)
            .then(|| at_isolation + self.levelling().unwrap_or(0.0))
    }
    /// Size of its levelling part, Pa, if it has one.
    #[must_use]
    pub fn levelling(&self) -> Option<f64> {
        self.size(|s| matches!(s, Shape::Levelling(..) | Shape::LevellingSpread(_)))
    }
    /// Sum of the coefficients of some shapes, if there are any.
    fn size(&self, want: fn(&Shape) -> bool) -> Option<f64> {
        self.curve
            .iter()
            .filter(|(s, _)| want(s))
            .map(|(_, a)| *a)
            .reduce(|a, b| a + b)
    }
}

/// All explanations of one rise, most likely first.
#[derive(Debug, Clone)]
pub struct Explanations {
    /// Most likely first.
    pub list: Vec<Explanation>,
    /// Sum over causes with a leak.
    pub leak_probability: f64,
    /// Probability of a leak of at least what matters.
    pub matters: f64,
    /// Leak rate (Pa/s): mean, 2.5 % and 97.5 % bounds over all causes, those without a leak counting as zero.
    pub leak_rate: (f64, f64, f64),
    /// Probability that an hour after the last reading it stands above the limit.
    pub crosses: f64,
    /// The leak rate (Pa/s) if there is a leak: 2.5 % and 97.5 % bounds.
    pub rate_of_leak: (f64, f64),
    /// The noise that fitted best.
    pub noise: Noise,
    /// When leak and no leak will have come apart, s since isolation, where that is open; `None`: waiting won't do it.
    pub comes_apart: Option<f64>,
    /// The best choice is as near to the readings as its noise has it; else no shape fits.
    pub fits: bool,
}

/// Above a thirtieth of the air's pressure an inflow begins to slow down, and few micron gauges read it: cut off, Pa.
const STRAIGHT_TO: f64 = AIR / 30.0;
/// Standard atmosphere, Pa.
const AIR: f64 = SEA_LEVEL.pa();
/// Saturation of water on a hot day (35 °C), Pa: what free water could come to where no temperature was read.
pub const WARM: f64 = 5_600.0;
/// When the ends are mostly even, s, and a level, Pa, above which it is the rise and not they that shows then.
const EVEN: (f64, f64) = (60.0, 500.0 * MICRON);
/// No water, oil or rubber lifts a system so far in so short a time, Pa/s: 10,000 micron a minute.
const GROSS: f64 = 10_000.0 * MICRON / 60.0;

/// Explains a rise (`series`: seconds since isolation, Pa absolute). `None` with fewer than four readings or no
/// spread in time, unless what is left of them can only be an inflow.
#[must_use]
pub fn explain(series: &Series, known: &Background) -> Option<Explanations> {
    let is_low = |(t, v): &(&f64, &f64)| **v < STRAIGHT_TO && known.top.is_none_or(|top| **t < top);
    let low = series.t.iter().zip(&series.v).take_while(is_low).count();
    if low < series.len() && low < 4 {
        return gross(series, low, known);
    }
    let highest = series.v.iter().copied().fold(0.0, f64::max);
    let series = &Series {
        t: series.t[..low].to_vec(),
        v: series.v[..low].to_vec(),
    };
    if low < 4 || series.span() < 20.0 {
        return None;
    }
    let b = Blocks::of(series);
    let level = series.v[0].max(1e-3);
    // A gauge near the pump reads hardly anything at first: what the ends come to scales how uneven they may be.
    let even = level.max(series.at(EVEN.0).unwrap_or(level).min(EVEN.1));
    let (common, mut hypotheses) = (common(known, level, even), hypotheses(known));
    if highest > most_vapour(known) {
        hypotheses.retain(|h| h.cause.has_leak());
    }
    let columns = Columns::of(&b, &common, &hypotheses);
    let noises = noises(series, known.digit);
    let moved = moved(&b, known.digit);
    let grams: Vec<Option<Gram>> = noises
        .iter()
        .map(|noise| whiten(covariance(&b, noise, known.digit, &moved), &columns.data))
        .collect();
    let choices = weigh(&grams, &noises, &columns, &common, &hypotheses);
    Sums {
        choices,
        grams,
        noises,
        columns,
        common,
        hypotheses,
    }
    .up(&b, known, series.t[low - 1] + 3600.0)
}

/// No water lifts a system further than this, Pa, and rubber and oil by far not so far: what stands higher is an
/// inflow, also where the trace was cut off long before.
fn most_vapour(known: &Background) -> f64 {
    prior().water_band.ends[1] * known.saturation.unwrap_or(WARM)
}

/// So steep that fewer than four readings lie below a thirtieth of the air's pressure: air flows in.
fn gross(s: &Series, low: usize, known: &Background) -> Option<Explanations> {
    let before = low.checked_sub(1)?;
    // It went through somewhere between the last reading below and the first above. Near the air's pressure less flows
    // in: through a narrow leak p = p_a tanh(rate·t/p_a).
    let risen = AIR * ((s.v[low] - s.v[0]) / AIR).min(0.98).atanh();
    let least = 0.97 * (s.v[low] - s.v[0]) / (s.t[low] - s.t[0]);
    // Where the display ends nothing says how much further it was.
    let most = match known.top {
        Some(_) => prior().leak_micron_per_min.gross.to * MICRON / 60.0,
        None => 1.03 * risen / (s.t[low] - s.t[before]).max(1.0),
    };
    let most = most.max(least);
    if least < GROSS && s.v[low] < most_vapour(known) {
        return None;
    }
    let rate = (least * most).sqrt();
    Some(Explanations {
        list: vec![Explanation {
            cause: Cause::Leak,
            probability: 1.0,
            curve: vec![(Shape::Level, s.v[0]), (Shape::Straight, least)],
        }],
        leak_probability: 1.0,
        matters: 1.0,
        leak_rate: (rate, least, most),
        crosses: f64::from(u8::from(STRAIGHT_TO > known.limit)),
        rate_of_leak: (least, most),
        noise: Noise::usual(),
        comes_apart: None,
        fits: true,
    })
}

impl Sums {
    /// Whether what a fit leaves over is noise: its squared misfit is about the number of blocks, or no block is
    /// further off than digits and fast noise may take it.
    fn fits(&self, fit: &Fit<'_>, mean: &[f64], digit: f64, noise: &Noise) -> bool {
        let n = fit.gram.n;
        if fit.gram.misfit(&fit.index, mean) < n + FITS * (2.0 * n).sqrt() {
            return true;
        }
        let data = &self.columns.data;
        let seen = &data[data.len() - 1];
        seen.iter().enumerate().all(|(i, v)| {
            let told: f64 = fit
                .index
                .iter()
                .zip(mean)
                .map(|(&k, b)| b * data[k][i])
                .sum();
            (v - told).abs() < (1.5 * digit).max(4.0 * noise.fast * v)
        })
    }

    fn up(&self, b: &Blocks, known: &Background, ahead: f64) -> Option<Explanations> {
        let best = heaviest(self.choices.iter())?;
        let total: f64 = self
            .choices
            .iter()
            .map(|c| (c.log_weight - best.log_weight).exp())
            .sum();
        let share = |c: &Choice| (c.log_weight - best.log_weight).exp() / total;
        let mut list: Vec<Explanation> = Vec::new();
        for &cause in Cause::ALL {
            let Some(fit) = self.heaviest(cause).and_then(|c| self.fit(c)) else {
                continue;
            };
            list.push(Explanation {
                cause,
                probability: self.of(cause).map(share).sum(),
                curve: fit.curve()?,
            });
        }
        list.sort_by(|a, b| b.probability.total_cmp(&a.probability));
        let above = |(mean, sd): (f64, f64), x: f64| {
            0.5 * erfc((x - mean) / (sd * std::f64::consts::SQRT_2))
        };
        let (mut crosses, mut seen, mut matters) = (0.0, 0.0, 0.0);
        for c in &self.choices {
            matters += c.rate.map_or(0.0, |r| share(c) * above(r, known.matters));
            if c.log_weight < best.log_weight - SLIGHT {
                continue;
            }
            let level = self.fit(c).and_then(|f| {
                let x: Vec<f64> = f.terms.iter().map(|t| t.0.at(ahead)).collect();
                f.gram.predict(&f.index, &f.priors, 1.0, &x)
            });
            if let Some(level) = level {
                crosses += share(c) * above(level, known.limit);
                seen += share(c);
            }
        }
        let leak_probability = list
            .iter()
            .filter(|e| e.cause.has_leak())
            .map(|e| e.probability)
            .sum();
        let fit = self.fit(best)?;
        let post = fit.gram.solve(&fit.index, &fit.priors, 1.0)?;
        let (leak_rate, rate_of_leak) = rate(&self.choices, leak_probability);
        Some(Explanations {
            leak_rate,
            rate_of_leak,
            leak_probability,
            matters,
            crosses: crosses / seen.max(1e-300),
            list,
            noise: self.noises[best.noise],
            comes_apart: is_open(leak_probability)
                .then(|| comes_apart(self, b, known, leak_probability))
                .flatten(),
            fits: self.fits(&fit, &post.mean, known.digit, &self.noises[best.noise]),
        })
    }
}

/// Whether it is open that there is a leak.
pub fn is_open(leak_probability: f64) -> bool {
    leak_probability > DOUBT.0 && leak_probability < DOUBT.1
}

/// Between these a leak is neither likely nor unlikely.
pub const DOUBT: (f64, f64) = (0.05, 0.95);
/// A squared misfit more than so many of its deviations above its number is not noise: one in some thousand records.
const FITS: f64 = 8.0;
/// Choices this far (in log weight) below the best are left out of the forecast.
const SLIGHT: f64 = 6.0;

/// The leak rate over all causes (mean and bounds), and its bounds if there is a leak.
fn rate(choices: &[Choice], leak_probability: f64) -> ((f64, f64, f64), (f64, f64)) {
    let mut m = Mixture::default();
    for c in choices {
        if let Some((mean, sd)) = c.rate {
            m.add(c.log_weight, mean, sd);
        }
    }
    if m.is_empty() || leak_probability <= 0.0 {
        return Default::default();
    }
    let m = m.settled();
    // The causes without a leak are a lump at zero.
    let lump = 1.0 - leak_probability;
    let quantile = |q: f64| {
        if q <= lump {
            0.0
        } else {
            m.quantile((q - lump) / leak_probability).max(0.0)
        }
    };
    let given = |q: f64| m.quantile(q).max(0.0);
    (
        (
            leak_probability * m.moments().0,
            quantile(0.025),
            quantile(0.975),
        ),
        (given(0.025), given(0.975)),
    )
}
