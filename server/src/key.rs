//! The installation's own key: made once, kept beside the database, readable by nobody else.

use rand::TryRngCore as _;
use ruhe_job::record::Key;
use std::io::Write as _;
use std::path::Path;

/// Name of the file with the secret, 32 bytes.
const FILE: &str = "record.key";

/// Writes a file that is new and that nobody else may read.
///
/// # Errors
/// If it is there already, or cannot be written.
pub fn keep_secret(path: &Path, content: &[u8]) -> Result<(), String> {
    let told = |e: std::io::Error| format!("{}: {e}", path.display());
    let mut options = std::fs::OpenOptions::new();
    options.write(true).create_new(true);
    #[cfg(unix)]
    std::os::unix::fs::OpenOptionsExt::mode(&mut options, 0o600);
    let mut file = options.open(path).map_err(told)?;
    file.write_all(content).map_err(told)?;
    file.sync_all().map_err(told)
}

/// The key of a data folder; made if there is none.
///
/// # Errors
/// If it cannot be read or written, or is not a key.
pub fn load(data: &Path) -> Result<Key, String> {
    let path = data.join(FILE);
    let told = |e: std::io::Error| format!("{}: {e}", path.display());
    if !path.exists() {
        let mut secret = [0u8; 32];
        rand::rngs::OsRng
            .try_fill_bytes(&mut secret)
            .map_err(|e| e.to_string())?;
        keep_secret(&path, &secret)?;
    }
    let bytes = std::fs::read(&path).map_err(told)?;
    let secret = <[u8; 32]>::try_from(bytes)
        .map_err(|_| format!("{} is not a key: it must have 32 bytes", path.display()))?;
    Ok(Key::from_secret(secret))
}
