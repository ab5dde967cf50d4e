//! People and the devices they are signed in on.

use crate::rows::{Person, Refused, Session};
use crate::schema::{known_devices, people, refusals, sessions};
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

    /// Lets somebody in.
    ///
    /// # Errors
    /// If the name belongs to another.
    pub fn add_person(&mut self, row: &Person) -> Result<(), StoreError> {
        diesel::insert_into(people::table)
            .values(row)
            .execute(self.0)?;
        Ok(())
    }

    /// Changes as what somebody comes in, and whether; nothing else of them.
    ///
    /// # Errors
    /// Database trouble.
    pub fn set_role(&mut self, id: &str, role: &str, is_out: bool) -> Result<(), StoreError> {
        diesel::update(people::table.find(id))
            .set((people::role.eq(role), people::is_out.eq(is_out)))
            .execute(self.0)?;
        Ok(())
    }

    /// Changes somebody's password; nothing else of them.
    ///
    /// # Errors
    /// Database trouble.
    pub fn set_password(&mut self, id: &str, password: &str) -> Result<(), StoreError> {
        diesel::update(people::table.find(id))
            .set(people::password.eq(password))
            .execute(self.0)?;
        Ok(())
    }

    /// Notes a browser on which somebody signed in; `token` is the digest of its secret.
    ///
    /// # Errors
    /// Database trouble.
    pub fn know_device(&mut self, token: &str, person: &str, now: i64) -> Result<(), StoreError> {
        diesel::insert_into(known_devices::table)
            .values((
                known_devices::token.eq(token),
                known_devices::person.eq(person),
                known_devices::made_ms.eq(now),
            ))
            .on_conflict_do_nothing()
            .execute(self.0)?;
        // A person has a handful of devices; the oldest of very many are forgotten.
        let kept: Vec<String> = known_devices::table
            .filter(known_devices::person.eq(person))
            .order(known_devices::made_ms.desc())
            .limit(40)
            .select(known_devices::token)
            .load(self.0)?;
        diesel::delete(
            known_devices::table
                .filter(known_devices::person.eq(person))
                .filter(known_devices::token.ne_all(kept)),
        )
        .execute(self.0)?;
        Ok(())
    }

    /// Whether somebody signed in on this browser before.
    ///
    /// # Errors
    /// Database trouble.
    pub fn knows_device(&mut self, token: &str, person: &str) -> Result<bool, StoreError> {
        Ok(diesel::select(diesel::dsl::exists(
            known_devices::table
                .find(token)
                .filter(known_devices::person.eq(person)),
        ))
        .get_result(self.0)?)
    }

    /// Forgets the browsers of a person.
    ///
    /// # Errors
    /// Database trouble.
    pub fn forget_devices(&mut self, person: &str) -> Result<(), StoreError> {
        diesel::delete(known_devices::table.filter(known_devices::person.eq(person)))
            .execute(self.0)?;
        Ok(())
    }

    /// Adds what was refused to what was noted within the same hour; rows older than `since` go.
    ///
    /// # Errors
    /// Database trouble.
    pub fn note_refused(&mut self, rows: &[Refused], since: i64) -> Result<(), StoreError> {
        for row in rows {
            diesel::insert_into(refusals::table)
                .values(row)
                .on_conflict((
                    refusals::hour_ms,
                    refusals::what,
                    refusals::place,
                    refusals::address,
                ))
                .do_update()
                .set(refusals::count.eq(refusals::count + row.count))
                .execute(self.0)?;
        }
        diesel::delete(refusals::table.filter(refusals::hour_ms.lt(since))).execute(self.0)?;
        Ok(())
    }

    /// What was refused last, the latest hour first.
    ///
    /// # Errors
    /// Database trouble.
    pub fn refused(&mut self, most: i64) -> Result<Vec<Refused>, StoreError> {
        Ok(refusals::table
            .order((refusals::hour_ms.desc(), refusals::count.desc()))
            .limit(most)
            .select(Refused::as_select())
            .load(self.0)?)
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

    /// The session of an id that has not ended, and whose it is.
    ///
    /// # Errors
    /// Database trouble.
    pub fn session_of(
        &mut self,
        id: &str,
        now: i64,
    ) -> Result<Option<(Session, Person)>, StoreError> {
        Ok(sessions::table
            .inner_join(people::table.on(people::id.eq(sessions::person)))
            .filter(sessions::id.eq(id))
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

    /// Ends a session, and all that came in by codes it showed, and by codes those showed.
    ///
    /// # Errors
    /// Database trouble.
    pub fn end_session_and_paired(&mut self, id: &str) -> Result<(), StoreError> {
        let mut left = vec![id.to_owned()];
        while let Some(id) = left.pop() {
            let paired: Vec<String> = sessions::table
                .filter(sessions::paired_by.eq(&id))
                .select(sessions::id)
                .load(self.0)?;
            self.end_session(&id)?;
            left.extend(paired);
        }
        Ok(())
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
