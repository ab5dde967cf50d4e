//! The verdict on a hold (docs/method.md, "The verdict").

use super::amount::traces;
use super::draw::{draw, draw_raw};
use super::figures::{finish, settling};
use super::finding::{Doubt, Foretold, HoldCase, HoldFinding, HoldOutcome, Loss};
use super::fitted::{Fitted, correction, fitted, priors, slope_difference, summarise};
use super::foretell::foretell;
use super::gather::{HeldGas, gather};
use super::inside::moves_like_refrigerant;
use super::model::{KnownPlant, bound};
use super::untempered::{Untempered, believable, look};
use crate::reading::{EventKind, Gas, HoldLimit, Recording};
use crate::reason::Reason;
use crate::stat::rounding;
use std::ops::ControlFlow::{self, Break, Continue};

/// Share of absolute pressure a hold may lose over its planned time when nobody gave a limit (common practice).
pub const DEFAULT_SHARE: f64 = 0.003;
/// Below this share of the planned pressure it is not the test that was planned (common practice).
const BELOW: f64 = 0.95;
/// Filling warms gas by some fifteen kelvin at most: a larger change before the settled start is something else (CP).
const UNSETTLING: f64 = 0.06;
/// Less than this above the air, Pa, and nothing is held that could be lost (CP).
const LEAST: f64 = 3e4;
/// Nothing holds before so long after the shut supply, s, with a hair for a reading just before; nor before half the
/// planned time (CP).
const SOONEST: f64 = 595.0;
/// Nothing holds by an interval whose half width is more than so many limits: its upper end lies within the limit then
/// only because its middle says that gas was gained. While it is looked at again and again, before its time is up: of
/// one.
const WIDEST: (f64, f64) = (1.0, 1.5);
/// A difference over the record errs by so many times the rounding that lasts (least squares under noise of half the
/// record's correlation time).
const DIFFERENCE: f64 = 1.4;
/// Within so long of the shut supply, s, a fall may be the heat of filling (CP).
const FRESH: f64 = 300.0;

/// Judges a hold. Anything that cannot be judged is an outcome with its reason.
#[must_use]
pub fn judge_hold(recording: &Recording) -> HoldFinding {
    let blank = HoldFinding::blank(recording);
    let Some(gas) = gather(recording).filter(|g| !g.pressure.is_empty()) else {
        let is_read = recording
            .readings
            .iter()
            .any(|r| recording.channels[r.channel].is_system_pressure());
        return blank.because(Reason::TooFewReadings).is(if is_read {
            HoldCase::NotTogether
        } else {
            HoldCase::NothingRead
        });
    };
    let mut v = blank;
    v.doubts.clone_from(&gas.doubts);
    if v.doubts.iter().any(|d| matches!(d, Doubt::Slip { .. })) {
        v.reasons.push(Reason::ReadingInDoubt);
    }
    v.limit = recording.settings.hold_limit.unwrap_or(HoldLimit {
        drop_pa: DEFAULT_SHARE * gas.pressure.v[0],
        over_s: recording
            .settings
            .planned_s
            .unwrap_or(gas.pressure.span())
            .max(60.0),
    });
    match no_test(v, recording, &gas) {
        Break(mut decided) => {
            decided.trace = draw_raw(&gas);
            decided
        }
        Continue(v) => decide(v, recording, &gas),
    }
}

