//! What is asked and what is answered, as the page and the server say it to each other.

use ruhe_core::quantity::Units;
use ruhe_job::refusal::Refusal;
use ruhe_job::service::body;
use serde::de::DeserializeOwned;
use serde::{Deserialize, Serialize};
use serde_json::{Value, json};
use std::collections::BTreeMap;

/// A request of the page.
#[derive(Debug, Clone, Default, Deserialize)]
#[serde(default)]
pub struct Request {
    /// GET, POST, PUT or DELETE.
    pub method: String,
    /// Without what follows the question mark.
    pub path: String,
    /// What follows it.
    pub query: BTreeMap<String, String>,
    /// JSON.
    pub body: Value,
    /// `Ruhe-Id`.
    pub id: String,
    /// `Ruhe-Device`.
    pub device: String,
    /// `Ruhe-Clock`: when it was said.
    pub said_ms: Option<i64>,
}

/// An answer.
#[derive(Debug, Clone, Serialize)]
pub struct Reply {
    /// As HTTP counts.
    pub status: u16,
    /// JSON.
    pub body: Value,
}

impl Reply {
    pub(crate) fn of(status: u16, body: &impl Serialize) -> Result<Self, Refusal> {
        Ok(Self {
            status,
            body: serde_json::to_value(body).map_err(|e| Refusal::Broken(e.to_string()))?,
        })
    }
    pub(crate) fn refused(e: &Refusal) -> Self {
        let (status, field) = match e {
            Refusal::Wrong { field, .. } => (422, field.clone()),
            Refusal::Missing(_) => (404, None),
            Refusal::Conflict(_) => (409, None),
            Refusal::Denied(_) => (403, None),
            Refusal::Broken(_) => (500, None),
        };
        Self {
            status,
            body: json!({"message": e.to_string(), "field": field}),
        }
    }
}

impl Request {
    /// The body as the rules take it.
    pub(crate) fn read<T: DeserializeOwned>(&self) -> Result<T, Refusal> {
        body(self.body.clone())
    }
    /// When it was said.
    pub(crate) fn at(&self, now: i64) -> i64 {
        self.said_ms.unwrap_or(now)
    }
    /// The units sentences are asked for in.
    pub(crate) fn units(&self) -> Units {
        let code = |name: &str| self.query.get(name).map(String::as_str);
        Units::of_codes(code("pressure"), code("temperature"), code("vacuum"))
    }
}
