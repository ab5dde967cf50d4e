//! What a finding says, once it is put into words.

use crate::named;

named! {
    /// The shape beside a word on screen, so that colour never tells alone.
    Shape {
        /// It holds, or passes.
        Holds = "holds",
        /// Within the limit, but losing or rising.
        Losing = "losing",
        /// It falls, leaks or lets by.
        Falling = "falling",
        /// Not decided.
        Open = "open",
        /// Over a limit, or held up.
        Notch = "notch",
        /// Not a test.
        None = "none",
    }
}

/// The words of a finding in the units of whoever reads it.
#[derive(Debug, Clone, PartialEq)]
pub struct Words {
    /// The word on screen.
    pub word: String,
    /// The shape beside it.
    pub shape: Shape,
    /// A few words: the useful half first.
    pub headline: String,
    /// One sentence.
    pub summary: String,
    /// Sentences with figures.
    pub evidence: Vec<String>,
    /// What to do next.
    pub next_step: String,
    /// Of a decay or rig check: one sentence for each explanation, in their order.
    pub explanations: Vec<String>,
    /// Of a pull-down: what is due at this level.
    pub prompts: Vec<String>,
    /// Of a pull-down that stands: why each thing may hold it up, and what to try, in their order.
    pub held_by: Vec<(String, String)>,
}

/// Words without evidence; word and shape follow from the outcome.
pub(crate) fn words(headline: &str, summary: &str, next_step: &str) -> Words {
    Words {
        word: String::new(),
        shape: Shape::None,
        headline: headline.into(),
        summary: summary.into(),
        evidence: Vec::new(),
        next_step: next_step.into(),
        explanations: Vec::new(),
        prompts: Vec::new(),
        held_by: Vec::new(),
    }
}
