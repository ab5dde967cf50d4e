//! Two halves either side of a shut valve: one balance of two amounts.
//!
//! N_A = V_A ρ(P_A, T_A), N_B = k V_A ρ(P_B, T_B) with k = V_B/V_A and the real density of nitrogen. Outside leak: the
//! sum falls. Leak-by: A falls, B rises, the sum stays: through the valve = k·rise of B, outside = fall of A − that.
//! A loss of B to the outside as well cannot be told from less leak-by by one balance; it is within "outside".
//! Where refrigerant stands in B its pressure follows saturation, so only A is balanced.
//! Source: conservation of the amount of gas; ρ from [`nitrogen`].

use super::gather::{DEFAULT_RANGE, unread};
use super::untempered::believable;
use crate::matter::nitrogen;
use crate::quantity::{AbsolutePressure, Temperature, Units, span};
use crate::reading::{EventKind, Gas, Position, Quantity, Recording, Series};
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

/// Unknown temperature of a half with a probe anywhere, K, as one standard deviation; with a probe on that half it is
/// half of that. Common practice, no source.
const STRAY: f64 = 0.5;
/// The gas moves by so much more or less than its probe, as in a hold with one. Common practice, no source.
const GAIN: f64 = 0.15;
/// The gas is behind its probe by up to about so long, s, …
const BEHIND: f64 = 600.0;
/// … and this share of what the probe moves in that time may still be to come (standard deviation). Set with an eye on
/// the simulated leak-bys of docs/method.md.
const STILL_TO_COME: f64 = 0.7;
/// A gauge's own temperature, share of its range per kelvin, and what it wanders. Common practice, no source.
const GAUGE: (f64, f64) = (2e-4, 1e-4);
/// Standard deviations of a one-sided 99 %, and a little more: the errors' tails are heavier than a normal's.
const SURE: f64 = 2.5;
/// Ratio assumed when nobody stated or measured one.
const RATIO: (f64, f64) = (0.5, 2.0);

/// One half over the time in which both were read: its amount of gas as a pressure, and how far that is to be trusted.
struct Half {
    /// As read, Pa absolute.
    read: Series,
    /// Amount of gas, mol/m³ of this half, by the real density of nitrogen at its own temperature.
    amount: Series,
    /// Error of a change of amount, mol/m³ (standard deviation).
    error: f64,
    /// Smallest step, Pa.
    digit: f64,
    /// Temperature at the start, K.
    kelvin: f64,
}

/// The gauge of a half: its index and what it reads as absolute pressure.
fn gauge(recording: &Recording, position: Position) -> Option<(usize, Series)> {
    let channels = &recording.channels;
    let i = (0..channels.len())
        .find(|&i| channels[i].is_system_pressure() && channels[i].position == Some(position))?;
    let mut p = recording.series(i);
    let air = if channels[i].quantity == Quantity::GaugePressure {
        recording.atmosphere().0.pa()
    } else {
        0.0
    };
    p.v.iter_mut().for_each(|v| *v += air);
    (p.len() >= 2).then_some((i, p))
}

/// Temperature of a half nobody took.
const ROOM: f64 = 293.15;

