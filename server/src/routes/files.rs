//! Files in and out: data packages, logger CSV through a mapping the user confirms, the whole record.

use crate::body::{Body, Raw};
use crate::drills::Here;
use crate::error::{ApiError, Refusals};
use crate::files;
use crate::query::FileQuery;
use crate::record::write_record;
use crate::service::{Said, now_ms};
use crate::state::AppState;
use actix_web::{HttpResponse, get, post, web};
use base64::prelude::{BASE64_STANDARD, Engine as _};
use ruhe_core::reading::{
    Kind, LoggerMapping, MappedColumn, Recording, read_logger, read_package, understand,
    write_package,
};
use ruhe_job::plan::{ChannelInput, Plan};
use ruhe_job::state::Test;
use ruhe_job::tell::{ColumnView, Created, FileView};
use serde::Deserialize;
use utoipa::ToSchema;

#[derive(Debug, Deserialize, ToSchema)]
pub struct CsvColumn {
    pub heading: String,
    pub channel: ChannelInput,
}

#[derive(Debug, Deserialize, ToSchema)]
pub struct CsvImport {
    pub file: String,
    /// The bytes of the file in base64: not every logger writes UTF-8.
    pub content: String,
    pub kind: Kind,
    pub plan: Plan,
    pub time_heading: String,
    /// Heading of the date's column, where the time column holds only the time of day.
    pub date_heading: Option<String>,
    /// Minutes east of UTC for stamps without an offset.
    pub offset_minutes: i32,
    /// Dates like 04/05/2026 have the day first; to be said where both could.
    pub day_first: Option<bool>,
    pub columns: Vec<CsvColumn>,
}

#[derive(Debug, Deserialize, ToSchema)]
pub struct CsvInput {
    pub file: String,
    /// The bytes of the file in base64.
    pub content: String,
}

/// A start for files that give only elapsed seconds: so that they end now.
fn start_of(recording: &Recording) -> i64 {
    recording.start_ms.unwrap_or_else(|| {
        let lasted = recording.readings.last().map_or(0.0, |r| r.at_s);
        now_ms().saturating_sub((lasted * 1e3) as i64)
    })
}

/// Takes a data package (.zip) as a finished test of a circuit.
#[utoipa::path(params(FileQuery), request_body(content = Vec<u8>, content_type = "application/zip"), responses((status = 201, body = Created), Refusals))]
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

/// Guesses what the columns of a logger's CSV are.
#[utoipa::path(request_body = CsvInput, responses((status = 200, body = FileView), Refusals))]
#[post("/api/csv")]
pub async fn csv_columns(body: Body<CsvInput>) -> Result<web::Json<FileView>, ApiError> {
    let found = understand(&body.0.file, &content(&body.0.content)?)?;
    let columns = found.columns.into_iter().map(|g| ColumnView {
        heading: g.heading,
        is_time: g.is_time,
        is_date: g.is_date,
        quantity: g.quantity,
        unit: g.unit,
        example: g.example,
    });
    Ok(web::Json(FileView {
        columns: columns.collect(),
        words: found.words,
        asks_day_order: found.asks_day_order,
        shape: found.shape,
        sample: found.sample,
    }))
}

/// The bytes of a file that came in JSON.
fn content(base64: &str) -> Result<Vec<u8>, ApiError> {
    BASE64_STANDARD
        .decode(base64)
        .map_err(|e| ApiError::wrong("content", format!("this is not base64: {e}")))
}

/// Takes a logger's CSV as confirmed, as a finished test.
#[utoipa::path(request_body = CsvImport, responses((status = 201, body = Created), Refusals))]
#[post("/api/circuits/{id}/csv")]
pub async fn csv_in(
    state: Here,
    id: web::Path<String>,
    said: Said,
    body: Body<CsvImport>,
) -> Result<HttpResponse, ApiError> {
    let (circuit, b) = (id.into_inner(), body.into_inner());
    b.plan.check()?;
    let columns = b
        .columns
        .iter()
        .map(|c| {
            Ok(MappedColumn {
                heading: c.heading.clone(),
                channel: c.channel.parse()?,
            })
        })
        .collect::<Result<Vec<_>, ApiError>>()?;
    let of = circuit.clone();
    let test = state
        .work(move |s| {
            let mapping = LoggerMapping {
                time_heading: b.time_heading,
                date_heading: b.date_heading,
                offset_minutes: b.offset_minutes,
                day_first: b.day_first,
                columns,
            };
            let (start_ms, readings) = read_logger(&b.file, &content(&b.content)?, &mapping)?;
            let recording = Recording {
                settings: b.plan.settings(b.kind),
                channels: mapping.columns.into_iter().map(|c| c.channel).collect(),
                readings,
                events: vec![],
                start_ms,
                duplicates: 0,
                remarks: vec![],
            };
            let plan = Plan {
                imported_from: Some(b.file),
                ..b.plan
            };
            let from = (start_of(&recording), "imported");
            s.take_recording(&of, &recording, plan, from, (&said, None))
        })
        .await?;
    state.changed(&circuit, Some(&test));
    Ok(HttpResponse::Created().json(Created { id: test }))
}
