//! A look from the log.

use crate::log::Looked;
use crate::search::Look;

/// A look as the search weighs it.
#[must_use]
pub fn look_of(said: &Looked) -> Look {
    Look {
        method: said.method,
        finding: said.finding,
        dwell_s: said.dwell_s,
    }
}
