//! The pressure against the plan and the ceiling: while pressing up, and while it is held.

use super::stage::StepKind;
use crate::procedure::{
    BEFORE_GAS, CeilingLevel, PressStep, Pressing, Step, fire, press_steps, pressing, room_to_warm,
    standing, stored_energy,
};
use crate::refusal::Refusal;
use crate::state::{Circuit, Test};
use ruhe_core::hold::digit_takes;
use ruhe_core::judge::{Finding, say};
use ruhe_core::quantity::{Units, significant, span};
use ruhe_core::reading::{Channel, EventKind, Kind, Quantity, Series};
use serde::Serialize;

/// Where one is while pressing up.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PressView {
    pub headline: String,
    pub words: String,
    /// Steps to take, Pa gauge, and how many of them are done.
    pub steps_pa: Vec<f64>,
    pub done: usize,
    /// Above the plan or the ceiling.
    pub is_over: bool,
    /// Above the ceiling by more than a gauge may be wrong.
    pub is_red: bool,
    /// Going on from here takes a reason.
    pub needs_reason: bool,
    /// What to mind, first.
    pub cautions: Vec<String>,
    /// The gauge’s steps are too coarse for the limit in the time planned: what to do instead, before it is shut.
    pub coarse: Option<String>,
    /// To be confirmed once a job before the first gas; until then there are no steps.
    pub confirm: Option<StepKind>,
}

/// A closed test against what its parts may take.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct WatchView {
    pub level: CeilingLevel,
    pub words: String,
}

/// What the gauges say while pressing up.
struct PressedTo {
    steps: Vec<PressStep>,
    /// Pa gauge, each side.
    now: Vec<f64>,
    /// For how long the step has been reached, s.
    for_s: Option<f64>,
    /// Largest digit of the gauges, Pa.
    digit: f64,
}

impl PressedTo {
    fn judged(&self, t: &Test, units: Units) -> Pressing {
        pressing(
            &self.steps,
            t.plan.ceiling_pa,
            &self.now,
            self.for_s,
            false,
            self.digit,
            units,
        )
    }
}

/// Where one is while pressing up, as of `at_s`.
fn press_at(t: &Test, at_s: f64, now_ms: i64) -> Option<PressedTo> {
    let r = t.now.recording.as_deref()?;
    let is_pressing = !t.is_over()
        && r.settings.awaits_isolation
        && r.last_event(EventKind::SupplyIsolated).is_none();
    let target = t.plan.test_pa.filter(|_| is_pressing)?;
    let sides: Vec<(Series, f64)> = r
        .system_gauges()
        .map(|i| {
            (
                r.above_air(i),
                r.channels[i].resolution_si().unwrap_or(689.0),
            )
        })
        .collect();
    let steps = press_steps(target);
    // The last reading by then; a supply shut before the first one was shut at that pressure.
    let shown = |s: &Series| {
        s.between(f64::NEG_INFINITY, at_s)
            .v
            .last()
            .or(s.v.first())
            .copied()
    };
    let now: Vec<f64> = sides.iter().filter_map(|(s, _)| shown(s)).collect();
    let digit = sides.iter().map(|s| s.1).fold(0.0, f64::max);
    // Since when the step that is reached now has been reached.
    let reached = steps
        .iter()
        .rev()
        .find(|s| now.iter().all(|p| *p >= 0.98 * s.to_pa));
    let since = reached.and_then(|step| {
        sides.first().and_then(|(s, _)| {
            s.t.iter()
                .zip(&s.v)
                .find(|(_, v)| **v >= 0.98 * step.to_pa)
                .map(|(t, _)| *t)
        })
    });
    let for_s = since.map(|at| (now_ms - t.outline().start_ms) as f64 / 1e3 - at);
    Some(PressedTo {
        steps,
        now,
        for_s,
        digit,
    })
}

/// Foretold before the supply is shut: a dial whose step is larger than the loss that is asked about.
fn coarse(t: &Test, units: Units) -> Option<String> {
    let gauges = t.channels.iter().map(|c| &c.channel);
    let digit = gauges
        .filter(|c| c.quantity == Quantity::GaugePressure)
        .filter_map(Channel::resolution_si)
        .fold(0.0, f64::max);
    let Finding::PressureHold(v) = t.finding() else {
        return None;
    };
    let limit = v.limit;
    let planned = t.plan.planned_s.unwrap_or(limit.over_s);
    let takes = digit_takes(digit, limit.rate());
    (limit.drop_pa > 0.0 && takes > planned).then(|| {
        format!(
            "This gauge shows steps of {}. In {} it says no more than that less than about {} was lost; for {} \
             in {} it takes about {}. Put on a finer gauge, or plan for that.",
            units.difference(digit),
            span(planned),
            units.difference(digit),
            units.difference(limit.drop_pa),
            span(limit.over_s),
            span(takes)
        )
    })
}

