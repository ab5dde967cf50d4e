//! The one door to the judges: a recording in, a finding out; and a finding into words.
//!
//! A finding holds figures in SI units and typed reasons, so that a change of units never judges again, and so that a
//! finding can be kept and compared. Nothing here knows files, clocks or the web.

use crate::hold::{HoldFinding, LeakByFinding, judge_hold, judge_leak_by, say_hold, say_leak_by};
use crate::quantity::Units;
use crate::reading::{Kind, Recording};
use crate::reason::Reason;
use crate::vacuum::pull::{PullFinding, judge_pull, say_pull};
use crate::vacuum::{DecayFinding, RigFinding, judge_decay, judge_rig, say_decay, say_rig};
use crate::words::Words;
use serde::{Deserialize, Serialize};
use serde_json::Value;

/// What is found about a test of any kind.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(tag = "kind", rename_all = "kebab-case")]
pub enum Finding {
    /// A nitrogen hold.
    PressureHold(HoldFinding),
    /// A vacuum decay.
    VacuumDecay(DecayFinding),
    /// A pull-down.
    PullDown(PullFinding),
    /// A check of pump or hoses.
    RigCheck(RigFinding),
    /// Two halves either side of a valve.
    LeakBy(LeakByFinding),
}

/// Judges a recording.
#[must_use]
pub fn judge(recording: &Recording) -> Finding {
    match recording.settings.kind {
        Kind::PressureHold => Finding::PressureHold(judge_hold(recording)),
        Kind::VacuumDecay => Finding::VacuumDecay(judge_decay(recording)),
        Kind::PullDown => Finding::PullDown(judge_pull(recording)),
        Kind::RigCheck => Finding::RigCheck(judge_rig(recording)),
        Kind::LeakBy => Finding::LeakBy(judge_leak_by(recording)),
    }
}

/// Puts a finding into words.
#[must_use]
pub fn say(finding: &Finding, u: Units) -> Words {
    match finding {
        Finding::PressureHold(v) => say_hold(v, u),
        Finding::VacuumDecay(v) => say_decay(v, u),
        Finding::PullDown(v) => say_pull(v, u),
        Finding::RigCheck(v) => say_rig(v, u),
        Finding::LeakBy(v) => say_leak_by(v, u),
    }
}

/// Two machines round the last digits of a long sum differently; nothing that a sentence shows is as fine, relative.
const ROUNDING: f64 = 1e-7;

/// Whether two figures, or all figures and words of two things, are the same but for rounding.
fn agree(a: &Value, b: &Value) -> bool {
    match (a, b) {
        (Value::Number(x), Value::Number(y)) => match (x.as_f64(), y.as_f64()) {
            (Some(x), Some(y)) => (x - y).abs() <= ROUNDING * x.abs().max(y.abs()).max(1.0),
            _ => x == y,
        },
        (Value::Array(x), Value::Array(y)) => {
            x.len() == y.len() && x.iter().zip(y).all(|(x, y)| agree(x, y))
        }
        (Value::Object(x), Value::Object(y)) => {
            x.len() == y.len() && x.iter().all(|(k, x)| y.get(k).is_some_and(|y| agree(x, y)))
        }
        _ => a == b,
    }
}

impl Finding {
    /// Whether the same was found, but for the rounding of another machine.
    #[must_use]
    pub fn agrees_with(&self, other: &Self) -> bool {
        if self == other {
            return true;
        }
        match (serde_json::to_value(self), serde_json::to_value(other)) {
            (Ok(a), Ok(b)) => agree(&a, &b),
            _ => false,
        }
    }
    /// Kind of test.
    #[must_use]
    pub fn kind(&self) -> Kind {
        match self {
            Self::PressureHold(_) => Kind::PressureHold,
            Self::VacuumDecay(_) => Kind::VacuumDecay,
            Self::PullDown(_) => Kind::PullDown,
            Self::RigCheck(_) => Kind::RigCheck,
            Self::LeakBy(_) => Kind::LeakBy,
        }
    }
    /// Code of the outcome; which codes there are depends on the kind.
    #[must_use]
    pub fn outcome(&self) -> &'static str {
        match self {
            Self::PressureHold(v) => v.outcome.code(),
            Self::VacuumDecay(v) => v.outcome.code(),
            Self::PullDown(v) => v.outcome.code(),
            Self::RigCheck(v) => v.outcome.code(),
            Self::LeakBy(v) => v.outcome.code(),
        }
    }
    /// What decided.
    #[must_use]
    pub fn reasons(&self) -> &[Reason] {
        match self {
            Self::PressureHold(v) => &v.reasons,
            Self::VacuumDecay(v) => &v.reasons,
            Self::PullDown(v) => &v.reasons,
            Self::RigCheck(v) => &v.reasons,
            Self::LeakBy(v) => &v.reasons,
        }
    }
    /// The same without what is only drawn: traces and curves.
    #[must_use]
    pub fn undrawn(&self) -> Self {
        let mut out = self.clone();
        match &mut out {
            Self::PressureHold(v) => v.trace.clear(),
            Self::VacuumDecay(v) => {
                v.trace.clear();
                v.explanations.iter_mut().for_each(|e| e.curve.clear());
            }
            Self::PullDown(v) => v.trace.clear(),
            Self::RigCheck(v) => {
                v.trace.clear();
                v.explanations.iter_mut().for_each(|e| e.curve.clear());
            }
            Self::LeakBy(v) => v.trace.clear(),
        }
        out
    }
}
