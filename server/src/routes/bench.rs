//! The bench: small calculators on the rules' own mathematics.

use crate::body::Body;
use crate::error::{ApiError, Refusals};
use actix_web::{post, web};
use ruhe_job::tell::{
    AdditionalInput, AdditionalView, BudgetInput, BudgetView, CorrectedInput, CorrectedView,
    EnoughInput, EnoughView, MassInput, MassRead, PullInput, PullTimeView, RetestInput, RetestView,
    RiseInput, RiseView, SaturationInput, SaturationView, VolumeInput, VolumeView, additional,
    corrected, enough, nitrogen, pull_time, read_mass, retest, rise, saturation, volume,
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

/// Both lines of a refrigerant, and what a pipe's temperature means.
#[utoipa::path(request_body = SaturationInput, responses((status = 200, body = SaturationView), Refusals))]
#[post("/api/bench/saturation")]
pub async fn bench_saturation(
    b: Body<SaturationInput>,
) -> Result<web::Json<SaturationView>, ApiError> {
    Ok(web::Json(saturation(&b.0)?))
}

/// What a rise means, as a leak or as water.
#[utoipa::path(request_body = RiseInput, responses((status = 200, body = RiseView), Refusals))]
#[post("/api/bench/rise")]
pub async fn bench_rise(b: Body<RiseInput>) -> Result<web::Json<RiseView>, ApiError> {
    Ok(web::Json(rise(&b.0)?))
}

/// How long a dry and tight system takes to a target.
#[utoipa::path(request_body = PullInput, responses((status = 200, body = PullTimeView), Refusals))]
#[post("/api/bench/pull")]
pub async fn bench_pull(b: Body<PullInput>) -> Result<web::Json<PullTimeView>, ApiError> {
    Ok(web::Json(pull_time(&b.0)?))
}

/// What a maker adds for the length of a line.
#[utoipa::path(request_body = AdditionalInput, responses((status = 200, body = AdditionalView), Refusals))]
#[post("/api/bench/additional")]
pub async fn bench_additional(
    b: Body<AdditionalInput>,
) -> Result<web::Json<AdditionalView>, ApiError> {
    Ok(web::Json(additional(&b.0)?))
}
