//! Who comes in: people, their sessions, and the confirmation that a signature asks for.

use super::act::Said;
use super::{fresh_id, now_ms};
use crate::error::ApiError;
use crate::lock::lock;
use crate::people::{
    AGAIN_MS, IDLE_MS, Identity, LONGEST_MS, Secret, check_password, hashed, is_password,
};
use crate::state::AppState;
use ruhe_job::log::{Deed, HouseDeed, Who, sha256};
use ruhe_job::people::{
    By, PEOPLE, PersonInput, PersonKept, Right, Role, Standing, looks_like, must_keep_a_lead,
    person_name,
};
use ruhe_store::{Tx, rows};
use std::collections::HashSet;

/// What may be changed of a person.
#[derive(Debug, Clone, serde::Deserialize, utoipa::ToSchema)]
pub struct PersonChange {
    /// As what they come in now.
    pub role: Role,
    /// They no longer come in.
    pub is_out: bool,
    /// A new password, if they lost theirs; it signs them out everywhere.
    pub password: Option<String>,
}

/// Somebody who confirmed who they are.
#[derive(Debug, Clone)]
pub struct Confirmed {
    person: String,
    name: String,
    role: Role,
    device: String,
    ends_ms: i64,
}

fn kept(row: &rows::Person) -> PersonKept {
    PersonKept {
        person: row.id.clone(),
        name: row.name.clone(),
        role: Role::of(&row.role).unwrap_or(Role::Office),
        is_out: row.is_out,
    }
}

fn asks_again() -> ApiError {
    ApiError::Wrong {
        field: Some("password".into()),
        message: "this asks for the password again".into(),
    }
}

impl AppState {
    /// Writes down what was done to people, devices and gauges, in the log of the house.
    pub fn note(&self, tx: &mut Tx<'_>, who: &Who, deed: Deed) -> Result<(), ApiError> {
        let mut chain = self.chain(tx, PEOPLE)?;
        self.append(tx, &mut chain, who, now_ms(), vec![deed])?;
        Ok(())
    }

    /// The same, of what a session says by itself.
    pub fn note_house(
        &self,
        tx: &mut Tx<'_>,
        said: &Said,
        done: HouseDeed,
    ) -> Result<(), ApiError> {
        let who = Who {
            id: fresh_id(),
            ..said.who()
        };
        self.note(tx, &who, Deed::House(done))
    }

    /// Lets somebody in. The first is a lead, whatever was asked, and makes Ruhe ask everybody who they are.
    ///
    /// # Errors
    /// A name that is taken or looks like another's, a password that is guessed soon.
    pub fn add_person(
        &self,
        b: &PersonInput,
        said: &Said,
        token: Option<&str>,
    ) -> Result<String, ApiError> {
        let name = person_name(&b.name)?;
        check_password(&b.password, &name)?;
        let said = self.confirmed_self(said, token)?;
        let password = hashed(&b.password)?;
        let id = fresh_id();
        self.write_for(&said, |tx| {
            let all = tx.people()?;
            if let Some(like) = all.iter().find(|p| looks_like(&p.name, &name)) {
                return Err(ApiError::wrong(
                    "name",
                    format!(
                        "“{}” is somebody already; a name is never given twice, nor one that looks like it",
                        like.name
                    ),
                ));
            }
            let role = if all.is_empty() { Role::Lead } else { b.role };
            let row = rows::Person {
                id: id.clone(),
                name: name.clone(),
                role: role.code().into(),
                password: password.clone(),
                is_out: false,
            };
            tx.add_person(&row)?;
            self.note(tx, &said.who(), Deed::PersonKept(kept(&row)))
        })?;
        self.people_changed();
        Ok(id)
    }

    /// Changes what somebody is here. Who goes out, or gets a new password, is signed out everywhere.
    ///
    /// # Errors
    /// If there is no such person, or no lead would be left.
    pub fn change_person(
        &self,
        id: &str,
        b: &PersonChange,
        said: &Said,
        token: Option<&str>,
    ) -> Result<(), ApiError> {
        let named = self
            .store
            .read(|tx| Ok::<_, ApiError>(tx.person(id)?.name))?;
        let said = self.confirmed_self(said, token)?;
        let password = match &b.password {
            Some(p) => {
                check_password(p, &named)?;
                Some(hashed(p)?)
            }
            None => None,
        };
        self.write_for(&said, |tx| {
            // The row as it is now: what was found before the password was worked out may be old.
            let was = kept(&tx.person(id)?);
            let now = PersonKept {
                role: b.role,
                is_out: b.is_out,
                ..was.clone()
            };
            let all: Vec<PersonKept> = tx.people()?.iter().map(kept).collect();
            must_keep_a_lead(&all, &now)?;
            tx.set_role(id, b.role.code(), b.is_out)?;
            if let Some(p) = &password {
                tx.set_password(id, p)?;
            }
            if b.is_out || password.is_some() {
                tx.end_sessions(id, None)?;
                tx.forget_devices(id)?;
            }
            if was != now {
                self.note(tx, &said.who(), Deed::PersonKept(now))?;
            }
            if password.is_some() {
                let person = id.to_owned();
                self.note_house(tx, &said, HouseDeed::PasswordSet { person })?;
            }
            Ok(())
        })?;
        lock(&self.confirmed).retain(|_, c| c.person != id);
        self.people_changed();
        Ok(())
    }

