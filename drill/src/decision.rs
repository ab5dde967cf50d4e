//! What a learner decides: what it was, what becomes of the circuit, and how sure they are.

use serde::{Deserialize, Serialize};
use strum::{EnumIter, IntoEnumIterator};
use utoipa::ToSchema;

/// What it was. One list for every drill, so that the list gives nothing away.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema, EnumIter)]
#[serde(rename_all = "snake_case")]
#[schema(as = DrillCause)]
pub enum Cause {
    /// Tight: gas warmed by filling came to rest.
    Settling,
    /// Tight: the temperature, or the barometer, moved it.
    Weather,
    /// A joint or a place of the system leaks.
    Leak,
    /// A valve between two halves lets by.
    LetsBy,
    /// Refrigerant comes in through a valve.
    RefrigerantIn,
    /// The bottle cannot reach the pressure.
    BottleTooSmall,
    /// The weakest part allows less.
    LowerLimit,
    /// The gauge, not the system.
    Gauge,
    /// Gas still flows in from the bottle, so nothing can be seen.
    SupplyOpen,
    /// Water.
    Water,
    /// A valve core in the way.
    CoreIn,
    /// The hoses.
    Hoses,
    /// A tool that was fitted for the work.
    Tool,
    /// Gas that comes out of oil.
    OilGas,
    /// The charge, and time that it needs.
    Charge,
    /// Dry and tight.
    DryAndTight,
    /// Nothing was found.
    NothingFound,
}

impl Cause {
    /// All.
    pub fn all() -> impl Iterator<Item = Self> {
        Self::iter()
    }
    /// On screen.
    #[must_use]
    pub fn title(self) -> &'static str {
        match self {
            Self::Settling => "Tight: the warmth of filling came to rest",
            Self::Weather => "Tight: temperature or barometer moved it",
            Self::Leak => "The system leaks at a place",
            Self::LetsBy => "The valve between the halves lets by",
            Self::RefrigerantIn => "Refrigerant comes in through a valve",
            Self::BottleTooSmall => "The bottle cannot reach the pressure",
            Self::LowerLimit => "The weakest part allows less than was asked",
            Self::Gauge => "The gauge, not the system",
            Self::SupplyOpen => "The bottle was still feeding it",
            Self::Water => "Water inside",
            Self::CoreIn => "A valve core in the way",
            Self::Hoses => "The hoses, not the system",
            Self::Tool => "A tool fitted for the work leaks",
            Self::OilGas => "Gas out of the oil",
            Self::Charge => "The charge, and the time it needs",
            Self::DryAndTight => "Dry and tight",
            Self::NothingFound => "Nothing found",
        }
    }
    /// Whether a place belongs to it.
    #[must_use]
    pub fn has_place(self) -> bool {
        matches!(self, Self::Leak | Self::Tool)
    }
}

/// What becomes of the circuit.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Give {
    /// It passes.
    Pass,
    /// It passes, with a reservation.
    Reserved,
    /// It does not pass as it stands.
    Fail,
    /// Nothing is proven either way.
    NotProven,
}

impl Give {
    /// Whether somebody goes on as if it were in order.
    #[must_use]
    pub fn passes(self) -> bool {
        matches!(self, Self::Pass | Self::Reserved)
    }
    /// In a sentence.
    #[must_use]
    pub fn words(self) -> &'static str {
        match self {
            Self::Pass => "passes",
            Self::Reserved => "passes with a reservation",
            Self::Fail => "does not pass",
            Self::NotProven => "is not proven",
        }
    }
}

/// A decision.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Decision {
    /// What it was.
    pub cause: Cause,
    /// Where, if a place belongs to it.
    #[serde(default)]
    pub place: String,
    /// What becomes of it.
    pub give: Give,
    /// How sure, 0…1.
    pub sure: f64,
}
