//! The plant of a drill: three volumes with a valve between two of them, hoses, a bottle, a pump, leaks, water, gas in
//! oil, a charge behind a valve, a unit that runs. It is integrated in time from a hidden truth, and hands act on it.
//!
//! Same truth, same seed, same acts at the same times: the same gauges, to the last digit, whoever asks when.

mod doing;
mod gas;
mod hands;
mod sensors;
mod step;
mod truth;

pub use doing::{BottleGas, By, Doing, Outcome};
pub use gas::refrigerant_boils;
pub use sensors::{Face, Sensor};
pub use truth::{HeldBack, Leak, Part, PlantTruth, Start, Unit};

use crate::ATMOSPHERE;
use crate::weather::Air;
use gas::{moles, pressure};
use rand::SeedableRng;
use rand_chacha::ChaCha8Rng;
use sensors::Sensors;

/// Longest drill, s.
pub const LONGEST: f64 = 40.0 * 3_600.0;

/// What stands in one volume, mol.
#[derive(Debug, Clone, Copy, Default)]
struct Inside {
    nitrogen: f64,
    vapour: f64,
    refrigerant: f64,
    /// How much warmer than the metal the gas still is, K.
    heat: f64,
}

/// The plant.
#[derive(Debug, Clone)]
pub struct DrillPlant {
    truth: PlantTruth,
    air: Air,
    t: f64,
    inside: [Inside; 3],
    /// Pipes of the near and far half, K.
    metal: [f64; 2],
    between_open: bool,
    hoses_in: bool,
    core_in: bool,
    bottle_open: bool,
    bottle: BottleGas,
    bottle_mol: f64,
    regulator: f64,
    pumping: bool,
    ballast: bool,
    fan: bool,
    is_warmed: bool,
    locked_out: bool,
    free_water: f64,
    water_k: f64,
    bound_water: f64,
    oil_gas: f64,
    hose_gas: f64,
    mended: Vec<usize>,
    tried: Vec<usize>,
    held_back: f64,
    charge: f64,
    started: Option<f64>,
    /// Pressure at which a volume burst.
    burst: bool,
    /// Highest pressure that near and far half stood at, shut off, and for how long, s.
    sensors: Sensors,
    luck: ChaCha8Rng,
}

impl DrillPlant {
    /// The plant as the learner finds it.
    #[must_use]
    pub fn new(truth: PlantTruth) -> Self {
        let air = Air::new(truth.weather, truth.kelvin, LONGEST, truth.seed ^ 0x5eed);
        let mut plant = Self {
            t: 0.0,
            inside: [Inside::default(); 3],
            metal: [air.temperature(0.0); 2],
            between_open: truth.between_open,
            hoses_in: true,
            core_in: truth.core_in,
            bottle_open: truth.left_open.is_some(),
            bottle: BottleGas::Nitrogen,
            bottle_mol: moles(truth.bottle.1 + ATMOSPHERE, truth.bottle.0, truth.kelvin),
            regulator: truth.left_open.unwrap_or(0.0),
            pumping: truth.pumping,
            ballast: false,
            fan: false,
            is_warmed: false,
            locked_out: false,
            free_water: truth.free_water,
            water_k: truth.kelvin,
            bound_water: truth.bound_water.0,
            oil_gas: truth.oil_gas.0,
            hose_gas: truth.hose_gas.0,
            mended: vec![],
            tried: vec![],
            held_back: truth.held_back.map_or(0.0, |h| h.lets_by),
            charge: truth.unit.map_or(0.0, |u| u.start_kg),
            started: None,
            burst: false,
            sensors: Sensors::new(&truth),
            luck: ChaCha8Rng::seed_from_u64(truth.seed ^ 0x1cc),
            air,
            truth,
        };
        plant.begin();
        plant.look_at_gauges();
        plant
    }

    fn begin(&mut self) {
        for part in Part::ALL {
            let i = part.i();
            let (v, t) = (self.truth.volumes[i], self.metal_of(i));
            let inside = &mut self.inside[i];
            match self.truth.start {
                Start::Filled { near, far, ago } => {
                    let p = ATMOSPHERE + if part == Part::Far { far } else { near };
                    let warm = self.truth.fill.0 * (p / ATMOSPHERE).ln().max(0.0);
                    inside.heat = warm * (-ago / self.truth.fill.1).exp();
                    // What the gauge showed when it was filled is what it began with.
                    inside.nitrogen = moles(p, v, t + inside.heat);
                }
                Start::Pumped { air, vapour } => {
                    inside.nitrogen = moles(air, v, t);
                    inside.vapour = vapour * v / (gas::R * t);
                }
                Start::Open => inside.nitrogen = moles(ATMOSPHERE, v, t),
            }
        }
    }

    fn metal_of(&self, i: usize) -> f64 {
        self.metal[i.saturating_sub(1)]
    }

    /// Total pressure in a volume, Pa absolute.
    #[must_use]
    pub fn pressure(&self, part: Part) -> f64 {
        self.total(part.i())
    }

    fn partial(&self, i: usize) -> [f64; 3] {
        let (v, x) = (self.truth.volumes[i], self.inside[i]);
        let t = self.metal_of(i) + x.heat;
        let ideal = gas::R * t / v;
        [
            pressure(x.nitrogen, v, t),
            x.vapour * ideal,
            (x.refrigerant * ideal).min(gas::refrigerant_saturation(t)),
        ]
    }

    fn total(&self, i: usize) -> f64 {
        self.partial(i).iter().sum()
    }

    /// Pressure of the air, Pa.
    fn outside(&self) -> f64 {
        self.air.pressure(self.t) + self.truth.barometer * self.t / 3_600.0
    }

    /// Seconds since the learner came.
    #[must_use]
    pub fn now(&self) -> f64 {
        self.t
    }

    /// Whether something that passes would be handed over with a fault still in it, and which.
    #[must_use]
    pub fn faults(&self) -> Vec<String> {
        let mut out: Vec<String> = self
            .truth
            .places
            .iter()
            .enumerate()
            .filter(|(i, l)| l.is_leak() && !self.mended.contains(i) && l.part != Part::Hoses)
            .map(|(_, l)| format!("{} leaks", l.place))
            .collect();
        if self.held_back > 0.0 {
            out.push("a valve lets refrigerant by".into());
        }
        if self.truth.between_lets_by > 0.0 && !self.between_open {
            out.push("the valve between the halves lets by".into());
        }
        if self.free_water > 2e-5 {
            out.push("there is water inside".into());
        }
        if self.core_in && matches!(self.truth.start, Start::Pumped { .. }) {
            out.push("the far end was never evacuated: a core is in the way".into());
        }
        if let Some(u) = self.truth.unit
            && (self.charge / u.right_kg - 1.0).abs() > 0.02
        {
            out.push("the charge is not what the maker wants".into());
        }
        out
    }

    /// Kilograms of refrigerant in the unit.
    #[must_use]
    pub fn charge(&self) -> f64 {
        self.charge
    }
    /// Mean rise or fall that the faults alone would bring now, Pa/s in near and far half together; for the truth drawn
    /// over a trace.
    #[must_use]
    pub fn lost_or_gained(&self) -> f64 {
        let volume: f64 = self.truth.volumes.iter().sum();
        self.truth
            .places
            .iter()
            .enumerate()
            .filter(|(i, _)| !self.mended.contains(i))
            .map(|(i, l)| self.flow_out(i, self.total(l.part.i())))
            .sum::<f64>()
            / -volume
    }
}

#[cfg(test)]
mod tests;
