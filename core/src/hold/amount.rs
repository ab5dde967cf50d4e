//! The amount of gas on block means, and what temperature alone would have done to its pressure.

use super::blocks::blocks;
use super::gather::HeldGas;
use super::path::{directions, history, path};
use crate::matter::nitrogen;
use crate::quantity::{AbsolutePressure, Temperature};
use crate::reading::Series;
use crate::stat::{Blocks, correlated, rounding};
use nalgebra::DMatrix;

/// Volume expansion of copper pipe, 1/K: three times 16.6e-6 (a table of materials, from memory).
pub const COPPER: f64 = 5.0e-5;

/// The traces of part of a hold on block means, as changes since its first block.
#[derive(Debug, Clone)]
pub struct Traces {
    /// Block centres, s.
    pub t: Vec<f64>,
    /// Block widths, s (0: a single reading).
    pub width: Vec<f64>,
    /// Readings per block.
    pub count: Vec<f64>,
    /// Absolute pressure at the first block, Pa.
    pub p0: f64,
    /// Raw change of absolute pressure, Pa.
    pub raw: Vec<f64>,
    /// What the expected temperature alone would have done, real gas, Pa.
    pub thermal: Vec<f64>,
    /// The ways in which the temperature may have been otherwise, each one standard deviation, Pa.
    pub ways: Vec<Vec<f64>>,
    /// Covariance of what the digits hide, Pa²; none where the readings' noise averages it away.
    pub hidden: Option<DMatrix<f64>>,
    /// The same for an ideal gas, Pa.
    pub thermal_ideal: Vec<f64>,
    /// Expected mean temperature, K.
    pub temperature: Vec<f64>,
    /// What the weather before the record may have left between gas and probe, Pa (standard deviation), and how likely
    /// it is to be of that size rather than of the record's own.
    pub history: (f64, f64),
    /// How far its change since the first block is known where it is known least (standard deviation), K.
    pub unread_k: f64,
    /// Each probe's own part beyond the common one, Pa (for errors of the shares); none with one probe.
    pub probe_parts: Vec<Vec<f64>>,
    /// Change of the gauge's own temperature, K.
    pub gauge_air: Vec<f64>,
    /// Change of the sides' difference (Pa); empty with one side. Evening out is not a loss.
    pub apart: Vec<f64>,
}

/// Blocks of the first hour and a half of a long hold, and of the rest.
const BLOCKS: (usize, usize) = (40, 40);
/// Ways in which the temperature may have been otherwise that are reckoned with, and the least that counts, as a share
/// of the pressure.
const WAYS: (usize, f64) = (14, 5e-6);
/// Rounding is bounded, not normal: its variance is taken so many times.
const BOUND: f64 = 1.3;
/// Rounding smaller than this does not count, share of the pressure.
const HIDDEN: f64 = 3e-5;

/// What the digits of the gauges may hide: the rounding that no number of readings averages away, until the reading
/// has moved by a digit, or unseen within half the record.
fn hidden(gas: &HeldGas, p: &Series, count: &[f64]) -> Option<DMatrix<f64>> {
    let lasting = BOUND * rounding::lasting(gas.noise, gas.digit);
    (lasting.sqrt() > HIDDEN * p.v[0]).then(|| {
        lasting
            * correlated(
                &Blocks {
                    width: vec![0.0; p.len()],
                    t: rounding::moved(&p.t, &p.v, gas.digit),
                    count: count.to_vec(),
                },
                1.0,
                0.0,
            )
    })
}

