//! A hold's trace fitted: what is believed beforehand, the fit, the settled start, and the loss it tells.

use super::amount::{Traces, traces};
use super::finding::{Correction, HoldFinding, Loss};
use super::gather::{HeldGas, Thermometer};
use super::model::{Fit, Gain, Priors, SPANS, fit};
use super::settle::{Settling, believed, settle};
use crate::reading::{HoldLimit, Placement, Recording};

/// Gain of the temperature correction, standard deviation: one probe stands for all the gas; several bound each other;
/// one that is left of several stands for parts it was never on. Common practice, no source.
const GAIN: (f64, f64, f64) = (0.15, 0.07, 0.2);
/// A probe with less of the volume than this does not bound the others.
const MATTERS: f64 = 0.05;
/// How far what was said of a probe is trusted: it may have slipped, or been told by habit. Common practice, no source.
const TRUST: f64 = 0.6;
/// Weights of the spans of lag when nobody said how the probe sits. Common practice, no source.
const LAGS: [f64; SPANS.len()] = [0.08, 0.14, 0.24, 0.16, 0.13, 0.10, 0.08, 0.05, 0.05];

/// Gain (standard deviation) and lags of a probe that sits as told. Common practice, no source.
fn sits(placement: Placement) -> (f64, [f64; SPANS.len()]) {
    match placement {
        Placement::Strapped => (0.05, [0.0, 0.0, 0.5, 0.5, 0.0, 0.0, 0.0, 0.0, 0.0]),
        Placement::Clamped => (0.10, [0.0, 0.0, 0.2, 0.2, 0.25, 0.35, 0.0, 0.0, 0.0]),
        Placement::Air => (0.20, [0.0, 0.0, 0.05, 0.08, 0.12, 0.2, 0.22, 0.18, 0.15]),
        Placement::Infrared => (0.25, LAGS),
    }
}

/// How surely the gain is known, and the weights of the lags: so many probes that sit so, or one that is left of
/// several.
pub fn held_to(
    count: usize,
    is_left: bool,
    placement: Option<Placement>,
) -> (Gain, [f64; SPANS.len()]) {
    let (one, several, left) = GAIN;
    let wide = match count {
        2.. => several,
        _ if is_left => left,
        _ => one,
    };
    let Some(placement) = placement else {
        return (Gain { wide, told: None }, LAGS);
    };
    let (sd, lags) = sits(placement);
    // Several that sit alike bound each other as several of which nothing is known do.
    let sd = if count >= 2 { sd * several / one } else { sd };
    let lags = std::array::from_fn(|i| TRUST * lags[i] + (1.0 - TRUST) * LAGS[i]);
    let gain = Gain {
        wide: wide.max(sd),
        told: (sd < wide).then_some((sd, TRUST)),
    };
    (gain, lags)
}

/// A gauge's reading moves by this share of its range for a kelvin of its own, and the sun warms it by so many kelvin.
/// Common practice, no source.
pub const GAUGE: f64 = 2e-4;
pub const SUN: f64 = 15.0;

/// No gauge is steadier than this share of its range. Common practice, no source.
const STEADIEST: f64 = 1e-5;

/// No gas follows what probes tell more nearly than this share of the swing, however quiet its gauge: a model of it is
/// never better. Common practice, no source.
const SHAPE: f64 = 3e-3;

/// Readings so far apart (s) of a probe with so coarse a digit (K) widen the interval by half of so much.
struct Seldom {
    apart: f64,
    digit: f64,
    wider: f64,
}
const SELDOM: Seldom = Seldom {
    apart: 1_800.0,
    digit: 1.0 / 1.8,
    wider: 0.32,
};

