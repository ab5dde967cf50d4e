//! Competing shapes for a rise: how well each explains it, with sizes, time constants and noise summed over.
//!
//! p(t) = p0 + f·e^(−t/τf) + Σ a·shape(t) + noise; noise relative: wandering (a random walk) plus fast noise and
//! digits. Sizes a are positive and spread evenly in their logarithm: each is a comb of normal distributions, one
//! for every step of 1.7, so that every tooth is an exact regression.

use super::prior::{BLEND, Cause, EVACUATED, EVENING_OUT, LARGEST_LEAK, LARGEST_RISE, LEVELLING, WANDER, WATER_BAND};
use super::shape::Shape;
use crate::reading::Series;
use crate::stat::{Gram, Posterior, whiten};
use nalgebra::DMatrix;

/// What is known beside the trace.
#[derive(Debug, Clone, Copy)]
pub struct Known {
    /// Time under vacuum before isolation, s.
    pub evacuated: Option<f64>,
    /// Smallest step of the gauge, Pa.
    pub digit: f64,
    /// A rise over ten minutes (or the rule's time) that does not matter, Pa, and that time, s.
    pub negligible: (f64, f64),
    /// Saturation pressure at the coldest place, Pa, if its temperature is known.
    pub saturation: Option<f64>,
}

/// One explanation with its probability and its best curve.
#[derive(Debug, Clone)]
pub struct Explanation {
    /// The shape.
    pub cause: Cause,
    /// Share of belief.
    pub probability: f64,
    curve: Curve,
}

#[derive(Debug, Clone, Default)]
struct Curve {
    base: f64,
    fast: (f64, f64),
    parts: Vec<(Shape, f64)>,
}

impl Explanation {
    /// Its forecast at `t` seconds after isolation, Pa.
    #[must_use]
    pub fn at(&self, t: f64) -> f64 {
        let c = &self.curve;
        c.base + c.fast.0 * (-t / c.fast.1).exp() + c.parts.iter().map(|(s, a)| a * s.at(t)).sum::<f64>()
    }
    /// Where it levels, Pa, if it does.
    #[must_use]
    pub fn level(&self) -> Option<f64> {
        let parts = &self.curve.parts;
        let levels = !parts.is_empty() && parts.iter().all(|(s, _)| matches!(s, Shape::Levelling(_)));
        levels.then(|| self.curve.base + parts.iter().map(|(_, a)| a).sum::<f64>())
    }
}

/// All explanations of one rise, most likely first.
#[derive(Debug, Clone)]
pub struct Explanations {
    /// Most likely first.
    pub list: Vec<Explanation>,
    /// Sum over causes with a leak.
    pub leak_probability: f64,
    /// Leak rate (Pa/s): mean, 2.5 % and 97.5 % bounds over all causes, those without a leak counting as zero.
    pub leak_rate: (f64, f64, f64),
    /// Relative fast noise and wandering per root minute that fitted best.
    pub noise: (f64, f64),
}

const POINTS: usize = 70;
const STEP: f64 = 1.7;
/// Width of one tooth against its size; with a step of 1.7 the comb is flat within a few per cent.
const TOOTH: f64 = 0.3;

fn comb(from: f64, to: f64) -> Vec<f64> {
    let n = ((to / from).ln() / STEP.ln()).ceil().clamp(1.0, 30.0) as i32;
    (0..=n).map(|k| from * STEP.powi(k)).collect()
}

/// A hypothesis: shapes with their combs and a log prior weight.
struct Hypothesis {
    cause: Cause,
    log_prior: f64,
    parts: Vec<Part>,
}

/// One shape of a hypothesis: its column, what it is made of (shape and share), the comb of its sizes; and, for a span
/// of time constants, the column that blends its two ends.
#[derive(Clone)]
struct Part {
    column: usize,
    made_of: Vec<(Shape, f64)>,
    comb: Vec<f64>,
    blend: Option<(usize, Shape, Shape)>,
}

struct Columns {
    data: Vec<Vec<f64>>,
    t: Vec<f64>,
}

impl Columns {
    fn add(&mut self, shape: Shape) -> usize {
        self.push(|t| shape.at(t))
    }
    fn push(&mut self, f: impl Fn(f64) -> f64) -> usize {
        self.data.push(self.t.iter().map(|&t| f(t)).collect());
        self.data.len() - 1
    }
    fn plain(&mut self, shape: Shape, comb: &[f64]) -> Part {
        Part { column: self.add(shape), made_of: vec![(shape, 1.0)], comb: comb.to_vec(), blend: None }
    }
    fn span(&mut self, from: f64, to: f64, comb: &[f64]) -> Part {
        let (a, b) = (Shape::Levelling(from), Shape::Levelling(to));
        Part {
            column: self.push(|t| 0.5 * (a.at(t) + b.at(t))),
            made_of: vec![(a, 0.5), (b, 0.5)],
            comb: comb.to_vec(),
            blend: Some((self.push(|t| a.at(t) - b.at(t)), a, b)),
        }
    }
}

