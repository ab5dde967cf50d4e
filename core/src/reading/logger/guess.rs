//! What a file seems to be: offered for confirmation, in words and by column.

use super::Open;
use super::ask::{self, Ask, By, Question};
use super::cell::{is_dropout, is_figure, unit_behind, unit_of};
use super::clock::{TimeIs, tokens};
use super::lines::Row;
use super::sheet::{Sheet, trusted};
use super::stamp::{DayOrder, Stamps};
use super::written::{is_date_only, looks_like_time, offset_named, zone_of};
use crate::quantity::{Dimension, Unit};
use crate::reading::{Channel, Quantity};
use jiff::tz::TimeZone;

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
    /// What may be read in two ways and has to be said.
    pub questions: Vec<Question>,
    /// Its stamps carry no offset: where it stood has to be known.
    pub needs_place: bool,
    /// The same for every file of this shape: what was confirmed for one is offered for the next.
    pub shape: String,
    /// The first rows, as they stand.
    pub sample: Vec<Vec<String>>,
}

/// Rows shown.
const SAMPLE: usize = 3;

const TIMES: [&str; 13] = [
    "time",
    "epoch",
    "unix",
    "zeitstempel",
    "unixtime",
    "date",
    "datetime",
    "timestamp",
    "elapsed",
    "seconds",
    "zeit",
    "datum",
    "uhrzeit",
];

/// A difference of two temperatures is none.
const DIFFERENCES: [&str; 6] = ["delta", "dt", "δt", "difference", "diff", "td"];

fn quantity(unit: Option<Unit>, lower: &str, words: &[String]) -> Option<Quantity> {
    let has = |list: &[&str]| words.iter().any(|w| list.contains(&w.as_str()));
    if has(&DIFFERENCES) || lower.contains('δ') {
        return None;
    }
    let is_vacuum = has(&["vacuum", "vac", "vakuum"]);
    let is_absolute = has(&["abs", "absolute", "bara", "kpaa", "absolut"]) || lower.contains("(a)");
    match unit {
        // Counted down from the air on a dial, or up from nothing: the person says which.
        Some(Unit::InHg) if is_vacuum => None,
        Some(u)
            if (is_absolute || is_vacuum)
                && u != Unit::Psig
                && u.info().dimension == Dimension::Pressure =>
        {
            Some(Quantity::AbsolutePressure)
        }
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
    let words = tokens(heading);
    let first = sheet
        .rows
        .iter()
        .map(|r| r.cell(i))
        .find(|c| !c.is_empty() && !is_dropout(c));
    let example = first.unwrap_or("");
    let is_date = is_date_only(example);
    let is_numeric = is_figure(example);
    let is_named = words.iter().any(|w| TIMES.contains(&w.as_str()));
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
            quantity(unit, &lower, &words)
        },
        unit,
        example: example.into(),
    }
}

/// Says what a file seems to be.
pub fn understand(sheet: &Sheet) -> Understood {
    let columns: Vec<ColumnGuess> = (0..sheet.head.len()).map(|i| column(sheet, i)).collect();
    let time = columns.iter().position(|c| c.is_time);
    let date = columns.iter().position(|c| c.is_date);
    // A date beside a time that has its own is only said twice.
    let date = date.filter(|_| {
        time.is_some_and(|t| {
            sheet
                .rows
                .iter()
                .all(|r| !r.cell(t).contains(['/', '-', 'T']))
        })
    });
    let at = time.or(date);
    let guessed: Vec<(usize, Channel)> = columns
        .iter()
        .enumerate()
        .filter_map(|(i, c)| Some((i, Channel::new(&c.heading, c.quantity?, c.unit?))))
        .collect();
    let channels: Vec<(usize, &Channel)> = guessed.iter().map(|(i, c)| (*i, c)).collect();
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
    if sheet.is_long {
        words.push("It has one reading a row: each channel is a column here.".into());
    }
    if sheet.units.iter().any(Option::is_some) {
        words.push("The units stand in a row of their own.".into());
    }
    let gaps = sheet
        .rows
        .iter()
        .flat_map(Row::cells)
        .filter(|c| is_dropout(c))
        .count();
    if gaps > 0 {
        words.push(format!(
            "{gaps} cells say that nothing was read: they are gaps."
        ));
    }
    let read: Vec<usize> = guessed.iter().map(|g| g.0).collect();
    let bad = sheet.rows.len() - trusted(sheet, &read).len();
    if bad > 0 {
        words.push(format!(
            "In {bad} rows the logger says that something was wrong: they are left out."
        ));
    }
    let mut open = Open {
        questions: vec![],
        needs_place: false,
    };
    if let Some(t) = at {
        let by;
        (open, by) = ask::open(sheet, (t, date), &channels);
        if let Some(by) = by {
            say_times(sheet, (t, date), (&open, &by), &mut words);
        }
    }
    Understood {
        questions: open.questions,
        needs_place: open.needs_place,
        shape: format!("{}|{}", char::from(sheet.separator), sheet.head.join("|")),
        sample: sheet.rows.iter().take(SAMPLE).map(Row::owned).collect(),
        columns,
        words,
    }
}

/// What is said of its times.
fn say_times(
    sheet: &Sheet,
    (time, date): (usize, Option<usize>),
    (open, by): (&Open, &By),
    words: &mut Vec<String>,
) {
    let stamps = Stamps::of(sheet, time, date);
    match stamps.order {
        DayOrder::DayFirst => words.push("The day comes first in its dates.".into()),
        DayOrder::MonthFirst => words.push("The month comes first in its dates.".into()),
        DayOrder::Both => {
            words.push("Day and month could both come first in its dates: say which.".into());
        }
        DayOrder::None => {}
    }
    let is_asked = open.questions.iter().any(|q| q.about == Ask::TimeIs);
    if !is_asked && by.time_is != TimeIs::Stamp {
        words.push(format!("Its times are {}.", by.time_is.words()));
    }
    if let Some(offset) = offset_named(&sheet.head[time]) {
        words.push(format!("Its heading says UTC{offset}."));
    }
    let zone = zone_of(&sheet.head[time], &TimeZone::UTC);
    let reader = by.reader(&zone);
    let at = |row: Option<Row<'_>>| row.and_then(|r| stamps.ms(r, &reader, f64::NEG_INFINITY).ok());
    let (begins, ends) = (
        at(sheet.rows.iter().next()),
        at(sheet.rows.iter().next_back()),
    );
    if begins > ends && begins.is_some() && ends.is_some() && !stamps.is_of_day {
        words.push("The newest row comes first: they are turned round.".into());
    }
    if !by.time_is.is_dated() && begins.is_none_or(|f| f <= super::DATED) {
        words.push("It gives no date: it is taken to end now.".into());
    }
}
