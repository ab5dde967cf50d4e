//! The verdict on a hold (docs/method.md, "The verdict").

use super::again::as_warm_again;
use super::amount::{Traces, traces};
use super::draw::{draw, draw_raw};
use super::finding::{
    ChargeBehind, Correction, HoldCase, HoldFinding, HoldOutcome, Judged, Loss, Moved, TracePoint,
    Unread,
};
use super::gather::{HeldGas, gather};
use super::model::{Fit, KnownPlant, Priors, bound, fit};
use super::proves::{Proof, proof};
use super::settle::{Settling, believed, settle};
use super::untempered::{Untempered, believable, look};
use crate::matter::nitrogen::pressure_per_kelvin;
use crate::matter::refrigerant::find;
use crate::quantity::{AbsolutePressure, Temperature};
use crate::reading::Behind;
use crate::reading::{EventKind, Gas, HoldLimit, Recording, Series};
use crate::reason::Reason;
use std::ops::ControlFlow::{self, Break, Continue};

/// Share of absolute pressure a hold may lose over its planned time when nobody gave a limit (common practice).
const DEFAULT_SHARE: f64 = 0.003;
/// Below this share of the planned pressure it is not the test that was planned (common practice).
const BELOW: f64 = 0.95;
/// Filling warms gas by some fifteen kelvin at most: a larger change before the settled start is something else (CP).
const UNSETTLING: f64 = 0.06;
/// Less than this above the air, Pa, and nothing is held that could be lost (CP).
const LEAST: f64 = 3e4;
/// Nothing holds before so long after the shut supply, s, with a hair for a reading just before; nor before half the
/// planned time (CP).
const SOONEST: f64 = 595.0;
/// What the sun on a gauge may be worth, share of its range: fifteen times its usual warming (CP).
const GAUGE_IN_SUN: f64 = 2e-4 * 15.0;
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
    v.limit = recording.settings.hold_limit.unwrap_or(HoldLimit {
        drop_pa: DEFAULT_SHARE * gas.pressure.v[0],
        over_s: recording
            .settings
            .planned_s
            .unwrap_or(span_of(&gas.pressure))
            .max(60.0),
    });
    match no_test(v, recording, &gas) {
        Break(mut decided) => {
            decided.trace = draw_raw(&gas);
            decided
        }
        Continue(v) => {
            let decided = decide(v, recording, &gas);
            unread_rest(decided, recording, &gas)
        }
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
    if gas.whole.v[0] < floor {
        return Break(
            v.no_test()
                .because(Reason::NoTestPressure)
                .is(HoldCase::NoTestPressure { least: LEAST }),
        );
    }
    if let Some(i) = gas.whole.v.iter().position(|p| *p < floor) {
        let took = gas.whole.t[i] - gas.whole.t[0];
        return Break(lost_everything(v, recording, gas, took));
    }
    if gas.pressure.len() < 2 || span_of(&gas.pressure) <= 0.0 {
        return Break(v.because(Reason::TooFewReadings).is(HoldCase::OneReading));
    }
    if gas.probes.is_empty() {
        return Break(without_temperature(v, gas));
    }
    if gas.pressure.len() < 3 {
        return Break(v.because(Reason::TooFewReadings).is(HoldCase::OneReading));
    }
    Continue(v)
}

fn span_of(s: &Series) -> f64 {
    s.t.last().zip(s.t.first()).map_or(0.0, |(b, a)| b - a)
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
    v.settled_at_s = Some(gas.whole.t[0]);
    let from = gas.whole.v[0] - recording.atmosphere().0.pa();
    v.falls()
        .because(Reason::LostEverything)
        .is(HoldCase::LostEverything { from, took })
}

