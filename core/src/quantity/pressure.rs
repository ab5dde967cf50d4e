//! Three kinds of pressure that must not be mixed.

/// Pressure above a perfect vacuum, Pa.
#[derive(Debug, Clone, Copy, PartialEq, PartialOrd)]
pub struct AbsolutePressure(f64);

/// Pressure above the atmosphere around the gauge, Pa.
#[derive(Debug, Clone, Copy, PartialEq, PartialOrd)]
pub struct GaugePressure(f64);

/// A difference of two pressures of the same kind, Pa.
#[derive(Debug, Clone, Copy, PartialEq, PartialOrd)]
pub struct PressureDifference(f64);

impl AbsolutePressure {
    /// From pascal.
    #[must_use]
    pub const fn from_pa(pa: f64) -> Self {
        Self(pa)
    }
    /// In pascal.
    #[must_use]
    pub const fn pa(self) -> f64 {
        self.0
    }
    /// What a vented gauge shows in this atmosphere.
    #[must_use]
    pub fn above(self, atmosphere: AbsolutePressure) -> GaugePressure {
        GaugePressure(self.0 - atmosphere.0)
    }
}

impl GaugePressure {
    /// From pascal.
    #[must_use]
    pub const fn from_pa(pa: f64) -> Self {
        Self(pa)
    }
    /// In pascal.
    #[must_use]
    pub const fn pa(self) -> f64 {
        self.0
    }
    /// Absolute pressure, which needs the atmosphere the gauge is vented (or was sealed) to.
    #[must_use]
    pub fn absolute(self, atmosphere: AbsolutePressure) -> AbsolutePressure {
        AbsolutePressure(self.0 + atmosphere.0)
    }
}

impl PressureDifference {
    /// From pascal.
    #[must_use]
    pub const fn from_pa(pa: f64) -> Self {
        Self(pa)
    }
    /// In pascal.
    #[must_use]
    pub const fn pa(self) -> f64 {
        self.0
    }
}

impl std::ops::Sub for AbsolutePressure {
    type Output = PressureDifference;
    fn sub(self, other: Self) -> PressureDifference {
        PressureDifference(self.0 - other.0)
    }
}

impl std::ops::Sub for GaugePressure {
    type Output = PressureDifference;
    fn sub(self, other: Self) -> PressureDifference {
        PressureDifference(self.0 - other.0)
    }
}
