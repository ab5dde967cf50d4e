//! A consent, signed with a finger or given by telephone.

use super::happened_at;
use crate::log::{Consented, Deed};
use crate::refusal::{Refusal, clipped, filled};
use crate::signoff::drawing;
use crate::state::Circuit;
use serde::Deserialize;

/// A consent.
#[derive(Debug, Clone, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[allow(missing_docs)]
pub struct ConsentInput {
    /// The repair that is asked about, by its entry; none: something else.
    pub repair: Option<String>,
    pub question: String,
    #[serde(default)]
    pub options: String,
    pub risk: String,
    /// They agreed; a refusal is kept too, and is no consent.
    pub is_agreed: bool,
    pub answer: String,
    pub name: String,
    /// The signature as a path of an SVG.
    #[serde(default)]
    pub drawing: String,
    /// By telephone: there is no signature.
    #[serde(default)]
    pub by_phone: bool,
    /// When, if not now: ms since 1970 UTC.
    pub at_ms: Option<i64>,
    /// Who says that it is them: never taken from what was sent.
    #[serde(skip)]
    pub said_by: Option<String>,
}

/// Keeps a consent, with a finger's signature or by telephone.
///
/// # Errors
/// What is missing, with its field.
pub fn consent(c: &Circuit, b: ConsentInput, now: i64) -> Result<Vec<Deed>, Refusal> {
    c.must_be_open()?;
    let needed = |field: &str, text: &str| filled(field, text, 2_000);
    if b.repair
        .as_ref()
        .is_some_and(|r| !c.repairs.iter().any(|x| x.id == *r))
    {
        return Err(Refusal::Missing("repair".into()));
    }
    let mut said = Consented {
        repair: b.repair.clone(),
        is_agreed: b.is_agreed,
        question: needed("question", &b.question)?,
        options: clipped(&b.options, 2_000),
        risk: needed("risk", &b.risk)?,
        answer: needed("answer", &b.answer)?,
        name: needed("name", &b.name)?,
        said_by: b.said_by.clone(),
        drawing: drawing(&b.drawing, "drawing")?,
        at_ms: happened_at("at_ms", b.at_ms, now)?,
    };
    if b.by_phone {
        said.drawing.clear();
    } else if said.drawing.is_empty() {
        return Err(Refusal::wrong(
            "drawing",
            "sign with a finger, or say that it was by telephone",
        ));
    }
    Ok(vec![Deed::Consented(said)])
}
