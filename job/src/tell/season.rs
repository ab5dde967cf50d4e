//! A season for the office: every visit, every test and what each channel of it showed, a row each, for a spreadsheet.

use super::kit::used_views;
use super::run::test_row;
use super::verdict::Verdict;
use super::visits::visit_views;
use crate::log::ReadingLine;
use crate::state::{Circuit, Test};
use ruhe_core::quantity::{Mass, Units};
use ruhe_core::reading::{Cell, PackageFiles, Sheet, write_sheets};

/// The tables as they grow.
pub struct Season {
    units: Units,
    from_ms: i64,
    to_ms: i64,
    visits: Sheet,
    tests: Sheet,
    channels: Sheet,
}

/// Whose it is, at the head of every row.
const WHOSE: [&str; 7] = [
    "site",
    "system",
    "serial",
    "circuit",
    "name",
    "refrigerant",
    "visit",
];

fn sheet(name: &'static str, columns: &[(&str, &'static str)]) -> Sheet {
    let whose = WHOSE.iter().map(|n| ((*n).to_owned(), "string"));
    let own = columns.iter().map(|(n, t)| ((*n).to_owned(), *t));
    Sheet {
        name,
        columns: whose.chain(own).collect(),
        rows: vec![],
    }
}

impl Season {
    /// Nothing yet, of visits that began from one moment until another, ms since 1970 UTC.
    #[must_use]
    pub fn new((from_ms, to_ms): (i64, i64), units: Units) -> Self {
        let (text, number, moment) = ("string", "number", "datetime");
        Self {
            units,
            from_ms,
            to_ms,
            visits: sheet(
                "visits",
                &[
                    ("began", moment),
                    ("reason", text),
                    ("state", text),
                    ("signed_by", text),
                    ("signed", moment),
                    ("recovered (g)", number),
                    ("missing (g)", number),
                    ("inside by the ledger (g)", number),
                    ("not all weighed", "boolean"),
                    ("leaks mended", number),
                    ("found", text),
                    ("next", text),
                    ("revisit on", text),
                ],
            ),
            tests: sheet(
                "tests",
                &[
                    ("test", text),
                    ("kind", text),
                    ("began", moment),
                    ("ended", moment),
                    ("outcome", text),
                    ("word", text),
                    ("finding", text),
                    ("readings that count", number),
                    ("simulated", "boolean"),
                    ("instruments", text),
                    ("method", text),
                ],
            ),
            channels: sheet(
                "channels",
                &[
                    ("test", text),
                    ("channel", text),
                    ("quantity", text),
                    ("unit", text),
                    ("ucum", text),
                    ("readings", number),
                    ("struck out", number),
                    ("first at", moment),
                    ("last at", moment),
                    ("first", number),
                    ("last", number),
                    ("least", number),
                    ("most", number),
                ],
            ),
        }
    }

    /// Adds the visits of a circuit that began within the season; `readings` of a test by its id.
    ///
    /// # Errors
    /// What `readings` refuses.
    pub fn add<E>(
        &mut self,
        c: &Circuit,
        mut readings: impl FnMut(&str) -> Result<Vec<ReadingLine>, E>,
    ) -> Result<(), E> {
        let all = c.past.iter().map(AsRef::as_ref).chain([c]);
        for (v, view) in all.zip(visit_views(c, self.units)) {
            if !(self.from_ms..self.to_ms).contains(&view.from_ms) {
                continue;
            }
            let o = &v.opened;
            let whose: Vec<Cell> = [
                &o.site,
                &o.system,
                &o.serial,
                &o.tag,
                &o.name,
                &o.refrigerant,
                &view.number.to_string(),
            ]
            .map(|t| Cell::from(t.as_str()))
            .into();
            let signed = v.signature.as_ref().map(|s| &s.said);
            let sum = v.ledger_sum().0;
            let arrived = v.arrived();
            // To a hundredth: a scale shows no more.
            let grams = |m: Option<Mass>| Cell::from(m.map(|m| (m.g() * 100.0).round() / 100.0));
            let row = [
                Cell::Moment(view.from_ms),
                view.reason.as_str().into(),
                view.state_title.as_str().into(),
                signed.map(|s| s.name.clone()).into(),
                signed.map_or(Cell::Empty, |s| Cell::Moment(s.at_ms)),
                grams(arrived.as_ref().and_then(|a| a.recovered)),
                grams(arrived.as_ref().and_then(|a| a.missing)),
                // Nothing was weighed: no figure, rather than nought.
                grams((sum.counted > 0).then_some(sum.inside)),
                (sum.is_at_least || sum.unweighed > 0).to_string().into(),
                (v.repairs.len() as f64).into(),
                view.words.join("; ").into(),
                view.next.as_str().into(),
                view.revisit_on.clone().into(),
            ];
            self.visits.rows.push([whose.clone(), row.into()].concat());
            for t in v.tests.iter() {
                let lines = readings(&t.id)?;
                self.test(v, t, &whose, &lines);
            }
        }
        Ok(())
    }

    fn test(&mut self, c: &Circuit, t: &Test, whose: &[Cell], lines: &[ReadingLine]) {
        let told = test_row(c, t, self.units);
        let counts: Vec<&ReadingLine> =
            lines.iter().filter(|l| t.struck(&l.id).is_none()).collect();
        let begins = counts.first().map(|l| l.at_ms);
        let row = [
            told.title.as_str().into(),
            t.kind.code().into(),
            begins.map_or(Cell::Empty, Cell::Moment),
            t.ended_ms().map_or(Cell::Empty, Cell::Moment),
            Verdict::of(t.finding(), self.units).outcome.into(),
            told.word.as_str().into(),
            told.headline.as_str().into(),
            (counts.len() as f64).into(),
            (t.plan.is_simulated || lines.iter().any(|l| l.origin == "simulated"))
                .to_string()
                .into(),
            used_views(&t.plan.used, self.units)
                .iter()
                .map(|u| format!("{} ({})", u.name, u.words))
                .collect::<Vec<_>>()
                .join("; ")
                .into(),
            t.ended.as_ref().map(|(_, e)| e.engine.clone()).into(),
        ];
        self.tests.rows.push([whose, &row].concat());
        for (k, c) in t.channels.iter().enumerate() {
            let is = |l: &&ReadingLine| l.channel as usize == k;
            let of: Vec<&ReadingLine> = counts.iter().copied().filter(is).collect();
            let all = lines.iter().filter(is).count();
            let values = || of.iter().map(|l| l.value);
            let row = [
                told.title.as_str().into(),
                c.channel.name.as_str().into(),
                c.channel.quantity.code().into(),
                c.channel.unit.code().into(),
                c.channel.unit.ucum().into(),
                (of.len() as f64).into(),
                ((all - of.len()) as f64).into(),
                of.first().map_or(Cell::Empty, |l| Cell::Moment(l.at_ms)),
                of.last().map_or(Cell::Empty, |l| Cell::Moment(l.at_ms)),
                of.first().map(|l| l.value).into(),
                of.last().map(|l| l.value).into(),
                values().reduce(f64::min).into(),
                values().reduce(f64::max).into(),
            ];
            self.channels.rows.push([whose, &row].concat());
        }
    }

    /// The files.
    #[must_use]
    pub fn files(self, title: &str) -> PackageFiles {
        write_sheets(&[self.visits, self.tests, self.channels], title)
    }
}
