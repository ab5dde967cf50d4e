//! A leak that showed and was not tested again: it stands over all that comes after, until a hold as high takes it
//! back.

use super::stage::mended_since;
use crate::procedure::Stage;
use crate::signoff::capital;
use crate::state::Circuit;
use ruhe_core::hold::HoldOutcome;
use ruhe_core::quantity::Units;
use ruhe_core::reading::Kind;
use serde::{Deserialize, Serialize};

/// A section in which a leak showed, and no hold since.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Untested {
    /// The section, where there are several.
    pub(super) section: Option<String>,
    /// What showed it: "Hold 4", "the leak at the tee".
    because: String,
    /// The pressure at which it showed, Pa gauge.
    pub(super) at_least: f64,
    /// A hold since was lower.
    was_lower: bool,
    /// Nothing is known to leak: what was found is mended.
    is_mended: bool,
}

/// The same, as the page shows it.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct UntestedView {
    /// "Hold 4 showed a leak at 275 psig, and nothing has been tested again."
    pub words: String,
    /// What comes next: "All mended: test again at 275 psig".
    pub next: String,
    /// Where that is done.
    pub stage: Stage,
    /// The section, where there are several.
    pub section: Option<String>,
    /// Pa gauge.
    pub at_least_pa: f64,
}

/// A leak that showed in this visit and that no hold took back; while a hold runs nobody is told to begin one.
#[must_use]
pub fn untested(c: &Circuit) -> Option<Untested> {
    let runs = c
        .tests
        .iter()
        .any(|t| !t.is_over() && matches!(t.kind, Kind::PressureHold | Kind::LeakBy));
    if c.is_signed() || runs {
        return None;
    }
    let order = c.order();
    let sections = c.tested();
    let several = sections.len() > 1;
    let (name, again) = sections
        .into_iter()
        .filter_map(|s| order.again(&s).map(|a| (s, a)))
        .find(|(_, a)| a.met_by.is_none() && a.at_least > 0.0)?;
    let holds = c.holds(Units::default());
    let fell = holds.iter().rfind(|h| h.outcome == HoldOutcome::Falls);
    Some(Untested {
        section: several.then_some(name),
        because: again.because,
        at_least: again.at_least,
        was_lower: again.held_lower,
        // A repair from before the fall mends nothing of it.
        is_mended: fell.is_none_or(|h| mended_since(c, h)) && !c.has_open_leak(&order),
    })
}

impl Untested {
    /// As the page shows it, in these units.
    #[must_use]
    pub fn view(&self, u: Units) -> UntestedView {
        let at = u.gauge(self.at_least);
        let because = capital(&self.because);
        let of = self.section.as_ref();
        let of = of.map_or_else(String::new, |s| format!(", {s}"));
        let words = if self.was_lower {
            format!("{because} showed a leak at {at}{of}; the hold since was lower.")
        } else {
            format!("{because} showed a leak at {at}{of}, and it was not tested again.")
        };
        let (next, stage) = if self.is_mended {
            (format!("All mended: test again at {at}"), Stage::Hold)
        } else {
            ("To the leak search".to_owned(), Stage::Search)
        };
        UntestedView {
            words,
            next,
            stage,
            section: self.section.clone(),
            at_least_pa: self.at_least,
        }
    }
}
