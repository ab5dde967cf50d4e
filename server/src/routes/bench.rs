//! The bench: small calculators on core's own mathematics.

use crate::error::ApiError;
use crate::wire::{
    BudgetInput, BudgetView, CorrectedInput, CorrectedView, EnoughInput, EnoughView, ReachView,
    RetestInput, RetestView, VariantView, VolumeInput, VolumeView,
};
use actix_web::{post, web};
use ruhe_core::hold::{Foreseen, Sky, needed, retest};
use ruhe_core::matter::nitrogen;
use ruhe_core::order::is_as_high;
use ruhe_core::procedure::{Budget, fill, volume_from_bottle};
use ruhe_core::quantity::{AbsolutePressure, Temperature};
use ruhe_core::survey::Volume;

fn positive(fields: &[(&str, f64)]) -> Result<(), ApiError> {
    match fields.iter().find(|(_, v)| !(v.is_finite() && *v > 0.0)) {
        Some((name, _)) => Err(ApiError::wrong(name, "this must be a number above zero")),
        None => Ok(()),
    }
}

/// What two readings say once temperature is taken out.
#[utoipa::path(request_body = CorrectedInput, responses((status = 200, body = CorrectedView)))]
#[post("/api/bench/corrected")]
pub async fn bench_corrected(
    b: web::Json<CorrectedInput>,
) -> Result<web::Json<CorrectedView>, ApiError> {
    positive(&[
        ("start_pa", b.start_pa),
        ("air_pa", b.air_pa),
        ("start_k", b.start_k),
        ("end_k", b.end_k),
        ("end_pa", b.end_pa + b.air_pa),
    ])?;
    for (name, k) in [("start_k", b.start_k), ("end_k", b.end_k)] {
        if !(228.0..=358.0).contains(&k) {
            return Err(ApiError::wrong(
                name,
                "the temperature must be within −45 and 85 °C",
            ));
        }
    }
    let (start, end) = (b.start_pa + b.air_pa, b.end_pa + b.air_pa);
    let amount = nitrogen::density(AbsolutePressure::from_pa(end), Temperature::from_k(b.end_k));
    let corrected = nitrogen::pressure(amount, Temperature::from_k(b.start_k)).pa();
    Ok(web::Json(CorrectedView {
        corrected_pa: corrected - b.air_pa,
        lost_pa: start - corrected,
        lost_ideal_pa: start - end * b.start_k / b.end_k,
        by_temperature_pa: end - corrected,
    }))
}

fn sky_of(b: &EnoughInput) -> Result<Sky, ApiError> {
    if b.sky != "steady" && !(b.sky_k.is_finite() && b.sky_k.abs() <= 40.0) {
        return Err(ApiError::wrong(
            "sky_k",
            "the temperature change must be a number of at most 40 K",
        ));
    }
    match b.sky.as_str() {
        "steady" => Ok(Sky::Steady),
        "ramp" => Ok(Sky::Ramp(b.sky_k)),
        "cloud" => Ok(Sky::Cloud(b.sky_k)),
        "day" => Ok(Sky::Day(b.sky_k, b.hour)),
        other => Err(ApiError::wrong(
            "sky",
            format!("“{other}” is not one of steady, ramp, cloud, day"),
        )),
    }
}

