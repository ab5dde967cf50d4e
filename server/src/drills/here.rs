//! Where a request belongs: to the jobs, or to one drill.

use super::one::Drill;
use crate::error::ApiError;
use crate::people::Identity;
use crate::state::AppState;
use actix_web::body::MessageBody;
use actix_web::dev::{Payload, ServiceRequest, ServiceResponse};
use actix_web::http::Uri;
use actix_web::middleware::Next;
use actix_web::{Error, FromRequest, HttpMessage as _, HttpRequest, ResponseError as _, web};
use std::future::{Ready, ready};
use std::ops::Deref;
use std::sync::Arc;

/// The state that a request works on: that of the jobs, or of the drill it was sent to.
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
        ready(match drill {
            Some(d) => {
                let who = request
                    .extensions()
                    .get::<Identity>()
                    .map(|i| i.person.clone());
                if d.who.person.is_none() || d.who.person == who {
                    // Looked at by whoever may: its clock goes on.
                    d.seen();
                    Ok(Self(d.state.clone()))
                } else {
                    Err(ApiError::Forbidden("this drill is somebody else's".into()))
                }
            }
            None => request
                .app_data::<web::Data<AppState>>()
                .map(|s| Self(AppState::clone(s)))
                .ok_or_else(|| ApiError::Inside("there is no state".into())),
        })
    }
}

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
        let main = request.app_data::<web::Data<AppState>>().cloned();
        let id = id.to_owned();
        let found = match main {
            Some(main) => {
                let find = move |s: &AppState| match &s.drills {
                    Some(all) => all.get(s, &id),
                    None => Err(ApiError::Missing("there are no drills here".into())),
                };
                main.work(find).await
            }
            None => Err(ApiError::Inside("there is no state".into())),
        };
        match found {
            Ok(drill) => {
                request.extensions_mut().insert(drill);
            }
            Err(e) => {
                return Ok(request
                    .into_response(e.error_response())
                    .map_into_right_body());
            }
        }
        let uri: Uri = format!("/{rest}")
            .parse()
            .map_err(|_| ApiError::Missing("there is nothing at this address".into()))?;
        request.match_info_mut().get_mut().update(&uri);
        request.head_mut().uri = uri;
    }
    Ok(next.call(request).await?.map_into_left_body())
}
