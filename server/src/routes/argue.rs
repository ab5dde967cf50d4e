//! What a circuit's tests say together about one decay: facts gathered, core argues.

use super::dossier::Dossier;
use super::summary::{Known, all_of};
use crate::error::ApiError;
use crate::state::AppState;
use crate::wire::{ArguedView, OverlayView, Point};
use ruhe_core::argue::{Facts, HoldFact, RigFact, Rise, argue, next_steps, repeats, rise};
use ruhe_core::matter::refrigerant::{find, treat_as_flammable};
use ruhe_core::order::Evidence;
use ruhe_core::procedure::JobKind;
use ruhe_core::quantity::{MICRON, Units};
use ruhe_core::reading::{EventKind, Kind, Position, Quantity};
use ruhe_core::survey::Behind;
use ruhe_core::vacuum::{DecayVerdict, RigOutcome, coldest, system_litres};

/// Decays are compared over their first ten minutes, or as far as the shorter one goes.
const WINDOW: f64 = 600.0;

fn isolated(t: &Known) -> Option<(&DecayVerdict, f64)> {
    let d = t.judged.decay.as_ref()?;
    Some((d, d.isolated_at_s?))
}

/// The hold as a bound, if it was finished and its loss is known.
fn hold_fact(t: &Known) -> Option<HoldFact> {
    let h = t.verdict().hold.as_ref().filter(|_| t.ended_ms.is_some())?;
    let loss = h.loss.as_ref()?;
    let r = t.judged.recording();
    let (air, _) = r.atmosphere();
    let from = h.settled_at_s?;
    Some(HoldFact {
        title: t.title.clone(),
        at_pa: t.held_pa() + air.pa(),
        // The detail carries psi an hour.
        lost_pa_s: ruhe_core::quantity::Unit::Psi.delta_to_si(loss.high) / 3_600.0,
        followed_s: r.readings.last()?.at_s - from,
        litres: system_litres(r),
    })
}

/// Time pumped before a decay, s: by the pull-downs that were followed or as it was stated, whichever is longer.
fn pumped_before(pulls: &[&Known], t: &Known) -> Option<f64> {
    let of = |p: &&&Known| {
        Some(
            p.verdict()
                .pull
                .as_ref()?
                .pulls
                .iter()
                .map(|x| x.to_s - x.from_s)
                .sum::<f64>(),
        )
    };
    let followed: f64 = pulls
        .iter()
        .filter(|p| p.judged.start_ms < t.judged.start_ms)
        .filter_map(|p| of(&p))
        .sum();
    Some(followed.max(t.plan.evacuated_s.unwrap_or(0.0))).filter(|s| *s > 0.0)
}

fn rises<'a>(
    decays: &[&'a Known],
    until: f64,
    broken: impl Fn(i64, i64) -> bool,
    pumped: impl Fn(&Known) -> Option<f64>,
) -> Vec<(&'a Known, Rise)> {
    let mut out: Vec<(&Known, Rise)> = Vec::new();
    for t in decays {
        let Some((d, at)) = isolated(t) else { continue };
        let r = t.judged.recording();
        let digit = r
            .channels
            .iter()
            .find(|c| c.quantity == Quantity::AbsolutePressure)
            .and_then(|c| c.resolution_si())
            .unwrap_or(MICRON);
        let Some((rate, window)) = rise(&d.trace, at, until, digit) else {
            continue;
        };
        let kelvin = coldest(r);
        let after_break = out
            .last()
            .is_some_and(|(before, _)| broken(before.row.created_ms, t.row.created_ms));
        out.push((
            t,
            Rise {
                title: t.title.clone(),
                rate,
                window,
                kelvin,
                hoses_in: t.plan.hoses_in,
                after_break,
                pumped_s: pumped(t),
            },
        ));
    }
    out
}

