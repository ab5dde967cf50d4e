//! Reads one test as a Tabular Data Package (docs/interchange.md) into a [`Recording`].
//!
//! In: the files' bytes by name. Out: a recording, or a [`Fault`] that names file, line and column.
//! Nothing is skipped silently: what was assumed or dropped is said in `remarks`.

use super::fault::Fault;
use super::remark::Remark;
use super::{
    Channel, Event, EventKind, Position, Principle, Quantity, Reading, Recording, Reference,
    descriptor,
};
use crate::quantity::{Unit, parse_number};
use std::collections::HashMap;

/// The files of a package by name.
#[derive(Debug, Clone, Default)]
pub struct PackageFiles(pub HashMap<String, Vec<u8>>);

const CHANNELS: &str = "channels.csv";
const READINGS: &str = "readings.csv";
const EVENTS: &str = "events.csv";
/// Most rows of a table.
const ROWS: usize = 1_000_000;
/// Longest time since the start, s: ten years. Far below where milliseconds in a double are no longer exact.
const LONGEST_S: f64 = 3.2e8;
/// Times of a stamp, ms since 1970: 1990 to 2100.
const STAMPS: std::ops::Range<i64> = 631_152_000_000..4_102_444_800_000;

impl PackageFiles {
    fn text(&self, name: &str) -> Result<Option<&str>, Fault> {
        let Some(bytes) = self.0.get(name) else {
            return Ok(None);
        };
        let bytes = bytes.strip_prefix(b"\xEF\xBB\xBF").unwrap_or(bytes);
        if bytes.contains(&0) {
            return Err(Fault::file(name, "is not text (it holds zero bytes)"));
        }
        std::str::from_utf8(bytes).map(Some).map_err(|e| {
            let line = 1 + bytes[..e.valid_up_to()]
                .iter()
                .filter(|&&b| b == b'\n')
                .count();
            Fault {
                line: Some(line as u64),
                ..Fault::file(name, "is not UTF-8 text")
            }
        })
    }
    fn required(&self, name: &str) -> Result<&str, Fault> {
        self.text(name)?
            .ok_or_else(|| Fault::file(name, "is missing from the package"))
    }
}

/// The file of each table, where the descriptor gives it another name than the table's.
fn named(files: &PackageFiles) -> Vec<(&'static str, String)> {
    let about = files.0.get(descriptor::FILE).map(Vec::as_slice);
    let about: serde_json::Value =
        serde_json::from_slice(about.unwrap_or_default()).unwrap_or_default();
    let resources = about["resources"].as_array().cloned().unwrap_or_default();
    let path = |table: &str| {
        let r = resources
            .iter()
            .find(|r| r["name"] == table.trim_end_matches(".csv"))?;
        let path = r["path"].as_str().or_else(|| r["path"][0].as_str())?;
        // Folders of a .zip are not kept.
        let file = path.rsplit('/').next()?;
        (file != table).then(|| file.to_owned())
    };
    [CHANNELS, READINGS, EVENTS]
        .into_iter()
        .filter_map(|table| Some((table, path(table)?)))
        .collect()
}

/// Reads a package. Its tables are found by the names of their resources, wherever these lie.
///
/// # Errors
/// The first thing that is wrong, with its place.
pub fn read_package(files: &PackageFiles) -> Result<Recording, Fault> {
    let others = named(files);
    if others.is_empty() {
        return read(files);
    }
    let mut renamed = files.clone();
    // All are taken out before one is put back: two may have changed names.
    let taken = others
        .iter()
        .map(|(table, file)| {
            let bytes = renamed.0.remove(file);
            let bytes = bytes.ok_or_else(|| Fault::file(file, "is missing from the package"));
            Ok(((*table).to_owned(), bytes?))
        })
        .collect::<Result<Vec<_>, Fault>>()?;
    renamed.0.extend(taken);
    read(&renamed).map_err(|mut fault| {
        if let Some((_, file)) = others.iter().find(|(table, _)| *table == fault.file) {
            fault.file.clone_from(file);
        }
        fault
    })
}

