//! How long is enough: what a hold will be able to show, before it is begun.
//!
//! The judge's own model is asked for the uncertainty it would have at the end ([`bound`](super::model::bound)): same
//! columns, same priors, times and temperatures as foreseen. It depends on no pressure that was read.

use super::amount::Traces;
use super::fitted::{GAUGE, held_to};
use super::gather::RESTED;
use super::model::{KnownPlant, Priors, SPANS, bound};
use super::proves::proof;
use super::settle::believed;
use crate::matter::nitrogen::pressure_per_kelvin;
use crate::quantity::{AbsolutePressure, Temperature};
use crate::reading::Placement;

/// How long a hold has to last, s, before the limit (Pa/s) is one step of the gauge (Pa) that does not waver between
/// two.
#[must_use]
pub fn digit_takes(digit: f64, limit: f64) -> f64 {
    digit / limit
}

/// A volume that is known within a band, L.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Volume {
    /// At least.
    pub low: f64,
    /// At most.
    pub high: f64,
    /// Nothing in it was assumed.
    pub is_measured: bool,
}

/// The weather foreseen.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Sky {
    /// Indoors or overcast: within half a kelvin.
    Steady,
    /// Warms or cools by so many kelvin an hour.
    Ramp(f64),
    /// Sun and cloud: so many kelvin from one to the other.
    Cloud(f64),
    /// A day's swing of so many kelvin either way, begun at this hour of the day.
    Day(f64, f64),
}

/// A hold as planned.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Foreseen {
    /// Test pressure, Pa absolute.
    pub pressure: f64,
    /// Air pressure, Pa.
    pub air: f64,
    /// Temperature at the start, K.
    pub k: f64,
    /// The gauge's smallest step, Pa.
    pub digit: f64,
    /// Its range, Pa.
    pub range: f64,
    /// Temperature probes on different parts.
    pub probes: usize,
    /// How they sit.
    pub probe: Option<Placement>,
    /// Seconds between readings.
    pub every_s: f64,
    /// A barometer is read, or the gauge is sealed.
    pub has_barometer: bool,
    /// The weather.
    pub sky: Sky,
}

/// What a hold of some length shows.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Reach {
    /// Seconds since the supply was shut.
    pub after_s: f64,
    /// Smallest loss that would be seen, Pa/s.
    pub rate: f64,
    /// As refrigerant, g a year: low side and least volume; high side and most.
    pub grams: Option<(f64, f64)>,
}

/// Intervals as they come out are so much wider than the bound that knows noise and lag (docs/method.md; set so that
/// foretold and shown agree there and in core/tests/all/pressure_laws.rs): under sun and cloud the lag must be found
/// too.
fn wider(f: &Foreseen) -> f64 {
    match (f.sky, f.probe) {
        (Sky::Cloud(_), Some(Placement::Strapped)) => 1.1,
        (Sky::Cloud(_), _) => 1.6,
        (Sky::Day(..), _) => 1.0,
        _ => 1.15,
    }
}
/// What of a digit's error stays in a difference, digits. Common practice, no source.
const DIGIT: f64 = 0.3;
/// Wandering and fast noise of a digital gauge as shares of the pressure. Common practice, no source.
const WANDER: f64 = 1.5e-4;
const FAST: f64 = 1.0e-4;
/// Blocks a planned hold is laid out on.
const BLOCKS: usize = 90;
/// Lengths that are tried, min.
pub const LENGTHS: [f64; 14] = [
    10.0, 15.0, 20.0, 30.0, 45.0, 60.0, 90.0, 120.0, 180.0, 240.0, 480.0, 720.0, 1_440.0, 2_880.0,
];

