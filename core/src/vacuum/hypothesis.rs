//! Hypotheses about a rise: which shapes, how large, and how long their time constants.
//!
//! p(t) = p0 + evening out + drift of temperature + Σ size·shape. Sizes are positive and spread evenly in their
//! logarithm: each is a comb of normal distributions, one for every step of 1.7, so that every tooth is an exact
//! regression. Time constants are spans whose two ends are blended: on a bare grid a leak is invented to mend the
//! misfit between two time constants.

use super::background::{Background, GaugePlace};
use super::prior::{Cause, prior};
use super::shape::Shape;
use crate::quantity::MICRON;

const STEP: f64 = 1.7;
/// Width of one tooth against its size; with a step of 1.7 the comb is flat within a few per cent.
const TOOTH: f64 = 0.3;
/// Half the difference between the ends may be blended by this share of the size (standard deviation).
const BLEND: f64 = 0.35;
/// Spans of the time constant of levelling, and of evening out.
const LEVELLING_SPANS: usize = 10;
const EVENING_SPANS: usize = 8;
/// Long hoses even out more slowly and stand further apart than the prior has it: spans up to so many seconds, so many
/// times as far, with this share of belief.
const FAR_ENDS: ([f64; 5], f64, f64) = ([20.0, 60.0, 120.0, 220.0, 400.0], 4.0, 0.08);
/// Water that comes more slowly than the prior has it: spans up to so many seconds, with this share of what levels.
const SLOW_WATER: ([f64; 3], f64) = ([7_000.0, 14_000.0, 28_000.0], 0.08);
/// Water that comes from many places at many paces: how many paces are tried, and their share of belief.
const SPREADS: (usize, f64) = (5, 0.3);
/// Water from two places, each at its own pace: spans tried for either, and the share of belief of all pairs.
const PAIRS: (usize, f64) = (6, 0.15);
/// How much the slower of two places gives against the quicker one: mean and standard deviation.
const PLACES: [(f64, f64); 2] = [(0.5, 0.3), (1.6, 0.8)];
/// Weather that drifts more than the prior has it: its standard deviation is taken this much wider.
const DRIFT_WIDER: f64 = 1.5;
/// Times under vacuum tried where nobody said.
const TIMES: usize = 5;
/// A temperature probe tells the drift to about this share: common practice, no source.
const DRIFT_KNOWN: f64 = 0.3;

/// A shape and the normal prior (mean, sd) of its coefficient.
pub type Term = (Shape, (f64, f64));

/// A size a part may have: mean and standard deviation.
pub type Tooth = (f64, f64);

/// One source: its shape, the sizes it may have, and what rides on its size.
#[derive(Debug, Clone)]
pub struct Part {
    /// Its shape.
    pub shape: Shape,
    /// Sizes (mean, sd).
    pub teeth: Vec<Tooth>,
    /// Shapes whose coefficient is a share (mean, sd) of the size.
    pub riders: Vec<Term>,
}

/// A cause with its parts and the logarithm of its weight.
#[derive(Debug, Clone)]
pub struct Hypothesis {
    /// The cause.
    pub cause: Cause,
    /// Log prior weight, without the choice of teeth.
    pub log_prior: f64,
    /// The straight part last, if there is one beside another; only the first has anything riding on it.
    pub parts: Vec<Part>,
}

fn spaced([from, to]: [f64; 2], spans: usize) -> Vec<f64> {
    (0..=spans)
        .map(|k| from * (to / from).powf(k as f64 / spans as f64))
        .collect()
}

fn comb(from: f64, to: f64) -> Vec<Tooth> {
    let n = ((to / from).ln() / STEP.ln()).ceil().clamp(1.0, 30.0) as i32;
    (0..=n)
        .map(|k| from * STEP.powi(k))
        .map(|a| (a, TOOTH * a))
        .collect()
}

/// What every hypothesis shares besides its parts: the level, the drift of the gas, and one span of evening out each;
/// with the logarithm of its share. `level`: at isolation; `even`: about what the ends come to.
pub fn common(known: &Background, level: f64, even: f64) -> Vec<(f64, Vec<Term>)> {
    let p = prior();
    let apart = p.uneven.sd_share * even + p.uneven.sd_micron * MICRON;
    let (drift, doubt) = drift(known);
    let gas = level / (3600.0 * known.kelvin);
    let terms = |w: &[f64], sd: f64| {
        // Where the gauge's place is known, so is the sign: half a normal distribution, by its mean and sd.
        let uneven = match known.place {
            None => (0.0, sd),
            Some(GaugePlace::NearPump) => (-0.8 * sd, 0.6 * sd),
            Some(GaugePlace::Far) => (0.8 * sd, 0.6 * sd),
        };
        vec![
            (Shape::Level, (level, 10.0 * level + 100.0)),
            (Shape::Evening(w[0], w[1]), uneven),
            (Shape::EveningBlend(w[0], w[1]), (0.0, BLEND * sd)),
            (Shape::Straight, (drift * gas, doubt * gas)),
        ]
    };
    let (slow, wider, share) = FAR_ENDS;
    let spans = spaced(p.evening_s, EVENING_SPANS);
    let usual = spans.windows(2).map(|w| {
        let log_share = ((1.0 - share) / EVENING_SPANS as f64).ln();
        (log_share, terms(w, apart))
    });
    let slow = slow.windows(2).map(|w| {
        let log_share = (share / (slow.len() - 1) as f64).ln();
        (log_share, terms(w, wider * apart))
    });
    usual.chain(slow).collect()
}

