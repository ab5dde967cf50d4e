//! Signing a circuit: afterwards it is read-only.

use super::inside::stopped;
use super::said_otherwise;
use crate::log::{Carries, Deed, Signed};
use crate::refusal::{Refusal, filled};
use crate::signoff::{Carried, GateCode, Reservation, State, check_carried, drawing};
use crate::state::{Circuit, day_of};
use crate::tell::{GateView, allowed, gate_views, gates_to_sign};
use ruhe_core::quantity::Units;
use serde::Deserialize;

/// A signature.
#[derive(Debug, Clone, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[allow(missing_docs)]
pub struct SignatureInput {
    pub name: String,
    pub role: String,
    pub statement: String,
    pub state: State,
    /// The last entry that was seen, so that nobody signs what changed meanwhile.
    pub seen: Option<String>,
    /// What the state must carry.
    #[serde(default)]
    pub carried: Carried,
    #[serde(default)]
    pub reservations: Vec<Reservation>,
    /// The signature as a path of an SVG, if it was drawn.
    #[serde(default)]
    pub drawing: String,
}

fn needed(field: &str, text: &str) -> Result<String, Refusal> {
    filled(field, text, 2_000)
        .map_err(|_| Refusal::wrong(field, format!("a signature needs a {field}")))
}

/// Why a state is not allowed.
fn missing(c: &Circuit, state: State, views: &[GateView]) -> String {
    match state {
        State::Provisional => return "no reading set of the running unit".into(),
        State::NotProven => {
            return "that is for a system whose holds stand and whose charge went missing".into();
        }
        State::Inspected if c.was_worked_on() => {
            return "something was opened, tested or added: say how that stands".into();
        }
        _ => {}
    }
    // What is inside is said in full: it names the act that would change it.
    let words = |g: &GateView| match g.code {
        GateCode::Inside => g.evidence.clone(),
        _ if g.waits.is_some() => format!("{} (waits for a lead’s approval)", g.title),
        _ => g.title.clone(),
    };
    let open: Vec<String> = views
        .iter()
        .filter(|g| !g.met && g.overridden.is_none())
        .map(words)
        .collect();
    if open.is_empty() && state == State::Passed && !views.iter().any(|g| g.code == GateCode::Hold)
    {
        "nothing was tested for tightness; sign it as inspected, or with reservations".into()
    } else if open.is_empty() && state == State::Inspected {
        "nobody read what is inside in this visit".into()
    } else if open.is_empty() && c.history_says_leak() && state == State::Passed {
        "a part of its charge went missing, and no test explains it".into()
    } else if open.is_empty() && state == State::PassedWithReservations {
        "there is nothing to reserve".into()
    } else if open.is_empty() {
        "there are reservations, which the state must say".into()
    } else {
        format!("still missing: {}", open.join("; "))
    }
}

/// Signs a circuit, if its gates and overrides allow the state. The time is that of who keeps the log; `said_ms`, the
/// device's own, stands beside it where it is another.
///
/// # Errors
/// What is missing; a test that runs; something that changed meanwhile.
pub fn sign(c: &Circuit, b: &SignatureInput, said_ms: i64, now: i64) -> Result<Vec<Deed>, Refusal> {
    c.must_be_open()?;
    let (name, role) = (needed("name", &b.name)?, needed("role", &b.role)?);
    let statement = needed("statement", &b.statement)?;
    if let Some(open) = c.tests.iter().find(|t| !t.is_over()) {
        return Err(Refusal::wrong(
            "state",
            format!("{} is still running; end it first", open.title),
        ));
    }
    if b.seen.as_ref().is_some_and(|s| *s != c.head()) {
        return Err(Refusal::Conflict(
            "something was changed on another device meanwhile: look again, then sign".into(),
        ));
    }
    if c.job().is_system() {
        let inside = c.inside_by(now);
        inside
            .may_leave(&c.passages(), Units::default())
            .map_err(stopped("state"))?;
    }
    let gates = gate_views(c, Units::default());
    if !allowed(c, &gates).contains(&b.state) {
        return Err(Refusal::wrong(
            "state",
            format!(
                "it cannot be signed as “{}”: {}",
                b.state.title(),
                missing(c, b.state, &gates)
            ),
        ));
    }
    check_carried(b.state, &b.carried, &b.reservations, day_of(now))?;
    Ok(vec![Deed::Signed(Signed {
        carries: Carries {
            carried: b.carried.clone(),
            reservations: b.reservations.clone(),
            drawing: drawing(&b.drawing, "drawing")?,
        },
        name,
        role,
        statement,
        state: b.state,
        gates: gates_to_sign(c),
        at_ms: now,
        device_ms: said_otherwise(said_ms, now),
    })])
}
