//! Readings, strike-outs and events.

use crate::error::ApiError;
use crate::state::{AppState, fresh_id, now_ms};
use crate::wire::{EventInput, ReadingInput, ReadingsInput, StoredView, StrikeInput};
use actix_web::{HttpResponse, post, web};
use ruhe_core::quantity::{Unit, parse_number};
use ruhe_core::reading::{Channel, EventKind, Quantity, impossible};
use ruhe_store::rows;

/// Clocks further apart than this are flagged, ms.
const SKEW: i64 = 5_000;
/// The future a reading may come from: clocks differ, but not by an hour.
const AHEAD: i64 = 3_600_000;

/// Nothing of this trade happened before, ms since 1970: 2000-01-01.
const FIRST: i64 = 946_684_800_000;
/// An event belongs to its test: no earlier than this before it was planned, ms (a hold written down afterwards may be
/// days old).
const BEFORE: i64 = 31 * 86_400_000;

/// A time somebody stated, now if nobody did.
pub fn happened_at(field: &str, stated: Option<i64>) -> Result<i64, ApiError> {
    let now = now_ms();
    let at = stated.unwrap_or(now);
    if (FIRST..=now + AHEAD).contains(&at) {
        Ok(at)
    } else {
        Err(ApiError::wrong(
            field,
            "that time is not one at which anything here can have happened",
        ))
    }
}

/// Parses what was typed for a channel, with the reasons a person can act on.
fn value_of(channel: &rows::Channel, typed: &str, field: &str) -> Result<f64, ApiError> {
    if typed.chars().count() > 40 {
        return Err(ApiError::wrong(field, "that is too long for a reading"));
    }
    let value = parse_number(typed).map_err(|e| ApiError::wrong(field, e.to_string()))?;
    let quantity = Quantity::from_code(&channel.quantity)
        .ok_or_else(|| ApiError::Inside("quantity".into()))?;
    let unit = Unit::from_code(&channel.unit).ok_or_else(|| ApiError::Inside("unit".into()))?;
    let core = Channel::new(&channel.name, quantity, unit);
    if let Some(why) = impossible(&core, core.to_si(value)) {
        return Err(ApiError::wrong(
            field,
            format!("{typed} {} {why}", channel.unit),
        ));
    }
    if let Some(top) = channel.range_top.filter(|top| value > top * 1.001) {
        return Err(ApiError::wrong(
            field,
            format!(
                "{typed} {} is above this gauge's range of {top}",
                channel.unit
            ),
        ));
    }
    Ok(value)
}

fn row(
    r: &ReadingInput,
    i: usize,
    channels: &[rows::Channel],
    test: &str,
    now: i64,
) -> Result<rows::Reading, ApiError> {
    let at = |f: &str| format!("readings.{i}.{f}");
    let channel = channels
        .iter()
        .find(|c| c.id == r.channel_id)
        .ok_or_else(|| ApiError::wrong(&at("channel_id"), "this test has no such channel"))?;
    if r.id.is_empty() || r.id.len() > 64 {
        return Err(ApiError::wrong(
            &at("id"),
            "a reading needs an id of at most 64 letters",
        ));
    }
    let value = value_of(channel, &r.typed, &at("typed"))?;
    let skewed = (now - r.client_ms).abs() > SKEW;
    // A live reading that waited for the network keeps the time it was logged at, by the page's clock.
    let at_ms = r.at_ms.or(r.logged_ms).unwrap_or(r.client_ms);
    if at_ms > now + AHEAD || at_ms < FIRST {
        return Err(ApiError::wrong(
            &at("at_ms"),
            "that time is not one a reading can have",
        ));
    }
    Ok(rows::Reading {
        id: r.id.clone(),
        test_id: test.into(),
        channel_id: channel.id.clone(),
        at_ms,
        typed: r.typed.trim().into(),
        value,
        origin: if r.at_ms.is_some() { "later" } else { "live" }.into(),
        client_ms: Some(r.client_ms),
        received_ms: now,
        skewed,
    })
}

