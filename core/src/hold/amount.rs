//! From gauges and probes to the amount of gas, on block means.

use crate::matter::nitrogen;
use crate::quantity::{AbsolutePressure, Temperature};
use crate::reading::{EventKind, Position, Quantity, Recording, Reference, Series};

/// Volume expansion of copper pipe, 1/K: three times 16.6e-6 (handbook of materials, from memory).
pub const COPPER: f64 = 5.0e-5;

/// A hold's traces: one effective pressure, the probes, and what is known of the gauge.
#[derive(Debug, Clone)]
pub struct HeldGas {
    /// Absolute pressure (Pa), sides weighted by their share of the volume.
    pub pressure: Series,
    /// Probes (K) with shares that sum to 1. Ambient probes count only when no other is there.
    pub probes: Vec<(Series, f64)>,
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
const DEFAULT_RANGE: f64 = 800.0 * 6_894.757;

/// Gathers the traces from `start` on. `None` when no system pressure was recorded.
#[must_use]
pub fn gather(recording: &Recording) -> Option<HeldGas> {
    let mut all = recording.all_series();
    let channels = &recording.channels;
    let with_data = |q: Quantity| (0..channels.len()).filter(move |&i| channels[i].quantity == q);
    let barometer = with_data(Quantity::BarometricPressure).map(|i| &all[i]).find(|s| !s.is_empty());
    let (atmosphere, _) = recording.atmosphere();

    let gauges: Vec<usize> = (0..channels.len()).filter(|&i| channels[i].is_system_pressure() && !all[i].is_empty()).collect();
    let &lead = gauges.iter().max_by_key(|&&i| all[i].len())?;
    let shares: Vec<f64> = gauges.iter().map(|&i| channels[i].volume_share.unwrap_or(1.0)).collect();
    let total: f64 = shares.iter().sum::<f64>().max(1e-9);
    let absolute = |i: usize, t: f64, v: f64| match (channels[i].quantity, channels[i].reference, barometer) {
        (Quantity::AbsolutePressure, _, _) => v,
        (_, Some(Reference::Sealed), _) => v + crate::matter::atmosphere::SEA_LEVEL.pa(),
        (_, _, Some(b)) => v + b.at(t).unwrap_or(atmosphere.pa()),
        _ => v + atmosphere.pa(),
    };
    // Topping up begins anew; the supply counts as shut from the first time it was said since, not from a second tap.
    let topped = recording.last_event(EventKind::ToppedUp).unwrap_or(f64::NEG_INFINITY);
    let shut = recording.events.iter().find(|e| e.kind == EventKind::SupplyIsolated && e.at_s >= topped).map_or(topped, |e| e.at_s);
    let start = topped.max(shut);
    let mut pressure = Series::with_capacity(all[lead].len());
    for (&t, &v) in all[lead].t.iter().zip(&all[lead].v) {
        if t < start {
            continue;
        }
        let mut sum = shares[gauges.iter().position(|&g| g == lead).unwrap_or(0)] * absolute(lead, t, v);
        for (&g, &w) in gauges.iter().zip(&shares).filter(|(g, _)| **g != lead) {
            sum += w * absolute(g, t, all[g].at(t).unwrap_or(v));
        }
        pressure.t.push(t);
        pressure.v.push(sum / total);
    }
    let start = if start.is_finite() { start } else { pressure.t.first().copied()? };

    let thermometers: Vec<usize> = with_data(Quantity::Temperature).filter(|&i| !all[i].is_empty()).collect();
    let on_pipe: Vec<usize> = thermometers.iter().copied().filter(|&i| channels[i].position != Some(Position::Ambient)).collect();
    let used = if on_pipe.is_empty() { thermometers.clone() } else { on_pipe };
    let weights: Vec<f64> =
        used.iter().map(|&i| channels[i].volume_share.unwrap_or(if used.iter().any(|&j| channels[j].volume_share.is_some()) { 0.0 } else { 1.0 })).collect();
    let weight_total: f64 = weights.iter().sum();
    let air = thermometers.iter().find(|&&i| channels[i].position == Some(Position::Ambient));
    let apart = (gauges.len() >= 2).then(|| {
        let (a, b) = (gauges[0], gauges[1]);
        let v = pressure.t.iter().map(|&t| absolute(a, t, all[a].at(t).unwrap_or(0.0)) - absolute(b, t, all[b].at(t).unwrap_or(0.0))).collect();
        Series { t: pressure.t.clone(), v }
    });
    let weather_unknown =
        barometer.is_none() && gauges.iter().any(|&g| channels[g].quantity == Quantity::GaugePressure && channels[g].reference != Some(Reference::Sealed));
    let gauge_air = air.map(|&i| all[i].clone());
    let digit = gauges.iter().map(|&g| channels[g].resolution_si().unwrap_or_else(|| observed_digit(&all[g]))).fold(0.0, f64::max);
    let weight = |w: f64| if weight_total > 0.0 { w / weight_total } else { 1.0 / used.len() as f64 };
    // Taken, not copied: a day at 1 Hz is a few megabytes a probe.
    let probes = used.iter().zip(&weights).map(|(&i, &w)| (std::mem::take(&mut all[i]), weight(w))).collect();
    Some(HeldGas {
        dithers: pressure.fast_noise() >= 0.5 * digit,
        pressure,
        probes,
        gauge_air,
        digit,
        range: gauges.iter().filter_map(|&g| channels[g].range.map(|r| channels[g].unit.delta_to_si(r))).reduce(f64::max).unwrap_or(DEFAULT_RANGE),
        apart,
        side_share: if gauges.iter().all(|&g| channels[g].volume_share.is_some()) { 0.05 } else { 0.25 },
        weather_unknown,
        sun: recording.first_event(EventKind::Sun),
        steps: steps(recording, start),
        start,
    })
}

/// A gauge put back loses or adds a hose-full; a valve opens or shuts part of the volume. Common practice, no source.
fn steps(recording: &Recording, start: f64) -> Vec<(f64, f64)> {
    let size = |k: EventKind| match k {
        EventKind::GaugeReattached => Some(0.02),
        EventKind::ValveMoved => Some(0.3),
        _ => None,
    };
    recording.events.iter().filter(|e| e.at_s > start).filter_map(|e| Some((e.at_s, size(e.kind)?))).collect()
}

/// The smallest step between readings, for a gauge that states no resolution; a tenth of a psi when none is seen.
fn observed_digit(series: &Series) -> f64 {
    series.v.windows(2).map(|w| (w[1] - w[0]).abs()).filter(|d| *d > 1.0).fold(f64::INFINITY, f64::min).min(689.476)
}

/// The traces of part of a hold on block means, as changes since its first block.
#[derive(Debug, Clone)]
pub struct Traces {
    /// Block centres, s.
    pub t: Vec<f64>,
    /// Block widths, s (0: a single reading).
    pub width: Vec<f64>,
    /// Readings per block.
    pub count: Vec<f64>,
    /// Absolute pressure at the first block, Pa.
    pub p0: f64,
    /// Raw change of absolute pressure, Pa.
    pub raw: Vec<f64>,
    /// What temperature alone would have done, real gas, Pa.
    pub thermal: Vec<f64>,
    /// The same for an ideal gas, Pa.
    pub thermal_ideal: Vec<f64>,
    /// Mean temperature, K.
    pub temperature: Vec<f64>,
    /// Each probe's own part beyond the common one, Pa (for errors of the shares); none with one probe.
    pub probe_parts: Vec<Vec<f64>>,
    /// Change of the gauge's own temperature, K.
    pub gauge_air: Vec<f64>,
    /// Change of the sides' difference (Pa); empty with one side. Evening out is not a loss.
    pub apart: Vec<f64>,
}

/// Blocks of the first hour and a half of a long hold, where the filling still fades, and of the rest.
const EARLY: (f64, usize, usize) = (5_400.0, 50, 70);

/// Block means of a pressure: fine while the gas still comes to rest, coarse afterwards. Series, widths, counts.
fn blocks(p: &Series) -> (Series, Vec<f64>, Vec<f64>) {
    let (early, fine, coarse) = EARLY;
    let (Some(&first), Some(&last)) = (p.t.first(), p.t.last()) else { return (Series::default(), vec![], vec![]) };
    let zones = if last - first > 2.0 * early && p.len() > fine + coarse {
        vec![(p.between(first, first + early), fine), (p.between(first + early + 1e-6, last), coarse)]
    } else {
        vec![(p.clone(), fine + coarse)]
    };
    let (mut out, mut widths, mut counts) = (Series::default(), Vec::new(), Vec::new());
    for (zone, most) in zones {
        let (thin, count) = zone.thinned(most);
        let single = count.iter().all(|&c| c <= 1.0);
        let width = if single || zone.len() < 2 { 0.0 } else { (zone.t[zone.len() - 1] - zone.t[0]) / most as f64 };
        widths.extend(std::iter::repeat_n(width, thin.len()));
        counts.extend(count);
        out.t.extend(thin.t);
        out.v.extend(thin.v);
    }
    (out, widths, counts)
}

/// Corrects `gas` on block means. `None` without probes or readings.
#[must_use]
pub fn traces(gas: &HeldGas) -> Option<Traces> {
    let (p, width, count) = blocks(&gas.pressure);
    let n = p.len();
    if n == 0 || gas.probes.is_empty() {
        return None;
    }
    // A probe is read less often than a gauge, or more: its mean around each block, else between its neighbours.
    let at_blocks = |s: &Series| -> Vec<f64> { p.t.iter().zip(&width).map(|(&t, &w)| s.mean(t - 0.5 * w, t + 0.5 * w).unwrap_or(f64::NAN)).collect() };
    let temps: Vec<(Vec<f64>, f64)> = gas.probes.iter().map(|(s, w)| (at_blocks(s), *w)).collect();
    let start: Vec<f64> = temps.iter().map(|(t, _)| t[0]).collect();
    let t0: f64 = temps.iter().zip(&start).map(|((_, w), t)| w * t).sum();
    let amount = |pa: f64, at: &dyn Fn(usize) -> f64| -> f64 {
        temps
            .iter()
            .enumerate()
            .map(|(j, (_, w))| {
                let t = at(j);
                w * nitrogen::density(AbsolutePressure::from_pa(pa), Temperature::from_k(t)) * (1.0 + COPPER * (t - start[j]))
            })
            .sum()
    };
    let at_start = |j: usize| start[j];
    let p0 = p.v[0];
    let mut out = Traces {
        t: p.t.clone(),
        width: width.clone(),
        count,
        p0,
        raw: Vec::new(),
        thermal: Vec::new(),
        thermal_ideal: Vec::new(),
        temperature: Vec::new(),
        probe_parts: vec![Vec::new(); if temps.len() > 1 { temps.len() } else { 0 }],
        gauge_air: Vec::new(),
        apart: Vec::new(),
    };
    let per_kelvin = nitrogen::pressure_per_kelvin(AbsolutePressure::from_pa(p0), Temperature::from_k(t0));
    for i in 0..n {
        let held = amount(p.v[i], &|j| temps[j].0[i]);
        // The pressure this amount would have at the start's temperatures (secant, three steps are plenty).
        let mut corrected = p.v[i];
        for _ in 0..4 {
            let f = amount(corrected, &at_start) - held;
            let slope = (amount(corrected + 100.0, &at_start) - amount(corrected - 100.0, &at_start)) / 200.0;
            corrected -= f / slope;
        }
        let mean_change: f64 = temps.iter().zip(&start).map(|((t, w), s)| w * (t[i] - s)).sum();
        let inverse = |k: usize| -> f64 { temps.iter().zip(&start).map(|((t, w), s)| w / if k == 0 { *s } else { t[i] }).sum() };
        out.temperature.push(t0 + mean_change);
        out.raw.push(p.v[i] - p0);
        out.thermal.push(p.v[i] - corrected);
        out.thermal_ideal.push(p.v[i] * (1.0 - inverse(1) / inverse(0)));
        for (j, part) in out.probe_parts.iter_mut().enumerate() {
            part.push(per_kelvin * (temps[j].0[i] - start[j] - mean_change));
        }
    }
    out.gauge_air = match gas.gauge_air.as_ref().map(at_blocks) {
        Some(a) => a.iter().map(|v| v - a[0]).collect(),
        None => out.temperature.iter().map(|v| v - t0).collect(),
    };
    out.apart = gas.apart.as_ref().map(at_blocks).map_or_else(Vec::new, |a| a.iter().map(|v| v - a[0]).collect());
    out.thermal.iter().all(|v| v.is_finite()).then_some(out)
}

impl Traces {
    /// Change of pressure at the start's temperature.
    #[must_use]
    pub fn corrected(&self) -> Vec<f64> {
        self.raw.iter().zip(&self.thermal).map(|(r, u)| r - u).collect()
    }
}
