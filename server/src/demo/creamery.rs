//! The creamery: circuits in the second half of a job, and one to which somebody has to come back.

use super::builder::{Builder, DAY, MINUTE, circuit};
use super::kit::{DemoKit, pull_down, pull_plan};
use super::plants::{decay_plan, hold_plan, holding, tight, vacuum};
use super::surveys::{packaged, split, typed};
use super::visit::{
    all_lost, arrived, broken, closed, liquid, looked, measured, refrigerant_readings, signature,
    targeted, weighed,
};
use crate::error::ApiError;
use ruhe_core::reading::Kind;
use ruhe_job::act::{VisitInput, come_back};
use ruhe_job::charge::{ArrivalDoc, Metering, Purity, RecoveredDoc, TargetDoc, TubeShare};
use ruhe_job::ports::{Bubbles, Core, Refitted};
use ruhe_job::procedure::{BreakWith, JobKind, Step};
use ruhe_job::signoff::{Carried, State};
use ruhe_job::startup::{SetDoc, When};
use ruhe_job::survey::SurveyDoc;
use ruhe_sim::{VacuumTruth, Weather};

pub fn fill(b: &Builder<'_>, kit: &DemoKit) -> Result<(), ApiError> {
    let mut site = None;
    let mut open = |system: &str,
                    model: &str,
                    serial: &str,
                    name: &str,
                    kind,
                    refrigerant: &str,
                    survey: SurveyDoc| {
        let c = circuit("A", name, kind, refrigerant, "whole circuit", survey);
        b.system(&mut site, system, model, serial, vec![c])
            .map(|ids| ids[0].clone())
    };
    let ripening = open(
        "Ripening room two",
        "RK-21",
        "invented-3310",
        "Ceiling cooler",
        JobKind::Repair,
        "R-407C",
        packaged("6.4"),
    )?;
    let shop = open(
        "Shop split",
        "WS-7",
        "invented-3344",
        "Shop line set and wall coil",
        JobKind::NewSplit,
        "R-32",
        split("38"),
    )?;
    let yard = open(
        "Yard cold room",
        "CU-12",
        "invented-3371",
        "Floor unit",
        JobKind::Repair,
        "R-454B",
        packaged("5.1"),
    )?;
    let milk = open(
        "Milk store",
        "CU-09",
        "invented-3302",
        "Wall unit",
        JobKind::Repair,
        "R-134a",
        packaged("3.2"),
    )?;
    let whey = open(
        "Whey cooler",
        "RK-14",
        "invented-3309",
        "Plate cooler",
        JobKind::Repair,
        "R-410A",
        packaged("6.4"),
    )?;
    arriving(b, &ripening)?;
    charging(b, kit, &shop)?;
    starting(b, kit, &yard)?;
    for_now(b, kit, &milk)?;
    not_proven(b, kit, &whey)
}

/// How it was found, with a part of the charge missing.
fn found(plate: &str, cylinder: (&str, &str), full: &str) -> ArrivalDoc {
    ArrivalDoc {
        complaint: "warm since Monday, compressor cuts out".into(),
        standing: typed("38", "psig"),
        coldest: typed("61", "degF"),
        before: "topped up in spring by somebody else".into(),
        last_full: full.into(),
        plate: typed(plate, "kg"),
        recovered: Some(RecoveredDoc {
            cylinder: "recovery 2".into(),
            refrigerant: String::new(),
            water: typed("11.9", "L"),
            tare: typed("7.65", "kg"),
            before: typed(cylinder.0, "kg"),
            after: typed(cylinder.1, "kg"),
            tested_until: "2031-05-01".into(),
            left: typed("0", "psig"),
            purity: Purity::Pure,
        }),
        ..ArrivalDoc::default()
    }
}

/// So many days before today, as a day.
fn days_ago(b: &Builder<'_>, days: i64) -> String {
    ruhe_job::state::day_of(b.now - days * DAY).to_string()
}

