//! Readings: added, never changed.

use crate::rows::{Reading, Value};
use crate::schema::{readings, tests};
use crate::{StoreError, Tx};
use diesel::dsl::sql;
use diesel::prelude::*;
use diesel::sql_types::Bool;

/// What became of a batch of readings.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Stored {
    /// Stored now.
    pub new: usize,
    /// Known already (sent twice).
    pub known: usize,
}

/// Origins of what people typed, as the index over them has it: word for word, or it is not used.
const BY_HAND: &str = "origin IN ('live', 'later', 'corrected')";

impl Tx<'_> {
    /// Stores a batch. A reading whose id is known and which says the same is counted, not stored again.
    ///
    /// # Errors
    /// If an id comes back with other content, or the test takes no more readings.
    pub fn add_readings(&mut self, batch: &[Reading]) -> Result<Stored, StoreError> {
        let mut out = Stored { new: 0, known: 0 };
        // SQLite takes a bounded number of bound values a statement.
        for part in batch.chunks(500) {
            out.new += diesel::insert_or_ignore_into(readings::table)
                .values(part)
                .execute(self.0)?;
        }
        out.known = batch.len() - out.new;
        if out.known > 0 {
            self.must_agree(batch)?;
        }
        Ok(out)
    }

    /// Some ids were known: each must say what it said before.
    fn must_agree(&mut self, batch: &[Reading]) -> Result<(), StoreError> {
        for r in batch {
            let k = self.reading(&r.id)?;
            if (k.test, k.channel, &k.typed) != (r.test, r.channel, &r.typed) {
                return Err(StoreError::Conflict(format!(
                    "reading {} exists with another value",
                    r.id
                )));
            }
        }
        Ok(())
    }

    /// One reading.
    ///
    /// # Errors
    /// If there is none.
    pub fn reading(&mut self, id: &str) -> Result<Reading, StoreError> {
        readings::table
            .filter(readings::id.eq(id))
            .select(Reading::as_select())
            .first(self.0)
            .optional()?
            .ok_or(StoreError::Missing("reading"))
    }

    /// All readings of a test in the order of time and id, those struck out too: as they are sealed.
    ///
    /// # Errors
    /// Database trouble.
    pub fn readings(&mut self, test: i64) -> Result<Vec<Reading>, StoreError> {
        Ok(readings::table
            .filter(readings::test.eq(test))
            .order((readings::at_ms, readings::id))
            .select(Reading::as_select())
            .load(self.0)?)
    }

    /// Readings of a circuit's tests stored after this number, with their test, and the last number among them.
    ///
    /// # Errors
    /// Database trouble.
    #[allow(clippy::type_complexity)]
    pub fn readings_after(
        &mut self,
        circuit: &str,
        after: i64,
        most: i64,
    ) -> Result<(Vec<(String, Reading)>, Option<i64>), StoreError> {
        let rows: Vec<(i64, String, Reading)> = readings::table
            .inner_join(tests::table.on(tests::n.eq(readings::test)))
            .filter(tests::circuit.eq(circuit))
            .filter(readings::seq.gt(after))
            .order(readings::seq)
            .limit(most)
            .select((readings::seq, tests::id, Reading::as_select()))
            .load(self.0)?;
        let last = rows.last().map(|r| r.0);
        Ok((rows.into_iter().map(|(_, t, r)| (t, r)).collect(), last))
    }

    /// How many readings a test has, those struck out too.
    ///
    /// # Errors
    /// Database trouble.
    pub fn count_readings(&mut self, test: i64) -> Result<i64, StoreError> {
        Ok(readings::table
            .filter(readings::test.eq(test))
            .count()
            .get_result(self.0)?)
    }

    /// What the judges need of a test's readings stored after `seq` (−1: all), in the order they were stored.
    ///
    /// # Errors
    /// Database trouble.
    pub fn values_after(&mut self, test: i64, seq: i64) -> Result<Vec<Value>, StoreError> {
        let wanted = (
            readings::seq,
            readings::id,
            readings::channel,
            readings::at_ms,
            readings::value,
        );
        // A few new ones are found fastest by their number alone, whatever the test; all of one test by its index.
        if seq < 0 {
            return Ok(readings::table
                .filter(readings::test.eq(test))
                .order(readings::seq)
                .select(wanted)
                .load(self.0)?);
        }
        // The plus keeps SQLite from walking the index of the test, which grows with the test.
        let of_test = diesel::dsl::sql::<diesel::sql_types::Bool>("+readings.test = ")
            .bind::<diesel::sql_types::BigInt, _>(test);
        Ok(readings::table
            .filter(readings::seq.gt(seq))
            .filter(of_test)
            .order(readings::seq)
            .select(wanted)
            .load(self.0)?)
    }

    /// Number of the last reading of any test; 0: none yet.
    ///
    /// # Errors
    /// Database trouble.
    pub fn last_reading(&mut self) -> Result<i64, StoreError> {
        let last: Option<i64> = readings::table
            .select(diesel::dsl::max(readings::seq))
            .first(self.0)?;
        Ok(last.unwrap_or(0))
    }

    /// The last `most` readings of a test, newest first.
    ///
    /// # Errors
    /// Database trouble.
    pub fn latest_readings(&mut self, test: i64, most: i64) -> Result<Vec<Reading>, StoreError> {
        Ok(readings::table
            .filter(readings::test.eq(test))
            .order((readings::at_ms.desc(), readings::seq.desc()))
            .limit(most)
            .select(Reading::as_select())
            .load(self.0)?)
    }

    /// The last `most` readings of a test before a moment, newest first; only those that people typed, if that is
    /// asked.
    ///
    /// # Errors
    /// Database trouble.
    pub fn readings_before(
        &mut self,
        test: i64,
        before_ms: i64,
        by_hand: bool,
        most: i64,
    ) -> Result<Vec<Reading>, StoreError> {
        let mut wanted = readings::table
            .filter(readings::test.eq(test))
            .filter(readings::at_ms.lt(before_ms))
            .into_boxed();
        if by_hand {
            wanted = wanted.filter(sql::<Bool>(BY_HAND));
        }
        Ok(wanted
            .order((readings::at_ms.desc(), readings::seq.desc()))
            .limit(most)
            .select(Reading::as_select())
            .load(self.0)?)
    }

    /// Readings of a test from one moment to another, newest first.
    ///
    /// # Errors
    /// Database trouble.
    pub fn readings_between(
        &mut self,
        test: i64,
        (from_ms, to_ms): (i64, i64),
    ) -> Result<Vec<Reading>, StoreError> {
        Ok(readings::table
            .filter(readings::test.eq(test))
            .filter(readings::at_ms.between(from_ms, to_ms))
            .order((readings::at_ms.desc(), readings::seq.desc()))
            .select(Reading::as_select())
            .load(self.0)?)
    }

    /// Whether any reading of a test has this origin.
    ///
    /// # Errors
    /// Database trouble.
    pub fn has_origin(&mut self, test: i64, origin: &str) -> Result<bool, StoreError> {
        let of_test = readings::table
            .filter(readings::test.eq(test))
            .filter(readings::origin.eq(origin));
        Ok(diesel::select(diesel::dsl::exists(of_test)).get_result(self.0)?)
    }
}

#[cfg(test)]
mod by_hand {
    use super::*;
    use diesel::sql_types::Text;

    #[derive(QueryableByName)]
    struct Plan {
        #[diesel(sql_type = Text)]
        detail: String,
    }

    #[test]
    fn what_people_typed_is_found_by_its_index() {
        let dir = tempfile::tempdir().unwrap();
        let store = crate::Store::open(dir.path()).unwrap();
        let asked = format!(
            "EXPLAIN QUERY PLAN SELECT * FROM readings WHERE test = 1 AND at_ms < 5 AND {BY_HAND} ORDER BY \
             at_ms DESC, seq DESC LIMIT 40"
        );
        let plan: Vec<Plan> = store
            .read(|tx| Ok::<_, StoreError>(diesel::sql_query(asked).load(tx.0)?))
            .unwrap();
        assert!(
            plan[0].detail.contains("readings_by_hand"),
            "{}",
            plan[0].detail
        );
    }
}
