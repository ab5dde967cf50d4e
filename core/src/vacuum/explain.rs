//! Competing explanations of a rise: how well each fits, with sizes, time constants and noise summed over.
//!
//! Noise is relative: the gauge wanders (a random walk) and every reading has fast noise and digits. Digits that
//! nothing dithers are an error that stays while the reading stands still.

use super::background::Background;
use super::hypothesis::{Hypothesis, Term, common, hypotheses};
use super::prior::{Cause, prior};
use super::shape::Shape;
use crate::reading::Series;
use crate::stat::{Gram, Mixture, whiten};
use nalgebra::DMatrix;
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
        let size = |want: fn(&Shape) -> bool| {
            self.curve
                .iter()
                .filter(|(s, _)| want(s))
                .map(|(_, a)| a)
                .sum::<f64>()
        };
        let levels = matches!(self.cause, Cause::Moisture | Cause::Water);
        levels.then(|| {
            size(|s| matches!(s, Shape::Level)) + size(|s| matches!(s, Shape::Levelling(..)))
        })
    }
    /// Size of its levelling part, Pa, if it has one.
    #[must_use]
    pub fn levelling(&self) -> Option<f64> {
        self.curve
            .iter()
            .find(|(s, _)| matches!(s, Shape::Levelling(..)))
            .map(|(_, a)| *a)
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
    /// Relative fast noise and wandering per root minute that fitted best.
    pub noise: (f64, f64),
}

const POINTS: f64 = 70.0;
/// Choices this far (in log weight) below the best are not looked at, or not kept.
const HOPELESS: f64 = 20.0;
const NEGLIGIBLE: f64 = 11.0;
/// Fast noise is estimated from the readings where there are so many; else it is summed over.
const MANY: usize = 60;

/// Block means, fine at the start, where the ends even out.
struct Blocks {
    t: Vec<f64>,
    width: Vec<f64>,
    count: Vec<f64>,
    v: Vec<f64>,
}

fn blocks(s: &Series) -> Blocks {
    let (start, end) = (s.t[0], s.t[s.len() - 1]);
    let edge = |k: f64| start + (end - start) * (k / POINTS).powf(1.7);
    let mut out = Blocks {
        t: vec![],
        width: vec![],
        count: vec![],
        v: vec![],
    };
    let (mut i, mut k) = (0, 1.0);
    while i < s.len() {
        while k < POINTS && edge(k) <= s.t[i] {
            k += 1.0;
        }
        let until = if k >= POINTS { f64::INFINITY } else { edge(k) };
        let from = i;
        while i < s.len() && s.t[i] < until {
            i += 1;
        }
        let m = (i - from) as f64;
        out.t.push(s.t[from..i].iter().sum::<f64>() / m);
        out.v.push(s.v[from..i].iter().sum::<f64>() / m);
        out.width
            .push((s.t[i - 1] - s.t[from]) * m / (m - 1.0).max(1.0));
        out.count.push(m);
    }
    out
}

/// Noise that may be: wander per root minute, relative fast noise, log weight.
fn noises(s: &Series, level: f64) -> Vec<(f64, f64, f64)> {
    let p = prior();
    let [a, b] = p.wander_per_root_min;
    let inside = |share: f64| a * (b / a).powf(share);
    // A gauge may be steadier or worse than thought.
    let wanders: [(f64, f64); 5] = [
        (0.5 * a, 0.05),
        (inside(1.0 / 6.0), 0.3),
        (inside(0.5), 0.3),
        (inside(5.0 / 6.0), 0.3),
        (1.8 * b, 0.05),
    ];
    let step = (s.t[s.len() - 1] - s.t[0]) / (s.len() - 1) as f64;
    let walked = inside(0.5).powi(2) * step / 60.0 / 3.0;
    let seen = ((s.fast_noise() / level).powi(2) - walked).max(1e-8).sqrt();
    let [low, high] = p.fast;
    let fasts = if s.len() >= MANY {
        vec![seen]
    } else {
        (0..4)
            .map(|k| low * (high / low).powf((f64::from(k) + 0.5) / 4.0))
            .collect()
    };
    let share = (fasts.len() as f64).ln();
    wanders
        .iter()
        .flat_map(|&(w, weight)| fasts.iter().map(move |&f| (w, f, weight.ln() - share)))
        .collect()
}

