//! One error for all handlers: a status, a sentence, and where it belongs. Innards are logged, never shown.

use actix_web::{HttpResponse, ResponseError, http::StatusCode};
use ruhe_core::reading::Fault;
use ruhe_job::refusal::Refusal;
use ruhe_store::StoreError;
use serde::Serialize;
use utoipa::ToSchema;

/// What a refused request gets.
#[derive(Debug, Serialize, ToSchema)]
pub struct Problem {
    /// What is wrong, for the person who sent it.
    pub message: String,
    /// Field of the request it belongs to, if one.
    pub field: Option<String>,
}

/// The refusals any route may answer with.
#[derive(utoipa::IntoResponses)]
#[allow(dead_code)] // it only describes
pub enum Refusals {
    /// It cannot be read at all.
    #[response(status = 400)]
    Unreadable(#[to_schema] Problem),
    /// Nobody is signed in.
    #[response(status = 401)]
    SignIn(#[to_schema] Problem),
    /// Not from here, or not allowed.
    #[response(status = 403)]
    Forbidden(#[to_schema] Problem),
    /// There is no such thing.
    #[response(status = 404)]
    Missing(#[to_schema] Problem),
    /// It does not go with what has happened already.
    #[response(status = 409)]
    Conflict(#[to_schema] Problem),
    /// Too large.
    #[response(status = 413)]
    TooLarge(#[to_schema] Problem),
    /// It can be read, but is wrong.
    #[response(status = 422)]
    Wrong(#[to_schema] Problem),
    /// Too often; `Retry-After` says when again.
    #[response(status = 429)]
    TooMany(#[to_schema] Problem),
    /// Something went wrong in Ruhe.
    #[response(status = 500)]
    Inside(#[to_schema] Problem),
}

#[derive(Debug, thiserror::Error)]
pub enum ApiError {
    /// Cannot be read at all.
    #[error("{0}")]
    Unreadable(String),
    /// Can be read, but is wrong.
    #[error("{message}")]
    Wrong {
        field: Option<String>,
        message: String,
    },
    #[error("{0}")]
    Missing(String),
    #[error("{0}")]
    Conflict(String),
    #[error("{0}")]
    Forbidden(String),
    /// Nobody is signed in.
    #[error("{0}")]
    SignIn(String),
    /// Too often.
    #[error("{message}")]
    TooMany { message: String, wait_s: u64 },
    #[error("{0}")]
    TooLarge(String),
    /// What is kept is not as it was kept.
    #[error("{0}")]
    Changed(String),
    #[error("something went wrong in Ruhe; the log has the details")]
    Inside(String),
}

impl ApiError {
    pub fn wrong(field: &str, message: impl Into<String>) -> Self {
        Self::Wrong {
            field: Some(field.into()),
            message: message.into(),
        }
    }
}

impl From<StoreError> for ApiError {
    fn from(e: StoreError) -> Self {
        match e {
            StoreError::Missing(_) => Self::Missing(e.to_string()),
            StoreError::Closed(_) | StoreError::Conflict(_) => Self::Conflict(e.to_string()),
            StoreError::Open(_) | StoreError::Database(_) => Self::Inside(e.to_string()),
        }
    }
}

impl From<Refusal> for ApiError {
    fn from(r: Refusal) -> Self {
        match r {
            Refusal::Wrong { field, message } => Self::Wrong { field, message },
            Refusal::Missing(_) => Self::Missing(r.to_string()),
            Refusal::Conflict(why) => Self::Conflict(why),
            Refusal::Denied(why) => Self::Forbidden(why),
            Refusal::Broken(why) => Self::Inside(why),
        }
    }
}

impl From<Fault> for ApiError {
    fn from(f: Fault) -> Self {
        Self::Wrong {
            field: f.column.clone(),
            message: f.to_string(),
        }
    }
}

impl From<actix_web::error::BlockingError> for ApiError {
    fn from(e: actix_web::error::BlockingError) -> Self {
        Self::Inside(e.to_string())
    }
}

impl ResponseError for ApiError {
    fn status_code(&self) -> StatusCode {
        match self {
            Self::Unreadable(_) => StatusCode::BAD_REQUEST,
            Self::Wrong { .. } => StatusCode::UNPROCESSABLE_ENTITY,
            Self::Missing(_) => StatusCode::NOT_FOUND,
            Self::Conflict(_) | Self::Changed(_) => StatusCode::CONFLICT,
            Self::Forbidden(_) => StatusCode::FORBIDDEN,
            Self::SignIn(_) => StatusCode::UNAUTHORIZED,
            Self::TooMany { .. } => StatusCode::TOO_MANY_REQUESTS,
            Self::TooLarge(_) => StatusCode::PAYLOAD_TOO_LARGE,
            Self::Inside(_) => StatusCode::INTERNAL_SERVER_ERROR,
        }
    }
    fn error_response(&self) -> HttpResponse {
        if let Self::Inside(details) = self {
            tracing::error!(details, "request failed");
        }
        let field = if let Self::Wrong { field, .. } = self {
            field.clone()
        } else {
            None
        };
        let mut reply = HttpResponse::build(self.status_code());
        if let Self::TooMany { wait_s, .. } = self {
            reply.insert_header(("Retry-After", wait_s.to_string()));
        }
        reply.json(Problem {
            message: self.to_string(),
            field,
        })
    }
}