fn hypotheses(columns: &mut Columns, known: &Known) -> Vec<Hypothesis> {
    let slowest = known.negligible.0 / known.negligible.1;
    let leak = comb(slowest, LARGEST_LEAK);
    let rise = comb(known.negligible.0.max(0.1), LARGEST_RISE);
    let straight = columns.plain(Shape::Straight, &leak);
    let levelling: Vec<Part> = LEVELLING.windows(2).map(|w| columns.span(w[0], w[1], &rise)).collect();
    let times: Vec<f64> = known.evacuated.map_or_else(|| EVACUATED.to_vec(), |t| vec![t.max(30.0)]);
    let bending: Vec<Part> = times.iter().flat_map(|&t0| [Shape::Root(t0), Shape::Log(t0)]).map(|s| columns.plain(s, &rise)).collect();
    let prior = |cause: Cause| Cause::PRIOR.iter().find(|(c, _)| *c == cause).map_or(f64::NEG_INFINITY, |(_, p)| p.ln());
    let of = |cause: Cause, spread: usize, parts: Vec<Part>| Hypothesis { cause, log_prior: prior(cause) - (spread as f64).ln(), parts };
    let (low, high) = known.saturation.map_or((0.25 * 800.0, 1.75 * 4_200.0), |p| (WATER_BAND.0 * p, WATER_BAND.1 * p));
    let mut out = vec![of(Cause::Still, 1, vec![Part { comb: vec![], ..straight.clone() }]), of(Cause::Leak, 1, vec![straight.clone()])];
    for part in &levelling {
        out.push(of(Cause::Moisture, levelling.len(), vec![part.clone()]));
        out.push(of(Cause::LeakAndMoisture, levelling.len(), vec![straight.clone(), part.clone()]));
        out.push(of(Cause::Water, levelling.len(), vec![Part { comb: comb(low, high), ..part.clone() }]));
    }
    for part in &bending {
        out.push(of(Cause::Outgassing, bending.len(), vec![part.clone()]));
        out.push(of(Cause::LeakAndOutgassing, bending.len(), vec![straight.clone(), part.clone()]));
    }
    out
}

/// What one cause has gathered over all grids.
#[derive(Default, Clone)]
struct Tally {
    best: f64,
    sum: f64,
    curve: Curve,
}

impl Tally {
    fn add(&mut self, log_w: f64, curve: impl FnOnce() -> Curve) {
        if self.sum == 0.0 || log_w > self.best {
            self.sum = self.sum * (self.best - log_w).min(0.0).exp() + 1.0;
            self.best = log_w;
            self.curve = curve();
        } else {
            self.sum += (log_w - self.best).exp();
        }
    }
    fn log(&self) -> f64 {
        if self.sum > 0.0 { self.best + self.sum.ln() } else { f64::NEG_INFINITY }
    }
}

/// Explains a rise (`series`: seconds since isolation, Pa absolute). `None` with fewer than four readings or no spread in time.
#[must_use]
pub fn explain(series: &Series, known: &Known) -> Option<Explanations> {
    let (s, count) = series.thinned(POINTS);
    let n = s.len();
    if n < 4 || s.t[n - 1] - s.t[0] < 20.0 {
        return None;
    }
    let fast = series.fast_noise();
    let dithered = fast >= 0.5 * known.digit;
    let single = (fast.max(known.digit / 12f64.sqrt())).max(1e-4 * s.v[0]);
    let level = s.v[0].max(1e-3);
    let mut columns = Columns { data: vec![vec![1.0; n]], t: s.t.clone() };
    let hypotheses = hypotheses(&mut columns, known);
    let evening: Vec<usize> = EVENING_OUT
        .iter()
        .map(|tau| {
            columns.data.push(s.t.iter().map(|t| (-t / tau).exp()).collect());
            columns.data.len() - 1
        })
        .collect();
    columns.data.push(s.v.clone());
    let mut tallies: Vec<Tally> = vec![Tally::default(); Cause::PRIOR.len()];
    let mut rates: Vec<(f64, f64, f64)> = Vec::new();
    let mut top = (f64::NEG_INFINITY, WANDER[0]);
    for wander in WANDER {
        let c = DMatrix::from_fn(n, n, |i, j| {
            let shared = s.v[i].max(level) * s.v[j].max(level) * wander * wander * (s.t[i].min(s.t[j]) - s.t[0]) / 60.0;
            let own = if i == j { single * single * (s.v[i] / level).max(1.0) / if dithered { count[i] } else { 1.0 } } else { 0.0 };
            shared + own
        });
        let Some(gram) = whiten(c, &columns.data) else { continue };
        for (f, &evening) in evening.iter().enumerate() {
            for h in &hypotheses {
                each_tooth(&gram, h, evening, EVENING_OUT[f], level, known, &mut |log_w, curve, rate| {
                    if log_w > top.0 {
                        top = (log_w, wander);
                    }
                    if log_w > top.0 - 14.0 {
                        if let Some(r) = rate {
                            rates.push((log_w, r.0, r.1));
                        }
                        let slot = Cause::PRIOR.iter().position(|(c, _)| *c == h.cause).unwrap_or(0);
                        tallies[slot].add(log_w, curve);
                    }
                });
            }
        }
    }
    let best = tallies.iter().map(Tally::log).fold(f64::NEG_INFINITY, f64::max);
    if !best.is_finite() {
        return None;
    }
    let total: f64 = tallies.iter().map(|t| (t.log() - best).exp()).sum();
    let mut list: Vec<Explanation> = Cause::PRIOR
        .iter()
        .zip(tallies)
        .filter(|(_, t)| t.sum > 0.0)
        .map(|(&(cause, _), t)| Explanation { cause, probability: (t.log() - best).exp() / total, curve: t.curve })
        .collect();
    list.sort_by(|a, b| b.probability.total_cmp(&a.probability));
    let leak_probability = list.iter().filter(|e| e.cause.has_leak()).map(|e| e.probability).sum();
    Some(Explanations { leak_probability, leak_rate: rate(&rates, leak_probability), list, noise: (single / level, top.1) })
}

