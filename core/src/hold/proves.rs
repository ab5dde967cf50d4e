//! What a hold proves: the smallest loss it would have seen, as a leak of refrigerant.
//!
//! Nitrogen lost: Q = V·dP/dt (Pa m³/s). Laminar flow from P to P_a scales with (P² − P_a²)/μ (Hagen–Poiseuille,
//! compressible), so refrigerant at P_r loses Q·(P_r² − P_a²)/(P_n² − P_a²)·μ_n/μ_r, as mass times M/(R T).
//! Valid for laminar leaks; choked and molecular ones lie within some 6 % at 300 psig (worked apart).

use crate::matter::nitrogen::{R, VISCOSITY};
use crate::matter::refrigerant::{Refrigerant, find};
use crate::quantity::{Units, significant};
use serde::{Deserialize, Serialize};

/// A leak in grams a year.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Proof {
    /// On the low side at work, smallest volume.
    pub low_g_per_year: f64,
    /// On the high side at work, largest volume.
    pub high_g_per_year: f64,
    /// Refrigerant it was worked out for.
    pub refrigerant: String,
    /// That refrigerant was assumed: the circuit's is not known here.
    pub is_assumed: bool,
    /// Smallest and largest volume, L; `None`: assumed.
    pub litres: Option<(f64, f64)>,
}

/// Volume assumed when nobody stated one, L. Common practice, no source.
const VOLUMES: (f64, f64) = (3.0, 8.0);
const YEAR: f64 = 365.25 * 86_400.0;

fn grams(loss: f64, volume_l: f64, p_n: f64, p_a: f64, t: f64, r: &Refrigerant, p_r: f64) -> f64 {
    let q = volume_l * 1e-3 * loss;
    let scale = (p_r * p_r - p_a * p_a) / (p_n * p_n - p_a * p_a) * VISCOSITY / r.viscosity;
    q * scale * r.molar_mass / (R * t) * YEAR * 1e3
}

/// What a loss of `loss` (Pa/s) of nitrogen at `p_n` (Pa absolute) and `t` (K) means in refrigerant,
/// for a volume between two bounds (L).
#[must_use]
pub fn proof(
    loss: f64,
    p_n: f64,
    p_a: f64,
    t: f64,
    volume_l: Option<(f64, f64)>,
    refrigerant: Option<&str>,
) -> Option<Proof> {
    if !(loss.is_finite() && loss > 0.0 && p_n > 1.05 * p_a) {
        return None;
    }
    let known = refrigerant.and_then(find);
    let r = known.or_else(|| find("R-410A"))?;
    let (small, large) = volume_l.unwrap_or(VOLUMES);
    Some(Proof {
        low_g_per_year: grams(loss, small, p_n, p_a, t, r, r.low_side),
        high_g_per_year: grams(loss, large, p_n, p_a, t, r, r.high_side),
        refrigerant: r.name.into(),
        is_assumed: known.is_none(),
        litres: volume_l,
    })
}

/// Saturation temperatures of the two sides at work, K: what the low and high pressures of a refrigerant are taken at.
const AT_WORK: (f64, f64) = (278.15, 318.15);

/// What was assumed, in words.
#[must_use]
pub fn assumptions(p: &Proof, u: Units) -> String {
    format!(
        "{}{}, vapour, laminar, from the low side at {} to the high side at {}; volume {}.",
        p.refrigerant,
        if p.is_assumed { " (assumed)" } else { "" },
        u.temperature(AT_WORK.0),
        u.temperature(AT_WORK.1),
        match p.litres {
            None => format!("{}–{} L (assumed)", VOLUMES.0, VOLUMES.1),
            Some((a, b)) if b - a < 0.005 * b => format!("{} L", significant(b, 2)),
            Some((a, b)) => format!("{}–{} L", significant(a, 2), significant(b, 2)),
        },
    )
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Worked by hand from the formula above: 0.4 psi in 30 min at 300 psig, 5 L, R-410A, 21 °C.
    /// Q = 0.005·1.532 = 7.66e-3 Pa m³/s; low: (933² − 101²)/(2170² − 101²)·17.6/12.4 = 0.260;
    /// ·0.07259/(8.314·294.3) → 5.91e-8 kg/s = 1.86 kg/yr. Worked apart with choked and molecular flow: 1.9–2.1 low,
    /// 5.6–15.6 high.
    #[test]
    fn a_short_hold_still_hides_two_kilograms_a_year() {
        let p = proof(
            0.4 * 6_894.757 / 1800.0,
            314.7 * 6_894.757,
            101_325.0,
            294.3,
            Some((5.0, 5.0)),
            Some("R-410A"),
        )
        .unwrap();
        assert!((p.low_g_per_year / 1.86e3 - 1.0).abs() < 0.02, "{p:?}");
        assert!((13e3..17e3).contains(&p.high_g_per_year), "{p:?}");
    }

    #[test]
    fn no_loss_or_no_pressure_proves_nothing() {
        assert_eq!(proof(0.0, 2e6, 1e5, 290.0, None, None), None);
        assert_eq!(proof(f64::NAN, 2e6, 1e5, 290.0, None, None), None);
        assert_eq!(proof(1.0, 1e5, 1e5, 290.0, None, None), None);
    }
}
