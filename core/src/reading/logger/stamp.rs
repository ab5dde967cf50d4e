//! Times as loggers write them.

use super::sheet::{Sheet, number};
use jiff::civil::{Date, DateTime, Time};
use jiff::tz::Offset;

/// Half a day, ms.
pub const HALF_DAY: f64 = 43_200_000.0;
/// A plain number above this is milliseconds since 1970; below, seconds, since 1970 or elapsed.
const EPOCH_MS: f64 = 1e11;

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

const MONTHS: [&str; 12] = [
    "jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec",
];

/// Three numbers of a date in their order, and what stands between them; a month's name is its number.
fn parts(text: &str) -> Option<([i32; 3], char)> {
    let between = text.chars().find(|c| "-/.".contains(*c))?;
    let mut out = [0; 3];
    let mut it = text.split(between);
    for o in &mut out {
        let part = it.next()?.trim();
        let name = part.to_ascii_lowercase();
        let month = MONTHS
            .iter()
            .position(|m| name.len() >= 3 && name.starts_with(m));
        *o = match month {
            Some(m) => i32::try_from(m).ok()? + 1,
            None if part.chars().all(|c| c.is_ascii_digit()) => part.parse().ok()?,
            None => return None,
        };
    }
    it.next().is_none().then_some((out, between))
}

fn has_month_name(text: &str) -> bool {
    text.chars().any(|c| c.is_ascii_alphabetic())
}

/// A date; which of two comes first is said, but where it follows from the date itself.
fn date(text: &str, day_first: bool) -> Option<Date> {
    let ([a, b, c], between) = parts(text)?;
    let (y, m, d) = if a > 31 {
        (a, b, c)
    } else if between == '.' || has_month_name(text) || (day_first && b <= 12) || a > 12 {
        (c, b, a)
    } else {
        (c, a, b)
    };
    let y = if y < 100 { y + 2000 } else { y };
    Date::new(
        i16::try_from(y).ok()?,
        i8::try_from(m).ok()?,
        i8::try_from(d).ok()?,
    )
    .ok()
}

/// Seconds of a time of day or a span, h:mm or h:mm:ss with a fraction; "PM" and its like count.
fn seconds(text: &str) -> Option<f64> {
    let lower = text
        .trim()
        .to_ascii_lowercase()
        .replace(['.', ' '], ".")
        .replace(".m.", "m");
    let (clock, half) = match lower.trim_end_matches('.') {
        t if t.ends_with("pm") => (t.trim_end_matches("pm"), Some(true)),
        t if t.ends_with("am") => (t.trim_end_matches("am"), Some(false)),
        t => (t, None),
    };
    let clock = clock.trim_end_matches('.').replace(',', ".");
    let mut it = clock.split(':');
    let h: f64 = it.next()?.parse().ok()?;
    let m: f64 = it.next()?.parse().ok()?;
    let s: f64 = it.next().map_or(Some(0.0), |s| s.parse().ok())?;
    if it.next().is_some() || !(0.0..60.0).contains(&m) || !(0.0..60.0).contains(&s) || h < 0.0 {
        return None;
    }
    let h = match half {
        Some(_) if !(1.0..13.0).contains(&h) => return None,
        Some(is_pm) => h % 12.0 + if is_pm { 12.0 } else { 0.0 },
        None => h,
    };
    Some(h * 3600.0 + m * 60.0 + s)
}

/// The date and the time of day in one cell; either may be missing.
fn cut(cell: &str) -> (Option<&str>, Option<&str>) {
    let cell = cell.trim();
    let is_clock = |t: &str| t.contains(':');
    match cell
        .find([' ', 'T'])
        .map(|i| (&cell[..i], cell[i + 1..].trim()))
    {
        Some((d, t)) if parts(d).is_some() && is_clock(t) => (Some(d), Some(t)),
        _ if is_clock(cell) => (None, Some(cell)),
        _ => (Some(cell), None),
    }
}

/// A date with no time of day beside it.
pub fn is_date_only(cell: &str) -> bool {
    !cell.contains(':') && (date(cell, true).is_some() || date(cell, false).is_some())
}

/// A time, a date, or both.
pub fn looks_like_time(cell: &str) -> bool {
    if cell.parse::<jiff::Timestamp>().is_ok() || is_date_only(cell) {
        return true;
    }
    let (d, t) = cut(cell);
    t.is_some_and(|t| seconds(t).is_some()) && d.is_none_or(|d| parts(d).is_some())
}

impl Stamps {
    /// How the rows of a file tell the time.
    pub fn of(sheet: &Sheet, time: usize, date: Option<usize>) -> Self {
        let cell = |r: &[String], i: usize| r.get(i).cloned().unwrap_or_default();
        let (mut day, mut month, mut any) = (false, false, false);
        let mut is_of_day = date.is_none();
        for (_, r) in &sheet.rows {
            let text = cell(r, date.unwrap_or(time));
            let (d, t) = match date {
                Some(_) => (Some(text.as_str()), None),
                None => cut(&text),
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
    pub fn is_falling<T>(&self, timed: &[(u64, T, f64)]) -> bool {
        if !self.is_of_day {
            return timed.first().map(|t| t.2) > timed.last().map(|t| t.2);
        }
        let small = |d: f64| d > 0.0 && d < HALF_DAY;
        let count = |sign: f64| {
            timed
                .windows(2)
                .filter(|w| small((w[1].2 - w[0].2) * sign))
                .count()
        };
        count(-1.0) > count(1.0)
    }

    /// Milliseconds since 1970, or since midnight or the start where there is no date.
    pub fn ms(
        &self,
        row: &[String],
        separator: u8,
        day_first: bool,
        offset_minutes: i32,
    ) -> Result<f64, String> {
        let cell = row.get(self.time).map_or("", String::as_str).trim();
        let whole = match self.date {
            Some(d) => format!("{} {cell}", row.get(d).map_or("", String::as_str).trim()),
            None => cell.to_owned(),
        };
        if self.date.is_none()
            && let Ok(n) = number(cell, separator)
        {
            // Seconds elapsed and seconds since 1970 differ only in how large they are.
            return Ok(if n > EPOCH_MS { n } else { n * 1e3 });
        }
        if let Ok(t) = whole.parse::<jiff::Timestamp>() {
            return Ok(t.as_millisecond() as f64);
        }
        if self.date.is_none() && is_date_only(cell) {
            return Err(format!(
                "“{cell}” is a date without a time of day: name the column that holds the time, and this one as its date"
            ));
        }
        let unknown = || {
            format!(
                "“{whole}” is neither a time such as 2026-05-04 09:30:00 nor a number of seconds"
            )
        };
        let (d, t) = match self.date {
            Some(i) => (row.get(i).map(|d| d.trim()), Some(cell)),
            None => cut(cell),
        };
        let of_day = t.and_then(seconds).ok_or_else(unknown)?;
        let Some(d) = d else {
            return Ok(of_day * 1e3);
        };
        let date = date(d, day_first).ok_or_else(unknown)?;
        let offset = offset_minutes
            .checked_mul(60)
            .and_then(|s| Offset::from_seconds(s).ok())
            .ok_or_else(|| format!("{offset_minutes} minutes are no time zone"))?;
        let midnight = DateTime::from_parts(date, Time::midnight());
        offset
            .to_timestamp(midnight)
            .map(|t| t.as_millisecond() as f64 + of_day * 1e3)
            .map_err(|e| e.to_string())
    }
}
