//! Passwords by Argon2id, and tokens of which only the digest is kept.

use crate::error::ApiError;
use argon2::password_hash::{PasswordHasher as _, PasswordVerifier as _};
use argon2::{Argon2, PasswordHash};
use rand::TryRngCore as _;
use ruhe_job::log::{hex, sha256};
use std::sync::LazyLock;

/// Shortest and longest password, letters. The longest only keeps hashing cheap.
const LEAST: usize = 8;
const MOST: usize = 128;
/// Fewest tries an attacker who knows people would need, as zxcvbn scores it: 3 is ten to the eighth.
const SCORE: zxcvbn::Score = zxcvbn::Score::Three;

/// A fresh secret: what goes out, and what is kept.
pub struct Secret {
    /// 256 random bits, as hexadecimal digits.
    pub text: String,
    /// Its SHA-256.
    pub kept: String,
}

fn random<const N: usize>() -> Result<[u8; N], ApiError> {
    let mut out = [0u8; N];
    rand::rngs::OsRng
        .try_fill_bytes(&mut out)
        .map_err(|e| ApiError::Inside(e.to_string()))?;
    Ok(out)
}

/// A number that nobody can guess, of as many bits as JSON carries.
///
/// # Errors
/// If the machine gives no random bytes.
pub fn random_seed() -> Result<u64, ApiError> {
    Ok(u64::from_le_bytes(random::<8>()?) >> 11)
}

impl Secret {
    /// Makes one.
    ///
    /// # Errors
    /// If the machine gives no random bytes.
    pub fn fresh() -> Result<Self, ApiError> {
        let text = hex(&random::<32>()?);
        Ok(Self {
            kept: sha256(text.as_bytes()),
            text,
        })
    }
}

/// Signs of a code that a person may have to type: none that looks like another.
const SIGNS: &[u8; 32] = b"23456789ABCDEFGHJKLMNPQRSTUVWXYZ";

/// A code of ten signs (50 bits) for pairing.
///
/// # Errors
/// If the machine gives no random bytes.
pub fn fresh_code() -> Result<String, ApiError> {
    let bytes = random::<10>()?;
    Ok(bytes
        .iter()
        .map(|b| char::from(SIGNS[usize::from(b % 32)]))
        .collect())
}

/// Refuses a password that is too short, or that is guessed soon.
///
/// # Errors
/// What is wrong with it.
pub fn check_password(password: &str, name: &str) -> Result<(), ApiError> {
    let length = password.chars().count();
    if length < LEAST {
        return Err(ApiError::wrong(
            "password",
            format!("a password has at least {LEAST} letters or signs"),
        ));
    }
    if length > MOST {
        return Err(ApiError::wrong(
            "password",
            format!("at most {MOST} letters"),
        ));
    }
    if zxcvbn::zxcvbn(password, &[name, "ruhe"]).score() < SCORE {
        return Err(ApiError::wrong(
            "password",
            "this would be guessed soon: take a few words that do not belong together",
        ));
    }
    Ok(())
}

/// A password as it is kept: Argon2id with the crate's defaults (19 MiB, two passes), salted.
///
/// # Errors
/// If it cannot be worked out.
pub fn hashed(password: &str) -> Result<String, ApiError> {
    Argon2::default()
        .hash_password(password.as_bytes())
        .map(|h| h.to_string())
        .map_err(|e| ApiError::Inside(e.to_string()))
}

/// Whether it is the password. Without a person the same work is done, so that the time tells nobody who exists.
#[must_use]
pub fn is_password(password: &str, kept: Option<&str>) -> bool {
    static NOBODY: LazyLock<String> =
        LazyLock::new(|| hashed("nobody is called this").unwrap_or_default());
    let found = PasswordHash::new(kept.unwrap_or(&NOBODY)).is_ok_and(|h| {
        Argon2::default()
            .verify_password(password.as_bytes(), &h)
            .is_ok()
    });
    found && kept.is_some()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_password_is_known_again_and_no_other_is() {
        let kept = hashed("kettle fence lantern").unwrap();
        assert!(kept.starts_with("$argon2id$"), "{kept}");
        assert!(!kept.contains("kettle"));
        assert!(is_password("kettle fence lantern", Some(&kept)));
        assert!(!is_password("kettle fence Lantern", Some(&kept)));
        assert!(!is_password("kettle fence lantern", None));
        assert_ne!(kept, hashed("kettle fence lantern").unwrap(), "salted");
    }

    #[test]
    fn what_is_guessed_soon_is_refused() {
        for bad in [
            "short",
            "password1",
            "qwertyuiop",
            "Marten Vale",
            "aaaaaaaaaaaa",
        ] {
            assert!(check_password(bad, "Marten Vale").is_err(), "{bad}");
        }
        assert!(check_password("kettle fence lantern", "Marten Vale").is_ok());
        assert!(check_password(&"x9 ".repeat(60), "Marten Vale").is_err());
    }

    #[test]
    fn codes_have_no_sign_that_looks_like_another() {
        let code = fresh_code().unwrap();
        assert_eq!(code.len(), 10);
        assert!(!code.contains(['0', 'O', '1', 'I']), "{code}");
        assert_ne!(code, fresh_code().unwrap());
    }
}
