//! The charge: target and ledger; the reading sets of the running unit.

use super::*;

impl Writer<'_> {
    pub(super) fn target(&mut self) {
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

    pub(super) fn ledger(&mut self) {
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

    pub(super) fn sets(&mut self) {
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
}