fn half(recording: &Recording, position: Position, (from, to): (f64, f64)) -> Option<Half> {
    let channels = &recording.channels;
    let (i, all) = gauge(recording, position)?;
    let read = all.between(from, to);
    if read.len() < 2 {
        return None;
    }
    let (first, last) = (read.t[0], read.t[read.len() - 1]);
    // A probe marked as on this half; else one anywhere stands for both, and is trusted less. It counts only if it was
    // read all along.
    let probe = |on: Option<Position>| {
        (0..channels.len())
            .filter(|&j| {
                channels[j].quantity == Quantity::Temperature
                    && (on.is_none() || channels[j].position == on)
            })
            .map(|j| recording.series(j))
            .find(|t| t.covers(first, last))
    };
    let (temperature, stray) = match (probe(Some(position)), probe(None)) {
        (Some(own), _) => (Some(own), 0.5 * STRAY),
        (None, Some(any)) => (Some(any), STRAY),
        // Nobody measured: whatever cooling can be believed may have happened.
        (None, None) => (None, believable(last - first) / 1.96),
    };
    let swing = temperature.as_ref().map_or(0.0, |t| moved(t, first, last));
    let stray = stray.hypot(temperature.as_ref().map_or(0.0, |t| unseen(t, first, last)));
    let kelvin = |t: f64| temperature.as_ref().and_then(|s| s.at(t)).unwrap_or(ROOM);
    let density = |t: f64, p: f64| {
        nitrogen::density(AbsolutePressure::from_pa(p), Temperature::from_k(kelvin(t)))
    };
    let amount = Series {
        t: read.t.clone(),
        v: read
            .t
            .iter()
            .zip(&read.v)
            .map(|(&t, &p)| density(t, p))
            .collect(),
    };
    let digit = channels[i].resolution_si().unwrap_or(6_894.757);
    let range = channels[i]
        .range
        .map_or(DEFAULT_RANGE, |r| channels[i].unit.delta_to_si(r));
    // A change of pressure that nobody can see, as an amount: dn = n/p dp.
    let blur = (0.41 * digit)
        .hypot(GAUGE.1 * range)
        .hypot(GAUGE.0 * range * swing);
    let error = blur.hypot(read.v[0] / kelvin(first) * stray);
    Some(Half {
        error: error * amount.v[0] / read.v[0],
        digit,
        kelvin: kelvin(first),
        amount,
        read,
    })
}

/// How far a probe moved in any stretch of [`BEHIND`] within the window, at most, K.
fn moved(t: &Series, first: f64, last: f64) -> f64 {
    let s = t.between(first, last);
    s.t.iter()
        .zip(&s.v)
        .filter_map(|(&at, v)| Some((v - s.at(at - BEHIND)?).abs()))
        .fold(0.0, f64::max)
}

/// What the gas may have done that its probe did not show, K: gain, lag, and what happened between readings.
fn unseen(t: &Series, first: f64, last: f64) -> f64 {
    let ends = t
        .at(last)
        .zip(t.at(first))
        .map_or(0.0, |(b, a)| (b - a).abs());
    (GAIN * ends)
        .hypot(STILL_TO_COME * moved(t, first, last))
        .hypot(unread(t, first))
        .hypot(unread(t, last))
}

/// Both halves at the moments at which the one that was read more seldom was read: what one does in a time in which the
/// other is not looked at must not look like a difference.
fn together(a: &mut Half, b: &mut Half) {
    let times = if a.read.len() <= b.read.len() {
        a.read.t.clone()
    } else {
        b.read.t.clone()
    };
    for half in [a, b] {
        let at = |s: &Series| Series {
            t: times.clone(),
            v: times.iter().filter_map(|t| s.at(*t)).collect(),
        };
        (half.read, half.amount) = (at(&half.read), at(&half.amount));
    }
}

impl Half {
    /// Fall from the first tenth of the time to the last.
    fn fall_of(s: &Series) -> f64 {
        let (a, b) = (s.t[0], s.t[s.len() - 1]);
        let edge = 0.1 * (b - a);
        s.mean(a, a + edge).unwrap_or(0.0) - s.mean(b - edge, b).unwrap_or(0.0)
    }
    fn last(&self) -> f64 {
        self.read.v[self.read.len() - 1]
    }
    /// Pascal of this half for each mol/m³.
    fn pa_per_amount(&self) -> f64 {
        let at = |p: f64| {
            nitrogen::density(
                AbsolutePressure::from_pa(p),
                Temperature::from_k(self.kelvin),
            )
        };
        let p = self.read.v[0];
        2_000.0 / (at(p + 1_000.0) - at(p - 1_000.0))
    }
}

