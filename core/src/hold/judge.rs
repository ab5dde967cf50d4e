//! The verdict on a hold (docs/method.md, "The verdict").

use super::again::as_warm_again;
use super::amount::{Traces, traces};
use super::gather::{HeldGas, gather};
use super::model::{Fit, Known, Priors, bound, fit};
use super::proves::proof;
use super::settle::{Settling, believed, settle};
use super::untempered::{Untempered, believable, look};
use super::verdict::{Correction, HoldOutcome, HoldVerdict, Loss, TracePoint, blank};
use super::words;
use crate::matter::nitrogen::pressure_per_kelvin;
use crate::quantity::{AbsolutePressure, Temperature, Units};
use crate::reading::{EventKind, Gas, HoldLimit, Recording};

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

/// Judges a hold; sentences in `units`. Anything that cannot be judged is an outcome with its reason.
#[must_use]
pub fn judge_hold(recording: &Recording, units: Units) -> HoldVerdict {
    let Some(gas) = gather(recording).filter(|g| !g.pressure.is_empty()) else {
        let said = if recording
            .readings
            .iter()
            .any(|r| recording.channels[r.channel].is_system_pressure())
        {
            words::not_together()
        } else {
            words::nothing_read()
        };
        return blank(recording, HoldOutcome::Undecided, "too_few_readings").said(said);
    };
    let duration = span_of(&gas.pressure);
    let mut v = HoldVerdict {
        limit_is_default: recording.settings.hold_limit.is_none(),
        ..blank(recording, HoldOutcome::Undecided, "")
    };
    v.limit = recording.settings.hold_limit.unwrap_or(HoldLimit {
        drop_pa: DEFAULT_SHARE * gas.pressure.v[0],
        over_s: recording.settings.planned_s.unwrap_or(duration).max(60.0),
    });
    if gas.probes.is_empty()
        || recording.settings.gas == Gas::NitrogenWithRefrigerant
        || gas.pressure.len() < 3
    {
        v.trace = draw_raw(&gas);
    }
    if recording.settings.gas == Gas::NitrogenWithRefrigerant {
        v.outcome = HoldOutcome::NotApplicable;
        return v
            .because("refrigerant_inside")
            .said(words::refrigerant_inside());
    }
    if let Some((tracer, half)) = heavy_tracer(recording, &gas) {
        v.outcome = HoldOutcome::NotApplicable;
        v.trace = draw_raw(&gas);
        return v
            .because("tracer_too_heavy")
            .said(words::tracer_too_heavy(tracer, half, units));
    }
    if recording.settings.awaits_isolation
        && recording.last_event(EventKind::SupplyIsolated).is_none()
    {
        v.trace = draw_raw(&gas);
        return v
            .because("supply_not_isolated")
            .said(words::supply_not_isolated());
    }
    let floor = recording.atmosphere().0.pa() + LEAST;
    if gas.whole.v[0] < floor {
        v.outcome = HoldOutcome::NotApplicable;
        return v
            .because("no_test_pressure")
            .said(words::no_test_pressure(LEAST, units));
    }
    if let Some(i) = gas.whole.v.iter().position(|p| *p < floor) {
        v.trace = draw_raw(&gas);
        return lost_everything(v, recording, &gas, gas.whole.t[i] - gas.whole.t[0], units);
    }
    if gas.pressure.len() < 2 || duration <= 0.0 {
        return v.because("too_few_readings").said(words::one_reading());
    }
    if gas.probes.is_empty() {
        return without_temperature(v, &gas, duration, units);
    }
    if gas.pressure.len() < 3 {
        return v.because("too_few_readings").said(words::one_reading());
    }
    let decided = decide(v, recording, &gas, units);
    unread_rest(decided, recording, &gas, units)
}

fn span_of(s: &crate::reading::Series) -> f64 {
    s.t.last().zip(s.t.first()).map_or(0.0, |(b, a)| b - a)
}