    /// Ends live streams whose session has ended.
    pub fn people_changed(&self) {
        let alive = self.store.read(|tx| {
            let now = now_ms();
            let all = tx.sessions(None, now)?;
            let all = all.into_iter().filter(|s| now - s.seen_ms < IDLE_MS);
            let ids: HashSet<String> = all.map(|s| s.id).collect();
            Ok::<_, ApiError>((tx.has_people()?, ids))
        });
        match alive {
            Ok((has_people, ids)) => self.streams.keep(has_people, |s| ids.contains(s)),
            Err(e) => tracing::error!(%e, "live streams were not looked through"),
        }
    }

    /// Everybody, those who no longer come in too.
    ///
    /// # Errors
    /// Database trouble.
    pub fn people(&self) -> Result<Vec<PersonKept>, ApiError> {
        self.store
            .read(|tx| Ok(tx.people()?.iter().map(kept).collect()))
    }

    /// Whoever this name and password belong to. `known`: the device's own secret, by which guesses count apart from
    /// those of strangers if this person signed in on it before.
    ///
    /// # Errors
    /// If they belong to nobody, in the same words whatever is wrong; too many guesses.
    pub fn recognised(
        &self,
        name: &str,
        password: &str,
        from: &str,
        known: Known<'_>,
    ) -> Result<rows::Person, ApiError> {
        let name = name.trim();
        let (row, device) = self.store.read(|tx| {
            let row = tx.person_named(name)?;
            let device = match (&row, known) {
                (Some(p), Known::Device(secret)) => {
                    let token = sha256(secret.as_bytes());
                    tx.knows_device(&token, &p.id)?.then_some(token)
                }
                (Some(p), Known::Session(who)) if p.id == who.person => Some(who.session.clone()),
                _ => None,
            };
            Ok::<_, ApiError>((row, device))
        })?;
        let guess = match &device {
            Some(d) => self.throttle.known(d)?,
            None => self.throttle.stranger(name, from)?,
        };
        let is_right = is_password(password, row.as_ref().map(|r| r.password.as_str()));
        match row.filter(|r| is_right && !r.is_out) {
            Some(row) => {
                guess.was_right();
                Ok(row)
            }
            None => Err(ApiError::wrong("password", "name or password is not right")),
        }
    }

    /// Signs a device in. Returns the secret for its cookie.
    ///
    /// # Errors
    /// If the person no longer comes in, or the session that showed the code has ended.
    pub fn sign_in(
        &self,
        person: &str,
        device: &str,
        paired_by: Option<&str>,
        known: Option<&str>,
    ) -> Result<String, ApiError> {
        let secret = Secret::fresh()?;
        let now = now_ms();
        let device: String = device.trim().chars().take(80).collect();
        let row = rows::Session {
            id: fresh_id(),
            person: person.into(),
            token: secret.kept,
            device: if device.is_empty() {
                "a browser".into()
            } else {
                device
            },
            is_paired: paired_by.is_some(),
            made_ms: now,
            seen_ms: now,
            ends_ms: now + LONGEST_MS,
            paired_by: paired_by.map(Into::into),
        };
        self.store.write(|tx| {
            // Somebody shut out between the code and its use stays out.
            let p = tx.person(&row.person)?;
            if p.is_out {
                return Err(ApiError::SignIn("this person no longer comes in".into()));
            }
            if let Some(by) = paired_by
                && tx
                    .session_of(by, now)?
                    .is_none_or(|(_, p)| p.id != row.person)
            {
                return Err(ApiError::SignIn(
                    "the device that showed this code is no longer signed in: show another".into(),
                ));
            }
            tx.add_session(&row)?;
            if let Some(secret) = known {
                tx.know_device(&sha256(secret.as_bytes()), &row.person, now)?;
            }
            let said = Said::by_machine(&p.name, &row.device);
            let done = HouseDeed::SignedIn {
                person: row.person.clone(),
                session: row.id.clone(),
                paired_by: row.paired_by.clone(),
            };
            self.note_house(tx, &said, done)
        })?;
        Ok(secret.text)
    }

    /// Signs a device out: one's own, or another's with all that were let in from there.
    ///
    /// # Errors
    /// If there is no such device, or it is another person's and one may not.
    pub fn sign_out(&self, session: &str, said: &Said, is_own: bool) -> Result<(), ApiError> {
        self.write_for(said, |tx| {
            let Some((row, _)) = tx.session_of(session, now_ms())? else {
                return Err(ApiError::Missing("there is no such device".into()));
            };
            if said.caller.as_ref().is_none_or(|c| c.person != row.person) {
                said.by.must(Right::People)?;
            }
            if is_own {
                tx.end_session(session)?;
            } else {
                tx.end_session_and_paired(session)?;
            }
            let done = HouseDeed::SignedOut {
                person: row.person,
                session: Some(row.id),
            };
            self.note_house(tx, said, done)
        })?;
        self.people_changed();
        Ok(())
    }

