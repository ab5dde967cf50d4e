//! From gauges and probes to one pressure and its temperatures, over the time in which they were really read.

use crate::reading::{Channel, EventKind, Position, Quantity, Recording, Reference, Series};

/// A hold's traces: one effective pressure, the probes, and what is known of the gauge.
#[derive(Debug, Clone)]
pub struct HeldGas {
    /// Absolute pressure (Pa), sides weighted by their share of the volume, as far as gauges and probes were read.
    pub pressure: Series,
    /// The same to the last reading of the gauge that was read longest, whatever the probes did.
    pub whole: Series,
    /// Probes (K) with shares that sum to 1. Ambient probes count only when no other is there.
    pub probes: Vec<(Series, f64)>,
    /// Channels that were read, but not long enough to be used: their indices.
    pub unused: Vec<usize>,
    /// A probe on another part was read, but not long enough to be used.
    pub lost_a_probe: bool,
    /// The channel that stopped and so ends (or begins) what can be judged: its index.
    pub cut_by: Option<usize>,
    /// What the temperature may have done at the two ends that nobody read, K (standard deviation of each).
    pub unread_k: (f64, f64),
    /// What the gauge itself feels, if a probe hangs in the air; else the probes' mean stands for it.
    pub gauge_air: Option<Series>,
    /// Largest digit among the pressure gauges, Pa.
    pub digit: f64,
    /// The reading wavers by half a digit or more, so that its mean is finer than the digit.
    pub dithers: bool,
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
/// How far a temperature nobody reads strays, K per root of ten minutes: believed before a probe's own readings are
/// looked at, and with the weight of so many of them. Common practice, no source; checked by core/tests/thinned.rs.
const STRAY: (f64, f64) = (0.7, 3.0);
/// A probe read at least this often is followed, s; beyond, the gas may have strayed since, for no longer than
/// the gas takes to follow its pipe. Common practice, no source.
const FOLLOWED: (f64, f64) = (300.0, 900.0);

/// Gathers the traces from the shut supply on. `None` when no system pressure was recorded since.
#[must_use]
pub fn gather(recording: &Recording) -> Option<HeldGas> {
    let mut all = recording.all_series();
    let channels = &recording.channels;
    let start = shut_at(recording);
    let gauges = SystemGauges::of(recording, &all, start)?;
    let whole = gauges.pressure(&all);
    let (first, last) = (*whole.t.first()?, *whole.t.last()?);

    let thermometers = |at: &dyn Fn(&Channel) -> bool| -> Vec<usize> {
        (0..channels.len())
            .filter(|&i| {
                channels[i].quantity == Quantity::Temperature
                    && all[i].len() >= 2
                    && at(&channels[i])
            })
            .collect()
    };
    let on_pipe = thermometers(&|c| c.position != Some(Position::Ambient));
    let candidates = if on_pipe.is_empty() {
        thermometers(&|_| true)
    } else {
        on_pipe
    };
    let (used, window, probe_cut) = choose_probes(&all, &candidates, (first, last));
    let pressure = match window {
        Some((a, b)) if (a, b) != (first, last) => whole.between(a, b),
        _ => whole.clone(),
    };
    let (from, to) = (
        *pressure.t.first().unwrap_or(&first),
        *pressure.t.last().unwrap_or(&last),
    );
    let cut_by = probe_cut
        .filter(|_| pressure.len() < whole.len())
        .or(gauges.cut_by);
    let is_lost = |i: &usize| {
        channels[*i].quantity == Quantity::Temperature
            && channels[*i].position != Some(Position::Ambient)
            && !used.contains(i)
    };
    let lost_a_probe = !used.is_empty() && (0..channels.len()).any(|i| is_lost(&i));
    let unused = (0..channels.len())
        .filter(|&i| {
            !all[i].is_empty()
                && ((channels[i].is_system_pressure() && !gauges.used.contains(&i))
                    || (channels[i].quantity == Quantity::Temperature && !used.contains(&i)))
        })
        .filter(|&i| channels[i].position != Some(Position::Ambient) || used.is_empty())
        .collect();
    let gauge_air = (0..channels.len())
        .find(|&i| {
            channels[i].position == Some(Position::Ambient)
                && channels[i].quantity == Quantity::Temperature
                && all[i].covers(from, to)
        })
        .map(|i| all[i].clone());
    let apart = (gauges.used.len() >= 2).then(|| {
        let (a, b) = (gauges.used[0], gauges.used[1]);
        let v = pressure
            .t
            .iter()
            .map(|&t| {
                gauges.absolute(a, t, all[a].at(t).unwrap_or(0.0))
                    - gauges.absolute(b, t, all[b].at(t).unwrap_or(0.0))
            })
            .collect();
        Series {
            t: pressure.t.clone(),
            v,
        }
    });
    let digit = gauges
        .used
        .iter()
        .map(|&g| {
            channels[g]
                .resolution_si()
                .unwrap_or_else(|| observed_digit(&all[g]))
        })
        .fold(0.0, f64::max);
    let weather_unknown = gauges
        .barometer
        .as_ref()
        .is_none_or(|b| !b.covers(from, to))
        && gauges.used.iter().any(|&g| {
            channels[g].quantity == Quantity::GaugePressure
                && channels[g].reference != Some(Reference::Sealed)
        });
    let range = gauges
        .used
        .iter()
        .filter_map(|&g| channels[g].range.map(|r| channels[g].unit.delta_to_si(r)))
        .reduce(f64::max)
        .unwrap_or(DEFAULT_RANGE);
    let side_share = if gauges
        .used
        .iter()
        .all(|&g| channels[g].volume_share.is_some())
    {
        0.05
    } else {
        0.25
    };
    let weights = volume_weights(channels, &used);
    let unread_k = used
        .iter()
        .zip(&weights)
        .fold((0f64, 0f64), |(a, b), (&i, w)| {
            (
                a.hypot(w * unread(&all[i], from)),
                b.hypot(w * unread(&all[i], to)),
            )
        });
    // Taken, not copied: a day at 1 Hz is a few megabytes a probe.
    let probes = used
        .iter()
        .zip(&weights)
        .map(|(&i, &w)| (std::mem::take(&mut all[i]), w))
        .collect();
    Some(HeldGas {
        dithers: pressure.fast_noise() >= 0.5 * digit,
        pressure,
        whole,
        probes,
        unused,
        lost_a_probe,
        cut_by,
        unread_k,
        gauge_air,
        digit,
        range,
        apart,
        side_share,
        weather_unknown,
        sun: recording.first_event(EventKind::Sun),
        steps: steps(recording, start),
        start: if start.is_finite() { start } else { first },
    })
}

/// When the supply was shut, s: topping up begins anew, and then the first time it was said since counts, not a second
/// tap. Minus infinity when nobody said so.
fn shut_at(recording: &Recording) -> f64 {
    let topped = recording
        .last_event(EventKind::ToppedUp)
        .unwrap_or(f64::NEG_INFINITY);
    recording
        .events
        .iter()
        .find(|e| e.kind == EventKind::SupplyIsolated && e.at_s >= topped)
        .map_or(topped, |e| e.at_s)
        .max(topped)
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

/// The probes to use, the time they allow to judge, and which of them ended it: those that were read all along; else the
/// one that was read longest, for as long as it was.
fn choose_probes(
    all: &[Series],
    candidates: &[usize],
    (first, last): (f64, f64),
) -> (Vec<usize>, Option<(f64, f64)>, Option<usize>) {
    let whole: Vec<usize> = candidates
        .iter()
        .copied()
        .filter(|&i| all[i].covers(first, last))
        .collect();
    if !whole.is_empty() {
        return (whole, None, None);
    }
    let longest = candidates
        .iter()
        .filter_map(|&i| Some((i, all[i].read_within(first, last)?)))
        .max_by(|(_, a), (_, b)| (a.1 - a.0).total_cmp(&(b.1 - b.0)));
    let Some((best, window)) = longest else {
        return (vec![], None, None);
    };
    let used = candidates
        .iter()
        .copied()
        .filter(|&i| all[i].covers(window.0, window.1))
        .collect();
    (used, Some(window), Some(best))
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

/// How far the temperature may have been, at the moment `at`, from what this probe's readings say, K (standard
/// deviation): it wanders like a random walk while nobody reads it, as much as it was seen to between readings.
pub(super) fn unread(probe: &Series, at: f64) -> f64 {
    let (usual, belief) = STRAY;
    let (mut sum, mut n) = (belief * usual * usual, belief);
    if probe.usual_step() > FOLLOWED.0 {
        for i in 1..probe.len() - 1 {
            let (a, b) = (probe.t[i] - probe.t[i - 1], probe.t[i + 1] - probe.t[i]);
            let off = probe.v[i] - (b * probe.v[i - 1] + a * probe.v[i + 1]) / (a + b);
            sum += off * off * 600.0 * (a + b) / (a * b).max(1.0);
            n += 1.0;
        }
    }
    let unseen = (probe.unread_around(at).min(FOLLOWED.1) - FOLLOWED.0).max(0.0);
    (sum / n * unseen / 600.0).sqrt()
}

/// A gauge put back loses or adds a hose-full; a valve opens or shuts part of the volume. Common practice, no source.
fn steps(recording: &Recording, start: f64) -> Vec<(f64, f64)> {
    let size = |k: EventKind| match k {
        EventKind::GaugeReattached => Some(0.02),
        EventKind::ValveMoved => Some(0.3),
        _ => None,
    };
    recording
        .events
        .iter()
        .filter(|e| e.at_s > start)
        .filter_map(|e| Some((e.at_s, size(e.kind)?)))
        .collect()
}

/// The smallest step between readings, for a gauge that states no resolution; a tenth of a psi when none is seen.
fn observed_digit(series: &Series) -> f64 {
    series
        .v
        .windows(2)
        .map(|w| (w[1] - w[0]).abs())
        .filter(|d| *d > 1.0)
        .fold(f64::INFINITY, f64::min)
        .min(689.476)
}
