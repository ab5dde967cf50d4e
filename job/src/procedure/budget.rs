//! Nitrogen: what is in the bottle, what a fill takes, what will be left.
//!
//! Bottle and system share n = ρ(P, T) V; a fill from p₀ to p₁ takes (ρ(p₁) − ρ(p₀)) V_s, real gas throughout
//! ([`ruhe_core::matter::nitrogen`], good to 310 bar). The regulator stops delivering when the bottle is only `keeps`
//! above the outlet.

use ruhe_core::matter::nitrogen::{density, pressure};
use ruhe_core::quantity::{AbsolutePressure, Temperature};

/// What is to be filled from what. Pressures Pa absolute, volumes L.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Budget {
    /// Bottle's water volume, L.
    pub bottle_l: f64,
    /// Bottle's pressure, Pa absolute.
    pub bottle_pa: f64,
    /// Temperature of both, K.
    pub k: f64,
    /// Volume to fill, L.
    pub system_l: f64,
    /// Pressure in it now, Pa absolute.
    pub from_pa: f64,
    /// Pressure wanted, Pa absolute.
    pub to_pa: f64,
    /// What the regulator needs above its outlet, Pa.
    pub keeps_pa: f64,
}

/// What comes of it.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Filled {
    /// It reaches the wanted pressure.
    pub reaches: bool,
    /// Highest pressure it reaches, Pa absolute (the wanted one, if it does).
    pub reached_pa: f64,
    /// Bottle after one fill, Pa absolute.
    pub left_pa: f64,
    /// Fills from `from_pa` that this bottle has in it.
    pub fills: u32,
}

/// Works a fill out. `None` when a figure is not finite and above zero, or above what the equation is good for.
#[must_use]
pub fn fill(b: &Budget) -> Option<Filled> {
    let sound = [b.bottle_l, b.bottle_pa, b.k, b.system_l, b.from_pa, b.to_pa]
        .iter()
        .all(|v| v.is_finite() && *v > 0.0);
    let fits = b.keeps_pa.is_finite()
        && b.keeps_pa >= 0.0
        && b.bottle_pa <= 31.5e6
        && (228.0..=358.0).contains(&b.k);
    if !(sound && fits) {
        return None;
    }
    let t = Temperature::from_k(b.k);
    let rho = |pa: f64| density(AbsolutePressure::from_pa(pa), t);
    let bottle = rho(b.bottle_pa) * b.bottle_l;
    let left_after = |to: f64| {
        pressure(
            (bottle - (rho(to) - rho(b.from_pa)) * b.system_l).max(0.0) / b.bottle_l,
            t,
        )
        .pa()
    };
    let reaches = left_after(b.to_pa) >= b.to_pa + b.keeps_pa;
    let reached_pa = if reaches {
        b.to_pa
    } else {
        // The bottle falls as the system rises: where the bottle is just `keeps` above the system.
        let (mut lo, mut hi) = (b.from_pa, b.to_pa);
        for _ in 0..60 {
            let mid = 0.5 * (lo + hi);
            if left_after(mid) >= mid + b.keeps_pa {
                lo = mid
            } else {
                hi = mid
            }
        }
        lo
    };
    let one = (rho(b.to_pa) - rho(b.from_pa)) * b.system_l;
    let spare = bottle - rho(b.to_pa + b.keeps_pa) * b.bottle_l;
    let fills = if one > 0.0 && spare > 0.0 {
        (spare / one).floor().min(999.0) as u32
    } else {
        0
    };
    Some(Filled {
        reaches,
        reached_pa,
        left_pa: left_after(reached_pa),
        fills,
    })
}

