//! Around a signature: consents, witnesses, words added, the next visit.

use super::verb::*;
use actix_web::HttpRequest;
use ruhe_job::act::{AdditionInput, ConsentInput, VisitInput, WitnessInput};
use ruhe_job::people::Right;

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
