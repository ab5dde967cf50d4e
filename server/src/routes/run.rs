//! One test: plan, look, start its clock, end it, listen to a simulated gauge.

use super::dossier::Dossier;
use super::planning::{check_order, check_plan, with_survey};
use super::pressing::{next_step, press_view, watch_view};
use super::readings::happened_at;
use super::summary::{Known, due_ms, known, off_at_ms, read_at_ms, title};
use crate::error::ApiError;
use crate::feed::{Plant, listen as listen_to};
use crate::judge::{judge, units_of};
use crate::state::{AppState, fresh_id, now_ms};
use crate::wire::{
    ChannelView, ClockInput, Created, EventView, Plan, ReadingView, TestInput, TestView,
    UnitsQuery, channel_row,
};
use actix_web::{HttpResponse, delete, get, post, web};
use ruhe_core::quantity::Units;
use ruhe_core::reading::Kind;
use ruhe_store::rows;

/// Readings sent with a test; all of them are in its data package.
const SHOWN: i64 = 60;

/// Plans a test; above a plate or the gauge's range it is refused with the reason.
#[utoipa::path(params(UnitsQuery), request_body = TestInput, responses((status = 201, body = Created)))]
#[post("/api/circuits/{id}/tests")]
pub async fn add_test(
    state: web::Data<AppState>,
    id: web::Path<String>,
    q: web::Query<UnitsQuery>,
    body: web::Json<TestInput>,
) -> Result<HttpResponse, ApiError> {
    let (circuit, b) = (id.into_inner(), body.into_inner());
    let kind = Kind::from_code(&b.kind).ok_or_else(|| {
        ApiError::wrong("kind", format!("the kind must be one of {}", Kind::codes()))
    })?;
    b.plan.check()?;
    let channels = b
        .channels
        .iter()
        .map(crate::wire::ChannelInput::parse)
        .collect::<Result<Vec<_>, _>>()?;
    let (of, units) = (circuit.clone(), units_of(&q));
    let test = state
        .work(move |s| {
            let d = Dossier::read(s, &of, units)?;
            let circuit = &d.place.circuit;
            check_order(&d, kind, units)?;
            check_plan(&d.survey, kind, &b.plan, &channels, units)?;
            let plan = super::kit::with_kit(
                s,
                circuit,
                with_survey(&d.survey, circuit, kind, &channels, b.plan),
            )?;
            let test = rows::Test {
                id: fresh_id(),
                circuit_id: of,
                kind: kind.code().into(),
                attempt: 0,
                plan: plan.json(),
                created_ms: now_ms(),
            };
            let rows: Vec<rows::Channel> = channels
                .iter()
                .enumerate()
                .map(|(i, c)| channel_row(c, &test.id, i))
                .collect();
            Ok(s.store.add_test(test, &rows)?)
        })
        .await?;
    state.changed(&circuit, Some(&test.id));
    Ok(HttpResponse::Created().json(Created { id: test.id }))
}

/// A test as the page shows it.
pub fn test_view(s: &AppState, row: rows::Test, units: Units) -> Result<TestView, ApiError> {
    let known = known(s, row, units)?;
    let press = press_view(s, &known, units)?;
    let watch = watch_view(&known, units);
    let next = next_step(&known, press.as_ref(), watch.as_ref());
    let argued = super::argue::argued_view(s, &known, units)?;
    let (due, read_at, off_at) = (due_ms(&known), read_at_ms(&known), off_at_ms(&known));
    let Known {
        row,
        title,
        plan,
        ended_ms,
        judged,
        is_live,
    } = known;
    let latest = s.store.latest_readings(&row.id, SHOWN)?;
    let channels = s
        .store
        .channels(&row.id)?
        .into_iter()
        .map(|c| {
            let last = latest
                .iter()
                .find(|(r, struck)| r.channel_id == c.id && struck.is_none());
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
    let has_simulated = plan.is_simulated || s.store.is_simulated(&row.id)?;
    Ok(TestView {
        argued,
        channels,
        plan,
        ended_ms,
        verdict: judged.verdict.clone(),
        start_ms: judged.start_ms,
        press,
        watch,
        next,
        has_simulated,
        due_ms: due,
        read_at_ms: read_at,
        off_at_ms: off_at,
        is_live,
        is_signed,
        title,
        attempt: row.attempt,
        created_ms: row.created_ms,
        reading_count: judged.stored,
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
        events: s
            .store
            .events(&row.id)?
            .into_iter()
            .map(|e| EventView {
                id: e.id,
                kind: e.kind,
                note: e.note,
                at_ms: e.at_ms,
            })
            .collect(),
        id: row.id,
        circuit_id: row.circuit_id,
        kind: row.kind,
    })
}

/// One test.
#[utoipa::path(params(UnitsQuery), responses((status = 200, body = TestView)))]
#[get("/api/tests/{id}")]
pub async fn show_test(
    state: web::Data<AppState>,
    id: web::Path<String>,
    q: web::Query<UnitsQuery>,
) -> Result<web::Json<TestView>, ApiError> {
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
pub async fn end_test(
    state: web::Data<AppState>,
    id: web::Path<String>,
) -> Result<HttpResponse, ApiError> {
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
pub async fn start_clock(
    state: web::Data<AppState>,
    id: web::Path<String>,
    body: web::Json<ClockInput>,
) -> Result<HttpResponse, ApiError> {
    let (id, b) = (id.into_inner(), body.into_inner());
    if b.reason.trim().is_empty() {
        return Err(ApiError::wrong(
            "reason",
            "say why the clock is started by hand",
        ));
    }
    let at_ms = happened_at("at_ms", Some(b.at_ms))?;
    let row = state
        .work(move |s| {
            let row = s.store.test(&id)?;
            s.store.start_clock(&rows::ClockStart {
                id: fresh_id(),
                test_id: id,
                at_ms,
                reason: b.reason.trim().into(),
                received_ms: now_ms(),
            })?;
            Ok(row)
        })
        .await?;
    state.changed(&row.circuit_id, Some(&row.id));
    Ok(HttpResponse::Created().finish())
}

/// Listens to a simulated gauge.
#[utoipa::path(responses((status = 201)))]
#[post("/api/tests/{id}/gauge")]
pub async fn listen(
    state: web::Data<AppState>,
    id: web::Path<String>,
) -> Result<HttpResponse, ApiError> {
    if !state.simulated {
        return Err(ApiError::Forbidden(
            "simulated gauges are only in the demo, or where Ruhe was started with them".into(),
        ));
    }
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
    let plant =
        Plant::for_kind(kind, &plan, u64::try_from(now_ms()).unwrap_or(1)).ok_or_else(|| {
            ApiError::wrong("kind", "there is no simulated gauge for this kind of test")
        })?;
    listen_to(&state, &row, plant, now_ms())?;
    state.changed(&row.circuit_id, Some(&row.id));
    Ok(HttpResponse::Created().finish())
}

/// Stops listening.
#[utoipa::path(responses((status = 204)))]
#[delete("/api/tests/{id}/gauge")]
pub async fn unlisten(
    state: web::Data<AppState>,
    id: web::Path<String>,
) -> Result<HttpResponse, ApiError> {
    state.feeds.stop(&id);
    Ok(HttpResponse::NoContent().finish())
}
