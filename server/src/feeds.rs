//! Which tests a gauge sends to now.

use crate::lock::lock;
use std::collections::HashMap;
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, Mutex};
use std::time::{Duration, Instant};

/// A gauge that has not sent for so long is no longer listened to.
const SILENT: Duration = Duration::from_secs(15);

/// See [`self`].
#[derive(Default)]
pub struct Feeds {
    heard: Mutex<HashMap<String, Instant>>,
    /// Simulated gauges that run in this process, by test, with what stops them.
    sending: Mutex<HashMap<String, Arc<AtomicBool>>>,
}

impl Feeds {
    /// A gauge sends to this test.
    pub fn is_on(&self, test: &str) -> bool {
        self.is_sending(test)
            || lock(&self.heard)
                .get(test)
                .is_some_and(|t| t.elapsed() < SILENT)
    }
    /// A reading came from a gauge.
    pub fn heard(&self, test: &str) {
        lock(&self.heard).insert(test.into(), Instant::now());
    }
    /// A simulated gauge begins to send; what stops it.
    pub fn start(&self, test: &str) -> Arc<AtomicBool> {
        let stop = Arc::new(AtomicBool::new(false));
        lock(&self.sending).insert(test.into(), stop.clone());
        stop
    }
    /// A simulated gauge of this process sends to this test.
    pub fn is_sending(&self, test: &str) -> bool {
        lock(&self.sending).contains_key(test)
    }
    /// Nothing is listened to any more.
    pub fn stop(&self, test: &str) {
        if let Some(stop) = lock(&self.sending).remove(test) {
            stop.store(true, Ordering::Relaxed);
        }
        lock(&self.heard).remove(test);
    }
}
