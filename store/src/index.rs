//! The index that Today and the search read, and the list of sites. Derived; written with every act.

use crate::rows::{Circuit, Site};
use crate::schema::{circuits, sites};
use crate::{StoreError, Tx};
use diesel::prelude::*;

/// What a search wants. Empty fields want anything.
#[derive(Debug, Clone, Default)]
pub struct Wanted {
    /// Words that must all be there: site, place, system, model, serial, letter, name, refrigerant, stage, state.
    pub words: Vec<String>,
    /// Signed in this state.
    pub state: Option<String>,
    /// Signed (else taken on) from then on, ms since 1970 UTC.
    pub from_ms: Option<i64>,
    /// Until then.
    pub to_ms: Option<i64>,
    /// At most so many.
    pub most: i64,
}

impl Tx<'_> {
    /// Writes a circuit's row.
    ///
    /// # Errors
    /// If it does not follow the log.
    pub fn index(&mut self, row: &Circuit) -> Result<(), StoreError> {
        diesel::insert_into(circuits::table)
            .values(row)
            .on_conflict(circuits::id)
            .do_update()
            .set(row)
            .execute(self.0)?;
        Ok(())
    }

    /// The row of a circuit.
    ///
    /// # Errors
    /// Database trouble.
    pub fn indexed(&mut self, id: &str) -> Result<Option<Circuit>, StoreError> {
        Ok(circuits::table
            .find(id)
            .select(Circuit::as_select())
            .first(self.0)
            .optional()?)
    }

    /// Letters of the other circuits that were taken on with this one, in one job: their ids begin with the job's.
    ///
    /// # Errors
    /// Database trouble.
    pub fn letters_beside(&mut self, id: &str, job: &str) -> Result<Vec<String>, StoreError> {
        // From the first id that begins so to the first that no longer does.
        Ok(circuits::table
            .filter(circuits::id.ge(format!("{job}-")))
            .filter(circuits::id.lt(format!("{job}.")))
            .filter(circuits::id.ne(id))
            .select(circuits::tag)
            .load(self.0)?)
    }

    /// Circuits in work, without those of the kind `not`, in the order they were taken on.
    ///
    /// # Errors
    /// Database trouble.
    pub fn open_circuits(&mut self, not: &str) -> Result<Vec<Circuit>, StoreError> {
        Ok(circuits::table
            .filter(circuits::is_open.eq(true))
            .filter(circuits::job.ne(not))
            .order((circuits::at_ms, circuits::id))
            .select(Circuit::as_select())
            .load(self.0)?)
    }

    /// Ids of the circuits of a kind, in the order they were taken on.
    ///
    /// # Errors
    /// Database trouble.
    pub fn circuits_of(&mut self, job: &str) -> Result<Vec<String>, StoreError> {
        Ok(circuits::table
            .filter(circuits::job.eq(job))
            .order((circuits::at_ms, circuits::id))
            .select(circuits::id)
            .load(self.0)?)
    }

    /// Circuits that a search wants, without those of the kind `not`, the latest first.
    ///
    /// # Errors
    /// Database trouble.
    pub fn search(&mut self, wanted: &Wanted, not: &str) -> Result<Vec<Circuit>, StoreError> {
        let mut q = circuits::table
            .filter(circuits::job.ne(not))
            .order((circuits::at_ms.desc(), circuits::id))
            .limit(wanted.most)
            .select(Circuit::as_select())
            .into_boxed();
        for w in &wanted.words {
            let escaped = w
                .to_lowercase()
                .replace('\\', "\\\\")
                .replace('%', "\\%")
                .replace('_', "\\_");
            q = q.filter(circuits::words.like(format!("%{escaped}%")).escape('\\'));
        }
        if let Some(state) = &wanted.state {
            q = q.filter(circuits::state.eq(state.clone()));
        }
        if let Some(from) = wanted.from_ms {
            q = q.filter(circuits::at_ms.ge(from));
        }
        if let Some(to) = wanted.to_ms {
            q = q.filter(circuits::at_ms.lt(to));
        }
        Ok(q.load(self.0)?)
    }

    /// Writes a site.
    ///
    /// # Errors
    /// Database trouble.
    pub fn put_site(&mut self, row: &Site) -> Result<(), StoreError> {
        diesel::insert_into(sites::table)
            .values(row)
            .on_conflict(sites::id)
            .do_update()
            .set((sites::name.eq(&row.name), sites::place.eq(&row.place)))
            .execute(self.0)?;
        Ok(())
    }

    /// All sites by name.
    ///
    /// # Errors
    /// Database trouble.
    pub fn sites(&mut self) -> Result<Vec<Site>, StoreError> {
        Ok(sites::table
            .order((sites::name, sites::id))
            .select(Site::as_select())
            .load(self.0)?)
    }
}
