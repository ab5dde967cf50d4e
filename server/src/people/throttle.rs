//! Guessing is slowed down: by the name that is tried, by where it comes from, and by gauge.

use crate::error::ApiError;
use governor::clock::{Clock as _, DefaultClock};
use governor::{DefaultKeyedRateLimiter, Quota, RateLimiter};
use std::num::NonZeroU32;
use std::time::Duration;

/// Guesses in a row, and then one in this time.
const GUESSES: NonZeroU32 = NonZeroU32::new(6).expect("not zero");
const EVERY: Duration = Duration::from_secs(20);
/// Guesses from one address, whatever the name: several people may sit behind one.
const FROM_ONE: NonZeroU32 = NonZeroU32::new(30).expect("not zero");
/// Calls of one gauge a second, and at once after a pause.
const CALLS: NonZeroU32 = NonZeroU32::new(20).expect("not zero");
const AT_ONCE: NonZeroU32 = NonZeroU32::new(60).expect("not zero");

/// What is counted.
pub struct Throttle {
    names: DefaultKeyedRateLimiter<String>,
    places: DefaultKeyedRateLimiter<String>,
    gauges: DefaultKeyedRateLimiter<String>,
}

impl Default for Throttle {
    fn default() -> Self {
        let slow = |burst| {
            Quota::with_period(EVERY)
                .unwrap_or(Quota::per_minute(burst))
                .allow_burst(burst)
        };
        Self {
            names: RateLimiter::keyed(slow(GUESSES)),
            places: RateLimiter::keyed(slow(FROM_ONE)),
            gauges: RateLimiter::keyed(Quota::per_second(CALLS).allow_burst(AT_ONCE)),
        }
    }
}

fn counted(by: &DefaultKeyedRateLimiter<String>, key: &str, what: &str) -> Result<(), ApiError> {
    by.check_key(&key.to_owned()).map_err(|until| {
        let wait = until.wait_time_from(DefaultClock::default().now());
        ApiError::TooMany {
            message: format!("{what}; try again in {} s", wait.as_secs().max(1)),
            wait_s: wait.as_secs().max(1),
        }
    })
}

impl Throttle {
    /// Counts a guess of a password or a code.
    ///
    /// # Errors
    /// If there were too many.
    pub fn guess(&self, name: &str, from: &str) -> Result<(), ApiError> {
        // What nobody guesses at any more is forgotten, so that names made up do not fill the memory.
        self.names.retain_recent();
        self.places.retain_recent();
        counted(&self.places, from, "too many guesses from this place")?;
        counted(&self.names, &name.to_lowercase(), "too many guesses")
    }

    /// Counts a call of a gauge.
    ///
    /// # Errors
    /// If there were too many.
    pub fn call(&self, gauge: &str) -> Result<(), ApiError> {
        counted(&self.gauges, gauge, "this gauge calls too often")
    }
}
