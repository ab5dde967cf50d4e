//! A test's trace on paper, from the points that the screen draws.

use crate::sheet::{ACCENT, BLACK, Canvas, LINE, SOFT};
use ruhe_core::quantity::{Units, significant};
use ruhe_core::reading::Kind;
use ruhe_job::tell::TestView;

/// Points of one curve: minutes, value in the chosen unit.
fn curve(t: &TestView, value: impl Fn(&ruhe_job::tell::Point) -> Option<f64>) -> Vec<(f64, f64)> {
    let points = &t.verdict.trace;
    // What a line on paper can show.
    let every = points.len().div_ceil(400).max(1);
    let last = points.len().saturating_sub(1);
    points
        .iter()
        .enumerate()
        .filter(|(i, _)| i % every == 0 || *i == last)
        .filter_map(|(_, p)| Some((p.at_s / 60.0, value(p).filter(|v| v.is_finite())?)))
        .collect()
}

/// Round steps for about so many ticks.
fn ticks(low: f64, high: f64, count: f64) -> Vec<f64> {
    let rough = ((high - low) / count).max(1e-12);
    let power = 10f64.powf(rough.log10().floor());
    let step = [1.0, 2.0, 5.0, 10.0]
        .into_iter()
        .map(|m| m * power)
        .find(|s| *s >= rough)
        .unwrap_or(rough);
    let first = (low / step - 1e-9).ceil();
    (0..40)
        .map(|k| (first + f64::from(k)) * step)
        .take_while(|v| *v <= high + 1e-9 * step)
        .collect()
}

/// What is drawn, as curves in units, the first one thick.
pub struct Drawn {
    curves: Vec<Vec<(f64, f64)>>,
    /// What each curve is, where there is more than one.
    names: &'static [&'static str],
    /// A level not to pass.
    limit: Option<f64>,
    /// The levels lie decades apart: drawn by their logarithms.
    is_log: bool,
    pub unit: String,
}

/// The curves of a test; none: there is nothing to draw.
pub fn drawn(t: &TestView, u: Units) -> Option<Drawn> {
    let out = match t.kind {
        Kind::PressureHold => {
            let by = |pa: f64| u.pressure.delta_of_si(pa);
            Drawn {
                curves: vec![
                    curve(t, |p| p.corrected.map(by)),
                    curve(t, |p| Some(by(p.value))),
                ],
                names: &["at the start’s temperature", "as read"],
                limit: None,
                is_log: false,
                unit: format!(
                    "{} since the settled start",
                    u.pressure.info().label.replace("psig", "psi")
                ),
            }
        }
        Kind::LeakBy => Drawn {
            curves: vec![
                curve(t, |p| Some(u.pressure.delta_of_si(p.value))),
                curve(t, |p| p.corrected.map(|c| u.pressure.delta_of_si(c))),
            ],
            names: &["half A", "half B"],
            limit: None,
            is_log: false,
            unit: u.pressure.info().label.into(),
        },
        Kind::VacuumDecay | Kind::PullDown | Kind::RigCheck => Drawn {
            curves: vec![curve(t, |p| Some(u.vacuum.of_si(p.value)))],
            names: &[],
            limit: t.plan.level_pa.map(|l| u.vacuum.of_si(l)),
            is_log: t.kind != Kind::VacuumDecay,
            unit: u.vacuum.info().label.into(),
        },
    };
    out.curves.iter().any(|c| c.len() > 1).then_some(out)
}

/// Draws curves with their axes.
pub fn draw(c: &mut Canvas<'_>, d: &Drawn) {
    let scaled = |v: f64| if d.is_log { v.max(1e-6).log10() } else { v };
    let all: Vec<(f64, f64)> = d
        .curves
        .iter()
        .flatten()
        .map(|p| (p.0, scaled(p.1)))
        .collect();
    let ends = |f: fn(&(f64, f64)) -> f64| {
        all.iter()
            .map(f)
            .fold((f64::INFINITY, f64::NEG_INFINITY), |(a, b), v| {
                (a.min(v), b.max(v))
            })
    };
    let ((x0, x1), (mut y0, mut y1)) = (ends(|p| p.0), ends(|p| p.1));
    // From the start, unless what is drawn begins long after it.
    let x0 = if x0 < 0.2 * x1 { x0.min(0.0) } else { x0 };
    let limit = d.limit.map(scaled).filter(|l| d.is_log || *l < 6.0 * y1);
    if let Some(l) = limit {
        (y0, y1) = (y0.min(l), y1.max(l));
    }
    let pad = ((y1 - y0) * 0.08).max(1e-3 * y1.abs()).max(1e-3);
    (y0, y1) = (y0 - pad, y1 + pad);
    let (left, bottom) = (c.x + 44.0, c.y + c.h - 14.0);
    let (right, top) = (c.x + c.w, c.y + 12.0);
    let px = |v: f64| left + ((v - x0) / (x1 - x0).max(1e-9)) as f32 * (right - left);
    let py = |v: f64| bottom - ((v - y0) / (y1 - y0).max(1e-12)) as f32 * (bottom - top);
    let levels: Vec<(f64, f64)> = if d.is_log {
        ticks(y0, y1, (y1 - y0).max(1.0))
            .into_iter()
            .map(|v| (v, 10f64.powf(v)))
            .collect()
    } else {
        ticks(y0, y1, 4.0).into_iter().map(|v| (v, v)).collect()
    };
    for (at, v) in levels {
        c.line(vec![(left, py(at)), (right, py(at))], 0.4, LINE);
        c.text(left - 4.0, py(at) + 2.5, &significant(v, 3), true);
    }
    for v in ticks(x0, x1, 8.0) {
        c.line(vec![(px(v), bottom), (px(v), bottom + 3.0)], 0.5, SOFT);
        c.text(
            (px(v) + 6.0).min(right),
            bottom + 11.0,
            &format!("{v:.0}"),
            true,
        );
    }
    c.line(vec![(left, bottom), (right, bottom)], 0.7, SOFT);
    c.text(
        left,
        top - 4.0,
        &format!("{}, against minutes", d.unit),
        false,
    );
    if let Some(l) = limit.filter(|l| (y0..=y1).contains(l)) {
        let mut x = left;
        while x < right {
            c.line(vec![(x, py(l)), ((x + 5.0).min(right), py(l))], 0.9, BLACK);
            x += 9.0;
        }
        c.text(right, py(l) - 3.0, "limit", true);
    }
    let pen = |i: usize| if i == 0 { (1.6, ACCENT) } else { (0.6, SOFT) };
    let mut end = right;
    for (i, name) in d.names.iter().enumerate().rev() {
        let (width, ink) = pen(i);
        let begins = c.text(end, top - 4.0, name, true);
        c.line(
            vec![(begins - 22.0, top - 6.5), (begins - 5.0, top - 6.5)],
            width,
            ink,
        );
        end = begins - 34.0;
    }
    for (i, points) in d.curves.iter().enumerate().rev() {
        let (width, ink) = pen(i);
        c.line(
            points
                .iter()
                .map(|(x, y)| (px(*x), py(scaled(*y))))
                .collect(),
            width,
            ink,
        );
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn ticks_are_round_and_inside() {
        assert_eq!(ticks(0.0, 10.0, 5.0), [0.0, 2.0, 4.0, 6.0, 8.0, 10.0]);
        assert_eq!(ticks(-0.3, 0.1, 4.0).len(), 5);
        assert!(ticks(5.0, 5.0, 4.0).len() <= 2);
    }
}
