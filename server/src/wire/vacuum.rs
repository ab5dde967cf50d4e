//! Verdicts of the vacuum side as JSON: decays, pull-downs, rig checks.

use super::verdict::{Estimate, Point, Verdict, estimate, shown};
use ruhe_core::quantity::Unit;
use ruhe_core::reading::Kind;
use ruhe_core::vacuum::pull::{PullOutcome, PullVerdict};
use ruhe_core::vacuum::{DecayOutcome, DecayVerdict, Forecast, RigOutcome, RigVerdict};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub struct ExplanationDetail {
    pub cause: String,
    pub probability: f64,
    pub words: String,
    /// Forecast to draw.
    pub curve: Vec<Point>,
}

#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub struct DecayDetail {
    pub explanations: Vec<ExplanationDetail>,
    pub leak_probability: Option<f64>,
    /// Probability of a leak of at least this, micron/min: one micron a minute, or what crosses the limit within the hour.
    pub matters_probability: Option<f64>,
    pub matters_rate: Option<f64>,
    /// micron/min.
    pub leak_rate: Option<Estimate>,
    pub warns: bool,
    pub rising: bool,
    pub comes_apart_s: Option<f64>,
    pub isolated_at_s: Option<f64>,
    /// Pa.
    pub limit_level_pa: f64,
    pub limit_at_s: f64,
    pub limit_is_default: bool,
}

/// One pull of a run, s since the recording's start, Pa.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub struct PullView {
    pub from_s: f64,
    pub to_s: f64,
    pub target_pa: f64,
    pub lowest_pa: f64,
    pub took_s: Option<f64>,
}

/// Something that may hold a pull-down up.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub struct HeldView {
    pub code: String,
    pub why: String,
    pub to_try: String,
}

#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub struct PullDetail {
    pub level_pa: Option<f64>,
    pub target_pa: f64,
    /// Pull one is at, from 0, and how many there are.
    pub at: usize,
    pub count: usize,
    pub pulls: Vec<PullView>,
    /// Arrival, s since the recording's start: one in twenty earlier, half, one in twenty later; none: not within half a day.
    pub arrival_low_s: Option<f64>,
    pub arrival_s: Option<f64>,
    pub arrival_high_s: Option<f64>,
    /// A break stands until then, s since the recording's start.
    pub break_until_s: Option<f64>,
    pub held_by: Vec<HeldView>,
    pub prompts: Vec<String>,
}

#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub struct RigDetail {
    /// pump or hoses.
    pub part: String,
    pub lowest_pa: Option<f64>,
    /// Rise of the rig alone at the end, Pa/s.
    pub low_pa_s: Option<f64>,
    pub high_pa_s: Option<f64>,
    pub limit_pa: f64,
    pub explanations: Vec<ExplanationDetail>,
    pub isolated_at_s: Option<f64>,
}

fn explained(list: Vec<Forecast>) -> Vec<ExplanationDetail> {
    list.into_iter()
        .map(|e| ExplanationDetail {
            cause: e.cause.code().into(),
            probability: e.probability,
            words: e.words,
            curve: e
                .curve
                .iter()
                .map(|p| Point::plain(p.at_s, p.level))
                .collect(),
        })
        .collect()
}

pub(super) fn of_decay(v: DecayVerdict) -> Verdict {
    let (outcome, word, shape) = match v.outcome {
        DecayOutcome::Passes if v.rising => ("passes", "Passes, but rising", "losing"),
        DecayOutcome::Passes => ("passes", "Passes", "holds"),
        DecayOutcome::Fails => ("fails", "Over limit", "notch"),
        DecayOutcome::Undecided => ("undecided", "Can’t tell yet", "open"),
        DecayOutcome::NotApplicable => ("not_applicable", "Not a test", "none"),
    };
    let micron_per_min = |rate: f64| Unit::Micron.delta_of_si(rate) * 60.0;
    Verdict {
        decay: Some(DecayDetail {
            explanations: explained(v.explanations),
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
            comes_apart_s: v.comes_apart_s,
            isolated_at_s: v.isolated_at_s,
            limit_level_pa: v.limit.level_pa,
            limit_at_s: v.limit.at_s,
            limit_is_default: v.limit_is_default,
        }),
        trace: v
            .trace
            .iter()
            .map(|p| Point::plain(p.at_s, p.level))
            .collect(),
        ..shown(
            Kind::VacuumDecay,
            (outcome, word, shape),
            &v.reasons,
            [v.headline, v.summary, v.next_step],
            v.evidence,
        )
    }
}

pub(super) fn of_pull(v: PullVerdict) -> Verdict {
    let (outcome, word, shape) = match v.outcome {
        PullOutcome::Reached => ("reached", "Target reached", "holds"),
        PullOutcome::Pulling => ("pulling", "Pulling down", "open"),
        PullOutcome::Stalled => ("stalled", "Stands still", "notch"),
        PullOutcome::Break => ("break", "Nitrogen break", "open"),
        PullOutcome::NotApplicable => ("undecided", "Not begun", "none"),
    };
    Verdict {
        pull: Some(PullDetail {
            level_pa: v.level,
            target_pa: v.target,
            at: v.at.0,
            count: v.at.1,
            pulls: v
                .pulls
                .iter()
                .filter(|p| p.lowest.is_finite())
                .map(|p| PullView {
                    from_s: p.from,
                    to_s: p.to,
                    target_pa: p.target,
                    lowest_pa: p.lowest,
                    took_s: p.took,
                })
                .collect(),
            arrival_low_s: v.arrival.and_then(|a| a.low),
            arrival_s: v.arrival.and_then(|a| a.middle),
            arrival_high_s: v.arrival.and_then(|a| a.high),
            break_until_s: v.break_until,
            held_by: v.stall.map_or_else(Vec::new, |s| {
                s.by.into_iter()
                    .map(|h| HeldView {
                        code: h.held.code().into(),
                        why: h.why,
                        to_try: h.to_try.into(),
                    })
                    .collect()
            }),
            prompts: v.prompts,
        }),
        trace: v
            .trace
            .iter()
            .map(|p| Point::plain(p.at_s, p.level))
            .collect(),
        ..shown(
            Kind::PullDown,
            (outcome, word, shape),
            &v.reasons,
            [v.headline, v.summary, v.next_step],
            v.evidence,
        )
    }
}

pub(super) fn of_rig(v: RigVerdict) -> Verdict {
    let (outcome, word, shape) = match v.outcome {
        RigOutcome::Good => ("good", "Good", "holds"),
        RigOutcome::Short => ("short", "Falls short", "notch"),
        RigOutcome::GivesGas => ("gives_gas", "Gives off gas", "notch"),
        RigOutcome::Leaks => ("leaks", "Leaks", "falling"),
        RigOutcome::Rises => ("rises", "Rises too fast", "notch"),
        RigOutcome::Undecided => ("undecided", "Can’t tell yet", "open"),
    };
    Verdict {
        rig: Some(RigDetail {
            part: v.part.code().into(),
            lowest_pa: v.lowest,
            low_pa_s: v.rate.map(|r| r.0),
            high_pa_s: v.rate.map(|r| r.1),
            limit_pa: v.limit_pa,
            explanations: explained(v.explanations),
            isolated_at_s: v.isolated_at_s,
        }),
        trace: v
            .trace
            .iter()
            .map(|p| Point::plain(p.at_s, p.level))
            .collect(),
        ..shown(
            Kind::RigCheck,
            (outcome, word, shape),
            &v.reasons,
            [v.headline, v.summary, v.next_step],
            v.evidence,
        )
    }
}
