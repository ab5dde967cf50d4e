//! A body: read within the limits that the gate set for its address, and as JSON with the path of the field where it
//! cannot be read.

use crate::error::ApiError;
use crate::people::{Limits, SILENCE, passed};
use actix_web::web::{Bytes, Payload};
use actix_web::{FromRequest, HttpMessage as _, HttpRequest, dev};
use futures_util::StreamExt as _;
use ruhe_core::reading::fault::plain;
use ruhe_job::log::sha256;
use serde::de::DeserializeOwned;
use std::future::Future;
use std::pin::Pin;
use std::sync::{Arc, OnceLock};
use std::time::Instant;

/// A JSON body.
pub struct Body<T>(pub T);

impl<T> Body<T> {
    /// What it says.
    pub fn into_inner(self) -> T {
        self.0
    }
}

/// A body as it comes: a package, a photo, lines of a gauge.
pub struct Raw(pub Bytes);

/// Where the digest of a request is put once its body was read.
#[derive(Default, Clone)]
struct Told(Arc<OnceLock<String>>);

/// The digest of a request: its method, its address, what it says. It is there once the body was read.
pub fn told(request: &HttpRequest) -> Arc<OnceLock<String>> {
    let mut all = request.extensions_mut();
    if all.get::<Told>().is_none() {
        all.insert(Told::default());
    }
    all.get::<Told>().map(|t| t.0.clone()).unwrap_or_default()
}

/// The digest itself. The clock of the moment of sending is left out: it is another the second time.
fn digest(head: &str, bytes: &[u8], is_json: bool) -> String {
    let mut all = format!("{head}\n").into_bytes();
    let plain = if is_json {
        serde_json::from_slice::<serde_json::Value>(bytes)
            .ok()
            .and_then(|mut v| {
                v.as_object_mut().map(|o| o.remove("client_ms"));
                serde_jcs::to_vec(&v).ok()
            })
    } else {
        None
    };
    all.extend_from_slice(plain.as_deref().unwrap_or(bytes));
    sha256(&all)
}

type Read<T> = Pin<Box<dyn Future<Output = Result<T, ApiError>>>>;

fn head(request: &HttpRequest) -> String {
    format!("{} {}", request.method(), request.path())
}

fn content_type(request: &HttpRequest) -> &str {
    let text = request.headers().get("Content-Type");
    let text = text.and_then(|v| v.to_str().ok()).unwrap_or_default();
    text.split(';').next().unwrap_or_default().trim()
}

impl<T: DeserializeOwned + 'static> FromRequest for Body<T> {
    type Error = ApiError;
    type Future = Read<Self>;
    fn from_request(request: &HttpRequest, payload: &mut dev::Payload) -> Self::Future {
        let is_json = content_type(request).eq_ignore_ascii_case("application/json");
        let limits = passed(request).map(|p| p.1);
        let stream = Payload::from_request(request, payload);
        let (head, told) = (head(request), told(request));
        Box::pin(async move {
            if !is_json {
                return Err(ApiError::Unreadable("the request is not JSON".into()));
            }
            let stream = stream
                .await
                .map_err(|e| ApiError::Unreadable(e.to_string()))?;
            let bytes = gather(stream, limits?).await?;
            let _ = told.set(digest(&head, &bytes, true));
            parse(&bytes).map(Body)
        })
    }
}

impl FromRequest for Raw {
    type Error = ApiError;
    type Future = Read<Self>;
    fn from_request(request: &HttpRequest, payload: &mut dev::Payload) -> Self::Future {
        let limits = passed(request).map(|p| p.1);
        // What a form of another page may send without being asked: never taken.
        let kind = content_type(request).to_ascii_lowercase();
        let is_form =
            ["application/x-www-form-urlencoded", "multipart/form-data"].contains(&kind.as_str());
        let stream = Payload::from_request(request, payload);
        let (head, told) = (head(request), told(request));
        Box::pin(async move {
            if is_form {
                return Err(ApiError::Unreadable(
                    "this is a form; send the bytes themselves".into(),
                ));
            }
            let stream = stream
                .await
                .map_err(|e| ApiError::Unreadable(e.to_string()))?;
            let bytes = gather(stream, limits?).await?;
            let _ = told.set(digest(&head, &bytes, false));
            Ok(Raw(bytes))
        })
    }
}

async fn gather(mut stream: Payload, limits: Limits) -> Result<Bytes, ApiError> {
    let begun = Instant::now();
    let slow = || ApiError::Unreadable("the rest of the request did not come in time".into());
    let mut out = Vec::new();
    loop {
        let left = Limits::until(out.len()).saturating_sub(begun.elapsed());
        let next = tokio::time::timeout(left.min(SILENCE), stream.next());
        let Some(part) = next.await.map_err(|_| slow())? else {
            return Ok(out.into());
        };
        let part = part.map_err(|e| ApiError::Unreadable(e.to_string()))?;
        if out.len() + part.len() > limits.bytes {
            let (n, unit) = if limits.bytes < 1 << 20 {
                (limits.bytes >> 10, "kB")
            } else {
                (limits.bytes >> 20, "MB")
            };
            return Err(ApiError::TooLarge(format!(
                "that is larger than {n} {unit}"
            )));
        }
        out.extend_from_slice(&part);
    }
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
