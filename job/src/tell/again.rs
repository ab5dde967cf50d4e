//! The same hold once more, ready to be opened: the plan of the last one, at the pressure that the rule asks for.

use super::untested::untested;
use crate::act::TestInput;
use crate::state::Circuit;
use ruhe_core::quantity::{Units, span};
use ruhe_core::reading::Kind;
use serde::Serialize;

/// A hold that can be repeated as it was planned.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SameAgain {
    /// "As Hold 3: 290 psig for 30 min, with Pressure and Pipe probe."
    pub words: String,
    /// What the button says: "Press up again to 290 psig".
    pub text: String,
    /// What it opens.
    pub input: TestInput,
}

/// The last hold again, of the section that waits for one where a leak showed; `None`: there was none, or it has to be
/// planned anew.
#[must_use]
pub fn same_again(c: &Circuit, u: Units) -> Option<SameAgain> {
    let waits = untested(c);
    let holds = c
        .tests
        .iter()
        .rev()
        .filter(|t| t.kind == Kind::PressureHold);
    let last = holds
        .filter(|t| t.is_over() && t.outline().count > 0)
        .find(|t| match waits.as_ref().and_then(|w| w.section.as_ref()) {
            Some(s) => t.plan.section.as_ref() == Some(s),
            None => true,
        })?;
    let plan = last.plan.again(waits.map_or(0.0, |w| w.at_least))?;
    let at = u.gauge(plan.test_pa?);
    let time = plan
        .planned_s
        .map_or_else(String::new, |s| format!(" for {}", span(s)));
    let names: Vec<&str> = last
        .channels
        .iter()
        .map(|c| c.channel.name.as_str())
        .collect();
    Some(SameAgain {
        words: format!("As {}: {at}{time}, with {}.", last.title, names.join(", ")),
        text: format!("Press up again to {at}"),
        input: TestInput {
            kind: Kind::PressureHold,
            channels: last.channels.iter().map(Into::into).collect(),
            plan,
        },
    })
}
