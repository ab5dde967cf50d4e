//! A circuit full of nitrogen: parts at their own temperatures, a leak, a valve, and what the gauges make of it.

use super::gauge::InUse;
use super::weather::{Air, HISTORY, Weather};
use super::{Gauge, PSI, Shown};
use aga8::{composition::Composition, gerg2008::Gerg2008};
use rand::SeedableRng;
use rand_chacha::ChaCha8Rng;
use serde::{Deserialize, Serialize};

/// A temperature probe and the part of the volume it is thought to stand for.
#[derive(Debug, Clone, Copy, Serialize, Deserialize)]
pub struct Probe {
    /// True share of the volume.
    pub share: f64,
    /// How much stronger (or weaker) than the air this part swings.
    pub swing: f64,
    /// Time by which the probe follows the air, s.
    pub follows: f64,
    /// The gauge it is read on.
    pub gauge: Gauge,
}

/// The hidden truth of a hold.
#[derive(Debug, Clone, Serialize, Deserialize)]
pub struct HoldTruth {
    /// Pressure at the start, Pa gauge.
    pub start_gauge: f64,
    /// Temperature at the start, K.
    pub start_k: f64,
    /// Loss at the start, Pa/s; follows P² − P_a².
    pub loss: f64,
    /// How far filling has warmed the gas, K.
    pub fill_k: f64,
    /// Time constant with which that fades, s …
    pub fill_time: f64,
    /// … but for this share, which sits in metal and fades …
    pub fill_slow: f64,
    /// … so many times more slowly.
    pub fill_slower: f64,
    /// The gas moves by so much for each kelvin of its part's probe.
    pub gain: f64,
    /// The gas follows its probe with this time constant, s; negative: the probe follows the gas.
    pub lag: f64,
    /// What the air does.
    pub weather: Weather,
    /// Probes, whose true shares sum to 1.
    pub probes: Vec<Probe>,
    /// The pressure gauge.
    pub gauge: Gauge,
    /// How long it will run, s.
    pub duration: f64,
    /// Seed of everything random.
    pub seed: u64,
}

/// Nitrogen near one state: molar density (mol/L) as a quadratic in pressure and temperature.
#[derive(Debug, Clone)]
struct Nitrogen {
    p0: f64,
    t0: f64,
    c: [[f64; 3]; 3],
}

const SPAN_P: f64 = 0.2;
const SPAN_T: f64 = 25.0;

impl Nitrogen {
    fn near(p0: f64, t0: f64) -> Self {
        let mut gas = Gerg2008::new();
        let _ = gas.set_composition(&Composition {
            nitrogen: 1.0,
            ..Default::default()
        });
        let mut node = |i: i32, j: i32| {
            gas.p = p0 * (1.0 + SPAN_P * f64::from(i - 1)) / 1e3;
            gas.t = t0 + SPAN_T * f64::from(j - 1);
            let _ = gas.density(0);
            gas.d
        };
        let mut c = [[0.0; 3]; 3];
        for (i, row) in c.iter_mut().enumerate() {
            for (j, v) in row.iter_mut().enumerate() {
                *v = node(i as i32, j as i32);
            }
        }
        Self { p0, t0, c }
    }
    /// Lagrange interpolation of compressed volume p/(ρT), which is nearly flat.
    fn density(&self, p: f64, t: f64) -> f64 {
        let basis = |x: f64| [0.5 * x * (x - 1.0), 1.0 - x * x, 0.5 * x * (x + 1.0)];
        let (bp, bt) = (
            basis((p / self.p0 - 1.0) / SPAN_P),
            basis((t - self.t0) / SPAN_T),
        );
        let mut z = 0.0;
        for ((wp, i), row) in bp.iter().zip(-1i32..).zip(&self.c) {
            for ((wt, j), d) in bt.iter().zip(-1i32..).zip(row) {
                let (pi, tj) = (
                    self.p0 * (1.0 + SPAN_P * f64::from(i)),
                    self.t0 + SPAN_T * f64::from(j),
                );
                z += wp * wt * pi / (d * tj);
            }
        }
        p / (z * t)
    }
}

/// The plant, advanced by asking what it shows.
#[derive(Debug, Clone)]
pub struct HoldPlant {
    truth: HoldTruth,
    air: Air,
    nitrogen: Nitrogen,
    amount: f64,
    /// Amount per pascal at the start: a loss is a flow of gas, ∝ P² − P_a², whatever the temperature later.
    per_pa: f64,
    pressure: f64,
    t: f64,
    /// Each part's metal (what an ideal probe feels) and its gas, K.
    metal: Vec<f64>,
    gas: Vec<f64>,
    late: Vec<f64>,
    start: Vec<f64>,
    gauge: InUse,
    probes: Vec<InUse>,
    rng: ChaCha8Rng,
}

const COPPER: f64 = 5e-5;

impl HoldPlant {
    /// Sets the plant up and lets the metal follow the air's history.
    #[must_use]
    pub fn new(truth: HoldTruth) -> Self {
        let mut rng = ChaCha8Rng::seed_from_u64(truth.seed);
        let air = Air::new(
            truth.weather,
            truth.start_k,
            truth.duration,
            truth.seed ^ 0x5eed,
        );
        let p0 = truth.start_gauge + air.pressure(0.0);
        let first = air.temperature(-HISTORY);
        let n = truth.probes.len();
        let mut plant = Self {
            nitrogen: Nitrogen::near(p0, truth.start_k),
            amount: 0.0,
            per_pa: 0.0,
            pressure: p0,
            t: -HISTORY,
            metal: vec![first; n],
            gas: vec![first; n],
            late: vec![first; n],
            start: vec![],
            gauge: InUse::new(truth.gauge, &mut rng),
            probes: truth
                .probes
                .iter()
                .map(|p| InUse::new(p.gauge, &mut rng))
                .collect(),
            rng,
            air,
            truth,
        };
        while plant.t < 0.0 {
            plant.warm(20.0);
        }
        plant.t = 0.0;
        plant.start = plant.metal.clone();
        plant.amount = plant.moles(p0);
        plant.per_pa = (plant.moles(p0 + 50.0) - plant.moles(p0 - 50.0)) / 100.0;
        plant
    }