/// Where a probe or a second gauge stopped, the rest of the pressure was judged by nobody: it may still show a fall that
/// needs no thermometer, and it may take a pass away.
fn unread_rest(mut v: HoldFinding, recording: &Recording, gas: &HeldGas) -> HoldFinding {
    let rest = gas
        .whole
        .between(*gas.pressure.t.last().unwrap_or(&0.0), f64::INFINITY);
    let Some(channel) = gas
        .cut_by
        .filter(|_| v.outcome != HoldOutcome::Falls && gas.pressure.len() < gas.whole.len())
    else {
        return v;
    };
    if let Some(u) =
        look(&gas.whole, gas.digit).filter(|u| beyond_cooling(u, v.limit.rate() * u.duration))
    {
        return v
            .falls()
            .because(Reason::BeyondAnyCooling)
            .is(HoldCase::FallsUntempered(u));
    }
    let fell = rest
        .v
        .first()
        .zip(rest.v.last())
        .map_or(0.0, |(a, b)| a - b);
    if v.outcome == HoldOutcome::Holds && fell > v.limit.rate() * span_of(&rest) + gas.digit {
        v.outcome = HoldOutcome::Undecided;
        return v.because(Reason::FellUnread).is(HoldCase::FellUnread {
            channel: recording.channels[channel].name.clone(),
            fell,
            over: span_of(&rest),
        });
    }
    v
}

/// Whether a fall is more than what is allowed, the gauge's blur and the largest believable cooling together.
fn beyond_cooling(u: &Untempered, allowed: f64) -> bool {
    u.duration >= 60.0 && (u.fall - allowed - u.blur) / u.per_kelvin > believable(u.duration)
}

/// The bound of [`KnownPlant`] noise and lag on this recording's loss, Pa/s: what no judge of this model can beat.
#[must_use]
pub fn loss_bound(recording: &Recording, known: &KnownPlant) -> Option<f64> {
    let gas = gather(recording).filter(|g| g.pressure.len() >= 3)?;
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
        .flat_map(|(t, _)| t.v.iter().copied())
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
    let fresh_fill = gas.pressure.t[0] - gas.start < FRESH && span_of(&gas.pressure) < FRESH;
    if fresh_fill && u.fall > u.blur {
        return v
            .because(Reason::StillSettling)
            .is(HoldCase::SettlingUntempered(u));
    }
    v.is(HoldCase::Untempered {
        seen: u,
        allowed,
        digit: gas.digit,
    })
}

/// What is believed of a hold before its trace is looked at.
#[must_use]
pub fn priors(gas: &HeldGas, limit: HoldLimit) -> Priors {
    let p = gas.pressure.v[0];
    let (from, to) = (gas.pressure.t[0], gas.pressure.t[gas.pressure.len() - 1]);
    // One probe stands for all the gas; one that is left of several stands for parts it was never on, and one that
    // stopped may have been coming off before. Common practice, no source.
    let gain = match gas.probes.iter().filter(|(_, w)| *w > 0.05).count() {
        2.. => 0.07,
        _ if gas.lost_a_probe || gas.pressure.len() < gas.whole.len() => 0.2,
        _ => 0.15,
    };
    // A reading that does not dither is off by up to half a digit at either end:
    // a difference of up to a digit, and no number of readings averages it away: two deviations for that bound.
    let digits = if gas.dithers {
        0.0
    } else {
        0.5 * gas.digit / (to - from).max(1.0)
    };
    let hours = ((to - from) / 3600.0).max(1e-3);
    // Weather wanders by about 1 hPa per root hour (common practice); a slope over the hold sees 1.2 of the ends' share.
    let weather = if gas.weather_unknown {
        110.0 * hours.sqrt() / (to - from).max(1.0)
    } else {
        0.0
    };
    Priors {
        gain,
        gauge: 2e-4 * gas.range,
        warming: 2e-4 * gas.range * if gas.sun.is_some() { 15.0 } else { 1.0 },
        warming_from: gas.sun.map_or(0.0, |t| (t - from).max(0.0)),
        transient: believed(p, (from - gas.start).max(0.0)),
        loss: (20.0 * limit.rate()).max(p / 36_000.0),
        noise: (1.5e-5 * p, (4e-3 * p).max(gas.digit)),
        usual: 4e-4 * p,
        extra: weather.hypot(digits).hypot(unread_temperature(gas)),
        side_share: gas.side_share,
        steps: gas
            .steps
            .iter()
            .map(|&(t, share)| (t - from, share * p))
            .collect(),
    }
}

/// What the temperature may have done unread at the two ends, as a loss, Pa/s (standard deviation).
fn unread_temperature(gas: &HeldGas) -> f64 {
    let per_kelvin = pressure_per_kelvin(
        AbsolutePressure::from_pa(gas.pressure.v[0]),
        Temperature::from_c(20.0),
    );
    per_kelvin * gas.unread_k.0.hypot(gas.unread_k.1) / span_of(&gas.pressure).max(1.0)
}

