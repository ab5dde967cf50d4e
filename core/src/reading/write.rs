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

fn opt(v: Option<f64>) -> String {
    v.map_or_else(String::new, |v| v.to_string())
}

fn stamp(start_ms: Option<i64>, at_s: f64) -> String {
    match start_ms
        .and_then(|ms| jiff::Timestamp::from_millisecond(ms + (at_s * 1e3).round() as i64).ok())
    {
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
    let head = known.iter().chain(&extra).map(|n| Cow::from(*n)).collect();
    let row = |c: &'_ Channel| -> Vec<Cow<'_, str>> {
        let of_extra = |name: &&str| {
            let found = c.extra.iter().find(|(n, _)| n == name);
            found.map_or("", |(_, v)| v.as_str()).to_owned().into()
        };
        [
            c.name.clone().into(),
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
        vec![at(r.at_s), channel.into(), r.value.to_string().into()]
    });
    let events = (recording.events.iter())
        .map(|e| vec![at(e.at_s), e.kind.code().into(), e.note.as_str().into()]);
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
