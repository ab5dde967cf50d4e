//! Why a command is refused, in words for the person who gave it.

/// A refusal: what is wrong, and where.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum Refusal {
    /// The command says something that cannot be.
    #[error("{message}")]
    Wrong {
        /// Field of the command it belongs to, as a path with points.
        field: Option<String>,
        /// What is wrong.
        message: String,
    },
    /// There is no such thing.
    #[error("there is no such {0}")]
    Missing(String),
    /// It does not go with what has happened already.
    #[error("{0}")]
    Conflict(String),
    /// This person may not do it.
    #[error("{0}")]
    Denied(String),
    /// Something that was kept cannot be understood.
    #[error("{0}")]
    Broken(String),
}

impl Refusal {
    /// A refusal of one field.
    pub fn wrong(field: &str, message: impl Into<String>) -> Self {
        Self::Wrong {
            field: Some(field.into()),
            message: message.into(),
        }
    }
    /// The same with `prefix` before its field.
    #[must_use]
    pub fn within(self, prefix: &str) -> Self {
        match self {
            Self::Wrong { field, message } => Self::Wrong {
                field: Some(field.map_or_else(|| prefix.to_owned(), |f| format!("{prefix}.{f}"))),
                message,
            },
            other => other,
        }
    }
}

/// A text that must be there, with at most so many letters; trimmed.
///
/// # Errors
/// If it is empty or too long.
pub fn filled(field: &str, text: &str, most: usize) -> Result<String, Refusal> {
    match text.trim() {
        "" => Err(Refusal::wrong(field, "this must be filled in")),
        t if t.chars().count() > most => {
            Err(Refusal::wrong(field, format!("at most {most} letters")))
        }
        t => Ok(t.into()),
    }
}

/// A text that may be empty, cut after so many letters; trimmed.
#[must_use]
pub fn clipped(text: &str, most: usize) -> String {
    text.trim().chars().take(most).collect()
}
