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

pub use doing::{BottleGas, By, Doing, Heat, Outcome};
pub use gas::{compressibility, refrigerant_boils, refrigerant_saturation, water_saturation};
pub use sensors::{Face, Sensor};
pub use truth::{HeldBack, Leak, Part, PlantTruth, Start, Unit};

use crate::ATMOSPHERE;
use crate::weather::Air;
use gas::{moles, pressure};
use rand::SeedableRng;
use rand_chacha::ChaCha8Rng;
pub use sensors::EVERY;
use sensors::Sensors;

/// What stood on the gauges, and what was true, at one time of the grid.
#[derive(Debug, Clone, PartialEq)]
pub struct Seen {
    /// Seconds since the learner came.
    pub at_s: f64,
    /// What the gauges showed.
    pub faces: Vec<Face>,
    /// What was true: pressure of near and far half, Pa absolute.
    pub truly: [f64; 2],
    /// Mean temperature of the pipes, K.
    pub kelvin: f64,
    /// Pressure of the air, Pa.
    pub outside: f64,
}

/// A vacuum above this is none, Pa (1,500 micron).
const HIGH: f64 = 200.0;

/// Between two of them, s.
pub const SEEN_EVERY: f64 = 10.0;

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
    /// A volume was pressed above what it is made for.
    burst: bool,
    sensors: Sensors,
    history: Vec<Seen>,
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
            history: vec![],
            luck: ChaCha8Rng::seed_from_u64(truth.seed ^ 0x1cc),
            air,
            truth,
        };
        plant.begin();
        plant.look_at_gauges();
        plant.note();
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

    fn note(&mut self) {
        if self.t % SEEN_EVERY < 1e-6 {
            self.history.push(Seen {
                at_s: self.t,
                faces: self.sensors.shows.clone(),
                truly: [self.total(1), self.total(2)],
                kelvin: 0.5 * (self.metal[0] + self.metal[1]),
                outside: self.outside(),
            });
        }
    }

    /// All that stood on the gauges so far.
    #[must_use]
    pub fn history(&self) -> &[Seen] {
        &self.history
    }

    /// Places that were mended.
    #[must_use]
    pub fn mended(&self, place: &str) -> bool {
        self.mended
            .iter()
            .any(|i| self.truth.places[*i].place == place)
    }

    /// Whether neither the bottle feeds it nor the pump draws on it.
    #[must_use]
    pub fn is_shut_off(&self) -> bool {
        !self.bottle_open && !self.pumping
    }

    fn metal_of(&self, i: usize) -> f64 {
        self.metal[i.saturating_sub(1)]
    }

    /// Total pressure in a volume, Pa absolute.
    #[must_use]
    pub fn pressure(&self, part: Part) -> f64 {
        self.total(part.i())
    }

    /// Partial pressures in a volume, Pa: nitrogen and air together, water vapour, refrigerant.
    #[must_use]
    pub fn gases(&self, part: Part) -> [f64; 3] {
        self.partial(part.i())
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
        let is_pumped = matches!(self.truth.start, Start::Pumped { .. });
        if is_pumped && self.total(2) > HIGH {
            let micron = self.total(2) / crate::MICRON;
            out.push(format!("its far end stands at {micron:.0} micron"));
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
}

#[cfg(test)]
mod tests;
