//! The model of a hold, and the loss with everything else summed over.
//!
//! y(t) = a − r·t + g·u_L(t) + Σ shares + k·ΔT_gauge(t) + b·(1 − e^(−t/15 min)) + c·e^(−t/τ) + c'·e^(−t/2τ)
//!        + d·e^(−t/L) + w·Δ(sides) + Σ steps + s·ε(t)
//!
//! y raw change of pressure (Pa), r loss (Pa/s), u_L what temperature alone does (Pa) seen through a lag L,
//! g gain with prior mean 1, k the gauge's own temperature coefficient, b a warming of the gauge no probe saw,
//! c, c' the transient of filling, d the lag's own start,
//! w the error of the sides' shares, a step wherever something was done, ε noise:
//! Ornstein-Uhlenbeck plus white. L, τ, the noise's
//! correlation time, its colour and its size s are summed over grids; the rest is solved exactly.
//! The priors are common practice without a source.

use super::amount::Traces;
use crate::matter::atmosphere::SEA_LEVEL;
use crate::stat::{Blocks, Gram, MOST, Mixture, Posterior, correlated, whiten};

/// Spans of lag of the gas behind the probe (s) with prior weights; negative: the probe is late. Within a span the
/// trace is a blend of its two ends, so that a strong swing is not forced onto a grid.
const LAGS: [(f64, f64, f64); 9] = [
    (-300.0, -120.0, 0.08),
    (-120.0, 0.0, 0.14),
    (0.0, 120.0, 0.24),
    (120.0, 300.0, 0.16),
    (300.0, 600.0, 0.13),
    (600.0, 1200.0, 0.10),
    (1200.0, 2000.0, 0.08),
    (2000.0, 2800.0, 0.05),
    (2800.0, 3800.0, 0.05),
];
/// Half the difference between the ends may be blended by so much (standard deviation).
const BLEND: f64 = 0.35;
/// Correlation times of the gauge's wandering, s.
///
/// With prior weights: a short record cannot tell a long wandering from a drift, so the long ones weigh more.
const CORRELATION: [(f64, f64); 4] = [(25.0, 0.05), (80.0, 0.15), (250.0, 0.35), (800.0, 0.45)];
/// White variance per reading against the wandering's variance.
const WHITE: [f64; 3] = [0.0, 3.0, 80.0];
/// Real plants do what no model has: intervals are this much wider than the model's own, and wider still while a
/// record is so short that it is mostly filling, whose shape is the least known. Chosen by looking at the simulated
/// cells of docs/method.md, which are therefore no independent check of it.
fn discrepancy(duration: f64) -> f64 {
    1.2 + 0.55 * (-duration / 900.0).exp()
}
/// A part of the filling's heat sits in metal and fades this many times more slowly, …
pub const SLOWER: f64 = 2.0;
/// … with this share of the amplitude (standard deviations). Common practice, no source.
const SLOW_SHARE: f64 = 0.2;
/// A warming of the gauge that no probe saw grows with this time constant, s.
const GAUGE_WARMING: f64 = 900.0;

/// What is known before looking at the trace.
#[derive(Debug, Clone)]
pub struct Priors {
    /// Standard deviation of the gain of the temperature correction.
    pub gain: f64,
    /// Of the gauge's temperature coefficient, Pa/K.
    pub gauge: f64,
    /// Of an unseen warming of the gauge, Pa.
    pub warming: f64,
    /// Time constants of the filling transient (s) with log weight and standard deviation at the first block (Pa).
    pub transient: Vec<(f64, f64, f64)>,
    /// Of the loss, Pa/s.
    pub loss: f64,
    /// Smallest and largest noise scale, Pa.
    pub noise: (f64, f64),
    /// Wandering that is usual for a gauge, Pa: much more than this is rather a misfit of the temperature.
    pub usual: f64,
    /// Extra uncertainty of the loss, Pa/s (weather, digits).
    pub extra: f64,
    /// Seconds after the first block at which an unseen warming of the gauge began.
    pub warming_from: f64,
    /// How far the sides' shares of the volume are known (standard deviation).
    pub side_share: f64,
    /// Steps: when (s after the first block) and how large one may be, Pa.
    pub steps: Vec<(f64, f64)>,
}

