//! The charge: how a system was found, what the maker wants, the ledger, breaking the vacuum. What is `tried` is
//! worked out and not kept.

use super::verb::*;
use ruhe_job::act::{ArrivalInput, BreakInput, RowInput, TargetInput};
use ruhe_job::charge::ScaleInput;
use ruhe_job::tell::{ArrivalView, StopView, TargetView, tried_arrival, tried_stop, tried_target};

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
    /// Writes down how the vacuum was broken.
    add_break, "/api/circuits/{id}/vacuum-broken", BreakInput
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
                b.at_ms.unwrap_or_else(|| s.now_ms()),
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
