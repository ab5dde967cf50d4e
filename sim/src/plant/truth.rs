//! What is true of a drill's plant and never shown before its end. SI throughout.

use crate::{ATMOSPHERE, MICRON, PSI, Weather};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// One of the three volumes that are joined: hoses with the manifold, the near half, the far half.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Part {
    /// Hoses, manifold, and what is fitted between them and the system.
    Hoses,
    /// The half that the hoses are on.
    Near,
    /// The half beyond the valve.
    Far,
}

impl Part {
    /// All, in order.
    pub const ALL: [Self; 3] = [Self::Hoses, Self::Near, Self::Far];
    pub(crate) fn i(self) -> usize {
        match self {
            Self::Hoses => 0,
            Self::Near => 1,
            Self::Far => 2,
        }
    }
}

/// A place that leaks, or one that could and does not.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Leak {
    /// Where, as the learner can name it.
    pub place: String,
    /// The volume it opens.
    pub part: Part,
    /// Gas lost at `at`, Pa·m³/s (0: this place is tight).
    #[serde(default)]
    pub out: f64,
    /// Pressure at which that was meant, Pa gauge.
    #[serde(default = "usual")]
    pub at: f64,
    /// Air drawn in under vacuum, Pa·m³/s; nothing said: as the hole would let in.
    #[serde(default)]
    pub draws: Option<f64>,
    /// It opens only above this, Pa gauge.
    #[serde(default)]
    pub opens_above: f64,
    /// Pressure from inside pushes it shut: a cap's seal that leaks only under vacuum.
    #[serde(default)]
    pub shut_by_pressure: bool,
}

fn usual() -> f64 {
    300.0 * PSI
}

/// A refrigerant charge that is held back by a valve.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct HeldBack {
    /// Where it comes in.
    pub part: Part,
    /// What passes at first, Pa·m³/s at a difference of 1 MPa; goes with the difference of the squares.
    pub lets_by: f64,
}

/// A running unit that answers its charge.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[schema(as = DrillUnit)]
pub struct Unit {
    /// Charge that is right, kg.
    pub right_kg: f64,
    /// What is in it at the start, kg.
    pub start_kg: f64,
    /// Subcooling at the right charge, K.
    pub subcooling: f64,
    /// Superheat at the right charge and airflow, K.
    pub superheat: f64,
    /// Subcooling gained by a tenth more of charge, K.
    pub per_tenth: f64,
    /// Share of the airflow that is there.
    pub airflow: f64,
}

/// How it stands when the learner comes.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Start {
    /// Filled with nitrogen so long ago, s, to so much, Pa gauge.
    Filled {
        /// Near half and hoses.
        near: f64,
        /// Far half.
        far: f64,
        /// How long ago.
        ago: f64,
    },
    /// Pumped, with so much left, Pa absolute: nitrogen and water vapour.
    Pumped {
        /// Nitrogen and air.
        air: f64,
        /// Water vapour.
        vapour: f64,
    },
    /// Open to the air.
    Open,
}