/// What came out.
#[derive(Debug, Clone)]
pub struct Fit {
    /// Loss, Pa/s.
    pub loss: Mixture,
    /// Gain, mean and standard deviation.
    pub gain: (f64, f64),
    /// Lag of the gas behind its probe, mean and standard deviation, s.
    pub lag: (f64, f64),
    /// The transient of every cell kept.
    pub transient: Vec<Transient>,
}

/// Fading of the filling's heat in one cell of the grids: amplitudes at the first block, Pa.
#[derive(Debug, Clone, Copy)]
pub struct Transient {
    /// Log weight of the cell.
    pub log_weight: f64,
    /// Time constant of the fast part, s; the slow one is [`SLOWER`] times that.
    pub tau: f64,
    /// Fast part, mean and standard deviation.
    pub fast: (f64, f64),
    /// Slow part, mean and standard deviation.
    pub slow: (f64, f64),
}

/// `u` as seen through a lag: first-order for a gas behind its probe, a shift for a probe behind the gas.
fn lagged(t: &[f64], u: &[f64], lag: f64) -> Vec<f64> {
    if lag == 0.0 {
        return u.to_vec();
    }
    if lag < 0.0 {
        // The probe is a low-pass of the gas; undone it is u + |L| du/dt, the slope taken over two thirds of the lag.
        let n = u.len();
        let reach = -lag / 2.0;
        return (0..n)
            .map(|i| {
                let a = t
                    .partition_point(|&x| x < t[i] - reach)
                    .min(i.saturating_sub(1));
                let b = (t.partition_point(|&x| x <= t[i] + reach).max(i + 2) - 1).min(n - 1);
                u[i] - lag * (u[b] - u[a]) / (t[b] - t[a]).max(1e-9)
            })
            .collect();
    }
    let mut out = vec![0.0; u.len()];
    for i in 1..u.len() {
        let h = (t[i] - t[i - 1]) / lag;
        // Exact for a u that is straight between points.
        let decay = (-h).exp();
        let ramp = if h > 1e-6 {
            1.0 - (1.0 - decay) / h
        } else {
            0.5 * h
        };
        out[i] = decay * out[i - 1] + (1.0 - decay - ramp) * u[i - 1] + ramp * u[i];
    }
    out
}

/// Time weighted by what drives the loss, (P² − P_a²)/(P_0² − P_a²), s: the loss reported is the one at the start.
fn driven(tr: &Traces, t: &[f64]) -> Vec<f64> {
    let drive = |raw: f64| {
        ((tr.p0 + raw).powi(2) - SEA_LEVEL.pa().powi(2)) / (tr.p0.powi(2) - SEA_LEVEL.pa().powi(2))
    };
    let mut sum = 0.0;
    (0..t.len())
        .map(|i| {
            if i > 0 {
                sum += (t[i] - t[i - 1]) * 0.5 * (drive(tr.raw[i - 1]) + drive(tr.raw[i]));
            }
            sum
        })
        .collect()
}

/// Steepness of `u` at its beginning, Pa/s, with a floor: what an unknown history may have left behind.
fn early_rate(t: &[f64], u: &[f64], lag: f64) -> f64 {
    let span = t[t.len() - 1] - t[0];
    let reach = lag.abs().max(600.0).min(span.max(1.0));
    let n = t
        .partition_point(|&x| x - t[0] <= reach)
        .max(2)
        .min(t.len());
    let (lo, hi) = u[..n]
        .iter()
        .fold((f64::MAX, f64::MIN), |(a, b), &v| (a.min(v), b.max(v)));
    (hi - lo) / reach.max(1.0)
}

