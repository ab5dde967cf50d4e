//! Logger files as they really are: one time column (or a date and a time), one column a channel, and around it
//! whatever the logger writes. What was understood is offered; what may be read in two ways is asked, never taken.

mod ask;
mod cell;
mod clock;
mod decode;
mod doubt;
mod figures;
mod guess;
mod lines;
mod long;
mod sheet;
mod stamp;
mod written;

pub use ask::{Ask, Choice, Question};
pub use cell::Figures;
pub use clock::TimeIs;
pub use doubt::doubts;
pub use guess::{ColumnGuess, Understood};

use super::fault::Fault;
use super::package::impossible;
use super::{Channel, Reading};
use crate::named;
use ask::Decided;
use jiff::tz::TimeZone;
use lines::Row;
use serde::Deserialize;
use sheet::Sheet;
use stamp::Stamps;

/// One column the user confirmed as a channel.
#[derive(Debug, Clone, PartialEq)]
pub struct MappedColumn {
    /// Heading in the file.
    pub heading: String,
    /// The channel it becomes.
    pub channel: Channel,
}

named! {
    /// Which comes first in dates such as 04/05/2026.
    DayOrder {
        /// The fourth of May.
        Day = "day",
        /// The fifth of April.
        Month = "month",
    }
}

named! {
    /// What rows of one stamp with other values are.
    SameTime {
        /// Readings at even steps until the next stamp.
        Spread = "spread",
        /// The last of them counts.
        Last = "last",
    }
}

/// What a person said where a file may be read in two ways. Nothing: it follows from the file, or is asked.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(default, deny_unknown_fields)]
pub struct Answers {
    /// Which sign stands before decimals.
    pub figures: Option<Figures>,
    /// What the time column counts.
    pub time_is: Option<TimeIs>,
    /// Which comes first in its dates.
    pub day_order: Option<DayOrder>,
    /// What rows of one stamp are.
    pub same_time: Option<SameTime>,
    /// Of so many rows one is taken, and the last.
    pub every: Option<u32>,
}

/// What the user confirmed.
#[derive(Debug, Clone, PartialEq)]
pub struct LoggerMapping {
    /// Heading of the time column.
    pub time_heading: String,
    /// Heading of the column with the date, where the time column holds only the time of day.
    pub date_heading: Option<String>,
    /// Where the logger stood, for stamps that carry no offset.
    pub zone: TimeZone,
    /// Where more than one reading of the file fits.
    pub answers: Answers,
    /// Columns to take; others are left out.
    pub columns: Vec<MappedColumn>,
}

/// What was taken of a file.
#[derive(Debug, Clone, PartialEq)]
pub struct Taken {
    /// Moment of the first reading, ms since 1970; nothing: the file does not say.
    pub start_ms: Option<i64>,
    /// Times are seconds since the first.
    pub readings: Vec<Reading>,
    /// Rows that only said again what the row before had said.
    pub duplicates: usize,
    /// Rows that the logger itself says went wrong: they are left out.
    pub bad: usize,
}

/// Readings that a test takes at most: a day at four a second.
pub const MOST_READINGS: usize = 400_000;

/// Whether a stamp is a date at all: anything before 2000 was elapsed time.
const DATED: f64 = 946_684_800_000.0;

/// A logger's file, cut into rows and cells.
#[derive(Debug, Clone, PartialEq)]
pub struct LoggerFile {
    name: String,
    sheet: Sheet,
}

/// What a file leaves open when its columns are taken as they were confirmed.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Open {
    /// What may be read in two ways, whatever was answered before.
    pub questions: Vec<Question>,
    /// Its stamps carry no offset: where it stood has to be known.
    pub needs_place: bool,
}

/// A row with its time, ms.
struct Timed<'a> {
    row: Row<'a>,
    ms: f64,
}

/// Where in a file the columns of a mapping are.
struct Places<'m> {
    time: usize,
    date: Option<usize>,
    channels: Vec<(usize, &'m Channel)>,
}

impl LoggerFile {
    /// Cuts a file.
    ///
    /// # Errors
    /// If there is no table in it, or a row within it has another number of cells.
    pub fn of(name: &str, bytes: &[u8]) -> Result<Self, Fault> {
        Ok(Self {
            name: name.into(),
            sheet: sheet::read(name, bytes)?,
        })
    }

    /// Its name.
    #[must_use]
    pub fn name(&self) -> &str {
        &self.name
    }

    /// What it seems to be.
    #[must_use]
    pub fn understood(&self) -> Understood {
        guess::understand(&self.sheet)
    }

    fn fault(&self, about: &str, m: String) -> Fault {
        Fault::cell(&self.name, self.sheet.first_line(), about, m)
    }

    fn find(&self, heading: &str) -> Result<usize, Fault> {
        let at = self.sheet.head.iter().position(|h| h == heading);
        at.ok_or_else(|| {
            let m = "there is no such column";
            Fault::cell(&self.name, self.sheet.head_line, heading, m)
        })
    }

