//! How figures are written in a file: with a point or a comma before the decimals, the other sign between thousands.
//! One figure such as 1,250 may be either; what all of them together leave open is asked.

use super::sheet::{Sheet, is_dropout, split_unit};
use crate::named;

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

/// The ways of writing that all figures of these columns allow, `is_possible` said of column and value; and a figure
/// that is another number by either of two.
pub struct Written {
    /// None: they are written in more than one way.
    pub fit: Vec<Figures>,
    /// Where more than one fits: the first figure that tells them apart.
    pub apart: Option<String>,
    /// The first that is not written like those before it: line and text.
    pub unlike: Option<(u64, String)>,
}

pub fn written(
    sheet: &Sheet,
    columns: &[usize],
    is_possible: &dyn Fn(usize, f64) -> bool,
) -> Written {
    let mut fit: Vec<Figures> = Figures::ALL.to_vec();
    let mut likely = fit.clone();
    let (mut apart, mut unlike) = (None, None);
    for row in sheet.rows.iter() {
        for &i in columns {
            let cell = row.cell(i);
            let text = split_unit(cell).0;
            if is_dropout(cell) || !text.contains(['.', ',']) || !is_figure(text) {
                continue;
            }
            let as_written: Vec<(Figures, f64)> = Figures::ALL
                .iter()
                .filter_map(|f| Some((*f, f.parse(text)?)))
                .collect();
            if let [(_, a), (_, b)] = as_written[..]
                && a != b
                && apart.is_none()
            {
                apart = Some(text.to_owned());
            }
            let before = fit.len();
            fit.retain(|f| as_written.iter().any(|w| w.0 == *f));
            if fit.is_empty() && before > 0 {
                unlike = Some((row.line(), text.to_owned()));
            }
            likely.retain(|f| as_written.iter().any(|w| w.0 == *f && is_possible(i, w.1)));
        }
    }
    // What no gauge could show does not make two ways of one.
    let only: Vec<Figures> = fit.iter().copied().filter(|f| likely.contains(f)).collect();
    if only.len() == 1 && fit.len() > 1 {
        fit = only;
    }
    if apart.is_none() && fit.len() > 1 {
        fit = vec![Figures::Point];
    }
    Written { fit, apart, unlike }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_figure_is_what_its_signs_allow() {
        use Figures::{Comma, Point};
        for (text, point, comma) in [
            ("300.5", Some(300.5), None),
            ("300,5", None, Some(300.5)),
            ("1,250", Some(1_250.0), Some(1.25)),
            ("1.250", Some(1.25), Some(1_250.0)),
            ("0,125", None, Some(0.125)),
            ("1,234,567", Some(1_234_567.0), None),
            ("1.234,5", None, Some(1_234.5)),
            ("1 250.5", Some(1_250.5), None),
            ("12,50", None, Some(12.5)),
            ("1e-7", Some(1e-7), Some(1e-7)),
            ("−1.5", Some(-1.5), None),
            (".5", Some(0.5), None),
            ("0x1F", None, None),
            ("", None, None),
            ("1.2.3", None, None),
            ("inf", None, None),
            ("1e999", None, None),
        ] {
            assert_eq!(Point.parse(text), point, "{text} with a point");
            assert_eq!(Comma.parse(text), comma, "{text} with a comma");
        }
    }
}
