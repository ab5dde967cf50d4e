//! Planning a test.

use super::kit::with_kit;
use crate::log::{Deed, Planned, PlannedChannel};
use crate::plan::{
    ChannelInput, OwnProcedure, Plan, PlanInput, check_plan, procedure_used, with_survey,
};
use crate::procedure::{Step, pulls};
use crate::refusal::{Refusal, clipped};
use crate::state::{Circuit, KitState};
use ruhe_core::quantity::Units;
use ruhe_core::reading::{Channel, Kind};
use serde::{Deserialize, Serialize};

/// A test that is planned.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct TestInput {
    /// Kind of test.
    pub kind: Kind,
    /// What is planned.
    pub plan: PlanInput,
    /// Gauges and probes.
    pub channels: Vec<ChannelInput>,
}

/// What must be done before a test of this kind may be opened: what is inside decides.
fn check_order(c: &Circuit, kind: Kind, plan: &Plan, now: i64, u: Units) -> Result<(), Refusal> {
    if !c.job().is_system() || kind == Kind::RigCheck {
        return Ok(());
    }
    let names: Vec<String> = plan.section.iter().cloned().collect();
    let has_tracer = plan.tracer_pa.is_some()
        || plan.gas == Some(ruhe_core::reading::Gas::NitrogenWithRefrigerant);
    let inside = c.inside_by(now);
    match kind {
        Kind::PressureHold | Kind::LeakBy => inside.may_press(&names, has_tracer, now, u),
        Kind::PullDown => inside.may_pull(&names, now, u),
        _ => inside.may_decay(&names, u),
    }
    .map_err(Refusal::Conflict)?;
    let is_vacuum = matches!(kind, Kind::PullDown | Kind::VacuumDecay);
    if is_vacuum && c.job().has_oil() && !c.has_confirmed(Step::LockedOut) {
        return Err(Refusal::Conflict(
            "a compressor comes under vacuum: lock its power out and confirm that first".into(),
        ));
    }
    Ok(())
}

/// The plan with everything that the verdict takes from the circuit, its survey and the kit.
pub(super) fn complete(
    c: &Circuit,
    kind: Kind,
    channels: &[Channel],
    plan: Plan,
    kit: &KitState,
    rig: Option<&Circuit>,
) -> Result<Plan, Refusal> {
    let surveyed = with_survey(&c.survey, c.opened.volume_l, kind, channels, plan);
    let plan = with_kit(c, surveyed, kit, rig)?;
    Ok(Plan {
        volume_l: plan.volume_l.or(c.opened.volume_l),
        refrigerant: Some(c.opened.refrigerant.clone()),
        ..plan
    })
}

/// Channels with ids that follow from the test's own.
pub(super) fn numbered(test: &str, channels: Vec<Channel>) -> Vec<PlannedChannel> {
    channels
        .into_iter()
        .enumerate()
        .map(|(i, channel)| PlannedChannel {
            id: format!("{test}.c{i}"),
            channel,
        })
        .collect()
}

/// What a plan may name: things of the kit, procedures.
#[derive(Debug, Clone, Copy)]
pub struct Stock<'a> {
    /// The kit.
    pub kit: &'a KitState,
    /// The circuit of the rig that the plan names.
    pub rig: Option<&'a Circuit>,
    /// Procedures of the house.
    pub procedures: &'a [OwnProcedure],
}

/// Plans a test; above a plate or the gauge's range it is refused with the reason.
///
/// # Errors
/// What the plan may not ask for; what must be done first.
pub fn plan_test(
    c: &Circuit,
    b: TestInput,
    stock: Stock<'_>,
    id: &str,
    now: i64,
    units: Units,
) -> Result<Vec<Deed>, Refusal> {
    c.must_be_open()?;
    let said = b.plan.of_kind(b.kind)?;
    said.check()?;
    let channels = b
        .channels
        .iter()
        .map(ChannelInput::parse)
        .collect::<Result<Vec<_>, _>>()?;
    check_plan(&c.survey, b.kind, &said, &channels, units)?;
    check_order(c, b.kind, &said, now, units)?;
    let said = Plan {
        procedure: said
            .school
            .as_deref()
            .and_then(|code| procedure_used(stock.procedures, b.kind, code))
            .map(Box::new),
        stages: pulls(&said.targets_pa),
        // An empty field is no source.
        source: said
            .source
            .as_deref()
            .map(str::trim)
            .filter(|s| !s.is_empty())
            .map(|s| clipped(s, 200)),
        ..said
    };
    let plan = complete(c, b.kind, &channels, said, stock.kit, stock.rig)?;
    Ok(vec![Deed::Planned(Planned {
        kind: b.kind,
        attempt: c.next_attempt(b.kind),
        plan,
        channels: numbered(id, channels),
        at_ms: now,
    })])
}
