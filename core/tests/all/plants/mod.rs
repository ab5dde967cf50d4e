//! Simulated tests as recordings, for laws, coverage and thinned readings. The sim shares no code with the judge.
#![allow(dead_code, clippy::unwrap_used)] // each user takes a part of it

pub mod other;
pub mod rises;

use ruhe_core::quantity::{MICRON, Unit};
use ruhe_core::reading::*;
use ruhe_sim::{DrawnDecay, HoldPlant, HoldTruth, PSI, Probe, Weather};

/// A small deterministic source of uniform and normal draws, so that a cell is the same on every machine.
pub struct Draw(pub u64);

impl Draw {
    /// SplitMix64 (Steele, Lea & Flood 2014): neighbouring seeds give unrelated draws, which a bare congruential
    /// generator does not.
    pub fn uniform(&mut self) -> f64 {
        self.0 = self.0.wrapping_add(0x9e37_79b9_7f4a_7c15);
        let mut z = self.0;
        z = (z ^ (z >> 30)).wrapping_mul(0xbf58_476d_1ce4_e5b9);
        z = (z ^ (z >> 27)).wrapping_mul(0x94d0_49bb_1331_11eb);
        ((z ^ (z >> 31)) >> 11) as f64 / (1u64 << 53) as f64 + 1e-17
    }
    pub fn between(&mut self, a: f64, b: f64) -> f64 {
        a + (b - a) * self.uniform()
    }
    pub fn normal(&mut self) -> f64 {
        (-2.0 * self.uniform().ln()).sqrt() * (std::f64::consts::TAU * self.uniform()).cos()
    }
}

/// Does something for `n` seeds from `first` on, half of them on either core; in the order of seeds.
pub fn on_two_cores<T: Send>(first: u64, n: u64, act: impl Fn(u64) -> T + Sync) -> Vec<T> {
    let (middle, act) = (first + n / 2, &act);
    std::thread::scope(|s| {
        let halves = [first..middle, middle..first + n]
            .map(|part| s.spawn(move || part.map(act).collect::<Vec<T>>()));
        halves.into_iter().flat_map(|h| h.join().unwrap()).collect()
    })
}

/// A circuit as it may be met: pressure, gain, lag, filling heat and the gauge's own temperature drawn.
pub fn any_truth(d: &mut Draw, duration: f64, seed: u64) -> HoldTruth {
    let mut truth = HoldPlant::tight(d.between(150.0, 550.0), duration, seed);
    truth.gain = 1.0 + 0.15 * d.normal();
    truth.lag = [0.0, 60.0, 120.0, 300.0, 600.0][(d.uniform() * 5.0) as usize];
    truth.fill_k = d.between(0.0, 5.0);
    truth.fill_time = d.between(90.0, 300.0);
    truth.fill_slow = d.between(0.0, 0.3);
    truth.fill_slower = d.between(1.5, 4.0);
    truth.gauge.per_kelvin = 0.16 * PSI * 0.5 * d.normal();
    truth.gauge.sun = 0.5 * d.normal();
    truth
}

/// Weather as it may be met.
pub fn any_weather(d: &mut Draw) -> Weather {
    match (d.uniform() * 4.0) as usize {
        0 => Weather::Steady,
        1 => Weather::Ramp(d.between(-3.0, 3.0)),
        2 => Weather::Cloud(6.0),
        _ => Weather::DayNight(6.0, d.uniform()),
    }
}

/// Two parts with a probe each; their true shares and swings drawn, 60 and 40 % believed.
pub fn second_probe(t: &mut HoldTruth, d: &mut Draw) {
    let share = (0.6f64 + 0.1 * d.normal()).clamp(0.2, 0.9);
    t.gain = 1.0 + 0.07 * d.normal();
    let probe = t.probes[0];
    t.probes = vec![
        Probe { share, ..probe },
        Probe {
            share: 1.0 - share,
            swing: d.between(0.4, 1.3),
            follows: d.between(60.0, 900.0),
            ..probe
        },
    ];
}

pub fn blank(kind: Kind, channels: Vec<Channel>, mut readings: Vec<Reading>) -> Recording {
    readings.sort_by(|a, b| a.at_s.total_cmp(&b.at_s));
    Recording {
        settings: Settings::new(kind),
        channels,
        readings,
        events: vec![],
        start_ms: None,
        duplicates: 0,
        remarks: vec![],
    }
}

