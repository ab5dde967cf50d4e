//! Taking a recording that came in from a file as a finished test.

use super::FIRST;
use super::plan::{complete, numbered};
use crate::log::{Deed, Marked, Planned, ReadingLine, sha256};
use crate::people::By;
use crate::plan::Plan;
use crate::refusal::Refusal;
use crate::state::{Circuit, KitState, Test};
use ruhe_core::reading::{MOST_READINGS, Recording};

/// How far a file's clock may be ahead, ms.
const FILE_AHEAD: i64 = 5 * 60_000;

/// One recording speaks for one test of one circuit.
#[must_use]
pub fn taken_already(where_: &str) -> Refusal {
    Refusal::wrong(
        "readings.csv",
        format!(
            "this recording was taken already, as {where_}: it was made once, on one circuit. If it stands on \
             the wrong one, move it from there"
        ),
    )
}

/// A recording as it is kept.
#[derive(Debug)]
pub struct Imported {
    /// The test and its events; its end follows once its readings are in.
    pub deeds: Vec<Deed>,
    /// Its readings.
    pub readings: Vec<ReadingLine>,
}

/// What a recording is known by, wherever it is taken: its kind and every reading, counted from the first. A file that
/// gives no clock begins when it is sent, so the time of day is not in it.
#[must_use]
pub fn recording_digest(r: &Recording) -> String {
    let first = r
        .readings
        .iter()
        .map(|x| x.at_s)
        .fold(f64::INFINITY, f64::min);
    let mut lines: Vec<(i64, usize, String)> = r
        .readings
        .iter()
        .map(|x| {
            (
                ((x.at_s - first) * 1e3).round() as i64,
                x.channel,
                x.value.to_string(),
            )
        })
        .collect();
    lines.sort();
    let mut text = format!("{:?}\n", r.settings.kind);
    for (ms, channel, value) in lines {
        text += &format!("{ms} {channel} {value}\n");
    }
    sha256(text.as_bytes())
}

/// Takes a recording.
///
/// # Errors
/// If there are no readings in it, or the circuit is signed.
pub fn import(
    c: &Circuit,
    recording: &Recording,
    plan: Plan,
    (start_ms, origin): (i64, &str),
    (kit, rig): (&KitState, Option<&Circuit>),
    (id, by): (&str, &By),
    now: i64,
) -> Result<Imported, Refusal> {
    c.must_be_open()?;
    if recording.readings.is_empty() {
        return Err(Refusal::wrong(
            "readings.csv",
            "there are no readings in it",
        ));
    }
    if recording.readings.len() > MOST_READINGS {
        return Err(Refusal::wrong(
            "readings.csv",
            format!("at most {MOST_READINGS} readings; thin it out, or take it in parts"),
        ));
    }
    let digest = recording_digest(recording);
    let is_same = |t: &&Test| t.ended.as_ref().is_some_and(|e| e.1.recording == digest);
    let mut counted = c.past.iter().flat_map(|p| &p.tests).chain(&c.tests);
    if let Some(t) = counted.find(is_same) {
        return Err(taken_already(&t.title));
    }
    let kind = recording.settings.kind;
    let at = |s: f64| start_ms.saturating_add((s * 1e3).round() as i64);
    // Every time, bounded as a typed one is; a file is over, so nothing of it can lie ahead of the clock.
    let times = recording.readings.iter().map(|r| ("readings.csv", r.at_s));
    let times = times.chain(recording.events.iter().map(|e| ("events.csv", e.at_s)));
    for (file, s) in times {
        if !s.is_finite() || !(FIRST..=now.saturating_add(FILE_AHEAD)).contains(&at(s)) {
            let when = jiff::Timestamp::from_millisecond(at(s));
            let when = when.map_or_else(|_| format!("{s} s"), |t| t.to_string());
            return Err(Refusal::wrong(
                file,
                format!(
                    "{when} is no time of a test that is over: it is ahead of the clock, or too long ago. Is \
                     the day right, and the time zone?"
                ),
            ));
        }
    }
    let planned = Deed::Planned(Planned {
        kind,
        attempt: c.next_attempt(kind),
        plan: complete(c, kind, &recording.channels, plan, kit, rig)?,
        channels: numbered(id, recording.channels.clone()),
        at_ms: start_ms,
    });
    let marks = recording.events.iter().map(|e| {
        Deed::Marked(Marked {
            test: id.into(),
            moved: None,
            with_tool: None,
            event: e.kind,
            photo_id: None,
            note: e.note.clone(),
            at_ms: at(e.at_s),
        })
    });
    let reading = |(i, r): (usize, &ruhe_core::reading::Reading)| ReadingLine {
        at_ms: at(r.at_s),
        id: format!("{id}.{i}"),
        channel: u32::try_from(r.channel).unwrap_or(0),
        typed: r.value.to_string(),
        value: r.value,
        origin: origin.into(),
        actor: by.name.clone(),
        device: by.device.clone(),
        client_ms: None,
        received_ms: now,
        skewed: false,
    };
    Ok(Imported {
        deeds: std::iter::once(planned).chain(marks).collect(),
        readings: recording.readings.iter().enumerate().map(reading).collect(),
    })
}
