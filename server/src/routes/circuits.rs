//! Circuits: taking a job on, the survey, steps, looks, repairs, overrides, striking out, signing, the record.

use super::verb::*;
use crate::body::Raw;
use crate::feed::stop_simulated;
use crate::paper::{Asked, print};
use crate::query::{PrintQuery, UnitsQuery};
use crate::service::Patience;
use actix_web::{HttpRequest, get, put};
use ruhe_job::act::{
    CorrectionInput, JobInput, LookInput, OverrideInput, RepairInput, SeenInput, SignatureInput,
    StepInput, SurveyInput, VoidInput, approve, correct, keep_survey, strike, take_photo,
};
use ruhe_job::log::Deed;
use ruhe_job::people::Right;
use ruhe_job::service;
use ruhe_job::survey::SurveyView;
use ruhe_job::tell::{CircuitView, JobCreated, RecordView};
use ruhe_paper::{Paper, Reader};
use ruhe_store::rows;

/// A new job: site, system, circuits with their plates.
#[utoipa::path(request_body = JobInput, responses((status = 201, body = JobCreated), Refusals))]
#[post("/api/jobs")]
pub async fn add_job(
    state: Here,
    said: Said,
    body: Body<JobInput>,
) -> Result<HttpResponse, ApiError> {
    let b = body.into_inner();
    let circuit_ids = state.work(move |s| s.open(&b, &said)).await?;
    for id in &circuit_ids {
        state.changed(id, None);
    }
    Ok(HttpResponse::Created().json(JobCreated { circuit_ids }))
}

/// One circuit.
#[utoipa::path(params(UnitsQuery), responses((status = 200, body = CircuitView), Refusals))]
#[get("/api/circuits/{id}")]
pub async fn show_circuit(
    state: Here,
    id: web::Path<String>,
    q: web::Query<UnitsQuery>,
) -> Result<web::Json<CircuitView>, ApiError> {
    let units = q.units();
    let view = state
        .work(move |s| s.look(Patience::Watched, |desk| service::circuit(desk, &id, units)))
        .await?;
    Ok(web::Json(view))
}

/// The whole record of a circuit, for paper.
#[utoipa::path(params(PrintQuery), responses((status = 200, body = RecordView), Refusals))]
#[get("/api/circuits/{id}/record")]
pub async fn record(
    state: Here,
    id: web::Path<String>,
    q: web::Query<PrintQuery>,
) -> Result<web::Json<RecordView>, ApiError> {
    let (units, visit) = (q.units(), q.visit);
    Ok(web::Json(
        state
            .work(move |s| s.record_view(&id, visit, units))
            .await?,
    ))
}

/// The record of a visit as a PDF, for a reader.
#[utoipa::path(params(PrintQuery), responses((status = 200, content_type = "application/pdf"), Refusals))]
#[get("/api/circuits/{id}/record.pdf")]
pub async fn record_pdf(
    state: Here,
    id: web::Path<String>,
    q: web::Query<PrintQuery>,
) -> Result<HttpResponse, ApiError> {
    let reader = match q.reader.as_deref() {
        None | Some("") => Reader::All,
        Some(code) => Reader::from_code(code).ok_or_else(|| {
            let all: Vec<&str> = Reader::ALL.iter().map(|r| r.1).collect();
            ApiError::wrong(
                "reader",
                format!("“{code}” is not one of {}", all.join(", ")),
            )
        })?,
    };
    let paper = match q.paper.as_deref() {
        None | Some("" | "a4") => Paper::A4,
        Some("letter") => Paper::Letter,
        Some(other) => {
            let words = format!("“{other}” is neither a4 nor letter");
            return Err(ApiError::wrong("paper", words));
        }
    };
    let asked = Asked {
        reader,
        paper,
        units: q.units(),
        offset: q.offset,
    };
    let visit = q.visit;
    let (name, bytes) = state
        .work(move |s| {
            let view = s.record_view(&id, visit, asked.units)?;
            let c = &view.circuit;
            let name = format!("{} {} visit {}.pdf", c.system, c.tag, c.visits.len() + 1);
            let name = super::files::file_name(s, &name);
            Ok((name, print(s, &view, asked)?))
        })
        .await?;
    Ok(HttpResponse::Ok()
        .content_type("application/pdf")
        .insert_header((
            "Content-Disposition",
            format!("inline; filename=\"{name}\""),
        ))
        .body(bytes))
}

/// Corrects what the circuit is: letter, name, kind, refrigerant; its tests are judged again.
#[utoipa::path(request_body = CorrectionInput, responses((status = 201, body = Created), Refusals))]
#[post("/api/circuits/{id}/correction")]
pub async fn add_correction(
    state: Here,
    id: web::Path<String>,
    said: Said,
    body: Body<CorrectionInput>,
) -> Result<HttpResponse, ApiError> {
    let (id, b) = (id.into_inner(), body.into_inner());
    let acted = state
        .work(move |s| {
            s.act(&id, &said, |desk, c, _| {
                // Two systems may be called the same: what belongs together is one job.
                let job = c.id.rsplit_once('-').map_or(&*c.id, |(job, _)| job);
                let letters = desk.tx.letters_beside(&c.id, job)?;
                if letters.iter().any(|l| l.trim() == b.tag.trim()) {
                    return Err(ApiError::wrong(
                        "tag",
                        "another circuit of this system carries this letter",
                    ));
                }
                if !letters.is_empty() && b.system_name.trim() != c.opened.system {
                    return Err(ApiError::wrong(
                        "system_name",
                        "other circuits belong to this system: its name stays",
                    ));
                }
                Ok(correct(c, &b)?)
            })
        })
        .await?;
    Ok(created(acted))
}

