//! A rise as the explanations see it: block means, the noise they may have, and every shape as a column beside them.
//!
//! Noise is relative: the gauge wanders (a random walk) and every reading has fast noise and digits. What no noise
//! dithers of the digits is an error that stays until the reading has moved on.

use super::hypothesis::{Hypothesis, Term};
use super::prior::prior;
use super::shape::Shape;
use crate::reading::Series;
use crate::stat::rounding;
use nalgebra::DMatrix;

const POINTS: f64 = 70.0;
/// Fast noise is estimated from the readings where there are so many; else it is summed over.
const MANY: usize = 60;
/// The ends have evened out and the steepest part of a rise is over by then, s: what is left between neighbours is
/// noise.
const CALM: f64 = 150.0;

/// Block means, fine at the start, where the ends even out.
#[derive(Debug, Clone, Default)]
pub struct Blocks {
    /// Middle of each, s since isolation.
    pub t: Vec<f64>,
    /// Width of each, s.
    pub width: Vec<f64>,
    /// Readings in each.
    pub count: Vec<f64>,
    /// Mean of each, Pa.
    pub v: Vec<f64>,
}

impl Blocks {
    /// Of a series that is not empty.
    pub fn of(s: &Series) -> Self {
        let (start, end) = (s.t[0], s.t[s.len() - 1]);
        let edge = |k: f64| start + (end - start) * (k / POINTS).powf(1.7);
        let mut out = Self::default();
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
}

/// A noise that may be.
#[derive(Debug, Clone, Copy)]
pub struct Noise {
    /// Wandering, relative, per root minute.
    pub wander: f64,
    /// Fast noise of one reading, relative.
    pub fast: f64,
    /// Logarithm of its weight.
    pub log_weight: f64,
}

impl Noise {
    /// That of the middle of the prior.
    pub fn usual() -> Self {
        let (w, f) = (prior().wander_per_root_min, prior().fast);
        Self {
            wander: (w[0] * w[1]).sqrt(),
            fast: (f[0] * f[1]).sqrt(),
            log_weight: 0.0,
        }
    }
}

/// Noises that may be.
pub fn noises(s: &Series, digit: f64) -> Vec<Noise> {
    let p = prior();
    let [a, b] = p.wander_per_root_min;
    let inside = |share: f64| a * (b / a).powf(share);
    // A gauge may be steadier or worse than thought.
    let wanders: [(f64, f64); 6] = [
        (inside(0.5), 0.3),
        (inside(1.0 / 6.0), 0.3),
        (inside(5.0 / 6.0), 0.3),
        (0.5 * a, 0.05),
        (1.8 * b, 0.04),
        (3.5 * b, 0.01),
    ];
    let [low, high] = p.fast;
    let fasts = if s.len() >= MANY {
        vec![(fast_noise(s, digit, inside(0.5)), 1.0)]
    } else {
        let inside = |third: f64| low * (high / low).powf((third + 0.5) / 3.0);
        vec![
            (inside(1.0), 0.32),
            (inside(0.0), 0.32),
            (inside(2.0), 0.32),
            (2.8 * high, 0.04),
        ]
    };
    wanders
        .iter()
        .flat_map(|&(wander, weight)| {
            fasts.iter().map(move |&(fast, share): &(f64, f64)| Noise {
                wander,
                fast,
                log_weight: (weight * share).ln(),
            })
        })
        .collect()
}

/// Relative fast noise of one reading: second differences over the local level, with what rounding and wandering add to
/// them taken off. Divided by the first level instead, a rise to ten times of it would look ten times as noisy.
fn fast_noise(s: &Series, digit: f64, wander: f64) -> f64 {
    let late = s.t.partition_point(|&t| t < s.t[0] + CALM);
    let from = if s.len() - late >= MANY / 2 { late } else { 0 };
    let (t, v) = (&s.t[from..], &s.v[from..]);
    let mut seen = 0.0;
    for w in v.windows(3) {
        let level = (w[0] + w[1] + w[2]) / 3.0;
        seen += ((w[0] - 2.0 * w[1] + w[2]) / level).powi(2) / 6.0;
    }
    seen /= (v.len() - 2) as f64;
    let step = (t[t.len() - 1] - t[0]) / (t.len() - 1) as f64;
    seen -= wander * wander * step / 60.0 / 3.0;
    let levels: Vec<f64> = v.iter().step_by(v.len().div_ceil(40)).copied().collect();
    let rounded = |fast: f64| {
        levels
            .iter()
            .map(|l| (digit * digit / 12.0 - rounding::lasting(fast * l, digit)) / (l * l))
            .sum::<f64>()
            / levels.len() as f64
    };
    let (mut low, mut high) = (1e-4, seen.max(1e-8).sqrt());
    for _ in 0..20 {
        let middle = 0.5 * (low + high);
        if middle * middle + rounded(middle) < seen {
            low = middle;
        } else {
            high = middle;
        }
    }
    0.5 * (low + high)
}

/// How many digits the truth had moved on by each block: what the reading moved by in steps, spread over the time
/// between them, for while a reading stands still what it rounds does not.
pub fn moved(b: &Blocks, digit: f64) -> Vec<f64> {
    let n = b.t.len();
    let mut nodes = Series::default();
    for (i, far) in rounding::steps(&b.v, digit).into_iter().enumerate() {
        if i == 0 || i == n - 1 || nodes.v.last().is_none_or(|v| far > v + 1e-9) {
            nodes.t.push(b.t[i]);
            nodes.v.push(far);
        }
    }
    rounding::unseen(&b.t)
        .zip(&b.t)
        .map(|(unseen, &t)| unseen + nodes.at(t).unwrap_or(0.0))
        .collect()
}

/// Covariance of the block means: a random walk (its mean over a block has a sixth of the width less variance), fast
/// noise, and digits. `moved`: how far the reading had moved on by each block, in digits.
pub fn covariance(b: &Blocks, noise: &Noise, digit: f64, moved: &[f64]) -> DMatrix<f64> {
    let n = b.t.len();
    let lasting: Vec<f64> =
        b.v.iter()
            .map(|v| rounding::lasting(noise.fast * v, digit).sqrt())
            .collect();
    let walk = noise.wander * noise.wander / 60.0;
    let mut c = DMatrix::zeros(n, n);
    for i in 0..n {
        for j in 0..=i {
            let since = b.t[j] - b.t[0] - if i == j { b.width[i] / 6.0 } else { 0.0 };
            let stays = lasting[i] * lasting[j] * (moved[j] - moved[i]).exp();
            let both = walk * b.v[i] * b.v[j] * since.max(0.0) + stays;
            c[(i, j)] = both;
            c[(j, i)] = both;
        }
        let own = (noise.fast * b.v[i]).powi(2) + digit * digit / 12.0 - lasting[i] * lasting[i];
        c[(i, i)] += own / b.count[i] + 1e-8 * b.v[0] * b.v[0];
    }
    c
}

/// Every shape once, as a column; the last is the trace.
#[derive(Debug, Clone)]
pub struct Columns {
    shapes: Vec<Shape>,
    /// The columns themselves.
    pub data: Vec<Vec<f64>>,
}

impl Columns {
    /// For what every hypothesis shares, and what each has of its own.
    pub fn of(b: &Blocks, common: &[(f64, Vec<Term>)], hypotheses: &[Hypothesis]) -> Self {
        let mut shapes: Vec<Shape> = Vec::new();
        let all = common.iter().flat_map(|c| &c.1).map(|t| t.0).chain(
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
    /// Where these terms' columns are.
    pub fn index(&self, terms: &[Term]) -> Vec<usize> {
        terms
            .iter()
            .map(|t| self.shapes.iter().position(|s| *s == t.0).unwrap_or(0))
            .collect()
    }
}
