//! What was done in the visit that is open, or signed last: arrival, charge, ports, start-up, consents.

use super::arrival::ArrivalView;
use super::charge::TargetView;
use super::ledger::{LedgerView, ledger_view};
use super::mass::MassView;
use super::ports::{PortsView, ports_view};
use super::signed::{AfterView, AskedView, ConsentView, after_view, consent_view};
use super::startup::{StartView, start_view};
use crate::charge::{ArrivalDoc, TargetDoc};
use crate::state::Circuit;
use ruhe_core::quantity::Units;
use serde::Serialize;

/// What was done in a visit beside its tests.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ThisVisitView {
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

/// What was done in the visit of a circuit beside its tests.
#[must_use]
pub fn this_visit(c: &Circuit, u: Units) -> ThisVisitView {
    ThisVisitView {
        arrival_doc: c.visit.arrival.as_ref().map(|a| a.said.arrival.clone()),
        arrival: c.arrived().map(Into::into),
        target_doc: c.visit.target.as_ref().map(|t| t.said.target.clone()),
        target: c.charge_target().map(Into::into),
        charge: c.whole_charge().map(Into::into),
        ledger: ledger_view(c),
        ports: ports_view(c),
        start: start_view(c),
        consents: c
            .visit
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
