//! Loggers' files between being chosen and being taken: sent once, looked at as often as somebody asks.

use crate::error::ApiError;
use crate::lock::lock;
use ruhe_core::reading::LoggerFile;
use ruhe_job::log::sha256;
use std::collections::VecDeque;
use std::sync::{Arc, Mutex};
use std::time::{Duration, Instant};

/// So many are held, the last ones: each may take a hundred megabytes of memory.
const MOST: usize = 3;
/// So long after it was last asked for.
const FOR: Duration = Duration::from_secs(1_800);

struct Kept {
    token: String,
    file: Arc<LoggerFile>,
    asked: Instant,
}

/// Files that are held, each under the digest of its name and bytes: who has it could send the file itself.
#[derive(Default)]
pub struct Held(Mutex<VecDeque<Kept>>);

impl Held {
    /// Holds a file: what it is asked for by.
    ///
    /// # Errors
    /// If there is no table in it.
    pub fn keep(&self, name: &str, bytes: &[u8]) -> Result<(String, Arc<LoggerFile>), ApiError> {
        let token = sha256(&[name.as_bytes(), &[0], bytes].concat());
        if let Some(file) = self.find(&token) {
            return Ok((token, file));
        }
        let file = Arc::new(LoggerFile::of(name, bytes)?);
        let mut all = lock(&self.0);
        all.push_back(Kept {
            token: token.clone(),
            file: Arc::clone(&file),
            asked: Instant::now(),
        });
        while all.len() > MOST {
            all.pop_front();
        }
        Ok((token, file))
    }

    /// A file that is held.
    pub fn find(&self, token: &str) -> Option<Arc<LoggerFile>> {
        let mut all = lock(&self.0);
        let found = all.iter_mut().find(|k| k.token == token)?;
        found.asked = Instant::now();
        Some(Arc::clone(&found.file))
    }

    /// Lets go of what nobody asked for any more.
    pub fn sweep(&self) {
        lock(&self.0).retain(|k| k.asked.elapsed() < FOR);
    }
}
