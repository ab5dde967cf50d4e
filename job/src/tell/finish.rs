//! The second half of a job as its page shows it: arrival, charge, ports, start-up, consents, visits.

use super::reply::NamedView;
use crate::charge::{
    ArrivalDoc, Covers, LedgerKind, Metering, PlateRead, Purity, RATES_SHOWN, RowDoc, ScaleInput,
    ScaleMode, Scope, Slip, Stop, TargetDoc, row, slips, stop, target,
};
use crate::log::{Besides, Consented, GaugeSide};
use crate::ports::{Bubbles, Core, DrierState, PortSide, PortsDoc, Purge, Refitted, Stem};
use crate::procedure::{BreakWith, CoresBack};
use crate::refusal::Refusal;
use crate::search::RepairOpened;
use crate::signoff::{Carried, Reservation};
use crate::startup::{Drive, Mode, Set, SetDoc, SetWord, When, before_and_after, patterns};
use crate::state::Circuit;
use crate::survey::Typed;
use ruhe_core::quantity::{Mass, MassUnit, Units};
use serde::{Deserialize, Serialize};

/// A mass in every form.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct MassView {
    pub g: f64,
    /// g, kg, oz, lb, lb and oz.
    pub forms: Vec<String>,
    /// As sentences give it.
    pub words: String,
}

impl From<Mass> for MassView {
    fn from(m: Mass) -> Self {
        Self {
            g: m.g(),
            forms: m.forms(),
            words: m.words(),
        }
    }
}

/// A mass that is being typed, and what else may be meant.
#[derive(Debug, Clone, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct MassInput {
    pub mass: Typed,
    /// What is expected, g, and what speaks for it.
    pub expected_g: Option<f64>,
    #[serde(default)]
    pub speaks: String,
}

#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct MassRead {
    pub mass: MassView,
    pub slips: Vec<Slip>,
}

/// Reads a mass that is being typed.
///
/// # Errors
/// What is wrong with it.
pub fn read_mass(b: &MassInput) -> Result<MassRead, Refusal> {
    let m = crate::charge::mass(&b.mass, "mass")?;
    let expected = b.expected_g.map(|g| (Mass::from_g(g), b.speaks.as_str()));
    Ok(MassRead {
        slips: slips(&b.mass, expected),
        mass: m.into(),
    })
}

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

/// A part of a target.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PartView {
    pub words: String,
    pub mass: MassView,
}

/// A slip at a field of a document.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SlipView {
    pub field: String,
    pub slip: Slip,
}

/// What the maker wants, worked out.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct TargetView {
    pub parts: Vec<PartView>,
    pub total: MassView,
    pub inside: Option<MassView>,
    pub tolerance: MassView,
    pub tolerance_words: String,
    pub stops: Vec<String>,
    pub remarks: Vec<String>,
    pub slips: Vec<SlipView>,
}

impl From<crate::charge::Target> for TargetView {
    fn from(t: crate::charge::Target) -> Self {
        Self {
            parts: t
                .parts
                .into_iter()
                .map(|(words, mass)| PartView {
                    words,
                    mass: mass.into(),
                })
                .collect(),
            total: t.total.into(),
            inside: t.inside.map(Into::into),
            tolerance: t.tolerance.into(),
            tolerance_words: t.tolerance_words,
            stops: t.stops,
            remarks: t.remarks,
            slips: t
                .slips
                .into_iter()
                .map(|(field, slip)| SlipView { field, slip })
                .collect(),
        }
    }
}

/// A target that is being typed.
///
/// # Errors
/// What cannot be read, with its field.
pub fn tried_target(c: &Circuit, d: &TargetDoc) -> Result<TargetView, Refusal> {
    Ok(target(d, c.refrigerant(), &c.known_of_target())
        .map_err(|e| e.within("target"))?
        .into())
}

