//! Drills: the shelf, one drill, what is done in it, its end. What is worked in it goes through `/drill/ID/api/…`.

use crate::body::Body;
use crate::drills::{
    ActInput, BeginInput, Drill, DrillView, Drills, DrillsView, Learner, drill_view, drills_view,
};
use crate::error::{ApiError, Refusals};
use crate::people::{House, Identity, drills_of};
use crate::query::UnitsQuery;
use crate::service::Said;
use crate::state::AppState;
use actix_web::dev::Payload;
use actix_web::{
    FromRequest, HttpMessage as _, HttpRequest, HttpResponse, delete, get, post, put, web,
};
use ruhe_drill::{Decision, Form, Scenario, Speed};
use ruhe_job::tell::Created;
use serde::Deserialize;
use serde_json::json;
use std::future::{Ready, ready};
use std::sync::Arc;
use utoipa::ToSchema;

/// How fast the clock is to go.
#[derive(Debug, Deserialize, ToSchema)]
pub struct SpeedInput {
    pub speed: Speed,
}

fn person(request: &HttpRequest) -> Option<String> {
    request
        .extensions()
        .get::<Identity>()
        .map(|i| i.person.clone())
}

/// The drills of this house, each a small Ruhe of its own. The gate let the request through.
pub struct Shelf(Arc<Drills>);

impl FromRequest for Shelf {
    type Error = ApiError;
    type Future = Ready<Result<Self, ApiError>>;
    fn from_request(request: &HttpRequest, _: &mut Payload) -> Self::Future {
        ready(drills_of(request).map(Self))
    }
}

impl Shelf {
    /// A drill of whoever asks.
    fn own(
        &self,
        state: &AppState,
        id: &str,
        person: Option<&str>,
    ) -> Result<Arc<Drill>, ApiError> {
        let drill = self.0.get(state, id)?;
        drill.must_be_of(person)?;
        Ok(drill)
    }
}

/// The shelf: drills there are, drills begun, how sure and how right.
#[utoipa::path(responses((status = 200, body = DrillsView), Refusals))]
#[get("/api/drills")]
pub async fn drills(
    state: House,
    all: Shelf,
    request: HttpRequest,
) -> Result<web::Json<DrillsView>, ApiError> {
    let who = person(&request);
    let view = state
        .work(move |_| Ok(drills_view(&all.0, who.as_deref())))
        .await?;
    Ok(web::Json(view))
}

/// Begins a drill.
#[utoipa::path(request_body = BeginInput, responses((status = 201, body = Created), Refusals))]
#[post("/api/drills")]
pub async fn begin(
    state: House,
    all: Shelf,
    request: HttpRequest,
    said: Said,
    body: Body<BeginInput>,
) -> Result<HttpResponse, ApiError> {
    let who = Learner {
        person: person(&request),
        name: said.by.name.clone(),
    };
    let id = state
        .work(move |s| Ok(all.0.begin(s, &body.0, who)?.id.clone()))
        .await?;
    Ok(HttpResponse::Created().json(Created { id }))
}

/// Takes a drill that a teacher handed out, as its file.
#[utoipa::path(request_body = Scenario, responses((status = 201, body = Created), Refusals))]
#[post("/api/drills/files")]
pub async fn add_own(
    state: House,
    all: Shelf,
    request: HttpRequest,
    body: Body<Scenario>,
) -> Result<HttpResponse, ApiError> {
    let who = person(&request);
    let id = state
        .work(move |_| all.0.add_own(body.into_inner(), who))
        .await?;
    Ok(HttpResponse::Created().json(Created { id }))
}

/// Makes a drill from a teacher's form.
#[utoipa::path(request_body = Form, responses((status = 201, body = Created), Refusals))]
#[post("/api/drills/forms")]
pub async fn make(
    state: House,
    all: Shelf,
    request: HttpRequest,
    body: Body<Form>,
) -> Result<HttpResponse, ApiError> {
    let who = person(&request);
    let id = state
        .work(move |_| {
            let made = body.0.scenario();
            let scenario = made.map_err(|(field, why)| ApiError::wrong(field, why))?;
            all.0.add_own(scenario, who)
        })
        .await?;
    Ok(HttpResponse::Created().json(Created { id }))
}

/// The file of a drill of one's own, to hand out. It holds the truth.
#[utoipa::path(responses((status = 200, body = Scenario), Refusals))]
#[get("/api/drills/files/{id}")]
pub async fn own_file(
    state: House,
    all: Shelf,
    request: HttpRequest,
    id: web::Path<String>,
) -> Result<HttpResponse, ApiError> {
    let who = person(&request);
    let scenario = state
        .work(move |_| all.0.file_of(&id, who.as_deref()))
        .await?;
    Ok(HttpResponse::Ok()
        .insert_header(("Content-Disposition", "attachment; filename=\"drill.json\""))
        .json(scenario))
}

