//! A reading set of the running unit.

use super::happened_at;
use super::inside::{Asking, stopped};
use crate::log::{Deed, Measured};
use crate::refusal::Refusal;
use crate::startup::{SetDoc, When, set};
use crate::state::Circuit;
use ruhe_core::quantity::Units;
use serde::Deserialize;

/// A reading set.
#[derive(Debug, Clone, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[allow(missing_docs)]
pub struct SetInput {
    pub set: SetDoc,
    /// When, if not now: ms since 1970 UTC.
    pub at_ms: Option<i64>,
}

/// Keeps a reading set of the running unit.
///
/// # Errors
/// What cannot be read, with its field.
pub fn measure(c: &Circuit, b: SetInput, now: i64) -> Result<Vec<Deed>, Refusal> {
    c.must_be_open()?;
    let at_ms = happened_at("at_ms", b.at_ms, now)?;
    set(&b.set, c.refrigerant(), c.site_air(), at_ms, None).map_err(|e| e.within("set"))?;
    if b.set.when == When::After {
        Asking::at(c, at_ms)
            .contents
            .may_start(Units::default())
            .map_err(stopped("set.when"))?;
    }
    Ok(vec![Deed::Measured(Measured { set: b.set, at_ms })])
}
