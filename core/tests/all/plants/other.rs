//! Holds by laws that neither the judge nor the simulator uses (which of them showed what the judge lacked stands in
//! docs/method.md, "By other laws"; *Roof* was used for nothing): gas by the ideal gas law,
//! heat that leaves by other paths than one lag, weather of other kinds, gauges that err otherwise. What is common to
//! both is only that pressure follows the amount and the temperature of the gas, and that heat leaves by conduction:
//! what is left of it is always a sum of fading exponentials.

use super::{Draw, blank};
use ruhe_core::quantity::Unit;
use ruhe_core::reading::{Channel, Kind, Quantity, Reading, Recording};
use ruhe_sim::{ATMOSPHERE, PSI};

/// A way in which a plant may be.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Law {
    /// Gas in two bodies of metal one behind the other, the probe on the first; clouds that come in random strokes;
    /// filling's heat fades as a power of time; the gauge creeps with the logarithm of time.
    TwoBodies,
    /// A unit that stood elsewhere four hours before, of which next to nothing is left at the start: this law says
    /// nothing of what was before the record. The weather wanders in steps of heavy tails; half of the gas is where
    /// no probe is; the gauge sticks until it is a step and a half behind.
    StoodElsewhere,
    /// Under a roof of sheet metal: the sun warms it in hours, gusts come as short strokes; the probe shows too
    /// little of it, and too much at the start, as it was just put on; filling's heat fades in three paces; the
    /// gauge's error grows with the pressure it has lost.
    Roof,
    /// A plant room: the air swings with a machine that runs on and off, the probe hangs by the pipe and feels
    /// both, filling's heat sits in the vessel and leaves slowly, the gauge has a tide of its own.
    PlantRoom,
}

/// All of them.
pub const LAWS: [Law; 4] = [
    Law::TwoBodies,
    Law::StoodElsewhere,
    Law::Roof,
    Law::PlantRoom,
];

/// A body that follows another one.
fn follow(x: &mut f64, to: f64, h: f64, tau: f64) {
    *x += (to - *x) * (1.0 - (-h / tau).exp());
}

/// What the air does, step by step, K.
fn air(law: Law, d: &mut Draw, n: usize, h: f64) -> Vec<f64> {
    let mut out = Vec::with_capacity(n);
    match law {
        Law::TwoBodies => {
            // Sun or cloud, each for an exponential time; and the day's own swing.
            let (mut is_sun, mut left) = (d.uniform() < 0.5, 0.0);
            let (warm, swing) = (d.between(0.0, 5.0), d.between(0.0, 7.0));
            let dawn = d.uniform() * 86_400.0;
            for i in 0..n {
                if left <= 0.0 {
                    is_sun = !is_sun;
                    left = -d.between(300.0, 1_500.0) * d.uniform().ln();
                }
                left -= h;
                let day = (std::f64::consts::TAU * (i as f64 * h + dawn) / 86_400.0).sin();
                out.push(if is_sun { warm } else { 0.0 } + swing * day);
            }
        }
        Law::StoodElsewhere => {
            let (mut x, size) = (0.0, d.between(0.02, 0.25));
            for _ in 0..n {
                // A ratio of normals, cut: rare large steps.
                let step = (d.normal() / d.normal().abs().max(0.2)).clamp(-8.0, 8.0);
                x += size * step * (h / 60.0).sqrt() - x * h / 7_200.0;
                out.push(x);
            }
        }
        Law::Roof => {
            let (sun, hours, from) = (d.between(0.0, 6.0), d.between(3.0, 8.0), d.uniform());
            let (mut gust, mut left) = (0.0, 0.0);
            for i in 0..n {
                if left <= 0.0 {
                    gust = d.between(-1.2, 0.4);
                    left = -60.0 * d.uniform().ln() * d.between(0.5, 4.0);
                }
                left -= h;
                let at = i as f64 * h / 3_600.0 / hours + from;
                out.push(sun * (std::f64::consts::PI * at).sin().abs() + gust);
            }
        }
        Law::PlantRoom => {
            let (period, swing) = (d.between(400.0, 2_400.0), d.between(0.3, 3.0));
            let phase = d.uniform() * period;
            let mut x = 0.0;
            for i in 0..n {
                let t = (i as f64 * h + phase) % period;
                follow(&mut x, if t < 0.4 * period { swing } else { 0.0 }, h, 150.0);
                out.push(x);
            }
        }
    }
    out
}

