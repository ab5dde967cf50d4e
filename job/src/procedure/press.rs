//! Pressing up: the steps, what each waits for, and what the gauges say about where one is.

use super::plan::{CeilingLevel, standing};
use ruhe_core::quantity::{Units, span};

/// One step of pressing up.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct PressStep {
    /// Up to, Pa gauge.
    pub to_pa: f64,
    /// Stay for, s.
    pub dwell_s: f64,
}

/// A pound per square inch, Pa.
const PSI: f64 = 6_894.757_293_168_361;
/// Low step, psig, and how long one looks and listens there, s. Common practice, no source.
const LOW: (f64, f64) = (100.0, 180.0);
/// More than this left on a system, Pa gauge, is still pressure and not the slight one that keeps air out. Common
/// practice, no source.
pub const SLIGHT: f64 = 10.0 * PSI;
/// Sides further apart than this share of the pressure are still evening out. Common practice, no source.
const APART: f64 = 0.01;

/// Low look-and-listen first, then the target.
#[must_use]
pub fn press_steps(target_pa: f64) -> Vec<PressStep> {
    let low = (LOW.0 * PSI).min(0.5 * target_pa);
    vec![
        PressStep {
            to_pa: low,
            dwell_s: LOW.1,
        },
        PressStep {
            to_pa: target_pa,
            dwell_s: 0.0,
        },
    ]
}

/// What the technician needs to know while pressing up.
#[derive(Debug, Clone, PartialEq)]
pub struct Pressing {
    /// Step one is at, from 0; the number of steps when all are done.
    pub step: usize,
    /// A few words.
    pub headline: String,
    /// What to do, and when to stop.
    pub words: String,
    /// Above the plan by so much, Pa.
    pub over_plan: Option<f64>,
    /// Above the ceiling by so much, Pa.
    pub over_ceiling: Option<f64>,
    /// Where the higher side stands against the ceiling.
    pub standing: CeilingLevel,
    /// The supply was said to be shut.
    pub is_isolated: bool,
}

impl Pressing {
    /// Going on from here is a decision: well above the plan, or above the ceiling by more than a gauge may be wrong.
    #[must_use]
    pub fn needs_reason(&self) -> bool {
        self.over_plan.is_some() || self.standing == CeilingLevel::Red
    }
}

