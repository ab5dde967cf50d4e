//! The words of a leak-by test.

use super::{Balance, BesideCharge, Blocked, Half, LeakByCase, LeakByFinding, LeakByOutcome};
use crate::quantity::{Units, significant, span};
use crate::reason::Reason;
use crate::words::{Shape, Words, words};

/// Says what was found, in these units.
#[must_use]
pub fn say_leak_by(v: &LeakByFinding, u: Units) -> Words {
    let mut said = match &v.case {
        LeakByCase::BothNeeded => words(
            "Both halves are needed",
            "A leak-by test needs at least two pressures of each half, read together and marked half_a and half_b.",
            "Log both gauges together, twice.",
        ),
        LeakByCase::Balance(b) => balance(v, b, u),
        LeakByCase::BesideCharge(c) => beside_a_charge(v, c, u),
    };
    // A half above what its parts may take comes before everything else that is said.
    for o in &v.over {
        said.evidence.insert(
            0,
            format!(
                "{} stands at {}, above the {} that its parts may take.",
                capital(name(o.half)),
                u.gauge(o.now),
                u.gauge(o.most)
            ),
        );
        said.next_step = format!(
            "Let {} down below {} now, slowly, outlet away from people.",
            name(o.half),
            u.gauge(o.most)
        );
    }
    let (word, shape) = match v.outcome {
        LeakByOutcome::Outside => ("Falling", Shape::Falling),
        LeakByOutcome::LeakBy => ("Lets by", Shape::Falling),
        LeakByOutcome::Both => ("Falling and lets by", Shape::Falling),
        LeakByOutcome::Undecided => ("Can’t tell yet", Shape::Open),
    };
    Words {
        word: word.into(),
        shape,
        ..said
    }
}

fn name(half: Half) -> &'static str {
    match half {
        Half::A => "half A",
        Half::B => "half B",
    }
}

/// With a capital at its beginning.
fn capital(text: &str) -> String {
    let mut chars = text.chars();
    chars
        .next()
        .map_or_else(String::new, |c| c.to_uppercase().chain(chars).collect())
}

fn blocked(b: Blocked, u: Units) -> String {
    match b {
        Blocked::Refrigerant => "Refrigerant is in half A: do not open the valve.".into(),
        Blocked::UnknownBehind => {
            "What stands in half B is not known to be nitrogen, air or a vacuum: do not \
             open the valve."
                .into()
        }
        Blocked::UnknownCeiling => {
            "What half B may take is not known: read its plates before opening the \
             valve."
                .into()
        }
        Blocked::TooHigh { to, most, half } => format!(
            "Opening the valve would bring both to {}, above the {} of {}: do not open it.",
            u.gauge(to),
            u.gauge(most),
            name(half)
        ),
    }
}

fn evidence(v: &LeakByFinding, b: &Balance, u: Units) -> Vec<String> {
    let moved = |x: f64, word: &str, other: &str| {
        if x >= 0.0 {
            format!("{word} {}", u.difference(x))
        } else {
            format!("{other} {}", u.difference(-x))
        }
    };
    // What must not be opened comes first: pages show the first lines of the evidence, and the rest when asked.
    let mut out: Vec<String> = b
        .blocked
        .filter(|_| b.measured.is_none())
        .map(|why| blocked(why, u))
        .into_iter()
        .collect();
    out.push(format!(
        "As read, half A {} and half B {} in {}.",
        moved(b.fell_a, "fell", "rose"),
        moved(b.rose_b, "rose", "fell"),
        span(b.duration)
    ));
    let outside = v
        .outside
        .map_or((0.0, 0.0, 0.0), |s| (s.value, s.low, s.high));
    let sum = if outside.0 < 0.0 {
        format!("the sum has grown by {}", u.difference(-outside.0))
    } else {
        format!("{} is missing from the sum", u.difference(outside.0))
    };
    out.push(match (b.measured, b.stated) {
        (Some((k, e)), _) => format!(
            "Opening the valve gave a volume ratio B to A of {} ± {}: {sum}.",
            significant(k, 2),
            significant(1.96 * e, 1)
        ),
        (None, Some(k)) => format!(
            "With a volume ratio B to A of {}, {sum}.",
            significant(k, 3)
        ),
        (None, None) if b.closes => {
            "The balance closes with equal volumes: nothing is missing from the sum.".into()
        }
        (None, None) => format!(
            "With volumes between half and double, between {} and {} is missing from the sum.",
            u.difference(outside.1),
            u.difference(outside.2)
        ),
    });
    out.extend(
        b.cooling_k
            .map(|k| format!("Cooling alone would have to be {}.", u.interval(k))),
    );
    out
}

