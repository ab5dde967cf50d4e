//! From gauges and probes to one pressure and its temperatures, over the time in which they were really read.

use super::finding::Doubt;
use super::path::Eye;
use crate::reading::{
    Channel, EventKind, Placement, Position, Quantity, Recording, Reference, Series, Sky, doubt,
};

/// A probe that is used.
#[derive(Debug, Clone)]
pub struct Thermometer {
    /// Its channel's index.
    pub channel: usize,
    /// Its readings, K.
    pub readings: Series,
    /// Its share of the volume; all of them sum to 1.
    pub share: f64,
    /// How it is read.
    pub eye: Eye,
}

/// A hold's traces: one effective pressure, the probes, and what is known of the gauge.
#[derive(Debug, Clone)]
pub struct HeldGas {
    /// Absolute pressure (Pa), sides weighted by their share of the volume.
    pub pressure: Series,
    /// Probes that are used. Ambient probes count only when no other is there.
    pub probes: Vec<Thermometer>,
    /// Readings that stand alone (left out), and a gauge that stopped.
    pub doubts: Vec<Doubt>,
    /// Channels that were read, but not long enough to be used: their indices.
    pub unused: Vec<usize>,
    /// A probe on another part was read, but not long enough to be used.
    pub lost_a_probe: bool,
    /// The gauge that was taken off and so ends (or begins) what can be judged: its index.
    pub cut_by: Option<usize>,
    /// What the gauge itself feels, if a probe hangs in the air; else the probes' mean stands for it.
    pub gauge_air: Option<Series>,
    /// How the probes sit, if that was said.
    pub placement: Option<Placement>,
    /// The sky, if that was said.
    pub sky: Option<Sky>,
    /// Largest digit among the pressure gauges, Pa.
    pub digit: f64,
    /// Fast noise of one reading before it is rounded (standard deviation), Pa.
    pub noise: f64,
    /// Top of the gauge's range, Pa.
    pub range: f64,
    /// Difference of the first two sides over time (Pa), if there are two.
    pub apart: Option<Series>,
    /// How far the sides' shares of the volume are known (standard deviation).
    pub side_share: f64,
    /// A vented gauge without a barometer channel: the weather goes into the uncertainty.
    pub weather_unknown: bool,
    /// When the sun was first noted on the gauge, s.
    pub sun: Option<f64>,
    /// Moments at which something was done that makes a step: when (s) and how large it may be (share of pressure).
    pub steps: Vec<(f64, f64)>,
    /// When the clock of settling starts, s.
    pub start: f64,
}

/// Range assumed for a gauge that states none, Pa (800 psi). Common practice, no source.
pub(super) const DEFAULT_RANGE: f64 = 800.0 * 6_894.757;
/// A probe that was not read for more than this share of the time is no use …
const UNREAD: f64 = 0.5;
/// … unless the gauge was read no more than so many times meanwhile, the ends of the pause included.
const ENDS: usize = 3;
/// Error of aiming an infrared thermometer, K (standard deviation), new in every reading. Common practice, no source.
const INFRARED: f64 = 1.0;
/// Readings of a probe so long before and after the pressure's own count too, s.
const AROUND: f64 = 900.0;
/// Largest digit a probe is taken to have that states none, K (1 °F).
const COARSEST: f64 = 1.0 / 1.8;