/// V_B/V_A from opening the valve at the end: (n_A − n_f)/(n_f − n_B) in amounts of gas, with its error.
fn ratio_from_opening(
    recording: &Recording,
    a: &Half,
    b: &Half,
    opened: f64,
) -> Option<(f64, f64)> {
    let after = |position| {
        gauge(recording, position)?
            .1
            .between(opened + 1e-6, f64::INFINITY)
            .v
            .last()
            .copied()
    };
    let (fa, fb) = (after(Position::HalfA)?, after(Position::HalfB)?);
    let digit = a.digit.max(b.digit);
    if (fa - fb).abs() > 3.0 * digit {
        return None;
    }
    let f = 0.5 * (fa + fb);
    let n = |p: f64| nitrogen::density(AbsolutePressure::from_pa(p), Temperature::from_k(a.kelvin));
    let (up, down) = (n(a.last()) - n(f), n(f) - n(b.last()));
    let ratio = up / down;
    // Three readings, each off by up to half a digit, and a kelvin nobody saw.
    let e = digit.hypot(f / ROOM * 0.3) * n(f) / f;
    let error = ratio * (e / up).hypot(e / down);
    (up.abs() > 3.0 * e && down.abs() > 3.0 * e && ratio.is_finite() && ratio > 0.0)
        .then_some((ratio, error))
}

fn undecided(
    reason: &'static str,
    headline: &str,
    summary: &str,
    next_step: &str,
) -> LeakByVerdict {
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
    let mut v = judge_halves(recording, u);
    let air = recording.atmosphere().0.pa();
    let now = |position| gauge(recording, position).and_then(|(_, s)| s.v.last().map(|p| p - air));
    watch_ceilings(
        &mut v,
        recording,
        (now(Position::HalfA), now(Position::HalfB)),
        u,
    );
    v
}

fn judge_halves(recording: &Recording, u: Units) -> LeakByVerdict {
    let opened = recording.last_event(EventKind::ValveMoved);
    let until = opened.unwrap_or(f64::INFINITY);
    let window = |position| {
        let p = gauge(recording, position)?
            .1
            .between(f64::NEG_INFINITY, until);
        Some((*p.t.first()?, *p.t.last()?))
    };
    // Only the time in which both halves were read: what one does while the other is not watched balances nothing. The
    // two are read one after the other, so a minute more belongs to it.
    let both = window(Position::HalfA)
        .zip(window(Position::HalfB))
        .map(|(a, b)| {
            (
                a.0.max(b.0) - TOGETHER,
                (a.1.min(b.1) + TOGETHER).min(until),
            )
        });
    let halves = both
        .and_then(|w| half(recording, Position::HalfA, w).zip(half(recording, Position::HalfB, w)));
    let Some((mut a, mut b)) = halves else {
        let text = "A leak-by test needs at least two pressures of each half, read together and marked half_a and half_b.";
        return undecided(
            "too_few_readings",
            "Both halves are needed",
            text,
            "Log both gauges together, twice.",
        );
    };
    together(&mut a, &mut b);
    let air = recording.atmosphere().0.pa();
    let (thin, _) = a.read.thinned(160);
    let trace: Vec<(f64, f64, f64)> = thin
        .t
        .iter()
        .zip(&thin.v)
        .map(|(&t, &v)| (t, v - air, b.read.at(t).unwrap_or(0.0) - air))
        .collect();
    let charged = recording.settings.behind == Some(Behind::FactoryCharge);
    let mut v = if charged {
        beside_a_charge(&a, &b, air, u)
    } else {
        balance(recording, &a, &b, opened, u)
    };
    v.trace = trace;
    v
}

/// Both gauges are read within this time of each other, s.
const TOGETHER: f64 = 60.0;

/// A half above what its parts may take comes before everything else that is said.
fn watch_ceilings(
    v: &mut LeakByVerdict,
    recording: &Recording,
    (a, b): (Option<f64>, Option<f64>),
    u: Units,
) {
    let s = &recording.settings;
    for (name, now, most) in [("Half A", a, s.ceiling_pa), ("Half B", b, s.ceiling_b_pa)] {
        if let Some((now, most)) = now
            .zip(most)
            .filter(|(now, most)| *now > most * (1.0 + 1e-9))
        {
            v.reasons.push("above_ceiling");
            v.evidence.insert(
                0,
                format!(
                    "{name} stands at {}, above the {} that its parts may take.",
                    u.gauge(now),
                    u.gauge(most)
                ),
            );
            v.next_step = format!(
                "Let {} down below {} now, slowly, outlet away from people.",
                name.to_lowercase(),
                u.gauge(most)
            );
        }
    }
}

