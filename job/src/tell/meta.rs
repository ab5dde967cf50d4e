//! What does not change while a page is open: units, kinds, procedures, refrigerants.

use super::begin::{PROBE_STEP, gauge_step};
use super::procedure::SchoolView;
use super::reply::NamedView;
use super::search::MethodView;
use super::sums::{TorqueView, torques};
use crate::procedure::JobKind;
use crate::search::Method;
use crate::signoff::State;
use crate::state::UNDO_MS;
use crate::survey::{ANY, JointKind};
use ruhe_core::matter::refrigerant::refrigerants;
use ruhe_core::matter::tube::TUBES;
use ruhe_core::quantity::{Dimension, UNITS, Unit};
use ruhe_core::reading::{Behind, EventKind, Kind};
use serde::{Deserialize, Serialize};

#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct UnitView {
    pub code: Unit,
    pub label: String,
    pub dimension: Dimension,
    /// What a gauge or probe in it usually resolves.
    pub usual_step: f64,
    /// SI = value × factor + offset.
    pub factor: f64,
    pub offset: f64,
}

#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RefrigerantView {
    pub name: String,
    pub safety_class: String,
    pub flammable: bool,
}

#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SiteView {
    pub id: String,
    pub name: String,
    pub place: String,
}

/// What does not change while Ruhe runs.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Meta {
    pub engine_version: String,
    pub units: Vec<UnitView>,
    pub job_kinds: Vec<NamedView>,
    pub refrigerants: Vec<RefrigerantView>,
    pub procedures: Vec<SchoolView>,
    pub tubes: Vec<NamedView>,
    pub joint_kinds: Vec<NamedView>,
    pub behinds: Vec<NamedView>,
    pub methods: Vec<MethodView>,
    pub states: Vec<NamedView>,
    pub choices: super::choices::Choices,
    pub sites: Vec<SiteView>,
    /// Usual torques of flare nuts.
    pub torques: Vec<TorqueView>,
    /// Kinds of test whose simulated gauges may be listened to: in the demo, or where it was asked for.
    pub simulated_gauges: Vec<Kind>,
    /// Taps that decide, and can be undone for a moment.
    pub deciding: Vec<NamedView>,
    /// So long a tap that decides can be undone, ms.
    pub undo_ms: i64,
    /// Volume of a small system of which nothing is known, L: smallest.
    pub usual_volume_low_l: f64,
    /// Largest.
    pub usual_volume_high_l: f64,
    /// Share of the absolute pressure that a hold may lose where nobody gave a limit.
    pub usual_drop: f64,
}

/// Taps that decide: from what a hold, and from what a decay counts.
const DECIDING: [(EventKind, &str); 2] = [
    (EventKind::SupplyIsolated, "Supply shut"),
    (EventKind::Isolated, "Isolated"),
];

fn named(code: &str, title: &str) -> NamedView {
    NamedView {
        code: code.into(),
        title: title.into(),
    }
}

/// Units, job kinds, procedures, refrigerants, sites.
#[must_use]
pub fn meta(
    procedures: Vec<SchoolView>,
    sites: Vec<SiteView>,
    simulated_gauges: Vec<Kind>,
) -> Meta {
    Meta {
        engine_version: ruhe_core::ENGINE_VERSION.into(),
        units: UNITS
            .iter()
            .map(|u| UnitView {
                code: u.unit,
                label: u.label.into(),
                usual_step: match u.dimension {
                    Dimension::Pressure => gauge_step(u.unit),
                    Dimension::Temperature => PROBE_STEP,
                },
                factor: u.factor,
                offset: u.offset,
                dimension: u.dimension,
            })
            .collect(),
        job_kinds: JobKind::ALL
            .iter()
            .filter(|k| k.is_system())
            .map(|k| named(k.code(), k.title()))
            .collect(),
        refrigerants: refrigerants()
            .iter()
            .map(|r| RefrigerantView {
                name: r.name.into(),
                safety_class: r.safety.code().into(),
                flammable: r.safety.is_flammable(),
            })
            .collect(),
        procedures,
        tubes: TUBES.iter().map(|t| named(t.code, t.code)).collect(),
        joint_kinds: JointKind::ALL
            .iter()
            .map(|k| named(k.code(), k.title()))
            .collect(),
        behinds: Behind::ALL
            .iter()
            .map(|k| named(k.code(), k.title()))
            .collect(),
        methods: Method::ALL
            .iter()
            .map(|m| MethodView {
                code: *m,
                title: m.title().into(),
                hint: m.hint().into(),
                least_s: m.least_dwell(),
            })
            .collect(),
        choices: super::choices::choices(),
        states: State::ALL
            .iter()
            .map(|s| named(s.code(), s.title()))
            .collect(),
        torques: torques(),
        simulated_gauges,
        deciding: DECIDING
            .iter()
            .map(|(e, title)| named(e.code(), title))
            .collect(),
        undo_ms: UNDO_MS,
        usual_volume_low_l: ANY.low,
        usual_volume_high_l: ANY.high,
        usual_drop: ruhe_core::hold::DEFAULT_SHARE,
        sites,
    }
}
