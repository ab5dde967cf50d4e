//! A circuit as its page shows it.

use super::again::{SameAgain, same_again};
use super::begin::{BeginsView, begins, evacuated_s};
use super::gates::{GateView, allowed, gate_views, state_views};
use super::inside::{InsideView, inside_view};
use super::lead::{LeadView, lead};
use super::procedure::SchoolView;
use super::reply::NamedView;
use super::run::{POINTS, Run, run};
use super::search::{SearchView, search_view};
use super::signed::CarriesView;
use super::stage::{StageView, stage_views};
use super::this_visit::{ThisVisitView, this_visit};
use super::untested::{UntestedView, untested};
use super::visits::{VisitView, doubts, visit_views};
use crate::argue::{rung, rung_of_rise};
use crate::procedure::{BEFORE_TORCH, JobKind, Rating, Stage, default_test_pressure, fire};
use crate::refusal::Refusal;
use crate::signoff::{GateCode, State};
use crate::state::{Circuit, Test};
use crate::survey::{BeginView, SurveyView};
use ruhe_core::judge::Finding;
use ruhe_core::quantity::{GaugePressure, Mass, Units};
use ruhe_core::reading::Kind;
use serde::Serialize;

#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SignatureView {
    pub name: String,
    pub role: String,
    pub statement: String,
    pub state: State,
    pub state_title: String,
    /// By the clock of who keeps the log.
    pub at_ms: i64,
    /// By the device's own, where that was another time.
    pub device_ms: Option<i64>,
    pub carries: CarriesView,
}

/// What one finished hold says about leak size.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RungView {
    pub test_id: String,
    pub title: String,
    /// A leak was shown of this size; else leaks above it are ruled out.
    pub is_leak: bool,
    /// Grams of refrigerant a year, low side to high side at work.
    pub low: f64,
    pub high: f64,
    /// Per cent of the charge a year.
    pub low_percent: Option<f64>,
    pub high_percent: Option<f64>,
}

#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CircuitView {
    pub id: String,
    /// A later version wrote on: which, and that nothing can be added.
    pub newer: Option<String>,
    pub tag: String,
    pub name: String,
    pub kind: JobKind,
    pub kind_title: String,
    pub refrigerant: String,
    /// As it was said, of one that is not known here.
    pub safety_class: String,
    /// It burns, or nobody knows that it does not.
    pub is_flammable: bool,
    pub scope: String,
    pub volume_l: Option<f64>,
    pub site: String,
    pub place: String,
    pub system: String,
    pub model: String,
    pub serial: String,
    pub survey: SurveyView,
    /// What is inside now.
    pub inside: InsideView,
    pub search: SearchView,
    /// Plans that are ready to be opened.
    pub begins: BeginsView,
    /// Length of the last pull of the last evacuation, s: the time under vacuum before a decay.
    pub evacuated_s: Option<f64>,
    pub ladder: Vec<RungView>,
    /// Pressure that nobody has said to be let out, in words.
    pub pressure_left: Option<String>,
    /// The test in whose gas refrigerant or tracer still is.
    pub refrigerant_in: Option<String>,
    /// A leak that showed and was not tested again.
    pub untested: Option<UntestedView>,
    /// The way on from anywhere.
    pub lead: Option<LeadView>,
    /// The last hold, to be repeated.
    pub same_again: Option<SameAgain>,
    /// Of this visit: arrival, charge, ports, start-up, what came after the signature.
    pub this_visit: ThisVisitView,
    /// Earlier visits, the first one first, and what this one is for.
    pub visits: Vec<VisitView>,
    /// What earlier visits left open, in words.
    pub doubts: Vec<String>,
    /// The states this visit may be signed in, each in a sentence.
    pub state_means: Vec<NamedView>,
    /// What comes before a torch.
    pub torch_caution: String,
    pub stages: Vec<StageView>,
    pub gates: Vec<GateView>,
    /// Where gates that are not met are met.
    pub gate_ways: Vec<GateWay>,
    pub allowed_states: Vec<NamedView>,
    pub signature: Option<SignatureView>,
    /// What was struck out, undone or voided.
    pub struck: Vec<StruckView>,
    /// What it is was written down wrong, and what it is since.
    pub corrections: Vec<StruckView>,
    /// Hash of the last entry of its log: what is signed.
    pub head: String,
    /// Place of the last entry, and its hash, which by the chain is that of everything before it.
    pub entries: u64,
    pub hash: String,
    /// A test was judged by an older version of the method than this.
    pub has_older_engine: bool,
    pub run: Run,
}

