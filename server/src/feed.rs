//! Simulated gauges that post into a running test once a second: stand-ins for radio gauges, they ship with Ruhe.

use crate::error::ApiError;
use crate::state::{AppState, fresh_id, now_ms};
use crate::wire::Plan;
use ruhe_core::procedure::BREAK;
use ruhe_core::quantity::Unit;
use ruhe_core::reading::{EventKind, Kind, Quantity};
use ruhe_sim::{HoldPlant, MICRON, PSI, PullPlant, PullTruth, Shown, VacuumPlant, VacuumTruth};
use ruhe_store::{StoreError, rows};
use std::collections::HashSet;
use std::sync::Mutex;
use std::time::Duration;

/// Tests a simulated gauge is listening on.
#[derive(Default)]
pub struct Feeds(Mutex<HashSet<String>>);

impl Feeds {
    pub fn is_on(&self, test: &str) -> bool {
        self.0.lock().is_ok_and(|s| s.contains(test))
    }
    fn start(&self, test: &str) -> bool {
        self.0.lock().is_ok_and(|mut s| s.insert(test.into()))
    }
    pub fn stop(&self, test: &str) {
        if let Ok(mut s) = self.0.lock() {
            s.remove(test);
        }
    }
}

/// A plant behind simulated gauges.
pub enum Plant {
    Hold(Box<HoldPlant>),
    Vacuum(Box<VacuumPlant>),
    Pull(Box<PullPlant>),
}

impl Plant {
    fn show(&mut self, t: f64) -> Vec<Shown> {
        match self {
            Self::Hold(p) => p.show(t),
            Self::Vacuum(p) => vec![p.show(t)],
            Self::Pull(p) => vec![p.show(t)],
        }
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
                Some(Self::Hold(Box::new(HoldPlant::new(truth))))
            }
            Kind::VacuumDecay => Some(Self::Vacuum(Box::new(VacuumPlant::new(VacuumTruth::dry(
                280.0, seed,
            ))))),
            Kind::PullDown => Some(Self::Pull(Box::new(PullPlant::new(PullTruth::dry(
                5.0, seed,
            ))))),
            // A pump alone empties a thimble; hoses that have been used for a while give off a little.
            Kind::RigCheck if plan.part.as_deref() == Some("pump") => {
                Some(Self::Pull(Box::new(PullPlant::new(PullTruth {
                    gas: (2e-5, 0.9),
                    ..PullTruth::dry(0.3, seed)
                }))))
            }
            Kind::RigCheck => Some(Self::Vacuum(Box::new(VacuumPlant::new(VacuumTruth {
                moisture: 110.0 * MICRON,
                moisture_time: 90.0,
                ..VacuumTruth::dry(60.0, seed)
            })))),
            Kind::LeakBy => None,
        }
    }
}

/// What was done by hand on a pump: nitrogen let in, its valve shut or opened.
fn act(pump: &mut PullPlant, event: &str) {
    match EventKind::from_code(event) {
        Some(EventKind::NitrogenBreak) => pump.let_in(BREAK.0, LIVE_BREAK),
        Some(EventKind::Isolated | EventKind::PumpOff) => pump.shut(true),
        Some(EventKind::PumpOn) => pump.shut(false),
        _ => {}
    }
}

/// A simulated break stands for so long, s: nobody who tries it waits five minutes.
const LIVE_BREAK: f64 = 30.0;

/// What a gauge with this channel's digits would print.
fn typed(channel: &rows::Channel, si: f64) -> (String, f64) {
    let unit = Unit::from_code(&channel.unit).unwrap_or(Unit::Pa);
    let step = channel.resolution.unwrap_or(0.1).max(1e-6);
    let decimals = (-step.log10()).ceil().clamp(0.0, 6.0) as usize;
    let text = format!("{:.decimals$}", (unit.of_si(si) / step).round() * step);
    let value = text.parse().unwrap_or_default();
    (text, value)
}

/// Readings of a plant at `t` seconds after `start_ms`, as rows.
pub fn readings(
    plant: &mut Plant,
    channels: &[rows::Channel],
    test: &str,
    start_ms: i64,
    t: f64,
    received_ms: i64,
) -> Vec<rows::Reading> {
    let pressure = channels.iter().find(|c| {
        c.quantity == Quantity::GaugePressure.code()
            || c.quantity == Quantity::AbsolutePressure.code()
    });
    let probes: Vec<&rows::Channel> = channels
        .iter()
        .filter(|c| c.quantity == Quantity::Temperature.code())
        .collect();
    plant
        .show(t)
        .into_iter()
        .filter_map(|s| {
            let channel = if s.gauge == 0 {
                pressure?
            } else {
                probes.get(s.gauge - 1)?
            };
            let (typed, value) = typed(channel, s.value);
            let at_ms = start_ms + (t * 1e3).round() as i64;
            Some(rows::Reading {
                id: fresh_id(),
                test_id: test.into(),
                channel_id: channel.id.clone(),
                at_ms,
                typed,
                value,
                origin: "simulated".into(),
                client_ms: None,
                received_ms,
                skewed: false,
            })
        })
        .collect()
}

/// Listens to `plant` on a test until it ends or is stopped. Nothing happens if one is listening already.
pub fn listen(
    state: &AppState,
    test: &rows::Test,
    mut plant: Plant,
    start_ms: i64,
) -> Result<(), ApiError> {
    if !state.feeds.start(&test.id) {
        return Ok(());
    }
    let channels = state.store.channels(&test.id)?;
    let (state, test) = (state.clone(), test.clone());
    actix_web::rt::spawn(async move {
        let mut tick = tokio::time::interval(Duration::from_secs(1));
        let mut acted = 0;
        while state.feeds.is_on(&test.id) {
            tick.tick().await;
            let now = now_ms();
            let t = (now - start_ms) as f64 / 1e3;
            if t < 0.0 {
                continue;
            }
            // Only a pump feels what was done by hand; nothing is looked up for the others.
            if let Plant::Pull(pump) = &mut plant {
                let of = test.id.clone();
                let events = state
                    .work(move |s| Ok(s.store.events(&of)?))
                    .await
                    .unwrap_or_default();
                events.iter().skip(acted).for_each(|e| act(pump, &e.kind));
                acted = events.len();
            }
            let batch = readings(&mut plant, &channels, &test.id, start_ms, t, now);
            let stored = state
                .work(move |s| match s.store.add_readings(&batch) {
                    Err(StoreError::Closed(_)) => Ok(false),
                    other => other.map(|_| true).map_err(Into::into),
                })
                .await;
            match stored {
                Ok(true) => state.changed(&test.circuit_id, Some(&test.id)),
                Ok(false) => break,
                Err(e) => {
                    tracing::error!(%e, "simulated gauge stopped");
                    break;
                }
            }
        }
        state.feeds.stop(&test.id);
        state.changed(&test.circuit_id, Some(&test.id));
    });
    Ok(())
}
