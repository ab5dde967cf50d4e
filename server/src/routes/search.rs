//! The leak search.

use super::summary::Known;
use crate::error::ApiError;
use crate::state::{AppState, fresh_id, now_ms};
use crate::wire::{LookInput, LookView, PlaceView, RepairInput, SearchView, SurveyDoc};
use actix_web::{HttpResponse, post, web};
use ruhe_core::hold::retest;
use ruhe_core::matter::atmosphere::SEA_LEVEL;
use ruhe_core::procedure::JobKind;
use ruhe_core::quantity::Units;
use ruhe_core::reading::Kind;
use ruhe_core::search::{Entry, Finding, Held, Look, Method, PlaceState, remark, state as state_of, typical};
use ruhe_core::survey::torque;
use ruhe_store::rows;

fn look_of(row: &rows::Look) -> Option<Look> {
    Some(Look { method: Method::from_code(&row.method)?, finding: Finding::from_code(&row.finding)?, dwell_s: row.dwell_s })
}

fn look_view(row: &rows::Look, look: Look) -> LookView {
    let found = match look.finding {
        Finding::Clear => "nothing found",
        Finding::Suspect => "suspect",
        Finding::Leak => "leak",
    };
    let dwell = row.dwell_s.map_or_else(String::new, |d| format!(" for {}", ruhe_core::quantity::span(d)));
    let note = if row.note.is_empty() { String::new() } else { format!(": {}", row.note) };
    LookView {
        kind: "look".into(),
        words: format!("{}{dwell}, {found}{note}", look.method.title()),
        remark: remark(&look),
        photo_id: row.photo_id.clone(),
        at_ms: row.at_ms,
    }
}

fn repair_view(row: &rows::Repair) -> LookView {
    let torqued = row.torque_nm.map_or_else(String::new, |t| format!(", tightened to {}", torque(t)));
    let words = if row.words.is_empty() { String::new() } else { format!(": {}", row.words) };
    LookView { kind: "repair".into(), words: format!("mended, {}{words}{torqued}", row.cause), remark: None, photo_id: None, at_ms: row.at_ms }
}

/// Places of a circuit with their state; what was made today first, open ones on top.
pub fn search_view(s: &AppState, circuit: &rows::Circuit, survey: &SurveyDoc, repairs: &[rows::Repair], tests: &[Known], units: Units) -> Result<SearchView, ApiError> {
    let looks = s.store.looks(&circuit.id)?;
    let holds: Vec<(Held, &Known)> = tests
        .iter()
        .filter(|t| t.ended_ms.is_some() && t.row.kind == Kind::PressureHold.code())
        .map(|t| (Held { holds: t.verdict().outcome == "holds", falls: t.verdict().outcome == "falls", pressure: t.held_pa() }, t))
        .collect();
    let held: Vec<Held> = holds.iter().map(|h| h.0).collect();
    let mut names: Vec<(String, &str)> = Vec::new();
    let mut list = |name: String, why: &'static str| {
        if !names.iter().any(|(n, _)| *n == name) {
            names.push((name, why));
        }
    };
    survey.joints.iter().for_each(|j| list(j.name.clone(), "made today"));
    JobKind::from_code(&circuit.kind).map_or(&[][..], typical).iter().for_each(|t| list((*t).into(), "usual for this job"));
    looks.iter().map(|l| &l.place).chain(repairs.iter().map(|r| &r.place)).for_each(|p| list(p.clone(), "added"));
    let mut places: Vec<(PlaceState, PlaceView)> = names
        .into_iter()
        .map(|(name, why)| {
            let mut log: Vec<(i64, Entry, LookView)> = looks
                .iter()
                .filter(|l| l.place == name)
                .filter_map(|l| look_of(l).map(|look| (l.at_ms, Entry::Look(look), look_view(l, look))))
                .chain(
                    repairs
                        .iter()
                        .filter(|r| r.place == name)
                        .map(|r| (r.at_ms, Entry::Repair { after_holds: usize::try_from(r.holds_before).unwrap_or(0) }, repair_view(r))),
                )
                .collect();
            log.sort_by_key(|e| e.0);
            let entries: Vec<Entry> = log.iter().map(|e| e.1).collect();
            let now = state_of(&entries, &held);
            let view = PlaceView {
                name,
                why: why.into(),
                state: now.code().into(),
                state_title: now.title().into(),
                is_open: matches!(now, PlaceState::Leak | PlaceState::Unconfirmed),
                log: log.into_iter().map(|e| e.2).collect(),
            };
            (now, view)
        })
        .collect();
    // In the order of PlaceState: leaks first, then hits, then what nobody has looked at.
    places.sort_by_key(|(now, _)| PlaceState::ALL.iter().position(|p| p == now));
    let fell = holds.iter().filter(|(h, _)| h.falls).max_by(|a, b| a.0.pressure.total_cmp(&b.0.pressure));
    Ok(SearchView {
        not_looked: places.iter().filter(|(now, _)| *now == PlaceState::NotLooked).count(),
        places: places.into_iter().map(|p| p.1).collect(),
        found_pa: fell.map(|(h, _)| h.pressure),
        retest: fell.map(|(h, t)| retest_words(h.pressure, &t.title, units)),
    })
}

