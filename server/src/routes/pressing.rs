//! The pressure against the plan and the ceiling: while pressing up, and while it is held.

use super::summary::{Known, known};
use crate::error::ApiError;
use crate::state::{AppState, now_ms};
use crate::wire::{PressView, WatchView};
use ruhe_core::procedure::{
    BEFORE_GAS, PressStep, Pressing, Standing, Step, fire, press_steps, pressing, room_to_warm,
    standing, stored_energy,
};
use ruhe_core::quantity::{Units, significant};
use ruhe_core::reading::{EventKind, Kind, Quantity, Series};
use ruhe_store::rows;

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
    fn judged(&self, t: &Known, units: Units) -> Pressing {
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
fn press_at(t: &Known, at_s: f64) -> Option<PressedTo> {
    let r = t.judged.recording();
    let is_pressing = t.ended_ms.is_none()
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
    let for_s = since.map(|at| (now_ms() - t.judged.start_ms) as f64 / 1e3 - at);
    Some(PressedTo {
        steps,
        now,
        for_s,
        digit,
    })
}

pub fn press_view(s: &AppState, t: &Known, units: Units) -> Result<Option<PressView>, ApiError> {
    let Some(pressed) = press_at(t, f64::INFINITY) else {
        return Ok(None);
    };
    let p = pressed.judged(t, units);
    let steps = pressed.steps;
    let circuit = s.store.circuit(&t.row.circuit_id)?.circuit;
    let is_ready = s
        .store
        .steps(&circuit.id)?
        .iter()
        .any(|r| r.step == Step::GasReady.code());
    let mut cautions = vec![BEFORE_GAS.words.to_owned()];
    cautions.extend(fire(&circuit.refrigerant).map(|c| c.words.to_owned()));
    if let (Some(target), Some(litres)) = (
        steps.last().map(|s| s.to_pa),
        t.plan
            .volume_l
            .or(circuit.volume_l)
            .or(t.plan.volume_high_l),
    ) {
        let air = t.judged.recording().atmosphere().0.pa();
        let kj = stored_energy(target + air, air, litres * 1e-3) / 1e3;
        cautions.push(format!(
            "{litres:.1} L at {} hold {} kJ: stand clear of caps and ends.",
            units.gauge(target),
            significant(kj, 2)
        ));
    }
    let needs_reason = p.needs_reason();
    Ok(Some(PressView {
        needs_reason,
        headline: p.headline,
        words: p.words,
        steps_pa: steps.iter().map(|s| s.to_pa).collect(),
        done: p.step,
        is_over: p.over_plan.is_some() || p.over_ceiling.is_some(),
        is_red: p.standing == Standing::Red,
        cautions,
        confirm: (!is_ready).then(|| Step::GasReady.into()),
    }))
}

/// Saying "supply shut" above the plan goes on from there on purpose: that takes a reason.
pub fn over_plan_needs_reason(s: &AppState, row: &rows::Test, at_ms: i64) -> Result<(), ApiError> {
    let t = known(s, row.clone(), Units::default())?;
    let pressed = press_at(&t, (at_ms - t.judged.start_ms) as f64 / 1e3);
    if pressed.is_some_and(|p| p.judged(&t, Units::default()).needs_reason()) {
        return Err(ApiError::wrong(
            "note",
            "it stands above the plan: let it down first, or say why it goes on from here",
        ));
    }
    Ok(())
}

/// A closed test that runs, against what its parts may take: where it stands, and how much warmer it may get.
pub fn watch_view(t: &Known, units: Units) -> Option<WatchView> {
    let r = t.judged.recording();
    let ceiling = t.plan.ceiling_pa.filter(|_| t.ended_ms.is_none())?;
    let is_shut =
        t.row.kind == Kind::LeakBy.code() || r.last_event(EventKind::SupplyIsolated).is_some();
    let now = t.last_pa().filter(|_| is_shut)?;
    let air = r.atmosphere().0.pa();
    let k = r
        .channels_of(Quantity::Temperature)
        .filter_map(|i| r.series(i).v.last().copied())
        .next()
        .unwrap_or(294.0);
    let level = standing(now, ceiling);
    let words = match level {
        Standing::Red => {
            format!(
                "Stands at {}, above the {} that its parts may take: let it down now, slowly, outlet away from people.",
                units.gauge(now),
                units.gauge(ceiling)
            )
        }
        Standing::Amber => format!(
            "Stands at {}, just above the {} that its parts may take: let it down, and shade it.",
            units.gauge(now),
            units.gauge(ceiling)
        ),
        Standing::Within => {
            let room = room_to_warm(now, ceiling, k, air)?;
            format!(
                "May get {} warmer before {}, the most its parts may take.",
                units.interval(room),
                units.gauge(ceiling)
            )
        }
    };
    let level = match level {
        Standing::Red => "red",
        Standing::Amber => "amber",
        Standing::Within => "within",
    };
    Some(WatchView {
        level: level.into(),
        words,
    })
}

/// One next step: letting pressure down comes before waiting, reading or pressing on.
pub fn next_step(t: &Known, press: Option<&PressView>, watch: Option<&WatchView>) -> String {
    match (press, watch) {
        (Some(p), _) if p.is_over => p.words.clone(),
        (Some(p), _) if p.confirm.is_some() => {
            "Read and confirm what stands in the box before the first gas.".into()
        }
        (_, Some(w)) if w.level != "within" => w.words.clone(),
        _ => t.judged.verdict.next_step.clone(),
    }
}
