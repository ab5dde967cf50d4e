//! Two halves either side of a shut valve: one balance of two amounts.
//!
//! N_A ∝ P_A/T_A, N_B ∝ k P_B/T_B with k = V_B/V_A. Outside leak: the sum falls. Leak-by: A falls, B rises, the sum
//! stays. With p = pressure at the start's temperature: through the valve = k·rise of B, outside = fall of A − that.
//! A loss of B to the outside as well cannot be told from less leak-by by one balance; it is within "outside".
//! Where refrigerant stands in B its pressure follows saturation, so only A is balanced.
//! Source: conservation of the amount of gas (handbook §4 "Two halves").

use crate::quantity::{Units, span};
use crate::reading::{EventKind, Position, Quantity, Recording, Series};
use crate::survey::Behind;

/// What the balance says.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum LeakByOutcome {
    /// Gas left the system.
    Outside,
    /// Gas went through the valve.
    LeakBy,
    /// Both.
    Both,
    /// Neither shown.
    Undecided,
}

/// A change with its bounds, Pa referred to half A.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Share {
    /// Middle.
    pub value: f64,
    /// Lower bound.
    pub low: f64,
    /// Upper bound.
    pub high: f64,
}

/// All that is said about a leak-by test.
#[derive(Debug, Clone)]
pub struct LeakByVerdict {
    /// Outcome.
    pub outcome: LeakByOutcome,
    /// Lost outside.
    pub outside: Option<Share>,
    /// Gone through the valve.
    pub leak_by: Option<Share>,
    /// Volume ratio used, low and high.
    pub ratio: (f64, f64),
    /// Codes of what decided.
    pub reasons: Vec<&'static str>,
    /// A few words.
    pub headline: String,
    /// One sentence.
    pub summary: String,
    /// Sentences with figures.
    pub evidence: Vec<String>,
    /// What to do next.
    pub next_step: String,
    /// Both halves over time, Pa gauge as read: seconds, A, B.
    pub trace: Vec<(f64, f64, f64)>,
}

/// Unknown temperature, K, as one standard deviation; with a probe on that half a quarter of it. Common practice, no
/// source.
const STRAY: f64 = 1.0;
/// Ratio assumed when nobody stated or measured one.
const RATIO: (f64, f64) = (0.5, 2.0);

/// One half: absolute pressure at its own start's temperature, and how far that is to be trusted.
struct Half {
    /// Pa absolute, corrected.
    p: Series,
    /// Error of a change, Pa (standard deviation).
    error: f64,
    /// Smallest step, Pa.
    digit: f64,
}

fn half(recording: &Recording, position: Position, until: f64) -> Option<Half> {
    let channels = &recording.channels;
    let i = (0..channels.len()).find(|&i| channels[i].is_system_pressure() && channels[i].position == Some(position))?;
    let air = if channels[i].quantity == Quantity::GaugePressure { recording.atmosphere().0.pa() } else { 0.0 };
    let mut p = recording.series(i).between(f64::NEG_INFINITY, until);
    if p.len() < 2 {
        return None;
    }
    p.v.iter_mut().for_each(|v| *v += air);
    // A probe marked as on this half; else one anywhere stands for both, and is trusted less.
    let probe = |q: Option<Position>| {
        (0..channels.len()).find(|&j| channels[j].quantity == Quantity::Temperature && (q.is_none() || channels[j].position == q)).map(|j| recording.series(j))
    };
    let own = probe(Some(position)).filter(|t| t.len() >= 2);
    let any = probe(None).filter(|t| t.len() >= 2);
    let stray = match (&own, &any) {
        (Some(_), _) => 0.25 * STRAY,
        (None, Some(_)) => 0.5 * STRAY,
        (None, None) => STRAY,
    };
    if let Some(t) = own.or(any) {
        let t0 = t.at(p.t[0])?;
        for (at, v) in p.t.iter().zip(&mut p.v) {
            *v *= t0 / t.at(*at)?;
        }
    }
    let digit = channels[i].resolution_si().unwrap_or(6_894.757);
    Some(Half { error: (0.41 * digit).hypot(p.v[0] / 293.0 * stray), digit, p })
}

impl Half {
    /// Fall from the first tenth of the time to the last.
    fn fall(&self) -> f64 {
        let (a, b) = (self.p.t[0], self.p.t[self.p.len() - 1]);
        let edge = 0.1 * (b - a);
        self.p.mean(a, a + edge).unwrap_or(0.0) - self.p.mean(b - edge, b).unwrap_or(0.0)
    }
    fn last(&self) -> f64 {
        self.p.v[self.p.len() - 1]
    }
}

