//! Every choice of noise, evening out, shape and size that could have made a rise, with its weight.

use super::hypothesis::{Hypothesis, Part, Term, Tooth};
use super::prior::Cause;
use super::trace::{Columns, Noise};
use crate::stat::{Gram, Posterior};

/// Choices this far (in log weight) below the best are not looked at, or not kept.
const HOPELESS: f64 = 14.0;
const NEGLIGIBLE: f64 = 11.0;
/// Not tried under another noise where it stood this far behind under the first.
const GIVEN_UP: f64 = HOPELESS + 6.0;
/// Most terms a hypothesis has of its own: a levelling part with three riders, and a straight one.
const MOST: usize = 5;

/// One choice.
pub struct Choice {
    /// Logarithm of its weight.
    pub log_weight: f64,
    /// Which noise.
    pub noise: usize,
    /// Which evening out.
    pub shared: usize,
    /// Which hypothesis.
    pub hypothesis: usize,
    /// The size of each of its parts.
    pub sizes: Vec<Tooth>,
    /// Inflow (mean, sd), Pa/s, where there is one.
    pub rate: Option<(f64, f64)>,
}

/// Weighs them all; the common terms are summed over once for each noise.
pub fn weigh(
    grams: &[Option<Gram>],
    noises: &[Noise],
    columns: &Columns,
    common: &[(f64, Vec<Term>)],
    hypotheses: &[Hypothesis],
) -> Vec<Choice> {
    let shared_index: Vec<Vec<usize>> = common.iter().map(|c| columns.index(&c.1)).collect();
    let own: Vec<Own> = hypotheses.iter().map(|h| Own::of(h, columns)).collect();
    let mut out: Vec<Choice> = Vec::new();
    let mut top = f64::NEG_INFINITY;
    // How far each stood behind under the first noise.
    let mut first: Option<(Noise, Vec<f64>)> = None;
    for (noise, gram) in grams.iter().enumerate() {
        let Some(gram) = gram else { continue };
        let mut stood = Vec::new();
        for (shared, (share, terms)) in common.iter().enumerate() {
            let priors: Vec<(f64, f64)> = terms.iter().map(|t| t.1).collect();
            let Some(left) = gram.without(&shared_index[shared], &priors) else {
                stood.extend(own.iter().map(|_| f64::NEG_INFINITY));
                continue;
            };
            let log_prior = noises[noise].log_weight + share;
            for (hypothesis, own) in own.iter().enumerate() {
                let k = shared * hypotheses.len() + hypothesis;
                if first
                    .as_ref()
                    .is_some_and(|(n, behind)| behind[k] * eased(n, &noises[noise]) > GIVEN_UP)
                {
                    continue;
                }
                let best = own.weigh(
                    &left,
                    log_prior,
                    &mut top,
                    &mut |log_weight, sizes, rate| {
                        out.push(Choice {
                            log_weight,
                            noise,
                            shared,
                            hypothesis,
                            sizes: sizes.to_vec(),
                            rate,
                        });
                    },
                );
                stood.push(best);
            }
        }
        if first.is_none() {
            first = Some((noises[noise], stood.iter().map(|s| top - s).collect()));
        }
    }
    out.retain(|c| c.log_weight > top - NEGLIGIBLE);
    out
}

/// How much of a misfit is left under another noise, at the least.
fn eased(from: &Noise, to: &Noise) -> f64 {
    let of = |a: f64, b: f64| (a / b).powi(2).min(1.0);
    of(from.wander, to.wander).min(of(from.fast, to.fast))
}

/// A hypothesis with what does not depend on the noise worked out once.
pub struct Own<'a> {
    of: &'a Hypothesis,
    /// Columns of its terms.
    pub index: Vec<usize>,
    /// Where the sizes of its parts stand among them.
    at: Vec<usize>,
    /// Terms that only give.
    pub gives: Vec<usize>,
}

/// Whether these coefficients are all positive: a source cannot take away.
pub fn positive(gives: &[usize], mean: &[f64]) -> bool {
    gives.iter().all(|&k| mean[k] > 0.0)
}

type Report<'a> = &'a mut dyn FnMut(f64, &[Tooth], Option<(f64, f64)>);

impl<'a> Own<'a> {
    /// Of a hypothesis, among these columns.
    pub fn of(h: &'a Hypothesis, columns: &Columns) -> Self {
        let first: Vec<Tooth> = h.parts.iter().map(|_| (1.0, 1.0)).collect();
        let mut at = Vec::with_capacity(h.parts.len());
        let mut k = 0;
        for part in &h.parts {
            at.push(k);
            k += 1 + part.riders.len();
        }
        let terms = h.terms(&first);
        let gives = (0..terms.len())
            .filter(|&k| h.cause != Cause::Still && terms[k].0.is_source())
            .collect();
        Self {
            of: h,
            index: columns.index(&terms),
            at,
            gives,
        }
    }

