//! What a pull-down verdict says.

use super::judge::{PullOutcome, PullVerdict, is_gross};
use crate::procedure::{BALLAST, EXERCISE};
use crate::quantity::{MICRON, Units, span};
use crate::reading::PullStage;

/// Slower than the rig alone by so much: something else holds it up. Common practice, no source.
const SLOWER: f64 = 3.0;

/// Fills in headline, summary, evidence, next step and prompts.
pub fn say(v: &mut PullVerdict, stage: Option<&PullStage>, u: Units) {
    let (k, n) = v.at;
    let which = if n > 1 {
        format!("Pull {} of {n}", k + 1)
    } else {
        "The pull".into()
    };
    let target = u.level(v.target);
    let now = v.trace.last().map_or(0.0, |p| p.at_s);
    (v.headline, v.summary, v.next_step) = match (v.outcome, v.level) {
        (PullOutcome::NotApplicable, _) | (_, None) => (
            "No vacuum read yet".into(),
            match v.arrival.and_then(|a| a.middle) {
                Some(t) => format!("By its conductances the rig should be at {target} in about {}.", span(t)),
                None => format!("The target is {target}."),
            },
            "Start the pump, open the valves, and log the gauge at the far end once it reads.".into(),
        ),
        (PullOutcome::Reached, Some(p)) => (
            format!("{} reached", u.level(p)),
            format!("{which} is at its target of {target}{}.", if n > 1 { ", the last one" } else { "" }),
            "Shut the valve at the system, then the pump, and start the decay test: what counts is what it keeps.".into(),
        ),
        (PullOutcome::Break, Some(_)) if v.break_until.is_some() => {
            let before = v.pulls.get(k.saturating_sub(1)).map_or(0.0, |p| p.lowest);
            let left = v.break_until.map_or(0.0, |t| (t - now).max(0.0));
            (
                format!("Nitrogen stands; then pull {} of {n}", k + 1),
                format!("The vacuum was broken after {}; the next target is {target}.", u.level(before)),
                format!("Leave the nitrogen for {}, release it to a slight positive pressure, and pull again.", span(left)),
            )
        }
        (PullOutcome::Break, Some(p)) => {
            let (to, dwell) = stage.map_or((0.0, 0.0), |s| (s.break_pa.unwrap_or(0.0), s.dwell_s));
            (
                format!("{} reached: break with nitrogen", u.level(p)),
                format!("{which} is at its target of {target}."),
                format!(
                    "Isolate the vacuum gauge, shut the pump’s valve, let dry nitrogen in to {}, mark the break, and let it stand {}.",
                    u.gauge(to - 101_325.0),
                    span(dwell)
                ),
            )
        }
        (PullOutcome::Stalled, Some(p)) => {
            let since = v.stall.as_ref().map_or(0.0, |s| s.since);
            let first = v.stall.as_ref().and_then(|s| s.by.first());
            (
                format!("Stands at {}", u.level(p)),
                format!("It has hardly moved for {} and is not on its way to {target}.", span((now - v.pulls.last().map_or(0.0, |p| p.from) - since).max(0.0))),
                first.map_or_else(|| "Shut the valve at the system for some seconds and watch the rise.".into(), |h| h.to_try.to_owned()),
            )
        }
        (PullOutcome::Pulling, Some(p)) if v.reasons.contains(&"valve_off") => (
            format!("Valve off at {}", u.level(p)),
            "The pump is shut off; what rises now comes from the system.".into(),
            "After some twenty seconds open it again and mark it.".into(),
        ),
        (PullOutcome::Pulling, Some(p)) => {
            let band = v.arrival.map(|a| (a.low, a.middle, a.high));
            let summary = match band {
                Some((Some(low), Some(mid), Some(high))) => format!(
                    "{target} in about {}, between {} and {} (nine in ten){}.",
                    span(mid - now),
                    span(low - now),
                    span(high - now),
                    if v.is_from_rig { ", by the rig’s conductances alone" } else { "" }
                ),
                Some((Some(low), mid, None)) => format!(
                    "{target} in {} at the earliest{}; it may not get there at all without a change.",
                    span(low - now),
                    mid.map_or_else(String::new, |m| format!(", about {} if all goes well", span(m - now)))
                ),
                Some((None, _, _)) => format!("On this way it does not get to {target} within half a day."),
                _ => format!("On its way to {target}; too little seen to say when."),
            };
            let next = if v.reasons.contains(&"gross_rise") {
                "The valve-off showed a gross rise: look for a leak, an open valve or a loose hose before pumping on."
            } else if v.valve_offs.is_empty() && p > 3.0 * v.target && p < 20_000.0 * MICRON {
                "Shut the valve at the system for twenty seconds and mark it: a gross fault shows now, before hours of pumping."
            } else {
                "Leave it pumping."
            };
            (u.level(p), summary, next.into())
        }
    };
    evidence(v, u);
    prompts(v);
}

