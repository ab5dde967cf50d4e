//! The temperature of a part as a path with an error of its own: what it was at any moment, and how far that is known.
//!
//! T(t) = c + r·t + M(t) + D(t), read with an error. c a level, r a drift, M a Matérn process of smoothness 3/2, D a
//! smooth one of hours on long records. Readings err by fast noise, by rounding that lasts until the value has moved
//! by a digit ([`rounding`]), and by what the way of reading adds. Sizes and time scales of M are summed over a small
//! grid by their evidence. (Rasmussen & Williams, *Gaussian Processes for Machine Learning*, 2006, ch. 2 and 4.2.)

use super::blocks::blocks;
use crate::reading::{Series, Sky};
use crate::stat::{Blocks, correlated, rounding};
use nalgebra::{DMatrix, DVector};

/// A temperature at the moments asked for.
#[derive(Debug, Clone)]
pub struct Path {
    /// Expected, K.
    pub mean: Vec<f64>,
    /// Covariance, K².
    pub spread: DMatrix<f64>,
}

/// How a probe is read.
#[derive(Debug, Clone, Copy)]
pub struct Eye {
    /// Smallest step shown, K.
    pub digit: f64,
    /// Standard deviation of an error that is new in every reading, K (aiming an infrared thermometer).
    pub own: f64,
}

/// What the weather does while nobody looks; all common practice without a source.
struct Belief {
    /// Standard deviation of the drift, K/h.
    drift: f64,
    /// Of the day's smooth part, K.
    day: f64,
    /// Weights of the sizes of the irregular part.
    sizes: [f64; SIZES.len()],
}

/// Standard deviations of the irregular part, K, …
const SIZES: [f64; 4] = [0.1, 0.35, 1.0, 3.0];
/// … and its time scales, s.
const SCALES: [f64; 3] = [150.0, 600.0, 2_400.0];
/// Records longer than this, s, have a smooth part of [`DAY`] seconds' scale too.
const LONG: f64 = 5_400.0;
const DAY: f64 = 4.0 * 3_600.0;
/// The level is known to no better than this beforehand, K.
const LEVEL: f64 = 20.0;
/// How much a probe may err from reading to reading beyond the noise that shows, K, with weights. Common practice, no
/// source. Believed steadier than it is, it gave intervals that missed nine times in ten; believed less steady, a
/// smooth pressure seemed to prove that the gas lags far behind, and closed volumes *fell*.
const UNSTEADY: [(f64, f64); 4] = [(0.005, 0.2), (0.02, 0.4), (0.05, 0.3), (0.12, 0.1)];
/// The same where too few readings tell.
const UNTOLD: [(f64, f64); 1] = [(0.02, 1.0)];
/// Fewer readings do not show how noisy they are.
const ENOUGH: usize = 8;
/// Blocks of the first hour and a half of a long hold, and of the rest.
const BLOCKS: (usize, usize) = (30, 40);
/// So long before and after a reading the probe counts as read, s; …
const FOLLOWED: f64 = 150.0;
/// … and beyond, the weather may be another: it strays as far as its drift goes in this time, s. Common practice, no
/// source.
const STRAYS: f64 = 900.0;

fn believed(sky: Option<Sky>) -> Belief {
    let (drift, day, sizes) = match sky {
        Some(Sky::Indoors) => (1.5, 1.5, [0.45, 0.40, 0.13, 0.02]),
        Some(Sky::Overcast) => (3.0, 3.0, [0.30, 0.45, 0.22, 0.03]),
        Some(Sky::SunCloud) => (5.5, 5.0, [0.03, 0.17, 0.50, 0.30]),
        Some(Sky::Windy) => (4.5, 4.0, [0.15, 0.40, 0.35, 0.10]),
        None => (5.5, 5.0, [0.25, 0.30, 0.30, 0.15]),
    };
    Belief { drift, day, sizes }
}

/// What the weather before the record may have left between gas and probe, K (standard deviation), and how likely it is
/// to be of that size rather than of the record's own.
#[must_use]
pub fn history(sky: Option<Sky>) -> (f64, f64) {
    match sky {
        Some(Sky::Indoors) => (0.4, 0.2),
        Some(Sky::Overcast) => (0.8, 0.3),
        Some(Sky::SunCloud) => (2.5, 0.6),
        Some(Sky::Windy) => (1.2, 0.3),
        None => (1.8, 0.3),
    }
}