/// The plant's hold, read every so many seconds: channel 0 the gauge, then the probes.
pub fn hold(truth: &HoldTruth, every: f64) -> Recording {
    let mut plant = HoldPlant::new(truth.clone());
    let mut channels = vec![Channel {
        resolution: Some(truth.gauge.digit),
        range: Some(800.0 * PSI),
        ..Channel::new("P", Quantity::GaugePressure, Unit::Pa)
    }];
    for i in 0..truth.probes.len() {
        let share = if truth.probes.len() == 1 {
            1.0
        } else {
            [0.6, 0.4][i]
        };
        channels.push(Channel {
            volume_share: Some(share),
            ..Channel::new(&format!("T{i}"), Quantity::Temperature, Unit::K)
        });
    }
    let mut readings = Vec::new();
    let mut t = 0.0;
    while t <= truth.duration {
        readings.extend(plant.show(t).into_iter().map(|s| Reading {
            at_s: s.at_s,
            channel: s.gauge,
            value: s.value,
        }));
        t += every;
    }
    let mut r = blank(Kind::PressureHold, channels, readings);
    r.settings.planned_s = Some(truth.duration);
    r
}

/// Two halves either side of a shut valve: A from the plant, B what has come through it (Pa/s of A), at A's
/// temperature. Channels: A, B, the probe. Volumes are equal.
pub fn halves(truth: &HoldTruth, through: f64, every: f64, d: &mut Draw) -> Recording {
    let gauge = |name: &str, position| Channel {
        resolution: Some(truth.gauge.digit),
        range: Some(800.0 * PSI),
        position: Some(position),
        ..Channel::new(name, Quantity::GaugePressure, Unit::Pa)
    };
    let channels = vec![
        gauge("A", Position::HalfA),
        gauge("B", Position::HalfB),
        Channel::new("T", Quantity::Temperature, Unit::K),
    ];
    let mut plant = HoldPlant::new(truth.clone());
    let (mut readings, mut wander, mut first) = (Vec::new(), 0.0, None);
    let mut t = 0.0;
    while t <= truth.duration {
        let shown = plant.show(t);
        let (a, kelvin) = (shown[0].value, shown[1].value);
        let start = *first.get_or_insert(kelvin);
        // The valve passes what A's excess drives; B warms and cools with the pipe.
        let drive =
            ((a + ruhe_sim::ATMOSPHERE) / (truth.start_gauge + ruhe_sim::ATMOSPHERE)).powi(2);
        wander = 0.97 * wander + 0.24 * truth.gauge.wander * d.normal();
        let b = (ruhe_sim::ATMOSPHERE + through * drive * t) * kelvin / start
            - ruhe_sim::ATMOSPHERE
            + wander
            + truth.gauge.fast * d.normal();
        let b = (b / truth.gauge.digit).round() * truth.gauge.digit;
        readings.extend(
            [(0, a), (1, b), (2, kelvin)].map(|(channel, value)| Reading {
                at_s: t,
                channel,
                value,
            }),
        );
        t += every;
    }
    let mut r = blank(Kind::LeakBy, channels, readings);
    r.settings.volume_ratio = Some(1.0);
    r
}

/// Ends of a decay's rule: micron, after seconds.
pub const RULE: (f64, f64) = (500.0, 600.0);

/// A drawn decay with its rule and, if it has one, its probe.
pub fn decay(d: &DrawnDecay) -> Recording {
    let position = d.near_pump.map(|near| {
        if near {
            Position::NearPump
        } else {
            Position::Far
        }
    });
    let mut channels = vec![Channel {
        resolution: Some(d.truth.digit / MICRON),
        position,
        ..Channel::new("V", Quantity::AbsolutePressure, Unit::Micron)
    }];
    let mut readings: Vec<Reading> = d
        .readings()
        .iter()
        .map(|s| Reading {
            at_s: s.at_s,
            channel: 0,
            value: s.value / MICRON,
        })
        .collect();
    if d.has_probe {
        channels.push(Channel {
            resolution: Some(0.1),
            ..Channel::new("T", Quantity::Temperature, Unit::K)
        });
        let shown = |t: f64| ((d.truth.kelvin + d.truth.drift * t / 3600.0) * 10.0).round() / 10.0;
        let with: Vec<Reading> = readings
            .iter()
            .map(|r| Reading {
                at_s: r.at_s,
                channel: 1,
                value: shown(r.at_s),
            })
            .collect();
        readings.extend(with);
    }
    let mut r = blank(Kind::VacuumDecay, channels, readings);
    r.events = vec![Event {
        at_s: 0.0,
        kind: EventKind::Isolated,
        note: String::new(),
    }];
    r.settings.evacuated_s = Some(d.truth.evacuated);
    r.settings.decay_limit = Some(DecayLimit {
        level_pa: RULE.0 * MICRON,
        at_s: RULE.1,
        start_max_pa: None,
        rise: None,
    });
    r
}