/// Covariance of the block means: a random walk (its mean over a block has a sixth of the width less variance), fast
/// noise, and digits.
fn covariance(
    b: &Blocks,
    (wander, fast): (f64, f64),
    digit: f64,
    is_dithered: bool,
) -> DMatrix<f64> {
    let n = b.t.len();
    let (span, moved) = (b.t[n - 1] - b.t[0], (b.v[n - 1] - b.v[0]).abs());
    // Undithered, an error of digits lasts until the reading has moved on by about one.
    let stays = (span * digit / moved.max(digit)).min(0.5 * span).max(1.0);
    let (own, shared) = if is_dithered {
        (digit * digit / 12.0, 0.0)
    } else {
        (0.0, digit * digit / 12.0)
    };
    DMatrix::from_fn(n, n, |i, j| {
        let walk = wander * wander / 60.0
            * b.v[i]
            * b.v[j]
            * (b.t[i].min(b.t[j]) - b.t[0] - if i == j { b.width[i] / 6.0 } else { 0.0 }).max(0.0);
        let alone = if i == j {
            ((fast * b.v[i]).powi(2) + own) / b.count[i] + 1e-8 * b.v[0] * b.v[0]
        } else {
            0.0
        };
        walk + alone + shared * (-(b.t[i] - b.t[j]).abs() / stays).exp()
    })
}

/// Every shape once, as a column; the last is the trace.
struct Columns {
    shapes: Vec<Shape>,
    data: Vec<Vec<f64>>,
}

impl Columns {
    fn of(b: &Blocks, common: &[Vec<Term>], hypotheses: &[Hypothesis]) -> Self {
        let mut shapes: Vec<Shape> = Vec::new();
        let all = common.iter().flatten().map(|t| t.0).chain(
            hypotheses
                .iter()
                .flat_map(|h| &h.parts)
                .flat_map(|p| p.riders.iter().map(|t| t.0).chain([p.shape])),
        );
        for shape in all {
            if !shapes.contains(&shape) {
                shapes.push(shape);
            }
        }
        let mut data: Vec<Vec<f64>> = shapes
            .iter()
            .map(|s| {
                b.t.iter()
                    .zip(&b.width)
                    .map(|(&t, &w)| s.over(t, w))
                    .collect()
            })
            .collect();
        data.push(b.v.clone());
        Self { shapes, data }
    }
    fn index(&self, terms: &[Term]) -> Vec<usize> {
        terms
            .iter()
            .map(|t| self.shapes.iter().position(|s| *s == t.0).unwrap_or(0))
            .collect()
    }
}

/// One choice of noise, hypothesis and sizes.
struct Choice {
    log_weight: f64,
    cause: Cause,
    noise: usize,
    rate: Option<(f64, f64)>,
    terms: Vec<Term>,
}

fn priors_of(terms: &[Term]) -> Vec<(f64, f64)> {
    terms.iter().map(|t| t.1).collect()
}

