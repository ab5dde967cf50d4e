//! The running unit: its reading sets, kept and tried.

use super::verb::*;
use ruhe_job::act::SetInput;
use ruhe_job::tell::{SetView, tried_set};

verb! {
    /// Keeps a reading set of the running unit.
    add_set, "/api/circuits/{id}/sets", SetInput
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
