//! More of the bench: saturation, what a rise means, how long a pull takes, an addition by length, a flare's torque.

use super::bench::positive;
use super::mass::MassView;
use crate::argue::rung_of_rise;
use crate::charge::addition;
use crate::kit::{Arranged, Hose, assemble};
use crate::refusal::Refusal;
use crate::survey::Typed;
use ruhe_core::flow::{Pump, Pumping, Tube, gains, time_to};
use ruhe_core::matter::refrigerant::{Refrigerant, find};
use serde::{Deserialize, Serialize};

fn known(name: &str) -> Result<&'static Refrigerant, Refusal> {
    find(name).ok_or_else(|| {
        Refusal::wrong(
            "refrigerant",
            format!("Ruhe has no saturation table of “{name}”"),
        )
    })
}

/// A refrigerant at rest or at work.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SaturationInput {
    pub refrigerant: String,
    pub air_pa: f64,
    /// A pressure, Pa gauge …
    pub pa: Option<f64>,
    /// … or a temperature, K.
    pub k: Option<f64>,
    /// What a pipe shows at that pressure, K.
    pub pipe_k: Option<f64>,
}

#[derive(Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SaturationView {
    /// Where liquid begins to boil: subcooling counts from here. Pa gauge and K.
    pub bubble_pa: f64,
    pub bubble_k: f64,
    /// Where vapour begins to condense: superheat counts from here. Pa gauge and K.
    pub dew_pa: f64,
    pub dew_k: f64,
    /// So far the two lie apart at one pressure, K; none: by temperature.
    pub glide_k: Option<f64>,
    /// The pipe above the dew line, K.
    pub superheat_k: Option<f64>,
    /// The pipe below the bubble line, K.
    pub subcooling_k: Option<f64>,
}

/// Both lines of a refrigerant by pressure or by temperature; at a pressure, what a pipe's temperature means.
///
/// # Errors
/// No such refrigerant, or outside its table.
pub fn saturation(b: &SaturationInput) -> Result<SaturationView, Refusal> {
    let r = known(&b.refrigerant)?;
    positive(&[("air_pa", b.air_pa)])?;
    let outside = |field: &str| {
        Refusal::wrong(
            field,
            format!("that is outside the saturation table of {}", r.name),
        )
    };
    match (b.pa, b.k) {
        (Some(pa), None) => {
            let p = pa + b.air_pa;
            let lines = r.bubble_at(p).zip(r.dew_at(p));
            let (bubble_k, dew_k) = lines.ok_or_else(|| outside("pa"))?;
            let pipe = b.pipe_k.filter(|k| k.is_finite() && *k > 0.0);
            Ok(SaturationView {
                bubble_pa: pa,
                bubble_k,
                dew_pa: pa,
                dew_k,
                glide_k: Some(dew_k - bubble_k),
                superheat_k: pipe.map(|k| k - dew_k).filter(|d| *d >= 0.0),
                subcooling_k: pipe.map(|k| bubble_k - k).filter(|d| *d >= 0.0),
            })
        }
        (None, Some(k)) => {
            let (bubble, dew) = (r.standing(k), r.dew(k));
            // The curves go on beyond their ends; what cannot be found back there is not said.
            let is_within = r.bubble_at(bubble).is_some() && r.dew_at(dew).is_some();
            if !(k.is_finite() && is_within) {
                return Err(outside("k"));
            }
            Ok(SaturationView {
                bubble_pa: bubble - b.air_pa,
                bubble_k: k,
                dew_pa: dew - b.air_pa,
                dew_k: k,
                glide_k: None,
                superheat_k: None,
                subcooling_k: None,
            })
        }
        _ => Err(Refusal::wrong(
            "pa",
            "a pressure or a temperature, one of them",
        )),
    }
}

/// A rise under vacuum.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RiseInput {
    /// Pa …
    pub rise_pa: f64,
    /// … in so many seconds …
    pub over_s: f64,
    /// … in a volume between these, L.
    pub low_l: f64,
    pub high_l: f64,
    pub k: f64,
    pub refrigerant: String,
}

#[derive(Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RiseView {
    /// Throughput, Pa·m³/s.
    pub low: f64,
    pub high: f64,
    /// As refrigerant at work, if it is all a leak, g a year.
    pub low_g_per_year: f64,
    pub high_g_per_year: f64,
    /// If it is all water: so much vapour came in that time, mg.
    pub low_water_mg: f64,
    pub high_water_mg: f64,
}

/// Gas constant of water vapour, J/(kg·K): R/M with M = 18.015 268 g/mol (IAPWS-95).
const WATER: f64 = 8.314_462_618 / 0.018_015_268;

