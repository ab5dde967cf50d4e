//! What else a decay shows besides its shape: the other gauge, gaps, the rig's share, a crossing that nobody saw.

use super::finding::{Noticed, TwoGauges};
use super::gauges::{gaps, other_gauge};
use crate::quantity::MICRON;
use crate::reading::{Position, Recording, RigShare, Series};

/// The trace without what the rig gives off, Pa: rate·V_rig/(V_sys + V_rig)·t taken off. Times in s since isolation.
#[must_use]
pub fn without_rig(s: &Series, share: &RigShare, system_l: f64) -> Series {
    let rate = rig_rate(share, system_l);
    Series {
        t: s.t.clone(),
        v: s.t.iter().zip(&s.v).map(|(t, v)| v - rate * t).collect(),
    }
}

/// What the rig adds to the system's rise, Pa/s, by the middle of its band.
#[must_use]
pub fn rig_rate(share: &RigShare, system_l: f64) -> f64 {
    0.5 * (share.low_pa_s + share.high_pa_s) * share.volume_l / (system_l + share.volume_l)
}

/// Volume of the system under vacuum, L: measured, else the middle of its band, else 5 (common practice, no source).
#[must_use]
pub fn system_litres(recording: &Recording) -> f64 {
    let s = &recording.settings;
    s.volume_l
        .or(s.volume_band_l.map(|(a, b)| (a * b).sqrt()))
        .unwrap_or(5.0)
}

/// Nobody read within so long of the rule's time, s: what stands there then is a guess.
const BLIND: f64 = 120.0;
/// Readings this close together leave nothing to guess, s.
const SEEN: f64 = 10.0;

/// It was under the level before the rule's time and above it after, and when it crossed nobody saw: the two moments.
///
/// A rise is straight or bends downwards, so the line between two readings is at or below what was there. Over a short
/// step a line above the level therefore shows that it was crossed, and a line below it does not show that it was not.
pub fn crossing_unseen(s: &Series, at: f64, level: f64) -> Option<(f64, f64)> {
    let i = s.t.partition_point(|t| *t < at);
    let (from, to) = (*s.t.get(i.checked_sub(1)?)?, *s.t.get(i)?);
    let is_crossed = at < to && s.v[i - 1] <= level && s.v[i] > level;
    let is_shown = to - from <= BLIND && s.at(at).is_some_and(|p| p > level);
    (is_crossed && to - from > SEEN && !is_shown).then_some((from, to))
}

/// Falling by more than this share over its second half looks pumped: vapour in a system that cools does less.
const FALLS: f64 = 0.06;

/// Whether the trace goes on falling as if the pump still pulled: over its second half, well after the ends are even,
/// and not because it got colder (`drift` in K/h, where a probe told it).
pub fn falls(s: &Series, digit: f64, drift: Option<f64>) -> bool {
    let end = s.t[s.len() - 1];
    if end < 300.0 || s.len() < 8 || drift.is_some_and(|d| d * end / 3_600.0 < -0.5) {
        return false;
    }
    let (Some(a), Some(b)) = (s.mean(0.45 * end, 0.6 * end), s.mean(0.85 * end, end)) else {
        return false;
    };
    a - b > (3.0 * digit).max(FALLS * a)
}

/// Whether it jumps about more than a gauge on a closed system does.
pub fn jumps(s: &Series, digit: f64) -> bool {
    s.len() >= 8 && s.fast_noise() > digit.max(0.035 * s.v.iter().sum::<f64>() / s.len() as f64)
}

/// Two gauges differ by more than this share and this much, Pa, where they have not evened out.
const DIFFER: (f64, f64) = (0.1, 2.0 * MICRON);

