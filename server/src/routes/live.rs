//! What changed, as it changes. The page asks again for what it shows; it reconnects and catches up by itself.

use crate::drills::Here;
use crate::error::{ApiError, Refusals};
use crate::people::{House, Identity, place_of};
use crate::query::LiveQuery;
use crate::state::ChangedBy;
use actix_web::{HttpRequest, Responder, get, web};
use actix_web_lab::sse;
use std::collections::HashMap;
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
) -> Result<impl Responder, ApiError> {
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
        loop {
            let change = tokio::select! {
                change = changes.recv() => change,
                // The session ended, or the page was closed.
                _ = &mut ended => break,
                () = tx.closed() => break,
            };
            let event = match change {
                Ok(c) if of.as_ref().is_some_and(|of| *of != c.circuit_id) => continue,
                // A page of no circuit shows what the index has.
                Ok(c) if of.is_none() && c.by == ChangedBy::Gauge => continue,
                // A figure moves every third second: what lies between is in the next one.
                Ok(c) if c.by == ChangedBy::Gauge && !is_due(&mut heard, &c.test_id) => continue,
                Ok(c) => sse::Data::new_json(&c).map(|d| d.event("changed")).ok(),
                // Too slow: tell it to look at everything again.
                Err(RecvError::Lagged(_)) => Some(sse::Data::new("{}").event("all")),
                Err(RecvError::Closed) => break,
            };
            if let Some(e) = event
                && tx.send(sse::Event::Data(e)).await.is_err()
            {
                break;
            }
        }
    });
    Ok(sse::Sse::from_infallible_receiver(rx)
        .with_keep_alive(Duration::from_secs(10))
        .with_retry_duration(Duration::from_secs(1)))
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