fn arriving(b: &Builder<'_>, id: &str) -> Result<(), ApiError> {
    arrived(
        b,
        id,
        found("2.90", ("7.70", "9.95"), &days_ago(b, 96)),
        22 * MINUTE,
    )
}

/// The first half: held, looked at, let out, evacuated, decayed. `ago`: when the first step was, ms.
fn tested(
    b: &Builder<'_>,
    kit: &DemoKit,
    id: &str,
    psig: f64,
    ago: i64,
    seed: u64,
) -> Result<(), ApiError> {
    let at = |minutes: i64| ago - minutes * MINUTE;
    b.step(
        id,
        Step::BoundaryValves,
        "service ports only, receiver open",
        at(0),
    )?;
    b.step(id, Step::Instruments, "gauge 800 psig, in date", at(1))?;
    b.step(id, Step::GasReady, "10 L bottle, regulator checked", at(2))?;
    b.finished(
        id,
        Kind::PressureHold,
        hold_plan(psig, 30.0),
        holding(tight(psig, seed, Weather::Ramp(-0.5))),
        at(10),
        50.0,
    )?;
    looked(b, id, psig, at(62))?;
    let port = "from the vapour port";
    b.emptied(id, Step::Released, port, Some("2"), at(70))?;
    b.step(
        id,
        Step::RigChecked,
        "Roof set: pump and hoses checked this morning",
        at(71),
    )?;
    closed(b, id, at(72), |p| (p.core, p.has_tool) = (Core::Out, true))?;
    b.step(id, Step::LockedOut, "isolator, own lock", at(73))?;
    b.finished(
        id,
        Kind::PullDown,
        pull_plan(kit, "deep_300"),
        pull_down(6.0, 0.0, vec![], seed + 1),
        at(75),
        20.0,
    )?;
    b.finished(
        id,
        Kind::VacuumDecay,
        decay_plan(40.0),
        vacuum(VacuumTruth::dry(248.0, seed + 2)),
        at(96),
        20.0,
    )
}

/// Everything closed, clear, capped.
fn all_closed(b: &Builder<'_>, id: &str, ago: i64) -> Result<(), ApiError> {
    closed(b, id, ago, |p| {
        (p.core, p.refitted, p.bubbles, p.dwell_s, p.is_capped) = (
            Core::Fitted,
            Refitted::Positive,
            Bubbles::Clear,
            Some(90.0),
            true,
        );
    })
}

fn charging(b: &Builder<'_>, kit: &DemoKit, id: &str) -> Result<(), ApiError> {
    tested(b, kit, id, 550.0, 150 * MINUTE, 71)?;
    broken(b, id, BreakWith::FactoryCharge, None, "128", 28 * MINUTE)?;
    let target = TargetDoc {
        plate: typed("1.32", "kg"),
        plate_again: typed("1320", "g"),
        tubes: vec![TubeShare {
            size: "3/8 in".into(),
            bought: typed("15.0", "m"),
            left_over: typed("3.4", "m"),
            included: typed("7.5", "m"),
            rate: typed("40", "g/m"),
            source: "installation manual, page 31".into(),
            ..TubeShare::default()
        }],
        longest: typed("20", "m"),
        room_limit: typed("1.9", "kg"),
        room_source: "installation manual, page 12".into(),
        ..TargetDoc::default()
    };
    targeted(b, id, target, 20 * MINUTE)
}

/// A set of the yard's cold room: pressures psig, lines °F.
fn set(minutes: i64, (suction, line, liquid, cold): (&str, &str, &str, &str)) -> SetDoc {
    SetDoc {
        running_min: minutes.to_string(),
        outdoor: typed("71", "degF"),
        return_air: typed("52", "degF"),
        supply_air: typed("34", "degF"),
        aim_superheat: typed("9", "degF"),
        aim_subcooling: typed("10", "degF"),
        ..refrigerant_readings(suction, line, liquid, cold)
    }
}