/// Explains a rise (`series`: seconds since isolation, Pa absolute). `None` with fewer than four readings or no spread in time.
#[must_use]
pub fn explain(series: &Series, known: &Background) -> Option<Explanations> {
    if series.len() < 4 || series.t[series.len() - 1] - series.t[0] < 20.0 {
        return None;
    }
    let b = blocks(series);
    let level = series.v[0].max(1e-3);
    let (common, hypotheses) = (common(known, level), hypotheses(known));
    let columns = Columns::of(&b, &common, &hypotheses);
    let is_dithered = series.fast_noise() >= 0.4 * known.digit;
    let noises = noises(series, level);
    let grams: Vec<Option<Gram>> = noises
        .iter()
        .map(|&(w, f, _)| {
            whiten(
                covariance(&b, (w, f), known.digit, is_dithered),
                &columns.data,
            )
        })
        .collect();
    let mut choices: Vec<Choice> = Vec::new();
    let mut top = f64::NEG_INFINITY;
    for (noise, gram) in grams.iter().enumerate() {
        let Some(gram) = gram else { continue };
        for shared in &common {
            for h in &hypotheses {
                let log_prior = h.log_prior + noises[noise].2 - (common.len() as f64).ln();
                weigh(
                    gram,
                    &columns,
                    shared,
                    h,
                    log_prior,
                    &mut top,
                    &mut |log_weight, rate, terms| {
                        choices.push(Choice {
                            log_weight,
                            cause: h.cause,
                            noise,
                            rate: h.cause.has_leak().then_some(rate),
                            terms,
                        });
                    },
                );
            }
        }
    }
    choices.retain(|c| c.log_weight > top - NEGLIGIBLE);
    if choices.is_empty() {
        return None;
    }
    summed(
        &choices,
        &grams,
        &columns,
        &noises,
        known,
        series.t[series.len() - 1] + 3600.0,
    )
}

type Report<'a> = &'a mut dyn FnMut(f64, (f64, f64), Vec<Term>);

/// Reports every choice of teeth of a hypothesis that could matter.
fn weigh(
    gram: &Gram,
    columns: &Columns,
    shared: &[Term],
    h: &Hypothesis,
    log_prior: f64,
    top: &mut f64,
    report: Report<'_>,
) {
    // Where the sizes may lie at all: a fit with sizes left free, about the middle of what was seen.
    let free: Vec<(f64, f64)> = h
        .parts
        .iter()
        .map(|p| {
            p.teeth
                .last()
                .map_or((0.0, 1.0), |t| (0.0, 3.0 * (t.0 + t.1)))
        })
        .collect();
    let guess: Vec<f64> = h
        .parts
        .iter()
        .map(|p| size_guess(gram, columns, shared, p))
        .collect();
    let mut terms = Vec::with_capacity(shared.len() + 8);
    terms.extend_from_slice(shared);
    let mut at = Vec::with_capacity(2);
    for ((part, &sd), &size) in h.parts.iter().zip(&free).zip(&guess) {
        at.push(terms.len());
        terms.push((part.shape, sd));
        terms.extend(
            part.riders
                .iter()
                .map(|&(s, (mean, spread))| (s, (mean * size, spread * size))),
        );
    }
    let index = columns.index(&terms);
    let Some(fit) = gram.solve(&index, &priors_of(&terms), 1.0) else {
        return;
    };
    let best: f64 = fit.log_evidence
        + at.iter()
            .zip(&free)
            .map(|(&k, f)| (f.1 / fit.sd[k].max(1e-12)).ln())
            .sum::<f64>();
    if best + log_prior < *top - HOPELESS {
        return;
    }
    let near: Vec<Vec<(f64, f64)>> = h
        .parts
        .iter()
        .zip(&at)
        .map(|(part, &k)| {
            let off = |t: &(f64, f64)| (t.0 - fit.mean[k]).abs() / fit.sd[k].hypot(t.1);
            let near: Vec<_> = part
                .teeth
                .iter()
                .copied()
                .filter(|t| off(t) < 6.0)
                .collect();
            let closest = part
                .teeth
                .iter()
                .copied()
                .min_by(|a, b| off(a).total_cmp(&off(b)));
            if near.is_empty() {
                closest.into_iter().collect()
            } else {
                near
            }
        })
        .collect();
    let mut sizes = vec![(0.0, 0.0); near.len()];
    each(&near, 0, &mut sizes, &mut |sizes| {
        let mut terms = shared.to_vec();
        terms.extend(h.terms(sizes));
        if let Some(post) = gram.solve(&index, &priors_of(&terms), 1.0) {
            let log_weight = post.log_evidence + log_prior;
            *top = top.max(log_weight);
            if log_weight > *top - NEGLIGIBLE {
                let k = shared.len();
                report(log_weight, (post.mean[k], post.sd[k]), terms);
            }
        }
    });
}

