//! What stands on the sheets: page one for whoever reads nothing else, then what each reader needs.

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

    /// Page one: what was wrong, what was done, what was proven and what was not, who signed.
    pub fn page_one(&mut self, most: usize) {
        let c = self.c();
        self.hash_code();
        self.sheet
            .heading(1, &format!("{}, circuit {}", c.system, c.tag));
        self.sheet.paragraph(&joined(&[&c.site, &c.place], ", "));
        self.sheet.paragraph(&joined(
            &[&c.name, &c.refrigerant, &c.model, &c.serial, &c.kind_title],
            " · ",
        ));
        let visit = c.visits.last();
        if let Some(v) = visit {
            let from = self.day(v.from_ms);
            self.sheet
                .paragraph(&format!("Visit {}, {from}: {}", v.number, v.reason));
        }
        if self.record.has_simulated {
            self.sheet
                .bold("SIMULATED: some of these readings came from a simulated gauge.");
        }
        self.sheet.rule();
        match &c.signature {
            Some(s) => {
                self.sheet.heading(2, &s.state_title);
                self.sheet
                    .paragraph(&format!("{} {}", s.state.means(), self.carried()));
            }
            None => {
                self.sheet.heading(2, "Not signed");
                self.sheet.paragraph("This is work in progress.");
            }
        }
        let photo = c
            .search
            .places
            .iter()
            .flat_map(|p| &p.log)
            .find_map(|l| l.photo_id.clone());
        self.section("What was wrong", clipped(self.wrong(), most));
        if let Some((mime, bytes)) = photo.and_then(|id| (self.print.photo)(&id)) {
            self.sheet
                .figure((130.0, 97.0), "photo of what was wrong", |s| {
                    s.picture(&mime, bytes, 130.0, 97.0)
                });
        }
        self.section("What was done", clipped(self.done(), most));
        let proven = |met: bool| -> Vec<String> {
            c.gates
                .iter()
                .filter(|g| g.met == met)
                .map(gate_words)
                .collect()
        };
        self.section("What was proven", clipped(proven(true), most + 1));
        let mut open = proven(false);
        if c.this_visit.history_says_leak {
            open.push(
                "A part of the charge went missing, and no leak was found and mended.".into(),
            );
        }
        self.section("What was not", clipped(open, most));
        self.before_after();
        let reserved: Vec<String> = c
            .signature
            .iter()
            .flat_map(|s| &s.carries.reservations)
            .map(|r| {
                format!(
                    "{} Why: {} Risk: {}",
                    dot(&r.what),
                    dot(&r.why),
                    dot(&r.whose)
                )
            })
            .collect();
        self.section("Reservations", clipped(reserved, most));
        self.signed();
    }

    fn section(&mut self, title: &str, lines: Vec<String>) {
        if lines.is_empty() {
            return;
        }
        self.sheet.heading(2, title);
        self.sheet.list(&lines);
    }

    fn carried(&self) -> String {
        let Some(s) = &self.c().signature else {
            return String::new();
        };
        let x = &s.carries.carried;
        match s.state {
            State::Temporary => format!(
                "Done for now: {} Come back on {}. Told: {}.",
                dot(&x.done_for_now),
                x.revisit_on,
                x.told
            ),
            State::Provisional => format!(
                "Outstanding: {} For {}, by {}.",
                dot(&x.outstanding),
                x.outstanding_for,
                x.outstanding_by
            ),
            State::NotProven => format!("{} Look again on {}.", dot(&x.loss), x.revisit_on),
            State::Failed => format!(
                "{} Left: {} Told: {}.",
                dot(&x.wrong),
                dot(&x.left_in),
                x.told
            ),
            State::Passed | State::Inspected | State::PassedWithReservations => String::new(),
        }
    }

    fn wrong(&self) -> Vec<String> {
        let c = self.c();
        let mut out = vec![];
        let complaint = c.this_visit.arrival_doc.as_ref().map(|d| &d.complaint);
        if let Some(text) = complaint.filter(|t| !t.trim().is_empty()) {
            out.push(format!("Complaint: {}", dot(text)));
        }
        if let Some(a) = &c.this_visit.arrival {
            out.extend(a.standing.clone());
            out.extend(a.words.iter().cloned());
        }
        for p in &c.search.places {
            let is_leak =
                p.state == PlaceState::Leak || p.log.iter().any(|l| l.kind == PlaceEvent::Repair);
            let found = p.log.iter().find(|_| is_leak);
            out.extend(found.map(|l| format!("{}: {}", p.name, dot(&l.words))));
        }
        out
    }

    fn done(&self) -> Vec<String> {
        let c = self.c();
        let mut out = vec![];
        for p in &c.search.places {
            out.extend(
                p.log
                    .iter()
                    .filter(|l| l.kind == PlaceEvent::Repair)
                    .map(|l| format!("{}: {}", p.name, dot(&l.words))),
            );
        }
        let l = &c.this_visit.ledger;
        if l.recovered.g > 0.5 {
            out.push(format!("{} recovered.", l.recovered.words));
        }
        if let Some(w) = l.words.as_ref().filter(|_| !l.rows.is_empty()) {
            out.push(format!("Charge: {}", dot(w)));
        }
        for s in c
            .stages
            .iter()
            .flat_map(|s| &s.steps)
            .filter(|s| s.step.code() == "vacuum_broken")
        {
            out.push(format!("Vacuum broken {}", dot(&s.note)));
        }
        out
    }

    fn interval(&self, k: Option<f64>) -> String {
        let t = self.units().temperature;
        k.map_or_else(
            || "–".into(),
            |k| format!("{:.1} {}", t.delta_of_si(k), t.info().label),
        )
    }
    fn temperature(&self, k: Option<f64>) -> String {
        k.map_or_else(
            || "–".into(),
            |k| self.units().temperature(Temperature::from_k(k).k()),
        )
    }

    fn before_after(&mut self) {
        let start = &self.c().this_visit.start;
        let Some(pair) = start.before_after else {
            return;
        };
        let (Some(b), Some(a)) = (start.sets.get(pair.before), start.sets.get(pair.after)) else {
            return;
        };
        let rows = [
            ("Superheat", b.superheat_k, a.superheat_k),
            ("Subcooling", b.subcooling_k, a.subcooling_k),
            ("Split of the air", b.split_k, a.split_k),
        ]
        .map(|(n, b, a)| row([n.into(), self.interval(b), self.interval(a)]));
        self.sheet.heading(2, "Before and after");
        self.sheet.table(
            &["", "before", "after"],
            &rows,
            &[2.0, 1.0, 1.0],
            &[false, true, true],
        );
    }

    fn drawing(&mut self, path: &str, name: &str) {
        let strokes: Vec<Vec<(f32, f32)>> = path
            .split('M')
            .map(|s| {
                s.split('L')
                    .filter_map(|p| {
                        let mut n = p.split([' ', ',']).filter_map(|v| v.parse::<f32>().ok());
                        Some((n.next()?, n.next()?))
                    })
                    .collect()
            })
            .collect();
        if strokes.iter().all(|s: &Vec<_>| s.len() < 2) {
            return;
        }
        let (w, h) = (130.0, 39.0);
        self.sheet
            .figure((w, h), &format!("signature of {name}"), |s| {
                for stroke in strokes {
                    let placed = stroke
                        .iter()
                        .map(|(x, y)| (s.x + x / 600.0 * w, s.y + y / 180.0 * h))
                        .collect();
                    s.line(placed, 1.0, BLACK);
                }
            });
    }

    fn signed(&mut self) {
        let c = self.c();
        self.sheet.rule();
        if let Some(s) = &c.signature {
            let when = self.when(s.at_ms, s.device_ms);
            self.sheet.bold(&format!("{}, {}, {when}", s.name, s.role));
            self.sheet.paragraph(&s.statement);
            let (path, name) = (s.carries.drawing.clone(), s.name.clone());
            self.drawing(&path, &name);
        }
        for a in &c.this_visit.after {
            let when = self.when(a.at_ms, a.device_ms);
            let name = named(&a.name, a.said_by.as_deref());
            self.sheet
                .paragraph(&format!("{}: {name}, {when}. {}", a.title, a.words));
            let (path, name) = (a.drawing.clone(), a.name.clone());
            self.drawing(&path, &name);
        }
        self.sheet
            .mono(&format!("entry {}, SHA-256 {}", c.entries, c.hash));
        self.sheet.mono(&format!("key {}", self.print.fingerprint));
        self.sheet.soft(
            "Ruhe helps to record and judge; it does not certify. The local code and the maker's \
             manual decide.",
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

    fn gates(&mut self) {
        self.sheet.heading(2, "Gates");
        let rows: Vec<Vec<String>> = self
            .c()
            .gates
            .iter()
            .map(|g| {
                let state = if g.met {
                    "met"
                } else if g.overridden.is_some() {
                    "overridden"
                } else {
                    "missing"
                };
                let more = [
                    g.reservation.as_ref().map(|r| format!("Reservation: {r}")),
                    g.overridden.as_ref().map(|o| format!("Overridden: {o}")),
                ];
                let words: Vec<String> = std::iter::once(g.evidence.clone())
                    .chain(more.into_iter().flatten())
                    .collect();
                row([g.title.clone(), state.into(), words.join(" ")])
            })
            .collect();
        self.sheet
            .table(&["Gate", "State", "Evidence"], &rows, &[2.2, 0.9, 4.2], &[]);
        let struck: Vec<String> = self
            .c()
            .struck
            .iter()
            .map(|s| format!("{}: {}", s.what, dot(&s.reason)))
            .collect();
        self.section("Struck out", struck);
        let corrected: Vec<String> = self
            .c()
            .corrections
            .iter()
            .map(|s| format!("{}: {}", s.what, dot(&s.reason)))
            .collect();
        self.section("Corrected", corrected);
    }

    fn tests(&mut self) {
        for t in &self.record.tests {
            self.test(&t.test, t.struck);
        }
    }

    fn test(&mut self, t: &TestView, struck: usize) {
        // Its own times: of a recording that came from a file, too. The day of the end where it is another.
        let begun = self.day(t.start_ms);
        let until = t.ended_ms.map_or_else(
            || " (running)".into(),
            |e| match self.day(e) {
                day if day == begun => format!(" to {}", self.time(e)),
                day => format!(" to {day} {}", self.time(e)),
            },
        );
        let head = format!(
            "{}, {begun} {}{until}, {}",
            t.title,
            self.time(t.start_ms),
            (self.print.zone)(t.start_ms)
        );
        self.sheet.heading(2, &head);
        self.sheet
            .bold(&format!("{}. {}", t.verdict.word, t.verdict.headline));
        self.sheet.paragraph(&t.verdict.summary);
        if let Some(w) = &t.tightness {
            self.sheet.paragraph(w);
        }
        let units = self.units();
        if let Some(d) = chart::drawn(t, units) {
            let alt = format!("{}: {}. {}", t.title, t.verdict.headline, t.verdict.summary);
            let w = self.sheet.width();
            self.sheet.figure((w, 120.0), &alt, |s| chart::draw(s, &d));
        }
        self.sheet.list(&t.verdict.evidence);
        let channels: Vec<String> = t
            .channels
            .iter()
            .map(|c| {
                let step = c
                    .resolution
                    .map_or_else(String::new, |r| format!(", step {r}"));
                let range = c.range.map_or_else(String::new, |r| format!(", range {r}"));
                format!("{} ({}{step}{range})", c.name, c.unit.info().label)
            })
            .collect();
        let used: Vec<String> = t
            .used
            .iter()
            .map(|u| joined(&[&u.name, &u.words], ", "))
            .collect();
        let mut words = format!("{} readings", t.reading_count);
        if struck > 0 {
            words += &format!(", {struck} of the last struck out");
        }
        words += &format!("; channels: {}.", channels.join("; "));
        if !used.is_empty() {
            words += &format!(" With {}.", used.join("; "));
        }
        words += &format!(
            " Limit from: {}. Judged by {}.",
            t.limit_from.clone(),
            t.verdict.engine_version
        );
        self.sheet.soft(&words);
        let events: Vec<String> = t
            .events
            .iter()
            .map(|e| {
                let what = if e.note.is_empty() {
                    e.kind.code().replace('_', " ")
                } else {
                    e.note.clone()
                };
                format!("{} {what}", self.time(e.at_ms))
            })
            .collect();
        if !events.is_empty() {
            self.sheet.soft(&format!("Events: {}.", events.join("; ")));
        }
    }

    /// The pressures and times that were asked for, beside what was done.
    fn limits(&mut self) {
        let u = self.units();
        let rows: Vec<Vec<String>> = self
            .record
            .tests
            .iter()
            .map(|t| {
                let t = &t.test;
                let asked = match t.kind {
                    Kind::PressureHold | Kind::LeakBy => t.plan.test_pa.map(|p| u.gauge(p)),
                    _ => t
                        .plan
                        .level_pa
                        .map(|p| format!("{:.0} {}", u.vacuum.of_si(p), u.vacuum.info().label)),
                };
                let time = t
                    .plan
                    .planned_s
                    .or(t.plan.at_s)
                    .map_or_else(|| "–".into(), span);
                row([
                    t.title.clone(),
                    asked.unwrap_or_else(|| "–".into()),
                    time,
                    t.limit_from.clone(),
                    t.verdict.headline.clone(),
                ])
            })
            .collect();
        if !rows.is_empty() {
            self.sheet
                .heading(2, "Limits asked for, and what was found");
            self.sheet.table(
                &["Test", "Level", "Time", "From", "Found"],
                &rows,
                &[1.1, 1.0, 0.8, 1.4, 2.2],
                &[],
            );
        }
    }

    fn target(&mut self) {
        let Some(t) = &self.c().this_visit.target else {
            return;
        };
        self.sheet.heading(2, "What the maker wants inside");
        self.sheet.bold(&t.total.words);
        let rows: Vec<Vec<String>> = t
            .parts
            .iter()
            .map(|p| {
                row([
                    p.words.clone(),
                    p.mass.forms[0].clone(),
                    p.mass.forms[2].clone(),
                    p.mass.forms[4].clone(),
                ])
            })
            .collect();
        self.sheet.table(
            &["Part", "g", "oz", "lb and oz"],
            &rows,
            &[4.0, 1.0, 1.0, 1.2],
            &[false, true, true, true],
        );
        self.sheet.paragraph(&format!(
            "Within {}: {}.",
            t.tolerance.words, t.tolerance_words
        ));
        self.sheet
            .list(&[t.stops.clone(), t.remarks.clone()].concat());
    }

    fn ledger(&mut self) {
        let l = &self.c().this_visit.ledger;
        let recovered = self
            .c()
            .this_visit
            .arrival
            .as_ref()
            .and_then(|a| a.recovered.as_ref());
        if l.rows.is_empty() && recovered.is_none() {
            return;
        }
        self.sheet.heading(2, "Ledger");
        let shown = |t: &Option<ruhe_job::survey::Typed>| match t {
            // What was typed with its unit needs none.
            Some(t) if t.typed.contains(|c: char| c.is_alphabetic()) => t.typed.clone(),
            Some(t) => joined(&[&t.typed, &t.unit], " "),
            None => String::new(),
        };
        let rows: Vec<Vec<String>> = l
            .rows
            .iter()
            .map(|r| {
                let net = r
                    .net
                    .as_ref()
                    .map_or_else(|| "not known".into(), |m| m.forms[0].clone());
                let kind = if r.row.is_weighed {
                    r.kind_title.clone()
                } else {
                    format!("{} (not weighed)", r.kind_title)
                };
                row([
                    format!("{} {}", self.day(r.at_ms), self.time(r.at_ms)),
                    kind,
                    r.row.refrigerant.clone(),
                    r.row.cylinder.clone(),
                    shown(&r.row.start),
                    shown(&r.row.stop),
                    net,
                ])
            })
            .collect();
        self.sheet.table(
            &[
                "When",
                "What moved",
                "Refrigerant",
                "Cylinder",
                "Before",
                "After",
                "Net",
            ],
            &rows,
            &[1.6, 1.5, 1.0, 1.0, 1.0, 1.0, 0.9],
            &[false, false, false, false, true, true, true],
        );
        if let Some(w) = &l.words {
            self.sheet.paragraph(&dot(w));
        }
        if let (Some(m), Some(d)) = (
            recovered,
            self.c()
                .this_visit
                .arrival_doc
                .as_ref()
                .and_then(|d| d.recovered.as_ref()),
        ) {
            self.sheet.paragraph(&format!(
                "Recovered on arrival: {} into cylinder {} ({}).",
                m.words,
                d.cylinder,
                d.purity.title()
            ));
        }
        let cylinders: Vec<Vec<String>> = l
            .cylinders
            .iter()
            .map(|y| {
                row([
                    y.cylinder.clone(),
                    y.refrigerant.clone(),
                    y.out.words.clone(),
                    y.back.words.clone(),
                ])
            })
            .collect();
        if !cylinders.is_empty() {
            self.sheet.heading(3, "By cylinder");
            self.sheet.table(
                &["Cylinder", "Refrigerant", "Out of it", "Into it"],
                &cylinders,
                &[1.5, 1.2, 1.6, 1.6],
                &[false, false, true, true],
            );
        }
    }

    fn sets(&mut self) {
        let start = &self.c().this_visit.start;
        if start.sets.is_empty() {
            return;
        }
        self.sheet.heading(2, "Start-up");
        if let Some(w) = &start.words {
            self.sheet.bold(w);
        }
        let shown = |t: &Option<ruhe_job::survey::Typed>| {
            t.as_ref().map_or_else(
                || "–".into(),
                |t| {
                    let unit = Unit::from_code(&t.unit).map_or(t.unit.as_str(), |u| u.info().label);
                    format!("{} {unit}", t.typed)
                },
            )
        };
        let rows: Vec<Vec<String>> = start
            .sets
            .iter()
            .map(|s| {
                let when = if s.when.code() == "before" {
                    ", before"
                } else {
                    ""
                };
                row([
                    format!("{}{when}", self.time(s.at_ms)),
                    shown(&s.set.suction),
                    self.temperature(s.dew_k),
                    shown(&s.set.suction_line),
                    self.interval(s.superheat_k),
                    shown(&s.set.liquid),
                    self.temperature(s.bubble_k),
                    shown(&s.set.liquid_line),
                    self.interval(s.subcooling_k),
                ])
            })
            .collect();
        let right = [false, true, true, true, true, true, true, true, true];
        self.sheet.table(
            &[
                "Time",
                "Suction",
                "dew",
                "line",
                "Superheat",
                "Liquid",
                "bubble",
                "line",
                "Subcooling",
            ],
            &rows,
            &[1.3, 1.0, 1.0, 1.0, 1.1, 1.0, 1.0, 1.0, 1.2],
            &right,
        );
        self.sheet.soft(&format!(
            "Gauges read against {:.0} hPa.",
            start.air_pa / 100.0
        ));
    }

    fn visits(&mut self) {
        let c = self.c();
        self.sheet.heading(2, "Visits");
        let rows: Vec<Vec<String>> = c
            .visits
            .iter()
            .map(|v| {
                row([
                    v.number.to_string(),
                    self.day(v.from_ms),
                    v.reason.clone(),
                    v.state_title.clone(),
                    joined(&[&v.words.join("; "), &v.next], ". "),
                ])
            })
            .collect();
        self.sheet.table(
            &["", "Date", "For", "State", "What"],
            &rows,
            &[0.3, 1.0, 1.4, 1.2, 4.0],
            &[],
        );
        self.section("Doubts from before", c.doubts.clone());
    }

    fn ports(&mut self) {
        let p = &self.c().this_visit.ports;
        if !p.is_kept {
            return;
        }
        let rows: Vec<Vec<String>> = p
            .ports
            .ports
            .iter()
            .map(|x| {
                row([
                    x.name.clone(),
                    x.thread.clone(),
                    x.core.title().into(),
                    x.refitted.title().into(),
                    x.bubbles.title().into(),
                    if x.is_capped { "on" } else { "not on" }.into(),
                    x.stem.title().into(),
                ])
            })
            .collect();
        self.sheet.heading(2, "Ports");
        self.sheet.table(
            &[
                "Port",
                "Thread",
                "Core",
                "Went back",
                "Fluid",
                "Cap",
                "Stem",
            ],
            &rows,
            &[2.0, 0.8, 1.0, 1.4, 1.1, 0.7, 0.9],
            &[],
        );
        self.sheet.paragraph(&joined(
            &["Drier:", p.ports.drier.title(), &p.ports.drier_words],
            " ",
        ));
        self.sheet.list(&p.deviations);
    }

    fn search(&mut self) {
        let rows: Vec<Vec<String>> = self
            .c()
            .search
            .places
            .iter()
            .filter(|p| !p.log.is_empty() || p.is_open)
            .map(|p| {
                row([
                    p.name.clone(),
                    p.state_title.clone(),
                    p.log
                        .iter()
                        .map(|l| l.words.as_str())
                        .collect::<Vec<_>>()
                        .join("; "),
                ])
            })
            .collect();
        if !rows.is_empty() {
            self.sheet.heading(2, "Where was looked");
            self.sheet.table(
                &["Place", "Stands", "What was done"],
                &rows,
                &[1.6, 1.1, 3.5],
                &[],
            );
        }
    }

    fn consents(&mut self) {
        let consents = &self.c().this_visit.consents;
        if consents.is_empty() {
            return;
        }
        self.sheet.heading(2, "Consent");
        for x in consents {
            let how = if x.drawing.is_empty() {
                "by telephone"
            } else {
                "signed"
            };
            self.sheet.paragraph(&format!(
                "{} {} {} Risk: {} Answer: {} {}, {how}, {} {}.",
                self.time(x.at_ms),
                dot(&x.question),
                x.options,
                dot(&x.risk),
                dot(&x.answer),
                named(&x.name, x.said_by.as_deref()),
                self.day(x.at_ms),
                self.time(x.at_ms)
            ));
            self.drawing(&x.drawing, &x.name);
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
