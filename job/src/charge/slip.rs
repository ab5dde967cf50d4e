//! Slips with numbers that look right: a quiet line that shows both readings side by side. It changes nothing by
//! itself.

use crate::survey::Typed;
use ruhe_core::quantity::{Mass, MassUnit, parse_number};
use serde::Serialize;

/// Two readings of what was typed, and why the second may be meant.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[allow(missing_docs)]
pub struct Slip {
    pub words: String,
    /// As it was typed, first; then what may be meant.
    pub choices: Vec<Typed>,
}

/// As near as this a reading fits what is expected (common practice, no source).
const FITS: f64 = 0.03;
/// Pounds with decimals against pounds and ounces are as near as this.
const TIGHT: f64 = 0.012;

fn fits(value: f64, expected: f64, within: f64) -> bool {
    expected > 0.0 && (value / expected - 1.0).abs() <= within
}

/// What else a mass can have been meant as, where `expected` (and what speaks for it) is known from elsewhere.
#[must_use]
pub fn slips(t: &Typed, expected: Option<(Mass, &str)>) -> Vec<Slip> {
    let unit = MassUnit::from_code(&t.unit);
    let (Ok(read), Some((expected, speaks))) = (Mass::parse(&t.typed, unit), expected) else {
        return vec![];
    };
    let offer = |typed: String, unit: MassUnit| {
        let other = Typed {
            typed,
            unit: unit.code().into(),
        };
        let meant = Mass::parse(&other.typed, Some(unit)).ok()?;
        Some(Slip {
            words: format!(
                "{} is {}. {speaks} would fit {}.",
                t.typed.trim(),
                read.words(),
                meant.words()
            ),
            choices: vec![t.clone(), other],
        })
    };
    let near = |m: &Slip, within: f64| {
        let c = &m.choices[1];
        Mass::parse(&c.typed, MassUnit::from_code(&c.unit))
            .is_ok_and(|m| fits(m.g(), expected.g(), within))
    };
    if !fits(read.g(), expected.g(), TIGHT)
        && let Some(found) = pounds_read_otherwise(&t.typed, unit)
            .into_iter()
            .filter_map(|(typed, unit)| offer(typed, unit))
            .find(|s| near(s, TIGHT))
    {
        return vec![found];
    }
    if fits(read.g(), expected.g(), FITS) {
        return vec![];
    }
    // The number in another unit, or with its point moved.
    let number: String = t
        .typed
        .chars()
        .filter(|c| c.is_ascii_digit() || *c == '.')
        .collect();
    let Ok(n) = parse_number(&number) else {
        return vec![];
    };
    let mut readings: Vec<(String, MassUnit)> = [
        MassUnit::Gram,
        MassUnit::Kilogram,
        MassUnit::Ounce,
        MassUnit::Pound,
    ]
    .into_iter()
    .map(|u| (number.clone(), u))
    .collect();
    if let Some(u) = unit.filter(|u| *u != MassUnit::PoundOunce) {
        readings.push((format!("{}", n * 10.0), u));
        readings.push((format!("{}", n / 10.0), u));
    }
    readings
        .into_iter()
        .filter_map(|(typed, unit)| offer(typed, unit))
        .find(|s| near(s, FITS))
        .into_iter()
        .collect()
}

/// `5.5 lb` as 5 lb 5 oz, `0.64 lb` as 6.4 oz, `5 lb 5 oz` as 5.5 lb.
fn pounds_read_otherwise(typed: &str, unit: Option<MassUnit>) -> Vec<(String, MassUnit)> {
    let text = typed.trim().to_ascii_lowercase();
    let is_pound = text.contains("lb") || unit == Some(MassUnit::Pound);
    if !is_pound {
        return vec![];
    }
    let (first, rest) = text.split_once("lb").unwrap_or((text.as_str(), ""));
    let (first, rest) = (first.trim(), rest.trim_start_matches('s').trim());
    let ounces = rest.trim_end_matches("oz").trim();
    match (first.split_once('.'), ounces) {
        (Some((whole, part)), "") => {
            let mut out = vec![];
            if part.parse::<f64>().is_ok_and(|p| p < 16.0) {
                out.push((
                    format!(
                        "{} lb {part} oz",
                        if whole.is_empty() { "0" } else { whole }
                    ),
                    MassUnit::PoundOunce,
                ));
            }
            if (whole.is_empty() || whole == "0")
                && let Ok(tenths) = format!("0.{part}").parse::<f64>()
            {
                out.push((format!("{:.1}", tenths * 10.0), MassUnit::Ounce));
            }
            out
        }
        (None, o) if !o.is_empty() => vec![(format!("{first}.{o}"), MassUnit::Pound)],
        _ => vec![],
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn typed(text: &str, unit: &str) -> Typed {
        Typed {
            typed: text.into(),
            unit: unit.into(),
        }
    }
    fn meant(text: &str, unit: &str, expected: &str) -> Option<(String, String)> {
        let e = Mass::parse(expected, None).unwrap();
        let found = slips(&typed(text, unit), Some((e, "The plate")));
        found
            .first()
            .map(|s| (s.choices[1].typed.clone(), s.choices[1].unit.clone()))
    }

    /// Common practice, no source: the slips that cost most.
    #[test]
    fn a_slip_shows_both_readings() {
        let is = |a: &str, b: &str| Some((a.to_owned(), b.to_owned()));
        assert_eq!(meant("5.5", "lb", "5 lb 5 oz"), is("5 lb 5 oz", "lb-oz"));
        assert_eq!(meant("0.64", "lb", "6.4 oz"), is("6.4", "oz"));
        assert_eq!(meant("5 lb 5 oz", "", "5.5 lb"), is("5.5", "lb"));
        assert_eq!(meant("70", "lb", "4 lb 6 oz"), is("70", "oz"));
        assert_eq!(meant("2.9", "lb", "2.9 kg"), is("2.9", "kg"));
        assert_eq!(meant("725", "g", "72.6 g"), is("72.5", "g"));
        assert_eq!(meant("2.9", "kg", "2900 g"), None);
        assert_eq!(
            meant("3.4", "kg", "2900 g"),
            None,
            "another charge, no slip"
        );
        assert_eq!(
            slips(&typed("5.5", "lb"), None),
            vec![],
            "nothing to hold it against"
        );
    }

    proptest::proptest! {
        #[test]
        fn what_fits_is_never_asked_about(grams in 20.0f64..20_000.0) {
            let e = Mass::from_g(grams);
            for unit in ["g", "kg", "oz", "lb"] {
                let u = MassUnit::from_code(unit).unwrap();
                let t = typed(&format!("{:.4}", e.in_unit(u)), unit);
                proptest::prop_assert_eq!(slips(&t, Some((e, "The plate"))), vec![]);
            }
        }
    }
}
