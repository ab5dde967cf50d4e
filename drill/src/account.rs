//! The account: points with the reason for each.

use crate::decision::{Decision, Give};
use crate::scenario::Phase;
use crate::session::Session;
use ruhe_sim::plant::Outcome;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// A line of it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Line {
    /// Decision, evidence, safety, time, record.
    pub part: String,
    /// Points.
    pub points: f64,
    /// Of how many.
    pub of: f64,
    /// Why.
    pub why: String,
}

/// The account of a drill.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Account {
    /// Its lines.
    pub lines: Vec<Line>,
    /// Their sum, never below 0.
    pub total: f64,
    /// Why the drill is lost, whatever the points.
    pub lost: Option<String>,
    /// Whether what was decided was right.
    pub is_right: bool,
}

/// What the record of the practice circuit says.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct RecordFacts {
    /// A limit has a source.
    pub has_source: bool,
    /// A test was kept.
    pub has_test: bool,
    /// Something was noted: an event, a step's note, a deviation.
    pub has_note: bool,
}

/// How far a probability was from what was so, squared.
#[must_use]
pub fn brier(sure: f64, was_right: bool) -> f64 {
    (sure - f64::from(was_right)).powi(2)
}

struct Decided {
    points: f64,
    why: String,
    lost: Option<String>,
    is_right: bool,
}

/// Passing rests on a stand that was seen: as high as was asked for, or isolated. Minutes.
const LEAST: f64 = 9.5;

/// Why nothing that was seen lets it pass.
fn unseen(s: &Session) -> Option<String> {
    let sheet = &s.scenario().sheet;
    match (s.scenario().phase, sheet.test_pa) {
        (Phase::Pressure, Some(pa)) => {
            let stood = s.stood();
            let is_seen = stood.iter().any(|(p, m)| *p >= 0.97 * pa && *m >= LEAST);
            (!is_seen).then(|| "Passed without a stand as high as was asked for.".into())
        }
        (Phase::Vacuum, _) => {
            let is_seen = s.isolated().iter().any(|m| *m >= LEAST);
            (!is_seen).then(|| "Passed on a rise that nobody saw.".into())
        }
        _ => None,
    }
}

fn decided(s: &Session, d: &Decision) -> Decided {
    let right = &s.scenario().right;
    let faults = s.plant().faults();
    let of = |points, why: String, is_right| Decided {
        points,
        why,
        lost: None,
        is_right,
    };
    if d.give.passes() && !faults.is_empty() {
        let left = faults.join("; ");
        return Decided {
            points: 0.0,
            why: format!("It was passed with a fault in it: {left}."),
            lost: Some(format!("Passed with a fault in it: {left}.")),
            is_right: false,
        };
    }
    if d.give.passes()
        && let Some(why) = unseen(s)
    {
        return Decided {
            points: 0.0,
            lost: Some(why.clone()),
            why,
            is_right: false,
        };
    }
    let cause = d.cause == right.cause && (right.place.is_empty() || d.place == right.place);
    let wanted = right.give.unwrap_or(if faults.is_empty() {
        Give::Pass
    } else {
        Give::Fail
    });
    if cause && d.give == wanted {
        return of(
            40.0,
            format!("Right: {}, and it {}.", right.cause.title(), wanted.words()),
            true,
        );
    }
    if cause && d.give == Give::Reserved && wanted == Give::Pass {
        return of(
            30.0,
            "Right, with a reservation that nothing asked for.".into(),
            true,
        );
    }
    let what = if cause {
        format!("The cause is right, but it {}", wanted.words())
    } else {
        format!("It was: {}", right.cause.title())
    };
    of(10.0, format!("{what}. Wrong, but safe."), false)
}

/// The account of a session; `looks` at Ruhe's words cost two points each where they were hidden.
#[must_use]
pub fn account(s: &Session, record: RecordFacts, looks: u32) -> Account {
    let mut lines = vec![];
    let mut line = |part: &str, points: f64, of: f64, why: String| {
        lines.push(Line {
            part: part.into(),
            points,
            of,
            why,
        });
    };
    let harm = s.harm();
    let mut lost = harm.as_ref().map(|(what, _)| what.clone());
    let mut is_right = false;
    match s.decided() {
        Some((_, d)) => {
            let x = decided(s, d);
            line("decision", x.points, 40.0, x.why);
            lost = lost.or(x.lost);
            is_right = x.is_right;
        }
        None => line("decision", 0.0, 40.0, "Nothing was decided.".into()),
    }
    let clues = &s.scenario().clues;
    let each = 25.0 / clues.len().max(1) as f64;
    for c in clues {
        let met = c.is_met(s);
        let why = if met {
            c.says.clone()
        } else {
            format!("Missing: {}", c.says)
        };
        line("evidence", if met { each } else { 0.0 }, each, why);
    }
    let against: Vec<&str> = s
        .did()
        .iter()
        .filter_map(|d| match &d.outcome {
            Outcome::Against { caution } => Some(caution.as_str()),
            _ => None,
        })
        .collect();
    match &harm {
        Some((what, caution)) => line("safety", 0.0, 20.0, format!("{what} {caution}")),
        None if against.is_empty() => {
            line("safety", 20.0, 20.0, "No caution was acted against.".into())
        }
        None => {
            let points = (20.0 - 5.0 * against.len() as f64).max(0.0);
            line(
                "safety",
                points,
                20.0,
                format!("Acted against: {}", against.join(" ")),
            );
        }
    }
    let (had, par) = (s.minutes(), s.scenario().par_minutes);
    let over = ((had / par - 1.0) / 2.0).clamp(0.0, 1.0);
    // Time that led nowhere earns nothing.
    let points = if is_right { 10.0 * (1.0 - over) } else { 0.0 };
    line(
        "time",
        points.round(),
        10.0,
        format!("{had:.0} minutes; par is {par:.0}."),
    );
    let facts = [
        (record.has_source, 2.0, "the source of the limits"),
        (record.has_test, 2.0, "a test in the record"),
        (record.has_note, 1.0, "a note"),
    ];
    let points: f64 = facts.iter().filter(|f| f.0).map(|f| f.1).sum();
    let missing: Vec<&str> = facts.iter().filter(|f| !f.0).map(|f| f.2).collect();
    let why = if missing.is_empty() {
        "Source, test and note are in the record.".into()
    } else {
        format!("Not in the record: {}.", missing.join(", "))
    };
    line("record", points, 5.0, why);
    if looks > 0 {
        let why = format!("Ruhe's words were looked at {looks} times.");
        line("looks", -2.0 * f64::from(looks), 0.0, why);
    }
    let sum: f64 = lines.iter().map(|l| l.points).sum();
    Account {
        total: sum.max(0.0).round(),
        lines,
        lost,
        is_right,
    }
}
