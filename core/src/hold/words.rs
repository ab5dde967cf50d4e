//! What a hold verdict says, in plain words with figures.

use super::gather::HeldGas;
use super::proves::Proof;
use super::settle::Settling;
use super::untempered::{Untempered, believable};
use super::verdict::{HoldOutcome, HoldVerdict, Said};
use crate::matter::nitrogen::pressure_per_kelvin;
use crate::matter::refrigerant::find;
use crate::quantity::{AbsolutePressure, Temperature, Units, significant, span};
use crate::reading::Recording;
use crate::survey::Behind;

fn said(headline: &str, summary: &str, next_step: &str) -> Said {
    Said {
        headline: headline.into(),
        summary: summary.into(),
        evidence: Vec::new(),
        next_step: next_step.into(),
    }
}

pub fn nothing_read() -> Said {
    said(
        "No pressure read yet",
        "No system pressure has been recorded.",
        "Log the first pressure and a pipe temperature.",
    )
}
pub fn not_together() -> Said {
    said(
        "Gauges not read together",
        "The gauges were not read over the same time and did not agree, so there is no one pressure to follow.",
        "Log all gauges together, twice.",
    )
}
pub fn lost_everything(from: f64, took: f64, u: Units) -> Said {
    Said {
        evidence: vec!["No cooling takes a test pressure to nothing: gas left the system.".into()],
        ..said(
            &format!("Lost all of {}", u.gauge(from)),
            &format!(
                "It fell from {} to nothing within {}: a large leak, or somebody let it out.",
                u.gauge(from),
                span(took)
            ),
            "Search for the leak: what was open or opened first. If it was released on purpose, strike those readings out and end the test.",
        )
    }
}
pub fn fell_unread(stopped: &str, fell: f64, over: f64, u: Units) -> Said {
    Said {
        evidence: vec![format!(
            "In the last {} the gauge fell {} while {stopped} was not read: cooling would do that, and so would a leak.",
            span(over),
            u.difference(fell)
        )],
        ..said(
            "Fell while nobody measured why",
            &format!(
                "Until {stopped} stopped it held, but it fell afterwards and nothing tells a leak from cooling there."
            ),
            &format!("Read {stopped} again now and go on: the next readings decide."),
        )
    }
}
pub fn one_reading() -> Said {
    said(
        "Too few readings",
        "A change needs readings spread over time; there are not enough yet.",
        "Log pressure and temperature again in a few minutes.",
    )
}
pub fn fit_failed() -> Said {
    said(
        "Can’t fit this trace",
        "The model could not be fitted to these readings, so nothing is concluded from them.",
        "Check the units and the temperature readings; a wrong one can do this.",
    )
}
pub fn settling_not_explained(change: f64, u: Units) -> Said {
    Said {
        evidence: vec![format!(
            "Before it came to rest the corrected pressure moved by {}, more than the heat of filling can.",
            u.difference(change)
        )],
        ..said(
            "Something moved before it settled",
            "What followed is quiet, but what went before is neither settling nor temperature, so nothing is concluded.",
            "Check the probe and the valves; mark “topped up” or “supply shut” where it belongs, or start a new hold.",
        )
    }
}
pub fn refrigerant_inside() -> Said {
    Said {
        evidence: vec![
            "With refrigerant inside, pressure follows its saturation as long as liquid is left; correcting it as nitrogen would invent or hide a loss.".into(),
        ],
        ..said(
            "Not a tightness test",
            "There is refrigerant in the gas, so no temperature correction and no tightness verdict is made.",
            "Recover the refrigerant, refill with dry nitrogen and hold again; bubbles and a detector still find leaks meanwhile.",
        )
    }
}
pub fn supply_not_isolated() -> Said {
    said(
        "Not counting yet",
        "The nitrogen supply has not been said to be shut, so nothing is being held: a regulator can hide any leak.",
        "Shut the supply off at the manifold, take the regulator’s pressure off, and press “Supply shut”.",
    )
}
pub fn tracer_too_heavy(tracer: f64, half: f64, u: Units) -> Said {
    Said {
        evidence: vec![format!(
            "The tracer stands at {}; above {}, half its saturation at the coldest place, it no longer behaves as a gas.",
            u.difference(tracer),
            u.difference(half)
        )],
        ..said(
            "Not a tightness test",
            "There is too much tracer in the nitrogen to correct for temperature.",
            "Search with the detector now; for the hold release, purge and fill with dry nitrogen, or use less tracer.",
        )
    }
}
pub fn beyond_range(gauge: &str) -> Said {
    Said {
        evidence: vec![format!(
            "{gauge} was read above the top of its range; what it showed there, and perhaps since, cannot be trusted."
        )],
        ..said(
            "Gauge out of range",
            "No verdict is made from a gauge that was read beyond its range.",
            "Test again with a gauge whose range fits the test pressure.",
        )
    }
}
pub fn below_test_pressure(held: f64, planned: f64, u: Units) -> Said {
    Said {
        evidence: vec![
            "A leak that opens only at the higher pressure would not have shown.".into(),
        ],
        ..said(
            &format!("Held at {}, not {}", u.gauge(held), u.gauge(planned)),
            "This is not the test that was planned: it stayed below its test pressure.",
            "Press up to the planned pressure, or plan a test at the lower one and say where that comes from.",
        )
    }
}
pub fn no_test_pressure(least: f64, u: Units) -> Said {
    let floor = u.difference(least);
    said(
        "Not a tightness test",
        &format!("The pressure is less than {floor} above the air's: nothing is being held."),
        "Press the system up to the test pressure first.",
    )
}

