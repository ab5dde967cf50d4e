//! The leak search: looks and repairs.

use crate::body::Body;
use crate::drills::Here;
use crate::error::{ApiError, Refusals};
use crate::service::Said;
use actix_web::{HttpResponse, post, web};
use ruhe_job::act::{LookInput, RepairInput, look, mend};
use ruhe_job::tell::Created;

/// Logs a look at a place.
#[utoipa::path(request_body = LookInput, responses((status = 201, body = Created), Refusals))]
#[post("/api/circuits/{id}/looks")]
pub async fn add_look(
    state: Here,
    id: web::Path<String>,
    said: Said,
    body: Body<LookInput>,
) -> Result<HttpResponse, ApiError> {
    let acted = state
        .work(move |s| {
            let now = said.happened_ms();
            s.act(&id, &said, |_, c, _| Ok(look(c, body.0, now)?))
        })
        .await?;
    Ok(HttpResponse::Created().json(Created { id: acted.id }))
}

/// Logs a repair; the next hold is its re-test.
#[utoipa::path(request_body = RepairInput, responses((status = 201, body = Created), Refusals))]
#[post("/api/circuits/{id}/repairs")]
pub async fn add_repair(
    state: Here,
    id: web::Path<String>,
    said: Said,
    body: Body<RepairInput>,
) -> Result<HttpResponse, ApiError> {
    let acted = state
        .work(move |s| {
            let now = said.happened_ms();
            s.act(&id, &said, |_, c, _| Ok(mend(c, body.0, now)?))
        })
        .await?;
    Ok(HttpResponse::Created().json(Created { id: acted.id }))
}
