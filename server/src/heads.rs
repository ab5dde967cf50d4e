//! Ends and signatures, noted outside of the database: a file beside the key, a signed line each, only ever added to.
//! Whoever puts an older or shortened database in place of the one that was signed cannot take these lines along.

use crate::lock::lock;
use ruhe_job::record::Key;
use std::collections::HashMap;
use std::io::Write as _;
use std::path::{Path, PathBuf};
use std::sync::Mutex;

/// Name of the file.
const FILE: &str = "heads.log";

/// Whether a file holds what was noted, now or before a key was renewed.
#[must_use]
pub fn is_of_heads(name: &str) -> bool {
    name.starts_with(FILE)
}

/// A place in a log, and the hash of the entry that stands there.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Head {
    pub log: String,
    pub seq: u64,
    pub hash: String,
}

/// What was noted, and what is to be.
#[derive(Default)]
pub struct Heads {
    path: Option<PathBuf>,
    last: Mutex<HashMap<String, Head>>,
    waiting: Mutex<Vec<Head>>,
}

impl Heads {
    /// Those of a data folder.
    ///
    /// # Errors
    /// If the file cannot be read, or a line of it is not signed with this key.
    pub fn load(data: &Path, key: &Key) -> Result<Self, String> {
        let path = data.join(FILE);
        let told = |e: std::io::Error| format!("{}: {e}", path.display());
        let text = if path.exists() {
            std::fs::read_to_string(&path).map_err(told)?
        } else {
            String::new()
        };
        let mut last = HashMap::new();
        // A last line that a power cut left half-written has no end, and says nothing.
        let whole = text.rfind('\n').map_or("", |end| &text[..end]);
        for (i, line) in whole.lines().enumerate() {
            let parts: Vec<&str> = line.split(' ').collect();
            let head = match parts[..] {
                [log, seq, hash, signature] => seq.parse().ok().and_then(|seq| {
                    key.has_signed_entry(log, seq, hash, signature)
                        .then(|| Head {
                            log: log.into(),
                            seq,
                            hash: hash.into(),
                        })
                }),
                _ => None,
            };
            let head = head.ok_or_else(|| {
                format!(
                    "{}, line {}: it is not signed with this installation’s key",
                    path.display(),
                    i + 1
                )
            })?;
            last.insert(head.log.clone(), head);
        }
        Ok(Self {
            path: Some(path),
            last: Mutex::new(last),
            waiting: Mutex::default(),
        })
    }

    /// Puts a head aside until it is sure that it was kept.
    pub fn expect(&self, head: Head) {
        if self.path.is_some() {
            lock(&self.waiting).push(head);
        }
    }

    /// What was put aside.
    #[must_use]
    pub fn taken(&self) -> Vec<Head> {
        std::mem::take(&mut *lock(&self.waiting))
    }

    /// Notes heads that were kept.
    ///
    /// # Errors
    /// If the file cannot be written.
    pub fn note(&self, heads: &[Head], key: &Key) -> Result<(), String> {
        let Some(path) = self.path.as_ref().filter(|_| !heads.is_empty()) else {
            return Ok(());
        };
        let mut text = String::new();
        for h in heads {
            let signature = key.sign_entry(&h.log, h.seq, &h.hash);
            text += &format!("{} {} {} {signature}\n", h.log, h.seq, h.hash);
        }
        let told = |e: std::io::Error| format!("{}: {e}", path.display());
        let mut options = std::fs::OpenOptions::new();
        options.append(true).create(true);
        #[cfg(unix)]
        std::os::unix::fs::OpenOptionsExt::mode(&mut options, 0o600);
        let mut file = options.open(path).map_err(told)?;
        file.write_all(text.as_bytes()).map_err(told)?;
        file.sync_data().map_err(told)?;
        let mut last = lock(&self.last);
        for h in heads {
            last.insert(h.log.clone(), h.clone());
        }
        Ok(())
    }

    /// The last that was noted of a log.
    #[must_use]
    pub fn of(&self, log: &str) -> Option<Head> {
        lock(&self.last).get(log).cloned()
    }

    /// The last of every log.
    #[must_use]
    pub fn all(&self) -> Vec<Head> {
        lock(&self.last).values().cloned().collect()
    }

    /// Forgets all lines, for a new key to sign them anew; the old file is kept beside it.
    ///
    /// # Errors
    /// If it cannot be moved.
    pub fn put_aside(data: &Path, now: i64) -> Result<(), String> {
        let path = data.join(FILE);
        if path.exists() {
            let old = data.join(format!("{FILE}.{now}.old"));
            std::fs::rename(&path, old).map_err(|e| format!("{}: {e}", path.display()))?;
        }
        Ok(())
    }
}