/// Where one is, from the pressures now (Pa gauge; one or both sides), the time since the step was reached, and
/// whether the supply was shut.
#[must_use]
pub fn pressing(
    steps: &[PressStep],
    ceiling_pa: Option<f64>,
    now: &[f64],
    reached_for_s: Option<f64>,
    is_isolated: bool,
    digit: f64,
    u: Units,
) -> Pressing {
    let high = now.iter().copied().fold(0.0, f64::max);
    let low = now.iter().copied().reduce(f64::min).unwrap_or(0.0);
    let target = steps.last().map_or(0.0, |s| s.to_pa);
    // A step is reached when the lower side is within two per cent of it or two digits.
    let near = |s: &PressStep| low >= s.to_pa - (0.02 * s.to_pa).max(2.0 * digit);
    let reached = steps.iter().filter(|s| near(s)).count();
    let waiting = reached
        .checked_sub(1)
        .filter(|&i| reached < steps.len() && reached_for_s.is_none_or(|s| s < steps[i].dwell_s));
    let step = if is_isolated {
        steps.len()
    } else {
        waiting.unwrap_or(reached)
    };
    let over_plan =
        Some(high - target).filter(|d| !now.is_empty() && *d > (0.02 * target).max(2.0 * digit));
    let over_ceiling = ceiling_pa
        .map(|c| high - c)
        .filter(|d| !now.is_empty() && *d > 0.0);
    let standing = ceiling_pa
        .filter(|_| !now.is_empty())
        .map_or(CeilingLevel::Within, |c| standing(high, c));
    let apart = if now.len() > 1 && high - low > (APART * high).max(2.0 * digit) {
        format!(
            " The sides are {} apart: wait for them to even out across the metering device.",
            u.difference(high - low)
        )
    } else {
        String::new()
    };
    let (headline, words) = if let Some(d) =
        over_ceiling.filter(|_| standing == CeilingLevel::Amber)
    {
        (
            format!("{} above the ceiling", u.difference(d)),
            format!(
                "Within what a gauge may be wrong, but no higher: shut the regulator and let it down below {}.{apart}",
                u.gauge(high - d)
            ),
        )
    } else if let Some(d) = over_ceiling {
        (
            format!("{} above the ceiling", u.difference(d)),
            "Shut the regulator and let pressure down now, slowly, outlet away from people. The part that binds \
             may have been strained: read the maker's word on it before going on.".into(),
        )
    } else if let Some(d) = over_plan {
        (
            format!("{} above the plan", u.difference(d)),
            format!(
                "Overshot. Shut the regulator and let it down to {}; going on from here takes a reason.{apart}",
                u.gauge(target)
            ),
        )
    } else if is_isolated {
        (
            "Supply shut".into(),
            format!("The hold counts from here.{apart}"),
        )
    } else if let Some(i) = waiting {
        let left = steps[i].dwell_s - reached_for_s.unwrap_or(0.0);
        (
            format!("At {}: look and listen", u.gauge(steps[i].to_pa)),
            format!(
                "Regulator shut. Listen along the joints, look for the hiss and the drop; about {} more. Stop \
                 and mend if anything is heard.{apart}",
                span(left.max(1.0))
            ),
        )
    } else if reached < steps.len() {
        let next = steps[reached];
        (
            format!("Up to {}", u.gauge(next.to_pa)),
            format!(
                "Set the regulator’s outlet to {0} first, then open slowly, both sides together, standing \
                 clear. Stop at {0}{1}.{apart}",
                u.gauge(next.to_pa),
                ceiling_pa.map_or_else(String::new, |c| format!("; never above {}", u.gauge(c)))
            ),
        )
    } else {
        (
            format!("At {}", u.gauge(target)),
            format!(
                "Shut the nitrogen off at the manifold and take the regulator's pressure off, then say so: the \
                 hold counts from there.{apart}"
            ),
        )
    };
    Pressing {
        step,
        headline,
        words,
        over_plan,
        over_ceiling,
        standing,
        is_isolated,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn at(now: &[f64], since: Option<f64>, isolated: bool) -> Pressing {
        let pa: Vec<f64> = now.iter().map(|p| p * PSI).collect();
        pressing(
            &press_steps(300.0 * PSI),
            Some(330.0 * PSI),
            &pa,
            since,
            isolated,
            0.1 * PSI,
            Units::default(),
        )
    }

    #[test]
    fn the_steps_lead_to_the_target() {
        assert!(at(&[], None, false).headline.contains("Up to 100 psig"));
        assert!(
            at(&[40.0], None, false)
                .words
                .contains("never above 330 psig")
        );
        let low = at(&[100.0], Some(30.0), false);
        assert!(
            low.headline.contains("look and listen") && low.words.contains("about 3 min more"),
            "{low:?}"
        );
        assert!(
            at(&[99.8], Some(200.0), false)
                .headline
                .contains("Up to 300 psig")
        );
        let there = at(&[300.1], Some(5.0), false);
        assert!(there.words.contains("Shut the nitrogen off") && there.step == 2);
        assert!(at(&[300.1], None, true).headline.contains("Supply shut"));
    }

    #[test]
    fn overshoot_and_the_ceiling_are_noticed_and_unequal_sides_waited_for() {
        assert_eq!(at(&[301.0], None, false).over_plan, None);
        assert!(
            at(&[318.0], None, false)
                .headline
                .contains("18 psi above the plan")
        );
        let amber = at(&[335.0, 290.0], None, false);
        assert!(
            amber.headline.contains("5.0 psi above the ceiling")
                && amber.standing == CeilingLevel::Amber
                && amber.words.contains("no higher"),
            "{amber:?}"
        );
        let red = at(&[345.0, 290.0], None, false);
        assert!(
            red.headline.contains("15 psi above the ceiling")
                && red.standing == CeilingLevel::Red
                && red.words.contains("let pressure down now"),
            "{red:?}"
        );
        assert!(
            at(&[300.0, 280.0], None, false)
                .words
                .contains("even out across the metering device")
        );
    }
}
