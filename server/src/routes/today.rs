//! What is in work today, what a search finds, and what does not change.

use crate::drills::Here;
use crate::error::{ApiError, Refusals};
use crate::query::{SearchQuery, UnitsQuery};
use actix_web::{get, web};
use ruhe_job::kit::InUse;
use ruhe_job::procedure::JobKind;
use ruhe_job::signoff::State;
use ruhe_job::tell::{
    FoundRow, IndexRow, Meta, SiteView, TodayRow, in_order, meta as meta_view, schools,
};
use ruhe_store::{Tx, Wanted, rows};

/// At most so many are found.
const FOUND: i64 = 200;

/// Units, job kinds, procedures, refrigerants, sites.
#[utoipa::path(responses((status = 200, body = Meta), Refusals))]
#[get("/api/meta")]
pub async fn meta(state: Here) -> Result<web::Json<Meta>, ApiError> {
    let view = state
        .work(|s| {
            let (sites, own) = s
                .store
                .read(|tx| Ok::<_, ApiError>((tx.sites()?, s.procedures(tx)?)))?;
            let sites = sites
                .into_iter()
                .map(|s| SiteView {
                    id: s.id,
                    name: s.name,
                    place: s.place,
                })
                .collect();
            Ok(meta_view(schools(&own), sites, s.simulated_kinds()))
        })
        .await?;
    Ok(web::Json(view))
}

/// What the index holds of a circuit.
fn read(row: &rows::Circuit) -> Result<IndexRow, ApiError> {
    serde_json::from_str(&row.json)
        .map_err(|e| ApiError::Inside(format!("index of circuit {}: {e}", row.id)))
}

/// What of the kit is on which circuit, of all that are in work.
pub fn in_use(tx: &mut Tx<'_>) -> Result<Vec<InUse>, ApiError> {
    let mut out = vec![];
    for row in tx.open_circuits(JobKind::Kit.code())? {
        out.extend(read(&row)?.in_use);
    }
    Ok(out)
}

/// Circuits in work.
#[utoipa::path(params(UnitsQuery), responses((status = 200, body = Vec<TodayRow>), Refusals))]
#[get("/api/today")]
pub async fn today(
    state: Here,
    q: web::Query<UnitsQuery>,
) -> Result<web::Json<Vec<TodayRow>>, ApiError> {
    let units = q.units();
    let rows = state
        .work(move |s| {
            let open = s
                .store
                .read(|tx| Ok::<_, ApiError>(tx.open_circuits(JobKind::Kit.code())?))?;
            open.into_iter()
                .map(|row| Ok(read(&row)?.today(row.id, units)))
                .collect::<Result<Vec<_>, ApiError>>()
        })
        .await?;
    Ok(web::Json(in_order(rows)))
}

fn found(row: rows::Circuit) -> FoundRow {
    let state = row.state.as_deref().and_then(State::from_code);
    FoundRow {
        circuit_id: row.id,
        tag: row.tag,
        name: row.name,
        site: row.site,
        system: row.system,
        serial: row.serial,
        refrigerant: row.refrigerant,
        stage: row.stage,
        state,
        state_title: state.map(|s| s.title().into()),
        at_ms: row.at_ms,
    }
}

/// All work, signed or not, by site, place, system, model, serial, refrigerant, stage, state and date; the latest
/// first.
#[utoipa::path(params(SearchQuery), responses((status = 200, body = Vec<FoundRow>), Refusals))]
#[get("/api/search")]
pub async fn find(
    state: Here,
    q: web::Query<SearchQuery>,
) -> Result<web::Json<Vec<FoundRow>>, ApiError> {
    let q = q.into_inner();
    let signed = q.state.filter(|s| !s.is_empty());
    if let Some(code) = signed.as_deref().filter(|c| State::from_code(c).is_none()) {
        return Err(ApiError::wrong(
            "state",
            format!("“{code}” is not one of {}", State::codes()),
        ));
    }
    let wanted = Wanted {
        words: q
            .q
            .unwrap_or_default()
            .split_whitespace()
            .map(Into::into)
            .collect(),
        state: signed,
        from_ms: q.from_ms,
        to_ms: q.to_ms,
        most: FOUND,
    };
    let rows = state
        .work(move |s| {
            s.store
                .read(|tx| Ok(tx.search(&wanted, JobKind::Kit.code())?))
        })
        .await?;
    Ok(web::Json(rows.into_iter().map(found).collect()))
}