fn read(files: &PackageFiles) -> Result<Recording, Fault> {
    let mut remarks = Vec::new();
    let settings = descriptor::read(files.required(descriptor::FILE)?, &mut remarks)?;
    let channels = read_channels(files.required(CHANNELS)?, &mut remarks)?;
    let rows = read_rows(files.required(READINGS)?, &channels)?;
    let mut clock = None;
    let mut readings: Vec<Reading> = Vec::with_capacity(rows.len());
    let mut last: HashMap<usize, (f64, f64)> = HashMap::new();
    let (mut duplicates, mut latest) = (0, f64::NEG_INFINITY);
    for row in rows {
        let at_s = row.time.seconds(&mut clock);
        if at_s < latest {
            return Err(Fault::cell(
                READINGS,
                row.line,
                row.time.column(),
                "time runs back: this reading is earlier than the one before it",
            ));
        }
        latest = at_s;
        match last.insert(row.channel, (at_s, row.value)) {
            Some((t, v)) if t == at_s && v == row.value => duplicates += 1,
            Some((t, v)) if t == at_s => {
                return Err(Fault::cell(
                    READINGS,
                    row.line,
                    "value",
                    format!(
                        "channel {} already has {v} at this time; two values at one time cannot both be right",
                        channels[row.channel].name
                    ),
                ));
            }
            _ => readings.push(Reading {
                at_s,
                channel: row.channel,
                value: row.value,
            }),
        }
    }
    if duplicates > 0 {
        remarks.push(Remark::Duplicates { count: duplicates });
    }
    let events = match files.text(EVENTS)? {
        Some(text) => read_events(text, &mut clock)?,
        None => Vec::new(),
    };
    Ok(Recording {
        settings,
        channels,
        readings,
        events,
        start_ms: clock.flatten(),
        duplicates,
        remarks,
    })
}

/// A table read as text cells under its heading.
struct Table<'a> {
    file: &'a str,
    head: Vec<String>,
    rows: Vec<(u64, csv::StringRecord)>,
}

impl<'a> Table<'a> {
    fn read(file: &'a str, text: &str, required: &[&str]) -> Result<Self, Fault> {
        let mut reader = csv::ReaderBuilder::new()
            .trim(csv::Trim::All)
            .from_reader(text.as_bytes());
        let broken = |e: csv::Error| Fault {
            line: e.position().map(csv::Position::line),
            ..Fault::file(
                file,
                match e.kind() {
                    csv::ErrorKind::UnequalLengths {
                        expected_len, len, ..
                    } => {
                        format!(
                            "has {len} cells where the heading has {expected_len} (a decimal comma, perhaps)"
                        )
                    }
                    _ => "is not a table of comma-separated values".into(),
                },
            )
        };
        let head: Vec<String> = reader
            .headers()
            .map_err(broken)?
            .iter()
            .map(Into::into)
            .collect();
        for (i, name) in head.iter().enumerate() {
            if head[..i].contains(name) {
                return Err(Fault::cell(file, 1, name, "this column stands twice"));
            }
        }
        if let Some(missing) = required.iter().find(|r| !head.iter().any(|h| h == *r)) {
            return Err(Fault::cell(file, 1, missing, "this column is missing"));
        }
        let mut rows = Vec::new();
        for record in reader.records() {
            let record = record.map_err(broken)?;
            if rows.len() == ROWS {
                return Err(Fault::file(file, format!("has more than {ROWS} rows")));
            }
            let line = record.position().map_or(0, csv::Position::line);
            // What was written so that no spreadsheet takes it for a formula means what it meant before.
            let record = if record.iter().any(|c| c.starts_with('\'')) {
                record.iter().map(super::write::unguarded).collect()
            } else {
                record
            };
            rows.push((line, record));
        }
        Ok(Self { file, head, rows })
    }
    fn index(&self, name: &str) -> Option<usize> {
        self.head.iter().position(|h| h == name)
    }
}

