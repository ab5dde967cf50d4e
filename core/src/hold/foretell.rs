//! When a hold that runs will be decided.
//!
//! The loss is known now as m ± σ. After a longer time it will be known to σ' ([`bound`] on the record drawn out), and
//! its middle m' is now known as N(m, σ² − σ'²). It holds then if m' + 1.96 σ' is within the limit (2.75 σ' before the
//! planned time is over), and falls if m' − 2.33 σ' is beyond it; the chance of either is a sum of two normal tails.

use super::amount::Traces;
use super::finding::Foretold;
use super::model::{KnownPlant, Priors, bound};
use crate::stat::Mixture;
use statrs::function::erf::erfc;

/// How far ahead is looked: this many times the record.
pub const FAR: f64 = 8.0;
/// Steps from one time looked at to the next, as a ratio.
const STEP: f64 = 1.15;
/// In a shorter record, s, the weather has not shown itself: nothing is foretold nine times in ten. Chosen by looking
/// at the table in docs/method.md.
const LEARNT: f64 = 1_200.0;
/// Blocks of the record drawn out.
const BLOCKS: usize = 60;
/// One-sided levels of holding before the planned time is over and after, and of falling, standard deviations.
const EARLY: f64 = 2.75;
const LEVELS: (f64, f64) = (1.96, 2.33);

/// The record drawn out to `times` its length: what temperature did goes on as it went, turned about its last point.
fn drawn_out(tr: &Traces, times: f64) -> Traces {
    let n = tr.t.len();
    let (first, last) = (tr.t[0], tr.t[n - 1]);
    let span = (last - first).max(1.0);
    let t: Vec<f64> = (0..BLOCKS)
        .map(|i| first + span * times * i as f64 / (BLOCKS - 1) as f64)
        .collect();
    let within = |v: &[f64], at: f64| {
        let i = tr.t.partition_point(|&x| x < at).clamp(1, n - 1);
        let (a, b) = (tr.t[i - 1], tr.t[i]);
        let w = ((at - a) / (b - a).max(1e-9)).clamp(0.0, 1.0);
        v[i - 1] * (1.0 - w) + v[i] * w
    };
    let on = |v: &[f64]| -> Vec<f64> {
        t.iter()
            .map(|&at| {
                let turns = ((at - first) / span).floor();
                let rest = at - first - turns * span;
                let end = v[n - 1] - v[0];
                let part = if turns as i64 % 2 == 0 {
                    within(v, first + rest) - v[0]
                } else {
                    end - (within(v, last - rest) - v[0])
                };
                v[0] + turns * end + part
            })
            .collect()
    };
    let readings: f64 = tr.count.iter().sum();
    Traces {
        width: vec![span * times / BLOCKS as f64; BLOCKS],
        count: vec![(readings * times / BLOCKS as f64).max(1.0); BLOCKS],
        p0: tr.p0,
        raw: vec![0.0; BLOCKS],
        thermal: on(&tr.thermal),
        // What is not known of the path stays as it is: the probe is read on.
        ways: tr.ways.iter().map(|w| on(w)).collect(),
        history: tr.history,
        hidden: None,
        unread_k: tr.unread_k,
        thermal_ideal: vec![],
        temperature: vec![],
        probe_parts: tr.probe_parts.iter().map(|p| on(p)).collect(),
        gauge_air: on(&tr.gauge_air),
        apart: vec![],
        t,
    }
}

fn above(x: f64) -> f64 {
    0.5 * erfc(x / std::f64::consts::SQRT_2)
}

/// Foretells when the loss will be told from the limit (Pa/s), not before `soonest` (s); the planned time is
/// over at `over`. `hidden`: what the digits may
/// hide of a difference, Pa.
#[must_use]
pub fn foretell(
    tr: &Traces,
    priors: &Priors,
    loss: &Mixture,
    (limit, hidden): (f64, f64),
    (soonest, over): (f64, f64),
) -> Option<Foretold> {
    let (middle, now) = loss.moments();
    let span = tr.t[tr.t.len() - 1] - tr.t[0];
    let at = |times: f64| -> Option<f64> {
        let known = KnownPlant {
            tau: 250.0,
            wander: 0.4 * priors.usual,
            fast: 0.3 * priors.usual,
            lag: 300.0,
            fade: 230.0,
        };
        Some(bound(&drawn_out(tr, times), priors, &known)?.hypot(hidden / (span * times)))
    };
    // What the judge really knows now, against the same sum for now.
    let scale = (now / at(1.0)?).clamp(0.3, 5.0);
    let chance = |then: f64, when: f64| {
        let level = if when < over { EARLY } else { LEVELS.0 };
        let open = (now * now - then * then).max(1e-4 * now * now).sqrt();
        let holds = above((middle + level * then - limit) / open);
        let falls = above((limit + LEVELS.1 * then - middle) / open);
        if level * then > limit {
            falls
        } else {
            holds + falls
        }
    };
    let (mut likely_s, mut surely_s, mut times) = (None, None, 1.0);
    while times < FAR && surely_s.is_none() {
        times *= STEP;
        let when = tr.t[0] + span * times;
        let p = chance((scale * at(times)?).min(now), when);
        if when < soonest {
            continue;
        }
        if p >= 0.5 && likely_s.is_none() {
            likely_s = Some(when);
        }
        if p >= 0.9 && span >= LEARNT {
            surely_s = Some(when);
        }
    }
    Some(Foretold {
        asked_s: tr.t[0] + span,
        likely_s,
        surely_s,
    })
}
