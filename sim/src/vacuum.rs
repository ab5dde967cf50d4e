//! A circuit under vacuum after isolation: a leak, bound and free water, outgassing, and the gauge at one end.

use super::gauge::normal;
use super::{MICRON, Shown};
use rand::SeedableRng;
use rand_chacha::ChaCha8Rng;
use serde::{Deserialize, Serialize};

/// The hidden truth of a decay. Pressures in Pa.
#[derive(Debug, Clone, Serialize, Deserialize)]
pub struct VacuumTruth {
    /// True mean pressure at isolation.
    pub start: f64,
    /// Inflow of air into a deep vacuum, Pa/s for this volume.
    pub leak: f64,
    /// Vapour pressure the bound water tends to (0: none), with the time constant below.
    pub moisture: f64,
    /// Time constant of the bound or free water, s.
    pub moisture_time: f64,
    /// Water from a second place: share of `moisture` and how many times slower it comes.
    pub second_water: (f64, f64),
    /// Outgassing: rise per root second of time under vacuum (0: none).
    pub outgas: f64,
    /// Outgassing as 1/t instead: rise per unit of ln(1 + t/t0).
    pub outgas_log: f64,
    /// Time under vacuum before isolation, s.
    pub evacuated: f64,
    /// How far the gauge's end stands above the mean at isolation (below: negative).
    pub uneven: f64,
    /// Time constant with which the ends even out, s.
    pub uneven_time: f64,
    /// How many times too high the gauge reads vapour (1.0: diaphragm).
    pub vapour_factor: f64,
    /// Relative fast noise of one reading.
    pub fast: f64,
    /// Relative wandering per root minute.
    pub wander: f64,
    /// Smallest step shown.
    pub digit: f64,
    /// Temperature at isolation, K.
    pub kelvin: f64,
    /// Steady change of it, K/h: gas follows by 1/T, vapour by `vapour_per_k`.
    pub drift: f64,
    /// Change of the vapour's pressure per kelvin.
    pub vapour_per_k: f64,
    /// Seed.
    pub seed: u64,
}

impl VacuumTruth {
    /// A dry, tight circuit at so many micron.
    #[must_use]
    pub fn dry(micron: f64, seed: u64) -> Self {
        Self {
            start: micron * MICRON,
            leak: 0.0,
            moisture: 0.0,
            moisture_time: 600.0,
            second_water: (0.0, 1.0),
            outgas: 0.0,
            outgas_log: 0.0,
            evacuated: 3600.0,
            uneven: 0.0,
            uneven_time: 30.0,
            vapour_factor: 1.0,
            fast: 0.004,
            wander: 0.0012,
            digit: MICRON,
            kelvin: 293.15,
            drift: 0.0,
            vapour_per_k: 0.06,
            seed,
        }
    }
}

/// The plant: partial pressures integrated in time.
#[derive(Debug, Clone)]
pub struct VacuumPlant {
    truth: VacuumTruth,
    t: f64,
    air: f64,
    vapour: [f64; 2],
    gassed: f64,
    wander: f64,
    wander_at: f64,
    rng: ChaCha8Rng,
}

impl VacuumPlant {
    /// Sets the plant up at isolation.
    #[must_use]
    pub fn new(truth: VacuumTruth) -> Self {
        let rng = ChaCha8Rng::seed_from_u64(truth.seed);
        Self {
            t: 0.0,
            air: truth.start,
            vapour: [0.0; 2],
            gassed: 0.0,
            wander: 0.0,
            wander_at: 0.0,
            rng,
            truth,
        }
    }

    /// Runs on to `at_s` and tells the true pressure at the gauge, as its gas factor colours it.
    pub fn truly(&mut self, at_s: f64) -> f64 {
        let v = &self.truth;
        while self.t < at_s - 1e-9 {
            let h = (at_s - self.t).min(5.0);
            // A narrow leak: what flows goes with the difference of the squares, and ends at the air's pressure.
            let inside = (self.air / super::ATMOSPHERE).min(1.0);
            self.air += v.leak * h * (1.0 - inside * inside);
            let warmer = v.drift * (self.t + 0.5 * h) / 3600.0;
            let tends = v.moisture * (v.vapour_per_k * warmer).exp();
            let (second, slower) = v.second_water;
            let places = [
                (1.0 - second, v.moisture_time),
                (second, slower * v.moisture_time),
            ];
            for (vapour, (share, time)) in self.vapour.iter_mut().zip(places) {
                *vapour += (share * tends - *vapour) * (1.0 - (-h / time).exp());
            }
            let mid = v.evacuated + self.t + 0.5 * h;
            self.gassed += h * (0.5 * v.outgas / mid.sqrt() + v.outgas_log / mid);
            self.t += h;
        }
        let here = v.uneven * (-at_s / v.uneven_time).exp();
        let warmed = 1.0 + v.drift * at_s / 3600.0 / v.kelvin;
        (self.air + self.gassed) * warmed + here + v.vapour_factor * self.vapour.iter().sum::<f64>()
    }

    /// Runs on to `at_s` and shows the gauge.
    pub fn show(&mut self, at_s: f64) -> Shown {
        let seen = self.truly(at_s);
        let v = &self.truth;
        self.wander +=
            v.wander * ((at_s - self.wander_at) / 60.0).max(0.0).sqrt() * normal(&mut self.rng);
        self.wander_at = at_s;
        let noisy = seen * (1.0 + self.wander + v.fast * normal(&mut self.rng));
        let value = if v.digit > 0.0 {
            (noisy / v.digit).round() * v.digit
        } else {
            noisy
        };
        Shown {
            at_s,
            gauge: 0,
            value: value.max(0.0),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_leak_rises_in_a_straight_line() {
        let mut plant = VacuumPlant::new(VacuumTruth {
            leak: 10.0 * MICRON / 60.0,
            fast: 0.0,
            wander: 0.0,
            ..VacuumTruth::dry(300.0, 1)
        });
        let v: Vec<f64> = [0.0, 300.0, 600.0]
            .map(|t| plant.show(t).value / MICRON)
            .to_vec();
        assert_eq!(v, vec![300.0, 350.0, 400.0]);
    }

    #[test]
    fn outgassing_slows_with_the_root_of_time() {
        let truth = VacuumTruth {
            outgas: 10.0 * MICRON,
            evacuated: 100.0,
            fast: 0.0,
            wander: 0.0,
            digit: 0.0,
            ..VacuumTruth::dry(100.0, 1)
        };
        let mut plant = VacuumPlant::new(truth);
        let v = plant.show(800.0).value / MICRON;
        assert!(
            (v - (100.0 + 10.0 * (900f64.sqrt() - 100f64.sqrt()))).abs() < 0.5,
            "{v}"
        );
    }
}
