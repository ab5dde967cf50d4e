//! Pairing: a code that one device shows and another gives back, once, within ten minutes.

use super::secret::fresh_code;
use crate::error::ApiError;
use crate::lock::lock;
use ruhe_job::log::sha256;
use std::collections::HashMap;
use std::sync::Mutex;

/// A code lasts so long, ms.
const LASTS: i64 = 10 * 60_000;

struct Waiting {
    person: String,
    ends_ms: i64,
}

/// Codes that were shown and not used yet. They live in memory alone: after a restart one asks for another.
#[derive(Default)]
pub struct Pairings(Mutex<HashMap<String, Waiting>>);

impl Pairings {
    /// A code for a person, and when it ends. An older one of the same person is void.
    ///
    /// # Errors
    /// If the machine gives no random bytes.
    pub fn show(&self, person: &str, now: i64) -> Result<(String, i64), ApiError> {
        let code = fresh_code()?;
        let mut all = lock(&self.0);
        all.retain(|_, w| w.ends_ms > now && w.person != person);
        let ends_ms = now + LASTS;
        let waiting = Waiting {
            person: person.into(),
            ends_ms,
        };
        all.insert(sha256(code.as_bytes()), waiting);
        Ok((code, ends_ms))
    }

    /// Whose code it is, once.
    pub fn take(&self, code: &str, now: i64) -> Option<String> {
        let code: String = code
            .chars()
            .filter(char::is_ascii_alphanumeric)
            .map(|c| c.to_ascii_uppercase())
            .collect();
        let mut all = lock(&self.0);
        let found = all.remove(&sha256(code.as_bytes()))?;
        (found.ends_ms > now).then_some(found.person)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_code_opens_once_and_for_ten_minutes() {
        let p = Pairings::default();
        let (code, ends) = p.show("a", 1_000).unwrap();
        assert_eq!(ends, 1_000 + LASTS);
        assert_eq!(p.take("nonsense", 2_000), None);
        let typed = format!("{} {}", code[..5].to_lowercase(), &code[5..]);
        assert_eq!(p.take(&typed, 2_000).as_deref(), Some("a"));
        assert_eq!(p.take(&code, 2_000), None, "used");
        let (old, _) = p.show("a", 0).unwrap();
        let (new, _) = p.show("a", 0).unwrap();
        assert_eq!(p.take(&old, 1), None, "replaced");
        assert_eq!(p.take(&new, LASTS), None, "too late");
    }
}
