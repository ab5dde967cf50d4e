//! Locks that outlive a panic: what one left behind is rebuilt from the store, or asked for again.

use std::sync::{Mutex, MutexGuard, PoisonError};

/// Holds it, whatever became of whoever held it before.
pub fn lock<T>(m: &Mutex<T>) -> MutexGuard<'_, T> {
    m.lock().unwrap_or_else(PoisonError::into_inner)
}
