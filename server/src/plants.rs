//! The plants behind simulated gauges, and what a gauge on one shows.

use crate::service::fresh_id;
use ruhe_core::reading::{Channel, EventKind, Kind, Quantity, RigPart};
use ruhe_job::log::ReadingLine;
use ruhe_job::plan::Plan;
use ruhe_job::procedure::BREAK;
use ruhe_sim::{
    HoldPlant, HoldTruth, MICRON, PSI, PullPlant, PullTruth, Shown, VacuumPlant, VacuumTruth,
};
use serde::{Deserialize, Serialize};

/// What is true of a plant: enough to make it again.
#[derive(Debug, Clone, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Truth {
    Hold(HoldTruth),
    Vacuum(VacuumTruth),
    Pull(PullTruth),
}

/// A plant behind simulated gauges.
pub enum Plant {
    Hold(Box<HoldPlant>),
    Vacuum(Box<VacuumPlant>),
    Pull(Box<PullPlant>),
}

impl Plant {
    pub fn show(&mut self, t: f64) -> Vec<Shown> {
        match self {
            Self::Hold(p) => p.show(t),
            Self::Vacuum(p) => vec![p.show(t)],
            Self::Pull(p) => vec![p.show(t)],
        }
    }
}

impl Truth {
    /// The plant at its beginning.
    pub fn plant(&self) -> Plant {
        match self.clone() {
            Self::Hold(t) => Plant::Hold(Box::new(HoldPlant::new(t))),
            Self::Vacuum(t) => Plant::Vacuum(Box::new(VacuumPlant::new(t))),
            Self::Pull(t) => Plant::Pull(Box::new(PullPlant::new(t))),
        }
    }
    /// Kinds of test that [`Self::for_kind`] has a plant for.
    pub fn kinds() -> Vec<Kind> {
        Kind::ALL
            .iter()
            .copied()
            .filter(|k| Self::for_kind(*k, &Plan::default(), 0).is_some())
            .collect()
    }
    /// A plain plant for a test that asks for a simulated gauge: tight, dry, a little settling.
    pub fn for_kind(kind: Kind, plan: &Plan, seed: u64) -> Option<Self> {
        let test_pa = plan.test_pa;
        match kind {
            Kind::PressureHold => {
                let mut truth =
                    HoldPlant::tight(test_pa.unwrap_or(300.0 * PSI) / PSI, 48.0 * 3600.0, seed);
                truth.fill_k = 2.0;
                truth.fill_time = 90.0;
                Some(Self::Hold(truth))
            }
            Kind::VacuumDecay => Some(Self::Vacuum(VacuumTruth::dry(280.0, seed))),
            Kind::PullDown => Some(Self::Pull(PullTruth::dry(5.0, seed))),
            // A pump alone empties a thimble; hoses that have been used for a while give off a little.
            Kind::RigCheck if plan.part == Some(RigPart::Pump) => Some(Self::Pull(PullTruth {
                gas: (2e-5, 0.9),
                ..PullTruth::dry(0.3, seed)
            })),
            Kind::RigCheck => Some(Self::Vacuum(VacuumTruth {
                moisture: 110.0 * MICRON,
                moisture_time: 90.0,
                ..VacuumTruth::dry(60.0, seed)
            })),
            Kind::LeakBy => None,
        }
    }
}

/// What was done by hand on a pump: nitrogen let in, its valve shut or opened.
pub fn act(plant: &mut Plant, event: EventKind) {
    // Only a pump feels what was done by hand.
    let Plant::Pull(pump) = plant else { return };
    match event {
        EventKind::NitrogenBreak => pump.let_in(BREAK.0, LIVE_BREAK),
        EventKind::Isolated | EventKind::PumpOff => pump.shut(true),
        EventKind::PumpOn => pump.shut(false),
        _ => {}
    }
}

/// A simulated break stands for so long, s: nobody who tries it waits five minutes.
const LIVE_BREAK: f64 = 30.0;

/// What a gauge with this channel's digits would print.
pub fn typed(channel: &Channel, si: f64) -> (String, f64) {
    let step = channel.resolution.unwrap_or(0.1).max(1e-6);
    let decimals = (-step.log10()).ceil().clamp(0.0, 6.0) as usize;
    let shown = (channel.unit.of_si(si) / step).round() * step;
    let text = format!("{shown:.decimals$}");
    let value = text.parse().unwrap_or_default();
    (text, value)
}

/// Readings of a plant at `t` seconds after `start_ms`.
pub fn readings(
    plant: &mut Plant,
    channels: &[Channel],
    start_ms: i64,
    t: f64,
    received_ms: i64,
) -> Vec<ReadingLine> {
    let index = |want: &dyn Fn(&Channel) -> bool, k: usize| {
        let mut found = (0..channels.len()).filter(|i| want(&channels[*i]));
        found.nth(k)
    };
    let is_pressure = |c: &Channel| {
        matches!(
            c.quantity,
            Quantity::GaugePressure | Quantity::AbsolutePressure
        )
    };
    let is_probe = |c: &Channel| c.quantity == Quantity::Temperature;
    plant
        .show(t)
        .into_iter()
        .filter_map(|s| {
            let i = match s.gauge {
                0 => index(&is_pressure, 0)?,
                probe => index(&is_probe, probe - 1)?,
            };
            let (typed, value) = typed(&channels[i], s.value);
            Some(ReadingLine {
                at_ms: start_ms + (t * 1e3).round() as i64,
                id: fresh_id(),
                channel: u32::try_from(i).unwrap_or(0),
                typed,
                value,
                origin: "simulated".into(),
                actor: String::new(),
                device: "simulated gauge".into(),
                client_ms: None,
                received_ms,
                skewed: false,
            })
        })
        .collect()
}
