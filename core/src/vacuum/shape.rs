//! The shapes a rise can have, as functions of the time since isolation.

/// A shape that grows from 0 at isolation.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Shape {
    /// t, in Pa per Pa/s.
    Straight,
    /// 1 − e^(−t/τ).
    Levelling(f64),
    /// (√(t0 + t) − √t0) scaled to 1 at 10 min.
    Root(f64),
    /// ln(1 + t/t0) scaled to 1 at 10 min.
    Log(f64),
}

const TEN_MINUTES: f64 = 600.0;

impl Shape {
    /// The shape at `t` seconds.
    #[must_use]
    pub fn at(self, t: f64) -> f64 {
        match self {
            Self::Straight => t,
            Self::Levelling(tau) => 1.0 - (-t / tau).exp(),
            Self::Root(t0) => ((t0 + t).sqrt() - t0.sqrt()) / ((t0 + TEN_MINUTES).sqrt() - t0.sqrt()),
            Self::Log(t0) => (1.0 + t / t0).ln() / (1.0 + TEN_MINUTES / t0).ln(),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Handbook §5: after 90 min of pulling, outgassing departs from a straight line by under 1 % of the rise in 10 min.
    #[test]
    fn after_a_long_pull_outgassing_is_nearly_straight() {
        let shape = Shape::Root(5_400.0);
        let worst = (0..=600).map(|t| (shape.at(f64::from(t)) - f64::from(t) / 600.0).abs()).fold(0.0, f64::max);
        assert!(worst < 0.015, "{worst}");
        // About the best straight line it is half of that.
        assert!(Shape::Root(60.0).at(300.0) > 0.6);
    }
}
