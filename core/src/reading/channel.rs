//! A channel: one gauge or probe at one place.

use crate::quantity::{Dimension, Unit};

use crate::named;
use serde::{Deserialize, Serialize};

named! {
    /// What a channel measures.
    Quantity {
        /// Pressure above the atmosphere.
        GaugePressure = "gauge_pressure",
        /// Pressure above a vacuum.
        AbsolutePressure = "absolute_pressure",
        /// The air's own pressure.
        BarometricPressure = "barometric_pressure",
        /// Temperature.
        Temperature = "temperature",
    }
}

named! {
    /// Where a channel sits.
    Position {
        /// High (liquid) side.
        High = "high",
        /// Low (vapour) side.
        Low = "low",
        /// At the pump.
        NearPump = "near_pump",
        /// At the end far from the pump.
        Far = "far",
        /// First half of a leak-by test.
        HalfA = "half_a",
        /// Second half of a leak-by test.
        HalfB = "half_b",
        /// Indoor coil.
        Indoor = "indoor",
        /// Line set.
        Line = "line",
        /// Outdoor unit.
        Outdoor = "outdoor",
        /// The air around.
        Ambient = "ambient",
    }
}

named! {
    /// How a pressure gauge refers to the atmosphere.
    Reference {
        /// Vented: follows the weather.
        Vented = "vented",
        /// Sealed: does not.
        Sealed = "sealed",
    }
}

named! {
    /// How a vacuum gauge measures.
    Principle {
        /// By heat loss: depends on the gas.
        Thermal = "thermal",
        /// By a diaphragm: does not.
        Diaphragm = "diaphragm",
    }
}

/// The extra column with the day a calibration runs out (ISO 8601).
pub const CALIBRATION_DUE: &str = "calibration_due";

/// One gauge or probe.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Channel {
    /// Name, unique within the test.
    pub name: String,
    /// What it measures.
    pub quantity: Quantity,
    /// Unit of its readings.
    pub unit: Unit,
    /// Smallest step shown, in that unit.
    pub resolution: Option<f64>,
    /// Accuracy, in that unit.
    pub accuracy: Option<f64>,
    /// Top of its range, in that unit.
    pub range: Option<f64>,
    /// Where it sits.
    pub position: Option<Position>,
    /// Share of the volume it stands for, 0…1.
    pub volume_share: Option<f64>,
    /// Vented or sealed (gauges).
    pub reference: Option<Reference>,
    /// Thermal or diaphragm (vacuum gauges).
    pub principle: Option<Principle>,
    /// Columns Ruhe does not know, kept as they came.
    pub extra: Vec<(String, String)>,
}

impl Channel {
    /// A channel with nothing but what it must have.
    #[must_use]
    pub fn new(name: &str, quantity: Quantity, unit: Unit) -> Self {
        Self {
            name: name.into(),
            quantity,
            unit,
            resolution: None,
            accuracy: None,
            range: None,
            position: None,
            volume_share: None,
            reference: None,
            principle: None,
            extra: Vec::new(),
        }
    }

    /// Why this unit cannot stand for this quantity, if so.
    #[must_use]
    pub fn unit_misfit(quantity: Quantity, unit: Unit) -> Option<String> {
        let info = unit.info();
        let ok = match quantity {
            Quantity::Temperature => info.dimension == Dimension::Temperature,
            Quantity::GaugePressure => {
                info.dimension == Dimension::Pressure && info.gauge != Some(false)
            }
            Quantity::AbsolutePressure | Quantity::BarometricPressure => {
                info.dimension == Dimension::Pressure && info.gauge != Some(true)
            }
        };
        (!ok).then(|| {
            format!(
                "{} is not a unit of {}",
                info.code,
                quantity.code().replace('_', " ")
            )
        })
    }

    /// A reading as SI: Pa gauge, Pa absolute, or K. Dial vacuum in inHg on a gauge counts downwards.
    #[must_use]
    pub fn to_si(&self, value: f64) -> f64 {
        let (factor, offset) = self.scale();
        value * factor + offset
    }

    /// Factor and offset from its unit to SI, for many readings at once.
    #[must_use]
    pub fn scale(&self) -> (f64, f64) {
        let info = self.unit.info();
        match (self.quantity, self.unit) {
            (Quantity::GaugePressure, Unit::InHg) => (-info.factor, -info.offset),
            _ => (info.factor, info.offset),
        }
    }

    /// Top of the range above an atmosphere of `air` (Pa), Pa gauge, if stated.
    #[must_use]
    pub fn range_above_air(&self, air: f64) -> Option<f64> {
        let top = self.to_si(self.range?);
        Some(if self.quantity == Quantity::AbsolutePressure {
            top - air
        } else {
            top
        })
    }

    /// Smallest step in SI, if stated.
    #[must_use]
    pub fn resolution_si(&self) -> Option<f64> {
        self.resolution.map(|r| self.unit.delta_to_si(r))
    }

    /// Stated accuracy in SI.
    #[must_use]
    pub fn accuracy_si(&self) -> Option<f64> {
        self.accuracy.map(|a| self.unit.delta_to_si(a))
    }

    /// Day its calibration runs out, if the extra column `calibration_due` holds a date.
    #[must_use]
    pub fn calibration_due(&self) -> Option<jiff::civil::Date> {
        self.extra
            .iter()
            .find(|(n, _)| n == CALIBRATION_DUE)
            .and_then(|(_, v)| v.trim().parse().ok())
    }

    /// Whether it is a pressure of the system (not the air's).
    #[must_use]
    pub fn is_system_pressure(&self) -> bool {
        matches!(
            self.quantity,
            Quantity::GaugePressure | Quantity::AbsolutePressure
        )
    }
}