/// The number to stop at.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct StopView {
    pub stop: String,
    pub throttle: String,
    pub adds: MassView,
    pub to_add: MassView,
    pub words: Vec<String>,
}

/// Where to stop to bring a circuit to its target.
///
/// # Errors
/// What cannot be read, with its field; no target, or one that is stopped; nothing left to add.
pub fn tried_stop(c: &Circuit, b: &ScaleInput) -> Result<StopView, Refusal> {
    let t = c
        .charge_target()
        .ok_or_else(|| Refusal::Conflict("say first what the maker wants".into()))?;
    if let Some(why) = t.stops.first() {
        return Err(Refusal::Conflict(why.clone()));
    }
    let (s, _) = c.ledger_sum();
    let add = Mass::from_g(t.total.g() - s.inside.g());
    let Stop {
        stop,
        throttle,
        adds,
        words,
        ..
    } = stop(b, add, c.refrigerant())?;
    Ok(StopView {
        stop,
        throttle,
        adds: adds.into(),
        to_add: add.into(),
        words,
    })
}

/// A row of the ledger.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RowView {
    /// Id of its entry.
    pub id: String,
    pub at_ms: i64,
    pub actor: String,
    pub kind_title: String,
    pub row: RowDoc,
    /// With its sign: into the system above zero.
    pub net: Option<MassView>,
}

/// A cylinder, and what went out of it and came into it.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CylinderView {
    pub cylinder: String,
    pub refrigerant: String,
    pub out: MassView,
    pub back: MassView,
    pub rows: usize,
}

/// The ledger.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LedgerView {
    pub rows: Vec<RowView>,
    pub cylinders: Vec<CylinderView>,
    pub inside: MassView,
    pub is_at_least: bool,
    pub unweighed: usize,
    pub recovered: MassView,
    /// What is left to add; below zero: too much.
    pub to_add: Option<MassView>,
    /// How it stands to the target, in words.
    pub words: Option<String>,
    pub is_within: Option<bool>,
    pub is_far: Option<bool>,
}

fn ledger_view(c: &Circuit) -> LedgerView {
    let (s, b) = c.ledger_sum();
    let rows: Vec<RowView> = c
        .finish
        .ledger
        .iter()
        .map(|r| {
            let net = row(&r.said.row).ok().and_then(|x| x.net);
            let kind = r.said.row.kind;
            let sign = if kind == LedgerKind::Recovered {
                -1.0
            } else {
                kind.sign()
            };
            RowView {
                id: r.id.clone(),
                at_ms: r.said.at_ms,
                actor: r.actor.clone(),
                kind_title: kind.title().into(),
                net: net.map(|m| Mass::from_g(sign * m.g()).into()),
                row: r.said.row.clone(),
            }
        })
        .collect();
    LedgerView {
        cylinders: cylinders(c),
        rows,
        inside: s.inside.into(),
        is_at_least: s.is_at_least,
        unweighed: s.unweighed,
        recovered: s.recovered.into(),
        to_add: b.as_ref().map(|b| Mass::from_g(-b.off.g()).into()),
        words: b.as_ref().map(|b| b.words.clone()),
        is_within: b.as_ref().map(|b| b.is_within),
        is_far: b.as_ref().map(|b| b.is_far),
    }
}

fn cylinders(c: &Circuit) -> Vec<CylinderView> {
    let mut out: Vec<(String, String, f64, f64, usize)> = vec![];
    for r in &c.finish.ledger {
        let d = &r.said.row;
        let name = d.cylinder.trim();
        if name.is_empty() {
            continue;
        }
        let g = row(d).ok().and_then(|x| x.net).map_or(0.0, Mass::g);
        let (left, back) = if d.kind.leaves_cylinder() {
            (g, 0.0)
        } else {
            (0.0, g)
        };
        match out.iter_mut().find(|o| o.0 == name) {
            Some(o) => (o.2, o.3, o.4) = (o.2 + left, o.3 + back, o.4 + 1),
            None => out.push((name.into(), d.refrigerant.trim().into(), left, back, 1)),
        }
    }
    out.into_iter()
        .map(|(cylinder, refrigerant, left, back, rows)| CylinderView {
            cylinder,
            refrigerant,
            out: Mass::from_g(left).into(),
            back: Mass::from_g(back).into(),
            rows,
        })
        .collect()
}