/// What goes wrong with a decay's readings besides noise.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Trouble {
    None,
    /// A digit too many or too few in one reading.
    Slip,
    /// From some moment on the gauge shows the same.
    Stuck,
    /// A valve was bumped: from some moment on it stands higher, or lower.
    Step,
    /// It was marked as isolated while the pump still pulled.
    Late,
}

impl Trouble {
    pub const EACH: [Self; 5] = [Self::None, Self::Slip, Self::Stuck, Self::Step, Self::Late];

    /// Does it to the gauge of a decay, channel 0, in micron.
    pub fn to(self, r: &mut Recording, d: &mut Draw) {
        let (share, size) = (d.between(0.25, 0.9), d.uniform());
        let last = r.readings.last().map_or(0.0, |x| x.at_s);
        let at = share * last;
        match self {
            Self::None => {}
            Self::Slip => {
                let hit = r
                    .readings
                    .iter()
                    .rposition(|x| x.channel == 0 && x.at_s <= at);
                if let Some(i) = hit {
                    r.readings[i].value *= if size < 0.5 { 10.0 } else { 0.1 };
                }
            }
            Self::Stuck => {
                let mut shown = None;
                for x in r
                    .readings
                    .iter_mut()
                    .filter(|x| x.channel == 0 && x.at_s >= at)
                {
                    x.value = *shown.get_or_insert(x.value);
                }
            }
            Self::Step => {
                let by = 30.0 * 20f64.powf(size) * if share < 0.5 { 1.0 } else { -0.3 };
                for x in r
                    .readings
                    .iter_mut()
                    .filter(|x| x.channel == 0 && x.at_s >= at)
                {
                    x.value = (x.value + by).max(1.0);
                }
            }
            Self::Late => {
                // The pump was still pulling down from some thousand micron for the first minutes.
                let pulling = 120.0 + 480.0 * size;
                let first = r.readings[0].value;
                let from = first * (3.0 + 5.0 * share);
                for x in &mut r.readings {
                    x.at_s += pulling;
                }
                let pumped = (0..(pulling / 20.0) as u32).map(|k| {
                    let t = 20.0 * f64::from(k);
                    let fading = (-4.0 * t / pulling).exp();
                    Reading {
                        at_s: t,
                        channel: 0,
                        value: (first + (from - first) * fading).round(),
                    }
                });
                r.readings.splice(0..0, pumped);
            }
        }
    }
}

/// Ways in which readings go missing.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Missing {
    Nothing,
    SecondHalf,
    FirstHalf,
    EverySecond,
    Gap,
    AllButEnds,
    AllButOne,
    All,
}

impl Missing {
    pub const EACH: [Self; 8] = [
        Self::Nothing,
        Self::SecondHalf,
        Self::FirstHalf,
        Self::EverySecond,
        Self::Gap,
        Self::AllButEnds,
        Self::AllButOne,
        Self::All,
    ];

    /// Takes readings of a channel away; the gap and the one that stays are drawn.
    pub fn from(self, r: &Recording, channel: usize, d: &mut Draw) -> Recording {
        let n = r.readings.iter().filter(|x| x.channel == channel).count();
        let (a, one) = (d.between(0.1, 0.6), (d.uniform() * n as f64) as usize);
        let share = |i: usize| i as f64 / (n.max(2) - 1) as f64;
        let mut i = 0;
        let mut out = r.clone();
        out.readings.retain(|x| {
            if x.channel != channel {
                return true;
            }
            let (k, s) = (i, share(i));
            i += 1;
            match self {
                Self::Nothing => true,
                Self::SecondHalf => s <= 0.5,
                Self::FirstHalf => s >= 0.5,
                Self::EverySecond => k % 2 == 0,
                Self::Gap => !(a..a + 0.33).contains(&s),
                Self::AllButEnds => k == 0 || k + 1 == n,
                Self::AllButOne => k == one,
                Self::All => false,
            }
        });
        out
    }
}
