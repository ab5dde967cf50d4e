//! After the end: the account, the truth over what was shown, the cheapest way, and what Ruhe said.

use crate::error::ApiError;
use crate::service::Patience;
use crate::state::AppState;
use ruhe_core::quantity::Units;
use ruhe_drill::{Account, Phase, RecordFacts, Scenario, Session, Step, account, brier, walk};
use ruhe_job::state::Circuit;
use ruhe_job::tell::test_view;
use ruhe_sim::plant::{Seen, Sensor};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// Points of a trace, at most.
const POINTS: usize = 300;

/// What was shown and what was true at one time; Pa gauge under pressure, Pa absolute under vacuum.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
#[schema(as = DrillPoint)]
pub struct Point {
    pub at_s: f64,
    /// What the gauge showed; nothing where it was dark or nobody saw it.
    pub shown: Option<f64>,
    /// What was true.
    pub truly: f64,
    /// What would have been true at the temperature and barometer of the start: what is left is the fault.
    pub still: f64,
}

/// A step of a way, and when it was done.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub struct StepLine {
    pub words: String,
    pub until_s: f64,
}

/// What Ruhe said at the moment of the decision.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub struct RuheSaid {
    pub test: String,
    pub word: String,
    pub outcome: String,
    pub headline: String,
}

/// What a drill was worth.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub struct ResultView {
    pub account: Account,
    /// How far "how sure" was from what was so, squared; nothing where nothing was decided.
    pub brier: Option<f64>,
    /// What was decided, in words.
    pub decided: Option<String>,
    /// What would have been right, in words.
    pub right: String,
    /// The hidden truth, in words.
    pub reveals: String,
    /// What would have happened, and the caution that was acted against.
    pub harm: Option<String>,
    pub ruhe: Vec<RuheSaid>,
    /// What was shown and what was true on one's own way.
    pub own: Vec<Point>,
    /// The cheapest way, and the same of it.
    pub path: Vec<StepLine>,
    pub cheapest: Vec<Point>,
    /// Minutes of the plant.
    pub minutes: f64,
}

/// Ruhe's word on every test, as it stands.
pub(super) fn ruhe_said(s: &AppState, circuit: &str) -> Result<Vec<RuheSaid>, ApiError> {
    s.store.read(|tx| {
        let c = s.circuit(tx, circuit, Patience::None)?;
        Ok(c.tests
            .iter()
            .map(|t| {
                let view = test_view(&c, t, &[], None, s.now_ms(), Units::default());
                RuheSaid {
                    test: t.title.clone(),
                    word: view.verdict.word,
                    outcome: view.verdict.outcome,
                    headline: view.verdict.headline,
                }
            })
            .collect())
    })
}

fn facts(c: &Circuit) -> RecordFacts {
    RecordFacts {
        has_source: c.tests.iter().any(|t| t.plan.source_words().is_some()),
        has_test: !c.tests.is_empty(),
        has_note: c
            .tests
            .iter()
            .any(|t| t.events.iter().any(|(_, e)| !e.note.trim().is_empty()))
            || c.steps.iter().any(|s| !s.said.note.trim().is_empty()),
    }
}

fn trace(s: &Session) -> Vec<Point> {
    let is_vacuum = s.scenario().phase == Phase::Vacuum;
    let all: &[Seen] = s.plant().history();
    let Some(first) = all.first() else {
        return vec![];
    };
    let every = all.len().div_ceil(POINTS).max(1);
    let near = s.scenario().truth.gauge_near;
    all.iter()
        .step_by(every)
        .map(|x| {
            let wanted = if is_vacuum {
                Sensor::Vacuum
            } else {
                Sensor::Pressure
            };
            let shown = x
                .faces
                .iter()
                .find(|f| f.sensor == wanted)
                .and_then(|f| f.value);
            let p = if near || !s.scenario().truth.between_open {
                x.truly[0]
            } else {
                x.truly[1]
            };
            let still = p * first.kelvin / x.kelvin;
            let (truly, still) = if is_vacuum {
                (p, still)
            } else {
                (p - x.outside, still - first.outside)
            };
            Point {
                at_s: x.at_s,
                shown: shown.filter(|_| s.was_seen(x.at_s)),
                truly,
                still,
            }
        })
        .collect()
}

fn steps(scenario: &Scenario) -> (Vec<StepLine>, Vec<Point>) {
    let walked = walk(scenario.clone(), &scenario.path, None);
    let words = scenario.path.iter().map(|step| match step {
        Step::Watch { minutes, .. } => format!("Watch for {minutes:.0} minutes"),
        Step::Do { doing } => doing.words(),
    });
    let out = words
        .zip(&walked.until_s)
        .map(|(words, until_s)| StepLine {
            words,
            until_s: *until_s,
        })
        .collect();
    (out, trace(&walked.session))
}

/// The result of a drill that is over.
pub(super) fn debrief(
    state: &AppState,
    s: &Session,
    (circuit, looks): (&str, u32),
    ruhe: Vec<RuheSaid>,
) -> Result<ResultView, ApiError> {
    let scenario = s.scenario();
    let facts = state
        .store
        .read(|tx| Ok::<_, ApiError>(facts(&*state.folded(tx, circuit)?)))?;
    let account = account(s, facts, looks);
    let (path, cheapest) = steps(scenario);
    let right = &scenario.right;
    let at = |place: &str| {
        if place.is_empty() {
            String::new()
        } else {
            format!(" ({place})")
        }
    };
    let give = |d: &ruhe_drill::Decision| {
        format!("{}{}; it {}", d.cause.title(), at(&d.place), d.give.words())
    };
    Ok(ResultView {
        brier: s.decided().map(|(_, d)| brier(d.sure, account.is_right)),
        decided: s.decided().map(|(_, d)| give(d)),
        right: format!("{}{}", right.cause.title(), at(&right.place)),
        reveals: scenario.reveals.clone(),
        harm: s.harm().map(|(what, caution)| format!("{what} {caution}")),
        ruhe,
        own: trace(s),
        path,
        cheapest,
        minutes: s.minutes(),
        account,
    })
}
