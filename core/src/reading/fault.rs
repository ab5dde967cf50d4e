//! What is wrong with a file, and where.

/// A refusal of a file, with file, line and column so that a person can find it.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("{}{}{}: {message}", .file, .line.map(|l| format!(", line {l}")).unwrap_or_default(),
        .column.as_ref().map(|c| format!(", column {c}")).unwrap_or_default())]
pub struct Fault {
    /// File within the package.
    pub file: String,
    /// Line, counted from 1 with the heading.
    pub line: Option<u64>,
    /// Column name or JSON field.
    pub column: Option<String>,
    /// What is wrong and, where it helps, what would be right.
    pub message: String,
}

impl Fault {
    /// A fault of a whole file.
    #[must_use]
    pub fn file(file: &str, message: impl Into<String>) -> Self {
        Self {
            file: file.into(),
            line: None,
            column: None,
            message: message.into(),
        }
    }
    /// A fault of one field of a JSON file.
    #[must_use]
    pub fn field(file: &str, field: &str, message: impl Into<String>) -> Self {
        Self {
            file: file.into(),
            line: None,
            column: Some(field.into()),
            message: message.into(),
        }
    }
    /// A fault of one cell of a table.
    #[must_use]
    pub fn cell(file: &str, line: u64, column: &str, message: impl Into<String>) -> Self {
        Self {
            file: file.into(),
            line: Some(line),
            column: Some(column.into()),
            message: message.into(),
        }
    }
}

/// What serde says of a field, for people: without the place in the text, and codes without their quotes.
#[must_use]
pub fn plain(said: &str) -> String {
    let said = said.split(" at line ").next().unwrap_or(said);
    if let Some((code, list)) = said
        .strip_prefix("unknown variant `")
        .and_then(|rest| rest.split_once("`, expected "))
    {
        let list = list.trim_start_matches("one of ").replace('`', "");
        return format!("“{code}” is not one of {}", list.replace(" or ", ", "));
    }
    if let Some((field, _)) = said
        .strip_prefix("unknown field `")
        .and_then(|rest| rest.split_once('`'))
    {
        return format!("“{field}” is not said here");
    }
    match said
        .strip_prefix("missing field `")
        .and_then(|f| f.strip_suffix('`'))
    {
        Some(field) => format!("{field} is missing"),
        None => said.into(),
    }
}
