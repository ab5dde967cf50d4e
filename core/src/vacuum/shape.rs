//! The shapes a rise can have, as functions of the time since isolation.

/// A shape. Those of a rise are 0 at isolation.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Shape {
    /// 1: the level at isolation.
    Level,
    /// t, in Pa per Pa/s.
    Straight,
    /// 1 − e^(−t/τ), the mean of two time constants.
    Levelling(f64, f64),
    /// Their difference: blends between the two.
    LevellingBlend(f64, f64),
    /// 1 − e^(−t/τ), the mean of time constants over a factor of eight about this one: water that comes from many
    /// places.
    LevellingSpread(f64),
    /// What a steady change of temperature adds to a levelling rise: t − τ(1 − e^(−t/τ)), per s.
    LevellingDrift(f64),
    /// (√(t0 + t) − √t0) scaled to 1 at 10 min.
    Root(f64),
    /// ln(1 + t/t0) scaled to 1 at 10 min.
    Log(f64),
    /// e^(−t/τ), the mean of two time constants: the ends evening out.
    Evening(f64, f64),
    /// Their difference.
    EveningBlend(f64, f64),
}

const TEN_MINUTES: f64 = 600.0;

impl Shape {
    /// Whether it is what a source gives, by itself; the others ride on one or are nuisances.
    #[must_use]
    pub fn is_source(self) -> bool {
        matches!(
            self,
            Self::Straight
                | Self::Levelling(..)
                | Self::LevellingSpread(_)
                | Self::Root(_)
                | Self::Log(_)
        )
    }

    /// The shape at `t` seconds.
    #[must_use]
    pub fn at(self, t: f64) -> f64 {
        let fading = |tau: f64| (-t / tau).exp();
        match self {
            Self::Level => 1.0,
            Self::Straight => t,
            Self::Levelling(a, b) => 1.0 - 0.5 * (fading(a) + fading(b)),
            Self::LevellingBlend(a, b) => fading(b) - fading(a),
            Self::LevellingSpread(tau) => {
                1.0 - (-2..=2)
                    .map(|k| fading(tau * 8f64.powf(0.25 * f64::from(k))))
                    .sum::<f64>()
                    / 5.0
            }
            Self::LevellingDrift(tau) => t - tau * (1.0 - fading(tau)),
            Self::Root(t0) => {
                ((t0 + t).sqrt() - t0.sqrt()) / ((t0 + TEN_MINUTES).sqrt() - t0.sqrt())
            }
            Self::Log(t0) => (1.0 + t / t0).ln() / (1.0 + TEN_MINUTES / t0).ln(),
            Self::Evening(a, b) => 0.5 * (fading(a) + fading(b)),
            Self::EveningBlend(a, b) => fading(a) - fading(b),
        }
    }

    /// Its mean over a span of time (three-point Gauss-Legendre: exact for a polynomial of the fifth degree).
    #[must_use]
    pub fn over(self, middle: f64, width: f64) -> f64 {
        if width <= 0.0 {
            return self.at(middle);
        }
        let off = 0.5 * width * 0.6f64.sqrt();
        (5.0 * self.at((middle - off).max(0.0))
            + 8.0 * self.at(middle)
            + 5.0 * self.at(middle + off))
            / 18.0
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Worked by hand from √(t0 + t) − √t0: after 90 min of pulling, outgassing departs from a straight line by under
    /// 1 % of the rise in 10 min.
    #[test]
    fn after_a_long_pull_outgassing_is_nearly_straight() {
        let shape = Shape::Root(5_400.0);
        let worst = (0..=600)
            .map(|t| (shape.at(f64::from(t)) - f64::from(t) / 600.0).abs())
            .fold(0.0, f64::max);
        assert!(worst < 0.015, "{worst}");
        // About the best straight line it is half of that.
        assert!(Shape::Root(60.0).at(300.0) > 0.6);
    }

    #[test]
    fn a_mean_over_a_span_is_the_integral() {
        // ∫ e^(−t/20)/40 over 0…40 s, by hand: 0.5 (1 − e^−2).
        assert!(
            (Shape::Evening(20.0, 20.0).over(20.0, 40.0) - 0.5 * (1.0 - (-2f64).exp())).abs()
                < 1e-3
        );
        assert_eq!(Shape::Straight.over(50.0, 20.0), 50.0);
    }
}
