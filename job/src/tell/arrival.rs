//! What was found on arrival.

use super::mass::MassView;
use crate::charge::ArrivalDoc;
use crate::refusal::Refusal;
use crate::state::Circuit;
use serde::Serialize;

/// What was found on arrival.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ArrivalView {
    pub standing: Option<String>,
    pub recovered: Option<MassView>,
    pub limit: Option<MassView>,
    pub missing: Option<MassView>,
    pub words: Vec<String>,
    pub stops: Vec<String>,
}

impl From<crate::charge::Arrival> for ArrivalView {
    fn from(a: crate::charge::Arrival) -> Self {
        Self {
            standing: a.standing,
            recovered: a.recovered.map(Into::into),
            limit: a.limit.map(|l| l.0.into()),
            missing: a.missing.map(Into::into),
            words: a.words,
            stops: a.stops,
        }
    }
}

/// What was found, while it is typed.
///
/// # Errors
/// What cannot be read, with its field.
pub fn tried_arrival(c: &Circuit, d: &ArrivalDoc, now: i64) -> Result<ArrivalView, Refusal> {
    let today = crate::state::day_of(now);
    crate::charge::arrival(
        d,
        c.refrigerant(),
        &c.known_of_survey(),
        c.opened.volume_l,
        c.site_air(),
        today,
    )
    .map(Into::into)
    .map_err(|e| e.within("arrival"))
}
