//! The gauges' door: readings that a gauge sends by itself, and who lets which gauge in. docs/gauges.md describes it.

use crate::body::{Body, Raw};
use crate::error::{ApiError, Refusals};
use crate::gauge::{DoneByHand, DoorView, RefusedLine};
use crate::lock::lock;
use crate::people::{Calling, House, Secret};
use crate::service::{Patience, Said, entry_rows, fresh_id, now_ms, place};
use crate::state::{AppState, ChangedBy, Heard, HeardView};
use actix_web::{HttpRequest, HttpResponse, delete, get, post, put, web};
use ruhe_core::reading::fault::plain;
use ruhe_job::act::{FromGauge, GaugeLine, Sent, ms_since_1970, read_gauge, sent};
use ruhe_job::kit::SentBy;
use ruhe_job::log::HouseDeed;
use ruhe_job::refusal::Refusal;
use ruhe_job::tell::Created;
use ruhe_store::{Tx, rows};
use serde::{Deserialize, Serialize};
use std::collections::{BTreeMap, BTreeSet};
use utoipa::ToSchema;

/// What a call holds: a JSON object a line.
const KIND: &str = "application/x-ndjson";

/// Most lines of one call.
const LINES: usize = 2_000;

#[derive(Debug, Clone, Deserialize, ToSchema)]
pub struct GaugeInput {
    pub name: String,
}

/// A gauge that was let in. Its token is shown this once.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct GaugeMade {
    pub id: String,
    pub token: String,
}

/// What a gauge sent last from one of its sensors.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct SensorView {
    pub source: String,
    pub value: String,
    pub unit: String,
    pub at_ms: i64,
    /// The test it is read into, if it is bound.
    pub test_id: Option<String>,
    pub channel_id: Option<String>,
}

#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct GaugeView {
    pub id: String,
    pub name: String,
    pub is_simulated: bool,
    pub seen_ms: Option<i64>,
    pub sources: Vec<SensorView>,
}

#[derive(Debug, Clone, Deserialize, ToSchema)]
pub struct BindInput {
    pub gauge: String,
    pub source: String,
}

/// The lines of a call, each understood or refused.
fn lines(body: &[u8]) -> Result<Vec<Result<Sent, Refusal>>, ApiError> {
    let text = std::str::from_utf8(body)
        .map_err(|_| ApiError::Unreadable("the lines are not UTF-8".into()))?;
    let all: Vec<&str> = text.lines().filter(|l| !l.trim().is_empty()).collect();
    if all.len() > LINES {
        return Err(ApiError::TooLarge(format!("at most {LINES} lines a call")));
    }
    let read = |line: &str| {
        let told: serde_json::Value = serde_json::from_str(line).map_err(|e| Refusal::Wrong {
            field: None,
            message: format!("this line is no JSON: {e}"),
        })?;
        if told["value"].is_number() {
            return Err(Refusal::wrong(
                "value",
                "a figure comes as a text, so that its last digits are not lost: \"300.20\"",
            ));
        }
        let line: GaugeLine =
            serde_path_to_error::deserialize(&told).map_err(|e| Refusal::Wrong {
                field: Some(e.path().to_string()).filter(|p| p != "."),
                message: format!(
                    "this line cannot be read: {}",
                    plain(&e.inner().to_string())
                ),
            })?;
        sent(&line)
    };
    Ok(all.into_iter().map(read).collect())
}

/// What was done by hand on these tests, in the order of time.
fn done(
    state: &AppState,
    tx: &mut Tx<'_>,
    tests: &BTreeSet<i64>,
) -> Result<Vec<DoneByHand>, ApiError> {
    let mut out = vec![];
    for n in tests {
        let row = tx.test_of(*n)?;
        let c = state.folded(tx, &row.circuit)?;
        if let Some(t) = c.test(&row.id) {
            out.extend(t.events.iter().map(|(_, e)| DoneByHand {
                event: e.event,
                at_ms: e.at_ms,
            }));
        }
    }
    out.sort_by_key(|d| d.at_ms);
    Ok(out)
}

/// Takes readings of a gauge: JSON lines. Sent twice, they are kept once.
#[utoipa::path(request_body(content = String, content_type = "application/x-ndjson"), responses((status = 200,
    body = DoorView), Refusals))]
#[post("/api/door")]
pub async fn door(
    state: House,
    calling: Calling,
    request: HttpRequest,
    body: Raw,
) -> Result<web::Json<DoorView>, ApiError> {
    let header = |name: &str| request.headers().get(name).and_then(|v| v.to_str().ok());
    let kind = header("Content-Type").and_then(|t| t.split(';').next());
    if !body.0.is_empty() && kind.map(str::trim) != Some(KIND) {
        return Err(ApiError::Unreadable(format!(
            "the door takes Content-Type: {KIND}, a reading a line"
        )));
    }
    let sent_ms = header("Ruhe-Sent")
        .map(|t| ms_since_1970("Ruhe-Sent", t))
        .transpose()?;
    let (view, touched) = state
        .work(move |s| take(s, &calling.0, &body.0, sent_ms))
        .await?;
    for ((circuit, test), heard) in touched {
        state.waiting.note(&circuit, false);
        state.told(&circuit, Some(&test), ChangedBy::Gauge, heard);
    }
    Ok(web::Json(view))
}

