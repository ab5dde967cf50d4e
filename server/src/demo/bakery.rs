//! The bakery's circuits: one signed, one drying, one repaired, one held.

use super::builder::{Builder, DAY, MINUTE, circuit};
use super::kit::{DemoKit, pull_down, pull_plan, pulled};
use super::plants::{decay_plan, hold_plan, holding, psi, tight, vacuum};
use super::surveys::{part, section, typed};
use super::visit::{
    all_lost, broken, closed, liquid, looked, measured, refrigerant_readings, signature, targeted,
    weighed,
};
use crate::error::ApiError;
use crate::plants::Truth;
use ruhe_core::reading::{EventKind, Kind};
use ruhe_job::act::{LookInput, RepairInput};
use ruhe_job::charge::{Metering, TargetDoc};
use ruhe_job::plan::Plan;
use ruhe_job::ports::{Bubbles, Core, Refitted};
use ruhe_job::procedure::{BreakWith, JobKind, Step};
use ruhe_job::search::{LookResult, Method, RepairOpened};
use ruhe_job::signoff::State;
use ruhe_job::startup::SetDoc;
use ruhe_job::survey::{Location, SurveyDoc};
use ruhe_sim::{HoldTruth, MICRON, PullTruth, VacuumTruth, Weather};

pub fn signed(b: &Builder<'_>, kit: &DemoKit, site: &mut Option<String>) -> Result<(), ApiError> {
    let ids = b.system(
        site,
        "Cold store condensing unit",
        "CU-16",
        "invented-1180",
        vec![circuit(
            "A",
            "Cold store circuit",
            JobKind::Repair,
            "R-134a",
            "whole circuit, receiver valve open",
            SurveyDoc {
                sections: vec![section("whole circuit", true, "suction service valve")],
                components: vec![
                    part(
                        "evaporator",
                        Location::Indoor,
                        "whole circuit",
                        None,
                        "250",
                        1.8,
                    ),
                    part(
                        "condensing unit and receiver",
                        Location::Outdoor,
                        "whole circuit",
                        Some("250"),
                        "400",
                        4.2,
                    ),
                ],
                charge: typed("9.25", "lb"),
                ..SurveyDoc::default()
            },
        )],
    )?;
    let id = &ids[0];
    let at = |minutes: i64| DAY + minutes * MINUTE;
    let into = "into cylinder 3, by weight";
    b.emptied(id, Step::Recovered, into, Some("0"), at(430))?;
    b.step(
        id,
        Step::BoundaryValves,
        "charging ports capped, receiver valve open",
        at(420),
    )?;
    b.step(
        id,
        Step::Instruments,
        "gauge 800 psig, calibrated this spring; vacuum gauge new",
        at(419),
    )?;
    b.step(
        id,
        Step::GasReady,
        "20 L bottle, regulator checked",
        at(418),
    )?;
    b.finished(
        id,
        Kind::PressureHold,
        hold_plan(200.0, 30.0),
        holding(tight(200.0, 31, Weather::Ramp(-0.8))),
        at(400),
        52.0,
    )?;
    looked(b, id, 199.0, at(346))?;
    let port = "from the vapour port";
    b.emptied(id, Step::Released, port, Some("2"), at(340))?;
    b.step(id, Step::RigChecked, "pump and hoses: 45 micron", at(335))?;
    closed(b, id, at(330), |p| (p.core, p.has_tool) = (Core::Out, true))?;
    b.step(
        id,
        Step::LockedOut,
        "isolator at the unit, own lock",
        at(329),
    )?;
    b.finished(
        id,
        Kind::PullDown,
        pull_plan(kit, "deep_300"),
        pull_down(6.0, 0.0, vec![], 32),
        at(325),
        20.0,
    )?;
    b.finished(
        id,
        Kind::VacuumDecay,
        decay_plan(45.0),
        vacuum(VacuumTruth {
            uneven: 14.0 * MICRON,
            ..VacuumTruth::dry(262.0, 33)
        }),
        at(300),
        20.0,
    )?;
    broken(b, id, BreakWith::Liquid, Some("60"), "44", at(250))?;
    let charge = TargetDoc {
        metering: Metering::Receiver,
        ..all_lost("9 lb 4 oz")
    };
    targeted(b, id, charge, at(345))?;
    weighed(
        b,
        id,
        &liquid(
            "R-134a",
            "van 4",
            ("31 lb 12.0 oz", "22 lb 8.2 oz"),
            "lb-oz",
        ),
        at(230),
    )?;
    closed(b, id, at(220), |p| {
        (p.core, p.refitted, p.bubbles, p.dwell_s, p.is_capped) = (
            Core::Fitted,
            Refitted::Positive,
            Bubbles::Clear,
            Some(90.0),
            true,
        );
    })?;
    b.step(
        id,
        Step::StemsOpen,
        "both back-seated, receiver valve open",
        at(218),
    )?;
    for (k, (suction, line, liquid, cold)) in [
        ("30", "44.6", "148", "100.1"),
        ("30", "44.8", "149", "100.4"),
        ("30", "44.5", "148", "100.2"),
    ]
    .into_iter()
    .enumerate()
    {
        let k = k as i64;
        let set = SetDoc {
            running_min: (14 + 3 * k).to_string(),
            outdoor: typed("74", "degF"),
            return_air: typed("51", "degF"),
            supply_air: typed("33", "degF"),
            aim_superheat: typed("10", "degF"),
            aim_subcooling: typed("11", "degF"),
            ..refrigerant_readings(suction, line, liquid, cold)
        };
        measured(b, id, set, at(204 - 3 * k))?;
    }
    b.step(
        id,
        Step::LeftInOrder,
        "drain tray runs, label with charge and date",
        at(195),
    )?;
    b.sign(id, &signature(State::Passed), at(190))
}

