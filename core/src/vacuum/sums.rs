//! All that was weighed of a rise, and the fit of any choice.

use super::hypothesis::{Hypothesis, Term};
use super::prior::Cause;
use super::shape::Shape;
use super::trace::{Columns, Noise};
use super::weigh::Choice;
use crate::stat::Gram;

/// All that was weighed.
pub struct Sums {
    pub choices: Vec<Choice>,
    pub grams: Vec<Option<Gram>>,
    pub noises: Vec<Noise>,
    pub columns: Columns,
    pub common: Vec<(f64, Vec<Term>)>,
    pub hypotheses: Vec<Hypothesis>,
}

/// A fit of every coefficient, and where its columns are.
pub struct Fit<'a> {
    pub gram: &'a Gram,
    pub terms: Vec<Term>,
    pub index: Vec<usize>,
    pub priors: Vec<(f64, f64)>,
}

impl Fit<'_> {
    /// Every shape with its coefficient.
    pub fn curve(&self) -> Option<Vec<(Shape, f64)>> {
        let post = self.gram.solve(&self.index, &self.priors, 1.0)?;
        Some(self.terms.iter().map(|t| t.0).zip(post.mean).collect())
    }
}

pub fn heaviest<'a>(choices: impl Iterator<Item = &'a Choice>) -> Option<&'a Choice> {
    choices.max_by(|a, b| a.log_weight.total_cmp(&b.log_weight))
}

impl Sums {
    /// The choices of one cause.
    pub fn of(&self, cause: Cause) -> impl Iterator<Item = &Choice> {
        self.choices
            .iter()
            .filter(move |c| self.hypotheses[c.hypothesis].cause == cause)
    }

    /// The choice of a cause that weighs most.
    pub fn heaviest(&self, cause: Cause) -> Option<&Choice> {
        heaviest(self.of(cause))
    }

    /// All coefficients of a choice.
    pub fn fit(&self, c: &Choice) -> Option<Fit<'_>> {
        let mut terms = self.common[c.shared].1.clone();
        terms.extend(self.hypotheses[c.hypothesis].terms(&c.sizes));
        Some(Fit {
            gram: self.grams[c.noise].as_ref()?,
            index: self.columns.index(&terms),
            priors: terms.iter().map(|t| t.1).collect(),
            terms,
        })
    }
}
