//! The survey and its photos.

use crate::error::ApiError;
use crate::state::{AppState, fresh_id, now_ms};
use crate::wire::{Created, SurveyDoc, SurveyInput, SurveyView};
use actix_web::{HttpResponse, get, post, put, web};
use ruhe_store::rows;

/// Largest photo, bytes.
const PHOTO: usize = 8 << 20;

/// The newest survey of a circuit.
pub fn survey_of(s: &AppState, circuit: &str) -> Result<(SurveyDoc, i64), ApiError> {
    let (json, version) = s.store.survey(circuit)?;
    let doc = json
        .map(|j| serde_json::from_str(&j))
        .transpose()
        .map_err(|e| ApiError::Inside(format!("survey of {circuit}: {e}")))?;
    Ok((doc.unwrap_or_default(), version))
}

/// Keeps a new version of the survey; the old ones stay.
#[utoipa::path(request_body = SurveyInput, responses((status = 200, body = SurveyView)))]
#[put("/api/circuits/{id}/survey")]
pub async fn put_survey(
    state: web::Data<AppState>,
    id: web::Path<String>,
    body: web::Json<SurveyInput>,
) -> Result<web::Json<SurveyView>, ApiError> {
    let (id, b) = (id.into_inner(), body.into_inner());
    let circuit = id.clone();
    let view = state
        .work(move |s| {
            s.store.circuit(&id)?;
            let view = b.survey.view(b.version + 1)?;
            let json =
                serde_json::to_string(&view.survey).map_err(|e| ApiError::Inside(e.to_string()))?;
            s.store.add_survey(&id, &json, b.version, now_ms())?;
            Ok(view)
        })
        .await?;
    state.changed(&circuit, None);
    Ok(web::Json(view))
}

fn kind_of(bytes: &[u8]) -> Option<&'static str> {
    match bytes {
        [0xff, 0xd8, 0xff, ..] => Some("image/jpeg"),
        [0x89, b'P', b'N', b'G', ..] => Some("image/png"),
        [
            b'R',
            b'I',
            b'F',
            b'F',
            _,
            _,
            _,
            _,
            b'W',
            b'E',
            b'B',
            b'P',
            ..,
        ] => Some("image/webp"),
        _ => None,
    }
}

/// Keeps a photo (JPEG, PNG or WebP).
#[utoipa::path(request_body(content = Vec<u8>, content_type = "application/octet-stream"), responses((status = 201, body = Created)))]
#[post("/api/circuits/{id}/photos")]
pub async fn add_photo(
    state: web::Data<AppState>,
    id: web::Path<String>,
    body: web::Bytes,
) -> Result<HttpResponse, ApiError> {
    let circuit = id.into_inner();
    if body.len() > PHOTO {
        return Err(ApiError::TooLarge(format!(
            "a photo may have {} MB; take it smaller",
            PHOTO >> 20
        )));
    }
    let mime = kind_of(&body)
        .ok_or_else(|| ApiError::wrong("photo", "this is not a JPEG, PNG or WebP picture"))?;
    let row = rows::Photo {
        id: fresh_id(),
        circuit_id: circuit.clone(),
        mime: mime.into(),
        bytes: body.to_vec(),
        at_ms: now_ms(),
    };
    let photo = row.id.clone();
    state
        .work(move |s| {
            s.store.circuit(&row.circuit_id)?;
            Ok(s.store.add_photo(&row)?)
        })
        .await?;
    state.changed(&circuit, None);
    Ok(HttpResponse::Created().json(Created { id: photo }))
}

/// A photo; it never changes.
#[utoipa::path(responses((status = 200, content_type = "image/jpeg")))]
#[get("/api/photos/{id}")]
pub async fn show_photo(
    state: web::Data<AppState>,
    id: web::Path<String>,
) -> Result<HttpResponse, ApiError> {
    let photo = state.work(move |s| Ok(s.store.photo(&id)?)).await?;
    Ok(HttpResponse::Ok()
        .content_type(photo.mime)
        .insert_header(("Cache-Control", "private, max-age=31536000, immutable"))
        .body(photo.bytes))
}