/// V_B/V_A from opening the valve at the end: (P_A − P_f)/(P_f − P_B), with its error.
fn ratio_from_opening(recording: &Recording, a: &Half, b: &Half, opened: f64) -> Option<(f64, f64)> {
    let after = |position| {
        let i = recording.channels.iter().position(|c| c.is_system_pressure() && c.position == Some(position))?;
        let air = if recording.channels[i].quantity == Quantity::GaugePressure { recording.atmosphere().0.pa() } else { 0.0 };
        let s = recording.series(i).between(opened + 1e-6, f64::INFINITY);
        Some(s.v.last()? + air)
    };
    let (fa, fb) = (after(Position::HalfA)?, after(Position::HalfB)?);
    let digit = a.digit.max(b.digit);
    if (fa - fb).abs() > 3.0 * digit {
        return None;
    }
    let f = 0.5 * (fa + fb);
    let (up, down) = (a.last() - f, f - b.last());
    let ratio = up / down;
    // Three readings, each off by up to half a digit, and a kelvin nobody saw.
    let e = digit.hypot(f / 293.0 * 0.3);
    let error = ratio * (e / up).hypot(e / down);
    (up.abs() > 3.0 * e && down.abs() > 3.0 * e && ratio.is_finite() && ratio > 0.0).then_some((ratio, error))
}

fn undecided(reason: &'static str, headline: &str, summary: &str, next_step: &str) -> LeakByVerdict {
    LeakByVerdict {
        outcome: LeakByOutcome::Undecided,
        outside: None,
        leak_by: None,
        ratio: (0.0, 0.0),
        reasons: vec![reason],
        headline: headline.into(),
        summary: summary.into(),
        evidence: vec![],
        next_step: next_step.into(),
        trace: vec![],
    }
}

/// Judges a leak-by test. The valve may be opened at the end ("valve moved"), which measures the volume ratio.
#[must_use]
pub fn judge_leak_by(recording: &Recording, u: Units) -> LeakByVerdict {
    let opened = recording.last_event(EventKind::ValveMoved);
    let until = opened.unwrap_or(f64::INFINITY);
    let (Some(a), Some(b)) = (half(recording, Position::HalfA, until), half(recording, Position::HalfB, until)) else {
        let text = "A leak-by test needs at least two pressures of each half, marked half_a and half_b.";
        return undecided("too_few_readings", "Both halves are needed", text, "Log both gauges together, twice.");
    };
    let air = recording.atmosphere().0.pa();
    let (thin, _) = a.p.thinned(160);
    let trace: Vec<(f64, f64, f64)> = thin.t.iter().zip(&thin.v).map(|(&t, &v)| (t, v - air, b.p.at(t).unwrap_or(0.0) - air)).collect();
    let charged = recording.settings.behind == Some(Behind::FactoryCharge);
    let mut v = if charged { beside_a_charge(&a, &b, u) } else { balance(recording, &a, &b, opened, u) };
    v.trace = trace;
    v
}