/// Where a gate is met.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct GateWay {
    pub gate: GateCode,
    pub stage: Stage,
    /// "To the pressure hold".
    pub text: String,
}

/// The ways to what is not met, where the circuit has such a stage.
fn gate_ways(c: &Circuit, gates: &[GateView]) -> Vec<GateWay> {
    let open = gates
        .iter()
        .filter(|g| !g.met && g.overridden.is_none() && !c.is_signed());
    let way = |g: &GateView| {
        // Ports are kept where the job ends: a line set has no start-up.
        let of_gate = [g.code.stage()?, Stage::BreakVacuum];
        let most = if g.code == GateCode::Ports { 2 } else { 1 };
        let stages = c.job().stages();
        let stage = of_gate
            .into_iter()
            .take(most)
            .find(|s| stages.contains(s))?;
        Some(GateWay {
            gate: g.code,
            stage,
            text: stage.way().into(),
        })
    };
    open.filter_map(way).collect()
}

/// Something that was struck out.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct StruckView {
    pub what: String,
    pub reason: String,
    pub at_ms: i64,
}

/// The survey with the pressure each procedure begins with.
fn survey_view(c: &Circuit, schools: &[SchoolView]) -> Result<SurveyView, Refusal> {
    let mut survey = c.doc.clone().view(c.version)?;
    for section in &mut survey.sections {
        let plates: Vec<Rating> = c
            .survey
            .ratings(&section.name)
            .into_iter()
            .map(|(n, p)| Rating::plate(&n, p))
            .collect();
        let begin = |p: &SchoolView| {
            let named = p.pressure_pa.map(GaugePressure::from_pa);
            Some(BeginView {
                procedure: p.code.clone(),
                pa: default_test_pressure(named, p.share_of_plate, &plates)?.pa(),
            })
        };
        section.begin = schools
            .iter()
            .filter(|p| p.kind == Kind::PressureHold)
            .filter_map(begin)
            .collect();
    }
    Ok(survey)
}