fn read_channels(text: &str, remarks: &mut Vec<Remark>) -> Result<Vec<Channel>, Fault> {
    let table = Table::read(CHANNELS, text, &["channel", "quantity", "unit"])?;
    const KNOWN: [&str; 11] = [
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
        // Follows from the unit: written for other programs.
        "ucum",
    ];
    let mut out: Vec<Channel> = Vec::new();
    for (line, row) in &table.rows {
        let cell = |name: &str| {
            table
                .index(name)
                .and_then(|i| row.get(i))
                .filter(|s| !s.is_empty())
        };
        let fault = |name: &str, message: String| Fault::cell(CHANNELS, *line, name, message);
        let need = |name: &str| cell(name).ok_or_else(|| fault(name, "is empty".into()));
        let number = |name: &str| {
            cell(name)
                .map(|text| match parse_number(text) {
                    Ok(v) if v >= 0.0 => Ok(v),
                    Ok(v) => Err(fault(name, format!("{v} is negative"))),
                    Err(e) => Err(fault(name, e.to_string())),
                })
                .transpose()
        };
        macro_rules! choice {
            ($ty:ident, $name:literal) => {
                cell($name)
                    .map(|code| {
                        $ty::from_code(code).ok_or_else(|| {
                            fault($name, format!("“{code}” is not one of {}", $ty::codes()))
                        })
                    })
                    .transpose()?
            };
        }
        let name = need("channel")?;
        if out.iter().any(|c| c.name == name) {
            return Err(fault("channel", format!("“{name}” stands twice")));
        }
        need("quantity")?;
        let code = need("unit")?;
        let quantity =
            choice!(Quantity, "quantity").ok_or_else(|| fault("quantity", "is empty".into()))?;
        let unit = Unit::from_code(code)
            .ok_or_else(|| fault("unit", format!("“{code}” is not a unit Ruhe knows")))?;
        if let Some(misfit) = Channel::unit_misfit(quantity, unit) {
            return Err(fault("unit", misfit));
        }
        out.push(Channel {
            resolution: number("resolution")?.filter(|&r| r > 0.0),
            accuracy: number("accuracy")?,
            range: number("range")?.filter(|&r| r > 0.0),
            position: choice!(Position, "position"),
            volume_share: number("volume_share")?,
            reference: choice!(Reference, "reference"),
            principle: choice!(Principle, "principle"),
            extra: table
                .head
                .iter()
                .enumerate()
                .filter(|(_, h)| !KNOWN.contains(&h.as_str()))
                .map(|(i, h)| (h.clone(), row.get(i).unwrap_or("").to_owned()))
                .collect(),
            ..Channel::new(name, quantity, unit)
        });
    }
    let shares: f64 = out
        .iter()
        .filter(|c| c.quantity == Quantity::Temperature)
        .filter_map(|c| c.volume_share)
        .sum();
    if shares > 0.0 && (shares - 1.0).abs() > 0.005 {
        remarks.push(Remark::Shares { sum: shares });
    }
    Ok(out)
}

/// A row's place in time, before it is known where zero lies.
enum When {
    Elapsed(f64),
    Stamp(i64),
}

impl When {
    fn column(&self) -> &'static str {
        match self {
            Self::Elapsed(_) => "elapsed_s",
            Self::Stamp(_) => "time",
        }
    }
    /// Seconds since the recording's start; the first stamp seen is zero.
    fn seconds(&self, clock: &mut Option<Option<i64>>) -> f64 {
        match self {
            Self::Elapsed(s) => {
                clock.get_or_insert(None);
                *s
            }
            Self::Stamp(ms) => (*ms - clock.get_or_insert(Some(*ms)).unwrap_or(*ms)) as f64 / 1e3,
        }
    }
}

fn read_when(table: &Table<'_>, line: u64, row: &csv::StringRecord) -> Result<When, Fault> {
    if let Some(i) = table.index("elapsed_s") {
        let text = row.get(i).unwrap_or("");
        let fault = |why: String| Fault::cell(table.file, line, "elapsed_s", why);
        let s = parse_number(text).map_err(|e| fault(e.to_string()))?;
        if s.abs() > LONGEST_S {
            return Err(fault(format!("“{text}” s is longer than any test")));
        }
        return Ok(When::Elapsed(s));
    }
    let text = table.index("time").and_then(|i| row.get(i)).unwrap_or("");
    let at = text.parse::<jiff::Timestamp>().map(|t| t.as_millisecond());
    if let Ok(ms) = at
        && !STAMPS.contains(&ms)
    {
        return Err(Fault::cell(
            table.file,
            line,
            "time",
            format!("“{text}” is no time at which a test can have been: years 1990 to 2100"),
        ));
    }
    at.map(When::Stamp).map_err(|_| {
        Fault::cell(
            table.file,
            line,
            "time",
            format!(
                "“{text}” is not an ISO 8601 time with its \
             offset, such as 2026-05-04T09:30:00+02:00"
            ),
        )
    })
}

