//! The bench: core's mathematics without a job. SI in and out; the page converts.

use crate::order::is_as_high;
use crate::procedure::{Budget, fill, volume_from_bottle};
use crate::refusal::Refusal;
use ruhe_core::hold::{self, Foreseen, Sky, Volume, needed};
use ruhe_core::matter::nitrogen;
use ruhe_core::named;
use ruhe_core::quantity::{AbsolutePressure, Temperature};
use ruhe_core::reading::Placement;
use serde::{Deserialize, Serialize};

named! {
    /// What the weather will do.
    SkyKind {
        /// Nothing.
        Steady = "steady",
        /// It warms or cools steadily.
        Ramp = "ramp",
        /// Sun and cloud change.
        Cloud = "cloud",
        /// A day goes by.
        Day = "day",
    }
}

#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CorrectedInput {
    pub start_pa: f64,
    pub end_pa: f64,
    pub start_k: f64,
    pub end_k: f64,
    pub air_pa: f64,
}

#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CorrectedView {
    /// The end reading at the start's temperature, Pa gauge.
    pub corrected_pa: f64,
    /// Lost (positive) or gained, real gas, Pa.
    pub lost_pa: f64,
    /// The same by the ideal gas law.
    pub lost_ideal_pa: f64,
    /// What temperature alone did, Pa.
    pub by_temperature_pa: f64,
}

/// A hold as foreseen.
#[derive(Debug, Clone, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct EnoughInput {
    /// Pa gauge.
    pub test_pa: f64,
    pub air_pa: f64,
    pub k: f64,
    /// Smallest step, Pa.
    pub digit_pa: f64,
    pub range_pa: f64,
    pub probes: usize,
    /// How they sit; none: nobody said.
    #[serde(default)]
    pub probe: Option<Placement>,
    pub every_s: f64,
    pub has_barometer: bool,
    pub sky: SkyKind,
    /// K/h for a ramp; K between sun and cloud; K either way over a day.
    #[serde(default)]
    pub sky_k: f64,
    /// Hour of the day it begins at.
    #[serde(default)]
    pub hour: f64,
    pub volume_low_l: f64,
    pub volume_high_l: f64,
    pub refrigerant: String,
    /// Wanted: a loss of so many Pa/s …
    pub rate: Option<f64>,
    /// … or a leak of so many grams a year.
    pub grams: Option<f64>,
}

#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ReachView {
    pub after_s: f64,
    /// Smallest loss that would be seen, Pa/s.
    pub rate: f64,
    /// As a drop over that time, Pa.
    pub drop_pa: f64,
    pub low_g_per_year: Option<f64>,
    pub high_g_per_year: Option<f64>,
}

#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct VariantView {
    /// "as planned", "with a second probe", "begun at dusk".
    pub name: String,
    /// Seconds that are enough; none: not within two days.
    pub needed_s: Option<f64>,
    pub reaches: Vec<ReachView>,
}

#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct EnoughView {
    pub variants: Vec<VariantView>,
}

#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct BudgetInput {
    pub bottle_l: f64,
    /// Pa gauge.
    pub bottle_pa: f64,
    pub k: f64,
    pub system_l: f64,
    /// Pa gauge.
    pub from_pa: f64,
    /// Pa gauge.
    pub to_pa: f64,
    pub keeps_pa: f64,
    pub air_pa: f64,
}

#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct BudgetView {
    pub reaches: bool,
    /// Pa gauge.
    pub reached_pa: f64,
    /// Bottle after one fill, Pa gauge.
    pub left_pa: f64,
    pub fills: u32,
}

#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct VolumeInput {
    pub bottle_l: f64,
    /// Pa gauge, before and after.
    pub bottle_before_pa: f64,
    pub bottle_after_pa: f64,
    /// Smallest step of the bottle's gauge, Pa.
    pub bottle_digit_pa: f64,
    pub system_before_pa: f64,
    pub system_after_pa: f64,
    pub system_digit_pa: f64,
    pub k: f64,
    pub air_pa: f64,
}

#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct VolumeView {
    pub volume_l: f64,
    pub low_l: f64,
    pub high_l: f64,
}

#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RetestInput {
    /// Pressure that showed the leak, Pa gauge.
    pub found_pa: f64,
    /// Pressure of the re-test, Pa gauge.
    pub again_pa: f64,
    pub air_pa: f64,
}

#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RetestView {
    /// Rate at the new pressure over the old one.
    pub laminar: f64,
    pub choked: f64,
    pub times_as_long: f64,
    pub is_lower: bool,
}

pub(super) fn positive(fields: &[(&str, f64)]) -> Result<(), Refusal> {
    match fields.iter().find(|(_, v)| !(v.is_finite() && *v > 0.0)) {
        Some((name, _)) => Err(Refusal::wrong(name, "this must be a number above zero")),
        None => Ok(()),
    }
}

