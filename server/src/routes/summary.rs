//! What the pages share: a circuit's tests with their words, its run, its clock, its facts for the gates.

use crate::error::ApiError;
use crate::judge::{JudgedTest, judge};
use crate::state::AppState;
use crate::wire::{Clock, Plan, Run, RunMark, RunPoint, RunSegment, TestRow, Verdict};
use ruhe_core::hold::HoldOutcome;
use ruhe_core::procedure::{JobKind, Step};
use ruhe_core::quantity::Units;
use ruhe_core::reading::{Kind, Quantity};
use ruhe_core::signoff::{DecayFact, Facts, HoldFact};
use ruhe_core::vacuum::DecayOutcome;
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
    let judged = judge(state, &row, units)?;
    Ok(Known {
        title: title(&row),
        plan: Plan::of_row(&row)?,
        ended_ms: state.store.test_end(&row.id)?.map(|e| e.at_ms),
        judged,
        is_live: state.feeds.is_on(&row.id),
        row,
    })
}

pub fn all_of(state: &AppState, circuit: &str, units: Units) -> Result<Vec<Known>, ApiError> {
    state.store.tests_of(circuit)?.into_iter().map(|t| known(state, t, units)).collect()
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
    fn segment(&self) -> Option<RunSegment> {
        let r = &self.judged.recording;
        let channel = r.channels.iter().position(|c| c.is_system_pressure())?;
        let (s, _) = r.series(channel).thinned(80);
        let air = r.atmosphere().0.pa();
        let is_vacuum = r.channels[channel].quantity == Quantity::AbsolutePressure && s.v.first().is_some_and(|&v| v < air);
        let shift = if !is_vacuum && r.channels[channel].quantity == Quantity::AbsolutePressure { air } else { 0.0 };
        let at = |t: f64| self.judged.start_ms + (t * 1e3) as i64;
        Some(RunSegment {
            test_id: self.row.id.clone(),
            kind: self.row.kind.clone(),
            title: self.title.clone(),
            from_ms: at(*s.t.first()?),
            to_ms: at(*s.t.last()?),
            shape: self.verdict().shape.clone(),
            is_vacuum,
            points: s.t.iter().zip(&s.v).map(|(&t, &v)| RunPoint { at_ms: at(t), pa: v - shift }).collect(),
        })
    }
}

pub fn run(tests: &[Known], steps: &[rows::Step]) -> Run {
    let mut marks: Vec<RunMark> = steps.iter().filter_map(|s| Some(RunMark { at_ms: s.at_ms, text: Step::from_code(&s.step)?.title().into() })).collect();
    for t in tests {
        for e in &t.judged.recording.events {
            let text = if e.note.is_empty() { e.kind.code().replace('_', " ") } else { e.note.clone() };
            marks.push(RunMark { at_ms: t.judged.start_ms + (e.at_s * 1e3) as i64, text });
        }
    }
    marks.sort_by_key(|m| m.at_ms);
    Run { segments: tests.iter().filter_map(Known::segment).collect(), marks }
}

/// The clock that matters: when the running test is due, else since when it runs.
pub fn clock(tests: &[Known]) -> Option<Clock> {
    let t = tests.iter().rev().find(|t| t.ended_ms.is_none())?;
    let from = |s: f64| t.judged.start_ms + (s * 1e3) as i64;
    if let (Some(d), Some(h)) = (t.plan.planned_s, t.verdict().hold.as_ref()) {
        return Some(match h.settled_at_s {
            Some(s) => Clock { kind: "due".into(), at_ms: from(s + d), label: format!("{} due", t.title) },
            None => Clock { kind: "since".into(), at_ms: t.judged.start_ms, label: "settling since".into() },
        });
    }
    if let Some(d) = &t.verdict().decay
        && let Some(i) = d.isolated_at_s
    {
        return Some(Clock { kind: "due".into(), at_ms: from(i + d.limit_at_s), label: format!("{} due", t.title) });
    }
    Some(Clock { kind: "since".into(), at_ms: t.judged.start_ms, label: format!("{} since", t.title) })
}

/// What the gates look at: finished tests and confirmed steps.
pub fn facts(kind: JobKind, tests: &[Known], steps: &[rows::Step]) -> Facts {
    let finished = |k: Kind| tests.iter().filter(move |t| t.ended_ms.is_some() && t.row.kind == k.code());
    let holds = finished(Kind::PressureHold)
        .map(|t| {
            let gauge =
                t.judged.recording.channels.iter().position(|c| c.quantity == Quantity::GaugePressure).map(|i| t.judged.recording.series(i).v).unwrap_or_default();
            let top = gauge.iter().copied().fold(0.0, f64::max);
            HoldFact {
                name: t.title.clone(),
                pressure: top,
                planned: t.plan.test_pa.unwrap_or(top),
                headline: t.verdict().headline.clone(),
                loss_detected: t.verdict().hold.as_ref().is_some_and(|h| h.loss_detected),
                outcome: match t.verdict().outcome.as_str() {
                    "holds" => HoldOutcome::Holds,
                    "falls" => HoldOutcome::Falls,
                    "not_applicable" => HoldOutcome::NotApplicable,
                    _ => HoldOutcome::Undecided,
                },
            }
        })
        .collect();
    let decays = finished(Kind::VacuumDecay)
        .map(|t| DecayFact {
            name: t.title.clone(),
            headline: t.verdict().headline.clone(),
            rising: t.verdict().decay.as_ref().is_some_and(|d| d.rising),
            outcome: match t.verdict().outcome.as_str() {
                "passes" => DecayOutcome::Passes,
                "fails" => DecayOutcome::Fails,
                "not_applicable" => DecayOutcome::NotApplicable,
                _ => DecayOutcome::Undecided,
            },
        })
        .collect();
    Facts {
        kind,
        holds,
        decays,
        steps: steps.iter().filter_map(|s| Some((Step::from_code(&s.step)?, s.note.clone(), usize::try_from(s.holds_before).unwrap_or(0)))).collect(),
    }
}
