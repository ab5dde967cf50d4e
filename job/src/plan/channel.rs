//! A channel as a person or a file describes it.

use crate::refusal::Refusal;
use ruhe_core::quantity::Unit;
use ruhe_core::reading::{CALIBRATION_DUE, Channel, Position, Principle, Quantity, Reference};
use serde::{Deserialize, Serialize};

/// A channel of a test that is planned.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ChannelInput {
    /// Name on screen.
    pub name: String,
    /// What it measures.
    pub quantity: Quantity,
    /// Unit its readings are typed in.
    pub unit: Unit,
    /// Smallest step, in that unit.
    pub resolution: Option<f64>,
    /// Accuracy, in that unit.
    pub accuracy: Option<f64>,
    /// Top of its range, in that unit.
    pub range: Option<f64>,
    /// Where it sits.
    pub position: Option<Position>,
    /// Share of the volume it stands for.
    pub volume_share: Option<f64>,
    /// Vented or sealed.
    pub reference: Option<Reference>,
    /// By heat loss or a diaphragm.
    pub principle: Option<Principle>,
    /// Day its calibration runs out, ISO 8601.
    pub calibration_due: Option<String>,
}

impl ChannelInput {
    /// A gauge or probe of which nothing else is said.
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
            calibration_due: None,
        }
    }
    /// Core's channel.
    ///
    /// # Errors
    /// What cannot be, with its field.
    pub fn parse(&self) -> Result<Channel, Refusal> {
        let (quantity, unit) = (self.quantity, self.unit);
        if let Some(misfit) = Channel::unit_misfit(quantity, unit) {
            return Err(Refusal::wrong("unit", misfit));
        }
        if self.name.trim().is_empty() || self.name.len() > 80 {
            return Err(Refusal::wrong(
                "name",
                "a channel needs a name of at most 80 letters",
            ));
        }
        for (name, v) in [
            ("resolution", self.resolution),
            ("accuracy", self.accuracy),
            ("range", self.range),
        ] {
            if v.is_some_and(|v| !(v.is_finite() && v > 0.0)) {
                return Err(Refusal::wrong(
                    name,
                    format!("the {name} must be above zero"),
                ));
            }
        }
        if self.volume_share.is_some_and(|v| !(0.0..=1.0).contains(&v)) {
            return Err(Refusal::wrong(
                "volume_share",
                "a share of the volume lies between 0 and 1",
            ));
        }
        let due = self
            .calibration_due
            .as_deref()
            .map(str::trim)
            .filter(|d| !d.is_empty());
        if let Some(d) = due.filter(|d| d.parse::<jiff::civil::Date>().is_err()) {
            return Err(Refusal::wrong(
                "calibration_due",
                format!("“{d}” is not a date such as 2027-03-31"),
            ));
        }
        Ok(Channel {
            extra: due
                .map(|d| (CALIBRATION_DUE.to_owned(), d.to_owned()))
                .into_iter()
                .collect(),
            resolution: self.resolution,
            accuracy: self.accuracy,
            range: self.range,
            position: self.position,
            volume_share: self.volume_share,
            reference: self.reference,
            principle: self.principle,
            ..Channel::new(self.name.trim(), quantity, unit)
        })
    }
}
