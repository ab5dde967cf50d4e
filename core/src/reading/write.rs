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

/// A text as a cell: one that a spreadsheet would run has an apostrophe before it, the usual way to say *text*. One
/// that has such an apostrophe itself gets another, so that reading gives back what was written.
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

/// A cell of a table that goes out.
#[derive(Debug, Clone, PartialEq)]
pub enum Cell {
    /// A text; it is guarded where a spreadsheet would run it.
    Text(String),
    /// A figure.
    Number(f64),
    /// A moment, ms since 1970 UTC.
    Moment(i64),
    /// Nothing.
    Empty,
}

impl<T: Into<Cell>> From<Option<T>> for Cell {
    fn from(v: Option<T>) -> Self {
        v.map_or(Self::Empty, Into::into)
    }
}
impl From<f64> for Cell {
    fn from(v: f64) -> Self {
        Self::Number(v)
    }
}
impl From<&str> for Cell {
    fn from(v: &str) -> Self {
        Self::Text(v.into())
    }
}
impl From<String> for Cell {
    fn from(v: String) -> Self {
        Self::Text(v)
    }
}

/// A table that goes out: its name, its columns with their types in a Table Schema, its rows.
pub struct Sheet {
    /// Of the file, without its ending.
    pub name: &'static str,
    /// Name and type (string, number, datetime, boolean) of each column.
    pub columns: Vec<(String, &'static str)>,
    /// As wide as there are columns.
    pub rows: Vec<Vec<Cell>>,
}

/// Tables as a data package.
#[must_use]
pub fn write_sheets(sheets: &[Sheet], title: &str) -> PackageFiles {
    let text = |c: &Cell| match c {
        Cell::Text(t) => guarded(t).into_owned(),
        Cell::Number(n) => n.to_string(),
        Cell::Moment(ms) => stamp(Some(*ms), 0.0),
        Cell::Empty => String::new(),
    };
    let mut files = std::collections::HashMap::new();
    let mut resources = Vec::new();
    for s in sheets {
        let head = s.columns.iter().map(|c| Cow::from(c.0.as_str())).collect();
        let rows = s
            .rows
            .iter()
            .map(|r| r.iter().map(|c| text(c).into()).collect());
        files.insert(
            format!("{}.csv", s.name),
            table(std::iter::once(head).chain(rows)),
        );
        let fields: Vec<(&str, &str)> = s.columns.iter().map(|(n, t)| (n.as_str(), *t)).collect();
        resources.push(resource(s.name, &fields));
    }
    let about = json!({"profile": "tabular-data-package", "name": slug(title), "title": title, "resources": resources});
    let about = serde_json::to_vec_pretty(&about).unwrap_or_default();
    files.insert(descriptor::FILE.into(), about);
    PackageFiles(files)
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
        "ucum",
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
            c.unit.ucum().into(),
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
        let channel = &recording.channels[r.channel];
        let value = in_steps(r.value, channel.resolution);
        vec![at(r.at_s), guarded(&channel.name), value.into()]
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

/// A value with as many decimals as its gauge shows, never fewer than it has: 200 on a gauge of 0.1 is 200.0.
fn in_steps(value: f64, step: Option<f64>) -> String {
    let decimals = |text: &str| text.split_once('.').map_or(0, |(_, d)| d.len());
    let plain = value.to_string();
    let shown = step.map_or(0, |s| decimals(&s.to_string()));
    if plain.contains('e') || shown > MOST_DECIMALS {
        return plain;
    }
    format!("{value:.*}", shown.max(decimals(&plain)))
}

/// A step with more decimals was worked out, not shown.
const MOST_DECIMALS: usize = 6;

/// A name for machines, made from a title: small letters, figures and hyphens.
fn slug(title: &str) -> String {
    let words: Vec<String> = title
        .to_lowercase()
        .split(|c: char| !c.is_ascii_alphanumeric())
        .filter(|w| !w.is_empty())
        .map(Into::into)
        .collect();
    if words.is_empty() {
        "ruhe-test".into()
    } else {
        words.join("-")
    }
}

fn resource(name: &str, fields: &[(&str, &str)]) -> Value {
    let fields: Vec<Value> = fields
        .iter()
        .map(|(n, t)| match *t {
            // Parts of a second and offsets: the plain form of the standard has neither.
            "datetime" => json!({"name": n, "type": t, "format": "any"}),
            _ => json!({"name": n, "type": t}),
        })
        .collect();
    json!({"name": name, "path": format!("{name}.csv"), "profile": "tabular-data-resource",
        "schema": {"fields": fields}})
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
        "ucum",
    ]
    .map(|n| (n, "string"));
    let numbers = ["resolution", "accuracy", "range", "volume_share"].map(|n| (n, "number"));
    json!({
        "profile": "tabular-data-package",
        "name": slug(title),
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
    fn a_value_keeps_the_digits_that_its_gauge_shows() {
        for (value, step, text) in [
            (200.0, Some(0.1), "200.0"),
            (200.05, Some(0.1), "200.05"),
            (250.0, Some(1.0), "250"),
            (-0.5, None, "-0.5"),
            (301.2, Some(1.0 / 3.0), "301.2"),
        ] {
            assert_eq!(in_steps(value, step), text);
        }
        assert_eq!(
            slug("Cold store, circuit A: Hold 1"),
            "cold-store-circuit-a-hold-1"
        );
    }

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
