//! When the clock may start: the filling's transient has become too small to matter.
//!
//! Settled = the fitted transient still to come, until the planned end, is below max(½ digit, 10 % of the allowed
//! drop) with 95 % certainty. Time constants 1.3–10 min with most weight at 2–8 (common practice, no source).

use super::model::{Fit, SLOWER};

/// Time constants of the transient (s) and their prior weights.
const TRANSIENTS: [(f64, f64); 5] = [
    (80.0, 0.12),
    (140.0, 0.26),
    (230.0, 0.32),
    (370.0, 0.22),
    (600.0, 0.08),
];
/// A fill warms the gas by up to some ten kelvin: standard deviation of the transient as a share of pressure.
const FILL: f64 = 0.01;

/// What was found about settling.
#[derive(Debug, Clone)]
pub struct Settling {
    /// Seconds at which the clock may start; `None`: not yet.
    pub at: Option<f64>,
    /// 95 % upper bound of the transient still to come after the last reading, Pa.
    pub to_come: f64,
    /// The bound it has to get below, Pa.
    pub threshold: f64,
    /// Seconds from the last reading until it should be settled, if not yet.
    pub ready_in: Option<f64>,
}

/// What is believed beforehand of the transient at the first reading, `waited` seconds after the supply was shut:
/// time constants, log weights, standard deviations in Pa.
#[must_use]
pub fn believed(pressure: f64, waited: f64) -> Vec<(f64, f64, f64)> {
    TRANSIENTS
        .iter()
        .map(|&(tau, w)| {
            (
                tau,
                f64::ln(w),
                (FILL * pressure * (-waited / tau).exp()).max(1e-6 * pressure),
            )
        })
        .collect()
}

/// Reads the settled start off the fitted transient.
#[must_use]
pub fn settle(fit: &Fit, times: &[f64], threshold: f64, planned: f64) -> Settling {
    let (first, last) = (times[0], times[times.len() - 1]);
    let top = fit
        .transient
        .iter()
        .map(|c| c.log_weight)
        .fold(f64::NEG_INFINITY, f64::max);
    let weights: Vec<f64> = fit
        .transient
        .iter()
        .map(|c| (c.log_weight - top).exp())
        .collect();
    let total: f64 = weights.iter().sum();
    // 95 % upper bound of |what is still to come after x|, from the mixture's moments.
    let to_come = |x: f64| -> f64 {
        let end = (x + planned).max(last);
        let share = |tau: f64| (-(x - first) / tau).exp() - (-(end - first) / tau).exp();
        let (mut mean, mut square) = (0.0, 0.0);
        for (w, c) in weights.iter().zip(&fit.transient) {
            let (a, b) = (share(c.tau), share(SLOWER * c.tau));
            let m = c.fast.0 * a + c.slow.0 * b;
            mean += w / total * m;
            square += w / total * (m * m + (c.fast.1 * a).powi(2) + (c.slow.1 * b).powi(2));
        }
        mean.abs() + 1.645 * (square - mean * mean).max(0.0).sqrt()
    };
    let at = times.iter().copied().find(|&x| to_come(x) <= threshold);
    let ready_in = at
        .is_none()
        .then(|| {
            (1..180)
                .map(|m| f64::from(m) * 60.0)
                .find(|&m| to_come(last + m) <= threshold)
        })
        .flatten();
    Settling {
        at,
        to_come: to_come(last),
        threshold,
        ready_in,
    }
}
