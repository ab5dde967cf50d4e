//! One half of a leak-by test: its pressure, its amount of gas, and how far that is to be trusted.

use super::unread::unread;
use crate::hold::gather::DEFAULT_RANGE;
use crate::hold::untempered::believable;
use crate::matter::nitrogen;
use crate::quantity::{AbsolutePressure, Temperature};
use crate::reading::{Position, Quantity, Recording, Series};

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
/// One half over the time in which both were read: its amount of gas as a pressure, and how far that is to be trusted.
pub struct HalfGas {
    /// As read, Pa absolute.
    pub read: Series,
    /// Amount of gas, mol/m³ of this half, by the real density of nitrogen at its own temperature.
    pub amount: Series,
    /// Error of a change of amount, mol/m³ (standard deviation).
    pub error: f64,
    /// Smallest step, Pa.
    pub digit: f64,
    /// Temperature at the start, K.
    pub kelvin: f64,
}

/// The gauge of a half: its index and what it reads as absolute pressure.
pub fn gauge(recording: &Recording, position: Position) -> Option<(usize, Series)> {
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

pub fn half(recording: &Recording, position: Position, (from, to): (f64, f64)) -> Option<HalfGas> {
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
    Some(HalfGas {
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
pub fn together(a: &mut HalfGas, b: &mut HalfGas) {
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

impl HalfGas {
    /// Fall from the first tenth of the time to the last.
    pub fn fall_of(s: &Series) -> f64 {
        let (a, b) = (s.t[0], s.t[s.len() - 1]);
        let edge = 0.1 * (b - a);
        s.mean(a, a + edge).unwrap_or(0.0) - s.mean(b - edge, b).unwrap_or(0.0)
    }
    pub fn last(&self) -> f64 {
        self.read.v[self.read.len() - 1]
    }
    /// Pascal of this half for each mol/m³.
    pub fn pa_per_amount(&self) -> f64 {
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
pub fn ratio_from_opening(
    recording: &Recording,
    a: &HalfGas,
    b: &HalfGas,
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
