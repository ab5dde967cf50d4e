//! Ending a test: its readings are sealed and judged before anything is written.

use super::act::Said;
use crate::error::ApiError;
use crate::feed::stop_simulated;
use crate::state::AppState;
use ruhe_job::service;

impl AppState {
    /// Ends a test; one that has ended stays as it is.
    ///
    /// # Errors
    /// The refusal of the rule.
    pub fn end_test(&self, test: &str, said: &Said) -> Result<(), ApiError> {
        stop_simulated(self, test)?;
        self.act_on(test, said, |desk, word| service::end(desk, test, word))?;
        self.running.forget(test);
        Ok(())
    }
}
