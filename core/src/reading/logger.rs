//! Plain wide CSV from loggers: one time column, one column a channel. Guesses are offered, never taken silently.

use super::fault::Fault;
use super::package::impossible;
use super::{Channel, Quantity, Reading};
use crate::quantity::{Unit, parse_number};

/// What a column seems to be.
#[derive(Debug, Clone, PartialEq)]
pub struct ColumnGuess {
    /// Heading as it stands in the file.
    pub heading: String,
    /// Looks like the time column.
    pub is_time: bool,
    /// Holds dates without a time of day.
    pub is_date: bool,
    /// Likely quantity.
    pub quantity: Option<Quantity>,
    /// Likely unit.
    pub unit: Option<Unit>,
    /// The first value, to recognise it by.
    pub example: String,
}

/// One column the user confirmed as a channel.
#[derive(Debug, Clone, PartialEq)]
pub struct MappedColumn {
    /// Heading in the file.
    pub heading: String,
    /// The channel it becomes.
    pub channel: Channel,
}

/// What the user confirmed.
#[derive(Debug, Clone, PartialEq)]
pub struct LoggerMapping {
    /// Heading of the time column.
    pub time_heading: String,
    /// Heading of the column with the date, where the time column holds only the time of day.
    pub date_heading: Option<String>,
    /// Minutes east of UTC for stamps that carry no offset.
    pub offset_minutes: i32,
    /// Columns to take; others are left out.
    pub columns: Vec<MappedColumn>,
}

type Rows = Vec<(u64, csv::StringRecord)>;

/// Separator, heading and rows of a wide CSV.
fn table(file: &str, bytes: &[u8]) -> Result<(Vec<String>, Rows, u8), Fault> {
    if bytes.contains(&0) {
        return Err(Fault::file(file, "is not text (it holds zero bytes)"));
    }
    let text = std::str::from_utf8(bytes.strip_prefix(b"\xEF\xBB\xBF").unwrap_or(bytes))
        .map_err(|_| Fault::file(file, "is not UTF-8 text"))?;
    let first = text.lines().next().unwrap_or("");
    let separator = [b';', b'\t', b',']
        .into_iter()
        .max_by_key(|&s| first.bytes().filter(|&b| b == s).count())
        .unwrap_or(b',');
    let mut reader = csv::ReaderBuilder::new()
        .delimiter(separator)
        .trim(csv::Trim::All)
        .flexible(false)
        .from_reader(text.as_bytes());
    let broken = |e: csv::Error| Fault {
        line: e.position().map(csv::Position::line),
        ..Fault::file(
            file,
            "has a row with another number of cells than the heading",
        )
    };
    let head: Vec<String> = reader
        .headers()
        .map_err(broken)?
        .iter()
        .map(Into::into)
        .collect();
    if head.len() < 2 {
        return Err(Fault {
            line: Some(1),
            ..Fault::file(
                file,
                "needs a heading with a time column and at least one more",
            )
        });
    }
    let mut rows = Vec::new();
    for record in reader.records() {
        let record = record.map_err(broken)?;
        rows.push((record.position().map_or(0, csv::Position::line), record));
    }
    if rows.is_empty() {
        return Err(Fault::file(file, "has a heading but no readings"));
    }
    Ok((head, rows, separator))
}

/// With a semicolon as separator, a comma in a cell is a decimal comma; with a comma it cannot be.
fn number(cell: &str, separator: u8) -> Result<f64, String> {
    let text = if separator == b',' {
        cell.to_owned()
    } else {
        cell.replacen(',', ".", 1)
    };
    parse_number(&text).map_err(|e| e.to_string())
}

/// Guesses what the columns are.
///
/// # Errors
/// If the file is not a table.
pub fn guess_columns(file: &str, bytes: &[u8]) -> Result<Vec<ColumnGuess>, Fault> {
    let (head, rows, _) = table(file, bytes)?;
    Ok(head
        .iter()
        .enumerate()
        .map(|(i, heading)| {
            let lower = heading.to_ascii_lowercase();
            let words: Vec<&str> = lower
                .split(|c: char| !(c.is_alphanumeric() || c == '/'))
                .filter(|w| !w.is_empty())
                .collect();
            let has = |list: &[&str]| words.iter().any(|w| list.contains(w));
            let unit = words.iter().find_map(|w| Unit::from_code(w)).or_else(|| {
                if has(&["f", "°f"]) {
                    Some(Unit::DegF)
                } else if has(&["c", "°c"]) {
                    Some(Unit::DegC)
                } else if has(&["microns"]) {
                    Some(Unit::Micron)
                } else {
                    None
                }
            });
            let example = rows[0].1.get(i).unwrap_or("");
            let is_date = is_date_only(example);
            let is_time = !is_date
                && has(&[
                    "time",
                    "date",
                    "datetime",
                    "timestamp",
                    "elapsed",
                    "seconds",
                    "zeit",
                ]);
            let quantity = match unit {
                _ if is_time || is_date => None,
                Some(Unit::DegC | Unit::DegF | Unit::K) => Some(Quantity::Temperature),
                Some(Unit::Micron | Unit::Torr | Unit::Psia) => Some(Quantity::AbsolutePressure),
                Some(Unit::HPa) => Some(Quantity::BarometricPressure),
                Some(_) => Some(Quantity::GaugePressure),
                None if lower.contains("temp") => Some(Quantity::Temperature),
                None if lower.contains("baro") => Some(Quantity::BarometricPressure),
                None if lower.contains("press") => Some(Quantity::GaugePressure),
                None => None,
            };
            ColumnGuess {
                heading: heading.clone(),
                is_time,
                is_date,
                quantity,
                unit,
                example: example.into(),
            }
        })
        .collect())
}