/// A fading e^(−x/τ) as its mean over a block of width `w`.
fn fading(x: f64, w: f64, tau: f64) -> f64 {
    let h = 0.5 * w / tau;
    (-x / tau).exp() * if h < 1e-4 { 1.0 } else { h.sinh() / h }
}

/// Everything of a trace that does not depend on the noise: columns, and where each is.
struct Design {
    columns: Vec<Vec<f64>>,
    blocks: Blocks,
    duration: f64,
    transients: Vec<usize>,
    lags: Vec<LagColumns>,
    /// Further columns with their prior's standard deviation: each probe's own part, the sides' difference, steps.
    further: Vec<(usize, f64)>,
}

/// Where the columns of one span of lags are.
struct LagColumns {
    span: (f64, f64),
    weight: f64,
    middle: usize,
    spread: usize,
    start: usize,
    start_sd: f64,
}

/// Coefficients every solve has: one, loss, gauge air, gain, transient fast and slow, warming, lag's spread and start.
const ALWAYS: usize = 9;
/// Each probe's share of the volume is known to this (standard deviation), so that the difference of two counts by a
/// tenth. Common practice, no source.
const SHARE: f64 = 0.14;

fn design(tr: &Traces, priors: &Priors) -> Option<Design> {
    let n = tr.t.len();
    if n < 3 {
        return None;
    }
    let t: Vec<f64> = tr.t.iter().map(|x| x - tr.t[0]).collect();
    let duration = t[n - 1];
    let along = |f: &dyn Fn(f64, f64) -> f64| -> Vec<f64> {
        t.iter().zip(&tr.width).map(|(&x, &w)| f(x, w)).collect()
    };
    // Columns: 0 one, 1 −t, 2 gauge air, 3 gauge warming, then the further ones, transients, lags, and y last.
    let mut columns = vec![
        vec![1.0; n],
        driven(tr, &t).into_iter().map(|x| -x / duration).collect(),
        tr.gauge_air.clone(),
        along(&|x, _| 1.0 - (-(x - priors.warming_from).max(0.0) / GAUGE_WARMING).exp()),
    ];
    let mut further = Vec::new();
    for part in tr.probe_parts.iter().take(4) {
        further.push((columns.len(), SHARE));
        columns.push(part.clone());
    }
    if !tr.apart.is_empty() {
        further.push((columns.len(), priors.side_share));
        columns.push(tr.apart.clone());
    }
    for &(at, sd) in priors
        .steps
        .iter()
        .filter(|(at, _)| *at > 0.0 && *at < duration)
        .take(MOST - ALWAYS - further.len())
    {
        further.push((columns.len(), sd));
        // A block across the moment holds a part of the step.
        columns.push(along(&|x, w| {
            if w > 0.0 {
                ((x + 0.5 * w - at) / w).clamp(0.0, 1.0)
            } else {
                f64::from(u8::from(x >= at))
            }
        }));
    }
    let transients = priors
        .transient
        .iter()
        .map(|&(tau, _, _)| {
            columns.push(along(&|x, w| fading(x, w, tau)));
            columns.push(along(&|x, w| fading(x, w, SLOWER * tau)));
            columns.len() - 2
        })
        .collect();
    // A temperature that hardly moves has no lag worth asking about.
    let swing = tr.thermal.iter().fold(0f64, |m, v| m.max(v.abs()));
    let spans: &[(f64, f64, f64)] = if swing > 0.3 * priors.noise.0 {
        &LAGS
    } else {
        &LAGS[2..3]
    };
    let lags = spans
        .iter()
        .map(|&(near, far, weight)| {
            let (a, b) = (lagged(&t, &tr.thermal, near), lagged(&t, &tr.thermal, far));
            let middle: Vec<f64> = a.iter().zip(&b).map(|(a, b)| 0.5 * (a + b)).collect();
            // What the lag had left over when the record began is about what it leaves over within it.
            let behind = (middle
                .iter()
                .zip(&tr.thermal)
                .map(|(m, u)| (m - u).powi(2))
                .sum::<f64>()
                / n as f64)
                .sqrt();
            let tau = (0.5 * (near + far)).abs().max(30.0);
            columns.push(a.iter().zip(&b).map(|(a, b)| a - b).collect());
            columns.push(along(&|x, w| fading(x, w, tau)));
            columns.push(middle);
            LagColumns {
                span: (near, far),
                weight,
                middle: columns.len() - 1,
                spread: columns.len() - 3,
                start: columns.len() - 2,
                start_sd: behind.max(early_rate(&t, &tr.thermal, tau) * tau),
            }
        })
        .collect();
    columns.push(tr.raw.clone());
    Some(Design {
        columns,
        blocks: Blocks {
            t,
            width: tr.width.clone(),
            count: tr.count.clone(),
        },
        duration,
        transients,
        lags,
        further,
    })
}

