//! The leak ladder: every finished test rules out leaks above a size, or has shown one. Sizes are grams of
//! refrigerant a year at working pressure, as a band from the low side to the high side.

/// What one test says about leak size.
#[derive(Debug, Clone, PartialEq)]
pub struct Rung {
    /// A leak was shown, and is this large; otherwise leaks above this are ruled out.
    pub is_leak: bool,
    /// If at work it were on the low side with the least volume, g a year.
    pub low: f64,
    /// If on the high side with the most, g a year.
    pub high: f64,
    /// The same as per cent of the charge a year, if the charge is known.
    pub percent: Option<(f64, f64)>,
}

/// A rung from a leak's two ends, g a year: what a hold rules out above, or the leak it has shown.
#[must_use]
pub fn rung((low, high): (f64, f64), is_leak: bool, charge_g: Option<f64>) -> Rung {
    let percent = charge_g
        .filter(|c| c.is_finite() && *c > 0.0)
        .map(|c| (100.0 * low / c, 100.0 * high / c));
    Rung {
        is_leak,
        low,
        high,
        percent,
    }
}

/// Viscosity of air, Pa·s, and its molar mass, kg/mol, at 20 °C.
const AIR: (f64, f64) = (1.82e-5, 0.028_96);
const YEAR: f64 = 365.25 * 86_400.0;

/// A rung from a rise under vacuum, `rate` Pa/s in a volume between two bounds (L): the refrigerant that a way passing
/// this much air inwards would lose at work, g a year.
///
/// Air flows in driven by P_a against nothing, refrigerant out driven by P_r against P_a. Molecular flow scales with
/// (P_r − P_a)/P_a·√(M_air/M_r), laminar with (P_r² − P_a²)/P_a²·μ_air/μ_r; mass by Q·M/(R·T). The low end is molecular
/// on the low side in the least volume, the high end laminar on the high side in the largest: which of them it is
/// nobody knows, so the rung is wide: 1 micron a minute in 5 L is some 58 g a year to 1.4 kg on the low side.
#[must_use]
pub fn rung_of_rise(
    rate: f64,
    is_leak: bool,
    litres: (f64, f64),
    refrigerant: &str,
    charge_g: Option<f64>,
) -> Option<Rung> {
    use ruhe_core::matter::refrigerant::find;
    let r = find(refrigerant).or_else(|| find("R-410A"))?;
    let a = ruhe_core::matter::atmosphere::SEA_LEVEL.pa();
    if !(rate.is_finite() && rate > 0.0) {
        return None;
    }
    let grams = |q: f64| q * r.molar_mass / (ruhe_core::matter::nitrogen::R * 293.15) * YEAR * 1e3;
    let molecular = (r.low_side - a) / a * (AIR.1 / r.molar_mass).sqrt();
    let laminar = (r.high_side * r.high_side - a * a) / (a * a) * AIR.0 / r.viscosity;
    Some(rung(
        (
            grams(rate * litres.0 * 1e-3 * molecular),
            grams(rate * litres.1 * 1e-3 * laminar),
        ),
        is_leak,
        charge_g,
    ))
}

#[cfg(test)]
mod tests {
    use super::*;
    use ruhe_core::quantity::MICRON;

    /// Worked by hand from the formulas: 1 micron/min in 5 L, R-410A. Molecular on the low side 54 g a year (58 with
    /// another viscosity and temperature); laminar on the high side (2,720² − 101²)/101²·18.2/14.0 of it, some 11 kg.
    #[test]
    fn a_micron_a_minute_is_a_wide_rung() {
        let r = rung_of_rise(MICRON / 60.0, true, (5.0, 5.0), "R-410A", Some(5_000.0)).unwrap();
        assert!((50.0..62.0).contains(&r.low), "{r:?}");
        assert!((7e3..16e3).contains(&r.high), "{r:?}");
        assert!((r.percent.unwrap().0 - r.low / 50.0).abs() < 1e-9);
        assert_eq!(rung_of_rise(0.0, false, (5.0, 5.0), "R-410A", None), None);
    }
}
