//! The next step after a decay. While it is open that there is a leak it names the experiment that would tell.

use super::super::doubts::Doubt;
use super::super::explain::is_open;
use super::super::finding::{DecayFinding, DecayOutcome, Forecast, Noticed, Rise};
use super::super::prior::Cause;
use super::shape::{LONG, per_minute};
use crate::quantity::{Units, span};
use crate::reason::Reason;

/// What to do.
pub fn step(v: &DecayFinding, r: &Rise, n: &Noticed, u: Units) -> String {
    let is_asked = |f: fn(&Doubt) -> bool| v.doubts.iter().any(f);
    let because = |reason| v.reasons.contains(&reason);
    let rule = v.limit.at_s;
    if is_asked(|d| matches!(d, Doubt::Slip { is_last: true, .. })) {
        return "Read the gauge again and log it: the last reading leaps.".into();
    }
    if because(Reason::GaugeStuck) {
        return "Switch the gauge off and on, see that it moves, and repeat the decay.".into();
    }
    match v.outcome {
        DecayOutcome::Undecided if r.lasted < rule => {
            return format!("Leave it alone for another {}.", span(rule - r.lasted));
        }
        DecayOutcome::Undecided if because(Reason::TooCloseToCall) => {
            return "Pull deeper and repeat, or read a second gauge beside this one.".into();
        }
        DecayOutcome::Undecided => {
            return "Repeat it with readings through the rule’s time; wake the gauge before it switches itself \
                 off.".into();
        }
        DecayOutcome::Fails if because(Reason::StartTooHigh) => {
            return "Keep pulling, then isolate again.".into();
        }
        DecayOutcome::Passes if !v.rising => {
            return "Break the vacuum: gauge isolated, to a slight positive pressure before any core goes back.".into();
        }
        _ => {}
    }
    if because(Reason::NoShapeFits) {
        return "Find what was touched in it (a valve, the gauge, a hose) and repeat the decay with hands off; \
             mark any such move.".into();
    }
    if v.leak_probability.is_some_and(is_open) {
        return experiment(v, r, u);
    }
    let levels = v.explanations.first().and_then(|e| e.level);
    let is_low = |level: &f64| *level <= LOW * v.limit.level_pa;
    if v.outcome == DecayOutcome::Passes
        && let Some(level) = levels.filter(is_low)
    {
        return format!(
            "Leave it shut for another {}: it heads for about {}, well below the limit. If it stands there, go \
             on; if it rises on, look for a leak.",
            span(rule),
            u.level(level)
        );
    }
    match v.explanations.first().map(|e| e.cause) {
        Some(Cause::Still) if v.outcome == DecayOutcome::Passes && r.last <= v.limit.level_pa && r.late < 0.5 * r.early => {
            format!("Leave it shut for another {} and log it every minute: it slows down, and that tells \
                 whether it stays below the limit.", span(rule))
        }
        Some(Cause::Still) if v.outcome == DecayOutcome::Passes && r.lasted > LONG => format!(
            "Something comes in, {}: find out whether that is allowed for so long. If not, check cores, caps \
             and hoses first.",
            per_minute(r.late, u)
        ),
        Some(Cause::Moisture | Cause::Water) => "Break the vacuum with nitrogen, pull again and repeat: a \
             smaller rise after a pull as long as before means it is drying.".into(),
        Some(Cause::Outgassing) if n.rig.is_some() => {
            "Take hoses and core tools out of the test and repeat.".into()
        }
        Some(Cause::Outgassing) => {
            "Warm the oil sump with its power locked out, pull on, and repeat: what comes out of oil or rubber \
             runs out.".into()
        }
        Some(cause) if cause.has_leak() => "Check cores, caps and core tools, then bubble the joints at \
             pressure.".into(),
        Some(_) => format!("Pull on for {}, isolate and repeat: from a deeper start the same rise may stay \
             within the limit.", pull_on(r)),
        None => format!(
            "Leave it shut for another {} and log it every minute: that tells whether it levels.",
            span(rule)
        ),
    }
}

/// A rise that levels below this share of the limit is no reason to pull again.
const LOW: f64 = 0.75;

fn pull_on(r: &Rise) -> String {
    r.evacuated.map_or_else(|| "as long again".into(), span)
}

/// A shorter pull than this is not worth a repeat, s.
const LEAST: f64 = 600.0;

/// The experiment that tells a leak from the rest. After D more minutes of pulling, what comes out of oil and rubber
/// rises at t₀/(t₀ + D) to √(t₀/(t₀ + D)) of before, a leak as before: D = t₀ makes that a half to seven tenths.
fn experiment(v: &DecayFinding, r: &Rise, u: Units) -> String {
    let (pull, share) = r.evacuated.map_or_else(
        || ("at least as long as all before".into(), 0.5),
        |t0| {
            let more = t0.max(LEAST);
            (
                format!("for at least {} more", span(more)),
                t0 / (t0 + more),
            )
        },
    );
    let is_all_leak = |f: &Forecast| f.cause == Cause::Leak && f.probability >= 0.1;
    let told = if v.explanations.iter().any(is_all_leak) && r.late > 0.0 {
        format!(
            "a leak comes back at {}, oil or rubber at {} to {}, moisture at less",
            per_minute(r.late, u),
            u.level_change(60.0 * share * r.late),
            u.level_change(60.0 * share.sqrt() * r.late)
        )
    } else {
        "oil or rubber comes back at seven tenths of the slope at most, moisture at less, and what a leak adds \
         to it stays".into()
    };
    let repeat = format!("Break with nitrogen, pull {pull} and repeat: {told}.");
    match v.comes_apart_s {
        Some(t) => format!(
            "Leave it shut until {} after isolation: it will most likely be told by then. Or {}",
            span(t),
            lower(&repeat)
        ),
        None => repeat,
    }
}

fn lower(s: &str) -> String {
    let mut c = s.chars();
    c.next()
        .map_or_else(String::new, |f| f.to_lowercase().chain(c).collect())
}
