//! What the pages share: a circuit's tests with their words, its run, its clock.

use crate::error::ApiError;
use crate::judge::{JudgedTest, judge};
use crate::state::AppState;
use crate::wire::{Clock, Plan, Run, RunMark, RunPoint, RunSegment, SurveyDoc, TestRow, Verdict};
use ruhe_core::procedure::Step;
use ruhe_core::quantity::Units;
use ruhe_core::reading::{EventKind, Kind, Quantity};
use ruhe_store::rows;
use std::sync::Arc;

/// A test with all that is known of it.
pub struct Known {
    pub row: rows::Test,
    pub title: String,
    pub plan: Plan,
    pub ended_ms: Option<i64>,
    pub judged: Arc<JudgedTest>,
    pub is_live: bool,
}

pub fn title(row: &rows::Test) -> String {
    let name = match Kind::from_code(&row.kind) {
        Some(Kind::PressureHold) => "Hold",
        Some(Kind::VacuumDecay) => "Decay",
        Some(Kind::PullDown) => "Pull-down",
        Some(Kind::RigCheck) => "Rig check",
        Some(Kind::LeakBy) => "Leak-by",
        None => "Test",
    };
    format!("{name} {}", row.attempt)
}

pub fn known(state: &AppState, row: rows::Test, units: Units) -> Result<Known, ApiError> {
    let (survey, _) = super::survey::survey_of(state, &row.circuit_id)?;
    known_with(state, row, &survey, units)
}

fn known_with(
    state: &AppState,
    row: rows::Test,
    survey: &SurveyDoc,
    units: Units,
) -> Result<Known, ApiError> {
    let judged = judge(state, &row, units)?;
    let plan = Plan::of_row(&row)?;
    // With several sections under test a name says which.
    let several = survey.sections.iter().filter(|s| s.is_tested).count() > 1;
    let section = plan
        .section
        .as_ref()
        .filter(|_| several)
        .map_or_else(String::new, |s| format!(", {s}"));
    Ok(Known {
        title: format!("{}{section}", title(&row)),
        plan,
        ended_ms: state.store.test_end(&row.id)?.map(|e| e.at_ms),
        judged,
        is_live: state.feeds.is_on(&row.id),
        row,
    })
}

pub fn all_of(state: &AppState, circuit: &str, units: Units) -> Result<Vec<Known>, ApiError> {
    let (survey, _) = super::survey::survey_of(state, circuit)?;
    all_with(state, circuit, &survey, units)
}

/// A circuit's tests, its survey known already.
pub fn all_with(
    state: &AppState,
    circuit: &str,
    survey: &SurveyDoc,
    units: Units,
) -> Result<Vec<Known>, ApiError> {
    state
        .store
        .tests_of(circuit)?
        .into_iter()
        .map(|t| known_with(state, t, survey, units))
        .collect()
}

impl Known {
    pub fn verdict(&self) -> &Verdict {
        &self.judged.verdict
    }
    pub fn row_view(&self) -> TestRow {
        TestRow {
            id: self.row.id.clone(),
            kind: self.row.kind.clone(),
            title: self.title.clone(),
            attempt: self.row.attempt,
            created_ms: self.row.created_ms,
            ended_ms: self.ended_ms,
            word: self.verdict().word.clone(),
            shape: self.verdict().shape.clone(),
            headline: self.verdict().headline.clone(),
            is_live: self.is_live,
        }
    }
    /// Pressure a hold stood at, Pa gauge, once its supply was shut (not what pressing up overshot to): one that fell, the
    /// highest it fell from; any other, where it stood when it began to count.
    pub fn held_pa(&self) -> f64 {
        let r = &self.judged.recording();
        let Some(gauge) = r.system_gauges().next() else {
            return 0.0;
        };
        let shut = r
            .last_event(EventKind::SupplyIsolated)
            .unwrap_or(f64::NEG_INFINITY);
        let s = r.above_air(gauge);
        if self.verdict().outcome == "falls" {
            return s
                .between(shut, f64::INFINITY)
                .v
                .into_iter()
                .fold(0.0, f64::max);
        }
        let settled = self
            .verdict()
            .hold
            .as_ref()
            .and_then(|h| h.settled_at_s)
            .filter(|t| *t >= shut);
        settled
            .and_then(|t| s.at(t))
            .or_else(|| s.between(shut, f64::INFINITY).v.first().copied())
            .unwrap_or(0.0)
    }
    /// What its gauges showed last, the higher of them, Pa gauge.
    pub fn last_pa(&self) -> Option<f64> {
        let r = &self.judged.recording();
        r.system_gauges()
            .filter_map(|i| r.above_air(i).v.last().copied())
            .reduce(f64::max)
    }
    /// Time of the last reading.
    pub fn last_ms(&self) -> Option<i64> {
        self.judged
            .recording()
            .readings
            .last()
            .map(|r| self.judged.start_ms + (r.at_s * 1e3) as i64)
    }
    fn segment(&self) -> Option<RunSegment> {
        let r = &self.judged.recording();
        let channel = r.channels.iter().position(|c| c.is_system_pressure())?;
        let (s, _) = r.series(channel).thinned(80);
        let air = r.atmosphere().0.pa();
        let is_vacuum = r.channels[channel].quantity == Quantity::AbsolutePressure
            && s.v.first().is_some_and(|&v| v < air);
        let shift = if !is_vacuum && r.channels[channel].quantity == Quantity::AbsolutePressure {
            air
        } else {
            0.0
        };
        let at = |t: f64| self.judged.start_ms + (t * 1e3) as i64;
        Some(RunSegment {
            test_id: self.row.id.clone(),
            kind: self.row.kind.clone(),
            title: self.title.clone(),
            from_ms: at(*s.t.first()?),
            to_ms: at(*s.t.last()?),
            shape: self.verdict().shape.clone(),
            is_vacuum,
            points: s
                .t
                .iter()
                .zip(&s.v)
                .map(|(&t, &v)| RunPoint {
                    at_ms: at(t),
                    pa: v - shift,
                })
                .collect(),
        })
    }
}

