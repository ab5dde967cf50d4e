//! What stands around a signature: consents, what it carries, what came after it.

use crate::log::Consented;
use crate::signoff::{Carried, Reservation};
use crate::state::Circuit;
use serde::Serialize;

/// A consent.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ConsentView {
    pub repair: Option<String>,
    pub is_agreed: bool,
    /// Id of its entry.
    pub id: String,
    pub question: String,
    pub options: String,
    pub risk: String,
    pub answer: String,
    pub name: String,
    /// Who said that it was them.
    pub said_by: Option<String>,
    pub drawing: String,
    pub at_ms: i64,
}

pub(super) fn consent_view(id: &str, x: &Consented) -> ConsentView {
    let x = x.clone();
    ConsentView {
        id: id.into(),
        repair: x.repair,
        is_agreed: x.is_agreed,
        question: x.question,
        options: x.options,
        risk: x.risk,
        answer: x.answer,
        name: x.name,
        said_by: x.said_by,
        drawing: x.drawing,
        at_ms: x.at_ms,
    }
}

/// A word beside a signature: of a witness, or added.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct AfterView {
    pub title: String,
    pub name: String,
    /// Who said that it was them, where they did not confirm it themselves.
    pub said_by: Option<String>,
    pub words: String,
    pub drawing: String,
    /// By the clock of who keeps the log.
    pub at_ms: i64,
    /// By the device's own, where that was another time.
    pub device_ms: Option<i64>,
}

/// What came after the signature, in the order it came.
#[must_use]
pub fn after_view(c: &Circuit) -> Vec<AfterView> {
    let witness = c.visit.witnesses.iter().map(|w| AfterView {
        title: format!("Witness, {}", w.said.role),
        name: w.said.name.clone(),
        said_by: w.said.said_by.clone(),
        words: w.said.statement.clone(),
        drawing: w.said.drawing.clone(),
        at_ms: w.said.at_ms,
        device_ms: w.said.device_ms,
    });
    let added = c.visit.added.iter().map(|a| AfterView {
        title: if a.said.completes {
            "Addition: what was outstanding is done"
        } else {
            "Addition"
        }
        .into(),
        name: a.said.name.clone(),
        said_by: None,
        words: a.said.words.clone(),
        drawing: String::new(),
        at_ms: a.said.at_ms,
        device_ms: a.said.device_ms,
    });
    let mut out: Vec<AfterView> = witness.chain(added).collect();
    out.sort_by_key(|a| a.at_ms);
    out
}

/// What a signature carries.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CarriesView {
    pub carried: Carried,
    pub reservations: Vec<Reservation>,
    pub drawing: String,
}

/// A risky repair that somebody has to agree to.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct AskedView {
    /// Its entry.
    pub repair: String,
    pub place: String,
}
