//! Named procedures as people use them. All figures: common practice, no source; *unverified* until someone has
//! checked them against the maker's instruction and the local code, which always win.

/// A way of holding pressure.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct HoldSchool {
    /// Stable name.
    pub code: &'static str,
    /// Name on screen.
    pub title: &'static str,
    /// Test pressure, psig; `None`: from the plate.
    pub psig: Option<f64>,
    /// Planned hold, min.
    pub minutes: f64,
    /// What it will miss, or costs.
    pub gives_up: &'static str,
}

/// A limit for a decay.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct DecaySchool {
    /// Stable name.
    pub code: &'static str,
    /// Name on screen.
    pub title: &'static str,
    /// Highest level, micron.
    pub micron: f64,
    /// After so many minutes.
    pub minutes: f64,
    /// Highest level at isolation, micron.
    pub start_max: Option<f64>,
    /// What it will miss, or costs.
    pub gives_up: &'static str,
}

/// Version of the two lists, printed with each use.
pub const VERSION: &str = "2026-1";

const fn hold(
    code: &'static str,
    title: &'static str,
    psig: Option<f64>,
    minutes: f64,
    gives_up: &'static str,
) -> HoldSchool {
    HoldSchool {
        code,
        title,
        psig,
        minutes,
        gives_up,
    }
}
const fn decay(
    code: &'static str,
    title: &'static str,
    micron: f64,
    minutes: f64,
    start_max: Option<f64>,
    gives_up: &'static str,
) -> DecaySchool {
    DecaySchool {
        code,
        title,
        micron,
        minutes,
        start_max,
        gives_up,
    }
}

/// Ways of holding pressure.
pub const HOLD_SCHOOLS: [HoldSchool; 6] = [
    hold(
        "timed",
        "Timed: 10 min to settle, 30 min hold",
        Some(300.0),
        30.0,
        "Will miss leaks below some kilograms of refrigerant a year",
    ),
    hold(
        "quick_digital",
        "Quick digital: 10 min, fine resolution",
        Some(300.0),
        10.0,
        "Will miss all but large leaks; needs a steady temperature",
    ),
    hold(
        "after_repair",
        "Tightness after repair: 15 min",
        Some(175.0),
        15.0,
        "Will miss leaks that open only at higher pressure",
    ),
    hold(
        "low_then_full",
        "Low then full: look and listen, then 10 min",
        Some(450.0),
        10.0,
        "Costs time: the low step comes first",
    ),
    hold(
        "plate_based",
        "Plate-based: three quarters of the weakest plate",
        None,
        30.0,
        "Costs little time; needs every plate read",
    ),
    hold(
        "long_hold",
        "Long hold: 24 h",
        Some(500.0),
        1440.0,
        "Costs a day",
    ),
];

/// Limits of a decay.
pub const DECAY_SCHOOLS: [DecaySchool; 5] = [
    decay(
        "below_500_10",
        "Stays below 500 micron after 10 min",
        500.0,
        10.0,
        None,
        "Will miss slow rises: some tens of micron a minute pass",
    ),
    decay(
        "start_300_500_10",
        "From 300 or less, below 500 after 10 min",
        500.0,
        10.0,
        Some(300.0),
        "Costs a longer pull",
    ),
    decay(
        "below_1000_10",
        "From 500, below 1000 micron after 10 min",
        1000.0,
        10.0,
        Some(500.0),
        "Will miss a rise of 50 micron a minute",
    ),
    decay(
        "one_minute",
        "500 or less one minute after 350",
        500.0,
        1.0,
        Some(350.0),
        "Will miss nearly everything: 150 micron a minute passes",
    ),
    decay(
        "hour",
        "Below 500 micron after 60 min",
        500.0,
        60.0,
        Some(300.0),
        "Costs an hour",
    ),
];
