//! What gauges show: on a grid in time, with noise, digits and faults of their own.

use super::{DrillPlant, Part, PlantTruth};
use crate::gauge::{Gauge, InUse, normal};
use crate::{MICRON, PSI};
use rand::SeedableRng;
use rand_chacha::ChaCha8Rng;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// Gauges show anew every so many seconds.
pub const EVERY: f64 = 5.0;

/// A gauge of the drill.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Sensor {
    /// Pressure gauge on hoses or system, Pa gauge.
    Pressure,
    /// A second one beyond the valve, Pa gauge.
    SecondPressure,
    /// Vacuum gauge, Pa absolute.
    Vacuum,
    /// Temperature probe, K.
    Probe,
    /// Barometer, Pa absolute; shows once it was read.
    Barometer,
    /// Scale under the cylinder, kg taken from it.
    Scale,
    /// Of the running unit: suction and liquid pressure, Pa gauge.
    Suction,
    /// Liquid pressure, Pa gauge.
    Liquid,
    /// Temperature of the suction line, K.
    SuctionLine,
    /// Temperature of the liquid line, K.
    LiquidLine,
}

/// What a gauge shows now.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Face {
    /// Which.
    pub sensor: Sensor,
    /// SI; nothing where it is dark.
    pub value: Option<f64>,
    /// Smallest step it shows, SI.
    pub step: f64,
}

#[derive(Debug, Clone)]
pub(super) struct Sensors {
    pressure: InUse,
    second: InUse,
    probe: InUse,
    wander: f64,
    rng: ChaCha8Rng,
    sun: f64,
    pub is_near: bool,
    pub has_second: bool,
    pub probe_in_air: bool,
    pub is_shaded: bool,
    pub barometer_read: bool,
    /// The needle stands at this until it is tapped.
    stuck: Option<f64>,
    pub touched: f64,
    pub shows: Vec<Face>,
}

impl Sensors {
    pub fn new(truth: &PlantTruth) -> Self {
        let mut rng = ChaCha8Rng::seed_from_u64(truth.seed ^ 0x9a9e);
        let gauge = Gauge {
            digit: 0.1 * PSI,
            wander: 0.04 * PSI,
            wander_time: 200.0,
            fast: 0.03 * PSI,
            per_kelvin: 0.04 * PSI,
            sun: 0.0,
        };
        let probe = Gauge {
            fast: 0.03,
            ..Gauge::ideal(0.1 / 1.8)
        };
        Self {
            pressure: InUse::new(gauge, &mut rng),
            second: InUse::new(gauge, &mut rng),
            probe: InUse::new(probe, &mut rng),
            wander: 0.0,
            rng,
            sun: 0.0,
            is_near: truth.gauge_near,
            has_second: false,
            probe_in_air: truth.probe_in_air,
            is_shaded: truth.sun == 0.0,
            barometer_read: false,
            stuck: None,
            touched: 0.0,
            shows: vec![],
        }
    }
    /// Somebody tapped or woke it.
    pub fn touch(&mut self, t: f64) {
        (self.stuck, self.touched) = (None, t);
    }
}

impl DrillPlant {
    /// What the gauges show, as last renewed on their grid.
    #[must_use]
    pub fn faces(&self) -> &[Face] {
        &self.sensors.shows
    }