fn time_column(table: &Table<'_>) -> Result<(), Fault> {
    match (table.index("time"), table.index("elapsed_s")) {
        (None, None) => Err(Fault::cell(
            table.file,
            1,
            "time",
            "neither time nor elapsed_s is there",
        )),
        (Some(_), Some(_)) => Err(Fault::cell(
            table.file,
            1,
            "elapsed_s",
            "both time and elapsed_s are there; give one",
        )),
        _ => Ok(()),
    }
}

struct Row {
    line: u64,
    time: When,
    channel: usize,
    value: f64,
}

fn read_rows(text: &str, channels: &[Channel]) -> Result<Vec<Row>, Fault> {
    let table = Table::read(READINGS, text, &["channel", "value"])?;
    time_column(&table)?;
    let (c, v) = (
        table.index("channel").unwrap_or(0),
        table.index("value").unwrap_or(0),
    );
    table
        .rows
        .iter()
        .map(|(line, row)| {
            let name = row.get(c).unwrap_or("");
            let channel = channels
                .iter()
                .position(|ch| ch.name == name)
                .ok_or_else(|| {
                    Fault::cell(
                        READINGS,
                        *line,
                        "channel",
                        format!("“{name}” is not in channels.csv"),
                    )
                })?;
            let value = parse_number(row.get(v).unwrap_or(""))
                .map_err(|e| Fault::cell(READINGS, *line, "value", e.to_string()))?;
            let si = channels[channel].to_si(value);
            if let Some(why) = impossible(&channels[channel], si) {
                return Err(Fault::cell(
                    READINGS,
                    *line,
                    "value",
                    format!("{value} {}: {why}", channels[channel].unit.code()),
                ));
            }
            Ok(Row {
                line: *line,
                time: read_when(&table, *line, row)?,
                channel,
                value,
            })
        })
        .collect()
}

/// Why a value cannot have been read from such a gauge, if so. SI in.
#[must_use]
pub fn impossible(channel: &Channel, si: f64) -> Option<String> {
    /// Coldest and hottest thing a probe of this trade touches, K.
    const PROBE: (f64, f64) = (200.0, 400.0);
    match channel.quantity {
        Quantity::GaugePressure if si < -108_000.0 => Some("is below a perfect vacuum".into()),
        Quantity::AbsolutePressure if si < 0.0 => {
            Some("an absolute pressure is never negative".into())
        }
        Quantity::BarometricPressure if !(30_000.0..=115_000.0).contains(&si) => {
            Some("is not the pressure of any air people work in".into())
        }
        Quantity::GaugePressure | Quantity::AbsolutePressure if si > 35e6 => {
            Some("is above anything in this trade (350 bar)".into())
        }
        // In the probe's own unit: whoever reads °F is not told of °C.
        Quantity::Temperature if !(PROBE.0..=PROBE.1).contains(&si) => {
            let of = |k: f64| format!("{:.0}", channel.unit.of_si(k)).replace('-', "−");
            Some(format!(
                "is outside {}…{} {}",
                of(PROBE.0),
                of(PROBE.1),
                channel.unit.info().label
            ))
        }
        _ => None,
    }
}

fn read_events(text: &str, clock: &mut Option<Option<i64>>) -> Result<Vec<Event>, Fault> {
    let table = Table::read(EVENTS, text, &["event"])?;
    time_column(&table)?;
    let (e, n) = (table.index("event").unwrap_or(0), table.index("note"));
    let mut out: Vec<Event> = Vec::new();
    for (line, row) in &table.rows {
        let when = read_when(&table, *line, row)?;
        // One file counting seconds and the other telling the time cannot be laid on each other.
        if let Some(has_stamps) = clock.map(|c| c.is_some())
            && has_stamps == matches!(when, When::Elapsed(_))
        {
            let (here, there) = (when.column(), if has_stamps { "time" } else { "elapsed_s" });
            return Err(Fault::cell(
                EVENTS,
                *line,
                here,
                format!(
                    "readings.csv gives {there} and this file {here}: give both on one clock, so that events \
                     fall where they happened"
                ),
            ));
        }
        let code = row.get(e).unwrap_or("");
        let kind = EventKind::from_code(code).ok_or_else(|| {
            Fault::cell(
                EVENTS,
                *line,
                "event",
                format!("“{code}” is not one of {}", EventKind::codes()),
            )
        })?;
        out.push(Event {
            at_s: when.seconds(clock),
            kind,
            note: n.and_then(|i| row.get(i)).unwrap_or("").into(),
        });
    }
    out.sort_by(|a, b| a.at_s.total_cmp(&b.at_s));
    Ok(out)
}
