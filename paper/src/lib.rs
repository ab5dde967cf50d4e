//! ruhe-paper: the record on paper. In: the view of a record; out: a PDF, tagged so that it can be searched and read
//! aloud, with its fonts inside.
//!
//! It decides nothing: every word and figure is the view's. Charts are drawn from the same points as on screen.
#![warn(missing_docs)]
#![cfg_attr(test, allow(clippy::unwrap_used))]

mod chart;
mod draw;
mod font;
mod parts;
mod sheet;

use parts::Writer;
use ruhe_job::tell::RecordView;

/// A size of paper.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Paper {
    /// 210 mm by 297 mm.
    A4,
    /// 8.5 in by 11 in.
    Letter,
}

/// For whom it is printed: page one, and what that reader needs behind it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Reader {
    /// Page one alone.
    Owner,
    /// Pressures, times, decay, instruments.
    Inspector,
    /// The manual's limits beside ours, the charge.
    Maker,
    /// The ledger by cylinder.
    Regulator,
    /// History, doubts, ports, the search.
    Technician,
    /// Everything.
    All,
}

impl Reader {
    /// Every reader, with the code it is asked for by.
    pub const ALL: [(Self, &'static str); 6] = [
        (Self::Owner, "owner"),
        (Self::Inspector, "inspector"),
        (Self::Maker, "maker"),
        (Self::Regulator, "regulator"),
        (Self::Technician, "technician"),
        (Self::All, "all"),
    ];
    /// Looks a code up.
    #[must_use]
    pub fn from_code(code: &str) -> Option<Self> {
        Self::ALL.iter().find(|r| r.1 == code).map(|r| r.0)
    }
}

/// A photo: its kind and its bytes.
pub type Photo = (String, Vec<u8>);

/// How to print.
pub struct Print<'a> {
    /// On what.
    pub paper: Paper,
    /// For whom.
    pub reader: Reader,
    /// Units of figures and charts.
    pub units: ruhe_core::quantity::Units,
    /// It is a drill's: every page says so.
    pub is_drill: bool,
    /// Fingerprint of the installation's key, as the record file is signed with it.
    pub fingerprint: &'a str,
    /// A moment (ms since 1970 UTC) as date and time, and as time alone.
    pub clock: &'a dyn Fn(i64) -> (String, String),
    /// The time zone of a moment, as it is printed beside it.
    pub zone: &'a dyn Fn(i64) -> String,
    /// A photo by its id: kind and bytes.
    pub photo: &'a dyn Fn(&str) -> Option<Photo>,
}

/// Why there is no PDF.
#[derive(Debug)]
pub struct Fault(pub String);

impl std::fmt::Display for Fault {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str(&self.0)
    }
}
impl std::error::Error for Fault {}

/// Writes a record as a PDF.
///
/// # Errors
/// If a font or the file itself cannot be made.
pub fn pdf(record: &RecordView, print: &Print<'_>) -> Result<Vec<u8>, Fault> {
    let fonts = font::Fonts::load()?;
    // Page one is one sheet: of long lists as many lines as fit, the rest is counted.
    let one = |most: usize| {
        let mut w = Writer::new(record, print, &fonts);
        w.page_one(most);
        w
    };
    let mut w = one(9);
    for most in [7, 5, 4, 3, 2, 1] {
        if w.pages() == 1 {
            break;
        }
        w = one(most);
    }
    w.behind(print.reader);
    draw::write(
        w.finish(),
        &fonts,
        &format!("{}, circuit {}", record.circuit.system, record.circuit.tag),
        record.printed_ms,
    )
}
