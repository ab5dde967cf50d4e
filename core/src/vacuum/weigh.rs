//! Every choice of noise, evening out, shape and size that could have made a rise, with its weight.

use super::hypothesis::{Hypothesis, Part, Term, Tooth};
use super::prior::Cause;
use super::trace::{Columns, Noise};
use crate::stat::{Gram, Posterior};

/// Choices this far (in log weight) below the best are not looked at, or not kept.
const HOPELESS: f64 = 14.0;
const NEGLIGIBLE: f64 = 11.0;
/// Most terms a hypothesis has of its own: two levelling parts with two riders each.
const MOST: usize = 6;

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
    for (noise, gram) in grams.iter().enumerate() {
        let Some(gram) = gram else { continue };
        for (shared, (share, terms)) in common.iter().enumerate() {
            let priors: Vec<(f64, f64)> = terms.iter().map(|t| t.1).collect();
            let Some(left) = gram.without(&shared_index[shared], &priors) else {
                continue;
            };
            let log_prior = noises[noise].log_weight + share;
            for (hypothesis, own) in own.iter().enumerate() {
                own.weigh(
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
            }
        }
    }
    out.retain(|c| c.log_weight > top - NEGLIGIBLE);
    out
}

/// A hypothesis with what does not depend on the noise worked out once.
struct Own<'a> {
    of: &'a Hypothesis,
    /// Columns of its terms.
    index: Vec<usize>,
    /// Where the sizes of its parts stand among them.
    at: Vec<usize>,
}

type Report<'a> = &'a mut dyn FnMut(f64, &[Tooth], Option<(f64, f64)>);

impl<'a> Own<'a> {
    fn of(h: &'a Hypothesis, columns: &Columns) -> Self {
        let first: Vec<Tooth> = h.parts.iter().map(|_| (1.0, 1.0)).collect();
        let mut at = Vec::with_capacity(h.parts.len());
        let mut k = 0;
        for part in &h.parts {
            at.push(k);
            k += 1 + part.riders.len();
        }
        Self {
            of: h,
            index: columns.index(&h.terms(&first)),
            at,
        }
    }

    /// Reports every choice of sizes that could matter.
    fn weigh(&self, left: &Gram, log_prior: f64, top: &mut f64, report: Report<'_>) {
        let log_prior = log_prior + self.of.log_prior;
        // Where the sizes may lie at all: a fit with sizes left free, and riders as large as the size would be alone.
        let mut free: Vec<(f64, f64)> = Vec::with_capacity(self.index.len());
        for (part, &k) in self.of.parts.iter().zip(&self.at) {
            let wide = widest(part);
            let size = match part.riders.is_empty() {
                true => 0.0,
                false => size_guess(left, self.index[k], wide, part),
            };
            free.push((0.0, wide));
            free.extend(
                part.riders
                    .iter()
                    .map(|&(_, (mean, spread))| (mean * size, spread * size)),
            );
        }
        let Some(fit): Option<Posterior<MOST>> = left.solve_few(&self.index, &free, 1.0) else {
            return;
        };
        let best: f64 = fit.log_evidence
            + self
                .at
                .iter()
                .map(|&k| (free[k].1 / fit.sd[k].max(1e-12)).ln())
                .sum::<f64>();
        if best + log_prior < *top - HOPELESS {
            return;
        }
        let near: Vec<Vec<Tooth>> = self
            .of
            .parts
            .iter()
            .zip(&self.at)
            .map(|(part, &k)| near(part, fit.mean[k], fit.sd[k]))
            .collect();
        let mut sizes = vec![(0.0, 0.0); near.len()];
        each(&near, 0, &mut sizes, &mut |sizes| {
            let priors: Vec<(f64, f64)> = self.of.terms(sizes).iter().map(|t| t.1).collect();
            let Some(post): Option<Posterior<MOST>> = left.solve_few(&self.index, &priors, 1.0)
            else {
                return;
            };
            let log_weight = post.log_evidence + log_prior;
            // A source cannot take away: such a size is no explanation.
            let is_one =
                self.of.cause == Cause::Still || self.at.iter().all(|&k| post.mean[k] > 0.0);
            if !is_one {
                return;
            }
            *top = top.max(log_weight);
            if log_weight > *top - NEGLIGIBLE {
                let rate = self.of.cause.has_leak().then(|| (post.mean[0], post.sd[0]));
                report(log_weight, sizes, rate);
            }
        });
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
fn near(part: &Part, mean: f64, sd: f64) -> Vec<Tooth> {
    let off = |t: &Tooth| (t.0 - mean).abs() / sd.hypot(t.1);
    let near: Vec<Tooth> = part
        .teeth
        .iter()
        .copied()
        .filter(|t| off(t) < FAR)
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

fn each(near: &[Vec<Tooth>], k: usize, sizes: &mut Vec<Tooth>, act: &mut dyn FnMut(&[Tooth])) {
    match near.get(k) {
        None => act(sizes),
        Some(teeth) => {
            for &tooth in teeth {
                sizes[k] = tooth;
                each(near, k + 1, sizes, act);
            }
        }
    }
}
