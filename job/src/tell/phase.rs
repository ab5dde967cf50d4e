//! How far a test is.

use crate::state::Test;
use ruhe_core::judge::Finding;
use ruhe_core::named;
use ruhe_core::reading::{EventKind, Kind};

named! {
    /// How far a test is, whatever its verdict says.
    Phase {
        /// The supply, or the valve to the pump, is not said to be shut.
        Open = "open",
        /// It is shut, and the clock has not started.
        Settling = "settling",
        /// The clock runs.
        Running = "running",
        /// It has ended.
        Over = "over",
    }
}

/// Whether a decay waits for the word that its valve is shut: whoever said it may still wait for readings.
#[must_use]
pub fn asks_isolation(t: &Test) -> bool {
    let is_said = t.events.iter().any(|(_, e)| e.event == EventKind::Isolated);
    t.kind == Kind::VacuumDecay && phase(t) == Phase::Open && !is_said
}

/// How far a test is.
#[must_use]
pub fn phase(t: &Test) -> Phase {
    let has = |kind: EventKind| t.events.iter().any(|(_, e)| e.event == kind);
    if t.is_over() {
        return Phase::Over;
    }
    match t.finding() {
        Finding::PressureHold(v) => {
            let waits = t.plan.settings(t.kind).awaits_isolation;
            if waits && !has(EventKind::SupplyIsolated) {
                Phase::Open
            } else if v.settled_at_s.is_none() {
                Phase::Settling
            } else {
                Phase::Running
            }
        }
        Finding::VacuumDecay(v) if v.isolated_at_s.is_none() => Phase::Open,
        _ => Phase::Running,
    }
}
