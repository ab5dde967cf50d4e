//! Times as loggers write them.

use super::cell::Figures;
use super::clock::TimeIs;
use super::lines::Row;
use super::sheet::Sheet;
use super::written::{
    clock_parts, cut, date, has_month_name, is_date_only, minutes_seconds, offset_behind,
    offset_named, parts, seconds,
};
use jiff::civil::{DateTime, Time};
use jiff::tz::{AmbiguousOffset, Offset, TimeZone};
use jiff::{SignedDuration, Timestamp};

/// Half a day, ms.
pub const HALF_DAY: f64 = 43_200_000.0;

/// What the dates of a file say about which comes first.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum DayOrder {
    /// There is nothing to say: the year comes first, or there are no dates.
    None,
    /// A day above 12 stands first.
    DayFirst,
    /// A day above 12 stands second.
    MonthFirst,
    /// Both fit.
    Both,
}

/// How a file tells the time.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Stamps {
    time: usize,
    date: Option<usize>,
    /// What its dates say.
    pub order: DayOrder,
    /// Times of day or spans without any date.
    pub is_of_day: bool,
}

/// What a row's time is read with.
pub struct Reader<'a> {
    /// Which sign stands before decimals.
    pub figures: Figures,
    /// What the column counts.
    pub time_is: TimeIs,
    /// Which comes first in dates such as 04/05/2026.
    pub day_first: bool,
    /// Where the logger stood, for stamps without an offset.
    pub zone: &'a TimeZone,
}

impl Reader<'_> {
    /// The moment of a date and a time of day here, ms since 1970; `last` is the moment before it. Where the clocks
    /// went back an hour comes twice: it is the first of the two unless that would lie before `last`.
    fn here(&self, at: DateTime, last: f64) -> Result<f64, String> {
        let zoned = self.zone.to_ambiguous_timestamp(at);
        let by = |offset: Offset| {
            offset
                .to_timestamp(at)
                .map(|t| t.as_millisecond() as f64)
                .map_err(|e| e.to_string())
        };
        match zoned.offset() {
            AmbiguousOffset::Unambiguous { offset } => by(offset),
            AmbiguousOffset::Gap { .. } => Err(format!(
                "{at} is no time there: the clocks went forward. Is the place right?"
            )),
            AmbiguousOffset::Fold { before, after } => {
                let first = by(before)?;
                if first > last { Ok(first) } else { by(after) }
            }
        }
    }
}

impl Stamps {
    /// How the rows of a file tell the time.
    pub fn of(sheet: &Sheet, time: usize, date: Option<usize>) -> Self {
        let (mut day, mut month, mut any) = (false, false, false);
        let mut is_of_day = date.is_none();
        for r in sheet.rows.iter() {
            let text = r.cell(date.unwrap_or(time));
            let (d, t) = match date {
                Some(_) => (Some(text), None),
                None => cut(text),
            };
            is_of_day &= d.is_none() && t.is_some();
            let Some(([a, b, _], between)) = d.and_then(parts) else {
                continue;
            };
            if a > 31 || between == '.' || d.is_some_and(has_month_name) {
                continue;
            }
            any = true;
            day |= a > 12;
            month |= b > 12;
        }
        let order = match (any, day, month) {
            (false, ..) => DayOrder::None,
            (_, true, _) => DayOrder::DayFirst,
            (_, _, true) => DayOrder::MonthFirst,
            _ => DayOrder::Both,
        };
        Self {
            time,
            date,
            order,
            is_of_day,
        }
    }

    /// Whether the newest row comes first. A time of day that passes midnight falls by more than half a day, and once.
    pub fn is_falling(&self, times: &[f64]) -> bool {
        if !self.is_of_day {
            return times.first() > times.last();
        }
        let small = |d: f64| d > 0.0 && d < HALF_DAY;
        let count = |sign: f64| {
            times
                .windows(2)
                .filter(|w| small((w[1] - w[0]) * sign))
                .count()
        };
        count(-1.0) > count(1.0)
    }

    /// Whether some of its stamps say neither an offset nor that they count from a start: the place has to be known.
    pub fn needs_place(&self, sheet: &Sheet, time_is: TimeIs) -> bool {
        match time_is {
            TimeIs::SheetDays => true,
            TimeIs::Stamp => {
                !self.is_of_day
                    && offset_named(&sheet.head[self.time]).is_none()
                    && sheet.rows.iter().any(|r| {
                        let cell = r.cell(self.time);
                        cell.parse::<Timestamp>().is_err() && offset_behind(cell).is_none()
                    })
            }
            _ => false,
        }
    }

    /// Milliseconds since 1970, or since midnight or the start where there is no date; `last` is the row before.
    pub fn ms(&self, row: Row<'_>, by: &Reader<'_>, last: f64) -> Result<f64, String> {
        let cell = row.cell(self.time);
        let whole = match self.date {
            Some(d) => format!("{} {cell}", row.cell(d)),
            None => cell.to_owned(),
        };
        let unknown = || match by.time_is {
            TimeIs::Stamp => format!(
                "“{whole}” is neither a time such as 2026-05-04 09:30:00 nor a number of seconds"
            ),
            is => format!("“{whole}” is no time in {}", is.words()),
        };
        match by.time_is {
            TimeIs::Stamp => {}
            TimeIs::MinutesSeconds if clock_parts(cell) == Some(3) => {
                return seconds(cell).map(|s| s * 1e3).ok_or_else(unknown);
            }
            TimeIs::MinutesSeconds => {
                return minutes_seconds(cell).map(|s| s * 1e3).ok_or_else(unknown);
            }
            TimeIs::HoursMinutes => return seconds(cell).map(|s| s * 1e3).ok_or_else(unknown),
            TimeIs::SheetDays => {
                let ms = by.figures.parse(cell).map(|n| TimeIs::SheetDays.ms(n));
                let at = ms.and_then(|ms| Timestamp::from_millisecond(ms as i64).ok());
                return by.here(Offset::UTC.to_datetime(at.ok_or_else(unknown)?), last);
            }
            counted => {
                let n = by.figures.parse(cell).ok_or_else(unknown)?;
                return Ok(counted.ms(n));
            }
        }
        if let Ok(t) = whole.parse::<Timestamp>() {
            return Ok(t.as_millisecond() as f64);
        }
        if self.date.is_none() && is_date_only(cell) {
            return Err(format!(
                "“{cell}” is a date without a time of day: name the column that holds the time, and this one as \
                 its date"
            ));
        }
        let (bare, own) = match offset_behind(cell) {
            Some((rest, offset)) => (rest, Some(offset)),
            None => (cell, None),
        };
        let (d, t) = match self.date {
            Some(i) => (Some(row.cell(i)), Some(bare)),
            None => cut(bare),
        };
        let of_day = t.and_then(seconds).ok_or_else(unknown)?;
        let Some(d) = d else {
            return Ok(of_day * 1e3);
        };
        let date = date(d, by.day_first).ok_or_else(unknown)?;
        let at = DateTime::from_parts(date, Time::midnight())
            .checked_add(SignedDuration::from_millis((of_day * 1e3).round() as i64))
            .map_err(|e| e.to_string())?;
        match own {
            Some(offset) => offset
                .to_timestamp(at)
                .map(|t| t.as_millisecond() as f64)
                .map_err(|e| e.to_string()),
            None => by.here(at, last),
        }
    }
}