/// What is believed of a hold before its trace is looked at.
#[must_use]
pub fn priors(gas: &HeldGas, limit: HoldLimit) -> Priors {
    let p = gas.pressure.v[0];
    let (from, to) = (gas.pressure.t[0], gas.pressure.t[gas.pressure.len() - 1]);
    let hours = ((to - from) / 3600.0).max(1e-3);
    // Weather wanders by about 1 hPa per root hour (common practice); a slope over the hold sees 1.2 of the ends'
    // share.
    let weather = if gas.weather_unknown {
        110.0 * hours.sqrt() / (to - from).max(1.0)
    } else {
        0.0
    };
    let count = gas.probes.iter().filter(|t| t.share > MATTERS).count();
    let (gain, lags) = held_to(count, gas.lost_a_probe, gas.placement);
    Priors {
        gain,
        lags,
        gauge: GAUGE * gas.range,
        warming: GAUGE * gas.range,
        sun: gas
            .sun
            .map(|t| ((t - from).max(0.0), SUN * GAUGE * gas.range)),
        filling: believed(p, (from - gas.start).max(0.0), gas.first_alone()),
        loss: (20.0 * limit.rate()).max(p / 36_000.0),
        noise: (
            (1.5e-5 * p).max(STEADIEST * gas.range),
            (4e-3 * p).max(gas.digit),
        ),
        usual: 4e-4 * p,
        extra: weather,
        side_share: gas.side_share,
        steps: gas
            .steps
            .iter()
            .map(|&(t, share)| (t - from, share * p))
            .collect(),
    }
}

/// How much wider the interval is because a coarse probe was read so seldom that its readings hardly tell the lag: what
/// was believed of it beforehand then decides, and is no better than that. Chosen on the simulated cells of
/// docs/method.md from seed 900000 and looked at on others.
fn seldom(gas: &HeldGas, span: f64) -> f64 {
    let of = |probe: &Thermometer| {
        let apart = span / (probe.readings.len().max(2) - 1) as f64;
        let coarse = probe.eye.digit / (probe.eye.digit + SELDOM.digit);
        SELDOM.wider * coarse * (apart / SELDOM.apart).min(1.0).sqrt()
    };
    1.0 + gas
        .probes
        .iter()
        .map(|probe| probe.share * of(probe))
        .sum::<f64>()
}

/// What a fit found, with all that the decision looks at.
pub struct Fitted<'a> {
    pub recording: &'a Recording,
    pub gas: &'a HeldGas,
    pub priors: Priors,
    pub traces: Traces,
    pub fit: Fit,
    pub settling: Settling,
    /// The clock was started by hand then.
    pub by_hand: Option<f64>,
    /// When it would have settled without that.
    pub settled_by_itself: Option<f64>,
    /// Settled start, else the first reading.
    pub from: f64,
    pub last: f64,
}

/// Fits a trace; nothing: it cannot be.
pub fn fitted<'a>(
    v: &HoldFinding,
    recording: &'a Recording,
    gas: &'a HeldGas,
) -> Option<Fitted<'a>> {
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
        for filling in &mut priors.filling {
            let most = threshold * ((t - first) / filling.tau).exp();
            filling.sizes.iter_mut().for_each(|s| *s = s.min(most));
        }
    }
    let traces = traces(gas)?;
    let swing = traces.thermal.iter().fold(0f64, |m, v| m.max(v.abs()));
    priors.noise.0 = priors.noise.0.max(SHAPE * swing);
    let mut fit = fit(&traces, &priors)?;
    fit.loss = fit.loss.stretched(seldom(gas, last - first));
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

/// Gain and lag, when this hold's own weather has told them better than they were known before.
pub fn correction(fit: &Fit, p: &Priors) -> Option<Correction> {
    (fit.gain.1 < 0.6 * p.gain.told.map_or(p.gain.wide, |t| t.0)).then_some(Correction {
        gain: fit.gain.0,
        gain_sd: fit.gain.1,
        lag_s: fit.lag.0,
        lag_sd: fit.lag.1,
    })
}

/// A gain is said at this one-sided level: a tight system may look as if it gained once in so many, and is then accused
/// of the impossible.
const SURELY_GAINED: f64 = 0.997;

/// The loss with its interval; `share`: of what it was at the first reading.
pub fn summarise(fit: &Fit, share: f64) -> Loss {
    let m = &fit.loss;
    Loss {
        value: share * m.moments().0,
        low: share * m.quantile(0.025),
        high: share * m.quantile(0.975),
        surely: share * m.quantile(0.01),
        at_most: share * m.quantile(SURELY_GAINED),
    }
}

/// Least-squares slope of real minus ideal correction from the settled start on, Pa/s: what a hand check with P/T
/// would differ by.
pub fn slope_difference(tr: &Traces, from: f64) -> f64 {
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
