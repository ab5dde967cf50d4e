//! The balance of two amounts of gas.

use super::halves::{HalfGas, gauge, half, ratio_from_opening, together};
use super::{
    Balance, BesideCharge, Blocked, Half, LeakByCase, LeakByFinding, LeakByOutcome, OverCeiling,
    Share,
};
use crate::matter::nitrogen;
use crate::quantity::{AbsolutePressure, Temperature};
use crate::reading::Behind;
use crate::reading::{EventKind, Gas, Position, Recording};
use crate::reason::Reason;

/// Standard deviations of a one-sided 99 %, and a little more: the errors' tails are heavier than a normal's.
const SURE: f64 = 2.5;
/// Ratio assumed when nobody stated or measured one.
const RATIO: (f64, f64) = (0.5, 2.0);

/// Both gauges are read within this time of each other, s.
const TOGETHER: f64 = 60.0;

/// Judges a leak-by test. The valve may be opened at the end ("valve moved"), which measures the volume ratio.
#[must_use]
pub fn judge_leak_by(recording: &Recording) -> LeakByFinding {
    let mut v = judge_halves(recording);
    v.over = over_ceilings(recording);
    if !v.over.is_empty() {
        v.reasons.push(Reason::AboveCeiling);
    }
    v
}

fn undecided(reason: Reason, case: LeakByCase) -> LeakByFinding {
    LeakByFinding {
        outcome: LeakByOutcome::Undecided,
        reasons: vec![reason],
        case,
        outside: None,
        leak_by: None,
        ratio: (0.0, 0.0),
        over: vec![],
        trace: vec![],
    }
}

fn judge_halves(recording: &Recording) -> LeakByFinding {
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
        return undecided(Reason::TooFewReadings, LeakByCase::BothNeeded);
    };
    together(&mut a, &mut b);
    let air = recording.atmosphere().0.pa();
    let (thin, _) = a.read.thinned(160);
    let trace = thin
        .t
        .iter()
        .zip(&thin.v)
        .map(|(&t, &v)| (t, v - air, b.read.at(t).unwrap_or(0.0) - air))
        .collect();
    let v = if recording.settings.behind == Some(Behind::FactoryCharge) {
        beside_a_charge(&a, &b, air)
    } else {
        balance(recording, &a, &b, opened)
    };
    LeakByFinding { trace, ..v }
}

/// Halves above what their parts may take: that comes before everything else that is said.
fn over_ceilings(recording: &Recording) -> Vec<OverCeiling> {
    let air = recording.atmosphere().0.pa();
    let now = |position| gauge(recording, position).and_then(|(_, s)| s.v.last().map(|p| p - air));
    let s = &recording.settings;
    [
        (Half::A, now(Position::HalfA), s.ceiling_pa),
        (Half::B, now(Position::HalfB), s.ceiling_b_pa),
    ]
    .into_iter()
    .filter_map(|(half, now, most)| {
        let (now, most) = now.zip(most)?;
        (now > most * (1.0 + 1e-9)).then_some(OverCeiling { half, now, most })
    })
    .collect()
}

/// Why the valve may not be opened into the other half; `None`: it may.
fn blocked(recording: &Recording, a: &HalfGas, b: &HalfGas, ratio: (f64, f64)) -> Option<Blocked> {
    let s = &recording.settings;
    if s.gas != Gas::Nitrogen || s.tracer_pa.is_some() {
        return Some(Blocked::Refrigerant);
    }
    if !matches!(
        s.behind,
        Some(Behind::Nitrogen | Behind::Air | Behind::Vacuum)
    ) {
        return Some(Blocked::UnknownBehind);
    }
    // The pressure both come to, at its highest over what the volumes may be.
    let at = |k: f64| (a.last() + k * b.last()) / (1.0 + k) - recording.atmosphere().0.pa();
    let to = at(ratio.0).max(at(ratio.1));
    let too_high = |half, ceiling: Option<f64>| {
        ceiling
            .filter(|most| to > *most)
            .map(|most| Blocked::TooHigh { to, most, half })
    };
    too_high(Half::A, s.ceiling_pa)
        .or_else(|| too_high(Half::B, s.ceiling_b_pa))
        .or_else(|| s.ceiling_b_pa.is_none().then_some(Blocked::UnknownCeiling))
}

/// Volume ratio: middle, and the band it may lie in.
fn ratio_of(measured: Option<(f64, f64)>, stated: Option<f64>) -> (f64, (f64, f64)) {
    match (measured, stated) {
        (Some((k, e)), _) => (k, ((k - 1.96 * e).max(0.05 * k), k + 1.96 * e)),
        (None, Some(k)) => (k, (0.95 * k, 1.05 * k)),
        (None, None) => (1.0, RATIO),
    }
}

