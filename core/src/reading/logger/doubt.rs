//! A look at what was taken: readings that follow all rules and still look like another file than was meant.

use crate::reading::{Channel, Kind, Quantity, Reading};

/// A level that rises or falls by so much between two readings was rather written otherwise.
const LEAP: (f64, f64) = (400.0, 2_500.0);
/// Between readings of a hold and of a decay lie no more than so many seconds, as a rule (common practice).
const APART: (f64, f64) = (4.0 * 3_600.0, 900.0);
/// A test lasts at least this and at most that, s.
const LASTS: (f64, f64) = (30.0, 10.0 * 86_400.0);

fn span(s: f64) -> String {
    match s {
        s if s < 120.0 => format!("{s:.0} s"),
        s if s < 2.0 * 3_600.0 => format!("{:.0} min", s / 60.0),
        s if s < 3.0 * 86_400.0 => format!("{:.1} h", s / 3_600.0),
        s => format!("{:.0} days", s / 86_400.0),
    }
}

/// What to ask once more before a file is taken, in sentences.
#[must_use]
pub fn doubts(readings: &[Reading], channels: &[Channel], kind: Kind) -> Vec<String> {
    let mut out = Vec::new();
    for (k, channel) in channels.iter().enumerate() {
        let of: Vec<&Reading> = readings.iter().filter(|r| r.channel == k).collect();
        let leaps = |a: f64, b: f64| {
            let ratio = if a.abs() > b.abs() { a / b } else { b / a };
            (LEAP.0..LEAP.1).contains(&ratio)
        };
        let is_pressure = channel.quantity != Quantity::Temperature;
        let leap = of
            .windows(2)
            .find(|w| is_pressure && leaps(w[0].value, w[1].value));
        if let Some(w) = leap {
            out.push(format!(
                "{} goes from {} to {} in one step, {} after the start.",
                channel.name,
                w[0].value,
                w[1].value,
                span(w[1].at_s)
            ));
        }
        let mut steps: Vec<f64> = of.windows(2).map(|w| w[1].at_s - w[0].at_s).collect();
        steps.sort_by(f64::total_cmp);
        let usual = steps.get(steps.len() / 2).copied().unwrap_or(0.0);
        let most = match kind {
            Kind::PressureHold | Kind::LeakBy => APART.0,
            _ => APART.1,
        };
        if usual > most {
            out.push(format!(
                "{} was read every {}: is the unit of its times right?",
                channel.name,
                span(usual)
            ));
        }
    }
    let lasts = readings.iter().map(|r| r.at_s).fold(0.0, f64::max);
    if readings.len() > 2 && !(LASTS.0..LASTS.1).contains(&lasts) {
        out.push(format!("The whole file lasts {}.", span(lasts)));
    }
    out
}