fn evidence(v: &mut PullVerdict, u: Units) {
    for (i, p) in v
        .pulls
        .iter()
        .enumerate()
        .filter(|(_, p)| p.lowest.is_finite())
    {
        v.evidence.push(match p.took {
            Some(t) => format!(
                "Pull {}: {} after {}, {} at the lowest.",
                i + 1,
                u.level(p.target),
                span(t),
                u.level(p.lowest)
            ),
            None => format!(
                "Pull {}: down to {} so far, target {}.",
                i + 1,
                u.level(p.lowest),
                u.level(p.target)
            ),
        });
    }
    for w in v.pulls.windows(2) {
        if let (Some(before), Some(now)) = (w[0].took, w[1].took_before) {
            let means = match now / before.max(1.0) {
                r if r < 0.75 => ": drier than before",
                r if r > 1.3 => ": slower than before, so something came in or the pump tires",
                _ => ": as long, so it is not loose water that takes the time",
            };
            v.evidence.push(format!(
                "To {} it took {}, after the break {}{means}.",
                u.level(w[0].target),
                span(before),
                span(now)
            ));
        }
    }
    if let (Some(near), Some(here)) = (v.at_pump, v.level) {
        v.evidence.push(format!("At the pump {}, here {}: the far one counts, and the way between takes the difference.", u.level(near), u.level(here)));
    }
    if let Some(floor) = v
        .arrival
        .and_then(|a| a.floor)
        .filter(|_| v.outcome == PullOutcome::Pulling && !v.is_from_rig)
    {
        v.evidence.push(format!(
            "Left alone it would end at about {}.",
            u.level(floor)
        ));
    }
    for o in &v.valve_offs {
        let floor = o.floor.map_or_else(String::new, |f| {
            format!("; against that the pump would end at about {}", u.level(f))
        });
        v.evidence.push(format!(
            "Valve off for {}: it rose {} a minute{floor}.",
            span(o.lasted),
            u.level_change(60.0 * o.rate)
        ));
        if is_gross(o, v.target) {
            v.evidence
                .push("That is a gross inflow, whatever it comes from.".into());
        }
    }
    if let Some(s) = &v.stall {
        v.evidence
            .extend(s.by.iter().take(4).map(|h| h.why.clone()));
    }
    // Where the readings say it takes far longer than the rig alone would, a wider hose is not what is missing.
    let now = v.trace.last().map_or(0.0, |p| p.at_s);
    let alone = v.gains.first().and_then(|g| g.now);
    let left = v
        .arrival
        .filter(|_| !v.is_from_rig)
        .map(|a| a.low.map_or(f64::INFINITY, |t| t - now));
    if let (Some(alone), Some(left)) = (alone, left.or(v.stall.as_ref().map(|_| f64::INFINITY)))
        && left > SLOWER * alone
    {
        v.evidence.push(format!("The rig alone would need {} from here: what takes longer is gas or water coming off, a valve not fully open, or a leak.", span(alone)));
        return;
    }
    for g in v.gains.iter().take(2) {
        let word = if g.is_taken_away {
            "out"
        } else {
            "twice as wide"
        };
        v.evidence.push(match g.now {
            Some(now) if g.then < 0.9 * now => format!(
                "With {} {word}: {} instead of {}.",
                g.name,
                span(g.then),
                span(now)
            ),
            Some(_) => continue,
            None => format!(
                "With {} {word}: {}; as it is it does not get there.",
                g.name,
                span(g.then)
            ),
        });
    }
}

/// What is due at this level (common practice, no source).
fn prompts(v: &mut PullVerdict) {
    let Some(p) = v
        .level
        .filter(|_| matches!(v.outcome, PullOutcome::Pulling | PullOutcome::Stalled))
    else {
        return;
    };
    let micron = p / MICRON;
    if micron > BALLAST {
        v.prompts.push("Gas ballast open.".into());
    } else if v.target / MICRON < BALLAST {
        v.prompts
            .push("Gas ballast shut: below here it only holds the pump up.".into());
    }
    if (EXERCISE.1..=1.2 * EXERCISE.0).contains(&micron) {
        v.prompts
            .push("Turn each ball valve once: air is trapped in the ball.".into());
    }
    if v.outcome == PullOutcome::Stalled {
        v.prompts
            .push("Cloudy oil: change it while the pump is warm.".into());
    }
}