/// Readings gathered into blocks, and the covariances that their errors may have, each with its weight.
struct Seen {
    t: Vec<f64>,
    v: DVector<f64>,
    errors: Vec<(f64, DMatrix<f64>)>,
}

/// How far a probe may err beyond the noise that shows, K. Second differences hold all of its fast noise, so it errs by
/// hardly more than they do, digits aside.
fn unsteady(readings: &Series, digit: f64) -> impl Iterator<Item = (f64, f64)> {
    let (sizes, most): (&[(f64, f64)], f64) = if readings.len() < ENOUGH {
        (&UNTOLD, f64::INFINITY)
    } else {
        let seen = readings.fast_noise().hypot(digit / 12f64.sqrt());
        (&UNSTEADY, 2.0 * seen.max(UNSTEADY[0].0))
    };
    sizes.iter().copied().filter(move |(size, _)| *size <= most)
}

fn seen(readings: &Series, eye: Eye) -> Option<Seen> {
    let (thin, _, count) = blocks(readings, BLOCKS);
    let n = thin.len();
    if n == 0 {
        return None;
    }
    let noise = readings.noise_before_rounding(eye.digit);
    let lasting = rounding::lasting(noise, eye.digit);
    let rounded = (eye.digit * eye.digit / 12.0 - lasting).max(0.0);
    let moved = rounding::moved(&thin.t, &thin.v, eye.digit);
    let step = |i: usize| moved[i] - moved[i - 1];
    let width = (0..n)
        .map(|i| {
            let around = [i, i + 1]
                .into_iter()
                .filter(|&k| k > 0 && k < n)
                .map(step)
                .fold(f64::INFINITY, f64::min);
            if count[i] > 1.0 && around.is_finite() {
                around
            } else {
                0.0
            }
        })
        .collect();
    let steady = lasting.max(1e-12);
    let blocks = Blocks {
        t: moved,
        width,
        count,
    };
    let errors = unsteady(readings, eye.digit)
        .map(|(own, weight)| {
            let once = noise.hypot(own).hypot(eye.own).powi(2) + rounded;
            (weight, steady * correlated(&blocks, 1.0, once / steady))
        })
        .collect();
    Some(Seen {
        v: DVector::from_vec(thin.v),
        t: thin.t,
        errors,
    })
}

/// What the weather may have done while nobody read the probe, however steady it was before: a random walk that runs
/// only then, as the variance (K²) gathered until each moment (s).
struct Unread {
    rate: f64,
    spans: Vec<(f64, f64)>,
}

impl Unread {
    /// `drift` in K/h: after a quarter of an hour the walk has come as far, one standard deviation, as a steady drift.
    fn of(readings: &Series, at: &[f64], drift: f64) -> Self {
        let start = at[0].min(readings.t[0]);
        let end = at[at.len() - 1].max(readings.t[readings.len() - 1]) + 2.0 * FOLLOWED;
        let stops: Vec<f64> = std::iter::once(start - 2.0 * FOLLOWED)
            .chain(readings.t.iter().copied())
            .chain([end])
            .collect();
        let spans = stops
            .windows(2)
            .map(|w| (w[0] + FOLLOWED, w[1] - FOLLOWED))
            .filter(|(a, b)| b > a)
            .collect();
        Self {
            rate: drift * drift * STRAYS / 3_600.0 / 3_600.0,
            spans,
        }
    }
    fn until(&self, t: f64) -> f64 {
        let read = |&(a, b): &(f64, f64)| (t.min(b) - a).max(0.0);
        self.rate * self.spans.iter().map(read).sum::<f64>()
    }
}

/// Correlation of the irregular part.
fn matern(apart: f64, scale: f64) -> f64 {
    let x = 3f64.sqrt() * apart.abs() / scale;
    (1.0 + x) * (-x).exp()
}

fn table(a: &[f64], b: &[f64], f: impl Fn(f64, f64) -> f64) -> DMatrix<f64> {
    DMatrix::from_fn(a.len(), b.len(), |i, j| f(a[i], b[j]))
}

