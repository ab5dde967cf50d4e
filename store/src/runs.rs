//! Tests, their channels, and their end.

use crate::rows::{Channel, ClockStart, Event, Reading, Test, TestEnd, Verdict};
use crate::schema::{channels, clock_starts, events, readings, test_ends, tests, verdicts};
use crate::{Store, StoreError};
use diesel::prelude::*;

fn next_attempt(c: &mut SqliteConnection, test: &Test) -> Result<i32, StoreError> {
    let before: i64 = tests::table
        .filter(tests::circuit_id.eq(&test.circuit_id))
        .filter(tests::kind.eq(&test.kind))
        .count()
        .get_result(c)?;
    Ok(i32::try_from(before + 1).unwrap_or(i32::MAX))
}

impl Store {
    /// Stores a test with its channels; its attempt number is given here, counting tests of its kind on the circuit.
    ///
    /// # Errors
    /// If the circuit is signed.
    pub fn add_test(&self, mut test: Test, its_channels: &[Channel]) -> Result<Test, StoreError> {
        self.connection()?.immediate_transaction(|c| {
            test.attempt = next_attempt(c, &test)?;
            diesel::insert_into(tests::table).values(&test).execute(c)?;
            diesel::insert_into(channels::table)
                .values(its_channels)
                .execute(c)?;
            Ok(test)
        })
    }

    /// Stores a test with all its evidence, or nothing of it.
    ///
    /// # Errors
    /// If the circuit is signed.
    pub fn add_whole_test(
        &self,
        mut test: Test,
        its_channels: &[Channel],
        its_readings: &[Reading],
        its_events: &[Event],
    ) -> Result<Test, StoreError> {
        self.connection()?.immediate_transaction(|c| {
            test.attempt = next_attempt(c, &test)?;
            diesel::insert_into(tests::table).values(&test).execute(c)?;
            diesel::insert_into(channels::table)
                .values(its_channels)
                .execute(c)?;
            // SQLite takes a bounded number of bound values a statement.
            for part in its_readings.chunks(1000) {
                diesel::insert_into(readings::table)
                    .values(part)
                    .execute(c)?;
            }
            diesel::insert_into(events::table)
                .values(its_events)
                .execute(c)?;
            Ok(test)
        })
    }

    /// One test.
    ///
    /// # Errors
    /// If there is none.
    pub fn test(&self, id: &str) -> Result<Test, StoreError> {
        tests::table
            .find(id)
            .first(&mut self.connection()?)
            .optional()?
            .ok_or(StoreError::Missing("test"))
    }

    /// A circuit's tests, oldest first.
    ///
    /// # Errors
    /// Database trouble.
    pub fn tests_of(&self, circuit: &str) -> Result<Vec<Test>, StoreError> {
        Ok(tests::table
            .filter(tests::circuit_id.eq(circuit))
            .order((tests::created_ms, tests::attempt))
            .load(&mut self.connection()?)?)
    }

    /// A test's channels in their order.
    ///
    /// # Errors
    /// Database trouble.
    pub fn channels(&self, test: &str) -> Result<Vec<Channel>, StoreError> {
        Ok(channels::table
            .filter(channels::test_id.eq(test))
            .order(channels::place)
            .load(&mut self.connection()?)?)
    }

    /// Starts a test's clock by hand.
    ///
    /// # Errors
    /// If the circuit is signed.
    pub fn start_clock(&self, row: &ClockStart) -> Result<(), StoreError> {
        diesel::insert_into(clock_starts::table)
            .values(row)
            .execute(&mut self.connection()?)?;
        Ok(())
    }

    /// The last hand-started clock of a test.
    ///
    /// # Errors
    /// Database trouble.
    pub fn clock_start(&self, test: &str) -> Result<Option<ClockStart>, StoreError> {
        Ok(clock_starts::table
            .filter(clock_starts::test_id.eq(test))
            .order(clock_starts::received_ms.desc())
            .first(&mut self.connection()?)
            .optional()?)
    }

    /// Ends a test with its verdict. Ending twice keeps the first end.
    ///
    /// # Errors
    /// Database trouble.
    pub fn end_test(&self, verdict: &Verdict) -> Result<TestEnd, StoreError> {
        self.connection()?.immediate_transaction(|c| {
            if let Some(end) = test_ends::table
                .find(&verdict.test_id)
                .first::<TestEnd>(c)
                .optional()?
            {
                return Ok(end);
            }
            diesel::insert_into(verdicts::table)
                .values(verdict)
                .execute(c)?;
            let end = TestEnd {
                test_id: verdict.test_id.clone(),
                verdict_id: verdict.id.clone(),
                at_ms: verdict.at_ms,
            };
            diesel::insert_into(test_ends::table)
                .values(&end)
                .execute(c)?;
            Ok(end)
        })
    }

    /// A test's end, if it has ended.
    ///
    /// # Errors
    /// Database trouble.
    pub fn test_end(&self, test: &str) -> Result<Option<TestEnd>, StoreError> {
        Ok(test_ends::table
            .find(test)
            .first(&mut self.connection()?)
            .optional()?)
    }

    /// Stored verdicts of a test, oldest first.
    ///
    /// # Errors
    /// Database trouble.
    pub fn verdicts(&self, test: &str) -> Result<Vec<Verdict>, StoreError> {
        Ok(verdicts::table
            .filter(verdicts::test_id.eq(test))
            .order(verdicts::at_ms)
            .load(&mut self.connection()?)?)
    }
}