/// One drill: its clock, what the gauges show, what can be done; after its end what it was worth.
#[utoipa::path(params(UnitsQuery), responses((status = 200, body = DrillView), Refusals))]
#[get("/api/drills/{id}")]
pub async fn show(
    state: House,
    all: Shelf,
    request: HttpRequest,
    id: web::Path<String>,
    q: web::Query<UnitsQuery>,
) -> Result<web::Json<DrillView>, ApiError> {
    let (who, units) = (person(&request), q.units());
    let view = state
        .work(move |s| drill_view(&*all.own(s, &id, who.as_deref())?, units))
        .await?;
    Ok(web::Json(view))
}

async fn done(
    (state, all): (&AppState, Shelf),
    request: &HttpRequest,
    id: String,
    f: impl FnOnce(&Drill) -> Result<(), ApiError> + Send + 'static,
) -> Result<HttpResponse, ApiError> {
    let who = person(request);
    state
        .work(move |s| {
            let drill = all.own(s, &id, who.as_deref())?;
            drill.seen();
            f(&drill)
        })
        .await?;
    Ok(HttpResponse::Created().finish())
}

/// Throws a drill away.
#[utoipa::path(responses((status = 204), Refusals))]
#[delete("/api/drills/{id}")]
pub async fn forget(
    state: House,
    all: Shelf,
    request: HttpRequest,
    id: web::Path<String>,
) -> Result<HttpResponse, ApiError> {
    let who = person(&request);
    state
        .work(move |s| {
            all.own(s, &id, who.as_deref())?;
            all.0.forget(&id)
        })
        .await?;
    Ok(HttpResponse::NoContent().finish())
}

/// Changes how fast its clock goes.
#[utoipa::path(request_body = SpeedInput, responses((status = 201), Refusals))]
#[put("/api/drills/{id}/speed")]
pub async fn speed(
    state: House,
    all: Shelf,
    request: HttpRequest,
    id: web::Path<String>,
    body: Body<SpeedInput>,
) -> Result<HttpResponse, ApiError> {
    done((&state, all), &request, id.into_inner(), move |d| {
        d.set_speed(body.0.speed)
    })
    .await
}

/// Does something with one's hands; the clock jumps by what it takes.
#[utoipa::path(params(UnitsQuery), request_body = ActInput, responses((status = 201), Refusals))]
#[post("/api/drills/{id}/acts")]
pub async fn act(
    state: House,
    all: Shelf,
    request: HttpRequest,
    id: web::Path<String>,
    q: web::Query<UnitsQuery>,
    body: Body<ActInput>,
) -> Result<HttpResponse, ApiError> {
    let doing = body.0.doing(q.units())?;
    done((&state, all), &request, id.into_inner(), move |d| {
        d.act(doing).map(|_| ())
    })
    .await
}

/// A look at Ruhe's words, where they are hidden; it costs two points.
#[utoipa::path(responses((status = 201), Refusals))]
#[post("/api/drills/{id}/looks")]
pub async fn look(
    state: House,
    all: Shelf,
    request: HttpRequest,
    id: web::Path<String>,
) -> Result<HttpResponse, ApiError> {
    done((&state, all), &request, id.into_inner(), Drill::look).await
}

/// Decides, and ends the drill.
#[utoipa::path(request_body = Decision, responses((status = 201), Refusals))]
#[post("/api/drills/{id}/decision")]
pub async fn decide(
    state: House,
    all: Shelf,
    request: HttpRequest,
    id: web::Path<String>,
    body: Body<Decision>,
) -> Result<HttpResponse, ApiError> {
    done((&state, all), &request, id.into_inner(), move |d| {
        d.decide(body.into_inner())
    })
    .await
}

/// The result as a file, for a teacher.
#[utoipa::path(responses((status = 200), Refusals))]
#[get("/api/drills/{id}/result")]
pub async fn result_file(
    state: House,
    all: Shelf,
    request: HttpRequest,
    id: web::Path<String>,
) -> Result<HttpResponse, ApiError> {
    let who = person(&request);
    let file = state
        .work(move |s| {
            let drill = all.own(s, &id, who.as_deref())?;
            let (kept, result) = drill
                .result()
                .ok_or_else(|| ApiError::Conflict("this drill is not over yet".into()))?;
            Ok(json!({
                "ruhe": "drill result",
                "version": 1,
                "note": "A drill on a simulated plant: nothing in it is evidence of a real system.",
                "title": kept.scenario.title,
                "number": kept.scenario.number,
                "level": kept.level,
                "seed": kept.scenario.truth.seed,
                "learner": kept.who.name,
                "begun_ms": kept.begun_ms,
                "minutes": result.minutes,
                "did": kept.did,
                "decided": kept.decided,
                "looks": kept.looks,
                "account": result.account,
                "brier": result.brier,
                "ruhe_said": result.ruhe,
            }))
        })
        .await?;
    Ok(HttpResponse::Ok()
        .insert_header((
            "Content-Disposition",
            "attachment; filename=\"drill-result.json\"",
        ))
        .json(file))
}
