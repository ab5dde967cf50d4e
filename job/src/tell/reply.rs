//! Short replies.

use ruhe_core::quantity::Unit;
use ruhe_core::reading::Quantity;
use serde::Serialize;

#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct NamedView {
    pub code: String,
    pub title: String,
}

#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Created {
    pub id: String,
}

#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct JobCreated {
    pub circuit_ids: Vec<String>,
}

#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct StoredView {
    pub new: usize,
    pub known: usize,
    /// Readings whose clock was off by more than 5 s.
    pub skewed: usize,
}

#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ColumnView {
    pub heading: String,
    pub is_time: bool,
    /// Holds dates without a time of day.
    pub is_date: bool,
    pub quantity: Option<Quantity>,
    pub unit: Option<Unit>,
    pub example: String,
}

/// A logger's file as it was understood.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct FileView {
    pub columns: Vec<ColumnView>,
    /// What was understood, a sentence each.
    pub words: Vec<String>,
    /// Day and month could both come first in its dates.
    pub asks_day_order: bool,
    /// The same for every file of this shape.
    pub shape: String,
    /// Its first rows as they stand.
    pub sample: Vec<Vec<String>>,
}
