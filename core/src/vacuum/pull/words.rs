//! The words of a pull-down, from its finding.

use super::finding::{PullFinding, PullOutcome, is_gross};
use super::stall::{Hindrance, Why};
use crate::quantity::{MICRON, Units, span};
use crate::reason::Reason;
use crate::words::{Shape, Words, words};

/// Slower than the rig alone by so much: something else holds it up. Common practice, no source.
const SLOWER: f64 = 3.0;
/// Above this level gas ballast helps, below it holds the pump up, micron. Common practice, no source.
pub const BALLAST: f64 = 1_500.0;
/// Between these levels ball valves are turned once, micron. Common practice, no source.
pub const EXERCISE: (f64, f64) = (700.0, 500.0);
/// The air's pressure, Pa.
const AIR: f64 = 101_325.0;

/// Says what was found, in these units.
#[must_use]
pub fn say_pull(v: &PullFinding, u: Units) -> Words {
    let (word, shape) = match v.outcome {
        PullOutcome::Reached => ("Target reached", Shape::Holds),
        PullOutcome::Pulling => ("Pulling down", Shape::Open),
        PullOutcome::Stalled => ("Stands still", Shape::Notch),
        PullOutcome::Break => ("Nitrogen break", Shape::Open),
        PullOutcome::NotBegun => ("Not begun", Shape::None),
    };
    let (headline, summary, next) = said(v, u);
    Words {
        word: word.into(),
        shape,
        evidence: evidence(v, u),
        prompts: prompts(v),
        held_by: held_by(v, u),
        ..words(&headline, &summary, &next)
    }
}

fn held_by(v: &PullFinding, u: Units) -> Vec<(String, String)> {
    let by = v.stall.as_ref().map_or(&[][..], |s| &s.by);
    by.iter()
        .map(|h| (why(&h.why, u), to_try(h.held).to_owned()))
        .collect()
}

fn why(why: &Why, u: Units) -> String {
    match why {
        Why::ApartFromPump { at_pump, here } => format!(
            "At the pump it stands at {}, here at {}: something between lets little through.",
            u.level(*at_pump),
            u.level(*here)
        ),
        Why::FarAbove { here } => format!(
            "{} is far above anything but water or a closed way.",
            u.level(*here)
        ),
        Why::WaterBoils { kelvin, at, is_ice } => format!(
            "Water at {} boils at {}, and evaporating chills what is left{}.",
            u.temperature(*kelvin),
            u.level(*at),
            if *is_ice { ", down to ice" } else { "" }
        ),
        Why::AboveWater { kelvin, at } => format!(
            "Water at {} boils at {}: this is above it, so water alone does not explain it.",
            u.temperature(*kelvin),
            u.level(*at)
        ),
        Why::MaybeWater { from } => format!(
            "Free water or ice stalls a pull anywhere from about {} up; take the temperature of the coldest \
             place to tell.",
            u.level(*from)
        ),
        Why::Restriction {
            name,
            share,
            rated,
            arrives,
        } => format!(
            "{} takes {:.0} % of the way’s resistance here; the pump’s {:.1} L/s arrive as {:.2}.",
            capital(name),
            100.0 * share,
            1e3 * rated,
            1e3 * arrives
        ),
        Why::PumpWorn { ultimate } => {
            format!(
                "The pump itself only reaches {} blanked off.",
                u.level(*ultimate)
            )
        }
        Why::PumpOil { good } => format!(
            "Old or wet oil holds a pump up well above its best; blanked off it should reach {} or less.",
            u.level(*good)
        ),
        Why::LeakBalances { since } => format!(
            "A leak holds it where pumping and inflow balance; it has stood since {}.",
            span(*since)
        ),
    }
}

fn to_try(held: Hindrance) -> &'static str {
    match held {
        Hindrance::ShutValve => {
            "Walk the valves from the pump to the gauge, open each fully, and look whether the level moves."
        }
        Hindrance::Water => {
            "Ballast open, or break with nitrogen and pull again. Warm the coldest place only with the \
             compressor’s power locked out, and never with a flame or lamp near a refrigerant that burns."
        }
        Hindrance::Core => "Take the valve cores out with core tools.",
        Hindrance::Pump => {
            "Blank the pump off on its own gauge; change the oil while warm if it does not reach its blank-off level."
        }
        Hindrance::Leak => {
            "Shut the valve at the system for some seconds and watch the rise; if it runs up straight, look for \
             the leak first."
        }
        Hindrance::Hose => "Use shorter and wider hoses, or a second one on the other port.",
    }
}

fn capital(s: &str) -> String {
    let mut c = s.chars();
    c.next()
        .map_or_else(String::new, |f| f.to_uppercase().chain(c).collect())
}

