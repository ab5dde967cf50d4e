//! Readings, strikes and events: added, never changed.

use crate::rows::{Event, Reading, Strike};
use crate::schema::{events, readings, strikes};
use crate::{Store, StoreError};
use diesel::prelude::*;

/// A reading as the judges need it.
#[derive(Debug, Clone, PartialEq, Queryable)]
pub struct Value {
    /// In the order stored.
    pub seq: i64,
    /// Its test.
    pub test_id: String,
    /// Its channel.
    pub channel_id: String,
    /// When, ms since 1970 UTC.
    pub at_ms: i64,
    /// In the channel's unit.
    pub value: f64,
}

/// What became of a batch of readings.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Stored {
    /// Stored now.
    pub new: usize,
    /// Known already (sent twice).
    pub known: usize,
}

impl Store {
    /// Stores a batch, all or nothing. A reading whose id is known and which says the same is counted, not stored again.
    ///
    /// # Errors
    /// If an id comes back with other content, or the test takes no more readings.
    pub fn add_readings(&self, batch: &[Reading]) -> Result<Stored, StoreError> {
        self.connection()?.immediate_transaction(|c| {
            let mut out = Stored { new: 0, known: 0 };
            // SQLite takes a bounded number of bound values a statement.
            for part in batch.chunks(500) {
                out.new += diesel::insert_or_ignore_into(readings::table)
                    .values(part)
                    .execute(c)?;
            }
            out.known = batch.len() - out.new;
            if out.known == 0 {
                return Ok(out);
            }
            // Some ids were known: each must say what it said before.
            for r in batch {
                let k: Reading = readings::table
                    .filter(readings::id.eq(&r.id))
                    .select(Reading::as_select())
                    .first(c)?;
                if (&k.test_id, &k.channel_id, &k.typed) != (&r.test_id, &r.channel_id, &r.typed) {
                    return Err(StoreError::Conflict(format!(
                        "reading {} exists with another value",
                        r.id
                    )));
                }
            }
            Ok(out)
        })
    }

    /// A test's readings in time order, those struck out left out.
    ///
    /// # Errors
    /// Database trouble.
    pub fn valid_readings(&self, test: &str) -> Result<Vec<Reading>, StoreError> {
        let struck = strikes::table.select(strikes::reading_id);
        Ok(readings::table
            .filter(readings::test_id.eq(test))
            .filter(readings::id.ne_all(struck))
            .order((readings::at_ms, readings::seq))
            .select(Reading::as_select())
            .load(&mut self.connection()?)?)
    }

    /// What the judges need of a test's readings stored after `seq` (−1: all), in time order, those struck out left out.
    ///
    /// # Errors
    /// Database trouble.
    pub fn values_after(&self, test: &str, seq: i64) -> Result<Vec<Value>, StoreError> {
        let struck = strikes::table.select(strikes::reading_id);
        let wanted = (
            readings::seq,
            readings::test_id,
            readings::channel_id,
            readings::at_ms,
            readings::value,
        );
        let mut c = self.connection()?;
        // A few new ones are found fastest by their number alone, whatever the test; all of one test by its index.
        let mut rows: Vec<Value> = if seq < 0 {
            readings::table
                .filter(readings::test_id.eq(test))
                .filter(readings::id.ne_all(struck))
                .select(wanted)
                .load(&mut c)?
        } else {
            readings::table
                .filter(readings::seq.gt(seq))
                .filter(readings::id.ne_all(struck))
                .select(wanted)
                .load(&mut c)?
        };
        rows.retain(|r| r.test_id == test);
        rows.sort_by_key(|r| (r.at_ms, r.seq));
        Ok(rows)
    }

    /// The last `most` readings of a test with their strikes, newest first.
    ///
    /// # Errors
    /// Database trouble.
    pub fn latest_readings(
        &self,
        test: &str,
        most: i64,
    ) -> Result<Vec<(Reading, Option<Strike>)>, StoreError> {
        Ok(readings::table
            .left_join(strikes::table.on(strikes::reading_id.eq(readings::id)))
            .filter(readings::test_id.eq(test))
            .order((readings::at_ms.desc(), readings::seq.desc()))
            .limit(most)
            .select((Reading::as_select(), Option::<Strike>::as_select()))
            .load(&mut self.connection()?)?)
    }