verb! {
    /// Confirms a step with words.
    add_step, "/api/circuits/{id}/steps", StepInput
}
verb! {
    /// Says that what a gate asks for was not done, and why; it counts when somebody answers for it who may.
    add_override, "/api/circuits/{id}/overrides", OverrideInput
}
verb! {
    /// Keeps a reading outside any test: what is inside now.
    add_seen, "/api/circuits/{id}/seen", SeenInput
}
verb! {
    /// Logs a look at a place.
    add_look, "/api/circuits/{id}/looks", LookInput
}
verb! {
    /// Logs a repair; the next hold is its re-test.
    add_repair, "/api/circuits/{id}/repairs", RepairInput
}

/// Answers for what somebody else said was not done.
#[utoipa::path(responses((status = 201, body = Created), Refusals))]
#[post("/api/circuits/{id}/overrides/{entry}/approval")]
pub async fn add_approval(
    state: Here,
    path: web::Path<(String, String)>,
    said: Said,
) -> Result<HttpResponse, ApiError> {
    let (id, entry) = path.into_inner();
    let acted = state
        .work(move |s| s.act(&id, &said, |_, c, _| Ok(approve(c, &entry)?)))
        .await?;
    Ok(created(acted))
}

/// Signs a circuit; afterwards it is read-only.
#[utoipa::path(request_body = SignatureInput, responses((status = 201, body = Created), Refusals))]
#[post("/api/circuits/{id}/signature")]
pub async fn sign(
    state: Here,
    id: web::Path<String>,
    said: Said,
    request: HttpRequest,
    body: Body<SignatureInput>,
) -> Result<HttpResponse, ApiError> {
    let said = state.signer(said, Right::Sign, confirmed(&request))?;
    decided(&state, id.into_inner(), said, body.0).await
}

/// Strikes out an event, a step, a look, a repair, an override, the end of a test, or a test; nothing is erased.
#[utoipa::path(request_body = VoidInput, responses((status = 201, body = Created), Refusals))]
#[post("/api/circuits/{id}/entries/{entry}/strike")]
pub async fn strike_entry(
    state: Here,
    path: web::Path<(String, String)>,
    said: Said,
    body: Body<VoidInput>,
) -> Result<HttpResponse, ApiError> {
    let (id, entry) = path.into_inner();
    let struck = entry.clone();
    let acted = state
        .work(move |s| {
            s.act(&id, &said, |_, c, word| {
                Ok(strike(c, &struck, &body.0, word.by)?)
            })
        })
        .await?;
    // Of a test that counts no longer nothing is listened to; of anything else there is nothing to stop.
    state.work(move |s| stop_simulated(s, &entry)).await?;
    Ok(created(acted))
}

/// Keeps a new version of the survey; the old ones stay.
#[utoipa::path(request_body = SurveyInput, responses((status = 200, body = SurveyView), Refusals))]
#[put("/api/circuits/{id}/survey")]
pub async fn put_survey(
    state: Here,
    id: web::Path<String>,
    said: Said,
    body: Body<SurveyInput>,
) -> Result<web::Json<SurveyView>, ApiError> {
    let (id, b) = (id.into_inner(), body.into_inner());
    let view = state
        .work(move |s| {
            s.act(&id, &said, |_, c, _| Ok(keep_survey(c, b.clone())?))?;
            let c = s.shown(&id)?.circuit;
            Ok(c.doc.clone().view(c.version)?)
        })
        .await?;
    Ok(web::Json(view))
}

/// Keeps a photo (JPEG, PNG or WebP).
#[utoipa::path(request_body(content = Vec<u8>, content_type = "application/octet-stream"),
    responses((status = 201, body = Created), Refusals))]
#[post("/api/circuits/{id}/photos")]
pub async fn add_photo(
    state: Here,
    id: web::Path<String>,
    said: Said,
    body: Raw,
) -> Result<HttpResponse, ApiError> {
    let circuit = id.into_inner();
    let acted = state
        .work(move |s| {
            s.act(&circuit, &said, |desk, c, word| {
                let deeds = take_photo(c, &body.0)?;
                for d in &deeds {
                    if let Deed::PhotoTaken { mime, .. } = d {
                        desk.add_photo(&rows::Photo {
                            id: word.who.id.clone(),
                            circuit: c.id.clone(),
                            mime: mime.clone(),
                            bytes: body.0.to_vec(),
                        })?;
                    }
                }
                Ok(deeds)
            })
        })
        .await?;
    Ok(created(acted))
}

/// A photo.
#[utoipa::path(responses((status = 200, content_type = "image/jpeg"), Refusals))]
#[get("/api/photos/{id}")]
pub async fn show_photo(state: Here, id: web::Path<String>) -> Result<HttpResponse, ApiError> {
    let photo = state
        .work(move |s| s.store.read(|tx| Ok::<_, ApiError>(tx.photo(&id)?)))
        .await?;
    Ok(HttpResponse::Ok()
        .content_type(photo.mime)
        .body(photo.bytes))
}
