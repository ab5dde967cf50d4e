//! One struct a table. Times are milliseconds since 1970 UTC.
#![allow(missing_docs)] // the columns are described in the migration

use crate::schema::*;
use diesel::prelude::*;

#[derive(Debug, Clone, Queryable, Selectable, Insertable)]
#[diesel(table_name = sites)]
pub struct Site {
    pub id: String,
    pub name: String,
    pub place: String,
}

#[derive(Debug, Clone, Queryable, Selectable, Insertable)]
#[diesel(table_name = systems)]
pub struct System {
    pub id: String,
    pub site_id: String,
    pub name: String,
    pub model: String,
    pub serial: String,
}

#[derive(Debug, Clone, Queryable, Selectable, Insertable)]
#[diesel(table_name = circuits)]
pub struct Circuit {
    pub id: String,
    pub system_id: String,
    pub tag: String,
    pub name: String,
    pub kind: String,
    pub refrigerant: String,
    pub scope: String,
    pub volume_l: Option<f64>,
    pub created_ms: i64,
}

#[derive(Debug, Clone, Queryable, Selectable, Insertable)]
#[diesel(table_name = photos)]
pub struct Photo {
    pub id: String,
    pub circuit_id: String,
    pub mime: String,
    pub bytes: Vec<u8>,
    pub at_ms: i64,
}

#[derive(Debug, Clone, Queryable, Selectable, Insertable)]
#[diesel(table_name = looks)]
pub struct Look {
    pub id: String,
    pub circuit_id: String,
    pub place: String,
    /// Section it lies in, if known.
    pub section: Option<String>,
    pub method: String,
    pub finding: String,
    pub dwell_s: Option<f64>,
    /// Pressure it was looked at under, Pa gauge, if known.
    pub at_pa: Option<f64>,
    pub note: String,
    pub photo_id: Option<String>,
    pub at_ms: i64,
}

#[derive(Debug, Clone, Queryable, Selectable, Insertable)]
#[diesel(table_name = repairs)]
pub struct Repair {
    pub id: String,
    pub circuit_id: String,
    pub place: String,
    /// Section it lies in, if known.
    pub section: Option<String>,
    pub cause: String,
    pub words: String,
    pub torque_nm: Option<f64>,
    pub with_torch: bool,
    pub at_ms: i64,
}

/// A version of a thing of the kit.
#[derive(Debug, Clone, PartialEq, Queryable, Selectable, Insertable)]
#[diesel(table_name = kit)]
pub struct KitItem {
    pub item_id: String,
    pub kind: String,
    pub json: String,
    pub at_ms: i64,
}

#[derive(Debug, Clone, Queryable, Selectable, Insertable)]
#[diesel(table_name = tests)]
pub struct Test {
    pub id: String,
    pub circuit_id: String,
    pub kind: String,
    pub attempt: i32,
    pub plan: String,
    pub created_ms: i64,
}

#[derive(Debug, Clone, Queryable, Selectable, Insertable)]
#[diesel(table_name = channels)]
pub struct Channel {
    pub id: String,
    pub test_id: String,
    pub place: i32,
    pub name: String,
    pub quantity: String,
    pub unit: String,
    pub resolution: Option<f64>,
    pub accuracy: Option<f64>,
    pub range_top: Option<f64>,
    pub position: Option<String>,
    pub volume_share: Option<f64>,
    pub reference: Option<String>,
    pub principle: Option<String>,
    pub extra: String,
}

/// A reading as it comes in; the store gives it its place in the sequence.
#[derive(Debug, Clone, PartialEq, Insertable, Queryable, Selectable)]
#[diesel(table_name = readings)]
pub struct Reading {
    pub id: String,
    pub test_id: String,
    pub channel_id: String,
    pub at_ms: i64,
    pub typed: String,
    pub value: f64,
    pub origin: String,
    pub client_ms: Option<i64>,
    pub received_ms: i64,
    pub skewed: bool,
}

#[derive(Debug, Clone, Queryable, Selectable, Insertable)]
#[diesel(table_name = strikes)]
pub struct Strike {
    pub id: String,
    pub reading_id: String,
    pub reason: String,
    pub superseded_by: Option<String>,
    pub at_ms: i64,
}

#[derive(Debug, Clone, PartialEq, Queryable, Selectable, Insertable)]
#[diesel(table_name = events)]
pub struct Event {
    pub id: String,
    pub test_id: String,
    pub kind: String,
    pub note: String,
    pub at_ms: i64,
    /// The page's clock when it was sent.
    pub client_ms: Option<i64>,
    pub received_ms: i64,
}

#[derive(Debug, Clone, Queryable, Selectable, Insertable)]
#[diesel(table_name = clock_starts)]
pub struct ClockStart {
    pub id: String,
    pub test_id: String,
    pub at_ms: i64,
    pub reason: String,
    pub received_ms: i64,
}

#[derive(Debug, Clone, Queryable, Selectable, Insertable)]
#[diesel(table_name = verdicts)]
pub struct Verdict {
    pub id: String,
    pub test_id: String,
    pub engine: String,
    pub json: String,
    pub at_ms: i64,
}

#[derive(Debug, Clone, Queryable, Selectable, Insertable)]
#[diesel(table_name = test_ends)]
pub struct TestEnd {
    pub test_id: String,
    pub verdict_id: String,
    pub at_ms: i64,
}

#[derive(Debug, Clone, Queryable, Selectable, Insertable)]
#[diesel(table_name = steps)]
pub struct Step {
    pub id: String,
    pub circuit_id: String,
    pub step: String,
    pub note: String,
    pub at_ms: i64,
}

#[derive(Debug, Clone, Queryable, Selectable, Insertable)]
#[diesel(table_name = overrides)]
pub struct Override {
    pub id: String,
    pub circuit_id: String,
    pub gate: String,
    pub preset: String,
    pub words: String,
    pub at_ms: i64,
}

#[derive(Debug, Clone, Queryable, Selectable, Insertable)]
#[diesel(table_name = signatures)]
pub struct Signature {
    pub id: String,
    pub circuit_id: String,
    pub name: String,
    pub role: String,
    pub statement: String,
    pub state: String,
    pub gates: String,
    pub digest: String,
    pub at_ms: i64,
}
