//! Two halves either side of a shut valve: one balance of two amounts.
//!
//! N_A ∝ P_A, N_B ∝ k P_B with k = V_B/V_A. Outside leak: the sum falls. Leak-by: A falls, B rises, the sum stays.

use crate::quantity::Units;
use crate::reading::{Position, Quantity, Recording};

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
}

/// Unknown temperature, K, as one standard deviation; with a probe a quarter of it. Common practice, no source.
const STRAY: f64 = 1.0;

/// Judges a leak-by test from the ends of the two traces.
#[must_use]
pub fn judge_leak_by(recording: &Recording, u: Units) -> LeakByVerdict {
    let ends = |position: Position| -> Option<(f64, f64, f64, f64)> {
        let i = (0..recording.channels.len()).find(|&i| recording.channels[i].is_system_pressure() && recording.channels[i].position == Some(position))?;
        let s = recording.series(i);
        let c = &recording.channels[i];
        let air = if c.quantity == Quantity::GaugePressure { recording.atmosphere().0.pa() } else { 0.0 };
        (s.len() >= 2).then(|| (s.v[0] + air, s.v[s.len() - 1] + air, c.resolution_si().unwrap_or(6_894.757), s.t[s.len() - 1] - s.t[0]))
    };
    let (Some(a), Some(b)) = (ends(Position::HalfA), ends(Position::HalfB)) else {
        return LeakByVerdict {
            outcome: LeakByOutcome::Undecided,
            outside: None,
            leak_by: None,
            ratio: (0.0, 0.0),
            reasons: vec!["too_few_readings"],
            headline: "Both halves are needed".into(),
            summary: "A leak-by test needs at least two pressures of each half, marked half_a and half_b.".into(),
            evidence: vec![],
            next_step: "Log both gauges together, twice.".into(),
        };
    };
    let known = recording.settings.volume_ratio;
    let ratio = known.map_or((0.5, 2.0), |k| (0.95 * k, 1.05 * k));
    let fall_a = a.0 - a.1;
    let rise_b = b.1 - b.0;
    let stray = if recording.channels_of(Quantity::Temperature).next().is_some() { 0.25 * STRAY } else { STRAY };
    let error = (a.2 * 0.41).hypot(a.0 / 293.0 * stray);
    let error_b = (b.2 * 0.41).hypot(b.0 / 293.0 * stray);
    let mid = known.unwrap_or(1.0);
    let span = |f: &dyn Fn(f64) -> f64, e: f64| Share { value: f(mid), low: f(ratio.0).min(f(ratio.1)) - 1.96 * e, high: f(ratio.0).max(f(ratio.1)) + 1.96 * e };
    let outside = span(&|k| fall_a - k * rise_b, error.hypot(mid * error_b));
    let leak_by = span(&|k| k * rise_b, mid * error_b);
    let closes = (fall_a - rise_b).abs() <= 2.0 * error.hypot(error_b);
    let outcome = match (outside.low > 0.0, leak_by.low > 0.0) {
        (true, true) => LeakByOutcome::Both,
        (true, false) => LeakByOutcome::Outside,
        (false, true) => LeakByOutcome::LeakBy,
        (false, false) => LeakByOutcome::Undecided,
    };
    let mut evidence = vec![format!("Half A fell {}, half B rose {} in {}.", u.difference(fall_a), u.difference(rise_b), crate::quantity::span(a.3))];
    evidence.push(match known {
        Some(k) => format!("With a volume ratio B to A of {k}, {} is missing from the sum.", u.difference(outside.value)),
        None if closes => "The balance closes with equal volumes: nothing is missing from the sum.".into(),
        None => format!("With volumes between half and double, between {} and {} is missing from the sum.", u.difference(outside.low), u.difference(outside.high)),
    });
    let cooling = fall_a / (a.0 / 293.0 * 1.07);
    if fall_a > 0.0 {
        evidence.push(format!("Cooling alone would have to be {}.", u.interval(cooling)));
    }
    let (headline, summary, next_step) = match outcome {
        LeakByOutcome::LeakBy => (
            "The valve lets by",
            "What one half lost the other gained: the valve between them leaks, the outside is not accused.",
            "Open the valve at the end to measure the volume ratio, then repair or replace the valve.",
        ),
        LeakByOutcome::Outside => ("A leak to the outside", "Gas is missing from both halves together.", "Search the half that fell."),
        LeakByOutcome::Both => (
            "A leak and a valve that lets by",
            "One half gains, but less than the other loses.",
            "Open the valve at the end to measure the volume ratio, then search the half that fell.",
        ),
        LeakByOutcome::Undecided => ("Can’t tell yet", "The changes are within what digits and temperature do.", "Wait longer, or take the temperature."),
    };
    LeakByVerdict {
        outcome,
        outside: Some(outside),
        leak_by: Some(leak_by),
        ratio,
        reasons: vec![if known.is_some() { "ratio_known" } else { "ratio_band" }],
        headline: headline.into(),
        summary: summary.into(),
        evidence,
        next_step: next_step.into(),
    }
}
