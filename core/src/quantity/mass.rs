//! Masses of refrigerant as the trade writes them: grams, kilograms, ounces, pounds with decimals, pounds and ounces.
//!
//! Pounds with decimals and pounds with ounces look alike and are not: 5.5 lb is 5 lb 8 oz, not 5 lb 5 oz. So every
//! mass is shown in all forms at once, and each can be typed.

use super::number::{NumberFault, parse_number};
use crate::named;

/// g in an avoirdupois pound (exact; NIST SP 811, 2008, appendix B.8).
const POUND: f64 = 453.592_37;
/// g in an avoirdupois ounce (exact; the same source).
const OUNCE: f64 = POUND / 16.0;

named! {
    /// A unit a mass may be typed in.
    MassUnit {
        /// Grams.
        Gram = "g",
        /// Kilograms.
        Kilogram = "kg",
        /// Ounces.
        Ounce = "oz",
        /// Pounds with decimals.
        Pound = "lb",
        /// Pounds and ounces.
        PoundOunce = "lb-oz",
    }
}

/// A mass, or a difference of two, g.
#[derive(Debug, Clone, Copy, PartialEq, PartialOrd, Default)]
pub struct Mass(f64);

/// Why a typed string is not a mass.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum MassFault {
    /// It is no number.
    #[error(transparent)]
    Number(#[from] NumberFault),
    /// No unit was typed or chosen.
    #[error("“{0}” has no unit: say g, kg, oz, lb, or lb and oz")]
    NoUnit(String),
    /// A unit nobody knows.
    #[error("“{0}” is not a unit of mass here: g, kg, oz, lb, or lb and oz")]
    Unit(String),
    /// Ounces of 16 and more behind pounds.
    #[error(
        "{0} oz behind pounds is a pound or more: write whole pounds and ounces below 16, or ounces alone"
    )]
    Ounces(String),
    /// A decimal of a pound and ounces at once.
    #[error(
        "“{0}” has a part of a pound and ounces too: write whole pounds and ounces, or pounds with decimals"
    )]
    Both(String),
}

impl MassUnit {
    /// g in one; of pounds and ounces, in the pound.
    #[must_use]
    pub fn grams(self) -> f64 {
        match self {
            Self::Gram => 1.0,
            Self::Kilogram => 1e3,
            Self::Ounce => OUNCE,
            Self::Pound | Self::PoundOunce => POUND,
        }
    }
}

/// A number and the word behind it: ("4", "lb"), ("6.5", "").
fn parts(text: &str) -> Vec<(String, String)> {
    let is_digit = |c: char| c.is_ascii_digit() || ".,+-".contains(c);
    let mut out: Vec<(String, String)> = Vec::new();
    for c in text.chars().filter(|c| !c.is_whitespace()) {
        let begins = is_digit(c) && out.last().is_none_or(|(_, word)| !word.is_empty());
        if begins || out.is_empty() {
            out.push((String::new(), String::new()));
        }
        if let Some((number, word)) = out.last_mut() {
            if is_digit(c) {
                number.push(c)
            } else {
                word.push(c.to_ascii_lowercase())
            }
        }
    }
    out
}

fn unit_of(word: &str) -> Option<MassUnit> {
    Some(match word.trim_end_matches('.') {
        "g" | "gram" | "grams" => MassUnit::Gram,
        "kg" | "kilo" | "kilos" => MassUnit::Kilogram,
        "oz" | "ounce" | "ounces" => MassUnit::Ounce,
        "lb" | "lbs" | "pound" | "pounds" | "#" => MassUnit::Pound,
        _ => return None,
    })
}

impl Mass {
    /// From grams.
    #[must_use]
    pub const fn from_g(grams: f64) -> Self {
        Self(grams)
    }
    /// In grams.
    #[must_use]
    pub const fn g(self) -> f64 {
        self.0
    }

