//! What a circuit's tests say together about one decay: facts gathered, sources, repeats and next steps.

use super::figure::Point;
use crate::argue::{
    Action, Argued, Compared, HoldBound, Repeats, RigFact, RiseFacts, Standing, argue, next_steps,
    repeats, rise,
};
use crate::order::Evidence;
use crate::procedure::fire;
use crate::state::{Circuit, Test};
use ruhe_core::judge::Finding;
use ruhe_core::matter::refrigerant::find;
use ruhe_core::quantity::Units;
use ruhe_core::reading::{Behind, EventKind, Kind, RigPart};
use ruhe_core::vacuum::{DecayFinding, DecayOutcome};
use serde::Serialize;

/// One possible source of a rise.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SourceView {
    pub code: String,
    pub title: String,
    pub standing: Standing,
    pub speaks_for: Vec<String>,
    pub against: Vec<String>,
}

/// A real action, with why, how long, and what either result would mean.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ActionView {
    pub code: String,
    pub title: String,
    pub minutes: f64,
    pub why: String,
    pub either: Vec<String>,
}

/// What a hold lets a leak do at most under vacuum, Pa/s.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct WedgeView {
    pub hold: String,
    pub careful_pa_s: f64,
    pub likely_pa_s: f64,
}

/// An earlier decay of the same circuit, its time counted from its isolation.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct OverlayView {
    pub title: String,
    pub points: Vec<Point>,
}

#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ArguedView {
    pub sources: Vec<SourceView>,
    pub wedge: Option<WedgeView>,
    /// What the wedge and its reverse say.
    pub words: Vec<String>,
    /// What repeats said.
    pub repeats: Vec<String>,
    pub overlays: Vec<OverlayView>,
    /// What settles most per minute first.
    pub next: Vec<ActionView>,
    /// It rises too much, or goes on rising: where that comes from is asked, and the first of what is next leads on.
    /// While the rule's time runs it is left alone.
    pub is_asked: bool,
}

impl ArguedView {
    fn of(
        argued: Argued,
        repeats: Option<Repeats>,
        overlays: Vec<OverlayView>,
        next: Vec<Action>,
        is_asked: bool,
    ) -> Self {
        Self {
            is_asked,
            sources: argued
                .sources
                .into_iter()
                .map(|s| SourceView {
                    code: s.code.into(),
                    title: s.title.into(),
                    standing: s.standing,
                    speaks_for: s.speaks_for,
                    against: s.against,
                })
                .collect(),
            wedge: argued.wedge.map(|w| WedgeView {
                hold: w.hold,
                careful_pa_s: w.careful,
                likely_pa_s: w.likely,
            }),
            words: argued.words,
            repeats: repeats.map_or_else(Vec::new, |r| r.words),
            overlays,
            next: next
                .into_iter()
                .map(|a| ActionView {
                    code: a.code.into(),
                    title: a.title,
                    minutes: a.minutes,
                    why: a.why,
                    either: a.either.into(),
                })
                .collect(),
        }
    }
}

/// Decays are compared over their first ten minutes, or as far as the shorter one goes.
const WINDOW: f64 = 600.0;
/// Temperature taken where nobody read one, K.
const ROOM: f64 = 294.25;

/// A decay that was isolated, with that moment (s since the recording's start).
fn isolated(t: &Test) -> Option<(&DecayFinding, f64)> {
    match t.finding() {
        Finding::VacuumDecay(d) => Some((d, d.isolated_at_s?)),
        _ => None,
    }
}

/// The hold as a bound, if it was finished and its loss is known.
fn hold_bound(t: &Test) -> Option<HoldBound> {
    let o = t.outline();
    match t.finding() {
        Finding::PressureHold(h) if t.is_over() => Some(HoldBound {
            title: t.title.clone(),
            at_pa: o.held_pa + o.air_pa,
            lost_pa_s: h.loss?.high,
            followed_s: o.last_s? - h.settled_at_s?,
            litres: o.litres,
        }),
        _ => None,
    }
}

/// Time pumped before a decay, s: by the pull-downs that were followed or as it was stated, whichever is longer.
fn pumped_before(pulls: &[&Test], t: &Test) -> Option<f64> {
    let followed: f64 = pulls
        .iter()
        .filter(|p| p.outline().start_ms < t.outline().start_ms)
        .filter_map(|p| match p.finding() {
            Finding::PullDown(v) => Some(v),
            _ => None,
        })
        .flat_map(|v| &v.pulls)
        .filter(|p| p.lowest.is_some())
        .map(|p| p.to - p.from)
        .sum();
    Some(followed.max(t.plan.evacuated_s.unwrap_or(0.0))).filter(|s| *s > 0.0)
}

/// The tests of one circuit that may be compared with a decay, and what lies between them.
struct Before<'a> {
    of: &'a Test,
    /// Opened no later than the decay itself.
    all: Vec<&'a Test>,
    holds: Vec<HoldBound>,
    decays: Vec<&'a Test>,
    pulls: Vec<&'a Test>,
}

