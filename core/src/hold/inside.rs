//! Refrigerant in the test gas, told from the readings though nobody said so.
//!
//! Liquid that is left stands at its saturation: R-410A at 70 °F moves by some 3.3 psi a degree Fahrenheit, nitrogen at
//! 275 psig by 0.57. A trace that moves so is no nitrogen, and its correction would invent or hide a loss.
//!
//! P = a + b·t + c·T over block means, by least squares: c against what nitrogen does. It says so only where
//! temperature went up or down apart from a straight line, so that filling or a leak cannot be taken for it.

use super::gather::HeldGas;
use crate::matter::nitrogen;
use crate::quantity::{AbsolutePressure, Temperature};
use nalgebra::{Matrix3, Vector3};

const BLOCKS: usize = 24;
/// Temperature moves at least this much, K, apart from a straight line.
const APART: f64 = 0.5;
/// So many times what nitrogen does, less four standard errors (common practice, no source).
const TIMES: f64 = 2.0;
/// Block means are not independent: their errors are this much larger.
const CORRELATED: f64 = 2.0;

/// How many times as far as nitrogen the pressure moves with temperature since `from`, if that is plainly more.
pub fn moves_like_refrigerant(gas: &HeldGas, from: f64) -> Option<f64> {
    let p = &gas.pressure;
    let last = *p.t.last()?;
    let step = (last - from) / BLOCKS as f64;
    let total: f64 = gas.probes.iter().map(|x| x.share).sum();
    if step <= 0.0 || total <= 0.0 {
        return None;
    }
    let kelvin = |t: f64| -> Option<f64> {
        let mut sum = 0.0;
        for x in &gas.probes {
            sum += x.share * x.readings.at(t)?;
        }
        Some(sum / total)
    };
    // Block means: time in units of the whole, pressure, temperature.
    let mut rows: Vec<(f64, f64, f64)> = vec![];
    for k in 0..BLOCKS {
        let (a, b) = (from + k as f64 * step, from + (k + 1) as f64 * step);
        let inside: Vec<(f64, f64)> = (0..p.len())
            .filter(|&i| p.t[i] >= a && p.t[i] < b)
            .filter_map(|i| Some((p.v[i], kelvin(p.t[i])?)))
            .collect();
        if !inside.is_empty() {
            let n = inside.len() as f64;
            let mean = |f: fn(&(f64, f64)) -> f64| inside.iter().map(f).sum::<f64>() / n;
            rows.push((
                (k as f64 + 0.5) / BLOCKS as f64,
                mean(|x| x.0),
                mean(|x| x.1),
            ));
        }
    }
    if rows.len() < BLOCKS / 2 {
        return None;
    }
    let n = rows.len() as f64;
    let (tm, pm, km) = rows.iter().fold((0.0, 0.0, 0.0), |s, r| {
        (s.0 + r.0 / n, s.1 + r.1 / n, s.2 + r.2 / n)
    });
    // What of the temperature no straight line explains.
    let slope = rows.iter().map(|r| (r.0 - tm) * (r.2 - km)).sum::<f64>()
        / rows.iter().map(|r| (r.0 - tm).powi(2)).sum::<f64>();
    let apart: Vec<f64> = rows.iter().map(|r| r.2 - km - slope * (r.0 - tm)).collect();
    let range = apart.iter().copied().fold(f64::MIN, f64::max)
        - apart.iter().copied().fold(f64::MAX, f64::min);
    if range < APART {
        return None;
    }
    let mut normal = Matrix3::zeros();
    let mut right = Vector3::zeros();
    for r in &rows {
        let x = Vector3::new(1.0, r.0 - tm, r.2 - km);
        normal += x * x.transpose();
        right += x * (r.1 - pm);
    }
    let inverse = normal.try_inverse()?;
    let fit = inverse * right;
    let left: f64 = rows
        .iter()
        .map(|r| (r.1 - pm - fit[0] - fit[1] * (r.0 - tm) - fit[2] * (r.2 - km)).powi(2))
        .sum();
    let error = CORRELATED * (left / (n - 3.0) * inverse[(2, 2)]).sqrt();
    let one = nitrogen::pressure_per_kelvin(AbsolutePressure::from_pa(pm), Temperature::from_k(km));
    ((fit[2] - 4.0 * error) / one > TIMES).then_some(fit[2] / one)
}
