//! The table in a logger's file: its heading and rows, without what stands before and after it.

use super::cell::{BAD, is_dropout, is_figure, is_status, split_unit, unit_behind, unit_of};
use super::decode;
use super::lines::{Lines, Row};
use super::long;
use super::written::looks_like_time;
use crate::quantity::Unit;
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
    /// The same as it stands; empty where there is no such row.
    pub unit_row: Vec<String>,
    /// Its rows.
    pub rows: Lines,
    /// Between cells.
    pub separator: u8,
    /// Its encoding.
    pub encoding: &'static str,
    /// Lines before the heading and after the last row that were left out.
    pub around: (usize, usize),
    /// It had one reading a row.
    pub is_long: bool,
}

impl Sheet {
    /// Line of the first row.
    pub fn first_line(&self) -> u64 {
        self.rows.iter().next().map_or(1, Row::line)
    }
}

/// A cell of data: a figure, a time, or what stands where there is none.
fn is_data(cell: &str) -> bool {
    let cell = cell.trim();
    cell.is_empty()
        || is_dropout(cell)
        || looks_like_time(cell)
        || is_figure(cell)
        || unit_behind(cell).is_some() && is_figure(split_unit(cell).0)
}

/// What a line under the readings begins with, where it sums them up.
const SUMS: [&str; 16] = [
    "min",
    "max",
    "avg",
    "average",
    "mean",
    "median",
    "total",
    "count",
    "sum",
    "std",
    "stdev",
    "minimum",
    "maximum",
    "mittelwert",
    "summary",
    "range",
];

/// A line that sums up the ones above it.
fn is_summary(row: Row<'_>) -> bool {
    let first = row.cells().find(|c| !c.is_empty());
    let word: String = first
        .unwrap_or("")
        .to_lowercase()
        .chars()
        .take_while(|c| c.is_alphabetic())
        .collect();
    SUMS.contains(&word.as_str())
}

/// A row of data: at least one time or figure, and little else.
fn is_data_row(row: Row<'_>) -> bool {
    let filled: Vec<&str> = row.cells().filter(|c| !c.is_empty()).collect();
    // A unit beside its figure, in a column of its own, is data too.
    let is_good = |c: &&&str| is_data(c) || unit_of(c).is_some();
    let good = filled.iter().filter(is_good).count();
    let some = filled.iter().any(|c| !is_dropout(c) && is_data(c));
    row.len() >= 2 && some && good * 10 >= filled.len() * 6
}

/// How many cells the rows of data have, as most of them do.
fn width(rows: &Lines) -> Option<(usize, usize)> {
    let mut counts = std::collections::BTreeMap::new();
    for r in rows.iter().filter(|r| is_data_row(*r)) {
        *counts.entry(r.len()).or_insert(0usize) += 1;
    }
    counts.into_iter().max_by_key(|&(_, n)| n)
}

/// How many rows of data there are, each counted by the share of its cells that are data: cut at the decimal comma of a
/// file of semicolons, there are as many rows, but not as many cells that say something.
fn understood(rows: &Lines, width: usize) -> f64 {
    rows.iter()
        .filter(|r| r.len() == width && is_data_row(*r))
        .map(|r| r.cells().filter(|c| is_data(c)).count() as f64 / width as f64)
        .sum()
}

/// A unit of time in a units' row, brackets or not.
fn is_time_unit(cell: &str) -> bool {
    let bare = cell
        .trim()
        .trim_matches(['(', ')', '[', ']'])
        .to_lowercase();
    [
        "s", "sec", "min", "h", "hr", "ms", "days", "mm:ss", "hh:mm:ss", "h:mm:ss", "hh:mm",
    ]
    .contains(&bare.as_str())
}

