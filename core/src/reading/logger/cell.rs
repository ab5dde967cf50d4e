//! One cell of a logger's table: a figure, a unit, what stands where nothing was read, a word on the row.

use crate::named;
use crate::quantity::Unit;

named! {
    /// Which sign stands before the decimals; the other one stands between thousands.
    Figures {
        /// 1,250.5
        Point = "point",
        /// 1.250,5
        Comma = "comma",
    }
}

impl Figures {
    /// The figure, if it is one when written so. Thousands come in groups of three and never after a leading nought.
    #[must_use]
    pub fn parse(self, text: &str) -> Option<f64> {
        let (decimal, group) = match self {
            Self::Point => ('.', ','),
            Self::Comma => (',', '.'),
        };
        let text = text.trim().replace('\u{2212}', "-");
        let (mantissa, exponent) = match text.find(['e', 'E']) {
            Some(i) => (&text[..i], &text[i..]),
            None => (text.as_str(), ""),
        };
        let (sign, bare) = match mantissa.strip_prefix('-') {
            Some(rest) => ("-", rest),
            None => ("", mantissa.strip_prefix('+').unwrap_or(mantissa)),
        };
        let (whole, decimals) = match bare.split_once(decimal) {
            Some((w, d)) => (w, d),
            None => (bare, ""),
        };
        let digits = |s: &str| s.chars().all(|c| c.is_ascii_digit());
        let is_between = |c: char| c == group || " '’\u{a0}\u{2009}\u{202f}".contains(c);
        let groups: Vec<&str> = whole.split(is_between).collect();
        let is_grouped = match groups.as_slice() {
            [one] => digits(one),
            [first, rest @ ..] => {
                (1..=3).contains(&first.len())
                    && !first.starts_with('0')
                    && digits(first)
                    && rest.iter().all(|g| g.len() == 3 && digits(g))
                    && exponent.is_empty()
            }
            [] => false,
        };
        if !is_grouped || !digits(decimals) || (whole.is_empty() && decimals.is_empty()) {
            return None;
        }
        let value: f64 = format!("{sign}{}.{decimals}0{exponent}", groups.concat())
            .parse()
            .ok()?;
        value.is_finite().then_some(value)
    }
}

/// A figure by either way of writing.
pub fn is_figure(text: &str) -> bool {
    Figures::ALL.iter().any(|f| f.parse(text).is_some())
}

/// What loggers write where a sensor gave nothing.
const DROPOUTS: [&str; 16] = [
    "ol", "-ol", "+ol", "overload", "over", "err", "error", "nan", "n/a", "#n/a", "na", "null",
    "none", "open", "fault", "lo",
];

/// Nothing was read here.
pub fn is_dropout(cell: &str) -> bool {
    let lower = cell.to_ascii_lowercase();
    DROPOUTS.contains(&lower.as_str())
        || (!cell.is_empty() && cell.chars().all(|c| "-–—*".contains(c)))
}

/// A unit however loggers write it.
pub fn unit_of(text: &str) -> Option<Unit> {
    let bare = text
        .trim()
        .trim_matches(['(', ')', '[', ']', '°', ' ', '.']);
    let lower = bare.to_lowercase().replace('°', "").replace("deg ", "deg");
    match lower.as_str() {
        "f" | "fahrenheit" => Some(Unit::DegF),
        "c" | "celsius" => Some(Unit::DegC),
        // A thousandth of a torr is a micron.
        "microns" | "µm" | "um" | "μm" | "µmhg" | "umhg" | "mtorr" => Some(Unit::Micron),
        "in.hg" | "inhg" | "in hg" => Unit::from_code("inHg"),
        "mm hg" | "mmhg" => Unit::from_code("mmHg"),
        "psi(g)" | "psi g" => Unit::from_code("psig"),
        "bar(g)" | "barg" | "bar(a)" | "bara" => Unit::from_code("bar"),
        "kpaa" | "kpag" | "kpa(a)" | "kpa(g)" => Unit::from_code("kPa"),
        other => Unit::from_code(bare).or_else(|| Unit::from_code(other)),
    }
}

/// A figure with its unit behind it, if it has one.
pub fn split_unit(cell: &str) -> (&str, Option<&str>) {
    let end = cell
        .char_indices()
        .find(|(i, c)| {
            let is_exponent = (*c == 'e' || *c == 'E')
                && cell[i + 1..].starts_with(|d: char| d.is_ascii_digit() || "+-".contains(d));
            !(c.is_ascii_digit() || "+-−.,' \u{a0}".contains(*c) || is_exponent)
        })
        .map_or(cell.len(), |(i, _)| i);
    let (figure, unit) = cell.split_at(end);
    (figure.trim(), Some(unit.trim()).filter(|u| !u.is_empty()))
}

/// The figure of a cell; nothing, if it is empty or a dropout.
pub fn value(cell: &str, figures: Figures, unit: Unit) -> Result<Option<f64>, String> {
    let cell = cell.trim();
    if cell.is_empty() || is_dropout(cell) {
        return Ok(None);
    }
    let number = |text: &str| {
        figures.parse(text).map(Some).ok_or_else(|| {
            let shown: String = text.chars().take(40).collect();
            format!("“{shown}” is not a number")
        })
    };
    let (figure, behind) = split_unit(cell);
    let Some(behind) = behind else {
        return number(cell);
    };
    match unit_of(behind) {
        Some(u)
            if u == unit || u.code().trim_end_matches('g') == unit.code().trim_end_matches('g') =>
        {
            number(figure)
        }
        Some(u) => Err(format!(
            "“{cell}” is in {}, and the column was said to be in {}",
            u.code(),
            unit.code()
        )),
        None => number(cell),
    }
}

/// The unit that stands behind a figure.
pub fn unit_behind(cell: &str) -> Option<Unit> {
    let (figure, behind) = split_unit(cell.trim());
    behind.filter(|_| !figure.is_empty()).and_then(unit_of)
}

/// Words of a column that says whether a row is to be trusted.
const GOOD: [&str; 6] = ["ok", "good", "valid", "run", "logging", "normal"];

pub const BAD: [&str; 9] = [
    "fault", "bad", "invalid", "alarm", "fail", "failed", "err", "error", "open",
];

/// A word that says whether a row is to be trusted, or nothing.
pub fn is_status(cell: &str) -> bool {
    let lower = cell.to_lowercase();
    lower.is_empty() || GOOD.contains(&lower.as_str()) || BAD.contains(&lower.as_str())
}
