//! What the tests of one circuit say together.
//!
//! The leak ladder: every finished hold rules out leaks above a size, or has shown one. Sizes are grams of refrigerant
//! a year at working pressure, as a band from the low side to the high side.

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
    let percent = charge_g.filter(|c| c.is_finite() && *c > 0.0).map(|c| (100.0 * low / c, 100.0 * high / c));
    Rung { is_leak, low, high, percent }
}