    /// Priors that leave every size free, what rides on it as large as the size would be alone.
    pub fn free(&self, left: &Gram) -> Option<Vec<(f64, f64)>> {
        let mut free: Vec<(f64, f64)> = Vec::with_capacity(self.index.len());
        for (part, &k) in self.of.parts.iter().zip(&self.at) {
            let wide = widest(part);
            let size = if part.riders.is_empty() {
                0.0
            } else {
                size_guess(left, self.index[k], wide, part)
            };
            free.push((0.0, wide));
            free.extend(
                part.riders
                    .iter()
                    .map(|&(_, (mean, spread))| (mean * size, spread * size)),
            );
        }
        (!free.is_empty()).then_some(free)
    }

    /// Where the sizes may lie at all: the log evidence of a fit with sizes left free, and the sizes of each part that
    /// are worth a look.
    fn freely(&self, left: &Gram) -> Option<(f64, Vec<Vec<Tooth>>)> {
        let free = self.free(left)?;
        let fit: Posterior<MOST> = left.solve_few(&self.index, &free, 1.0)?;
        let widths: f64 = self
            .at
            .iter()
            .map(|&k| (free[k].1 / fit.sd[k].max(1e-12)).ln())
            .sum();
        let near = self.of.parts.iter().zip(&self.at);
        let near = near
            .map(|(part, &k)| near_to(part, fit.mean[k], fit.sd[k]))
            .collect();
        Some((fit.log_evidence + widths, near))
    }

    /// Reports every choice of sizes that could matter; returns about the best weight it can have.
    fn weigh(&self, left: &Gram, log_prior: f64, top: &mut f64, report: Report<'_>) -> f64 {
        let log_prior = log_prior + self.of.log_prior;
        let Some((best, near)) = self.freely(left) else {
            return f64::NEG_INFINITY;
        };
        if best + log_prior < *top - HOPELESS {
            return best + log_prior;
        }
        // The last part has nothing riding on it wherever there are two: its size comes last and costs little.
        let (firsts, lasts): (Vec<Option<Tooth>>, &[Tooth]) = match near.as_slice() {
            [one] if self.index.len() == 1 => (vec![None], one),
            [one] => (one.iter().copied().map(Some).collect(), &[]),
            [first, last] => (first.iter().copied().map(Some).collect(), last),
            _ => return f64::NEG_INFINITY,
        };
        let leaks = self.of.cause.has_leak();
        for first in firsts {
            let mut sizes: Vec<Tooth> = first.into_iter().collect();
            let priors: Vec<(f64, f64)> = self.of.terms(&sizes).iter().map(|t| t.1).collect();
            if lasts.is_empty() {
                let Some(post) = left.solve_few::<MOST>(&self.index, &priors, 1.0) else {
                    continue;
                };
                let log_weight = post.log_evidence + log_prior;
                if log_weight > *top - NEGLIGIBLE && positive(&self.gives, &post.mean) {
                    *top = top.max(log_weight);
                    report(log_weight, &sizes, None);
                }
                continue;
            }
            let Some(waiting) = left.waiting::<MOST>(&self.index, &priors) else {
                continue;
            };
            for &tooth in lasts {
                let least = *top - NEGLIGIBLE - log_prior;
                let Some((log_evidence, last)) = waiting.with(tooth, least) else {
                    continue;
                };
                if positive(&self.gives, &waiting.means(last.0)) {
                    let log_weight = log_evidence + log_prior;
                    *top = top.max(log_weight);
                    sizes.truncate(usize::from(first.is_some()));
                    sizes.push(tooth);
                    report(log_weight, &sizes, leaks.then_some(last));
                }
            }
        }
        best + log_prior
    }
}

/// A standard deviation that leaves every size of a part free.
fn widest(part: &Part) -> f64 {
    part.teeth.last().map_or(1.0, |t| 3.0 * (t.0 + t.1))
}

/// About how large a part would be if it were the only one: scales what rides on it.
fn size_guess(left: &Gram, column: usize, wide: f64, part: &Part) -> f64 {
    let (Some(first), Some(last)) = (part.teeth.first(), part.teeth.last()) else {
        return 0.0;
    };
    left.solve_few(&[column], &[(0.0, wide)], 1.0)
        .map_or(first.0, |p: Posterior<1>| {
            p.mean[0].clamp(first.0, last.0.max(first.0))
        })
}

/// A size so many deviations off weighs next to nothing.
const FAR: f64 = 5.0;

/// Sizes of a part that lie near a free fit; the closest, if none does.
fn near_to(part: &Part, mean: f64, sd: f64) -> Vec<Tooth> {
    let off = |t: &Tooth| (t.0 - mean).powi(2) / (sd * sd + t.1 * t.1);
    let near: Vec<Tooth> = part
        .teeth
        .iter()
        .copied()
        .filter(|t| off(t) < FAR * FAR)
        .collect();
    if !near.is_empty() {
        return near;
    }
    part.teeth
        .iter()
        .copied()
        .min_by(|a, b| off(a).total_cmp(&off(b)))
        .into_iter()
        .collect()
}