/// About how large a part would be if it were the only one: scales what rides on it.
fn size_guess(
    gram: &Gram,
    columns: &Columns,
    shared: &[Term],
    part: &super::hypothesis::Part,
) -> f64 {
    let (Some(first), Some(last)) = (part.teeth.first(), part.teeth.last()) else {
        return 0.0;
    };
    let mut terms = shared.to_vec();
    terms.push((part.shape, (0.0, 3.0 * (last.0 + last.1))));
    gram.solve(&columns.index(&terms), &priors_of(&terms), 1.0)
        .map_or(first.0, |p| {
            p.mean[shared.len()].clamp(first.0, last.0.max(first.0))
        })
}

/// A size of a part: mean and sd.
type Tooth = (f64, f64);

fn each(near: &[Vec<Tooth>], k: usize, sizes: &mut Vec<Tooth>, act: &mut dyn FnMut(&[Tooth])) {
    match near.get(k) {
        None => act(sizes),
        Some(teeth) => {
            for &tooth in teeth {
                sizes[k] = tooth;
                each(near, k + 1, sizes, act);
            }
        }
    }
}

/// Sums the choices up.
fn summed(
    choices: &[Choice],
    grams: &[Option<Gram>],
    columns: &Columns,
    noises: &[(f64, f64, f64)],
    known: &Background,
    ahead: f64,
) -> Option<Explanations> {
    let top = choices
        .iter()
        .map(|c| c.log_weight)
        .fold(f64::NEG_INFINITY, f64::max);
    let total: f64 = choices.iter().map(|c| (c.log_weight - top).exp()).sum();
    let share = |c: &Choice| (c.log_weight - top).exp() / total;
    let above =
        |(mean, sd): (f64, f64), x: f64| 0.5 * erfc((x - mean) / (sd * std::f64::consts::SQRT_2));
    let mut list: Vec<Explanation> = Vec::new();
    for &cause in Cause::ALL {
        let own = || choices.iter().filter(|c| c.cause == cause);
        let Some(best) = own().max_by(|a, b| a.log_weight.total_cmp(&b.log_weight)) else {
            continue;
        };
        let post = grams[best.noise].as_ref()?.solve(
            &columns.index(&best.terms),
            &priors_of(&best.terms),
            1.0,
        )?;
        let curve = best
            .terms
            .iter()
            .zip(post.mean)
            .map(|(t, a)| (t.0, a))
            .collect();
        list.push(Explanation {
            cause,
            probability: own().map(share).sum(),
            curve,
        });
    }
    list.sort_by(|a, b| b.probability.total_cmp(&a.probability));
    let (mut crosses, mut matters) = (0.0, 0.0);
    for c in choices {
        let x: Vec<f64> = c.terms.iter().map(|t| t.0.at(ahead)).collect();
        if let Some(level) = grams[c.noise]
            .as_ref()
            .and_then(|g| g.predict(&columns.index(&c.terms), &priors_of(&c.terms), 1.0, &x))
        {
            crosses += share(c) * above(level, known.limit);
        }
        matters += c.rate.map_or(0.0, |r| share(c) * above(r, known.matters));
    }
    let leak_probability = list
        .iter()
        .filter(|e| e.cause.has_leak())
        .map(|e| e.probability)
        .sum();
    let best = choices
        .iter()
        .max_by(|a, b| a.log_weight.total_cmp(&b.log_weight))?;
    let (wander, fast, _) = noises[best.noise];
    Some(Explanations {
        leak_rate: rate(choices, leak_probability),
        leak_probability,
        matters,
        crosses,
        list,
        noise: (fast, wander),
    })
}

fn rate(choices: &[Choice], leak_probability: f64) -> (f64, f64, f64) {
    let mut m = Mixture::default();
    for c in choices {
        if let Some((mean, sd)) = c.rate {
            m.add(c.log_weight, mean, sd);
        }
    }
    if m.is_empty() || leak_probability <= 0.0 {
        return (0.0, 0.0, 0.0);
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
    (
        leak_probability * m.moments().0,
        quantile(0.025),
        quantile(0.975),
    )
}
