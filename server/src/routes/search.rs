//! The leak search.

use super::dossier::{Dossier, look_of};
use super::readings::happened_at;
use crate::error::ApiError;
use crate::state::{AppState, fresh_id};
use crate::wire::{AgainView, LookInput, LookView, PlaceView, RepairInput, SearchView};
use actix_web::{HttpResponse, post, web};
use ruhe_core::hold::retest;
use ruhe_core::matter::atmosphere::SEA_LEVEL;
use ruhe_core::order::Again;
use ruhe_core::quantity::Units;
use ruhe_core::search::{
    Finding, Look, Method, PlaceState, may_use_torch, remark, state as state_of, typical,
};
use ruhe_core::survey::torque;
use ruhe_store::rows;

fn look_view(row: &rows::Look, look: Look, u: Units) -> LookView {
    let found = match look.finding {
        Finding::Clear => "nothing found",
        Finding::Suspect => "suspect",
        Finding::Leak => "leak",
    };
    let pressure = row
        .at_pa
        .map_or_else(String::new, |p| format!(" at {}", u.gauge(p)));
    let dwell = row.dwell_s.map_or_else(String::new, |d| {
        format!(" for {}", ruhe_core::quantity::span(d))
    });
    let note = if row.note.is_empty() {
        String::new()
    } else {
        format!(": {}", row.note)
    };
    LookView {
        kind: "look".into(),
        words: format!("{}{dwell}{pressure}, {found}{note}", look.method.title()),
        remark: remark(&look),
        photo_id: row.photo_id.clone(),
        at_ms: row.at_ms,
    }
}

fn repair_view(row: &rows::Repair) -> LookView {
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
        kind: "repair".into(),
        words: format!("mended, {}{words}{torqued}{torch}", row.cause),
        remark: None,
        photo_id: None,
        at_ms: row.at_ms,
    }
}

/// Places of a circuit with their state; what was made today first, open ones on top.
pub fn search_view(d: &Dossier, u: Units) -> SearchView {
    let mut names: Vec<(String, &str)> = Vec::new();
    let mut list = |name: &str, why: &'static str| {
        if !names.iter().any(|(n, _)| n == name) {
            names.push((name.into(), why));
        }
    };
    d.doc
        .joints
        .iter()
        .for_each(|j| list(&j.name, "made today"));
    typical(d.kind())
        .iter()
        .for_each(|t| list(t, "usual for this job"));
    d.looks
        .iter()
        .map(|l| &l.place)
        .chain(d.repairs.iter().map(|r| &r.place))
        .for_each(|p| list(p, "added"));
    let order = d.order();
    let mut places: Vec<(PlaceState, PlaceView)> = names
        .into_iter()
        .map(|(name, why)| {
            let sections = d.place_sections(&name);
            let now = state_of(&name, &sections, &d.entries_of(&name), &order);
            let looks = d
                .looks
                .iter()
                .filter(|l| l.place == name)
                .filter_map(|l| Some(look_view(l, look_of(l)?, u)));
            let mut log: Vec<LookView> = looks
                .chain(
                    d.repairs
                        .iter()
                        .filter(|r| r.place == name)
                        .map(repair_view),
                )
                .collect();
            log.sort_by_key(|l| l.at_ms);
            let view = PlaceView {
                why: why.into(),
                sections,
                state: now.code().into(),
                state_title: now.title().into(),
                is_open: now.is_open(),
                log,
                name,
            };
            (now, view)
        })
        .collect();
    // In the order of PlaceState: leaks first, then hits, then what nobody has looked at.
    places.sort_by_key(|(now, _)| PlaceState::ALL.iter().position(|p| p == now));
    let several = d.tested().len() > 1;
    let retests = d
        .tested()
        .into_iter()
        .filter_map(|s| order.again(&s).map(|a| again_view(s, &a, several, u)))
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

fn again_view(section: String, a: &Again, several: bool, u: Units) -> AgainView {
    let air = SEA_LEVEL.pa();
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
        words,
    }
}

fn words(field: &str, text: &str, most: usize) -> Result<String, ApiError> {
    match text.trim() {
        "" => Err(ApiError::wrong(field, "this must be filled in")),
        t if t.chars().count() > most => {
            Err(ApiError::wrong(field, format!("at most {most} letters")))
        }
        t => Ok(t.into()),
    }
}