    /// What changes whenever the evidence of a test does: number of the last reading of any test, and how many strikes
    /// and events this one has. Counting readings instead would take as long as a test is old.
    ///
    /// # Errors
    /// Database trouble.
    pub fn evidence_mark(&self, test: &str) -> Result<(i64, i64, i64), StoreError> {
        let mut c = self.connection()?;
        let last: Option<i64> = readings::table
            .select(diesel::dsl::max(readings::seq))
            .first(&mut c)?;
        // From the few strikes to their readings: as a join SQLite goes through all readings of the test instead.
        let of_test = diesel::dsl::sql::<diesel::sql_types::Bool>(
            "(SELECT test_id FROM readings WHERE readings.id = strikes.reading_id) = ",
        )
        .bind::<diesel::sql_types::Text, _>(test);
        let struck = strikes::table.filter(of_test).count().get_result(&mut c)?;
        let marks = events::table
            .filter(events::test_id.eq(test))
            .count()
            .get_result(&mut c)?;
        Ok((last.unwrap_or(0), struck, marks))
    }

    /// Strikes a reading out, with the reading that supersedes it if there is one. Striking twice keeps the first, and
    /// its correction: a second tap stores nothing.
    ///
    /// # Errors
    /// If there is no such reading or the circuit is signed.
    pub fn strike(&self, strike: &Strike, instead: Option<&Reading>) -> Result<String, StoreError> {
        self.connection()?.immediate_transaction(|c| {
            let test: Option<String> = readings::table
                .filter(readings::id.eq(&strike.reading_id))
                .select(readings::test_id)
                .first(c)
                .optional()?;
            let test = test.ok_or(StoreError::Missing("reading"))?;
            let is_struck = strikes::table
                .filter(strikes::reading_id.eq(&strike.reading_id))
                .count()
                .get_result::<i64>(c)?
                > 0;
            if is_struck {
                return Ok(test);
            }
            if let Some(r) = instead {
                diesel::insert_into(readings::table)
                    .values(r)
                    .on_conflict(readings::id)
                    .do_nothing()
                    .execute(c)?;
            }
            diesel::insert_into(strikes::table)
                .values(strike)
                .execute(c)?;
            Ok(test)
        })
    }

    /// Whether any reading of a test came from a simulated gauge.
    ///
    /// # Errors
    /// Database trouble.
    pub fn is_simulated(&self, test: &str) -> Result<bool, StoreError> {
        let of_test = readings::table
            .filter(readings::test_id.eq(test))
            .filter(readings::origin.eq("simulated"));
        Ok(diesel::select(diesel::dsl::exists(of_test)).get_result(&mut self.connection()?)?)
    }

    /// One reading.
    ///
    /// # Errors
    /// If there is none.
    pub fn reading(&self, id: &str) -> Result<Reading, StoreError> {
        readings::table
            .filter(readings::id.eq(id))
            .select(Reading::as_select())
            .first(&mut self.connection()?)
            .optional()?
            .ok_or(StoreError::Missing("reading"))
    }

    /// Stores an event once.
    ///
    /// # Errors
    /// If the circuit is signed.
    pub fn add_event(&self, event: &Event) -> Result<(), StoreError> {
        diesel::insert_into(events::table)
            .values(event)
            .on_conflict(events::id)
            .do_nothing()
            .execute(&mut self.connection()?)?;
        Ok(())
    }

    /// A test's events in time order.
    ///
    /// # Errors
    /// Database trouble.
    pub fn events(&self, test: &str) -> Result<Vec<Event>, StoreError> {
        Ok(events::table
            .filter(events::test_id.eq(test))
            .order(events::at_ms)
            .load(&mut self.connection()?)?)
    }
}
