//! Gates as they are shown, and the states they allow.

use super::reply::NamedView;
use crate::log::{GateSigned, Overridden};
use crate::signoff::{Gate, GateCode, Standing, State, allowed_states};
use crate::state::{Circuit, Kept};
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
    /// Somebody may answer for it unmet.
    pub can_be_answered: bool,
    /// Said by somebody who may not answer for it: it waits for one who may. Its entry.
    pub waits: Option<String>,
}

/// The gates of a circuit in these units; of a signed one, as they were signed.
#[must_use]
pub fn gate_views(c: &Circuit, u: Units) -> Vec<GateView> {
    let (Some(s), Some(on)) = (c.signed_gates(u), &c.signed_on) else {
        return c.gates(u).into_iter().map(|g| gate_view(c, g)).collect();
    };
    s.gates
        .iter()
        .zip(s.found)
        .map(|(g, found)| {
            let found = found.unwrap_or_else(|| {
                let words = "Signed so; this version of the rules finds otherwise.";
                let reserved =
                    "Signed with a reservation that this version of the rules does not find.";
                Gate {
                    can_be_answered: g.can_be_answered,
                    ..Gate::new(g.code, g.met, words.into())
                        .reserved(g.is_reserved.then(|| reserved.into()))
                }
            });
            gate_view(on, found)
        })
        .collect()
}

/// The gates of a circuit as a signature keeps them.
#[must_use]
pub fn gates_to_sign(c: &Circuit) -> Vec<GateSigned> {
    c.gates(Units::default())
        .iter()
        .map(|g| GateSigned {
            code: g.code,
            met: g.met,
            can_be_answered: g.can_be_answered,
            is_reserved: g.reservation.is_some(),
            overridden: answered(c, g, true).map(|o| o.id.clone()),
        })
        .collect()
}

/// What was last said of an unmet gate by somebody who may answer for it, or by somebody who may not.
fn answered<'a>(c: &'a Circuit, g: &Gate, is_answered: bool) -> Option<&'a Kept<Overridden>> {
    let of = |o: &&Kept<Overridden>| {
        !g.met && g.can_be_answered && o.said.gate == g.code && c.is_answered(o) == is_answered
    };
    c.overrides.iter().rev().find(of)
}

fn gate_view(c: &Circuit, g: Gate) -> GateView {
    let overridden = answered(c, &g, true).map(|o| {
        let by = c.approved.iter().find(|(entry, _)| *entry == o.id);
        by.map_or_else(
            || o.said.words.clone(),
            |(_, by)| format!("{} (approved by {by})", o.said.words),
        )
    });
    GateView {
        waits: answered(c, &g, false)
            .filter(|_| overridden.is_none())
            .map(|o| o.id.clone()),
        can_be_answered: g.can_be_answered,
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
            can_be_answered: v.can_be_answered,
            is_carried: false,
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
        has_run: !c.visit.sets.is_empty(),
        history_says_leak: c.history_says_leak(),
        was_worked_on: c.was_worked_on(),
        was_read: !c.seen.is_empty()
            || !c.visit.sets.is_empty()
            || c.visit
                .arrival
                .as_ref()
                .is_some_and(|a| a.said.arrival.standing.is_some()),
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
