//! What is inside: a reading outside any test; what others ask of the contents before they act.

use super::happened_at;
use crate::charge::pascal;
use crate::contents::{Contents, Side};
use crate::log::{Besides, Deed, GaugeSide, Left, Seen};
use crate::procedure::SLIGHT;
use crate::refusal::Refusal;
use crate::state::Circuit;
use ruhe_core::quantity::Units;
use serde::Deserialize;

/// A reading outside any test.
#[derive(Debug, Clone, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SeenInput {
    /// Where, which side, what the gauge showed.
    pub left: Left,
    /// What somebody knows to be in it besides: it only ever adds.
    pub besides: Option<Besides>,
    /// When, if not now: ms since 1970 UTC.
    pub at_ms: Option<i64>,
}

/// What is inside at the time of an act, and the word that stops it, as a refusal of its field.
pub(super) struct Asking {
    pub contents: Contents,
    pub units: Units,
}

impl Asking {
    /// Asks what was inside at that time, as the log tells it now.
    pub(super) fn at(c: &Circuit, at_ms: i64) -> Self {
        Self {
            contents: c.inside_by(at_ms),
            units: Units::default(),
        }
    }
}

/// A stop as a refusal.
pub(super) fn stopped(field: &str) -> impl Fn(String) -> Refusal {
    let field = field.to_owned();
    move |why| Refusal::wrong(&field, why)
}

/// Units that vacuum gauges show.
const OF_VACUUM: [&str; 4] = ["micron", "torr", "mmHg", "Pa"];

/// Checks a pressure read at a section. Pa gauge.
pub(super) fn check_left(c: &Circuit, l: &Left, field: &str) -> Result<f64, Refusal> {
    let inside = c.inside();
    if let Some(s) = l.section.as_ref().filter(|s| inside.space(s).is_none()) {
        let words = format!("the survey has no section “{s}”");
        return Err(Refusal::wrong(&format!("{field}.section"), words));
    }
    let tested = c.tested();
    let first: Vec<&str> = inside
        .reached(&tested[..1])
        .iter()
        .map(|s| s.name.as_str())
        .collect();
    if l.section.is_none() && tested.iter().any(|t| !first.contains(&t.as_str())) {
        return Err(Refusal::wrong(
            &format!("{field}.section"),
            "say at which section it was read: shut valves may keep them apart",
        ));
    }
    let air = c.site_air();
    Ok(pascal(&l.pressure, &format!("{field}.pressure"), air)? - air)
}

/// Keeps a reading outside any test.
///
/// # Errors
/// What cannot be read, with its field; a vacuum gauge where a pressure stands.
pub fn see(c: &Circuit, b: SeenInput, now: i64) -> Result<Vec<Deed>, Refusal> {
    c.must_be_open()?;
    let at_ms = happened_at("at_ms", b.at_ms, now)?;
    let pa = check_left(c, &b.left, "left")?;
    let names: Vec<String> = b.left.section.iter().cloned().collect();
    let inside = c.inside_by(at_ms);
    let stands = inside
        .reached(&names)
        .into_iter()
        .find(|s| s.last_shown().is_some_and(|x| x.pa > SLIGHT));
    if let Some(s) =
        stands.filter(|_| pa < 0.0 && OF_VACUUM.contains(&b.left.pressure.unit.as_str()))
    {
        return Err(Refusal::wrong(
            "left.pressure.typed",
            format!(
                "{}: {}. A vacuum gauge says nothing of that: type what the pressure gauge shows on both sides, \
                 once it is let out",
                s.name,
                s.holds(Units::default())
            ),
        ));
    }
    Ok(vec![Deed::Seen(Seen {
        left: b.left,
        besides: b.besides,
        at_ms,
    })])
}

/// What both sides showed after a release or a recovery: without it nothing is known to be gone.
pub(super) fn check_all_left(c: &Circuit, left: &[Left]) -> Result<(), Refusal> {
    let mut of: Vec<(Option<&str>, [bool; 2])> = vec![];
    for (i, l) in left.iter().enumerate() {
        check_left(c, l, &format!("left.{i}"))?;
        let section = l.section.as_deref();
        let k = of.iter().position(|o| o.0 == section).unwrap_or_else(|| {
            of.push((section, [false; 2]));
            of.len() - 1
        });
        match l.side {
            GaugeSide::Both => of[k].1 = [true; 2],
            GaugeSide::High => of[k].1[0] = true,
            GaugeSide::Low => of[k].1[1] = true,
        }
    }
    let missing = of.iter().find_map(|(s, sides)| {
        let side = [Side::High, Side::Low]
            .into_iter()
            .zip(sides)
            .find(|(_, is)| !**is)?
            .0;
        Some(format!(
            "{}{}",
            s.map_or_else(String::new, |s| format!("{s}: ")),
            side.title()
        ))
    });
    if of.is_empty() {
        return Err(Refusal::wrong(
            "left",
            "write down what the gauges show now, on both sides: without a reading nothing is known to be out",
        ));
    }
    missing.map_or(Ok(()), |m| {
        Err(Refusal::wrong(
            "left",
            format!(
                "write down what the {m} shows too: a shut metering device can keep one side full"
            ),
        ))
    })
}
