//! The noise of a gauge over time: correlated wandering plus fast noise, for means over blocks of time.

use nalgebra::DMatrix;

/// Where the block means sit, how wide the blocks are (s) and how many readings each holds.
#[derive(Debug, Clone)]
pub struct Blocks {
    /// Centre times, s, ascending.
    pub t: Vec<f64>,
    /// Width of a block, s; 0 when every point is one reading.
    pub width: f64,
    /// Readings in each.
    pub count: Vec<f64>,
}

/// Covariance of block means of an Ornstein-Uhlenbeck process (variance 1, correlation time `tau`, s) plus white
/// noise of variance `white` per reading.
///
/// For blocks of width w and g = w/τ: diagonal 2(g − 1 + e^−g)/g², off the diagonal
/// e^−(Δt−w)/τ (1 − e^−g)²/g², the exact integrals of e^−|Δt|/τ over two blocks.
#[must_use]
pub fn correlated(blocks: &Blocks, tau: f64, white: f64) -> DMatrix<f64> {
    let n = blocks.t.len();
    let g = blocks.width / tau;
    let (own, cross) = if g < 1e-6 { (1.0, 1.0) } else { (2.0 * (g - 1.0 + (-g).exp()) / (g * g), ((1.0 - (-g).exp()) / g).powi(2)) };
    DMatrix::from_fn(n, n, |i, j| {
        if i == j {
            own + white / blocks.count[i] + 1e-9
        } else {
            let apart = ((blocks.t[i] - blocks.t[j]).abs() - blocks.width).max(0.0);
            (cross * (-apart / tau).exp()).min(own)
        }
    })
}
