//! Values over time, and their thinning to a bounded number of points.

use crate::stat::rounding;

/// Beyond this time between readings, s, their differences say nothing of fast noise. Common practice, no source.
const NOISE_SHOWS: f64 = 20.0;

/// Times (s, ascending) and values (SI).
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Series {
    /// Seconds since the recording's start.
    pub t: Vec<f64>,
    /// SI values.
    pub v: Vec<f64>,
}

impl Series {
    /// From the first time to the last, s.
    #[must_use]
    pub fn span(&self) -> f64 {
        self.t
            .last()
            .zip(self.t.first())
            .map_or(0.0, |(b, a)| b - a)
    }

    /// An empty one with room for so many readings: a day at 1 Hz is copied several times otherwise.
    #[must_use]
    pub fn with_capacity(n: usize) -> Self {
        Self {
            t: Vec::with_capacity(n),
            v: Vec::with_capacity(n),
        }
    }
    /// Number of readings between two times, both included.
    #[must_use]
    pub fn count(&self, from: f64, to: f64) -> usize {
        self.t
            .partition_point(|&t| t <= to)
            .saturating_sub(self.t.partition_point(|&t| t < from))
    }
    /// Number of readings.
    #[must_use]
    pub fn len(&self) -> usize {
        self.t.len()
    }
    /// Whether there are none.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.t.is_empty()
    }
    /// The part between two times, both included.
    #[must_use]
    pub fn between(&self, from: f64, to: f64) -> Series {
        let a = self.t.partition_point(|&t| t < from);
        let b = self.t.partition_point(|&t| t <= to).max(a);
        Series {
            t: self.t[a..b].to_vec(),
            v: self.v[a..b].to_vec(),
        }
    }
    /// Linear interpolation; constant beyond the ends. `None` when empty.
    #[must_use]
    pub fn at(&self, t: f64) -> Option<f64> {
        let i = self.t.partition_point(|&x| x < t);
        match (i.checked_sub(1).and_then(|j| self.t.get(j)), self.t.get(i)) {
            (None, None) => None,
            (None, Some(_)) => self.v.first().copied(),
            (Some(_), None) => self.v.last().copied(),
            (Some(&a), Some(&b)) => {
                let w = if b > a { (t - a) / (b - a) } else { 1.0 };
                Some(self.v[i - 1] * (1.0 - w) + self.v[i] * w)
            }
        }
    }
    /// Means over at most `most` equal spans of time: the thinned series and how many readings each mean holds.
    ///
    /// Means, not picks: a mean keeps what dithering has averaged out.
    #[must_use]
    pub fn thinned(&self, most: usize) -> (Series, Vec<f64>) {
        let n = self.len();
        if n <= most {
            return (self.clone(), vec![1.0; n]);
        }
        let (start, end) = (self.t[0], self.t[n - 1]);
        let width = (end - start) / most as f64;
        let mut out = Series::default();
        let mut counts = Vec::new();
        let mut i = 0;
        for block in 0..most {
            let until = if block + 1 == most {
                f64::INFINITY
            } else {
                start + width * (block + 1) as f64
            };
            let from = i;
            let (mut st, mut sv) = (0.0, 0.0);
            while i < n && self.t[i] < until {
                st += self.t[i] - start;
                sv += self.v[i] - self.v[0];
                i += 1;
            }
            if i > from {
                let m = (i - from) as f64;
                out.t.push(start + st / m);
                out.v.push(self.v[0] + sv / m);
                counts.push(m);
            }
        }
        (out, counts)
    }
    /// Mean of the readings between two times; where there are none, interpolated at their middle. `None` when empty.
    #[must_use]
    pub fn mean(&self, from: f64, to: f64) -> Option<f64> {
        let a = self.t.partition_point(|&t| t < from);
        let b = self.t.partition_point(|&t| t <= to).max(a);
        if b > a {
            Some(self.v[a..b].iter().sum::<f64>() / (b - a) as f64)
        } else {
            self.at(0.5 * (from + to))
        }
    }
    /// Standard deviation of one reading's fast noise before it was rounded to `digit`. None shows, and 0 is said,
    /// where readings are few or so far apart that what differs from one to the next may be what is measured.
    #[must_use]
    pub fn noise_before_rounding(&self, digit: f64) -> f64 {
        if self.len() >= 8 && self.usual_step() <= NOISE_SHOWS {
            rounding::before(self.fast_noise().powi(2), digit)
        } else {
            0.0
        }
    }
    /// Standard deviation of one reading's fast noise: how far each lies from the line through its two neighbours, over
    /// what their own noise adds (a drift cancels out, also across a gap).
    #[must_use]
    pub fn fast_noise(&self) -> f64 {
        if self.len() < 4 {
            return 0.0;
        }
        let squares: f64 = (1..self.len() - 1)
            .map(|i| {
                let (t, v) = (&self.t[i - 1..=i + 1], &self.v[i - 1..=i + 1]);
                let apart = t[2] - t[0];
                let share = if apart > 0.0 {
                    (t[1] - t[0]) / apart
                } else {
                    0.5
                };
                let off = v[1] - (1.0 - share) * v[0] - share * v[2];
                off * off / (1.0 + (1.0 - share).powi(2) + share * share)
            })
            .sum();
        (squares / (self.len() - 2) as f64).sqrt()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn thinning_keeps_the_mean_and_bounds_the_number() {
        let t: Vec<f64> = (0..10_000).map(f64::from).collect();
        let series = Series {
            v: t.iter().map(|t| 5.0 + 0.001 * t).collect(),
            t,
        };
        let (thin, counts) = series.thinned(100);
        assert!(thin.len() <= 100);
        assert!((counts.iter().sum::<f64>() - 10_000.0).abs() < 1e-9);
        for (t, v) in thin.t.iter().zip(&thin.v) {
            assert!((v - (5.0 + 0.001 * t)).abs() < 1e-9);
        }
    }

    #[test]
    fn a_gap_leaves_no_invented_points() {
        let mut series = Series::default();
        for t in (0..500).chain(9_500..10_000) {
            series.t.push(f64::from(t));
            series.v.push(1.0);
        }
        let (thin, _) = series.thinned(100);
        assert!(thin.t.iter().all(|&t| !(600.0..9_400.0).contains(&t)));
    }

    #[test]
    fn fast_noise_ignores_a_drift_and_a_constant_is_zero() {
        let line = Series {
            t: (0..50).map(f64::from).collect(),
            v: (0..50).map(|i| 3.0 * f64::from(i)).collect(),
        };
        assert!(line.fast_noise() < 1e-9);
        // A gap in a straight rise is no leap.
        let gapped = line
            .between(0.0, 10.0)
            .t
            .into_iter()
            .chain(line.between(40.0, 50.0).t);
        let t: Vec<f64> = gapped.collect();
        let v = t.iter().map(|t| 3.0 * t).collect();
        assert!(Series { t, v }.fast_noise() < 1e-9);
        assert_eq!(Series::default().fast_noise(), 0.0);
    }
}
