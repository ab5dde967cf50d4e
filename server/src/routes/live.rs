//! What changed, as it changes. The page asks again for what it shows; it reconnects and catches up by itself.

use crate::drills::Here;
use crate::error::{ApiError, Refusals};
use crate::people::{House, Identity, place_of};
use crate::query::LiveQuery;
use crate::state::ChangedBy;
use actix_web::http::header::{CACHE_CONTROL, ContentEncoding};
use actix_web::{HttpRequest, HttpResponse, get, web};
use futures_util::stream::unfold;
use serde::Serialize;
use std::collections::HashMap;
use std::convert::Infallible;
use std::time::{Duration, Instant};
use tokio::sync::broadcast::error::RecvError;

/// Server-sent events: one for every change of what the page shows. It ends with the session it was opened in.
#[utoipa::path(params(LiveQuery), responses((status = 200, content_type = "text/event-stream"), Refusals))]
#[get("/api/live")]
pub async fn live(
    state: Here,
    house: House,
    who: Option<Identity>,
    request: HttpRequest,
    q: web::Query<LiveQuery>,
) -> Result<HttpResponse, ApiError> {
    let session = who.map(|w| w.session);
    let (held, mut ended) = house
        .streams
        .open(session.as_deref(), &place_of(&request))?;
    let of = q.into_inner().circuit;
    let mut changes = state.live.subscribe();
    let (tx, rx) = tokio::sync::mpsc::channel(32);
    actix_web::rt::spawn(async move {
        let _held = held;
        let mut heard: HashMap<Option<String>, Instant> = HashMap::new();
        let mut quiet = tokio::time::interval(QUIET);
        let mut next = web::Bytes::from_static(AGAIN);
        loop {
            if !next.is_empty() && tx.send(next).await.is_err() {
                break;
            }
            next = web::Bytes::new();
            let change = tokio::select! {
                change = changes.recv() => change,
                // The session ended, or the page was closed.
                _ = &mut ended => break,
                () = tx.closed() => break,
                _ = quiet.tick() => {
                    next = web::Bytes::from_static(STILL);
                    continue;
                }
            };
            next = match change {
                Ok(c) if of.as_ref().is_some_and(|of| *of != c.circuit_id) => continue,
                // A page of no circuit shows what the index has.
                Ok(c) if of.is_none() && c.by == ChangedBy::Gauge => continue,
                // A figure moves every third second: what lies between is in the next one.
                Ok(c) if c.by == ChangedBy::Gauge && !is_due(&mut heard, &c.test_id) => continue,
                Ok(c) => event("changed", &c),
                // Too slow: tell it to look at everything again.
                Err(RecvError::Lagged(_)) => event("all", &serde_json::json!({})),
                Err(RecvError::Closed) => break,
            };
        }
    });
    let lines = unfold(rx, |mut rx| async move {
        let line = rx.recv().await?;
        Some((Ok::<_, Infallible>(line), rx))
    });
    Ok(HttpResponse::Ok()
        .content_type("text/event-stream")
        .insert_header((CACHE_CONTROL, "no-cache"))
        .insert_header(ContentEncoding::Identity)
        .streaming(lines))
}

/// How soon a page that lost the stream asks for it again, ms.
const AGAIN: &[u8] = b"retry: 1000\n\n";
/// A line that is no event: who sits between would otherwise take the stream for dead.
const STILL: &[u8] = b": still here\n\n";
/// So often it is sent.
const QUIET: Duration = Duration::from_secs(10);

/// An event as a page reads it. JSON has no line breaks of its own.
fn event(name: &str, data: &impl Serialize) -> web::Bytes {
    serde_json::to_string(data)
        .map(|json| format!("event: {name}\ndata: {json}\n\n").into())
        .unwrap_or_default()
}

/// What gauges send is passed on so often at most.
const MOVES: Duration = Duration::from_millis(2_900);

/// Whether what was sent to a test is passed on again.
fn is_due(heard: &mut HashMap<Option<String>, Instant>, test: &Option<String>) -> bool {
    let is_due = heard.get(test).is_none_or(|at| at.elapsed() >= MOVES);
    if is_due {
        heard.insert(test.clone(), Instant::now());
    }
    is_due
}
