//! What is known beside the trace of a rise.

/// Where the gauge sits.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum GaugePlace {
    /// At the pump: it rises while the ends even out.
    NearPump,
    /// At the far end: it falls.
    Far,
}

/// What is known beside the trace.
#[derive(Debug, Clone, Copy)]
pub struct Background {
    /// Time under vacuum before isolation, s.
    pub evacuated: Option<f64>,
    /// Smallest step of the gauge, Pa.
    pub digit: f64,
    /// A rise over ten minutes (or the rule's time) that does not matter, Pa, and that time, s.
    pub negligible: (f64, f64),
    /// Saturation pressure at the coldest place, Pa, if its temperature is known.
    pub saturation: Option<f64>,
    /// Temperature, K (20 °C if unknown: it only scales a small drift).
    pub kelvin: f64,
    /// Change of temperature, K/h, if it was followed.
    pub drift: Option<f64>,
    /// The gauge's place, if known.
    pub place: Option<GaugePlace>,
    /// A leak of at least this matters, Pa/s.
    pub matters: f64,
    /// The limit, Pa.
    pub limit: f64,
    /// When the gauge's display had come to its end, s since isolation, if it had.
    pub top: Option<f64>,
}
