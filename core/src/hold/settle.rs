//! When the clock may start: the filling's transient has become too small to matter.
//!
//! Settled = the fitted transient still to come, until the planned end, is below max(½ digit, 10 % of the allowed
//! drop) with 95 % certainty. Time constants 1.3–10 min with most weight at 2–8 (common practice, no source).

use super::amount::{HeldGas, traces};
use super::model::{Priors, SLOWER, fit};

/// Time constants of the transient (s) and their prior weights.
pub const TRANSIENTS: [(f64, f64); 5] = [(80.0, 0.12), (140.0, 0.26), (230.0, 0.32), (370.0, 0.22), (600.0, 0.08)];
/// A fill warms the gas by up to some ten kelvin: standard deviation of the transient as a share of pressure.
const FILL: f64 = 0.01;
/// Settling is looked for in this long a beginning, s.
const WINDOW: f64 = 5_400.0;

/// What was found about settling.
#[derive(Debug, Clone)]
pub struct Settling {
    /// Seconds at which the clock may start; `None`: not yet.
    pub at: Option<f64>,
    /// 95 % upper bound of the transient still to come after the last reading, Pa.
    pub to_come: f64,
    /// The bound it has to get below, Pa.
    pub threshold: f64,
    /// Time constants, log weights and amplitudes (Pa, root mean square) at `at` or the last reading.
    pub transient: Vec<(f64, f64, f64)>,
    /// Seconds from the last reading until it should be settled, if not yet.
    pub ready_in: Option<f64>,
}

/// Looks for the settled start. `None`: too little to fit.
#[must_use]
pub fn settle(gas: &HeldGas, base: &Priors, threshold: f64, planned: f64) -> Option<Settling> {
    let last = *gas.pressure.t.last()?;
    let first = *gas.pressure.t.first()?;
    let tr = traces(gas, first, last.min(first + WINDOW), 90)?;
    let p = gas.pressure.v[0];
    // Readings that begin a while after the supply was shut have less of the transient left.
    let waited = (first - gas.start).max(0.0);
    let mut priors = base.clone();
    priors.transient = TRANSIENTS.iter().map(|&(tau, w)| (tau, f64::ln(w), (FILL * p * (-waited / tau).exp()).max(0.1 * threshold))).collect();
    let fit = fit(&tr, &priors)?;
    let top = fit.transient.iter().map(|c| c.log_weight).fold(f64::NEG_INFINITY, f64::max);
    let weights: Vec<f64> = fit.transient.iter().map(|c| (c.log_weight - top).exp()).collect();
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
    let at = tr.t.iter().copied().find(|&x| to_come(x) <= threshold).or_else(|| (to_come(last) <= threshold).then_some(last));
    let from = at.unwrap_or(last);
    let mut transient: Vec<(f64, f64, f64)> = TRANSIENTS
        .iter()
        .map(|&(tau, _)| {
            let (mut weight, mut square) = (0.0, 0.0);
            for (w, c) in weights.iter().zip(&fit.transient).filter(|(_, c)| c.tau == tau) {
                weight += w;
                let left = |(m, sd): (f64, f64), tau: f64| (m * m + sd * sd) * (-2.0 * (from - first) / tau).exp();
                square += w * left(c.fast, tau).max(25.0 * left(c.slow, SLOWER * tau));
            }
            (tau, (weight / total).max(1e-9).ln(), (square / f64::max(weight, 1e-300)).sqrt())
        })
        .collect();
    // The likeliest three carry nearly all weight.
    transient.sort_by(|a, b| b.1.total_cmp(&a.1));
    transient.truncate(3);
    let ready_in = at.is_none().then(|| (1..180).map(|m| f64::from(m) * 60.0).find(|&m| to_come(last + m) <= threshold)).flatten();
    Some(Settling { at, to_come: to_come(last), threshold, transient, ready_in })
}
