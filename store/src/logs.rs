//! Logs and photos: entries in their order.

use crate::rows::{Entry, EntrySignature, Photo, Test};
use crate::schema::{entries, photos, recordings, signatures, tests, told};
use crate::{StoreError, Tx};
use diesel::prelude::*;

impl Tx<'_> {
    /// The entries of a log in their order.
    ///
    /// # Errors
    /// Database trouble.
    pub fn log(&mut self, log: &str) -> Result<Vec<Entry>, StoreError> {
        Ok(entries::table
            .filter(entries::log.eq(log))
            .order(entries::seq)
            .select(Entry::as_select())
            .load(self.0)?)
    }

    /// The last entry of a log.
    ///
    /// # Errors
    /// Database trouble.
    pub fn last(&mut self, log: &str) -> Result<Option<Entry>, StoreError> {
        Ok(entries::table
            .filter(entries::log.eq(log))
            .order(entries::seq.desc())
            .select(Entry::as_select())
            .first(self.0)
            .optional()?)
    }

    /// Whether a log ends with this entry.
    ///
    /// # Errors
    /// Database trouble.
    pub fn is_last(&mut self, log: &str, seq: u64, hash: &str) -> Result<bool, StoreError> {
        let last: Option<(i64, String)> = entries::table
            .filter(entries::log.eq(log))
            .order(entries::seq.desc())
            .select((entries::seq, entries::hash))
            .first(self.0)
            .optional()?;
        Ok(last.is_some_and(|(s, h)| u64::try_from(s) == Ok(seq) && h == hash))
    }

    /// The hash of the entry at a place of a log.
    ///
    /// # Errors
    /// Database trouble.
    pub fn hash_at(&mut self, log: &str, seq: i64) -> Result<Option<String>, StoreError> {
        Ok(entries::table
            .find((log, seq))
            .select(entries::hash)
            .first(self.0)
            .optional()?)
    }

    /// Whether anything was ever kept.
    ///
    /// # Errors
    /// Database trouble.
    pub fn has_entries(&mut self) -> Result<bool, StoreError> {
        Ok(
            diesel::select(diesel::dsl::exists(entries::table.select(entries::id)))
                .get_result(self.0)?,
        )
    }

    /// Names of all logs.
    ///
    /// # Errors
    /// Database trouble.
    pub fn logs(&mut self) -> Result<Vec<String>, StoreError> {
        Ok(entries::table
            .select(entries::log)
            .distinct()
            .order(entries::log)
            .load(self.0)?)
    }

    /// An entry by its id.
    ///
    /// # Errors
    /// Database trouble.
    pub fn entry(&mut self, id: &str) -> Result<Option<Entry>, StoreError> {
        Ok(entries::table
            .filter(entries::id.eq(id))
            .select(Entry::as_select())
            .first(self.0)
            .optional()?)
    }

    /// Adds entries to the end of their log.
    ///
    /// # Errors
    /// If they do not follow it, or the circuit is signed.
    pub fn append(&mut self, rows: &[Entry]) -> Result<(), StoreError> {
        for row in rows {
            diesel::insert_into(entries::table)
                .values(row)
                .execute(self.0)?;
        }
        Ok(())
    }

    /// Keeps signatures of entries.
    ///
    /// # Errors
    /// If an entry has one by this key already.
    pub fn sign(&mut self, rows: &[EntrySignature]) -> Result<(), StoreError> {
        for row in rows {
            diesel::insert_into(signatures::table)
                .values(row)
                .execute(self.0)?;
        }
        Ok(())
    }

    /// The signature of an entry by a key.
    ///
    /// # Errors
    /// Database trouble.
    pub fn signature(
        &mut self,
        log: &str,
        seq: i64,
        key: &str,
    ) -> Result<Option<String>, StoreError> {
        Ok(signatures::table
            .find((log, seq, key))
            .select(signatures::signature)
            .first(self.0)
            .optional()?)
    }

    /// What an id was used for.
    ///
    /// # Errors
    /// Database trouble.
    pub fn told(&mut self, id: &str) -> Result<Option<String>, StoreError> {
        Ok(told::table
            .find(id)
            .select(told::what)
            .first(self.0)
            .optional()?)
    }

    /// Notes what an id was used for, the first time.
    ///
    /// # Errors
    /// Database trouble.
    pub fn tell(&mut self, id: &str, what: &str) -> Result<(), StoreError> {
        diesel::insert_into(told::table)
            .values((told::id.eq(id), told::what.eq(what)))
            .on_conflict_do_nothing()
            .execute(self.0)?;
        Ok(())
    }

    /// Registers a test, so that it can have readings.
    ///
    /// # Errors
    /// Database trouble.
    pub fn add_test(&mut self, id: &str, circuit: &str) -> Result<Test, StoreError> {
        diesel::insert_into(tests::table)
            .values((
                tests::id.eq(id),
                tests::circuit.eq(circuit),
                tests::is_open.eq(true),
            ))
            .execute(self.0)?;
        self.test(id)
    }

    /// Notes which test a recording was taken as.
    ///
    /// # Errors
    /// Database trouble.
    pub fn add_recording(&mut self, digest: &str, test: &str) -> Result<(), StoreError> {
        diesel::insert_into(recordings::table)
            .values((recordings::digest.eq(digest), recordings::test.eq(test)))
            .on_conflict_do_nothing()
            .execute(self.0)?;
        Ok(())
    }

    /// Ids of the tests that a recording was taken as.
    ///
    /// # Errors
    /// Database trouble.
    pub fn taken_as(&mut self, digest: &str) -> Result<Vec<String>, StoreError> {
        Ok(recordings::table
            .filter(recordings::digest.eq(digest))
            .select(recordings::test)
            .order(recordings::test)
            .load(self.0)?)
    }

    /// Where a test belongs.
    ///
    /// # Errors
    /// If there is no such test.
    pub fn test(&mut self, id: &str) -> Result<Test, StoreError> {
        tests::table
            .filter(tests::id.eq(id))
            .select(Test::as_select())
            .first(self.0)
            .optional()?
            .ok_or(StoreError::Missing("test"))
    }

    /// A test by its number.
    ///
    /// # Errors
    /// If there is no such test.
    pub fn test_of(&mut self, n: i64) -> Result<Test, StoreError> {
        tests::table
            .find(n)
            .select(Test::as_select())
            .first(self.0)
            .optional()?
            .ok_or(StoreError::Missing("test"))
    }

    /// Opens a test for readings, or closes it.
    ///
    /// # Errors
    /// If the circuit is signed.
    pub fn set_open(&mut self, id: &str, is_open: bool) -> Result<(), StoreError> {
        diesel::update(tests::table.filter(tests::id.eq(id)))
            .set(tests::is_open.eq(is_open))
            .execute(self.0)?;
        Ok(())
    }

    /// Tests that take readings.
    ///
    /// # Errors
    /// Database trouble.
    pub fn open_tests(&mut self) -> Result<Vec<Test>, StoreError> {
        Ok(tests::table
            .filter(tests::is_open.eq(true))
            .select(Test::as_select())
            .load(self.0)?)
    }

    /// Keeps the bytes of a photo.
    ///
    /// # Errors
    /// If the circuit is signed.
    pub fn add_photo(&mut self, row: &Photo) -> Result<(), StoreError> {
        diesel::insert_into(photos::table)
            .values(row)
            .execute(self.0)?;
        Ok(())
    }

    /// A photo.
    ///
    /// # Errors
    /// If there is none.
    pub fn photo(&mut self, id: &str) -> Result<Photo, StoreError> {
        photos::table
            .find(id)
            .select(Photo::as_select())
            .first(self.0)
            .optional()?
            .ok_or(StoreError::Missing("photo"))
    }
}