    /// Reads a mass as typed: `4 lb 6 oz`, `4lb6`, `4.375 lb`, `70 oz`, `1.98 kg`, `1984 g`; a number alone takes
    /// `unit`. What is typed behind the number goes before `unit`.
    ///
    /// # Errors
    /// What is wrong, in words for the person who typed it.
    pub fn parse(typed: &str, unit: Option<MassUnit>) -> Result<Self, MassFault> {
        let clean = typed.replace('\u{2212}', "-");
        let known = |word: &str| unit_of(word).ok_or_else(|| MassFault::Unit(word.into()));
        let found = parts(&clean);
        let grams = match found.as_slice() {
            [] => return Err(NumberFault::Empty.into()),
            [(n, word)] if word.is_empty() => {
                let unit = unit.ok_or_else(|| MassFault::NoUnit(typed.trim().into()))?;
                // In pounds and ounces a number alone would be either: it must say.
                if unit == MassUnit::PoundOunce {
                    return Err(MassFault::NoUnit(typed.trim().into()));
                }
                parse_number(n)? * unit.grams()
            }
            [(n, word)] => {
                let unit = known(word)?;
                parse_number(n)? * unit.grams()
            }
            [(lb, pound), (oz, ounce)]
                if known(pound)? == MassUnit::Pound
                    && (ounce.is_empty() || known(ounce)? == MassUnit::Ounce) =>
            {
                let (pounds, ounces) = (parse_number(lb)?, parse_number(oz)?);
                if pounds.fract() != 0.0 && ounces != 0.0 {
                    return Err(MassFault::Both(typed.trim().into()));
                }
                if !(0.0..16.0).contains(&ounces) {
                    return Err(MassFault::Ounces(oz.clone()));
                }
                let sign = if lb.starts_with('-') { -1.0 } else { 1.0 };
                pounds * POUND + sign * ounces * OUNCE
            }
            [(n, _), ..] => {
                parse_number(n)?;
                return Err(MassFault::Unit(typed.trim().into()));
            }
        };
        Ok(Self(grams))
    }

    /// In a unit.
    #[must_use]
    pub fn in_unit(self, unit: MassUnit) -> f64 {
        self.0 / unit.grams()
    }

    /// As printed in a unit: g whole, kg with three decimals, oz one, lb two, lb and oz one.
    #[must_use]
    pub fn shown(self, unit: MassUnit) -> String {
        let text = match unit {
            MassUnit::Gram => format!("{:.0} g", self.0),
            MassUnit::Kilogram => format!("{:.3} kg", self.0 / 1e3),
            MassUnit::Ounce => format!("{:.1} oz", self.0 / OUNCE),
            MassUnit::Pound => format!("{:.2} lb", self.0 / POUND),
            MassUnit::PoundOunce => {
                // Rounded as a whole, so that 15.96 oz does not become 0 lb 16.0 oz.
                let tenths = (self.0.abs() / OUNCE * 10.0).round();
                let pounds = (tenths / 160.0).floor();
                let sign = if self.0 < 0.0 && tenths > 0.0 {
                    "-"
                } else {
                    ""
                };
                format!(
                    "{sign}{pounds:.0} lb {:.1} oz",
                    (tenths - 160.0 * pounds) / 10.0
                )
            }
        };
        let is_nothing =
            text.starts_with('-') && !text.contains(|c: char| ('1'..='9').contains(&c));
        text.trim_start_matches(if is_nothing { "-" } else { "" })
            .replace('-', "−")
    }

    /// In every unit, in the order of the list.
    #[must_use]
    pub fn forms(self) -> Vec<String> {
        MassUnit::ALL.iter().map(|u| self.shown(*u)).collect()
    }

