//! The trace of a hold as it is drawn: changes since the settled start.

use super::amount::{Traces, traces};
use super::finding::TracePoint;
use super::gather::HeldGas;
use crate::reading::Series;

/// The trace before there is a model of it.
pub(super) fn draw_raw(gas: &HeldGas) -> Vec<TracePoint> {
    if let Some(tr) = traces(gas) {
        return draw(&tr, gas, tr.t[0], 0.0);
    }
    let zero = gas.pressure.v.first().copied().unwrap_or(0.0);
    bare(&gas.pressure, zero)
}

/// Pressure alone, as changes from `zero`.
fn bare(p: &Series, zero: f64) -> Vec<TracePoint> {
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
pub(super) fn draw(tr: &Traces, gas: &HeldGas, from: f64, gain_sd: f64) -> Vec<TracePoint> {
    let corrected = tr.corrected();
    let at = |v: &[f64]| {
        Series {
            t: tr.t.clone(),
            v: v.to_vec(),
        }
        .at(from)
        .unwrap_or(0.0)
    };
    let (zero_raw, zero_corrected, zero_thermal) = (at(&tr.raw), at(&corrected), at(&tr.thermal));
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