/// What a rise means: as a leak, or as water.
///
/// Throughput Q = V·Δp/Δt; water m = V·Δp/(R_w·T), the ideal gas law, good below a few thousand Pa.
///
/// # Errors
/// A figure that cannot be, with its field.
pub fn rise(b: &RiseInput) -> Result<RiseView, Refusal> {
    positive(&[
        ("rise_pa", b.rise_pa),
        ("over_s", b.over_s),
        ("low_l", b.low_l),
        ("high_l", b.high_l),
        ("k", b.k),
    ])?;
    if b.low_l > b.high_l {
        return Err(Refusal::wrong(
            "high_l",
            "the larger volume is smaller than the smaller one",
        ));
    }
    known(&b.refrigerant)?;
    let rate = b.rise_pa / b.over_s;
    let leak = rung_of_rise(rate, true, (b.low_l, b.high_l), &b.refrigerant, None)
        .ok_or_else(|| Refusal::wrong("rise_pa", "that is no rise"))?;
    let water = |l: f64| l * 1e-3 * b.rise_pa / (WATER * b.k) * 1e6;
    Ok(RiseView {
        low: rate * b.low_l * 1e-3,
        high: rate * b.high_l * 1e-3,
        low_g_per_year: leak.low,
        high_g_per_year: leak.high,
        low_water_mg: water(b.low_l),
        high_water_mg: water(b.high_l),
    })
}

/// A pull through one hose, or two alike.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PullInput {
    /// The pump's speed, m³/s, and what it reaches, Pa.
    pub speed: f64,
    pub ultimate_pa: f64,
    pub bore_mm: f64,
    pub length_m: f64,
    pub two_hoses: bool,
    pub core_in: bool,
    pub volume_l: f64,
    pub target_pa: f64,
}

#[derive(Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PullTimeView {
    /// Dry and tight, from the air's pressure, s; none: it never gets there.
    pub takes_s: Option<f64>,
    /// What it would take with one thing changed, the best first.
    pub gains: Vec<PullGain>,
}

#[derive(Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PullGain {
    pub name: String,
    /// Taken away; else made twice as wide.
    pub is_taken_away: bool,
    pub takes_s: f64,
}

/// How long a dry and tight system takes to a target, and what would help.
///
/// # Errors
/// A figure that cannot be, with its field.
pub fn pull_time(b: &PullInput) -> Result<PullTimeView, Refusal> {
    positive(&[
        ("speed", b.speed),
        ("ultimate_pa", b.ultimate_pa),
        ("bore_mm", b.bore_mm),
        ("length_m", b.length_m),
        ("volume_l", b.volume_l),
        ("target_pa", b.target_pa),
    ])?;
    let hose = Hose {
        name: "the hose".into(),
        tube: Tube::mm(b.bore_mm, b.length_m),
    };
    let hoses = vec![hose; if b.two_hoses { 2 } else { 1 }];
    let rig = assemble(
        Pump {
            speed: b.speed,
            ultimate: b.ultimate_pa,
        },
        &hoses,
        Arranged {
            side_by_side: b.two_hoses,
            core_in: b.core_in,
            ..Arranged::default()
        },
    );
    let pumping = Pumping {
        volume: b.volume_l * 1e-3,
        from: ruhe_core::matter::atmosphere::SEA_LEVEL.pa(),
        load: 0.0,
    };
    Ok(PullTimeView {
        takes_s: time_to(&rig, &pumping, b.target_pa),
        gains: gains(&rig, &pumping, b.target_pa)
            .into_iter()
            .map(|g| PullGain {
                name: g.name,
                is_taken_away: g.is_taken_away,
                takes_s: g.then,
            })
            .collect(),
    })
}

/// What a maker adds for the length of a line.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct AdditionalInput {
    pub length: Typed,
    /// Length that the factory charge covers.
    pub included: Typed,
    /// g/m, kg/m, oz/ft or lb/ft.
    pub rate: Typed,
}

#[derive(Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct AdditionalView {
    pub mass: MassView,
    /// The line is shorter than what is covered: nothing is added, and nothing taken out.
    pub is_covered: bool,
}

/// The addition for a line.
///
/// # Errors
/// What is wrong with a figure, at its field.
pub fn additional(b: &AdditionalInput) -> Result<AdditionalView, Refusal> {
    let (mass, is_covered) = addition(&b.length, &b.included, &b.rate)?;
    Ok(AdditionalView {
        mass: mass.into(),
        is_covered,
    })
}

/// The usual torque of a flare nut.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct TorqueView {
    /// Size of the tube.
    pub size: String,
    /// N·m.
    pub low_nm: f64,
    pub high_nm: f64,
}

/// Usual torques of flare nuts on soft copper, by tube size, N·m. *Common practice, no source*, written from memory:
/// the maker's table goes before it, and differs.
const TORQUES: [(&str, f64, f64); 5] = [
    ("1/4 in", 14.0, 18.0),
    ("3/8 in", 33.0, 42.0),
    ("1/2 in", 50.0, 62.0),
    ("5/8 in", 63.0, 77.0),
    ("3/4 in", 90.0, 110.0),
];

/// The table of usual torques.
#[must_use]
pub fn torques() -> Vec<TorqueView> {
    TORQUES
        .iter()
        .map(|&(size, low_nm, high_nm)| TorqueView {
            size: size.into(),
            low_nm,
            high_nm,
        })
        .collect()
}
