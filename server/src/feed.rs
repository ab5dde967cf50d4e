//! Simulated gauges that post into a running test once a second: stand-ins for radio gauges, they ship with Ruhe.

use crate::error::ApiError;
use crate::service::{entry_rows, fresh_id, now_ms};
use crate::state::AppState;
use ruhe_core::reading::{Channel, EventKind, Kind, Quantity, RigPart};
use ruhe_job::log::ReadingLine;
use ruhe_job::plan::Plan;
use ruhe_job::procedure::BREAK;
use ruhe_job::state::Test;
use ruhe_sim::{HoldPlant, MICRON, PSI, PullPlant, PullTruth, Shown, VacuumPlant, VacuumTruth};
use ruhe_store::StoreError;
use std::time::Duration;

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
            Kind::RigCheck if plan.part == Some(RigPart::Pump) => {
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
fn act(pump: &mut PullPlant, event: EventKind) {
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
fn typed(channel: &Channel, si: f64) -> (String, f64) {
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

/// What was done on a test since the last look, in the order of time.
fn done_since(state: &AppState, circuit: &str, test: &str, known: usize) -> Vec<EventKind> {
    let events = state.store.read(|tx| {
        let c = state.folded(tx, circuit)?;
        let of = c.test(test).map_or_else(Vec::new, |t| {
            t.events.iter().map(|(_, e)| e.event).collect()
        });
        Ok::<_, ApiError>(of)
    });
    events.unwrap_or_default().into_iter().skip(known).collect()
}

/// Stores what a gauge sent. `false`: the test takes no more.
fn keep(state: &AppState, test: &str, batch: &[ReadingLine]) -> Result<bool, ApiError> {
    let stored = state.store.write(|tx| {
        let n = tx.test(test)?.n;
        tx.add_readings(&entry_rows(n, batch))
    });
    match stored {
        Ok(_) => Ok(true),
        Err(StoreError::Closed(_)) => Ok(false),
        Err(e) => Err(e.into()),
    }
}

/// Today shows whether a gauge is listened to.
fn follow(state: &AppState, circuit: &str) {
    let followed = state.store.write(|tx| {
        if state.folded(tx, circuit)?.is_signed() {
            return Ok(());
        }
        state.follow(tx, circuit)
    });
    if let Err(e) = followed {
        tracing::error!(%e, circuit, "the index was not renewed");
    }
}

/// Listens to `plant` on a test until it ends or is stopped. Nothing happens if one is listening already.
pub fn listen(state: &AppState, circuit: &str, test: &Test, mut plant: Plant, start_ms: i64) {
    if !state.feeds.start(&test.id) {
        return;
    }
    follow(state, circuit);
    let channels: Vec<Channel> = test.channels.iter().map(|c| c.channel.clone()).collect();
    let (state, circuit, test) = (state.clone(), circuit.to_owned(), test.id.clone());
    actix_web::rt::spawn(async move {
        let mut tick = tokio::time::interval(Duration::from_secs(1));
        let mut acted = 0;
        while state.feeds.is_on(&test) {
            tick.tick().await;
            let now = now_ms();
            let t = (now - start_ms) as f64 / 1e3;
            if t < 0.0 {
                continue;
            }
            // Only a pump feels what was done by hand; nothing is looked up for the others.
            if let Plant::Pull(pump) = &mut plant {
                let (c, id) = (circuit.clone(), test.clone());
                let done = state.work(move |s| Ok(done_since(s, &c, &id, acted))).await;
                for event in done.unwrap_or_default() {
                    act(pump, event);
                    acted += 1;
                }
            }
            let batch = readings(&mut plant, &channels, start_ms, t, now);
            let id = test.clone();
            match state.work(move |s| keep(s, &id, &batch)).await {
                Ok(true) => {
                    state.waiting.note(&circuit, false);
                    state.changed(&circuit, Some(&test));
                }
                Ok(false) => break,
                Err(e) => {
                    tracing::error!(%e, "simulated gauge stopped");
                    break;
                }
            }
        }
        state.feeds.stop(&test);
        let c = circuit.clone();
        let _ = state
            .work(move |s| {
                follow(s, &c);
                Ok(())
            })
            .await;
        state.changed(&circuit, Some(&test));
    });
}
