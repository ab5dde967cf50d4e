//! What of a file may be read in two ways: which ways fit, what tells them apart, and what a person said.

use super::cell::Figures;
use super::clock::{TimeIs, ways};
use super::figures::{Written, written};
use super::lines::Row;
use super::sheet::{Sheet, trusted};
use super::stamp::{DayOrder as Told, Reader, Stamps};
use super::written::zone_of;
use super::{Answers, DayOrder, MOST_READINGS, Open, SameTime, Timed, times};
use crate::named;
use crate::reading::Channel;
use crate::reading::package::impossible;
use jiff::tz::TimeZone;

named! {
    /// What is asked about a file.
    Ask {
        /// Which sign stands before decimals.
        Figures = "figures",
        /// What the time column counts.
        TimeIs = "time_is",
        /// Which comes first in its dates.
        DayOrder = "day_order",
        /// What rows of one stamp are.
        SameTime = "same_time",
        /// Of how many rows one is taken.
        Every = "every",
    }
}

impl Answers {
    /// The same with one more, by its code.
    #[must_use]
    pub fn with(self, about: Ask, code: &str) -> Self {
        let mut out = self;
        match about {
            Ask::Figures => out.figures = Figures::from_code(code),
            Ask::TimeIs => out.time_is = TimeIs::from_code(code),
            Ask::DayOrder => out.day_order = DayOrder::from_code(code),
            Ask::SameTime => out.same_time = SameTime::from_code(code),
            Ask::Every => out.every = code.parse().ok(),
        }
        out
    }

    /// Whether this was said.
    #[must_use]
    pub fn has(&self, about: Ask) -> bool {
        match about {
            Ask::Figures => self.figures.is_some(),
            Ask::TimeIs => self.time_is.is_some(),
            Ask::DayOrder => self.day_order.is_some(),
            Ask::SameTime => self.same_time.is_some(),
            Ask::Every => self.every.is_some(),
        }
    }
}

/// One way to read it.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Choice {
    /// As it is answered.
    pub code: String,
    /// As it is offered.
    pub words: String,
}

/// A question that a file leaves open.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Question {
    /// What it is about.
    pub about: Ask,
    /// In a sentence.
    pub words: String,
    /// Every way that fits.
    pub choices: Vec<Choice>,
}

/// The ways that fit a file.
pub struct Decided {
    written: Written,
    time_is: Vec<TimeIs>,
    day_order: Told,
}

/// One way for each.
pub struct By {
    pub figures: Figures,
    pub time_is: TimeIs,
    pub day_first: bool,
    pub same_time: Option<SameTime>,
}

impl By {
    pub fn reader<'a>(&self, zone: &'a TimeZone) -> Reader<'a> {
        Reader {
            figures: self.figures,
            time_is: self.time_is,
            day_first: self.day_first,
            zone,
        }
    }
}

impl Decided {
    /// The ways that fit these columns of a file, and its time.
    pub fn of(
        sheet: &Sheet,
        time: usize,
        date: Option<usize>,
        channels: &[(usize, &Channel)],
    ) -> Self {
        let is_possible = |i: usize, value: f64| {
            channels
                .iter()
                .filter(|c| c.0 == i)
                .all(|(_, c)| impossible(c, c.to_si(value)).is_none())
        };
        let columns: Vec<usize> = channels.iter().map(|c| c.0).chain([time]).collect();
        let written = written(sheet, &columns, &is_possible);
        let figures = written.fit.first().copied().unwrap_or(Figures::Point);
        Self {
            time_is: ways(sheet, time, date, figures),
            day_order: Stamps::of(sheet, time, date).order,
            written,
        }
    }

    /// The questions it leaves open, before anything was said.
    pub fn questions(&self) -> Vec<Question> {
        let mut out = Vec::new();
        if let ([_, _], Some(text)) = (&self.written.fit[..], &self.written.apart) {
            let choices = self.written.fit.iter().filter_map(|f| {
                Some(Choice {
                    code: f.code().into(),
                    words: f.parse(text)?.to_string(),
                })
            });
            out.push(Question {
                about: Ask::Figures,
                words: format!("What is “{text}” in this file?"),
                choices: choices.collect(),
            });
        }
        if self.time_is.len() > 1 {
            out.push(Question {
                about: Ask::TimeIs,
                words: "What does its time column count?".into(),
                choices: self
                    .time_is
                    .iter()
                    .map(|t| Choice {
                        code: t.code().into(),
                        words: t.words().into(),
                    })
                    .collect(),
            });
        }
        if self.day_order == Told::Both {
            let order = |o: DayOrder, words: &str| Choice {
                code: o.code().into(),
                words: words.into(),
            };
            out.push(Question {
                about: Ask::DayOrder,
                words: "Which comes first in its dates?".into(),
                choices: vec![
                    order(DayOrder::Day, "the day"),
                    order(DayOrder::Month, "the month"),
                ],
            });
        }
        out
    }

