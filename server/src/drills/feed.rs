//! The drill's gauges as loggers: what they showed goes into the tests that run.

use crate::error::ApiError;
use crate::plants::typed;
use crate::service::entry_rows;
use crate::state::AppState;
use ruhe_core::reading::{Channel, Quantity};
use ruhe_drill::Session;
use ruhe_job::log::ReadingLine;
use ruhe_job::state::Test;
use ruhe_sim::plant::{Face, Seen, Sensor};

/// After so long a test is read once a minute, s.
const LONG: f64 = 3_600.0;

/// The gauge that a channel is read from: by what it measures, the first and the second of its kind.
fn face_of(channels: &[Channel], i: usize, faces: &[Face]) -> Option<f64> {
    let c = channels.get(i)?;
    let nth = channels[..i]
        .iter()
        .filter(|o| o.quantity == c.quantity)
        .count();
    let sensor = match (c.quantity, nth) {
        (Quantity::GaugePressure, 0) => Sensor::Pressure,
        (Quantity::GaugePressure, 1) => Sensor::SecondPressure,
        (Quantity::AbsolutePressure, 0) => Sensor::Vacuum,
        (Quantity::Temperature, 0) => Sensor::Probe,
        _ => return None,
    };
    faces.iter().find(|f| f.sensor == sensor)?.value
}

fn lines(
    t: &Test,
    channels: &[Channel],
    seen: &Seen,
    begun_ms: i64,
    received_ms: i64,
) -> Vec<ReadingLine> {
    let at_ms = begun_ms + (seen.at_s * 1e3) as i64;
    (0..channels.len())
        .filter_map(|i| {
            let (typed, value) = typed(&channels[i], face_of(channels, i, &seen.faces)?);
            Some(ReadingLine {
                at_ms,
                id: format!("{}.{}.{i}", t.id, at_ms / 1_000),
                channel: u32::try_from(i).unwrap_or(0),
                typed,
                value,
                origin: "simulated".into(),
                actor: String::new(),
                device: "drill".into(),
                client_ms: None,
                received_ms,
                skewed: false,
            })
        })
        .collect()
}

/// More than this at once was no clock that runs, but something that took its time (two minutes).
const JUMP: usize = 12;

/// Reads what the gauges showed since the last time into every test that runs.
pub(super) fn feed(
    state: &AppState,
    session: &Session,
    fed: &mut usize,
    (circuit, begun_ms): (&str, i64),
) -> Result<(), ApiError> {
    let history = session.plant().history();
    let new = &history[(*fed).min(history.len())..];
    let is_jump = new.len() > JUMP;
    *fed = history.len();
    if new.is_empty() || circuit.is_empty() {
        return Ok(());
    }
    let now = state.now_ms();
    let running: Vec<String> = state.store.write(|tx| {
        let c = state.folded(tx, circuit)?;
        let mut out = vec![];
        for t in c.tests.iter().filter(|t| !t.is_over()) {
            let n = tx.test(&t.id)?.n;
            let channels: Vec<Channel> = t.channels.iter().map(|c| c.channel.clone()).collect();
            let from_s = (t.created_ms - begun_ms) as f64 / 1e3;
            let mut batch = vec![];
            for seen in new
                .iter()
                .filter(|s| s.at_s >= from_s && session.was_seen(s.at_s))
            {
                if seen.at_s - from_s > LONG && seen.at_s % 60.0 > 1e-6 {
                    continue;
                }
                batch.extend(lines(t, &channels, seen, begun_ms, now));
            }
            if !batch.is_empty() {
                tx.add_readings(&entry_rows(n, &batch))?;
                out.push(t.id.clone());
            }
        }
        Ok::<_, ApiError>(out)
    })?;
    for test in &running {
        state.feeds.heard(test);
        // The clock may stand from here on: nothing would come to have it judged later.
        if is_jump {
            state.running.typed(test);
        }
    }
    if let Some(test) = running.first() {
        // Judged outside of what writes; then the index follows.
        state.store.read(|tx| {
            state
                .circuit(tx, circuit, crate::service::Patience::Watched)
                .map(|_| ())
        })?;
        state.store.write(|tx| state.follow(tx, circuit))?;
        state.changed(circuit, Some(test));
    }
    Ok(())
}
