//! The amount of gas on block means, and what temperature alone would have done to its pressure.

use super::gather::HeldGas;
use crate::matter::nitrogen;
use crate::quantity::{AbsolutePressure, Temperature};
use crate::reading::Series;

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
    /// What temperature alone would have done, real gas, Pa.
    pub thermal: Vec<f64>,
    /// The same for an ideal gas, Pa.
    pub thermal_ideal: Vec<f64>,
    /// Mean temperature, K.
    pub temperature: Vec<f64>,
    /// Each probe's own part beyond the common one, Pa (for errors of the shares); none with one probe.
    pub probe_parts: Vec<Vec<f64>>,
    /// Change of the gauge's own temperature, K.
    pub gauge_air: Vec<f64>,
    /// Change of the sides' difference (Pa); empty with one side. Evening out is not a loss.
    pub apart: Vec<f64>,
}

/// Blocks of the first hour and a half of a long hold, where the filling still fades, and of the rest.
const EARLY: (f64, usize, usize) = (5_400.0, 50, 70);

/// Block means of a pressure: fine while the gas still comes to rest, coarse afterwards. Series, widths, counts.
fn blocks(p: &Series) -> (Series, Vec<f64>, Vec<f64>) {
    let (early, fine, coarse) = EARLY;
    let (Some(&first), Some(&last)) = (p.t.first(), p.t.last()) else {
        return (Series::default(), vec![], vec![]);
    };
    let zones = if last - first > 2.0 * early && p.len() > fine + coarse {
        vec![
            (p.between(first, first + early), fine),
            (p.between(first + early + 1e-6, last), coarse),
        ]
    } else {
        vec![(p.clone(), fine + coarse)]
    };
    let (mut out, mut widths, mut counts) = (Series::default(), Vec::new(), Vec::new());
    for (zone, most) in zones {
        let (thin, count) = zone.thinned(most);
        let single = count.iter().all(|&c| c <= 1.0);
        let width = if single || zone.len() < 2 {
            0.0
        } else {
            (zone.t[zone.len() - 1] - zone.t[0]) / most as f64
        };
        widths.extend(std::iter::repeat_n(width, thin.len()));
        counts.extend(count);
        out.t.extend(thin.t);
        out.v.extend(thin.v);
    }
    (out, widths, counts)
}

/// Corrects `gas` on block means. `None` without probes or readings.
#[must_use]
pub fn traces(gas: &HeldGas) -> Option<Traces> {
    let (p, width, count) = blocks(&gas.pressure);
    let n = p.len();
    if n == 0 || gas.probes.is_empty() {
        return None;
    }
    // A probe is read less often than a gauge, or more: its mean around each block, else between its neighbours.
    let at_blocks = |s: &Series| -> Vec<f64> {
        p.t.iter()
            .zip(&width)
            .map(|(&t, &w)| s.mean(t - 0.5 * w, t + 0.5 * w).unwrap_or(f64::NAN))
            .collect()
    };
    let temps: Vec<(Vec<f64>, f64)> = gas.probes.iter().map(|(s, w)| (at_blocks(s), *w)).collect();
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
        count,
        p0,
        raw: Vec::new(),
        thermal: Vec::new(),
        thermal_ideal: Vec::new(),
        temperature: Vec::new(),
        probe_parts: vec![Vec::new(); if temps.len() > 1 { temps.len() } else { 0 }],
        gauge_air: Vec::new(),
        apart: Vec::new(),
    };
    let per_kelvin =
        nitrogen::pressure_per_kelvin(AbsolutePressure::from_pa(p0), Temperature::from_k(t0));
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