/// Drift of temperature, K/h, and how sure it is.
fn drift(known: &Background) -> (f64, f64) {
    let sd = DRIFT_WIDER * prior().drift_k_per_h.sd;
    known.drift.map_or((0.0, sd), |d| (d, DRIFT_KNOWN * sd))
}

/// Every hypothesis.
pub fn hypotheses(known: &Background) -> Vec<Hypothesis> {
    let p = prior();
    let slowest = known.negligible.0 / known.negligible.1;
    let leaks = &p.leak_micron_per_min;
    let a_minute = MICRON / 60.0;
    let inflow = |teeth: Vec<Tooth>| Part {
        shape: Shape::Straight,
        teeth,
        riders: vec![],
    };
    let straight = inflow(comb(slowest, leaks.to * a_minute));
    // A valve left open: beside ordinary leaks, so that what may be so large takes nothing from what is small.
    let gross = inflow(comb(leaks.to * a_minute, leaks.gross.to * a_minute));
    let rise = comb(known.negligible.0.max(0.1), p.rise_micron.to * MICRON);
    let (drift, doubt) = drift(known);
    let vapour = p.vapour_per_k / 3600.0;
    let pace = |shape: Shape, tau: f64, blend: Option<Shape>| Part {
        shape,
        teeth: rise.clone(),
        riders: blend
            .map(|b| (b, (0.0, BLEND)))
            .into_iter()
            .chain([(Shape::LevellingDrift(tau), (drift * vapour, doubt * vapour))])
            .collect(),
    };
    let within = |w: &[f64]| {
        let (shape, blend) = (
            Shape::Levelling(w[0], w[1]),
            Shape::LevellingBlend(w[0], w[1]),
        );
        pace(shape, (w[0] * w[1]).sqrt(), Some(blend))
    };
    // Each with its share of what levels.
    let one_pace = spaced(p.levelling_s, LEVELLING_SPANS);
    let ((paces, spread), (slow, slowly)) = (SPREADS, SLOW_WATER);
    let usual = (1.0 - spread - slowly - PAIRS.1) / LEVELLING_SPANS as f64;
    let levelling: Vec<(f64, Part)> = one_pace
        .windows(2)
        .map(|w| (usual, w))
        .chain(slow.windows(2).map(|w| (slowly / 2.0, w)))
        .map(|(share, w)| (share, within(w)))
        .chain(spaced(p.levelling_s, paces - 1).into_iter().map(|tau| {
            (
                spread / paces as f64,
                pace(Shape::LevellingSpread(tau), tau, None),
            )
        }))
        .collect();
    let times = known
        .evacuated
        .map_or_else(|| spaced(p.evacuated_s, TIMES - 1), |t| vec![t.max(30.0)]);
    let bending: Vec<Part> = times
        .iter()
        .flat_map(|&t0| [Shape::Root(t0), Shape::Log(t0)])
        .map(|shape| Part {
            shape,
            teeth: rise.clone(),
            riders: vec![],
        })
        .collect();
    let of = |cause: Cause, share: f64, parts: Vec<Part>| {
        let choices: f64 = parts.iter().map(|p| (p.teeth.len() as f64).ln()).sum();
        Hypothesis {
            cause,
            log_prior: p.log_share(cause) + share.ln() - choices,
            parts,
        }
    };
    let [low, high] = p.water_band.ends;
    let (low, high) = known
        .saturation
        .map_or((low * 800.0, high * 4_200.0), |s| (low * s, high * s));
    let wet = comb(low, high);
    let still = Part {
        teeth: vec![(0.0, 0.5 * slowest)],
        ..straight.clone()
    };
    let mut out = vec![
        of(Cause::Still, 1.0, vec![still]),
        of(Cause::Leak, 1.0 - leaks.gross.share, vec![straight.clone()]),
        of(Cause::Leak, leaks.gross.share, vec![gross]),
    ];
    let mut levels = |share: f64, part: &Part| {
        let (alone, teeth) = (part.clone(), wet.clone());
        let water = Part {
            teeth,
            ..part.clone()
        };
        out.push(of(Cause::Moisture, share, vec![alone.clone()]));
        out.push(of(Cause::Water, share, vec![water]));
        let both = vec![alone, straight.clone()];
        out.push(of(Cause::LeakAndMoisture, share, both));
    };
    levelling
        .iter()
        .for_each(|(share, part)| levels(*share, part));
    let places: Vec<Part> = spaced(p.levelling_s, PAIRS.0)
        .windows(2)
        .map(within)
        .collect();
    let pairs = PAIRS.0 * (PAIRS.0 - 1) / 2 * PLACES.len();
    for (i, quick) in places.iter().enumerate() {
        for (slow, ratio) in places[i + 1..]
            .iter()
            .flat_map(|slow| PLACES.map(|ratio| (slow, ratio)))
        {
            let mut both = quick.clone();
            both.riders.push((slow.shape, ratio));
            levels(PAIRS.1 / pairs as f64, &both);
        }
    }
    for part in &bending {
        let (share, both) = (
            1.0 / bending.len() as f64,
            vec![part.clone(), straight.clone()],
        );
        out.push(of(Cause::Outgassing, share, vec![part.clone()]));
        out.push(of(Cause::LeakAndOutgassing, share, both));
    }
    out
}

impl Hypothesis {
    /// The terms of one choice of teeth.
    pub fn terms(&self, sizes: &[Tooth]) -> Vec<Term> {
        let mut out = Vec::with_capacity(8);
        for (part, &(size, sd)) in self.parts.iter().zip(sizes) {
            out.push((part.shape, (size, sd)));
            out.extend(
                part.riders
                    .iter()
                    .map(|&(shape, (mean, spread))| (shape, (mean * size, spread * size))),
            );
        }
        out
    }
}
