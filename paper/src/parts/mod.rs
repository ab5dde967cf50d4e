//! What stands on the sheets: page one for whoever reads nothing else, then what each reader needs.

mod charge;
mod front;
mod history;
mod tested;

use crate::chart;
use crate::font::Fonts;
use crate::sheet::{BLACK, Laid, Sheet};
use crate::{Print, Reader};
use ruhe_core::quantity::{Temperature, Unit, Units, span};
use ruhe_core::reading::Kind;
use ruhe_job::search::PlaceState;
use ruhe_job::signoff::State;
use ruhe_job::tell::{CircuitView, GateView, PlaceEvent, RecordView, TestView};

pub struct Writer<'a> {
    record: &'a RecordView,
    print: &'a Print<'a>,
    sheet: Sheet<'a>,
}

fn joined(parts: &[&str], with: &str) -> String {
    parts
        .iter()
        .filter(|p| !p.trim().is_empty())
        .copied()
        .collect::<Vec<_>>()
        .join(with)
}

/// A list no longer than so many lines: what is left is counted.
fn clipped(list: Vec<String>, most: usize) -> Vec<String> {
    let more = list.len().saturating_sub(most);
    let mut out: Vec<String> = list.into_iter().take(most).collect();
    if more > 0 {
        out.push(format!("and {more} more, behind this page"));
    }
    out
}

fn row<const N: usize>(cells: [String; N]) -> Vec<String> {
    cells.to_vec()
}

impl<'a> Writer<'a> {
    pub fn new(record: &'a RecordView, print: &'a Print<'a>, fonts: &'a Fonts) -> Self {
        Self {
            record,
            print,
            sheet: Sheet::new(print.paper, fonts),
        }
    }

    fn c(&self) -> &'a CircuitView {
        &self.record.circuit
    }

    fn units(&self) -> Units {
        self.print.units
    }

    fn day(&self, ms: i64) -> String {
        (self.print.clock)(ms).0
    }

    fn time(&self, ms: i64) -> String {
        (self.print.clock)(ms).1
    }

    /// A signature's time: that of who keeps the log, and the device's own where it said another.
    fn when(&self, at_ms: i64, said_ms: Option<i64>) -> String {
        let at = |ms| format!("{} {}", self.day(ms), self.time(ms));
        match said_ms {
            None => at(at_ms),
            Some(said) => format!("{} (the device said {})", at(at_ms), at(said)),
        }
    }

    pub fn pages(&self) -> usize {
        self.sheet.pages()
    }

    pub fn finish(self) -> Laid {
        let c = self.c();
        let hash = c.hash.get(..16).unwrap_or(&c.hash);
        let mark = match (self.print.is_drill, self.record.has_simulated) {
            (true, _) => "DRILL, NO REAL JOB. ",
            (false, true) => "SIMULATED GAUGES. ",
            (false, false) => "",
        };
        let foot = format!(
            "{mark}Record of {}, circuit {}. Entry {}, hash {hash}…",
            c.system, c.tag, c.entries
        );
        self.sheet.finish(&foot)
    }

    fn hash_code(&mut self) {
        // What is printed can be compared with the file: key and last entry in one code.
        let text = format!("ruhe:{}:{}", self.print.fingerprint, self.c().hash);
        let Ok(code) = qrcode::QrCode::new(text.as_bytes()) else {
            return;
        };
        let wide = code.width();
        let size = 62.0;
        let cell = size / wide as f32;
        let (x, y) = (self.sheet.right_edge() - size, Sheet::top());
        self.sheet.placed(
            (x, y, size, size),
            "QR code of the key's fingerprint and the hash of the last entry",
            |s| {
                let mut squares = vec![];
                for j in 0..wide {
                    for i in 0..wide {
                        if code[(i, j)] == qrcode::Color::Dark {
                            let (l, t) = (s.x + i as f32 * cell, s.y + j as f32 * cell);
                            squares.push(vec![
                                (l, t),
                                (l + cell, t),
                                (l + cell, t + cell),
                                (l, t + cell),
                            ]);
                        }
                    }
                }
                s.filled(squares, BLACK);
            },
        );
    }

    /// What a reader needs behind page one.
    pub fn behind(&mut self, reader: Reader) {
        let is = |r: Reader| reader == Reader::All || reader == r;
        if reader == Reader::Owner {
            return;
        }
        self.sheet.new_page();
        if is(Reader::Inspector) {
            self.gates();
            self.tests();
        }
        if is(Reader::Maker) {
            self.limits();
            self.target();
        }
        if is(Reader::Maker) || is(Reader::Regulator) {
            self.ledger();
        }
        if is(Reader::Maker) {
            self.sets();
        }
        if is(Reader::Technician) {
            self.visits();
            self.ports();
            self.search();
            self.consents();
        }
    }
}

/// A name as it is printed: one that nobody confirmed is somebody's word.
fn named(name: &str, said_by: Option<&str>) -> String {
    match said_by {
        None => name.into(),
        Some(by) => format!("{name} (as said by {by})"),
    }
}

fn gate_words(g: &GateView) -> String {
    let over = g
        .overridden
        .as_ref()
        .map_or_else(String::new, |o| format!(" Overridden: {o}."));
    format!("{}: {}{over}", g.title, g.evidence)
}

/// A sentence that ends like one.
fn dot(text: &str) -> String {
    let t = text.trim();
    if t.is_empty() || t.ends_with(['.', '?', '!']) {
        t.into()
    } else {
        format!("{t}.")
    }
}
