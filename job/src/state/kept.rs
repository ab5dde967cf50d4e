//! What was said, with its entry.

/// Something that was kept, with its id.
#[derive(Debug, Clone)]
pub struct Kept<T> {
    /// Id of its entry.
    pub id: String,
    /// Who said it.
    pub actor: String,
    /// What was said.
    pub said: T,
}
