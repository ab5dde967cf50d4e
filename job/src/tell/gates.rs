//! Gates as they are shown, and the states they allow.

use super::reply::NamedView;
use crate::signoff::{Gate, GateCode, Standing, State, allowed_states};
use crate::state::Circuit;
use ruhe_core::quantity::Units;
use serde::{Deserialize, Serialize};

#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct GateView {
    pub code: GateCode,
    pub title: String,
    pub met: bool,
    pub evidence: String,
    pub reservation: Option<String>,
    /// The override's reason, if there is one.
    pub overridden: Option<String>,
}

/// The gates of a circuit in these units; of a signed one, as they were signed.
#[must_use]
pub fn gate_views(c: &Circuit, u: Units) -> Vec<GateView> {
    if let Some(s) = &c.signature {
        return s.said.gates.clone();
    }
    c.gates(u).into_iter().map(|g| gate_view(c, g)).collect()
}

fn gate_view(c: &Circuit, g: Gate) -> GateView {
    let overridden = c
        .overrides
        .iter()
        .rev()
        .map(|o| &o.said)
        .find(|o| !g.met && o.gate == g.code)
        .map(|o| {
            if o.words.is_empty() {
                o.preset.clone()
            } else {
                format!("{}: {}", o.preset, o.words)
            }
        });
    GateView {
        overridden,
        code: g.code,
        title: g.code.title().into(),
        met: g.met,
        evidence: g.evidence,
        reservation: g.reservation,
    }
}

/// The states these gates of a circuit allow.
#[must_use]
pub fn allowed(c: &Circuit, views: &[GateView]) -> Vec<State> {
    let gates: Vec<Gate> = views
        .iter()
        .map(|v| Gate {
            code: v.code,
            met: v.met,
            evidence: String::new(),
            reservation: v.reservation.clone(),
        })
        .collect();
    let overridden: Vec<GateCode> = views
        .iter()
        .filter(|v| v.overridden.is_some())
        .map(|v| v.code)
        .collect();
    allowed_states(&Standing {
        gates: &gates,
        overridden: &overridden,
        has_run: !c.finish.sets.is_empty(),
        history_says_leak: c.history_says_leak(),
    })
}

/// The same with their titles.
#[must_use]
pub fn state_views(c: &Circuit, views: &[GateView]) -> Vec<NamedView> {
    allowed(c, views)
        .iter()
        .map(|s| NamedView {
            code: s.code().into(),
            title: s.title().into(),
        })
        .collect()
}
