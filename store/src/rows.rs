//! One struct a table. Times are milliseconds since 1970 UTC.
#![allow(missing_docs)] // the columns are described in the migration

use crate::schema::*;
use diesel::prelude::*;

/// An entry of a log; `json` is its canonical text.
#[derive(Debug, Clone, PartialEq, Eq, Queryable, Selectable, Insertable)]
#[diesel(table_name = entries)]
pub struct Entry {
    pub log: String,
    pub seq: i64,
    pub id: String,
    pub deed: String,
    pub json: String,
    pub hash: String,
}

/// The signature of an entry by a key of the installation.
#[derive(Debug, Clone, PartialEq, Eq, Queryable, Selectable, Insertable)]
#[diesel(table_name = signatures)]
pub struct EntrySignature {
    pub log: String,
    pub seq: i64,
    /// The public key, hexadecimal.
    pub key: String,
    pub signature: String,
}

/// Where a test belongs.
#[derive(Debug, Clone, PartialEq, Eq, Queryable, Selectable)]
#[diesel(table_name = tests)]
pub struct Test {
    pub n: i64,
    pub id: String,
    pub circuit: String,
    pub is_open: bool,
}

/// A reading as it comes in; the store gives it its place in the sequence.
#[derive(Debug, Clone, PartialEq, Insertable, Queryable, Selectable)]
#[diesel(table_name = readings)]
pub struct Reading {
    pub id: String,
    pub test: i64,
    pub channel: i32,
    pub at_ms: i64,
    pub typed: String,
    pub value: f64,
    pub origin: String,
    pub actor: String,
    pub device: String,
    pub client_ms: Option<i64>,
    pub received_ms: i64,
    pub skewed: bool,
}

/// A reading as the judges need it.
#[derive(Debug, Clone, PartialEq, Queryable)]
pub struct Value {
    /// In the order stored.
    pub seq: i64,
    pub id: String,
    pub channel: i32,
    pub at_ms: i64,
    /// In the channel's unit.
    pub value: f64,
}

#[derive(Debug, Clone, PartialEq, Eq, Queryable, Selectable, Insertable)]
#[diesel(table_name = photos)]
pub struct Photo {
    pub id: String,
    pub circuit: String,
    pub mime: String,
    pub bytes: Vec<u8>,
}

/// A circuit in the index; `json` is its row on Today.
#[derive(Debug, Clone, PartialEq, Eq, Queryable, Selectable, Insertable, AsChangeset)]
#[diesel(table_name = circuits)]
#[diesel(treat_none_as_null = true)]
pub struct Circuit {
    pub id: String,
    /// The entry of its log that it follows.
    pub seq: i64,
    pub job: String,
    pub site: String,
    pub place: String,
    pub system: String,
    pub serial: String,
    pub tag: String,
    pub name: String,
    pub refrigerant: String,
    pub stage: String,
    /// How it was signed.
    pub state: Option<String>,
    /// Not signed yet.
    pub is_open: bool,
    /// When it was signed, else taken on.
    pub at_ms: i64,
    /// What a search looks through, in small letters.
    pub words: String,
    pub json: String,
}

#[derive(Debug, Clone, PartialEq, Eq, Queryable, Selectable, Insertable)]
#[diesel(table_name = sites)]
pub struct Site {
    pub id: String,
    pub name: String,
    pub place: String,
}

/// Somebody who may come in.
#[derive(Debug, Clone, PartialEq, Eq, Queryable, Selectable, Insertable, AsChangeset)]
#[diesel(table_name = people)]
pub struct Person {
    pub id: String,
    pub name: String,
    pub role: String,
    /// Argon2id in the PHC form.
    pub password: String,
    pub is_out: bool,
}

/// A browser or a phone that is signed in.
#[derive(Debug, Clone, PartialEq, Eq, Queryable, Selectable, Insertable)]
#[diesel(table_name = sessions)]
pub struct Session {
    pub id: String,
    pub person: String,
    /// SHA-256 of the secret.
    pub token: String,
    pub device: String,
    pub is_paired: bool,
    pub made_ms: i64,
    pub seen_ms: i64,
    pub ends_ms: i64,
    /// The session that showed the code it came in with.
    pub paired_by: Option<String>,
}

/// What was refused within an hour.
#[derive(Debug, Clone, PartialEq, Eq, Queryable, Selectable, Insertable)]
#[diesel(table_name = refusals)]
pub struct Refused {
    pub hour_ms: i64,
    pub what: String,
    pub place: String,
    pub address: String,
    pub count: i64,
}

/// A gauge that may send readings.
#[derive(Debug, Clone, PartialEq, Eq, Queryable, Selectable, Insertable)]
#[diesel(table_name = gauges)]
pub struct Gauge {
    pub id: String,
    pub name: String,
    /// SHA-256 of the secret.
    pub token: String,
    pub made_by: String,
    pub made_ms: i64,
    pub seen_ms: Option<i64>,
    pub is_simulated: bool,
    pub is_out: bool,
}

/// Where a gauge's source is read into.
#[derive(Debug, Clone, PartialEq, Eq, Queryable, Selectable, Insertable, AsChangeset)]
#[diesel(table_name = bindings)]
pub struct Binding {
    pub gauge: String,
    pub source: String,
    pub test: i64,
    pub channel: i32,
}

/// A simulated gauge of this server.
#[derive(Debug, Clone, PartialEq, Eq, Queryable, Selectable, Insertable)]
#[diesel(table_name = simulated)]
pub struct Simulated {
    pub test: i64,
    pub gauge: String,
    /// What it measures, as JSON of the server.
    pub truth: String,
    pub start_ms: i64,
}
