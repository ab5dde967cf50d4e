//! What the figures of a time column count: seconds, minutes, days, since the start or since 1970; and what two parts
//! of a clock are. The heading says it, or the units' row, or the size leaves only one; otherwise it is asked.

use super::cell::Figures;
use super::sheet::Sheet;
use super::written::{clock_parts, cut, has_half};
use crate::named;

named! {
    /// How a time column is to be read.
    TimeIs {
        /// Dates and times of day, or h:mm:ss.
        Stamp = "stamp",
        /// Seconds since the start.
        Seconds = "s",
        /// Minutes since the start.
        Minutes = "min",
        /// Hours since the start.
        Hours = "h",
        /// Days since the start.
        Days = "days",
        /// Milliseconds since the start.
        Milliseconds = "ms",
        /// Minutes and seconds, 12:30 being twelve and a half minutes.
        MinutesSeconds = "mm:ss",
        /// Hours and minutes, 12:30 being half past twelve.
        HoursMinutes = "h:mm",
        /// Seconds since 1970.
        EpochSeconds = "epoch_s",
        /// Milliseconds since 1970.
        EpochMilliseconds = "epoch_ms",
        /// Microseconds since 1970.
        EpochMicroseconds = "epoch_us",
        /// Nanoseconds since 1970.
        EpochNanoseconds = "epoch_ns",
        /// Days since the end of 1899, as spreadsheets count.
        SheetDays = "sheet_days",
    }
}

/// Days from the spreadsheets' zero, 30 December 1899, to 1 January 1970.
const SHEET_ZERO: f64 = 25_569.0;
const DAY_MS: f64 = 86_400_000.0;
/// Seconds since 1970 in 2000 and in 2100.
const THIS_AGE: (f64, f64) = (946_684_800.0, 4_102_444_800.0);
/// Days since 1899 in 2000 and in 2100.
const SHEET_AGE: (f64, f64) = (36_526.0, 73_051.0);
/// No log is shorter or longer than this, s.
const LASTS: (f64, f64) = (10.0, 60.0 * 86_400.0);

impl TimeIs {
    /// Milliseconds, for what counts from a start or from 1970.
    #[must_use]
    pub fn ms(self, n: f64) -> f64 {
        match self {
            Self::Seconds | Self::EpochSeconds => n * 1e3,
            Self::Minutes => n * 60e3,
            Self::Hours => n * 3_600e3,
            Self::Days => n * DAY_MS,
            Self::EpochMicroseconds => n / 1e3,
            Self::EpochNanoseconds => n / 1e6,
            Self::SheetDays => ((n - SHEET_ZERO) * DAY_MS).round(),
            _ => n,
        }
    }

    /// Whether it says on which day.
    #[must_use]
    pub fn is_dated(self) -> bool {
        matches!(
            self,
            Self::EpochSeconds
                | Self::EpochMilliseconds
                | Self::EpochMicroseconds
                | Self::EpochNanoseconds
                | Self::SheetDays
        )
    }

    /// In words, for who has to say it.
    #[must_use]
    pub fn words(self) -> &'static str {
        match self {
            Self::Stamp => "dates and times",
            Self::Seconds => "seconds",
            Self::Minutes => "minutes",
            Self::Hours => "hours",
            Self::Days => "days",
            Self::Milliseconds => "milliseconds",
            Self::MinutesSeconds => "minutes and seconds",
            Self::HoursMinutes => "hours and minutes",
            Self::EpochSeconds => "seconds since 1970",
            Self::EpochMilliseconds => "milliseconds since 1970",
            Self::EpochMicroseconds => "microseconds since 1970",
            Self::EpochNanoseconds => "nanoseconds since 1970",
            Self::SheetDays => "days as spreadsheets count them",
        }
    }
}

/// Words of a heading.
pub fn tokens(heading: &str) -> Vec<String> {
    heading
        .to_lowercase()
        .split(|c: char| !(c.is_alphanumeric() || "/°".contains(c)))
        .filter(|w| !w.is_empty())
        .map(Into::into)
        .collect()
}

/// The unit of time that a heading or a units' row names.
fn named_unit(words: &[String]) -> Option<TimeIs> {
    words.iter().find_map(|w| match w.as_str() {
        "s" | "sec" | "secs" | "second" | "seconds" | "sekunden" | "sek" => Some(TimeIs::Seconds),
        "min" | "mins" | "minute" | "minutes" | "minuten" => Some(TimeIs::Minutes),
        "h" | "hr" | "hrs" | "hour" | "hours" | "stunden" => Some(TimeIs::Hours),
        "d" | "day" | "days" | "tage" => Some(TimeIs::Days),
        "ms" | "msec" | "millis" | "millisecond" | "milliseconds" => Some(TimeIs::Milliseconds),
        _ => None,
    })
}