/// A hold by such a law: `minutes` long, read every `every` s on one gauge and one probe, and its loss at the start,
/// `times` what `limit_of` the absolute pressure at the start allows, Pa/s.
pub fn other_hold(
    law: Law,
    seed: u64,
    minutes: f64,
    every: f64,
    times: f64,
    limit_of: impl Fn(f64) -> f64,
) -> (Recording, f64) {
    let mut d = Draw(
        seed.wrapping_mul(0x51_7cc1)
            .wrapping_add(law as u64 * 7_919),
    );
    let h = 5.0;
    let before = 4.0 * 3_600.0;
    let (n_before, n) = ((before / h) as usize, (60.0 * minutes / h) as usize + 2);
    let weather = air(law, &mut d, n_before + n, h);
    let p0 = d.between(150.0, 550.0) * PSI + ATMOSPHERE;
    let k0 = 294.0;
    let loss = times * limit_of(p0);
    // How the bodies follow, and where the gas is.
    let (near, far) = (d.between(60.0, 900.0), d.between(120.0, 1_500.0));
    let behind = match law {
        Law::TwoBodies => d.between(0.2, 0.9),
        Law::StoodElsewhere => 0.5,
        Law::Roof => d.between(0.0, 0.6),
        Law::PlantRoom => d.between(0.1, 0.5),
    };
    let apart = match law {
        Law::StoodElsewhere => d.between(-10.0, 10.0),
        _ => 0.0,
    };
    let (fill, fade) = (d.between(0.0, 5.0), d.between(60.0, 240.0));
    let digit = 0.1 * PSI;
    let (mut pipe, mut vessel) = (weather[0] + apart, weather[0] + 0.6 * apart);
    let mut shown: Option<f64> = None;
    let (creep, tide) = (0.05 * PSI * d.normal(), 0.06 * PSI * d.normal());
    let tides = d.between(900.0, 4_000.0);
    let (mut readings, mut amount, mut start) = (Vec::new(), 1.0, None);
    let mut due = 0.0;
    for (i, air) in weather.iter().enumerate() {
        follow(&mut pipe, *air, h, near);
        follow(&mut vessel, pipe, h, far);
        if i < n_before {
            continue;
        }
        let t = (i - n_before) as f64 * h;
        let heat = match law {
            Law::TwoBodies => fill / (1.0 + t / fade).powf(1.5),
            Law::StoodElsewhere => fill * (-(t / fade).powf(0.7)).exp(),
            Law::Roof => {
                let e = |tau: f64| (-t / (tau * fade)).exp();
                fill * (0.5 * e(0.5) + 0.3 * e(2.0) + 0.2 * e(8.0))
            }
            Law::PlantRoom => fill * (0.6 * (-t / fade).exp() + 0.4 * (-t / (4.0 * fade)).exp()),
        };
        let gas = (1.0 - behind) * pipe + behind * vessel + heat;
        let start = *start.get_or_insert(gas - heat);
        let p = p0 * amount * (k0 + gas - start) / k0;
        let drive = (p * p - ATMOSPHERE * ATMOSPHERE) / (p0 * p0 - ATMOSPHERE * ATMOSPHERE);
        amount -= loss * drive * h / p0;
        if t + 1e-9 < due {
            continue;
        }
        due += every;
        let own = match law {
            Law::TwoBodies => creep * (1.0 + t / 300.0).ln() / 3.0,
            Law::StoodElsewhere => 0.0,
            Law::Roof => 0.05 * (p - p0),
            Law::PlantRoom => tide * (t / tides).sin(),
        };
        let true_shown = p - ATMOSPHERE + own + 0.03 * PSI * (d.uniform() - 0.5);
        let is_stuck = law == Law::StoodElsewhere
            && shown.is_some_and(|s| (s - true_shown).abs() < 1.5 * digit);
        let value = if is_stuck {
            shown.unwrap_or(true_shown)
        } else {
            (true_shown / digit).round() * digit
        };
        shown = Some(value);
        let felt = match law {
            Law::PlantRoom => 0.85 * pipe + 0.15 * air,
            // It comes to the pipe's temperature within minutes of being put on.
            Law::Roof => 0.92 * pipe + 0.4 * d.normal().abs() * (-t / 120.0).exp(),
            _ => pipe,
        };
        let felt = (10.0 * (k0 + felt + 0.05 * d.normal())).round() / 10.0;
        readings.extend([(0, value), (1, felt)].map(|(channel, value)| Reading {
            at_s: t,
            channel,
            value,
        }));
    }
    let channels = vec![
        Channel {
            resolution: Some(digit),
            range: Some(800.0 * PSI),
            ..Channel::new("P", Quantity::GaugePressure, Unit::Pa)
        },
        Channel::new("T", Quantity::Temperature, Unit::K),
    ];
    let mut r = blank(Kind::PressureHold, channels, readings);
    r.settings.planned_s = Some(60.0 * minutes);
    (r, loss)
}
