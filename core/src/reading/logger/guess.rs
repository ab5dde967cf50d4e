//! What a file seems to be: offered for confirmation, in words and by column.

use super::sheet::{Sheet, is_dropout, read, unit_behind, unit_of};
use super::stamp::{DayOrder, Stamps, is_date_only, looks_like_time};
use crate::quantity::Unit;
use crate::reading::Quantity;
use crate::reading::fault::Fault;

/// What a column seems to be.
#[derive(Debug, Clone, PartialEq)]
pub struct ColumnGuess {
    /// Heading as it stands in the file.
    pub heading: String,
    /// Looks like the time column.
    pub is_time: bool,
    /// Holds dates without a time of day.
    pub is_date: bool,
    /// Likely quantity.
    pub quantity: Option<Quantity>,
    /// Likely unit.
    pub unit: Option<Unit>,
    /// The first value, to recognise it by.
    pub example: String,
}

/// What was understood of a file.
#[derive(Debug, Clone, PartialEq)]
pub struct Understood {
    /// Its columns.
    pub columns: Vec<ColumnGuess>,
    /// In sentences, for the person who confirms it.
    pub words: Vec<String>,
    /// Day and month could both come first in its dates: it has to be said.
    pub asks_day_order: bool,
    /// The same for every file of this shape: what was confirmed for one is offered for the next.
    pub shape: String,
    /// The first rows, as they stand.
    pub sample: Vec<Vec<String>>,
}

/// Rows shown.
const SAMPLE: usize = 3;

const TIMES: [&str; 9] = [
    "time",
    "date",
    "datetime",
    "timestamp",
    "elapsed",
    "seconds",
    "zeit",
    "datum",
    "uhrzeit",
];

fn quantity(unit: Option<Unit>, lower: &str) -> Option<Quantity> {
    match unit {
        Some(Unit::DegC | Unit::DegF | Unit::K) => Some(Quantity::Temperature),
        Some(Unit::Micron | Unit::Torr | Unit::Psia) => Some(Quantity::AbsolutePressure),
        Some(Unit::HPa) => Some(Quantity::BarometricPressure),
        Some(_) => Some(Quantity::GaugePressure),
        None if lower.contains("temp") => Some(Quantity::Temperature),
        None if lower.contains("baro") => Some(Quantity::BarometricPressure),
        None if lower.contains("press") => Some(Quantity::GaugePressure),
        None => None,
    }
}

fn column(sheet: &Sheet, i: usize) -> ColumnGuess {
    let heading = &sheet.head[i];
    let lower = heading.to_lowercase();
    let words: Vec<&str> = lower
        .split(|c: char| !(c.is_alphanumeric() || "/°".contains(c)))
        .filter(|w| !w.is_empty())
        .collect();
    let first = sheet
        .rows
        .iter()
        .filter_map(|(_, r)| r.get(i))
        .find(|c| !c.is_empty() && !is_dropout(c));
    let example = first.map_or("", String::as_str);
    let is_date = is_date_only(example);
    let is_numeric = example.parse::<f64>().is_ok();
    let is_named = words.iter().any(|w| TIMES.contains(w));
    let is_time = !is_date && (is_named || (!is_numeric && looks_like_time(example)));
    let unit = sheet.units[i]
        .or_else(|| words.iter().find_map(|w| unit_of(w)))
        .or_else(|| unit_behind(example))
        .filter(|_| !is_time && !is_date);
    ColumnGuess {
        heading: heading.clone(),
        is_time,
        is_date,
        quantity: if is_time || is_date {
            None
        } else {
            quantity(unit, &lower)
        },
        unit,
        example: example.into(),
    }
}

/// Says what a file seems to be.
///
/// # Errors
/// If there is no table in it.
pub fn understand(file: &str, bytes: &[u8]) -> Result<Understood, Fault> {
    let sheet = read(file, bytes)?;
    let columns: Vec<ColumnGuess> = (0..sheet.head.len()).map(|i| column(&sheet, i)).collect();
    let time = columns.iter().position(|c| c.is_time);
    let date = columns.iter().position(|c| c.is_date);
    // A date beside a time that has its own is only said twice.
    let date = date.filter(|_| {
        time.is_some_and(|t| {
            sheet
                .rows
                .iter()
                .all(|(_, r)| !r[t].contains(['/', '-', 'T']))
        })
    });
    let stamps = time.or(date).map(|t| Stamps::of(&sheet, t, date));
    let mut words = vec![format!(
        "{} rows of {} columns, {}, separated by {}.",
        sheet.rows.len(),
        sheet.head.len(),
        sheet.encoding,
        match sheet.separator {
            b';' => "semicolons",
            b'\t' => "tabs",
            b',' => "commas",
            _ => "a sign of its own",
        }
    )];
    match sheet.around {
        (0, 0) => {}
        (before, 0) => words.push(format!("{before} lines before the heading are left out.")),
        (0, after) => words.push(format!("{after} lines after the last row are left out.")),
        (before, after) => words.push(format!(
            "{before} lines before the heading and {after} after the last row are left out."
        )),
    }
    if sheet.units.iter().any(Option::is_some) {
        words.push("The units stand in a row of their own.".into());
    }
    let gaps = sheet
        .rows
        .iter()
        .flat_map(|(_, r)| r)
        .filter(|c| is_dropout(c))
        .count();
    if gaps > 0 {
        words.push(format!(
            "{gaps} cells say that nothing was read: they are gaps."
        ));
    }
    if let Some(s) = stamps {
        let at = |row: Option<&(u64, Vec<String>)>| {
            row.and_then(|(_, r)| s.ms(r, sheet.separator, true, 0).ok())
        };
        let (first, last) = (at(sheet.rows.first()), at(sheet.rows.last()));
        if first > last && !s.is_of_day {
            words.push("The newest row comes first: they are turned round.".into());
        }
        if s.is_of_day || first.is_some_and(|f| f < super::DATED) {
            words.push("It gives no date: it is taken to end now.".into());
        }
        match s.order {
            DayOrder::DayFirst => words.push("The day comes first in its dates.".into()),
            DayOrder::MonthFirst => words.push("The month comes first in its dates.".into()),
            DayOrder::Both => {
                words.push("Day and month could both come first in its dates: say which.".into());
            }
            DayOrder::None => {}
        }
    }
    Ok(Understood {
        asks_day_order: stamps.is_some_and(|s| s.order == DayOrder::Both),
        shape: format!("{}|{}", char::from(sheet.separator), sheet.head.join("|")),
        sample: sheet
            .rows
            .iter()
            .take(SAMPLE)
            .map(|(_, r)| r.clone())
            .collect(),
        columns,
        words,
    })
}
