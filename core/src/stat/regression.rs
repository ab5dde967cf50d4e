//! Linear regression with normal priors under a given noise covariance.
//!
//! Model: y = X β + s ε, ε ~ N(0, C), β_k ~ N(μ_k, sd_k²). Standard conjugate result (for example Gelman et al.,
//! Bayesian Data Analysis, 3rd ed., ch. 14): precision A = XᵀC⁻¹X/s² + Λ, mean A⁻¹(XᵀC⁻¹y/s² + Λμ).
//! All columns are whitened once per covariance; any subset and any s is then a small solve.

use nalgebra::{DMatrix, DVector};

/// Most coefficients in one regression.
pub const MOST: usize = 16;

/// Inner products of the whitened columns (the last one is y) and ln det C.
#[derive(Debug, Clone)]
pub struct Gram {
    pub(super) g: DMatrix<f64>,
    pub(super) log_det: f64,
    /// Number of rows.
    pub n: f64,
}

/// The answer for one coefficient and the evidence of the whole model.
#[derive(Debug, Clone, Copy)]
pub struct Posterior<const N: usize = MOST> {
    /// Log evidence, up to a constant shared by all models of the same data.
    pub log_evidence: f64,
    /// Means of the coefficients.
    pub mean: [f64; N],
    /// Standard deviations of the coefficients.
    pub sd: [f64; N],
}

/// Whitens `columns` (the last is y) with the Cholesky factor of `c`. `None` if `c` is not positive definite.
#[must_use]
pub fn whiten(c: DMatrix<f64>, columns: &[Vec<f64>]) -> Option<Gram> {
    let n = c.nrows();
    let l = c.cholesky()?.unpack();
    let log_det = 2.0 * (0..n).map(|i| l[(i, i)].ln()).sum::<f64>();
    let mut x = DMatrix::from_fn(n, columns.len(), |i, j| columns[j][i]);
    for j in 0..columns.len() {
        let solved =
            l.solve_lower_triangular(&DVector::from_column_slice(x.column(j).as_slice()))?;
        x.set_column(j, &solved);
    }
    Some(Gram {
        g: x.tr_mul(&x),
        log_det,
        n: n as f64,
    })
}

/// The Cholesky factor of the posterior precision of at most `N` coefficients, and what comes with it.
pub(super) struct Factor<const N: usize> {
    pub a: [[f64; N]; N],
    /// L⁻¹(XᵀC⁻¹y/s² + Λμ).
    pub z: [f64; N],
    pub constant: f64,
    /// ln det of the posterior precision over the prior's.
    pub log_gain: f64,
}

impl<const N: usize> Factor<N> {
    fn mean(&self, p: usize) -> [f64; N] {
        let mut mean = [0.0; N];
        for i in (0..p).rev() {
            mean[i] = (self.z[i] - (i + 1..p).map(|k| self.a[k][i] * mean[k]).sum::<f64>())
                / self.a[i][i];
        }
        mean
    }
}

/// A regression whose last coefficient still waits for its prior: every prior is then a few operations.
pub struct Waiting<const N: usize> {
    factor: Factor<N>,
    p: usize,
    /// What of the evidence does not depend on it, times −2.
    rest: f64,
    /// What the data say of the last one: precision, and precision times mean.
    seen: (f64, f64),
}

impl<const N: usize> Waiting<N> {
    /// Log evidence, and mean and standard deviation of the last coefficient; `None` where the evidence is less than
    /// `least`.
    #[must_use]
    pub fn with(&self, (mean, sd): (f64, f64), least: f64) -> Option<(f64, (f64, f64))> {
        let own = 1.0 / (sd * sd);
        let precision = (self.seen.0 + own).max(f64::MIN_POSITIVE);
        let pull = self.seen.1 + own * mean;
        let last = pull / precision;
        let left = self.rest + own * mean * mean - pull * last;
        // The logarithm is positive and dear.
        if -0.5 * left < least {
            return None;
        }
        let log_evidence = -0.5 * (left + (precision / own).ln());
        (log_evidence > least).then(|| (log_evidence, (last, 1.0 / precision.sqrt())))
    }

