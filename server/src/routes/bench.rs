//! The bench: small calculators on the rules' own mathematics.

use crate::body::Body;
use crate::error::{ApiError, Refusals};
use actix_web::{post, web};
use ruhe_job::tell::{
    BudgetInput, BudgetView, CorrectedInput, CorrectedView, EnoughInput, EnoughView, MassInput,
    MassRead, RetestInput, RetestView, VolumeInput, VolumeView, corrected, enough, nitrogen,
    read_mass, retest, volume,
};

/// What two readings say once temperature is taken out.
#[utoipa::path(request_body = CorrectedInput, responses((status = 200, body = CorrectedView), Refusals))]
#[post("/api/bench/corrected")]
pub async fn bench_corrected(
    b: Body<CorrectedInput>,
) -> Result<web::Json<CorrectedView>, ApiError> {
    Ok(web::Json(corrected(&b.0)?))
}

/// How long is enough, and what would help.
#[utoipa::path(request_body = EnoughInput, responses((status = 200, body = EnoughView), Refusals))]
#[post("/api/bench/enough")]
pub async fn bench_enough(b: Body<EnoughInput>) -> Result<web::Json<EnoughView>, ApiError> {
    let view = web::block(move || enough(&b.0)).await??;
    Ok(web::Json(view))
}

/// Whether the bottle reaches, and what is left.
#[utoipa::path(request_body = BudgetInput, responses((status = 200, body = BudgetView), Refusals))]
#[post("/api/bench/nitrogen")]
pub async fn bench_nitrogen(b: Body<BudgetInput>) -> Result<web::Json<BudgetView>, ApiError> {
    Ok(web::Json(nitrogen(&b.0)?))
}

/// The system's volume from what a fill took out of the bottle.
#[utoipa::path(request_body = VolumeInput, responses((status = 200, body = VolumeView), Refusals))]
#[post("/api/bench/volume")]
pub async fn bench_volume(b: Body<VolumeInput>) -> Result<web::Json<VolumeView>, ApiError> {
    Ok(web::Json(volume(&b.0)?))
}

/// What a leak found at one pressure does at another.
#[utoipa::path(request_body = RetestInput, responses((status = 200, body = RetestView), Refusals))]
#[post("/api/bench/retest")]
pub async fn bench_retest(b: Body<RetestInput>) -> Result<web::Json<RetestView>, ApiError> {
    Ok(web::Json(retest(&b.0)?))
}

/// A mass as typed, in every form, and what else may be meant.
#[utoipa::path(request_body = MassInput, responses((status = 200, body = MassRead), Refusals))]
#[post("/api/bench/mass")]
pub async fn bench_mass(b: Body<MassInput>) -> Result<web::Json<MassRead>, ApiError> {
    Ok(web::Json(read_mass(&b.0)?))
}
