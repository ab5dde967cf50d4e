//! What to ask about doubtful readings.

use super::super::doubts::Doubt;
use crate::quantity::{Units, span};
use crate::words::{Words, words};

/// A sentence for every doubt.
pub fn asked(doubts: &[Doubt], u: Units) -> Vec<String> {
    doubts.iter().map(|d| sentence(d, u)).collect()
}

fn sentence(doubt: &Doubt, u: Units) -> String {
    match *doubt {
        Doubt::Slip {
            at, value, about, ..
        } => format!(
            "{} at {} stands far from its neighbours, which say about {}: a digit too many or too few? It is left out. If it is wrong, strike it out; if it is right, log the gauge again.",
            u.level(value),
            span(at),
            u.level(about)
        ),
        Doubt::Stuck {
            from,
            to,
            value,
            moved_before: true,
        } => format!(
            "The gauge showed {} from {} to {} without moving, and had moved before: it may have stopped. Nothing after {} is counted.",
            u.level(value),
            span(from),
            span(to),
            span(from)
        ),
        Doubt::Stuck {
            from, to, value, ..
        } => format!(
            "The gauge showed {} from {} to {} without moving, steadier than such gauges are: see that it is live.",
            u.level(value),
            span(from),
            span(to)
        ),
        Doubt::IsolatedLater { first, least, at } => format!(
            "From {} it fell to {} by {} after the marked isolation: a closed system does not do that.",
            u.level(first),
            u.level(least),
            span(at)
        ),
    }
}

/// The pump pulled on after the marked isolation.
pub fn isolated_later(doubts: &[Doubt], u: Units) -> Words {
    let at = doubts.iter().find_map(|d| match d {
        Doubt::IsolatedLater { at, .. } => Some(*at),
        _ => None,
    });
    Words {
        evidence: asked(doubts, u),
        ..words(
            "When was it isolated?",
            "It went on falling after the marked isolation, so the rule’s time does not count from there.",
            &match at {
                Some(at) if at > 0.0 => format!(
                    "If the valve was shut about {} later, mark “isolated” at that moment; else shut it now and mark it.",
                    span(at)
                ),
                _ => "Shut the valve to the pump, mark it “isolated”, and follow the rise.".into(),
            },
        )
    }
}
