//! The one table of units. The command line, the server and the browser read it from here.
//!
//! Factors are exact by definition: pound-force and inch (NIST SP 811, 2008, appendix B.8), conventional
//! millimetre of mercury and torr (101 325 Pa / 760; they differ by 1.4e-7, which no gauge here can show).

use super::{NumberFault, parse_number};
use crate::named;
use serde::{Deserialize, Serialize};

named! {
    /// What a unit measures.
    Dimension {
        /// Pressure of any reference.
        Pressure = "pressure",
        /// Temperature.
        Temperature = "temperature",
    }
}

/// A unit a person or file may use.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[allow(missing_docs)] // each is described in UNITS
pub enum Unit {
    #[serde(rename = "psi")]
    Psi,
    #[serde(rename = "psig")]
    Psig,
    #[serde(rename = "psia")]
    Psia,
    #[serde(rename = "kPa")]
    KPa,
    #[serde(rename = "bar")]
    Bar,
    #[serde(rename = "MPa")]
    MPa,
    #[serde(rename = "kgf/cm2")]
    KgfCm2,
    #[serde(rename = "Pa")]
    Pa,
    #[serde(rename = "hPa")]
    HPa,
    #[serde(rename = "mbar")]
    Mbar,
    #[serde(rename = "micron")]
    Micron,
    #[serde(rename = "torr")]
    Torr,
    #[serde(rename = "mmHg")]
    MmHg,
    #[serde(rename = "inHg")]
    InHg,
    #[serde(rename = "degF")]
    DegF,
    #[serde(rename = "degC")]
    DegC,
    #[serde(rename = "K")]
    K,
}

/// One row of the table of units: `si = value · factor + offset`.
#[derive(Debug, Clone, Copy)]
pub struct UnitInfo {
    /// The unit.
    pub unit: Unit,
    /// As written in files.
    pub code: &'static str,
    /// As printed on screen.
    pub label: &'static str,
    /// What it measures.
    pub dimension: Dimension,
    /// SI units per unit (Pa or K).
    pub factor: f64,
    /// SI value at zero of the unit (K; 0 for pressures).
    pub offset: f64,
    /// `Some(true)` only for gauge pressure, `Some(false)` only for absolute.
    pub gauge: Option<bool>,
}

const PSI: f64 = 6_894.757_293_168_361;
const MMHG: f64 = 101_325.0 / 760.0;
/// Pa in a micron (1e-3 mmHg).
pub const MICRON: f64 = MMHG / 1e3;

const fn pressure(
    unit: Unit,
    code: &'static str,
    label: &'static str,
    factor: f64,
    gauge: Option<bool>,
) -> UnitInfo {
    UnitInfo {
        unit,
        code,
        label,
        dimension: Dimension::Pressure,
        factor,
        offset: 0.0,
        gauge,
    }
}
const fn temperature(
    unit: Unit,
    code: &'static str,
    label: &'static str,
    factor: f64,
    offset: f64,
) -> UnitInfo {
    UnitInfo {
        unit,
        code,
        label,
        dimension: Dimension::Temperature,
        factor,
        offset,
        gauge: None,
    }
}

/// Every unit, once.
pub const UNITS: [UnitInfo; 17] = [
    pressure(Unit::Psi, "psi", "psi", PSI, None),
    pressure(Unit::Psig, "psig", "psig", PSI, Some(true)),
    pressure(Unit::Psia, "psia", "psia", PSI, Some(false)),
    pressure(Unit::KPa, "kPa", "kPa", 1e3, None),
    pressure(Unit::Bar, "bar", "bar", 1e5, None),
    pressure(Unit::MPa, "MPa", "MPa", 1e6, None),
    pressure(Unit::KgfCm2, "kgf/cm2", "kgf/cm2", 98_066.5, None),
    pressure(Unit::Pa, "Pa", "Pa", 1.0, None),
    pressure(Unit::HPa, "hPa", "hPa", 100.0, None),
    pressure(Unit::Mbar, "mbar", "mbar", 100.0, None),
    pressure(Unit::Micron, "micron", "micron", MICRON, Some(false)),
    pressure(Unit::Torr, "torr", "torr", MMHG, Some(false)),
    pressure(Unit::MmHg, "mmHg", "mmHg", MMHG, None),
    pressure(Unit::InHg, "inHg", "inHg", MMHG * 25.4, None),
    temperature(
        Unit::DegF,
        "degF",
        "°F",
        5.0 / 9.0,
        273.15 - 32.0 * 5.0 / 9.0,
    ),
    temperature(Unit::DegC, "degC", "°C", 1.0, 273.15),
    temperature(Unit::K, "K", "K", 1.0, 0.0),
];

