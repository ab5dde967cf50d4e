//! The second half of a job: arrival, charge, ports, start-up, consent, what comes after the signature. What is
//! `tried` is worked out and not kept.

use super::circuits::{confirmed, decided, verb};
use crate::body::Body;
use crate::drills::Here;
use crate::error::{ApiError, Refusals};
use crate::service::{Said, now_ms};
use actix_web::{HttpRequest, HttpResponse, post, web};
use ruhe_job::act::{
    AdditionInput, ArrivalInput, BreakInput, ConsentInput, PortsInput, RowInput, SetInput,
    TargetInput, VisitInput, WitnessInput,
};
use ruhe_job::charge::ScaleInput;
use ruhe_job::people::Right;
use ruhe_job::tell::{
    ArrivalView, Created, SetView, StopView, TargetView, tried_arrival, tried_set, tried_stop,
    tried_target,
};

verb! {
    /// Keeps how a system was found.
    add_arrival, "/api/circuits/{id}/arrival", ArrivalInput
}
verb! {
    /// Keeps what the maker wants inside.
    add_target, "/api/circuits/{id}/target", TargetInput
}
verb! {
    /// Adds a row to the ledger.
    add_row, "/api/circuits/{id}/ledger", RowInput
}
verb! {
    /// Keeps the next version of the register of ports.
    add_ports, "/api/circuits/{id}/ports", PortsInput
}
verb! {
    /// Writes down how the vacuum was broken.
    add_break, "/api/circuits/{id}/vacuum-broken", BreakInput
}
verb! {
    /// Keeps a reading set of the running unit.
    add_set, "/api/circuits/{id}/sets", SetInput
}
verb! {
    /// Adds words to a signed visit.
    add_addition, "/api/circuits/{id}/additions", AdditionInput
}
verb! {
    /// Begins the next visit.
    add_visit, "/api/circuits/{id}/visits", VisitInput
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
    state.must_be_unknown(&said, &body.0.name).await?;
    decided(&state, id.into_inner(), said, body.0).await
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
    let said = match confirmed(&request) {
        Some(token) => state.signer(said, Right::Countersign, Some(token))?,
        None => {
            state.must_be_unknown(&said, &body.0.name).await?;
            said
        }
    };
    decided(&state, id.into_inner(), said, body.0).await
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