fn retest_words(pressure: f64, title: &str, u: Units) -> String {
    let air = SEA_LEVEL.pa();
    let half = retest(pressure + air, 0.5 * pressure + air, air).map_or_else(String::new, |r| {
        format!(
            " At {} it would show only {:.0} to {:.0}\u{a0}% as fast and take {:.0} times as long.",
            u.gauge(0.5 * pressure),
            100.0 * r.laminar,
            100.0 * r.choked,
            r.times_as_long()
        )
    });
    format!("{title} showed the leak at {}: test again at least as high.{half}", u.gauge(pressure))
}

fn words(field: &str, text: &str, most: usize) -> Result<String, ApiError> {
    match text.trim() {
        "" => Err(ApiError::wrong(field, "this must be filled in")),
        t if t.chars().count() > most => Err(ApiError::wrong(field, format!("at most {most} letters"))),
        t => Ok(t.into()),
    }
}

/// Logs a look at a place.
#[utoipa::path(request_body = LookInput, responses((status = 201)))]
#[post("/api/circuits/{id}/looks")]
pub async fn add_look(state: web::Data<AppState>, id: web::Path<String>, body: web::Json<LookInput>) -> Result<HttpResponse, ApiError> {
    let (circuit, b) = (id.into_inner(), body.into_inner());
    if Method::from_code(&b.method).is_none() {
        return Err(ApiError::wrong("method", format!("the method must be one of {}", Method::codes())));
    }
    if Finding::from_code(&b.finding).is_none() {
        return Err(ApiError::wrong("finding", format!("the finding must be one of {}", Finding::codes())));
    }
    if b.dwell_s.is_some_and(|d| !(d.is_finite() && d > 0.0 && d < 1e6)) {
        return Err(ApiError::wrong("dwell_s", "the time must be above zero"));
    }
    let row = rows::Look {
        id: fresh_id(),
        circuit_id: circuit.clone(),
        place: words("place", &b.place, 120)?,
        method: b.method,
        finding: b.finding,
        dwell_s: b.dwell_s,
        note: b.note.trim().chars().take(500).collect(),
        photo_id: b.photo_id,
        at_ms: now_ms(),
    };
    state
        .work(move |s| {
            s.store.circuit(&row.circuit_id)?;
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
pub async fn add_repair(state: web::Data<AppState>, id: web::Path<String>, body: web::Json<RepairInput>) -> Result<HttpResponse, ApiError> {
    let (circuit, b) = (id.into_inner(), body.into_inner());
    if b.torque_nm.is_some_and(|t| !(t.is_finite() && t > 0.0 && t < 1e3)) {
        return Err(ApiError::wrong("torque_nm", "the torque must be above zero"));
    }
    let (place, cause) = (words("place", &b.place, 120)?, words("cause", &b.cause, 200)?);
    let of = circuit.clone();
    state
        .work(move |s| {
            s.store.circuit(&of)?;
            let holds = s.store.tests_of(&of)?.iter().filter(|t| t.kind == Kind::PressureHold.code() && matches!(s.store.test_end(&t.id), Ok(Some(_)))).count();
            Ok(s.store.add_repair(&rows::Repair {
                id: fresh_id(),
                circuit_id: of,
                place,
                cause,
                words: b.words.trim().chars().take(1000).collect(),
                torque_nm: b.torque_nm,
                holds_before: i32::try_from(holds).unwrap_or(0),
                at_ms: now_ms(),
            })?)
        })
        .await?;
    state.changed(&circuit, None);
    Ok(HttpResponse::Created().finish())
}