    /// One way for each, by what was said where more than one fits.
    pub fn with(&self, answers: &Answers) -> Result<By, String> {
        let apart = self.written.apart.clone().unwrap_or_default();
        let figures = match (&self.written.fit[..], answers.figures) {
            ([], _) => {
                let (line, text) = self.written.unlike.clone().unwrap_or_default();
                return Err(format!(
                    "“{text}” in line {line} is written otherwise than the figures before it: point and comma are mixed"
                ));
            }
            (fit, Some(said)) if fit.contains(&said) => said,
            ([one], None) => *one,
            ([one], Some(_)) => {
                return Err(format!(
                    "the figures of this file have a {} before their decimals",
                    match one {
                        Figures::Point => "point",
                        Figures::Comma => "comma",
                    }
                ));
            }
            (_, _) => {
                return Err(format!(
                    "“{apart}” may have a decimal sign or one between thousands: say which"
                ));
            }
        };
        let time_is = match (&self.time_is[..], answers.time_is) {
            (fit, Some(said)) if fit.contains(&said) => said,
            (_, Some(said)) => {
                return Err(format!("its times are not in {}", said.words()));
            }
            ([one], None) => *one,
            ([], None) => return Err("these numbers are no times since 1970".into()),
            (fit, None) => {
                let words: Vec<&str> = fit.iter().map(|t| t.words()).collect();
                return Err(format!("these may be {}: say which", words.join(" or ")));
            }
        };
        let day_first = match (answers.day_order, self.day_order) {
            (Some(DayOrder::Day), Told::MonthFirst) | (Some(DayOrder::Month), Told::DayFirst) => {
                return Err("these dates have a day above 12 in the other place".into());
            }
            (Some(said), _) => said == DayOrder::Day,
            (None, Told::DayFirst | Told::None) => true,
            (None, Told::MonthFirst) => false,
            (None, Told::Both) => {
                return Err(
                    "both the day and the month could come first in these dates: say which".into(),
                );
            }
        };
        Ok(By {
            figures,
            time_is,
            day_first,
            same_time: answers.same_time,
        })
    }
}

/// Whether two rows both give a value in one of these columns, and another one.
fn differ(a: Row<'_>, b: Row<'_>, columns: &[usize]) -> bool {
    columns.iter().any(|&i| {
        let (a, b) = (a.cell(i), b.cell(i));
        !a.is_empty() && !b.is_empty() && a != b
    })
}