impl Unit {
    /// The row of the table for this unit.
    #[must_use]
    pub fn info(self) -> &'static UnitInfo {
        UNITS.iter().find(|u| u.unit == self).unwrap_or(&UNITS[0])
    }
    /// Whether it can only be an absolute pressure, and so never that of a plate, a hose or a test.
    #[must_use]
    pub fn is_absolute(self) -> bool {
        self.info().gauge == Some(false)
    }
    /// As written in files.
    #[must_use]
    pub fn code(self) -> &'static str {
        self.info().code
    }
    /// By the Unified Code for Units of Measure (UCUM 2.2), as other programs read units; above the air or from
    /// nothing is not told by it.
    #[must_use]
    pub fn ucum(self) -> &'static str {
        match self {
            Self::Psi | Self::Psig | Self::Psia => "[psi]",
            Self::KPa => "kPa",
            Self::Bar => "bar",
            Self::MPa => "MPa",
            Self::KgfCm2 => "kgf/cm2",
            Self::Pa => "Pa",
            Self::HPa => "hPa",
            Self::Mbar => "mbar",
            Self::Micron => "um[Hg]",
            Self::Torr | Self::MmHg => "mm[Hg]",
            Self::InHg => "[in_i'Hg]",
            Self::DegF => "[degF]",
            Self::DegC => "Cel",
            Self::K => "K",
        }
    }
    /// Looks a unit up by its code; letter case matters only where it tells units apart (it does not here).
    #[must_use]
    pub fn from_code(code: &str) -> Option<Self> {
        let code = code.trim();
        UNITS
            .iter()
            .find(|u| u.code.eq_ignore_ascii_case(code))
            .map(|u| u.unit)
    }
    /// A value in this unit as SI (Pa, K).
    #[must_use]
    pub fn to_si(self, value: f64) -> f64 {
        let info = self.info();
        value * info.factor + info.offset
    }
    /// An SI value in this unit.
    #[must_use]
    pub fn of_si(self, si: f64) -> f64 {
        let info = self.info();
        (si - info.offset) / info.factor
    }
    /// A difference (resolution, interval) in this unit as SI.
    #[must_use]
    pub fn delta_to_si(self, value: f64) -> f64 {
        value * self.info().factor
    }
    /// A difference in SI as this unit.
    #[must_use]
    pub fn delta_of_si(self, si: f64) -> f64 {
        si / self.info().factor
    }
    /// Parses a typed number in this unit.
    ///
    /// # Errors
    /// What is wrong with the typed number.
    pub fn parse(self, typed: &str) -> Result<f64, NumberFault> {
        parse_number(typed).map(|v| self.to_si(v))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use approx::assert_relative_eq;

    #[test]
    fn factors_agree_with_nist_sp_811_appendix_b8() {
        // NIST SP 811 (2008), B.8: psi 6.894 757 E+03, mmHg 1.333 224 E+02, inHg (conventional) 3.386 389 E+03,
        // kgf/cm2 9.806 65 E+04, micrometer of mercury 1.333 224 E-01 Pa.
        for (unit, pascal) in [
            (Unit::Psi, 6.894_757e3),
            (Unit::MmHg, 1.333_224e2),
            (Unit::InHg, 3.386_389e3),
            (Unit::KgfCm2, 9.806_65e4),
            (Unit::Micron, 1.333_224e-1),
            (Unit::Torr, 1.333_224e2),
        ] {
            assert_relative_eq!(unit.to_si(1.0), pascal, max_relative = 3e-7);
        }
        assert_relative_eq!(Unit::DegF.to_si(32.0), 273.15, epsilon = 1e-10);
        assert_relative_eq!(Unit::DegF.to_si(212.0), 373.15, epsilon = 1e-10);
        assert_relative_eq!(
            Unit::Micron.of_si(Unit::InHg.to_si(1.0)),
            25_400.0,
            max_relative = 1e-12
        );
    }

    proptest::proptest! {
        #[test]
        fn every_unit_returns_what_went_in(row in 0usize..UNITS.len(), value in -1e4f64..1e4) {
            let unit = UNITS[row].unit;
            approx::assert_relative_eq!(unit.of_si(unit.to_si(value)), value, epsilon = 1e-7, max_relative = 1e-9);
            proptest::prop_assert_eq!(Unit::from_code(unit.code()), Some(unit));
            let json = serde_json::to_string(&unit).unwrap();
            proptest::prop_assert_eq!(json, format!("\"{}\"", unit.code()));
        }
    }
}
