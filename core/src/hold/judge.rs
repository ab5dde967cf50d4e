//! The verdict on a hold (handbook §4 "Outcome", docs/method.md).

use super::amount::{HeldGas, gather, traces};
use super::model::{Fit, Priors, fit};
use super::proves::{Proof, proof};
use super::settle::{Settling, settle};
use super::untempered::{believable, look};
use super::words;
use crate::quantity::Units;
use crate::reading::{Gas, HoldLimit, Recording};

/// Outcome of a hold.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum HoldOutcome {
    /// Within the limit; see `loss_detected` for the reservation.
    Holds,
    /// Beyond the limit.
    Falls,
    /// Neither shown.
    Undecided,
    /// Not a tightness test.
    NotApplicable,
}

/// Loss of pressure at the settled start's temperature, Pa/s; positive = gas lost; never clipped.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Loss {
    /// Mean.
    pub value: f64,
    /// 2.5 % bound.
    pub low: f64,
    /// 97.5 % bound.
    pub high: f64,
    /// One-sided 99 % lower bound.
    pub surely: f64,
}

/// One point to draw, Pa as change since the settled start.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct TracePoint {
    /// Seconds since the recording's start.
    pub at_s: f64,
    /// As read.
    pub raw: f64,
    /// At the start's temperature.
    pub corrected: Option<f64>,
    /// Half width of the ribbon around `corrected`.
    pub ribbon: Option<f64>,
    /// Mean temperature, K.
    pub temperature: Option<f64>,
}

/// All that is said about a hold.
#[derive(Debug, Clone)]
pub struct HoldVerdict {
    /// Outcome.
    pub outcome: HoldOutcome,
    /// Codes of what decided.
    pub reasons: Vec<&'static str>,
    /// The useful half, first: a few words.
    pub headline: String,
    /// One sentence.
    pub summary: String,
    /// Sentences with figures.
    pub evidence: Vec<String>,
    /// What to do next.
    pub next_step: String,
    /// The loss, where it could be estimated.
    pub loss: Option<Loss>,
    /// The lower bound is above zero.
    pub loss_detected: bool,
    /// The same loss if nitrogen were ideal, Pa/s.
    pub ideal_loss: Option<f64>,
    /// When the clock started, s; `None`: not yet.
    pub settled_at_s: Option<f64>,
    /// The limit used.
    pub limit: HoldLimit,
    /// It was the default.
    pub limit_is_default: bool,
    /// What the hold proves.
    pub proves: Option<Proof>,
    /// What a proven loss means as refrigerant.
    pub leaks: Option<Proof>,
    /// Points to draw.
    pub trace: Vec<TracePoint>,
    /// Seconds from the last reading until settled, where that can be foretold.
    pub ready_in: Option<f64>,
}

/// Share of absolute pressure a hold may lose over its planned time when nobody gave a limit (common practice).
const DEFAULT_SHARE: f64 = 0.003;
/// Filling warms gas by some fifteen kelvin at most: a larger change before the settled start is something else (CP).
const UNSETTLING: f64 = 0.06;
/// Blocks the loss is fitted on.
const BLOCKS: usize = 110;

