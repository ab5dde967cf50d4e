//! Simulated gauges: the plants behind them, and how they are let in. They send through the gauges' door like any
//! other.

use crate::error::ApiError;
use crate::gauge::SimulatedGauge;
use crate::people::Secret;
use crate::service::{fresh_id, now_ms};
use crate::state::AppState;
use ruhe_core::reading::{Channel, EventKind, Kind, Quantity, RigPart};
use ruhe_job::log::ReadingLine;
use ruhe_job::plan::Plan;
use ruhe_job::procedure::BREAK;
use ruhe_job::state::Test;
use ruhe_sim::{
    HoldPlant, HoldTruth, MICRON, PSI, PullPlant, PullTruth, Shown, VacuumPlant, VacuumTruth,
};
use ruhe_store::{StoreError, rows};
use serde::{Deserialize, Serialize};
use std::sync::atomic::Ordering;
use std::time::Duration;

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

/// Today shows whether a gauge is listened to.
pub fn follow(state: &AppState, circuit: &str) {
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

/// Lets a simulated gauge in, binds it to every channel of a test, and lets it send: now, and again after a restart.
///
/// # Errors
/// Database trouble.
pub fn listen(
    state: &AppState,
    circuit: &str,
    test: &Test,
    truth: &Truth,
    start_ms: i64,
) -> Result<(), ApiError> {
    let secret = Secret::fresh()?;
    let json = serde_json::to_string(truth).map_err(|e| ApiError::Inside(e.to_string()))?;
    let id = fresh_id();
    let begun = state.store.write(|tx| {
        let n = tx.test(&test.id)?.n;
        if tx.simulated(n)?.is_some() {
            return Ok::<_, ApiError>(false);
        }
        tx.add_gauge(&rows::Gauge {
            id: id.clone(),
            name: format!("simulated, {} ({})", test.title, &id[..8]),
            token: secret.kept.clone(),
            made_by: String::new(),
            made_ms: now_ms(),
            seen_ms: None,
            is_simulated: true,
            is_out: false,
        })?;
        for (i, _) in test.channels.iter().enumerate() {
            tx.bind(&rows::Binding {
                gauge: id.clone(),
                source: source(i),
                test: n,
                channel: i32::try_from(i).unwrap_or(0),
            })?;
        }
        tx.add_simulated(&rows::Simulated {
            test: n,
            gauge: id.clone(),
            truth: json.clone(),
            start_ms,
        })?;
        Ok(true)
    })?;
    if begun {
        send(state, circuit, test, truth.clone(), start_ms, secret.text);
        follow(state, circuit);
    }
    Ok(())
}

/// What a simulated gauge calls its sensor for a channel.
fn source(channel: usize) -> String {
    format!("c{channel}")
}

/// Begins to send, as a client of the door.
fn send(state: &AppState, circuit: &str, test: &Test, truth: Truth, start_ms: i64, token: String) {
    let sources = test
        .channels
        .iter()
        .enumerate()
        .map(|(i, c)| (source(i), c.channel.clone()))
        .collect();
    let (state, id, circuit) = (state.clone(), test.id.clone(), circuit.to_owned());
    let stop = state.feeds.start(&test.id);
    std::thread::spawn(move || {
        // It may have been begun before Ruhe listens.
        let url = loop {
            if stop.load(Ordering::Relaxed) {
                return;
            }
            match state.door.get() {
                Some(url) => break url.clone(),
                None => std::thread::sleep(Duration::from_millis(50)),
            }
        };
        let gauge = SimulatedGauge {
            url,
            token,
            truth,
            start_ms,
            sources,
            root: None,
        };
        if let Err(e) = gauge.run(&stop) {
            tracing::warn!(%e, test = id, "a simulated gauge stopped");
        }
        follow(&state, &circuit);
        state.changed(&circuit, Some(&id));
    });
}

/// The simulated gauge of a test goes, if it has one.
///
/// # Errors
/// Database trouble.
pub fn stop_simulated(state: &AppState, test: &str) -> Result<(), ApiError> {
    state.feeds.stop(test);
    state.store.write(|tx| {
        let n = match tx.test(test) {
            Ok(row) => row.n,
            Err(StoreError::Missing(_)) => return Ok(()),
            Err(e) => return Err(e.into()),
        };
        if let Some(s) = tx.simulated(n)? {
            tx.end_simulated(n)?;
            tx.shut_gauge_out(&s.gauge)?;
        }
        Ok(())
    })
}

/// Lets no gauge be read into a test any more; a simulated one goes.
///
/// # Errors
/// If there is no such test.
pub fn unlisten(state: &AppState, test: &str) -> Result<(), ApiError> {
    stop_simulated(state, test)?;
    state.store.write(|tx| {
        let n = tx.test(test)?.n;
        Ok(tx.unbind(n, None)?)
    })
}

/// Simulated gauges go on where they were when Ruhe was stopped. Each gets a new token: the old one was kept by nobody.
///
/// # Errors
/// Database trouble.
pub fn resume(state: &AppState) -> Result<(), ApiError> {
    let all = state
        .store
        .read(|tx| Ok::<_, ApiError>(tx.all_simulated()?))?;
    for (s, test) in all {
        if state.feeds.is_sending(&test.id) {
            continue;
        }
        if !test.is_open {
            stop_simulated(state, &test.id)?;
            continue;
        }
        let Ok(truth) = serde_json::from_str::<Truth>(&s.truth) else {
            continue;
        };
        let secret = Secret::fresh()?;
        state
            .store
            .write(|tx| Ok::<_, ApiError>(tx.renew_gauge(&s.gauge, &secret.kept)?))?;
        // A circuit that cannot be read keeps no other from going on.
        let c = match state.shown(&test.circuit) {
            Ok(shown) => shown.circuit,
            Err(e) => {
                tracing::error!(%e, circuit = test.circuit, "its simulated gauge does not go on");
                continue;
            }
        };
        let t = c.must_have(&test.id)?;
        send(state, &test.circuit, t, truth, s.start_ms, secret.text);
    }
    Ok(())
}
