//! A hold's trace fitted: what is believed beforehand, the fit, the settled start, and the loss it tells.

use super::amount::{Traces, traces};
use super::finding::{Correction, HoldFinding, Loss};
use super::gather::HeldGas;
use super::model::{Fit, Priors, fit};
use super::settle::{Settling, believed, settle};
use crate::matter::nitrogen::pressure_per_kelvin;
use crate::quantity::{AbsolutePressure, Temperature};
use crate::reading::{HoldLimit, Recording};

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
    per_kelvin * gas.unread_k.0.hypot(gas.unread_k.1) / gas.pressure.span().max(1.0)
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

/// Gain and lag, when this hold's own weather has told them better than they were known before.
pub fn correction(fit: &Fit, p: &Priors) -> Option<Correction> {
    (fit.gain.1 < 0.6 * p.gain).then_some(Correction {
        gain: fit.gain.0,
        gain_sd: fit.gain.1,
        lag_s: fit.lag.0,
        lag_sd: fit.lag.1,
    })
}

/// The loss with its interval; `share`: of what it was at the first reading.
pub fn summarise(fit: &Fit, share: f64) -> Loss {
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
