//! What is derived from the logs, written anew from them: the index, the sites, which tests are open, which recording
//! was taken as which test.

use super::shelf::put_sites;
use crate::error::ApiError;
use crate::state::AppState;
use ruhe_job::log::{Deed, Entry, SITES};
use ruhe_job::state::Circuit;
use ruhe_store::Tx;

impl AppState {
    /// Writes everything anew that can be read off the logs, all of it or nothing. Returns how many circuits there are.
    ///
    /// # Errors
    /// The first log that is not as it was kept, or database trouble.
    pub fn rebuild(&self) -> Result<usize, ApiError> {
        self.store.write(|tx| {
            let mut count = 0;
            for log in tx.logs()? {
                let (entries, _) = self.kept(tx, &log)?;
                if log == SITES {
                    put_sites(tx, entries.iter().map(|e| &e.deed))?;
                }
                if !entries.first().is_some_and(|e| e.deed.opens_a_circuit()) {
                    continue;
                }
                for e in &entries {
                    if let Deed::Ended(x) = &e.deed {
                        tx.add_recording(&x.recording, &x.test)?;
                    }
                }
                let planned = |e: &Entry| matches!(e.deed, Deed::Planned(_)).then(|| e.id.clone());
                let tests: Vec<String> = entries.iter().filter_map(planned).collect();
                let circuit = self.folded(tx, &log)?;
                rebuild_tests(tx, &circuit, &tests)?;
                self.follow(tx, &log)?;
                count += 1;
            }
            Ok(count)
        })
    }
}

/// A test takes readings while it runs: those that were struck out, moved away or belong to an earlier visit do not.
fn rebuild_tests(tx: &mut Tx<'_>, c: &Circuit, tests: &[String]) -> Result<(), ApiError> {
    for id in tests {
        let runs = c.tests.iter().any(|t| t.id == *id && !t.is_over());
        if tx.test(id)?.is_open != runs {
            tx.set_open(id, runs)?;
        }
    }
    Ok(())
}
