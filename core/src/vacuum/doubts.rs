//! What makes one doubt the readings of a rise before any shape is tried: a reading typed wrongly, a gauge that stands
//! still, an isolation that came later than it was marked.

use super::prior::prior;
use crate::quantity::MICRON;
use crate::reading::{Series, doubt};
use serde::{Deserialize, Serialize};

/// Something to ask the person about. Levels in Pa, times in s since isolation.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[serde(tag = "doubt", rename_all = "snake_case")]
pub enum Doubt {
    /// One reading far from its neighbours: a digit too many or too few?
    Slip {
        /// When.
        at: f64,
        /// What was logged.
        value: f64,
        /// About what its neighbours say.
        about: f64,
        /// It is the last one, so nothing after it says whether the system really leapt.
        is_last: bool,
    },
    /// The same reading again and again, where this gauge's own noise would have moved it.
    Stuck {
        /// From.
        from: f64,
        /// To.
        to: f64,
        /// What it showed.
        value: f64,
        /// It had moved before.
        moved_before: bool,
    },
    /// It rose steeply to a reading and showed that and nothing else from there on: its display ends there.
    TopOfDisplay {
        /// From.
        from: f64,
        /// What it showed.
        value: f64,
    },
    /// It went on falling after the marked isolation.
    IsolatedLater {
        /// Level at the marked isolation.
        first: f64,
        /// Lowest level.
        least: f64,
        /// When that stood.
        at: f64,
    },
}

/// A reading this many times its neighbours, or as many times less, is asked about.
const FAR: f64 = 3.0;
/// Neighbours must agree with each other better than this for one between them to be called a slip.
const AGREE: f64 = 1.5;

/// The series without readings that stand alone far from their neighbours, and those readings.
///
/// The last one has a neighbour on one side only: it is held against the line through those before it.
pub fn without_slips(s: &Series) -> (Series, Vec<Doubt>) {
    let apart = |a: f64, b: f64| a > FAR * b || b > FAR * a;
    let mut kept = s.clone();
    let lonely = doubt::take_lonely(&mut kept, |b| {
        let about = 0.5 * (b.before + b.after);
        b.before.max(b.after) <= AGREE * b.before.min(b.after) && apart(b.value, about)
    });
    let mut doubts: Vec<Doubt> = lonely
        .iter()
        .map(|l| Doubt::Slip {
            at: l.at,
            value: l.value,
            about: l.about,
            is_last: false,
        })
        .collect();
    let last = kept.t.pop().zip(kept.v.pop());
    if let Some((at, value)) = last {
        let about = if kept.len() >= 3 {
            onwards(&kept, at)
        } else {
            value
        };
        if about > 0.0 && apart(value, about) {
            doubts.push(Doubt::Slip {
                at,
                value,
                about,
                is_last: true,
            });
        } else {
            kept.t.push(at);
            kept.v.push(value);
        }
    }
    (kept, doubts)
}

/// Where the steepest of the last steps would have led by `t`: a rise bends downwards, so it is hardly higher.
fn onwards(s: &Series, t: f64) -> f64 {
    let n = s.len();
    let steepest = (n.saturating_sub(4)..n - 1)
        .map(|i| (s.v[i + 1] - s.v[i]) / (s.t[i + 1] - s.t[i]).max(1e-9))
        .fold(0.0, f64::max);
    s.v[n - 1] + steepest * (t - s.t[n - 1])
}

/// The longest time in which the gauge stood still although its noise, or the way it was going, should have moved it.
pub fn stuck(s: &Series, digit: f64) -> Option<Doubt> {
    let stood = doubt::stood_still(s, digit)?;
    // Nothing shown of its noise, it has what the quietest of gauges has.
    let quietest = prior().fast[0] * stood.value;
    let is_odd = stood.readings >= doubt::SAME.0 && quietest > doubt::NOISY * digit;
    (stood.moved_before || is_odd).then_some(Doubt::Stuck {
        from: stood.from,
        to: stood.to,
        value: stood.value,
        moved_before: stood.moved_before,
    })
}

/// Displays of vacuum gauges end here at the earliest, Pa: common practice, no source.
const LEAST_TOP: f64 = 5_000.0 * MICRON;
/// What was cut off: going on as it came, it would have risen by this share of the top at least. It came straight: no
/// step was so many times steeper than the way before it.
const CUT: (f64, f64) = (0.1, 1.5);

/// Where a display ended: the same highest reading to the end of the trace, after a rise that was nowhere near
/// levelling.
pub fn top_of_display(s: &Series, digit: f64) -> Option<Doubt> {
    let end = s.len().checked_sub(1)?;
    let value = s.v[end];
    let same = |v: f64| (v - value).abs() <= 1e-6 * digit;
    let i = s.v.iter().position(|v| same(*v))?;
    let stays = s.v[i..].iter().all(|v| same(*v)) && s.v[..i].iter().all(|v| *v < value);
    if value < LEAST_TOP || i == 0 || i == end || !stays {
        return None;
    }
    let (before, step) = (s.t[i - 1], s.t[i] - s.t[i - 1]);
    // How it came: a step back as long as the last one, or a tenth of the way.
    let back = step.max(0.1 * (s.t[i] - s.t[0])).min(before - s.t[0]);
    let rate = if i == 1 {
        (value - s.v[0]) / step
    } else {
        (s.v[i - 1] - s.at(before - back)?) / back.max(1e-9)
    };
    let goes_on = rate * (s.t[end] - s.t[i]) >= CUT.0 * value;
    let came_straight = value - s.v[i - 1] <= CUT.1 * rate * step + 2.0 * digit;
    (goes_on && came_straight).then_some(Doubt::TopOfDisplay {
        from: s.t[i],
        value,
    })
}