/// Circuits and tests that were sent something, with what each channel was sent last.
type Touched = BTreeMap<(String, String), Vec<HeardView>>;

fn take(
    s: &AppState,
    gauge: &rows::Gauge,
    body: &[u8],
    sent_ms: Option<i64>,
) -> Result<(DoorView, Touched), ApiError> {
    let lines = lines(body)?;
    let now = now_ms();
    let from = FromGauge {
        id: &gauge.id,
        name: &gauge.name,
        is_simulated: gauge.is_simulated,
        sent_ms: sent_ms.unwrap_or(now),
    };
    let mut view = DoorView::default();
    let mut touched = Touched::new();
    s.store.write(|tx| {
        // Shut out since it came through the gate, it is not listened to.
        if tx.gauge_of(&gauge.token)?.is_none() {
            return Err(ApiError::SignIn("this gauge was shut out".into()));
        }
        let bound = tx.bindings(&gauge.id)?;
        // Looked up once a call, not once a line.
        let mut places = BTreeMap::new();
        for b in &bound {
            let row = tx.test_of(b.test)?;
            let c = s.folded(tx, &row.circuit)?;
            places.insert(b.source.as_str(), (b, row, c));
        }
        let mut batches: BTreeMap<i64, Vec<_>> = BTreeMap::new();
        for (i, line) in lines.iter().enumerate() {
            let taken = line.as_ref().map_err(Clone::clone).and_then(|l| {
                s.heard(&gauge.id, l);
                let Some((b, row, c)) = places.get(l.source.as_str()) else {
                    return Ok(None);
                };
                let channel = usize::try_from(b.channel).unwrap_or(usize::MAX);
                let reading = read_gauge(c, &row.id, channel, l, from, now)?;
                let of = c.test(&row.id).and_then(|t| t.channels.get(channel));
                let of = of.map(|c| c.id.clone()).unwrap_or_default();
                Ok(Some((b.test, row, of, reading)))
            });
            match taken {
                Ok(Some((n, row, channel_id, reading))) => {
                    let at = (row.circuit.clone(), row.id.clone());
                    let heard = touched.entry(at).or_default();
                    heard.retain(|h| h.channel_id != channel_id);
                    heard.push(HeardView {
                        channel_id,
                        typed: reading.typed.clone(),
                        at_ms: reading.at_ms,
                    });
                    batches.entry(n).or_default().push(reading);
                }
                Ok(None) => view.unbound += 1,
                Err(e) => view.refused.push(RefusedLine {
                    line: i + 1,
                    field: match &e {
                        Refusal::Wrong { field, .. } => field.clone(),
                        _ => None,
                    },
                    message: e.to_string(),
                }),
            }
        }
        for (n, batch) in batches {
            let stored = tx.add_readings(&entry_rows(n, &batch))?;
            view.stored += stored.new;
            view.known += stored.known;
        }
        tx.gauge_seen(&gauge.id, now)?;
        let tests = bound.iter().map(|b| b.test).collect();
        view.done = done(s, tx, &tests)?;
        Ok::<_, ApiError>(())
    })?;
    for (_, test) in touched.keys() {
        s.feeds.heard(test);
    }
    Ok((view, touched))
}

/// Gauges that were let in, and what each sent last.
#[utoipa::path(responses((status = 200, body = Vec<GaugeView>), Refusals))]
#[get("/api/gauges")]
pub async fn gauges(state: House) -> Result<web::Json<Vec<GaugeView>>, ApiError> {
    let views = state
        .work(|s| {
            s.store.read(|tx| {
                let mut out = vec![];
                for g in tx.gauges()? {
                    let bound = tx.bindings(&g.id)?;
                    let mut sources = vec![];
                    for (source, h) in s.last_heard(&g.id) {
                        let at = bound.iter().find(|b| b.source == source);
                        let place = match at {
                            Some(b) => {
                                let row = tx.test_of(b.test)?;
                                let c = s.circuit(tx, &row.circuit, Patience::Any)?;
                                let of = usize::try_from(b.channel).unwrap_or(usize::MAX);
                                let channel = c.test(&row.id).and_then(|t| t.channels.get(of));
                                Some((row.id, channel.map(|c| c.id.clone())))
                            }
                            None => None,
                        };
                        sources.push(SensorView {
                            source,
                            value: h.value,
                            unit: h.unit,
                            at_ms: h.at_ms,
                            channel_id: place.as_ref().and_then(|p| p.1.clone()),
                            test_id: place.map(|p| p.0),
                        });
                    }
                    out.push(GaugeView {
                        id: g.id,
                        name: g.name,
                        is_simulated: g.is_simulated,
                        seen_ms: g.seen_ms,
                        sources,
                    });
                }
                Ok::<_, ApiError>(out)
            })
        })
        .await?;
    Ok(web::Json(views))
}

