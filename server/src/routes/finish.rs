//! The second half of a job: arrival, charge, ports, start-up, consent, what comes after the signature. What is `tried` is
//! worked out and not kept.

use super::circuits::{confirmed, created, decided};
use crate::body::Body;
use crate::drills::Here;
use crate::error::{ApiError, Refusals};
use crate::service::{Said, now_ms};
use actix_web::{HttpRequest, HttpResponse, post, web};
use ruhe_job::act::{
    AdditionInput, ArrivalInput, BreakInput, ConsentInput, PortsInput, RowInput, SetInput,
    TargetInput, VisitInput, WitnessInput, add_words, arrive, break_vacuum, come_back, consent,
    countersign, keep_ports, keep_target, measure, weigh,
};
use ruhe_job::charge::ScaleInput;
use ruhe_job::people::Right;
use ruhe_job::state::Circuit;
use ruhe_job::tell::{
    ArrivalView, Created, SetView, StopView, TargetView, tried_arrival, tried_set, tried_stop,
    tried_target,
};

/// Keeps how a system was found.
#[utoipa::path(request_body = ArrivalInput, responses((status = 201, body = Created), Refusals))]
#[post("/api/circuits/{id}/arrival")]
pub async fn add_arrival(
    state: Here,
    id: web::Path<String>,
    said: Said,
    body: Body<ArrivalInput>,
) -> Result<HttpResponse, ApiError> {
    let mut b = body.into_inner();
    b.may_answer = said.by.may_answer();
    let rule = move |c: &Circuit, now: i64| arrive(c, b, now);
    Ok(created(decided(&state, id.into_inner(), said, rule).await?))
}

/// Keeps what the maker wants inside.
#[utoipa::path(request_body = TargetInput, responses((status = 201, body = Created), Refusals))]
#[post("/api/circuits/{id}/target")]
pub async fn add_target(
    state: Here,
    id: web::Path<String>,
    said: Said,
    body: Body<TargetInput>,
) -> Result<HttpResponse, ApiError> {
    let rule = move |c: &Circuit, now: i64| keep_target(c, body.0, now);
    Ok(created(decided(&state, id.into_inner(), said, rule).await?))
}

/// Adds a row to the ledger.
#[utoipa::path(request_body = RowInput, responses((status = 201, body = Created), Refusals))]
#[post("/api/circuits/{id}/ledger")]
pub async fn add_row(
    state: Here,
    id: web::Path<String>,
    said: Said,
    body: Body<RowInput>,
) -> Result<HttpResponse, ApiError> {
    let rule = move |c: &Circuit, now: i64| weigh(c, body.0, now);
    Ok(created(decided(&state, id.into_inner(), said, rule).await?))
}

/// Keeps the next version of the register of ports.
#[utoipa::path(request_body = PortsInput, responses((status = 201, body = Created), Refusals))]
#[post("/api/circuits/{id}/ports")]
pub async fn add_ports(
    state: Here,
    id: web::Path<String>,
    said: Said,
    body: Body<PortsInput>,
) -> Result<HttpResponse, ApiError> {
    let rule = move |c: &Circuit, now: i64| keep_ports(c, body.0, now);
    Ok(created(decided(&state, id.into_inner(), said, rule).await?))
}

/// Writes down how the vacuum was broken.
#[utoipa::path(request_body = BreakInput, responses((status = 201, body = Created), Refusals))]
#[post("/api/circuits/{id}/vacuum-broken")]
pub async fn add_break(
    state: Here,
    id: web::Path<String>,
    said: Said,
    body: Body<BreakInput>,
) -> Result<HttpResponse, ApiError> {
    let rule = move |c: &Circuit, now: i64| break_vacuum(c, body.0, now);
    Ok(created(decided(&state, id.into_inner(), said, rule).await?))
}

/// Keeps a reading set of the running unit.
#[utoipa::path(request_body = SetInput, responses((status = 201, body = Created), Refusals))]
#[post("/api/circuits/{id}/sets")]
pub async fn add_set(
    state: Here,
    id: web::Path<String>,
    said: Said,
    body: Body<SetInput>,
) -> Result<HttpResponse, ApiError> {
    let rule = move |c: &Circuit, now: i64| measure(c, body.0, now);
    Ok(created(decided(&state, id.into_inner(), said, rule).await?))
}

/// Keeps a consent.
#[utoipa::path(request_body = ConsentInput, responses((status = 201, body = Created), Refusals))]
#[post("/api/circuits/{id}/consents")]
pub async fn add_consent(
    state: Here,
    id: web::Path<String>,
    said: Said,
    body: Body<ConsentInput>,
) -> Result<HttpResponse, ApiError> {
    let mut b = body.into_inner();
    b.said_by = state.said_by(&said, &b.name).await?;
    let rule = move |c: &Circuit, now: i64| consent(c, b, now);
    Ok(created(decided(&state, id.into_inner(), said, rule).await?))
}

