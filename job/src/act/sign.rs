//! Signing a circuit: afterwards it is read-only.

use super::happened_at;
use crate::log::{Deed, Signed};
use crate::refusal::{Refusal, filled};
use crate::signoff::State;
use crate::state::Circuit;
use crate::tell::{GateView, allowed, gate_views};
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
}

fn needed(field: &str, text: &str) -> Result<String, Refusal> {
    filled(field, text, 2_000)
        .map_err(|_| Refusal::wrong(field, format!("a signature needs a {field}")))
}

/// Why these gates do not allow a state.
fn missing(views: &[GateView]) -> String {
    let open: Vec<&str> = views
        .iter()
        .filter(|g| !g.met && g.overridden.is_none())
        .map(|g| g.title.as_str())
        .collect();
    if open.is_empty() {
        "there are reservations, which the state must say".into()
    } else {
        format!("still missing: {}", open.join("; "))
    }
}

/// Signs a circuit, if its gates and overrides allow the state.
///
/// # Errors
/// What is missing; a test that runs; something that changed meanwhile.
pub fn sign(c: &Circuit, b: &SignatureInput, at_ms: i64, now: i64) -> Result<Vec<Deed>, Refusal> {
    c.must_be_open()?;
    let (name, role) = (needed("name", &b.name)?, needed("role", &b.role)?);
    let statement = needed("statement", &b.statement)?;
    if let Some(open) = c.tests.iter().find(|t| !t.is_over()) {
        return Err(Refusal::wrong(
            "state",
            format!("{} is still running; end it first", open.title),
        ));
    }
    if b.seen.as_ref().is_some_and(|s| *s != c.chain.hash) {
        return Err(Refusal::Conflict(
            "something was changed on another device meanwhile: look again, then sign".into(),
        ));
    }
    let gates = gate_views(c, Units::default());
    if !allowed(&gates).contains(&b.state) {
        return Err(Refusal::wrong(
            "state",
            format!(
                "it cannot be signed as “{}”: {}",
                b.state.title(),
                missing(&gates)
            ),
        ));
    }
    Ok(vec![Deed::Signed(Signed {
        name,
        role,
        statement,
        state: b.state,
        gates,
        at_ms: happened_at("at_ms", Some(at_ms), now)?,
    })])
}
