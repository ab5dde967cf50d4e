//! What a circuit needs of a recording besides its finding: pressures, times, the trace in miniature. It is frozen with
//! the finding, so that an ended test is shown, gated and signed without its readings.

use ruhe_core::hold::HoldOutcome;
use ruhe_core::judge::Finding;
use ruhe_core::quantity::MICRON;
use ruhe_core::reading::{EventKind, Kind, Position, Quantity, Recording};
use ruhe_core::vacuum::{coldest, system_litres};
use serde::{Deserialize, Serialize};

/// Points of a trace in miniature, at most.
const POINTS: usize = 80;

/// A trace in miniature.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct RunTrace {
    /// Absolute pressure below the air's; else gauge pressure.
    pub is_vacuum: bool,
    /// s since the recording's start, Pa.
    pub points: Vec<(f64, f64)>,
}

/// What a circuit needs of a recording.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Outline {
    /// Zero of the finding's seconds, ms since 1970 UTC.
    pub start_ms: i64,
    /// Readings that count.
    pub count: u64,
    /// Last reading, s since the start.
    pub last_s: Option<f64>,
    /// Pressure a hold stood at, Pa gauge.
    pub held_pa: f64,
    /// What its gauges showed last, the higher of them, Pa gauge.
    pub last_pa: Option<f64>,
    /// What each of them showed last.
    pub sides: Vec<SideEnd>,
    /// The air's pressure, Pa.
    pub air_pa: f64,
    /// Coldest temperature read, K.
    pub coldest_k: Option<f64>,
    /// Step of the vacuum gauge, Pa.
    pub digit_pa: f64,
    /// A vacuum gauge sits near the pump.
    pub near_pump: bool,
    /// Volume under test, L, where it was stated or else usual.
    pub litres: f64,
    /// Some of its readings came from a simulated gauge.
    pub is_simulated: bool,
    /// Readings at the pressure of the hold that came before its supply was said to be shut: since when, s, and how
    /// many.
    pub stood_before: Option<(f64, u64)>,
    /// The trace of the first gauge.
    pub run: Option<RunTrace>,
}

/// What a gauge of the system showed last.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct SideEnd {
    /// Where it sat.
    pub position: Option<Position>,
    /// It reads absolute pressure: a vacuum gauge.
    pub is_absolute: bool,
    /// s since the recording's start.
    pub at_s: f64,
    /// Pa gauge.
    pub pa: f64,
    /// The highest it showed, Pa gauge.
    pub most_pa: f64,
}

impl Outline {
    /// Time of the last reading, ms since 1970 UTC.
    #[must_use]
    pub fn last_ms(&self) -> Option<i64> {
        self.last_s.map(|s| self.at_ms(s))
    }
    /// A moment of the finding, ms since 1970 UTC.
    #[must_use]
    pub fn at_ms(&self, seconds: f64) -> i64 {
        self.start_ms + (seconds * 1e3) as i64
    }
}

/// Takes the outline of a recording and its finding.
#[must_use]
pub fn outline(r: &Recording, finding: &Finding, is_simulated: bool) -> Outline {
    let vacuum_gauge = || {
        r.channels
            .iter()
            .filter(|c| c.quantity == Quantity::AbsolutePressure)
    };
    Outline {
        start_ms: r.start_ms.unwrap_or_default(),
        count: r.readings.len() as u64,
        last_s: r.readings.last().map(|x| x.at_s),
        held_pa: held_pa(r, finding),
        last_pa: r
            .system_gauges()
            .filter_map(|i| r.above_air(i).v.last().copied())
            .reduce(f64::max),
        sides: r.system_gauges().filter_map(|i| side_end(r, i)).collect(),
        air_pa: r.atmosphere().0.pa(),
        coldest_k: coldest(r),
        digit_pa: vacuum_gauge()
            .next()
            .and_then(|c| c.resolution_si())
            .unwrap_or(MICRON),
        near_pump: vacuum_gauge().any(|c| c.position == Some(Position::NearPump)),
        litres: system_litres(r),
        is_simulated: is_simulated || r.settings.is_simulated,
        stood_before: stood_before(r),
        run: run_trace(r),
    }
}

/// Readings that agree so closely may be of one hold, a share of the absolute pressure.
const SAME: f64 = 0.01;

/// Readings of the first gauge just before the supply was said to be shut that stand where it stood then: pressing up
/// is far from there. Whether it was shut already, only a person can say.
fn stood_before(r: &Recording) -> Option<(f64, u64)> {
    if r.settings.kind != Kind::PressureHold {
        return None;
    }
    r.last_event(EventKind::SupplyIsolated)?;
    let shut = r.supply_shut();
    let topped = r
        .last_event(EventKind::ToppedUp)
        .unwrap_or(f64::NEG_INFINITY);
    let s = r.above_air(r.system_gauges().next()?);
    let air = r.atmosphere().0.pa();
    let (before, since) = (s.between(topped, shut), s.between(shut, f64::INFINITY));
    let stands = since.v.first().or(before.v.last())? + air;
    let alike = before
        .t
        .iter()
        .zip(&before.v)
        .rev()
        .filter(|(t, _)| **t < shut)
        .take_while(|(_, v)| (*v + air - stands).abs() <= SAME * stands);
    let times: Vec<f64> = alike.map(|(t, _)| *t).collect();
    (times.len() > 1).then(|| (times[times.len() - 1], times.len() as u64))
}

fn side_end(r: &Recording, i: usize) -> Option<SideEnd> {
    let s = r.above_air(i);
    Some(SideEnd {
        position: r.channels[i].position,
        is_absolute: r.channels[i].quantity == Quantity::AbsolutePressure,
        at_s: *s.t.last()?,
        pa: *s.v.last()?,
        most_pa: s.v.iter().copied().fold(f64::NEG_INFINITY, f64::max),
    })
}

/// Pressure a hold stood at, Pa gauge, once its supply was shut (not what pressing up overshot to): one that fell, the
/// highest it fell from; any other, where it stood when it began to count.
fn held_pa(r: &Recording, finding: &Finding) -> f64 {
    let Some(gauge) = r.system_gauges().next() else {
        return 0.0;
    };
    let shut = r
        .last_event(EventKind::SupplyIsolated)
        .unwrap_or(f64::NEG_INFINITY);
    let s = r.above_air(gauge);
    let since = s.between(shut, f64::INFINITY);
    let hold = match finding {
        Finding::PressureHold(v) => Some(v),
        _ => None,
    };
    if hold.is_some_and(|v| v.outcome == HoldOutcome::Falls) {
        return since.v.into_iter().fold(0.0, f64::max);
    }
    hold.and_then(|v| v.settled_at_s)
        .filter(|t| *t >= shut)
        .and_then(|t| s.at(t))
        .or_else(|| since.v.first().copied())
        .unwrap_or(0.0)
}

fn run_trace(r: &Recording) -> Option<RunTrace> {
    let channel = r.channels.iter().position(|c| c.is_system_pressure())?;
    let (s, _) = r.series(channel).thinned(POINTS);
    let air = r.atmosphere().0.pa();
    let is_absolute = r.channels[channel].quantity == Quantity::AbsolutePressure;
    let is_vacuum = is_absolute && s.v.first().is_some_and(|&v| v < air);
    let shift = if is_absolute && !is_vacuum { air } else { 0.0 };
    s.t.first()?;
    Some(RunTrace {
        is_vacuum,
        points: s
            .t
            .iter()
            .zip(&s.v)
            .map(|(&t, &v)| (t, v - shift))
            .collect(),
    })
}