/// So many letters tell which sign separates cells.
const ENOUGH: usize = 200_000;

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
    // What separates cells shows long before the end.
    let begins = match text.char_indices().nth(ENOUGH) {
        Some((i, _)) => &text[..text[..i].rfind('\n').unwrap_or(i)],
        None => &text,
    };
    let best = |text: &str| {
        offered
            .iter()
            .filter_map(|s| {
                let rows = Lines::cut(text, *s);
                width(&rows).map(|(w, _)| (understood(&rows, w), w, *s))
            })
            .max_by(|a, b| a.0.total_cmp(&b.0).then(a.1.cmp(&b.1)))
    };
    let Some((.., separator)) = best(begins).or_else(|| best(&text)) else {
        return Err(Fault {
            line: Some(1),
            ..Fault::file(
                file,
                "has no table in it: a heading, a time column and at least one more are needed",
            )
        });
    };
    let mut all = Lines::cut(&text, separator);
    let (width, _) = width(&all).unwrap_or_default();
    let is_row = |r: Row<'_>| r.len() == width && is_data_row(r);
    let first = all.iter().position(is_row).unwrap_or(0);
    // A last row with a time in it is data, however odd the rest: it is named, not left out.
    let is_timed = |r: Row<'_>| r.len() == width && r.cells().any(looks_like_time);
    let last = all
        .iter()
        .rposition(|r| (is_row(r) || is_timed(r)) && !is_summary(r))
        .unwrap_or(0);
    for r in (first..=last).map(|i| all.row(i)) {
        if r.len() != width {
            return Err(Fault {
                line: Some(r.line()),
                ..Fault::file(
                    file,
                    "has a row with another number of cells than the heading",
                )
            });
        }
    }
    let is_heading = |r: &Row<'_>| r.len() == width && r.cells().any(|c| !c.is_empty());
    let is_units = |r: Row<'_>| {
        let filled: Vec<&str> = r.cells().filter(|c| !c.is_empty()).collect();
        let known = filled
            .iter()
            .filter(|c| unit_of(c).is_some() || is_time_unit(c))
            .count();
        known > 0 && known * 2 >= filled.len()
    };
    let above = |k: usize| first.checked_sub(k).map(|i| all.row(i)).filter(is_heading);
    let (head_at, unit_row) = match (above(1), above(2)) {
        (Some(u), Some(_)) if is_units(u) => (Some(first - 2), u.owned()),
        (Some(_), _) => (Some(first - 1), vec![String::new(); width]),
        _ => (None, vec![String::new(); width]),
    };
    let head = match head_at {
        Some(i) => all.row(i).owned(),
        None => (1..=width).map(|i| format!("column {i}")).collect(),
    };
    let head_line = head_at.map_or(1, |i| all.row(i).line());
    let around = (
        head_at.unwrap_or(first) - usize::from(told.is_some() && head_at != Some(0)),
        all.len() - 1 - last,
    );
    all.keep(first, last);
    let (head, rows, unit_row, is_long) = match long::widened(&all, width, &head) {
        // Its units stand in the new headings.
        Some((head, rows)) => {
            let none = vec![String::new(); head.len()];
            (head, rows, none, true)
        }
        None => (head, all, unit_row, false),
    };
    Ok(Sheet {
        is_long,
        head: unlike(head),
        head_line,
        units: unit_row.iter().map(|c| unit_of(c)).collect(),
        unit_row,
        rows,
        separator,
        encoding,
        around,
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

/// Columns without figures that say of each row whether it is to be trusted.
fn status_columns(sheet: &Sheet) -> Vec<usize> {
    (0..sheet.head.len())
        .filter(|&i| {
            let cells = || sheet.rows.iter().map(move |r| r.cell(i));
            cells().all(is_status) && cells().any(|c| !c.is_empty())
        })
        .collect()
}

/// The rows that the logger does not say went wrong; what is read as a figure says nothing of a row.
pub fn trusted<'a>(sheet: &'a Sheet, read: &[usize]) -> Vec<Row<'a>> {
    let mut status = status_columns(sheet);
    status.retain(|i| !read.contains(i));
    sheet.rows.iter().filter(|r| !is_bad(*r, &status)).collect()
}

/// Whether the logger itself says that this row went wrong.
fn is_bad(row: Row<'_>, status: &[usize]) -> bool {
    status
        .iter()
        .any(|&i| BAD.contains(&row.cell(i).to_lowercase().as_str()))
}