pub fn settling_untempered(t: &Untempered, u: Units) -> Said {
    let k = t.fall / t.per_kelvin;
    Said {
        evidence: vec![
            format!(
                "It fell {} in {}; gas that a fill has warmed does that by cooling {}.",
                u.difference(t.fall),
                span(t.duration),
                u.interval(k)
            ),
            "That does not clear the system: a real leak looks the same this early.".into(),
        ],
        ..said(
            "Still settling",
            "Right after a fill the gas cools and pressure falls by itself.",
            "Keep looking for leaks while it settles, and put a probe on the pipe.",
        )
    }
}
pub fn falls_untempered(t: &Untempered, u: Units) -> Said {
    let k = t.fall / t.per_kelvin;
    Said {
        evidence: vec![format!(
            "{} in {} would need the gas to cool by {}; more than {} in that time is not believable.",
            u.difference(t.fall),
            span(t.duration),
            u.interval(k),
            u.interval(believable(t.duration))
        )],
        ..said(
            &format!("Fell {}", u.difference(t.fall)),
            "It falls more than any cooling could explain, even without a thermometer.",
            "Search for the leak: joints made today first, then caps, cores and your own hoses.",
        )
    }
}
pub fn untempered(t: &Untempered, allowed: f64, digit: f64, u: Units) -> Said {
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
            "{} is allowed in this time, and the gauge shows steps of {}: this gauge cannot show it, whatever the temperature did.",
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
    Said {
        headline,
        evidence,
        ..said(
            "",
            "Temperature was not followed, so a change of temperature cannot be told from a leak.",
            next,
        )
    }
}

pub fn settling(s: &Settling, recording: &Recording, gas: &HeldGas, u: Units) -> Said {
    let mut evidence = vec![format!(
        "The gas is still coming to rest: up to {} of settling may be left, {} would be small enough to start the clock.",
        u.difference(s.to_come),
        u.difference(s.threshold)
    )];
    let per_kelvin = pressure_per_kelvin(
        AbsolutePressure::from_pa(gas.pressure.v[0]),
        Temperature::from_c(20.0),
    );
    let degree = u.temperature.info().factor;
    evidence.push(format!(
        "At this pressure {} of cooling is {}; a leak cannot be told from it yet.",
        u.interval(degree),
        u.difference(per_kelvin * degree)
    ));
    unread(&mut evidence, recording, gas, u);
    let next = match s.ready_in {
        Some(sec) => format!(
            "Wait about {}; look at the joints meanwhile.",
            span(sec.max(60.0))
        ),
        None => "Keep logging pressure and temperature; look at the joints meanwhile.".into(),
    };
    Said {
        evidence,
        ..said(
            "Still settling",
            "The clock has not started: what is left of the filling could hide or fake a loss.",
            &next,
        )
    }
}