    /// Renews what the gauges show.
    pub(super) fn look_at_gauges(&mut self) {
        let (t, outside) = (self.t, self.outside());
        let at = if self.sensors.is_near && self.hoses_in {
            Part::Hoses
        } else if self.between_open {
            Part::Far
        } else {
            Part::Near
        };
        let (p, second) = (self.pressure(at), self.pressure(Part::Far));
        let metal = self.metal[1];
        let air = self.air.temperature(t);
        let s = &mut self.sensors;
        // A gauge in the sun is warmer than the pipe; its zero goes with it.
        s.sun = if s.is_shaded {
            0.0
        } else {
            self.truth.sun.signum() * 6.0 * (1.0 - (-t / 900.0).exp())
        };
        let mut out = vec![];
        let fresh = s.pressure.show(p - outside, t, s.sun, &mut s.rng);
        let shown = if self.truth.sticks {
            *s.stuck.get_or_insert(fresh)
        } else {
            fresh
        };
        let sleeps = self.truth.sleeps.is_some_and(|after| t - s.touched > after);
        let face = |sensor, value: Option<f64>, step| Face {
            sensor,
            value,
            step,
        };
        out.push(face(
            Sensor::Pressure,
            (!sleeps && p > 60_000.0).then_some(shown),
            0.1 * PSI,
        ));
        let other = s.second.show(second - outside, t, s.sun, &mut s.rng);
        if s.has_second {
            out.push(face(Sensor::SecondPressure, Some(other), 0.1 * PSI));
        }
        s.wander += 0.0012 * (EVERY / 60.0).sqrt() * normal(&mut s.rng);
        let noisy = p * (1.0 + s.wander + 0.004 * normal(&mut s.rng));
        let micron = (noisy / MICRON).round() * MICRON;
        out.push(face(
            Sensor::Vacuum,
            (!sleeps && p < 25_000.0 * MICRON).then_some(micron),
            MICRON,
        ));
        let feels = if s.probe_in_air { air } else { metal };
        out.push(face(
            Sensor::Probe,
            Some(s.probe.show(feels, t, 0.0, &mut s.rng)),
            0.1 / 1.8,
        ));
        if s.barometer_read {
            out.push(face(
                Sensor::Barometer,
                Some((outside / 10.0).round() * 10.0),
                10.0,
            ));
        }
        self.sensors.shows = out;
        self.look_at_unit(air, outside);
    }

    /// A running unit: what superheat and subcooling do as charge and time have it.
    fn look_at_unit(&mut self, air: f64, outside: f64) {
        let Some(u) = self.truth.unit else { return };
        let grams = (self.charge - u.start_kg) * 1e3;
        let step = 5e-3;
        let taken = (grams / 5.0).round() * step;
        self.sensors.shows.push(Face {
            sensor: Sensor::Scale,
            value: Some(taken),
            step,
        });
        let Some(started) = self.started else { return };
        let ran = ((self.t - started) / 60.0).max(0.0);
        // Subcooling comes late and then quickly, superheat falls as the coil fills (shape chosen, no source).
        let come = 1.0 - (-(ran / 5.6).powf(1.775)).exp();
        let off = self.charge / u.right_kg - 1.0;
        let subcooling = ((u.subcooling + 10.0 * off * u.per_tenth) * come).max(0.0);
        let superheat =
            (u.superheat - 40.0 * off - 12.0 * (1.0 - u.airflow) + 9.0 * (1.0 - come)).max(0.0);
        let boils = air - 14.0 - 10.0 * (1.0 - u.airflow);
        let condenses = air + 16.0 + 30.0 * off.max(0.0);
        let saturation = super::gas::refrigerant_saturation;
        let s = &mut self.sensors;
        let mut noise = |size: f64| size * normal(&mut s.rng);
        let rounded = |x: f64, step: f64| (x / step).round() * step;
        let (psi, tenth) = (0.1 * PSI, 0.1 / 1.8);
        let faces = [
            (
                Sensor::Suction,
                saturation(boils) - outside + noise(0.2 * PSI),
                psi,
            ),
            (
                Sensor::Liquid,
                saturation(condenses) - outside + noise(0.3 * PSI),
                psi,
            ),
            (Sensor::SuctionLine, boils + superheat + noise(0.05), tenth),
            (
                Sensor::LiquidLine,
                condenses - subcooling + noise(0.05),
                tenth,
            ),
        ];
        for (sensor, value, step) in faces {
            self.sensors.shows.push(Face {
                sensor,
                value: Some(rounded(value, step)),
                step,
            });
        }
    }
}
