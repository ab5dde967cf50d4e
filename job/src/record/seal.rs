//! The signature of a record: the installation's own key signs the manifest, which names every other file by its hash.
//!
//! Ed25519 (RFC 8032). The key's fingerprint is the SHA-256 of the public key, its first 20 bytes in groups; it
//! stands on the printed record, so that a file signed with another key is told from this installation's.

use super::{Files, MANIFEST, Tampered};
use crate::log::{hex, sha256};
use ed25519_dalek::{Signature, Signer, SigningKey, VerifyingKey};
use serde::{Deserialize, Serialize};

/// Name of the signature's file.
pub const SIGNATURE: &str = "signature.json";

/// The one kind of signature there is.
const ALGORITHM: &str = "Ed25519";

/// The installation's own key.
pub struct Key(SigningKey);

/// What stands in the signature's file.
#[derive(Debug, Serialize, Deserialize)]
struct Signed {
    algorithm: String,
    /// The file whose bytes are signed.
    signs: String,
    public_key: String,
    fingerprint: String,
    signature: String,
}

fn fingerprint(public: &[u8]) -> String {
    let hash = sha256(public);
    let groups: Vec<&str> = (0..10).filter_map(|i| hash.get(4 * i..4 * i + 4)).collect();
    groups.join(" ")
}

fn bytes<const N: usize>(text: &str) -> Option<[u8; N]> {
    let all: Option<Vec<u8>> = (0..text.len() / 2)
        .map(|i| u8::from_str_radix(text.get(2 * i..2 * i + 2)?, 16).ok())
        .collect();
    all?.try_into().ok().filter(|_| text.len() == 2 * N)
}

fn entry_bytes(log: &str, seq: u64, hash: &str) -> Vec<u8> {
    format!("ruhe entry\n{log}\n{seq}\n{hash}\n").into_bytes()
}

impl Key {
    /// From its secret, 32 random bytes.
    #[must_use]
    pub fn from_secret(secret: [u8; 32]) -> Self {
        Self(SigningKey::from_bytes(&secret))
    }
    /// As it is printed.
    #[must_use]
    pub fn fingerprint(&self) -> String {
        fingerprint(self.0.verifying_key().as_bytes())
    }
    /// The public key, hexadecimal.
    #[must_use]
    pub fn public(&self) -> String {
        hex(self.0.verifying_key().as_bytes())
    }
    /// Signs an entry as it is kept: its log, its place, its hash, which by the chain is everything before it too.
    #[must_use]
    pub fn sign_entry(&self, log: &str, seq: u64, hash: &str) -> String {
        hex(&self.0.sign(&entry_bytes(log, seq, hash)).to_bytes())
    }
    /// Whether a signature is this key's for that entry.
    #[must_use]
    pub fn has_signed_entry(&self, log: &str, seq: u64, hash: &str, signature: &str) -> bool {
        bytes(signature).is_some_and(|s: [u8; 64]| {
            let signature = Signature::from_bytes(&s);
            let key = self.0.verifying_key();
            key.verify_strict(&entry_bytes(log, seq, hash), &signature)
                .is_ok()
        })
    }
    /// Signs a record.
    pub fn sign(&self, files: &mut Files) {
        let public = self.0.verifying_key();
        let manifest = files.get(MANIFEST).map_or(&[][..], Vec::as_slice);
        let signed = Signed {
            algorithm: ALGORITHM.into(),
            signs: MANIFEST.into(),
            public_key: hex(public.as_bytes()),
            fingerprint: fingerprint(public.as_bytes()),
            signature: hex(&self.0.sign(manifest).to_bytes()),
        };
        let text = serde_json::to_string_pretty(&signed).unwrap_or_default() + "\n";
        files.insert(SIGNATURE.into(), text.into_bytes());
    }
}

/// The key that a record is signed with.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct SignedBy {
    /// The public key, hexadecimal.
    pub public: String,
    /// Its fingerprint, as it is printed.
    pub fingerprint: String,
}

impl SignedBy {
    /// Whether somebody named this key: by its fingerprint or whole, in whatever groups and letters.
    #[must_use]
    pub fn is(&self, named: &str) -> bool {
        let plain = |t: &str| {
            let signs = t.chars().filter(char::is_ascii_hexdigit);
            signs.collect::<String>().to_ascii_lowercase()
        };
        let named = plain(named);
        named == plain(&self.public) || named == plain(&self.fingerprint)
    }
}

/// Checks the signature of a record, if it has one: its key.
///
/// # Errors
/// If it is not the manifest's.
pub(super) fn check(files: &Files) -> Result<Option<SignedBy>, Tampered> {
    let wrong = |what: &str| Tampered {
        place: SIGNATURE.into(),
        what: what.into(),
    };
    let Some(file) = files.get(SIGNATURE) else {
        return Ok(None);
    };
    let s: Signed = serde_json::from_slice(file).map_err(|_| wrong("it cannot be read"))?;
    let public: [u8; 32] = bytes(&s.public_key).ok_or_else(|| wrong("its key is none"))?;
    let signature: [u8; 64] = bytes(&s.signature).ok_or_else(|| wrong("its signature is none"))?;
    let key = VerifyingKey::from_bytes(&public).map_err(|_| wrong("its key is none"))?;
    let manifest = files.get(MANIFEST).map_or(&[][..], Vec::as_slice);
    // Strict: keys of small order verify anything, and there is one signature of a message, not several.
    if s.algorithm != ALGORITHM || s.signs != MANIFEST {
        return Err(wrong("it is not a signature of a kind known here"));
    }
    key.verify_strict(manifest, &Signature::from_bytes(&signature))
        .map_err(|_| wrong("it is not a signature of this record’s manifest"))?;
    if s.fingerprint != fingerprint(&public) {
        return Err(wrong("what it says of its key is not so"));
    }
    Ok(Some(SignedBy {
        public: hex(&public),
        fingerprint: s.fingerprint,
    }))
}

#[cfg(test)]
mod tests {
    use super::*;

    /// RFC 8032, 7.1, test 1: the public key of this secret.
    #[test]
    fn a_key_is_that_of_its_secret() {
        let secret =
            bytes("9d61b19deffd5a60ba844af492ec2cc44449c5697b326919703bac031cae7f60").unwrap();
        let public: [u8; 32] =
            bytes("d75a980182b10ab7d54bfed3c964073a0ee172f3daa62325af021a68f707511a").unwrap();
        let key = Key::from_secret(secret);
        assert_eq!(key.0.verifying_key().as_bytes(), &public);
        assert_eq!(key.fingerprint(), fingerprint(&public));
        assert_eq!(key.fingerprint().len(), 49);
    }
}
