//! Pressure, temperature, mass and time: typed, parsed, and the table of units.
//!
//! Absolute pressure, gauge pressure and a pressure difference are three types; so are a temperature and a
//! temperature interval. A gauge pressure becomes absolute only with a named atmosphere.

mod display;
mod mass;
mod number;
mod pressure;
mod temperature;
mod unit;

pub use display::{Units, significant, span};
pub use mass::{Mass, MassFault, MassUnit};
pub use number::{NumberFault, parse_number, resolution_of};
pub use pressure::{AbsolutePressure, GaugePressure, PressureDifference};
pub use temperature::{Temperature, TemperatureInterval};
pub use unit::{Dimension, MICRON, UNITS, Unit, UnitInfo};
