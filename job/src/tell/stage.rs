//! The stages of a circuit: which is done, which is at hand, and what belongs to each.

use super::run::{TestRow, test_row};
use crate::procedure::{Stage, Step, cautions};
use crate::signoff::{Gate, GateCode, HoldFact};
use crate::state::Circuit;
use ruhe_core::hold::HoldOutcome;
use ruhe_core::named;
use ruhe_core::quantity::Units;
use ruhe_core::reading::Kind;
use serde::Serialize;

named! {
    /// Where a stage stands.
    StageState {
        /// Behind.
        Done = "done",
        /// At hand.
        Now = "now",
        /// Still to come.
        Ahead = "ahead",
    }
}

#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct StepKind {
    pub code: Step,
    pub title: String,
    pub hint: String,
}

impl From<Step> for StepKind {
    fn from(step: Step) -> Self {
        Self {
            code: step,
            title: step.title().into(),
            hint: step.hint().into(),
        }
    }
}

#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct StepView {
    /// Id of its entry.
    pub id: String,
    pub step: Step,
    pub title: String,
    pub note: String,
    pub at_ms: i64,
}

#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CautionView {
    pub words: String,
    /// It stands first, in the box where the hand is.
    pub can_kill: bool,
}

#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct StageView {
    pub code: Stage,
    pub title: String,
    pub state: StageState,
    /// The kind of test that is planned here.
    pub plans: Option<Kind>,
    pub cautions: Vec<CautionView>,
    pub step_kinds: Vec<StepKind>,
    pub steps: Vec<StepView>,
    pub tests: Vec<TestRow>,
}

fn is_done(stage: Stage, c: &Circuit, gates: &[Gate]) -> bool {
    let met = |code: GateCode| gates.iter().filter(|g| g.code == code).all(|g| g.met);
    // Not asked for is not shown.
    let shown = |code: GateCode| gates.iter().any(|g| g.code == code) && met(code);
    let holds = || shown(GateCode::Hold) && met(GateCode::Retest);
    match stage {
        // Come back to, and nothing was opened: what lies between the proofs is behind.
        Stage::Survey | Stage::Release | Stage::RigCheck | Stage::Evacuate | Stage::BreakVacuum
            if !c.past.is_empty() && c.tests.is_empty() && shown(GateCode::Decay) =>
        {
            true
        }
        Stage::Hold => holds(),
        // Nothing to search for once every section holds, no place is open, and joints and ports were looked at under
        // pressure, or somebody answers for that, or the pressure is gone.
        Stage::Search => {
            let answered = c.overrides.iter().any(|o| o.said.gate == GateCode::Fine);
            let is_gone =
                c.has_confirmed(Step::Released) || c.tests.iter().any(|t| t.kind == Kind::PullDown);
            holds() && met(GateCode::Search) && (met(GateCode::Fine) || answered || is_gone)
        }
        Stage::Decay => shown(GateCode::Decay),
        // A job that has gone on without it needs it no more.
        Stage::Arrive => c.visit.arrival.is_some() || !c.tests.is_empty(),
        Stage::Charge => shown(GateCode::Charge),
        Stage::StartUp => shown(GateCode::StartUp) && met(GateCode::Ports),
        Stage::Release => {
            c.pressure_left().is_none() && stage.steps().iter().any(|s| c.has_confirmed(*s))
        }
        Stage::SignOff => false,
        other => other.steps().iter().all(|s| c.has_confirmed(*s)),
    }
}

/// Something was mended since this hold fell.
pub(super) fn mended_since(c: &Circuit, fell: &HoldFact) -> bool {
    c.repairs.iter().any(|r| r.said.at_ms >= fell.from_ms)
}

/// The stage a circuit is at: that of its running test, the search after a fall or a find that nobody has mended, else
/// the first that is not done. `None`: signed.
pub fn current_stage(c: &Circuit, gates: &[Gate]) -> Option<Stage> {
    if c.is_signed() {
        return None;
    }
    let running = c
        .tests
        .iter()
        .rev()
        .find(|t| !t.is_over())
        .map(|t| stage_of(t.kind));
    let holds = c.holds(Units::default());
    let fell = holds.last().filter(|h| h.outcome == HoldOutcome::Falls);
    let searching = fell.is_some_and(|h| !mended_since(c, h));
    running.or(searching.then_some(Stage::Search)).or_else(|| {
        c.job()
            .stages()
            .into_iter()
            .find(|s| !is_done(*s, c, gates) && !is_passed_by(*s, c))
    })
}

/// The work has gone on without what is confirmed there. It is not done for that, and stands among the gates; but
/// nobody is sent back to it.
fn is_passed_by(stage: Stage, c: &Circuit) -> bool {
    let has = |kinds: &[Kind]| c.tests.iter().any(|t| kinds.contains(&t.kind));
    match stage {
        Stage::Survey => !c.tests.is_empty(),
        Stage::RigCheck => has(&[Kind::PullDown, Kind::VacuumDecay]),
        _ => false,
    }
}

/// The stage a kind of test belongs to.
#[must_use]
pub fn stage_of(kind: Kind) -> Stage {
    match kind {
        Kind::PressureHold | Kind::LeakBy => Stage::Hold,
        Kind::RigCheck => Stage::RigCheck,
        Kind::PullDown => Stage::Evacuate,
        Kind::VacuumDecay => Stage::Decay,
    }
}

/// The kind of test that is planned at a stage. A rig is checked as a thing of the kit; on a system that stage only
/// looks at it.
fn planned_at(stage: Stage, c: &Circuit) -> Option<Kind> {
    match stage {
        Stage::Hold => Some(Kind::PressureHold),
        Stage::Evacuate => Some(Kind::PullDown),
        Stage::Decay => Some(Kind::VacuumDecay),
        Stage::RigCheck => (!c.job().is_system()).then_some(Kind::RigCheck),
        _ => None,
    }
}

/// The stages of a circuit in their order.
#[must_use]
pub fn stage_views(c: &Circuit, gates: &[Gate], u: Units) -> Vec<StageView> {
    let now = current_stage(c, gates);
    c.job()
        .stages()
        .into_iter()
        .map(|stage| StageView {
            code: stage,
            title: stage.title().into(),
            state: if Some(stage) == now {
                StageState::Now
            } else if c.is_signed() || is_done(stage, c, gates) {
                StageState::Done
            } else {
                StageState::Ahead
            },
            plans: planned_at(stage, c),
            cautions: cautions(
                stage,
                (&c.opened.refrigerant, &c.opened.safety_class),
                c.refrigerant_in().is_some(),
            )
            .into_iter()
            .map(|c| CautionView {
                words: c.words.into(),
                can_kill: c.can_kill,
            })
            .collect(),
            step_kinds: stage
                .steps()
                .iter()
                .filter(|s| **s != Step::Labelled || !c.job().has_charge())
                .map(|s| (*s).into())
                .collect(),
            steps: c
                .steps
                .iter()
                .filter(|r| stage.steps().contains(&r.said.step))
                .map(|r| StepView {
                    id: r.id.clone(),
                    step: r.said.step,
                    title: r.said.step.title().into(),
                    note: r.said.note.clone(),
                    at_ms: r.said.at_ms,
                })
                .collect(),
            tests: c
                .tests
                .iter()
                .filter(|t| stage_of(t.kind) == stage)
                .map(|t| test_row(c, t, u))
                .collect(),
        })
        .collect()
}
