//! Plans that are ready to be opened: the first hold of a circuit, and the decay after a pull.

use super::procedure::SchoolView;
use crate::act::TestInput;
use crate::plan::{ChannelInput, PlanInput};
use crate::procedure::Stage;
use crate::state::{Circuit, Test};
use crate::survey::SurveyView;
use ruhe_core::judge::Finding;
use ruhe_core::quantity::{Unit, Units};
use ruhe_core::reading::{Gas, Kind, Position, Quantity, Reference};
use serde::Serialize;

/// What a temperature probe usually resolves, in any unit of temperature (common practice, no source).
pub const PROBE_STEP: f64 = 0.1;

/// What a gauge for a hold usually resolves, in its own unit (common practice, no source).
#[must_use]
pub fn gauge_step(unit: Unit) -> f64 {
    match unit {
        Unit::Bar | Unit::KgfCm2 => 0.01,
        Unit::KPa => 1.0,
        Unit::MPa => 0.001,
        _ => 0.1,
    }
}

/// Plans that are ready to be opened, one for each procedure.
#[derive(Debug, Clone, Default, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct BeginsView {
    /// The first hold, while nothing was tested here.
    pub holds: Vec<TestInput>,
    /// The decay, while the pump runs.
    pub decays: Vec<TestInput>,
}

/// What can be begun on a circuit without a form.
#[must_use]
pub fn begins(c: &Circuit, survey: &SurveyView, schools: &[SchoolView], u: Units) -> BeginsView {
    let of = |kind: Kind| schools.iter().filter(move |s| s.kind == kind);
    let pull = c
        .tests
        .iter()
        .rev()
        .find(|t| t.kind == Kind::PullDown && !t.is_over());
    let has_decay = c.job().stages().contains(&Stage::Decay);
    BeginsView {
        holds: if c.tests.is_empty() {
            of(Kind::PressureHold)
                .map(|s| first_hold(survey, s, u))
                .collect()
        } else {
            vec![]
        },
        decays: pull.filter(|_| has_decay).map_or(vec![], |t| {
            of(Kind::VacuumDecay)
                .map(|s| decay(t, evacuated_s(c), s))
                .collect()
        }),
    }
}

/// The hold that a plan begins with when nobody changes anything: one gauge, one probe on the pipe.
fn first_hold(survey: &SurveyView, school: &SchoolView, u: Units) -> TestInput {
    let section = survey
        .sections
        .iter()
        .find(|s| s.is_tested)
        .or(survey.sections.first());
    let begin = section.and_then(|s| s.begin.iter().find(|b| b.procedure == school.code));
    let gauge = ChannelInput {
        resolution: Some(gauge_step(u.pressure)),
        reference: Some(Reference::Vented),
        ..ChannelInput::new("Pressure", Quantity::GaugePressure, u.pressure)
    };
    let probe = ChannelInput {
        resolution: Some(PROBE_STEP),
        position: Some(Position::Line),
        ..ChannelInput::new("Pipe probe", Quantity::Temperature, u.temperature)
    };
    TestInput {
        kind: Kind::PressureHold,
        plan: PlanInput {
            school: Some(school.code.clone()),
            section: section.map(|s| s.name.clone()),
            gas: Some(Gas::Nitrogen),
            test_pa: begin.map(|b| b.pa).or(school.pressure_pa),
            planned_s: Some(school.time_s),
            ..PlanInput::default()
        },
        channels: vec![gauge, probe],
    }
}

/// The decay with the gauges of a pull, by the rule of a procedure.
fn decay(pull: &Test, evacuated_s: Option<f64>, school: &SchoolView) -> TestInput {
    TestInput {
        kind: Kind::VacuumDecay,
        plan: PlanInput {
            school: Some(school.code.clone()),
            kit: pull.plan.kit.clone(),
            section: pull.plan.section.clone(),
            auto_off_s: pull.plan.auto_off_s,
            evacuated_s,
            level_pa: school.pressure_pa,
            at_s: school.pressure_pa.map(|_| school.time_s),
            start_max_pa: school.start_max_pa,
            ..PlanInput::default()
        },
        channels: pull.channels.iter().map(Into::into).collect(),
    }
}

/// Length of the last pull of the last evacuation, s: the time under vacuum before a decay.
pub(super) fn evacuated_s(c: &Circuit) -> Option<f64> {
    c.tests.iter().rev().find_map(|t| match t.finding() {
        Finding::PullDown(v) => v.pulls.last().map(|p| (p.to - p.from).round()),
        _ => None,
    })
}
