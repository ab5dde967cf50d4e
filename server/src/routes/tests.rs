//! One test: plan, look, start its clock, end it, listen to a simulated gauge.

use super::summary::{Known, due_ms, known, off_at_ms, read_at_ms, title};
use crate::error::ApiError;
use crate::feed::{Plant, listen as listen_to};
use crate::judge::{judge, units_of};
use crate::state::{AppState, fresh_id, now_ms};
use crate::wire::{ChannelView, ClockInput, Created, EventView, Plan, PressView, ReadingView, TestInput, TestView, UnitsQuery, channel_row};
use actix_web::{HttpResponse, delete, get, post, web};
use ruhe_core::procedure::{Binds, Rating, StrengthTest, check_test_pressure, press_steps, pressing};
use ruhe_core::quantity::{GaugePressure, Units};
use ruhe_core::reading::{Channel, EventKind, Kind, Quantity, Series};
use ruhe_core::survey::{Behind, Survey};
use ruhe_store::rows;

/// Readings sent with a test; all of them are in its data package.
const SHOWN: i64 = 60;

/// The section a plan names, else the survey's first.
fn section_of(plan: &Plan, survey: &Survey) -> Option<String> {
    plan.section.clone().or_else(|| survey.sections.first().cloned())
}

fn check_plan(survey: &Survey, kind: Kind, plan: &Plan, channels: &[Channel], units: Units) -> Result<(), ApiError> {
    if kind == Kind::PressureHold {
        let test = plan.test_pa.ok_or_else(|| ApiError::wrong("test_pa", "a hold needs its test pressure"))?;
        let section = section_of(plan, survey).unwrap_or_default();
        if !survey.sections.contains(&section) {
            return Err(ApiError::wrong("section", format!("the survey has no section “{section}”")));
        }
        let mut ratings: Vec<Rating> = survey.ratings(&section).into_iter().map(|(n, p)| Rating::plate(&n, p)).collect();
        ratings.extend(
            channels
                .iter()
                .filter(|c| c.quantity == Quantity::GaugePressure)
                .filter_map(|c| c.range.map(|r| Rating::gauge(&format!("the gauge “{}”", c.name), GaugePressure::from_pa(c.unit.to_si(r))))),
        );
        let tool = |name: &str, kind, pa: Option<f64>| pa.map(|p| Rating { name: name.into(), kind, most: GaugePressure::from_pa(p) });
        ratings.extend(tool("the weakest fitting", Binds::Fitting, plan.fittings_pa));
        ratings.extend(tool("the regulator", Binds::Regulator, plan.regulator_pa));
        let strength = plan.strength.as_ref().map(|s| StrengthTest { code: s.code.clone(), edition: s.edition.clone(), factor: s.factor, reason: s.reason.clone() });
        check_test_pressure(GaugePressure::from_pa(test), &ratings, strength.as_ref(), units).map_err(|why| ApiError::wrong("test_pa", why))?;
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

/// The section's volume and what bounds it, from the survey as it is now, so that the verdict does not change when the
/// survey does.
pub fn with_survey(survey: &Survey, circuit: &rows::Circuit, mut plan: Plan) -> Plan {
    let section = section_of(&plan, survey);
    if let Some(name) = &section
        && plan.volume_l.is_none()
        && plan.volume_low_l.is_none()
        && circuit.volume_l.is_none()
        && (!survey.components.is_empty() || !survey.runs.is_empty())
    {
        let v = survey.volume(name);
        (plan.volume_low_l, plan.volume_high_l) = (Some(v.low), Some(v.high));
    }
    if let Some(name) = &section
        && plan.behind.is_none()
        && survey.bounds(name).iter().any(|v| v.behind == Behind::FactoryCharge)
    {
        plan.behind = Some(Behind::FactoryCharge.code().into());
    }
    plan.section = section;
    plan
}

/// Where one is while pressing up: from what was read so far, until the supply is said to be shut.
fn press_view(s: &AppState, t: &Known, units: Units) -> Result<Option<PressView>, ApiError> {
    let r = t.judged.recording();
    let is_pressing = t.ended_ms.is_none() && r.settings.awaits_isolation && r.last_event(EventKind::SupplyIsolated).is_none();
    let Some(target) = t.plan.test_pa.filter(|_| is_pressing) else { return Ok(None) };
    let (survey, _) = super::survey::survey_of(s, &t.row.circuit_id)?;
    let ceiling = survey.view(0)?.sections.into_iter().find(|x| t.plan.section.as_ref().is_none_or(|n| *n == x.name)).and_then(|x| x.ceiling_pa);
    let sides: Vec<(Series, f64)> = r.channels_of(Quantity::GaugePressure).map(|i| (r.series(i), r.channels[i].resolution_si().unwrap_or(689.0))).collect();
    let steps = press_steps(target);
    let now: Vec<f64> = sides.iter().filter_map(|(s, _)| s.v.last().copied()).collect();
    let digit = sides.iter().map(|s| s.1).fold(0.0, f64::max);
    // Since when the step that is reached now has been reached.
    let reached = steps.iter().rev().find(|s| now.iter().all(|p| *p >= 0.98 * s.to_pa));
    let since = reached.and_then(|step| sides.first().and_then(|(s, _)| s.t.iter().zip(&s.v).find(|(_, v)| **v >= 0.98 * step.to_pa).map(|(t, _)| *t)));
    let for_s = since.map(|at| (now_ms() - t.judged.start_ms) as f64 / 1e3 - at);
    let p = pressing(&steps, ceiling, &now, for_s, false, digit, units);
    Ok(Some(PressView {
        headline: p.headline,
        words: p.words,
        steps_pa: steps.iter().map(|s| s.to_pa).collect(),
        done: p.step,
        is_over: p.over_plan.is_some() || p.over_ceiling.is_some(),
    }))
}

/// Plans a test; above a plate or the gauge's range it is refused with the reason.
#[utoipa::path(params(UnitsQuery), request_body = TestInput, responses((status = 201, body = Created)))]
#[post("/api/circuits/{id}/tests")]
pub async fn add_test(state: web::Data<AppState>, id: web::Path<String>, q: web::Query<UnitsQuery>, body: web::Json<TestInput>) -> Result<HttpResponse, ApiError> {
    let (circuit, b) = (id.into_inner(), body.into_inner());
    let kind = Kind::from_code(&b.kind).ok_or_else(|| ApiError::wrong("kind", format!("the kind must be one of {}", Kind::codes())))?;
    b.plan.check()?;
    let channels = b.channels.iter().map(crate::wire::ChannelInput::parse).collect::<Result<Vec<_>, _>>()?;
    let (of, units) = (circuit.clone(), units_of(&q));
    let test = state
        .work(move |s| {
            let circuit = s.store.circuit(&of)?.circuit;
            let survey = super::survey::survey_of(s, &of)?.0.parse()?;
            check_plan(&survey, kind, &b.plan, &channels, units)?;
            let plan = super::kit::with_kit(s, &circuit, with_survey(&survey, &circuit, b.plan))?;
            let test = rows::Test { id: fresh_id(), circuit_id: of, kind: kind.code().into(), attempt: 0, plan: plan.json(), created_ms: now_ms() };
            let rows: Vec<rows::Channel> = channels.iter().enumerate().map(|(i, c)| channel_row(c, &test.id, i)).collect();
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
    let argued = super::argue::argued_view(s, &known, units)?;
    let (due, read_at, off_at) = (due_ms(&known), read_at_ms(&known), off_at_ms(&known));
    let Known { row, title, plan, ended_ms, judged, is_live } = known;
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
        argued,
        channels,
        plan,
        ended_ms,
        verdict: judged.verdict.clone(),
        start_ms: judged.start_ms,
        press,
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
    let plant =
        Plant::for_kind(kind, &plan, u64::try_from(now_ms()).unwrap_or(1)).ok_or_else(|| ApiError::wrong("kind", "there is no simulated gauge for this kind of test"))?;
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