/// Corrects `gas` on block means. `None` without probes or readings.
#[must_use]
pub fn traces(gas: &HeldGas) -> Option<Traces> {
    let (p, width, count) = blocks(&gas.pressure, BLOCKS);
    let n = p.len();
    if n < 2 || gas.probes.is_empty() {
        return None;
    }
    let at_blocks = |s: &Series| -> Vec<f64> {
        p.t.iter()
            .zip(&width)
            .map(|(&t, &w)| s.mean(t - 0.5 * w, t + 0.5 * w).unwrap_or(f64::NAN))
            .collect()
    };
    let mut spread = DMatrix::zeros(n, n);
    let mut temps: Vec<(Vec<f64>, f64)> = Vec::new();
    for probe in &gas.probes {
        let own = path(&probe.readings, probe.eye, gas.sky, &p.t)?;
        spread += probe.share * probe.share * own.spread;
        temps.push((own.mean, probe.share));
    }
    let start: Vec<f64> = temps.iter().map(|(t, _)| t[0]).collect();
    let t0: f64 = temps.iter().zip(&start).map(|((_, w), t)| w * t).sum();
    let amount = |pa: f64, at: &dyn Fn(usize) -> f64| -> f64 {
        temps
            .iter()
            .enumerate()
            .map(|(j, (_, w))| {
                let t = at(j);
                w * nitrogen::density(AbsolutePressure::from_pa(pa), Temperature::from_k(t))
                    * (1.0 + COPPER * (t - start[j]))
            })
            .sum()
    };
    let at_start = |j: usize| start[j];
    let p0 = p.v[0];
    let mut out = Traces {
        t: p.t.clone(),
        width: width.clone(),
        count: count.clone(),
        p0,
        raw: Vec::new(),
        thermal: Vec::new(),
        ways: Vec::new(),
        history: (0.0, 0.5),
        hidden: hidden(gas, &p, &count),
        unread_k: (0..n)
            .map(|i| spread[(0, 0)] + spread[(i, i)] - 2.0 * spread[(0, i)])
            .fold(0f64, f64::max)
            .sqrt(),
        thermal_ideal: Vec::new(),
        temperature: Vec::new(),
        probe_parts: vec![Vec::new(); if temps.len() > 1 { temps.len() } else { 0 }],
        gauge_air: Vec::new(),
        apart: Vec::new(),
    };
    let per_kelvin =
        nitrogen::pressure_per_kelvin(AbsolutePressure::from_pa(p0), Temperature::from_k(t0));
    let (left, likely) = history(gas.sky);
    out.history = (per_kelvin * left, likely);
    out.ways = directions(&spread, WAYS.0, WAYS.1 * p0 / per_kelvin);
    for way in out.ways.iter_mut().flatten() {
        *way *= per_kelvin;
    }
    for i in 0..n {
        let held = amount(p.v[i], &|j| temps[j].0[i]);
        // The pressure this amount would have at the start's temperatures (secant, three steps are plenty).
        let mut corrected = p.v[i];
        for _ in 0..4 {
            let f = amount(corrected, &at_start) - held;
            let slope = (amount(corrected + 100.0, &at_start)
                - amount(corrected - 100.0, &at_start))
                / 200.0;
            corrected -= f / slope;
        }
        let mean_change: f64 = temps
            .iter()
            .zip(&start)
            .map(|((t, w), s)| w * (t[i] - s))
            .sum();
        let inverse = |k: usize| -> f64 {
            temps
                .iter()
                .zip(&start)
                .map(|((t, w), s)| w / if k == 0 { *s } else { t[i] })
                .sum()
        };
        out.temperature.push(t0 + mean_change);
        out.raw.push(p.v[i] - p0);
        out.thermal.push(p.v[i] - corrected);
        out.thermal_ideal
            .push(p.v[i] * (1.0 - inverse(1) / inverse(0)));
        for (j, part) in out.probe_parts.iter_mut().enumerate() {
            part.push(per_kelvin * (temps[j].0[i] - start[j] - mean_change));
        }
    }
    out.gauge_air = match gas.gauge_air.as_ref().map(at_blocks) {
        Some(a) => a.iter().map(|v| v - a[0]).collect(),
        None => out.temperature.iter().map(|v| v - t0).collect(),
    };
    out.apart = gas
        .apart
        .as_ref()
        .map(at_blocks)
        .map_or_else(Vec::new, |a| a.iter().map(|v| v - a[0]).collect());
    out.thermal.iter().all(|v| v.is_finite()).then_some(out)
}

impl Traces {
    /// Change of pressure at the start's temperature.
    #[must_use]
    pub fn corrected(&self) -> Vec<f64> {
        self.raw
            .iter()
            .zip(&self.thermal)
            .map(|(r, u)| r - u)
            .collect()
    }
}
