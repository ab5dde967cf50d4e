//! Acts: a state and a command in, deeds for the log out, or a refusal with its field. One verb a file; pure.

mod arrive;
mod breaking;
mod charge;
mod confirm;
mod consent;
mod correct;
mod door;
mod end;
mod import;
mod inside;
mod kit;
mod mark;
mod open;
mod plan;
mod ports;
mod procedure;
mod read;
mod search;
mod sign;
mod startup;
mod strike;
mod survey;
mod visit;

pub use arrive::{ArrivalInput, arrive};
pub use breaking::{BreakInput, break_vacuum};
pub use charge::{RowInput, TargetInput, keep_target, weigh};
pub use confirm::{OverrideInput, StepInput, approve, confirm, override_gate};
pub use consent::{ConsentInput, consent};
pub use correct::{CorrectionInput, MoveInput, correct, may_move_away, move_away};
pub use door::{FromGauge, GaugeLine, Sent, read_gauge, sent};
pub use end::{end, freeze};
pub use import::{Imported, import, recording_digest, taken_already};
pub use inside::{SeenInput, see};
pub use kit::{keep_kit, shelf, with_kit};
pub use mark::{ClockInput, EventInput, mark, start_clock};
pub use open::{CircuitInput, JobInput, OpenedJob, PlateInput, open_job};
pub use plan::{Stock, TestInput, plan_test};
pub use ports::{PortsInput, keep_ports};
pub use procedure::keep_procedure;
pub use read::{ReadingInput, ReadingsInput, read};
pub use search::{LookInput, RepairInput, look, mend};
pub use sign::{SignatureInput, sign};
pub use startup::{SetInput, measure};
pub use strike::{StrikeInput, VoidInput, strike, strike_reading};
pub use survey::{SurveyInput, keep_survey, photo, picture, take_photo};
pub use visit::{AdditionInput, VisitInput, WitnessInput, add_words, come_back, countersign};

use crate::log::{KIT, PROCEDURES, SITES};
use crate::people::PEOPLE;
use crate::refusal::Refusal;

/// The future something may come from: clocks differ, but not by an hour, ms.
const AHEAD: i64 = 3_600_000;
/// Nothing of this trade happened before, ms since 1970: 2000-01-01.
const FIRST: i64 = 946_684_800_000;
/// How long before a test was planned one of its readings may have been taken, if somebody tells it afterwards, ms:
/// sixty days.
const TOLD: i64 = 60 * 86_400_000;
/// And if a gauge sends it by itself: what it took before it was planned is of no test, but for clocks that differ.
const SENT: i64 = 60_000;

/// The time of a reading: not long before its test was planned, not ahead of the clock.
fn reading_at(
    field: &str,
    at: i64,
    planned_ms: i64,
    before: i64,
    now: i64,
) -> Result<i64, Refusal> {
    let from = planned_ms.min(now).saturating_sub(before).max(FIRST);
    if (from..=now.saturating_add(AHEAD)).contains(&at) {
        return Ok(at);
    }
    let what = if at < from {
        "long before this test was planned"
    } else {
        "ahead of the clock"
    };
    Err(Refusal::wrong(
        field,
        format!("that time is not one a reading of this test can have: it is {what}"),
    ))
}

/// Longest id that is taken.
const ID: usize = 64;

/// And after this no clock of a device is right: 2100-01-01.
const LAST: i64 = 4_102_444_800_000;

/// A device's clock as a header carries it, ms since 1970 UTC.
///
/// # Errors
/// If it is no whole number, or no time that a clock can show.
pub fn ms_since_1970(field: &str, text: &str) -> Result<i64, Refusal> {
    let at: Option<i64> = text.parse().ok();
    at.filter(|at| (0..LAST).contains(at)).ok_or_else(|| {
        Refusal::wrong(
            field,
            format!("“{text}” is no time of a clock, in ms since 1970"),
        )
    })
}

/// A time somebody stated, now if nobody did.
fn happened_at(field: &str, stated: Option<i64>, now: i64) -> Result<i64, Refusal> {
    let at = stated.unwrap_or(now);
    if (FIRST..=now + AHEAD).contains(&at) {
        Ok(at)
    } else {
        Err(Refusal::wrong(
            field,
            "that time is not one at which anything here can have happened",
        ))
    }
}

/// Times further apart than this are two, ms: a signature then carries both.
const APART: i64 = 120_000;

/// The time that a device said, where it is another than the keeper's.
fn said_otherwise(said_ms: i64, kept_ms: i64) -> Option<i64> {
    (said_ms.saturating_sub(kept_ms).saturating_abs() > APART).then_some(said_ms)
}

/// Clocks further apart than this are flagged, ms.
const SKEW: i64 = 5_000;

/// When something was logged: by the page's clock if it is about right. If not, the time it waited is still known, and
/// is taken from the clock of who keeps the log: two devices on one circuit must not tell two times.
fn logged_at(logged: i64, sent: i64, now: i64) -> i64 {
    let apart = now.saturating_sub(sent);
    if apart.saturating_abs() > SKEW {
        logged.saturating_add(apart)
    } else {
        logged
    }
}

/// An id that was made where something was said.
///
/// # Errors
/// If it is empty, too long, or has signs that an address cannot carry.
pub fn check_id(field: &str, id: &str) -> Result<(), Refusal> {
    let is_plain = |c: char| c.is_ascii_alphanumeric() || "-_.".contains(c);
    if id.is_empty() || id.len() > ID || !id.chars().all(is_plain) {
        return Err(Refusal::wrong(
            field,
            format!("an id has at most {ID} letters, digits, points, dashes"),
        ));
    }
    // Logs that are no circuit's have names of their own.
    if [KIT, SITES, PROCEDURES, PEOPLE].contains(&id) {
        return Err(Refusal::wrong(
            field,
            format!("“{id}” is no id: it is the name of a log"),
        ));
    }
    Ok(())
}
