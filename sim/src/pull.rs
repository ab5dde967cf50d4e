//! A circuit being pumped down: pump, hoses, valve cores, gas off the walls, bound and free water, breaks.

use super::gauge::normal;
use super::plant::water_saturation;
use super::{ATMOSPHERE, MICRON, Shown};
use rand::{Rng, SeedableRng};
use rand_chacha::ChaCha8Rng;
use serde::{Deserialize, Serialize};

/// Water's specific gas constant, J/(kg·K), heat of evaporation, J/kg, and specific heat, J/(kg·K).
const WATER: (f64, f64, f64) = (461.5, 2.5e6, 4_186.0);

/// The hidden truth of a pull-down. SI.
#[derive(Debug, Clone, Serialize, Deserialize)]
pub struct PullTruth {
    /// Volume, m³.
    pub volume: f64,
    /// The pump's speed, m³/s, and what it reaches.
    pub speed: f64,
    /// Lowest pressure of the pump, Pa.
    pub ultimate: f64,
    /// Conductance of hoses and valves: per Pa of mean pressure, m³/(s·Pa).
    pub viscous: f64,
    /// And in molecular flow, m³/s.
    pub molecular: f64,
    /// Gas off the walls at one minute, Pa·m³/s; fades with the time to this power.
    pub gas: (f64, f64),
    /// Bound water, kg, and how fast it comes off, s.
    pub bound: (f64, f64),
    /// Free water, kg.
    pub free: f64,
    /// Heat that reaches it, W/K, and evaporating speed, kg/(s·Pa).
    pub warmth: (f64, f64),
    /// The place's temperature, K.
    pub kelvin: f64,
    /// Air leaking in, Pa·m³/s.
    pub leak: f64,
    /// The pump's valve is shut between these times, s.
    pub shut: Vec<(f64, f64)>,
    /// Nitrogen let in: when, to what pressure, and for how long it stands, s.
    pub breaks: Vec<(f64, f64, f64)>,
    /// Relative noise of a reading and wandering per root minute.
    pub noise: (f64, f64),
    /// Smallest step shown, Pa.
    pub digit: f64,
    /// Top of the gauge's range, Pa.
    pub top: f64,
    /// Seed.
    pub seed: u64,
}

impl PullTruth {
    /// A dry, tight circuit of so many litres on short wide hoses.
    #[must_use]
    pub fn dry(litres: f64, seed: u64) -> Self {
        Self {
            volume: litres * 1e-3,
            speed: 2.4e-3,
            ultimate: 30.0 * MICRON,
            viscous: 1.2e-5,
            molecular: 1.2e-4,
            gas: (4e-4, 0.9),
            bound: (0.0, 900.0),
            free: 0.0,
            warmth: (0.15, 2e-9),
            kelvin: 293.15,
            leak: 0.0,
            shut: vec![],
            breaks: vec![],
            noise: (0.004, 0.001),
            digit: MICRON,
            top: 25_000.0 * MICRON,
            seed,
        }
    }

    /// Draws one: volumes of 0.2–50 L, hoses of any kind, cores in or out, dry to soaked, tight to leaking.
    #[must_use]
    pub fn draw(seed: u64) -> Self {
        let mut rng = ChaCha8Rng::seed_from_u64(seed);
        let mut even = |a: f64, b: f64| a * (b / a).powf(rng.random::<f64>());
        let mut t = Self::dry(even(0.2, 50.0), seed ^ 0xabc);
        t.speed = even(1e-3, 4e-3);
        t.ultimate = even(8.0, 90.0) * MICRON;
        // A tube of 3–10 mm and 1–3 m; both conductances follow from the bore.
        let (bore, length): (f64, f64) = (even(3e-3, 1e-2), even(1.0, 3.0));
        t.viscous = 1.35e3 * bore.powi(4) / length;
        t.molecular = 121.0 * bore.powi(3) / length;
        // Larger systems have more wall.
        let wall = (t.volume / 5e-3).powf(2.0 / 3.0);
        t.gas = (wall * even(2e-5, 4e-3), even(0.6, 1.3));
        t.bound = (wall * even(1e-7, 3e-4), even(300.0, 6_000.0));
        t.leak = t.volume * even(1e-4, 3e-2);
        t.kelvin = 280.0 + even(1.0, 25.0);
        t.noise = (even(0.002, 0.01), even(0.001, 0.002));
        let luck = even(1.0, std::f64::consts::E).ln();
        t.bound.0 *= f64::from(luck > 0.3);
        t.leak *= f64::from(luck > 0.8);
        t.free = if luck > 0.9 { even(5e-5, 5e-3) } else { 0.0 };
        t
    }
}

/// The plant, integrated in time.
#[derive(Debug, Clone)]
pub struct PullPlant {
    truth: PullTruth,
    t: f64,
    air: f64,
    vapour: f64,
    bound: f64,
    free: f64,
    chilled: f64,
    breaks_done: usize,
    wander: f64,
    wander_at: f64,
    rng: ChaCha8Rng,
}

impl PullPlant {
    /// At atmospheric pressure, with the pump just started.
    #[must_use]
    pub fn new(truth: PullTruth) -> Self {
        Self {
            t: 0.0,
            air: ATMOSPHERE,
            vapour: 0.0,
            bound: truth.bound.0,
            free: truth.free,
            chilled: truth.kelvin,
            breaks_done: 0,
            wander: 0.0,
            wander_at: 0.0,
            rng: ChaCha8Rng::seed_from_u64(truth.seed),
            truth,
        }
    }

