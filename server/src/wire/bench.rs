//! The bench: core's mathematics without a job. SI in and out; the page converts.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

#[derive(Debug, Deserialize, ToSchema)]
pub struct CorrectedInput {
    pub start_pa: f64,
    pub end_pa: f64,
    pub start_k: f64,
    pub end_k: f64,
    pub air_pa: f64,
}

#[derive(Debug, Serialize, ToSchema)]
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
#[derive(Debug, Clone, Deserialize, ToSchema)]
pub struct EnoughInput {
    /// Pa gauge.
    pub test_pa: f64,
    pub air_pa: f64,
    pub k: f64,
    /// Smallest step, Pa.
    pub digit_pa: f64,
    pub range_pa: f64,
    pub probes: usize,
    pub every_s: f64,
    pub has_barometer: bool,
    /// steady, ramp, cloud or day.
    pub sky: String,
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

#[derive(Debug, Serialize, ToSchema)]
pub struct ReachView {
    pub after_s: f64,
    /// Smallest loss that would be seen, Pa/s.
    pub rate: f64,
    /// As a drop over that time, Pa.
    pub drop_pa: f64,
    pub low_g_per_year: Option<f64>,
    pub high_g_per_year: Option<f64>,
}

#[derive(Debug, Serialize, ToSchema)]
pub struct VariantView {
    /// "as planned", "with a second probe", "begun at dusk".
    pub name: String,
    /// Seconds that are enough; none: not within two days.
    pub needed_s: Option<f64>,
    pub reaches: Vec<ReachView>,
}

#[derive(Debug, Serialize, ToSchema)]
pub struct EnoughView {
    pub variants: Vec<VariantView>,
}

#[derive(Debug, Deserialize, ToSchema)]
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

#[derive(Debug, Serialize, ToSchema)]
pub struct BudgetView {
    pub reaches: bool,
    /// Pa gauge.
    pub reached_pa: f64,
    /// Bottle after one fill, Pa gauge.
    pub left_pa: f64,
    pub fills: u32,
}

#[derive(Debug, Deserialize, ToSchema)]
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

#[derive(Debug, Serialize, ToSchema)]
pub struct VolumeView {
    pub volume_l: f64,
    pub low_l: f64,
    pub high_l: f64,
}

#[derive(Debug, Deserialize, ToSchema)]
pub struct RetestInput {
    /// Pressure that showed the leak, Pa gauge.
    pub found_pa: f64,
    /// Pressure of the re-test, Pa gauge.
    pub again_pa: f64,
    pub air_pa: f64,
}

#[derive(Debug, Serialize, ToSchema)]
pub struct RetestView {
    /// Rate at the new pressure over the old one.
    pub laminar: f64,
    pub choked: f64,
    pub times_as_long: f64,
    pub is_lower: bool,
}
