//! What a decided hold says in figures: what it proves, and what its words need.

use super::again::as_warm_again;
use super::finding::{
    ChargeBehind, HoldCase, HoldFinding, HoldOutcome, Judged, Moved, Silent, TracePoint, Unread,
};
use super::fitted::{Fitted, GAUGE, SUN};
use super::gather::{HeldGas, Thermometer};
use super::proves::{Proof, proof};
use crate::matter::nitrogen::pressure_per_kelvin;
use crate::matter::refrigerant::find;
use crate::quantity::{AbsolutePressure, Temperature};
use crate::reading::Behind;
use crate::reason::Reason;
use crate::stat::rounding;

/// A probe not read for so long is said to be silent, s.
const SILENT: f64 = 300.0;

/// It is still settling.
pub fn settling(f: &Fitted<'_>) -> HoldCase {
    HoldCase::Settling {
        to_come: f.settling.to_come,
        threshold: f.settling.threshold,
        ready_in: f.settling.ready_in,
        per_kelvin: pressure_per_kelvin(
            AbsolutePressure::from_pa(f.gas.pressure.v[0]),
            Temperature::from_c(20.0),
        ),
        unread: unread(f),
    }
}

/// What else the finding says once there is a loss: reservations, what it proves, and the figures of its words.
pub fn finish(mut v: HoldFinding, f: &Fitted<'_>) -> HoldFinding {
    let (recording, gas) = (f.recording, f.gas);
    if f.by_hand.is_some() && f.settled_by_itself.is_none_or(|t| t > f.from + 1.0) {
        v.reasons.push(Reason::SettlingOverridden);
    }
    if !f.priors.steps.is_empty() {
        v.reasons.push(Reason::StepsTakenOut);
    }
    let hidden = rounding::lasting(gas.noise, gas.digit).sqrt();
    let is_coarse = 2.8 * hidden > v.limit.rate() * gas.pressure.span();
    if v.outcome == HoldOutcome::Undecided && is_coarse {
        v.reasons.push(Reason::TooShortForDigits);
    }
    if recording.calibration_overdue().is_some() {
        v.reasons.push(Reason::CalibrationOverdue);
    }
    v.again_at_s = gas
        .probes
        .iter()
        .max_by(|a, b| a.share.total_cmp(&b.share))
        .and_then(|t| as_warm_again(&t.readings, f.from));
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
    let case = HoldCase::Judged(Box::new(judged(&v, f)));
    v.is(case)
}

/// A loss of nitrogen, Pa/s, as a leak of the circuit's refrigerant.
fn as_refrigerant(f: &Fitted<'_>, rate: f64) -> Option<Proof> {
    let s = &f.recording.settings;
    let kelvin = f
        .gas
        .probes
        .iter()
        .map(|t| t.share * t.readings.at(f.from).unwrap_or(293.15))
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
        unread: unread(f),
        apart: evened_out(gas),
        digit: gas.digit,
        charge: charge_behind(v, f, kelvin),
        sun_pa: gas.sun.map(|_| SUN * GAUGE * gas.range),
        steps: gas.steps.len(),
        overdue: recording
            .calibration_overdue()
            .map(|i| recording.channels[i].name.clone()),
        settling_left: f.settling.to_come,
        first_alone: gas.first_alone(),
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
fn unread(f: &Fitted<'_>) -> Unread {
    let (recording, gas) = (f.recording, f.gas);
    let name = |i: usize| recording.channels[i].name.clone();
    let end = gas.pressure.t[gas.pressure.len() - 1];
    Unread {
        cut: gas
            .cut_by
            .map(|i| (name(i), gas.pressure.t[0] - gas.start, end - gas.start)),
        unused: gas
            .unused
            .iter()
            .filter(|&&i| Some(i) != gas.cut_by)
            .map(|&i| name(i))
            .collect(),
        silent: silent(f),
        strayed_k: f.traces.unread_k,
    }
}

/// The probe that stands for most of the gas among those not read of late.
fn silent(f: &Fitted<'_>) -> Option<Silent> {
    let pressure = &f.gas.pressure;
    let stopped = |t: &Thermometer| {
        let last = *t.readings.t.last()?;
        let over = f.last - last;
        (over > SILENT.max(2.0 * t.readings.usual_step())).then(|| Silent {
            channel: f.recording.channels[t.channel].name.clone(),
            over,
            fell: pressure.at(last).unwrap_or(0.0) - pressure.at(f.last).unwrap_or(0.0),
        })
    };
    let mut probes: Vec<&Thermometer> = f.gas.probes.iter().collect();
    probes.sort_by(|a, b| b.share.total_cmp(&a.share));
    probes.into_iter().find_map(stopped)
}

/// Mean temperature of the probes, K.
fn temperature(gas: &HeldGas, at: f64) -> Option<f64> {
    let t: f64 = gas
        .probes
        .iter()
        .map(|t| t.share * t.readings.at(at).unwrap_or(f64::NAN))
        .sum();
    t.is_finite()
        .then_some(t)
        .filter(|_| !gas.probes.is_empty())
}