/// Stores readings, all or none; one sent twice is stored once.
#[utoipa::path(request_body = ReadingsInput, responses((status = 201, body = StoredView)))]
#[post("/api/tests/{id}/readings")]
pub async fn add_readings(
    state: web::Data<AppState>,
    id: web::Path<String>,
    body: web::Json<ReadingsInput>,
) -> Result<HttpResponse, ApiError> {
    let (id, b) = (id.into_inner(), body.into_inner());
    let test_id = id.clone();
    let (circuit, view) = state
        .work(move |s| {
            let test = s.store.test(&id)?;
            let channels = s.store.channels(&id)?;
            let now = now_ms();
            let batch = b
                .readings
                .iter()
                .enumerate()
                .map(|(i, r)| row(r, i, &channels, &id, now))
                .collect::<Result<Vec<_>, _>>()?;
            let stored = s.store.add_readings(&batch)?;
            Ok((
                test.circuit_id,
                StoredView {
                    new: stored.new,
                    known: stored.known,
                    skewed: batch.iter().filter(|r| r.skewed).count(),
                },
            ))
        })
        .await?;
    state.changed(&circuit, Some(&test_id));
    Ok(HttpResponse::Created().json(view))
}

/// Strikes a reading out; nothing is erased.
#[utoipa::path(request_body = StrikeInput, responses((status = 201)))]
#[post("/api/readings/{id}/strike")]
pub async fn strike(
    state: web::Data<AppState>,
    id: web::Path<String>,
    body: web::Json<StrikeInput>,
) -> Result<HttpResponse, ApiError> {
    let (id, b) = (id.into_inner(), body.into_inner());
    if b.reason.trim().is_empty() {
        return Err(ApiError::wrong("reason", "say why it is struck out"));
    }
    let (circuit, test) = state
        .work(move |s| {
            let old = s.store.reading(&id)?;
            let now = now_ms();
            let instead = match b
                .instead
                .as_deref()
                .map(str::trim)
                .filter(|t| !t.is_empty())
            {
                None => None,
                Some(typed) => {
                    let channels = s.store.channels(&old.test_id)?;
                    let channel = channels
                        .iter()
                        .find(|c| c.id == old.channel_id)
                        .ok_or_else(|| ApiError::Inside("channel".into()))?;
                    let value = value_of(channel, typed, "instead")?;
                    Some(rows::Reading {
                        id: fresh_id(),
                        typed: typed.into(),
                        value,
                        origin: "corrected".into(),
                        client_ms: None,
                        received_ms: now,
                        skewed: false,
                        ..old.clone()
                    })
                }
            };
            let strike = rows::Strike {
                id: fresh_id(),
                reading_id: id,
                reason: b.reason.trim().chars().take(500).collect(),
                superseded_by: instead.as_ref().map(|r| r.id.clone()),
                at_ms: now,
            };
            let test = s.store.strike(&strike, instead.as_ref())?;
            Ok((s.store.test(&test)?.circuit_id, test))
        })
        .await?;
    state.changed(&circuit, Some(&test));
    Ok(HttpResponse::Created().finish())
}

/// Stores an event.
#[utoipa::path(request_body = EventInput, responses((status = 201)))]
#[post("/api/tests/{id}/events")]
pub async fn add_event(
    state: web::Data<AppState>,
    id: web::Path<String>,
    body: web::Json<EventInput>,
) -> Result<HttpResponse, ApiError> {
    let (id, b) = (id.into_inner(), body.into_inner());
    if EventKind::from_code(&b.kind).is_none() {
        return Err(ApiError::wrong(
            "kind",
            format!("the event must be one of {}", EventKind::codes()),
        ));
    }
    if b.kind == EventKind::Other.code() && b.note.trim().is_empty() {
        return Err(ApiError::wrong("note", "say in a few words what happened"));
    }
    if b.id.is_empty() || b.id.len() > 64 {
        return Err(ApiError::wrong(
            "id",
            "an event needs an id of at most 64 letters",
        ));
    }
    let test_id = id.clone();
    // One that waited for the network keeps the time it was logged at, by the page's clock.
    let at_ms = happened_at("at_ms", b.at_ms.or(b.logged_ms))?;
    let circuit = state
        .work(move |s| {
            let test = s.store.test(&id)?;
            if at_ms < test.created_ms - BEFORE {
                return Err(ApiError::wrong(
                    "at_ms",
                    "that is more than a month before this test",
                ));
            }
            if b.kind == EventKind::SupplyIsolated.code() && b.note.trim().is_empty() {
                super::pressing::over_plan_needs_reason(s, &test, at_ms)?;
            }
            s.store.add_event(&rows::Event {
                id: b.id,
                test_id: id,
                kind: b.kind,
                note: b.note.trim().chars().take(500).collect(),
                at_ms,
                client_ms: b.client_ms,
                received_ms: now_ms(),
            })?;
            Ok(test.circuit_id)
        })
        .await?;
    state.changed(&circuit, Some(&test_id));
    Ok(HttpResponse::Created().finish())
}
