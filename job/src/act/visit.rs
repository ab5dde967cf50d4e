//! After the signature: a witness signs, words are added, somebody comes back.

use super::{happened_at, said_otherwise};
use crate::log::{Added, Countersigned, Deed, Visited};
use crate::procedure::JobKind;
use crate::refusal::{Refusal, clipped, filled};
use crate::signoff::drawing;
use crate::state::Circuit;
use serde::Deserialize;

/// A witness's signature.
#[derive(Debug, Clone, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[allow(missing_docs)]
pub struct WitnessInput {
    pub name: String,
    pub role: String,
    #[serde(default)]
    pub statement: String,
    #[serde(default)]
    pub drawing: String,
    /// Who says that it is them, where they did not confirm it themselves: never taken from what was sent.
    #[serde(skip)]
    pub said_by: Option<String>,
}

/// Words added to a signed visit, in the name of whoever is signed in.
#[derive(Debug, Clone, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[allow(missing_docs)]
pub struct AdditionInput {
    /// A name, asked for only where nobody is known.
    #[serde(default)]
    pub name: String,
    pub words: String,
    /// What was outstanding is done.
    #[serde(default)]
    pub completes: bool,
}

/// The next visit.
#[derive(Debug, Clone, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[allow(missing_docs)]
pub struct VisitInput {
    pub reason: String,
    pub job: JobKind,
    /// When, if not now: ms since 1970 UTC.
    pub at_ms: Option<i64>,
}

fn must_be_signed(c: &Circuit) -> Result<(), Refusal> {
    c.must_be_known()?;
    if c.is_signed() {
        Ok(())
    } else {
        Err(Refusal::Conflict("this visit is not signed yet".into()))
    }
}

/// A witness signs beside the technician.
///
/// # Errors
/// What is missing; a visit that is not signed; somebody who signed already.
pub fn countersign(
    c: &Circuit,
    b: &WitnessInput,
    said_ms: i64,
    now: i64,
) -> Result<Vec<Deed>, Refusal> {
    must_be_signed(c)?;
    let name = filled("name", &b.name, 200)?;
    if c.signature.as_ref().is_some_and(|s| s.said.name == name) {
        return Err(Refusal::wrong(
            "name",
            "a witness is somebody else than who signed",
        ));
    }
    Ok(vec![Deed::Countersigned(Countersigned {
        name,
        role: filled("role", &b.role, 200)?,
        statement: clipped(&b.statement, 2_000),
        drawing: drawing(&b.drawing, "drawing")?,
        said_by: b.said_by.clone(),
        at_ms: now,
        device_ms: said_otherwise(said_ms, now),
    })])
}

/// Adds words to a signed visit; what was signed stays as it is.
///
/// # Errors
/// What is missing; a visit that is not signed.
pub fn add_words(
    c: &Circuit,
    b: &AdditionInput,
    said_ms: i64,
    now: i64,
) -> Result<Vec<Deed>, Refusal> {
    must_be_signed(c)?;
    Ok(vec![Deed::Added(Added {
        name: filled("name", &b.name, 200)?,
        words: filled("words", &b.words, 2_000)?,
        completes: b.completes,
        at_ms: now,
        device_ms: said_otherwise(said_ms, now),
    })])
}

/// Begins the next visit.
///
/// # Errors
/// What is missing; a visit that is still open.
pub fn come_back(c: &Circuit, b: &VisitInput, now: i64) -> Result<Vec<Deed>, Refusal> {
    must_be_signed(c)?;
    if !b.job.is_system() {
        return Err(Refusal::wrong("job", "a rig belongs to the kit"));
    }
    Ok(vec![Deed::Visited(Visited {
        reason: filled("reason", &b.reason, 500)?,
        job: b.job,
        at_ms: happened_at("at_ms", b.at_ms, now)?,
    })])
}
