//! The kit as its page shows it.

use super::run::{TestRow, test_row};
use crate::kit::{KitDoc, KitKind, KitUsed, RigChecked};
use crate::state::{Circuit, KitState, KitThing, Test};
use ruhe_core::judge::say;
use ruhe_core::quantity::Units;
use ruhe_core::reading::Kind;
use ruhe_core::words::Shape;
use serde::Serialize;

/// A thing as the page shows it.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct KitItem {
    pub id: String,
    pub kind_title: String,
    /// Its facts in words.
    pub words: String,
    /// Of a rig: its last finished check, in words.
    pub checked: Option<String>,
    /// Something to mind: a calibration that has run out, hoses that gave off gas.
    pub warning: Option<String>,
    pub changed_ms: i64,
    pub doc: KitDoc,
    /// Blank-off tests, of a rig.
    pub tests: Vec<TestRow>,
}

#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct KitView {
    pub items: Vec<KitItem>,
    /// What falls due within [`SOON`] days or is due, the first one first.
    pub due: Vec<DueView>,
}

/// Something that has to be calibrated.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct DueView {
    pub id: String,
    /// "Calibration of the far gauge runs out on 2027-03-31, in 12 days".
    pub words: String,
    pub is_past: bool,
}

/// So many days ahead one wants to know: a laboratory takes weeks (common practice, no source).
pub const SOON: i32 = 60;

fn due_views(kit: &KitState, today: jiff::civil::Date) -> Vec<DueView> {
    let mut due: Vec<(jiff::civil::Date, DueView)> = kit
        .things
        .iter()
        .filter(|t| !t.doc.is_retired)
        .filter_map(|t| {
            let day = t.doc.due()?;
            let left = today.until(day).ok()?.get_days();
            let when = match left {
                ..0 => format!("ran out on {day}"),
                0 => "runs out today".to_owned(),
                1 => "runs out tomorrow".to_owned(),
                n => format!("runs out on {day}, in {n} days"),
            };
            let view = DueView {
                id: t.id.clone(),
                words: format!("Calibration of {} {when}.", t.doc.name),
                is_past: left < 0,
            };
            (left <= SOON).then_some((day, view))
        })
        .collect();
    due.sort_by_key(|d| d.0);
    due.into_iter().map(|d| d.1).collect()
}

/// The kit, with the circuits of its rigs (whose id is that of the rig), on this day.
#[must_use]
pub fn kit_view(kit: &KitState, rigs: &[Circuit], today: jiff::civil::Date, u: Units) -> KitView {
    KitView {
        items: kit
            .things
            .iter()
            .map(|t| kit_item(kit, t, rigs.iter().find(|r| r.id == t.id), today, u))
            .collect(),
        due: due_views(kit, today),
    }
}

/// One thing of the kit, with the circuit of its tests if it is a rig.
#[must_use]
pub fn kit_item(
    kit: &KitState,
    thing: &KitThing,
    rig: Option<&Circuit>,
    today: jiff::civil::Date,
    u: Units,
) -> KitItem {
    let doc = &thing.doc;
    let tests: Vec<TestRow> = rig.map_or_else(Vec::new, |r| {
        r.tests.iter().map(|t| test_row(r, t, u)).collect()
    });
    let last = tests.iter().rev().find(|t| t.ended_ms.is_some());
    let is_bad = |t: &&TestRow| matches!(t.shape, Shape::Notch | Shape::Falling);
    let warning = if doc.is_overdue(today) {
        Some("Its calibration has run out.".to_owned())
    } else {
        last.filter(is_bad).map(|t| {
            format!(
                "{}: {}. Do not judge a system through it.",
                t.title,
                t.word.to_lowercase()
            )
        })
    };
    let checked = rig.and_then(RigChecked::of).map(|c| check_words(&c, u));
    let words = facts(doc, |id| kit.find(id).map(|p| p.doc.name.as_str()));
    KitItem {
        id: thing.id.clone(),
        kind_title: doc.kind.title().into(),
        words,
        checked,
        warning,
        changed_ms: thing.changed_ms,
        doc: doc.clone(),
        tests,
    }
}

/// The facts of a thing in words; of a rig the names of its parts.
fn facts<'a>(doc: &KitDoc, name: impl Fn(&String) -> Option<&'a str>) -> String {
    if doc.kind == KitKind::Rig {
        let parts: Vec<&str> = doc.parts.iter().filter_map(name).collect();
        parts.join(", ")
    } else {
        doc.words()
    }
}

fn check_words(c: &RigChecked, u: Units) -> String {
    let said = say(&c.finding, u);
    format!(
        "{}: {}, {}",
        Test::name(Kind::RigCheck, c.attempt),
        said.word.to_lowercase(),
        said.headline
    )
}

/// A thing that a test used, as it was then.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct UsedView {
    pub name: String,
    /// Its facts, and of a rig what its last check was worth.
    pub words: String,
}

/// What a test used, in the words of these units.
#[must_use]
pub fn used_views(used: &[KitUsed], u: Units) -> Vec<UsedView> {
    let name = |id: &String| {
        let part = used.iter().find(|p| p.id == *id);
        part.map(|p| p.doc.name.as_str())
    };
    used.iter()
        .map(|x| UsedView {
            name: x.doc.name.clone(),
            words: [
                Some(facts(&x.doc, name)).filter(|w| !w.is_empty()),
                x.checked.as_ref().map(|c| check_words(c, u)),
            ]
            .into_iter()
            .flatten()
            .collect::<Vec<_>>()
            .join("; "),
        })
        .collect()
}
