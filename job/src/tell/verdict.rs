//! A finding as it is shown: figures, points to draw, and its words; and the flat contract of `ruhe analyse --json`.

use super::figure::{Estimate, Point, estimate};
use super::vacuum::{DecayDetail, PullDetail, RigDetail, decay, pull, rig};
use ruhe_core::ENGINE_VERSION;
use ruhe_core::hold::{HoldFinding, LeakByFinding, Proof, Share, assumptions};
use ruhe_core::judge::{Finding, say};
use ruhe_core::quantity::{Unit, Units};
use ruhe_core::reading::{Kind, Remark};
use ruhe_core::reason::Reason;
use ruhe_core::words::Shape;
use serde::{Deserialize, Serialize};
use serde_json::{Value, json};

/// A verdict with what the page draws. Pressures in Pa, times in s since the recording's start.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Verdict {
    /// Kind of test.
    pub kind: Kind,
    /// Outcome code.
    pub outcome: String,
    /// The word on screen.
    pub word: String,
    /// The shape beside it.
    pub shape: Shape,
    /// A few words: the useful half first.
    pub headline: String,
    /// What decided.
    pub reasons: Vec<Reason>,
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

/// What a hold proves, g of refrigerant a year.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Proves {
    pub low_g_per_year: f64,
    pub high_g_per_year: f64,
    pub assumptions: String,
}

#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
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
    /// While it is open: when it is as likely as not to be decided, s since the recording's start …
    pub decided_likely_s: Option<f64>,
    /// … and when nine times in ten.
    pub decided_surely_s: Option<f64>,
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

#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LeakByDetail {
    /// psi, referred to half A.
    pub outside: Option<Estimate>,
    pub leak_by: Option<Estimate>,
    pub ratio_low: f64,
    pub ratio_high: f64,
}

impl Verdict {
    /// A finding of this version's, in these units.
    #[must_use]
    pub fn of(finding: &Finding, u: Units) -> Self {
        Self::by(finding, ENGINE_VERSION, u)
    }
    /// A finding that another version of the method may have made.
    #[must_use]
    pub fn by(finding: &Finding, engine: &str, u: Units) -> Self {
        let words = say(finding, u);
        let mut out = Self {
            kind: finding.kind(),
            outcome: finding.outcome().into(),
            word: words.word.clone(),
            shape: words.shape,
            headline: words.headline.clone(),
            reasons: finding.reasons().to_vec(),
            summary: words.summary.clone(),
            evidence: words.evidence.clone(),
            next_step: words.next_step.clone(),
            engine_version: engine.into(),
            hold: None,
            decay: None,
            leak_by: None,
            pull: None,
            rig: None,
            trace: vec![],
        };
        match finding {
            Finding::PressureHold(v) => (out.hold, out.trace) = (Some(hold(v, u)), hold_trace(v)),
            Finding::VacuumDecay(v) => {
                (out.decay, out.trace) = (Some(decay(v, &words)), Point::levels(&v.trace));
            }
            Finding::PullDown(v) => {
                (out.pull, out.trace) = (Some(pull(v, &words)), Point::levels(&v.trace));
            }
            Finding::RigCheck(v) => {
                (out.rig, out.trace) = (Some(rig(v, &words)), Point::levels(&v.trace));
            }
            Finding::LeakBy(v) => {
                (out.leak_by, out.trace) = (Some(leak_by(v)), leak_by_trace(v));
            }
        }
        out.trace = out.trace.into_iter().map(Point::drawn).collect();
        out
    }
}

fn psi_per_hour(rate: f64) -> f64 {
    Unit::Psi.delta_of_si(rate) * 3600.0
}

fn proves(p: &Proof, u: Units) -> Proves {
    Proves {
        low_g_per_year: p.low_g_per_year,
        high_g_per_year: p.high_g_per_year,
        assumptions: assumptions(p, u),
    }
}

fn hold(v: &HoldFinding, u: Units) -> HoldDetail {
    HoldDetail {
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
        decided_likely_s: v.foretold.and_then(|f| f.likely_s),
        decided_surely_s: v.foretold.and_then(|f| f.surely_s),
        ready_in_s: v.ready_in,
        proves: v.proves.as_ref().map(|p| proves(p, u)),
        leaks: v.leaks.as_ref().map(|p| proves(p, u)),
        gain: v.correction.map(|c| c.gain),
        lag_s: v.correction.map(|c| c.lag_s),
        again_at_s: v.again_at_s,
    }
}

fn hold_trace(v: &HoldFinding) -> Vec<Point> {
    v.trace
        .iter()
        .map(|p| Point {
            at_s: p.at_s,
            value: p.raw,
            corrected: p.corrected,
            ribbon: p.ribbon,
            temperature_k: p.temperature,
        })
        .collect()
}

fn leak_by(v: &LeakByFinding) -> LeakByDetail {
    let share = |s: Share| {
        estimate(
            Unit::Psi.delta_of_si(s.value),
            Unit::Psi.delta_of_si(s.low),
            Unit::Psi.delta_of_si(s.high),
            "psi",
        )
    };
    LeakByDetail {
        outside: v.outside.map(share),
        leak_by: v.leak_by.map(share),
        ratio_low: v.ratio.0,
        ratio_high: v.ratio.1,
    }
}

fn leak_by_trace(v: &LeakByFinding) -> Vec<Point> {
    v.trace
        .iter()
        .map(|&(at_s, a, b)| Point {
            corrected: Some(b),
            ..Point::plain(at_s, a)
        })
        .collect()
}

/// The flat object of `ruhe analyse --json` (docs/interchange.md): the verdict without what only a page draws.
#[must_use]
pub fn contract(v: &Verdict, remarks: &[Remark]) -> Value {
    let mut out = json!({
        "kind": v.kind, "outcome": v.outcome, "reasons": v.reasons, "summary": format!("{}: {}. {}", v.word,
            v.headline, v.summary),
        "evidence": v.evidence, "next_step": v.next_step, "engine_version": v.engine_version, "remarks": remarks.iter().map(ToString::to_string).collect::<Vec<_>>(),
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
