//! A stored test as core's recording, and a recording as rows.

use super::plan::{Plan, channel_row};
use crate::error::ApiError;
use crate::state::{fresh_id, now_ms};
use ruhe_core::quantity::Unit;
use ruhe_core::reading::{Channel, Event, EventKind, Kind, Position, Principle, Quantity, Reading, Recording, Reference};
use ruhe_store::{Store, StoreError, rows};

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
        ..Channel::new(&row.name, Quantity::from_code(&row.quantity).ok_or_else(broken)?, Unit::from_code(&row.unit).ok_or_else(broken)?)
    })
}

/// Reads a test with everything the judges take in.
pub fn recording_of(store: &Store, test: &rows::Test) -> Result<Recording, ApiError> {
    let circuit = store.circuit(&test.circuit_id)?.circuit;
    let channel_rows = store.channels(&test.id)?;
    let channels = channel_rows.iter().map(channel_of).collect::<Result<Vec<_>, _>>()?;
    let readings = store.valid_readings(&test.id)?;
    let events = store.events(&test.id)?;
    let start = readings.first().map_or(test.created_ms, |r| r.at_ms);
    let place = |id: &str| channel_rows.iter().position(|c| c.id == id);
    let seconds = |ms: i64| (ms - start) as f64 / 1e3;
    let kind = Kind::from_code(&test.kind).ok_or_else(|| ApiError::Inside(format!("kind of test {}", test.id)))?;
    let plan = Plan::of_row(test)?;
    let mut settings = plan.settings(kind, &circuit.refrigerant, circuit.volume_l);
    settings.settled_override_s = store.clock_start(&test.id)?.map(|c| seconds(c.at_ms));
    // A decay begins at its isolation: without that mark the pump may still be running.
    if kind == Kind::VacuumDecay && plan.imported_from.is_none() {
        settings.isolated = events.iter().any(|e| e.kind == EventKind::Isolated.code());
    }
    Ok(Recording {
        settings,
        channels,
        readings: readings.iter().filter_map(|r| Some(Reading { at_s: seconds(r.at_ms), channel: place(&r.channel_id)?, value: r.value })).collect(),
        events: events.iter().filter_map(|e| Some(Event { at_s: seconds(e.at_ms), kind: EventKind::from_code(&e.kind)?, note: e.note.clone() })).collect(),
        start_ms: Some(start),
        duplicates: 0,
        remarks: vec![],
    })
}

/// Stores a whole recording as a test of a circuit: all of it or nothing.
pub fn store_recording(store: &Store, circuit: &str, recording: &Recording, plan: Plan, origin: &str, start_ms: i64) -> Result<rows::Test, ApiError> {
    let test =
        rows::Test { id: fresh_id(), circuit_id: circuit.into(), kind: recording.settings.kind.code().into(), attempt: 0, plan: plan.json(), created_ms: start_ms };
    let channels: Vec<rows::Channel> = recording.channels.iter().enumerate().map(|(i, c)| channel_row(c, &test.id, i)).collect();
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
        .map(|e| rows::Event { id: fresh_id(), test_id: test.id.clone(), kind: e.kind.code().into(), note: e.note.clone(), at_ms: at(e.at_s), received_ms: now })
        .collect();
    store.add_whole_test(test, &channels, &readings, &events).map_err(|e: StoreError| e.into())
}