/// Volume of a system from what a fill took out of the bottle, L, with its bounds from the two gauges' errors (Pa).
///
/// V_s = V_b (ρ_b1 − ρ_b2) / (ρ_s2 − ρ_s1), all at rest and at one temperature.
///
/// # Errors
/// A sentence, when the figures do not describe a fill.
pub fn volume_from_bottle(
    bottle_l: f64,
    bottle: (f64, f64),
    system: (f64, f64),
    k: f64,
    errors: (f64, f64),
) -> Result<(f64, f64, f64), String> {
    let all = [bottle_l, bottle.0, bottle.1, system.0, system.1, k];
    if !all.iter().all(|v| v.is_finite() && *v > 0.0) || bottle.0 > 31.5e6 {
        return Err("every figure must be above zero, and the bottle below 310 bar".into());
    }
    if bottle.1 >= bottle.0 {
        return Err("the bottle must have fallen".into());
    }
    if system.1 <= system.0 {
        return Err("the system must have risen".into());
    }
    let t = Temperature::from_k(k);
    let rho = |pa: f64| density(AbsolutePressure::from_pa(pa), t);
    let volume = |drop: f64, rise: f64| bottle_l * drop / rise;
    let (drop, rise) = (rho(bottle.0) - rho(bottle.1), rho(system.1) - rho(system.0));
    // Two readings on each gauge, independent.
    let drop_error = std::f64::consts::SQRT_2 * (rho(bottle.1 + errors.0) - rho(bottle.1));
    let rise_error = std::f64::consts::SQRT_2 * (rho(system.1 + errors.1) - rho(system.1));
    let share = (drop_error / drop).hypot(rise_error / rise);
    let v = volume(drop, rise);
    Ok((
        v,
        (v * (1.0 - 1.96 * share)).max(0.0),
        v * (1.0 + 1.96 * share),
    ))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn budget() -> Budget {
        Budget {
            bottle_l: 10.0,
            bottle_pa: 100e5,
            k: 293.15,
            system_l: 20.0,
            from_pa: 1.013e5,
            to_pa: 35e5,
            keeps_pa: 3e5,
        }
    }

    /// Ideal gas by hand: 100 bar in 10 L is 1000 bar·L; a fill takes 33.99·20 = 680; 32 bar would be left: not enough
    /// for 35 + 3. Equal pressures with 3 bar kept: (1000 + 1.013·20 − 3·10)/30 = 33.0 bar. Real gas moves it by a
    /// few %.
    #[test]
    fn a_bottle_that_does_not_reach_says_how_far_it_gets() {
        let f = fill(&budget()).unwrap();
        assert!(!f.reaches && f.fills == 0);
        assert!((f.reached_pa / 33.0e5 - 1.0).abs() < 0.02, "{f:?}");
        assert!((f.left_pa - f.reached_pa - 3e5).abs() < 1e3);
    }

    #[test]
    fn a_full_bottle_has_several_fills_in_it() {
        let f = fill(&Budget {
            bottle_pa: 200e5,
            bottle_l: 20.0,
            system_l: 5.0,
            ..budget()
        })
        .unwrap();
        assert!(f.reaches && (15..=20).contains(&f.fills), "{f:?}");
        assert_eq!(
            fill(&Budget {
                bottle_l: f64::NAN,
                ..budget()
            }),
            None
        );
        assert_eq!(
            fill(&Budget {
                bottle_pa: 400e5,
                ..budget()
            }),
            None
        );
    }

    proptest::proptest! {
        /// The two functions undo each other.
        #[test]
        fn the_volume_comes_back_from_the_bottle(v in 1f64..40.0, bar in 120f64..300.0, to in 5f64..40.0) {
            let b = Budget { bottle_pa: bar * 1e5, bottle_l: 20.0, system_l: v, to_pa: to * 1e5, ..budget() };
            let f = fill(&b).unwrap();
            proptest::prop_assume!(f.reaches);
            let (back, low, high) = volume_from_bottle(20.0, (b.bottle_pa, f.left_pa), (b.from_pa, b.to_pa),
                b.k, (1e4, 1e3)).unwrap();
            approx::assert_relative_eq!(back, v, max_relative = 1e-6);
            proptest::prop_assert!(low < v && v < high);
        }
    }
}