/// A port with what it still needs.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PortState {
    pub name: String,
    pub missing: Vec<String>,
}

/// The register of ports.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PortsView {
    pub version: i64,
    pub is_kept: bool,
    pub ports: PortsDoc,
    pub states: Vec<PortState>,
    pub deviations: Vec<String>,
}

fn ports_view(c: &Circuit) -> PortsView {
    let mut ports = c.ports();
    // A line for each joint the survey calls brazed, whether somebody said how or not.
    let brazed = c
        .doc
        .joints
        .iter()
        .filter(|j| j.kind == crate::survey::JointKind::Braze);
    for j in brazed {
        if !ports.joints.iter().any(|b| b.name == j.name) {
            ports.joints.push(crate::ports::BrazedDoc {
                name: j.name.clone(),
                ..Default::default()
            });
        }
    }
    PortsView {
        version: c.ports_version(),
        is_kept: c.finish.ports.is_some(),
        states: ports
            .ports
            .iter()
            .map(|p| PortState {
                name: p.name.clone(),
                missing: p
                    .missing(c.looked_at(&p.name))
                    .into_iter()
                    .map(Into::into)
                    .collect(),
            })
            .collect(),
        deviations: ports.deviations(),
        ports,
    }
}

/// A reading set, worked out. K and Pa absolute; intervals in K.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SetView {
    /// Id of its entry.
    pub id: String,
    pub at_ms: i64,
    pub when: When,
    pub mode: Mode,
    pub set: SetDoc,
    pub dew_k: Option<f64>,
    pub bubble_k: Option<f64>,
    pub superheat_k: Option<f64>,
    pub subcooling_k: Option<f64>,
    pub split_k: Option<f64>,
    pub approach_k: Option<f64>,
}

fn set_view(id: &str, d: &SetDoc, s: &Set) -> SetView {
    SetView {
        id: id.into(),
        at_ms: s.at_ms,
        when: s.when,
        mode: s.mode,
        dew_k: s.dew,
        bubble_k: s.bubble,
        superheat_k: s.superheat,
        subcooling_k: s.subcooling,
        split_k: s.split,
        approach_k: s.approach,
        set: d.clone(),
    }
}

#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PatternView {
    pub is_likely: bool,
    pub words: String,
    pub look: String,
}

/// Places in the list of the last set before the work and of the last after it.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct BeforeAfter {
    pub before: usize,
    pub after: usize,
}

/// The running unit.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct StartView {
    pub sets: Vec<SetView>,
    pub word: Option<SetWord>,
    pub words: Option<String>,
    /// How long it still takes at least, s.
    pub wait_s: Option<f64>,
    pub patterns: Vec<PatternView>,
    pub before_after: Option<BeforeAfter>,
    /// The air's pressure that gauges are read against, Pa.
    pub air_pa: f64,
}

fn start_view(c: &Circuit) -> StartView {
    let sets = c.start_sets();
    let st = c.steadiness();
    let last = sets
        .last()
        .filter(|_| st.as_ref().is_some_and(|s| s.is_steady));
    StartView {
        word: st.as_ref().map(|s| s.word),
        wait_s: st.as_ref().and_then(|s| s.wait_s),
        words: st.map(|s| s.words),
        patterns: last.map_or(vec![], |s| {
            patterns(s)
                .into_iter()
                .map(|p| PatternView {
                    is_likely: p.is_likely,
                    words: p.words.into(),
                    look: p.look.into(),
                })
                .collect()
        }),
        before_after: before_and_after(&sets).map(|(before, after)| BeforeAfter { before, after }),
        air_pa: c.site_air(),
        sets: c
            .finish
            .sets
            .iter()
            .zip(&sets)
            .map(|(k, s)| set_view(&k.id, &k.said.set, s))
            .collect(),
    }
}

