//! The charge: what the maker wants, and a row of the ledger.

use super::happened_at;
use super::inside::{Asking, stopped};
use crate::charge::{GLIDE, LedgerKind, RowDoc, TargetDoc, row, target};
use crate::log::{Deed, Targeted, Weighed};
use crate::refusal::{Refusal, clipped};
use crate::state::Circuit;
use ruhe_core::matter::refrigerant::same_name;
use serde::Deserialize;

/// What the maker wants.
#[derive(Debug, Clone, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[allow(missing_docs)]
pub struct TargetInput {
    pub target: TargetDoc,
    /// When, if not now: ms since 1970 UTC.
    pub at_ms: Option<i64>,
}

/// A row of the ledger.
#[derive(Debug, Clone, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[allow(missing_docs)]
pub struct RowInput {
    pub row: RowDoc,
    /// When, if not now: ms since 1970 UTC.
    pub at_ms: Option<i64>,
}

/// Keeps what the maker wants.
///
/// # Errors
/// What cannot be read, with its field.
pub fn keep_target(c: &Circuit, b: TargetInput, now: i64) -> Result<Vec<Deed>, Refusal> {
    c.must_be_open()?;
    target(&b.target, c.refrigerant(), &c.known_of_target()).map_err(|e| e.within("target"))?;
    Ok(vec![Deed::Targeted(Targeted {
        target: b.target,
        at_ms: happened_at("at_ms", b.at_ms, now)?,
    })])
}

/// Adds a row to the ledger.
///
/// # Errors
/// What cannot be read, with its field; another refrigerant than the circuit's; a blend topped up as vapour without a
/// word.
pub fn weigh(c: &Circuit, mut b: RowInput, now: i64) -> Result<Vec<Deed>, Refusal> {
    c.must_be_open()?;
    row(&b.row).map_err(|e| e.within("row"))?;
    let enters = b.row.kind.sign() > 0.0;
    if b.row.refrigerant.trim().is_empty() {
        return Err(Refusal::wrong(
            "row.refrigerant",
            "read the refrigerant off the cylinder",
        ));
    }
    if enters && !same_name(&b.row.refrigerant, &c.opened.refrigerant) {
        return Err(Refusal::wrong(
            "row.refrigerant",
            format!(
                "stop: the cylinder holds {} and the circuit takes {}",
                b.row.refrigerant.trim(),
                c.opened.refrigerant
            ),
        ));
    }
    let glide = c.refrigerant().and_then(|r| r.glide(r.dew(294.26)));
    if let Some(g) = glide.filter(|g| *g > GLIDE)
        && b.row.kind == LedgerKind::Vapour
        && b.row.note.trim().is_empty()
    {
        return Err(Refusal::wrong(
            "row.note",
            format!(
                "{} has {g:.0} K of glide: drawn off as vapour its blend changes. Charge it as liquid, or say why not",
                c.opened.refrigerant
            ),
        ));
    }
    b.row.note = clipped(&b.row.note, 500);
    let at_ms = happened_at("at_ms", b.at_ms, now)?;
    if enters {
        let a = Asking::at(c, at_ms);
        let guard = c.refrigerant().map(|r| r.freeze_guard() - c.site_air());
        let is_liquid = matches!(b.row.kind, LedgerKind::Liquid);
        a.contents
            .may_charge(&[], is_liquid, guard, a.units)
            .map_err(stopped("row.kind"))?;
    }
    Ok(vec![Deed::Weighed(Weighed { row: b.row, at_ms })])
}
