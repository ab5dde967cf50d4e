//! What an entry can say. The names of the values are part of the file format.

use super::charge::{Arrived, Broken, Targeted, Weighed};
use super::correct::{Corrected, MovedAway};
use super::format::Later;
use super::inside::{Left, Seen, ValveMove};
use super::ports::PortsKept;
use super::signoff::{Added, Carries, Consented, Countersigned, Visited};
use super::startup::Measured;
use crate::kit::KitDoc;
use crate::people::PersonKept;
use crate::plan::Plan;
use crate::procedure::{JobKind, Step};
use crate::search::{LookResult, Method, RepairOpened};
use crate::signoff::{GateCode, State};
use crate::state::Outline;
use crate::survey::SurveyDoc;
use crate::tell::ProcedureInput;
use ruhe_core::judge::Finding;
use ruhe_core::reading::{Channel, EventKind, Kind};
use serde::{Deserialize, Serialize};

/// A circuit: where it is and what it is.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[allow(missing_docs)]
pub struct Opened {
    pub site_id: String,
    pub site: String,
    pub place: String,
    pub system_id: String,
    pub system: String,
    pub model: String,
    pub serial: String,
    /// Letter on the unit.
    pub tag: String,
    pub name: String,
    pub job: JobKind,
    pub refrigerant: String,
    /// Safety class as it was said, of a refrigerant that is not known here; empty: nobody said.
    pub safety_class: String,
    /// What is under test, in words.
    pub scope: String,
    pub volume_l: Option<f64>,
}

/// A look at a suspect place.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Looked {
    /// Where.
    pub place: String,
    /// Section it lies in, if it was said.
    pub section: Option<String>,
    /// How.
    pub method: Method,
    /// What was found.
    pub finding: LookResult,
    /// For how long, s.
    pub dwell_s: Option<f64>,
    /// Under which pressure, Pa gauge, if known.
    pub at_pa: Option<f64>,
    /// In words.
    pub note: String,
    /// A photo.
    pub photo_id: Option<String>,
    /// When, ms since 1970 UTC.
    pub at_ms: i64,
}

/// A repair.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Mended {
    /// Where.
    pub place: String,
    /// Section it lies in, if it was said.
    pub section: Option<String>,
    /// What was wrong.
    pub cause: String,
    /// What was done.
    pub words: String,
    /// Tightened to, N·m.
    pub torque_nm: Option<f64>,
    /// What was opened for it.
    pub opened: RepairOpened,
    /// A flame was used.
    pub with_torch: bool,
    /// It may fail or harm: somebody had to agree to it.
    pub is_risky: bool,
    /// When, ms since 1970 UTC.
    pub at_ms: i64,
}

/// A step that was confirmed.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Confirmed {
    /// Which.
    pub step: Step,
    /// In words.
    pub note: String,
    /// What the gauges showed afterwards: of a release or a recovery.
    pub left: Vec<Left>,
    /// When, ms since 1970 UTC.
    pub at_ms: i64,
}

/// A gate that somebody answers for without its evidence.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Overridden {
    /// Which.
    pub gate: GateCode,
    /// Why it was not done, in one's own words.
    pub words: String,
    /// Somebody said it who may answer for it; else it waits for one who may.
    pub is_answered: bool,
}

/// A channel of a test.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct PlannedChannel {
    /// Its id.
    pub id: String,
    /// What it is.
    #[serde(flatten)]
    pub channel: Channel,
}

/// A test as it was planned. Its id is that of the entry.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Planned {
    /// Kind of test.
    pub kind: Kind,
    /// Which of its kind, from 1.
    pub attempt: u32,
    /// The plan with everything that the verdict takes from it.
    pub plan: Plan,
    /// Its channels.
    pub channels: Vec<PlannedChannel>,
    /// When it was opened, ms since 1970 UTC.
    pub at_ms: i64,
}

/// Something that was done during a test. Its id is that of the entry.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Marked {
    /// Which test.
    pub test: String,
    /// What was done.
    pub event: EventKind,
    /// In words.
    pub note: String,
    /// A photo of what was read then.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub photo_id: Option<String>,
    /// Which valve was moved, and how.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub moved: Option<ValveMove>,
    /// A core was moved inside a tool that kept its port shut.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub with_tool: Option<bool>,
    /// When, ms since 1970 UTC.
    pub at_ms: i64,
}

/// The readings of a test as they were when it ended.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Seal {
    /// How many, those struck out too.
    pub count: u64,
    /// SHA-256 over their lines.
    pub digest: String,
}

/// The end of a test: its readings sealed, its finding frozen. A later one of the same test replaces it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Ended {
    /// Which test.
    pub test: String,
    /// When, ms since 1970 UTC.
    pub at_ms: i64,
    /// Its readings.
    pub seal: Seal,
    /// What the recording is known by, wherever it is taken.
    pub recording: String,
    /// Version of the method.
    pub engine: String,
    /// What was found.
    pub finding: Finding,
    /// What the circuit needs of the recording besides.
    pub outline: Outline,
}

/// A gate as it stood when a visit was signed; its words are made from what stands in the log before.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct GateSigned {
    /// Which.
    pub code: GateCode,
    /// Met by evidence.
    pub met: bool,
    /// Somebody may answer for it unmet.
    pub can_be_answered: bool,
    /// The record must say something of it although it is met.
    pub is_reserved: bool,
    /// The entry by which somebody answered for it.
    pub overridden: Option<String>,
}

/// A signature.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[allow(missing_docs)]
pub struct Signed {
    pub name: String,
    pub role: String,
    pub statement: String,
    pub state: State,
    /// The gates as they were.
    pub gates: Vec<GateSigned>,
    /// What the state must carry.
    pub carries: Carries,
    /// When, by the clock of who keeps the log, ms since 1970 UTC.
    pub at_ms: i64,
    /// When by the device's own word, where that is another time.
    pub device_ms: Option<i64>,
}

