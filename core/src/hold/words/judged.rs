//! A hold that was judged by its loss.

use super::{cases, signed, unread};
use crate::hold::enough::digit_takes;
use crate::hold::finding::{HoldFinding, HoldOutcome, Judged, Loss, Moved};
use crate::hold::proves::{Proof, assumptions};
use crate::quantity::{Units, significant, span};
use crate::reason::Reason;
use crate::words::{Words, words};

/// Above this many grams a year a leak is written in kilograms.
const KILOGRAMS: f64 = 10_000.0;
/// A hold is not called before so long, s (common practice, no source).
const LEAST: f64 = 600.0;
/// A change of temperature larger than this is worth another probe, K.
const SWING: f64 = 1.0;

/// A band of leak in g or kg a year, low side at work to high side.
fn yearly(p: &Proof) -> String {
    let (unit, per) = if p.high_g_per_year >= KILOGRAMS {
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

/// What the sentences are made of.
struct Scene<'a> {
    v: &'a HoldFinding,
    j: &'a Judged,
    loss: Loss,
    u: Units,
}

impl Scene<'_> {
    fn hourly(&self, rate: f64) -> String {
        self.u.difference(rate * 3600.0)
    }
    fn over(&self, rate: f64) -> String {
        self.u.difference(rate * self.j.duration)
    }
    fn half(&self) -> f64 {
        0.5 * (self.loss.high - self.loss.low)
    }
    /// The most that may have been lost, Pa/s.
    fn tight(&self) -> f64 {
        self.loss.high.max(self.half())
    }
}

/// Words for a finding that has a loss.
pub fn judged(v: &HoldFinding, j: &Judged, u: Units) -> Words {
    let Some(loss) = v.loss else {
        return cases::fit_failed();
    };
    let scene = Scene { v, j, loss, u };
    let (headline, summary, next_step) = scene.said();
    Words {
        evidence: scene.evidence(),
        ..words(&headline, &summary, &next_step)
    }
}

