//! Dates, times of day, spans and offsets as loggers write them, one text at a time.

use jiff::civil::Date;
use jiff::tz::{Offset, TimeZone};

const MONTHS: [&str; 12] = [
    "jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec",
];

/// Three numbers of a date in their order, and what stands between them; a month's name is its number.
pub fn parts(text: &str) -> Option<([i32; 3], char)> {
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

pub fn has_month_name(text: &str) -> bool {
    text.chars().any(|c| c.is_ascii_alphabetic())
}

/// A date; which of two comes first is said, but where it follows from the date itself.
pub fn date(text: &str, day_first: bool) -> Option<Date> {
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
pub fn seconds(text: &str) -> Option<f64> {
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

/// How many parts a clock has: 2 for 12:30, 3 for 12:30:05. Nothing: it is none.
pub fn clock_parts(cell: &str) -> Option<usize> {
    let n = cell.split(':').count();
    (n == 2 || n == 3)
        .then_some(n)
        .filter(|_| seconds(cell).is_some() || minutes_seconds(cell).is_some())
}

/// Whether it says which half of the day.
pub fn has_half(cell: &str) -> bool {
    let lower = cell.to_ascii_lowercase();
    ["am", "pm", "a.m.", "p.m."]
        .iter()
        .any(|h| lower.trim_end().ends_with(h))
}

/// Seconds of minutes and seconds, 75:30 or 75:30.5.
pub fn minutes_seconds(text: &str) -> Option<f64> {
    let text = text.trim().replace(',', ".");
    let (sign, text) = match text.strip_prefix(['-', '\u{2212}']) {
        Some(rest) => (-1.0, rest.to_owned()),
        None => (1.0, text),
    };
    let (m, s) = text.split_once(':')?;
    let whole = m.chars().all(|c| c.is_ascii_digit()) && !m.is_empty();
    let (m, s): (f64, f64) = (m.parse().ok()?, s.parse().ok()?);
    (whole && (0.0..60.0).contains(&s)).then_some(sign * (60.0 * m + s))
}

/// An offset behind a time, and what is before it: "+02:00", "+0200", "UTC", "Z".
pub fn offset_behind(text: &str) -> Option<(&str, Offset)> {
    let text = text.trim();
    for name in ["UTC", "GMT", "Z"] {
        if let Some(rest) = text.strip_suffix(name) {
            return rest
                .ends_with(|c: char| c.is_ascii_digit() || c == ' ')
                .then_some((rest.trim_end(), Offset::UTC));
        }
    }
    let i = text
        .rfind(['+', '-'])
        .filter(|&i| text[..i].contains(':'))?;
    let (sign, digits) = (
        if text[i..].starts_with('-') { -1 } else { 1 },
        &text[i + 1..],
    );
    let (h, m) = match digits.len() {
        2 => (digits, "0"),
        4 => digits.split_at(2),
        5 => digits.split_once(':')?,
        _ => return None,
    };
    let (h, m): (i32, i32) = (h.parse().ok()?, m.parse().ok()?);
    let offset = Offset::from_seconds(sign * (h * 3_600 + m * 60)).ok()?;
    Some((text[..i].trim_end(), offset))
}

/// The offset that a heading names, as "Time, GMT-05:00" does.
pub fn offset_named(heading: &str) -> Option<Offset> {
    let upper = heading.to_uppercase();
    let at = ["UTC", "GMT"].iter().find_map(|n| upper.find(n))?;
    let rest = upper[at + 3..].trim_start();
    let Some(sign) = rest.chars().next().filter(|c| "+-\u{2212}".contains(*c)) else {
        return Some(Offset::UTC);
    };
    let digits: String = rest[sign.len_utf8()..]
        .chars()
        .take_while(|c| c.is_ascii_digit() || *c == ':')
        .collect();
    let (h, m) = match digits.split_once(':') {
        Some((h, m)) => (h.to_owned(), m.to_owned()),
        None if digits.len() == 4 => (digits[..2].to_owned(), digits[2..].to_owned()),
        None => (digits, "0".to_owned()),
    };
    let (h, m): (i32, i32) = (h.parse().ok()?, m.parse().ok()?);
    let sign = if sign == '+' { 1 } else { -1 };
    Offset::from_seconds(sign * (h * 3_600 + m * 60)).ok()
}

/// Where a file's stamps are read: where its heading says, else there.
pub fn zone_of(heading: &str, otherwise: &TimeZone) -> TimeZone {
    offset_named(heading).map_or_else(|| otherwise.clone(), Offset::to_time_zone)
}

/// The date and the time of day in one cell; either may be missing.
pub fn cut(cell: &str) -> (Option<&str>, Option<&str>) {
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
    let (d, t) = cut(offset_behind(cell).map_or(cell, |(rest, _)| rest));
    t.is_some_and(|t| seconds(t).is_some() || minutes_seconds(t).is_some())
        && d.is_none_or(|d| parts(d).is_some())
}
