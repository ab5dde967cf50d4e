//! How the vacuum was broken.

use super::happened_at;
use super::inside::{Asking, stopped};
use crate::log::{Broken, Deed};
use crate::procedure::{BreakDoc, BreakWith, check_break};
use crate::refusal::Refusal;
use crate::state::Circuit;
use ruhe_core::quantity::Units;
use serde::Deserialize;

/// How the vacuum was broken.
#[derive(Debug, Clone, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[allow(missing_docs)]
pub struct BreakInput {
    pub broken: BreakDoc,
    /// When, if not now: ms since 1970 UTC.
    pub at_ms: Option<i64>,
}

/// Writes down how the vacuum was broken.
///
/// # Errors
/// What stands in the way, with its field.
pub fn break_vacuum(c: &Circuit, b: BreakInput, now: i64) -> Result<Vec<Deed>, Refusal> {
    c.must_be_open()?;
    let proven = c.is_proven();
    let at_ms = happened_at("at_ms", b.at_ms, now)?;
    let a = Asking::at(c, at_ms);
    let with = b.broken.with;
    match with {
        Some(BreakWith::FactoryCharge) => {
            for p in c.passages() {
                a.contents
                    .may_join(&p, proven, a.units)
                    .map_err(stopped("broken.with"))?;
            }
        }
        // Where liquid begins is asked below, by port.
        Some(BreakWith::Vapour | BreakWith::Liquid) => a
            .contents
            .may_charge(&[], false, None, a.units)
            .map_err(stopped("broken.with"))?,
        _ => {}
    }
    check_break(
        &b.broken,
        c.refrigerant(),
        proven,
        c.site_air(),
        Units::default(),
    )
    .map_err(|e| e.within("broken"))?;
    Ok(vec![Deed::VacuumBroken(Broken {
        broken: b.broken,
        at_ms,
    })])
}
