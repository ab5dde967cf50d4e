//! When the clock may start: the filling's transient has become too small to matter.
//!
//! Settled = the fitted transient still to come, until the planned end, is below max(½ digit, 10 % of the allowed
//! drop), as a root mean square. Time constants 1.3–10 min with most weight at 2–8 (common practice, no source).

use super::fading::{Filling, SLOW_SHARE};
use super::model::Fit;

/// Time constants of the transient (s) and their prior weights.
const TRANSIENTS: [(f64, f64); 5] = [
    (80.0, 0.12),
    (140.0, 0.26),
    (230.0, 0.32),
    (370.0, 0.22),
    (600.0, 0.08),
];
/// The slow part takes so many times as long.
const SLOWER: [f64; 2] = [2.0, 4.0];
/// Standard deviations of the transient when the supply was shut, shares of the pressure. A fill warms the gas by up to
/// some ten kelvin, and it fades while nobody says how long ago filling ended: the logarithm is nearly uniform.
const FILLS: [f64; 4] = [0.01, 0.002, 0.000_4, 0.000_08];
/// The same of a first reading that came as the supply was shut and stands alone: filling ended just then, and nothing
/// that was read tells how far it had warmed the gas. Some five kelvin are usual, fifteen the most (common practice).
const FILLS_ALONE: [f64; 4] = [0.02, 0.01, 0.005, 0.002];
/// Less is not told from nothing, share of the pressure.
const LEAST: f64 = 1e-6;

/// What was found about settling.
#[derive(Debug, Clone)]
pub struct Settling {
    /// Seconds at which the clock may start; `None`: not yet.
    pub at: Option<f64>,
    /// Root mean square of the transient still to come after the last reading, Pa.
    pub to_come: f64,
    /// The bound it has to get below, Pa.
    pub threshold: f64,
    /// Seconds from the last reading until it should be settled, if not yet.
    pub ready_in: Option<f64>,
}

/// What is believed beforehand of the transient at the first reading, `waited` seconds after the supply was shut; it
/// `is_alone` where the next one came only long after.
#[must_use]
pub fn believed(pressure: f64, waited: f64, is_alone: bool) -> Vec<Filling> {
    let fills = if is_alone { FILLS_ALONE } else { FILLS };
    let left = |tau: f64, fill: f64| (fill * (-waited / tau).exp()).max(LEAST) * pressure;
    let of = |&(tau, w): &(f64, f64), slower: f64| Filling {
        tau,
        slow: slower * tau,
        log_weight: f64::ln(w / SLOWER.len() as f64),
        sizes: fills.iter().map(|&fill| left(tau, fill)).collect(),
    };
    TRANSIENTS
        .iter()
        .flat_map(|t| SLOWER.iter().map(move |&slower| of(t, slower)))
        .collect()
}

/// Gaps between readings are looked into every so often, s, for so long: whatever filling did is over by then.
const LOOK: (f64, f64) = (60.0, 4.0 * 3_600.0);

/// Moments at which the clock may start: the readings, and minutes in the gaps between them. Gas settles whether or not
/// somebody reads it.
fn moments(times: &[f64]) -> Vec<f64> {
    let until = times[0] + LOOK.1;
    let mut out = vec![times[0]];
    for pair in times.windows(2) {
        let mut x = pair[0] + LOOK.0;
        while x < pair[1] - LOOK.0 && x <= until {
            out.push(x);
            x += LOOK.0;
        }
        out.push(pair[1]);
    }
    out
}

/// Reads the settled start off the fitted transient.
#[must_use]
pub fn settle(fit: &Fit, times: &[f64], threshold: f64, planned: f64) -> Settling {
    let (first, last) = (times[0], times[times.len() - 1]);
    let told: Vec<(f64, (f64, f64), [f64; 3])> = fit
        .fading
        .iter()
        .filter_map(|f| Some((f.averages.log_weight(), f.taus, f.averages.figures()?)))
        .collect();
    let top = told.iter().map(|t| t.0).fold(f64::NEG_INFINITY, f64::max);
    let total: f64 = told.iter().map(|t| (t.0 - top).exp()).sum();
    // Root mean square of what is still to come after x.
    let to_come = |x: f64| -> f64 {
        let end = (x + planned).max(last);
        let share = |tau: f64| (-(x - first) / tau).exp() - (-(end - first) / tau).exp();
        let mut square = 0.0;
        for &(log_weight, (quick, late), [fast2, slow2, both]) in &told {
            let w = (log_weight - top).exp() / total;
            let b = share(late);
            let a = (1.0 - SLOW_SHARE.0) * share(quick) + SLOW_SHARE.0 * b;
            square += w * (a * a * fast2 + b * b * slow2 + 2.0 * a * b * both);
        }
        square.sqrt()
    };
    let at = moments(times)
        .into_iter()
        .find(|&x| to_come(x) <= threshold);
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