impl Design {
    fn solve(
        &self,
        gram: &Gram,
        priors: &Priors,
        s: f64,
        lag: &LagColumns,
        transient: usize,
    ) -> Option<Posterior> {
        let (_, _, sd) = priors.transient[transient];
        let first = self.transients[transient];
        let mut columns = [0; MOST];
        let mut known = [(0.0, 1.0); MOST];
        columns[..ALWAYS].copy_from_slice(&[
            0,
            1,
            2,
            lag.middle,
            first,
            first + 1,
            3,
            lag.spread,
            lag.start,
        ]);
        known[..ALWAYS].copy_from_slice(&[
            (0.0, 1e6),
            (0.0, priors.loss * self.duration),
            (0.0, priors.gauge),
            (1.0, priors.gain),
            (0.0, sd.max(1e-3)),
            (0.0, (SLOW_SHARE * sd).max(1e-3)),
            (0.0, priors.warming.max(1e-3)),
            (0.0, BLEND),
            (0.0, lag.start_sd.max(1e-3)),
        ]);
        for (i, &(column, sd)) in self.further.iter().enumerate() {
            columns[ALWAYS + i] = column;
            known[ALWAYS + i] = (0.0, sd);
        }
        let used = ALWAYS + self.further.len();
        gram.solve(&columns[..used], &known[..used], s)
    }
}

