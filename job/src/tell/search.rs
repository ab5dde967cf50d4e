//! The leak search: places with their state, and how high a section must be held again.

use crate::log::{Looked, Mended};
use crate::order::Again;
use crate::search::{LookResult, Method, PlaceState, remark, state as state_of};
use crate::state::{Circuit, Listed, look_of};
use crate::survey::torque;
use ruhe_core::hold::retest;
use ruhe_core::named;
use ruhe_core::quantity::Units;
use serde::Serialize;

named! {
    /// What was done at a place.
    PlaceEvent {
        /// A look.
        Look = "look",
        /// A repair.
        Repair = "repair",
    }
}

#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LookView {
    /// Id of its entry.
    pub id: String,
    pub kind: PlaceEvent,
    /// What was done, in words.
    pub words: String,
    pub remark: Option<String>,
    pub photo_id: Option<String>,
    pub at_ms: i64,
}

#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PlaceView {
    pub name: String,
    /// Why it is listed: "made today", "usual for this job", "added".
    pub why: String,
    /// Sections it may lie in.
    pub sections: Vec<String>,
    pub state: PlaceState,
    pub state_title: String,
    pub is_open: bool,
    pub log: Vec<LookView>,
}

/// How high a section must be held again.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct AgainView {
    pub section: String,
    /// Pa gauge.
    pub at_least_pa: f64,
    pub words: String,
    pub is_met: bool,
    /// The air that both pressures are read against, Pa.
    pub air_pa: f64,
}

#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SearchView {
    pub places: Vec<PlaceView>,
    /// How many nobody has looked at.
    pub not_looked: usize,
    /// What re-tests have to be like, a section each.
    pub retests: Vec<AgainView>,
}

#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct MethodView {
    pub code: Method,
    pub title: String,
    pub hint: String,
    /// Shortest look that says something, s; 0: any.
    pub least_s: f64,
}

fn look_view(id: &str, row: &Looked, u: Units) -> LookView {
    let look = look_of(row);
    let found = match look.finding {
        LookResult::Clear => "nothing found",
        LookResult::Suspect => "suspect",
        LookResult::Leak => "leak",
    };
    let pressure = row
        .at_pa
        .map_or_else(String::new, |p| format!(" at {}", u.gauge(p)));
    let dwell = row
        .dwell_s
        .map_or_else(String::new, |d| format!(" for {}", crate::search::dwell(d)));
    let note = if row.note.is_empty() {
        String::new()
    } else {
        format!(": {}", row.note)
    };
    LookView {
        id: id.into(),
        kind: PlaceEvent::Look,
        words: format!("{}{dwell}{pressure}, {found}{note}", look.method.title()),
        remark: remark(&look),
        photo_id: row.photo_id.clone(),
        at_ms: row.at_ms,
    }
}

fn repair_view(id: &str, row: &Mended) -> LookView {
    let torqued = row
        .torque_nm
        .map_or_else(String::new, |t| format!(", tightened to {}", torque(t)));
    let words = if row.words.is_empty() {
        String::new()
    } else {
        format!(": {}", row.words)
    };
    let torch = if row.with_torch { ", with a torch" } else { "" };
    LookView {
        id: id.into(),
        kind: PlaceEvent::Repair,
        words: format!("mended, {}{words}{torqued}{torch}", row.cause),
        remark: None,
        photo_id: None,
        at_ms: row.at_ms,
    }
}

/// Places of a circuit with their state; what was made today first, open ones on top.
#[must_use]
pub fn search_view(c: &Circuit, u: Units) -> SearchView {
    let order = c.order();
    let mut places: Vec<(PlaceState, PlaceView)> = c
        .places()
        .into_iter()
        .map(|(name, why)| {
            let sections = c.place_sections(&name);
            let now = state_of(&name, &sections, &c.entries_of(&name), &order);
            let view = PlaceView {
                why: match why {
                    Listed::MadeToday => "made today",
                    Listed::Port => "port",
                    Listed::Usual => "usual for this job",
                    Listed::Added => "added",
                }
                .into(),
                sections,
                state: now,
                state_title: now.title().into(),
                is_open: now.is_open(),
                log: place_log(c, &name, u),
                name,
            };
            (now, view)
        })
        .collect();
    // In the order of PlaceState: leaks first, then hits, then what nobody has looked at.
    places.sort_by_key(|(now, _)| PlaceState::ALL.iter().position(|p| p == now));
    let several = c.tested().len() > 1;
    let retests = c
        .tested()
        .into_iter()
        .filter_map(|s| {
            order
                .again(&s)
                .map(|a| again_view(s, &a, (several, c.site_air()), u))
        })
        .collect();
    SearchView {
        not_looked: places
            .iter()
            .filter(|(now, _)| *now == PlaceState::NotLooked)
            .count(),
        places: places.into_iter().map(|p| p.1).collect(),
        retests,
    }
}

/// What was done at a place, in the order of time.
fn place_log(c: &Circuit, place: &str, u: Units) -> Vec<LookView> {
    let looks = c
        .looks
        .iter()
        .filter(|l| l.said.place == place)
        .map(|l| look_view(&l.id, &l.said, u));
    let repairs = c
        .repairs
        .iter()
        .filter(|r| r.said.place == place)
        .map(|r| repair_view(&r.id, &r.said));
    let mut log: Vec<LookView> = looks.chain(repairs).collect();
    log.sort_by_key(|l| l.at_ms);
    log
}

fn again_view(section: String, a: &Again, (several, air): (bool, f64), u: Units) -> AgainView {
    let of = if several {
        format!(" {section}")
    } else {
        String::new()
    };
    let words = match &a.met_by {
        Some(hold) => format!("{hold} has held{of} at least as high as {}.", a.because),
        None if a.at_least <= 0.0 => format!("Hold{of} again after {}.", a.because),
        None => {
            let half = retest(a.at_least + air, 0.5 * a.at_least + air, air).map_or_else(String::new, |r| {
                format!(
                    " At {} it would show only {:.0} to {:.0}\u{a0}% as fast and take {:.0} times as long.",
                    u.gauge(0.5 * a.at_least),
                    100.0 * r.laminar,
                    100.0 * r.choked,
                    r.times_as_long()
                )
            });
            format!(
                "Test{of} again at {} or higher: that is where {} showed it.{half}",
                u.gauge(a.at_least),
                a.because
            )
        }
    };
    AgainView {
        section,
        at_least_pa: a.at_least,
        is_met: a.met_by.is_some(),
        air_pa: air,
        words,
    }
}
