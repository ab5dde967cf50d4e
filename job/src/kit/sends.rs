//! Which channels of a test are read by gauges of the kit that send by themselves.

use super::{KitDoc, KitKind};
use crate::log::PlannedChannel;
use ruhe_core::reading::Quantity;
use serde::{Deserialize, Serialize};

/// How a thing of the kit sends: the gauge that was let in, and which of its sensors it is.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct SentBy {
    /// Id of the gauge.
    pub gauge: String,
    /// Name of its sensor.
    pub source: String,
}

impl KitKind {
    /// What a thing of this kind reads.
    fn reads(self) -> Option<Quantity> {
        match self {
            Self::VacuumGauge => Some(Quantity::AbsolutePressure),
            Self::PressureGauge => Some(Quantity::GaugePressure),
            Self::Probe => Some(Quantity::Temperature),
            _ => None,
        }
    }
}

/// The channels, by their place, that things in use send into. Only what leaves no choice: with two probes and two
/// channels of a temperature nobody knows which is where, and a person says it.
#[must_use]
pub fn sent_into(used: &[KitDoc], channels: &[PlannedChannel]) -> Vec<(usize, SentBy)> {
    let fits = |d: &KitDoc, c: &PlannedChannel| {
        d.kind.reads() == Some(c.channel.quantity) && d.unit == Some(c.channel.unit)
    };
    let alone = |d: &KitDoc, c: &PlannedChannel| {
        used.iter().filter(|d| fits(d, c)).count() == 1
            && channels.iter().filter(|c| fits(d, c)).count() == 1
    };
    channels
        .iter()
        .enumerate()
        .filter_map(|(i, c)| {
            let d = used.iter().find(|d| fits(d, c) && alone(d, c))?;
            Some((i, d.sends.clone()?))
        })
        .collect()
}