/// The argument about decay `of`. `None`: nothing is known of its shape yet.
pub fn argued_view(s: &AppState, of: &Known, units: Units) -> Result<Option<ArguedView>, ApiError> {
    let Some((decay, at)) = isolated(of) else {
        return Ok(None);
    };
    let Some(found) = &decay.found else {
        return Ok(None);
    };
    let d = Dossier::read(s, &of.row.circuit_id, units)?;
    let circuit = &d.place.circuit;
    let order = d.order();
    let here = d.sections_of(of);
    // Nothing is compared across a repair, an opening or a core that was moved.
    let since = here
        .iter()
        .filter_map(|x| order.last_change(x, of.judged.start_ms))
        .max()
        .unwrap_or(i64::MIN);
    let before: Vec<&Known> = d
        .tests
        .iter()
        .filter(|t| t.row.created_ms <= of.row.created_ms)
        .collect();
    let same =
        |t: &Known| t.judged.start_ms >= since && d.sections_of(t).iter().any(|x| here.contains(x));
    // A hold that fell since, or after which something was done, bounds nothing.
    let counts = |t: &Known| {
        here.iter()
            .all(|x| order.undone(x, t.judged.start_ms, Evidence::Hold).is_none())
    };
    let holds: Vec<HoldFact> = before
        .iter()
        .filter(|t| t.row.kind == Kind::PressureHold.code() && same(t) && counts(t))
        .filter_map(|t| hold_fact(t))
        .collect();
    let decays: Vec<&Known> = before
        .iter()
        .copied()
        .filter(|t| {
            t.row.kind == Kind::VacuumDecay.code()
                && (t.ended_ms.is_some() || t.row.id == of.row.id)
                && same(t)
        })
        .collect();
    let pulls: Vec<&Known> = before
        .iter()
        .copied()
        .filter(|t| t.row.kind == Kind::PullDown.code() && same(t))
        .collect();
    let pumped = |t: &Known| pumped_before(&pulls, t);
    // In the order tests were opened: what was entered afterwards carries times of its own.
    let broken = |from: i64, to: i64| {
        before.iter().any(|t| {
            (from..to).contains(&t.row.created_ms)
                && t.judged
                    .recording()
                    .events
                    .iter()
                    .any(|e| e.kind == EventKind::NitrogenBreak)
        })
    };
    let r = of.judged.recording();
    let lasted = r.readings.last().map_or(0.0, |x| x.at_s) - at;
    // All over the window the shortest of the last two has.
    let until = decays
        .iter()
        .rev()
        .take(2)
        .filter_map(|t| Some(t.judged.recording().readings.last()?.at_s - isolated(t)?.1))
        .fold(WINDOW, f64::min);
    let compared = rises(&decays, until, broken, pumped);
    let all: Vec<Rise> = compared.iter().map(|c| c.1.clone()).collect();
    let repeats = repeats(&all, units);
    let air = r.atmosphere().0.pa();
    let kelvin = coldest(r).unwrap_or(294.25);
    let behind = of
        .plan
        .behind
        .as_deref()
        .and_then(Behind::from_code)
        .map(|b| {
            (
                b,
                (b == Behind::FactoryCharge)
                    .then(|| find(&circuit.refrigerant).map(|f| f.standing(kelvin)))
                    .flatten(),
            )
        });
    let rig = of.plan.rig.as_ref().and_then(|r| r.rig_id.as_ref());
    let rig = match rig {
        None => None,
        Some(id) => all_of(s, id, units)?
            .iter()
            .rev()
            .find(|t| t.ended_ms.is_some() && t.plan.part.as_deref() != Some("pump"))
            .map(|t| RigFact {
                title: t.title.clone(),
                outcome: match t.verdict().outcome.as_str() {
                    "good" => RigOutcome::Good,
                    "gives_gas" => RigOutcome::GivesGas,
                    "leaks" => RigOutcome::Leaks,
                    "rises" => RigOutcome::Rises,
                    _ => RigOutcome::Undecided,
                },
            }),
    };
    let rate = decay
        .leak_rate
        .map_or((0.0, 0.0, 0.0), |l| (l.value, l.low, l.high));
    let mean_rise = compared
        .iter()
        .find(|c| c.0.row.id == of.row.id)
        .map_or(0.0, |c| c.1.rate.0);
    let facts = Facts {
        causes: found
            .list
            .iter()
            .map(|e| (e.cause, e.probability))
            .collect(),
        rate,
        rise: mean_rise,
        holds,
        changed: of.plan.changed.clone(),
        behind: behind.into_iter().collect(),
        hoses_in: of.plan.hoses_in,
        rig,
        is_flammable: treat_as_flammable(&circuit.refrigerant),
        has_oil: JobKind::from_code(&circuit.kind).is_some_and(JobKind::has_oil),
        litres: system_litres(r),
        evacuated_s: r.settings.evacuated_s,
        lasted_s: lasted,
        comes_apart_s: decay.comes_apart_s,
        near_pump: r.channels.iter().any(|c| {
            c.quantity == Quantity::AbsolutePressure && c.position == Some(Position::NearPump)
        }),
        atmosphere: air,
        trend: repeats.as_ref().map(|r| r.trend),
    };
    let overlays = decays
        .iter()
        .filter(|t| t.row.id != of.row.id)
        .filter_map(|t| {
            let (d, zero) = isolated(t)?;
            let points = d
                .trace
                .iter()
                .filter(|p| p.at_s >= zero)
                .map(|p| Point::plain(p.at_s - zero, p.level))
                .collect();
            Some(OverlayView {
                title: t.title.clone(),
                points,
            })
        })
        .collect();
    Ok(Some(ArguedView::of(
        argue(&facts, units),
        repeats,
        overlays,
        next_steps(&facts),
    )))
}
