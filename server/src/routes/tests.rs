//! One test: plan, look, start its clock, end it, listen to a simulated gauge.

use super::summary::{Known, known, title};
use crate::error::ApiError;
use crate::feed::{Plant, listen as listen_to};
use crate::judge::{judge, units_of};
use crate::state::{AppState, fresh_id, now_ms};
use crate::wire::{ChannelView, ClockInput, Created, EventView, Plan, ReadingView, TestInput, TestView, UnitsQuery, channel_row};
use actix_web::{HttpResponse, delete, get, post, web};
use ruhe_core::procedure::{Plate, check_test_pressure};
use ruhe_core::quantity::{GaugePressure, Units};
use ruhe_core::reading::{Channel, Kind, Quantity};
use ruhe_store::rows;

/// Readings sent with a test; all of them are in its data package.
const SHOWN: i64 = 60;

fn check_plan(s: &AppState, circuit: &str, kind: Kind, plan: &Plan, channels: &[Channel]) -> Result<(), ApiError> {
    if kind == Kind::PressureHold {
        let test = plan.test_pa.ok_or_else(|| ApiError::wrong("test_pa", "a hold needs its test pressure"))?;
        let plates: Vec<Plate> = s.store.plates(circuit)?.into_iter().map(|p| Plate { part: p.part, design: GaugePressure::from_pa(p.design_pa) }).collect();
        let range = channels.iter().filter(|c| c.quantity == Quantity::GaugePressure).filter_map(|c| c.range.map(|r| c.unit.to_si(r))).reduce(f64::min);
        check_test_pressure(GaugePressure::from_pa(test), &plates, range.map(GaugePressure::from_pa), Units::default()).map_err(|why| ApiError::wrong("test_pa", why))?;
    }
    if !channels.iter().any(Channel::is_system_pressure) {
        return Err(ApiError::wrong("channels", "a test needs a pressure or vacuum gauge"));
    }
    for (i, c) in channels.iter().enumerate() {
        if channels[..i].iter().any(|o| o.name == c.name) {
            return Err(ApiError::wrong("channels", format!("two channels are called “{}”", c.name)));
        }
    }
    Ok(())
}

/// Plans a test; above a plate or the gauge's range it is refused with the reason.
#[utoipa::path(request_body = TestInput, responses((status = 201, body = Created)))]
#[post("/api/circuits/{id}/tests")]
pub async fn add_test(state: web::Data<AppState>, id: web::Path<String>, body: web::Json<TestInput>) -> Result<HttpResponse, ApiError> {
    let (circuit, b) = (id.into_inner(), body.into_inner());
    let kind = Kind::from_code(&b.kind).ok_or_else(|| ApiError::wrong("kind", format!("the kind must be one of {}", Kind::codes())))?;
    b.plan.check()?;
    let channels = b.channels.iter().map(crate::wire::ChannelInput::parse).collect::<Result<Vec<_>, _>>()?;
    let of = circuit.clone();
    let test = state
        .work(move |s| {
            s.store.circuit(&of)?;
            check_plan(s, &of, kind, &b.plan, &channels)?;
            let test = rows::Test { id: fresh_id(), circuit_id: of, kind: kind.code().into(), attempt: 0, plan: b.plan.json(), created_ms: now_ms() };
            let rows: Vec<rows::Channel> = channels.iter().enumerate().map(|(i, c)| channel_row(c, &test.id, i)).collect();
            Ok(s.store.add_test(test, &rows)?)
        })
        .await?;
    state.changed(&circuit, Some(&test.id));
    Ok(HttpResponse::Created().json(Created { id: test.id }))
}

/// A test as the page shows it.
pub fn test_view(s: &AppState, row: rows::Test, units: Units) -> Result<TestView, ApiError> {
    let Known { row, title, plan, ended_ms, judged, is_live } = known(s, row, units)?;
    let latest = s.store.latest_readings(&row.id, SHOWN)?;
    let channels = s
        .store
        .channels(&row.id)?
        .into_iter()
        .map(|c| {
            let last = latest.iter().find(|(r, struck)| r.channel_id == c.id && struck.is_none());
            ChannelView {
                last: last.map(|(r, _)| r.typed.clone()),
                last_ms: last.map(|(r, _)| r.at_ms),
                id: c.id,
                name: c.name,
                quantity: c.quantity,
                unit: c.unit,
                resolution: c.resolution,
                range: c.range_top,
                position: c.position,
            }
        })
        .collect();
    let is_signed = s.store.signature(&row.circuit_id)?.is_some();
    Ok(TestView {
        channels,
        plan,
        ended_ms,
        verdict: judged.verdict.clone(),
        start_ms: judged.start_ms,
        is_live,
        is_signed,
        title,
        attempt: row.attempt,
        created_ms: row.created_ms,
        reading_count: s.store.evidence_count(&row.id)?.0,
        readings: latest
            .into_iter()
            .map(|(r, struck)| ReadingView {
                id: r.id,
                channel_id: r.channel_id,
                at_ms: r.at_ms,
                typed: r.typed,
                origin: r.origin,
                skewed: r.skewed,
                struck: struck.map(|k| k.reason),
            })
            .collect(),
        events: s.store.events(&row.id)?.into_iter().map(|e| EventView { id: e.id, kind: e.kind, note: e.note, at_ms: e.at_ms }).collect(),
        id: row.id,
        circuit_id: row.circuit_id,
        kind: row.kind,
    })
}