    /// Means of all coefficients, where the last is this.
    #[must_use]
    pub fn means(&self, last: f64) -> [f64; N] {
        let (f, k) = (&self.factor, self.p - 1);
        let mut means = [0.0; N];
        means[k] = last;
        for i in (0..k).rev() {
            let known: f64 = (i + 1..=k).map(|j| f.a[j][i] * means[j]).sum();
            means[i] = (f.z[i] - known) / f.a[i][i];
        }
        means
    }
}

impl Gram {
    /// Solves for all but the last of `columns`, whose prior comes later; `priors` are those of the others.
    #[must_use]
    pub fn waiting<const N: usize>(
        &self,
        columns: &[usize],
        priors: &[(f64, f64)],
    ) -> Option<Waiting<N>> {
        let (p, y) = (columns.len(), self.g.ncols() - 1);
        let (k, last) = (p - 1, columns[p - 1]);
        let mut factor = self.factor::<N>(&columns[..k], priors, 1.0)?;
        for (i, &column) in columns[..k].iter().enumerate() {
            let known: f64 = (0..i).map(|j| factor.a[k][j] * factor.a[i][j]).sum();
            factor.a[k][i] = (self.g[(last, column)] - known) / factor.a[i][i];
        }
        let row = factor.a[k];
        let taken = |f: &dyn Fn(usize) -> f64| (0..k).map(f).sum::<f64>();
        let seen = (
            self.g[(last, last)] - taken(&|i| row[i] * row[i]),
            self.g[(last, y)] - taken(&|i| row[i] * factor.z[i]),
        );
        let explained: f64 = factor.z[..k].iter().map(|v| v * v).sum();
        let rest = self.log_det + factor.constant - explained + factor.log_gain;
        Some(Waiting {
            factor,
            p,
            rest,
            seen,
        })
    }

    /// |y − X β|² of the whitened columns: about [`Gram::n`] where the model holds.
    #[must_use]
    pub fn misfit(&self, columns: &[usize], beta: &[f64]) -> f64 {
        let y = self.g.ncols() - 1;
        let own = self.g[(y, y)];
        columns.iter().zip(beta).fold(own, |left, (&i, b)| {
            let fitted: f64 = columns
                .iter()
                .zip(beta)
                .map(|(&j, c)| c * self.g[(i, j)])
                .sum();
            left + b * (fitted - 2.0 * self.g[(i, y)])
        })
    }

    /// The same with some coefficients summed over under their priors (mean, sd): any regression on the others then has
    /// the evidence and the answers it would have beside them. `None` where that cannot be done.
    #[must_use]
    pub fn without(&self, columns: &[usize], priors: &[(f64, f64)]) -> Option<Self> {
        let (n, y) = (self.g.ncols(), self.g.ncols() - 1);
        let mut g = self.g.clone();
        // Measured from the priors' means.
        for (&k, &(mean, _)) in columns.iter().zip(priors) {
            if mean != 0.0 {
                for i in 0..n {
                    let off = mean * g[(i, k)];
                    g[(i, y)] -= off;
                }
                for j in 0..n {
                    let off = mean * g[(k, j)];
                    g[(y, j)] -= off;
                }
            }
        }
        let p = columns.len();
        let a = DMatrix::from_fn(p, p, |i, j| {
            let own = if i == j {
                1.0 / priors[i].1.powi(2)
            } else {
                0.0
            };
            g[(columns[i], columns[j])] + own
        });
        let l = a.cholesky()?.unpack();
        let across = DMatrix::from_fn(p, n, |i, j| g[(columns[i], j)]);
        let w = l.solve_lower_triangular(&across)?;
        g -= w.tr_mul(&w);
        let widths: f64 = priors.iter().map(|(_, sd)| sd.ln()).sum();
        let log_a: f64 = (0..p).map(|i| l[(i, i)].ln()).sum();
        Some(Self {
            g,
            log_det: self.log_det + 2.0 * (log_a + widths),
            n: self.n,
        })
    }

