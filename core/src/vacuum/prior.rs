//! What is thought of a rise before it is seen. All of it in one place, so that it can be doubted in one place.
//!
//! Shares of the causes and ranges of their sizes: common practice, no source. Sizes are spread evenly in their
//! logarithm, since nobody knows whether a leak is large or small.

/// A shape of rise. A leak is any straight inflow.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum Cause {
    /// No rise that matters.
    Still,
    /// Straight.
    Leak,
    /// Levelling: bound water.
    Moisture,
    /// Levelling at the saturation of the coldest place.
    Water,
    /// Bending, never level.
    Outgassing,
    /// Straight and levelling.
    LeakAndMoisture,
    /// Straight and bending.
    LeakAndOutgassing,
}

impl Cause {
    /// Every cause with its share before the data.
    pub const PRIOR: [(Cause, f64); 7] = [
        (Cause::Still, 0.28),
        (Cause::Leak, 0.18),
        (Cause::Moisture, 0.17),
        (Cause::Water, 0.04),
        (Cause::Outgassing, 0.17),
        (Cause::LeakAndMoisture, 0.08),
        (Cause::LeakAndOutgassing, 0.08),
    ];
    /// As written in JSON.
    #[must_use]
    pub fn code(self) -> &'static str {
        match self {
            Self::Still => "still",
            Self::Leak => "leak",
            Self::Moisture => "moisture",
            Self::Water => "water",
            Self::Outgassing => "outgassing",
            Self::LeakAndMoisture => "leak_and_moisture",
            Self::LeakAndOutgassing => "leak_and_outgassing",
        }
    }
    /// Whether gas keeps flowing in.
    #[must_use]
    pub fn has_leak(self) -> bool {
        matches!(self, Self::Leak | Self::LeakAndMoisture | Self::LeakAndOutgassing)
    }
}

/// Spans of the time constant of levelling, s. Within a span the shape is a blend of its two ends: on a bare grid a
/// leak is invented to mend the misfit between two time constants.
pub const LEVELLING: [f64; 9] = [80.0, 140.0, 245.0, 430.0, 750.0, 1_300.0, 2_300.0, 4_000.0, 7_000.0];
/// Half the difference between the ends may be blended by this share of the size (standard deviation).
pub const BLEND: f64 = 0.35;
/// Time already under vacuum where nobody said, s.
pub const EVACUATED: [f64; 4] = [300.0, 900.0, 2_700.0, 8_000.0];
/// Time constants of the two ends evening out, s.
pub const EVENING_OUT: [f64; 3] = [10.0, 28.0, 70.0];
/// Wandering of the gauge, relative, per root minute.
pub const WANDER: [f64; 4] = [0.0005, 0.0011, 0.0018, 0.0035];
/// Largest leak thought of, Pa/s (3000 micron/min).
pub const LARGEST_LEAK: f64 = 3_000.0 * 0.133_322 / 60.0;
/// Largest levelling or bending rise thought of, Pa (8000 micron).
pub const LARGEST_RISE: f64 = 8_000.0 * 0.133_322;
/// Free water levels between a quarter (it chills itself) and 1.75 times (heat-loss gauge) its saturation.
pub const WATER_BAND: (f64, f64) = (0.25, 1.75);
