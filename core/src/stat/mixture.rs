//! A weighted mixture of normal distributions: what is left when nuisance parameters have been summed over.

use statrs::function::erf::erfc;
use std::collections::HashMap;

/// Components as (log weight, mean, standard deviation).
#[derive(Debug, Clone, Default)]
pub struct Mixture {
    parts: Vec<(f64, f64, f64)>,
}

/// Components this far (in log weight) below the best no longer matter to a 99 % bound.
const NEGLIGIBLE: f64 = 9.0;

/// Components whose means and logarithms of standard deviations differ by less than this share are put together.
const ALIKE: f64 = 0.1;

/// Averages of `N` figures under weights known by their logarithms.
#[derive(Debug, Clone)]
pub struct Averages<const N: usize> {
    top: f64,
    weight: f64,
    sums: [f64; N],
}

impl<const N: usize> Default for Averages<N> {
    fn default() -> Self {
        Self {
            top: f64::NEG_INFINITY,
            weight: 0.0,
            sums: [0.0; N],
        }
    }
}

impl<const N: usize> Averages<N> {
    /// Adds one set of figures.
    pub fn add(&mut self, log_weight: f64, figures: [f64; N]) {
        if !log_weight.is_finite() || figures.iter().any(|x| !x.is_finite()) {
            return;
        }
        if log_weight > self.top {
            let shrink = (self.top - log_weight).exp();
            self.weight *= shrink;
            self.sums.iter_mut().for_each(|s| *s *= shrink);
            self.top = log_weight;
        }
        let w = (log_weight - self.top).exp();
        self.weight += w;
        self.sums
            .iter_mut()
            .zip(figures)
            .for_each(|(s, x)| *s += w * x);
    }
    /// Log of all the weight.
    #[must_use]
    pub fn log_weight(&self) -> f64 {
        self.top + self.weight.ln()
    }
    /// The averages; `None` when nothing was added.
    #[must_use]
    pub fn figures(&self) -> Option<[f64; N]> {
        (self.weight > 0.0).then(|| self.sums.map(|s| s / self.weight))
    }
}

impl Mixture {
    /// Adds a component; one that is not finite is left out.
    pub fn add(&mut self, log_weight: f64, mean: f64, sd: f64) {
        if log_weight.is_finite() && mean.is_finite() && sd.is_finite() && sd > 0.0 {
            self.parts.push((log_weight, mean, sd));
        }
    }
    /// Whether nothing finite was added: the fit failed and nothing may be concluded.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.parts.is_empty()
    }
    /// Widens every component by an independent normal error.
    pub fn widen(&mut self, sd: f64) {
        for p in &mut self.parts {
            p.2 = p.2.hypot(sd);
        }
    }
    /// Stretches every component about the common mean: a margin for what the model leaves out.
    #[must_use]
    pub fn stretched(mut self, factor: f64) -> Self {
        let centre = self.moments().0;
        for p in &mut self.parts {
            p.1 = centre + factor * (p.1 - centre);
            p.2 *= factor;
        }
        self
    }
    /// Drops what cannot matter, puts together what is nearly the same, and turns log weights into shares of one.
    #[must_use]
    pub fn settled(mut self) -> Self {
        let best = self
            .parts
            .iter()
            .map(|p| p.0)
            .fold(f64::NEG_INFINITY, f64::max);
        self.parts.retain(|p| p.0 > best - NEGLIGIBLE);
        let total: f64 = self.parts.iter().map(|p| (p.0 - best).exp()).sum();
        let mut alike: HashMap<(i64, i64), [f64; 3]> = HashMap::new();
        for &(log_weight, mean, sd) in &self.parts {
            let w = (log_weight - best).exp() / total;
            let size = (sd.ln() / ALIKE).round();
            let place = mean / (ALIKE * (size * ALIKE).exp());
            let sums = alike
                .entry((size as i64, place.round() as i64))
                .or_default();
            for (sum, x) in sums.iter_mut().zip([1.0, mean, sd * sd + mean * mean]) {
                *sum += w * x;
            }
        }
        self.parts = alike
            .into_values()
            .map(|[w, m, q]| (w, m / w, (q / w - (m / w).powi(2)).max(1e-300).sqrt()))
            .collect();
        // Sums must not depend on the order a map happens to have.
        self.parts
            .sort_by(|a, b| a.1.total_cmp(&b.1).then(a.2.total_cmp(&b.2)));
        self
    }
    /// Mean and standard deviation of a settled mixture.
    #[must_use]
    pub fn moments(&self) -> (f64, f64) {
        let mean: f64 = self.parts.iter().map(|p| p.0 * p.1).sum();
        let var: f64 = self
            .parts
            .iter()
            .map(|p| p.0 * (p.2 * p.2 + (p.1 - mean).powi(2)))
            .sum();
        (mean, var.sqrt())
    }
    /// Quantile of a settled mixture, by bisection.
    #[must_use]
    pub fn quantile(&self, q: f64) -> f64 {
        let below = |x: f64| -> f64 {
            self.parts
                .iter()
                .map(|&(w, m, s)| w * 0.5 * erfc((m - x) / (s * std::f64::consts::SQRT_2)))
                .sum()
        };
        let mut lo = self
            .parts
            .iter()
            .map(|p| p.1 - 9.0 * p.2)
            .fold(f64::INFINITY, f64::min);
        let mut hi = self
            .parts
            .iter()
            .map(|p| p.1 + 9.0 * p.2)
            .fold(f64::NEG_INFINITY, f64::max);
        let tolerance = 1e-7 * (hi - lo);
        while hi - lo > tolerance && hi > lo {
            let mid = 0.5 * (lo + hi);
            if below(mid) < q { lo = mid } else { hi = mid }
        }
        0.5 * (lo + hi)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn one_normal_has_the_textbook_quantiles() {
        let mut m = Mixture::default();
        m.add(-3.0, 2.0, 0.5);
        m.add(f64::NAN, 0.0, 1.0);
        let m = m.settled();
        assert!((m.quantile(0.975) - (2.0 + 1.959_964 * 0.5)).abs() < 1e-5);
        assert!((m.moments().0 - 2.0).abs() < 1e-12);
    }
}