    /// Signs every device of a person out.
    ///
    /// # Errors
    /// Database trouble.
    pub fn sign_out_everywhere(&self, who: &Identity, said: &Said) -> Result<(), ApiError> {
        self.write_for(said, |tx| {
            tx.end_sessions(&who.person, None)?;
            let done = HouseDeed::SignedOut {
                person: who.person.clone(),
                session: None,
            };
            self.note_house(tx, said, done)
        })?;
        self.people_changed();
        Ok(())
    }

    /// Changes one's own password; every other device is signed out.
    ///
    /// # Errors
    /// If the old one is not right, or the new one is guessed soon.
    pub fn change_password(
        &self,
        who: &Identity,
        (old, new): (&str, &str),
        from: &str,
        said: &Said,
    ) -> Result<(), ApiError> {
        let row = self.recognised(&who.name, old, from, Known::Session(who))?;
        check_password(new, &row.name)?;
        let password = hashed(new)?;
        self.write_for(said, |tx| {
            tx.set_password(&row.id, &password)?;
            tx.end_sessions(&row.id, Some(&who.session))?;
            tx.forget_devices(&row.id)?;
            let person = row.id.clone();
            self.note_house(tx, said, HouseDeed::PasswordSet { person })
        })?;
        lock(&self.confirmed).retain(|_, c| c.person != row.id);
        self.people_changed();
        Ok(())
    }

    /// Confirms who somebody is, for one act. Returns the token that goes with it.
    ///
    /// # Errors
    /// If the password is not right.
    pub fn confirm_again(
        &self,
        name: Option<&str>,
        who: &Identity,
        password: &str,
        from: &str,
    ) -> Result<String, ApiError> {
        let row = self.recognised(
            name.unwrap_or(&who.name),
            password,
            from,
            Known::Session(who),
        )?;
        let secret = Secret::fresh()?;
        let now = now_ms();
        let confirmed = Confirmed {
            role: Role::of(&row.role).ok_or_else(asks_again)?,
            person: row.id,
            name: row.name,
            device: who.device.clone(),
            ends_ms: now + AGAIN_MS,
        };
        let mut all = lock(&self.confirmed);
        all.retain(|_, c| c.ends_ms > now);
        all.insert(secret.kept, confirmed);
        Ok(secret.text)
    }

    /// A confirmation, used up.
    fn confirmation(&self, token: Option<&str>) -> Result<Confirmed, ApiError> {
        let token = token.ok_or_else(asks_again)?;
        let mut all = lock(&self.confirmed);
        all.remove(&sha256(token.as_bytes()))
            .filter(|c| c.ends_ms > now_ms())
            .ok_or_else(asks_again)
    }

    /// Whoever acts, asked for their own password just now; where nobody is known there is none to ask for.
    ///
    /// # Errors
    /// If they were not asked, or somebody else was.
    pub fn confirmed_self(&self, said: &Said, token: Option<&str>) -> Result<Said, ApiError> {
        if let Some(c) = &said.caller
            && self.confirmation(token)?.person != c.person
        {
            return Err(asks_again());
        }
        Ok(said.clone())
    }

    /// Refuses a name whose bearer did not confirm it and could.
    ///
    /// # Errors
    /// If it is the name of somebody who is known here: they confirm it themselves.
    pub async fn must_be_unknown(&self, said: &Said, name: &str) -> Result<(), ApiError> {
        if said.by.role().is_none() {
            return Ok(());
        }
        let known = self.work(|s| s.people()).await?;
        match known.iter().find(|p| looks_like(&p.name, name.trim())) {
            None => Ok(()),
            Some(p) => Err(ApiError::wrong(
                "name",
                format!(
                    "{} is known here: only they can put their name to something, with their own password",
                    p.name
                ),
            )),
        }
    }

    /// Who signs: where people are known, whoever confirmed it just now and may; the confirmation is used up.
    ///
    /// # Errors
    /// If nobody confirmed it, or they may not.
    pub fn signer(&self, said: Said, right: Right, token: Option<&str>) -> Result<Said, ApiError> {
        if said.caller.is_none() {
            // Nobody is known, which is asked again where it is written down; or Ruhe itself.
            return Ok(said);
        }
        let found = self.confirmation(token)?;
        let by = By {
            name: found.name,
            standing: Standing::Person(found.role),
            device: found.device,
        };
        by.must(right)?;
        Ok(Said {
            by,
            signer: Some((found.person, found.role)),
            ..said
        })
    }
}

/// What is known of the device that a password comes from.
#[derive(Debug, Clone, Copy)]
pub enum Known<'a> {
    /// Nothing.
    No,
    /// The secret of its own that it shows.
    Device(&'a str),
    /// Somebody is signed in on it.
    Session(&'a Identity),
}