pub fn run(tests: &[Known], steps: &[rows::Step], repairs: &[rows::Repair]) -> Run {
    let mut marks: Vec<RunMark> = steps
        .iter()
        .filter_map(|s| {
            Some(RunMark {
                at_ms: s.at_ms,
                text: Step::from_code(&s.step)?.title().into(),
            })
        })
        .collect();
    marks.extend(repairs.iter().map(|r| RunMark {
        at_ms: r.at_ms,
        text: format!("Mended: {}", r.place),
    }));
    for t in tests {
        for e in &t.judged.recording().events {
            let text = if e.note.is_empty() {
                e.kind.code().replace('_', " ")
            } else {
                e.note.clone()
            };
            marks.push(RunMark {
                at_ms: t.judged.start_ms + (e.at_s * 1e3) as i64,
                text,
            });
        }
    }
    marks.sort_by_key(|m| m.at_ms);
    Run {
        segments: tests.iter().filter_map(Known::segment).collect(),
        marks,
    }
}

/// When a running test is due, if its clock runs.
pub fn due_ms(t: &Known) -> Option<i64> {
    let from = |s: f64| t.judged.start_ms + (s * 1e3) as i64;
    if t.ended_ms.is_some() {
        return None;
    }
    if let (Some(d), Some(h)) = (t.plan.planned_s, t.verdict().hold.as_ref()) {
        return h.settled_at_s.map(|s| from(s + d));
    }
    if let Some(p) = &t.verdict().pull {
        return p.break_until_s.or(p.arrival_s).map(from);
    }
    let d = t.verdict().decay.as_ref()?;
    d.isolated_at_s.map(|i| from(i + d.limit_at_s))
}

/// When the next reading is due, if one was asked for.
pub fn read_at_ms(t: &Known) -> Option<i64> {
    let every = t
        .plan
        .read_every_s
        .filter(|_| t.ended_ms.is_none() && !t.is_live)?;
    Some(t.last_ms().unwrap_or(t.row.created_ms) + (every * 1e3) as i64)
}

/// When the gauge will switch itself off, counted from the last reading (each is a touch of the gauge).
pub fn off_at_ms(t: &Known) -> Option<i64> {
    let after = t
        .plan
        .auto_off_s
        .filter(|_| t.ended_ms.is_none() && !t.is_live)?;
    t.last_ms().map(|l| l + (after * 1e3) as i64)
}

/// The clock that matters: a reading that is due first, then when the running test is due, else since when it runs.
pub fn clock(tests: &[Known]) -> Option<Clock> {
    let t = tests.iter().rev().find(|t| t.ended_ms.is_none())?;
    let due = due_ms(t).map(|at_ms| Clock {
        kind: "due".into(),
        at_ms,
        label: format!("{} due", t.title),
    });
    let reading = read_at_ms(t).map(|at_ms| Clock {
        kind: "due".into(),
        at_ms,
        label: "next reading".into(),
    });
    match (due, reading) {
        (Some(d), Some(r)) => Some(if r.at_ms < d.at_ms { r } else { d }),
        (Some(c), None) | (None, Some(c)) => Some(c),
        (None, None) => {
            let label = if t
                .verdict()
                .reasons
                .iter()
                .any(|r| r == "supply_not_isolated")
                || t.last_ms().is_none()
            {
                "pressing up since"
            } else if t.plan.planned_s.is_some() {
                "settling since"
            } else {
                return Some(Clock {
                    kind: "since".into(),
                    at_ms: t.judged.start_ms,
                    label: format!("{} since", t.title),
                });
            };
            Some(Clock {
                kind: "since".into(),
                at_ms: t.judged.start_ms,
                label: label.into(),
            })
        }
    }
}
