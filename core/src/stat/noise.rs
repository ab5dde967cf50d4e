//! The noise of a gauge over time: correlated wandering plus fast noise, for means over blocks of time.

use nalgebra::DMatrix;

/// Where the block means sit, how wide each block is (s) and how many readings it holds.
#[derive(Debug, Clone)]
pub struct Blocks {
    /// Centre times, s, ascending.
    pub t: Vec<f64>,
    /// Width of each block, s; 0 when it is one reading. Blocks do not overlap.
    pub width: Vec<f64>,
    /// Readings in each.
    pub count: Vec<f64>,
}

/// Covariance of block means of an Ornstein-Uhlenbeck process (variance 1, correlation time `tau`, s) plus white
/// noise of variance `white` per reading.
///
/// For blocks of widths w and g = w/τ: diagonal 2(g − 1 + e^−g)/g², off the diagonal
/// e^−gap/τ Π(1 − e^−g)/g, the exact integrals of e^−|Δt|/τ over two blocks `gap` apart.
#[must_use]
pub fn correlated(blocks: &Blocks, tau: f64, white: f64) -> DMatrix<f64> {
    let n = blocks.t.len();
    let g: Vec<f64> = blocks.width.iter().map(|w| w / tau).collect();
    let own: Vec<f64> = g
        .iter()
        .map(|&g| {
            if g < 1e-6 {
                1.0
            } else {
                2.0 * (g - 1.0 + (-g).exp()) / (g * g)
            }
        })
        .collect();
    let across: Vec<f64> = g
        .iter()
        .map(|&g| {
            if g < 1e-6 {
                1.0
            } else {
                (1.0 - (-g).exp()) / g
            }
        })
        .collect();
    let edge: Vec<(f64, f64)> = blocks
        .t
        .iter()
        .zip(&blocks.width)
        .map(|(t, w)| (t - 0.5 * w, t + 0.5 * w))
        .collect();
    let mut c = DMatrix::zeros(n, n);
    for i in 0..n {
        c[(i, i)] = own[i] + white / blocks.count[i] + 1e-9;
        for j in 0..i {
            let gap = (edge[i].0 - edge[j].1).max(0.0);
            let v = (across[i] * across[j] * (-gap / tau).exp()).min(own[i].min(own[j]));
            c[(i, j)] = v;
            c[(j, i)] = v;
        }
    }
    c
}

#[cfg(test)]
mod tests {
    use super::*;

    /// The variance of the mean of two neighbouring blocks is that of one block of both, whatever their widths.
    #[test]
    fn joining_two_blocks_gives_one_of_both() {
        let part = correlated(
            &Blocks {
                t: vec![50.0, 250.0],
                width: vec![100.0, 300.0],
                count: vec![1.0, 1.0],
            },
            120.0,
            0.0,
        );
        let whole = correlated(
            &Blocks {
                t: vec![200.0],
                width: vec![400.0],
                count: vec![1.0],
            },
            120.0,
            0.0,
        );
        let joined = 0.0625 * part[(0, 0)] + 0.5625 * part[(1, 1)] + 2.0 * 0.1875 * part[(0, 1)];
        assert!(
            (joined - whole[(0, 0)]).abs() < 1e-8,
            "{joined} {}",
            whole[(0, 0)]
        );
    }
}