/// What was done to who comes in and what sends: sessions, passwords, codes, gauges.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[serde(tag = "done", rename_all = "snake_case")]
#[allow(missing_docs)]
pub enum HouseDeed {
    /// A device was signed in; by a code, if another session showed one.
    SignedIn {
        person: String,
        session: String,
        paired_by: Option<String>,
    },
    /// A device was signed out; no session: all of them.
    SignedOut {
        person: String,
        session: Option<String>,
    },
    /// A password was set; it is not said which.
    PasswordSet { person: String },
    /// A code for another device was shown.
    CodeShown { person: String },
    /// A gauge was let in.
    GaugeLetIn { gauge: String, name: String },
    /// A gauge was shut out.
    GaugeShutOut { gauge: String },
    /// A sensor of a gauge was bound to a channel of a test.
    GaugeBound {
        gauge: String,
        source: String,
        test: String,
        channel: String,
    },
    /// A channel of a test is read by hand again.
    GaugeUnbound { test: String, channel: String },
    /// The log was signed anew, with another key.
    KeyRenewed { key: String },
}

/// What an entry says.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(tag = "deed", rename_all = "snake_case")]
#[allow(missing_docs)]
pub enum Deed {
    /// A circuit was taken on. Its id is that of the log.
    Opened(Opened),
    /// The survey, whole, in its next version.
    Surveyed {
        version: i64,
        survey: SurveyDoc,
    },
    /// A photo was taken. Its id is that of the entry; its bytes lie beside the log.
    PhotoTaken {
        mime: String,
        bytes: u64,
        sha256: String,
    },
    Looked(Looked),
    Mended(Mended),
    Confirmed(Confirmed),
    Overridden(Overridden),
    Planned(Planned),
    Marked(Marked),
    /// The technician's own word on when the clock of a test starts.
    ClockStarted {
        test: String,
        at_ms: i64,
        reason: String,
    },
    /// A reading was struck out; another may stand for it.
    ReadingStruck {
        test: String,
        reading: String,
        reason: String,
        instead: Option<String>,
    },
    Ended(Ended),
    /// An entry was struck out: it counts no longer.
    Struck {
        entry: String,
        reason: String,
    },
    Signed(Signed),
    Arrived(Arrived),
    Targeted(Targeted),
    Weighed(Weighed),
    VacuumBroken(Broken),
    PortsKept(PortsKept),
    Measured(Measured),
    /// A reading outside any test.
    Seen(Seen),
    /// Somebody answers for what another said was not done. Its id: that of the override.
    Approved {
        entry: String,
    },
    Consented(Consented),
    Countersigned(Countersigned),
    Added(Added),
    Visited(Visited),
    /// What the circuit is was written down wrong.
    Corrected(Corrected),
    /// A test was made on another circuit, and stands there now.
    MovedAway(MovedAway),
    /// A site; the same id again is its next version.
    SiteKept {
        site: String,
        name: String,
        place: String,
    },
    /// A thing of the kit; the same id again is its next version.
    KitKept {
        item: String,
        doc: KitDoc,
    },
    /// A person; the same id again is their next version.
    PersonKept(PersonKept),
    /// What was done to sessions, passwords, codes and gauges.
    House(HouseDeed),
    /// A procedure of one's own; the same code again is its next version.
    ProcedureKept {
        code: String,
        procedure: ProcedureInput,
    },
    /// Of a later form, and not known here. Never written.
    #[serde(skip)]
    Later(Later),
}

impl Deed {
    /// Whether a log that begins with it is a circuit's.
    #[must_use]
    pub const fn opens_a_circuit(&self) -> bool {
        matches!(self, Self::Opened(_))
    }
    /// Whether it is noted outside of the database too: what seals or signs.
    #[must_use]
    pub const fn is_noted(&self) -> bool {
        matches!(
            self,
            Self::Ended(_) | Self::Signed(_) | Self::Countersigned(_) | Self::Added(_)
        )
    }
    /// Its name in the file.
    #[must_use]
    pub fn name(&self) -> &str {
        match self {
            Self::Opened(_) => "opened",
            Self::Surveyed { .. } => "surveyed",
            Self::PhotoTaken { .. } => "photo_taken",
            Self::Looked(_) => "looked",
            Self::Mended(_) => "mended",
            Self::Confirmed(_) => "confirmed",
            Self::Overridden(_) => "overridden",
            Self::Planned(_) => "planned",
            Self::Marked(_) => "marked",
            Self::ClockStarted { .. } => "clock_started",
            Self::ReadingStruck { .. } => "reading_struck",
            Self::Ended(_) => "ended",
            Self::Struck { .. } => "struck",
            Self::Signed(_) => "signed",
            Self::Arrived(_) => "arrived",
            Self::Targeted(_) => "targeted",
            Self::Weighed(_) => "weighed",
            Self::VacuumBroken(_) => "vacuum_broken",
            Self::PortsKept(_) => "ports_kept",
            Self::Measured(_) => "measured",
            Self::Seen(_) => "seen",
            Self::Approved { .. } => "approved",
            Self::Consented(_) => "consented",
            Self::Countersigned(_) => "countersigned",
            Self::House(_) => "house",
            Self::Added(_) => "added",
            Self::Visited(_) => "visited",
            Self::Corrected(_) => "corrected",
            Self::MovedAway(_) => "moved_away",
            Self::SiteKept { .. } => "site_kept",
            Self::KitKept { .. } => "kit_kept",
            Self::PersonKept(_) => "person_kept",
            Self::ProcedureKept { .. } => "procedure_kept",
            Self::Later(x) => &x.deed,
        }
    }
}