type Report<'a> = &'a mut dyn FnMut(f64, &dyn Fn() -> Curve, Option<(f64, f64)>);

/// The curve of one solution: every shape with its size.
fn curve_of(post: &Posterior, tau_f: f64, parts: &[Part]) -> Curve {
    let mut curve = Curve { base: post.mean[0], fast: (post.mean[1], tau_f), parts: Vec::new() };
    let mut k = 2;
    for part in parts {
        let size = post.mean[k];
        curve.parts.extend(part.made_of.iter().map(|&(s, share)| (s, share * size)));
        k += 1;
        if let Some((_, a, b)) = part.blend {
            curve.parts.extend([(a, post.mean[k]), (b, -post.mean[k])]);
            k += 1;
        }
    }
    curve
}

fn each_tooth(gram: &Gram, h: &Hypothesis, evening: usize, tau_f: f64, level: f64, known: &Known, report: Report<'_>) {
    let small = 0.5 * known.negligible.0 / known.negligible.1;
    // The ends may differ by much when the gauge sits at the pump.
    let uneven = 0.4 * level + 13.0;
    let teeth: Vec<Vec<(f64, f64)>> =
        h.parts.iter().map(|part| if part.comb.is_empty() { vec![(0.0, small)] } else { part.comb.iter().map(|&a| (a, TOOTH * a)).collect() }).collect();
    let log_n: f64 = teeth.iter().map(|t| (t.len() as f64).ln()).sum::<f64>() + (EVENING_OUT.len() as f64 * WANDER.len() as f64).ln();
    let mut index = vec![0usize; teeth.len()];
    loop {
        let mut cols = [0, evening, 0, 0, 0, 0];
        let mut priors = [(level, 10.0 * level + 100.0), (0.0, uneven), (0.0, 0.0), (0.0, 0.0), (0.0, 0.0), (0.0, 0.0)];
        let mut p = 2;
        for (k, part) in h.parts.iter().enumerate() {
            let tooth = teeth[k][index[k]];
            (cols[p], priors[p]) = (part.column, tooth);
            p += 1;
            if let Some((column, _, _)) = part.blend {
                (cols[p], priors[p]) = (column, (0.0, BLEND * tooth.0));
                p += 1;
            }
        }
        if let Some(post) = gram.solve(&cols[..p], &priors[..p], 1.0) {
            let rate = h.cause.has_leak().then_some((post.mean[2], post.sd[2]));
            let curve = move || curve_of(&post, tau_f, &h.parts);
            report(post.log_evidence + h.log_prior - log_n, &curve, rate);
        }
        let mut k = 0;
        loop {
            if k == index.len() {
                return;
            }
            index[k] += 1;
            if index[k] < teeth[k].len() {
                break;
            }
            index[k] = 0;
            k += 1;
        }
    }
}

fn rate(rates: &[(f64, f64, f64)], leak_probability: f64) -> (f64, f64, f64) {
    let mut m = crate::stat::Mixture::default();
    for &(w, mean, sd) in rates {
        m.add(w, mean, sd);
    }
    if m.is_empty() || leak_probability <= 0.0 {
        return (0.0, 0.0, 0.0);
    }
    let m = m.settled();
    // The causes without a leak are a lump at zero.
    let lump = 1.0 - leak_probability;
    let quantile = |q: f64| if q <= lump { 0.0 } else { m.quantile((q - lump) / leak_probability).max(0.0) };
    (leak_probability * m.moments().0, quantile(0.025), quantile(0.975))
}
