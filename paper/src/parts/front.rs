//! Page one: what was found, what is wrong, what was done, who signed.

use super::*;

impl Writer<'_> {
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

    pub(super) fn section(&mut self, title: &str, lines: Vec<String>) {
        if lines.is_empty() {
            return;
        }
        self.sheet.heading(2, title);
        self.sheet.list(&lines);
    }

    pub(super) fn carried(&self) -> String {
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

    pub(super) fn wrong(&self) -> Vec<String> {
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

    pub(super) fn done(&self) -> Vec<String> {
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

    pub(super) fn interval(&self, k: Option<f64>) -> String {
        let t = self.units().temperature;
        k.map_or_else(
            || "–".into(),
            |k| format!("{:.1} {}", t.delta_of_si(k), t.info().label),
        )
    }

    pub(super) fn temperature(&self, k: Option<f64>) -> String {
        k.map_or_else(
            || "–".into(),
            |k| self.units().temperature(Temperature::from_k(k).k()),
        )
    }

    pub(super) fn before_after(&mut self) {
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

    pub(super) fn drawing(&mut self, path: &str, name: &str) {
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

    pub(super) fn signed(&mut self) {
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
}
