//! Writes a [`Recording`] as the files of a data package. Reading them back gives the same recording.

use super::{Channel, PackageFiles, Recording, descriptor};
use serde_json::{Value, json};
use std::borrow::Cow;

/// A table as comma-separated values (RFC 4180, lines end in a line feed).
fn table<'a>(rows: impl IntoIterator<Item = Vec<Cow<'a, str>>>) -> Vec<u8> {
    let mut out = csv::Writer::from_writer(Vec::new());
    for row in rows {
        // Writing to memory fails for rows of different lengths alone, and each table below has one width.
        let written = out.write_record(row.iter().map(|cell| cell.as_bytes()));
        debug_assert!(written.is_ok(), "{written:?}");
    }
    out.into_inner().unwrap_or_default()
}

/// Signs with which a spreadsheet takes a text for a formula and runs it.
const FORMULA: [char; 6] = ['=', '+', '-', '@', '\t', '\r'];

/// A text as a cell: one that a spreadsheet would run has an apostrophe before it, the usual way to say *text*. One that
/// has such an apostrophe itself gets another, so that reading gives back what was written.
fn guarded(text: &str) -> Cow<'_, str> {
    if text.trim_start_matches('\'').starts_with(FORMULA) {
        format!("'{text}").into()
    } else {
        text.into()
    }
}

/// What a cell says.
pub(super) fn unguarded(cell: &str) -> &str {
    match cell.strip_prefix('\'') {
        Some(rest) if rest.trim_start_matches('\'').starts_with(FORMULA) => rest,
        _ => cell,
    }
}

fn opt(v: Option<f64>) -> String {
    v.map_or_else(String::new, |v| v.to_string())
}

fn stamp(start_ms: Option<i64>, at_s: f64) -> String {
    match start_ms.and_then(|ms| {
        let at = ms.saturating_add((at_s * 1e3).round() as i64);
        jiff::Timestamp::from_millisecond(at).ok()
    }) {
        Some(t) => t.to_string(),
        None => at_s.to_string(),
    }
}

fn channel_rows(channels: &[Channel]) -> Vec<Vec<Cow<'_, str>>> {
    let mut extra: Vec<&str> = Vec::new();
    for (name, _) in channels.iter().flat_map(|c| &c.extra) {
        if !extra.contains(&name.as_str()) {
            extra.push(name);
        }
    }
    let known = [
        "channel",
        "quantity",
        "unit",
        "resolution",
        "accuracy",
        "range",
        "position",
        "volume_share",
        "reference",
        "principle",
    ];
    let head = known.iter().chain(&extra).map(|n| guarded(n)).collect();
    let row = |c: &'_ Channel| -> Vec<Cow<'_, str>> {
        let of_extra = |name: &&str| {
            let found = c.extra.iter().find(|(n, _)| n == name);
            let cell = guarded(found.map_or("", |(_, v)| v.as_str()));
            Cow::from(cell.into_owned())
        };
        [
            guarded(&c.name).into_owned().into(),
            c.quantity.code().into(),
            c.unit.code().into(),
            opt(c.resolution).into(),
            opt(c.accuracy).into(),
            opt(c.range).into(),
            c.position.map_or("", |p| p.code()).into(),
            opt(c.volume_share).into(),
            c.reference.map_or("", |r| r.code()).into(),
            c.principle.map_or("", |p| p.code()).into(),
        ]
        .into_iter()
        .chain(extra.iter().map(of_extra))
        .collect()
    };
    std::iter::once(head)
        .chain(channels.iter().map(row))
        .collect()
}

/// The package's files, ready to be put in a folder or a .zip.
#[must_use]
pub fn write_package(recording: &Recording, title: &str) -> PackageFiles {
    let time = if recording.start_ms.is_some() {
        "time"
    } else {
        "elapsed_s"
    };
    let head = |names: [&'static str; 3]| names.map(Cow::from).to_vec();
    let at = |at_s: f64| Cow::from(stamp(recording.start_ms, at_s));
    let readings = recording.readings.iter().map(|r| {
        let channel = recording.channels[r.channel].name.as_str();
        vec![at(r.at_s), guarded(channel), r.value.to_string().into()]
    });
    let events =
        (recording.events.iter()).map(|e| vec![at(e.at_s), e.kind.code().into(), guarded(&e.note)]);
    let about = about(recording, title, time);
    let files = [
        (
            descriptor::FILE,
            serde_json::to_vec_pretty(&about).unwrap_or_default(),
        ),
        ("channels.csv", table(channel_rows(&recording.channels))),
        (
            "readings.csv",
            table(std::iter::once(head([time, "channel", "value"])).chain(readings)),
        ),
        (
            "events.csv",
            table(std::iter::once(head([time, "event", "note"])).chain(events)),
        ),
    ];
    PackageFiles(files.map(|(n, bytes)| (n.into(), bytes)).into())
}

fn resource(name: &str, fields: &[(&str, &str)]) -> Value {
    let fields: Vec<Value> = fields
        .iter()
        .map(|(n, t)| json!({"name": n, "type": t}))
        .collect();
    json!({"name": name, "path": format!("{name}.csv"), "profile": "tabular-data-resource", "schema": {"fields": fields}})
}

fn about(recording: &Recording, title: &str, time: &str) -> Value {
    let stamp = if time == "time" { "datetime" } else { "number" };
    let text = [
        "channel",
        "quantity",
        "unit",
        "position",
        "reference",
        "principle",
    ]
    .map(|n| (n, "string"));
    let numbers = ["resolution", "accuracy", "range", "volume_share"].map(|n| (n, "number"));
    json!({
        "profile": "tabular-data-package",
        "name": "ruhe-test",
        "title": title,
        "resources": [
            resource("channels", &[&text[..3], &numbers[..3], &text[3..4], &numbers[3..], &text[4..]].concat()),
            resource("readings", &[(time, stamp), ("channel", "string"), ("value", "number")]),
            resource("events", &[(time, stamp), ("event", "string"), ("note", "string")]),
        ],
        "ruhe": descriptor::write(&recording.settings),
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn no_cell_is_a_formula_and_reading_gives_back_what_was_written() {
        for text in [
            "=1+1", "+x", "-3 psi", "@a", "'=1", "''-x", "'tis", "plain", "", "5-3",
        ] {
            let cell = guarded(text);
            assert!(!cell.starts_with(FORMULA), "{cell}");
            assert_eq!(unguarded(&cell), text);
        }
    }
}
