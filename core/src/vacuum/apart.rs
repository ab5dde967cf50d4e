//! When waiting will tell leak from no leak: the shapes without one are fitted anew to what the leak would show by
//! then.

use super::background::Background;
use super::prior::Cause;
use super::sums::Sums;
use super::trace::{Blocks, Columns, covariance, moved};
use super::weigh::{Choice, Own, positive};
use crate::stat::whiten;

/// How far ahead it is looked for, s.
const PATIENCE: f64 = 4.0 * 3600.0;
/// Told: one of the two is believed at 95 %.
const TOLD: f64 = 19.0;
/// The evidence that is gathered scatters by the root of itself: nine in ten would be told by then if all else held.
const NINE_IN_TEN: f64 = 1.28;
/// Share of the evidence counted on: other sizes and shapes than the two best come nearer to each other.
const SURE_OF: f64 = 0.6;
/// Blocks in the time to come.
const AHEAD: u32 = 24;

/// Seconds since isolation by which it is told; `None`: waiting won't do it.
pub fn comes_apart(
    sums: &Sums,
    blocks: &Blocks,
    known: &Background,
    leak_probability: f64,
) -> Option<f64> {
    let odds = (leak_probability / (1.0 - leak_probability)).ln().abs();
    // Every way in which gas may flow in must come apart from every one in which it does not.
    let leaks: Vec<&Choice> = Cause::ALL
        .iter()
        .filter(|c| c.has_leak())
        .filter_map(|&c| sums.heaviest(c))
        .collect();
    let top = leaks.iter().map(|c| c.log_weight).fold(f64::MIN, f64::max);
    leaks
        .into_iter()
        .filter(|c| c.log_weight > top - UNLIKELY)
        .map(|c| told_by(sums, c, blocks, known.digit, odds))
        .try_fold(0.0, |latest: f64, t| t.map(|t| latest.max(t)))
        .filter(|t| *t > 0.0)
}

/// A kind of leak whose best fit stands this far (in log weight) behind another's is left out.
const UNLIKELY: f64 = 3.0;

/// Seconds since isolation by which this leak would be told from what is none.
fn told_by(sums: &Sums, leak: &Choice, blocks: &Blocks, digit: f64, odds: f64) -> Option<f64> {
    let curve = sums.fit(leak)?.curve()?;
    // The columns of the time to come stand in the same order, so where a hypothesis finds its own is known once.
    let harmless: Vec<Own> = sums
        .hypotheses
        .iter()
        .filter(|h| !h.cause.has_leak())
        .map(|h| Own::of(h, &sums.columns))
        .collect();
    let misfit = |until: f64| {
        let mut b = blocks.clone();
        extend(&mut b, until);
        b.v =
            b.t.iter()
                .zip(&b.width)
                .map(|(&t, &w)| curve.iter().map(|(s, a)| a * s.over(t, w)).sum())
                .collect();
        least_misfit(sums, &harmless, leak, &b, digit)
    };
    let last = blocks.t[blocks.t.len() - 1];
    let now = misfit(last)?;
    let is_told = |t: f64| {
        misfit(t).is_some_and(|m| {
            let gathered = SURE_OF * (m - now).max(0.0);
            0.5 * gathered - NINE_IN_TEN * gathered.sqrt() > TOLD.ln() + odds
        })
    };
    let (mut low, mut high) = (0.0, PATIENCE);
    if !is_told(last + high) {
        return None;
    }
    while high - low > 60f64.max(0.05 * high) {
        let middle = 0.5 * (low + high);
        if is_told(last + middle) {
            high = middle;
        } else {
            low = middle;
        }
    }
    Some(last + high)
}

/// Goes on reading until then as often as before.
fn extend(b: &mut Blocks, until: f64) {
    let last = b.t[b.t.len() - 1];
    if until <= last {
        return;
    }
    let often = b.count.iter().sum::<f64>() / (last - b.t[0]).max(1.0);
    let width = (until - last) / f64::from(AHEAD);
    for k in 0..AHEAD {
        b.t.push(last + width * (f64::from(k) + 0.5));
        b.width.push(width);
        b.count.push((often * width).max(1.0));
    }
}

/// Misfit of the shape without a leak that comes nearest, each with its sizes free, under the leak's noise.
fn least_misfit(
    sums: &Sums,
    harmless: &[Own<'_>],
    leak: &Choice,
    b: &Blocks,
    digit: f64,
) -> Option<f64> {
    let columns = Columns::of(b, &sums.common, &sums.hypotheses);
    let noise = &sums.noises[leak.noise];
    let gram = whiten(covariance(b, noise, digit, &moved(b, digit)), &columns.data)?;
    let shared = &sums.common[leak.shared].1;
    let mut index = columns.index(shared);
    let mut priors: Vec<(f64, f64)> = shared.iter().map(|t| t.1).collect();
    let left = gram.without(&index, &priors)?;
    let (common, mut least) = (index.len(), f64::INFINITY);
    for own in harmless {
        let Some(free) = own.free(&left) else {
            continue;
        };
        index.truncate(common);
        priors.truncate(common);
        index.extend(&own.index);
        priors.extend(free);
        let Some(post) = gram.solve(&index, &priors, 1.0) else {
            continue;
        };
        if positive(&own.gives, &post.mean[common..]) {
            least = least.min(gram.misfit(&index, &post.mean));
        }
    }
    least.is_finite().then_some(least)
}
