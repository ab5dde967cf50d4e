//! Verdicts of stored tests, judged once per state of their evidence.

use crate::error::ApiError;
use crate::state::AppState;
use crate::wire::{UnitsQuery, Verdict, recording_of, verdict_of};
use ruhe_core::quantity::{Dimension, Unit, Units};
use ruhe_core::reading::Recording;
use ruhe_store::rows;
use std::collections::HashMap;
use std::sync::{Arc, Mutex};

type Key = (String, (i64, i64, i64), Option<i64>, [&'static str; 3]);

/// Verdicts by test, evidence and units. Small: the oldest are dropped.
#[derive(Default)]
pub struct Judged {
    known: Mutex<HashMap<Key, Arc<JudgedTest>>>,
}

/// A test's verdict and what it was judged from.
pub struct JudgedTest {
    pub verdict: Verdict,
    /// Zero of the verdict's seconds.
    pub start_ms: i64,
    pub recording: Recording,
}

const MOST: usize = 200;

/// The units of a request, with defaults where it names none or one that does not fit.
pub fn units_of(q: &UnitsQuery) -> Units {
    let pick =
        |code: &Option<String>, dimension: Dimension, or: Unit| code.as_deref().and_then(Unit::from_code).filter(|u| u.info().dimension == dimension).unwrap_or(or);
    let d = Units::default();
    Units {
        pressure: pick(&q.pressure, Dimension::Pressure, d.pressure),
        temperature: pick(&q.temperature, Dimension::Temperature, d.temperature),
        vacuum: pick(&q.vacuum, Dimension::Pressure, d.vacuum),
    }
}

/// The verdict of a test as its evidence stands.
pub fn judge(state: &AppState, test: &rows::Test, units: Units) -> Result<Arc<JudgedTest>, ApiError> {
    let clock = state.store.clock_start(&test.id)?.map(|c| c.at_ms);
    let key = (test.id.clone(), state.store.evidence_count(&test.id)?, clock, [units.pressure.code(), units.temperature.code(), units.vacuum.code()]);
    let lock = || state.judged.known.lock().map_err(|_| ApiError::Inside("verdict cache".into()));
    if let Some(known) = lock()?.get(&key) {
        return Ok(known.clone());
    }
    let recording = recording_of(&state.store, test)?;
    let judged = Arc::new(JudgedTest { verdict: verdict_of(&recording, units), start_ms: recording.start_ms.unwrap_or(test.created_ms), recording });
    let mut known = lock()?;
    known.retain(|k, _| k.0 != key.0 || k.3 != key.3);
    if known.len() >= MOST {
        known.clear();
    }
    known.insert(key, judged.clone());
    Ok(judged)
}