    fn places<'m>(&self, m: &'m LoggerMapping) -> Result<Places<'m>, Fault> {
        let time = self.find(&m.time_heading)?;
        let date = m
            .date_heading
            .as_deref()
            .map(|d| self.find(d))
            .transpose()?;
        let channel =
            |c: &'m MappedColumn| match Channel::unit_misfit(c.channel.quantity, c.channel.unit) {
                None => Ok((self.find(&c.heading)?, &c.channel)),
                Some(m) => Err(Fault::cell(&self.name, self.sheet.head_line, &c.heading, m)),
            };
        let channels = m.columns.iter().map(channel).collect::<Result<_, _>>()?;
        Ok(Places {
            time,
            date,
            channels,
        })
    }

    /// What its columns as they were confirmed leave open.
    ///
    /// # Errors
    /// A column that it does not have, or a unit that does not fit one.
    pub fn open(&self, m: &LoggerMapping) -> Result<Open, Fault> {
        let at = self.places(m)?;
        Ok(ask::open(&self.sheet, (at.time, at.date), &at.channels).0)
    }

    /// Reads the confirmed columns. Empty cells and dropouts are gaps.
    ///
    /// # Errors
    /// The first thing that is wrong or has to be said, with line and column.
    pub fn read(&self, m: &LoggerMapping) -> Result<Taken, Fault> {
        let Places {
            time,
            date,
            channels,
        } = self.places(m)?;
        let columns: Vec<usize> = channels.iter().map(|c| c.0).collect();
        let sheet = &self.sheet;
        let by = Decided::of(sheet, time, date, &channels)
            .with(&m.answers)
            .map_err(|e| self.fault(&m.time_heading, e))?;
        let zone = written::zone_of(&m.time_heading, &m.zone);
        let reader = by.reader(&zone);
        let stamps = Stamps::of(sheet, time, date);
        let rows = sheet::trusted(sheet, &columns);
        let told = |line: u64, e: String| Fault::cell(&self.name, line, &m.time_heading, e);
        let mut timed = times(&rows, &stamps, &reader).map_err(|(line, e)| told(line, e))?;
        if timed.len() > 1 && timed.iter().all(|t| t.ms == timed[0].ms) {
            let e = "every row has the same time: this is not the column that tells when a reading was taken";
            return Err(self.fault(&m.time_heading, e.into()));
        }
        let duplicates = ask::told_apart(&mut timed, &columns, by.same_time)
            .map_err(|(line, e)| told(line, e))?;
        ask::thin_out(&mut timed, (sheet.rows.len(), columns.len()), &m.answers)
            .map_err(|e| self.fault(&m.time_heading, e))?;
        let zero = timed.first().map_or(0.0, |t| t.ms);
        let mut out = Vec::new();
        for t in &timed {
            for (channel, (i, of)) in channels.iter().enumerate() {
                let wrong = |e: String| {
                    Fault::cell(&self.name, t.row.line(), &m.columns[channel].heading, e)
                };
                let cell = cell::value(t.row.cell(*i), reader.figures, of.unit).map_err(wrong)?;
                let Some(value) = cell else {
                    continue;
                };
                if let Some(why) = impossible(of, of.to_si(value)) {
                    return Err(wrong(format!("{value}: {why}")));
                }
                out.push(Reading {
                    at_s: (t.ms - zero) / 1e3,
                    channel,
                    value,
                });
            }
        }
        let is_dated = by.time_is.is_dated() || zero > DATED;
        Ok(Taken {
            start_ms: is_dated.then_some(zero as i64),
            readings: out,
            duplicates,
            bad: sheet.rows.len() - rows.len(),
        })
    }
}

/// The rows in the order of time, each with its moment; else the line and what is wrong with its time.
fn times<'a>(
    rows: &[Row<'a>],
    stamps: &Stamps,
    by: &stamp::Reader<'_>,
) -> Result<Vec<Timed<'a>>, (u64, String)> {
    let ms = |row: Row<'a>, last: f64| stamps.ms(row, by, last).map_err(|m| (row.line(), m));
    let alone = rows
        .iter()
        .map(|row| ms(*row, f64::NEG_INFINITY))
        .collect::<Result<Vec<_>, _>>()?;
    let is_falling = stamps.is_falling(&alone);
    let (mut last, mut day) = (f64::NEG_INFINITY, 0.0);
    let mut out = Vec::with_capacity(rows.len());
    for k in 0..rows.len() {
        let i = if is_falling { rows.len() - 1 - k } else { k };
        // An hour that comes twice is the second one where the first lies before the row above.
        let may_be_second = alone[i] + day <= last;
        let bare = if may_be_second {
            ms(rows[i], last)?
        } else {
            alone[i]
        };
        let mut at = bare + day;
        let is_of_day =
            stamps.is_of_day && by.time_is == TimeIs::Stamp || by.time_is == TimeIs::HoursMinutes;
        if at < last && is_of_day && last - at > stamp::HALF_DAY {
            // A time of day without a date: midnight went by.
            day += 2.0 * stamp::HALF_DAY;
            at += 2.0 * stamp::HALF_DAY;
        }
        if at < last {
            return Err((rows[i].line(), "time runs back".into()));
        }
        last = at;
        out.push(Timed {
            row: rows[i],
            ms: at,
        });
    }
    Ok(out)
}
