//! The pressure of the air around the gauge when nobody has measured it.

use crate::quantity::AbsolutePressure;

/// Standard atmosphere at sea level.
pub const SEA_LEVEL: AbsolutePressure = AbsolutePressure::from_pa(101_325.0);

/// Station pressure at an altitude (m): p = p0 (1 − L h / T0)^(g M / (R L)).
///
/// With L = 6.5 K/km, T0 = 288.15 K, exponent 5.25588, h geopotential height. Valid −500…11 000 m.
/// Source: US Standard Atmosphere 1976, eq. 33a.
#[must_use]
pub fn at_altitude(metres: f64) -> AbsolutePressure {
    let geopotential = 6_356_766.0 * metres / (6_356_766.0 + metres);
    AbsolutePressure::from_pa(
        SEA_LEVEL.pa() * (1.0 - 0.0065 * geopotential / 288.15).powf(5.255_88),
    )
}

#[cfg(test)]
mod tests {
    use super::*;
    use approx::assert_relative_eq;

    /// reference/atmosphere.csv, package ambiance 1.3 (ICAO 1993, equal to US 1976 below 32 km).
    #[test]
    fn agrees_with_the_standard_atmosphere() {
        for line in include_str!("../../../reference/atmosphere.csv")
            .lines()
            .skip(1)
        {
            let (h, p) = line.split_once(',').unwrap();
            assert_relative_eq!(
                at_altitude(h.parse().unwrap()).pa(),
                p.parse::<f64>().unwrap(),
                max_relative = 1e-4
            );
        }
    }
}
