//! Readings that a gauge sends by itself: one line a reading, into the channel that a person bound to it.

use super::read::value_of;
use super::{SENT, logged_at, reading_at};
use crate::log::ReadingLine;
use crate::refusal::Refusal;
use crate::state::Circuit;
use ruhe_core::quantity::Unit;
use serde::Deserialize;

/// Longest name of a source, letters: with the id of the gauge and a number it makes the id of a reading.
const SOURCE: usize = 14;

/// One line.
#[derive(Debug, Clone, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct GaugeLine {
    /// Which of the gauge's sensors, as it calls it.
    pub source: String,
    /// Grows with every reading of that source: the same number again is the same reading, kept once.
    pub n: u64,
    /// When it was read, by the gauge's clock: RFC 3339 with an offset.
    pub at: String,
    /// As shown, digits and all.
    pub value: String,
    /// A unit's code.
    pub unit: String,
}

/// A line that was understood.
#[derive(Debug, Clone, PartialEq)]
pub struct Sent {
    /// Which sensor.
    pub source: String,
    /// Which reading of it.
    pub n: u64,
    /// When, ms since 1970 UTC, by the gauge's clock.
    pub at_ms: i64,
    /// As shown.
    pub value: String,
    /// Its unit.
    pub unit: Unit,
}

/// Reads a line.
///
/// # Errors
/// What is wrong with it, and in which field.
pub fn sent(line: &GaugeLine) -> Result<Sent, Refusal> {
    let is_plain = |c: char| c.is_ascii_alphanumeric() || "-_".contains(c);
    if line.source.is_empty() || line.source.len() > SOURCE || !line.source.chars().all(is_plain) {
        return Err(Refusal::wrong(
            "source",
            format!("a source has at most {SOURCE} letters, digits, dashes"),
        ));
    }
    let at: jiff::Timestamp = line.at.parse().map_err(|_| {
        Refusal::wrong(
            "at",
            format!(
                "“{}” is not a time with an offset, like 2026-05-04T14:05:30Z",
                line.at
            ),
        )
    })?;
    let unit = Unit::from_code(&line.unit).ok_or_else(|| {
        Refusal::wrong(
            "unit",
            format!("“{}” is no unit that is known here", line.unit),
        )
    })?;
    Ok(Sent {
        source: line.source.clone(),
        n: line.n,
        at_ms: at.as_millisecond(),
        value: line.value.trim().into(),
        unit,
    })
}

/// A gauge, as its readings name it.
#[derive(Debug, Clone, Copy)]
pub struct FromGauge<'a> {
    /// Its id.
    pub id: &'a str,
    /// Its name.
    pub name: &'a str,
    /// It is a simulation.
    pub is_simulated: bool,
    /// Its clock when it sent, ms since 1970 UTC.
    pub sent_ms: i64,
}

/// Takes a reading of a gauge for a channel of a running test.
///
/// # Errors
/// If the unit is another than the channel's, the figure cannot be, or the test has ended.
pub fn read_gauge(
    c: &Circuit,
    test: &str,
    channel: usize,
    s: &Sent,
    gauge: FromGauge<'_>,
    now: i64,
) -> Result<ReadingLine, Refusal> {
    c.must_be_open()?;
    let t = c.must_have(test)?;
    if t.is_over() {
        return Err(Refusal::Conflict(format!("{} has ended", t.title)));
    }
    let of = t
        .channels
        .get(channel)
        .ok_or_else(|| Refusal::Missing("channel".into()))?;
    if of.channel.unit != s.unit {
        // Converted, it would no longer be what the gauge showed, digits and all.
        return Err(Refusal::wrong(
            "unit",
            if (of.channel.unit, s.unit) == (Unit::Psig, Unit::Psi) {
                "“psi” does not say whether it counts from the air: a gauge sends psig".to_owned()
            } else {
                format!(
                    "{} is read in {} here, and the gauge sends {}: set the gauge, or plan the test in its unit",
                    of.channel.name,
                    of.channel.unit.code(),
                    s.unit.code()
                )
            },
        ));
    }
    let at_ms = logged_at(s.at_ms, gauge.sent_ms, now);
    let at_ms = reading_at("at", at_ms, t.created_ms, SENT, now)?;
    Ok(ReadingLine {
        at_ms,
        id: format!("{}.{}.{}", gauge.id, s.source, s.n),
        channel: u32::try_from(channel).unwrap_or(0),
        typed: s.value.clone(),
        value: value_of(of, &s.value, "value")?,
        origin: if gauge.is_simulated {
            "simulated"
        } else {
            "gauge"
        }
        .into(),
        actor: String::new(),
        device: gauge.name.into(),
        client_ms: Some(gauge.sent_ms),
        received_ms: now,
        skewed: now.saturating_sub(gauge.sent_ms).saturating_abs() > super::SKEW,
    })
}
