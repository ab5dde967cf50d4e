//! Verdicts of the vacuum side as JSON: decays, pull-downs, rig checks.

use super::figure::{Estimate, Point, estimate};
use ruhe_core::quantity::Unit;
use ruhe_core::reading::RigPart;
use ruhe_core::vacuum::pull::{Hindrance, PullFinding};
use ruhe_core::vacuum::{Cause, DecayFinding, Forecast, RigFinding};
use ruhe_core::words::Words;
use serde::{Deserialize, Serialize};

#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ExplanationDetail {
    pub cause: Cause,
    /// Its name.
    pub title: String,
    pub probability: f64,
    pub words: String,
    /// Forecast to draw.
    pub curve: Vec<Point>,
}

#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct DecayDetail {
    pub explanations: Vec<ExplanationDetail>,
    pub leak_probability: Option<f64>,
    /// Probability of a leak of at least this, micron/min: one micron a minute, or what crosses the limit within the
    /// hour.
    pub matters_probability: Option<f64>,
    pub matters_rate: Option<f64>,
    /// micron/min.
    pub leak_rate: Option<Estimate>,
    pub warns: bool,
    /// It passes, and something still flows in.
    pub rising: bool,
    /// It passes and rises, and a leak that matters is more likely than not.
    pub leak_likely: bool,
    /// It passes and rises: when it stands at the limit if it goes on as it last did, s from the last reading.
    pub reaches_s: Option<f64>,
    pub comes_apart_s: Option<f64>,
    pub isolated_at_s: Option<f64>,
    /// Pa.
    pub limit_level_pa: f64,
    pub limit_at_s: f64,
    pub limit_is_default: bool,
}

/// One pull of a run, s since the recording's start, Pa.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PullView {
    pub from_s: f64,
    pub to_s: f64,
    pub target_pa: f64,
    pub lowest_pa: f64,
    pub took_s: Option<f64>,
}

/// Something that may hold a pull-down up.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct HeldView {
    pub code: Hindrance,
    pub why: String,
    pub to_try: String,
}

#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PullDetail {
    pub level_pa: Option<f64>,
    pub target_pa: f64,
    /// Pull one is at, from 0, and how many there are.
    pub at: usize,
    pub count: usize,
    pub pulls: Vec<PullView>,
    /// Arrival, s since the recording's start: one in twenty earlier, half, one in twenty later; none: not within
    /// half a day.
    pub arrival_low_s: Option<f64>,
    pub arrival_s: Option<f64>,
    pub arrival_high_s: Option<f64>,
    /// A break stands until then, s since the recording's start.
    pub break_until_s: Option<f64>,
    pub held_by: Vec<HeldView>,
    pub prompts: Vec<String>,
}

#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RigDetail {
    pub part: RigPart,
    pub lowest_pa: Option<f64>,
    /// Rise of the rig alone at the end, Pa/s.
    pub low_pa_s: Option<f64>,
    pub high_pa_s: Option<f64>,
    pub limit_pa: f64,
    pub explanations: Vec<ExplanationDetail>,
    pub isolated_at_s: Option<f64>,
}

fn explained(list: &[Forecast], words: &Words) -> Vec<ExplanationDetail> {
    list.iter()
        .zip(&words.explanations)
        .map(|(e, words)| ExplanationDetail {
            cause: e.cause,
            title: e.cause.title().into(),
            probability: e.probability,
            words: words.clone(),
            curve: Point::levels(&e.curve),
        })
        .collect()
}

pub(super) fn decay(v: &DecayFinding, words: &Words) -> DecayDetail {
    let micron_per_min = |rate: f64| Unit::Micron.delta_of_si(rate) * 60.0;
    DecayDetail {
        explanations: explained(&v.explanations, words),
        matters_probability: v.matters_probability,
        matters_rate: v.matters_pa_s.map(micron_per_min),
        leak_probability: v.leak_probability,
        leak_rate: v.leak_rate.map(|r| {
            estimate(
                micron_per_min(r.value),
                micron_per_min(r.low),
                micron_per_min(r.high),
                "micron/min",
            )
        }),
        warns: v.warns,
        rising: v.rising,
        leak_likely: v.leak_likely,
        reaches_s: v.reaches_s,
        comes_apart_s: v.comes_apart_s,
        isolated_at_s: v.isolated_at_s,
        limit_level_pa: v.limit.level_pa,
        limit_at_s: v.limit.at_s,
        limit_is_default: v.limit_is_default,
    }
}

pub(super) fn pull(v: &PullFinding, words: &Words) -> PullDetail {
    let by = v.stall.as_ref().map_or(&[][..], |s| &s.by);
    PullDetail {
        level_pa: v.level,
        target_pa: v.target,
        at: v.at.0,
        count: v.at.1,
        pulls: v
            .pulls
            .iter()
            .filter_map(|p| {
                Some(PullView {
                    from_s: p.from,
                    to_s: p.to,
                    target_pa: p.target,
                    lowest_pa: p.lowest?,
                    took_s: p.took,
                })
            })
            .collect(),
        arrival_low_s: v.arrival.and_then(|a| a.low),
        arrival_s: v.arrival.and_then(|a| a.middle),
        arrival_high_s: v.arrival.and_then(|a| a.high),
        break_until_s: v.break_until,
        held_by: by
            .iter()
            .zip(&words.held_by)
            .map(|(h, (why, to_try))| HeldView {
                code: h.held,
                why: why.clone(),
                to_try: to_try.clone(),
            })
            .collect(),
        prompts: words.prompts.clone(),
    }
}

pub(super) fn rig(v: &RigFinding, words: &Words) -> RigDetail {
    RigDetail {
        part: v.part,
        lowest_pa: v.lowest,
        low_pa_s: v.rate.map(|r| r.0),
        high_pa_s: v.rate.map(|r| r.1),
        limit_pa: v.limit_pa,
        explanations: explained(&v.explanations, words),
        isolated_at_s: v.isolated_at_s,
    }
}
