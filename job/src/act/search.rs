//! The leak search: logging a look, logging a repair.

use super::happened_at;
use super::inside::{Asking, stopped};
use crate::log::{Deed, Looked, Mended};
use crate::procedure::BEFORE_TORCH;
use crate::refusal::{Refusal, clipped, filled};
use crate::search::{LookResult, Method, RepairOpened};
use crate::state::Circuit;
use crate::survey::{Typed, newton_metres};
use serde::Deserialize;

/// What two gauges may be apart, Pa (2 psi).
const NEAR: f64 = 14_000.0;
/// Longest name of a place, letters.
const PLACE: usize = 120;

/// A look at a place.
#[derive(Debug, Clone, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LookInput {
    /// Where.
    pub place: String,
    /// How.
    pub method: Method,
    /// What was found.
    pub finding: LookResult,
    /// For how long, s.
    pub dwell_s: Option<f64>,
    /// Pressure it was looked at under, Pa gauge; none: what the gauge of a running test showed last.
    pub at_pa: Option<f64>,
    /// Section it lies in; none: that of the joint of this name, or the only one under test.
    pub section: Option<String>,
    /// In words.
    #[serde(default)]
    pub note: String,
    /// A photo.
    pub photo_id: Option<String>,
    /// When, if not now: ms since 1970 UTC.
    pub at_ms: Option<i64>,
}

/// A repair.
#[derive(Debug, Clone, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RepairInput {
    /// Where.
    pub place: String,
    /// What was wrong.
    pub cause: String,
    /// What was done.
    #[serde(default)]
    pub words: String,
    /// Tightened to, in Nm or lbft.
    pub torque: Option<Typed>,
    /// Section it lies in; none: as for a look.
    pub section: Option<String>,
    /// What was opened for it; it must be said.
    pub opened: Option<RepairOpened>,
    /// A flame or torch was used.
    #[serde(default)]
    pub with_torch: bool,
    /// 0 psig on both sides, vent open, and the rest of what comes before a flame.
    #[serde(default)]
    pub is_safe: bool,
    /// It may fail or harm: somebody has to agree to it.
    #[serde(default)]
    pub is_risky: bool,
    /// When, if not now: ms since 1970 UTC.
    pub at_ms: Option<i64>,
}

/// The sections of a place; a section that the survey does not have is refused.
fn known_section(c: &Circuit, place: &str, stated: Option<&str>) -> Result<Vec<String>, Refusal> {
    match stated.filter(|x| !c.survey.sections.iter().any(|s| s == x)) {
        Some(x) => Err(Refusal::wrong(
            "section",
            format!("the survey has no section “{x}”"),
        )),
        None => Ok(c.sections_of_place(place, stated)),
    }
}

/// Logs a look at a place.
///
/// # Errors
/// What cannot be, with its field.
pub fn look(c: &Circuit, b: LookInput, now: i64) -> Result<Vec<Deed>, Refusal> {
    c.must_be_open()?;
    if b.dwell_s
        .is_some_and(|d| !(d.is_finite() && d > 0.0 && d < 1e6))
    {
        return Err(Refusal::wrong("dwell_s", "the time must be above zero"));
    }
    if b.at_pa.is_some_and(|p| !p.is_finite()) {
        return Err(Refusal::wrong("at_pa", "the pressure must be a number"));
    }
    if b.photo_id.as_ref().is_some_and(|p| !c.photos.contains(p)) {
        return Err(Refusal::Missing("photo".into()));
    }
    let place = filled("place", &b.place, PLACE)?;
    let sections = known_section(c, &place, b.section.as_deref())?;
    let at_ms = happened_at("at_ms", b.at_ms, now)?;
    // A look is made under what stands inside, not under what is typed.
    let a = Asking::at(c, at_ms);
    let most = a.contents.may_have_stood_at(&sections);
    if let Some(told) = b.at_pa.filter(|p| *p > most + NEAR) {
        return Err(Refusal::wrong(
            "at_pa",
            format!(
                "no more than {} can have stood in {} then; {} was typed",
                a.units.gauge(most),
                sections.join(", "),
                a.units.gauge(told)
            ),
        ));
    }
    Ok(vec![Deed::Looked(Looked {
        at_pa: b.at_pa.or_else(|| c.pressure_now(&sections)),
        place,
        section: b.section,
        method: b.method,
        finding: b.finding,
        dwell_s: b.dwell_s,
        note: clipped(&b.note, 500),
        photo_id: b.photo_id,
        at_ms,
    })])
}

/// Logs a repair; the next hold is its re-test.
///
/// # Errors
/// What cannot be, with its field; a flame where pressure may be left.
pub fn mend(c: &Circuit, b: RepairInput, now: i64) -> Result<Vec<Deed>, Refusal> {
    c.must_be_open()?;
    let torque_nm = b.torque.as_ref().map(newton_metres).transpose()?;
    let place = filled("place", &b.place, PLACE)?;
    let cause = filled("cause", &b.cause, 200)?;
    let at_ms = happened_at("at_ms", b.at_ms, now)?;
    let sections = known_section(c, &place, b.section.as_deref())?;
    let opened = b.opened.ok_or_else(|| {
        Refusal::wrong(
            "opened",
            "say what was opened for it: nothing, a port inside a core tool, or the system",
        )
    })?;
    let a = Asking::at(c, at_ms);
    if b.with_torch {
        if opened != RepairOpened::Opened {
            return Err(Refusal::wrong(
                "opened",
                "a joint that is brazed is open: a flame needs a vent",
            ));
        }
        a.contents
            .may_torch(&sections, at_ms, a.units)
            .map_err(stopped("with_torch"))?;
        if !b.is_safe {
            return Err(Refusal::wrong("is_safe", BEFORE_TORCH.words));
        }
    } else if opened == RepairOpened::Opened {
        a.contents
            .may_open(&sections, at_ms, a.units)
            .map_err(stopped("opened"))?;
    }
    Ok(vec![Deed::Mended(Mended {
        place,
        section: b.section,
        cause,
        words: clipped(&b.words, 1_000),
        torque_nm,
        opened,
        with_torch: b.with_torch,
        is_risky: b.is_risky,
        at_ms,
    })])
}
