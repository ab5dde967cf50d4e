//! Decays drawn from a prior that is written down in a file.

use super::plant::water_saturation;
use super::{MICRON, Shown, VacuumPlant, VacuumTruth};
use rand::{Rng, SeedableRng};
use rand_chacha::ChaCha8Rng;
use rand_distr::{Distribution, StandardNormal};
use serde_json::Value;

/// A drawn decay: the truth and how it is watched.
#[derive(Debug, Clone)]
pub struct DrawnDecay {
    /// Code of what was drawn.
    pub cause: String,
    /// The hidden truth.
    pub truth: VacuumTruth,
    /// How long it is watched, s.
    pub watched_s: f64,
    /// Time between readings, s.
    pub every_s: f64,
    /// Whether the gauge is said to be near the pump (`true`), far from it (`false`), or nothing is said.
    pub near_pump: Option<bool>,
    /// Whether the temperature is followed by a probe that shows a tenth of a kelvin.
    pub has_probe: bool,
}

impl DrawnDecay {
    /// Draws one decay under a rule of `limit` Pa at `at_s` s. The same seed gives the same decay.
    ///
    /// # Errors
    /// What is missing from the file.
    pub fn draw(prior: &Value, seed: u64, limit: f64, at_s: f64) -> Result<Self, String> {
        let number = |path: &str| {
            prior
                .pointer(path)
                .and_then(Value::as_f64)
                .ok_or_else(|| format!("the prior has no {path}"))
        };
        let ends = |path: &str| {
            Ok::<_, String>((number(&format!("{path}/0"))?, number(&format!("{path}/1"))?))
        };
        let mut rng = ChaCha8Rng::seed_from_u64(seed);
        let even = |(a, b): (f64, f64), rng: &mut ChaCha8Rng| {
            a * (b / a).max(1.0).powf(rng.random::<f64>())
        };
        let normal = |rng: &mut ChaCha8Rng| -> f64 { StandardNormal.sample(rng) };
        let mut left: f64 = rng.random();
        let causes = prior["causes"]
            .as_object()
            .ok_or("the prior has no causes")?;
        let cause = causes
            .iter()
            .find(|(_, share)| {
                left -= share.as_f64().unwrap_or(0.0);
                left <= 0.0
            })
            .map_or("still", |(name, _)| name)
            .to_owned();
        let digits = prior["resolution_micron"]
            .as_array()
            .ok_or("the prior has no resolution_micron")?;
        let digit = digits[rng.random_range(0..digits.len())]
            .as_f64()
            .unwrap_or(1.0)
            * MICRON;
        let mut t = VacuumTruth::dry(even(ends("/start_micron")?, &mut rng), seed ^ 0x5eed);
        t.digit = digit;
        t.wander = even(ends("/wander_per_root_min")?, &mut rng);
        t.fast = even(ends("/fast")?, &mut rng);
        t.evacuated = even(ends("/evacuated_s")?, &mut rng);
        t.uneven_time = even(ends("/evening_s")?, &mut rng);
        t.uneven = normal(&mut rng)
            * (number("/uneven/sd_share")? * t.start + number("/uneven/sd_micron")? * MICRON);
        let near_pump = rng.random::<bool>().then_some(t.uneven < 0.0);
        t.kelvin = 278.15 + 25.0 * rng.random::<f64>();
        t.drift = number("/drift_k_per_h/sd")? * normal(&mut rng);
        t.vapour_per_k = number("/vapour_per_k")?;
        let negligible = (2.0 * digit).max(0.05 * (limit - t.start));
        let over = at_s.max(600.0);
        if cause.contains("leak") {
            let micron = |path: &str| Ok::<_, String>(number(path)? * MICRON / 60.0);
            let most = micron("/leak_micron_per_min/to")?;
            let gross = number("/leak_micron_per_min/gross/share").unwrap_or(0.0);
            let sizes = if cause == "leak" && rng.random::<f64>() < gross {
                (most, micron("/leak_micron_per_min/gross/to")?)
            } else {
                (negligible / over, most)
            };
            t.leak = even(sizes, &mut rng);
        }
        let rise = even((negligible, number("/rise_micron/to")? * MICRON), &mut rng);
        t.moisture_time = even(ends("/levelling_s")?, &mut rng);
        t.second_water = (
            number("/second_water/share").unwrap_or(0.0),
            number("/second_water/slower").unwrap_or(1.0),
        );
        if cause.contains("moisture") {
            t.moisture = rise;
        } else if cause == "water" {
            let (low, high) = ends("/water_band/ends")?;
            t.moisture = even(
                (
                    low * water_saturation(t.kelvin),
                    high * water_saturation(t.kelvin),
                ),
                &mut rng,
            );
        } else if cause.contains("outgassing") {
            let (t0, ten) = (t.evacuated, 600.0);
            if rng.random::<bool>() {
                t.outgas = rise / ((t0 + ten).sqrt() - t0.sqrt());
            } else {
                t.outgas_log = rise / (1.0 + ten / t0).ln();
            }
        }
        let (a, b) = ends("/minutes")?;
        Ok(Self {
            cause,
            truth: t,
            watched_s: 60.0 * even((a, b), &mut rng),
            every_s: even(ends("/interval_s")?, &mut rng).round(),
            near_pump,
            has_probe: rng.random(),
        })
    }

    /// The readings of its gauge.
    #[must_use]
    pub fn readings(&self) -> Vec<Shown> {
        let mut plant = VacuumPlant::new(self.truth.clone());
        (0..=(self.watched_s / self.every_s) as u32)
            .map(|k| plant.show(f64::from(k) * self.every_s))
            .collect()
    }

    /// The true pressure, Pa, without the gauge's noise.
    #[must_use]
    pub fn truly(&self, at_s: f64) -> f64 {
        VacuumPlant::new(self.truth.clone()).truly(at_s)
    }
}