/// Headline, summary and next step.
fn said(v: &PullFinding, u: Units) -> (String, String, String) {
    let (k, n) = v.at;
    let which = if n > 1 {
        format!("Pull {} of {n}", k + 1)
    } else {
        "The pull".into()
    };
    let target = u.level(v.target);
    match (v.outcome, v.level) {
        (PullOutcome::NotBegun, _) | (_, None) => (
            "No vacuum read yet".into(),
            match v.arrival.and_then(|a| a.middle) {
                Some(t) => format!(
                    "By its conductances the rig should be at {target} in about {}.",
                    span(t)
                ),
                None => format!("The target is {target}."),
            },
            "Start the pump, open the valves, and log the gauge at the far end once it reads.".into(),
        ),
        (PullOutcome::Reached, Some(p)) => (
            format!("{} reached", u.level(v.pulls.last().and_then(|l| l.lowest).unwrap_or(p))),
            format!(
                "{which} is at its target of {target}{}.",
                if n > 1 { ", the last one" } else { "" }
            ),
            "Shut the valve at the system, then the pump, and start the decay test: what counts is what it \
             keeps.".into(),
        ),
        (PullOutcome::Break, Some(p)) => broken(v, p, &which, u),
        (PullOutcome::Stalled, Some(p)) => stalled(v, p, u),
        (PullOutcome::Pulling, Some(p)) if v.reasons.contains(&Reason::ValveOff) => (
            format!("Valve off at {}", u.level(p)),
            "The pump is shut off; what rises now comes from the system.".into(),
            "After some twenty seconds open it again and mark it.".into(),
        ),
        (PullOutcome::Pulling, Some(p)) => {
            (u.level(p), on_its_way(v, u), next_while_pulling(v, p).into())
        }
    }
}

fn broken(v: &PullFinding, level: f64, which: &str, u: Units) -> (String, String, String) {
    let (k, n) = v.at;
    let target = u.level(v.target);
    if let Some(until) = v.break_until {
        let before = v.pulls.get(k.saturating_sub(1)).and_then(|p| p.lowest);
        return (
            format!("Nitrogen stands; then pull {} of {n}", k + 1),
            format!(
                "The vacuum was broken after {}; the next target is {target}.",
                u.level(before.unwrap_or(0.0))
            ),
            format!(
                "Leave the nitrogen for {}, release it to a slight positive pressure, and pull again.",
                span((until - v.now).max(0.0))
            ),
        );
    }
    (
        format!("{} reached: break with nitrogen", u.level(level)),
        format!("{which} is at its target of {target}."),
        format!(
            "Isolate the vacuum gauge, shut the pump’s valve, let dry nitrogen in to {}, mark the break, and \
             let it stand {}.",
            u.gauge(v.after.break_pa.unwrap_or(0.0) - AIR),
            span(v.after.dwell_s)
        ),
    )
}

fn stalled(v: &PullFinding, level: f64, u: Units) -> (String, String, String) {
    let since = v.stall.as_ref().map_or(0.0, |s| s.since);
    let began = v.pulls.last().map_or(0.0, |p| p.from);
    let first = v.stall.as_ref().and_then(|s| s.by.first());
    (
        format!("Stands at {}", u.level(level)),
        format!(
            "It has hardly moved for {} and is not on its way to {}.",
            span((v.now - began - since).max(0.0)),
            u.level(v.target)
        ),
        first
            .map_or(
                "Shut the valve at the system for some seconds and watch the rise.",
                |h| to_try(h.held),
            )
            .to_owned(),
    )
}

/// When it arrives.
fn on_its_way(v: &PullFinding, u: Units) -> String {
    let target = u.level(v.target);
    let in_ = |t: f64| span(t - v.now);
    match v.arrival.map(|a| (a.low, a.middle, a.high)) {
        Some((Some(low), Some(mid), Some(high))) => format!(
            "{target} in about {}, between {} and {} (nine in ten){}.",
            in_(mid),
            in_(low),
            in_(high),
            if v.is_from_rig {
                ", by the rig’s conductances alone"
            } else {
                ""
            }
        ),
        Some((Some(low), mid, None)) => format!(
            "{target} in {} at the earliest{}; it may not get there at all without a change.",
            in_(low),
            mid.map_or_else(String::new, |m| format!(
                ", about {} if all goes well",
                in_(m)
            ))
        ),
        Some((None, _, _)) => {
            format!("On this way it does not get to {target} within half a day.")
        }
        _ => format!("On its way to {target}; too little seen to say when."),
    }
}

/// A quick valve-off tells something between these: not yet near the target, and in a vacuum, Pa.
const WORTH_A_LOOK: f64 = 20_000.0 * MICRON;

fn next_while_pulling(v: &PullFinding, level: f64) -> &'static str {
    if v.reasons.contains(&Reason::GrossRise) {
        "The valve-off showed a gross rise: look for a leak, an open valve or a loose hose before pumping on."
    } else if v.valve_offs.is_empty() && level > 3.0 * v.target && level < WORTH_A_LOOK {
        "Shut the valve at the system for twenty seconds and mark it: a gross fault shows now, before hours of pumping."
    } else {
        "Leave it pumping."
    }
}