/// The other gauge, gaps, the rig, the volume.
pub fn noticed(recording: &Recording, channel: usize, series: &Series) -> Noticed {
    let other = other_gauge(recording, channel).and_then(|(_, s)| s.v.last().copied());
    let gauges = other
        .zip(series.v.last().copied())
        .map(|(other, counts)| TwoGauges {
            counts,
            other,
            is_far: recording.channels[channel].position == Some(Position::Far),
            agree: (counts - other).abs() <= DIFFER.0 * counts.max(other) + DIFFER.1,
        });
    let litres = system_litres(recording);
    let s = &recording.settings;
    Noticed {
        gauges,
        gaps: gaps(series),
        rig: s
            .rig_share
            .as_ref()
            .map(|r| (r.test.clone(), rig_rate(r, litres))),
        litres,
        is_assumed: s.volume_l.is_none(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn line(from: f64, slope: f64) -> Series {
        let t: Vec<f64> = (0..200).map(|k| 5.0 * f64::from(k)).collect();
        Series {
            v: t.iter().map(|t| from + slope * t).collect(),
            t,
        }
    }

    #[test]
    fn taking_the_rigs_share_off_returns_the_trace() {
        let share = RigShare {
            low_pa_s: 0.02,
            high_pa_s: 0.04,
            volume_l: 0.4,
            test: "Hoses".into(),
        };
        let added = line(40.0, 0.01 + 0.03 * 0.4 / 5.4);
        for (a, b) in without_rig(&added, &share, 5.0)
            .v
            .iter()
            .zip(&line(40.0, 0.01).v)
        {
            assert!((a - b).abs() < 1e-9);
        }
    }

    #[test]
    fn a_pump_that_still_pulls_is_noticed_and_a_far_gauge_evening_out_is_not() {
        assert!(falls(&line(80.0, -0.02), MICRON, None));
        assert!(
            !falls(&line(80.0, -0.02), MICRON, Some(-4.0)),
            "it got colder"
        );
        let t: Vec<f64> = (0..200).map(|k| 5.0 * f64::from(k)).collect();
        let far = Series {
            v: t.iter().map(|t| 40.0 + 10.0 * (-t / 60.0).exp()).collect(),
            t,
        };
        assert!(!falls(&far, MICRON, None));
        // A gauge that shows only every tenth micron hops by its digit, not because it is pumped.
        let hops = Series {
            t: far.t.clone(),
            v: far
                .t
                .iter()
                .map(|t| {
                    50.0 * MICRON
                        + if (t / 5.0) as i32 % 2 == 0 {
                            10.0 * MICRON
                        } else {
                            0.0
                        }
                })
                .collect(),
        };
        assert!(
            jumps(&hops, MICRON)
                && !jumps(
                    &Series {
                        v: hops.v.iter().map(|v| 5.0 * v).collect(),
                        t: hops.t
                    },
                    50.0 * MICRON
                )
        );
    }

    #[test]
    fn a_line_between_two_readings_shows_a_crossing_but_never_that_there_was_none() {
        let unseen = |t: &[f64], v: &[f64]| {
            let s = Series {
                t: t.to_vec(),
                v: v.to_vec(),
            };
            crossing_unseen(&s, 600.0, 500.0)
        };
        // Read every 54 s: 500.0 at 594 s and rising. Every second reading left out, the line is at 499 at 600 s.
        assert_eq!(unseen(&[540.0, 594.0, 648.0], &[483.0, 500.0, 512.0]), None);
        assert_eq!(
            unseen(&[540.0, 648.0], &[483.0, 512.0]),
            Some((540.0, 648.0))
        );
        // Far apart even a line above shows nothing; a reading at the time, or a second beside it, shows all.
        assert!(unseen(&[480.0, 640.0], &[499.0, 560.0]).is_some());
        assert_eq!(unseen(&[480.0, 600.0, 640.0], &[480.0, 499.0, 560.0]), None);
        assert_eq!(unseen(&[599.5, 600.5], &[499.0, 501.0]), None);
        assert_eq!(unseen(&[540.0, 648.0], &[483.0, 499.0]), None);
    }
}