/// Whether the valve may be opened into the other half, and if not, why not.
fn opening(
    recording: &Recording,
    a: &Half,
    b: &Half,
    ratio: (f64, f64),
    u: Units,
) -> Result<(), String> {
    let s = &recording.settings;
    let known =
        |x: Option<Behind>| matches!(x, Some(Behind::Nitrogen | Behind::Air | Behind::Vacuum));
    if s.gas != Gas::Nitrogen || s.tracer_pa.is_some() {
        return Err("Refrigerant is in half A: do not open the valve.".into());
    }
    if !known(s.behind) {
        return Err("What stands in half B is not known to be nitrogen, air or a vacuum: do not open the valve.".into());
    }
    // The pressure both come to, at its highest over what the volumes may be.
    let together = |k: f64| (a.last() + k * b.last()) / (1.0 + k) - recording.atmosphere().0.pa();
    let most = together(ratio.0).max(together(ratio.1));
    for (name, ceiling) in [("half A", s.ceiling_pa), ("half B", s.ceiling_b_pa)] {
        match ceiling {
            Some(c) if most > c => {
                return Err(format!(
                    "Opening the valve would bring both to {}, above the {} of {name}: do not open it.",
                    u.gauge(most),
                    u.gauge(c)
                ));
            }
            None if name == "half B" => {
                return Err(
                    "What half B may take is not known: read its plates before opening the valve."
                        .into(),
                );
            }
            _ => {}
        }
    }
    Ok(())
}

