//! Testing again: how a leak found at one pressure shows at another, and when it will be as warm again.

use crate::reading::Series;

/// What a leak of nitrogen found at one pressure does at another.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Retest {
    /// Rate at the new pressure over the old one if the leak is laminar: (P₂² − P_a²)/(P₁² − P_a²).
    pub laminar: f64,
    /// The same if it is choked: P₂/P₁.
    pub choked: f64,
}

/// Compares two test pressures, Pa absolute, in air at `air`.
///
/// Source: compressible Hagen–Poiseuille flow (P² − P_a²) and choked flow (P), textbook fluid mechanics.
#[must_use]
pub fn retest(found: f64, again: f64, air: f64) -> Option<Retest> {
    let sound = found.is_finite()
        && again.is_finite()
        && air > 0.0
        && found > 1.01 * air
        && again > 1.01 * air;
    sound.then(|| Retest {
        laminar: (again * again - air * air) / (found * found - air * air),
        choked: again / found,
    })
}

impl Retest {
    /// How many times as long a hold at the new pressure must be to lose as much (the slower of the two).
    #[must_use]
    pub fn times_as_long(self) -> f64 {
        1.0 / self.laminar.min(self.choked)
    }
}

/// When the temperature will next be what it was at `start` (s), from a day's swing fitted to `t`.
///
/// T = a + b·cos(2πt/24 h) + c·sin(2πt/24 h). `None` when the record is too short or too level to know the swing.
#[must_use]
pub fn as_warm_again(t: &Series, start: f64) -> Option<f64> {
    const DAY: f64 = 86_400.0;
    let (thin, _) = t.between(start, f64::INFINITY).thinned(200);
    let (&first, &last) = (thin.t.first()?, thin.t.last()?);
    if last - first < 4.0 * 3600.0 || thin.len() < 8 {
        return None;
    }
    let angle = |x: f64| std::f64::consts::TAU * x / DAY;
    let x = nalgebra::DMatrix::from_fn(thin.len(), 3, |i, j| {
        [1.0, angle(thin.t[i]).cos(), angle(thin.t[i]).sin()][j]
    });
    let y = nalgebra::DVector::from_column_slice(&thin.v);
    let fit = (x.tr_mul(&x)).cholesky()?.solve(&x.tr_mul(&y));
    let (b, c) = (fit[1], fit[2]);
    let swing = b.hypot(c);
    let miss = ((&x * &fit - &y).norm_squared() / thin.len() as f64).sqrt();
    if swing < 1.0 || miss > 0.35 * swing {
        return None;
    }
    // Twice a day it is as warm; the next of them that is at least ten minutes away.
    let wanted = ((t.at(start)? - fit[0]) / swing).clamp(-1.0, 1.0).acos();
    let peak = c.atan2(b);
    [peak + wanted, peak - wanted]
        .into_iter()
        .filter_map(|a| {
            (0..5)
                .map(|k| {
                    (a / std::f64::consts::TAU + f64::from(k)) * DAY + (last / DAY).floor() * DAY
                        - DAY
                })
                .find(|&at| at > last + 600.0)
        })
        .reduce(f64::min)
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Worked by hand from the two formulas: 0.4 psi/min at 550 psig is 0.06 at 199 and 0.03 at 150 laminar; 0.15 and
    /// 0.12 choked.
    #[test]
    fn a_leak_found_high_hides_low() {
        let abs = |psig: f64| (psig + 14.7) * 6_894.757;
        for (psig, laminar, choked) in [(199.0, 0.06, 0.15), (150.0, 0.03, 0.12)] {
            let r = retest(abs(550.0), abs(psig), 101_325.0).unwrap();
            assert!(
                (0.4 * r.laminar - laminar).abs() < 0.005
                    && (0.4 * r.choked - choked).abs() < 0.005,
                "{r:?}"
            );
            assert!(r.times_as_long() > 1.0);
        }
        assert_eq!(retest(abs(550.0), 101_325.0, 101_325.0), None);
    }

    #[test]
    fn a_days_swing_says_when_it_is_as_warm_again() {
        // Warmest at 6 h; begun at 0 h at the mean: as warm again at 12 h.
        let day = |h: f64| 293.0 + 6.0 * (std::f64::consts::TAU * h / 24.0).sin();
        let t = Series {
            t: (0..=80).map(|k| f64::from(k) * 360.0).collect(),
            v: (0..=80).map(|k| day(f64::from(k) * 0.1)).collect(),
        };
        let at = as_warm_again(&t, 0.0).unwrap() / 3600.0;
        assert!((at - 12.0).abs() < 0.05, "{at}");
        let level = Series {
            v: vec![293.0; 81],
            ..t
        };
        assert_eq!(as_warm_again(&level, 0.0), None);
    }
}
