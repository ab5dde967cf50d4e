//! How a system was found on arrival.

use super::happened_at;
use crate::charge::{ArrivalDoc, arrival};
use crate::log::{Arrived, Deed};
use crate::refusal::Refusal;
use crate::state::{Circuit, day_of};
use serde::Deserialize;

/// How a system was found.
#[derive(Debug, Clone, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[allow(missing_docs)]
pub struct ArrivalInput {
    pub arrival: ArrivalDoc,
    /// When, if not now: ms since 1970 UTC.
    pub at_ms: Option<i64>,
    /// Whoever says so may answer for what a cylinder forbids: never taken from what was sent.
    #[serde(skip)]
    pub may_answer: bool,
}

/// Keeps how a system was found.
///
/// # Errors
/// What cannot be read, with its field.
pub fn arrive(c: &Circuit, b: ArrivalInput, now: i64) -> Result<Vec<Deed>, Refusal> {
    c.must_be_open()?;
    let at_ms = happened_at("at_ms", b.at_ms, now)?;
    let found = arrival(
        &b.arrival,
        c.refrigerant(),
        &c.known_of_survey(),
        c.opened.volume_l,
        c.site_air(),
        day_of(at_ms),
    )
    .map_err(|e| e.within("arrival"))?;
    let is_answered = b.may_answer && !b.arrival.all_the_same.trim().is_empty();
    if let Some(stop) = found.stops.first().filter(|_| !is_answered) {
        return Err(Refusal::wrong(
            "arrival.all_the_same",
            format!("{stop} It is kept only with a reason, by somebody who may answer for it"),
        ));
    }
    Ok(vec![Deed::Arrived(Arrived {
        arrival: b.arrival,
        at_ms,
    })])
}