/// From a test pressure to nothing: no cooling does that, so it needs no thermometer and no fit.
fn lost_everything(
    mut v: HoldVerdict,
    recording: &Recording,
    gas: &HeldGas,
    took: f64,
    units: Units,
) -> HoldVerdict {
    if recording.beyond_range().is_some() {
        v.reasons.push("beyond_range");
    }
    v.outcome = HoldOutcome::Falls;
    v.loss_detected = true;
    v.settled_at_s = Some(gas.whole.t[0]);
    v.because("lost_everything").said(words::lost_everything(
        gas.whole.v[0] - recording.atmosphere().0.pa(),
        took,
        units,
    ))
}

/// Where a probe or a second gauge stopped, the rest of the pressure was judged by nobody: it may still show a fall that
/// needs no thermometer, and it may take a pass away.
fn unread_rest(
    mut v: HoldVerdict,
    recording: &Recording,
    gas: &HeldGas,
    units: Units,
) -> HoldVerdict {
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
        v.outcome = HoldOutcome::Falls;
        v.loss_detected = true;
        return v
            .because("beyond_any_cooling")
            .said(words::falls_untempered(&u, units));
    }
    let fell = rest
        .v
        .first()
        .zip(rest.v.last())
        .map_or(0.0, |(a, b)| a - b);
    if v.outcome == HoldOutcome::Holds && fell > v.limit.rate() * span_of(&rest) + gas.digit {
        v.outcome = HoldOutcome::Undecided;
        let said = words::fell_unread(
            &recording.channels[channel].name,
            fell,
            span_of(&rest),
            units,
        );
        return v.because("fell_unread").said(said);
    }
    v
}

/// Whether a fall is more than what is allowed, the gauge's blur and the largest believable cooling together.
fn beyond_cooling(u: &Untempered, allowed: f64) -> bool {
    u.duration >= 60.0 && (u.fall - allowed - u.blur) / u.per_kelvin > believable(u.duration)
}

