//! Which gauge counts, what the others say, where readings are missing, and the temperature.

use super::VacuumPoint;
use crate::reading::{Position, Quantity, Recording, Series};

/// The gauge that counts: far from the pump if there is one, else the one that reads highest. There is no vacuum of
/// zero: such readings are a gauge that shows nothing, and are left out.
pub fn far_gauge(recording: &Recording) -> Option<(usize, Series)> {
    let shown = |i: usize| {
        let s = recording.series(i);
        let (t, v) = s.t.into_iter().zip(s.v).filter(|(_, v)| *v > 0.0).unzip();
        Series { t, v }
    };
    let all: Vec<(usize, Series)> = recording
        .channels_of(Quantity::AbsolutePressure)
        .map(|i| (i, shown(i)))
        .filter(|(_, s)| !s.is_empty())
        .collect();
    let far = all
        .iter()
        .find(|(i, _)| recording.channels[*i].position == Some(Position::Far));
    far.or_else(|| {
        all.iter().max_by(|a, b| {
            a.1.v
                .last()
                .unwrap_or(&0.0)
                .total_cmp(b.1.v.last().unwrap_or(&0.0))
        })
    })
    .cloned()
}

/// A trace as it is drawn: at most so many points.
pub fn drawn(s: &Series, most: usize) -> Vec<VacuumPoint> {
    let (thin, _) = s.thinned(most);
    thin.t
        .iter()
        .zip(&thin.v)
        .map(|(&at_s, &level)| VacuumPoint { at_s, level })
        .collect()
}

/// The other vacuum gauge, if there is one.
pub fn other_gauge(recording: &Recording, counts: usize) -> Option<(usize, Series)> {
    recording
        .channels_of(Quantity::AbsolutePressure)
        .find(|&i| i != counts)
        .map(|i| (i, recording.series(i)))
}

/// The coldest temperature read anywhere, K.
#[must_use]
pub fn coldest(recording: &Recording) -> Option<f64> {
    recording
        .channels_of(Quantity::Temperature)
        .filter_map(|i| recording.series(i).v.into_iter().reduce(f64::min))
        .reduce(f64::min)
}

/// Steady change of temperature over the record, K/h: a straight line through every probe, their mean.
pub fn drift(recording: &Recording) -> Option<f64> {
    let slopes: Vec<f64> = recording
        .channels_of(Quantity::Temperature)
        .filter_map(|i| {
            let s = recording.series(i);
            let n = s.len() as f64;
            let (mt, mv) = (s.t.iter().sum::<f64>() / n, s.v.iter().sum::<f64>() / n);
            let spread: f64 = s.t.iter().map(|t| (t - mt).powi(2)).sum();
            (s.len() > 2 && spread > 0.0).then(|| {
                3600.0
                    * s.t
                        .iter()
                        .zip(&s.v)
                        .map(|(t, v)| (t - mt) * (v - mv))
                        .sum::<f64>()
                    / spread
            })
        })
        .collect();
    (!slopes.is_empty()).then(|| slopes.iter().sum::<f64>() / slopes.len() as f64)
}

/// A pause this long, s, and this many times the usual time between readings, is a gap: the gauge switched itself off.
const GAP: (f64, f64) = (120.0, 5.0);

/// Gaps in a series: from and to, s.
pub fn gaps(s: &Series) -> Vec<(f64, f64)> {
    let mut steps: Vec<f64> = s.t.windows(2).map(|w| w[1] - w[0]).collect();
    steps.sort_by(f64::total_cmp);
    let usual = steps.get(steps.len() / 2).copied().unwrap_or(0.0);
    s.t.windows(2)
        .filter(|w| w[1] - w[0] > GAP.0.max(GAP.1 * usual))
        .map(|w| (w[0], w[1]))
        .collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_gauge_that_switched_itself_off_leaves_a_gap() {
        let t: Vec<f64> = (0..60).chain(300..360).map(f64::from).collect();
        let s = Series {
            v: vec![40.0; t.len()],
            t,
        };
        assert_eq!(gaps(&s), vec![(59.0, 300.0)]);
    }
}
