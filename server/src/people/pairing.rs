//! Pairing: a code that one device shows and another gives back, once, within ten minutes. It ends with the session
//! that showed it.

use super::secret::fresh_code;
use crate::error::ApiError;
use crate::lock::lock;
use ruhe_job::log::sha256;
use std::collections::HashMap;
use std::sync::Mutex;

/// A code lasts so long, ms.
const LASTS: i64 = 10 * 60_000;

/// Who showed a code, and from which session.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ShownBy {
    /// Id of the person.
    pub person: String,
    /// Id of the session.
    pub session: String,
}

/// Codes that were shown and not used yet, with when they end. They live in memory alone: after a restart one asks for
/// another.
#[derive(Default)]
pub struct Pairings(Mutex<HashMap<String, (ShownBy, i64)>>);

impl Pairings {
    /// A code for a person, and when it ends. An older one of the same person is void.
    ///
    /// # Errors
    /// If the machine gives no random bytes.
    pub fn show(&self, by: ShownBy, now: i64) -> Result<(String, i64), ApiError> {
        let code = fresh_code()?;
        let mut all = lock(&self.0);
        all.retain(|_, (w, ends)| *ends > now && w.person != by.person);
        let ends_ms = now + LASTS;
        all.insert(sha256(code.as_bytes()), (by, ends_ms));
        Ok((code, ends_ms))
    }

    /// Who showed this code, once. Whether they are still signed in is asked where the device is signed in.
    pub fn take(&self, code: &str, now: i64) -> Option<ShownBy> {
        let code: String = code
            .chars()
            .filter(char::is_ascii_alphanumeric)
            .map(|c| c.to_ascii_uppercase())
            .collect();
        let mut all = lock(&self.0);
        let (by, ends_ms) = all.remove(&sha256(code.as_bytes()))?;
        (ends_ms > now).then_some(by)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_code_opens_once_and_for_ten_minutes() {
        let p = Pairings::default();
        let a = || ShownBy {
            person: "a".into(),
            session: "s".into(),
        };
        let (code, ends) = p.show(a(), 1_000).unwrap();
        assert_eq!(ends, 1_000 + LASTS);
        assert_eq!(p.take("nonsense", 2_000), None);
        let typed = format!("{} {}", code[..5].to_lowercase(), &code[5..]);
        assert_eq!(p.take(&typed, 2_000), Some(a()));
        assert_eq!(p.take(&code, 2_000), None, "used");
        let (old, _) = p.show(a(), 0).unwrap();
        let (new, _) = p.show(a(), 0).unwrap();
        assert_eq!(p.take(&old, 1), None, "replaced");
        assert_eq!(p.take(&new, LASTS), None, "too late");
    }
}
