//! Gates, tests and their limits.

use super::*;

impl Writer<'_> {
    pub(super) fn gates(&mut self) {
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

    pub(super) fn tests(&mut self) {
        for t in &self.record.tests {
            self.test(&t.test, t.struck);
        }
    }

    pub(super) fn test(&mut self, t: &TestView, struck: usize) {
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
    pub(super) fn limits(&mut self) {
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
}
