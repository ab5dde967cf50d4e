//! People: which roles there are, what each may do, and what each address of the API asks for.
//!
//! Passwords, cookies and devices are the server's business; who may do what is a rule, and stands here.

mod asked;

pub use asked::{Asked, asked};

use crate::refusal::{Refusal, filled};
use serde::{Deserialize, Serialize};
use strum::{EnumIter, IntoEnumIterator as _};

/// The log of people: who came, with which role, and who was shut out.
pub const PEOPLE: &str = "people";

/// What somebody is here.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, EnumIter)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Role {
    /// Answers for the work: may override a gate, and says who else may come in.
    Lead,
    /// Does the work and signs it.
    Technician,
    /// Looks on, and signs beside.
    Witness,
    /// Reads and prints.
    Office,
}

/// Something that not everybody may do.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, EnumIter)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Right {
    /// Look at circuits, records and the kit.
    Look,
    /// Take jobs on, plan, read, look for leaks, charge, keep the kit.
    Work,
    /// Strike out what another person said.
    StrikeOthers,
    /// Answer for a gate without its evidence.
    Override,
    /// Sign a visit.
    Sign,
    /// Sign beside somebody else.
    Countersign,
    /// Keep procedures of the house.
    Procedures,
    /// Say who comes in, as what, and who no longer; shut out the devices of others.
    People,
}

impl Role {
    /// Every role.
    pub fn all() -> impl Iterator<Item = Self> {
        Self::iter()
    }
    /// What it is called.
    #[must_use]
    pub const fn title(self) -> &'static str {
        match self {
            Self::Lead => "Lead",
            Self::Technician => "Technician",
            Self::Witness => "Witness",
            Self::Office => "Office, reads only",
        }
    }
    /// Its name in files and in the database.
    #[must_use]
    pub const fn code(self) -> &'static str {
        match self {
            Self::Lead => "lead",
            Self::Technician => "technician",
            Self::Witness => "witness",
            Self::Office => "office",
        }
    }
    /// The role of a name in files.
    #[must_use]
    pub fn of(code: &str) -> Option<Self> {
        Self::iter().find(|r| r.code() == code)
    }
    /// The table: who may do what. *Common practice, no source*: houses differ, and one person alone is a lead.
    #[must_use]
    pub const fn may(self, right: Right) -> bool {
        use Right as R;
        match self {
            Self::Lead => true,
            Self::Technician => matches!(right, R::Look | R::Work | R::Sign | R::Countersign),
            Self::Witness => matches!(right, R::Look | R::Countersign),
            Self::Office => matches!(right, R::Look),
        }
    }
    /// What it may do.
    #[must_use]
    pub fn rights(self) -> Vec<Right> {
        Right::iter().filter(|r| self.may(*r)).collect()
    }
}

impl Right {
    /// Every right.
    pub fn all() -> impl Iterator<Item = Self> {
        Self::iter()
    }
    /// As it ends “… may not”.
    #[must_use]
    pub const fn words(self) -> &'static str {
        match self {
            Self::Look => "look at this",
            Self::Work => "change anything",
            Self::StrikeOthers => "strike out what another person said",
            Self::Override => "override a gate",
            Self::Sign => "sign a visit",
            Self::Countersign => "sign beside somebody",
            Self::Procedures => "change the procedures of the house",
            Self::People => "say who comes in",
        }
    }
}

/// Who acts. Without people everybody at this machine may do everything, and the log names nobody.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct By {
    /// A name, empty if nobody is known here.
    pub name: String,
    /// As what, if people are known here.
    pub role: Option<Role>,
    /// On which device.
    pub device: String,
}

impl By {
    /// Refuses what this person may not do.
    ///
    /// # Errors
    /// [`Refusal::Denied`], in words that say who may.
    pub fn must(&self, right: Right) -> Result<(), Refusal> {
        match self.role {
            Some(role) if !role.may(right) => {
                let who: Vec<String> = Role::all()
                    .filter(|r| r.may(right))
                    .map(|r| r.title().to_lowercase())
                    .collect();
                Err(Refusal::Denied(format!(
                    "{} ({}) may not {}; that takes: {}",
                    self.name,
                    role.title().to_lowercase(),
                    right.words(),
                    who.join(" or ")
                )))
            }
            _ => Ok(()),
        }
    }

    /// Refuses striking out what another person said, unless this one may.
    ///
    /// # Errors
    /// [`Refusal::Denied`].
    pub fn must_own(&self, said_by: &str) -> Result<(), Refusal> {
        // What was said before there were people belongs to nobody: whoever works here may correct it.
        if said_by.is_empty() || said_by == self.name {
            return self.must(Right::Work);
        }
        self.must(Right::StrikeOthers)
    }
}

/// A person as the log knows them; what is secret lies elsewhere.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct PersonKept {
    /// Id.
    pub person: String,
    /// Name: it stands under what they say, and is never given to somebody else.
    pub name: String,
    /// As what.
    pub role: Role,
    /// They no longer come in.
    pub is_out: bool,
}

/// Somebody who is to come in.
#[derive(Debug, Clone, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[allow(missing_docs)]
pub struct PersonInput {
    pub name: String,
    pub role: Role,
    pub password: String,
}

/// Longest name of a person, letters.
const NAME: usize = 80;

/// A name that can stand under an entry.
///
/// # Errors
/// If it is empty, too long, or could be taken for another.
pub fn person_name(text: &str) -> Result<String, Refusal> {
    let name = filled("name", text, NAME)?;
    if name.chars().any(char::is_control) {
        return Err(Refusal::wrong("name", "a name has no line breaks or tabs"));
    }
    Ok(name.split_whitespace().collect::<Vec<_>>().join(" "))
}

/// Refuses a change after which nobody could let anybody in.
///
/// # Errors
/// If no lead would be left.
pub fn must_keep_a_lead(people: &[PersonKept], changed: &PersonKept) -> Result<(), Refusal> {
    let left = people
        .iter()
        .map(|p| {
            if p.person == changed.person {
                changed
            } else {
                p
            }
        })
        .any(|p| p.role == Role::Lead && !p.is_out);
    if left {
        Ok(())
    } else {
        Err(Refusal::Conflict(
            "at least one lead has to stay, or nobody could let anybody in".into(),
        ))
    }
}
