//! Verdicts as JSON: one shape for the page, and the flat contract of `ruhe analyse --json`.

use super::vacuum::{DecayDetail, PullDetail, RigDetail, of_decay, of_pull, of_rig};
use ruhe_core::ENGINE_VERSION;
use ruhe_core::hold::{
    HoldOutcome, HoldVerdict, LeakByOutcome, LeakByVerdict, Proof, judge_hold, judge_leak_by,
};
use ruhe_core::quantity::{Unit, Units};
use ruhe_core::reading::{Kind, Recording};
use ruhe_core::vacuum::pull::judge_pull;
use ruhe_core::vacuum::{DecayVerdict, judge_decay, judge_rig};
use serde::{Deserialize, Serialize};
use serde_json::{Value, json};
use utoipa::ToSchema;

/// A verdict with what the page draws. Pressures in Pa, times in s since the recording's start.
#[derive(Debug, Clone, Default, Serialize, Deserialize, ToSchema)]
pub struct Verdict {
    /// Kind of test.
    pub kind: String,
    /// Outcome code.
    pub outcome: String,
    /// The word on screen.
    pub word: String,
    /// The shape beside it: holds, losing, falling, open, notch, none.
    pub shape: String,
    /// A few words: the useful half first.
    pub headline: String,
    /// Codes of what decided.
    pub reasons: Vec<String>,
    /// One sentence.
    pub summary: String,
    /// Sentences with figures.
    pub evidence: Vec<String>,
    /// What to do next.
    pub next_step: String,
    /// Version of the method.
    pub engine_version: String,
    /// Of a hold.
    pub hold: Option<HoldDetail>,
    /// Of a decay.
    pub decay: Option<DecayDetail>,
    /// Of a leak-by test.
    pub leak_by: Option<LeakByDetail>,
    /// Of a pull-down.
    pub pull: Option<PullDetail>,
    /// Of a rig check.
    pub rig: Option<RigDetail>,
    /// Points to draw.
    pub trace: Vec<Point>,
}

/// An estimate with its 95 % bounds.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub struct Estimate {
    pub value: f64,
    pub low: f64,
    pub high: f64,
    pub unit: String,
    pub confidence: f64,
}

/// What a hold proves, g of refrigerant a year.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub struct Proves {
    pub low_g_per_year: f64,
    pub high_g_per_year: f64,
    pub assumptions: String,
}

#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub struct HoldDetail {
    /// psi/h, positive = gas lost.
    pub loss: Option<Estimate>,
    pub loss_detected: bool,
    /// psi/h if nitrogen were ideal.
    pub ideal_loss: Option<f64>,
    pub settled_at_s: Option<f64>,
    /// psi/h.
    pub limit_rate: f64,
    pub limit_is_default: bool,
    pub proves: Option<Proves>,
    /// Seconds from the last reading until settled, where that can be foretold.
    pub ready_in_s: Option<f64>,
    /// What a proven loss means as refrigerant.
    pub leaks: Option<Proves>,
    /// Gain and lag as this hold told them.
    pub gain: Option<f64>,
    pub lag_s: Option<f64>,
    /// When it will next be as warm as at the settled start.
    pub again_at_s: Option<f64>,
}

#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub struct LeakByDetail {
    /// psi, referred to half A.
    pub outside: Option<Estimate>,
    pub leak_by: Option<Estimate>,
    pub ratio_low: f64,
    pub ratio_high: f64,
}

/// A point: for a hold the change since the settled start, for a decay the level, for leak-by half A with half B as
/// `corrected`. Pa, K.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub struct Point {
    pub at_s: f64,
    pub value: f64,
    pub corrected: Option<f64>,
    pub ribbon: Option<f64>,
    pub temperature_k: Option<f64>,
}

impl Point {
    pub fn plain(at_s: f64, value: f64) -> Self {
        Self {
            at_s,
            value,
            corrected: None,
            ribbon: None,
            temperature_k: None,
        }
    }
}

/// A recording judged: what is shown, and what the argument about a decay goes on from.
pub struct Judgement {
    pub verdict: Verdict,
    pub decay: Option<DecayVerdict>,
}

/// Judges a recording of any kind.
pub fn judged_of(recording: &Recording, units: Units) -> Judgement {
    let alone = |verdict: Verdict| Judgement {
        verdict,
        decay: None,
    };
    match recording.settings.kind {
        Kind::PressureHold => alone(of_hold(judge_hold(recording, units))),
        Kind::LeakBy => alone(of_leak_by(judge_leak_by(recording, units))),
        Kind::PullDown => alone(of_pull(judge_pull(recording, units))),
        Kind::RigCheck => alone(of_rig(judge_rig(recording, units))),
        Kind::VacuumDecay => {
            let decay = judge_decay(recording, units);
            Judgement {
                verdict: of_decay(decay.clone()),
                decay: Some(decay),
            }
        }
    }
}

fn psi_per_hour(rate: f64) -> f64 {
    Unit::Psi.delta_of_si(rate) * 3600.0
}

pub(super) fn estimate(value: f64, low: f64, high: f64, unit: &str) -> Estimate {
    Estimate {
        value,
        low,
        high,
        unit: unit.into(),
        confidence: 0.95,
    }
}

fn proves(p: Proof) -> Proves {
    Proves {
        low_g_per_year: p.low_g_per_year,
        high_g_per_year: p.high_g_per_year,
        assumptions: p.assumptions,
    }
}