/// What a fit found, with all that the decision looks at.
struct Fitted<'a> {
    recording: &'a Recording,
    gas: &'a HeldGas,
    priors: Priors,
    traces: Traces,
    fit: Fit,
    settling: Settling,
    /// The clock was started by hand then.
    by_hand: Option<f64>,
    /// When it would have settled without that.
    settled_by_itself: Option<f64>,
    /// Settled start, else the first reading.
    from: f64,
    last: f64,
}

fn fitted<'a>(v: &HoldFinding, recording: &'a Recording, gas: &'a HeldGas) -> Option<Fitted<'a>> {
    let (first, last) = (gas.pressure.t[0], gas.pressure.t[gas.pressure.len() - 1]);
    let planned = recording.settings.planned_s.unwrap_or(v.limit.over_s);
    let threshold = (0.5 * gas.digit).max(0.1 * v.limit.rate() * planned);
    let mut priors = priors(gas, v.limit);
    let by_hand = recording
        .settings
        .settled_override_s
        .map(|t| t.clamp(first, last));
    if let Some(t) = by_hand {
        // The technician's word: at that moment no more was left than would be small enough.
        priors
            .transient
            .iter_mut()
            .for_each(|(tau, _, sd)| *sd = sd.min(threshold * ((t - first) / *tau).exp()));
    }
    let traces = traces(gas)?;
    let fit = fit(&traces, &priors)?;
    let settling = settle(&fit, &traces.t, threshold, planned);
    let settled = by_hand.or(settling.at.filter(|t| last - t >= 60.0));
    Some(Fitted {
        recording,
        gas,
        priors,
        traces,
        fit,
        by_hand,
        settled_by_itself: settling.at,
        from: settled.unwrap_or(first),
        settling: Settling {
            at: settled,
            ..settling
        },
        last,
    })
}

fn decide(mut v: HoldFinding, recording: &Recording, gas: &HeldGas) -> HoldFinding {
    let Some(f) = fitted(&v, recording, gas) else {
        v.trace = draw_raw(gas);
        return v.because(Reason::FitFailed).is(HoldCase::FitFailed);
    };
    v.settled_at_s = f.settling.at;
    v.trace = draw(&f.traces, gas, f.from, f.fit.gain.1);
    let loss = summarise(&f.fit, driven_share(gas, recording, f.from));
    if f.settling.at.is_none() {
        v.ready_in = f.settling.ready_in;
        // A leak too large for any settling shows through it.
        if f.last - gas.pressure.t[0] < FRESH || loss.surely <= v.limit.rate() {
            return v.because(Reason::StillSettling).is(settling(&f));
        }
    }
    let before = moved_before(&v, f.from);
    if before > UNSETTLING * gas.pressure.v[0] {
        return v
            .because(Reason::SettlingNotExplained)
            .is(HoldCase::SettlingNotExplained { change: before });
    }
    if gas.pressure.count(f.from, f.last) < 3 {
        return v.because(Reason::TooFewReadings).is(HoldCase::OneReading);
    }
    v.ideal_loss = Some(loss.value + slope_difference(&f.traces, f.from));
    v.loss = Some(loss);
    v.loss_detected = loss.low > 0.0;
    v.correction = correction(&f.fit, &f.priors);
    match weigh(v, loss, &f) {
        Continue(v) => finish(v, &f),
        Break(v) => v,
    }
}