fn balance(recording: &Recording, a: &HalfGas, b: &HalfGas, opened: Option<f64>) -> LeakByFinding {
    let measured = opened.and_then(|t| ratio_from_opening(recording, a, b, t));
    let stated = recording.settings.volume_ratio;
    let (mid, ratio) = ratio_of(measured, stated);
    // In amounts, referred to half A's pressure: the same gas is not the same pressure at 30 bar and at the air's.
    let scale = a.pa_per_amount();
    let (fall_a, rise_b) = (
        scale * HalfGas::fall_of(&a.amount),
        -scale * HalfGas::fall_of(&b.amount),
    );
    let (error_a, error_b) = (scale * a.error, scale * b.error);
    let band = |f: &dyn Fn(f64) -> f64, e: f64| Share {
        value: f(mid),
        low: f(ratio.0).min(f(ratio.1)) - 1.96 * e,
        high: f(ratio.0).max(f(ratio.1)) + 1.96 * e,
    };
    let errors = (error_a.hypot(mid * error_b), mid * error_b);
    let outside = band(&|k| fall_a - k * rise_b, errors.0);
    let leak_by = band(&|k| k * rise_b, errors.1);
    let per_kelvin = nitrogen::pressure_per_kelvin(
        AbsolutePressure::from_pa(a.read.v[0]),
        Temperature::from_k(a.kelvin),
    );
    let case = LeakByCase::Balance(Balance {
        fell_a: HalfGas::fall_of(&a.read),
        rose_b: -HalfGas::fall_of(&b.read),
        duration: a.read.t[a.read.len() - 1] - a.read.t[0],
        measured,
        stated,
        closes: (fall_a - rise_b).abs() <= 2.0 * error_a.hypot(error_b),
        cooling_k: (fall_a > 0.0).then_some(fall_a / per_kelvin),
        is_missing: fall_a > 3.0 * error_a,
        blocked: blocked(recording, a, b, ratio),
    });
    let (outcome, reason) = weigh((outside, leak_by), errors, measured, stated);
    LeakByFinding {
        outcome,
        outside: Some(outside),
        leak_by: Some(leak_by),
        ratio,
        ..undecided(reason, case)
    }
}

fn weigh(
    (outside, leak_by): (Share, Share),
    errors: (f64, f64),
    measured: Option<(f64, f64)>,
    stated: Option<f64>,
) -> (LeakByOutcome, Reason) {
    // More arrived than left: no valve and no leak can do that.
    if outside.high < 0.0 {
        return (LeakByOutcome::Undecided, Reason::Gained);
    }
    // Named only at 99 % (one-sided), like a hold's fall: the interval that is shown is that of 95 %.
    let surely = |s: Share, e: f64| s.low - (SURE - 1.96) * e > 0.0;
    let outcome = match (surely(outside, errors.0), surely(leak_by, errors.1)) {
        (true, true) => LeakByOutcome::Both,
        (true, false) => LeakByOutcome::Outside,
        (false, true) => LeakByOutcome::LeakBy,
        (false, false) => LeakByOutcome::Undecided,
    };
    let reason = match (measured, stated) {
        (Some(_), _) => Reason::RatioMeasured,
        (None, Some(_)) => Reason::RatioKnown,
        (None, None) => Reason::RatioBand,
    };
    (outcome, reason)
}

/// B holds a charge: its pressure follows saturation, so only A's change and the direction of the push are known.
fn beside_a_charge(a: &HalfGas, b: &HalfGas, air: f64) -> LeakByFinding {
    let scale = a.pa_per_amount();
    let fell = scale * HalfGas::fall_of(&a.amount);
    let e = 1.96 * scale * a.error;
    let pushed_in = b.last() > a.last();
    let (low, high) = (fell - e, fell + e);
    let case = LeakByCase::BesideCharge(BesideCharge {
        charge: b.last() - air,
        here: a.last() - air,
        fell,
    });
    let mut v = undecided(Reason::ChargeBehind, case);
    if high < 0.0 && pushed_in {
        v.outcome = LeakByOutcome::LeakBy;
        v.leak_by = Some(Share {
            value: -fell,
            low: -high,
            high: -low,
        });
    } else if low > 0.0 {
        // Where it stands higher than the charge, the gas may have gone through the valve as well.
        if pushed_in {
            v.outcome = LeakByOutcome::Outside;
        }
        v.outside = Some(Share {
            value: fell,
            low,
            high,
        });
    }
    v
}