/// One test.
#[utoipa::path(params(UnitsQuery), responses((status = 200, body = TestView)))]
#[get("/api/tests/{id}")]
pub async fn show_test(state: web::Data<AppState>, id: web::Path<String>, q: web::Query<UnitsQuery>) -> Result<web::Json<TestView>, ApiError> {
    let units = units_of(&q);
    Ok(web::Json(
        state
            .work(move |s| {
                let row = s.store.test(&id)?;
                test_view(s, row, units)
            })
            .await?,
    ))
}

/// Ends a test with the verdict of its evidence as it stands.
pub fn end_with_verdict(s: &AppState, row: &rows::Test, at_ms: i64) -> Result<(), ApiError> {
    let judged = judge(s, row, Units::default())?;
    let verdict = &judged.verdict;
    s.store.end_test(&rows::Verdict {
        id: fresh_id(),
        test_id: row.id.clone(),
        engine: verdict.engine_version.clone(),
        json: crate::wire::contract(verdict, &[]).to_string(),
        at_ms,
    })?;
    Ok(())
}

/// Ends a test; its verdict is stored as it stands.
#[utoipa::path(responses((status = 201)))]
#[post("/api/tests/{id}/end")]
pub async fn end_test(state: web::Data<AppState>, id: web::Path<String>) -> Result<HttpResponse, ApiError> {
    let id = id.into_inner();
    state.feeds.stop(&id);
    let row = state
        .work(move |s| {
            let row = s.store.test(&id)?;
            end_with_verdict(s, &row, now_ms())?;
            Ok(row)
        })
        .await?;
    state.changed(&row.circuit_id, Some(&row.id));
    Ok(HttpResponse::Created().finish())
}

/// Starts the clock by hand, with a reason; the record says so.
#[utoipa::path(request_body = ClockInput, responses((status = 201)))]
#[post("/api/tests/{id}/clock")]
pub async fn start_clock(state: web::Data<AppState>, id: web::Path<String>, body: web::Json<ClockInput>) -> Result<HttpResponse, ApiError> {
    let (id, b) = (id.into_inner(), body.into_inner());
    if b.reason.trim().is_empty() {
        return Err(ApiError::wrong("reason", "say why the clock is started by hand"));
    }
    let row = state
        .work(move |s| {
            let row = s.store.test(&id)?;
            s.store.start_clock(&rows::ClockStart { id: fresh_id(), test_id: id, at_ms: b.at_ms, reason: b.reason.trim().into(), received_ms: now_ms() })?;
            Ok(row)
        })
        .await?;
    state.changed(&row.circuit_id, Some(&row.id));
    Ok(HttpResponse::Created().finish())
}

/// Listens to a simulated gauge.
#[utoipa::path(responses((status = 201)))]
#[post("/api/tests/{id}/gauge")]
pub async fn listen(state: web::Data<AppState>, id: web::Path<String>) -> Result<HttpResponse, ApiError> {
    let id = id.into_inner();
    let row = state
        .work(move |s| {
            let row = s.store.test(&id)?;
            if s.store.test_end(&id)?.is_some() {
                return Err(ApiError::Conflict(format!("{} has ended", title(&row))));
            }
            Ok(row)
        })
        .await?;
    let plan = Plan::of_row(&row)?;
    let kind = Kind::from_code(&row.kind).unwrap_or(Kind::PressureHold);
    let plant = Plant::for_kind(kind, plan.test_pa, u64::try_from(now_ms()).unwrap_or(1))
        .ok_or_else(|| ApiError::wrong("kind", "there is no simulated gauge for this kind of test"))?;
    listen_to(&state, &row, plant, now_ms())?;
    state.changed(&row.circuit_id, Some(&row.id));
    Ok(HttpResponse::Created().finish())
}

/// Stops listening.
#[utoipa::path(responses((status = 204)))]
#[delete("/api/tests/{id}/gauge")]
pub async fn unlisten(state: web::Data<AppState>, id: web::Path<String>) -> Result<HttpResponse, ApiError> {
    state.feeds.stop(&id);
    Ok(HttpResponse::NoContent().finish())
}
