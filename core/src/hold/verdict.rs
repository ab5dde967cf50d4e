//! What a verdict on a hold consists of.

use super::proves::Proof;
use crate::reading::{HoldLimit, Recording};

/// Outcome of a hold.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum HoldOutcome {
    /// Within the limit; see `loss_detected` for the reservation.
    Holds,
    /// Beyond the limit.
    Falls,
    /// Neither shown.
    Undecided,
    /// Not a tightness test.
    NotApplicable,
}

/// Loss of pressure at the settled start's temperature, Pa/s; positive = gas lost; never clipped.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Loss {
    /// Mean.
    pub value: f64,
    /// 2.5 % bound.
    pub low: f64,
    /// 97.5 % bound.
    pub high: f64,
    /// One-sided 99 % lower bound.
    pub surely: f64,
    /// One-sided 99 % upper bound.
    pub at_most: f64,
}

/// How the gas followed its probes, fitted from this hold.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Correction {
    /// Kelvin of the gas for each kelvin of the probes.
    pub gain: f64,
    /// Its standard deviation.
    pub gain_sd: f64,
    /// Seconds by which the gas is behind its probes (negative: ahead).
    pub lag_s: f64,
    /// Its standard deviation.
    pub lag_sd: f64,
}

/// One point to draw, Pa as change since the settled start.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct TracePoint {
    /// Seconds since the recording's start.
    pub at_s: f64,
    /// As read.
    pub raw: f64,
    /// At the start's temperature.
    pub corrected: Option<f64>,
    /// Half width of the ribbon around `corrected`.
    pub ribbon: Option<f64>,
    /// Mean temperature, K.
    pub temperature: Option<f64>,
}

/// All that is said about a hold.
#[derive(Debug, Clone)]
pub struct HoldVerdict {
    /// Outcome.
    pub outcome: HoldOutcome,
    /// Codes of what decided.
    pub reasons: Vec<&'static str>,
    /// The useful half, first: a few words.
    pub headline: String,
    /// One sentence.
    pub summary: String,
    /// Sentences with figures.
    pub evidence: Vec<String>,
    /// What to do next.
    pub next_step: String,
    /// The loss, where it could be estimated.
    pub loss: Option<Loss>,
    /// The lower bound is above zero.
    pub loss_detected: bool,
    /// The same loss if nitrogen were ideal, Pa/s.
    pub ideal_loss: Option<f64>,
    /// Gain and lag as this hold told them, if it did.
    pub correction: Option<Correction>,
    /// When it will next be as warm as at the settled start, s.
    pub again_at_s: Option<f64>,
    /// When the clock started, s; `None`: not yet.
    pub settled_at_s: Option<f64>,
    /// The limit used.
    pub limit: HoldLimit,
    /// It was the default.
    pub limit_is_default: bool,
    /// What the hold proves.
    pub proves: Option<Proof>,
    /// What a proven loss means as refrigerant.
    pub leaks: Option<Proof>,
    /// Points to draw.
    pub trace: Vec<TracePoint>,
    /// Seconds from the last reading until settled, where that can be foretold.
    pub ready_in: Option<f64>,
}

/// The four texts of a verdict.
pub struct Said {
    pub headline: String,
    pub summary: String,
    pub evidence: Vec<String>,
    pub next_step: String,
}

/// A verdict with nothing said yet.
pub fn blank(recording: &Recording, outcome: HoldOutcome, reason: &'static str) -> HoldVerdict {
    HoldVerdict {
        outcome,
        reasons: if reason.is_empty() {
            vec![]
        } else {
            vec![reason]
        },
        headline: String::new(),
        summary: String::new(),
        evidence: Vec::new(),
        next_step: String::new(),
        loss: None,
        loss_detected: false,
        ideal_loss: None,
        correction: None,
        again_at_s: None,
        settled_at_s: None,
        limit: recording.settings.hold_limit.unwrap_or(HoldLimit {
            drop_pa: 0.0,
            over_s: 600.0,
        }),
        limit_is_default: recording.settings.hold_limit.is_none(),
        proves: None,
        leaks: None,
        trace: Vec::new(),
        ready_in: None,
    }
}

impl HoldVerdict {
    /// Adds a reason.
    #[must_use]
    pub fn because(mut self, reason: &'static str) -> Self {
        self.reasons.push(reason);
        self
    }
    /// Says it.
    #[must_use]
    pub fn said(mut self, said: Said) -> Self {
        (self.headline, self.summary, self.evidence, self.next_step) =
            (said.headline, said.summary, said.evidence, said.next_step);
        self
    }
}