/// Gathers the traces from the shut supply on. `None` when no system pressure was recorded since.
#[must_use]
pub fn gather(recording: &Recording) -> Option<HeldGas> {
    let mut all = recording.all_series();
    let channels = &recording.channels;
    let start = recording.supply_shut();
    let mut doubts = slips(recording, &mut all);
    let gauges = SystemGauges::of(recording, &all, start)?;
    let mut pressure = gauges.pressure(&all);
    let steps = steps(recording, start, &mut pressure);
    let (from, to) = (*pressure.t.first()?, *pressure.t.last()?);
    let used = choose_probes(recording, &all, &pressure);
    let is_on_pipe = |i: usize| {
        channels[i].quantity == Quantity::Temperature
            && channels[i].position != Some(Position::Ambient)
    };
    let is_unused = |i: &usize| {
        !all[*i].is_empty()
            && ((channels[*i].is_system_pressure() && !gauges.used.contains(i))
                || (channels[*i].quantity == Quantity::Temperature
                    && !used.contains(i)
                    && (used.is_empty() || is_on_pipe(*i))))
    };
    let unused: Vec<usize> = (0..channels.len()).filter(is_unused).collect();
    let lost_a_probe =
        !used.is_empty() && (0..channels.len()).any(|i| is_on_pipe(i) && !used.contains(&i));
    let gauge_air = (0..channels.len())
        .find(|&i| {
            channels[i].position == Some(Position::Ambient)
                && channels[i].quantity == Quantity::Temperature
                && all[i].covers(from, to)
        })
        .map(|i| all[i].clone());
    let digit = gauges
        .used
        .iter()
        .map(|&g| {
            channels[g]
                .resolution_si()
                .unwrap_or_else(|| observed_digit(&all[g]))
        })
        .fold(0.0, f64::max);
    doubts.extend(gauges.used.iter().filter_map(|&g| {
        let stood = doubt::stood_still(&all[g].between(start, f64::INFINITY), digit)?;
        stood.moved_before.then(|| Doubt::Stuck {
            channel: channels[g].name.clone(),
            from: stood.from,
            to: stood.to,
        })
    }));
    Some(HeldGas {
        doubts,
        apart: gauges.apart(&all, &pressure.t),
        side_share: gauges.side_share(),
        weather_unknown: gauges.weather_unknown(from, to),
        range: gauges.range(),
        cut_by: gauges.cut_by,
        probes: thermometers(recording, &used, &all, (from, to)),
        noise: pressure.noise_before_rounding(digit),
        pressure,
        unused,
        lost_a_probe,
        gauge_air,
        placement: recording.settings.probe,
        sky: recording.settings.sky,
        digit,
        sun: recording.first_event(EventKind::Sun),
        steps,
        start: if start.is_finite() { start } else { from },
    })
}

/// A pressure this share of itself off, and more than twenty digits, from neighbours that agree is a slip. A closed
/// system does not leap and come back. Common practice, no source.
const LEAPS: (f64, f64) = (0.01, 20.0);
/// A temperature so far off, K, from neighbours so near in time, s; further apart the weather may do it, but not this.
const JUMPS: [(f64, f64); 2] = [(4.0, 150.0), (15.0, 3_600.0)];
/// Neighbours agree when they differ by less than this share of what the one between is off.
const AGREE: f64 = 0.25;

/// Takes readings that stand alone out of the series.
fn slips(recording: &Recording, all: &mut [Series]) -> Vec<Doubt> {
    let mut doubts = Vec::new();
    let air = recording.atmosphere().0.pa();
    for (channel, series) in recording.channels.iter().zip(all) {
        let is_temperature = channel.quantity == Quantity::Temperature;
        if !is_temperature && !channel.is_system_pressure() {
            continue;
        }
        let digit = channel.resolution_si().unwrap_or(0.0);
        let is_far = |b: &doubt::Between| {
            let about = 0.5 * (b.before + b.after);
            let off = (b.value - about).abs();
            let far = if is_temperature {
                JUMPS.iter().any(|j| off > j.0 && b.apart <= j.1)
            } else {
                off > (LEAPS.0 * (about + air)).max(LEAPS.1 * digit)
            };
            far && (b.after - b.before).abs() < AGREE * off
        };
        let lonely = doubt::take_lonely(series, is_far);
        doubts.extend(lonely.iter().map(|l| Doubt::Slip {
            channel: channel.name.clone(),
            is_temperature,
            at: l.at,
            value: l.value,
            about: l.about,
        }));
    }
    doubts
}

