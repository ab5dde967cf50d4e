//! Statistics shared by the judges: regression under correlated noise, and mixtures of its answers.

mod bordered;
mod mixture;
mod noise;
mod regression;
pub mod rounding;

pub use bordered::{Border, Core, Joint, WIDE};
pub use mixture::{Averages, Mixture};
pub use noise::{Blocks, correlated};
pub use regression::{Gram, MOST, Posterior, Waiting, whiten};