impl<'a> Before<'a> {
    fn gather(c: &'a Circuit, of: &'a Test) -> Self {
        let order = c.order();
        let here = c.sections_of(of);
        // Nothing is compared across a repair, an opening or a core that was moved.
        let since = here
            .iter()
            .filter_map(|x| order.last_change(x, of.outline().start_ms))
            .max()
            .unwrap_or(i64::MIN);
        let all: Vec<&Test> = c
            .tests
            .iter()
            .filter(|t| t.created_ms <= of.created_ms)
            .collect();
        let same = |t: &Test| {
            t.outline().start_ms >= since && c.sections_of(t).iter().any(|x| here.contains(x))
        };
        // A hold that fell since, or after which something was done, bounds nothing.
        let counts = |t: &Test| {
            let from = t.outline().start_ms;
            here.iter()
                .all(|x| order.undone(x, from, Evidence::Hold).is_none())
        };
        let of_kind = |kind: Kind| all.iter().copied().filter(move |t| t.kind == kind);
        Self {
            holds: of_kind(Kind::PressureHold)
                .filter(|t| same(t) && counts(t))
                .filter_map(hold_bound)
                .collect(),
            decays: of_kind(Kind::VacuumDecay)
                .filter(|t| (t.is_over() || t.id == of.id) && same(t))
                .collect(),
            pulls: of_kind(Kind::PullDown).filter(|t| same(t)).collect(),
            of,
            all,
        }
    }

    /// Whether the vacuum was broken with nitrogen between two tests, in the order they were opened: what was entered
    /// afterwards carries times of its own.
    fn broken(&self, from: i64, to: i64) -> bool {
        self.all.iter().any(|t| {
            (from..to).contains(&t.created_ms)
                && t.events
                    .iter()
                    .any(|(_, e)| e.event == EventKind::NitrogenBreak)
        })
    }

    /// The decays over one window: the shortest of the last two has it.
    fn compared(&self) -> Vec<(&'a Test, Compared)> {
        let until = self
            .decays
            .iter()
            .rev()
            .take(2)
            .filter_map(|t| Some(t.outline().last_s? - isolated(t)?.1))
            .fold(WINDOW, f64::min);
        let mut out: Vec<(&Test, Compared)> = Vec::new();
        for &t in &self.decays {
            let Some((d, at)) = isolated(t) else { continue };
            let Some((rate, window)) = rise(&d.trace, at, until, t.outline().digit_pa) else {
                continue;
            };
            let after_break = out
                .last()
                .is_some_and(|(before, _)| self.broken(before.created_ms, t.created_ms));
            let compared = Compared {
                title: t.title.clone(),
                rate,
                window,
                kelvin: t.outline().coldest_k,
                hoses_in: t.plan.hoses_in,
                after_break,
                pumped_s: pumped_before(&self.pulls, t),
            };
            out.push((t, compared));
        }
        out
    }

    fn overlays(&self) -> Vec<OverlayView> {
        self.decays
            .iter()
            .filter(|t| t.id != self.of.id)
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
            .collect()
    }
}

/// The last finished check of the hoses of a rig.
fn rig_fact(rig: &Circuit) -> Option<RigFact> {
    rig.tests.iter().rev().find_map(|t| match t.finding() {
        Finding::RigCheck(v) if t.is_over() && v.part != RigPart::Pump => Some(RigFact {
            title: t.title.clone(),
            outcome: v.outcome,
        }),
        _ => None,
    })
}

/// What stands behind the valve that bounds the section, with its pressure where it is known (Pa absolute).
fn behind(c: &Circuit, of: &Test) -> Option<(Behind, Option<f64>)> {
    let b = of.plan.behind?;
    let kelvin = of.outline().coldest_k.unwrap_or(ROOM);
    let charge = (b == Behind::FactoryCharge)
        .then(|| find(&c.opened.refrigerant).map(|f| f.standing(kelvin)))
        .flatten();
    Some((b, charge))
}

/// The argument about decay `of`, with the circuit of its rig if it used one. `None`: nothing is known of its shape
/// yet.
#[must_use]
pub fn argued_view(
    c: &Circuit,
    of: &Test,
    rig: Option<&Circuit>,
    units: Units,
) -> Option<ArguedView> {
    let (decay, at) = isolated(of)?;
    if decay.explanations.is_empty() {
        return None;
    }
    let before = Before::gather(c, of);
    let compared = before.compared();
    let all: Vec<Compared> = compared.iter().map(|c| c.1.clone()).collect();
    let repeats = repeats(&all, units);
    let o = of.outline();
    let mean_rise = compared.iter().find(|c| c.0.id == of.id);
    let facts = RiseFacts {
        causes: decay
            .explanations
            .iter()
            .map(|e| (e.cause, e.probability))
            .collect(),
        rate: decay.rate_of_leak.map_or((0.0, 0.0, 0.0), |(low, high)| {
            ((low * high).sqrt(), low, high)
        }),
        rise: mean_rise.map_or(0.0, |c| c.1.rate.0),
        holds: before.holds.clone(),
        changed: of.plan.changed.clone(),
        behind: behind(c, of).into_iter().collect(),
        hoses_in: of.plan.hoses_in,
        rig: rig.and_then(rig_fact),
        is_flammable: fire(&c.opened.refrigerant, &c.opened.safety_class).is_some(),
        has_oil: c.job().has_oil(),
        litres: o.litres,
        evacuated_s: of.plan.evacuated_s,
        lasted_s: o.last_s.unwrap_or(0.0) - at,
        comes_apart_s: decay.comes_apart_s,
        near_pump: o.near_pump,
        atmosphere: o.air_pa,
        trend: repeats.as_ref().map(|r| r.trend),
    };
    Some(ArguedView::of(
        argue(&facts, units),
        repeats,
        before.overlays(),
        next_steps(&facts),
        decay.outcome == DecayOutcome::Fails || decay.rising,
    ))
}
