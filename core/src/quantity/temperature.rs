//! A temperature and a temperature interval: 1 K warmer is not 1 K.

/// Thermodynamic temperature, K.
#[derive(Debug, Clone, Copy, PartialEq, PartialOrd)]
pub struct Temperature(f64);

/// A difference of temperatures, K.
#[derive(Debug, Clone, Copy, PartialEq, PartialOrd)]
pub struct TemperatureInterval(f64);

impl Temperature {
    /// From kelvin.
    #[must_use]
    pub const fn from_k(k: f64) -> Self {
        Self(k)
    }
    /// From degrees Celsius.
    #[must_use]
    pub const fn from_c(c: f64) -> Self {
        Self(c + 273.15)
    }
    /// In kelvin.
    #[must_use]
    pub const fn k(self) -> f64 {
        self.0
    }
    /// In degrees Celsius.
    #[must_use]
    pub const fn c(self) -> f64 {
        self.0 - 273.15
    }
}

impl TemperatureInterval {
    /// From kelvin.
    #[must_use]
    pub const fn from_k(k: f64) -> Self {
        Self(k)
    }
    /// In kelvin.
    #[must_use]
    pub const fn k(self) -> f64 {
        self.0
    }
    /// In Fahrenheit degrees.
    #[must_use]
    pub fn fahrenheit(self) -> f64 {
        self.0 * 1.8
    }
}

impl std::ops::Sub for Temperature {
    type Output = TemperatureInterval;
    fn sub(self, other: Self) -> TemperatureInterval {
        TemperatureInterval(self.0 - other.0)
    }
}

impl std::ops::Add<TemperatureInterval> for Temperature {
    type Output = Self;
    fn add(self, by: TemperatureInterval) -> Self {
        Self(self.0 + by.0)
    }
}
