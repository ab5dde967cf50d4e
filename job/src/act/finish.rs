//! The acts of the second half: arrival, target, ledger, ports, breaking the vacuum, reading sets, consent.

use super::happened_at;
use super::inside::{Asking, stopped};
use crate::charge::{ArrivalDoc, GLIDE, LedgerKind, RowDoc, TargetDoc, arrival, row, target};
use crate::log::{Arrived, Broken, Consented, Deed, Measured, PortsKept, Targeted, Weighed};
use crate::ports::{PortsDoc, Refitted};
use crate::procedure::{BreakDoc, BreakWith, check_break};
use crate::refusal::{Refusal, clipped, filled};
use crate::signoff::drawing;
use crate::startup::{SetDoc, When, set};
use crate::state::{Circuit, day_of};
use crate::survey::with_ids;
use ruhe_core::matter::refrigerant::same_name;
use ruhe_core::quantity::Units;
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

/// The register of ports.
#[derive(Debug, Clone, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[allow(missing_docs)]
pub struct PortsInput {
    pub ports: PortsDoc,
    /// The version it was made from.
    pub version: i64,
    /// When, if not now: ms since 1970 UTC.
    pub at_ms: Option<i64>,
}

/// How the vacuum was broken.
#[derive(Debug, Clone, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[allow(missing_docs)]
pub struct BreakInput {
    pub broken: BreakDoc,
    /// When, if not now: ms since 1970 UTC.
    pub at_ms: Option<i64>,
}

/// A reading set.
#[derive(Debug, Clone, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[allow(missing_docs)]
pub struct SetInput {
    pub set: SetDoc,
    /// When, if not now: ms since 1970 UTC.
    pub at_ms: Option<i64>,
}

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

/// Keeps the next version of the register of ports.
///
/// # Errors
/// What cannot be, with its field; a version that is no longer the last.
pub fn keep_ports(c: &Circuit, mut b: PortsInput, now: i64) -> Result<Vec<Deed>, Refusal> {
    c.must_be_open()?;
    b.ports.check().map_err(|e| e.within("ports"))?;
    if b.version != c.ports_version() {
        return Err(Refusal::Conflict(
            "the register was changed on another device meanwhile; load it again".into(),
        ));
    }
    let before = c.ports();
    with_ids("ports", &mut b.ports.ports, &before.ports, b.version + 1)
        .map_err(|e| e.within("ports"))?;
    let at_ms = happened_at("at_ms", b.at_ms, now)?;
    let a = Asking::at(c, at_ms);
    for p in b.ports.moved(&before) {
        // One that went back at positive pressure, or never left its tool, was no open port.
        let has_tool = p.has_tool || p.refitted != Refitted::Not;
        a.contents
            .may_move_core(&[], has_tool, at_ms, a.units)
            .map_err(stopped("ports"))?;
    }
    Ok(vec![Deed::PortsKept(PortsKept {
        version: b.version + 1,
        ports: b.ports,
        at_ms,
    })])
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