impl Sky {
    /// Change of temperature since the start, K.
    fn change(self, t: f64) -> f64 {
        let hour = t / 3600.0;
        // Coldest at half past five, warmest at three: mornings are quicker than nights. Common practice, no source.
        let day = |h: f64| {
            let h = (h - 5.5).rem_euclid(24.0);
            if h < 9.5 {
                -(std::f64::consts::PI * h / 9.5).cos()
            } else {
                (std::f64::consts::PI * (h - 9.5) / 14.5).cos()
            }
        };
        // By day the sun comes and goes by a sixth of the swing.
        let sun = |h: f64| {
            let h = h.rem_euclid(24.0);
            if (8.0..18.0).contains(&h) {
                0.15 * (std::f64::consts::PI * (h - 8.0) / 10.0).sin()
                    * (std::f64::consts::TAU * t / 1_500.0).sin()
            } else {
                0.0
            }
        };
        match self {
            Self::Steady => 0.2 * (std::f64::consts::TAU * t / 2_400.0).sin(),
            Self::Ramp(k) => k * hour,
            Self::Cloud(k) => 0.5 * k * (std::f64::consts::TAU * t / 1_500.0).sin(),
            Self::Day(k, start) => k * (day(start + hour) - day(start) + sun(start + hour)),
        }
    }
}

/// What the planned hold shows after `duration` seconds. `None` when a figure makes no sense.
#[must_use]
pub fn reach(
    f: &Foreseen,
    duration: f64,
    volume: Volume,
    refrigerant: Option<&str>,
) -> Option<Reach> {
    let sound = [
        f.pressure, f.air, f.k, f.digit, f.range, f.every_s, duration,
    ]
    .iter()
    .all(|v| v.is_finite() && *v > 0.0);
    if !sound || f.probes == 0 || f.pressure < 1.3 * f.air || duration < 3.0 * f.every_s {
        return None;
    }
    let n = ((duration / f.every_s) as usize + 1).min(BLOCKS);
    let width = if n == BLOCKS {
        duration / n as f64
    } else {
        0.0
    };
    let t: Vec<f64> = (0..n)
        .map(|i| duration * (i as f64 + 0.5) / n as f64)
        .collect();
    let per_kelvin = pressure_per_kelvin(
        AbsolutePressure::from_pa(f.pressure),
        Temperature::from_k(f.k),
    );
    let warm: Vec<f64> = t.iter().map(|&t| f.sky.change(t)).collect();
    let thermal: Vec<f64> = warm.iter().map(|k| per_kelvin * k).collect();
    let tr = Traces {
        width: vec![width; n],
        count: vec![(duration / f.every_s / n as f64).max(1.0); n],
        p0: f.pressure,
        raw: vec![0.0; n],
        thermal_ideal: thermal.clone(),
        temperature: warm.iter().map(|k| f.k + k).collect(),
        // Two probes: one part swings half as much again as the other.
        probe_parts: if f.probes > 1 {
            vec![
                thermal.iter().map(|u| 0.25 * u).collect(),
                thermal.iter().map(|u| -0.25 * u).collect(),
            ]
        } else {
            vec![]
        },
        gauge_air: warm,
        apart: vec![],
        ways: vec![],
        history: (0.0, 0.5),
        hidden: None,
        unread_k: 0.0,
        thermal,
        t,
    };
    let fast = FAST * f.pressure;
    // As the judge does: what does not dither is not averaged.
    let digits = if fast >= 0.5 * f.digit {
        0.0
    } else {
        DIGIT * f.digit / duration
    };
    let weather = if f.has_barometer {
        0.0
    } else {
        110.0 * (duration / 3600.0).sqrt() / duration
    };
    let (gain, lags) = held_to(f.probes, false, f.probe);
    let priors = Priors {
        gain,
        lags,
        gauge: GAUGE * f.range,
        warming: GAUGE * f.range,
        sun: None,
        filling: believed(f.pressure, 0.0, f.every_s > RESTED),
        loss: f.pressure / 36_000.0,
        noise: (1.5e-5 * f.pressure, 4e-3 * f.pressure),
        usual: 4e-4 * f.pressure,
        extra: weather.hypot(digits),
        steps: vec![],
        side_share: 0.0,
    };
    let known = |lag: f64| KnownPlant {
        tau: 250.0,
        wander: (WANDER * f.pressure).max(0.3 * f.digit),
        fast: fast.hypot(f.digit / 12f64.sqrt()),
        lag,
        fade: 230.0,
    };
    let mut sd = 0.0;
    for (span, weight) in SPANS.iter().zip(lags).filter(|(_, w)| *w > 0.0) {
        sd += weight * bound(&tr, &priors, &known(0.5 * (span.0 + span.1)))?;
    }
    let rate = 1.96 * wider(f) * sd;
    let grams = proof(
        rate,
        f.pressure,
        f.air,
        f.k,
        Some((volume.low, volume.high)),
        refrigerant,
    )
    .map(|p| (p.low_g_per_year, p.high_g_per_year));
    Some(Reach {
        after_s: duration,
        rate,
        grams,
    })
}

