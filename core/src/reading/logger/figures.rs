//! How figures are written in a file: with a point or a comma before the decimals, the other sign between thousands.
//! One figure such as 1,250 may be either; what all of them together leave open is asked.

use super::cell::{Figures, is_dropout, is_figure, split_unit};
use super::sheet::Sheet;

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
