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