/// What every verdict has: its outcome with the word and shape on screen, what decided, headline, summary and next step,
/// evidence.
pub(super) fn shown(
    kind: Kind,
    (outcome, word, shape): (&str, &str, &str),
    reasons: &[&str],
    [headline, summary, next_step]: [String; 3],
    evidence: Vec<String>,
) -> Verdict {
    Verdict {
        kind: kind.code().into(),
        outcome: outcome.into(),
        word: word.into(),
        shape: shape.into(),
        headline,
        reasons: reasons.iter().map(|r| (*r).to_owned()).collect(),
        summary,
        evidence,
        next_step,
        engine_version: ENGINE_VERSION.into(),
        ..Verdict::default()
    }
}

fn of_hold(v: HoldVerdict) -> Verdict {
    let (outcome, word, shape) = match v.outcome {
        HoldOutcome::Holds if v.loss_detected => ("holds", "Within limit, but losing", "losing"),
        HoldOutcome::Holds => ("holds", "Holds", "holds"),
        HoldOutcome::Falls => ("falls", "Falling", "falling"),
        HoldOutcome::Undecided => ("undecided", "Can’t tell yet", "open"),
        HoldOutcome::NotApplicable => ("not_applicable", "Not a test", "none"),
    };
    Verdict {
        hold: Some(HoldDetail {
            loss: v.loss.map(|l| {
                estimate(
                    psi_per_hour(l.value),
                    psi_per_hour(l.low),
                    psi_per_hour(l.high),
                    "psi/h",
                )
            }),
            loss_detected: v.loss_detected,
            ideal_loss: v.ideal_loss.map(psi_per_hour),
            settled_at_s: v.settled_at_s,
            limit_rate: psi_per_hour(v.limit.rate()),
            limit_is_default: v.limit_is_default,
            ready_in_s: v.ready_in,
            proves: v.proves.map(proves),
            leaks: v.leaks.map(proves),
            gain: v.correction.map(|c| c.gain),
            lag_s: v.correction.map(|c| c.lag_s),
            again_at_s: v.again_at_s,
        }),
        trace: v
            .trace
            .iter()
            .map(|p| Point {
                at_s: p.at_s,
                value: p.raw,
                corrected: p.corrected,
                ribbon: p.ribbon,
                temperature_k: p.temperature,
            })
            .collect(),
        ..shown(
            Kind::PressureHold,
            (outcome, word, shape),
            &v.reasons,
            [v.headline, v.summary, v.next_step],
            v.evidence,
        )
    }
}

fn of_leak_by(v: LeakByVerdict) -> Verdict {
    let (outcome, word) = match v.outcome {
        LeakByOutcome::Outside => ("outside", "Falling"),
        LeakByOutcome::LeakBy => ("leak_by", "Lets by"),
        LeakByOutcome::Both => ("both", "Falling and lets by"),
        LeakByOutcome::Undecided => ("undecided", "Can’t tell yet"),
    };
    let share = |s: ruhe_core::hold::Share| {
        estimate(
            Unit::Psi.delta_of_si(s.value),
            Unit::Psi.delta_of_si(s.low),
            Unit::Psi.delta_of_si(s.high),
            "psi",
        )
    };
    Verdict {
        leak_by: Some(LeakByDetail {
            outside: v.outside.map(share),
            leak_by: v.leak_by.map(share),
            ratio_low: v.ratio.0,
            ratio_high: v.ratio.1,
        }),
        trace: v
            .trace
            .iter()
            .map(|&(at_s, a, b)| Point {
                corrected: Some(b),
                ..Point::plain(at_s, a)
            })
            .collect(),
        ..shown(
            Kind::LeakBy,
            (
                outcome,
                word,
                if outcome == "undecided" {
                    "open"
                } else {
                    "falling"
                },
            ),
            &v.reasons,
            [v.headline, v.summary, v.next_step],
            v.evidence,
        )
    }
}

/// The flat object of `ruhe analyse --json` (docs/interchange.md): the verdict without what only a page draws.
pub fn contract(v: &Verdict, remarks: &[String]) -> Value {
    let mut out = json!({
        "kind": v.kind, "outcome": v.outcome, "reasons": v.reasons, "summary": format!("{}: {}. {}", v.word, v.headline, v.summary),
        "evidence": v.evidence, "next_step": v.next_step, "engine_version": v.engine_version, "remarks": remarks,
    });
    let details = [
        v.hold.as_ref().and_then(|d| serde_json::to_value(d).ok()),
        v.decay.as_ref().and_then(|d| serde_json::to_value(d).ok()),
        v.leak_by
            .as_ref()
            .and_then(|d| serde_json::to_value(d).ok()),
        v.pull.as_ref().and_then(|d| serde_json::to_value(d).ok()),
        v.rig.as_ref().and_then(|d| serde_json::to_value(d).ok()),
    ];
    for (name, mut value) in details
        .into_iter()
        .flatten()
        .filter_map(|d| {
            if let Value::Object(m) = d {
                Some(m)
            } else {
                None
            }
        })
        .flatten()
    {
        if let Some(list) = value.as_array_mut() {
            list.iter_mut()
                .filter_map(Value::as_object_mut)
                .for_each(|e| {
                    e.remove("curve");
                });
        }
        out[name] = value;
    }
    out
}