/// A band of leak in g or kg a year, low side at work to high side.
fn yearly(p: &Proof) -> String {
    let (unit, per) = if p.high_g_per_year >= 10_000.0 {
        ("kg", 1e3)
    } else {
        ("g", 1.0)
    };
    format!(
        "{} to {} {unit}/yr",
        significant(p.low_g_per_year / per, 2),
        significant(p.high_g_per_year / per, 2)
    )
}

/// Words for a verdict that has a loss.
pub fn judged(
    v: &HoldVerdict,
    recording: &Recording,
    gas: &HeldGas,
    settling: &Settling,
    from: f64,
    u: Units,
) -> Said {
    let last = gas.pressure.t[gas.pressure.len() - 1];
    let hours = |rate: f64| u.difference(rate * 3600.0);
    let Some(loss) = v.loss else {
        return fit_failed();
    };
    let duration = last - from;
    let over = |rate: f64| u.difference(rate * duration);
    let half = 0.5 * (loss.high - loss.low);
    let tight = loss.high.max(half);
    let mut evidence = vec![format!(
        "Loss {} per hour, between {} and {} (95\u{a0}%), over {} since it settled.",
        hours(loss.value),
        hours(loss.low),
        hours(loss.high),
        span(duration)
    )];
    // All from the same block means, so that a hand check of the sentence comes out.
    let judged = || {
        v.trace
            .iter()
            .filter(|p| p.corrected.is_some() && p.at_s >= from - 1e-6)
    };
    if let (Some((a, first)), Some((b, end))) = (
        judged().find_map(|p| Some((p.temperature?, p))),
        judged().rev().find_map(|p| Some((p.temperature?, p))),
    ) {
        let worth = |p: &super::verdict::TracePoint| p.raw - p.corrected.unwrap_or(0.0);
        evidence.push(format!(
            "The gauge moved {}. The probes moved {} (from {} to {}): that alone moves it {}.",
            signed(end.raw - first.raw, |x| u.difference(x)),
            signed(b - a, |x| u.interval(x)),
            u.temperature(a),
            u.temperature(b),
            signed(worth(end) - worth(first), |x| u.difference(x))
        ));
    }
    unread(&mut evidence, recording, gas, u);
    evidence.push(format!(
        "Allowed: {} in {}{}.",
        u.difference(v.limit.drop_pa),
        span(v.limit.over_s),
        if v.limit_is_default {
            " (Ruhe's default, 0.3\u{a0}% of absolute pressure; no limit was given)"
        } else {
            ""
        }
    ));
    match (&v.leaks, &v.proves) {
        (Some(p), _) => evidence.push(format!(
            "As refrigerant this is a leak of {}. {}",
            yearly(p),
            p.assumptions
        )),
        (None, Some(p)) => evidence.push(format!(
            "A leak of {} would have stayed hidden. {}",
            yearly(p),
            p.assumptions
        )),
        _ => {}
    }
    if let Some(ideal) = v
        .ideal_loss
        .filter(|i| (i - loss.value).abs() > 0.05 * half)
    {
        evidence.push(format!(
            "Worked by hand with the ideal gas law it would be {} per hour.",
            hours(ideal)
        ));
    }
    if let Some(c) = v.correction {
        let lag = match (c.lag_s, c.lag_sd) {
            (l, sd) if sd > 0.6 * l.abs().max(300.0) => String::new(),
            (l, _) if l < 0.0 => format!(", the probe late by about {}", span(-l)),
            (l, _) => format!(", the gas behind it by about {}", span(l)),
        };
        evidence.push(format!(
            "In this hold the gas moved {} ± {} times what the probes did{lag}.",
            significant(c.gain, 2),
            significant(1.96 * c.gain_sd, 1)
        ));
    }
    if let Some(apart) = &gas.apart {
        let ends = (
            apart.v.first().copied().unwrap_or(0.0).abs(),
            apart.v.last().copied().unwrap_or(0.0).abs(),
        );
        if ends.0 > 3.0 * gas.digit && ends.1 < 0.6 * ends.0 {
            evidence.push(format!(
                "The sides came from {} to {} apart: that is evening out across the metering device, and what counts is their weighted sum.",
                u.difference(ends.0),
                u.difference(ends.1)
            ));
        }
    }
    if recording.settings.behind == Some(Behind::FactoryCharge)
        && let Some(r) = recording.settings.refrigerant.as_deref().and_then(find)
        && (v.loss_detected || v.reasons.contains(&"gained"))
    {
        let charge = r.standing(temperature(gas, last).unwrap_or(294.0));
        let here = gas.pressure.v.last().copied().unwrap_or(0.0);
        let air = recording.atmosphere().0.pa();
        evidence.push(if charge > here {
            format!("Behind a shut valve stands the factory charge at about {}, higher than here: refrigerant may be weeping in.", u.gauge(charge - air))
        } else {
            format!(
                "Behind a shut valve stands the factory charge at about {}, lower than here: nitrogen may be going through that valve, where no bubble shows.",
                u.gauge(charge - air)
            )
        });
    }
    if gas.sun.is_some() {
        evidence
            .push(format!("The sun was on the gauge: its own warming may be worth up to {}, and is in the interval. Shade it.", u.difference(2e-4 * gas.range * 15.0)));
    }
    if v.reasons.contains(&"steps_taken_out") {
        evidence.push(format!("A gauge put back or a valve moved made a step ({}); the slope before and after it counts, the step does not.", gas.steps.len()));
    }
    if v.reasons.contains(&"too_short_for_digits") {
        let least = gas.digit / v.limit.rate();
        evidence.push(format!(
            "This gauge shows steps of {} and does not waver between them: for this limit it needs about {}. Tap a dial before you read it.",
            u.difference(gas.digit),
            span(least)
        ));
    }
    if let Some(channel) = recording.calibration_overdue() {
        evidence.push(format!(
            "The calibration of {} had run out when this was recorded.",
            recording.channels[channel].name
        ));
    }
    if v.reasons.contains(&"settling_overridden") {
        evidence.push(format!(
            "The clock was started by hand; up to {} of settling may be in it.",
            u.difference(settling.to_come)
        ));
    }
    if gas.weather_unknown && !recording.atmosphere().1 {
        evidence.push(
            "No barometer was given: the weather's usual wandering is in the interval.".into(),
        );
    }
    let (headline, summary, next_step) = match v.outcome {
        HoldOutcome::Holds if v.loss_detected => (
            format!("Loses {} an hour", hours(loss.value)),
            format!("Within the limit, but a loss of at least {} per hour is proven: there is a leak.", hours(loss.low)),
            "Find it now while it is under pressure, or accept it as a reservation on the record.".to_owned(),
        ),
        HoldOutcome::Holds => (
            format!("Tight to within {}", over(tight)),
            format!("No loss shown; more than {} in {} would have shown (95\u{a0}%).", over(tight), span(duration)),
            match recording.settings.planned_s.map(|p| p - duration) {
                Some(left) if left >= 60.0 => format!("It could be ended now; the plan asks for another {}, which lowers what could still hide.", span(left)),
                _ => "Release from one side, keep a slight positive pressure, and go on to the vacuum.".to_owned(),
            },
        ),
        HoldOutcome::Falls => (
            format!("Lost {}", over(loss.value)),
            format!("It loses at least {} per hour, beyond the limit, with temperature taken into account.", hours(loss.surely)),
            "Search for the leak: joints made today first, then caps, cores and your own hoses.".to_owned(),
        ),
        _ if v.reasons.contains(&"gained") => (
            format!("Gained {}", over(-loss.value)),
            "A tight system cannot gain gas: the supply may not be shut, a charged side may leak in, or the temperature is not the gas's.".to_owned(),
            "Check that the nitrogen is shut off, feel the boundary valves, move the probe.".to_owned(),
        ),
        _ if v.reasons.contains(&"too_soon") => {
            let wanted = recording.settings.planned_s.map_or(600.0, |p| (0.5 * p).max(600.0));
            let left = (wanted - (last - gas.start)).max(60.0);
            (
                format!("Tight to within {} so far", over(tight)),
                format!("Not more than {} lost in {} (95\u{a0}%). A hold is not called before ten minutes and half of its planned time.", over(tight), span(duration)),
                format!("Go on for about {}; look at the joints meanwhile.", span(left)),
            )
        }
        _ => {
            let limit = v.limit.rate();
            let wish = over(limit);
            let swing = temperature(gas, from).zip(temperature(gas, last)).map_or(0.0, |(a, b)| (b - a).abs());
            let next = if v.loss_detected {
                format!("It seems to lose {} per hour: bubble the joints made today while you wait.", hours(loss.value))
            } else if swing > 1.0 && gas.probes.len() < 2 {
                format!(
                    "For {wish}: a second probe on another part, or hold until it is {} again.",
                    temperature(gas, from).map_or_else(String::new, |t| u.temperature(t))
                )
            } else if swing > 1.0 {
                format!("For {wish}: hold until it is {} again.", temperature(gas, from).map_or_else(String::new, |t| u.temperature(t)))
            } else {
                format!("For {wish}: hold about {} longer.", span((duration * (half / limit - 1.0)).clamp(0.25 * duration, 4.0 * duration).max(120.0)))
            };
            (
                format!("Tight to within {}", over(tight)),
                format!("Not more than {} lost in {} (95\u{a0}%); the limit of {} for that time is not shown yet.", over(tight), span(duration), over(limit)),
                next,
            )
        }
    };
    Said {
        headline,
        summary,
        evidence,
        next_step,
    }
}

