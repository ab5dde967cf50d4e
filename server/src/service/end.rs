//! Ending a test: its readings are sealed and judged outside of the transaction, which is tried again if one came in
//! between.

use super::act::Said;
use super::load::judged_whole;
use super::running::Patience;
use crate::error::ApiError;
use crate::feed::stop_simulated;
use crate::state::AppState;
use ruhe_job::act::end;
use ruhe_store::Tx;

/// How often the end is tried outside of the transaction before it is judged inside.
const TRIES: usize = 4;

impl AppState {
    /// Ends a test as of `at_ms`; one that has ended stays as it is.
    pub fn end_test(&self, test: &str, said: &Said, at_ms: Option<i64>) -> Result<(), ApiError> {
        stop_simulated(self, test)?;
        let circuit = self.store.read(|tx| self.circuit_of(tx, test))?;
        for attempt in 0..=TRIES {
            // Judged from one moment of the store; the log's end and the number of readings say whether it has passed.
            let (c, found) = self.store.read(|tx| {
                let c = self.folded(tx, &circuit)?;
                let found = judged_whole(tx, c.must_have(test)?)?;
                Ok::<_, ApiError>((c, found))
            })?;
            let ended = self.write_for(said, |tx| {
                let latest = self.circuit(tx, &circuit, Patience::Any)?;
                let count = readings_count(tx, test)?;
                let is_same = latest.chain == c.chain && count == found.1.count;
                let (now, seal) = if is_same {
                    (&found.0, found.1.clone())
                } else if attempt < TRIES {
                    return Ok::<_, ApiError>(false);
                } else {
                    return self.end_inside(tx, test, said, at_ms);
                };
                let who = said.who();
                if tx.entry(&who.id)?.is_some() {
                    return Ok(true);
                }
                let kept_ms = self.now_ms();
                let deed = end(
                    &latest,
                    test,
                    now,
                    seal,
                    at_ms.unwrap_or_else(|| said.happened_ms()),
                )?;
                self.keep(tx, latest.chain, &who, kept_ms, deed.into_iter().collect())?;
                Ok(true)
            })?;
            if ended {
                break;
            }
        }
        self.running.forget(test);
        self.changed(&circuit, Some(test));
        Ok(())
    }

    fn end_inside(
        &self,
        tx: &mut Tx<'_>,
        test: &str,
        said: &Said,
        at_ms: Option<i64>,
    ) -> Result<bool, ApiError> {
        let circuit = self.circuit_of(tx, test)?;
        let c = self.circuit(tx, &circuit, Patience::Any)?;
        let (now, seal) = judged_whole(tx, c.must_have(test)?)?;
        let kept_ms = self.now_ms();
        let deed = end(
            &c,
            test,
            &now,
            seal,
            at_ms.unwrap_or_else(|| said.happened_ms()),
        )?;
        self.keep(
            tx,
            c.chain,
            &said.who(),
            kept_ms,
            deed.into_iter().collect(),
        )?;
        Ok(true)
    }
}

fn readings_count(tx: &mut Tx<'_>, test: &str) -> Result<u64, ApiError> {
    let n = tx.test(test)?.n;
    Ok(u64::try_from(tx.count_readings(n)?).unwrap_or(0))
}