/// Judges a hold; sentences in `units`. Anything that cannot be judged is an outcome with its reason.
#[must_use]
pub fn judge_hold(recording: &Recording, units: Units) -> HoldVerdict {
    let Some(gas) = gather(recording).filter(|g| !g.pressure.is_empty()) else {
        return blank(recording, HoldOutcome::Undecided, "too_few_readings").said(words::nothing_read());
    };
    let duration = gas.pressure.t[gas.pressure.len() - 1] - gas.pressure.t[0];
    let mut v = HoldVerdict { limit_is_default: recording.settings.hold_limit.is_none(), ..blank(recording, HoldOutcome::Undecided, "") };
    v.limit = recording
        .settings
        .hold_limit
        .unwrap_or(HoldLimit { drop_pa: DEFAULT_SHARE * gas.pressure.v[0], over_s: recording.settings.planned_s.unwrap_or(duration).max(60.0) });
    v.trace = draw(&gas, gas.pressure.t[0], 0.0);
    if recording.settings.gas == Gas::NitrogenWithRefrigerant {
        v.outcome = HoldOutcome::NotApplicable;
        return v.because("refrigerant_inside").said(words::refrigerant_inside());
    }
    let (atmosphere, _) = recording.atmosphere();
    if gas.pressure.v.iter().copied().fold(f64::MAX, f64::min) < atmosphere.pa() + 3e4 {
        v.outcome = HoldOutcome::NotApplicable;
        return v.because("no_test_pressure").said(words::no_test_pressure(units));
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
    decide(v, recording, &gas, units)
}

fn blank(recording: &Recording, outcome: HoldOutcome, reason: &'static str) -> HoldVerdict {
    HoldVerdict {
        outcome,
        reasons: if reason.is_empty() { vec![] } else { vec![reason] },
        headline: String::new(),
        summary: String::new(),
        evidence: Vec::new(),
        next_step: String::new(),
        loss: None,
        loss_detected: false,
        ideal_loss: None,
        settled_at_s: None,
        limit: recording.settings.hold_limit.unwrap_or(HoldLimit { drop_pa: 0.0, over_s: 600.0 }),
        limit_is_default: recording.settings.hold_limit.is_none(),
        proves: None,
        leaks: None,
        trace: Vec::new(),
        ready_in: None,
    }
}

impl HoldVerdict {
    fn because(mut self, reason: &'static str) -> Self {
        self.reasons.push(reason);
        self
    }
    fn said(mut self, said: words::Said) -> Self {
        (self.headline, self.summary, self.evidence, self.next_step) = (said.headline, said.summary, said.evidence, said.next_step);
        self
    }
}

fn without_temperature(mut v: HoldVerdict, gas: &HeldGas, duration: f64, units: Units) -> HoldVerdict {
    let Some(u) = look(gas) else { return v.because("too_few_readings").said(words::one_reading()) };
    let allowed = v.limit.rate() * u.duration;
    v.reasons.push("no_temperature");
    // Pressure changes that the largest believable cooling cannot explain need no thermometer.
    if u.duration >= 60.0 && (u.fall - allowed - u.blur) / u.per_kelvin > believable(u.duration) {
        v.outcome = HoldOutcome::Falls;
        v.loss_detected = true;
        v.settled_at_s = Some(gas.pressure.t[0]);
        return v.because("beyond_any_cooling").said(words::falls_untempered(&u, units));
    }
    let fresh_fill = gas.pressure.t[0] - gas.start < 300.0 && duration < 300.0;
    if fresh_fill && u.fall > u.blur {
        return v.because("still_settling").said(words::settling_untempered(&u, units));
    }
    v.said(words::untempered(&u, allowed, gas.digit, units))
}

fn priors(gas: &HeldGas, recording: &Recording, from: f64, to: f64, limit: HoldLimit) -> Priors {
    let p = gas.pressure.v[0];
    let several = gas.probes.iter().filter(|(_, w)| *w > 0.05).count() >= 2;
    let window = gas.pressure.between(from, to);
    let dithered = window.fast_noise() >= 0.5 * gas.digit;
    // A reading that does not dither is off by up to half a digit at either end:
    // a difference of up to a digit, and no number of readings averages it away: two deviations for that bound.
    let digits = if dithered { 0.0 } else { 0.5 * gas.digit / (to - from).max(1.0) };
    let hours = ((to - from) / 3600.0).max(1e-3);
    // Weather wanders by about 1 hPa per root hour (common practice); a slope over the hold sees 1.2 of the ends' share.
    let weather = if gas.weather_unknown { 110.0 * hours.sqrt() / (to - from).max(1.0) } else { 0.0 };
    let reattached = recording.events.iter().filter(|e| e.kind == crate::reading::EventKind::GaugeReattached && e.at_s > from).count();
    let reattach = 0.0005 * p * (reattached as f64).sqrt() / (to - from).max(1.0);
    Priors {
        gain: if several { 0.07 } else { 0.15 },
        gauge: 2e-4 * gas.range,
        warming: 2e-4 * gas.range * if gas.sun { 12.0 } else { 1.0 },
        transient: vec![(240.0, 0.0, 1e-3)],
        loss: (20.0 * limit.rate()).max(p / 36_000.0),
        noise: (1.5e-5 * p, (4e-3 * p).max(gas.digit)),
        usual: 4e-4 * p,
        extra: weather.hypot(reattach).hypot(digits),
    }
}

fn decide(mut v: HoldVerdict, recording: &Recording, gas: &HeldGas, units: Units) -> HoldVerdict {
    let (first, last) = (gas.pressure.t[0], gas.pressure.t[gas.pressure.len() - 1]);
    let planned = recording.settings.planned_s.unwrap_or(v.limit.over_s);
    let threshold = (0.5 * gas.digit).max(0.1 * v.limit.rate() * planned);
    let base = priors(gas, recording, first, last, v.limit);
    let Some(settling) = settle(gas, &base, threshold, planned) else {
        return v.because("fit_failed").said(words::fit_failed());
    };
    let from = match (recording.settings.settled_override_s, settling.at) {
        (Some(t), _) => t.clamp(first, last),
        (None, Some(t)) if last - t >= 60.0 => t,
        _ => {
            v.ready_in = settling.ready_in;
            // A leak too large for any settling shows through it.
            if let Some(sure) = surely_falling(gas, &base, &settling, first, last, v.limit) {
                v.loss = Some(sure);
                v.loss_detected = true;
                v.outcome = HoldOutcome::Falls;
                v.settled_at_s = None;
                return finish(v, recording, gas, &settling, first, units);
            }
            return v.because("still_settling").said(words::settling(&settling, gas, units));
        }
    };
    v.settled_at_s = Some(from);
    v.trace = draw(gas, from, 0.0);
    let before = v.trace.iter().filter(|p| p.at_s < from).filter_map(|p| p.corrected).fold(0f64, |m, x| m.max(x.abs()));
    if before > UNSETTLING * gas.pressure.v[0] {
        return v.because("settling_not_explained").said(words::settling_not_explained(before, units));
    }
    let mut p = priors(gas, recording, from, last, v.limit);
    p.transient = settling.transient.clone();
    let tr = traces(gas, from, last, BLOCKS);
    let Some((tr, fit)) = tr.and_then(|tr| fit(&tr, &p).map(|f| (tr, f))) else {
        return v
            .because(if gas.pressure.between(from, last).len() < 3 { "too_few_readings" } else { "fit_failed" })
            .said(if gas.pressure.between(from, last).len() < 3 { words::one_reading() } else { words::fit_failed() });
    };
    let loss = summarise(&fit);
    v.ideal_loss = Some(loss.value + slope_difference(&tr));
    v.trace = draw(gas, from, fit.gain.1);
    v.loss = Some(loss);
    v.loss_detected = loss.low > 0.0;
    let limit = v.limit.rate();
    let half = 0.5 * (loss.high - loss.low);
    if loss.surely > limit {
        v.outcome = HoldOutcome::Falls;
    } else if loss.high < 0.0 {
        v.reasons.push("gained");
    } else if loss.high <= limit && half <= limit {
        v.outcome = HoldOutcome::Holds;
        v.reasons.push(if v.loss_detected { "loss_within_limit" } else { "within_limit" });
    } else {
        v.reasons.push(if v.loss_detected { "loss_not_bounded" } else { "too_wide" });
    }
    if recording.settings.settled_override_s.is_some() && settling.at.is_none_or(|t| t > from + 1.0) {
        v.reasons.push("settling_overridden");
    }
    finish(v, recording, gas, &settling, from, units)
}

fn surely_falling(gas: &HeldGas, base: &Priors, settling: &Settling, first: f64, last: f64, limit: HoldLimit) -> Option<Loss> {
    if last - first < 300.0 {
        return None;
    }
    let mut p = base.clone();
    p.transient = settling.transient.iter().map(|&(tau, w, sd)| (tau, w, sd * ((last - first) / tau).exp())).collect();
    let loss = summarise(&fit(&traces(gas, first, last, BLOCKS)?, &p)?);
    (loss.surely > limit.rate()).then_some(loss)
}

fn finish(mut v: HoldVerdict, recording: &Recording, gas: &HeldGas, settling: &Settling, from: f64, units: Units) -> HoldVerdict {
    if v.outcome == HoldOutcome::Falls {
        v.reasons.push("beyond_limit");
    }
    if let Some(loss) = v.loss {
        let t0 = gas.probes.iter().map(|(s, w)| w * s.at(from).unwrap_or(293.15)).sum();
        let as_refrigerant = |rate: f64| {
            let s = &recording.settings;
            proof(rate, gas.pressure.at(from).unwrap_or(0.0), recording.atmosphere().0.pa(), t0, s.volume_l, s.refrigerant.as_deref())
        };
        let half = 0.5 * (loss.high - loss.low);
        // A proven loss hides nothing below itself but its own uncertainty.
        v.proves = as_refrigerant(if v.loss_detected { half } else { loss.high.max(half) });
        v.leaks = v.loss_detected.then(|| as_refrigerant(loss.value)).flatten();
    }
    let said = words::judged(&v, recording, gas, settling, from, units);
    v.said(said)
}

fn summarise(fit: &Fit) -> Loss {
    let m = &fit.loss;
    Loss { value: m.moments().0, low: m.quantile(0.025), high: m.quantile(0.975), surely: m.quantile(0.01) }
}

/// Least-squares slope of real minus ideal correction, Pa/s: what a hand check with P/T would differ by.
fn slope_difference(tr: &super::amount::Traces) -> f64 {
    let n = tr.t.len() as f64;
    let mean_t = tr.t.iter().sum::<f64>() / n;
    let d: Vec<f64> = tr.thermal.iter().zip(&tr.thermal_ideal).map(|(r, i)| i - r).collect();
    let mean_d = d.iter().sum::<f64>() / n;
    let (mut xy, mut xx) = (0.0, 0.0);
    for (t, d) in tr.t.iter().zip(&d) {
        xy += (t - mean_t) * (d - mean_d);
        xx += (t - mean_t).powi(2);
    }
    if xx > 0.0 { xy / xx } else { 0.0 }
}

/// The whole trace as changes since `from`.
fn draw(gas: &HeldGas, from: f64, gain_sd: f64) -> Vec<TracePoint> {
    let (first, last) = (gas.pressure.t[0], gas.pressure.t[gas.pressure.len() - 1]);
    let Some(tr) = traces(gas, first, last, 240) else {
        let (p, _) = gas.pressure.thinned(240);
        let zero = p.at(from).unwrap_or(0.0);
        return p.t.iter().zip(&p.v).map(|(&at_s, &v)| TracePoint { at_s, raw: v - zero, corrected: None, ribbon: None, temperature: None }).collect();
    };
    let corrected = tr.corrected();
    let at = |v: &[f64]| crate::reading::Series { t: tr.t.clone(), v: v.to_vec() }.at(from).unwrap_or(0.0);
    let (zero_raw, zero_corrected, zero_thermal) = (at(&tr.raw), at(&corrected), at(&tr.thermal));
    tr.t.iter()
        .enumerate()
        .map(|(i, &t)| TracePoint {
            at_s: t,
            raw: tr.raw[i] - zero_raw,
            corrected: Some(corrected[i] - zero_corrected),
            ribbon: Some(1.96 * ((gain_sd * (tr.thermal[i] - zero_thermal)).hypot(gas.digit / 12f64.sqrt()))),
            temperature: Some(gas.probes.iter().map(|(s, w)| w * s.at(t).unwrap_or(f64::NAN)).sum()),
        })
        .collect()
}