/// The sections of a place; a section that the survey does not have is refused.
fn known_section(d: &Dossier, place: &str, stated: Option<&str>) -> Result<Vec<String>, ApiError> {
    match stated.filter(|x| !d.survey.sections.iter().any(|s| s == x)) {
        Some(x) => Err(ApiError::wrong(
            "section",
            format!("the survey has no section “{x}”"),
        )),
        None => Ok(d.sections_of_place(place, stated)),
    }
}

/// Logs a look at a place.
#[utoipa::path(request_body = LookInput, responses((status = 201)))]
#[post("/api/circuits/{id}/looks")]
pub async fn add_look(
    state: web::Data<AppState>,
    id: web::Path<String>,
    body: web::Json<LookInput>,
) -> Result<HttpResponse, ApiError> {
    let (circuit, b) = (id.into_inner(), body.into_inner());
    if Method::from_code(&b.method).is_none() {
        return Err(ApiError::wrong(
            "method",
            format!("the method must be one of {}", Method::codes()),
        ));
    }
    if Finding::from_code(&b.finding).is_none() {
        return Err(ApiError::wrong(
            "finding",
            format!("the finding must be one of {}", Finding::codes()),
        ));
    }
    if b.dwell_s
        .is_some_and(|d| !(d.is_finite() && d > 0.0 && d < 1e6))
    {
        return Err(ApiError::wrong("dwell_s", "the time must be above zero"));
    }
    if b.at_pa.is_some_and(|p| !p.is_finite()) {
        return Err(ApiError::wrong("at_pa", "the pressure must be a number"));
    }
    let mut row = rows::Look {
        id: fresh_id(),
        circuit_id: circuit.clone(),
        place: words("place", &b.place, 120)?,
        section: b.section,
        method: b.method,
        finding: b.finding,
        dwell_s: b.dwell_s,
        at_pa: b.at_pa,
        note: b.note.trim().chars().take(500).collect(),
        photo_id: b.photo_id,
        at_ms: happened_at("at_ms", b.at_ms)?,
    };
    state
        .work(move |s| {
            let d = Dossier::read(s, &row.circuit_id, Units::default())?;
            let sections = known_section(&d, &row.place, row.section.as_deref())?;
            row.at_pa = row.at_pa.or_else(|| d.pressure_now(&sections));
            if let Some(p) = &row.photo_id {
                s.store.photo(p)?;
            }
            Ok(s.store.add_look(&row)?)
        })
        .await?;
    state.changed(&circuit, None);
    Ok(HttpResponse::Created().finish())
}

/// Logs a repair; the next hold is its re-test.
#[utoipa::path(request_body = RepairInput, responses((status = 201)))]
#[post("/api/circuits/{id}/repairs")]
pub async fn add_repair(
    state: web::Data<AppState>,
    id: web::Path<String>,
    body: web::Json<RepairInput>,
) -> Result<HttpResponse, ApiError> {
    let (circuit, b) = (id.into_inner(), body.into_inner());
    if b.torque_nm
        .is_some_and(|t| !(t.is_finite() && t > 0.0 && t < 1e3))
    {
        return Err(ApiError::wrong(
            "torque_nm",
            "the torque must be above zero",
        ));
    }
    let (place, cause) = (
        words("place", &b.place, 120)?,
        words("cause", &b.cause, 200)?,
    );
    let of = circuit.clone();
    let at_ms = happened_at("at_ms", b.at_ms)?;
    state
        .work(move |s| {
            let d = Dossier::read(s, &of, Units::default())?;
            known_section(&d, &place, b.section.as_deref())?;
            if b.with_torch {
                may_use_torch(d.pressure_left(), b.is_safe, Units::default())
                    .map_err(|why| ApiError::wrong("is_safe", why))?;
            }
            Ok(s.store.add_repair(&rows::Repair {
                id: fresh_id(),
                circuit_id: of,
                place,
                cause,
                words: b.words.trim().chars().take(1000).collect(),
                torque_nm: b.torque_nm,
                section: b.section,
                with_torch: b.with_torch,
                at_ms,
            })?)
        })
        .await?;
    state.changed(&circuit, None);
    Ok(HttpResponse::Created().finish())
}