/// What was not read, or not long enough to be used.
fn unread(evidence: &mut Vec<String>, recording: &Recording, gas: &HeldGas, u: Units) {
    let name = |i: usize| &recording.channels[i].name;
    if let Some(i) = gas.cut_by.filter(|_| gas.pressure.len() < gas.whole.len()) {
        let (first, last) = (
            gas.pressure.t[0] - gas.whole.t[0],
            gas.pressure.t[gas.pressure.len() - 1] - gas.whole.t[0],
        );
        evidence.push(format!(
            "{} was read from {} to {} only: what came before or after is drawn, but not judged.",
            name(i),
            span(first),
            span(last)
        ));
    }
    for &i in gas.unused.iter().filter(|&&i| Some(i) != gas.cut_by) {
        evidence.push(format!(
            "{} was not read over the whole time and is not used.",
            name(i)
        ));
    }
    let strayed = gas.unread_k.0.hypot(gas.unread_k.1);
    if strayed > 0.0 {
        evidence.push(format!("The temperature was read seldom; it may have strayed by {} unread, which is in the interval.", u.interval(1.96 * strayed)));
    }
}

fn temperature(gas: &HeldGas, at: f64) -> Option<f64> {
    let t: f64 = gas
        .probes
        .iter()
        .map(|(s, w)| w * s.at(at).unwrap_or(f64::NAN))
        .sum();
    t.is_finite()
        .then_some(t)
        .filter(|_| !gas.probes.is_empty())
}

fn signed(x: f64, say: impl Fn(f64) -> String) -> String {
    if x > 0.0 {
        format!("+{}", say(x))
    } else {
        say(x)
    }
}
