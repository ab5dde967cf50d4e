//! Running tests: their readings in memory, grown by what was stored since, and judged at a bounded rate.
//!
//! Writing never waits for judging: readings have a lock of their own, which nobody holds while judging.

use crate::error::ApiError;
use crate::lock::lock;
use crate::state::AppState;
use ruhe_core::reading::Recording;
use ruhe_job::state::{Now, Test, outline, record};
use ruhe_store::{Tx, rows};
use std::collections::HashMap;
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, Mutex};
use std::time::{Duration, Instant};

/// How old what is found may be.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Patience {
    /// As of this moment.
    None,
    /// Somebody looks at it.
    Watched,
    /// Nobody does.
    Unwatched,
    /// Whatever is known, as long as something is: nothing is judged inside a transaction that writes.
    Any,
}

impl Patience {
    fn allows(self, age: Duration) -> bool {
        match self {
            Self::None => false,
            Self::Watched => age < Duration::from_secs(1),
            Self::Unwatched => age < Duration::from_secs(10),
            Self::Any => true,
        }
    }
}

/// What a recording was made from: readings of any test up to this number, and what the log says of the test.
type Version = (i64, usize, usize, Option<i64>);

struct Grown {
    recording: Arc<Recording>,
    version: Version,
    last_ms: i64,
    is_simulated: bool,
}

struct Judged {
    now: Arc<Now>,
    version: Version,
    at: Instant,
}

#[derive(Default)]
struct One {
    grown: Mutex<Option<Grown>>,
    judged: Mutex<Option<Judged>>,
    /// Held by the one who judges.
    turn: Mutex<()>,
    /// Somebody typed a reading: who looks next sees it judged.
    typed: AtomicBool,
}

/// Running tests by id.
#[derive(Default)]
pub struct Running(Mutex<HashMap<String, Arc<One>>>);

impl Running {
    fn one(&self, test: &str) -> Arc<One> {
        lock(&self.0).entry(test.to_owned()).or_default().clone()
    }
    /// Somebody typed a reading: whoever looks next sees it judged.
    pub fn typed(&self, test: &str) {
        self.one(test).typed.store(true, Ordering::Relaxed);
    }
    /// Forgets a test that no longer runs.
    pub fn forget(&self, test: &str) {
        lock(&self.0).remove(test);
    }
}

/// What the log says of a test that bears on its recording.
fn of_log(t: &Test) -> (usize, usize, Option<i64>) {
    (t.events.len(), t.struck.len(), t.clock_ms)
}

fn whole(tx: &mut Tx<'_>, t: &Test, row: &rows::Test, upto: i64) -> Result<Grown, ApiError> {
    let mut values = tx.values_after(row.n, -1)?;
    values.retain(|v| t.struck(&v.id).is_none());
    values.sort_by_key(|v| (v.at_ms, v.seq));
    let readings: Vec<(i64, u32, f64)> = values
        .iter()
        .map(|v| (v.at_ms, u32::try_from(v.channel).unwrap_or(0), v.value))
        .collect();
    let (events, struck, clock) = of_log(t);
    Ok(Grown {
        last_ms: values.last().map_or(i64::MIN, |v| v.at_ms),
        recording: Arc::new(record(t, &readings)),
        version: (upto, events, struck, clock),
        is_simulated: tx.has_origin(row.n, "simulated")?,
    })
}

impl Grown {
    /// Takes in what was stored since. `false`: it has to be read anew.
    fn grow(&mut self, tx: &mut Tx<'_>, t: &Test, n: i64, upto: i64) -> Result<bool, ApiError> {
        let (events, struck, clock) = of_log(t);
        if (events, struck, clock) != (self.version.1, self.version.2, self.version.3)
            || self.recording.readings.is_empty()
        {
            return Ok(false);
        }
        let new = tx.values_after(n, self.version.0)?;
        let in_order = new.windows(2).all(|w| w[0].at_ms <= w[1].at_ms)
            && new.first().is_none_or(|v| v.at_ms >= self.last_ms);
        if !in_order {
            return Ok(false);
        }
        // No reading of this test: what was found stands.
        if let Some(last) = new.last() {
            self.last_ms = last.at_ms;
            let r = Arc::make_mut(&mut self.recording);
            let start = r.start_ms.unwrap_or_default();
            r.readings
                .extend(new.iter().map(|v| ruhe_core::reading::Reading {
                    at_s: (v.at_ms - start) as f64 / 1e3,
                    channel: usize::try_from(v.channel).unwrap_or(0),
                    value: v.value,
                }));
            self.version.0 = upto;
        }
        Ok(true)
    }
}

impl AppState {
    /// A running test's readings as they are now.
    fn grown(
        &self,
        tx: &mut Tx<'_>,
        t: &Test,
        one: &One,
    ) -> Result<(Arc<Recording>, Version, bool), ApiError> {
        let row = tx.test(&t.id)?;
        let upto = tx.last_reading()?;
        let mut grown = lock(&one.grown);
        let is_grown = match grown.as_mut() {
            Some(g) => g.grow(tx, t, row.n, upto)?,
            None => false,
        };
        if !is_grown {
            *grown = Some(whole(tx, t, &row, upto)?);
        }
        let g = grown
            .as_ref()
            .ok_or_else(|| ApiError::Inside("readings of a running test".into()))?;
        Ok((g.recording.clone(), g.version, g.is_simulated))
    }

    /// What is found about a running test, no older than `patience` allows; its readings are always those of now.
    pub fn now_of(
        &self,
        tx: &mut Tx<'_>,
        t: &Test,
        patience: Patience,
    ) -> Result<Arc<Now>, ApiError> {
        let one = self.running.one(&t.id);
        let (recording, version, is_simulated) = self.grown(tx, t, &one)?;
        let is_live = self.feeds.is_on(&t.id);
        let known = lock(&one.judged)
            .as_ref()
            .map(|j| (j.now.clone(), j.version, j.at.elapsed()));
        if let Some((now, of, age)) = known {
            if of == version && now.is_live == is_live {
                return Ok(now);
            }
            // What a person typed, marked or struck out is judged at once; what a gauge sends waits its turn.
            let by_hand = (of.1, of.2, of.3) != (version.1, version.2, version.3)
                || one.typed.load(Ordering::Relaxed);
            let patience = match patience {
                Patience::Any => Patience::Any,
                _ if by_hand => Patience::None,
                other => other,
            };
            // One judge a test at a time: whoever comes meanwhile takes what is known.
            let turn = one.turn.try_lock();
            if patience.allows(age) || (turn.is_err() && patience != Patience::None) {
                return Ok(Arc::new(Now {
                    outline: outline(&recording, &now.finding, is_simulated),
                    finding: now.finding.clone(),
                    recording: Some(recording),
                    is_live,
                }));
            }
        }
        let _turn = lock(&one.turn);
        // Whoever had the turn before may have judged just these readings.
        let known = lock(&one.judged)
            .as_ref()
            .filter(|j| j.version == version && j.now.is_live == is_live)
            .map(|j| j.now.clone());
        if let Some(now) = known {
            return Ok(now);
        }
        one.typed.store(false, Ordering::Relaxed);
        let now = Arc::new(Now::of(recording, is_simulated, is_live));
        *lock(&one.judged) = Some(Judged {
            now: now.clone(),
            version,
            at: Instant::now(),
        });
        Ok(now)
    }
}
