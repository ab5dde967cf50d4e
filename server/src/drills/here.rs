//! Where a request belongs: to the jobs, or to one drill.

use super::one::Drill;
use crate::error::ApiError;
use crate::people::passed;
use crate::state::AppState;
use actix_web::body::MessageBody;
use actix_web::dev::{Payload, ServiceRequest, ServiceResponse};
use actix_web::http::Uri;
use actix_web::middleware::Next;
use actix_web::{Error, FromRequest, HttpMessage as _, HttpRequest, ResponseError as _};
use std::future::{Ready, ready};
use std::ops::Deref;
use std::sync::Arc;

/// The state that a request works on: that of the jobs, or of the drill it was sent to. The gate let it through.
#[derive(Clone)]
pub struct Here(AppState);

impl Deref for Here {
    type Target = AppState;
    fn deref(&self) -> &AppState {
        &self.0
    }
}

impl FromRequest for Here {
    type Error = ApiError;
    type Future = Ready<Result<Self, ApiError>>;
    fn from_request(request: &HttpRequest, _: &mut Payload) -> Self::Future {
        let drill = request.extensions().get::<Arc<Drill>>().cloned();
        ready(passed(request).map(|(house, _)| match drill {
            Some(d) => {
                // Looked at by whoever may: its clock goes on.
                d.seen();
                Self(d.state.clone())
            }
            None => Self(house),
        }))
    }
}

/// The drill that a request was sent to, by its id. The gate looks it up, for whoever may.
pub struct InDrill(pub String);

/// `/drill/ID/api/…` is `/api/…` of that drill.
///
/// # Errors
/// What is further in.
pub async fn into_drill(
    mut request: ServiceRequest,
    next: Next<impl MessageBody + 'static>,
) -> Result<ServiceResponse<impl MessageBody>, Error> {
    let path = request
        .uri()
        .path_and_query()
        .map_or("/", |p| p.as_str())
        .to_owned();
    let inside = path
        .strip_prefix("/drill/")
        .and_then(|rest| rest.split_once('/'))
        .filter(|(_, rest)| rest.starts_with("api/"));
    if let Some((id, rest)) = inside {
        let Ok(uri) = format!("/{rest}").parse::<Uri>() else {
            let e = ApiError::Missing("there is nothing at this address".into());
            return Ok(request
                .into_response(e.error_response())
                .map_into_right_body());
        };
        request.extensions_mut().insert(InDrill(id.to_owned()));
        request.match_info_mut().get_mut().update(&uri);
        request.head_mut().uri = uri;
    }
    Ok(next.call(request).await?.map_into_left_body())
}
