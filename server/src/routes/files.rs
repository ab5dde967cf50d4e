//! Files in and out: data packages, the whole record. Loggers' files are in `csv`.

use crate::body::Raw;
use crate::drills::Here;
use crate::error::{ApiError, Refusals};
use crate::files;
use crate::lock::lock;
use crate::query::{FileQuery, UnitsQuery};
use crate::record::write_record;
use crate::service::{Patience, Said, now_ms, readings_of};
use crate::state::AppState;
use actix_web::{HttpResponse, get, post, web};
use jiff::civil::{Date, Time};
use jiff::tz::TimeZone;
use ruhe_core::reading::{Recording, read_package, write_package};
use ruhe_job::plan::Plan;
use ruhe_job::procedure::JobKind;
use ruhe_job::state::Test;
use ruhe_job::tell::{Created, Season};
use ruhe_store::Wanted;
use serde::Deserialize;
use utoipa::IntoParams;

/// A start for files that give only elapsed seconds: so that they end now.
pub(super) fn start_of(recording: &Recording) -> i64 {
    recording.start_ms.unwrap_or_else(|| {
        let lasted = recording.readings.last().map_or(0.0, |r| r.at_s);
        now_ms().saturating_sub((lasted * 1e3) as i64)
    })
}

/// Takes a data package (.zip) as a finished test of a circuit.
#[utoipa::path(params(FileQuery), request_body(content = Vec<u8>, content_type = "application/zip"),
    responses((status = 201, body = Created), Refusals))]
#[post("/api/circuits/{id}/packages")]
pub async fn package_in(
    state: Here,
    id: web::Path<String>,
    q: web::Query<FileQuery>,
    said: Said,
    body: Raw,
) -> Result<HttpResponse, ApiError> {
    let circuit = id.into_inner();
    let file = q.file.clone().unwrap_or_else(|| "package.zip".into());
    let of = circuit.clone();
    let test = state
        .work(move |s| {
            let recording = read_package(&files::unzip(&file, &body.0, files::SENT)?)?;
            let plan = Plan {
                imported_from: Some(file),
                remarks: recording.remarks.clone(),
                ..Plan::of_settings(&recording.settings)
            };
            let from = (start_of(&recording), "imported");
            s.take_recording(&of, &recording, plan, from, (&said, None))
        })
        .await?;
    state.changed(&circuit, Some(&test));
    Ok(HttpResponse::Created().json(Created { id: test }))
}

/// A name that a file may have anywhere; that of a drill says so.
pub(super) fn file_name(here: &AppState, text: &str) -> String {
    let drill = if here.is_drill { "drill-" } else { "" };
    format!("{drill}{text}")
        .to_lowercase()
        .chars()
        .map(|c| {
            if c.is_ascii_alphanumeric() || "-.".contains(c) {
                c
            } else {
                '-'
            }
        })
        .collect()
}

/// A file to be kept.
fn zipped(here: &AppState, name: &str, bytes: Vec<u8>) -> HttpResponse {
    HttpResponse::Ok()
        .content_type("application/zip")
        .insert_header((
            "Content-Disposition",
            format!("attachment; filename=\"{}\"", file_name(here, name)),
        ))
        .body(bytes)
}

/// A test as a data package.
#[utoipa::path(responses((status = 200, content_type = "application/zip"), Refusals))]
#[get("/api/tests/{id}/package")]
pub async fn package_out(state: Here, id: web::Path<String>) -> Result<HttpResponse, ApiError> {
    let here = state.clone();
    let (name, bytes) = state
        .work(move |s| {
            let (c, recording) = s.recording(&id)?;
            let t = c.must_show(&id)?;
            let title = Test::name(t.kind, t.attempt);
            let o = &c.opened;
            let drill = if s.is_drill {
                "Drill, no real job: "
            } else {
                ""
            };
            let about = format!("{drill}{}, circuit {}: {title}", o.system, o.tag);
            let bytes = files::zip(&write_package(&recording, &about))
                .map_err(|e| ApiError::Inside(e.to_string()))?;
            Ok((format!("{}-{title}.zip", o.tag), bytes))
        })
        .await?;
    Ok(zipped(&here, &name, bytes))
}

