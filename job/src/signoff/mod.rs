//! Sign-off: the gates of a job kind with their evidence, overrides with their reason, and the states they allow.

mod gates;

pub use gates::gates;

use crate::order::{Happening, Order, What};
use crate::procedure::{JobKind, Step};
use ruhe_core::hold::HoldOutcome;
use ruhe_core::named;
use ruhe_core::vacuum::DecayOutcome;

named! {
    /// How a circuit may be signed.
    State {
        /// Every gate met.
        Passed = "passed",
        /// Signed with reservations that print.
        PassedWithReservations = "passed_with_reservations",
        /// For now; to be revisited.
        Temporary = "temporary",
        /// Until something outstanding is done.
        Provisional = "provisional",
        /// Not in order.
        Failed = "failed",
    }
}

named! {
    /// What must be shown before a signature.
    GateCode {
        /// A hold with temperature that holds.
        Hold = "hold_with_temperature",
        /// After a fall or a repair, a later hold at least as high.
        Retest = "retest_after_repair",
        /// No suspect place is left open.
        Search = "search_closed",
        /// Boundary valves were checked.
        Boundary = "boundary_valves",
        /// Instruments in date and range.
        Instruments = "instruments",
        /// An isolated decay that passes.
        Decay = "isolation_test",
        /// Cores confirmed.
        Cores = "cores",
        /// Charge weighed.
        Charge = "charge_weighed",
    }
}

impl State {
    /// Name on screen and paper.
    #[must_use]
    pub fn title(self) -> &'static str {
        match self {
            Self::Passed => "Passed",
            Self::PassedWithReservations => "Passed with reservations",
            Self::Temporary => "Temporary, to be revisited",
            Self::Provisional => "Provisional",
            Self::Failed => "Failed",
        }
    }
}

impl GateCode {
    /// Name on screen and paper.
    #[must_use]
    pub fn title(self) -> &'static str {
        match self {
            Self::Hold => "Pressure hold with temperature",
            Self::Retest => "Retest after repair, at least as high",
            Self::Search => "Leak search closed",
            Self::Boundary => "Boundary valves checked",
            Self::Instruments => "Instruments in date and range",
            Self::Decay => "Isolated decay test",
            Self::Cores => "Valve cores confirmed",
            Self::Charge => "Charge weighed in",
        }
    }
}

/// A finished hold, as the gates see it.
#[derive(Debug, Clone, PartialEq)]
pub struct HoldFact {
    /// What it is called on screen ("Hold 2").
    pub name: String,
    /// When it began, ms since 1970.
    pub from_ms: i64,
    /// Sections it was made on: all that the gas reached.
    pub sections: Vec<String>,
    /// Outcome.
    pub outcome: HoldOutcome,
    /// A loss was proven within the limit.
    pub loss_detected: bool,
    /// Pressure it stood at when it began to count, Pa gauge.
    pub pressure: f64,
    /// Test pressure it was planned at, Pa gauge.
    pub planned: f64,
    /// The verdict's headline.
    pub headline: String,
}

/// A finished decay, as the gates see it.
#[derive(Debug, Clone, PartialEq)]
pub struct DecayFact {
    /// What it is called on screen.
    pub name: String,
    /// When it began, ms since 1970.
    pub from_ms: i64,
    /// Sections that were under vacuum together.
    pub sections: Vec<String>,
    /// Outcome.
    pub outcome: DecayOutcome,
    /// Passed, but rising.
    pub rising: bool,
    /// The verdict's headline.
    pub headline: String,
}

/// Holds and what else happened, in the order of time.
#[must_use]
pub fn in_order(holds: &[HoldFact], happened: &[Happening]) -> Order {
    let held = holds.iter().map(HoldFact::entry);
    Order::new(held.chain(happened.iter().cloned()).collect())
}

/// All the gates look at. Tests in the order they began.
#[derive(Debug, Clone, PartialEq)]
pub struct GateFacts {
    /// Kind of job.
    pub kind: JobKind,
    /// Finished holds.
    pub holds: Vec<HoldFact>,
    /// Finished decays.
    pub decays: Vec<DecayFact>,
    /// Confirmed steps with their notes.
    pub steps: Vec<(Step, String)>,
    /// Leaks found, repairs, openings and cores moved.
    pub happened: Vec<Happening>,
    /// Suspect places that are still open, in words.
    pub open_places: Vec<String>,
    /// What was wrong with an instrument during a finished test, in words.
    pub instrument_marks: Vec<String>,
    /// What was struck out though it spoke against a gate, in words.
    pub struck: Vec<(GateCode, String)>,
    /// Sections that must each hold and be evacuated; at least one.
    pub sections: Vec<String>,
}

impl HoldFact {
    /// The hold as something that happened.
    #[must_use]
    pub fn entry(&self) -> Happening {
        let what = What::Held {
            name: self.name.clone(),
            holds: self.outcome == HoldOutcome::Holds,
            falls: self.outcome == HoldOutcome::Falls,
            pressure: self.pressure,
        };
        Happening {
            at_ms: self.from_ms,
            sections: self.sections.clone(),
            what,
        }
    }
}

impl GateFacts {
    /// Everything that bears on evidence, in the order of time.
    #[must_use]
    pub fn order(&self) -> Order {
        in_order(&self.holds, &self.happened)
    }
    /// The sections that must be shown tight: those named, and those a hold was made on.
    fn all_sections(&self) -> Vec<&str> {
        let mut out: Vec<&str> = self.sections.iter().map(String::as_str).collect();
        for s in self.holds.iter().flat_map(|h| &h.sections) {
            if !out.contains(&s.as_str()) {
                out.push(s);
            }
        }
        out
    }
}

/// A gate and whether it is met.
#[derive(Debug, Clone, PartialEq)]
pub struct Gate {
    /// Which.
    pub code: GateCode,
    /// Met by evidence (an override does not make it met).
    pub met: bool,
    /// The evidence, or what is missing.
    pub evidence: String,
    /// Something the record must say although the gate is met.
    pub reservation: Option<String>,
}

/// The states a circuit may be signed in, given which missing gates were overridden. Empty: blocked.
#[must_use]
pub fn allowed_states(gates: &[Gate], overridden: &[GateCode]) -> Vec<State> {
    let blocked = gates
        .iter()
        .any(|g| !g.met && !overridden.contains(&g.code));
    let reserved = gates.iter().any(|g| !g.met || g.reservation.is_some());
    match (blocked, reserved) {
        (true, _) => vec![],
        (false, true) => vec![
            State::PassedWithReservations,
            State::Temporary,
            State::Provisional,
            State::Failed,
        ],
        (false, false) => vec![
            State::Passed,
            State::Temporary,
            State::Provisional,
            State::Failed,
        ],
    }
}
