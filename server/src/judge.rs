//! Verdicts of stored tests, judged once per state of their evidence.

use crate::error::ApiError;
use crate::state::AppState;
use crate::wire::{Judgement, ReadTest, UnitsQuery, Verdict, judged_of, read_test};
use ruhe_core::quantity::{Dimension, Unit, Units};
use ruhe_core::reading::Recording;
use ruhe_core::vacuum::DecayVerdict;
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
    /// A decay's own, for those who argue on.
    pub decay: Option<DecayVerdict>,
    /// Zero of the verdict's seconds.
    pub start_ms: i64,
    /// Readings stored, those struck out too.
    pub stored: i64,
    read: Arc<ReadTest>,
}

impl JudgedTest {
    pub fn recording(&self) -> &Recording {
        &self.read.recording
    }
}

const MOST: usize = 200;

/// The units of a request, with defaults where it names none or one that does not fit.
pub fn units_of(q: &UnitsQuery) -> Units {
    let pick = |code: &Option<String>, dimension: Dimension, or: Unit| {
        code.as_deref()
            .and_then(Unit::from_code)
            .filter(|u| u.info().dimension == dimension)
            .unwrap_or(or)
    };
    let d = Units::default();
    Units {
        pressure: pick(&q.pressure, Dimension::Pressure, d.pressure),
        temperature: pick(&q.temperature, Dimension::Temperature, d.temperature),
        vacuum: pick(&q.vacuum, Dimension::Pressure, d.vacuum),
    }
}

/// The verdict of a test as its evidence stands.
pub fn judge(
    state: &AppState,
    test: &rows::Test,
    units: Units,
) -> Result<Arc<JudgedTest>, ApiError> {
    let clock = state.store.clock_start(&test.id)?.map(|c| c.at_ms);
    let mark = state.store.evidence_mark(&test.id)?;
    let key: Key = (
        test.id.clone(),
        mark,
        clock,
        [
            units.pressure.code(),
            units.temperature.code(),
            units.vacuum.code(),
        ],
    );
    let lock = || {
        state
            .judged
            .known
            .lock()
            .map_err(|_| ApiError::Inside("verdict cache".into()))
    };
    if let Some(known) = lock()?.get(&key) {
        return Ok(known.clone());
    }
    // More readings and nothing else: the recording known grows by them; a day at 1 Hz is not read again each second.
    let same = |k: &Key| {
        k.0 == key.0 && (k.1.1, k.1.2, k.2) == (key.1.1, key.1.2, key.2) && k.1.0 <= key.1.0
    };
    let before = lock()?
        .iter()
        .filter(|(k, _)| same(k))
        .max_by_key(|(k, _)| (k.1.0, k.3 == key.3))
        .map(|(k, j)| (k.3 == key.3, j.clone()));
    let judged = match before {
        None => fresh(state, test, units, mark)?,
        Some((same_units, j)) => {
            let rows = j.read.since(&state.store, &test.id, mark.0)?;
            match (rows.is_empty(), same_units) {
                // Another test's readings: nothing here has changed.
                (true, true) => j,
                (true, false) => Arc::new(of(j.read.clone(), mark.1, units)),
                (false, _) => match j.read.grown(&rows, mark.0) {
                    Some(read) => Arc::new(of(Arc::new(read), mark.1, units)),
                    None => fresh(state, test, units, mark)?,
                },
            }
        }
    };
    let mut known = lock()?;
    known.retain(|k, _| k.0 != key.0 || k.3 != key.3);
    if known.len() >= MOST {
        known.clear();
    }
    known.insert(key, judged.clone());
    Ok(judged)
}

fn of(read: Arc<ReadTest>, struck: i64, units: Units) -> JudgedTest {
    let stored = i64::try_from(read.recording.readings.len()).unwrap_or(0) + struck;
    let Judgement { verdict, decay } = judged_of(&read.recording, units);
    JudgedTest {
        verdict,
        decay,
        start_ms: read.start_ms(),
        stored,
        read,
    }
}

fn fresh(
    state: &AppState,
    test: &rows::Test,
    units: Units,
    (upto, struck, _): (i64, i64, i64),
) -> Result<Arc<JudgedTest>, ApiError> {
    Ok(Arc::new(of(
        Arc::new(read_test(&state.store, test, upto)?),
        struck,
        units,
    )))
}
