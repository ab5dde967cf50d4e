//! Fine tightness: leak fluid at test pressure on every joint made today and on every port, or a day's hold, or a
//! detector with tracer.
//!
//! A hold bounds the whole system and is coarse; fluid shows about 1e-4 mbar·L/s in some minutes (common practice, no
//! source), a thousand times finer, but only where somebody looked.

use super::HoldFact;
use crate::order::{Evidence, Order, is_as_high};
use crate::search::Method;
use ruhe_core::hold::HoldOutcome;

/// A place that must be looked at.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct FinePlace {
    /// Its name.
    pub name: String,
    /// Sections it lies in.
    pub sections: Vec<String>,
}

/// A look that found nothing.
#[derive(Debug, Clone, PartialEq)]
pub struct ClearLook {
    /// Where.
    pub place: String,
    /// When, ms since 1970 UTC.
    pub at_ms: i64,
    /// How.
    pub method: Method,
    /// For how long, s.
    pub dwell_s: Option<f64>,
    /// Under which pressure, Pa gauge.
    pub at_pa: Option<f64>,
}

/// At so much of the test pressure a look counts.
const SHARE: f64 = 0.95;
/// A hold of a day shows what fluid shows, s (common practice, no source).
pub const DAY_S: f64 = 86_400.0;

fn last_hold<'a>(holds: &'a [HoldFact], section: &str) -> Option<&'a HoldFact> {
    holds
        .iter()
        .filter(|h| h.sections.iter().any(|s| s == section))
        .max_by_key(|h| h.from_ms)
}

/// Every section was held for a day, and still counts.
#[must_use]
pub fn by_day(holds: &[HoldFact], sections: &[&str], order: &Order) -> bool {
    !sections.is_empty()
        && sections.iter().all(|s| {
            last_hold(holds, s).is_some_and(|h| {
                h.outcome == HoldOutcome::Holds
                    && !h.loss_detected
                    && h.lasted_s >= DAY_S
                    && is_as_high(h.pressure, h.planned)
                    && order.undone(s, h.from_ms, Evidence::Hold).is_none()
            })
        })
}

/// Why a place is not shown to be finely tight; `None`: it is.
#[must_use]
pub fn not_fine(
    place: &FinePlace,
    looks: &[ClearLook],
    holds: &[HoldFact],
    has_tracer: bool,
    order: &Order,
) -> Option<&'static str> {
    let counts = |l: &&ClearLook| {
        place
            .sections
            .iter()
            .all(|s| order.undone(s, l.at_ms, Evidence::Hold).is_none())
    };
    let all: Vec<&ClearLook> = looks
        .iter()
        .filter(|l| {
            l.place == place.name
                && matches!(l.method, Method::Bubbles | Method::Dip | Method::Electronic)
        })
        .collect();
    if all.is_empty() {
        return Some("not looked at with fluid");
    }
    let later: Vec<&ClearLook> = all.into_iter().filter(counts).collect();
    if later.is_empty() {
        return Some("looked at before the last repair, opening or fall");
    }
    let needed = place
        .sections
        .iter()
        .filter_map(|s| last_hold(holds, s))
        .map(|h| h.planned)
        .fold(0.0, f64::max);
    let long: Vec<&ClearLook> = later
        .into_iter()
        .filter(|l| l.dwell_s.is_some_and(|d| d >= l.method.least_dwell()))
        .filter(|l| l.method != Method::Electronic || has_tracer)
        .collect();
    if long.is_empty() {
        return Some("not looked at for two minutes");
    }
    let high = long
        .iter()
        .any(|l| needed > 0.0 && l.at_pa.is_some_and(|p| p >= SHARE * needed));
    (!high).then_some("not looked at under test pressure")
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::order::{Happening, What};

    fn hold(lasted_s: f64) -> HoldFact {
        HoldFact {
            name: "Hold 1".into(),
            from_ms: 10,
            sections: vec!["line".into()],
            outcome: HoldOutcome::Holds,
            loss_detected: false,
            pressure: 300.0,
            planned: 300.0,
            headline: String::new(),
            lasted_s,
            proves: String::new(),
            too_low: None,
            too_old: None,
        }
    }
    fn look(method: Method, dwell_s: Option<f64>, at_pa: Option<f64>) -> ClearLook {
        ClearLook {
            place: "flare".into(),
            at_ms: 20,
            method,
            dwell_s,
            at_pa,
        }
    }
    fn why(looks: &[ClearLook], tracer: bool, happened: Vec<Happening>) -> Option<&'static str> {
        let place = FinePlace {
            name: "flare".into(),
            sections: vec!["line".into()],
        };
        not_fine(
            &place,
            looks,
            &[hold(1_800.0)],
            tracer,
            &Order::new(happened),
        )
    }

    #[test]
    fn a_look_counts_if_it_is_long_high_and_late() {
        assert_eq!(why(&[], false, vec![]), Some("not looked at with fluid"));
        assert_eq!(
            why(
                &[look(Method::Listen, Some(300.0), Some(300.0))],
                false,
                vec![]
            ),
            Some("not looked at with fluid")
        );
        assert_eq!(
            why(
                &[look(Method::Bubbles, Some(60.0), Some(300.0))],
                false,
                vec![]
            ),
            Some("not looked at for two minutes")
        );
        assert_eq!(
            why(&[look(Method::Bubbles, None, Some(300.0))], false, vec![]),
            Some("not looked at for two minutes")
        );
        assert_eq!(
            why(
                &[look(Method::Bubbles, Some(120.0), Some(280.0))],
                false,
                vec![]
            ),
            Some("not looked at under test pressure")
        );
        assert_eq!(
            why(&[look(Method::Bubbles, Some(120.0), None)], false, vec![]),
            Some("not looked at under test pressure")
        );
        assert_eq!(
            why(
                &[look(Method::Bubbles, Some(120.0), Some(286.0))],
                false,
                vec![]
            ),
            None
        );
        assert!(
            why(
                &[look(Method::Electronic, Some(20.0), Some(300.0))],
                false,
                vec![]
            )
            .is_some()
        );
        assert_eq!(
            why(
                &[look(Method::Electronic, Some(20.0), Some(300.0))],
                true,
                vec![]
            ),
            None
        );
        let mended = Happening {
            at_ms: 30,
            sections: vec![],
            what: What::Mended {
                place: "tee".into(),
            },
        };
        assert_eq!(
            why(
                &[look(Method::Bubbles, Some(120.0), Some(300.0))],
                false,
                vec![mended]
            ),
            Some("looked at before the last repair, opening or fall")
        );
    }

    #[test]
    fn a_day_speaks_for_every_joint() {
        let none = Order::default();
        assert!(by_day(&[hold(90_000.0)], &["line"], &none));
        assert!(!by_day(&[hold(1_800.0)], &["line"], &none));
        assert!(!by_day(&[hold(90_000.0)], &["line", "rack"], &none));
    }
}