fn balance(v: &LeakByFinding, b: &Balance, u: Units) -> Words {
    let measure = if b.measured.is_none() && b.blocked.is_none() {
        "Open the valve slowly at the end, press “Valve opened” and log both gauges: that measures the volume \
         ratio. Then "
    } else {
        ""
    };
    let is_unknown = b.measured.is_none() && b.stated.is_none();
    let said = match v.outcome {
        LeakByOutcome::LeakBy => words(
            "The valve lets by",
            "What one half lost the other gained: the valve between them leaks, and no leak outside is shown.",
            &capital(&format!(
                "{measure}repair or replace the valve, and test again."
            )),
        ),
        LeakByOutcome::Outside => words(
            "A leak to the outside",
            "Gas is missing from both halves together.",
            "Search the half that fell.",
        ),
        LeakByOutcome::Both => words(
            "A leak and a valve that lets by",
            "One half gains, but less than the other loses.",
            &capital(&format!("{measure}search the half that fell.")),
        ),
        LeakByOutcome::Undecided if v.reasons.contains(&Reason::Gained) => words(
            "More arrived than left",
            "Together the halves hold more gas than before, which neither a leak nor a valve can do.",
            "Check that every supply is shut, what stands behind the other valves, and the volume ratio.",
        ),
        LeakByOutcome::Undecided if is_unknown && b.is_missing => words(
            "Can’t tell yet",
            "Gas is missing from half A, but without the volume ratio it may be in half B or outside.",
            if b.blocked.is_none() {
                "Open the valve slowly, press “Valve opened” and log both gauges: that measures the volume ratio."
            } else {
                "Find the volumes of both halves and state their ratio; the valve stays shut."
            },
        ),
        LeakByOutcome::Undecided => words(
            "Can’t tell yet",
            "The changes are within what digits and temperature do.",
            "Wait longer, or put a probe on each half.",
        ),
    };
    Words {
        evidence: evidence(v, b, u),
        ..said
    }
}

fn beside_a_charge(v: &LeakByFinding, c: &BesideCharge, u: Units) -> Words {
    let said = match v.outcome {
        LeakByOutcome::LeakBy => words(
            "The charge weeps in",
            "This side gains, and the charge behind the valve stands higher: refrigerant is coming through.",
            "Do not open the valve. Recover what came in, check cap and stem, and blank the line off at the \
             flare before testing again.",
        ),
        LeakByOutcome::Outside => words(
            "A leak to the outside",
            "This side loses although the charge behind the valve stands higher: it cannot have gone there.",
            "Search this half.",
        ),
        _ if v.outside.is_some() => words(
            "Lost outside, or into the charge",
            "This side loses, and it stands higher than the charge: nitrogen may be going through the valve \
             into the unit, where no bubble shows.",
            "Bubble the joints; if nothing shows, blank the line off at the flare and test again without the valve.",
        ),
        _ => words(
            "Can’t tell yet",
            "The change is within what digits and temperature do.",
            "Wait longer, or put a probe on the half under test.",
        ),
    };
    Words {
        evidence: vec![
            format!(
                "Behind the valve stands a charge at {}, against {} on this side.",
                u.gauge(c.charge),
                u.gauge(c.here)
            ),
            format!(
                "This side {} {}.",
                if c.fell >= 0.0 { "fell" } else { "rose" },
                u.difference(c.fell.abs())
            ),
        ],
        ..said
    }
}
