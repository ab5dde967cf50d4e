//! Reads a number as a person typed it, and refuses what is not one with words they can act on.

/// Why a typed string is not a usable number.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum NumberFault {
    /// Nothing was typed.
    #[error("no number given")]
    Empty,
    /// A comma where a point belongs.
    #[error("“{0}” has a comma; write it with a point, without thousands marks")]
    Comma(String),
    /// `NaN`, `inf` and so on.
    #[error("“{0}” is not a finite number")]
    NotFinite(String),
    /// Anything else.
    #[error("“{0}” is not a number")]
    NotANumber(String),
}

/// Reads `typed` as a finite decimal number (optional sign, digits, one point, optional exponent).
///
/// # Errors
/// [`NumberFault`] says what is wrong in words for the person who typed it.
pub fn parse_number(typed: &str) -> Result<f64, NumberFault> {
    let text = typed.trim().replace('\u{2212}', "-");
    let shown = || text.chars().take(40).collect::<String>();
    if text.is_empty() {
        return Err(NumberFault::Empty);
    }
    if text.contains(',') {
        return Err(NumberFault::Comma(shown()));
    }
    match text.parse::<f64>() {
        Ok(value) if value.is_finite() => Ok(value),
        Ok(_) => Err(NumberFault::NotFinite(shown())),
        Err(_) => Err(NumberFault::NotANumber(shown())),
    }
}

/// The step of the last typed digit: `"300.20"` → 0.01, `"300"` → 1. What was typed shows the gauge's resolution.
#[must_use]
pub fn resolution_of(typed: &str) -> f64 {
    let mantissa = typed.trim().split(['e', 'E']).next().unwrap_or("");
    let decimals = mantissa.split_once('.').map_or(0, |(_, d)| d.len());
    10f64.powi(-i32::try_from(decimals).unwrap_or(0))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn says_what_is_wrong_with_what_was_typed() {
        assert_eq!(parse_number(" 300.20 "), Ok(300.2));
        assert_eq!(parse_number("−1.5"), Ok(-1.5));
        assert_eq!(parse_number(""), Err(NumberFault::Empty));
        assert_eq!(parse_number("12,5"), Err(NumberFault::Comma("12,5".into())));
        for text in ["NaN", "inf", "-Infinity", "1e999"] {
            assert!(
                matches!(parse_number(text), Err(NumberFault::NotFinite(_))),
                "{text}"
            );
        }
        for text in ["abc", "1.2.3", "3 0", "0x10", "--1"] {
            assert!(
                matches!(parse_number(text), Err(NumberFault::NotANumber(_))),
                "{text}"
            );
        }
    }

    #[test]
    fn keeps_the_resolution_that_trailing_zeros_carry() {
        assert_eq!(resolution_of("300.20"), 0.01);
        assert_eq!(resolution_of("300"), 1.0);
        assert_eq!(resolution_of("1.5e2"), 0.1);
    }
}
