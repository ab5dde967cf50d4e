//! What was refused at the door: counted by what, from where and at which address, an hour a row, so that whoever
//! knocks all night fills nothing.

use crate::error::ApiError;
use crate::lock::lock;
use std::collections::HashMap;
use std::sync::Mutex;

/// Most rows of an hour that are kept apart; what comes beyond them counts in one.
const MOST: usize = 500;
/// Longest address kept, letters.
const LONGEST: usize = 120;

/// What, from where, at which address.
pub type Knock = (&'static str, String, String);

/// Refusals that are not yet written down.
#[derive(Default)]
pub struct Refusals(Mutex<HashMap<Knock, i64>>);

/// Which refusals say something about who knocks: not that a figure was mistyped.
fn kind(e: &ApiError, at: &str) -> Option<&'static str> {
    match e {
        ApiError::SignIn(_) => Some("not signed in"),
        ApiError::Forbidden(_) => Some("not allowed"),
        ApiError::TooMany { .. } => Some("too often"),
        ApiError::Wrong { field, .. } if at.contains("/session") || at.contains("/pairing") => {
            match field.as_deref() {
                Some("password") => Some("wrong password"),
                Some("code") => Some("wrong code"),
                _ => None,
            }
        }
        _ => None,
    }
}

impl Refusals {
    /// Notes one.
    pub fn note(&self, e: &ApiError, from: &str, at: &str) {
        let Some(what) = kind(e, at) else { return };
        tracing::info!(what, from, at, "refused");
        let mut all = lock(&self.0);
        let at: String = at.chars().take(LONGEST).collect();
        let key = (what, from.to_owned(), at);
        let key = if all.len() < MOST || all.contains_key(&key) {
            key
        } else {
            (what, "many places".into(), "many addresses".into())
        };
        *all.entry(key).or_default() += 1;
    }

    /// What was noted since the last time.
    #[must_use]
    pub fn taken(&self) -> Vec<(Knock, i64)> {
        lock(&self.0).drain().collect()
    }
}