/// The probes of `used` with their shares.
fn thermometers(
    recording: &Recording,
    used: &[usize],
    all: &[Series],
    (from, to): (f64, f64),
) -> Vec<Thermometer> {
    let channels = &recording.channels;
    let own = if recording.settings.probe == Some(Placement::Infrared) {
        INFRARED
    } else {
        0.0
    };
    used.iter()
        .zip(volume_weights(channels, used))
        .map(|(&i, share)| Thermometer {
            channel: i,
            eye: Eye {
                digit: channels[i]
                    .resolution_si()
                    .unwrap_or_else(|| smallest_step(&all[i], 1e-4).min(COARSEST)),
                own,
            },
            readings: all[i].between(from - AROUND, to + AROUND),
            share,
        })
        .collect()
}

/// Filling has come to rest a quarter of an hour after the shut supply, as a rule, s (common practice, no source).
pub const RESTED: f64 = 900.0;

impl HeldGas {
    /// The first reading came as the supply was shut, and the next one only when filling was over: how far it had
    /// warmed the gas is in their difference.
    #[must_use]
    pub fn first_alone(&self) -> bool {
        let after = |i: usize| self.pressure.t.get(i).map(|t| t - self.start);
        after(0).is_some_and(|t| t < 0.5 * RESTED) && after(1).is_some_and(|t| t > RESTED)
    }
}

/// The gauges of the system that count, and how their readings become one absolute pressure.
struct SystemGauges<'a> {
    channels: &'a [Channel],
    /// The one that was read longest, then the others that were read as long.
    used: Vec<usize>,
    shares: Vec<f64>,
    barometer: Option<Series>,
    atmosphere: f64,
    window: (f64, f64),
    cut_by: Option<usize>,
}

impl<'a> SystemGauges<'a> {
    fn of(recording: &'a Recording, all: &[Series], start: f64) -> Option<Self> {
        let channels = &recording.channels;
        let since = |i: usize| {
            let t = &all[i].t[all[i].t.partition_point(|&t| t < start)..];
            Some((*t.first()?, *t.last()?, t.len()))
        };
        let read: Vec<usize> = (0..channels.len())
            .filter(|&i| channels[i].is_system_pressure() && since(i).is_some())
            .collect();
        let length = |i: usize| since(i).map_or((0.0, 0), |(a, b, n)| (b - a, n));
        // The first of equals, so that the order of channels is the order of sides.
        let &lead = read.iter().rev().max_by(|&&a, &&b| {
            length(a)
                .0
                .total_cmp(&length(b).0)
                .then(length(a).1.cmp(&length(b).1))
        })?;
        let (mut from, mut to, _) = since(lead)?;
        let mut out = Self {
            channels,
            used: vec![],
            shares: vec![],
            barometer: (0..channels.len())
                .find(|&i| {
                    channels[i].quantity == Quantity::BarometricPressure && !all[i].is_empty()
                })
                .map(|i| all[i].clone()),
            atmosphere: recording.atmosphere().0.pa(),
            window: (from, to),
            cut_by: None,
        };
        for g in read.iter().copied().filter(|&g| g != lead) {
            if all[g].covers(from, to) {
                continue;
            }
            // A second gauge that was taken off may go unread if it agreed with the first; else what it would have
            // shown since is not known.
            let (a, b, _) = since(g)?;
            let near = |t: f64| {
                (out.absolute(g, t, all[g].at(t).unwrap_or(0.0))
                    - out.absolute(lead, t, all[lead].at(t).unwrap_or(0.0)))
                .abs()
            };
            let step = |i: usize| {
                channels[i]
                    .resolution_si()
                    .unwrap_or_else(|| observed_digit(&all[i]))
            };
            let accuracy = |i: usize| {
                channels[i]
                    .accuracy
                    .map_or(0.0, |x| channels[i].unit.delta_to_si(x))
            };
            if near(a.max(from)).max(near(b.min(to)))
                > step(g).max(step(lead)) + accuracy(g).hypot(accuracy(lead)) + 1.0
            {
                (from, to) = (from.max(a), to.min(b).max(from.max(a)));
                out.cut_by = Some(g);
            }
        }
        out.window = (from, to);
        out.used = std::iter::once(lead)
            .chain(
                read.iter()
                    .copied()
                    .filter(|&g| g != lead && all[g].covers(from, to)),
            )
            .collect();
        out.used[1..].sort_unstable();
        out.shares = out
            .used
            .iter()
            .map(|&i| channels[i].volume_share.unwrap_or(1.0))
            .collect();
        Some(out)
    }

