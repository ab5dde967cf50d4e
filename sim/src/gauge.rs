//! A gauge: correlated wandering, fast noise, its own temperature, and digits.

use rand_chacha::ChaCha8Rng;
use rand_distr::{Distribution, StandardNormal};
use serde::{Deserialize, Serialize};

/// A draw from the standard normal distribution.
pub(crate) fn normal(rng: &mut ChaCha8Rng) -> f64 {
    StandardNormal.sample(rng)
}

/// How a gauge misbehaves.
#[derive(Debug, Clone, Copy, Serialize, Deserialize)]
pub struct Gauge {
    /// Smallest step shown, SI.
    pub digit: f64,
    /// Standard deviation of the wandering, SI.
    pub wander: f64,
    /// Its correlation time, s.
    pub wander_time: f64,
    /// Standard deviation of the fast noise of one reading, SI.
    pub fast: f64,
    /// Change of reading per kelvin of the gauge's own warming, SI.
    pub per_kelvin: f64,
    /// How far the sun warms it, K, approached with a time constant of 15 min.
    pub sun: f64,
}

impl Gauge {
    /// A gauge that only rounds.
    #[must_use]
    pub fn ideal(digit: f64) -> Self {
        Self {
            digit,
            wander: 0.0,
            wander_time: 100.0,
            fast: 0.0,
            per_kelvin: 0.0,
            sun: 0.0,
        }
    }
}

/// A gauge in use: its wandering so far.
#[derive(Debug, Clone)]
pub(crate) struct InUse {
    pub gauge: Gauge,
    wander: f64,
    at: f64,
}

impl InUse {
    pub fn new(gauge: Gauge, rng: &mut ChaCha8Rng) -> Self {
        Self {
            gauge,
            wander: gauge.wander * normal(rng),
            at: 0.0,
        }
    }

    /// What it shows of `truth` at `t`, in air that has warmed by `air` K since the start.
    pub fn show(&mut self, truth: f64, t: f64, air: f64, rng: &mut ChaCha8Rng) -> f64 {
        let g = self.gauge;
        let keep = (-(t - self.at) / g.wander_time).exp();
        self.wander =
            keep * self.wander + (1.0 - keep * keep).max(0.0).sqrt() * g.wander * normal(rng);
        self.at = t;
        let warm = air + g.sun * (1.0 - (-t / 900.0).exp());
        let value = truth + self.wander + g.fast * normal(rng) + g.per_kelvin * warm;
        if g.digit > 0.0 {
            (value / g.digit).round() * g.digit
        } else {
            value
        }
    }
}
