//! One test: plan, look, read, mark, start its clock, end it, strike out, listen to a simulated gauge.

use crate::body::Body;
use crate::drills::Here;
use crate::error::{ApiError, Refusals};
use crate::feed::{listen as listen_to, unlisten as listen_no_more};
use crate::plants::Truth;
use crate::query::{RowsQuery, UnitsQuery};
use crate::service::{Patience, Said, now_ms};
use actix_web::{HttpResponse, delete, get, post, web};
use ruhe_job::act::{
    ClockInput, EventInput, MoveInput, ReadingsInput, StrikeInput, TestInput, check_id,
};
use ruhe_job::service::{self, Keeper as _};
use ruhe_job::tell::{Created, JudgedAgain, StoredView, TableView, TestView};

/// Plans a test; above a plate or the gauge's range it is refused with the reason.
#[utoipa::path(params(UnitsQuery), request_body = TestInput, responses((status = 201, body = Created), Refusals))]
#[post("/api/circuits/{id}/tests")]
pub async fn add_test(
    state: Here,
    id: web::Path<String>,
    q: web::Query<UnitsQuery>,
    said: Said,
    body: Body<TestInput>,
) -> Result<HttpResponse, ApiError> {
    let (b, units) = (body.into_inner(), q.units());
    let acted = state
        .work(move |s| {
            s.act(&id, &said, |desk, c, word| {
                service::plan(desk, c, b.clone(), word, units)
            })
            .and_then(|acted| {
                s.listen_to_kit(&acted.id, &said)?;
                Ok(acted)
            })
        })
        .await?;
    Ok(HttpResponse::Created().json(Created { id: acted.id }))
}

/// Moves a test to the circuit it was made on. Answers with its id there.
#[utoipa::path(request_body = MoveInput, responses((status = 201, body = Created), Refusals))]
#[post("/api/tests/{id}/moved")]
pub async fn move_test(
    state: Here,
    id: web::Path<String>,
    said: Said,
    body: Body<MoveInput>,
) -> Result<HttpResponse, ApiError> {
    let b = body.into_inner();
    let id = state.work(move |s| s.move_test(&id, &b, &said)).await?;
    Ok(HttpResponse::Created().json(Created { id }))
}

/// One test.
#[utoipa::path(params(UnitsQuery), responses((status = 200, body = TestView), Refusals))]
#[get("/api/tests/{id}")]
pub async fn show_test(
    state: Here,
    id: web::Path<String>,
    q: web::Query<UnitsQuery>,
) -> Result<web::Json<TestView>, ApiError> {
    let units = q.units();
    let view = state
        .work(move |s| {
            s.look(Patience::Watched, |desk| {
                service::test(desk, &id, s.now_ms(), units)
            })
        })
        .await?;
    Ok(web::Json(view))
}

/// A test's readings as a table, a row a moment, the newest first.
#[utoipa::path(params(RowsQuery), responses((status = 200, body = TableView), Refusals))]
#[get("/api/tests/{id}/readings")]
pub async fn show_table(
    state: Here,
    id: web::Path<String>,
    q: web::Query<RowsQuery>,
) -> Result<web::Json<TableView>, ApiError> {
    let which = q.rows()?;
    Ok(web::Json(
        state
            .work(move |s| {
                s.look(Patience::Watched, |desk| {
                    service::table(desk, &id, which, q.before_ms)
                })
            })
            .await?,
    ))
}

/// An ended test judged again by this version of the method, beside what was frozen when it ended.
#[utoipa::path(params(UnitsQuery), responses((status = 200, body = JudgedAgain), Refusals))]
#[get("/api/tests/{id}/judged-again")]
pub async fn judged_again(
    state: Here,
    id: web::Path<String>,
    q: web::Query<UnitsQuery>,
) -> Result<web::Json<JudgedAgain>, ApiError> {
    let units = q.units();
    Ok(web::Json(
        state
            .work(move |s| s.look(Patience::Watched, |desk| service::again(desk, &id, units)))
            .await?,
    ))
}

/// Ends a test; what is found is frozen as it stands.
#[utoipa::path(responses((status = 201), Refusals))]
#[post("/api/tests/{id}/end")]
pub async fn end_test(
    state: Here,
    id: web::Path<String>,
    said: Said,
) -> Result<HttpResponse, ApiError> {
    state.work(move |s| s.end_test(&id, &said)).await?;
    Ok(HttpResponse::Created().finish())
}

