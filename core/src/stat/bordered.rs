//! A regression that is solved once and then closed with two more columns, again and again.
//!
//! The many small models of a hold differ only in how the heat of filling fades: two columns and how large they may
//! be. With A the precision of the other coefficients, A = LLᵀ, and B, H the blocks of the two: their Schur complement
//! S = H − BᵀA⁻¹B has two rows, so one factor serves them all. (Golub & Van Loan, *Matrix Computations*, ch. 3.)

use super::regression::{Factor, Gram};

/// Most coefficients beside the two.
pub const WIDE: usize = 40;
/// Coefficients whose joint posterior is wanted: the last of the columns.
const LAST: usize = 3;

/// The regression without the two columns.
pub struct Core<'a> {
    gram: &'a Gram,
    columns: &'a [usize],
    s: f64,
    factor: Factor<WIDE>,
    /// Inverse of the factor's last block: its transpose maps a residual to the last coefficients.
    inverse: [[f64; LAST]; LAST],
}

/// The two columns beside it.
pub struct Border<'a> {
    core: &'a Core<'a>,
    /// H/s² − BᵀA⁻¹B without the prior: its three entries.
    own: (f64, f64, f64),
    /// What of y the two have left to explain.
    left: [f64; 2],
    /// How the last coefficients move with the two.
    moves: [[f64; 2]; LAST],
}

/// Posterior of the last three coefficients and of the two, with the evidence.
#[derive(Debug, Clone, Copy)]
pub struct Joint {
    /// Log evidence, up to a constant shared by all models of the same data.
    pub log_evidence: f64,
    /// Means of the last three coefficients.
    pub mean: [f64; LAST],
    /// Their covariance.
    pub spread: [[f64; LAST]; LAST],
    /// Means of the two.
    pub two: [f64; 2],
    /// Their covariance: variances and the mixed one.
    pub two_spread: (f64, f64, f64),
}

impl<'a> Core<'a> {
    /// Solves for `columns` (three at least, the wanted ones last) with their priors (mean, sd) at noise scale `s`.
    #[must_use]
    pub fn new(
        gram: &'a Gram,
        columns: &'a [usize],
        priors: &[(f64, f64)],
        s: f64,
    ) -> Option<Self> {
        let factor = gram.factor::<WIDE>(columns, priors, s)?;
        let from = columns.len().checked_sub(LAST)?;
        // Column by column of the inverse of the last block, which is lower triangular as the block is.
        let mut inverse = [[0.0; LAST]; LAST];
        for i in 0..LAST {
            let row = &factor.a[from + i][from..from + LAST];
            let above = inverse;
            for (k, out) in inverse[i].iter_mut().enumerate().take(i + 1) {
                let unit = if i == k { 1.0 } else { 0.0 };
                let sum: f64 = (k..i).map(|j| row[j] * above[j][k]).sum();
                *out = (unit - sum) / row[i];
            }
        }
        Some(Self {
            gram,
            columns,
            s,
            factor,
            inverse,
        })
    }

    /// The last coefficients for a residual in the factor's own units.
    fn last(&self, residual: &[f64]) -> [f64; LAST] {
        let from = self.columns.len() - LAST;
        std::array::from_fn(|i| {
            (i..LAST)
                .map(|k| self.inverse[k][i] * residual[from + k])
                .sum()
        })
    }

    /// Puts two columns beside it.
    #[must_use]
    pub fn border(&'a self, two: [usize; 2]) -> Border<'a> {
        let (g, p, w) = (&self.gram.g, self.columns.len(), 1.0 / (self.s * self.s));
        let y = g.ncols() - 1;
        let solved = two.map(|column| {
            let mut out = [0.0; WIDE];
            for i in 0..p {
                let row = &self.factor.a[i];
                let sum: f64 = (0..i).map(|k| row[k] * out[k]).sum();
                out[i] = (g[(self.columns[i], column)] * w - sum) / row[i];
            }
            out
        });
        let dot =
            |a: &[f64], b: &[f64]| a[..p].iter().zip(&b[..p]).map(|(a, b)| a * b).sum::<f64>();
        let own = |i: usize, j: usize| g[(two[i], two[j])] * w - dot(&solved[i], &solved[j]);
        let moves = [0, 1].map(|i| self.last(&solved[i]));
        Border {
            core: self,
            own: (own(0, 0), own(0, 1), own(1, 1)),
            left: [0, 1].map(|i| g[(two[i], y)] * w - dot(&solved[i], &self.factor.z)),
            moves: std::array::from_fn(|k| [moves[0][k], moves[1][k]]),
        }
    }
}

impl Border<'_> {
    /// The posterior when the two have mean nought and these standard deviations.
    #[must_use]
    pub fn close(&self, sd: [f64; 2]) -> Option<Joint> {
        let core = self.core;
        let precision = sd.map(|s| 1.0 / (s * s));
        let (a, b, c) = (
            self.own.0 + precision[0],
            self.own.1,
            self.own.2 + precision[1],
        );
        let det = a * c - b * b;
        if !(det.is_finite() && det > 0.0) {
            return None;
        }
        let [r0, r1] = self.left;
        let two = [(c * r0 - b * r1) / det, (a * r1 - b * r0) / det];
        let spread2 = (c / det, -b / det, a / det);
        let (f, p) = (&core.factor, core.columns.len());
        let explained = f.z[..p].iter().map(|v| v * v).sum::<f64>() + r0 * two[0] + r1 * two[1];
        let log_prior = precision[0].ln() + precision[1].ln();
        let log_evidence = -0.5
            * (core.gram.n * (core.s * core.s).ln() + core.gram.log_det + f.constant - explained
                + f.log_gain
                + det.ln()
                - log_prior);
        let base = core.last(&f.z);
        let m = &self.moves;
        let mean = std::array::from_fn(|k| base[k] - m[k][0] * two[0] - m[k][1] * two[1]);
        let spread = std::array::from_fn(|i| {
            std::array::from_fn(|j| {
                let alone: f64 = (0..LAST)
                    .map(|k| core.inverse[k][i] * core.inverse[k][j])
                    .sum();
                alone
                    + m[i][0] * (spread2.0 * m[j][0] + spread2.1 * m[j][1])
                    + m[i][1] * (spread2.1 * m[j][0] + spread2.2 * m[j][1])
            })
        });
        log_evidence.is_finite().then_some(Joint {
            log_evidence,
            mean,
            spread,
            two,
            two_spread: spread2,
        })
    }
}

