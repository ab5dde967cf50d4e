//! Which tests a simulated gauge is listening on.

use std::collections::HashSet;
use std::sync::Mutex;

/// Tests a simulated gauge is listening on.
#[derive(Default)]
pub struct Feeds(Mutex<HashSet<String>>);

impl Feeds {
    pub fn is_on(&self, test: &str) -> bool {
        self.0.lock().is_ok_and(|s| s.contains(test))
    }
    /// Begins; `false`: it was on already.
    pub fn start(&self, test: &str) -> bool {
        self.0.lock().is_ok_and(|mut s| s.insert(test.into()))
    }
    pub fn stop(&self, test: &str) {
        if let Ok(mut s) = self.0.lock() {
            s.remove(test);
        }
    }
}
