//! The kit, and procedures of one's own.

use crate::body::{Body, Raw};
use crate::drills::Here;
use crate::error::{ApiError, Refusals};
use crate::query::UnitsQuery;
use crate::service::{Said, today};
use actix_web::{HttpResponse, get, post, put, web};
use ruhe_job::kit::{InUse, KitDoc};
use ruhe_job::tell::{Created, KitView, ProcedureInput, kit_view};

/// The kit as it is now, rigs with their tests.
#[utoipa::path(params(UnitsQuery), responses((status = 200, body = KitView), Refusals))]
#[get("/api/kit")]
pub async fn show_kit(
    state: Here,
    q: web::Query<UnitsQuery>,
) -> Result<web::Json<KitView>, ApiError> {
    let units = q.units();
    let view = state
        .work(move |s| {
            s.store.read(|tx| {
                let (kit, rigs) = (s.kit(tx)?, s.rigs(tx)?);
                Ok::<_, ApiError>(kit_view(&kit, &rigs, today(), units))
            })
        })
        .await?;
    Ok(web::Json(view))
}

/// Registers a thing of the kit.
#[utoipa::path(request_body = KitDoc, responses((status = 201, body = Created), Refusals))]
#[post("/api/kit")]
pub async fn add_kit(
    state: Here,
    said: Said,
    body: Body<KitDoc>,
) -> Result<HttpResponse, ApiError> {
    let id = state.work(move |s| s.keep_kit(None, body.0, &said)).await?;
    Ok(HttpResponse::Created().json(Created { id }))
}

/// Keeps a photo of a certificate (JPEG, PNG or WebP), for a thing of the kit to name.
#[utoipa::path(request_body(content = Vec<u8>, content_type = "application/octet-stream"),
    responses((status = 201, body = Created), Refusals))]
#[post("/api/kit/photos")]
pub async fn add_certificate(state: Here, said: Said, body: Raw) -> Result<HttpResponse, ApiError> {
    let id = state
        .work(move |s| s.keep_certificate(&body.0, &said))
        .await?;
    Ok(HttpResponse::Created().json(Created { id }))
}

/// Changes a thing: its next version. Tests keep what it was when they used it.
#[utoipa::path(request_body = KitDoc, responses((status = 201, body = Created), Refusals))]
#[put("/api/kit/{id}")]
pub async fn change_kit(
    state: Here,
    id: web::Path<String>,
    said: Said,
    body: Body<KitDoc>,
) -> Result<HttpResponse, ApiError> {
    let id = state
        .work(move |s| s.keep_kit(Some(&id), body.0, &said))
        .await?;
    Ok(HttpResponse::Created().json(Created { id }))
}

/// Keeps a procedure; the same code again is its next version.
#[utoipa::path(request_body = ProcedureInput, responses((status = 201, body = Created), Refusals))]
#[post("/api/procedures")]
pub async fn add_procedure(
    state: Here,
    said: Said,
    body: Body<ProcedureInput>,
) -> Result<HttpResponse, ApiError> {
    let id = state.work(move |s| s.keep_procedure(body.0, &said)).await?;
    Ok(HttpResponse::Created().json(Created { id }))
}

/// What of the kit is on which circuit now.
#[utoipa::path(responses((status = 200, body = Vec<InUse>), Refusals))]
#[get("/api/kit/in-use")]
pub async fn kit_in_use(state: Here) -> Result<web::Json<Vec<InUse>>, ApiError> {
    Ok(web::Json(
        state.work(|s| s.store.read(super::today::in_use)).await?,
    ))
}
