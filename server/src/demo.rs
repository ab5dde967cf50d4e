use crate::state::AppState;
pub fn fill(_state: &AppState) -> Result<(), crate::error::ApiError> { Ok(()) }