/// Starts the clock by hand, with a reason; the record says so.
#[utoipa::path(request_body = ClockInput, responses((status = 201, body = Created), Refusals))]
#[post("/api/tests/{id}/clock")]
pub async fn start_clock(
    state: Here,
    id: web::Path<String>,
    said: Said,
    body: Body<ClockInput>,
) -> Result<HttpResponse, ApiError> {
    let acted = state
        .work(move |s| {
            s.act_on(&id, &said, |desk, word| {
                service::start_clock(desk, &id, body.0.clone(), word)
            })
        })
        .await?;
    Ok(HttpResponse::Created().json(Created { id: acted.id }))
}

/// Stores readings, all or none; one sent twice is stored once.
#[utoipa::path(request_body = ReadingsInput, responses((status = 201, body = StoredView), Refusals))]
#[post("/api/tests/{id}/readings")]
pub async fn add_readings(
    state: Here,
    id: web::Path<String>,
    said: Said,
    body: Body<ReadingsInput>,
) -> Result<HttpResponse, ApiError> {
    let (id, b) = (id.into_inner(), body.into_inner());
    let test = id.clone();
    let (circuit, view) = state
        .work(move |s| {
            let said = said.without_id();
            let spoken = said.spoken(s.now_ms());
            s.write_now(&said, |desk| {
                let circuit = desk.circuit_of(&id)?;
                Ok((circuit, service::read(desk, &id, &b, &spoken.word())?))
            })
        })
        .await?;
    state.running.typed(&test);
    state.waiting.note(&circuit, true);
    state.changed(&circuit, Some(&test));
    Ok(HttpResponse::Created().json(view))
}

/// Strikes a reading out; nothing is erased.
#[utoipa::path(request_body = StrikeInput, responses((status = 201), Refusals))]
#[post("/api/readings/{id}/strike")]
pub async fn strike(
    state: Here,
    id: web::Path<String>,
    said: Said,
    body: Body<StrikeInput>,
) -> Result<HttpResponse, ApiError> {
    state
        .work(move |s| {
            let test = s.look(Patience::Any, |desk| {
                let found = desk.reading(&id)?;
                Ok(found
                    .ok_or_else(|| ApiError::Missing("there is no such reading".into()))?
                    .0)
            })?;
            s.act_on(&test, &said, |desk, word| {
                service::strike_reading(desk, &id, &body.0, word)
            })
        })
        .await?;
    Ok(HttpResponse::Created().finish())
}

/// Marks something that was done.
#[utoipa::path(request_body = EventInput, responses((status = 201, body = Created), Refusals))]
#[post("/api/tests/{id}/events")]
pub async fn add_event(
    state: Here,
    id: web::Path<String>,
    said: Said,
    body: Body<EventInput>,
) -> Result<HttpResponse, ApiError> {
    let b = body.into_inner();
    check_id("id", &b.id)?;
    let said = Said {
        said_ms: said.said_ms.or(b.client_ms),
        ..said.with_id(&b.id)
    };
    let acted = state
        .work(move |s| {
            s.act_on(&id, &said, |desk, word| {
                service::mark(desk, &id, b.clone(), word)
            })
        })
        .await?;
    Ok(HttpResponse::Created().json(Created { id: acted.id }))
}

/// Listens to a simulated gauge.
#[utoipa::path(responses((status = 201), Refusals))]
#[post("/api/tests/{id}/gauge")]
pub async fn listen(state: Here, id: web::Path<String>) -> Result<HttpResponse, ApiError> {
    if !state.simulated {
        return Err(ApiError::Conflict(
            "simulated gauges are only in the demo, or where Ruhe was started with them".into(),
        ));
    }
    let id = id.into_inner();
    let (circuit, t) = state
        .work(move |s| {
            s.store.read(|tx| {
                let of = s.circuit_of(tx, &id)?;
                let t = s.folded(tx, &of)?.must_show(&id)?.clone();
                if t.is_over() {
                    return Err(ApiError::Conflict(format!("{} has ended", t.title)));
                }
                Ok((of, t))
            })
        })
        .await?;
    let seed = u64::try_from(now_ms()).unwrap_or(1);
    let truth = Truth::for_kind(t.kind, &t.plan, seed).ok_or_else(|| {
        ApiError::wrong("kind", "there is no simulated gauge for this kind of test")
    })?;
    let (of, test) = (circuit.clone(), t.id.clone());
    state
        .work(move |s| listen_to(s, &of, &t, &truth, now_ms()))
        .await?;
    state.changed(&circuit, Some(&test));
    Ok(HttpResponse::Created().finish())
}

/// Stops listening.
#[utoipa::path(responses((status = 204), Refusals))]
#[delete("/api/tests/{id}/gauge")]
pub async fn unlisten(state: Here, id: web::Path<String>) -> Result<HttpResponse, ApiError> {
    let id = id.into_inner();
    state.work(move |s| listen_no_more(s, &id)).await?;
    Ok(HttpResponse::NoContent().finish())
}
