//! A hold without any thermometer: what temperature would have to have done.

use crate::matter::nitrogen::pressure_per_kelvin;
use crate::quantity::{AbsolutePressure, Temperature};
use crate::reading::Series;
use serde::{Deserialize, Serialize};

/// Pressure changes of a hold without temperature, and their temperature equivalents.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct Untempered {
    /// First to last, Pa (positive: fell).
    pub fall: f64,
    /// Time between, s.
    pub duration: f64,
    /// Pa per K at this pressure, near room temperature.
    pub per_kelvin: f64,
    /// Half a digit at either end and the gauge's wandering: what cannot be read from two readings, Pa.
    pub blur: f64,
}

/// Fastest cooling that is still believable, K: 15 °F in 10 min, growing with the root of time, at most 60 °F.
/// Common practice, no source.
#[must_use]
pub fn believable(duration: f64) -> f64 {
    (15.0 / 1.8 * (duration / 600.0).max(1.0).sqrt()).min(60.0 / 1.8)
}

/// Looks at the ends of the trace, each a mean of the readings within a twentieth of the time.
#[must_use]
pub fn look(p: &Series, digit: f64) -> Option<Untempered> {
    let (&first, &last) = (p.t.first()?, p.t.last()?);
    let edge = 0.05 * (last - first);
    let mean = |a: f64, b: f64| {
        let s = p.between(a, b);
        s.v.iter().sum::<f64>() / s.len().max(1) as f64
    };
    let (start, end) = (mean(first, first + edge), mean(last - edge, last));
    Some(Untempered {
        fall: start - end,
        duration: last - first,
        per_kelvin: pressure_per_kelvin(
            AbsolutePressure::from_pa(start),
            Temperature::from_c(20.0),
        ),
        blur: digit + 1e-4 * start,
    })
}
