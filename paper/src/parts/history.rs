//! Visits, ports, the leak search, consents.

use super::*;

impl Writer<'_> {
    pub(super) fn visits(&mut self) {
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

    pub(super) fn ports(&mut self) {
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

    pub(super) fn search(&mut self) {
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

    pub(super) fn consents(&mut self) {
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
