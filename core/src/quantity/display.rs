//! Numbers in the units a person chose, with no more digits than they deserve.

use super::{Dimension, Unit};

/// The units sentences are written in.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Units {
    /// For test pressures and their changes.
    pub pressure: Unit,
    /// For temperatures.
    pub temperature: Unit,
    /// For vacuum.
    pub vacuum: Unit,
}

impl Default for Units {
    fn default() -> Self {
        Self {
            pressure: Unit::Psig,
            temperature: Unit::DegF,
            vacuum: Unit::Micron,
        }
    }
}

impl Units {
    /// The units of these codes for pressure, temperature and vacuum; the default where none is given or one does not
    /// fit.
    #[must_use]
    pub fn of_codes(
        pressure: Option<&str>,
        temperature: Option<&str>,
        vacuum: Option<&str>,
    ) -> Self {
        let pick = |code: Option<&str>, dimension: Dimension, or: Unit| {
            code.and_then(Unit::from_code)
                .filter(|u| u.info().dimension == dimension)
                .unwrap_or(or)
        };
        let d = Self::default();
        Self {
            pressure: pick(pressure, Dimension::Pressure, d.pressure),
            temperature: pick(temperature, Dimension::Temperature, d.temperature),
            vacuum: pick(vacuum, Dimension::Pressure, d.vacuum),
        }
    }
}

/// A number rounded to `digits` significant ones, never in exponent form.
#[must_use]
pub fn significant(value: f64, digits: i32) -> String {
    if !value.is_finite() {
        return "—".into();
    }
    if value == 0.0 {
        return "0".into();
    }
    let first = value.abs().log10().floor() as i32;
    // 0.996 to two digits is 1.0, not 1.00.
    let step = 10f64.powi(digits - 1 - first);
    let magnitude = ((value.abs() * step).round() / step).log10().floor() as i32;
    let decimals = (digits - 1 - magnitude).clamp(0, 6);
    let scale = 10f64.powi((digits - 1 - magnitude).min(0));
    let rounded = if scale < 1.0 {
        (value * scale).round() / scale
    } else {
        value
    };
    let text = format!("{rounded:.*}", usize::try_from(decimals).unwrap_or(0));
    // Less than the last decimal that is ever printed.
    if !text.contains(|c| ('1'..='9').contains(&c)) {
        return "0".into();
    }
    grouped(&text.replace('-', "−"))
}

/// Thin groups of three from ten thousand on: 18 791.
fn grouped(text: &str) -> String {
    let (whole, rest) = text
        .split_once('.')
        .map_or((text, None), |(w, r)| (w, Some(r)));
    let digits: Vec<char> = whole.chars().collect();
    let sign = usize::from(digits.first() == Some(&'−'));
    let mut out: String = digits[..sign].iter().collect();
    let body = &digits[sign..];
    for (i, c) in body.iter().enumerate() {
        if i > 0 && body.len() > 4 && (body.len() - i).is_multiple_of(3) {
            out.push('\u{a0}');
        }
        out.push(*c);
    }
    rest.map_or(out.clone(), |r| format!("{out}.{r}"))
}

impl Units {
    fn difference_label(self) -> &'static str {
        match self.pressure {
            Unit::Psig | Unit::Psia | Unit::Psi => "psi",
            other => other.info().label,
        }
    }
    /// A pressure difference, two significant digits: "0.94 psi".
    #[must_use]
    pub fn difference(self, pa: f64) -> String {
        format!(
            "{} {}",
            significant(self.pressure.delta_of_si(pa), 2),
            self.difference_label()
        )
    }
    /// A gauge pressure: "300.2 psig".
    #[must_use]
    pub fn gauge(self, pa: f64) -> String {
        let value = self.pressure.of_si(pa);
        format!(
            "{} {}",
            significant(value, if value.abs() >= 1000.0 { 4 } else { 3 }),
            self.pressure.info().label
        )
    }
    /// A vacuum level: "500 micron".
    #[must_use]
    pub fn level(self, pa: f64) -> String {
        let value = self.vacuum.of_si(pa);
        // Micron gauges show no tenths.
        let digits = if value >= 1000.0 {
            4
        } else if self.vacuum == Unit::Micron && (10.0..99.5).contains(&value) {
            2
        } else {
            3
        };
        format!(
            "{} {}",
            significant(value, digits),
            self.vacuum.info().label
        )
    }
    /// A rise of vacuum, two digits.
    #[must_use]
    pub fn level_change(self, pa: f64) -> String {
        format!(
            "{} {}",
            significant(self.vacuum.delta_of_si(pa), 2),
            self.vacuum.info().label
        )
    }
    /// A temperature difference: "1.4 °F".
    #[must_use]
    pub fn interval(self, k: f64) -> String {
        format!(
            "{} {}",
            significant(self.temperature.delta_of_si(k), 2),
            self.temperature.info().label
        )
    }
    /// A temperature to a tenth: "61.4 °F".
    #[must_use]
    pub fn temperature(self, k: f64) -> String {
        format!(
            "{:.1} {}",
            self.temperature.of_si(k),
            self.temperature.info().label
        )
        .replace('-', "−")
    }
}

/// A span of time in the words of the trade: "35 s", "12 min", "1 h 40 min", "24 h".
#[must_use]
pub fn span(seconds: f64) -> String {
    let s = seconds.abs();
    if s < 90.0 {
        return format!("{s:.0} s");
    }
    let minutes = (s / 60.0).round() as i64;
    match (minutes / 60, minutes % 60) {
        (0, m) => format!("{m} min"),
        (h, 0) => format!("{h} h"),
        (h, m) => format!("{h} h {m} min"),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn digits_are_what_they_deserve() {
        let u = Units::default();
        assert_eq!(u.difference(6_894.757 * 0.9412), "0.94 psi");
        assert_eq!(u.difference(-6_894.757 * 12.4), "−12 psi");
        assert_eq!(u.level(0.133_322_368 * 18_791.0), "18\u{a0}790 micron");
        assert_eq!(significant(1_234.5, 2), "1200");
        assert_eq!(significant(f64::NAN, 2), "—");
        assert_eq!(
            (span(35.0), span(720.0), span(6_000.0), span(86_400.0)),
            (
                "35 s".into(),
                "12 min".into(),
                "1 h 40 min".into(),
                "24 h".into()
            )
        );
    }
}
