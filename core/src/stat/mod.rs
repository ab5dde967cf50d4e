//! Statistics shared by the judges: regression under correlated noise, and mixtures of its answers.

mod mixture;
mod noise;
mod regression;

pub use mixture::Mixture;
pub use noise::{Blocks, correlated};
pub use regression::{Gram, MOST, Posterior, whiten};