impl Scene<'_> {
    fn evidence(&self) -> Vec<String> {
        let (v, u, loss) = (self.v, self.u, self.loss);
        let since = if v.settled_at_s.is_some() {
            "it settled"
        } else {
            "the first reading"
        };
        let over = format!("over {} since {since}", span(self.j.duration));
        // A loss below nothing is none: what is left is what cannot be excluded.
        let is_none = loss.value <= 0.0 && !v.reasons.contains(&Reason::Gained);
        let mut out = vec![if is_none {
            format!(
                "No loss; up to {} per hour cannot be excluded (95\u{a0}%), {over}.",
                self.hourly(loss.high.max(0.0))
            )
        } else {
            format!(
                "Loss {} per hour, between {} and {} (95\u{a0}%), {over}.",
                self.hourly(loss.value),
                self.hourly(loss.low),
                self.hourly(loss.high)
            )
        }];
        out.extend(self.j.moved.map(|m| moved(m, u)));
        unread(&mut out, &self.j.unread, u);
        out.push(format!(
            "Allowed: {} in {}{}.",
            u.difference(v.limit.drop_pa),
            span(v.limit.over_s),
            if v.limit_is_default {
                " (Ruhe's default, 0.3\u{a0}% of absolute pressure; no limit was given)"
            } else {
                ""
            }
        ));
        let as_leak = match (&v.leaks, &v.proves) {
            (Some(p), _) => Some((p, "As refrigerant this is a leak of ", "")),
            (None, Some(p)) => Some((p, "A leak of ", " would have stayed hidden")),
            _ => None,
        };
        out.extend(as_leak.map(|(p, before, after)| {
            format!("{before}{}{after}. {}", yearly(p), assumptions(p, u))
        }));
        out.extend(self.model());
        out.extend(self.circumstances());
        out
    }

    /// What the fit says beside the loss.
    fn model(&self) -> Vec<String> {
        let mut out = Vec::new();
        let differs = |i: &f64| (i - self.loss.value).abs() > 0.05 * self.half();
        if let Some(ideal) = self.v.ideal_loss.filter(differs) {
            out.push(format!(
                "Worked by hand with the ideal gas law it would be {} per hour.",
                self.hourly(ideal)
            ));
        }
        if let Some(c) = self.v.correction {
            let lag = match (c.lag_s, c.lag_sd) {
                (l, sd) if sd > 0.6 * l.abs().max(300.0) => String::new(),
                (l, _) if l < 0.0 => format!(", the probe late by about {}", span(-l)),
                (l, _) => format!(", the gas behind it by about {}", span(l)),
            };
            out.push(format!(
                "In this hold the gas moved {} ± {} times what the probes did{lag}.",
                significant(c.gain, 2),
                significant(1.96 * c.gain_sd, 1)
            ));
        }
        out
    }

    /// What was noticed besides: sides, charge, sun, steps, digits, calibration, clock, weather.
    fn circumstances(&self) -> Vec<String> {
        let (j, u) = (self.j, self.u);
        let mut out = Vec::new();
        if let Some((first, last)) = j.apart {
            out.push(format!(
                "The sides came from {} to {} apart: that is evening out across the metering device, and what \
                 counts is their weighted sum.",
                u.difference(first),
                u.difference(last)
            ));
        }
        if let Some(c) = j.charge {
            let (than, so) = if c.is_higher {
                ("higher", "refrigerant may be weeping in")
            } else {
                (
                    "lower",
                    "nitrogen may be going through that valve, where no bubble shows",
                )
            };
            out.push(format!(
                "Behind a shut valve stands the factory charge at about {}, {than} than here: {so}.",
                u.gauge(c.pa)
            ));
        }
        if let Some(pa) = j.sun_pa {
            out.push(format!(
                "The sun was on the gauge: its own warming may be worth up to {}, and is in the interval. Shade it.",
                u.difference(pa)
            ));
        }
        let says = |r: Reason| self.v.reasons.contains(&r);
        if says(Reason::StepsTakenOut) {
            out.push(format!(
                "A gauge put back or a valve moved made a step ({}); the slope before and after it counts, the \
                 step does not.",
                j.steps
            ));
        }
        if says(Reason::TooShortForDigits) {
            out.push(format!(
                "This gauge shows steps of {} and does not waver between them: for this limit it needs about \
                 {}. Tap a dial before you read it.",
                u.difference(j.digit),
                span(digit_takes(j.digit, self.v.limit.rate()))
            ));
        }
        if let Some(name) = &j.overdue {
            out.push(format!(
                "The calibration of {name} had run out when this was recorded."
            ));
        }
        if says(Reason::SettlingOverridden) {
            out.push(format!(
                "The clock was started by hand; up to {} of settling may be in it.",
                u.difference(j.settling_left)
            ));
        }
        if j.first_alone && self.v.outcome == HoldOutcome::Undecided {
            out.push(
                "The first reading came as the supply was shut: what filling left is in the interval. The next \
                 time read again a quarter of an hour later, and it is not.".into(),
            );
        }
        if j.weather_unknown {
            out.push(
                "No barometer was given: the weather's usual wandering is in the interval.".into(),
            );
        }
        out
    }

    /// Headline, summary and next step.
    fn said(&self) -> (String, String, String) {
        let (v, j, loss) = (self.v, self.j, self.loss);
        let tight = self.over(self.tight());
        match v.outcome {
            HoldOutcome::Holds if v.loss_detected => (
                format!("Loses {} an hour", self.hourly(loss.value)),
                format!(
                    "Within the limit, but a loss of at least {} per hour is proven: there is a leak.",
                    self.hourly(loss.low)
                ),
                "Find it now while it is under pressure, or accept it as a reservation on the record.".into(),
            ),
            HoldOutcome::Holds => (
                format!("Tight to within {tight}"),
                format!(
                    "No loss shown; more than {tight} in {} would have shown (95\u{a0}%).",
                    span(j.duration)
                ),
                match j.planned_s.map(|p| p - j.duration) {
                    Some(left) if left >= 60.0 => format!(
                        "It could be ended now; the plan asks for another {}, which lowers what could still hide.",
                        span(left)
                    ),
                    _ => "Let it out from one side, and keep a slight positive pressure.".into(),
                },
            ),
            HoldOutcome::Falls => (
                format!("Lost {}", self.over(loss.value)),
                format!(
                    "It loses at least {} per hour, beyond the limit, with temperature taken into account.",
                    self.hourly(loss.surely)
                ),
                "Search for the leak: joints made today first, then caps, cores and your own hoses.".into(),
            ),
            _ if v.reasons.contains(&Reason::Gained) => (
                format!("Gained {}", self.over(-loss.value)),
                "A tight system cannot gain gas: the supply may not be shut, a charged side may leak in, or the \
                 temperature is not the gas's.".into(),
                if j.charge.is_some() {
                    "Do not open any valve: look at the gauge behind it, sniff, and recover what is in there if \
                     it is refrigerant."
                } else {
                    "Check that the nitrogen is shut off, look at the gauges behind the boundary valves, move \
                     the probe."
                }
                .into(),
            ),
            _ if v.reasons.contains(&Reason::TooSoon) => {
                let wanted = j.planned_s.map_or(LEAST, |p| (0.5 * p).max(LEAST));
                (
                    format!("Tight to within {tight} so far"),
                    format!(
                        "Not more than {tight} lost in {} (95\u{a0}%). A hold is not called before ten minutes \
                         and half of its planned time.",
                        span(j.duration)
                    ),
                    format!(
                        "Go on for about {}; look at the joints meanwhile.",
                        span((wanted - j.since_shut).max(60.0))
                    ),
                )
            }
            _ => (
                format!("Tight to within {tight}"),
                format!(
                    "Not more than {tight} lost in {} (95\u{a0}%); the limit of {} for that time is not shown yet.",
                    span(j.duration),
                    self.over(v.limit.rate())
                ),
                self.next_while_open(),
            ),
        }
    }

    /// What would decide it.
    fn next_while_open(&self) -> String {
        let (j, u) = (self.j, self.u);
        let limit = self.v.limit.rate();
        let wish = self.over(limit);
        let swing = j.kelvin.map_or(0.0, |(a, b)| (b - a).abs());
        let again = || j.kelvin.map_or_else(String::new, |k| u.temperature(k.0));
        if let Some(s) = &j.unread.silent {
            format!(
                "Read {} again now and go on: the next readings decide.",
                s.channel
            )
        } else if self.v.loss_detected {
            format!(
                "It seems to lose {} per hour: bubble the joints made today while you wait. {}",
                self.hourly(self.loss.value),
                self.decided_in()
            )
        } else if swing > SWING && j.probes < 2 {
            format!(
                "For {wish}: a second probe on another part, or hold until it is {} again. {}",
                again(),
                self.decided_if_told()
            )
        } else if swing > SWING {
            format!(
                "For {wish}: hold until it is {} again. {}",
                again(),
                self.decided_if_told()
            )
        } else {
            format!("For {wish}: {}", self.decided_in())
        }
        .trim_end()
        .to_owned()
    }

    /// The same, if a time can be told: "hold on" and "waiting will not do" are no one advice.
    fn decided_if_told(&self) -> String {
        let is_told = self.v.foretold.is_some_and(|f| f.likely_s.is_some());
        if is_told {
            self.decided_in()
        } else {
            String::new()
        }
    }

    /// When it should be decided, if it goes on as it went.
    fn decided_in(&self) -> String {
        let Some(f) = self.v.foretold else {
            return String::new();
        };
        let left = |at: f64| span((at - f.asked_s).max(60.0));
        match (f.likely_s, f.surely_s) {
            (Some(likely), Some(surely)) => format!(
                "Decided in about {}, nine times in ten within {}.",
                left(likely),
                left(surely)
            ),
            (Some(likely), None) => format!(
                "Decided in about {} as likely as not; it may take much longer. A finer gauge, another probe or \
                 shade would help.",
                left(likely)
            ),
            _ => {
                "Waiting alone will hardly decide it: a finer gauge, another probe or shade would."
                    .into()
            }
        }
    }
}

fn moved(m: Moved, u: Units) -> String {
    format!(
        "The gauge moved {}. The probes moved {} (from {} to {}): that alone moves it {}.",
        signed(m.gauge, |x| u.difference(x)),
        signed(m.to_k - m.from_k, |x| u.interval(x)),
        u.temperature(m.from_k),
        u.temperature(m.to_k),
        signed(m.worth, |x| u.difference(x))
    )
}