    /// A gauge's reading as absolute pressure, Pa.
    fn absolute(&self, i: usize, t: f64, v: f64) -> f64 {
        match (
            self.channels[i].quantity,
            self.channels[i].reference,
            &self.barometer,
        ) {
            (Quantity::AbsolutePressure, _, _) => v,
            (_, Some(Reference::Sealed), _) => v + crate::matter::atmosphere::SEA_LEVEL.pa(),
            (_, _, Some(b)) => v + b.at(t).unwrap_or(self.atmosphere),
            _ => v + self.atmosphere,
        }
    }

    /// Difference of the first two sides at the moments `t`, Pa.
    fn apart(&self, all: &[Series], t: &[f64]) -> Option<Series> {
        let &[a, b, ..] = self.used.as_slice() else {
            return None;
        };
        let at = |i: usize, t: f64| self.absolute(i, t, all[i].at(t).unwrap_or(0.0));
        Some(Series {
            t: t.to_vec(),
            v: t.iter().map(|&t| at(a, t) - at(b, t)).collect(),
        })
    }

    /// How far the sides' shares of the volume are known (standard deviation). Common practice, no source.
    fn side_share(&self) -> f64 {
        let is_known = |&g: &usize| self.channels[g].volume_share.is_some();
        if self.used.iter().all(is_known) {
            0.05
        } else {
            0.25
        }
    }

    /// A vented gauge whose air nobody read over all of the time.
    fn weather_unknown(&self, from: f64, to: f64) -> bool {
        let is_vented = |&g: &usize| {
            self.channels[g].quantity == Quantity::GaugePressure
                && self.channels[g].reference != Some(Reference::Sealed)
        };
        self.barometer.as_ref().is_none_or(|b| !b.covers(from, to))
            && self.used.iter().any(is_vented)
    }

    /// Top of the widest gauge's range, Pa.
    fn range(&self) -> f64 {
        let top = |&g: &usize| {
            let c = &self.channels[g];
            c.range.map(|r| c.unit.delta_to_si(r))
        };
        self.used
            .iter()
            .filter_map(top)
            .reduce(f64::max)
            .unwrap_or(DEFAULT_RANGE)
    }

    /// One pressure at the readings of the first gauge, sides weighted by their shares.
    fn pressure(&self, all: &[Series]) -> Series {
        let lead = self.used[0];
        let total: f64 = self.shares.iter().sum::<f64>().max(1e-9);
        let mut out = Series::with_capacity(all[lead].len());
        for (&t, &v) in all[lead]
            .t
            .iter()
            .zip(&all[lead].v)
            .filter(|(t, _)| (self.window.0..=self.window.1).contains(*t))
        {
            let others = self
                .used
                .iter()
                .zip(&self.shares)
                .skip(1)
                .map(|(&g, &w)| w * self.absolute(g, t, all[g].at(t).unwrap_or(v)));
            out.t.push(t);
            out.v
                .push((self.shares[0] * self.absolute(lead, t, v) + others.sum::<f64>()) / total);
        }
        out
    }
}