/// What needs no fit: no test of tightness, everything lost, no thermometer, too little read. Otherwise the trace
/// has to be fitted, and `Continue` hands the finding back.
fn no_test(
    v: HoldFinding,
    recording: &Recording,
    gas: &HeldGas,
) -> ControlFlow<HoldFinding, HoldFinding> {
    let settings = &recording.settings;
    if settings.gas == Gas::NitrogenWithRefrigerant {
        return Break(
            v.no_test()
                .because(Reason::RefrigerantInside)
                .is(HoldCase::RefrigerantInside),
        );
    }
    if let Some((tracer, half)) = heavy_tracer(recording, gas) {
        return Break(
            v.no_test()
                .because(Reason::TracerTooHeavy)
                .is(HoldCase::TracerTooHeavy { tracer, half }),
        );
    }
    if settings.awaits_isolation && recording.last_event(EventKind::SupplyIsolated).is_none() {
        return Break(
            v.because(Reason::SupplyNotIsolated)
                .is(HoldCase::SupplyNotIsolated),
        );
    }
    let floor = recording.atmosphere().0.pa() + LEAST;
    if gas.pressure.v[0] < floor {
        return Break(
            v.no_test()
                .because(Reason::NoTestPressure)
                .is(HoldCase::NoTestPressure { least: LEAST }),
        );
    }
    if let Some(i) = gas.pressure.v.iter().position(|p| *p < floor) {
        let took = gas.pressure.t[i] - gas.pressure.t[0];
        return Break(lost_everything(v, recording, gas, took));
    }
    if gas.pressure.len() < 2 || gas.pressure.span() <= 0.0 {
        return Break(v.because(Reason::TooFewReadings).is(HoldCase::OneReading));
    }
    // A gauge that stopped and has not moved since shows nothing of a loss.
    let end = gas.pressure.t[gas.pressure.len() - 1];
    let stopped = gas.doubts.iter().find_map(|d| match d {
        Doubt::Stuck { channel, from, to } if *to >= end => Some((channel.clone(), *from, *to)),
        _ => None,
    });
    if let Some((gauge, from, to)) = stopped {
        return Break(
            v.because(Reason::GaugeStuck)
                .is(HoldCase::GaugeStopped { gauge, from, to }),
        );
    }
    if gas.probes.is_empty() {
        return Break(without_temperature(v, gas));
    }
    Continue(v)
}

/// From a test pressure to nothing: no cooling does that, so it needs no thermometer and no fit.
fn lost_everything(
    mut v: HoldFinding,
    recording: &Recording,
    gas: &HeldGas,
    took: f64,
) -> HoldFinding {
    if recording.beyond_range().is_some() {
        v.reasons.push(Reason::BeyondRange);
    }
    v.settled_at_s = Some(gas.pressure.t[0]);
    let from = gas.pressure.v[0] - recording.atmosphere().0.pa();
    v.falls()
        .because(Reason::LostEverything)
        .is(HoldCase::LostEverything { from, took })
}

/// Whether a fall is more than what is allowed, the gauge's blur and the largest believable cooling together.
fn beyond_cooling(u: &Untempered, allowed: f64) -> bool {
    u.duration >= 60.0 && (u.fall - allowed - u.blur) / u.per_kelvin > believable(u.duration)
}

/// The bound of [`KnownPlant`] noise and lag on this recording's loss, Pa/s: what no judge of this model can beat.
#[must_use]
pub fn loss_bound(recording: &Recording, known: &KnownPlant) -> Option<f64> {
    let gas = gather(recording).filter(|g| g.pressure.len() >= 2)?;
    let limit = HoldLimit {
        drop_pa: DEFAULT_SHARE * gas.pressure.v[0],
        over_s: recording.settings.planned_s.unwrap_or(3_600.0),
    };
    bound(&traces(&gas)?, &priors(&gas, limit), known)
}

/// A tracer above half its saturation at the coldest probe behaves as a vapour, not as a gas: its partial pressure and
/// that half, Pa. Without a probe 0 °C is taken.
fn heavy_tracer(recording: &Recording, gas: &HeldGas) -> Option<(f64, f64)> {
    let s = &recording.settings;
    let tracer = s.tracer_pa?;
    let r = s
        .refrigerant
        .as_deref()
        .and_then(crate::matter::refrigerant::find)?;
    let coldest = gas
        .probes
        .iter()
        .flat_map(|t| t.readings.v.iter().copied())
        .reduce(f64::min)
        .unwrap_or(273.15);
    let half = 0.5 * r.dew(coldest);
    (tracer > half).then_some((tracer, half))
}

