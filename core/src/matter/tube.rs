//! Copper tube sizes and what they hold.
//!
//! Inside volume per length: V/L = π (d − 2 s)² / 4, d outside diameter, s wall.
//! Inch sizes: ASTM B280-20, coils up to 7/8 in and straight lengths above (walls from memory). Metric sizes: EN
//! 12735-1:2020 (walls from memory). A tube that is not in the list is entered with its own inside diameter.

/// One size of tube.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct TubeSize {
    /// As written in files and printed.
    pub code: &'static str,
    /// Outside diameter, m.
    pub outside: f64,
    /// Wall, m.
    pub wall: f64,
}

const INCH: f64 = 0.0254;

const fn inch(code: &'static str, outside: f64, wall: f64) -> TubeSize {
    TubeSize {
        code,
        outside: outside * INCH,
        wall: wall * INCH,
    }
}
const fn metric(code: &'static str, outside: f64, wall: f64) -> TubeSize {
    TubeSize {
        code,
        outside: outside * 1e-3,
        wall: wall * 1e-3,
    }
}

/// The sizes Ruhe knows.
pub const TUBES: [TubeSize; 15] = [
    inch("1/4 in", 0.25, 0.030),
    inch("3/8 in", 0.375, 0.032),
    inch("1/2 in", 0.5, 0.032),
    inch("5/8 in", 0.625, 0.035),
    inch("3/4 in", 0.75, 0.035),
    inch("7/8 in", 0.875, 0.045),
    inch("1-1/8 in", 1.125, 0.050),
    inch("1-3/8 in", 1.375, 0.055),
    inch("1-5/8 in", 1.625, 0.060),
    metric("10 mm", 10.0, 1.0),
    metric("12 mm", 12.0, 1.0),
    metric("16 mm", 16.0, 1.0),
    metric("18 mm", 18.0, 1.0),
    metric("22 mm", 22.0, 1.0),
    metric("28 mm", 28.0, 1.5),
];

impl TubeSize {
    /// Looks a size up.
    #[must_use]
    pub fn from_code(code: &str) -> Option<&'static Self> {
        TUBES.iter().find(|t| t.code == code.trim())
    }
    /// Litres per metre.
    ///
    /// ```
    /// # use ruhe_core::matter::tube::TubeSize;
    /// // 3/8 in, wall 0.032 in: π/4 · (0.311 · 25.4 mm)² = 49.0 mm², so 0.049 L/m.
    /// assert!((TubeSize::from_code("3/8 in").unwrap().litres_per_metre() - 0.0490).abs() < 1e-4);
    /// ```
    #[must_use]
    pub fn litres_per_metre(self) -> f64 {
        let inside = self.outside - 2.0 * self.wall;
        std::f64::consts::FRAC_PI_4 * inside * inside * 1e3
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Common practice, no source: 3/8 in with R-410A liquid holds 0.56–0.6 oz/ft at 7–24 °C; saturated liquid at 16
    /// °C is 1,098 kg/m³ (CoolProp 8.0.0, from memory of its table), so 0.0490 L/m gives 0.578 oz/ft.
    #[test]
    fn a_foot_of_liquid_line_holds_what_the_trade_says() {
        let per_foot = TubeSize::from_code("3/8 in").unwrap().litres_per_metre() * 0.3048 * 1.098;
        let ounces = per_foot / 0.028_349_523;
        assert!((0.56..0.60).contains(&ounces), "{ounces}");
    }

    #[test]
    fn every_size_is_a_tube_and_listed_once() {
        for (i, t) in TUBES.iter().enumerate() {
            assert!(
                t.outside > 2.0 * t.wall && t.litres_per_metre() > 0.01,
                "{}",
                t.code
            );
            assert!(TUBES[..i].iter().all(|o| o.code != t.code));
        }
    }
}
