//! Who comes in: people, their sessions, and the confirmation that a signature asks for.

use super::act::{Said, append};
use super::{fresh_id, now_ms};
use crate::error::ApiError;
use crate::lock::lock;
use crate::people::{AGAIN_MS, Identity, LONGEST_MS, Secret, check_password, hashed, is_password};
use crate::state::AppState;
use ruhe_job::log::{Deed, Who, sha256};
use ruhe_job::people::{
    By, PEOPLE, PersonInput, PersonKept, Right, Role, must_keep_a_lead, person_name,
};
use ruhe_store::{Tx, rows};

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
    by: By,
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

impl AppState {
    fn keep_person(&self, tx: &mut Tx<'_>, who: &Who, row: &rows::Person) -> Result<(), ApiError> {
        tx.put_person(row)?;
        let mut chain = self.chain(tx, PEOPLE)?;
        append(
            tx,
            &mut chain,
            who,
            now_ms(),
            vec![Deed::PersonKept(kept(row))],
        )?;
        Ok(())
    }

    /// Lets somebody in. The first is a lead, whatever was asked, and makes Ruhe ask everybody who they are.
    ///
    /// # Errors
    /// A name that is taken, a password that is guessed soon.
    pub fn add_person(&self, b: &PersonInput, said: &Said) -> Result<String, ApiError> {
        let name = person_name(&b.name)?;
        check_password(&b.password, &name)?;
        let password = hashed(&b.password)?;
        let id = fresh_id();
        self.store.write(|tx| {
            if tx.person_named(&name)?.is_some() {
                return Err(ApiError::wrong(
                    "name",
                    format!("“{name}” is somebody already; a name is never given twice"),
                ));
            }
            let role = if tx.has_people()? { b.role } else { Role::Lead };
            let row = rows::Person {
                id: id.clone(),
                name: name.clone(),
                role: role.code().into(),
                password: password.clone(),
                is_out: false,
            };
            self.keep_person(tx, &said.who(), &row)
        })?;
        Ok(id)
    }

    /// Changes what somebody is here. Who goes out, or gets a new password, is signed out everywhere.
    ///
    /// # Errors
    /// If there is no such person, or no lead would be left.
    pub fn change_person(&self, id: &str, b: &PersonChange, said: &Said) -> Result<(), ApiError> {
        let row = self.store.read(|tx| Ok::<_, ApiError>(tx.person(id)?))?;
        let password = match &b.password {
            Some(p) => {
                check_password(p, &row.name)?;
                hashed(p)?
            }
            None => row.password.clone(),
        };
        self.store.write(|tx| {
            let row = rows::Person {
                role: b.role.code().into(),
                is_out: b.is_out,
                password: password.clone(),
                ..row.clone()
            };
            let all: Vec<PersonKept> = tx.people()?.iter().map(kept).collect();
            must_keep_a_lead(&all, &kept(&row))?;
            if b.is_out || b.password.is_some() {
                tx.end_sessions(id, None)?;
            }
            self.keep_person(tx, &said.who(), &row)
        })
    }

    /// Everybody, those who no longer come in too.
    ///
    /// # Errors
    /// Database trouble.
    pub fn people(&self) -> Result<Vec<PersonKept>, ApiError> {
        self.store
            .read(|tx| Ok(tx.people()?.iter().map(kept).collect()))
    }

    /// Whoever this name and password belong to.
    ///
    /// # Errors
    /// If they belong to nobody, in the same words whatever is wrong; too many guesses.
    pub fn recognised(
        &self,
        name: &str,
        password: &str,
        from: &str,
    ) -> Result<rows::Person, ApiError> {
        self.throttle.guess(name.trim(), from)?;
        let row = self
            .store
            .read(|tx| Ok::<_, ApiError>(tx.person_named(name.trim())?))?;
        let is_right = is_password(password, row.as_ref().map(|r| r.password.as_str()));
        row.filter(|r| is_right && !r.is_out).ok_or_else(|| {
            tracing::warn!(from, "a name or password was wrong");
            ApiError::wrong("password", "name or password is not right")
        })
    }

    /// Signs a device in. Returns the secret for its cookie.
    ///
    /// # Errors
    /// Database trouble.
    pub fn sign_in(&self, person: &str, device: &str, is_paired: bool) -> Result<String, ApiError> {
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
            is_paired,
            made_ms: now,
            seen_ms: now,
            ends_ms: now + LONGEST_MS,
        };
        self.store.write(|tx| {
            // Somebody shut out between the code and its use stays out.
            if tx.person(&row.person)?.is_out {
                return Err(ApiError::SignIn("this person no longer comes in".into()));
            }
            Ok(tx.add_session(&row)?)
        })?;
        Ok(secret.text)
    }

    /// Changes one's own password; every other device is signed out.
    ///
    /// # Errors
    /// If the old one is not right, or the new one is guessed soon.
    pub fn change_password(
        &self,
        who: &Identity,
        old: &str,
        new: &str,
        from: &str,
    ) -> Result<(), ApiError> {
        let row = self.recognised(&who.name, old, from)?;
        check_password(new, &row.name)?;
        let row = rows::Person {
            password: hashed(new)?,
            ..row
        };
        self.store.write(|tx| {
            tx.end_sessions(&row.id, Some(&who.session))?;
            Ok(tx.put_person(&row)?)
        })
    }

    /// Confirms who somebody is, for one signature. Returns the token that goes with it.
    ///
    /// # Errors
    /// If the password is not right.
    pub fn confirm_again(
        &self,
        (who, device): (&str, &str),
        password: &str,
        from: &str,
    ) -> Result<String, ApiError> {
        let row = self.recognised(who, password, from)?;
        let secret = Secret::fresh()?;
        let now = now_ms();
        let confirmed = Confirmed {
            by: By {
                role: Role::of(&row.role),
                name: row.name,
                device: device.into(),
            },
            ends_ms: now + AGAIN_MS,
        };
        let mut all = lock(&self.confirmed);
        all.retain(|_, c| c.ends_ms > now);
        all.insert(secret.kept, confirmed);
        Ok(secret.text)
    }

    /// Who signs: where people are known, whoever confirmed it just now and may; the confirmation is used up.
    ///
    /// # Errors
    /// If nobody confirmed it, or they may not.
    pub fn signer(&self, said: Said, right: Right, token: Option<&str>) -> Result<Said, ApiError> {
        if said.by.role.is_none() {
            return Ok(said);
        }
        let asks = || ApiError::Wrong {
            field: Some("password".into()),
            message: "a signature asks for the password again".into(),
        };
        let token = token.ok_or_else(asks)?;
        let mut all = lock(&self.confirmed);
        let found = all
            .remove(&sha256(token.as_bytes()))
            .filter(|c| c.ends_ms > now_ms())
            .ok_or_else(asks)?;
        found.by.must(right)?;
        Ok(Said {
            by: found.by,
            ..said
        })
    }
}
