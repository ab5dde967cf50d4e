//! Short replies.

use ruhe_core::quantity::Unit;
use ruhe_core::reading::{Ask, Quantity};
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

/// What of a file may be read in two ways.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct QuestionView {
    pub about: Ask,
    pub words: String,
    pub choices: Vec<ChoiceView>,
}

/// One way to read it, and what that gives where nothing else is open.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ChoiceView {
    pub code: String,
    pub words: String,
    pub gives: Option<TakenView>,
}

/// What a file gives when it is read as said.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct TakenView {
    /// Of the first reading; nothing: the file does not say.
    pub start_ms: Option<i64>,
    pub lasts_s: f64,
    pub readings: usize,
    /// Rows that only said again what the row before had said.
    pub duplicates: usize,
    /// Rows that the logger itself says went wrong.
    pub bad: usize,
    /// What each column begins and ends with.
    pub columns: Vec<TakenColumn>,
    /// The verdict it would have here.
    pub word: String,
    pub headline: String,
    /// What to be sure of before it is taken, a sentence each.
    pub doubts: Vec<String>,
}

/// A column of a file as it would be taken, in its unit.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct TakenColumn {
    pub heading: String,
    pub first: Option<f64>,
    pub last: Option<f64>,
}

/// A file looked at before it is taken.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct FileLook {
    /// What is still open.
    pub questions: Vec<QuestionView>,
    /// Its stamps carry no offset: where the logger stood has to be known.
    pub needs_place: bool,
    /// What it gives, where nothing is.
    pub gives: Option<TakenView>,
}

/// A logger's file as it was understood.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct FileView {
    /// What it is asked for by from now on.
    pub token: String,
    pub columns: Vec<ColumnView>,
    /// What was understood, a sentence each.
    pub words: Vec<String>,
    /// The same for every file of this shape.
    pub shape: String,
    /// Its first rows as they stand.
    pub sample: Vec<Vec<String>>,
}