/// Where one is while pressing up; `None`: the supply is shut, or it is no such test.
#[must_use]
pub fn press_view(c: &Circuit, t: &Test, now_ms: i64, units: Units) -> Option<PressView> {
    let pressed = press_at(t, f64::INFINITY, now_ms)?;
    let p = pressed.judged(t, units);
    let steps = pressed.steps;
    let is_ready = c.has_confirmed(Step::GasReady);
    let mut cautions = vec![BEFORE_GAS.words.to_owned()];
    cautions
        .extend(fire(&c.opened.refrigerant, &c.opened.safety_class).map(|c| c.words.to_owned()));
    if let (Some(target), Some(litres)) = (
        steps.last().map(|s| s.to_pa),
        t.plan
            .volume_l
            .or(c.opened.volume_l)
            .or(t.plan.volume_high_l),
    ) {
        let air = t.outline().air_pa;
        let kj = stored_energy(target + air, air, litres * 1e-3) / 1e3;
        cautions.push(format!(
            "{litres:.1} L at {} hold {} kJ: stand clear of caps and ends.",
            units.gauge(target),
            significant(kj, 2)
        ));
    }
    let needs_reason = p.needs_reason();
    Some(PressView {
        needs_reason,
        headline: p.headline,
        words: p.words,
        steps_pa: steps.iter().map(|s| s.to_pa).collect(),
        done: p.step,
        is_over: p.over_plan.is_some() || p.over_ceiling.is_some(),
        is_red: p.standing == CeilingLevel::Red,
        cautions,
        coarse: coarse(t, units),
        confirm: (!is_ready).then(|| Step::GasReady.into()),
    })
}

/// Saying "supply shut" above the plan goes on from there on purpose: that takes a reason.
///
/// # Errors
/// If it stands above the plan at `at_ms`.
pub fn over_plan_needs_reason(t: &Test, at_ms: i64, now_ms: i64) -> Result<(), Refusal> {
    let at_s = (at_ms - t.outline().start_ms) as f64 / 1e3;
    let pressed = press_at(t, at_s, now_ms);
    if pressed.is_some_and(|p| p.judged(t, Units::default()).needs_reason()) {
        return Err(Refusal::wrong(
            "note",
            "it stands above the plan: let it down first, or say why it goes on from here",
        ));
    }
    Ok(())
}

/// A closed test that runs, against what its parts may take: where it stands, and how much warmer it may get.
#[must_use]
pub fn watch_view(t: &Test, units: Units) -> Option<WatchView> {
    let r = t.now.recording.as_deref()?;
    let ceiling = t.plan.ceiling_pa.filter(|_| !t.is_over())?;
    let is_shut = t.kind == Kind::LeakBy || r.last_event(EventKind::SupplyIsolated).is_some();
    let now = t.outline().last_pa.filter(|_| is_shut)?;
    let air = t.outline().air_pa;
    let k = r
        .channels_of(Quantity::Temperature)
        .filter_map(|i| r.series(i).v.last().copied())
        .next()
        .unwrap_or(ROOM);
    let level = standing(now, ceiling);
    let words = match level {
        CeilingLevel::Red => {
            format!(
                "Stands at {}, above the {} that its parts may take: let it down now, slowly, outlet away from people.",
                units.gauge(now),
                units.gauge(ceiling)
            )
        }
        CeilingLevel::Amber => format!(
            "Stands at {}, just above the {} that its parts may take: let it down, and shade it.",
            units.gauge(now),
            units.gauge(ceiling)
        ),
        CeilingLevel::Within => {
            let room = room_to_warm(now, ceiling, k, air)?;
            format!(
                "May get {} warmer before {}, the most its parts may take.",
                units.interval(room),
                units.gauge(ceiling)
            )
        }
    };
    Some(WatchView { level, words })
}

/// Temperature taken where nobody read one, K.
const ROOM: f64 = 294.0;

/// One next step: letting pressure down comes before waiting, reading or pressing on.
#[must_use]
pub fn next_step(
    t: &Test,
    press: Option<&PressView>,
    watch: Option<&WatchView>,
    u: Units,
) -> String {
    match (press, watch) {
        (Some(p), _) if p.is_over => p.words.clone(),
        (Some(p), _) if p.confirm.is_some() => {
            "Read and confirm what stands in the box before the first gas.".into()
        }
        (_, Some(w)) if w.level != CeilingLevel::Within => w.words.clone(),
        // While it is pressed up, the box says what to do, and nothing else does.
        (Some(p), _) => p.words.clone(),
        _ => say(t.finding(), u).next_step,
    }
}