/// A set that is being typed, worked out.
///
/// # Errors
/// What cannot be read, with its field.
pub fn tried_set(c: &Circuit, d: &SetDoc, now: i64) -> Result<SetView, Refusal> {
    let s = crate::startup::set(d, c.refrigerant(), c.site_air(), now, None)
        .map_err(|e| e.within("set"))?;
    Ok(set_view("", d, &s))
}

/// A consent.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ConsentView {
    pub repair: Option<String>,
    pub is_agreed: bool,
    /// Id of its entry.
    pub id: String,
    pub question: String,
    pub options: String,
    pub risk: String,
    pub answer: String,
    pub name: String,
    /// Who said that it was them.
    pub said_by: Option<String>,
    pub drawing: String,
    pub at_ms: i64,
}

fn consent_view(id: &str, x: &Consented) -> ConsentView {
    let x = x.clone();
    ConsentView {
        id: id.into(),
        repair: x.repair,
        is_agreed: x.is_agreed,
        question: x.question,
        options: x.options,
        risk: x.risk,
        answer: x.answer,
        name: x.name,
        said_by: x.said_by,
        drawing: x.drawing,
        at_ms: x.at_ms,
    }
}

/// A word beside a signature: of a witness, or added.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct AfterView {
    pub title: String,
    pub name: String,
    /// Who said that it was them, where they did not confirm it themselves.
    pub said_by: Option<String>,
    pub words: String,
    pub drawing: String,
    /// By the clock of who keeps the log.
    pub at_ms: i64,
    /// By the device's own, where that was another time.
    pub device_ms: Option<i64>,
}

/// What came after the signature, in the order it came.
#[must_use]
pub fn after_view(c: &Circuit) -> Vec<AfterView> {
    let witness = c.finish.witnesses.iter().map(|w| AfterView {
        title: format!("Witness, {}", w.said.role),
        name: w.said.name.clone(),
        said_by: w.said.said_by.clone(),
        words: w.said.statement.clone(),
        drawing: w.said.drawing.clone(),
        at_ms: w.said.at_ms,
        device_ms: w.said.device_ms,
    });
    let added = c.finish.added.iter().map(|a| AfterView {
        title: if a.said.completes {
            "Addition: what was outstanding is done"
        } else {
            "Addition"
        }
        .into(),
        name: a.said.name.clone(),
        said_by: None,
        words: a.said.words.clone(),
        drawing: String::new(),
        at_ms: a.said.at_ms,
        device_ms: a.said.device_ms,
    });
    let mut out: Vec<AfterView> = witness.chain(added).collect();
    out.sort_by_key(|a| a.at_ms);
    out
}

/// What a signature carries.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CarriesView {
    pub carried: Carried,
    pub reservations: Vec<Reservation>,
    pub drawing: String,
}

/// The second half of a job.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct FinishView {
    pub arrival_doc: Option<ArrivalDoc>,
    pub arrival: Option<ArrivalView>,
    pub target_doc: Option<TargetDoc>,
    pub target: Option<TargetView>,
    /// The whole charge, if it is known.
    pub charge: Option<MassView>,
    pub ledger: LedgerView,
    pub ports: PortsView,
    pub start: StartView,
    pub consents: Vec<ConsentView>,
    /// Risky repairs that nobody agreed to.
    pub without_consent: Vec<AskedView>,
    pub history_says_leak: bool,
    pub after: Vec<AfterView>,
    /// Pressure up to which only vapour goes in, in words.
    pub freeze_guard: Option<String>,
}

/// A risky repair that somebody has to agree to.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct AskedView {
    /// Its entry.
    pub repair: String,
    pub place: String,
}

