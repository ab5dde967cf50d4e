//! Decays by laws that neither the judge nor the simulator uses: rubber that outgasses by diffusion out of a slab,
//! water that leaves places of many bindings, two rooms with a pipe between them whose flow follows the pressure.
//! Sizes come from logarithmic normal distributions, not from even combs; whether there is a leak does not depend on
//! what else there is; temperature swings; the gauge's error is a share of its own and a pull back to it. What is
//! common to both is that a leak into a vacuum flows steadily.

use super::{Draw, RULE, blank};
use ruhe_core::quantity::{MICRON, Unit};
use ruhe_core::reading::{
    Channel, DecayLimit, Event, EventKind, Kind, Quantity, Reading, Recording,
};

/// A way in which a rise may come about.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum RiseLaw {
    /// Gas diffuses out of slabs of rubber and plastic (Crank, *The Mathematics of Diffusion*, 1975, ch. 4, from
    /// memory): by the root of time while they are full, then slower.
    Slab,
    /// Water on metal and scale: six bindings over three decades of pace with random shares, partly pulled off before.
    Sites,
    /// Two rooms and a pipe whose conductance follows the pressure: water in one, leak and gauge in any; oil gives up
    /// what is dissolved in it.
    Rooms,
    /// What is there comes and goes with a sun that comes out or a machine that cycles: all sources follow a swinging
    /// temperature; water is close to its saturation in one cold place.
    Swing,
}

/// All of them.
pub const RISES: [RiseLaw; 4] = [
    RiseLaw::Slab,
    RiseLaw::Sites,
    RiseLaw::Rooms,
    RiseLaw::Swing,
];

/// A decay by such a law, with its truth.
pub struct Rise {
    /// As it was read.
    pub recording: Recording,
    /// The leak, Pa/s.
    pub leak: f64,
    /// Whether anything else gives gas.
    pub gives: bool,
    /// True pressure at the gauge an hour after the last reading, Pa.
    pub later: f64,
}

/// The share that has left a slab after `t` of its own times (thickness² / diffusivity).
fn left_slab(t: f64) -> f64 {
    let odd = |n: i32| f64::from(2 * n + 1) * std::f64::consts::PI;
    1.0 - (0..60)
        .map(|n| 8.0 / odd(n).powi(2) * (-odd(n).powi(2) * t).exp())
        .sum::<f64>()
}

/// What is drawn once for a decay.
struct Sources {
    law: RiseLaw,
    leak: f64,
    /// Water and outgassing, Pa: levels, or what they give in ten minutes.
    water: f64,
    rubber: f64,
    evacuated: f64,
    slab: f64,
    paces: [(f64, f64); 6],
    swing: (f64, f64, f64),
    ratio: f64,
    pipe: f64,
    is_far: bool,
}

impl Sources {
    fn drawn(law: RiseLaw, d: &mut Draw) -> Self {
        let lognormal =
            |d: &mut Draw, median: f64, spread: f64| median * (spread * d.normal()).exp();
        let leaks = d.uniform() < 0.4;
        let leak = if !leaks {
            0.0
        } else if d.uniform() < 0.04 {
            lognormal(d, 4_000.0, 1.0)
        } else {
            lognormal(d, 8.0, 1.6)
        };
        let (wet, soft) = (d.uniform() < 0.4, d.uniform() < 0.4);
        let water = if wet { lognormal(d, 160.0, 1.2) } else { 0.0 };
        let rubber = if soft { lognormal(d, 40.0, 1.2) } else { 0.0 };
        let mut paces = [(0.0, 0.0); 6];
        let first = lognormal(d, 60.0, 0.7);
        for (k, pace) in paces.iter_mut().enumerate() {
            *pace = (first * 4f64.powi(k as i32), -d.uniform().ln());
        }
        let all: f64 = paces.iter().map(|p| p.1).sum();
        paces.iter_mut().for_each(|p| p.1 /= all);
        Self {
            law,
            leak: leak * MICRON / 60.0,
            water: water * MICRON,
            rubber: rubber * MICRON,
            evacuated: lognormal(d, 2_400.0, 0.9),
            slab: lognormal(d, 12.0 * 3_600.0, 1.0),
            paces,
            swing: (
                d.between(0.0, 1.2),
                d.between(900.0, 5_400.0),
                std::f64::consts::TAU * d.uniform(),
            ),
            ratio: d.between(0.2, 0.8),
            pipe: lognormal(d, 25.0, 0.8),
            is_far: d.uniform() < 0.5,
        }
    }

    /// Change of temperature since isolation, K.
    fn warmer(&self, t: f64) -> f64 {
        let (size, period, phase) = self.swing;
        let at = |t: f64| (std::f64::consts::TAU * t / period + phase).sin();
        size * (at(t) - at(0.0)) * if self.law == RiseLaw::Swing { 1.0 } else { 0.3 }
    }

