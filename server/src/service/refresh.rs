//! What runs is judged and indexed at a bounded rate: about every second where somebody looks or types, every ten where
//! only a gauge sends.

use super::now_ms;
use super::running::Patience;
use crate::error::ApiError;
use crate::state::{AppState, ChangedBy};
use ruhe_store::rows;
use std::collections::HashMap;
use std::sync::Mutex;
use std::time::{Duration, Instant};

/// Between two looks at what has changed.
const TICK: Duration = Duration::from_secs(1);
/// The index of a test that only a gauge sends to is renewed this often.
const SLOW: Duration = Duration::from_secs(10);

/// What the house keeps by itself is looked through every so many ticks.
const HOUSE: u32 = 20;
/// Refusals older than this are forgotten, ms: a year.
const KNOCKS: i64 = 365 * 86_400_000;
const HOUR: i64 = 3_600_000;

impl AppState {
    /// Writes down what was refused since the last time.
    ///
    /// # Errors
    /// Database trouble.
    pub fn write_refusals(&self) -> Result<(), ApiError> {
        let all = self.refusals.taken();
        if all.is_empty() {
            return Ok(());
        }
        let now = now_ms();
        let rows: Vec<rows::Refused> = all
            .into_iter()
            .map(|((what, place, address), count)| rows::Refused {
                hour_ms: now - now.rem_euclid(HOUR),
                what: what.into(),
                place,
                address,
                count,
            })
            .collect();
        self.store
            .write(|tx| Ok::<_, ApiError>(tx.note_refused(&rows, now - KNOCKS)?))
    }
}

struct Changed {
    by_hand: bool,
    indexed: Instant,
    is_due: bool,
}

/// Circuits with readings that the index does not know yet.
#[derive(Default)]
pub struct Waiting(Mutex<HashMap<String, Changed>>);

impl Waiting {
    /// A reading came in.
    pub fn note(&self, circuit: &str, by_hand: bool) {
        if let Ok(mut all) = self.0.lock() {
            let c = all.entry(circuit.to_owned()).or_insert_with(|| Changed {
                by_hand,
                indexed: Instant::now() - SLOW,
                is_due: true,
            });
            c.by_hand |= by_hand;
            c.is_due = true;
        }
    }
    /// Circuits whose index is to be renewed now.
    fn due(&self) -> Vec<String> {
        let Ok(mut all) = self.0.lock() else {
            return vec![];
        };
        let mut out = Vec::new();
        for (id, c) in all.iter_mut() {
            if c.is_due && (c.by_hand || c.indexed.elapsed() >= SLOW) {
                (c.is_due, c.by_hand, c.indexed) = (false, false, Instant::now());
                out.push(id.clone());
            }
        }
        out
    }
}

/// Judges a circuit's running tests outside of any transaction that writes, then renews its row.
fn refresh(state: &AppState, circuit: &str) -> Result<(), ApiError> {
    state
        .store
        .read(|tx| state.circuit(tx, circuit, Patience::Watched).map(|_| ()))?;
    state.store.write(|tx| {
        if state.folded(tx, circuit)?.is_signed() {
            return Ok(());
        }
        state.follow(tx, circuit)
    })
}

/// Renews what has changed, for ever.
pub async fn refresh_forever(state: AppState) {
    let mut tick = tokio::time::interval(TICK);
    let mut ticks = 0u32;
    tick.set_missed_tick_behavior(tokio::time::MissedTickBehavior::Delay);
    loop {
        tick.tick().await;
        ticks = ticks.wrapping_add(1);
        if ticks.is_multiple_of(HOUSE) {
            let kept = state
                .work(|s| {
                    // A session that ran out ends its streams too.
                    s.people_changed();
                    s.held.sweep();
                    s.write_refusals()
                })
                .await;
            if let Err(e) = kept {
                tracing::error!(%e, "refusals were not written down");
            }
        }
        if let Err(e) = state.work(|s| s.note_heads()).await {
            tracing::error!(%e, "an end or a signature was not noted");
        }
        for circuit in state.waiting.due() {
            let id = circuit.clone();
            let done = state.work(move |s| refresh(s, &id)).await;
            match done {
                Ok(()) => state.told(&circuit, None, ChangedBy::Index, vec![]),
                Err(e) => tracing::error!(%e, circuit, "the index was not renewed"),
            }
        }
    }
}