/// A first reading this many times the lowest was taken under the pump.
const FELL: f64 = 2.0;

/// Whether the pump pulled on after the marked isolation: it fell to less than half of the first reading. The ends
/// evening out never do so much: their unevenness is a share of the level.
pub fn isolated_later(s: &Series, digit: f64) -> Option<Doubt> {
    let first = *s.v.first()?;
    let (at, least) =
        s.t.iter()
            .zip(&s.v)
            .map(|(t, v)| (*t, *v))
            .min_by(|a, b| a.1.total_cmp(&b.1))?;
    (first > FELL * least + 2.0 * digit).then_some(Doubt::IsolatedLater { first, least, at })
}

#[cfg(test)]
mod tests {
    use super::*;

    fn minutes(v: &[f64]) -> Series {
        Series {
            t: (0..v.len()).map(|k| 60.0 * k as f64).collect(),
            v: v.iter().map(|v| v * MICRON).collect(),
        }
    }

    #[test]
    fn a_digit_too_many_or_too_few_is_asked_about_and_a_leap_that_stays_is_not() {
        let (kept, doubts) = without_slips(&minutes(&[300.0, 310.0, 3200.0, 331.0, 34.0, 352.0]));
        assert_eq!((kept.len(), doubts.len()), (4, 2), "{doubts:?}");
        // Somebody opened a valve: the leap stays.
        let (kept, doubts) = without_slips(&minutes(&[300.0, 310.0, 3200.0, 3300.0, 3400.0]));
        assert_eq!((kept.len(), doubts.len()), (5, 0), "{doubts:?}");
        // As long as it is the last reading nobody knows.
        let (_, doubts) = without_slips(&minutes(&[300.0, 310.0, 320.0, 3300.0]));
        assert!(matches!(doubts[..], [Doubt::Slip { is_last: true, .. }]));
        // A gross leak goes on as it began.
        let (_, doubts) = without_slips(&minutes(&[300.0, 5300.0, 10300.0, 15300.0, 20300.0]));
        assert!(doubts.is_empty(), "{doubts:?}");
    }

    #[test]
    fn a_gauge_that_stands_still_is_asked_about_only_where_its_noise_would_have_moved_it() {
        let hops = |k: usize| 800.0 + [0.0, 3.0, -2.0, 1.0, -3.0][k % 5];
        let mut v: Vec<f64> = (0..40).map(hops).collect();
        assert_eq!(stuck(&minutes(&v), MICRON), None);
        v.extend([800.0; 30]);
        assert!(matches!(
            stuck(&minutes(&v), MICRON),
            Some(Doubt::Stuck {
                moved_before: true,
                ..
            })
        ));
        // Read to ten micron it has no noise to show, but a rise does not stop dead.
        let rise = |until: f64| -> Vec<f64> {
            (0..60).map(|k| (20.0 * f64::from(k)).min(until)).collect()
        };
        assert!(stuck(&minutes(&rise(800.0)), 10.0 * MICRON).is_some());
        let levels: Vec<f64> = (0..60)
            .map(|k| (80.0 * (1.0 - (-f64::from(k) / 6.0).exp())).round() * 10.0)
            .collect();
        assert_eq!(stuck(&minutes(&levels), 10.0 * MICRON), None);
        // Steps of 5 micron at 100 micron hide any noise: nothing is odd about standing still.
        assert_eq!(stuck(&minutes(&[100.0; 40]), 5.0 * MICRON), None);
        assert!(stuck(&minutes(&[900.0; 40]), MICRON).is_some());
    }

    #[test]
    fn a_display_that_ends_is_told_from_a_level_a_stopped_gauge_and_a_leap() {
        let top = |v: &[f64]| top_of_display(&minutes(v), 10.0 * MICRON).is_some();
        assert!(top(&[
            300.0, 5300.0, 10300.0, 15300.0, 20000.0, 20000.0, 20000.0
        ]));
        assert!(top(&[300.0, 12000.0, 12000.0]));
        // One reading there may be any reading; below every display's end it is a gauge that stopped.
        assert!(!top(&[300.0, 5300.0, 10300.0, 15300.0, 20000.0]));
        assert!(!top(&[
            300.0, 800.0, 1300.0, 1800.0, 1800.0, 1800.0, 1800.0
        ]));
        // Free water levels: it slows down before.
        let water: Vec<f64> = (0..60)
            .map(|k| {
                ((300.0 + 17_200.0 * (1.0 - (-f64::from(k) / 2.0).exp())) / 10.0).round() * 10.0
            })
            .collect();
        assert!(!top(&water));
        // Somebody opened a valve.
        assert!(!top(&[
            300.0, 301.0, 302.0, 303.0, 20000.0, 20000.0, 20000.0
        ]));
    }

    #[test]
    fn a_trace_that_began_under_the_pump_is_asked_about() {
        let late = isolated_later(&minutes(&[2000.0, 1500.0, 1000.0, 600.0, 610.0]), MICRON);
        assert!(
            matches!(late, Some(Doubt::IsolatedLater { .. })),
            "{late:?}"
        );
        assert_eq!(
            isolated_later(&minutes(&[340.0, 334.0, 330.0, 331.0]), MICRON),
            None
        );
    }
}