fn balance(recording: &Recording, a: &Half, b: &Half, opened: Option<f64>, u: Units) -> LeakByVerdict {
    let measured = opened.and_then(|t| ratio_from_opening(recording, a, b, t));
    let stated = recording.settings.volume_ratio;
    let (mid, ratio) = match (measured, stated) {
        (Some((k, e)), _) => (k, ((k - 1.96 * e).max(0.05 * k), k + 1.96 * e)),
        (None, Some(k)) => (k, (0.95 * k, 1.05 * k)),
        (None, None) => (1.0, RATIO),
    };
    let (fall_a, rise_b) = (a.fall(), -b.fall());
    let span_of = |f: &dyn Fn(f64) -> f64, e: f64| Share { value: f(mid), low: f(ratio.0).min(f(ratio.1)) - 1.96 * e, high: f(ratio.0).max(f(ratio.1)) + 1.96 * e };
    let outside = span_of(&|k| fall_a - k * rise_b, a.error.hypot(mid * b.error));
    let leak_by = span_of(&|k| k * rise_b, mid * b.error);
    let closes = (fall_a - rise_b).abs() <= 2.0 * a.error.hypot(b.error);
    // More arrived than left: no valve and no leak can do that.
    let gained = outside.high < 0.0;
    let outcome = match (outside.low > 0.0, leak_by.low > 0.0) {
        _ if gained => LeakByOutcome::Undecided,
        (true, true) => LeakByOutcome::Both,
        (true, false) => LeakByOutcome::Outside,
        (false, true) => LeakByOutcome::LeakBy,
        (false, false) => LeakByOutcome::Undecided,
    };
    let duration = a.p.t[a.p.len() - 1] - a.p.t[0];
    let mut evidence = vec![format!("Half A fell {}, half B rose {} in {}.", u.difference(fall_a), u.difference(rise_b), span(duration))];
    let sum = |x: f64| if x < 0.0 { format!("the sum has grown by {}", u.difference(-x)) } else { format!("{} is missing from the sum", u.difference(x)) };
    evidence.push(match (measured, stated) {
        (Some((k, e)), _) => format!(
            "Opening the valve gave a volume ratio B to A of {} ± {}: {}.",
            crate::quantity::significant(k, 2),
            crate::quantity::significant(1.96 * e, 1),
            sum(outside.value)
        ),
        (None, Some(k)) => format!("With a volume ratio B to A of {k}, {}.", sum(outside.value)),
        (None, None) if closes => "The balance closes with equal volumes: nothing is missing from the sum.".into(),
        (None, None) => {
            format!("With volumes between half and double, between {} and {} is missing from the sum.", u.difference(outside.low), u.difference(outside.high))
        }
    });
    if fall_a > 0.0 {
        let per_kelvin = crate::matter::nitrogen::pressure_per_kelvin(crate::quantity::AbsolutePressure::from_pa(a.p.v[0]), crate::quantity::Temperature::from_c(20.0));
        evidence.push(format!("Cooling alone would have to be {}.", u.interval(fall_a / per_kelvin)));
    }
    let measure = if measured.is_none() { "Open the valve at the end, press “Valve opened” and log both gauges: that measures the volume ratio. Then " } else { "" };
    let (headline, summary, next_step) = match outcome {
        LeakByOutcome::LeakBy => (
            "The valve lets by",
            "What one half lost the other gained: the valve between them leaks, the outside is not accused.",
            sentence(format!("{measure}repair or replace the valve, and test again.")),
        ),
        LeakByOutcome::Outside => ("A leak to the outside", "Gas is missing from both halves together.", "Search the half that fell.".to_owned()),
        LeakByOutcome::Both => {
            ("A leak and a valve that lets by", "One half gains, but less than the other loses.", sentence(format!("{measure}search the half that fell.")))
        }
        LeakByOutcome::Undecided if gained => (
            "More arrived than left",
            "Together the halves hold more gas than before, which neither a leak nor a valve can do.",
            "Check that every supply is shut, what stands behind the other valves, and the volume ratio.".to_owned(),
        ),
        LeakByOutcome::Undecided if measured.is_none() && stated.is_none() && fall_a > 3.0 * a.error => (
            "Can’t tell yet",
            "Gas is missing from half A, but without the volume ratio it may be in half B or outside.",
            "Open the valve, press “Valve opened” and log both gauges: that measures the volume ratio.".to_owned(),
        ),
        LeakByOutcome::Undecided => ("Can’t tell yet", "The changes are within what digits and temperature do.", "Wait longer, or put a probe on each half.".to_owned()),
    };
    LeakByVerdict {
        outcome,
        outside: Some(outside),
        leak_by: Some(leak_by),
        ratio,
        reasons: vec![if gained {
            "gained"
        } else if measured.is_some() {
            "ratio_measured"
        } else if stated.is_some() {
            "ratio_known"
        } else {
            "ratio_band"
        }],
        headline: headline.into(),
        summary: summary.into(),
        evidence,
        next_step,
        trace: vec![],
    }
}

/// With a capital at its beginning.
fn sentence(text: String) -> String {
    let mut chars = text.chars();
    chars.next().map_or_else(String::new, |c| c.to_uppercase().chain(chars).collect())
}

/// B holds a charge: its pressure follows saturation, so only A's change and the direction of the push are known.
fn beside_a_charge(a: &Half, b: &Half, u: Units) -> LeakByVerdict {
    let fall = a.fall();
    let e = 1.96 * a.error;
    let pushed_in = b.last() > a.last();
    let share = Share { value: fall, low: fall - e, high: fall + e };
    let mut v =
        undecided("charge_behind", "Can’t tell yet", "The change is within what digits and temperature do.", "Wait longer, or put a probe on the half under test.");
    v.evidence = vec![
        format!("Behind the valve stands a charge at {}, against {} on this side.", u.gauge(b.last() - 101_325.0), u.gauge(a.last() - 101_325.0)),
        format!("This side {} {}.", if fall >= 0.0 { "fell" } else { "rose" }, u.difference(fall.abs())),
    ];
    if share.high < 0.0 && pushed_in {
        v.outcome = LeakByOutcome::LeakBy;
        v.headline = "The charge weeps in".into();
        v.summary = "This side gains, and the charge behind the valve stands higher: refrigerant is coming through.".into();
        v.next_step = "Recover what came in, cap and stem checked, and blank the line off at the flare before testing again.".into();
        v.leak_by = Some(Share { value: -share.value, low: -share.high, high: -share.low });
    } else if share.low > 0.0 && !pushed_in {
        v.headline = "Lost outside, or into the charge".into();
        v.summary = "This side loses, and it stands higher than the charge: nitrogen may be going through the valve into the unit, where no bubble shows.".into();
        v.next_step = "Bubble the joints; if nothing shows, blank the line off at the flare and test again without the valve.".into();
        v.outside = Some(share);
    } else if share.low > 0.0 {
        v.outcome = LeakByOutcome::Outside;
        v.headline = "A leak to the outside".into();
        v.summary = "This side loses although the charge behind the valve stands higher: it cannot have gone there.".into();
        v.next_step = "Search this half.".into();
        v.outside = Some(share);
    }
    v
}
