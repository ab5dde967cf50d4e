//! Figures as a page takes them: an estimate with its interval, a point of a trace.

use ruhe_core::vacuum::VacuumPoint;
use serde::{Deserialize, Serialize};

/// An estimate with its 95 % bounds.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Estimate {
    pub value: f64,
    pub low: f64,
    pub high: f64,
    pub unit: String,
    pub confidence: f64,
}

/// A point: for a hold the change since the settled start, for a decay the level, for leak-by half A with half B as
/// `corrected`. Pa, K.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Point {
    pub at_s: f64,
    pub value: f64,
    pub corrected: Option<f64>,
    pub ribbon: Option<f64>,
    pub temperature_k: Option<f64>,
}

impl Point {
    /// A value alone.
    #[must_use]
    pub fn plain(at_s: f64, value: f64) -> Self {
        Self {
            at_s,
            value,
            corrected: None,
            ribbon: None,
            temperature_k: None,
        }
    }
    /// The same to six digits: a trace is drawn, and on a live page it is sent again and again.
    #[must_use]
    pub fn drawn(self) -> Self {
        Self {
            at_s: six(self.at_s),
            value: six(self.value),
            corrected: self.corrected.map(six),
            ribbon: self.ribbon.map(six),
            temperature_k: self.temperature_k.map(six),
        }
    }
    /// Levels of a vacuum.
    #[must_use]
    pub fn levels(trace: &[VacuumPoint]) -> Vec<Self> {
        trace.iter().map(|p| Self::plain(p.at_s, p.level)).collect()
    }
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

/// To six significant digits.
fn six(x: f64) -> f64 {
    format!("{x:.5e}").parse().unwrap_or(x)
}