/// The second half of a circuit's job.
#[must_use]
pub fn finish_view(c: &Circuit, u: Units) -> FinishView {
    FinishView {
        arrival_doc: c.finish.arrival.as_ref().map(|a| a.said.arrival.clone()),
        arrival: c.arrived().map(Into::into),
        target_doc: c.finish.target.as_ref().map(|t| t.said.target.clone()),
        target: c.charge_target().map(Into::into),
        charge: c.whole_charge().map(Into::into),
        ledger: ledger_view(c),
        ports: ports_view(c),
        start: start_view(c),
        consents: c
            .finish
            .consents
            .iter()
            .map(|x| consent_view(&x.id, &x.said))
            .collect(),
        without_consent: c
            .without_consent()
            .into_iter()
            .map(|(repair, place)| AskedView {
                repair: repair.into(),
                place: place.into(),
            })
            .collect(),
        history_says_leak: c.history_says_leak(),
        after: after_view(c),
        freeze_guard: c
            .refrigerant()
            .map(|r| u.gauge(r.freeze_guard() - c.site_air())),
    }
}

/// The choices of the second half, with their titles.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct FinishChoices {
    pub mass_units: Vec<NamedView>,
    pub rates: Vec<NamedView>,
    pub scopes: Vec<NamedView>,
    pub plate_reads: Vec<NamedView>,
    pub covers: Vec<NamedView>,
    pub meterings: Vec<NamedView>,
    pub ledger_kinds: Vec<NamedView>,
    pub scale_modes: Vec<NamedView>,
    pub purities: Vec<NamedView>,
    pub cores: Vec<NamedView>,
    pub refitted: Vec<NamedView>,
    pub bubbles: Vec<NamedView>,
    pub stems: Vec<NamedView>,
    pub purges: Vec<NamedView>,
    pub driers: Vec<NamedView>,
    pub break_with: Vec<NamedView>,
    pub port_sides: Vec<NamedView>,
    pub gauge_sides: Vec<NamedView>,
    pub besides: Vec<NamedView>,
    pub repairs_opened: Vec<NamedView>,
    pub cores_back: Vec<NamedView>,
    pub modes: Vec<NamedView>,
    pub drives: Vec<NamedView>,
}

macro_rules! listed {
    ($t:ty) => {
        <$t>::ALL
            .iter()
            .map(|x| NamedView {
                code: x.code().into(),
                title: x.title().into(),
            })
            .collect()
    };
}

/// All choices of the second half.
#[must_use]
pub fn finish_choices() -> FinishChoices {
    let unit = |u: &MassUnit| NamedView {
        code: u.code().into(),
        title: if *u == MassUnit::PoundOunce {
            "lb + oz"
        } else {
            u.code()
        }
        .into(),
    };
    FinishChoices {
        mass_units: MassUnit::ALL.iter().map(unit).collect(),
        rates: RATES_SHOWN
            .iter()
            .map(|r| NamedView {
                code: (*r).into(),
                title: (*r).into(),
            })
            .collect(),
        scopes: listed!(Scope),
        plate_reads: listed!(PlateRead),
        covers: listed!(Covers),
        meterings: listed!(Metering),
        ledger_kinds: listed!(LedgerKind),
        scale_modes: listed!(ScaleMode),
        purities: listed!(Purity),
        cores: listed!(Core),
        refitted: listed!(Refitted),
        bubbles: listed!(Bubbles),
        stems: listed!(Stem),
        purges: listed!(Purge),
        driers: listed!(DrierState),
        break_with: listed!(BreakWith),
        port_sides: listed!(PortSide),
        gauge_sides: listed!(GaugeSide),
        besides: listed!(Besides),
        repairs_opened: listed!(RepairOpened),
        cores_back: listed!(CoresBack),
        modes: listed!(Mode),
        drives: listed!(Drive),
    }
}
