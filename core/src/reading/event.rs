//! Things done to the system that the traces cannot show by themselves.

use crate::named;

named! {
    /// What happened.
    EventKind {
        /// Nitrogen supply shut off from the system.
        SupplyIsolated = "supply_isolated",
        /// System shut off from pump and hoses.
        Isolated = "isolated",
        /// Vacuum pump started.
        PumpOn = "pump_on",
        /// Vacuum pump stopped.
        PumpOff = "pump_off",
        /// A valve was moved.
        ValveMoved = "valve_moved",
        /// A gauge was taken off; it is put back later.
        GaugeTakenOff = "gauge_taken_off",
        /// A gauge was put on again.
        GaugeReattached = "gauge_reattached",
        /// More gas was added.
        ToppedUp = "topped_up",
        /// Vacuum broken with nitrogen.
        NitrogenBreak = "nitrogen_break",
        /// The system was opened.
        Opened = "opened",
        /// A valve core was taken out, put back or changed.
        CoreMoved = "core_moved",
        /// The sun came out or went.
        Sun = "sun",
        /// Anything else, in words.
        Other = "other",
    }
}

/// One event.
#[derive(Debug, Clone, PartialEq)]
pub struct Event {
    /// Seconds since the recording's start.
    pub at_s: f64,
    /// What happened.
    pub kind: EventKind,
    /// In the technician's words.
    pub note: String,
}