/// Everything of one circuit but its readings.
///
/// # Errors
/// If its survey cannot be understood.
pub fn circuit_view(
    c: &Circuit,
    schools: &[SchoolView],
    units: Units,
) -> Result<CircuitView, Refusal> {
    let of_sign_off = c.gates(units);
    let stages = stage_views(c, &of_sign_off, units);
    let gates = gate_views(c, units);
    let survey = survey_view(c, schools)?;
    let o = &c.opened;
    let charge_g = c.whole_charge().map(Mass::g);
    Ok(CircuitView {
        id: c.id.clone(),
        newer: c.chain.newer.as_ref().map(ToString::to_string),
        tag: o.tag.clone(),
        name: o.name.clone(),
        kind: o.job,
        kind_title: o.job.title().into(),
        refrigerant: o.refrigerant.clone(),
        safety_class: o.safety_class.clone(),
        is_flammable: fire(&o.refrigerant, &o.safety_class).is_some(),
        scope: o.scope.clone(),
        volume_l: o.volume_l,
        site: o.site.clone(),
        place: o.place.clone(),
        system: o.system.clone(),
        model: o.model.clone(),
        serial: o.serial.clone(),
        begins: if c.is_signed() {
            BeginsView::default()
        } else {
            begins(c, &survey, schools, units)
        },
        evacuated_s: evacuated_s(c),
        ladder: c
            .tests
            .iter()
            .filter_map(|t| rung_view(t, &o.refrigerant, charge_g))
            .chain(charge_rung(c, charge_g))
            .collect(),
        pressure_left: c.pressure_left().map(|(space, pa)| {
            format!(
                "{space} still showed {}, and nobody has written down that it was let out.",
                units.gauge(pa)
            )
        }),
        refrigerant_in: c.refrigerant_in(),
        untested: untested(c).map(|x| x.view(units)),
        lead: lead(c, &of_sign_off),
        same_again: same_again(c, units).filter(|_| !c.is_signed()),
        inside: inside_view(c, units),
        this_visit: this_visit(c, units),
        visits: visit_views(c, units),
        doubts: doubts(c, units),
        state_means: allowed(c, &gates)
            .iter()
            .map(|s| NamedView {
                code: s.code().into(),
                title: s.means().into(),
            })
            .collect(),
        torch_caution: BEFORE_TORCH.words.into(),
        search: search_view(c, units),
        survey,
        stages,
        allowed_states: state_views(c, &gates),
        gate_ways: gate_ways(c, &gates),
        gates,
        run: run(c, POINTS, true),
        struck: c
            .struck_here()
            .map(|s| StruckView {
                what: s.what.clone(),
                reason: s.reason.clone(),
                at_ms: s.at_ms,
            })
            .chain(c.elsewhere.iter().map(|(t, m)| StruckView {
                what: format!("{}, moved to {}", t.title, m.said.to_name),
                reason: m.said.reason.clone(),
                at_ms: m.said.at_ms,
            }))
            .collect(),
        corrections: c
            .corrections
            .iter()
            .map(|k| StruckView {
                what: k.words.clone(),
                reason: format!("{}, {}", k.reason, k.actor),
                at_ms: k.at_ms,
            })
            .collect(),
        head: c.head(),
        entries: c.chain.seq,
        hash: c.chain.hash.clone(),
        has_older_engine: c.has_older_engine(),
        signature: c.signature.as_ref().map(|g| SignatureView {
            state_title: g.said.state.title().into(),
            name: g.said.name.clone(),
            role: g.said.role.clone(),
            statement: g.said.statement.clone(),
            state: g.said.state,
            at_ms: g.said.at_ms,
            device_ms: g.said.device_ms,
            carries: CarriesView {
                carried: g.said.carries.carried.clone(),
                reservations: g.said.carries.reservations.clone(),
                drawing: g.said.carries.drawing.clone(),
            },
        }),
    })
}

/// A leak that a decay shows with this probability is drawn as one.
const SURE: f64 = 0.95;
/// Volume taken where nobody stated one, L (common practice, no source).
const LITRES: (f64, f64) = (3.0, 8.0);

/// The rung from the charge: what went missing, on the average since it was last full. If it began later it is faster,
/// so this is its least.
fn charge_rung(c: &Circuit, charge_g: Option<f64>) -> Option<RungView> {
    let per_year = c.arrived()?.per_day? * 365.25;
    let r = rung((per_year, per_year), true, charge_g);
    Some(RungView {
        test_id: String::new(),
        title: "From the charge".into(),
        is_leak: true,
        low: r.low,
        high: r.high,
        low_percent: r.percent.map(|p| p.0),
        high_percent: r.percent.map(|p| p.1),
    })
}

/// A finished test's rung on the leak ladder: a hold's, or a decay's.
fn rung_view(t: &Test, refrigerant: &str, charge_g: Option<f64>) -> Option<RungView> {
    t.ended_ms()?;
    let r = match t.finding() {
        Finding::PressureHold(hold) => {
            let p = hold.leaks.as_ref().or(hold.proves.as_ref())?;
            rung(
                (p.low_g_per_year, p.high_g_per_year),
                hold.leaks.is_some(),
                charge_g,
            )
        }
        Finding::VacuumDecay(d) => {
            let is_leak = d.leak_probability? > SURE;
            let rate = if is_leak {
                d.leak_rate?.value
            } else {
                d.hidden_pa_s?
            };
            let s = t.plan.settings(t.kind);
            let litres = s
                .volume_l
                .map(|l| (l, l))
                .or(s.volume_band_l)
                .unwrap_or(LITRES);
            rung_of_rise(rate, is_leak, litres, refrigerant, charge_g)?
        }
        _ => return None,
    };
    Some(RungView {
        test_id: t.id.clone(),
        title: t.title.clone(),
        is_leak: r.is_leak,
        low: r.low,
        high: r.high,
        low_percent: r.percent.map(|p| p.0),
        high_percent: r.percent.map(|p| p.1),
    })
}
