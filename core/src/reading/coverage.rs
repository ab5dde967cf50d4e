//! When a channel was really read. Between two readings a value may be interpolated; before the first and after the
//! last nothing is known, and one reading is no course of anything.

use super::Series;

/// An instrument read within this time of a moment was read at that moment, s: gauge and probe are read one after
/// the other. Common practice, no source.
const TOGETHER: f64 = 60.0;
/// A channel may be behind by so much of the time looked at before it counts as stopped.
const BEHIND: f64 = 0.1;

impl Series {
    /// Usual time between readings, s; 0 with fewer than two.
    #[must_use]
    pub fn usual_step(&self) -> f64 {
        let mut steps: Vec<f64> = self.t.windows(2).map(|w| w[1] - w[0]).collect();
        steps.sort_by(f64::total_cmp);
        steps.get(steps.len() / 2).copied().unwrap_or(0.0)
    }

    /// The part of `from`…`to` (s) over which this channel was read. `None`: fewer than two readings, or none of them
    /// near that time.
    ///
    /// Its first and last reading are stretched by a minute, or by two of its usual steps where that is less than a
    /// tenth of the time looked at: a probe read by hand every ten minutes has not stopped after five.
    #[must_use]
    pub fn read_within(&self, from: f64, to: f64) -> Option<(f64, f64)> {
        if self.len() < 2 {
            return None;
        }
        let slack = TOGETHER.max((2.0 * self.usual_step()).min(BEHIND * (to - from)));
        let (a, b) = (
            (self.t[0] - slack).max(from),
            (self.t[self.len() - 1] + slack).min(to),
        );
        (b > a).then_some((a, b))
    }

    /// Whether it was read over all of `from`…`to` (s).
    #[must_use]
    pub fn covers(&self, from: f64, to: f64) -> bool {
        self.read_within(from, to)
            .is_some_and(|(a, b)| a <= from && b >= to)
    }

    /// How long nobody read it around the moment `at`, s: the step in which that moment lies, or the time to the
    /// nearest reading beyond the ends.
    #[must_use]
    pub fn unread_around(&self, at: f64) -> f64 {
        let i = self.t.partition_point(|&x| x < at);
        match (i.checked_sub(1).and_then(|j| self.t.get(j)), self.t.get(i)) {
            (_, Some(&b)) if b == at => i.checked_sub(1).map_or(0.0, |j| b - self.t[j]),
            (Some(&a), Some(&b)) => b - a,
            // Beyond the last reading the step before it counts too: that is how often it was read.
            (Some(&a), None) => at - a + self.t.len().checked_sub(2).map_or(0.0, |j| a - self.t[j]),
            (None, Some(&b)) => b - at,
            (None, None) => f64::INFINITY,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn read_at(t: &[f64]) -> Series {
        Series {
            t: t.to_vec(),
            v: vec![293.0; t.len()],
        }
    }

    #[test]
    fn one_reading_covers_nothing_and_two_cover_what_lies_between() {
        assert!(!read_at(&[0.0]).covers(0.0, 0.0));
        assert_eq!(read_at(&[100.0]).read_within(0.0, 200.0), None);
        assert!(read_at(&[0.0, 3_600.0]).covers(0.0, 3_600.0));
        // It died half-way.
        let half: Vec<f64> = (0..=30).map(|k| 60.0 * f64::from(k)).collect();
        assert_eq!(
            read_at(&half).read_within(0.0, 3_600.0),
            Some((0.0, 1_920.0))
        );
        assert!(!read_at(&half).covers(0.0, 3_600.0));
    }

    #[test]
    fn a_probe_read_by_hand_is_not_dead_between_two_readings() {
        let every_ten: Vec<f64> = (0..12).map(|k| 600.0 * f64::from(k)).collect();
        assert!(read_at(&every_ten).covers(0.0, 7_000.0));
        assert!(!read_at(&every_ten).covers(0.0, 9_000.0));
    }

    #[test]
    fn the_step_around_a_moment_is_how_long_nobody_looked() {
        let s = read_at(&[0.0, 600.0, 660.0]);
        assert_eq!(
            (
                s.unread_around(0.0),
                s.unread_around(300.0),
                s.unread_around(660.0)
            ),
            (0.0, 600.0, 60.0)
        );
        assert_eq!(s.unread_around(700.0), 100.0);
        assert_eq!(read_at(&[]).unread_around(0.0), f64::INFINITY);
    }
}
