//! The table in a logger's file: its heading and rows, without what stands before and after it.

use super::decode;
use super::stamp::looks_like_time;
use crate::quantity::{Unit, parse_number};
use crate::reading::fault::Fault;

/// A table.
#[derive(Debug, Clone, PartialEq)]
pub struct Sheet {
    /// Headings.
    pub head: Vec<String>,
    /// Line of the heading, from 1.
    pub head_line: u64,
    /// Units in a row of their own under the heading.
    pub units: Vec<Option<Unit>>,
    /// Line and cells.
    pub rows: Vec<(u64, Vec<String>)>,
    /// Between cells.
    pub separator: u8,
    /// Its encoding.
    pub encoding: &'static str,
    /// Lines before the heading and after the last row that were left out.
    pub around: (usize, usize),
}

impl Sheet {
    /// Line of the first row.
    pub fn first_line(&self) -> u64 {
        self.rows.first().map_or(1, |r| r.0)
    }
}

/// What loggers write where a sensor gave nothing.
const DROPOUTS: [&str; 16] = [
    "ol", "-ol", "+ol", "overload", "over", "err", "error", "nan", "n/a", "#n/a", "na", "null",
    "none", "open", "fault", "lo",
];

/// Nothing was read here.
pub fn is_dropout(cell: &str) -> bool {
    let lower = cell.to_ascii_lowercase();
    DROPOUTS.contains(&lower.as_str())
        || (!cell.is_empty() && cell.chars().all(|c| "-–—*".contains(c)))
}

/// A unit however loggers write it.
pub fn unit_of(text: &str) -> Option<Unit> {
    let bare = text
        .trim()
        .trim_matches(['(', ')', '[', ']', '°', ' ', '.']);
    let lower = bare.to_lowercase().replace('°', "").replace("deg ", "deg");
    match lower.as_str() {
        "f" | "fahrenheit" => Some(Unit::DegF),
        "c" | "celsius" => Some(Unit::DegC),
        "microns" | "µm" | "um" | "μm" | "µmhg" | "umhg" => Some(Unit::Micron),
        "in.hg" | "inhg" | "in hg" => Unit::from_code("inHg"),
        "mm hg" | "mmhg" => Unit::from_code("mmHg"),
        "psi(g)" | "psi g" => Unit::from_code("psig"),
        "bar(g)" | "barg" => Unit::from_code("bar"),
        other => Unit::from_code(bare).or_else(|| Unit::from_code(other)),
    }
}

/// A figure with its unit behind it, if it has one.
fn split_unit(cell: &str) -> (&str, Option<&str>) {
    let end = cell
        .char_indices()
        .find(|(i, c)| {
            let is_exponent = (*c == 'e' || *c == 'E')
                && cell[i + 1..].starts_with(|d: char| d.is_ascii_digit() || "+-".contains(d));
            !(c.is_ascii_digit() || "+-−.,' \u{a0}".contains(*c) || is_exponent)
        })
        .map_or(cell.len(), |(i, _)| i);
    let (figure, unit) = cell.split_at(end);
    (figure.trim(), Some(unit.trim()).filter(|u| !u.is_empty()))
}

/// With another separator than a comma, a comma in a cell is a decimal comma; with a comma it cannot be.
pub fn number(cell: &str, separator: u8) -> Result<f64, String> {
    let text = if separator == b',' {
        cell.to_owned()
    } else {
        cell.replacen(',', ".", 1)
    };
    parse_number(&text).map_err(|e| e.to_string())
}

/// The figure of a cell; nothing, if it is empty or a dropout.
pub fn value(cell: &str, separator: u8, unit: Unit) -> Result<Option<f64>, String> {
    let cell = cell.trim();
    if cell.is_empty() || is_dropout(cell) {
        return Ok(None);
    }
    let (figure, behind) = split_unit(cell);
    let Some(behind) = behind else {
        return number(cell, separator).map(Some);
    };
    match unit_of(behind) {
        Some(u)
            if u == unit || u.code().trim_end_matches('g') == unit.code().trim_end_matches('g') =>
        {
            number(figure, separator).map(Some)
        }
        Some(u) => Err(format!(
            "“{cell}” is in {}, and the column was said to be in {}",
            u.code(),
            unit.code()
        )),
        None => number(cell, separator).map(Some),
    }
}

/// The unit that stands behind a figure.
pub fn unit_behind(cell: &str) -> Option<Unit> {
    let (figure, behind) = split_unit(cell.trim());
    behind.filter(|_| !figure.is_empty()).and_then(unit_of)
}

/// A cell of data: a figure, a time, or what stands where there is none.
fn is_data(cell: &str, separator: u8) -> bool {
    let cell = cell.trim();
    cell.is_empty()
        || is_dropout(cell)
        || looks_like_time(cell)
        || number(cell, separator).is_ok()
        || unit_behind(cell).is_some() && number(split_unit(cell).0, separator).is_ok()
}