pub fn decaying(b: &Builder<'_>, kit: &DemoKit, id: &str) -> Result<(), ApiError> {
    let into = "into cylinder 3, by weight";
    b.emptied(id, Step::Recovered, into, Some("0"), 215 * MINUTE)?;
    b.step(
        id,
        Step::BoundaryValves,
        "unit's own two service ports only",
        210 * MINUTE,
    )?;
    b.step(id, Step::Instruments, "same set as yesterday", 209 * MINUTE)?;
    b.step(
        id,
        Step::GasReady,
        "20 L bottle, regulator checked",
        208 * MINUTE,
    )?;
    b.finished(
        id,
        Kind::PressureHold,
        hold_plan(300.0, 30.0),
        holding(tight(300.0, 41, Weather::Ramp(0.9))),
        206 * MINUTE,
        55.0,
    )?;
    let port = "from the suction port";
    b.emptied(id, Step::Released, port, Some("3"), 149 * MINUTE)?;
    b.step(
        id,
        Step::RigChecked,
        "Roof set: pump and hoses checked this morning",
        150 * MINUTE,
    )?;
    closed(b, id, 148 * MINUTE, |p| {
        (p.core, p.has_tool) = (Core::Out, true);
    })?;
    b.step(id, Step::LockedOut, "roof isolator, own lock", 147 * MINUTE)?;
    let off = [
        (EventKind::Isolated, "quick valve-off", 1_200),
        (EventKind::PumpOn, "valve open again", 1_220),
    ];
    let wet = PullTruth {
        shut: vec![(1_200.0, 1_220.0)],
        ..pulled(7.5, 1e-4, vec![], 42)
    };
    b.finished_with(
        id,
        Kind::PullDown,
        pull_plan(kit, "deep_300"),
        Truth::Pull(wet),
        (146 * MINUTE, 46.0),
        &off,
    )?;
    let moist = |size: f64, seed: u64| VacuumTruth {
        moisture: size * MICRON,
        moisture_time: 520.0,
        uneven: 9.0 * MICRON,
        evacuated: 2_500.0,
        vapour_factor: 1.6,
        ..VacuumTruth::dry(230.0, seed)
    };
    let plan = |minutes: f64| Plan {
        changed: Some(vec!["core tools".into()]),
        kit: vec![kit.gauge.clone()],
        ..decay_plan(minutes)
    };
    b.finished(
        id,
        Kind::VacuumDecay,
        plan(42.0),
        vacuum(moist(420.0, 43)),
        98 * MINUTE,
        16.0,
    )?;
    // Broken with nitrogen and pulled again: what came back the second time is less.
    let breaks = vec![(420.0, 115_000.0, 300.0), (1_260.0, 115_000.0, 300.0)];
    let marks = [
        (EventKind::NitrogenBreak, "", 420),
        (EventKind::NitrogenBreak, "", 1_260),
    ];
    b.finished_with(
        id,
        Kind::PullDown,
        pull_plan(kit, "triple"),
        pull_down(7.5, 5e-5, breaks, 44),
        (52 * MINUTE, 41.5),
        &marks,
    )?;
    let minutes = 7.0;
    b.running(
        id,
        Kind::VacuumDecay,
        plan(60.0),
        vacuum(moist(150.0, 45)),
        (minutes * 60e3) as i64,
        (minutes, 2.0),
    )
}

