//! What the page sends.

use super::{ChannelInput, Plan};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};

#[derive(Debug, Deserialize, ToSchema)]
pub struct PlateInput {
    pub part: String,
    /// The low side's figure, as read from the plate.
    #[serde(default)]
    pub low: String,
    /// The high side's, or the only one there is.
    #[serde(default)]
    pub high: String,
    pub unit: String,
    /// Somebody looked: the plate has only one figure.
    #[serde(default)]
    pub only_one: bool,
}

#[derive(Debug, Deserialize, ToSchema)]
pub struct CircuitInput {
    /// Letter on the unit.
    pub tag: String,
    pub name: String,
    pub kind: String,
    pub refrigerant: String,
    /// What is under test, in words.
    #[serde(default)]
    pub scope: String,
    pub volume_l: Option<f64>,
    pub plates: Vec<PlateInput>,
}

#[derive(Debug, Deserialize, ToSchema)]
pub struct JobInput {
    /// A known site …
    pub site_id: Option<String>,
    /// … or a new one.
    pub site_name: Option<String>,
    pub site_place: Option<String>,
    pub system_name: String,
    #[serde(default)]
    pub model: String,
    #[serde(default)]
    pub serial: String,
    pub circuits: Vec<CircuitInput>,
}

#[derive(Debug, Deserialize, ToSchema)]
pub struct TestInput {
    pub kind: String,
    pub plan: Plan,
    pub channels: Vec<ChannelInput>,
}

#[derive(Debug, Deserialize, ToSchema)]
pub struct ReadingInput {
    /// Made by the page, so that sending twice stores once.
    pub id: String,
    pub channel_id: String,
    /// Exactly as typed, in the channel's unit.
    pub typed: String,
    /// When it was read, if entered afterwards: ms since 1970 UTC.
    pub at_ms: Option<i64>,
    /// The page's clock when it was logged; it may have waited for the network since.
    pub logged_ms: Option<i64>,
    /// The page's clock now, as it is sent: shows whether that clock is right.
    pub client_ms: i64,
}

#[derive(Debug, Deserialize, ToSchema)]
pub struct ReadingsInput {
    pub readings: Vec<ReadingInput>,
}

#[derive(Debug, Deserialize, ToSchema)]
pub struct StrikeInput {
    pub reason: String,
    /// What it should have been, if known, as typed.
    pub instead: Option<String>,
}

#[derive(Debug, Deserialize, ToSchema)]
pub struct EventInput {
    pub id: String,
    pub kind: String,
    #[serde(default)]
    pub note: String,
    /// When it happened, if that was said.
    pub at_ms: Option<i64>,
    /// The page's clock when it was logged; it may have waited for the network since.
    pub logged_ms: Option<i64>,
    /// The page's clock now, as it is sent.
    pub client_ms: Option<i64>,
}

#[derive(Debug, Deserialize, ToSchema)]
pub struct ClockInput {
    pub at_ms: i64,
    pub reason: String,
}

#[derive(Debug, Deserialize, ToSchema)]
pub struct StepInput {
    pub step: String,
    #[serde(default)]
    pub note: String,
}

/// A procedure of one's own.
#[derive(Debug, Serialize, Deserialize, ToSchema)]
pub struct ProcedureInput {
    /// Of an earlier version; none: a new procedure.
    pub code: Option<String>,
    pub title: String,
    /// pressure-hold, vacuum-decay or pull-down.
    pub kind: String,
    /// Pa gauge for a hold, Pa absolute for a decay.
    pub pressure_pa: Option<f64>,
    /// A hold at this share of the lowest plate.
    pub share_of_plate: Option<f64>,
    pub time_s: f64,
    pub start_max_pa: Option<f64>,
    /// Targets of an evacuation's pulls, Pa absolute; between two the vacuum is broken with nitrogen.
    #[serde(default)]
    pub targets_pa: Vec<f64>,
    #[serde(default)]
    pub gives_up: String,
    /// Maker's page, code, habit.
    pub source: String,
    /// Somebody has checked it against the maker and the local code.
    #[serde(default)]
    pub is_verified: bool,
}

#[derive(Debug, Deserialize, ToSchema)]
pub struct OverrideInput {
    pub gate: String,
    pub preset: String,
    #[serde(default)]
    pub words: String,
}

#[derive(Debug, Deserialize, ToSchema)]
pub struct SignatureInput {
    pub name: String,
    pub role: String,
    pub statement: String,
    pub state: String,
}

#[derive(Debug, Deserialize, ToSchema)]
pub struct CsvColumn {
    pub heading: String,
    pub channel: ChannelInput,
}

#[derive(Debug, Deserialize, ToSchema)]
pub struct CsvImport {
    pub file: String,
    pub content: String,
    pub kind: String,
    pub plan: Plan,
    pub time_heading: String,
    /// Heading of the date's column, where the time column holds only the time of day.
    pub date_heading: Option<String>,
    /// Minutes east of UTC for stamps without an offset.
    pub offset_minutes: i32,
    pub columns: Vec<CsvColumn>,
}

#[derive(Debug, Deserialize, ToSchema)]
pub struct CsvInput {
    pub file: String,
    pub content: String,
}

/// Units sentences are written in.
#[derive(Debug, Clone, Default, Deserialize, IntoParams)]
pub struct UnitsQuery {
    pub pressure: Option<String>,
    pub temperature: Option<String>,
    pub vacuum: Option<String>,
}

#[derive(Debug, Deserialize, IntoParams)]
pub struct FileQuery {
    /// Name of the file, for messages.
    pub file: Option<String>,
}