    /// As sentences give it: grams and what the trade reads beside them.
    #[must_use]
    pub fn words(self) -> String {
        let beside = if self.0.abs() < POUND {
            MassUnit::Ounce
        } else {
            MassUnit::PoundOunce
        };
        format!("{} ({})", self.shown(MassUnit::Gram), self.shown(beside))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn forms(typed: &str) -> Vec<String> {
        Mass::parse(typed, None).unwrap().forms()
    }

    /// Worked by hand from the exact factors.
    #[test]
    fn every_form_of_a_mass() {
        let exact = |t: &str| (Mass::parse(t, None).unwrap().g() * 10.0).round() / 10.0;
        assert_eq!(exact("6.4 oz"), 181.4);
        assert_eq!(exact("0.64 lb"), 290.3);
        assert_eq!(exact("5 lb 5 oz"), 2_409.7);
        assert_eq!(exact("5.5 lb"), 2_494.8);
        assert_eq!(
            forms("6.4 oz"),
            ["181 g", "0.181 kg", "6.4 oz", "0.40 lb", "0 lb 6.4 oz"]
        );
        assert_eq!(
            forms("5 lb 5 oz")[2..],
            ["85.0 oz", "5.31 lb", "5 lb 5.0 oz"]
        );
        assert_eq!(forms("5.5 lb")[4], "5 lb 8.0 oz");
        assert_eq!(
            Mass::from_g(15.97 * 28.349_523_125).shown(MassUnit::PoundOunce),
            "1 lb 0.0 oz"
        );
        assert_eq!(Mass::from_g(-0.2).shown(MassUnit::Gram), "0 g");
        assert_eq!(Mass::from_g(-181.4).forms()[4], "−0 lb 6.4 oz");
    }

    /// Common practice, no source: slips that are made with a scale and a plate.
    #[test]
    fn what_the_trade_reads_wrongly() {
        let oz = |t: &str| Mass::parse(t, None).unwrap().in_unit(MassUnit::Ounce);
        assert!(
            (Mass::parse("4.8 oz", None)
                .unwrap()
                .in_unit(MassUnit::Pound)
                - 0.30)
                .abs()
                < 1e-12
        );
        assert_eq!(forms("70 oz")[4], "4 lb 6.0 oz");
        assert_eq!(forms("3.86 lb")[4], "3 lb 13.8 oz");
        assert!((oz("11 lb") - oz("7 lb") - oz("4 lb")).abs() < 1e-9);
    }

    #[test]
    fn a_mass_is_typed_in_many_ways() {
        let g = |t: &str| Mass::parse(t, Some(MassUnit::Kilogram)).unwrap().g();
        for (typed, grams) in [
            ("4 lb 6 oz", 1_984.466_618_75),
            ("4lb6", 1_984.466_618_75),
            ("4.375 lb", 1_984.466_618_75),
            ("70 oz", 1_984.466_618_75),
            ("1.98 kg", 1_980.0),
            ("1984 g", 1_984.0),
            ("1.98", 1_980.0),
        ] {
            approx::assert_relative_eq!(g(typed), grams, max_relative = 1e-12);
        }
        let fault = |t: &str, u| Mass::parse(t, u).unwrap_err().to_string();
        assert!(fault("4 lb 16 oz", None).contains("16 oz behind pounds"));
        assert!(fault("4.5 lb 3 oz", None).contains("part of a pound"));
        assert!(fault("3.2", None).contains("no unit"));
        assert!(fault("3.2", Some(MassUnit::PoundOunce)).contains("no unit"));
        assert!(fault("3 stone", None).contains("stone"));
        assert!(fault("1,98 kg", None).contains("comma"));
        assert!(fault("4 kg 6 oz", None).contains("not a unit"));
        assert!(fault("", None).contains("no number") && fault("lb", None).contains("no number"));
    }

    proptest::proptest! {
        /// No order of units changes a sum, and what is shown in pounds and ounces reads back as the same to the tenth.
        #[test]
        fn a_sum_does_not_feel_its_units(grams in 0.0f64..50_000.0, other in 0.0f64..50_000.0) {
            for unit in [MassUnit::Gram, MassUnit::Kilogram, MassUnit::Ounce, MassUnit::Pound] {
                let through = |g: f64| Mass::parse(&format!("{:.12}", g / unit.grams()), Some(unit)).unwrap().g();
                proptest::prop_assert!((through(grams) + through(other) - through(grams + other)).abs() < 1e-6);
            }
            let shown = Mass::from_g(grams).shown(MassUnit::PoundOunce);
            let back = Mass::parse(&shown, None).unwrap().g();
            proptest::prop_assert!((back - grams).abs() <= 0.05 * OUNCE + 1e-9, "{} {}", shown, grams);
        }
    }
}