fn without_temperature(mut v: HoldFinding, gas: &HeldGas) -> HoldFinding {
    let Some(u) = look(&gas.pressure, gas.digit) else {
        return v.because(Reason::TooFewReadings).is(HoldCase::OneReading);
    };
    let allowed = v.limit.rate() * u.duration;
    v.reasons.push(Reason::NoTemperature);
    // Pressure changes that the largest believable cooling cannot explain need no thermometer.
    if beyond_cooling(&u, allowed) {
        v.settled_at_s = Some(gas.pressure.t[0]);
        return v
            .falls()
            .because(Reason::BeyondAnyCooling)
            .is(HoldCase::FallsUntempered(u));
    }
    let fresh_fill = gas.pressure.t[0] - gas.start < FRESH && gas.pressure.span() < FRESH;
    if fresh_fill && u.fall > u.blur {
        return v
            .because(Reason::StillSettling)
            .is(HoldCase::SettlingUntempered(u));
    }
    v.is(HoldCase::Untempered {
        seen: u,
        allowed,
        digit: gas.digit,
        is_read: !gas.unused.is_empty(),
    })
}

fn decide(mut v: HoldFinding, recording: &Recording, gas: &HeldGas) -> HoldFinding {
    let Some(f) = fitted(&v, recording, gas) else {
        v.trace = draw_raw(gas);
        return v.because(Reason::FitFailed).is(HoldCase::FitFailed);
    };
    if let Some(times) = f
        .settling
        .at
        .and_then(|_| moves_like_refrigerant(gas, f.from))
    {
        v.trace = draw_raw(gas);
        return v
            .no_test()
            .because(Reason::RefrigerantInside)
            .is(HoldCase::MovesLikeRefrigerant { times });
    }
    v.settled_at_s = f.settling.at;
    v.trace = draw(&f.traces, gas, f.from, f.fit.gain.1);
    let loss = summarise(&f.fit, driven_share(gas, recording, f.from));
    let is_settling = f.settling.at.is_none();
    v.ready_in = f.settling.ready_in.filter(|_| is_settling);
    // A leak too large for any settling shows through it.
    if is_settling && f.last - gas.pressure.t[0] < FRESH {
        return v.because(Reason::StillSettling).is(settling(&f));
    }
    let before = moved_before(&v, f.from);
    if before > UNSETTLING * gas.pressure.v[0] && !goes_on_falling(&v, loss, &f) {
        return v
            .because(Reason::SettlingNotExplained)
            .is(HoldCase::SettlingNotExplained { change: before });
    }
    v.ideal_loss = Some(loss.value + slope_difference(&f.traces, f.from));
    v.loss = Some(loss);
    v.loss_detected = loss.low > 0.0;
    v.correction = correction(&f.fit, &f.priors);
    match weigh(v, loss, &f) {
        Continue(mut v)
            if v.outcome == HoldOutcome::Undecided && !v.reasons.contains(&Reason::Gained) =>
        {
            v.foretold = foretold(&v, &f);
            if is_settling {
                v.reasons.clear();
                return v.because(Reason::StillSettling).is(settling(&f));
            }
            finish(v, &f)
        }
        Continue(v) => finish(v, &f),
        Break(v) => v,
    }
}

/// A fall too large for any settling that still goes on in the second half of the record: that is a leak, and no gas
/// that somebody let out once.
fn goes_on_falling(v: &HoldFinding, loss: Loss, f: &Fitted<'_>) -> bool {
    let limit = v.limit.rate();
    if loss.surely <= limit {
        return false;
    }
    let middle = 0.5 * (f.gas.pressure.t[0] + f.last);
    let mut later = f.recording.clone();
    later.readings.retain(|r| r.at_s >= middle);
    let Some(gas) = gather(&later).filter(|g| g.pressure.len() >= 2) else {
        return false;
    };
    fitted(v, &later, &gas).is_some_and(|f| {
        let share = driven_share(&gas, &later, f.from);
        summarise(&f.fit, share).surely > limit
    })
}

