//! A JSON body, with the path of the field where it cannot be read.

use crate::error::ApiError;
use actix_web::web::{Bytes, Payload};
use actix_web::{FromRequest, HttpRequest, dev};
use futures_util::StreamExt as _;
use ruhe_core::reading::fault::plain;
use serde::de::DeserializeOwned;
use std::future::Future;
use std::pin::Pin;

/// Largest JSON body, bytes (a day of logger CSV fits).
const JSON: usize = 24 << 20;
/// Largest package or photo, bytes.
pub const PACKAGE: usize = 64 << 20;

/// A JSON body.
pub struct Body<T>(pub T);

impl<T> Body<T> {
    /// What it says.
    pub fn into_inner(self) -> T {
        self.0
    }
}

impl<T: DeserializeOwned + 'static> FromRequest for Body<T> {
    type Error = ApiError;
    type Future = Pin<Box<dyn Future<Output = Result<Self, ApiError>>>>;
    fn from_request(request: &HttpRequest, payload: &mut dev::Payload) -> Self::Future {
        let is_json = request
            .headers()
            .get("Content-Type")
            .and_then(|v| v.to_str().ok())
            .is_some_and(|t| t.trim_start().starts_with("application/json"));
        let stream = Payload::from_request(request, payload);
        Box::pin(async move {
            if !is_json {
                return Err(ApiError::Unreadable("the request is not JSON".into()));
            }
            let stream = stream
                .await
                .map_err(|e| ApiError::Unreadable(e.to_string()))?;
            let bytes = gather(stream).await?;
            parse(&bytes).map(Body)
        })
    }
}

async fn gather(mut stream: Payload) -> Result<Bytes, ApiError> {
    let mut out = Vec::new();
    while let Some(part) = stream.next().await {
        let part = part.map_err(|e| ApiError::Unreadable(e.to_string()))?;
        if out.len() + part.len() > JSON {
            return Err(ApiError::TooLarge(format!(
                "that is larger than {} MB",
                JSON >> 20
            )));
        }
        out.extend_from_slice(&part);
    }
    Ok(out.into())
}

fn parse<T: DeserializeOwned>(bytes: &[u8]) -> Result<T, ApiError> {
    let mut de = serde_json::Deserializer::from_slice(bytes);
    let value = serde_path_to_error::deserialize(&mut de).map_err(|e| {
        let path = e.path().to_string().replace(['[', ']'], ".");
        let path = path.replace("..", ".").trim_matches('.').to_owned();
        let inner = e.into_inner();
        if inner.is_data() {
            ApiError::Wrong {
                field: Some(path).filter(|p| !p.is_empty()),
                message: plain(&inner.to_string()),
            }
        } else {
            ApiError::Unreadable(format!("the request cannot be read: {inner}"))
        }
    })?;
    de.end()
        .map_err(|e| ApiError::Unreadable(format!("the request cannot be read: {e}")))?;
    Ok(value)
}
