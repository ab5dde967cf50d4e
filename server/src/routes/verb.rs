//! A verb by its address: what its route needs, whichever noun it belongs to.

pub(super) use crate::body::Body;
pub(super) use crate::drills::Here;
pub(super) use crate::error::{ApiError, Refusals};
pub(super) use crate::service::Said;
pub(super) use actix_web::{HttpResponse, post, web};
pub(super) use ruhe_job::tell::Created;

use crate::state::AppState;
use actix_web::HttpRequest;
use ruhe_job::service::{Acted, Verb};

/// Lets the rule of a verb decide about a circuit, and answers with the id of what was kept.
pub(super) async fn decided<V: Verb + Send + 'static>(
    state: &AppState,
    circuit: String,
    said: Said,
    body: V,
) -> Result<HttpResponse, ApiError> {
    let acted = state
        .work(move |s| {
            s.act(&circuit, &said, |_, c, word| {
                Ok(body.clone().decide(c, word)?)
            })
        })
        .await?;
    Ok(created(acted))
}

/// The address of a verb: its document, its name here, its path, what it takes.
macro_rules! verb {
    ($(#[$said:meta])* $name:ident, $path:tt, $input:ident) => {
        $(#[$said])*
        #[utoipa::path(request_body = $input, responses((status = 201, body = Created), Refusals))]
        #[post($path)]
        pub async fn $name(
            state: Here,
            id: web::Path<String>,
            said: Said,
            body: Body<$input>,
        ) -> Result<HttpResponse, ApiError> {
            decided(&state, id.into_inner(), said, body.0).await
        }
    };
}
pub(super) use verb;

/// The token that says that whoever signs was asked just now.
pub(super) fn confirmed(request: &HttpRequest) -> Option<&str> {
    request
        .headers()
        .get("Ruhe-Confirmed")
        .and_then(|v| v.to_str().ok())
}

pub(super) fn created(acted: Acted) -> HttpResponse {
    HttpResponse::Created().json(Created { id: acted.id })
}