    /// Moves the temperatures by `h` seconds.
    fn warm(&mut self, h: f64) {
        let air = self.air.temperature(self.t + h);
        for (i, probe) in self.truth.probes.iter().enumerate() {
            let base = self.truth.start_k;
            let target = base + probe.swing * (air - base);
            self.metal[i] += (target - self.metal[i]) * (1.0 - (-h / probe.follows.max(1.0)).exp());
            let lag = self.truth.lag.abs().max(1.0);
            self.gas[i] += (self.metal[i] - self.gas[i]) * (1.0 - (-h / lag).exp());
            self.late[i] = self.gas[i];
        }
        self.t += h;
    }

    /// Temperature of the gas in a part now.
    fn gas_temperature(&self, i: usize) -> f64 {
        let base = self.start.get(i).copied().unwrap_or(self.truth.start_k);
        let follows = if self.truth.lag >= 0.0 {
            self.gas[i]
        } else {
            self.metal[i]
        };
        let t = self.t.max(0.0);
        let (slow, tau) = (self.truth.fill_slow, self.truth.fill_time);
        let fading =
            (1.0 - slow) * (-t / tau).exp() + slow * (-t / (self.truth.fill_slower * tau)).exp();
        base + self.truth.gain * (follows - base) + self.truth.fill_k * fading
    }

    fn moles(&self, p: f64) -> f64 {
        self.truth
            .probes
            .iter()
            .enumerate()
            .map(|(i, probe)| {
                let t = self.gas_temperature(i);
                probe.share * self.nitrogen.density(p, t) * (1.0 + COPPER * (t - self.start[i]))
            })
            .sum()
    }

    /// Runs on to `at_s` and shows gauge 0 (pressure) and the probes (1, 2, …).
    pub fn show(&mut self, at_s: f64) -> Vec<Shown> {
        while self.t < at_s - 1e-9 {
            let h = (at_s - self.t).min(10.0);
            self.warm(h);
            let air = self.air.pressure(self.t);
            let p0 = self.truth.start_gauge + super::ATMOSPHERE;
            let drive = (self.pressure.powi(2) - air.powi(2)).max(0.0) / (p0 * p0 - air * air);
            let per_pa =
                (self.moles(self.pressure + 50.0) - self.moles(self.pressure - 50.0)) / 100.0;
            self.amount -= self.truth.loss * drive * self.per_pa * h;
            for _ in 0..3 {
                self.pressure += (self.amount - self.moles(self.pressure)) / per_pa;
            }
        }
        let warmed = self.air.temperature(at_s) - self.air.temperature(0.0);
        let gauge_pressure = self.pressure - self.air.pressure(at_s);
        let mut out = vec![Shown {
            at_s,
            gauge: 0,
            value: self.gauge.show(gauge_pressure, at_s, warmed, &mut self.rng),
        }];
        for i in 0..self.probes.len() {
            let feels = if self.truth.lag >= 0.0 {
                self.metal[i]
            } else {
                self.late[i]
            };
            out.push(Shown {
                at_s,
                gauge: i + 1,
                value: self.probes[i].show(feels, at_s, 0.0, &mut self.rng),
            });
        }
        out
    }

    /// A plain tight circuit at `psig`, one probe, steady air: a starting point to spoil.
    #[must_use]
    pub fn tight(psig: f64, duration: f64, seed: u64) -> HoldTruth {
        HoldTruth {
            start_gauge: psig * PSI,
            start_k: 294.0,
            loss: 0.0,
            fill_k: 4.0,
            fill_time: 180.0,
            fill_slow: 0.15,
            fill_slower: 2.0,
            gain: 1.0,
            lag: 120.0,
            weather: Weather::Steady,
            duration,
            seed,
            probes: vec![Probe {
                share: 1.0,
                swing: 1.0,
                follows: 120.0,
                gauge: Gauge {
                    fast: 0.03,
                    ..Gauge::ideal(0.0556)
                },
            }],
            gauge: Gauge {
                digit: 0.1 * PSI,
                wander: 0.05 * PSI,
                wander_time: 150.0,
                fast: 0.04 * PSI,
                per_kelvin: 0.05 * PSI,
                sun: 0.0,
            },
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_same_seed_shows_the_same() {
        let run = |seed| {
            let mut p = HoldPlant::new(HoldPlant::tight(300.0, 600.0, seed));
            (0..10)
                .flat_map(|i| p.show(f64::from(i) * 60.0))
                .collect::<Vec<_>>()
        };
        assert_eq!(run(7), run(7));
        assert_ne!(run(7), run(8));
    }

    #[test]
    fn a_leak_loses_what_it_says() {
        let mut truth = HoldPlant::tight(300.0, 3600.0, 1);
        truth.fill_k = 0.0;
        truth.gauge = Gauge::ideal(0.0);
        truth.gain = 0.0;
        truth.loss = 5.0 * PSI / 3600.0;
        let mut plant = HoldPlant::new(truth);
        let first = plant.show(0.0)[0].value + plant.air.pressure(0.0);
        let last = plant.show(3600.0)[0].value + plant.air.pressure(3600.0);
        let lost = (first - last) / PSI;
        assert!((lost - 5.0).abs() < 0.15, "{lost}");
    }
}
