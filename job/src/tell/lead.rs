//! Where a circuit leads: what is to be done next, and the place it is done at.

use super::stage::{current_stage, stage_of};
use crate::procedure::Stage;
use crate::signoff::Gate;
use crate::state::Circuit;
use serde::{Deserialize, Serialize};

/// The way on from anywhere: to the test that runs, else to the stage that is at hand.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LeadView {
    /// Where that is done.
    pub stage: Stage,
    /// The test that runs.
    pub test: Option<String>,
    /// "To Hold 2", "To the release".
    pub text: String,
    /// What is to be done there, a sentence.
    pub words: String,
    /// Readings are typed into that test: nothing sends them.
    pub by_hand: bool,
}

/// The way on of a circuit; `None`: it is signed.
#[must_use]
pub fn lead(c: &Circuit, gates: &[Gate]) -> Option<LeadView> {
    let stage = current_stage(c, gates)?;
    let runs = c.tests.iter().rev().find(|t| !t.is_over());
    let runs = runs.filter(|t| stage_of(t.kind) == stage);
    Some(match runs {
        Some(t) => LeadView {
            stage,
            test: Some(t.id.clone()),
            text: format!("To {}", t.title),
            words: format!("{} is running.", t.title),
            by_hand: !t.now.is_live,
        },
        None => LeadView {
            stage,
            test: None,
            text: stage.way().into(),
            words: stage.task().into(),
            by_hand: false,
        },
    })
}
