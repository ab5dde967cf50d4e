//! A test's readings as a table for mending: a row a moment with all channels, and what stands apart at hand.

use super::reading::{ReadingView, reading_view};
use crate::log::ReadingLine;
use crate::refusal::Refusal;
use crate::state::Test;
use ruhe_core::hold::Doubt as HoldDoubt;
use ruhe_core::judge::Finding;
use ruhe_core::named;
use ruhe_core::vacuum::Doubt as DecayDoubt;
use serde::Serialize;

named! {
    /// Which rows of the table.
    Rows {
        /// All of them.
        All = "all",
        /// Those the judge left out, far from their neighbours.
        Doubtful = "doubtful",
        /// Those a person typed.
        Typed = "typed",
        /// Those that were struck out.
        Struck = "struck",
    }
}

impl Rows {
    /// The rows that a word names; none named: all.
    ///
    /// # Errors
    /// There are no such rows.
    pub fn of(code: Option<&str>) -> Result<Self, Refusal> {
        let Some(code) = code else {
            return Ok(Self::All);
        };
        Self::from_code(code)
            .ok_or_else(|| Refusal::wrong("rows", format!("“{code}” names no rows of a table")))
    }
}

/// One moment. Readings less than a second apart are of one moment, at most one a channel.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct MomentView {
    pub at_ms: i64,
    /// In the order of the channels; none: that channel was not read.
    pub cells: Vec<Option<ReadingView>>,
    /// The judge left one of them out.
    pub is_doubtful: bool,
}

/// Some rows of the table, the newest first.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct TableView {
    /// Name and unit of each channel.
    pub heads: Vec<String>,
    pub rows: Vec<MomentView>,
    /// There are older ones: ask for those before this.
    pub before_ms: Option<i64>,
}

/// Readings that a table is made from.
#[derive(Debug, Clone, PartialEq)]
pub enum Wanted {
    /// The latest before this, at most so many; by people only, if so.
    Before {
        /// ms since 1970 UTC.
        before_ms: i64,
        /// Typed by people.
        by_hand: bool,
        /// At most so many.
        most: usize,
    },
    /// Those of these moments, ms since 1970 UTC.
    Around(Vec<i64>),
    /// These, by id.
    These(Vec<String>),
}

/// Origins of what a person typed.
pub const BY_HAND: [&str; 3] = ["live", "later", "corrected"];

/// Readings less than this apart are of one moment, ms.
pub const MOMENT_MS: i64 = 1_000;

/// Rows of a page.
const PAGE: usize = 40;

/// When the readings were read that the judge left out, ms since 1970 UTC, in the order of time.
#[must_use]
pub fn doubtful_ms(t: &Test) -> Vec<i64> {
    let start = t.outline().start_ms;
    let at = |s: f64| start + (s * 1e3).round() as i64;
    let mut out: Vec<i64> = match t.finding() {
        Finding::PressureHold(v) => {
            let slip = |d: &HoldDoubt| match d {
                HoldDoubt::Slip { at: s, .. } => Some(at(*s)),
                HoldDoubt::Stuck { .. } => None,
            };
            v.doubts.iter().filter_map(slip).collect()
        }
        Finding::VacuumDecay(v) => {
            let isolated = v.isolated_at_s.unwrap_or(0.0);
            let slip = |d: &DecayDoubt| match d {
                DecayDoubt::Slip { at: s, .. } => Some(at(isolated + s)),
                _ => None,
            };
            v.doubts.iter().filter_map(slip).collect()
        }
        _ => vec![],
    };
    out.sort_unstable();
    out.dedup();
    out
}

/// The readings to fetch for these rows of a test, before a moment if one is given.
#[must_use]
pub fn wanted(t: &Test, which: Rows, before_ms: Option<i64>) -> Wanted {
    match which {
        Rows::Doubtful => Wanted::Around(doubtful_ms(t)),
        Rows::Struck => Wanted::These(t.struck.iter().map(|s| s.0.clone()).collect()),
        Rows::All | Rows::Typed => Wanted::Before {
            before_ms: before_ms.unwrap_or(i64::MAX),
            by_hand: which == Rows::Typed,
            most: PAGE * t.channels.len().max(1) + 1,
        },
    }
}

impl Wanted {
    /// Picks them out of all readings of a test, given in the order of time: the newest first.
    #[must_use]
    pub fn of(&self, all: &[ReadingLine]) -> Vec<ReadingLine> {
        let newest = all.iter().rev();
        match self {
            Self::Before {
                before_ms,
                by_hand,
                most,
            } => newest
                .filter(|r| r.at_ms < *before_ms)
                .filter(|r| !by_hand || BY_HAND.contains(&r.origin.as_str()))
                .take(*most)
                .cloned()
                .collect(),
            Self::Around(at) => newest
                .filter(|r| at.iter().any(|ms| (r.at_ms - ms).abs() < MOMENT_MS))
                .cloned()
                .collect(),
            Self::These(ids) => newest.filter(|r| ids.contains(&r.id)).cloned().collect(),
        }
    }
}

/// The table of these readings, which [`wanted`] asked for, the newest first.
#[must_use]
pub fn table_view(t: &Test, asked: &Wanted, lines: &[ReadingLine]) -> TableView {
    let doubtful = doubtful_ms(t);
    let mut rows: Vec<MomentView> = Vec::new();
    for line in lines {
        let i = line.channel as usize;
        let Some(cell) = reading_view(t, line) else {
            continue;
        };
        // The same moment, and this channel not read in it yet.
        let fits = |r: &MomentView| r.at_ms - line.at_ms < MOMENT_MS && r.cells[i].is_none();
        if !rows.last().is_some_and(fits) {
            rows.push(MomentView {
                at_ms: line.at_ms,
                cells: vec![None; t.channels.len()],
                is_doubtful: false,
            });
        }
        let Some(row) = rows.last_mut() else { continue };
        let is_near = |ms: &i64| (line.at_ms - ms).abs() < MOMENT_MS;
        row.is_doubtful |= cell.struck.is_none() && doubtful.iter().any(is_near);
        row.cells[i] = Some(cell);
    }
    // More than a page was fetched if there is more: the first row beyond it begins the next one.
    let before_ms = match asked {
        Wanted::Before { .. } => rows.get(PAGE).map(|r| r.at_ms + 1),
        _ => None,
    };
    if before_ms.is_some() {
        rows.truncate(PAGE);
    }
    TableView {
        heads: t
            .channels
            .iter()
            .map(|c| {
                format!(
                    "{}, {}",
                    c.channel.name,
                    c.channel.unit.code().replace("deg", "°")
                )
            })
            .collect(),
        rows,
        before_ms,
    }
}
