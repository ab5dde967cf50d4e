//! What is thought of a rise before it is seen. All of it in one file, `prior.json`, so that it can be doubted in one
//! place, and so that the simulator, the calibration and the separate optimum draw from the same.

use crate::named;
use serde::Deserialize;
use std::collections::BTreeMap;
use std::sync::OnceLock;

named! {
    /// A shape of rise. A leak is any straight inflow.
    Cause {
        /// No rise that matters.
        Still = "still",
        /// Straight.
        Leak = "leak",
        /// Levelling: bound water.
        Moisture = "moisture",
        /// Levelling at the saturation of the coldest place.
        Water = "water",
        /// Bending, never level.
        Outgassing = "outgassing",
        /// Straight and levelling.
        LeakAndMoisture = "leak_and_moisture",
        /// Straight and bending.
        LeakAndOutgassing = "leak_and_outgassing",
    }
}

impl Cause {
    /// Name on screen.
    #[must_use]
    pub fn title(self) -> &'static str {
        match self {
            Self::Still => "Still",
            Self::Leak => "Leak",
            Self::Moisture => "Moisture",
            Self::Water => "Free water or ice",
            Self::Outgassing => "Outgassing",
            Self::LeakAndMoisture => "Leak and moisture",
            Self::LeakAndOutgassing => "Leak and outgassing",
        }
    }
}

impl Cause {
    /// Whether gas keeps flowing in.
    #[must_use]
    pub fn has_leak(self) -> bool {
        matches!(
            self,
            Self::Leak | Self::LeakAndMoisture | Self::LeakAndOutgassing
        )
    }
}

/// One end, in a file that says what it is about.
#[derive(Debug, Deserialize)]
pub struct To {
    /// Largest.
    pub to: f64,
}
/// Sizes of a leak.
#[derive(Debug, Deserialize)]
pub struct Leaks {
    /// Largest ordinary one, micron a minute.
    pub to: f64,
    /// A valve left open.
    pub gross: Gross,
}
/// Leaks beyond the ordinary ones.
#[derive(Debug, Deserialize)]
pub struct Gross {
    /// Share of all leaks.
    pub share: f64,
    /// Largest, micron a minute.
    pub to: f64,
}
/// Two ends.
#[derive(Debug, Deserialize)]
pub struct Ends {
    /// Smallest and largest.
    pub ends: [f64; 2],
}
/// A normal distribution about zero.
#[derive(Debug, Deserialize)]
pub struct Sd {
    /// Its standard deviation.
    pub sd: f64,
}
/// How uneven the ends are at isolation.
#[derive(Debug, Deserialize)]
pub struct Uneven {
    /// Standard deviation as a share of the start.
    pub sd_share: f64,
    /// And this, micron.
    pub sd_micron: f64,
}

/// The file, as far as the judge needs it; what only the simulator draws (how long, how often read) is left out.
#[derive(Debug, Deserialize)]
pub struct Prior {
    /// Share of each cause by its code.
    pub causes: BTreeMap<String, f64>,
    /// Largest leaks.
    pub leak_micron_per_min: Leaks,
    /// Largest levelling or bending rise.
    pub rise_micron: To,
    /// Time constant of levelling, s.
    pub levelling_s: [f64; 2],
    /// Where free water levels, as a share of saturation.
    pub water_band: Ends,
    /// Time under vacuum where nobody said, s.
    pub evacuated_s: [f64; 2],
    /// Time constant of the ends evening out, s.
    pub evening_s: [f64; 2],
    /// How uneven they are.
    pub uneven: Uneven,
    /// Wandering of the gauge, relative, per root minute.
    pub wander_per_root_min: [f64; 2],
    /// Relative fast noise of one reading.
    pub fast: [f64; 2],
    /// Drift of temperature, K/h.
    pub drift_k_per_h: Sd,
    /// Change of a vapour's pressure, share per K.
    pub vapour_per_k: f64,
}

/// The prior that ships with Ruhe.
pub fn prior() -> &'static Prior {
    static READ: OnceLock<Prior> = OnceLock::new();
    #[allow(clippy::expect_used)] // part of the program, and a test reads it
    READ.get_or_init(|| {
        serde_json::from_str(include_str!("prior.json")).expect("prior.json is part of the program")
    })
}

/// Every cause with its share before any data.
#[must_use]
pub fn prior_shares() -> Vec<(Cause, f64)> {
    Cause::ALL
        .iter()
        .map(|&c| (c, prior().log_share(c).exp()))
        .collect()
}

impl Prior {
    /// Logarithm of a cause's share.
    pub fn log_share(&self, cause: Cause) -> f64 {
        self.causes.get(cause.code()).copied().unwrap_or(0.0).ln()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_file_names_every_cause_and_shares_one_belief() {
        let p = prior();
        assert!((p.causes.values().sum::<f64>() - 1.0).abs() < 1e-9);
        assert!(Cause::ALL.iter().all(|&c| p.log_share(c).is_finite()));
        assert_eq!(p.causes.len(), Cause::ALL.len());
    }
}
