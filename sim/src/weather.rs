//! The air's temperature and pressure over time.

use super::gauge::normal;
use rand::SeedableRng;
use rand_chacha::ChaCha8Rng;
use serde::{Deserialize, Serialize};

/// What the air does.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub enum Weather {
    /// Stays within a few tenths of a kelvin.
    Steady,
    /// Drifts by so many kelvin an hour.
    Ramp(f64),
    /// Swings by so many kelvin either way over a day, from a phase (0…1).
    DayNight(f64, f64),
    /// Sun and cloud: jumps of so many kelvin every quarter of an hour or so.
    Cloud(f64),
}

/// The air as it will be, worked out ahead on a grid of 30 s from well before the test.
#[derive(Debug, Clone)]
pub(crate) struct Air {
    temperature: Vec<f64>,
    pressure: Vec<f64>,
}

/// The air's history reaches this far back, s, so that lags have something to lag behind.
pub(crate) const HISTORY: f64 = 4.0 * 3600.0;
const STEP: f64 = 30.0;

impl Air {
    pub fn new(weather: Weather, start_k: f64, duration: f64, seed: u64) -> Self {
        let mut rng = ChaCha8Rng::seed_from_u64(seed);
        let n = ((duration + HISTORY) / STEP) as usize + 3;
        let (mut slow, mut sun, mut shade) = (0.0, 0.0, 1.0);
        let mut barometer: f64 = super::ATMOSPHERE;
        let mut out = Self {
            temperature: Vec::with_capacity(n),
            pressure: Vec::with_capacity(n),
        };
        for i in 0..n {
            let t = i as f64 * STEP - HISTORY;
            slow +=
                -slow * STEP / 1200.0 + 0.15 * (2.0f64 * STEP / 1200.0).sqrt() * normal(&mut rng);
            if normal(&mut rng).abs() > 2.12 {
                shade = -shade;
            }
            sun += (shade - sun) * STEP / 240.0;
            let shape = match weather {
                Weather::Steady => 0.0,
                Weather::Ramp(k) => k * t / 3600.0,
                Weather::DayNight(k, phase) => {
                    k * (std::f64::consts::TAU * (t / 86_400.0 + phase)).sin()
                }
                Weather::Cloud(k) => 0.5 * k * sun,
            };
            // A random walk of 0.7 hPa per root hour.
            barometer += 70.0 * (STEP / 3600.0).sqrt() * normal(&mut rng);
            out.temperature.push(start_k + shape + slow);
            out.pressure.push(barometer);
        }
        out
    }
    fn at(values: &[f64], t: f64) -> f64 {
        let x = ((t + HISTORY) / STEP).max(0.0);
        let i = (x as usize).min(values.len() - 2);
        let w = (x - i as f64).min(1.0);
        values[i] * (1.0 - w) + values[i + 1] * w
    }
    pub fn temperature(&self, t: f64) -> f64 {
        Self::at(&self.temperature, t)
    }
    pub fn pressure(&self, t: f64) -> f64 {
        Self::at(&self.pressure, t)
    }
}