/// The probes that were read at least twice and without a pause of half the time: what they missed goes into the
/// uncertainty. An infrared thermometer is meant to be read at the ends only.
fn choose_probes(recording: &Recording, all: &[Series], pressure: &Series) -> Vec<usize> {
    let channels = &recording.channels;
    let (from, to) = (pressure.t[0], pressure.t[pressure.len() - 1]);
    let most = UNREAD * (to - from);
    // While nobody read the gauge either, nothing was missed that it told.
    let is_pause = |w: &[f64]| w[1] - w[0] > most && pressure.count(w[0], w[1]) > ENDS;
    let at_the_ends = recording.settings.probe == Some(Placement::Infrared);
    let is_read = |i: usize| {
        let within = all[i].between(from, to);
        all[i].read_within(from, to).is_some_and(|(a, b)| {
            (a - from).max(to - b) <= most && (at_the_ends || !within.t.windows(2).any(is_pause))
        })
    };
    let of = |at: &dyn Fn(&Channel) -> bool| -> Vec<usize> {
        (0..channels.len())
            .filter(|&i| channels[i].quantity == Quantity::Temperature && at(&channels[i]))
            .collect()
    };
    let on_pipe = of(&|c| c.position != Some(Position::Ambient));
    let candidates = if on_pipe.iter().any(|&i| all[i].len() >= 2) {
        on_pipe
    } else {
        of(&|_| true)
    };
    candidates.into_iter().filter(|&i| is_read(i)).collect()
}

/// Shares of the volume that sum to 1; where some were given, a probe without one counts nothing.
fn volume_weights(channels: &[Channel], used: &[usize]) -> Vec<f64> {
    let any = used.iter().any(|&i| channels[i].volume_share.is_some());
    let raw: Vec<f64> = used
        .iter()
        .map(|&i| {
            channels[i]
                .volume_share
                .unwrap_or(if any { 0.0 } else { 1.0 })
        })
        .collect();
    let total: f64 = raw.iter().sum();
    raw.iter()
        .map(|w| {
            if total > 0.0 {
                w / total
            } else {
                1.0 / used.len() as f64
            }
        })
        .collect()
}

/// How far the share of a hose that is filled again is known: 30 % (common practice, no source).
const HOSE_KNOWN: f64 = 0.3;

/// What a gauge put back takes, as a share of the gauge pressure: its hose was emptied and is filled from the system,
/// V_h/(V_s + V_h). `None`: the hose or the system is not known.
fn put_back(recording: &Recording) -> Option<(f64, f64)> {
    let s = &recording.settings;
    let hose = s.dead_volume_ml? / 1e3;
    let (low, high) = s.volume_l.map(|v| (v, v)).or(s.volume_band_l)?;
    let share = |system: f64| hose / (system + hose);
    let middle = 0.5 * (share(low) + share(high));
    Some((
        middle,
        HOSE_KNOWN * middle + 0.5 * (share(low) - share(high)),
    ))
}

/// Moments at which something was done, and how large a step it may have made (share of pressure): a gauge put back
/// loses a hose-full; a valve opens or shuts part of the volume. Where hose and system are known, what the hose took
/// is given back to the pressures after it, and only its doubt is left; else 2 % either way (common practice, no
/// source).
fn steps(recording: &Recording, start: f64, pressure: &mut Series) -> Vec<(f64, f64)> {
    let air = recording.atmosphere().0.pa();
    let hose = put_back(recording);
    let mut out = Vec::new();
    for e in recording.events.iter().filter(|e| e.at_s > start) {
        match (e.kind, hose) {
            (EventKind::GaugeReattached, Some((share, doubt))) => {
                let before = (0..pressure.len()).rfind(|&i| pressure.t[i] < e.at_s);
                if let Some(stood) = before.map(|i| pressure.v[i] - air) {
                    for i in 0..pressure.len() {
                        if pressure.t[i] >= e.at_s {
                            pressure.v[i] += share * stood;
                        }
                    }
                }
                out.push((e.at_s, doubt));
            }
            (EventKind::GaugeReattached, None) => out.push((e.at_s, 0.02)),
            (EventKind::ValveMoved, _) => out.push((e.at_s, 0.3)),
            _ => {}
        }
    }
    out
}

/// The smallest step between readings, for a gauge that states no resolution; a tenth of a psi when none is seen.
fn observed_digit(series: &Series) -> f64 {
    smallest_step(series, 1.0).min(689.476)
}

/// The smallest step between readings that is larger than `least`; infinite when there is none.
fn smallest_step(series: &Series, least: f64) -> f64 {
    series
        .v
        .windows(2)
        .map(|w| (w[1] - w[0]).abs())
        .filter(|d| *d > least)
        .fold(f64::INFINITY, f64::min)
}