    /// Effective speed at a pressure: the pump behind its hoses.
    fn speed(&self, p: f64) -> f64 {
        let v = &self.truth;
        let pump = v.speed * (1.0 - v.ultimate / p).max(0.0);
        let through = v.viscous * 0.5 * p + v.molecular;
        if pump <= 0.0 {
            0.0
        } else {
            1.0 / (1.0 / pump + 1.0 / through)
        }
    }

    fn step(&mut self, h: f64) {
        let v = &self.truth;
        let p = self.air + self.vapour;
        if let Some(&(_, to, _)) = v.breaks.get(self.breaks_done).filter(|b| self.t >= b.0) {
            // Dry nitrogen takes most of what was loose with it when it is pumped out again.
            self.air = to;
            self.vapour *= 0.3;
            self.bound *= 0.35;
            self.free *= 0.6;
            self.chilled = v.kelvin;
            self.breaks_done += 1;
            self.t += h;
            return;
        }
        let stands = v.breaks.iter().any(|b| (b.0..b.0 + b.2).contains(&self.t))
            || v.shut.iter().any(|s| (s.0..s.1).contains(&self.t));
        let s = if stands { 0.0 } else { self.speed(p) };
        let kept = (-s * h / v.volume).exp();
        let since = self.t.max(1.0) / 60.0;
        let gas = v.gas.0 * since.powf(-v.gas.1) * f64::from(p < 3_000.0)
            + v.leak * (1.0 - p / ATMOSPHERE).max(0.0);
        self.air = self.air * kept + gas * h / v.volume;
        let (r, heat, specific) = WATER;
        let off =
            self.bound * (1.0 - (-h / v.bound.1).exp()) * f64::from(p < water_saturation(v.kelvin));
        self.bound -= off;
        let mut boiled = 0.0;
        if self.free > 1e-9 {
            boiled = (v.warmth.1 * (water_saturation(self.chilled) - self.vapour) * h)
                .clamp(-0.1 * self.free, 0.2 * self.free);
            self.chilled += (v.warmth.0 * (v.kelvin - self.chilled) * h - heat * boiled)
                / ((self.free + 0.02) * specific);
            self.chilled = self.chilled.clamp(230.0, v.kelvin);
            self.free -= boiled;
        }
        self.vapour = (self.vapour * kept + (off + boiled) * r * v.kelvin / v.volume).max(0.0);
        self.t += h;
    }

    /// Lets nitrogen in now, to a pressure in Pa, and lets it stand for so long, s.
    pub fn let_in(&mut self, to: f64, stands_s: f64) {
        self.truth.breaks.truncate(self.breaks_done);
        self.truth.breaks.push((self.t, to, stands_s));
    }

    /// Shuts the pump's valve, or opens it again.
    pub fn shut(&mut self, is_shut: bool) {
        match (is_shut, self.truth.shut.last_mut()) {
            (true, _) => self.truth.shut.push((self.t, f64::INFINITY)),
            (false, Some(last)) => last.1 = last.1.min(self.t),
            (false, None) => {}
        }
    }

    /// Runs on and tells the true pressure, Pa.
    pub fn truly(&mut self, at_s: f64) -> f64 {
        while self.t < at_s - 1e-9 {
            let fastest = self.truth.volume / self.speed(self.air + self.vapour).max(1e-9);
            let h = (at_s - self.t).min(2.0).min(0.05 * fastest).max(0.02);
            self.step(h);
        }
        self.air + self.vapour
    }

    /// Runs on and shows the gauge, which says no more than the top of its range.
    pub fn show(&mut self, at_s: f64) -> Shown {
        let p = self.truly(at_s);
        let v = &self.truth;
        self.wander +=
            v.noise.1 * ((at_s - self.wander_at) / 60.0).max(0.0).sqrt() * normal(&mut self.rng);
        self.wander_at = at_s;
        let seen = (p * (1.0 + self.wander + v.noise.0 * normal(&mut self.rng))).min(v.top);
        Shown {
            at_s,
            gauge: 0,
            value: ((seen / v.digit).round() * v.digit).max(0.0),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// With a constant speed and nothing given off, t = V/S·ln(p0/p1).
    #[test]
    fn a_dry_vessel_follows_the_exponential() {
        let truth = PullTruth {
            viscous: 1.0,
            molecular: 1.0,
            ultimate: 0.0,
            gas: (0.0, 1.0),
            ..PullTruth::dry(10.0, 1)
        };
        let p = PullPlant::new(truth).truly(20.0);
        let expected = ATMOSPHERE * (-2.4e-3 * 20.0 / 0.01f64).exp();
        assert!((p / expected - 1.0).abs() < 0.05, "{p} {expected}");
    }

    #[test]
    fn a_valve_shut_by_hand_stops_it_and_nitrogen_lets_it_rise() {
        let mut plant = PullPlant::new(PullTruth {
            leak: 1e-3,
            ..PullTruth::dry(5.0, 1)
        });
        let pumped = plant.truly(300.0);
        plant.shut(true);
        assert!(plant.truly(330.0) > pumped);
        plant.shut(false);
        assert!(plant.truly(400.0) < 2.0 * pumped);
        plant.let_in(115_000.0, 60.0);
        assert!(plant.truly(430.0) > 100_000.0);
        assert!(plant.truly(700.0) < 1_000.0);
    }

    #[test]
    fn free_water_stalls_it_below_the_rooms_saturation() {
        let mut plant = PullPlant::new(PullTruth {
            free: 3e-3,
            ..PullTruth::dry(5.0, 1)
        });
        let (a, b) = (plant.truly(1_200.0), plant.truly(1_500.0));
        assert!(
            b > 100.0 && b < 2_340.0 && (a / b - 1.0).abs() < 0.3,
            "{a} {b}"
        );
    }
}