/// The groups of rows with one stamp, as places of the first and behind the last.
fn groups(timed: &[Timed<'_>]) -> Vec<(usize, usize)> {
    let mut out: Vec<(usize, usize)> = Vec::new();
    for i in 0..timed.len() {
        match out.last_mut() {
            Some(g) if timed[g.0].ms == timed[i].ms => g.1 = i + 1,
            _ => out.push((i, i + 1)),
        }
    }
    out
}

/// Whether rows of one stamp say different things.
fn is_doubled(timed: &[Timed<'_>], columns: &[usize]) -> Option<u64> {
    groups(timed).into_iter().find_map(|(a, b)| {
        (a + 1..b)
            .find(|&i| differ(timed[i - 1].row, timed[i].row, columns))
            .map(|i| timed[i].row.line())
    })
}

/// What a file leaves open when these columns of it are taken, and the first way to read it that fits.
pub fn open(
    sheet: &Sheet,
    (time, date): (usize, Option<usize>),
    channels: &[(usize, &Channel)],
) -> (Open, Option<By>) {
    let decided = Decided::of(sheet, time, date, channels);
    let mut questions = decided.questions();
    // Whatever is open, the first way that fits tells the order of rows as well as another.
    let first = questions.iter().fold(Answers::default(), |a, q| {
        a.with(q.about, q.choices.first().map_or("", |c| &c.code))
    });
    let by = decided.with(&first).ok();
    let stamps = Stamps::of(sheet, time, date);
    if let Some(by) = &by {
        let taken: Vec<usize> = channels.iter().map(|c| c.0).collect();
        let zone = zone_of(&sheet.head[time], &TimeZone::UTC);
        if let Ok(timed) = times(&trusted(sheet, &taken), &stamps, &by.reader(&zone)) {
            questions.extend(is_doubled(&timed, &taken).map(about_same_time));
        }
    }
    questions.extend(too_many(sheet.rows.len(), channels.len()));
    let needs_place = by
        .as_ref()
        .is_some_and(|by| stamps.needs_place(sheet, by.time_is));
    let open = Open {
        questions,
        needs_place,
    };
    (open, by)
}

/// One in so many rows, in steps that somebody would choose.
const THINNED: [u32; 10] = [2, 5, 10, 20, 50, 100, 200, 500, 1_000, 2_000];

/// Of so many rows one is to be taken, where a file holds more readings than a test takes.
fn step(rows: usize, columns: usize) -> Option<u32> {
    // The first and the last row are taken beside the even steps.
    let fits = |n: &u32| (rows / *n as usize + 2) * columns <= MOST_READINGS;
    (rows * columns > MOST_READINGS)
        .then(|| THINNED.into_iter().find(fits))
        .flatten()
}

/// The question about such a file.
fn too_many(rows: usize, columns: usize) -> Option<Question> {
    let (every, readings) = (step(rows, columns)?, rows * columns);
    Some(Question {
        about: Ask::Every,
        words: format!(
            "It holds {readings} readings, and a test takes {MOST_READINGS} at most. Take a part of its rows?"
        ),
        choices: vec![Choice {
            code: every.to_string(),
            words: format!("one row in {every}, and the last"),
        }],
    })
}

/// Leaves out rows as said, of a file with so many rows and columns; only what was offered is done.
pub fn thin_out(
    timed: &mut Vec<Timed<'_>>,
    (rows, columns): (usize, usize),
    said: &Answers,
) -> Result<(), String> {
    let every = match (said.every, step(rows, columns)) {
        (None, None) => return Ok(()),
        (Some(n), Some(offered)) if n == offered => n as usize,
        (Some(_), None) => return Err("it is taken whole: a test takes all its readings".into()),
        (_, Some(_)) => {
            return Err(format!(
                "a test takes {MOST_READINGS} readings at most: say how it is thinned"
            ));
        }
    };
    let last = timed.len().saturating_sub(1);
    let mut places = 0..;
    timed.retain(|_| places.next().is_some_and(|i| i % every == 0 || i == last));
    Ok(())
}

/// The question about rows of one stamp.
fn about_same_time(line: u64) -> Question {
    let choice = |s: SameTime, words: &str| Choice {
        code: s.code().into(),
        words: words.into(),
    };
    Question {
        about: Ask::SameTime,
        words: format!(
            "Line {line} has the time of the line before, with other values. What are such rows?"
        ),
        choices: vec![
            choice(
                SameTime::Spread,
                "readings at even steps until the next stamp",
            ),
            choice(SameTime::Last, "the last of them counts"),
        ],
    }
}

/// Sets rows of one stamp apart as said, and leaves out those that say nothing new: how many.
pub fn told_apart(
    timed: &mut Vec<Timed<'_>>,
    columns: &[usize],
    said: Option<SameTime>,
) -> Result<usize, (u64, String)> {
    let before = timed.len();
    timed.dedup_by(|b, a| a.ms == b.ms && columns.iter().all(|&i| a.row.cell(i) == b.row.cell(i)));
    let duplicates = before - timed.len();
    let Some(line) = is_doubled(timed, columns) else {
        return Ok(duplicates);
    };
    let all = groups(timed);
    match said {
        None => Err((
            line,
            "this row has the time of the row before, with other values: say what such rows are"
                .into(),
        )),
        Some(SameTime::Last) => {
            let mut is_last = vec![false; timed.len()];
            for g in &all {
                is_last[g.1 - 1] = true;
            }
            let mut kept = is_last.into_iter();
            timed.retain(|_| kept.next().unwrap_or(false));
            Ok(duplicates)
        }
        Some(SameTime::Spread) => {
            let starts: Vec<f64> = all.iter().map(|g| timed[g.0].ms).collect();
            for (k, &(a, b)) in all.iter().enumerate() {
                // The last group has no stamp after it: its steps are those of the group before.
                let step = match (starts.get(k + 1), k.checked_sub(1)) {
                    (Some(next), _) => (next - starts[k]) / (b - a) as f64,
                    (None, Some(p)) => (starts[k] - starts[p]) / (all[p].1 - all[p].0) as f64,
                    (None, None) => 0.0,
                };
                for (j, t) in timed[a..b].iter_mut().enumerate() {
                    t.ms += step * j as f64;
                }
            }
            Ok(duplicates)
        }
    }
}