/// A date with no time of day beside it.
fn is_date_only(cell: &str) -> bool {
    cell.replace('/', "-").parse::<jiff::civil::Date>().is_ok() && !cell.contains(':')
}

/// Milliseconds since 1970 for a stamp with or without its own offset; plain numbers are seconds.
fn when(cell: &str, offset_minutes: i32, separator: u8) -> Result<f64, String> {
    if let Ok(s) = number(cell, separator) {
        return Ok(s * 1e3);
    }
    if let Ok(t) = cell.parse::<jiff::Timestamp>() {
        return Ok(t.as_millisecond() as f64);
    }
    if is_date_only(cell) {
        return Err(format!(
            "“{cell}” is a date without a time of day: name the column that holds the time, and this one as its date"
        ));
    }
    let plain: jiff::civil::DateTime = cell.replace('/', "-").parse().map_err(|_| {
        format!("“{cell}” is neither a time such as 2026-05-04 09:30:00 nor a number of seconds")
    })?;
    let offset = jiff::tz::Offset::from_seconds(offset_minutes * 60).map_err(|e| e.to_string())?;
    offset
        .to_timestamp(plain)
        .map(|t| t.as_millisecond() as f64)
        .map_err(|e| e.to_string())
}

/// Reads the confirmed columns. Empty cells are gaps. Times are seconds since the first row.
///
/// # Errors
/// The first thing that is wrong, with line and column.
pub fn read_logger(
    file: &str,
    bytes: &[u8],
    mapping: &LoggerMapping,
) -> Result<(Option<i64>, Vec<Reading>), Fault> {
    let (head, rows, separator) = table(file, bytes)?;
    let find = |name: &str| {
        head.iter()
            .position(|h| h == name)
            .ok_or_else(|| Fault::cell(file, 1, name, "there is no such column"))
    };
    let time = find(&mapping.time_heading)?;
    let columns = mapping
        .columns
        .iter()
        .map(|c| {
            Channel::unit_misfit(c.channel.quantity, c.channel.unit).map_or_else(
                || find(&c.heading),
                |m| Err(Fault::cell(file, 1, &c.heading, m)),
            )
        })
        .collect::<Result<Vec<_>, _>>()?;
    let date = mapping.date_heading.as_deref().map(find).transpose()?;
    let (mut start, mut last) = (None, f64::NEG_INFINITY);
    let mut out = Vec::new();
    for (line, row) in &rows {
        let of_day = row.get(time).unwrap_or("");
        let stamp = date.map_or_else(
            || of_day.to_owned(),
            |d| format!("{} {of_day}", row.get(d).unwrap_or("")),
        );
        let ms = when(&stamp, mapping.offset_minutes, separator)
            .map_err(|m| Fault::cell(file, *line, &mapping.time_heading, m))?;
        if ms < last {
            return Err(Fault::cell(
                file,
                *line,
                &mapping.time_heading,
                "time runs back",
            ));
        }
        last = ms;
        let zero = *start.get_or_insert(ms);
        for (channel, (&i, m)) in columns.iter().zip(&mapping.columns).enumerate() {
            let cell = row.get(i).unwrap_or("");
            if cell.is_empty() {
                continue;
            }
            let value =
                number(cell, separator).map_err(|e| Fault::cell(file, *line, &m.heading, e))?;
            if let Some(why) = impossible(&m.channel, m.channel.to_si(value)) {
                return Err(Fault::cell(
                    file,
                    *line,
                    &m.heading,
                    format!("{value}: {why}"),
                ));
            }
            out.push(Reading {
                at_s: (ms - zero) / 1e3,
                channel,
                value,
            });
        }
    }
    if rows.len() > 1 && start == Some(last) {
        return Err(Fault::cell(
            file,
            2,
            &mapping.time_heading,
            "every row has the same time: this is not the column that tells when a reading was taken",
        ));
    }
    // A stamp is a date after 2000; anything smaller was elapsed seconds.
    Ok((
        start
            .filter(|&ms| ms > 946_684_800_000.0)
            .map(|ms| ms as i64),
        out,
    ))
}
