//! Named ways of evacuating. All figures: common practice, no source; *unverified* until someone has checked them
//! against the maker's instruction, which always wins.

use ruhe_core::quantity::MICRON;
use ruhe_core::reading::PullStage;

/// A way of evacuating.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct EvacuationSchool {
    /// Stable name.
    pub code: &'static str,
    /// Name on screen.
    pub title: &'static str,
    /// Target of each pull, micron; between two pulls the vacuum is broken with nitrogen.
    pub micron: &'static [f64],
    /// What it will miss, or costs.
    pub gives_up: &'static str,
}

const fn school(
    code: &'static str,
    title: &'static str,
    micron: &'static [f64],
    gives_up: &'static str,
) -> EvacuationSchool {
    EvacuationSchool {
        code,
        title,
        micron,
        gives_up,
    }
}

/// Ways of evacuating.
pub const EVACUATION_SCHOOLS: [EvacuationSchool; 7] = [
    school(
        "deep_500",
        "Single deep pull to 500 micron",
        &[500.0],
        "Will miss bound water that comes off only slowly",
    ),
    school(
        "deep_350",
        "Single deep pull to 350 micron",
        &[350.0],
        "Costs some time",
    ),
    school(
        "deep_300",
        "Single deep pull to 300 micron",
        &[300.0],
        "Costs some time",
    ),
    school(
        "deep_200",
        "Single deep pull to 200 micron",
        &[200.0],
        "Costs time; needs wide hoses and fresh oil",
    ),
    school(
        "deep_150",
        "Single deep pull to 150 micron",
        &[150.0],
        "Costs much time; oil in the system may never allow it",
    ),
    school(
        "triple",
        "Triple: 2000, nitrogen, 1000, nitrogen, 500",
        &[2_000.0, 1_000.0, 500.0],
        "Costs nitrogen and two waits; carries off water where the pump alone stalls",
    ),
    school(
        "old_oily",
        "Old, oily system: 1000 micron and holds",
        &[1_000.0],
        "Will miss dryness below what the oil gives off",
    ),
];

/// Pressure a break goes to, Pa absolute (2 psig at sea level), and how long it stands, s.
pub const BREAK: (f64, f64) = (115_000.0, 300.0);
/// The pulls of a list of targets in Pa.
#[must_use]
pub fn pulls(targets: &[f64]) -> Vec<PullStage> {
    let last = targets.len().saturating_sub(1);
    targets
        .iter()
        .enumerate()
        .map(|(i, &target_pa)| PullStage {
            target_pa,
            break_pa: (i < last).then_some(BREAK.0),
            dwell_s: if i < last { BREAK.1 } else { 0.0 },
        })
        .collect()
}

impl EvacuationSchool {
    /// What each of its pulls goes down to, Pa absolute.
    #[must_use]
    pub fn targets(&self) -> Vec<f64> {
        self.micron.iter().map(|m| m * MICRON).collect()
    }
}