pub fn repaired(b: &Builder<'_>, id: &str) -> Result<(), ApiError> {
    let into = "into cylinder 3, by weight";
    b.emptied(id, Step::Recovered, into, Some("0"), 265 * MINUTE)?;
    b.step(
        id,
        Step::BoundaryValves,
        "unit's own two service ports only",
        260 * MINUTE,
    )?;
    b.step(id, Step::Instruments, "same set as yesterday", 259 * MINUTE)?;
    b.step(
        id,
        Step::GasReady,
        "20 L bottle, regulator checked",
        258 * MINUTE,
    )?;
    let leaking = HoldTruth {
        loss: psi(9.0) / 3600.0,
        ..tight(300.0, 51, Weather::Ramp(0.6))
    };
    b.finished(
        id,
        Kind::PressureHold,
        hold_plan(300.0, 30.0),
        holding(leaking),
        250 * MINUTE,
        45.0,
    )?;
    let look =
        |method: Method, finding: LookResult, dwell_s: f64, note: &str, ago: i64| LookInput {
            place: "service port cores and caps".into(),
            method,
            finding,
            dwell_s: Some(dwell_s),
            at_pa: Some(psi(293.0)),
            section: None,
            note: note.into(),
            photo_id: None,
            at_ms: Some(b.now - ago),
        };
    b.look(
        id,
        look(
            Method::Ultrasonic,
            LookResult::Suspect,
            40.0,
            "louder at the liquid port",
            198 * MINUTE,
        ),
    )?;
    b.look(
        id,
        look(
            Method::Bubbles,
            LookResult::Leak,
            55.0,
            "bubbles within a minute at the liquid port",
            195 * MINUTE,
        ),
    )?;
    b.mend(
        id,
        RepairInput {
            place: "service port cores and caps".into(),
            cause: "worn core".into(),
            words: "core replaced, cap with seal".into(),
            torque: None,
            section: None,
            opened: Some(RepairOpened::Tool),
            with_torch: false,
            is_safe: false,
            is_risky: false,
            at_ms: Some(b.now - 190 * MINUTE),
        },
    )?;
    b.finished(
        id,
        Kind::PressureHold,
        hold_plan(300.0, 30.0),
        holding(tight(300.0, 52, Weather::Ramp(1.1))),
        180 * MINUTE,
        60.0,
    )?;
    Ok(())
}

pub fn hold_running(b: &Builder<'_>, id: &str) -> Result<(), ApiError> {
    b.step(
        id,
        Step::BoundaryValves,
        "outdoor service valves shut, factory charge behind them",
        40 * MINUTE,
    )?;
    b.step(
        id,
        Step::Instruments,
        "gauge 800 psig, 0.1 psi",
        39 * MINUTE,
    )?;
    b.step(
        id,
        Step::GasReady,
        "20 L bottle, regulator checked",
        38 * MINUTE,
    )?;
    let minutes = 26.0;
    let plan = Plan {
        planned_s: Some(1800.0),
        ..hold_plan(550.0, 30.0)
    };
    b.running(
        id,
        Kind::PressureHold,
        plan,
        holding(tight(550.0, 61, Weather::Ramp(-1.6))),
        (minutes * 60e3) as i64,
        (minutes, 2.0),
    )
}
