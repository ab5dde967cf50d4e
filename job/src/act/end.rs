//! Ending a test: its readings are sealed, its finding is frozen.

use super::import::recording_digest;
use crate::log::{Deed, Ended, Seal};
use crate::refusal::Refusal;
use crate::state::{Circuit, Now, Test};
use ruhe_core::ENGINE_VERSION;

/// The end of a test with what is found about all its readings.
#[must_use]
pub fn freeze(t: &Test, now: &Now, seal: Seal, at_ms: i64) -> Deed {
    Deed::Ended(Ended {
        test: t.id.clone(),
        at_ms,
        seal,
        recording: now
            .recording
            .as_ref()
            .map_or_else(String::new, |r| recording_digest(r)),
        engine: ENGINE_VERSION.into(),
        finding: now.finding.clone(),
        outline: now.outline.clone(),
    })
}

/// Ends a test. `None`: it has ended already.
///
/// # Errors
/// If there is no such test, or the circuit is signed.
pub fn end(
    c: &Circuit,
    test: &str,
    now: &Now,
    seal: Seal,
    at_ms: i64,
) -> Result<Option<Deed>, Refusal> {
    c.must_be_open()?;
    let t = c.must_have(test)?;
    Ok((!t.is_over()).then(|| freeze(t, now, seal, at_ms)))
}