/// What `readings` (K) say of the temperature at the moments `at` (s, ascending). `None` without a reading.
#[must_use]
pub fn path(readings: &Series, eye: Eye, sky: Option<Sky>, at: &[f64]) -> Option<Path> {
    let seen = seen(readings, eye)?;
    let belief = believed(sky);
    let n = seen.t.len();
    let middle = 0.5 * (at[0] + at[at.len() - 1]);
    let level = seen.v.mean();
    let is_long = at[at.len() - 1] - at[0] > LONG;
    let unread = Unread::of(readings, at, belief.drift);
    let smooth = |a: f64, b: f64| {
        let hour = |t: f64| (t - middle) / 3_600.0;
        let slow = if is_long {
            belief.day.powi(2) * (-0.5 * ((a - b) / DAY).powi(2)).exp()
        } else {
            0.0
        };
        LEVEL * LEVEL + belief.drift.powi(2) * hour(a) * hour(b) + slow + unread.until(a.min(b))
    };
    let (own, cross, asked) = (
        table(&seen.t, &seen.t, smooth),
        table(at, &seen.t, smooth),
        table(at, at, smooth),
    );
    let y = seen.v.add_scalar(-level);
    let mut kept = Vec::new();
    for scale in SCALES {
        let irregular = |a: f64, b: f64| matern(a - b, scale);
        let (own_m, cross_m) = (
            table(&seen.t, &seen.t, irregular),
            table(at, &seen.t, irregular),
        );
        for (size, weight) in SIZES.into_iter().zip(belief.sizes) {
            let truly = &own + size * size * &own_m;
            for (likely, error) in &seen.errors {
                let factor = (&truly + error).cholesky()?;
                let l = factor.l_dirty();
                let z = l.solve_lower_triangular(&y)?;
                let log_det: f64 = (0..n).map(|i| l[(i, i)].ln()).sum();
                let log_weight = weight.ln() + likely.ln() - 0.5 * z.norm_squared() - log_det;
                let k = &cross + size * size * &cross_m;
                kept.push((log_weight, scale, size, k, factor, z));
            }
        }
    }
    let best = kept.iter().map(|k| k.0).fold(f64::NEG_INFINITY, f64::max);
    kept.retain(|k| k.0 > best - 4.5);
    let total: f64 = kept.iter().map(|k| (k.0 - best).exp()).sum();
    let m = at.len();
    let (mut mean, mut spread) = (DVector::zeros(m), DMatrix::zeros(m, m));
    let mut means = Vec::new();
    for (log_weight, scale, size, k, factor, z) in kept {
        let w = (log_weight - best).exp() / total;
        let half = factor.l_dirty().solve_lower_triangular(&k.transpose())?;
        let expected = half.tr_mul(&z);
        let irregular = table(at, at, |a, b| size * size * matern(a - b, scale));
        spread += w * (&asked + irregular - half.tr_mul(&half));
        mean += w * &expected;
        means.push((w, expected));
    }
    for (w, expected) in means {
        let off = expected - &mean;
        spread += w * &off * off.transpose();
    }
    Some(Path {
        mean: mean.iter().map(|x| x + level).collect(),
        spread,
    })
}

/// The leading directions of a covariance, each scaled to one standard deviation and counted from its first moment;
/// those whose mean square is under `least` squared are left out.
///
/// By subspace iteration from cosines (Halko, Martinsson & Tropp 2011): paths are smooth, so few are enough.
#[must_use]
pub fn directions(spread: &DMatrix<f64>, most: usize, least: f64) -> Vec<Vec<f64>> {
    let n = spread.nrows();
    let width = (most + 4).min(n - 1);
    let cosine = |i: usize, k: usize| {
        (std::f64::consts::PI * (k + 1) as f64 * (i as f64 + 0.5) / n as f64).cos()
    };
    let mut basis = DMatrix::from_fn(n, width, cosine);
    // A level is no change: it is left to the regression's own constant.
    let centred = |mut x: DMatrix<f64>| {
        for mut column in x.column_iter_mut() {
            let mean = column.mean();
            column.add_scalar_mut(-mean);
        }
        x
    };
    for _ in 0..3 {
        basis = centred(spread * centred(basis)).qr().q();
    }
    let inner = basis.tr_mul(&(spread * &basis)).symmetric_eigen();
    let mut order: Vec<usize> = (0..inner.eigenvalues.len()).collect();
    order.sort_by(|&a, &b| inner.eigenvalues[b].total_cmp(&inner.eigenvalues[a]));
    order
        .into_iter()
        .take(most)
        .filter(|&i| inner.eigenvalues[i] / n as f64 > least * least)
        .map(|i| {
            let v = &basis * inner.eigenvectors.column(i) * inner.eigenvalues[i].sqrt();
            v.iter().map(|x| x - v[0]).collect()
        })
        .collect()
}
