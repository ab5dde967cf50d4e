//! Readings gathered into blocks of time: a day at 1 Hz is judged on some hundred means.

use crate::reading::Series;

/// The first hour and a half of a long hold, s, where the filling still fades.
const EARLY: f64 = 5_400.0;

/// Means over blocks of time: fine while the gas still comes to rest, coarse afterwards. Series, widths, counts.
pub(super) fn blocks(p: &Series, (fine, coarse): (usize, usize)) -> (Series, Vec<f64>, Vec<f64>) {
    let (Some(&first), Some(&last)) = (p.t.first(), p.t.last()) else {
        return (Series::default(), vec![], vec![]);
    };
    let zones = if last - first > 2.0 * EARLY && p.len() > fine + coarse {
        vec![
            (p.between(first, first + EARLY), fine),
            (p.between(first + EARLY + 1e-6, last), coarse),
        ]
    } else {
        vec![(p.clone(), fine + coarse)]
    };
    let (mut out, mut widths, mut counts) = (Series::default(), Vec::new(), Vec::new());
    for (zone, most) in zones {
        let (thin, count) = zone.thinned(most);
        let single = count.iter().all(|&c| c <= 1.0);
        let width = if single || zone.len() < 2 {
            0.0
        } else {
            (zone.t[zone.len() - 1] - zone.t[0]) / most as f64
        };
        widths.extend(std::iter::repeat_n(width, thin.len()));
        counts.extend(count);
        out.t.extend(thin.t);
        out.v.extend(thin.v);
    }
    (out, widths, counts)
}