fn starting(b: &Builder<'_>, kit: &DemoKit, id: &str) -> Result<(), ApiError> {
    let before = SetDoc {
        when: When::Before,
        ..set(35, ("61", "46.0", "228", "80.0"))
    };
    measured(b, id, before, 300 * MINUTE)?;
    arrived(
        b,
        id,
        found("2.31", ("7.70", "9.62"), &days_ago(b, 210)),
        290 * MINUTE,
    )?;
    tested(b, kit, id, 300.0, 280 * MINUTE, 81)?;
    broken(b, id, BreakWith::Vapour, None, "104", 150 * MINUTE)?;
    let target = TargetDoc {
        metering: Metering::Valve,
        ..all_lost("2.31 kg")
    };
    targeted(b, id, target, 145 * MINUTE)?;
    weighed(
        b,
        id,
        &liquid("R-454B", "van 7", ("9.480", "7.170"), "kg"),
        120 * MINUTE,
    )?;
    all_closed(b, id, 60 * MINUTE)?;
    b.step(id, Step::StemsOpen, "both to their stops", 45 * MINUTE)?;
    measured(b, id, set(12, ("80", "37.9", "262", "81.6")), 9 * MINUTE)?;
    measured(b, id, set(15, ("81", "38.2", "263", "81.9")), 6 * MINUTE)?;
    measured(b, id, set(18, ("80", "38.1", "262", "81.8")), 3 * MINUTE)
}

fn for_now(b: &Builder<'_>, kit: &DemoKit, id: &str) -> Result<(), ApiError> {
    let into = "into cylinder 2, by weight";
    b.emptied(id, Step::Recovered, into, Some("0"), 5 * DAY + MINUTE)?;
    tested(b, kit, id, 200.0, 5 * DAY, 91)?;
    let mut words = signature(State::Temporary);
    words.carried = Carried {
        done_for_now: "liquid line clamped at the kink; a new length is ordered".into(),
        revisit_on: days_ago(b, -4),
        told: "the dairy's shift lead".into(),
        ..Carried::default()
    };
    b.sign(id, &words, 5 * DAY - 200 * MINUTE)
}

fn not_proven(b: &Builder<'_>, kit: &DemoKit, id: &str) -> Result<(), ApiError> {
    let then = 140 * DAY;
    arrived(
        b,
        id,
        found("2.90", ("7.70", "10.01"), &days_ago(b, 215)),
        then,
    )?;
    tested(b, kit, id, 300.0, then - 10 * MINUTE, 101)?;
    broken(b, id, BreakWith::Vapour, None, "120", then - 140 * MINUTE)?;
    let target = TargetDoc {
        metering: Metering::Valve,
        ..all_lost("2.90 kg")
    };
    targeted(b, id, target, then - 145 * MINUTE)?;
    weighed(
        b,
        id,
        &liquid("R-410A", "van 5", ("13.260", "10.360"), "kg"),
        then - 150 * MINUTE,
    )?;
    all_closed(b, id, then - 160 * MINUTE)?;
    let mut words = signature(State::NotProven);
    words.carried = Carried {
        loss: "570 g in 75 days, 7.6 g a day; the hold could not show less than kilograms a year"
            .into(),
        revisit_on: days_ago(b, 60),
        ..Carried::default()
    };
    b.sign(id, &words, then - 240 * MINUTE)?;
    let visit = VisitInput {
        reason: "look again after the season".into(),
        job: JobKind::Repair,
        at_ms: Some(b.now - 30 * MINUTE),
    };
    b.act(id, |c, now| come_back(c, &visit, now))?;
    let again = ArrivalDoc {
        recovered: None,
        standing: typed("173", "psig"),
        complaint: "none; the agreed look after the season".into(),
        ..found("2.90", ("0", "0"), &days_ago(b, 140))
    };
    arrived(b, id, again, 20 * MINUTE)
}
