//! A stored test as core's recording, and a recording as rows.

use super::plan::{Plan, channel_row};
use crate::error::ApiError;
use crate::state::{fresh_id, now_ms};
use ruhe_core::quantity::Unit;
use ruhe_core::reading::{
    Channel, Event, EventKind, Kind, Position, Principle, Quantity, Reading, Recording, Reference,
};
use std::sync::atomic::{AtomicI64, Ordering};

use ruhe_store::{Store, StoreError, Value, rows};

fn channel_of(row: &rows::Channel) -> Result<Channel, ApiError> {
    let broken = || ApiError::Inside(format!("channel {} in the database cannot be read", row.id));
    Ok(Channel {
        resolution: row.resolution,
        accuracy: row.accuracy,
        range: row.range_top,
        volume_share: row.volume_share,
        position: row.position.as_deref().and_then(Position::from_code),
        reference: row.reference.as_deref().and_then(Reference::from_code),
        principle: row.principle.as_deref().and_then(Principle::from_code),
        extra: serde_json::from_str(&row.extra).unwrap_or_default(),
        ..Channel::new(
            &row.name,
            Quantity::from_code(&row.quantity).ok_or_else(broken)?,
            Unit::from_code(&row.unit).ok_or_else(broken)?,
        )
    })
}

/// A stored test as far as it has been read: it grows by what was stored since.
#[derive(Debug)]
pub struct ReadTest {
    pub recording: Recording,
    channel_ids: Vec<String>,
    /// Readings up to this number, of whatever test, have been looked through.
    seen: AtomicI64,
}

impl Clone for ReadTest {
    fn clone(&self) -> Self {
        Self {
            recording: self.recording.clone(),
            channel_ids: self.channel_ids.clone(),
            seen: AtomicI64::new(self.seen.load(Ordering::Relaxed)),
        }
    }
}

impl ReadTest {
    /// Zero of its seconds.
    pub fn start_ms(&self) -> i64 {
        self.recording.start_ms.unwrap_or_default()
    }
    fn push(&mut self, rows: &[Value]) {
        let start = self.start_ms();
        for r in rows {
            if let Some(channel) = self.channel_ids.iter().position(|id| *id == r.channel_id) {
                self.recording.readings.push(Reading {
                    at_s: (r.at_ms - start) as f64 / 1e3,
                    channel,
                    value: r.value,
                });
            }
        }
    }
    /// What was stored for this test since it was read, up to reading `upto` of whatever test.
    pub fn since(&self, store: &Store, test: &str, upto: i64) -> Result<Vec<Value>, ApiError> {
        let mut rows = store.values_after(test, self.seen.load(Ordering::Relaxed))?;
        rows.retain(|r| r.seq <= upto);
        if rows.is_empty() {
            self.seen.fetch_max(upto, Ordering::Relaxed);
        }
        Ok(rows)
    }
    /// The same test with `rows` at its end. `None`: one of them lies before what is known, so it must be read anew.
    pub fn grown(&self, rows: &[Value], upto: i64) -> Option<Self> {
        let last = self.recording.readings.last()?.at_s;
        let is_next = rows
            .first()
            .is_none_or(|r| (r.at_ms - self.start_ms()) as f64 / 1e3 >= last);
        is_next.then(|| {
            let mut out = self.clone();
            out.push(rows);
            out.seen.fetch_max(upto, Ordering::Relaxed);
            out
        })
    }
}

/// Reads a test with everything the judges take in.
pub fn read_test(store: &Store, test: &rows::Test, upto: i64) -> Result<ReadTest, ApiError> {
    let circuit = store.circuit(&test.circuit_id)?.circuit;
    let channel_rows = store.channels(&test.id)?;
    let channels = channel_rows
        .iter()
        .map(channel_of)
        .collect::<Result<Vec<_>, _>>()?;
    let mut values = store.values_after(&test.id, -1)?;
    values.retain(|r| r.seq <= upto);
    let events = store.events(&test.id)?;
    let start = values.first().map_or(test.created_ms, |r| r.at_ms);
    let seconds = |ms: i64| (ms - start) as f64 / 1e3;
    let kind = Kind::from_code(&test.kind)
        .ok_or_else(|| ApiError::Inside(format!("kind of test {}", test.id)))?;
    let plan = Plan::of_row(test)?;
    let mut settings = plan.settings(kind, &circuit.refrigerant, circuit.volume_l);
    settings.settled_override_s = store.clock_start(&test.id)?.map(|c| seconds(c.at_ms));
    let recording = Recording {
        settings,
        channels,
        readings: Vec::with_capacity(values.len()),
        events: events
            .iter()
            .filter_map(|e| {
                Some(Event {
                    at_s: seconds(e.at_ms),
                    kind: EventKind::from_code(&e.kind)?,
                    note: e.note.clone(),
                })
            })
            .collect(),
        start_ms: Some(start),
        duplicates: 0,
        remarks: vec![],
    };
    let mut out = ReadTest {
        recording,
        channel_ids: channel_rows.into_iter().map(|c| c.id).collect(),
        seen: AtomicI64::new(upto),
    };
    out.push(&values);
    Ok(out)
}

/// A test as core's recording.
pub fn recording_of(store: &Store, test: &rows::Test) -> Result<Recording, ApiError> {
    Ok(read_test(store, test, i64::MAX)?.recording)
}

/// Stores a whole recording as a test of a circuit: all of it or nothing.
pub fn store_recording(
    store: &Store,
    circuit: &str,
    recording: &Recording,
    plan: Plan,
    origin: &str,
    start_ms: i64,
) -> Result<rows::Test, ApiError> {
    let test = rows::Test {
        id: fresh_id(),
        circuit_id: circuit.into(),
        kind: recording.settings.kind.code().into(),
        attempt: 0,
        plan: plan.json(),
        created_ms: start_ms,
    };
    let channels: Vec<rows::Channel> = recording
        .channels
        .iter()
        .enumerate()
        .map(|(i, c)| channel_row(c, &test.id, i))
        .collect();
    let now = now_ms();
    let at = |s: f64| start_ms + (s * 1e3).round() as i64;
    let readings: Vec<rows::Reading> = recording
        .readings
        .iter()
        .map(|r| rows::Reading {
            id: fresh_id(),
            test_id: test.id.clone(),
            channel_id: channels[r.channel].id.clone(),
            at_ms: at(r.at_s),
            typed: r.value.to_string(),
            value: r.value,
            origin: origin.into(),
            client_ms: None,
            received_ms: now,
            skewed: false,
        })
        .collect();
    let events: Vec<rows::Event> = recording
        .events
        .iter()
        .map(|e| rows::Event {
            id: fresh_id(),
            test_id: test.id.clone(),
            kind: e.kind.code().into(),
            note: e.note.clone(),
            at_ms: at(e.at_s),
            client_ms: None,
            received_ms: now,
        })
        .collect();
    store
        .add_whole_test(test, &channels, &readings, &events)
        .map_err(|e: StoreError| e.into())
}
