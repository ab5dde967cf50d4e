//! What is written down of a charge. Everything stays as typed, with its unit.
#![allow(missing_docs)] // a field says what its name says

use crate::refusal::Refusal;
use crate::survey::Typed;
use ruhe_core::named;
use ruhe_core::quantity::{Mass, MassUnit, parse_number};
use serde::{Deserialize, Serialize};

named! {
    /// What goes in.
    #[derive(Default)]
    Scope {
        /// The factory charge stays in the unit; the tubes' share is added.
        #[default]
        FactoryStays = "factory_stays",
        /// All of it was lost or recovered: the plate's charge goes in, and the tubes' share.
        AllLost = "all_lost",
        /// A part goes back.
        Part = "part",
    }
}

named! {
    /// How a plate was read.
    #[derive(Default)]
    PlateRead {
        /// From the plate, now.
        #[default]
        ReadNow = "read_now",
        /// From a photo.
        Photo = "photo",
        /// From memory.
        FromMemory = "from_memory",
    }
}

named! {
    /// What a maker's rate for a length counts.
    #[derive(Default)]
    Covers {
        /// Liquid and suction tube together.
        Both = "both_tubes",
        /// The liquid tube alone.
        #[default]
        Liquid = "liquid_tube",
        /// One branch, by the size of its liquid tube.
        Branch = "branch",
    }
}

named! {
    /// What meters the refrigerant; it sets how near the charge must be.
    #[derive(Default)]
    Metering {
        /// Capillary, critically charged, water-source, mini-split.
        #[default]
        Critical = "critical",
        /// Expansion valve, no receiver.
        Valve = "valve",
        /// Expansion valve and receiver.
        Receiver = "receiver",
    }
}

impl Scope {
    #[must_use]
    pub fn title(self) -> &'static str {
        match self {
            Self::FactoryStays => "Factory charge stays in",
            Self::AllLost => "The whole charge goes in",
            Self::Part => "A part goes back",
        }
    }
}
impl PlateRead {
    #[must_use]
    pub fn title(self) -> &'static str {
        match self {
            Self::ReadNow => "read now",
            Self::Photo => "from a photo",
            Self::FromMemory => "from memory",
        }
    }
}
impl Covers {
    #[must_use]
    pub fn title(self) -> &'static str {
        match self {
            Self::Both => "both tubes together",
            Self::Liquid => "the liquid tube only",
            Self::Branch => "a branch, by its liquid size",
        }
    }
}
impl Metering {
    #[must_use]
    pub fn title(self) -> &'static str {
        match self {
            Self::Critical => "capillary, mini-split or critically charged",
            Self::Valve => "expansion valve, no receiver",
            Self::Receiver => "expansion valve and receiver",
        }
    }
}

/// A run of tube and the maker's rate for it.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(default)]
pub struct TubeShare {
    /// A size Ruhe knows.
    pub size: String,
    pub bought: Option<Typed>,
    pub left_over: Option<Typed>,
    /// Length that the factory charge already covers.
    pub included: Option<Typed>,
    /// g/m, kg/m, oz/ft or lb/ft.
    pub rate: Option<Typed>,
    pub covers: Covers,
    /// Where the rate stands.
    pub source: String,
}

/// Something else the maker adds for.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct OtherShare {
    pub what: String,
    pub mass: Typed,
    #[serde(default)]
    pub source: String,
}

/// What the maker wants inside.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(default)]
pub struct TargetDoc {
    pub scope: Scope,
    pub metering: Metering,
    /// The plate's charge, and once more without sight of the first.
    pub plate: Option<Typed>,
    pub plate_again: Option<Typed>,
    pub plate_read: PlateRead,
    pub photo_id: Option<String>,
    /// What goes back, where it is a part.
    pub part: Option<Typed>,
    pub tubes: Vec<TubeShare>,
    pub others: Vec<OtherShare>,
    /// The longest run the maker allows.
    pub longest: Option<Typed>,
    /// The maker's own words, where a run is longer.
    pub longest_words: String,
    /// The sum as somebody else made it.
    pub total: Option<Typed>,
    /// The maker's own tolerance.
    pub tolerance: Option<Typed>,
    /// Most charge for the room, from the maker's page; flammable refrigerants.
    pub room_limit: Option<Typed>,
    pub room_source: String,
}

/// A mass as typed. A unit in the text goes before the chosen one.
///
/// # Errors
/// What is wrong with it, at `field`.
pub fn mass(t: &Typed, field: &str) -> Result<Mass, Refusal> {
    let unit = match t.unit.trim() {
        "" => None,
        code => Some(MassUnit::from_code(code).ok_or_else(|| {
            Refusal::wrong(
                &format!("{field}.unit"),
                format!("“{code}” is not one of {}", MassUnit::codes()),
            )
        })?),
    };
    let found = Mass::parse(&t.typed, unit)
        .map_err(|e| Refusal::wrong(&format!("{field}.typed"), e.to_string()))?;
    if found.g().abs() < 1e7 {
        Ok(found)
    } else {
        Err(Refusal::wrong(
            &format!("{field}.typed"),
            "that is more than ten tonnes",
        ))
    }
}

/// A mass that must be above zero.
///
/// # Errors
/// As [`mass`].
pub fn mass_above_zero(t: &Typed, field: &str) -> Result<Mass, Refusal> {
    let m = mass(t, field)?;
    if m.g() > 0.0 {
        Ok(m)
    } else {
        Err(Refusal::wrong(
            &format!("{field}.typed"),
            "this must be above zero",
        ))
    }
}

/// m in a foot (NIST SP 811, 2008, appendix B.8).
const FOOT: f64 = 0.304_8;
/// Units of length, m.
const LENGTHS: &[(&str, f64)] = &[("m", 1.0), ("ft", FOOT)];
/// Codes of the units of a rate.
pub const RATES_SHOWN: [&str; 4] = ["g/m", "kg/m", "oz/ft", "lb/ft"];
/// Units of a rate, g/m.
pub(super) const RATES: &[(&str, f64)] = &[
    ("g/m", 1.0),
    ("kg/m", 1e3),
    ("oz/ft", 28.349_523_125 / FOOT),
    ("lb/ft", 453.592_37 / FOOT),
];

pub(super) fn of_unit(t: &Typed, field: &str, units: &[(&str, f64)]) -> Result<f64, Refusal> {
    let at = |part: &str| format!("{field}.{part}");
    let value = parse_number(&t.typed).map_err(|e| Refusal::wrong(&at("typed"), e.to_string()))?;
    let known = units.iter().find(|u| u.0 == t.unit).ok_or_else(|| {
        let all: Vec<&str> = units.iter().map(|u| u.0).collect();
        Refusal::wrong(
            &at("unit"),
            format!("“{}” is not one of {}", t.unit, all.join(", ")),
        )
    })?;
    if value < 0.0 {
        return Err(Refusal::wrong(&at("typed"), "this cannot be below zero"));
    }
    Ok(value * known.1)
}

/// A length, m.
pub(super) fn length(t: &Typed, field: &str) -> Result<f64, Refusal> {
    of_unit(t, field, LENGTHS)
}