/// What two readings say once temperature is taken out.
///
/// # Errors
/// A figure that cannot be, with its field.
pub fn corrected(b: &CorrectedInput) -> Result<CorrectedView, Refusal> {
    positive(&[
        ("start_pa", b.start_pa),
        ("air_pa", b.air_pa),
        ("start_k", b.start_k),
        ("end_k", b.end_k),
        ("end_pa", b.end_pa + b.air_pa),
    ])?;
    for (name, k) in [("start_k", b.start_k), ("end_k", b.end_k)] {
        if !(228.0..=358.0).contains(&k) {
            return Err(Refusal::wrong(
                name,
                "the temperature must be within −45 and 85 °C",
            ));
        }
    }
    let (start, end) = (b.start_pa + b.air_pa, b.end_pa + b.air_pa);
    // The pipe grows with it, as in a hold: brought back to the start's temperature it holds the same gas in less room.
    let grown = 1.0 + hold::COPPER * (b.end_k - b.start_k);
    let amount =
        grown * nitrogen::density(AbsolutePressure::from_pa(end), Temperature::from_k(b.end_k));
    let corrected = nitrogen::pressure(amount, Temperature::from_k(b.start_k)).pa();
    Ok(CorrectedView {
        corrected_pa: corrected - b.air_pa,
        lost_pa: start - corrected,
        lost_ideal_pa: start - end * b.start_k / b.end_k,
        by_temperature_pa: end - corrected,
    })
}

fn sky_of(b: &EnoughInput) -> Result<Sky, Refusal> {
    if b.sky != SkyKind::Steady && !(b.sky_k.is_finite() && b.sky_k.abs() <= 40.0) {
        return Err(Refusal::wrong(
            "sky_k",
            "the temperature change must be a number of at most 40 K",
        ));
    }
    Ok(match b.sky {
        SkyKind::Steady => Sky::Steady,
        SkyKind::Ramp => Sky::Ramp(b.sky_k),
        SkyKind::Cloud => Sky::Cloud(b.sky_k),
        SkyKind::Day => Sky::Day(b.sky_k, b.hour),
    })
}

/// How long is enough, and what would help.
///
/// # Errors
/// A figure that cannot be, with its field.
pub fn enough(b: &EnoughInput) -> Result<EnoughView, Refusal> {
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
        return Err(Refusal::wrong("probes", "between one and four probes"));
    }
    let sky = sky_of(b)?;
    let plan = Foreseen {
        pressure: b.test_pa + b.air_pa,
        air: b.air_pa,
        k: b.k,
        digit: b.digit_pa,
        range: b.range_pa,
        probes: b.probes,
        probe: b.probe,
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
    let view = variants
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
        .collect::<Vec<_>>();
    if view.iter().all(|v| v.reaches.is_empty()) {
        return Err(Refusal::wrong(
            "test_pa",
            "that is too little pressure to hold",
        ));
    }
    Ok(EnoughView { variants: view })
}

/// Whether the bottle reaches, and what is left.
///
/// # Errors
/// A figure that cannot be, with its field.
pub fn nitrogen(b: &BudgetInput) -> Result<BudgetView, Refusal> {
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
    .ok_or_else(|| {
        Refusal::wrong(
            "bottle_pa",
            "these figures are outside what the equation of nitrogen is good \
         for (310 bar, −45…85 °C)",
        )
    })?;
    Ok(BudgetView {
        reaches: f.reaches,
        reached_pa: f.reached_pa - b.air_pa,
        left_pa: f.left_pa - b.air_pa,
        fills: f.fills,
    })
}

/// The system's volume from what a fill took out of the bottle.
///
/// # Errors
/// A figure that cannot be, with its field.
pub fn volume(b: &VolumeInput) -> Result<VolumeView, Refusal> {
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
    .map_err(|why| Refusal::wrong("bottle_after_pa", why))?;
    Ok(VolumeView {
        volume_l,
        low_l,
        high_l,
    })
}

/// What a leak found at one pressure does at another.
///
/// # Errors
/// A figure that cannot be, with its field.
pub fn retest(b: &RetestInput) -> Result<RetestView, Refusal> {
    let r = hold::retest(b.found_pa + b.air_pa, b.again_pa + b.air_pa, b.air_pa)
        .ok_or_else(|| Refusal::wrong("again_pa", "both must be test pressures above the air's"))?;
    Ok(RetestView {
        laminar: r.laminar,
        choked: r.choked,
        times_as_long: r.times_as_long(),
        is_lower: !is_as_high(b.again_pa, b.found_pa),
    })
}
