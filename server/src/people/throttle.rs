//! Guessing is slowed down, and only guessing: what was right is not counted.
//!
//! Guesses from devices that are not known count by the name that is tried and by where they come from. A device on
//! which a person signed in before has a budget of its own for that person: what strangers try does not keep anybody
//! from their own work.

use crate::error::ApiError;
use crate::lock::lock;
use governor::{DefaultKeyedRateLimiter, Quota, RateLimiter};
use std::collections::HashMap;
use std::num::NonZeroU32;
use std::sync::{Arc, Mutex};
use std::time::{Duration, Instant};

/// A wrong guess is forgotten after this time.
const EVERY: Duration = Duration::from_secs(20);
/// Wrong guesses in a row of one name, or on one known device.
const GUESSES: f64 = 6.0;
/// Wrong guesses from one place, whatever the name: several people may sit behind one.
const FROM_ONE: f64 = 30.0;
/// Most that is remembered; past it the oldest is forgotten.
const MOST: usize = 20_000;
/// Calls of one gauge a second, and at once after a pause.
const CALLS: NonZeroU32 = NonZeroU32::new(20).expect("not zero");
const AT_ONCE: NonZeroU32 = NonZeroU32::new(60).expect("not zero");

/// Guesses that are under way or were wrong, by what they count for: how many, as of when.
#[derive(Default)]
struct Wrong(Mutex<HashMap<String, (f64, Instant)>>);

impl Wrong {
    fn left((count, at): (f64, Instant), now: Instant) -> f64 {
        let gone = now.saturating_duration_since(at).as_secs_f64() / EVERY.as_secs_f64();
        (count - gone).max(0.0)
    }

    /// Counts one for every key, or none if one of them has too many: seconds until it has not.
    fn count(&self, keys: &[(String, f64)]) -> Result<(), u64> {
        let now = Instant::now();
        let mut all = lock(&self.0);
        for (key, most) in keys {
            let count = all.get(key).map_or(0.0, |c| Self::left(*c, now));
            if count + 1.0 > *most {
                let wait = (count + 1.0 - most) * EVERY.as_secs_f64();
                return Err(wait.ceil().max(1.0) as u64);
            }
        }
        if all.len() + keys.len() > MOST {
            all.retain(|_, c| Self::left(*c, now) > 0.0);
            if all.len() + keys.len() > MOST
                && let Some(oldest) = all.iter().min_by_key(|(_, c)| c.1).map(|(k, _)| k.clone())
            {
                all.remove(&oldest);
            }
        }
        for (key, _) in keys {
            let count = all.get(key).map_or(0.0, |c| Self::left(*c, now));
            all.insert(key.clone(), (count + 1.0, now));
        }
        Ok(())
    }

    fn take_back(&self, keys: &[(String, f64)]) {
        let now = Instant::now();
        let mut all = lock(&self.0);
        for (key, _) in keys {
            if let Some(c) = all.get_mut(key) {
                *c = ((Self::left(*c, now) - 1.0).max(0.0), now);
            }
        }
    }
}

/// A guess under way: counted as wrong until it was right.
#[must_use]
pub struct Guess {
    of: Arc<Wrong>,
    keys: Vec<(String, f64)>,
}

impl Guess {
    /// It was right, and does not count.
    pub fn was_right(self) {
        self.of.take_back(&self.keys);
    }
}

/// What is counted.
pub struct Throttle {
    wrong: Arc<Wrong>,
    gauges: DefaultKeyedRateLimiter<String>,
}

impl Default for Throttle {
    fn default() -> Self {
        Self {
            wrong: Arc::default(),
            gauges: RateLimiter::keyed(Quota::per_second(CALLS).allow_burst(AT_ONCE)),
        }
    }
}

impl Throttle {
    fn guess(&self, keys: Vec<(String, f64)>) -> Result<Guess, ApiError> {
        self.wrong
            .count(&keys)
            .map_err(|wait_s| ApiError::TooMany {
                message: format!("too many guesses; try again in {wait_s} s"),
                wait_s,
            })?;
        Ok(Guess {
            of: self.wrong.clone(),
            keys,
        })
    }

    /// Counts a guess of somebody's password from a device that is not known to be theirs.
    ///
    /// # Errors
    /// If there were too many.
    pub fn stranger(&self, name: &str, from: &str) -> Result<Guess, ApiError> {
        self.guess(vec![
            (format!("name {}", name.to_lowercase()), GUESSES),
            (format!("from {from}"), FROM_ONE),
        ])
    }

    /// Counts a guess from a device that is.
    ///
    /// # Errors
    /// If there were too many.
    pub fn known(&self, device: &str) -> Result<Guess, ApiError> {
        self.guess(vec![(format!("device {device}"), GUESSES)])
    }

    /// Counts a guess of a pairing code.
    ///
    /// # Errors
    /// If there were too many.
    pub fn code(&self, from: &str) -> Result<Guess, ApiError> {
        self.guess(vec![(format!("code {from}"), GUESSES)])
    }

    /// Counts a call of a gauge.
    ///
    /// # Errors
    /// If there were too many.
    pub fn call(&self, gauge: &str) -> Result<(), ApiError> {
        self.gauges
            .check_key(&gauge.to_owned())
            .map_err(|_| ApiError::TooMany {
                message: "this gauge calls too often; try again in 1 s".into(),
                wait_s: 1,
            })
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn only_what_is_wrong_counts_and_strangers_keep_nobody_out() {
        let t = Throttle::default();
        for _ in 0..50 {
            t.stranger("Ilse", "10.0.0.1").unwrap().was_right();
        }
        for _ in 0..6 {
            let _ = t.stranger("ilse", "10.0.0.1").unwrap();
        }
        assert!(t.stranger("Ilse", "10.0.0.2").is_err(), "by name");
        assert!(t.known("her phone").is_ok(), "her own device");
        for _ in 0..23 {
            let _ = t.stranger(&fastrand_name(), "10.0.0.3").unwrap();
        }
        let many: Vec<_> = (0..40)
            .map(|i| t.stranger(&format!("n{i}"), "10.0.0.4").is_ok())
            .collect();
        assert_eq!(many.iter().filter(|ok| **ok).count(), 30, "by place");
    }

    fn fastrand_name() -> String {
        super::super::secret::fresh_code().unwrap()
    }
}
