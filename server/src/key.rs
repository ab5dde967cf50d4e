//! The installation's own key: made once, kept beside the database, readable by nobody else.

use rand::TryRngCore as _;
use ruhe_job::record::Key;
use std::io::Write as _;
use std::path::Path;

/// Name of the file with the secret, 32 bytes.
const FILE: &str = "record.key";

/// Whether a file holds the key, or an earlier one.
#[must_use]
pub fn is_of_key(name: &str) -> bool {
    name.starts_with(FILE)
}

/// Whether a data folder has a key.
#[must_use]
pub fn is_there(data: &Path) -> bool {
    data.join(FILE).exists()
}

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

/// Reads a secret, if its file is its owner's alone.
///
/// # Errors
/// If it cannot be read, or others may read it too.
pub fn read_secret(path: &Path) -> Result<Vec<u8>, String> {
    let told = |e: std::io::Error| format!("{}: {e}", path.display());
    #[cfg(unix)]
    {
        use std::os::unix::fs::PermissionsExt as _;
        let mode = std::fs::metadata(path).map_err(told)?.permissions().mode() & 0o777;
        if mode & 0o077 != 0 {
            return Err(format!(
                "{} may be read by others (mode {mode:o}): make it its owner's alone with `chmod 600`, and if \
                 others had access take another key",
                path.display()
            ));
        }
    }
    std::fs::read(path).map_err(told)
}

/// The key of a data folder. `may_make`: nothing was signed there yet, and it is made if there is none.
///
/// # Errors
/// If it cannot be read or written, is not a key, or is missing where entries were signed with it.
pub fn load(data: &Path, may_make: bool) -> Result<Key, String> {
    let path = data.join(FILE);
    if !path.exists() && !may_make {
        return Err(format!(
            "{} is missing, and the entries beside it were signed with it: put it back from a copy. If there is \
             none, `ruhe renew-key` checks the chains and signs everything anew",
            path.display()
        ));
    }
    if !path.exists() {
        return make(data);
    }
    let secret = <[u8; 32]>::try_from(read_secret(&path)?)
        .map_err(|_| format!("{} is not a key: it must have 32 bytes", path.display()))?;
    Ok(Key::from_secret(secret))
}

/// Makes a new key; one that is there is kept beside it.
///
/// # Errors
/// If it cannot be written.
pub fn make(data: &Path) -> Result<Key, String> {
    let path = data.join(FILE);
    if path.exists() {
        let now = crate::service::now_ms();
        let old = data.join(format!("{FILE}.{now}.old"));
        std::fs::rename(&path, old).map_err(|e| format!("{}: {e}", path.display()))?;
    }
    let mut secret = [0u8; 32];
    rand::rngs::OsRng
        .try_fill_bytes(&mut secret)
        .map_err(|e| e.to_string())?;
    keep_secret(&path, &secret)?;
    Ok(Key::from_secret(secret))
}
