//! A plan against the survey, the tools and what came before: what may be pressed in, and what must be done first.

use super::Plan;
use crate::procedure::{Binds, Rating, ceiling_of, check_test_pressure, warmed};
use crate::refusal::Refusal;
use crate::survey::Survey;
use ruhe_core::matter::atmosphere::{SEA_LEVEL, at_altitude};
use ruhe_core::quantity::{GaugePressure, Units};
use ruhe_core::reading::{Behind, Channel, Kind, Position};

/// The section a plan names, else the survey's first.
fn section_of(plan: &Plan, survey: &Survey) -> Option<String> {
    plan.section
        .clone()
        .or_else(|| survey.sections.first().cloned())
}

/// The air's pressure as planned, Pa.
fn air(plan: &Plan) -> f64 {
    plan.barometer_pa
        .or(plan.altitude_m.map(|h| at_altitude(h).pa()))
        .unwrap_or(SEA_LEVEL.pa())
}

/// Everything that gas reaches from `section`: plates, the gauges on this side, and the tools of the plan.
fn ratings(
    survey: &Survey,
    plan: &Plan,
    channels: &[Channel],
    section: &str,
    not_on: Option<Position>,
) -> Vec<Rating> {
    let mut out: Vec<Rating> = survey
        .ratings(section)
        .into_iter()
        .map(|(n, p)| Rating::plate(&n, p))
        .collect();
    let gauges = channels
        .iter()
        .filter(|c| c.is_system_pressure() && (not_on.is_none() || c.position != not_on));
    out.extend(gauges.filter_map(|c| {
        Some(Rating::gauge(
            &format!("the gauge “{}”", c.name),
            GaugePressure::from_pa(c.range_above_air(air(plan))?),
        ))
    }));
    let tool = |name: &str, kind, pa: Option<f64>| {
        pa.map(|p| Rating {
            name: name.into(),
            kind,
            most: GaugePressure::from_pa(p),
        })
    };
    out.extend(tool(
        "the weakest fitting",
        Binds::Fitting,
        plan.fittings_pa,
    ));
    out.extend(tool("the regulator", Binds::Regulator, plan.regulator_pa));
    out.extend(
        plan.relief_pa
            .map(|p| Rating::relief("the relief valve", GaugePressure::from_pa(p))),
    );
    out.extend(tool("the pressure switch", Binds::Switch, plan.switch_pa));
    out.extend(tool("the sensor", Binds::Sensor, plan.sensor_pa));
    out
}

/// Refuses a plan that its parts, its tools or the day cannot take, naming the field.
///
/// # Errors
/// What the plan may not ask for.
pub fn check_plan(
    survey: &Survey,
    kind: Kind,
    plan: &Plan,
    channels: &[Channel],
    units: Units,
) -> Result<(), Refusal> {
    if matches!(kind, Kind::PressureHold | Kind::LeakBy) {
        check_pressure(survey, plan, channels, kind, units)?;
    }
    if !channels.iter().any(Channel::is_system_pressure) {
        return Err(Refusal::wrong(
            "channels",
            "a test needs a pressure or vacuum gauge",
        ));
    }
    for (i, c) in channels.iter().enumerate() {
        if channels[..i].iter().any(|o| o.name == c.name) {
            return Err(Refusal::wrong(
                "channels",
                format!("two channels are called “{}”", c.name),
            ));
        }
    }
    Ok(())
}

fn check_pressure(
    survey: &Survey,
    plan: &Plan,
    channels: &[Channel],
    kind: Kind,
    units: Units,
) -> Result<(), Refusal> {
    let what = if kind == Kind::LeakBy {
        "half A"
    } else {
        "a hold"
    };
    let test = plan
        .test_pa
        .ok_or_else(|| Refusal::wrong("test_pa", format!("{what} needs its test pressure")))?;
    let section = section_of(plan, survey).unwrap_or_default();
    for (field, name) in [
        ("section", Some(&section)),
        ("section_b", plan.section_b.as_ref()),
    ] {
        if let Some(n) = name.filter(|n| !survey.sections.contains(n)) {
            return Err(Refusal::wrong(
                field,
                format!("the survey has no section “{n}”"),
            ));
        }
    }
    let unread = survey.unread_plates(&section);
    if !unread.is_empty() {
        let names = unread.join(", ");
        return Err(Refusal::wrong(
            "test_pa",
            format!(
                "the plate of {names} has not been read in full: both figures, or that there is only one"
            ),
        ));
    }
    let all = ratings(
        survey,
        plan,
        channels,
        &section,
        (kind == Kind::LeakBy).then_some(Position::HalfB),
    );
    let strength = plan.strength.as_ref();
    check_test_pressure(GaugePressure::from_pa(test), &all, strength, units)
        .map_err(|why| Refusal::wrong("test_pa", why))?;
    if let Some(by) = plan.warming_k
        && let Some((most, name)) = ceiling_of(&all, strength)
    {
        /// A start nobody has measured yet, K.
        const ROOM: f64 = 293.15;
        let then = warmed(test, ROOM, by, air(plan));
        if then > most {
            let why = format!(
                "warmer by {} it would stand at {}, and {name} may take {}: begin lower",
                units.interval(by),
                units.gauge(then),
                units.gauge(most)
            );
            return Err(Refusal::wrong("warming_k", why));
        }
    }
    if kind == Kind::LeakBy {
        survey
            .behind(&section, plan.behind)
            .map_err(|why| Refusal::wrong("behind", why))?;
    }
    Ok(())
}

/// What the survey says of the test now, kept with it, so that the verdict does not change when the survey does:
/// volume, sections reached, what bounds them, what they may take.
#[must_use]
pub fn with_survey(
    survey: &Survey,
    volume_l: Option<f64>,
    kind: Kind,
    channels: &[Channel],
    mut plan: Plan,
) -> Plan {
    let Some(name) = section_of(&plan, survey) else {
        return plan;
    };
    let has_parts = !survey.components.is_empty() || !survey.runs.is_empty();
    if plan.volume_l.is_none() && plan.volume_low_l.is_none() && volume_l.is_none() && has_parts {
        let v = survey.volume(&name);
        (plan.volume_low_l, plan.volume_high_l) = (Some(v.low), Some(v.high));
    }
    let stated = plan.behind;
    if kind == Kind::LeakBy {
        plan.behind = survey.behind(&name, stated).ok();
    } else if stated.is_none()
        && survey
            .bounds(&name)
            .iter()
            .any(|v| v.behind == Behind::FactoryCharge)
    {
        plan.behind = Some(Behind::FactoryCharge);
    }
    if matches!(kind, Kind::PressureHold | Kind::LeakBy) {
        let most = |section: &str, not_on| {
            ceiling_of(
                &ratings(survey, &plan, channels, section, not_on),
                plan.strength.as_ref(),
            )
            .map(|c| c.0)
        };
        let is_leak_by = kind == Kind::LeakBy;
        let of_a = most(&name, is_leak_by.then_some(Position::HalfB));
        // A half whose plates nobody read may take nobody knows what.
        let of_b = plan
            .section_b
            .as_deref()
            .filter(|b| {
                is_leak_by && !survey.ratings(b).is_empty() && survey.unread_plates(b).is_empty()
            })
            .and_then(|b| most(b, Some(Position::HalfA)));
        (plan.ceiling_pa, plan.ceiling_b_pa) = (of_a, of_b);
    }
    plan.reaches = survey.reached(&name).into_iter().map(Into::into).collect();
    if plan.reaches.is_empty() {
        plan.reaches = vec![name.clone()];
    }
    plan.section = Some(name);
    plan
}