impl Joint {
    /// The same when the coefficient before the last is believed to be `at` within `sd` rather than within `was`, a
    /// wider doubt the posterior was worked out with.
    #[must_use]
    pub fn believing(mut self, at: f64, sd: f64, was: f64) -> Self {
        let k = LAST - 2;
        let more = 1.0 / (sd * sd) - 1.0 / (was * was);
        let variance = self.spread[k][k];
        let scale = 1.0 + more * variance;
        let off = at - self.mean[k];
        self.log_evidence += (was / sd).ln() - 0.5 * scale.ln() - 0.5 * more * off * off / scale;
        let gain: [f64; LAST] = std::array::from_fn(|i| self.spread[i][k] * more / scale);
        let row = self.spread[k];
        for ((mean, spread), gain) in self.mean.iter_mut().zip(&mut self.spread).zip(gain) {
            *mean += gain * off;
            for (s, r) in spread.iter_mut().zip(row) {
                *s -= gain * r;
            }
        }
        self
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::stat::whiten;
    use nalgebra::DMatrix;

    fn columns() -> Vec<Vec<f64>> {
        let along = |f: &dyn Fn(f64) -> f64| (0..12).map(|i| f(f64::from(i))).collect();
        vec![
            along(&|_| 1.0),
            along(&|t| (0.7 * t).sin()),
            along(&|t| t),
            along(&|t| (-t / 3.0).exp()),
            along(&|t| (-t / 6.0).exp()),
            along(&|t| 2.0 + 0.3 * t + (0.7 * t).sin() + 1.5 * (-t / 3.0).exp() + (3.1 * t).sin()),
        ]
    }

    #[test]
    fn closing_is_the_whole_regression() {
        let gram = whiten(DMatrix::identity(12, 12), &columns()).unwrap();
        let priors = [(0.0, 50.0), (1.0, 0.3), (0.0, 4.0), (0.0, 2.0), (0.0, 0.5)];
        let whole = gram.solve(&[0, 1, 2, 3, 4], &priors, 0.6).unwrap();
        let core = Core::new(&gram, &[0, 1, 2], &priors[..3], 0.6).unwrap();
        let closed = core.border([3, 4]).close([2.0, 0.5]).unwrap();
        assert!((closed.log_evidence - whole.log_evidence).abs() < 1e-9);
        for k in 0..3 {
            assert!((closed.mean[k] - whole.mean[k]).abs() < 1e-9);
            assert!((closed.spread[k][k].sqrt() - whole.sd[k]).abs() < 1e-9);
        }
        assert!((closed.two[1] - whole.mean[4]).abs() < 1e-9);
        assert!((closed.two_spread.2.sqrt() - whole.sd[4]).abs() < 1e-9);
    }

    #[test]
    fn believing_more_of_the_gain_is_the_same_as_having_believed_it() {
        let gram = whiten(DMatrix::identity(12, 12), &columns()).unwrap();
        let with = |gain: f64| {
            let priors = [(0.0, 50.0), (1.0, gain), (0.0, 4.0)];
            let core = Core::new(&gram, &[0, 1, 2], &priors, 0.6).unwrap();
            core.border([3, 4]).close([2.0, 0.5]).unwrap()
        };
        let (told, asked) = (with(0.3).believing(1.0, 0.05, 0.3), with(0.05));
        assert!((told.log_evidence - asked.log_evidence).abs() < 1e-9);
        for k in 0..3 {
            assert!((told.mean[k] - asked.mean[k]).abs() < 1e-9);
            assert!((told.spread[k][k] - asked.spread[k][k]).abs() < 1e-9);
        }
    }
}