/// What counts from 1970, by its size.
fn since_1970(least: f64, most: f64) -> Option<TimeIs> {
    [
        (1.0, TimeIs::EpochSeconds),
        (1e3, TimeIs::EpochMilliseconds),
        (1e6, TimeIs::EpochMicroseconds),
        (1e9, TimeIs::EpochNanoseconds),
    ]
    .into_iter()
    .find(|(by, _)| least >= THIS_AGE.0 * by && most < THIS_AGE.1 * by)
    .map(|(_, is)| is)
}

/// The readings that a column of plain figures allows.
fn counted(words: &[String], least: f64, most: f64) -> Vec<TimeIs> {
    let has = |list: &[&str]| words.iter().any(|w| list.contains(&w.as_str()));
    if let Some(is) = since_1970(least, most) {
        return vec![is];
    }
    if has(&["epoch", "unix"]) {
        return vec![];
    }
    if let Some(is) = named_unit(words) {
        return vec![is];
    }
    let is_of_age = least >= SHEET_AGE.0 && most < SHEET_AGE.1;
    if is_of_age && has(&["date", "datetime", "serial", "excel", "datum"]) {
        return vec![TimeIs::SheetDays];
    }
    let lasts = |is: &TimeIs| {
        let s = is.ms(most - least) / 1e3;
        (LASTS.0..LASTS.1).contains(&s)
    };
    let mut out: Vec<TimeIs> = [
        TimeIs::Seconds,
        TimeIs::Minutes,
        TimeIs::Hours,
        TimeIs::Milliseconds,
    ]
    .into_iter()
    .filter(lasts)
    .collect();
    // A part of a day that begins at nought is one since the start, too.
    if is_of_age || (most - least < 31.0 && most - least > 0.0 && most.fract() != 0.0) {
        out.push(if is_of_age {
            TimeIs::SheetDays
        } else {
            TimeIs::Days
        });
    }
    if out.is_empty() {
        out.push(TimeIs::Seconds);
    }
    out
}

/// The readings that a column of clocks with two parts allows, h:mm or mm:ss.
fn two_parts(heading: &str, cells: &[&str]) -> Vec<TimeIs> {
    let bare: String = heading
        .to_lowercase()
        .chars()
        .filter(|c| !c.is_whitespace())
        .collect();
    let says = |list: &[&str]| list.iter().any(|w| bare.contains(w));
    // The longer name first: "hh:mm:ss" holds "mm:ss".
    let is_whole = says(&["h:mm:ss", "h:m:s"]);
    if !is_whole && says(&["mm:ss", "m:ss", "min:s", "m:s"]) {
        return vec![TimeIs::MinutesSeconds];
    }
    let any = |f: &dyn Fn(&str) -> bool| cells.iter().any(|c| f(c));
    if says(&["h:mm", "hh:mm", "h:m"]) && !is_whole || any(&|c| has_half(c)) {
        return vec![TimeIs::HoursMinutes];
    }
    let is_long = any(&|c| clock_parts(c) == Some(3));
    let has_fraction = any(&|c| c.contains(['.', ',']) && clock_parts(c) == Some(2));
    if is_long || has_fraction {
        return vec![TimeIs::MinutesSeconds];
    }
    vec![TimeIs::HoursMinutes, TimeIs::MinutesSeconds]
}

/// The ways in which the time column of a file may be read, what the heading and its units' row say considered.
pub fn ways(sheet: &Sheet, time: usize, date: Option<usize>, figures: Figures) -> Vec<TimeIs> {
    let cells: Vec<&str> = sheet
        .rows
        .iter()
        .map(|r| r.cell(time))
        .filter(|c| !c.is_empty())
        .collect();
    if date.is_some() || cells.is_empty() {
        return vec![TimeIs::Stamp];
    }
    let mut words = tokens(&sheet.head[time]);
    words.extend(tokens(&sheet.unit_row[time]));
    let numbers: Vec<f64> = cells.iter().filter_map(|c| figures.parse(c)).collect();
    if numbers.len() * 10 >= cells.len() * 9 {
        let least = numbers.iter().copied().fold(f64::INFINITY, f64::min);
        let most = numbers.iter().copied().fold(f64::NEG_INFINITY, f64::max);
        return counted(&words, least, most);
    }
    let clocks: Vec<&str> = cells
        .iter()
        .copied()
        .filter(|c| cut(c).0.is_none() && clock_parts(c).is_some())
        .collect();
    if clocks.len() == cells.len() && clocks.iter().any(|c| clock_parts(c) == Some(2)) {
        let both = format!("{} {}", sheet.head[time], sheet.unit_row[time]);
        return two_parts(&both, &clocks);
    }
    vec![TimeIs::Stamp]
}
