//! Logger files as they really are: one time column (or a date and a time), one column a channel, and around it whatever
//! the logger writes. What was understood is offered, never taken silently.

mod decode;
mod guess;
mod sheet;
mod stamp;

pub use guess::{ColumnGuess, Understood, understand};

use super::fault::Fault;
use super::package::impossible;
use super::{Channel, Reading};
use sheet::Sheet;
use stamp::{DayOrder, Stamps};

/// One column the user confirmed as a channel.
#[derive(Debug, Clone, PartialEq)]
pub struct MappedColumn {
    /// Heading in the file.
    pub heading: String,
    /// The channel it becomes.
    pub channel: Channel,
}

/// What the user confirmed.
#[derive(Debug, Clone, PartialEq)]
pub struct LoggerMapping {
    /// Heading of the time column.
    pub time_heading: String,
    /// Heading of the column with the date, where the time column holds only the time of day.
    pub date_heading: Option<String>,
    /// Minutes east of UTC for stamps that carry no offset.
    pub offset_minutes: i32,
    /// Dates like 04/05/2026 have the day first. Nothing: it follows from the file, or is asked.
    pub day_first: Option<bool>,
    /// Columns to take; others are left out.
    pub columns: Vec<MappedColumn>,
}

/// Whether a stamp is a date at all: anything before 2000 was elapsed time.
const DATED: f64 = 946_684_800_000.0;

fn find(file: &str, sheet: &Sheet, name: &str) -> Result<usize, Fault> {
    sheet
        .head
        .iter()
        .position(|h| h == name)
        .ok_or_else(|| Fault::cell(file, sheet.head_line, name, "there is no such column"))
}

/// Reads the confirmed columns. Empty cells and dropouts are gaps. Times are seconds since the first reading.
///
/// # Errors
/// The first thing that is wrong, with line and column.
pub fn read_logger(
    file: &str,
    bytes: &[u8],
    mapping: &LoggerMapping,
) -> Result<(Option<i64>, Vec<Reading>), Fault> {
    let sheet = sheet::read(file, bytes)?;
    let time = find(file, &sheet, &mapping.time_heading)?;
    let date = mapping
        .date_heading
        .as_deref()
        .map(|d| find(file, &sheet, d))
        .transpose()?;
    let columns = mapping
        .columns
        .iter()
        .map(|c| {
            Channel::unit_misfit(c.channel.quantity, c.channel.unit).map_or_else(
                || find(file, &sheet, &c.heading),
                |m| Err(Fault::cell(file, sheet.head_line, &c.heading, m)),
            )
        })
        .collect::<Result<Vec<_>, _>>()?;
    let stamps = Stamps::of(&sheet, time, date);
    let order = match (mapping.day_first, stamps.order) {
        (Some(true), DayOrder::MonthFirst) | (Some(false), DayOrder::DayFirst) => {
            return Err(Fault::cell(
                file,
                sheet.first_line(),
                &mapping.time_heading,
                "these dates have a day above 12 in the other place",
            ));
        }
        (Some(day_first), _) => day_first,
        (None, DayOrder::DayFirst) => true,
        (None, DayOrder::MonthFirst) => false,
        (None, DayOrder::None) => true,
        (None, DayOrder::Both) => {
            return Err(Fault::cell(
                file,
                sheet.first_line(),
                &mapping.time_heading,
                "both the day and the month could come first in these dates: say which",
            ));
        }
    };
    let mut timed = Vec::with_capacity(sheet.rows.len());
    for (line, row) in &sheet.rows {
        let ms = stamps
            .ms(row, sheet.separator, order, mapping.offset_minutes)
            .map_err(|m| Fault::cell(file, *line, &mapping.time_heading, m))?;
        timed.push((*line, row, ms));
    }
    if stamps.is_falling(&timed) {
        timed.reverse();
    }
    let (mut last, mut day) = (f64::NEG_INFINITY, 0.0);
    let zero = timed.first().map_or(0.0, |t| t.2);
    let mut out = Vec::new();
    for (line, row, ms) in &timed {
        let mut ms = ms + day;
        if ms < last && stamps.is_of_day && last - ms > stamp::HALF_DAY {
            // A time of day without a date: midnight went by.
            day += 2.0 * stamp::HALF_DAY;
            ms += 2.0 * stamp::HALF_DAY;
        }
        if ms < last {
            return Err(Fault::cell(
                file,
                *line,
                &mapping.time_heading,
                "time runs back",
            ));
        }
        last = ms;
        for (channel, (&i, m)) in columns.iter().zip(&mapping.columns).enumerate() {
            let cell = row.get(i).map_or("", String::as_str);
            let told = |e: String| Fault::cell(file, *line, &m.heading, e);
            let Some(value) = sheet::value(cell, sheet.separator, m.channel.unit).map_err(told)?
            else {
                continue;
            };
            if let Some(why) = impossible(&m.channel, m.channel.to_si(value)) {
                return Err(told(format!("{value}: {why}")));
            }
            out.push(Reading {
                at_s: (ms - zero) / 1e3,
                channel,
                value,
            });
        }
    }
    if timed.len() > 1 && zero == last {
        return Err(Fault::cell(
            file,
            sheet.first_line(),
            &mapping.time_heading,
            "every row has the same time: this is not the column that tells when a reading was taken",
        ));
    }
    Ok((Some(zero).filter(|&ms| ms > DATED).map(|ms| ms as i64), out))
}
