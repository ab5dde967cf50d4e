//! Start-up: reading sets, superheat and subcooling, whether they have come to rest, and what they look like.
//!
//! Superheat counts from the dew line of the suction pressure, subcooling from the bubble line of the liquid
//! pressure: of a blend with glide the wrong line is worth ten degrees and more. Gauge pressures become absolute with
//! the atmosphere of the site.

mod doc;
mod pattern;
mod steady;

pub use doc::*;
pub use pattern::*;
pub use steady::*;