/// The outcome by the loss. `Break`: there is no verdict, and it is said why.
fn weigh(mut v: HoldFinding, loss: Loss, f: &Fitted<'_>) -> ControlFlow<HoldFinding, HoldFinding> {
    let (recording, gas) = (f.recording, f.gas);
    let (limit, half) = (v.limit.rate(), 0.5 * (loss.high - loss.low));
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
    } else if loss.high <= limit && half <= limit && too_soon(recording, gas, f.last) {
        v.reasons.push(Reason::TooSoon);
    } else if loss.high <= limit && half <= limit {
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

/// How far the corrected pressure strayed before the settled start, Pa.
fn moved_before(v: &HoldFinding, from: f64) -> f64 {
    v.trace
        .iter()
        .filter(|p| p.at_s < from)
        .filter_map(|p| p.corrected)
        .fold(0f64, |m, x| m.max(x.abs()))
}

fn settling(f: &Fitted<'_>) -> HoldCase {
    HoldCase::Settling {
        to_come: f.settling.to_come,
        threshold: f.settling.threshold,
        ready_in: f.settling.ready_in,
        per_kelvin: pressure_per_kelvin(
            AbsolutePressure::from_pa(f.gas.pressure.v[0]),
            Temperature::from_c(20.0),
        ),
        unread: unread(f.recording, f.gas),
    }
}

/// A hold says nothing final in its first ten minutes, or before half of its planned time.
fn too_soon(recording: &Recording, gas: &HeldGas, last: f64) -> bool {
    let since = last - gas.start;
    since < SOONEST
        || recording
            .settings
            .planned_s
            .is_some_and(|p| since < 0.5 * p)
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

/// Gain and lag, when this hold's own weather has told them better than they were known before.
fn correction(fit: &Fit, p: &Priors) -> Option<Correction> {
    (fit.gain.1 < 0.6 * p.gain).then_some(Correction {
        gain: fit.gain.0,
        gain_sd: fit.gain.1,
        lag_s: fit.lag.0,
        lag_sd: fit.lag.1,
    })
}

/// What else the finding says once there is a loss: reservations, what it proves, and the figures of its words.
fn finish(mut v: HoldFinding, f: &Fitted<'_>) -> HoldFinding {
    let (recording, gas) = (f.recording, f.gas);
    if f.by_hand.is_some() && f.settled_by_itself.is_none_or(|t| t > f.from + 1.0) {
        v.reasons.push(Reason::SettlingOverridden);
    }
    if !f.priors.steps.is_empty() {
        v.reasons.push(Reason::StepsTakenOut);
    }
    let is_coarse = 1.96 * f.priors.extra > v.limit.rate() && !gas.dithers;
    if v.outcome == HoldOutcome::Undecided && is_coarse {
        v.reasons.push(Reason::TooShortForDigits);
    }
    if recording.calibration_overdue().is_some() {
        v.reasons.push(Reason::CalibrationOverdue);
    }
    v.again_at_s = gas
        .probes
        .iter()
        .max_by(|a, b| a.1.total_cmp(&b.1))
        .and_then(|(t, _)| as_warm_again(t, f.from));
    if v.outcome == HoldOutcome::Falls {
        v.reasons.push(Reason::BeyondLimit);
    }
    // More gas than before proves nothing of a leak, and hides one of any size.
    if let Some(loss) = v.loss.filter(|_| !v.reasons.contains(&Reason::Gained)) {
        let half = 0.5 * (loss.high - loss.low);
        // A proven loss hides nothing below itself but its own uncertainty.
        v.proves = as_refrigerant(
            f,
            if v.loss_detected {
                half
            } else {
                loss.high.max(half)
            },
        );
        v.leaks = v
            .loss_detected
            .then(|| as_refrigerant(f, loss.value))
            .flatten();
    }
    let case = HoldCase::Judged(judged(&v, f));
    v.is(case)
}

/// A loss of nitrogen, Pa/s, as a leak of the circuit's refrigerant.
fn as_refrigerant(f: &Fitted<'_>, rate: f64) -> Option<Proof> {
    let s = &f.recording.settings;
    let kelvin = f
        .gas
        .probes
        .iter()
        .map(|(t, w)| w * t.at(f.from).unwrap_or(293.15))
        .sum();
    proof(
        rate,
        f.gas.pressure.at(f.from).unwrap_or(0.0),
        f.recording.atmosphere().0.pa(),
        kelvin,
        s.volume_l.map(|v| (v, v)).or(s.volume_band_l),
        s.refrigerant.as_deref(),
    )
}

/// The figures that its words need.
fn judged(v: &HoldFinding, f: &Fitted<'_>) -> Judged {
    let (recording, gas) = (f.recording, f.gas);
    let kelvin = temperature(gas, f.from).zip(temperature(gas, f.last));
    Judged {
        duration: f.last - f.from,
        since_shut: f.last - gas.start,
        planned_s: recording.settings.planned_s,
        kelvin,
        probes: gas.probes.len(),
        moved: moved(v, f.from),
        unread: unread(recording, gas),
        apart: evened_out(gas),
        digit: gas.digit,
        charge: charge_behind(v, f, kelvin),
        sun_pa: gas.sun.map(|_| GAUGE_IN_SUN * gas.range),
        steps: gas.steps.len(),
        overdue: recording
            .calibration_overdue()
            .map(|i| recording.channels[i].name.clone()),
        settling_left: f.settling.to_come,
        weather_unknown: gas.weather_unknown && !recording.atmosphere().1,
    }
}

/// From the same block means as the trace, so that a hand check of the sentence comes out.
fn moved(v: &HoldFinding, from: f64) -> Option<Moved> {
    let mut judged = v
        .trace
        .iter()
        .filter(|p| p.corrected.is_some() && p.temperature.is_some() && p.at_s >= from - 1e-6);
    let first = judged.next()?;
    let end = judged.next_back().unwrap_or(first);
    let worth = |p: &TracePoint| p.raw - p.corrected.unwrap_or(0.0);
    Some(Moved {
        gauge: end.raw - first.raw,
        from_k: first.temperature?,
        to_k: end.temperature?,
        worth: worth(end) - worth(first),
    })
}

/// How far two sides were apart at the start and the end, where that is evening out.
fn evened_out(gas: &HeldGas) -> Option<(f64, f64)> {
    let apart = gas.apart.as_ref()?;
    let ends = (apart.v.first()?.abs(), apart.v.last()?.abs());
    (ends.0 > 3.0 * gas.digit && ends.1 < 0.6 * ends.0).then_some(ends)
}

fn charge_behind(
    v: &HoldFinding,
    f: &Fitted<'_>,
    kelvin: Option<(f64, f64)>,
) -> Option<ChargeBehind> {
    let s = &f.recording.settings;
    let may_move = v.loss_detected || v.reasons.contains(&Reason::Gained);
    let r = s
        .refrigerant
        .as_deref()
        .filter(|_| may_move && s.behind == Some(Behind::FactoryCharge))
        .and_then(find)?;
    let standing = r.standing(kelvin.map_or(294.0, |k| k.1));
    Some(ChargeBehind {
        pa: standing - f.recording.atmosphere().0.pa(),
        is_higher: standing > f.gas.pressure.v.last().copied().unwrap_or(0.0),
    })
}

/// What was not read, or not long enough to be used.
fn unread(recording: &Recording, gas: &HeldGas) -> Unread {
    let name = |i: usize| recording.channels[i].name.clone();
    let start = gas.whole.t[0];
    let cut = gas.cut_by.filter(|_| gas.pressure.len() < gas.whole.len());
    Unread {
        cut: cut.map(|i| {
            let end = gas.pressure.t[gas.pressure.len() - 1];
            (name(i), gas.pressure.t[0] - start, end - start)
        }),
        unused: gas
            .unused
            .iter()
            .filter(|&&i| Some(i) != gas.cut_by)
            .map(|&i| name(i))
            .collect(),
        strayed_k: gas.unread_k.0.hypot(gas.unread_k.1),
    }
}

/// Mean temperature of the probes, K.
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

fn summarise(fit: &Fit, share: f64) -> Loss {
    let m = &fit.loss;
    Loss {
        value: share * m.moments().0,
        low: share * m.quantile(0.025),
        high: share * m.quantile(0.975),
        surely: share * m.quantile(0.01),
        at_most: share * m.quantile(0.99),
    }
}

/// Least-squares slope of real minus ideal correction from the settled start on, Pa/s: what a hand check with P/T
/// would differ by.
fn slope_difference(tr: &Traces, from: f64) -> f64 {
    let points: Vec<(f64, f64)> = (0..tr.t.len())
        .filter(|&i| tr.t[i] >= from)
        .map(|i| (tr.t[i], tr.thermal_ideal[i] - tr.thermal[i]))
        .collect();
    let n = points.len() as f64;
    let (mean_t, mean_d) = (
        points.iter().map(|p| p.0).sum::<f64>() / n,
        points.iter().map(|p| p.1).sum::<f64>() / n,
    );
    let (xy, xx) = points.iter().fold((0.0, 0.0), |(xy, xx), (t, d)| {
        (xy + (t - mean_t) * (d - mean_d), xx + (t - mean_t).powi(2))
    });
    if xx > 0.0 { xy / xx } else { 0.0 }
}
