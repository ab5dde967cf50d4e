//! What is derived from the logs, written anew from them: the index, the sites, which tests are open, which recording
//! was taken as which test.

use crate::error::ApiError;
use crate::state::AppState;
use ruhe_job::log::{Deed, Entry, SITES};
use ruhe_job::state::Circuit;
use ruhe_store::{Tx, rows};

impl AppState {
    /// Writes everything anew that can be read off the logs, all of it or nothing. Returns how many circuits there are.
    ///
    /// # Errors
    /// The first log that is not as it was kept, or database trouble.
    pub fn rebuild(&self) -> Result<usize, ApiError> {
        self.store.write(|tx| {
            let mut count = 0;
            for log in tx.logs()? {
                let (entries, end) = self.kept(tx, &log)?;
                if log == SITES {
                    rebuild_sites(tx, &entries)?;
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
                rebuild_tests(tx, &Circuit::fold(entries, &end.hash)?, &tests)?;
                self.follow(tx, &log)?;
                count += 1;
            }
            Ok(count)
        })
    }
}

fn rebuild_sites(tx: &mut Tx<'_>, entries: &[Entry]) -> Result<(), ApiError> {
    for e in entries {
        if let Deed::SiteKept { site, name, place } = &e.deed {
            tx.put_site(&rows::Site {
                id: site.clone(),
                name: name.clone(),
                place: place.clone(),
            })?;
        }
    }
    Ok(())
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
