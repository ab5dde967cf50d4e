//! Sources, repeats and next steps as JSON.

use super::verdict::Point;
use ruhe_core::argue::{Action, Argued, Repeats, Standing};
use serde::Serialize;
use utoipa::ToSchema;

/// One possible source of a rise.
#[derive(Debug, Serialize, ToSchema)]
pub struct SourceView {
    pub code: String,
    pub title: String,
    /// likely, possible, unlikely or ruled_out.
    pub standing: String,
    pub speaks_for: Vec<String>,
    pub against: Vec<String>,
}

/// A real action, with why, how long, and what either result would mean.
#[derive(Debug, Serialize, ToSchema)]
pub struct ActionView {
    pub code: String,
    pub title: String,
    pub minutes: f64,
    pub why: String,
    pub either: Vec<String>,
}

/// What a hold lets a leak do at most under vacuum, Pa/s.
#[derive(Debug, Serialize, ToSchema)]
pub struct WedgeView {
    pub hold: String,
    pub careful_pa_s: f64,
    pub likely_pa_s: f64,
}

/// An earlier decay of the same circuit, its time counted from its isolation.
#[derive(Debug, Serialize, ToSchema)]
pub struct OverlayView {
    pub title: String,
    pub points: Vec<Point>,
}

#[derive(Debug, Serialize, ToSchema)]
pub struct ArguedView {
    pub sources: Vec<SourceView>,
    pub wedge: Option<WedgeView>,
    /// What the wedge and its reverse say.
    pub words: Vec<String>,
    /// What repeats said.
    pub repeats: Vec<String>,
    pub overlays: Vec<OverlayView>,
    /// What settles most per minute first.
    pub next: Vec<ActionView>,
}

impl ArguedView {
    pub fn of(
        argued: Argued,
        repeats: Option<Repeats>,
        overlays: Vec<OverlayView>,
        next: Vec<Action>,
    ) -> Self {
        let standing = |s: Standing| match s {
            Standing::Likely => "likely",
            Standing::Possible => "possible",
            Standing::Unlikely => "unlikely",
            Standing::RuledOut => "ruled_out",
        };
        Self {
            sources: argued
                .sources
                .into_iter()
                .map(|s| SourceView {
                    code: s.code.into(),
                    title: s.title.into(),
                    standing: standing(s.standing).into(),
                    speaks_for: s.speaks_for,
                    against: s.against,
                })
                .collect(),
            wedge: argued.wedge.map(|w| WedgeView {
                hold: w.hold,
                careful_pa_s: w.careful,
                likely_pa_s: w.likely,
            }),
            words: argued.words,
            repeats: repeats.map_or_else(Vec::new, |r| r.words),
            overlays,
            next: next
                .into_iter()
                .map(|a| ActionView {
                    code: a.code.into(),
                    title: a.title,
                    minutes: a.minutes,
                    why: a.why,
                    either: a.either.into(),
                })
                .collect(),
        }
    }
}
