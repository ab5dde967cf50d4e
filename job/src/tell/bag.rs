//! What a device takes along, to go on without the server.

use crate::log::ReadingLine;
use crate::people::Role;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// A circuit, or what was added to it since the last bag.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Bag {
    pub circuit: String,
    /// The log has so many entries before these.
    pub from_seq: u64,
    /// Entries in their canonical form, one a line.
    pub lines: Vec<String>,
    /// Readings by test.
    pub readings: BTreeMap<String, Vec<ReadingLine>>,
    /// Where the next bag goes on.
    pub cursor: i64,
    /// There is more than one bag takes: ask on from the cursor.
    pub more: bool,
}

/// A circuit that can be taken along, and whether there is more of it than was.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct InWork {
    pub id: String,
    /// Entries of its log.
    pub seq: u64,
    /// A test of it takes readings: there may be new ones whatever the log says.
    pub is_read: bool,
}

/// What every circuit needs: the kit, the procedures; and which circuits are in work.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ShelfBag {
    /// Log of the kit.
    pub kit: Vec<String>,
    /// Log of the procedures.
    pub procedures: Vec<String>,
    /// Circuits in work and rigs of the kit.
    pub circuits: Vec<InWork>,
    pub sites: Vec<super::SiteView>,
    /// Who takes it along, if people are known.
    pub name: String,
    pub role: Option<Role>,
}