/// The bound of [`Known`] noise and lag on this recording's loss, Pa/s: what no judge of this model can beat.
#[must_use]
pub fn loss_bound(recording: &Recording, known: &Known) -> Option<f64> {
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

fn without_temperature(
    mut v: HoldVerdict,
    gas: &HeldGas,
    duration: f64,
    units: Units,
) -> HoldVerdict {
    let Some(u) = look(&gas.pressure, gas.digit) else {
        return v.because("too_few_readings").said(words::one_reading());
    };
    let allowed = v.limit.rate() * u.duration;
    v.reasons.push("no_temperature");
    // Pressure changes that the largest believable cooling cannot explain need no thermometer.
    if beyond_cooling(&u, allowed) {
        v.outcome = HoldOutcome::Falls;
        v.loss_detected = true;
        v.settled_at_s = Some(gas.pressure.t[0]);
        return v
            .because("beyond_any_cooling")
            .said(words::falls_untempered(&u, units));
    }
    let fresh_fill = gas.pressure.t[0] - gas.start < 300.0 && duration < 300.0;
    if fresh_fill && u.fall > u.blur {
        return v
            .because("still_settling")
            .said(words::settling_untempered(&u, units));
    }
    v.said(words::untempered(&u, allowed, gas.digit, units))
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

fn decide(mut v: HoldVerdict, recording: &Recording, gas: &HeldGas, units: Units) -> HoldVerdict {
    let (first, last) = (gas.pressure.t[0], gas.pressure.t[gas.pressure.len() - 1]);
    let planned = recording.settings.planned_s.unwrap_or(v.limit.over_s);
    let threshold = (0.5 * gas.digit).max(0.1 * v.limit.rate() * planned);
    let mut p = priors(gas, v.limit);
    let by_hand = recording
        .settings
        .settled_override_s
        .map(|t| t.clamp(first, last));
    if let Some(t) = by_hand {
        // The technician's word: at that moment no more was left than would be small enough.
        p.transient
            .iter_mut()
            .for_each(|(tau, _, sd)| *sd = sd.min(threshold * ((t - first) / *tau).exp()));
    }
    let Some((tr, fit)) = traces(gas).and_then(|tr| fit(&tr, &p).map(|f| (tr, f))) else {
        return v.because("fit_failed").said(words::fit_failed());
    };
    let settling = settle(&fit, &tr.t, threshold, planned);
    let settled = by_hand.or(settling.at.filter(|t| last - t >= 60.0));
    let from = settled.unwrap_or(first);
    v.settled_at_s = settled;
    v.trace = draw(&tr, gas, from, fit.gain.1);
    let loss = summarise(&fit, driven_share(gas, recording, from));
    if settled.is_none() {
        v.ready_in = settling.ready_in;
        // A leak too large for any settling shows through it.
        if last - first < 300.0 || loss.surely <= v.limit.rate() {
            return v
                .because("still_settling")
                .said(words::settling(&settling, recording, gas, units));
        }
    }
    let before = v
        .trace
        .iter()
        .filter(|p| p.at_s < from)
        .filter_map(|p| p.corrected)
        .fold(0f64, |m, x| m.max(x.abs()));
    if before > UNSETTLING * gas.pressure.v[0] {
        return v
            .because("settling_not_explained")
            .said(words::settling_not_explained(before, units));
    }
    if gas.pressure.count(from, last) < 3 {
        return v.because("too_few_readings").said(words::one_reading());
    }
    v.ideal_loss = Some(loss.value + slope_difference(&tr, from));
    v.loss = Some(loss);
    v.loss_detected = loss.low > 0.0;
    v.correction = correction(&fit, &p);
    let limit = v.limit.rate();
    let half = 0.5 * (loss.high - loss.low);
    let beyond_range = recording.beyond_range();
    let held = gas.pressure.at(from).unwrap_or(0.0) - recording.atmosphere().0.pa();
    let is_low = recording.settings.test_pa.is_some_and(|t| held < BELOW * t);
    if let Some(channel) = beyond_range {
        v.reasons.push("beyond_range");
        let words = words::beyond_range(&recording.channels[channel].name);
        return v.said(words);
    } else if loss.surely > limit {
        v.outcome = HoldOutcome::Falls;
    } else if is_low {
        v.outcome = HoldOutcome::NotApplicable;
        let words =
            words::below_test_pressure(held, recording.settings.test_pa.unwrap_or(0.0), units);
        return v.because("below_test_pressure").said(words);
    } else if loss.at_most < 0.0 && -loss.value * (last - from) > gas.digit {
        v.reasons.push("gained");
    } else if loss.high <= limit && half <= limit && too_soon(recording, gas, last) {
        v.reasons.push("too_soon");
    } else if loss.high <= limit && half <= limit {
        v.outcome = HoldOutcome::Holds;
        v.reasons.push(if v.loss_detected {
            "loss_within_limit"
        } else {
            "within_limit"
        });
    } else {
        v.reasons.push(if v.loss_detected {
            "loss_not_bounded"
        } else {
            "too_wide"
        });
    }
    if by_hand.is_some() && settling.at.is_none_or(|t| t > from + 1.0) {
        v.reasons.push("settling_overridden");
    }
    if !p.steps.is_empty() {
        v.reasons.push("steps_taken_out");
    }
    if v.outcome == HoldOutcome::Undecided && 1.96 * p.extra > limit && !gas.dithers {
        v.reasons.push("too_short_for_digits");
    }
    if recording.calibration_overdue().is_some() {
        v.reasons.push("calibration_overdue");
    }
    v.again_at_s = gas
        .probes
        .iter()
        .max_by(|a, b| a.1.total_cmp(&b.1))
        .and_then(|(t, _)| as_warm_again(t, from));
    finish(v, recording, gas, &settling, from, units)
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

fn finish(
    mut v: HoldVerdict,
    recording: &Recording,
    gas: &HeldGas,
    settling: &Settling,
    from: f64,
    units: Units,
) -> HoldVerdict {
    if v.outcome == HoldOutcome::Falls {
        v.reasons.push("beyond_limit");
    }
    // More gas than before proves nothing of a leak, and hides one of any size.
    if let Some(loss) = v.loss.filter(|_| !v.reasons.contains(&"gained")) {
        let t0 = gas
            .probes
            .iter()
            .map(|(s, w)| w * s.at(from).unwrap_or(293.15))
            .sum();
        let as_refrigerant = |rate: f64| {
            let s = &recording.settings;
            proof(
                rate,
                gas.pressure.at(from).unwrap_or(0.0),
                recording.atmosphere().0.pa(),
                t0,
                s.volume_l.map(|v| (v, v)).or(s.volume_band_l),
                s.refrigerant.as_deref(),
                units,
            )
        };
        let half = 0.5 * (loss.high - loss.low);
        // A proven loss hides nothing below itself but its own uncertainty.
        v.proves = as_refrigerant(if v.loss_detected {
            half
        } else {
            loss.high.max(half)
        });
        v.leaks = v
            .loss_detected
            .then(|| as_refrigerant(loss.value))
            .flatten();
    }
    let said = words::judged(&v, recording, gas, settling, from, units);
    v.said(said)
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

/// The trace before there is a model of it.
fn draw_raw(gas: &HeldGas) -> Vec<TracePoint> {
    if let Some(tr) = traces(gas) {
        return draw(&tr, gas, tr.t[0], 0.0);
    }
    let zero = gas.whole.v.first().copied().unwrap_or(0.0);
    bare(&gas.whole, zero)
}

/// Pressure alone, as changes from `zero`.
fn bare(p: &crate::reading::Series, zero: f64) -> Vec<TracePoint> {
    let (p, _) = p.thinned(240);
    p.t.iter()
        .zip(&p.v)
        .map(|(&at_s, &v)| TracePoint {
            at_s,
            raw: v - zero,
            corrected: None,
            ribbon: None,
            temperature: None,
        })
        .collect()
}

/// The whole trace as changes since `from`.
fn draw(tr: &Traces, gas: &HeldGas, from: f64, gain_sd: f64) -> Vec<TracePoint> {
    let corrected = tr.corrected();
    let at = |v: &[f64]| {
        crate::reading::Series {
            t: tr.t.clone(),
            v: v.to_vec(),
        }
        .at(from)
        .unwrap_or(0.0)
    };
    let (zero_raw, zero_corrected, zero_thermal) = (at(&tr.raw), at(&corrected), at(&tr.thermal));
    let zero = tr.p0 + zero_raw;
    let (first, last) = (gas.pressure.t[0], gas.pressure.t[gas.pressure.len() - 1]);
    let (mut before, after) = (
        bare(&gas.whole.between(f64::NEG_INFINITY, first - 1e-6), zero),
        bare(&gas.whole.between(last + 1e-6, f64::INFINITY), zero),
    );
    before.extend(judged_points(
        tr,
        gas,
        gain_sd,
        (zero_raw, zero_corrected, zero_thermal),
    ));
    before.extend(after);
    before
}

fn judged_points(
    tr: &Traces,
    gas: &HeldGas,
    gain_sd: f64,
    (zero_raw, zero_corrected, zero_thermal): (f64, f64, f64),
) -> Vec<TracePoint> {
    let corrected = tr.corrected();
    tr.t.iter()
        .enumerate()
        .map(|(i, &t)| TracePoint {
            at_s: t,
            raw: tr.raw[i] - zero_raw,
            corrected: Some(corrected[i] - zero_corrected),
            ribbon: Some(
                1.96 * ((gain_sd * (tr.thermal[i] - zero_thermal)).hypot(gas.digit / 12f64.sqrt())),
            ),
            temperature: Some(tr.temperature[i]),
        })
        .collect()
}
