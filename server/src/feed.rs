//! Simulated gauges: how they are let in. They send through the gauges' door like any
//! other.

use crate::error::ApiError;
use crate::gauge::SimulatedGauge;
use crate::people::Secret;
use crate::plants::Truth;
use crate::service::{fresh_id, now_ms};
use crate::state::AppState;
use ruhe_job::state::Test;
use ruhe_store::{StoreError, rows};
use std::sync::atomic::Ordering;
use std::time::Duration;

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