#[derive(Debug, Deserialize, IntoParams)]
pub struct SeasonQuery {
    /// First day, ISO 8601.
    pub from: String,
    /// Last day.
    pub to: String,
    /// Where its days begin, as in the list of time zones; none: UTC.
    pub zone: Option<String>,
}

impl SeasonQuery {
    /// From the beginning of the first day until the end of the last, ms since 1970 UTC.
    fn span(&self) -> Result<(i64, i64), ApiError> {
        let zone = match self.zone.as_deref().filter(|z| !z.is_empty()) {
            None => TimeZone::UTC,
            Some(name) => TimeZone::get(name)
                .map_err(|_| ApiError::wrong("zone", format!("“{name}” is no time zone")))?,
        };
        let day = |field: &str, text: &str| {
            text.parse::<Date>().map_err(|_| {
                ApiError::wrong(field, format!("“{text}” is not a date such as 2026-03-31"))
            })
        };
        let begin = |d: Date| {
            let at = zone.to_timestamp(d.to_datetime(Time::midnight()));
            at.map(|t| t.as_millisecond())
        };
        let (from, to) = (day("from", &self.from)?, day("to", &self.to)?);
        if to < from {
            return Err(ApiError::wrong("to", "it ends before it begins"));
        }
        let far = |e: jiff::Error| ApiError::wrong("to", e.to_string());
        Ok((
            begin(from).map_err(far)?,
            begin(to.tomorrow().map_err(far)?).map_err(far)?,
        ))
    }
}

/// Visits, tests and what their channels showed, a row each, as a data package of three tables: for the office's
/// spreadsheet.
#[utoipa::path(params(SeasonQuery, UnitsQuery), responses((status = 200, content_type = "application/zip"), Refusals))]
#[get("/api/season.zip")]
pub async fn season(
    state: Here,
    q: web::Query<SeasonQuery>,
    units: web::Query<UnitsQuery>,
) -> Result<HttpResponse, ApiError> {
    let here = state.clone();
    let span = q.span()?;
    let title = format!("Season from {} to {}", q.from, q.to);
    let name = format!("{title}.zip");
    let bytes = state
        .work(move |s| {
            // One at a time, a circuit at a time: whoever writes meanwhile does not wait for it.
            let _alone = lock(&s.printing);
            let mut out = Season::new(span, units.units());
            let wanted = Wanted {
                from_ms: Some(span.0),
                most: i64::MAX,
                ..Wanted::default()
            };
            let not = JobKind::Kit.code();
            let all = s
                .store
                .read(|tx| Ok::<_, ApiError>(tx.search(&wanted, not)?))?;
            for row in all.iter().rev() {
                s.store.read(|tx| {
                    let c = s.circuit(tx, &row.id, Patience::Any)?;
                    c.must_be_known()?;
                    out.add(&c, |test| readings_of(tx, test))
                })?;
            }
            files::zip(&out.files(&title)).map_err(|e| ApiError::Inside(e.to_string()))
        })
        .await?;
    Ok(zipped(&here, &name, bytes))
}

/// The whole record of a circuit as one file: its log, a data package and the sealed readings of each test, its photos.
/// `ruhe verify` checks it.
#[utoipa::path(responses((status = 200, content_type = "application/zip"), Refusals))]
#[get("/api/circuits/{id}/record.zip")]
pub async fn whole_record(state: Here, id: web::Path<String>) -> Result<HttpResponse, ApiError> {
    let here = state.clone();
    let (name, bytes) = state
        .work(move |s| {
            let (c, files) = write_record(s, &id)?;
            let bytes = files::zip(&files).map_err(|e| ApiError::Inside(e.to_string()))?;
            let o = &c.opened;
            Ok((format!("{}-{}-record.zip", o.system, o.tag), bytes))
        })
        .await?;
    Ok(zipped(&here, &name, bytes))
}
