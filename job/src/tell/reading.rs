//! A reading as it is shown.
#![allow(missing_docs)]

use crate::log::ReadingLine;
use crate::state::Test;
use serde::Serialize;

#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ReadingView {
    pub id: String,
    pub channel_id: String,
    pub at_ms: i64,
    pub typed: String,
    pub origin: String,
    pub skewed: bool,
    /// Why it was struck out, if it was.
    pub struck: Option<String>,
}

/// A reading as it is shown; `None`: of no channel of this test.
pub(super) fn reading_view(t: &Test, r: &ReadingLine) -> Option<ReadingView> {
    Some(ReadingView {
        channel_id: t.channels.get(r.channel as usize)?.id.clone(),
        struck: t.struck(&r.id).map(Into::into),
        id: r.id.clone(),
        at_ms: r.at_ms,
        typed: r.typed.clone(),
        origin: r.origin.clone(),
        skewed: r.skewed,
    })
}
