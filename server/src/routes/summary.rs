//! What the pages share: a circuit's tests with their words, its run, its clock, its facts for the gates.

use crate::error::ApiError;
use crate::judge::{JudgedTest, judge};
use crate::state::AppState;
use crate::wire::{Clock, Plan, Run, RunMark, RunPoint, RunSegment, SearchView, SurveyDoc, TestRow, Verdict};
use ruhe_core::hold::HoldOutcome;
use ruhe_core::procedure::{JobKind, Step};
use ruhe_core::quantity::Units;
use ruhe_core::reading::{EventKind, Kind, Quantity};
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
    let (survey, _) = super::survey::survey_of(state, &row.circuit_id)?;
    known_with(state, row, &survey, units)
}

fn known_with(state: &AppState, row: rows::Test, survey: &SurveyDoc, units: Units) -> Result<Known, ApiError> {
    let judged = judge(state, &row, units)?;
    let plan = Plan::of_row(&row)?;
    // With several sections under test a name says which.
    let several = survey.sections.iter().filter(|s| s.is_tested).count() > 1;
    let section = plan.section.as_ref().filter(|_| several).map_or_else(String::new, |s| format!(", {s}"));
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
    state.store.tests_of(circuit)?.into_iter().map(|t| known_with(state, t, &survey, units)).collect()
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
    /// Highest gauge pressure of a hold, Pa.
    pub fn held_pa(&self) -> f64 {
        let r = &self.judged.recording();
        let gauge = r.channels.iter().position(|c| c.quantity == Quantity::GaugePressure);
        // What counts is what was held, not what pressing up overshot to.
        let from = r.last_event(EventKind::SupplyIsolated).unwrap_or(f64::NEG_INFINITY);
        gauge.map_or(0.0, |i| r.series(i).between(from, f64::INFINITY).v.into_iter().fold(0.0, f64::max))
    }
    /// Time of the last reading.
    pub fn last_ms(&self) -> Option<i64> {
        self.judged.recording().readings.last().map(|r| self.judged.start_ms + (r.at_s * 1e3) as i64)
    }
    fn segment(&self) -> Option<RunSegment> {
        let r = &self.judged.recording();
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

pub fn run(tests: &[Known], steps: &[rows::Step], repairs: &[rows::Repair]) -> Run {
    let mut marks: Vec<RunMark> = steps.iter().filter_map(|s| Some(RunMark { at_ms: s.at_ms, text: Step::from_code(&s.step)?.title().into() })).collect();
    marks.extend(repairs.iter().map(|r| RunMark { at_ms: r.at_ms, text: format!("Mended: {}", r.place) }));
    for t in tests {
        for e in &t.judged.recording().events {
            let text = if e.note.is_empty() { e.kind.code().replace('_', " ") } else { e.note.clone() };
            marks.push(RunMark { at_ms: t.judged.start_ms + (e.at_s * 1e3) as i64, text });
        }
    }
    marks.sort_by_key(|m| m.at_ms);
    Run { segments: tests.iter().filter_map(Known::segment).collect(), marks }
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
    let every = t.plan.read_every_s.filter(|_| t.ended_ms.is_none() && !t.is_live)?;
    Some(t.last_ms().unwrap_or(t.row.created_ms) + (every * 1e3) as i64)
}

/// When the gauge will switch itself off, counted from the last reading (each is a touch of the gauge).
pub fn off_at_ms(t: &Known) -> Option<i64> {
    let after = t.plan.auto_off_s.filter(|_| t.ended_ms.is_none() && !t.is_live)?;
    t.last_ms().map(|l| l + (after * 1e3) as i64)
}

/// The clock that matters: a reading that is due first, then when the running test is due, else since when it runs.
pub fn clock(tests: &[Known]) -> Option<Clock> {
    let t = tests.iter().rev().find(|t| t.ended_ms.is_none())?;
    let due = due_ms(t).map(|at_ms| Clock { kind: "due".into(), at_ms, label: format!("{} due", t.title) });
    let reading = read_at_ms(t).map(|at_ms| Clock { kind: "due".into(), at_ms, label: "next reading".into() });
    match (due, reading) {
        (Some(d), Some(r)) => Some(if r.at_ms < d.at_ms { r } else { d }),
        (Some(c), None) | (None, Some(c)) => Some(c),
        (None, None) => {
            let label = if t.verdict().reasons.iter().any(|r| r == "supply_not_isolated") || t.last_ms().is_none() {
                "pressing up since"
            } else if t.plan.planned_s.is_some() {
                "settling since"
            } else {
                return Some(Clock { kind: "since".into(), at_ms: t.judged.start_ms, label: format!("{} since", t.title) });
            };
            Some(Clock { kind: "since".into(), at_ms: t.judged.start_ms, label: label.into() })
        }
    }
}

/// What of a circuit has been read already, for whoever needs it again.
#[derive(Clone, Copy)]
pub struct Of<'a> {
    pub tests: &'a [Known],
    pub steps: &'a [rows::Step],
    pub survey: &'a SurveyDoc,
    pub search: &'a SearchView,
    pub repairs: &'a [rows::Repair],
}

/// What the gates look at: finished tests, confirmed steps, repairs, open places, the sections to be tested.
pub fn facts(kind: JobKind, of: &Of<'_>) -> Facts {
    let Of { tests, steps, survey, search, repairs } = *of;
    let finished = |k: Kind| tests.iter().filter(move |t| t.ended_ms.is_some() && t.row.kind == k.code());
    let tested: Vec<String> = survey.sections.iter().filter(|x| x.is_tested).map(|x| x.name.clone()).collect();
    let only = tested.first().or(survey.sections.first().map(|x| &x.name)).cloned().unwrap_or_default();
    let holds: Vec<HoldFact> = finished(Kind::PressureHold)
        .map(|t| HoldFact {
            name: t.title.clone(),
            section: t.plan.section.clone().unwrap_or_else(|| only.clone()),
            pressure: t.held_pa(),
            planned: t.plan.test_pa.unwrap_or_else(|| t.held_pa()),
            headline: t.verdict().headline.clone(),
            loss_detected: t.verdict().hold.as_ref().is_some_and(|h| h.loss_detected),
            outcome: match t.verdict().outcome.as_str() {
                "holds" => HoldOutcome::Holds,
                "falls" => HoldOutcome::Falls,
                "not_applicable" => HoldOutcome::NotApplicable,
                _ => HoldOutcome::Undecided,
            },
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
    // Only the last hold and decay of a section are evidence; an earlier one with a bad gauge has been replaced by it.
    let last =
        |t: &Known| !tests.iter().any(|o| o.ended_ms.is_some() && o.row.kind == t.row.kind && o.plan.section == t.plan.section && o.row.created_ms > t.row.created_ms);
    let instrument_marks = finished(Kind::PressureHold)
        .chain(finished(Kind::VacuumDecay))
        .filter(|t| last(t))
        .flat_map(|t| {
            let said = |code: &str, words: &str| t.verdict().reasons.iter().any(|r| r == code).then(|| format!("{}: {words}.", t.title));
            [said("calibration_overdue", "a calibration had run out"), said("beyond_range", "a gauge was read beyond its range")]
        })
        .flatten()
        .collect();
    Facts {
        kind,
        holds,
        decays,
        steps: steps.iter().filter_map(|s| Some((Step::from_code(&s.step)?, s.note.clone()))).collect(),
        repairs: repairs.iter().map(|r| usize::try_from(r.holds_before).unwrap_or(0)).collect(),
        open_places: search.places.iter().filter(|p| p.is_open).map(|p| format!("{}, {}", p.name, p.state_title.to_lowercase())).collect(),
        instrument_marks,
        sections: if tested.len() > 1 { tested } else { vec![] },
    }
}