/// A witness signs beside the technician.
#[utoipa::path(request_body = WitnessInput, responses((status = 201, body = Created), Refusals))]
#[post("/api/circuits/{id}/witness")]
pub async fn add_witness(
    state: Here,
    id: web::Path<String>,
    said: Said,
    request: HttpRequest,
    body: Body<WitnessInput>,
) -> Result<HttpResponse, ApiError> {
    // A witness who is known here signs with their own password; a customer who is not signs on this device, by name,
    // and the paper says by whose word.
    let mut b = body.into_inner();
    let token = confirmed(&request);
    let said = if token.is_some() {
        let said = state.signer(said, Right::Countersign, token)?;
        b.name.clone_from(&said.by.name);
        said
    } else {
        b.said_by = state.said_by(&said, &b.name).await?;
        said
    };
    let kept_ms = state.now_ms();
    let rule = move |c: &Circuit, now: i64| countersign(c, &b, now, kept_ms);
    Ok(created(decided(&state, id.into_inner(), said, rule).await?))
}

/// Adds words to a signed visit.
#[utoipa::path(request_body = AdditionInput, responses((status = 201, body = Created), Refusals))]
#[post("/api/circuits/{id}/additions")]
pub async fn add_addition(
    state: Here,
    id: web::Path<String>,
    said: Said,
    body: Body<AdditionInput>,
) -> Result<HttpResponse, ApiError> {
    let mut b = body.into_inner();
    if said.by.role().is_some() {
        b.name.clone_from(&said.by.name);
    }
    let kept_ms = state.now_ms();
    let rule = move |c: &Circuit, now: i64| add_words(c, &b, now, kept_ms);
    Ok(created(decided(&state, id.into_inner(), said, rule).await?))
}

/// Begins the next visit.
#[utoipa::path(request_body = VisitInput, responses((status = 201, body = Created), Refusals))]
#[post("/api/circuits/{id}/visits")]
pub async fn add_visit(
    state: Here,
    id: web::Path<String>,
    said: Said,
    body: Body<VisitInput>,
) -> Result<HttpResponse, ApiError> {
    let rule = move |c: &Circuit, now: i64| come_back(c, &body.0, now);
    Ok(created(decided(&state, id.into_inner(), said, rule).await?))
}

/// What was found, worked out while it is typed.
#[utoipa::path(request_body = ArrivalInput, responses((status = 200, body = ArrivalView), Refusals))]
#[post("/api/circuits/{id}/tried/arrival")]
pub async fn try_arrival(
    state: Here,
    id: web::Path<String>,
    body: Body<ArrivalInput>,
) -> Result<web::Json<ArrivalView>, ApiError> {
    let b = body.into_inner();
    let view = state
        .work(move |s| {
            let shown = s.shown(&id)?;
            Ok(tried_arrival(
                &shown.circuit,
                &b.arrival,
                b.at_ms.unwrap_or_else(now_ms),
            )?)
        })
        .await?;
    Ok(web::Json(view))
}

/// A target, worked out while it is typed.
#[utoipa::path(request_body = TargetInput, responses((status = 200, body = TargetView), Refusals))]
#[post("/api/circuits/{id}/tried/target")]
pub async fn try_target(
    state: Here,
    id: web::Path<String>,
    body: Body<TargetInput>,
) -> Result<web::Json<TargetView>, ApiError> {
    let b = body.into_inner();
    let view = state
        .work(move |s| {
            let shown = s.shown(&id)?;
            Ok(tried_target(&shown.circuit, &b.target)?)
        })
        .await?;
    Ok(web::Json(view))
}

/// The number to stop at, for a scale as it stands there.
#[utoipa::path(request_body = ScaleInput, responses((status = 200, body = StopView), Refusals))]
#[post("/api/circuits/{id}/tried/stop")]
pub async fn try_stop(
    state: Here,
    id: web::Path<String>,
    body: Body<ScaleInput>,
) -> Result<web::Json<StopView>, ApiError> {
    let b = body.into_inner();
    let view = state
        .work(move |s| {
            let shown = s.shown(&id)?;
            Ok(tried_stop(&shown.circuit, &b)?)
        })
        .await?;
    Ok(web::Json(view))
}

/// A reading set, worked out while it is typed.
#[utoipa::path(request_body = SetInput, responses((status = 200, body = SetView), Refusals))]
#[post("/api/circuits/{id}/tried/set")]
pub async fn try_set(
    state: Here,
    id: web::Path<String>,
    body: Body<SetInput>,
) -> Result<web::Json<SetView>, ApiError> {
    let b = body.into_inner();
    let view = state
        .work(move |s| {
            let shown = s.shown(&id)?;
            Ok(tried_set(&shown.circuit, &b.set, s.now_ms())?)
        })
        .await?;
    Ok(web::Json(view))
}
