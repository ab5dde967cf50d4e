//! Readings: from what was typed to what is kept.

use super::{SKEW, TOLD, check_id, logged_at, reading_at};
use crate::log::{PlannedChannel, ReadingLine};
use crate::people::By;
use crate::refusal::Refusal;
use crate::state::Circuit;
use ruhe_core::quantity::parse_number;
use ruhe_core::reading::impossible;
use serde::Deserialize;

/// Longest reading, letters.
const LONGEST: usize = 40;
/// A reading a hair above the top of its range is one of the range.
const HAIR: f64 = 1.001;

/// A reading.
#[derive(Debug, Clone, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ReadingInput {
    /// Made by the page, so that sending twice stores once.
    pub id: String,
    /// Which channel.
    pub channel_id: String,
    /// Exactly as typed, in the channel's unit.
    pub typed: String,
    /// When it was read, if entered afterwards: ms since 1970 UTC.
    pub at_ms: Option<i64>,
    /// The page's clock when it was logged; it may have waited for the network since.
    pub logged_ms: Option<i64>,
    /// The page's clock now, as it is sent: shows whether that clock is right.
    pub client_ms: i64,
}

/// Readings that are kept all or none.
#[derive(Debug, Clone, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ReadingsInput {
    /// In any order.
    pub readings: Vec<ReadingInput>,
}

/// Parses what was typed for a channel, with the reasons a person can act on.
pub(super) fn value_of(c: &PlannedChannel, typed: &str, field: &str) -> Result<f64, Refusal> {
    if typed.chars().count() > LONGEST {
        return Err(Refusal::wrong(field, "that is too long for a reading"));
    }
    let value = parse_number(typed).map_err(|e| Refusal::wrong(field, e.to_string()))?;
    let channel = &c.channel;
    let unit = channel.unit.code();
    if let Some(why) = impossible(channel, channel.to_si(value)) {
        return Err(Refusal::wrong(field, format!("{typed} {unit} {why}")));
    }
    if let Some(top) = channel.range.filter(|top| value > top * HAIR) {
        return Err(Refusal::wrong(
            field,
            format!("{typed} {unit} is above this gauge's range of {top}"),
        ));
    }
    Ok(value)
}

/// Takes readings for a running test.
///
/// # Errors
/// The first that cannot be, with its field; a test that has ended.
pub fn read(
    c: &Circuit,
    test: &str,
    b: &ReadingsInput,
    by: &By,
    now: i64,
) -> Result<Vec<ReadingLine>, Refusal> {
    c.must_be_open()?;
    let t = c.must_have(test)?;
    if t.is_over() {
        return Err(Refusal::Conflict(format!("{} has ended", t.title)));
    }
    b.readings
        .iter()
        .enumerate()
        .map(|(i, r)| {
            line(&t.channels, t.created_ms, r, by, now)
                .map_err(|e| e.within(&format!("readings.{i}")))
        })
        .collect()
}

fn line(
    channels: &[PlannedChannel],
    planned_ms: i64,
    r: &ReadingInput,
    by: &By,
    now: i64,
) -> Result<ReadingLine, Refusal> {
    let channel = channels
        .iter()
        .position(|c| c.id == r.channel_id)
        .ok_or_else(|| Refusal::wrong("channel_id", "this test has no such channel"))?;
    check_id("id", &r.id)?;
    // A live reading that waited for the network keeps the time it was logged at.
    let logged = r.logged_ms.unwrap_or(r.client_ms);
    let at_ms = r
        .at_ms
        .unwrap_or_else(|| logged_at(logged, r.client_ms, now));
    let value = value_of(&channels[channel], &r.typed, "typed")?;
    let at_ms = reading_at("at_ms", at_ms, planned_ms, TOLD, now)?;
    Ok(ReadingLine {
        at_ms,
        id: r.id.clone(),
        channel: u32::try_from(channel).unwrap_or(0),
        typed: r.typed.trim().into(),
        value,
        origin: if r.at_ms.is_some() { "later" } else { "live" }.into(),
        actor: by.name.clone(),
        device: by.device.clone(),
        client_ms: Some(r.client_ms),
        received_ms: now,
        skewed: now.saturating_sub(r.client_ms).saturating_abs() > SKEW,
    })
}