    /// What water has given by `t`, Pa.
    fn wet(&self, t: f64) -> f64 {
        match self.law {
            // Partly pulled off before: the quick bindings are nearly empty, and the rest levels together.
            RiseLaw::Sites => {
                let left = |tau: f64| (-self.evacuated / (20.0 * tau)).exp();
                let all: f64 = self.paces.iter().map(|&(tau, w)| w * left(tau)).sum();
                self.paces
                    .iter()
                    .map(|&(tau, w)| w * left(tau) / all * (1.0 - (-t / tau).exp()))
                    .sum::<f64>()
                    * self.water
            }
            RiseLaw::Swing => {
                let level = self.water * (0.065 * self.warmer(t)).exp();
                level * (1.0 - (-t / self.paces[1].0).exp())
            }
            _ => self.water * (1.0 - (-t / self.paces[2].0).exp()),
        }
    }

    /// What rubber and oil have given by `t`, Pa.
    fn soft(&self, t: f64) -> f64 {
        let given = |t: f64| match self.law {
            RiseLaw::Rooms => (1.0 + (t + self.evacuated) / 900.0).ln(),
            _ => left_slab((self.evacuated + t) / self.slab),
        };
        let ten = given(600.0) - given(0.0);
        self.rubber * (given(t) - given(0.0)) / ten.max(1e-12)
    }

    /// The true pressure at the gauge every second, Pa.
    fn truly(&self, start: f64, uneven: f64, seconds: usize) -> Vec<f64> {
        let (mut here, mut there) = (start + uneven, start - uneven);
        let inflow = |t: f64| {
            let h = 1.0;
            (
                self.leak * h,
                self.wet(t + h) - self.wet(t) + self.soft(t + h) - self.soft(t),
            )
        };
        (0..=seconds)
            .map(|k| {
                let t = k as f64;
                let gas = 1.0 + self.warmer(t) / 295.0;
                let shown = here * gas;
                let (leak, rest) = inflow(t);
                // Two rooms of these shares of the volume; what evens out between them follows their mean pressure.
                let [a, b] = [self.ratio, 1.0 - self.ratio];
                let pace = match self.law {
                    RiseLaw::Rooms => {
                        self.pipe * (300.0 * MICRON / (0.5 * (here + there))).clamp(0.2, 5.0)
                    }
                    _ => self.pipe,
                };
                let over = (here - there) * (1.0 - (-1.0 / pace).exp());
                let (to_here, to_there) = match (self.law, self.is_far) {
                    (RiseLaw::Rooms, true) => (leak / a, rest / b),
                    (RiseLaw::Rooms, false) => (rest / a, leak / b),
                    _ => (leak + rest, leak + rest),
                };
                here += to_here - b * over;
                there += to_there + a * over;
                shown
            })
            .collect()
    }
}

/// A decay by such a law.
pub fn rise(law: RiseLaw, seed: u64) -> Rise {
    let mut d = Draw(
        seed.wrapping_mul(0x2545_f491)
            .wrapping_add(law as u64 * 104_729),
    );
    let of = Sources::drawn(law, &mut d);
    let start = d.between(80.0, 420.0) * MICRON;
    let uneven = 0.1 * start * d.normal();
    let minutes = d.between(10.0, 60.0);
    let every = [1.0, 5.0, 15.0, 60.0][(d.uniform() * 4.0) as usize];
    let seconds = (60.0 * minutes) as usize;
    let truly = of.truly(start, uneven, seconds + 3_600);
    // The gauge is off by a share of its own, and strays from it and back.
    let (off, stray) = (1.0 + 0.06 * d.normal(), d.between(0.001, 0.004));
    let digit = [1.0, 1.0, 2.0, 5.0][(d.uniform() * 4.0) as usize];
    let (fast, mut own, mut before) = (d.between(0.001, 0.006), 0.0, 0.0);
    let mut readings = Vec::new();
    let has_probe = d.uniform() < 0.5;
    let mut t = 0.0;
    while t <= seconds as f64 {
        let back = (-(t - before) / 400.0f64).exp();
        own = own * back + stray * (1.0 - back * back).sqrt() * d.normal();
        before = t;
        let p = truly[t as usize] / MICRON * off * (1.0 + own + fast * d.normal());
        readings.push(Reading {
            at_s: t,
            channel: 0,
            value: (p / digit).round() * digit,
        });
        if has_probe {
            readings.push(Reading {
                at_s: t,
                channel: 1,
                value: (10.0 * (295.0 + of.warmer(t) + 0.03 * d.normal())).round() / 10.0,
            });
        }
        t += every;
    }
    let mut channels = vec![Channel {
        resolution: Some(digit),
        ..Channel::new("V", Quantity::AbsolutePressure, Unit::Micron)
    }];
    if has_probe {
        channels.push(Channel {
            resolution: Some(0.1),
            ..Channel::new("T", Quantity::Temperature, Unit::K)
        });
    }
    let mut r = blank(Kind::VacuumDecay, channels, readings);
    r.events = vec![Event {
        at_s: 0.0,
        kind: EventKind::Isolated,
        note: String::new(),
    }];
    r.settings.evacuated_s = Some(of.evacuated);
    r.settings.decay_limit = Some(DecayLimit {
        level_pa: RULE.0 * MICRON,
        at_s: RULE.1,
        start_max_pa: None,
        rise: None,
    });
    Rise {
        recording: r,
        leak: off * of.leak,
        gives: of.water > 0.0 || of.rubber > 0.0,
        later: truly[seconds + 3_600],
    }
}
