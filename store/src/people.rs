//! People and the devices they are signed in on.

use crate::rows::{Person, Session};
use crate::schema::{people, sessions};
use crate::{StoreError, Tx};
use diesel::prelude::*;

impl Tx<'_> {
    /// Whether anybody was ever let in.
    ///
    /// # Errors
    /// Database trouble.
    pub fn has_people(&mut self) -> Result<bool, StoreError> {
        Ok(
            diesel::select(diesel::dsl::exists(people::table.select(people::id)))
                .get_result(self.0)?,
        )
    }

    /// Everybody, by name; those who no longer come in too.
    ///
    /// # Errors
    /// Database trouble.
    pub fn people(&mut self) -> Result<Vec<Person>, StoreError> {
        Ok(people::table
            .order(people::name)
            .select(Person::as_select())
            .load(self.0)?)
    }

    /// Somebody by their name, in whatever letters.
    ///
    /// # Errors
    /// Database trouble.
    pub fn person_named(&mut self, name: &str) -> Result<Option<Person>, StoreError> {
        Ok(people::table
            .filter(people::name.eq(name))
            .select(Person::as_select())
            .first(self.0)
            .optional()?)
    }

    /// Somebody by their id.
    ///
    /// # Errors
    /// If there is nobody.
    pub fn person(&mut self, id: &str) -> Result<Person, StoreError> {
        people::table
            .find(id)
            .select(Person::as_select())
            .first(self.0)
            .optional()?
            .ok_or(StoreError::Missing("person"))
    }

    /// Keeps somebody, new or changed.
    ///
    /// # Errors
    /// If the name belongs to another.
    pub fn put_person(&mut self, row: &Person) -> Result<(), StoreError> {
        diesel::insert_into(people::table)
            .values(row)
            .on_conflict(people::id)
            .do_update()
            .set(row)
            .execute(self.0)?;
        Ok(())
    }

    /// Signs a device in.
    ///
    /// # Errors
    /// Database trouble.
    pub fn add_session(&mut self, row: &Session) -> Result<(), StoreError> {
        diesel::insert_into(sessions::table)
            .values(row)
            .execute(self.0)?;
        Ok(())
    }

    /// The session of a token that has not ended, and whose it is.
    ///
    /// # Errors
    /// Database trouble.
    pub fn session(
        &mut self,
        token: &str,
        now: i64,
    ) -> Result<Option<(Session, Person)>, StoreError> {
        Ok(sessions::table
            .inner_join(people::table.on(people::id.eq(sessions::person)))
            .filter(sessions::token.eq(token))
            .filter(sessions::ends_ms.gt(now))
            .filter(people::is_out.eq(false))
            .select((Session::as_select(), Person::as_select()))
            .first(self.0)
            .optional()?)
    }

    /// Sessions that have not ended, of one person or of all, those seen last first.
    ///
    /// # Errors
    /// Database trouble.
    pub fn sessions(&mut self, person: Option<&str>, now: i64) -> Result<Vec<Session>, StoreError> {
        let mut all = sessions::table
            .filter(sessions::ends_ms.gt(now))
            .order(sessions::seen_ms.desc())
            .select(Session::as_select())
            .into_boxed();
        if let Some(p) = person {
            all = all.filter(sessions::person.eq(p));
        }
        Ok(all.load(self.0)?)
    }

    /// Notes that a session was used.
    ///
    /// # Errors
    /// Database trouble.
    pub fn seen(&mut self, id: &str, now: i64) -> Result<(), StoreError> {
        diesel::update(sessions::table.find(id))
            .set(sessions::seen_ms.eq(now))
            .execute(self.0)?;
        Ok(())
    }

    /// Ends a session; how many there were.
    ///
    /// # Errors
    /// Database trouble.
    pub fn end_session(&mut self, id: &str) -> Result<usize, StoreError> {
        Ok(diesel::delete(sessions::table.find(id)).execute(self.0)?)
    }

    /// Ends all sessions of a person, but for one.
    ///
    /// # Errors
    /// Database trouble.
    pub fn end_sessions(&mut self, person: &str, but: Option<&str>) -> Result<usize, StoreError> {
        Ok(diesel::delete(
            sessions::table
                .filter(sessions::person.eq(person))
                .filter(sessions::id.ne(but.unwrap_or_default())),
        )
        .execute(self.0)?)
    }
}