fn balance(
    recording: &Recording,
    a: &Half,
    b: &Half,
    opened: Option<f64>,
    u: Units,
) -> LeakByVerdict {
    let measured = opened.and_then(|t| ratio_from_opening(recording, a, b, t));
    let stated = recording.settings.volume_ratio;
    let (mid, ratio) = match (measured, stated) {
        (Some((k, e)), _) => (k, ((k - 1.96 * e).max(0.05 * k), k + 1.96 * e)),
        (None, Some(k)) => (k, (0.95 * k, 1.05 * k)),
        (None, None) => (1.0, RATIO),
    };
    // In amounts, referred to half A's pressure: the same gas is not the same pressure at 30 bar and at the air's.
    let scale = a.pa_per_amount();
    let (fall_a, rise_b) = (
        scale * Half::fall_of(&a.amount),
        -scale * Half::fall_of(&b.amount),
    );
    let (error_a, error_b) = (scale * a.error, scale * b.error);
    let span_of = |f: &dyn Fn(f64) -> f64, e: f64| Share {
        value: f(mid),
        low: f(ratio.0).min(f(ratio.1)) - 1.96 * e,
        high: f(ratio.0).max(f(ratio.1)) + 1.96 * e,
    };
    let outside = span_of(&|k| fall_a - k * rise_b, error_a.hypot(mid * error_b));
    let leak_by = span_of(&|k| k * rise_b, mid * error_b);
    let closes = (fall_a - rise_b).abs() <= 2.0 * error_a.hypot(error_b);
    // More arrived than left: no valve and no leak can do that.
    let gained = outside.high < 0.0;
    // Named only at 99 % (one-sided), like a hold's fall: the interval that is shown is that of 95 %.
    let surely = |s: Share, e: f64| s.low - (SURE - 1.96) * e > 0.0;
    let outcome = match (
        surely(outside, error_a.hypot(mid * error_b)),
        surely(leak_by, mid * error_b),
    ) {
        _ if gained => LeakByOutcome::Undecided,
        (true, true) => LeakByOutcome::Both,
        (true, false) => LeakByOutcome::Outside,
        (false, true) => LeakByOutcome::LeakBy,
        (false, false) => LeakByOutcome::Undecided,
    };
    let duration = a.read.t[a.read.len() - 1] - a.read.t[0];
    let moved = |x: f64, word: &str, other: &str| {
        if x >= 0.0 {
            format!("{word} {}", u.difference(x))
        } else {
            format!("{other} {}", u.difference(-x))
        }
    };
    let mut evidence = vec![format!(
        "As read, half A {} and half B {} in {}.",
        moved(Half::fall_of(&a.read), "fell", "rose"),
        moved(-Half::fall_of(&b.read), "rose", "fell"),
        span(duration)
    )];
    let sum = |x: f64| {
        if x < 0.0 {
            format!("the sum has grown by {}", u.difference(-x))
        } else {
            format!("{} is missing from the sum", u.difference(x))
        }
    };
    evidence.push(match (measured, stated) {
        (Some((k, e)), _) => format!(
            "Opening the valve gave a volume ratio B to A of {} ± {}: {}.",
            crate::quantity::significant(k, 2),
            crate::quantity::significant(1.96 * e, 1),
            sum(outside.value)
        ),
        (None, Some(k)) => format!("With a volume ratio B to A of {k}, {}.", sum(outside.value)),
        (None, None) if closes => {
            "The balance closes with equal volumes: nothing is missing from the sum.".into()
        }
        (None, None) => {
            format!(
                "With volumes between half and double, between {} and {} is missing from the sum.",
                u.difference(outside.low),
                u.difference(outside.high)
            )
        }
    });
    if fall_a > 0.0 {
        let per_kelvin = nitrogen::pressure_per_kelvin(
            AbsolutePressure::from_pa(a.read.v[0]),
            Temperature::from_k(a.kelvin),
        );
        evidence.push(format!(
            "Cooling alone would have to be {}.",
            u.interval(fall_a / per_kelvin)
        ));
    }
    let may_open = opening(recording, a, b, ratio, u);
    let measure = if measured.is_none() && may_open.is_ok() {
        "Open the valve slowly at the end, press “Valve opened” and log both gauges: that measures the volume ratio. Then "
    } else {
        ""
    };
    if measured.is_none()
        && let Err(why) = &may_open
    {
        evidence.push(why.clone());
    }
    let (headline, summary, next_step) = match outcome {
        LeakByOutcome::LeakBy => (
            "The valve lets by",
            "What one half lost the other gained: the valve between them leaks, and no leak outside is shown.",
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
        LeakByOutcome::Undecided if measured.is_none() && stated.is_none() && fall_a > 3.0 * error_a => (
            "Can’t tell yet",
            "Gas is missing from half A, but without the volume ratio it may be in half B or outside.",
            match &may_open {
                Ok(()) => "Open the valve slowly, press “Valve opened” and log both gauges: that measures the volume ratio.".to_owned(),
                Err(_) => "Find the volumes of both halves and state their ratio; the valve stays shut.".to_owned(),
            },
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
    chars
        .next()
        .map_or_else(String::new, |c| c.to_uppercase().chain(chars).collect())
}

/// B holds a charge: its pressure follows saturation, so only A's change and the direction of the push are known.
fn beside_a_charge(a: &Half, b: &Half, air: f64, u: Units) -> LeakByVerdict {
    let scale = a.pa_per_amount();
    let fall = scale * Half::fall_of(&a.amount);
    let e = 1.96 * scale * a.error;
    let pushed_in = b.last() > a.last();
    let share = Share {
        value: fall,
        low: fall - e,
        high: fall + e,
    };
    let mut v = undecided(
        "charge_behind",
        "Can’t tell yet",
        "The change is within what digits and temperature do.",
        "Wait longer, or put a probe on the half under test.",
    );
    v.evidence = vec![
        format!(
            "Behind the valve stands a charge at {}, against {} on this side.",
            u.gauge(b.last() - air),
            u.gauge(a.last() - air)
        ),
        format!(
            "This side {} {}.",
            if fall >= 0.0 { "fell" } else { "rose" },
            u.difference(fall.abs())
        ),
    ];
    if share.high < 0.0 && pushed_in {
        v.outcome = LeakByOutcome::LeakBy;
        v.headline = "The charge weeps in".into();
        v.summary = "This side gains, and the charge behind the valve stands higher: refrigerant is coming through.".into();
        v.next_step = "Do not open the valve. Recover what came in, check cap and stem, and blank the line off at the flare before testing again.".into();
        v.leak_by = Some(Share {
            value: -share.value,
            low: -share.high,
            high: -share.low,
        });
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