/// The outcome by the loss. `Break`: there is no verdict, and it is said why.
fn weigh(mut v: HoldFinding, loss: Loss, f: &Fitted<'_>) -> ControlFlow<HoldFinding, HoldFinding> {
    let (recording, gas) = (f.recording, f.gas);
    let (limit, half) = (v.limit.rate(), 0.5 * (loss.high - loss.low));
    // Looked at again and again before its time is up, a hold must convince more than once it is over.
    let is_early = f.last < gas.start + recording.settings.planned_s.unwrap_or(0.0);
    let (most, widest) = if is_early {
        (loss.at_most, WIDEST.0)
    } else {
        (loss.high, WIDEST.1)
    };
    let held = gas.pressure.at(f.from).unwrap_or(0.0) - recording.atmosphere().0.pa();
    let planned = recording.settings.test_pa.filter(|t| held < BELOW * t);
    if let Some(channel) = recording.beyond_range() {
        let gauge = recording.channels[channel].name.clone();
        return Break(
            v.because(Reason::BeyondRange)
                .is(HoldCase::BeyondRange { gauge }),
        );
    }
    if loss.surely > limit {
        v.outcome = HoldOutcome::Falls;
    } else if let Some(planned) = planned {
        return Break(
            v.no_test()
                .because(Reason::BelowTestPressure)
                .is(HoldCase::BelowTestPressure { held, planned }),
        );
    } else if loss.at_most < 0.0 && -loss.value * (f.last - f.from) > gas.digit {
        v.reasons.push(Reason::Gained);
    } else if most <= limit && half <= widest * limit && f.last - gas.start < soonest(recording) {
        v.reasons.push(Reason::TooSoon);
    } else if most <= limit && half <= widest * limit {
        v.outcome = HoldOutcome::Holds;
        v.reasons.push(if v.loss_detected {
            Reason::LossWithinLimit
        } else {
            Reason::WithinLimit
        });
    } else {
        v.reasons.push(if v.loss_detected {
            Reason::LossNotBounded
        } else {
            Reason::TooWide
        });
    }
    Continue(v)
}

/// When the loss will be told from the limit.
fn foretold(v: &HoldFinding, f: &Fitted<'_>) -> Option<Foretold> {
    let gas = f.gas;
    let soonest = gas.start + soonest(f.recording);
    let hidden = DIFFERENCE * rounding::lasting(gas.noise, gas.digit).sqrt();
    let limit = v.limit.rate() / driven_share(gas, f.recording, f.from);
    let over = gas.start + f.recording.settings.planned_s.unwrap_or(0.0);
    foretell(
        &f.traces,
        &f.priors,
        &f.fit.loss,
        (limit, hidden),
        (soonest, over),
    )
}

/// A hold says nothing final so long after the shut supply, s: its first ten minutes, or half of its planned time.
fn soonest(recording: &Recording) -> f64 {
    SOONEST.max(0.5 * recording.settings.planned_s.unwrap_or(0.0))
}

/// The loss follows P² − P_a²: its share at the settled start of what it was at the first reading.
fn driven_share(gas: &HeldGas, recording: &Recording, from: f64) -> f64 {
    let air = recording.atmosphere().0.pa();
    let drive = |t: f64| gas.pressure.at(t).unwrap_or(0.0).powi(2) - air * air;
    let share = drive(from) / drive(gas.pressure.t[0]);
    if share.is_finite() && share > 0.0 {
        share
    } else {
        1.0
    }
}

/// How far the corrected pressure strayed before the settled start, Pa.
fn moved_before(v: &HoldFinding, from: f64) -> f64 {
    v.trace
        .iter()
        .filter(|p| p.at_s < from)
        .filter_map(|p| p.corrected)
        .fold(0f64, |m, x| m.max(x.abs()))
}
