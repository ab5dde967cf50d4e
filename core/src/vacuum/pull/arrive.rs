//! When a pull-down will reach its target.
//!
//! Every curve of the bank is stretched in time until it passes through what the gauge shows now; curves that missed
//! what it showed before count less. What is left tells when the target comes, with a band; a straight line through the
//! last readings would be too hopeful.

use super::bank::{Curve, bank};
use crate::reading::Series;

/// When it gets there, s on the series' own clock: 90 % band and the middle. `None` at an end: not within twelve hours.
#[derive(Debug, Clone, Copy, PartialEq, serde::Serialize, serde::Deserialize)]
pub struct Arrival {
    /// One in twenty gets there earlier.
    pub low: Option<f64>,
    /// Half do.
    pub middle: Option<f64>,
    /// One in twenty later.
    pub high: Option<f64>,
    /// Where it would end if left alone, Pa (the middle of what may be).
    pub floor: Option<f64>,
}

const HORIZON: f64 = 12.0 * 3600.0;
/// Earlier readings looked back at, evenly in the logarithm of time.
const BACK: usize = 14;
/// A curve of the bank is believed to this (relative), and to this share of how far (in ln p) it has come since.
/// Calibrated on simulated pulls (docs/method.md).
const CLOSE: (f64, f64) = (0.015, 0.13);

/// At least so many curves share the answer.
const SPEAKERS: f64 = 5.0;

/// Where it was about `t`: means of ln time and ln level of some readings.
fn level(s: &Series, t: f64, half: f64) -> Option<(f64, f64)> {
    let near = s.between(t - half, t + half);
    let mean = |of: &[f64]| of.iter().map(|v| v.max(1e-3).ln()).sum::<f64>() / near.len() as f64;
    (!near.is_empty()).then(|| (mean(&near.t), mean(&near.v)))
}

/// When `series` (s since the pump ran on it, Pa) reaches `target`; `top`: the gauge shows no more than this.
/// `None`: too little seen to say.
#[must_use]
pub fn arrive(series: &Series, target: f64, top: Option<f64>) -> Option<Arrival> {
    let now = *series.t.last()?;
    let top = top.unwrap_or(f64::INFINITY) * 0.98;
    let seen = series
        .v
        .iter()
        .rposition(|&v| v >= top)
        .map_or(0, |k| k + 1);
    if series.len() < seen + 4 || now < 20.0 || target <= 0.0 {
        return None;
    }
    let (ln_now, here) = level(series, now, 0.03 * now)?;
    // What it showed before: (ln time, ln level).
    let first = series.t[seen].max(0.02 * now).max(1.0);
    let before: Vec<(f64, f64)> = (0..BACK)
        .map(|k| first * (0.97 * now / first).max(1.0).powf(k as f64 / BACK as f64))
        .filter_map(|t| level(series, t, 0.03 * t))
        .collect();
    let mut all: Vec<(f64, f64, f64)> = bank()
        .iter()
        .filter_map(|c| weigh(c, here, ln_now, &before, target.ln()))
        .collect();
    let best = all.iter().map(|a| a.0).fold(f64::NEG_INFINITY, f64::max);
    if !best.is_finite() {
        return None;
    }
    // Where only one curve or two come near, they are not to be believed to the second: loosen until some speak.
    let heat = (0..8).map(|k| 2f64.powi(k)).find(|heat| {
        let w: Vec<f64> = all.iter().map(|a| ((a.0 - best) / heat).exp()).collect();
        w.iter().sum::<f64>().powi(2) / w.iter().map(|x| x * x).sum::<f64>() >= SPEAKERS
    })?;
    all.iter_mut().for_each(|a| a.0 /= heat);
    let best = best / heat;
    all.sort_by(|a, b| a.1.total_cmp(&b.1));
    let total: f64 = all.iter().map(|a| (a.0 - best).exp()).sum();
    let quantile = |q: f64| {
        let mut sum = 0.0;
        all.iter()
            .find(|a| {
                sum += (a.0 - best).exp() / total;
                sum >= q
            })
            .map(|a| a.1)
            .filter(|t| *t < HORIZON)
    };
    let (low, middle, high) = (quantile(0.05), quantile(0.5), quantile(0.95));
    all.sort_by(|a, b| a.2.total_cmp(&b.2));
    let mut sum = 0.0;
    let floor = all.iter().find(|a| {
        sum += (a.0 - best).exp() / total;
        sum >= 0.5
    });
    Some(Arrival {
        low,
        middle,
        high,
        floor: floor.map(|a| a.2.exp()),
    })
}

/// Log weight of a curve, when it arrives, s, and ln of where it ends.
fn weigh(
    c: &Curve,
    here: f64,
    ln_now: f64,
    before: &[(f64, f64)],
    target: f64,
) -> Option<(f64, f64, f64)> {
    let stretch = ln_now - c.reaches(here)?;
    let misfit: f64 = before
        .iter()
        .map(|&(x, y)| {
            let sd = CLOSE.0 + CLOSE.1 * (y - here).abs();
            ((c.at(x - stretch) - y) / sd).powi(2) / 2.0
        })
        .sum();
    let arrives = if here <= target {
        ln_now
    } else {
        c.reaches(target).map_or(f64::INFINITY, |x| x + stretch)
    };
    Some((-misfit, arrives.exp(), c.end().min(here)))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn pull(f: impl Fn(f64) -> f64, until: f64) -> Series {
        let t: Vec<f64> = (0..)
            .map(|k| 5.0 * f64::from(k))
            .take_while(|t| *t <= until)
            .collect();
        Series {
            v: t.iter().map(|&t| f(t)).collect(),
            t,
        }
    }

    /// Another route: the times of `flow`, through a hose of 8 mm and 1.5 m.
    #[test]
    fn a_clean_pull_through_a_hose_arrives_when_the_conductances_say() {
        use crate::flow::{Pump, Pumping, Restriction, Rig, Tube, time_to};
        let hose = Restriction {
            name: "hose".into(),
            tube: Tube::mm(8.0, 1.5),
            side_by_side: 1.0,
            can_go: false,
        };
        let rig = Rig {
            pump: Pump {
                speed: 2e-3,
                ultimate: 3.0,
            },
            line: vec![hose],
        };
        let when = |p: f64| {
            time_to(
                &rig,
                &Pumping {
                    volume: 0.02,
                    from: 101_325.0,
                    load: 0.0,
                },
                p,
            )
            .unwrap()
        };
        let levels: Vec<f64> = (0..=200)
            .map(|k| 3_000.0 * (160.0f64 / 3_000.0).powf(f64::from(k) / 200.0))
            .collect();
        let series = Series {
            t: levels.iter().map(|&p| when(p)).collect(),
            v: levels,
        };
        let (a, truth) = (arrive(&series, 66.6, None).unwrap(), when(66.6));
        assert!(
            (a.low.unwrap()..a.high.unwrap_or(f64::INFINITY)).contains(&truth),
            "{a:?} {truth}"
        );
    }

    #[test]
    fn a_gauge_at_the_top_of_its_range_says_nothing() {
        assert_eq!(arrive(&pull(|_| 3_333.0, 600.0), 66.6, Some(3_333.0)), None);
    }
}