/// A row of data: at least one time or figure, and little else.
fn is_data_row(row: &[String], separator: u8) -> bool {
    let filled: Vec<&String> = row.iter().filter(|c| !c.trim().is_empty()).collect();
    let good = filled.iter().filter(|c| is_data(c, separator)).count();
    let some = filled
        .iter()
        .any(|c| !is_dropout(c.trim()) && is_data(c, separator));
    row.len() >= 2 && some && good * 10 >= filled.len() * 6
}

type Lines = Vec<(u64, Vec<String>)>;

fn split(text: &str, separator: u8) -> Lines {
    let mut reader = csv::ReaderBuilder::new()
        .delimiter(separator)
        .has_headers(false)
        .trim(csv::Trim::All)
        .flexible(true)
        .from_reader(text.as_bytes());
    reader
        .records()
        .filter_map(Result::ok)
        .map(|r| {
            let line = r.position().map_or(0, csv::Position::line);
            (line, r.iter().map(Into::into).collect())
        })
        .collect()
}

/// How many cells the rows of data have, as most of them do.
fn width(rows: &Lines, separator: u8) -> Option<(usize, usize)> {
    let mut counts = std::collections::BTreeMap::new();
    for (_, r) in rows.iter().filter(|(_, r)| is_data_row(r, separator)) {
        *counts.entry(r.len()).or_insert(0usize) += 1;
    }
    counts.into_iter().max_by_key(|&(_, n)| n)
}

/// Finds the table.
///
/// # Errors
/// If there is none, or a row within it has another number of cells.
pub fn read(file: &str, bytes: &[u8]) -> Result<Sheet, Fault> {
    let (text, encoding) = decode::text(file, bytes)?;
    let told = text.lines().next().and_then(|l| {
        let l = l.trim().trim_matches('"').to_ascii_lowercase();
        l.strip_prefix("sep=").and_then(|s| match s.as_bytes() {
            [] => Some(b'\t'),
            [s] => Some(*s),
            _ => None,
        })
    });
    let offered: Vec<u8> = told.map_or_else(|| vec![b';', b'\t', b',', b'|'], |s| vec![s]);
    let best = offered
        .into_iter()
        .filter_map(|s| {
            let rows = split(&text, s);
            width(&rows, s).map(|(w, n)| (n, w, s, rows))
        })
        .max_by_key(|(n, w, ..)| (*n, *w));
    let Some((_, width, separator, all)) = best else {
        return Err(Fault {
            line: Some(1),
            ..Fault::file(
                file,
                "has no table in it: a heading, a time column and at least one more are needed",
            )
        });
    };
    let is_row = |r: &[String]| r.len() == width && is_data_row(r, separator);
    let first = all.iter().position(|(_, r)| is_row(r)).unwrap_or(0);
    // A last row with a time in it is data, however odd the rest: it is named, not left out.
    let is_timed = |r: &[String]| r.len() == width && r.iter().any(|c| looks_like_time(c.trim()));
    let last = all
        .iter()
        .rposition(|(_, r)| is_row(r) || is_timed(r))
        .unwrap_or(0);
    for (line, r) in &all[first..=last] {
        if r.len() != width {
            return Err(Fault {
                line: Some(*line),
                ..Fault::file(
                    file,
                    "has a row with another number of cells than the heading",
                )
            });
        }
    }
    let is_heading = |r: &[String]| r.len() == width && r.iter().any(|c| !c.trim().is_empty());
    let is_units = |r: &[String]| {
        let filled: Vec<&String> = r.iter().filter(|c| !c.trim().is_empty()).collect();
        let known = filled.iter().filter(|c| unit_of(c).is_some()).count();
        known > 0 && known * 2 >= filled.len()
    };
    let above = |k: usize| {
        first
            .checked_sub(k)
            .map(|i| &all[i])
            .filter(|(_, r)| is_heading(r))
    };
    let (head_at, units) = match (above(1), above(2)) {
        (Some((_, u)), Some(_)) if is_units(u) => {
            (Some(first - 2), u.iter().map(|c| unit_of(c)).collect())
        }
        (Some(_), _) => (Some(first - 1), vec![None; width]),
        _ => (None, vec![None; width]),
    };
    let head = match head_at {
        Some(i) => all[i].1.clone(),
        None => (1..=width).map(|i| format!("column {i}")).collect(),
    };
    Ok(Sheet {
        head: unlike(head),
        head_line: head_at.map_or(1, |i| all[i].0),
        units,
        rows: all[first..=last].to_vec(),
        separator,
        encoding,
        around: (
            head_at.unwrap_or(first) - usize::from(told.is_some() && head_at != Some(0)),
            all.len() - 1 - last,
        ),
    })
}

/// Headings that can be told apart: an empty one by its place, a repeated one by its number.
fn unlike(head: Vec<String>) -> Vec<String> {
    let mut out: Vec<String> = Vec::with_capacity(head.len());
    for (i, h) in head.into_iter().enumerate() {
        let h = if h.trim().is_empty() {
            format!("column {}", i + 1)
        } else {
            h
        };
        let same = out
            .iter()
            .filter(|o| **o == h || o.starts_with(&format!("{h} (")))
            .count();
        out.push(if same == 0 {
            h
        } else {
            format!("{h} ({})", same + 1)
        });
    }
    out
}
