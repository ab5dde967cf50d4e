//! A hold without a thermometer.

use crate::hold::untempered::{Untempered, believable};
use crate::quantity::{Units, span};
use crate::words::{Words, words};

pub fn settling_untempered(t: &Untempered, u: Units) -> Words {
    let k = t.fall / t.per_kelvin;
    Words {
        evidence: vec![
            format!(
                "It fell {} in {}; gas that a fill has warmed does that by cooling {}.",
                u.difference(t.fall),
                span(t.duration),
                u.interval(k)
            ),
            "That does not clear the system: a real leak looks the same this early.".into(),
        ],
        ..words(
            "Still settling",
            "Right after a fill the gas cools and pressure falls by itself.",
            "Keep looking for leaks while it settles, and put a probe on the pipe.",
        )
    }
}
pub fn falls_untempered(t: &Untempered, u: Units) -> Words {
    let k = t.fall / t.per_kelvin;
    Words {
        evidence: vec![format!(
            "{} in {} would need the gas to cool by {}; more than {} in that time is not believable.",
            u.difference(t.fall),
            span(t.duration),
            u.interval(k),
            u.interval(believable(t.duration))
        )],
        ..words(
            &format!("Fell {}", u.difference(t.fall)),
            "It falls more than any cooling could explain, even without a thermometer.",
            "Search for the leak: joints made today first, then caps, cores and your own hoses.",
        )
    }
}
pub fn untempered(t: &Untempered, allowed: f64, digit: f64, is_read: bool, u: Units) -> Words {
    let k = t.fall / t.per_kelvin;
    // How far the gas may have strayed with the result still inside what is allowed: the limit less the fall and less
    // what the gauge cannot show.
    let room = (allowed - t.fall.max(0.0) - digit) / t.per_kelvin;
    let degree = u.temperature.info().factor;
    let mut evidence = vec![format!(
        "At this pressure {} changes it by {}.",
        u.interval(degree),
        u.difference(t.per_kelvin * degree)
    )];
    let headline = if t.fall < -t.blur {
        let warmer = 3.0 * degree;
        evidence.push(format!(
            "It rose {}: that is what {} of warming does. Had the gas warmed by {}, {} would be missing.",
            u.difference(-t.fall),
            u.interval(-k),
            u.interval(warmer),
            u.difference(warmer * t.per_kelvin + t.fall)
        ));
        format!("Rose {}", u.difference(-t.fall))
    } else if t.fall > t.blur {
        evidence.push(format!(
            "It fell {}: {} of cooling would do that, and so would a leak.",
            u.difference(t.fall),
            u.interval(k)
        ));
        format!("Fell {}", u.difference(t.fall))
    } else if room > 0.0 {
        evidence.push(format!(
            "It holds within the allowed {} only if the gas stayed within ±{}.",
            u.difference(allowed),
            u.interval(room)
        ));
        format!("Steady, if the gas stayed within ±{}", u.interval(room))
    } else {
        evidence.push(format!(
            "{} is allowed in this time, and the gauge shows steps of {}: this gauge cannot show it, whatever \
             the temperature did.",
            u.difference(allowed),
            u.difference(digit)
        ));
        "Steady, as far as this gauge shows".into()
    };
    if digit / t.per_kelvin > 0.5 {
        evidence.push(format!(
            "The gauge's own step of {} is worth {}: a smaller change does not show on it.",
            u.difference(digit),
            u.interval(digit / t.per_kelvin)
        ));
    }
    let next = if room > 0.0 || t.fall.abs() > t.blur {
        "Put a probe on the pipe and hold again; log pressure and temperature together."
    } else {
        "Hold longer, or with a finer gauge, and put a probe on the pipe."
    };
    Words {
        headline,
        evidence,
        ..words(
            "",
            if is_read {
                "Temperature was read only here and there: between those readings it may have wandered, and \
                 that cannot be told from a leak."
            } else {
                "Temperature was not followed, so a change of temperature cannot be told from a leak."
            },
            next,
        )
    }
}