    pub(super) fn factor<const N: usize>(
        &self,
        columns: &[usize],
        priors: &[(f64, f64)],
        s: f64,
    ) -> Option<Factor<N>> {
        let p = columns.len();
        debug_assert!(p <= N && p == priors.len());
        let y = self.g.ncols() - 1;
        let w = 1.0 / (s * s);
        let mut a = [[0.0; N]; N];
        let mut b = [0.0; N];
        let mut constant = self.g[(y, y)] * w;
        // Every factor is at least one and far from overflow, so one logarithm does.
        let mut gain = 1.0;
        for i in 0..p {
            for j in 0..=i {
                a[i][j] = self.g[(columns[i], columns[j])] * w;
            }
            let (mean, sd) = priors[i];
            let precision = 1.0 / (sd * sd);
            a[i][i] += precision;
            b[i] = self.g[(columns[i], y)] * w + precision * mean;
            constant += precision * mean * mean;
        }
        // Cholesky in place, then inverse of the factor for means and variances.
        for j in 0..p {
            for k in 0..j {
                a[j][j] -= a[j][k] * a[j][k];
            }
            if !(a[j][j].is_finite() && a[j][j] > 0.0) {
                return None;
            }
            a[j][j] = a[j][j].sqrt();
            gain *= (a[j][j] * priors[j].1).powi(2);
            for i in j + 1..p {
                for k in 0..j {
                    a[i][j] -= a[i][k] * a[j][k];
                }
                a[i][j] /= a[j][j];
            }
        }
        let mut z = [0.0; N];
        for i in 0..p {
            z[i] = (b[i] - (0..i).map(|k| a[i][k] * z[k]).sum::<f64>()) / a[i][i];
        }
        Some(Factor {
            a,
            z,
            constant,
            log_gain: gain.ln(),
        })
    }
    /// Mean and standard deviation of Σ x_k β_k: a forecast by the same regression.
    #[must_use]
    pub fn predict(
        &self,
        columns: &[usize],
        priors: &[(f64, f64)],
        s: f64,
        x: &[f64],
    ) -> Option<(f64, f64)> {
        let (f, p) = (self.factor::<MOST>(columns, priors, s)?, columns.len());
        let mean = f.mean(p).iter().zip(x).map(|(m, x)| m * x).sum();
        // Variance xᵀ(LLᵀ)⁻¹x = |L⁻¹x|².
        let mut w = [0.0; MOST];
        for i in 0..p {
            w[i] = (x[i] - (0..i).map(|k| f.a[i][k] * w[k]).sum::<f64>()) / f.a[i][i];
        }
        Some((mean, w[..p].iter().map(|v| v * v).sum::<f64>().sqrt()))
    }

    /// Solves for the coefficients of `columns`, each with its prior (mean, sd), at noise scale `s`.
    #[must_use]
    pub fn solve(&self, columns: &[usize], priors: &[(f64, f64)], s: f64) -> Option<Posterior> {
        self.solve_few(columns, priors, s)
    }

