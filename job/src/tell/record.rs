//! The record of a circuit, as it prints.

use super::circuit::CircuitView;
use super::test::TestView;
use serde::Serialize;

#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct TestRecord {
    /// Readings struck out among those shown.
    pub struck: usize,
    pub test: TestView,
}

/// A circuit's record, as it prints.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RecordView {
    pub circuit: CircuitView,
    pub tests: Vec<TestRecord>,
    /// Some of its readings came from a simulated gauge.
    pub has_simulated: bool,
    pub printed_ms: i64,
}