fn evidence(v: &PullFinding, u: Units) -> Vec<String> {
    let mut out = pulls(v, u);
    if let (Some(near), Some(here)) = (v.at_pump, v.level) {
        out.push(format!(
            "At the pump {}, here {}: the far one counts, and the way between takes the difference.",
            u.level(near),
            u.level(here)
        ));
    }
    let is_under_way = v.outcome == PullOutcome::Pulling && !v.is_from_rig;
    if let Some(floor) = v.arrival.and_then(|a| a.floor).filter(|_| is_under_way) {
        out.push(format!(
            "Left alone it would end at about {}.",
            u.level(floor)
        ));
    }
    for o in &v.valve_offs {
        let floor = o.floor.map_or_else(String::new, |f| {
            format!("; against that the pump would end at about {}", u.level(f))
        });
        out.push(format!(
            "Valve off for {}: it rose {} a minute{floor}.",
            span(o.lasted),
            u.level_change(60.0 * o.rate)
        ));
        if is_gross(o, v.target) {
            out.push("That is a gross inflow, whatever it comes from.".into());
        }
    }
    out.extend(held_by(v, u).into_iter().take(4).map(|h| h.0));
    out.extend(what_would_help(v));
    out
}

fn pulls(v: &PullFinding, u: Units) -> Vec<String> {
    let seen = v
        .pulls
        .iter()
        .enumerate()
        .filter_map(|(i, p)| Some((i + 1, p, p.lowest?)));
    let mut out: Vec<String> = seen
        .map(|(i, p, lowest)| match p.took {
            Some(t) => format!(
                "Pull {i}: {} after {}, {} at the lowest.",
                u.level(p.target),
                span(t),
                u.level(lowest)
            ),
            None => format!(
                "Pull {i}: down to {} so far, target {}.",
                u.level(lowest),
                u.level(p.target)
            ),
        })
        .collect();
    for w in v.pulls.windows(2) {
        if let (Some(before), Some(now)) = (w[0].took, w[1].took_before) {
            let means = match now / before.max(1.0) {
                r if r < 0.75 => ": drier than before",
                r if r > 1.3 => ": slower than before, so something came in or the pump tires",
                _ => ": as long, so it is not loose water that takes the time",
            };
            out.push(format!(
                "To {} it took {}, after the break {}{means}.",
                u.level(w[0].target),
                span(before),
                span(now)
            ));
        }
    }
    out
}

/// What a change to the rig would gain, where the rig is what takes the time.
fn what_would_help(v: &PullFinding) -> Vec<String> {
    // Where the readings say it takes far longer than the rig alone would, a wider hose is not what is missing.
    let alone = v.gains.first().and_then(|g| g.now);
    let left = v
        .arrival
        .filter(|_| !v.is_from_rig)
        .map(|a| a.low.map_or(f64::INFINITY, |t| t - v.now))
        .or(v.stall.as_ref().map(|_| f64::INFINITY));
    if let (Some(alone), Some(left)) = (alone, left)
        && left > SLOWER * alone
    {
        return vec![format!(
            "The rig alone would need {} from here: what takes longer is gas or water coming off, a valve not \
             fully open, or a leak.",
            span(alone)
        )];
    }
    let gain = |g: &crate::flow::Gain| {
        let word = if g.is_taken_away {
            "out"
        } else {
            "twice as wide"
        };
        match g.now {
            Some(now) if g.then < 0.9 * now => Some(format!(
                "With {} {word}: {} instead of {}.",
                g.name,
                span(g.then),
                span(now)
            )),
            Some(_) => None,
            None => Some(format!(
                "With {} {word}: {}; as it is it does not get there.",
                g.name,
                span(g.then)
            )),
        }
    };
    v.gains.iter().take(2).filter_map(gain).collect()
}

/// What is due at this level (common practice, no source).
fn prompts(v: &PullFinding) -> Vec<String> {
    let mut out = Vec::new();
    let is_on = matches!(v.outcome, PullOutcome::Pulling | PullOutcome::Stalled);
    let Some(p) = v.level.filter(|_| is_on) else {
        return out;
    };
    let micron = p / MICRON;
    if micron > BALLAST {
        out.push("Gas ballast open.".into());
    } else if v.target / MICRON < BALLAST {
        out.push("Gas ballast shut: below here it only holds the pump up.".into());
    }
    if (EXERCISE.1..=1.2 * EXERCISE.0).contains(&micron) {
        out.push("Turn each ball valve once: air is trapped in the ball.".into());
    }
    if v.outcome == PullOutcome::Stalled {
        out.push("Cloudy oil: change it while the pump is warm.".into());
    }
    out
}