    /// The same for at most `N` coefficients: quicker where there are few.
    #[must_use]
    pub fn solve_few<const N: usize>(
        &self,
        columns: &[usize],
        priors: &[(f64, f64)],
        s: f64,
    ) -> Option<Posterior<N>> {
        let (f, p) = (self.factor::<N>(columns, priors, s)?, columns.len());
        let (a, mean) = (&f.a, f.mean(p));
        let mut sd = [0.0; N];
        for (target, out) in sd.iter_mut().enumerate().take(p) {
            // Column `target` of L⁻¹: its squared length is the variance.
            let mut col = [0.0; N];
            for i in target..p {
                let unit = if i == target { 1.0 } else { 0.0 };
                col[i] = (unit - (target..i).map(|k| a[i][k] * col[k]).sum::<f64>()) / a[i][i];
            }
            *out = col[..p].iter().map(|v| v * v).sum::<f64>().sqrt();
        }
        let explained: f64 = f.z[..p].iter().map(|v| v * v).sum();
        let (constant, log_gain) = (f.constant, f.log_gain);
        let log_evidence =
            -0.5 * (self.n * (s * s).ln() + self.log_det + constant - explained + log_gain);
        log_evidence.is_finite().then_some(Posterior {
            log_evidence,
            mean,
            sd,
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn with_white_noise_and_flat_priors_it_is_least_squares() {
        // y = 1, 3, 2, 5 at t = 0…3: slope 1.1, intercept 1.1; sd of the slope = 1/√5 for s = 1. Worked by hand.
        let columns = vec![
            vec![1.0; 4],
            vec![0.0, 1.0, 2.0, 3.0],
            vec![1.0, 3.0, 2.0, 5.0],
        ];
        let gram = whiten(DMatrix::identity(4, 4), &columns).unwrap();
        let post = gram.solve(&[0, 1], &[(0.0, 1e6), (0.0, 1e6)], 1.0).unwrap();
        assert!((post.mean[1] - 1.1).abs() < 1e-9 && (post.mean[0] - 1.1).abs() < 1e-9);
        assert!((post.sd[1] - 1.0 / 5f64.sqrt()).abs() < 1e-9);
    }

    #[test]
    fn a_forecast_has_the_textbook_spread() {
        // The same line at t = 4: 1.1 + 4.4, variance 1/4 + (4 − 1.5)²/5.
        let columns = vec![
            vec![1.0; 4],
            vec![0.0, 1.0, 2.0, 3.0],
            vec![1.0, 3.0, 2.0, 5.0],
        ];
        let gram = whiten(DMatrix::identity(4, 4), &columns).unwrap();
        let (mean, sd) = gram
            .predict(&[0, 1], &[(0.0, 1e6), (0.0, 1e6)], 1.0, &[1.0, 4.0])
            .unwrap();
        assert!((mean - 5.5).abs() < 1e-9 && (sd * sd - 1.5).abs() < 1e-9);
    }

    /// A parabola through five points, three priors, and the answer.
    fn parabola() -> (Gram, [(f64, f64); 3], Posterior) {
        let columns = vec![
            vec![1.0; 5],
            vec![0.0, 1.0, 2.0, 3.0, 4.0],
            vec![0.0, 1.0, 4.0, 9.0, 16.0],
            vec![1.0, 3.0, 2.0, 5.0, 4.0],
        ];
        let gram = whiten(DMatrix::identity(5, 5) * 0.3, &columns).unwrap();
        let priors = [(0.4, 2.0), (0.2, 1.0), (-0.1, 0.5)];
        let all = gram.solve(&[0, 1, 2], &priors, 1.0).unwrap();
        (gram, priors, all)
    }

    #[test]
    fn summing_some_over_first_changes_no_answer() {
        let (gram, priors, all) = parabola();
        let left = gram
            .without(&[0, 1], &priors[..2])
            .and_then(|g| g.solve(&[2], &priors[2..], 1.0))
            .unwrap();
        assert!((all.mean[2] - left.mean[0]).abs() < 1e-9);
        assert!((all.sd[2] - left.sd[0]).abs() < 1e-9);
        assert!((all.log_evidence - left.log_evidence).abs() < 1e-9);
    }

    #[test]
    fn a_prior_that_comes_later_gives_the_same_answers() {
        let (gram, priors, all) = parabola();
        let waiting = gram.waiting::<4>(&[0, 1, 2], &priors[..2]).unwrap();
        let (log_evidence, (last, sd)) = waiting.with(priors[2], f64::NEG_INFINITY).unwrap();
        let mean = waiting.means(last);
        assert!((0..3).all(|k| (all.mean[k] - mean[k]).abs() < 1e-9));
        assert!((all.sd[2] - sd).abs() < 1e-9 && (all.log_evidence - log_evidence).abs() < 1e-9);
    }

    #[test]
    fn a_tight_prior_wins_over_no_data() {
        let columns = vec![vec![1.0, 1.0], vec![0.0, 0.0], vec![2.0, 2.0]];
        let gram = whiten(DMatrix::identity(2, 2), &columns).unwrap();
        let post = gram.solve(&[0, 1], &[(0.0, 1e6), (3.0, 0.2)], 1.0).unwrap();
        assert!((post.mean[1] - 3.0).abs() < 1e-9 && (post.sd[1] - 0.2).abs() < 1e-9);
    }
}
