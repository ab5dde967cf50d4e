//! People: which roles there are, what each may do, and what each address of the API asks for.
//!
//! Passwords, cookies and devices are the server's business; who may do what is a rule, and stands here.

mod asked;

pub use asked::{ADDRESSES, Address, Asked, asked, is_in_drills, methods};

use crate::refusal::{Refusal, filled};
use serde::{Deserialize, Serialize};
use strum::{EnumIter, IntoEnumIterator as _};
use unicode_normalization::UnicodeNormalization as _;
use unicode_security::{GeneralSecurityProfile as _, MixedScript as _, skeleton};

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

/// Proof that somebody looked, and nobody was known here.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct NobodyKnown(());

impl NobodyKnown {
    /// The proof, if there are no people.
    #[must_use]
    pub const fn if_so(has_people: bool) -> Option<Self> {
        if has_people { None } else { Some(Self(())) }
    }
}

/// As what somebody acts. There is no way to act as nobody in particular where people are known.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Standing {
    /// Somebody who is known here.
    Person(Role),
    /// Whoever sits at the machine while nobody is known: may do everything, and the log names nobody.
    Anyone(NobodyKnown),
    /// Ruhe itself, or its command on the machine.
    Machine,
}

/// Who acts.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct By {
    /// A name, empty if nobody is known here.
    pub name: String,
    /// As what.
    pub standing: Standing,
    /// On which device.
    pub device: String,
}

impl By {
    /// Ruhe itself, or its command, in somebody's name or in nobody's.
    #[must_use]
    pub fn machine(name: &str, device: &str) -> Self {
        Self {
            name: name.into(),
            standing: Standing::Machine,
            device: device.into(),
        }
    }

    /// The role, of a person who is known.
    #[must_use]
    pub const fn role(&self) -> Option<Role> {
        match self.standing {
            Standing::Person(role) => Some(role),
            Standing::Anyone(_) | Standing::Machine => None,
        }
    }

    /// They may answer for a gate without its evidence.
    #[must_use]
    pub fn may_answer(&self) -> bool {
        self.must(Right::Override).is_ok()
    }

    /// Refuses what this person may not do.
    ///
    /// # Errors
    /// [`Refusal::Denied`], in words that say who may.
    pub fn must(&self, right: Right) -> Result<(), Refusal> {
        match self.role() {
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

/// Signs that a name may have beside letters and digits.
const SIGNS: &str = " .,'’-()/&+";

/// A name that can stand under an entry, composed (NFKC) and with single blanks.
///
/// # Errors
/// If it is empty, too long, or could be taken for another: signs that are not seen, letters of several scripts that
/// do not belong together (Unicode Technical Standard #39).
pub fn person_name(text: &str) -> Result<String, Refusal> {
    let wrong = |why: &str| Refusal::wrong("name", why);
    let name: String = filled("name", text, NAME)?.nfkc().collect();
    if name.chars().any(char::is_control) {
        return Err(wrong("a name has no line breaks or tabs"));
    }
    let is_seen = |c: char| {
        SIGNS.contains(c)
            || c.is_alphanumeric()
            || (c.identifier_allowed() && !('\u{200c}'..='\u{200d}').contains(&c))
    };
    let name = name.split_whitespace().collect::<Vec<_>>().join(" ");
    if let Some(bad) = name.chars().find(|c| !is_seen(*c)) {
        return Err(wrong(&format!(
            "a name has no sign like U+{:04X}",
            u32::from(bad)
        )));
    }
    if !name.chars().any(char::is_alphanumeric) {
        return Err(wrong("a name has letters"));
    }
    if !name.is_single_script() {
        return Err(wrong(
            "letters of several scripts stand in this name, and some of them look alike: take those of one",
        ));
    }
    Ok(name)
}

/// Whether two names could be taken for each other: the same letters, or such as look the same (UTS #39, skeleton),
/// large or small.
#[must_use]
pub fn looks_like(a: &str, b: &str) -> bool {
    let bare = |t: &str| {
        let seen: String = skeleton(t).filter(|c| !c.is_whitespace()).collect();
        skeleton(&seen.to_lowercase()).collect::<String>()
    };
    bare(a) == bare(b)
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
