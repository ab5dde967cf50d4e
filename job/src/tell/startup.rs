//! The running unit: its reading sets, whether it is steady, what it looks like.

use crate::refusal::Refusal;
use crate::startup::{Mode, Set, SetDoc, SetWord, When, before_and_after, patterns};
use crate::state::Circuit;
use serde::Serialize;

/// A reading set, worked out. K and Pa absolute; intervals in K.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SetView {
    /// Id of its entry.
    pub id: String,
    pub at_ms: i64,
    pub when: When,
    pub mode: Mode,
    pub set: SetDoc,
    pub dew_k: Option<f64>,
    pub bubble_k: Option<f64>,
    pub superheat_k: Option<f64>,
    pub subcooling_k: Option<f64>,
    pub split_k: Option<f64>,
    pub approach_k: Option<f64>,
}

fn set_view(id: &str, d: &SetDoc, s: &Set) -> SetView {
    SetView {
        id: id.into(),
        at_ms: s.at_ms,
        when: s.when,
        mode: s.mode,
        dew_k: s.dew,
        bubble_k: s.bubble,
        superheat_k: s.superheat,
        subcooling_k: s.subcooling,
        split_k: s.split,
        approach_k: s.approach,
        set: d.clone(),
    }
}

#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PatternView {
    pub is_likely: bool,
    pub words: String,
    pub look: String,
}

/// Places in the list of the last set before the work and of the last after it.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct BeforeAfter {
    pub before: usize,
    pub after: usize,
}

/// The running unit.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct StartView {
    pub sets: Vec<SetView>,
    pub word: Option<SetWord>,
    pub words: Option<String>,
    /// How long it still takes at least, s.
    pub wait_s: Option<f64>,
    pub patterns: Vec<PatternView>,
    pub before_after: Option<BeforeAfter>,
    /// The air's pressure that gauges are read against, Pa.
    pub air_pa: f64,
}

pub(super) fn start_view(c: &Circuit) -> StartView {
    let sets = c.start_sets();
    let st = c.steadiness();
    let last = sets
        .last()
        .filter(|_| st.as_ref().is_some_and(|s| s.is_steady));
    StartView {
        word: st.as_ref().map(|s| s.word),
        wait_s: st.as_ref().and_then(|s| s.wait_s),
        words: st.map(|s| s.words),
        patterns: last.map_or(vec![], |s| {
            patterns(s)
                .into_iter()
                .map(|p| PatternView {
                    is_likely: p.is_likely,
                    words: p.words.into(),
                    look: p.look.into(),
                })
                .collect()
        }),
        before_after: before_and_after(&sets).map(|(before, after)| BeforeAfter { before, after }),
        air_pa: c.site_air(),
        sets: c
            .visit
            .sets
            .iter()
            .zip(&sets)
            .map(|(k, s)| set_view(&k.id, &k.said.set, s))
            .collect(),
    }
}

/// A set that is being typed, worked out.
///
/// # Errors
/// What cannot be read, with its field.
pub fn tried_set(c: &Circuit, d: &SetDoc, now: i64) -> Result<SetView, Refusal> {
    let s = crate::startup::set(d, c.refrigerant(), c.site_air(), now, None)
        .map_err(|e| e.within("set"))?;
    Ok(set_view("", d, &s))
}