/// Fits the model. `None` when nothing could be solved, which must never become a pass.
#[must_use]
pub fn fit(tr: &Traces, priors: &Priors) -> Option<Fit> {
    let d = design(tr, priors)?;
    let ratio = 1.45f64;
    let steps = ((priors.noise.1 / priors.noise.0).ln() / ratio.ln())
        .ceil()
        .clamp(1.0, 40.0) as i32;
    let (mut loss, mut gain, mut lagging) =
        (Mixture::default(), Mixture::default(), Mixture::default());
    let (mut transient, mut best) = (Vec::new(), f64::NEG_INFINITY);
    // On a long hold something may wander over hours; very short ones have no room for the table.
    let own = [(d.duration / 3.0, 0.25)]
        .into_iter()
        .filter(|(x, _)| *x > 1000.0 || *x < 15.0);
    for (tau, w_noise) in CORRELATION.into_iter().chain(own) {
        for white in WHITE {
            let Some(gram) = whiten(correlated(&d.blocks, tau, white), &d.columns) else {
                continue;
            };
            // The size of the noise is found at the most likely lag first; far-off sizes are skipped for the others.
            let mut keep = f64::NEG_INFINITY;
            for k in 0..=steps {
                let s = priors.noise.0 * ratio.powi(k);
                let (mut any, mut top) = (false, f64::NEG_INFINITY);
                for lag in &d.lags {
                    for (i, &(tau_c, w_tau, _)) in priors.transient.iter().enumerate() {
                        let Some(p) = d.solve(&gram, priors, s, lag, i) else {
                            continue;
                        };
                        any = true;
                        let log_w = p.log_evidence + f64::ln(lag.weight * w_noise) + w_tau
                            - (1.0 + (s / priors.usual).powi(2)).ln();
                        top = top.max(log_w);
                        best = best.max(log_w);
                        if log_w > best - 10.0 {
                            loss.add(log_w, p.mean[1] / d.duration, p.sd[1] / d.duration);
                            gain.add(log_w, p.mean[3], p.sd[3]);
                            // The blend runs from +½ at the span's near end to −½ at its far one.
                            let (near, far) = lag.span;
                            let blend = p.mean[7].clamp(-0.5, 0.5);
                            lagging.add(
                                log_w,
                                0.5 * (near + far) + blend * (near - far),
                                (p.sd[7] * (far - near)).min(0.3 * (far - near)),
                            );
                            transient.push(Transient {
                                log_weight: log_w,
                                tau: tau_c,
                                fast: (p.mean[4], p.sd[4]),
                                slow: (p.mean[5], p.sd[5]),
                            });
                        }
                    }
                }
                keep = keep.max(top);
                if any && top < keep - 12.0 {
                    break;
                }
            }
        }
    }
    if loss.is_empty() {
        return None;
    }
    loss.widen(priors.extra);
    transient.retain(|c: &Transient| c.log_weight > best - 9.0);
    Some(Fit {
        loss: loss.settled().stretched(discrepancy(d.duration)),
        gain: gain.settled().moments(),
        lag: lagging.settled().moments(),
        transient,
    })
}

/// Noise and lag as if they were known.
#[derive(Debug, Clone, Copy)]
pub struct KnownPlant {
    /// Correlation time of the wandering, s.
    pub tau: f64,
    /// Its standard deviation, Pa.
    pub wander: f64,
    /// Fast noise of one reading, Pa, digits included.
    pub fast: f64,
    /// Lag of the gas behind the probe, s.
    pub lag: f64,
    /// Time constant with which the filling fades, s.
    pub fade: f64,
}

/// Standard deviation of the loss (Pa/s) when noise and lag are known and all else is not: the Bayesian Cramér–Rao
/// bound of this linear model (van Trees 1968, ch. 2.4, from memory). It needs the trace's times and temperatures,
/// not its pressures: the same figure foretells what a planned hold will show.
#[must_use]
pub fn bound(tr: &Traces, priors: &Priors, known: &KnownPlant) -> Option<f64> {
    let d = design(tr, priors)?;
    let white = (known.fast / known.wander.max(1e-6)).powi(2);
    let gram = whiten(correlated(&d.blocks, known.tau, white), &d.columns)?;
    let lag = d
        .lags
        .iter()
        .find(|l| known.lag < l.span.1)
        .or(d.lags.last())?;
    let transient = priors
        .transient
        .iter()
        .enumerate()
        .min_by(|a, b| {
            (a.1.0 - known.fade)
                .abs()
                .total_cmp(&(b.1.0 - known.fade).abs())
        })?
        .0;
    let p = d.solve(&gram, priors, known.wander.max(1e-6), lag, transient)?;
    Some((p.sd[1] / d.duration).hypot(priors.extra))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_lag_delays_a_ramp_by_itself_and_a_late_probe_is_undone() {
        let t: Vec<f64> = (0..200).map(|i| f64::from(i) * 60.0).collect();
        let ramp: Vec<f64> = t.iter().map(|x| x * 2.0).collect();
        let seen = lagged(&t, &ramp, 600.0);
        assert!(
            (seen[199] - 2.0 * (t[199] - 600.0)).abs() < 1.0,
            "{}",
            seen[199]
        );
        let early = lagged(&t, &ramp, -300.0);
        assert!((early[100] - (ramp[100] + 2.0 * 300.0)).abs() < 1e-6);
    }
}