/// The hidden truth.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(default)]
pub struct PlantTruth {
    /// Temperature of the air at the start, K.
    pub kelvin: f64,
    /// What the air does.
    pub weather: Weather,
    /// Sun on the pipes, K/h above the air.
    pub sun: f64,
    /// The barometer's trend, Pa/h.
    pub barometer: f64,
    /// Volumes of hoses, near half, far half, m³.
    pub volumes: [f64; 3],
    /// Highest pressures of near and far half, Pa gauge; above them they burst.
    pub limits: [f64; 2],
    /// How it stands at the start.
    pub start: Start,
    /// The valve between the halves is open at the start.
    pub between_open: bool,
    /// What it lets by when shut, Pa·m³/s at a difference of 1 MPa.
    pub between_lets_by: f64,
    /// Warming by filling, K for each factor of e in pressure, and how fast it fades, s.
    pub fill: (f64, f64),
    /// Places, leaking and tight.
    pub places: Vec<Leak>,
    /// A charge behind a valve.
    pub held_back: Option<HeldBack>,
    /// Free water in the far half, kg.
    pub free_water: f64,
    /// Bound water, kg, and how slowly it comes off, s.
    pub bound_water: (f64, f64),
    /// Gas dissolved in oil, Pa·m³, and how slowly it comes off, s.
    pub oil_gas: (f64, f64),
    /// Gas off the hoses under vacuum: Pa·m³/s at first, and the pressure at which it would stop, Pa.
    pub hose_gas: (f64, f64),
    /// Lowest pressure of the pump, Pa.
    pub ultimate: f64,
    /// A valve core sits where the hose is.
    pub core_in: bool,
    /// The pump runs at the start, and its valve is open.
    pub pumping: bool,
    /// Volume of the bottle, m³, and pressure in it, Pa gauge.
    pub bottle: (f64, f64),
    /// The bottle is left open at the start, set to this, Pa gauge.
    pub left_open: Option<f64>,
    /// The gauge stands still until it is tapped.
    pub sticks: bool,
    /// The gauge sleeps after so long without a hand on it, s.
    pub sleeps: Option<f64>,
    /// The probe hangs in the air at the start.
    pub probe_in_air: bool,
    /// The gauge shows what is near the pump at the start.
    pub gauge_near: bool,
    /// A logger keeps what the gauge shows while nobody looks.
    pub has_logger: bool,
    /// What still comes out of the oil burns.
    pub flammable: bool,
    /// The unit, where it can run.
    pub unit: Option<Unit>,
    /// Seed of everything random.
    pub seed: u64,
}

impl Default for PlantTruth {
    fn default() -> Self {
        Self {
            kelvin: 294.0,
            weather: Weather::Steady,
            sun: 0.0,
            barometer: 0.0,
            volumes: [0.3e-3, 3.0e-3, 4.0e-3],
            limits: [4.4e6, 4.4e6],
            start: Start::Filled {
                near: 300.0 * PSI,
                far: 300.0 * PSI,
                ago: 3_600.0,
            },
            between_open: true,
            between_lets_by: 0.0,
            fill: (1.4, 200.0),
            places: vec![],
            held_back: None,
            free_water: 0.0,
            bound_water: (0.0, 900.0),
            oil_gas: (0.0, 900.0),
            hose_gas: (2e-6, 200.0),
            ultimate: 30.0 * MICRON,
            core_in: false,
            pumping: false,
            bottle: (10e-3, 13.0e6),
            left_open: None,
            sticks: false,
            sleeps: None,
            probe_in_air: false,
            gauge_near: false,
            has_logger: true,
            flammable: false,
            unit: None,
            seed: 1,
        }
    }
}

impl PlantTruth {
    /// A system pumped down to so many micron of dry gas, its valve still open.
    #[must_use]
    pub fn pumped(air_micron: f64, vapour_micron: f64) -> Self {
        Self {
            start: Start::Pumped {
                air: air_micron * MICRON,
                vapour: vapour_micron * MICRON,
            },
            pumping: true,
            has_logger: true,
            ..Self::default()
        }
    }
}

impl Leak {
    /// A place that is tight.
    #[must_use]
    pub fn none(place: &str, part: Part) -> Self {
        Self {
            place: place.into(),
            part,
            out: 0.0,
            at: usual(),
            draws: None,
            opens_above: 0.0,
            shut_by_pressure: false,
        }
    }
    /// What it leaks into a deep vacuum, Pa·m³/s.
    pub(crate) fn drawn(&self) -> f64 {
        let high = self.at + ATMOSPHERE;
        let as_hole = self.out * ATMOSPHERE.powi(2) / (high * high - ATMOSPHERE.powi(2));
        self.draws
            .unwrap_or(if self.opens_above > 0.0 { 0.0 } else { as_hole })
    }
    /// Whether it leaks at all.
    #[must_use]
    pub fn is_leak(&self) -> bool {
        self.out > 0.0 || self.draws.is_some_and(|d| d > 0.0)
    }
}