/// How long is enough, and what would help.
#[utoipa::path(request_body = EnoughInput, responses((status = 200, body = EnoughView)))]
#[post("/api/bench/enough")]
pub async fn bench_enough(b: web::Json<EnoughInput>) -> Result<web::Json<EnoughView>, ApiError> {
    let b = b.into_inner();
    positive(&[
        ("test_pa", b.test_pa),
        ("air_pa", b.air_pa),
        ("k", b.k),
        ("digit_pa", b.digit_pa),
        ("range_pa", b.range_pa),
        ("every_s", b.every_s),
    ])?;
    positive(&[
        ("volume_low_l", b.volume_low_l),
        ("volume_high_l", b.volume_high_l),
    ])?;
    if !(1..=4).contains(&b.probes) {
        return Err(ApiError::wrong("probes", "between one and four probes"));
    }
    let sky = sky_of(&b)?;
    let plan = Foreseen {
        pressure: b.test_pa + b.air_pa,
        air: b.air_pa,
        k: b.k,
        digit: b.digit_pa,
        range: b.range_pa,
        probes: b.probes,
        every_s: b.every_s,
        has_barometer: b.has_barometer,
        sky,
    };
    let volume = Volume {
        low: b.volume_low_l,
        high: b.volume_high_l,
        is_measured: false,
    };
    let mut variants = vec![("as planned", plan)];
    if plan.probes < 2 {
        variants.push(("with a second probe", Foreseen { probes: 2, ..plan }));
    }
    if let Sky::Day(k, _) = sky {
        variants.push((
            "begun at dusk",
            Foreseen {
                sky: Sky::Day(k, 20.0),
                ..plan
            },
        ));
    }
    if !plan.has_barometer {
        variants.push((
            "with a barometer",
            Foreseen {
                has_barometer: true,
                ..plan
            },
        ));
    }
    let grams = b.grams;
    let view = web::block(move || {
        variants
            .into_iter()
            .map(|(name, f)| {
                let (first, all) = needed(&f, b.rate.unwrap_or(0.0), volume, Some(&b.refrigerant));
                // A leak of so many grams is met when the worst case (small pressure at work, …) is.
                let by_grams = grams.and_then(|g| {
                    all.iter()
                        .find(|r| r.grams.is_some_and(|(_, high)| high <= g))
                        .map(|r| r.after_s)
                });
                VariantView {
                    name: name.into(),
                    needed_s: if grams.is_some() { by_grams } else { first },
                    reaches: all
                        .iter()
                        .map(|r| ReachView {
                            after_s: r.after_s,
                            rate: r.rate,
                            drop_pa: r.rate * r.after_s,
                            low_g_per_year: r.grams.map(|g| g.0),
                            high_g_per_year: r.grams.map(|g| g.1),
                        })
                        .collect(),
                }
            })
            .collect::<Vec<_>>()
    })
    .await?;
    if view.iter().all(|v| v.reaches.is_empty()) {
        return Err(ApiError::wrong(
            "test_pa",
            "that is too little pressure to hold",
        ));
    }
    Ok(web::Json(EnoughView { variants: view }))
}

/// Whether the bottle reaches, and what is left.
#[utoipa::path(request_body = BudgetInput, responses((status = 200, body = BudgetView)))]
#[post("/api/bench/nitrogen")]
pub async fn bench_nitrogen(b: web::Json<BudgetInput>) -> Result<web::Json<BudgetView>, ApiError> {
    positive(&[
        ("bottle_l", b.bottle_l),
        ("bottle_pa", b.bottle_pa),
        ("k", b.k),
        ("system_l", b.system_l),
        ("to_pa", b.to_pa),
        ("air_pa", b.air_pa),
    ])?;
    let f = fill(&Budget {
        bottle_l: b.bottle_l,
        bottle_pa: b.bottle_pa + b.air_pa,
        k: b.k,
        system_l: b.system_l,
        from_pa: b.from_pa + b.air_pa,
        to_pa: b.to_pa + b.air_pa,
        keeps_pa: b.keeps_pa,
    })
    .ok_or_else(|| ApiError::wrong("bottle_pa", "these figures are outside what the equation of nitrogen is good for (310 bar, −45…85 °C)"))?;
    Ok(web::Json(BudgetView {
        reaches: f.reaches,
        reached_pa: f.reached_pa - b.air_pa,
        left_pa: f.left_pa - b.air_pa,
        fills: f.fills,
    }))
}

/// The system's volume from what a fill took out of the bottle.
#[utoipa::path(request_body = VolumeInput, responses((status = 200, body = VolumeView)))]
#[post("/api/bench/volume")]
pub async fn bench_volume(b: web::Json<VolumeInput>) -> Result<web::Json<VolumeView>, ApiError> {
    positive(&[
        ("k", b.k),
        ("air_pa", b.air_pa),
        ("bottle_digit_pa", b.bottle_digit_pa),
        ("system_digit_pa", b.system_digit_pa),
    ])?;
    let errors = (0.5 * b.bottle_digit_pa, 0.5 * b.system_digit_pa);
    let (volume_l, low_l, high_l) = volume_from_bottle(
        b.bottle_l,
        (b.bottle_before_pa + b.air_pa, b.bottle_after_pa + b.air_pa),
        (b.system_before_pa + b.air_pa, b.system_after_pa + b.air_pa),
        b.k,
        errors,
    )
    .map_err(|why| ApiError::wrong("bottle_after_pa", why))?;
    Ok(web::Json(VolumeView {
        volume_l,
        low_l,
        high_l,
    }))
}

/// What a leak found at one pressure does at another.
#[utoipa::path(request_body = RetestInput, responses((status = 200, body = RetestView)))]
#[post("/api/bench/retest")]
pub async fn bench_retest(b: web::Json<RetestInput>) -> Result<web::Json<RetestView>, ApiError> {
    let r = retest(b.found_pa + b.air_pa, b.again_pa + b.air_pa, b.air_pa).ok_or_else(|| {
        ApiError::wrong("again_pa", "both must be test pressures above the air's")
    })?;
    Ok(web::Json(RetestView {
        laminar: r.laminar,
        choked: r.choked,
        times_as_long: r.times_as_long(),
        is_lower: !is_as_high(b.again_pa, b.found_pa),
    }))
}