/// Lets a gauge in.
#[utoipa::path(request_body = GaugeInput, responses((status = 201, body = GaugeMade), Refusals))]
#[post("/api/gauges")]
pub async fn add_gauge(
    state: House,
    said: Said,
    body: Body<GaugeInput>,
) -> Result<HttpResponse, ApiError> {
    let made = state
        .work(move |s| s.add_gauge(&body.0.name, &said))
        .await?;
    Ok(HttpResponse::Created().json(made))
}

impl AppState {
    /// Lets a gauge in: its id and the token it shows at the door.
    ///
    /// # Errors
    /// A name that is taken.
    pub fn add_gauge(&self, name: &str, said: &Said) -> Result<GaugeMade, ApiError> {
        let name = ruhe_job::refusal::filled("name", name, 60)?;
        let secret = Secret::fresh()?;
        let row = rows::Gauge {
            id: fresh_id(),
            name,
            token: secret.kept,
            made_by: said.by.name.clone(),
            made_ms: now_ms(),
            seen_ms: None,
            is_simulated: false,
            is_out: false,
        };
        self.write_for(said, |tx| {
            if tx
                .gauges()?
                .iter()
                .any(|g| g.name.eq_ignore_ascii_case(&row.name))
            {
                return Err(ApiError::wrong("name", "another gauge is called so"));
            }
            tx.add_gauge(&row)?;
            let done = HouseDeed::GaugeLetIn {
                gauge: row.id.clone(),
                name: row.name.clone(),
            };
            self.note_house(tx, said, done)
        })?;
        Ok(GaugeMade {
            id: row.id,
            token: secret.text,
        })
    }

    /// Notes what a gauge sent last.
    fn heard(&self, gauge: &str, l: &Sent) {
        let mut all = lock(&self.last);
        let of = all.entry(gauge.into()).or_default();
        // A gauge has a handful of sensors; one that invents names shall not fill the memory.
        if of.len() < 32 || of.contains_key(&l.source) {
            let heard = Heard {
                value: l.value.clone(),
                unit: l.unit.code().into(),
                at_ms: l.at_ms,
            };
            of.insert(l.source.clone(), heard);
        }
    }

    fn last_heard(&self, gauge: &str) -> BTreeMap<String, Heard> {
        let all = lock(&self.last);
        all.get(gauge).cloned().unwrap_or_default()
    }
}

/// Shuts a gauge out: its token opens nothing any more.
#[utoipa::path(responses((status = 204), Refusals))]
#[delete("/api/gauges/{id}")]
pub async fn drop_gauge(
    state: House,
    id: web::Path<String>,
    said: Said,
) -> Result<HttpResponse, ApiError> {
    state
        .work(move |s| {
            s.write_for(&said, |tx| {
                tx.shut_gauge_out(&id)?;
                let gauge = id.clone();
                s.note_house(tx, &said, HouseDeed::GaugeShutOut { gauge })
            })
        })
        .await?;
    Ok(HttpResponse::NoContent().finish())
}

/// Reads a sensor of a gauge into a channel of a test, until that ends.
#[utoipa::path(request_body = BindInput, responses((status = 201, body = Created), Refusals))]
#[put("/api/tests/{id}/channels/{channel}/gauge")]
pub async fn bind(
    state: House,
    path: web::Path<(String, String)>,
    said: Said,
    body: Body<BindInput>,
) -> Result<HttpResponse, ApiError> {
    let (id, channel) = path.into_inner();
    let b = body.into_inner();
    let (circuit, test) = state
        .work(move |s| {
            s.write_for(&said, |tx| {
                let row = tx.test(&id)?;
                let c = s.folded(tx, &row.circuit)?;
                c.must_be_open()?;
                let t = c.must_have(&id)?;
                if t.is_over() {
                    return Err(ApiError::Conflict(format!("{} has ended", t.title)));
                }
                let at = place(t, &channel)?;
                if !tx.gauges()?.iter().any(|g| g.id == b.gauge) {
                    return Err(ApiError::wrong("gauge", "there is no such gauge"));
                }
                let by = SentBy {
                    gauge: b.gauge.clone(),
                    source: b.source.clone(),
                };
                s.bind(tx, &row, t, (at, by), &said)?;
                Ok((row.circuit, id.clone()))
            })
        })
        .await?;
    state.changed(&circuit, Some(&test));
    Ok(HttpResponse::Created().json(Created { id: test }))
}

/// Reads a channel by hand again.
#[utoipa::path(responses((status = 204), Refusals))]
#[delete("/api/tests/{id}/channels/{channel}/gauge")]
pub async fn unbind(
    state: House,
    path: web::Path<(String, String)>,
    said: Said,
) -> Result<HttpResponse, ApiError> {
    let (test, channel) = path.into_inner();
    let of = test.clone();
    let circuit = state
        .work(move |s| s.unbind(&test, &channel, &said))
        .await?;
    state.changed(&circuit, Some(&of));
    Ok(HttpResponse::NoContent().finish())
}
