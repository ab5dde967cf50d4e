//! What to ask about doubtful readings.

use super::super::doubts::Doubt;
use crate::quantity::{Unit, Units, span};
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
            "{} at {} stands far from its neighbours, which say about {}: a digit too many or too few? It is \
             left out. If it is wrong, strike it out; if it is right, log the gauge again.",
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
            "The gauge showed {} from {} to {} without moving, and had moved before: it may have stopped. \
             Nothing after {} is counted.",
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
        Doubt::TopOfDisplay { from, value } => format!(
            "From {} on the gauge showed {} and nothing else, after a rise that was far from levelling: its \
             display ends there. How much further it rose is not known.",
            span(from),
            u.level(value)
        ),
        Doubt::IsolatedLater { first, least, at } => format!(
            "From {} it fell to {} by {} after the marked isolation: a closed system does not do that.",
            u.level(first),
            u.level(least),
            span(at)
        ),
    }
}

/// A dial reads against the air, and its smallest step is more than all of a deep vacuum.
pub fn on_a_dial(reads: f64, unit: Unit, digit: f64, u: Units) -> Words {
    Words {
        evidence: vec![format!(
            "The dial shows a vacuum of {} {}. One step of it is {}, and the air itself moves by as much from \
             day to day.",
            format_args!("{:.1}", unit.delta_of_si(reads).abs()),
            unit.info().label,
            u.level_change(digit)
        )],
        ..words(
            "A dial shows no deep vacuum",
            "Only a dial that reads against the air was logged. It says that it was pulled down, not how deep \
             and not whether it rises.",
            "Put a gauge of absolute pressure (micron) on the system, far from the pump, isolate, and log it.",
        )
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
                    "If the valve was shut about {} later, mark “isolated” at that moment; else shut it now and \
                     mark it.",
                    span(at)
                ),
                _ => "Shut the valve to the pump, mark it “isolated”, and follow the rise.".into(),
            },
        )
    }
}