/// Shortest of the usual lengths that shows a loss of `rate` (Pa/s), and what every length shows.
#[must_use]
pub fn needed(
    f: &Foreseen,
    rate: f64,
    volume: Volume,
    refrigerant: Option<&str>,
) -> (Option<f64>, Vec<Reach>) {
    let all: Vec<Reach> = LENGTHS
        .iter()
        .filter_map(|m| reach(f, m * 60.0, volume, refrigerant))
        .collect();
    (all.iter().find(|r| r.rate <= rate).map(|r| r.after_s), all)
}

#[cfg(test)]
mod tests {
    use super::*;

    const PSI: f64 = 6_894.757;
    const FIVE: Volume = Volume {
        low: 5.0,
        high: 5.0,
        is_measured: true,
    };
    fn plan() -> Foreseen {
        Foreseen {
            pressure: 314.7 * PSI,
            air: 101_325.0,
            k: 294.0,
            digit: 0.1 * PSI,
            range: 800.0 * PSI,
            probes: 1,
            probe: None,
            every_s: 1.0,
            has_barometer: true,
            sky: Sky::Steady,
        }
    }
    fn at(f: Foreseen, minutes: f64) -> f64 {
        reach(&f, minutes * 60.0, FIVE, Some("R-410A"))
            .unwrap()
            .rate
    }

    #[test]
    fn longer_steadier_finer_and_with_a_second_probe_shows_more() {
        assert!(at(plan(), 60.0) < 0.5 * at(plan(), 20.0));
        let cloud = Foreseen {
            sky: Sky::Cloud(6.0),
            ..plan()
        };
        assert!(at(cloud, 30.0) > 1.2 * at(plan(), 30.0));
        let ramp = Foreseen {
            sky: Sky::Ramp(4.0),
            ..plan()
        };
        assert!(at(Foreseen { probes: 2, ..ramp }, 120.0) < 0.9 * at(ramp, 120.0));
        assert!(
            at(
                Foreseen {
                    digit: 5.0 * PSI,
                    ..plan()
                },
                30.0
            ) > 3.0 * at(plan(), 30.0)
        );
        assert!(
            at(
                Foreseen {
                    has_barometer: false,
                    ..plan()
                },
                1_440.0
            ) > at(plan(), 1_440.0)
        );
    }

    #[test]
    fn the_length_needed_is_the_first_that_shows_the_loss() {
        let (needed_s, all) = needed(&plan(), 2.0 * PSI / 3600.0, FIVE, Some("R-410A"));
        let s = needed_s.unwrap();
        assert!(
            all.iter()
                .all(|r| (r.after_s < s) == (r.rate > 2.0 * PSI / 3600.0 && r.after_s < s))
        );
        assert!(
            all.windows(2)
                .all(|w| w[1].grams.unwrap().0 < w[0].grams.unwrap().0)
        );
        assert_eq!(needed(&plan(), 1e-9, FIVE, None).0, None);
        assert_eq!(
            reach(
                &Foreseen {
                    digit: f64::NAN,
                    ..plan()
                },
                600.0,
                FIVE,
                None
            ),
            None
        );
    }
}
