//! Sign-off: the gates of a job kind with their evidence, overrides with their reason, and the states they allow.

mod carry;
mod fine;
mod gates;
mod state;

pub use carry::{Carried, Reservation, check_carried, drawing};
pub use fine::{ClearLook, DAY_S, FinePlace};
pub(crate) use gates::capital;
pub use gates::gates;
pub use state::{Standing, State, allowed_states};

use crate::charge::{Balance, Sum};
use crate::startup::Steadiness;

use crate::order::{Happening, Order, What};
use crate::procedure::{JobKind, Stage, Step};
use ruhe_core::hold::HoldOutcome;
use ruhe_core::named;
use ruhe_core::vacuum::DecayOutcome;

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
        /// Every joint and port was looked at with fluid under test pressure, or held for a day.
        Fine = "fine_tightness",
        /// Every port closed, clear, capped.
        Ports = "ports",
        /// Charge weighed, and what was wanted.
        Charge = "charge_weighed",
        /// Started up and at rest.
        StartUp = "started_up",
        /// Inside is what belongs there, in every space.
        Inside = "inside",
    }
}

impl GateCode {
    /// Name on screen and paper.
    #[must_use]
    pub fn title(self) -> &'static str {
        match self {
            Self::Hold => "Coarse tightness: pressure hold with temperature",
            Self::Retest => "Retest after repair, at least as high",
            Self::Search => "Leak search closed",
            Self::Boundary => "Boundary valves checked",
            Self::Instruments => "Instruments in date and range",
            Self::Decay => "Isolated decay test",
            Self::Fine => "Fine tightness: joints and ports looked at under pressure",
            Self::Ports => "Ports closed, clear, capped",
            Self::Charge => "Charge weighed in",
            Self::StartUp => "Started up and steady",
            Self::Inside => "What is inside",
        }
    }
    /// The stage where it is met; `None`: on every page.
    #[must_use]
    pub fn stage(self) -> Option<Stage> {
        Some(match self {
            Self::Hold | Self::Retest => Stage::Hold,
            Self::Search | Self::Fine => Stage::Search,
            Self::Boundary | Self::Instruments => Stage::Survey,
            Self::Decay => Stage::Decay,
            Self::Charge => Stage::Charge,
            Self::Ports | Self::StartUp => Stage::StartUp,
            Self::Inside => return None,
        })
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
    /// From where it began to count to its last reading, s.
    pub lasted_s: f64,
    /// What it proves at the least, a sentence; empty: nothing.
    pub proves: String,
    /// It stood so low beside its weakest plate, and nobody named a source for that: what it cannot show, in words.
    pub too_low: Option<String>,
    /// It was recorded so long before what it should speak for: in words.
    pub too_old: Option<String>,
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
    /// … and a leak is likely.
    pub leak_likely: bool,
    /// It ended where water stands, whatever its own limit was.
    pub stands_wet: bool,
    /// Its limit is one's own, and above what makers ask for.
    pub is_lax: bool,
    /// It was recorded so long before what it should speak for: in words.
    pub too_old: Option<String>,
    /// The verdict's headline.
    pub headline: String,
}

/// What the ledger says.
#[derive(Debug, Clone, PartialEq)]
pub struct ChargeFact {
    /// What forbids to work with the target.
    pub stops: Vec<String>,
    /// What the record must say of it.
    pub remarks: Vec<String>,
    /// Nothing is to go in.
    pub wants_nothing: bool,
    /// What went in and out.
    pub sum: Sum,
    /// How that stands to the target, if there is one.
    pub balance: Option<Balance>,
    /// The tolerance in words.
    pub tolerance: Option<String>,
    /// Refrigerant was added to a charge that stayed inside: how much, in words.
    pub topped_up: Option<String>,
    /// Why: what the visit is for.
    pub reason: String,
}

/// What the register of ports says.
#[derive(Debug, Clone, PartialEq)]
pub struct PortsFact {
    /// Somebody kept it in this visit.
    pub is_kept: bool,
    /// Ports that are not closed, clear, capped, in words.
    pub open: Vec<String>,
    /// What prints, in words.
    pub deviations: Vec<String>,
    /// How many ports there are.
    pub count: usize,
}

/// What the reading sets say.
#[derive(Debug, Clone, PartialEq)]
pub struct StartFact {
    /// Whether they have come to rest.
    pub steadiness: Option<Steadiness>,
    /// How many there are.
    pub sets: usize,
}

/// What was looked at with fluid or a detector.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct FineFact {
    /// What must be looked at: joints made today, ports.
    pub places: Vec<FinePlace>,
    /// Pipes were joined today, and no joint of them is named.
    pub names_no_joint: bool,
    /// Looks that found nothing.
    pub looks: Vec<ClearLook>,
    /// Tracer or refrigerant was in the test gas.
    pub has_tracer: bool,
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
    /// One of them is a leak that was found and not mended.
    pub has_open_leak: bool,
    /// What was wrong with an instrument during a finished test, in words.
    pub instrument_marks: Vec<String>,
    /// What was struck out though it spoke against a gate, in words.
    pub struck: Vec<(GateCode, String)>,
    /// Sections that must each hold and be evacuated; at least one.
    pub sections: Vec<String>,
    /// Those of them that nobody opened since they were last shown tight, or since they were found.
    pub untouched: Vec<String>,
    /// Those into which nothing came since they were last shown dry, or since they were found.
    pub dry: Vec<String>,
    /// When nitrogen or air last came into a section, ms since 1970 UTC.
    pub soiled: Vec<(String, i64)>,
    /// Why what is inside is not what belongs there; none: it is.
    pub inside: Option<String>,
    /// What is inside, in words.
    pub stands: Vec<String>,
    /// Gates that an earlier visit was signed with: whether they were met, and by whom it was signed, in words.
    pub before: Vec<(GateCode, bool, String)>,
    /// What was looked at.
    pub fine: FineFact,
    /// The register of ports; none: the job has none.
    pub ports: Option<PortsFact>,
    /// The ledger; none: the job has no charge.
    pub charge: Option<ChargeFact>,
    /// Reading sets; none: nothing is started.
    pub start: Option<StartFact>,
    /// Risky repairs that nobody agreed to.
    pub without_consent: Vec<String>,
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
    /// Somebody may answer for it unmet. Nobody may for a proven leak, or for what is inside.
    pub can_be_answered: bool,
    /// Shown on an earlier visit; nothing was opened since.
    pub is_carried: bool,
}

impl Gate {
    /// A gate that somebody may answer for.
    #[must_use]
    pub const fn new(code: GateCode, met: bool, evidence: String) -> Self {
        Self {
            code,
            met,
            evidence,
            reservation: None,
            can_be_answered: true,
            is_carried: false,
        }
    }
    /// The same, but nobody may answer for it.
    #[must_use]
    pub fn last(self) -> Self {
        Self {
            can_be_answered: false,
            ..self
        }
    }
    /// The same with what the record must say of it.
    #[must_use]
    pub fn reserved(self, reservation: Option<String>) -> Self {
        Self {
            reservation,
            ..self
        }
    }
}
