//! Data packages in and out, logger CSV through a mapping the user confirms.

use crate::error::ApiError;
use crate::files;
use crate::state::{AppState, now_ms};
use crate::wire::{
    ColumnView, Created, CsvImport, CsvInput, FileQuery, Plan, recording_of, store_recording,
};
use actix_web::{HttpResponse, get, post, web};
use ruhe_core::reading::{
    Kind, LoggerMapping, MappedColumn, Recording, guess_columns, read_logger, read_package,
    write_package,
};

fn store_and_end(
    s: &AppState,
    circuit: &str,
    recording: &Recording,
    plan: Plan,
    start_ms: i64,
) -> Result<String, ApiError> {
    let of = s.store.circuit(circuit)?.circuit;
    let (doc, _) = super::survey::survey_of(s, circuit)?;
    let plan = super::planning::with_survey(
        &doc.as_known()?,
        &of,
        recording.settings.kind,
        &recording.channels,
        plan,
    );
    if recording.readings.is_empty() {
        return Err(ApiError::wrong(
            "readings.csv",
            "there are no readings in it",
        ));
    }
    let test = store_recording(&s.store, circuit, recording, plan, "imported", start_ms)?;
    // What comes in from a file is over: it is judged once and closed.
    super::run::end_with_verdict(s, &test, now_ms())?;
    Ok(test.id)
}

/// A start for files that give only elapsed seconds: so that they end now.
fn start_of(recording: &Recording) -> i64 {
    recording.start_ms.unwrap_or_else(|| {
        now_ms()
            - recording
                .readings
                .last()
                .map_or(0, |r| (r.at_s * 1e3) as i64)
    })
}

/// Takes a data package (.zip) as a finished test of a circuit.
#[utoipa::path(params(FileQuery), request_body(content = Vec<u8>, content_type = "application/zip"), responses((status = 201, body = Created)))]
#[post("/api/circuits/{id}/packages")]
pub async fn package_in(
    state: web::Data<AppState>,
    id: web::Path<String>,
    q: web::Query<FileQuery>,
    body: web::Bytes,
) -> Result<HttpResponse, ApiError> {
    let circuit = id.into_inner();
    let file = q.file.clone().unwrap_or_else(|| "package.zip".into());
    let of = circuit.clone();
    let test = state
        .work(move |s| {
            let recording = read_package(&files::unzip(&file, &body)?)?;
            let plan = Plan {
                imported_from: Some(file),
                remarks: recording.remarks.clone(),
                ..Plan::of_settings(&recording.settings)
            };
            store_and_end(s, &of, &recording, plan, start_of(&recording))
        })
        .await?;
    state.changed(&circuit, Some(&test));
    Ok(HttpResponse::Created().json(Created { id: test }))
}

/// A test as a data package.
#[utoipa::path(responses((status = 200, content_type = "application/zip")))]
#[get("/api/tests/{id}/package")]
pub async fn package_out(
    state: web::Data<AppState>,
    id: web::Path<String>,
) -> Result<HttpResponse, ApiError> {
    let (name, bytes) = state
        .work(move |s| {
            let row = s.store.test(&id)?;
            let circuit = s.store.circuit(&row.circuit_id)?;
            let title = super::summary::title(&row);
            let mut recording = recording_of(&s.store, &row)?;
            recording.settings.is_simulated |= s.store.is_simulated(&row.id)?;
            let files = write_package(
                &recording,
                &format!(
                    "{}, circuit {}: {title}",
                    circuit.system.name, circuit.circuit.tag
                ),
            );
            Ok((
                format!("{}-{}.zip", circuit.circuit.tag, title.replace(' ', "-")).to_lowercase(),
                files::zip(&files).map_err(|e| ApiError::Inside(e.to_string()))?,
            ))
        })
        .await?;
    let name: String = name
        .chars()
        .map(|c| {
            if c.is_ascii_alphanumeric() || "-.".contains(c) {
                c
            } else {
                '-'
            }
        })
        .collect();
    Ok(HttpResponse::Ok()
        .content_type("application/zip")
        .insert_header((
            "Content-Disposition",
            format!("attachment; filename=\"{name}\""),
        ))
        .body(bytes))
}

/// Guesses what the columns of a logger's CSV are.
#[utoipa::path(request_body = CsvInput, responses((status = 200, body = Vec<ColumnView>)))]
#[post("/api/csv")]
pub async fn csv_columns(
    body: web::Json<CsvInput>,
) -> Result<web::Json<Vec<ColumnView>>, ApiError> {
    let guesses = guess_columns(&body.file, body.content.as_bytes())?;
    Ok(web::Json(
        guesses
            .into_iter()
            .map(|g| ColumnView {
                heading: g.heading,
                is_time: g.is_time,
                is_date: g.is_date,
                quantity: g.quantity.map(|q| q.code().into()),
                unit: g.unit.map(|u| u.code().into()),
                example: g.example,
            })
            .collect(),
    ))
}

/// Takes a logger's CSV as confirmed, as a finished test.
#[utoipa::path(request_body = CsvImport, responses((status = 201, body = Created)))]
#[post("/api/circuits/{id}/csv")]
pub async fn csv_in(
    state: web::Data<AppState>,
    id: web::Path<String>,
    body: web::Json<CsvImport>,
) -> Result<HttpResponse, ApiError> {
    let (circuit, b) = (id.into_inner(), body.into_inner());
    let kind = Kind::from_code(&b.kind).ok_or_else(|| {
        ApiError::wrong("kind", format!("the kind must be one of {}", Kind::codes()))
    })?;
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
                columns,
            };
            let (start_ms, readings) = read_logger(&b.file, b.content.as_bytes(), &mapping)?;
            let settings = b.plan.settings(kind, "", None);
            let recording = Recording {
                settings,
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
            store_and_end(s, &of, &recording, plan, start_of(&recording))
        })
        .await?;
    state.changed(&circuit, Some(&test));
    Ok(HttpResponse::Created().json(Created { id: test }))
}
