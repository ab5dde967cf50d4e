//! Demo data: an invented bakery with three systems, one of two circuits, at different stages; a hold and a decay run.

mod kit;

use self::kit::{DemoKit, kit, pull_down, pull_plan, pulled};
use crate::error::ApiError;
use crate::feed::{Plant, listen, readings};
use crate::routes::{end_with_verdict, sign_circuit, survey_of, with_kit, with_survey};
use crate::state::{AppState, fresh_id, now_ms};
use crate::wire::{
    ComponentDoc, JointDoc, Plan, SectionDoc, SignatureInput, SurveyDoc, TubeDoc, Typed, ValveDoc,
    channel_row,
};
use ruhe_core::procedure::{JobKind, Step};
use ruhe_core::quantity::Unit;
use ruhe_core::reading::{Channel, EventKind, Kind, Position, Quantity};
use ruhe_core::search::{Finding, Method};
use ruhe_sim::{
    HoldPlant, HoldTruth, MICRON, PSI, PullPlant, PullTruth, VacuumPlant, VacuumTruth, Weather,
};
use ruhe_store::{NewJob, rows};

const MINUTE: i64 = 60_000;
const DAY: i64 = 1440 * MINUTE;

struct Builder<'a> {
    state: &'a AppState,
    now: i64,
}

fn psi(psig: f64) -> f64 {
    psig * PSI
}

/// A circuit and the first version of its survey.
fn circuit(
    tag: &str,
    name: &str,
    kind: JobKind,
    refrigerant: &str,
    scope: &str,
    survey: SurveyDoc,
) -> (rows::Circuit, String) {
    let row = rows::Circuit {
        id: fresh_id(),
        system_id: String::new(),
        tag: tag.into(),
        name: name.into(),
        kind: kind.code().into(),
        refrigerant: refrigerant.into(),
        scope: scope.into(),
        volume_l: None,
        created_ms: now_ms(),
    };
    (row, serde_json::to_string(&survey).unwrap_or_default())
}

fn section(name: &str, is_tested: bool, gauge: &str) -> SectionDoc {
    SectionDoc {
        name: name.into(),
        is_tested,
        gauge: gauge.into(),
        volume_l: None,
    }
}

fn typed(text: &str, unit: &str) -> Option<Typed> {
    Some(Typed {
        typed: text.into(),
        unit: unit.into(),
    })
}

fn part(
    name: &str,
    place: &str,
    section: &str,
    low: Option<&str>,
    high: &str,
    volume_l: f64,
) -> ComponentDoc {
    ComponentDoc {
        name: name.into(),
        place: place.into(),
        section: section.into(),
        low: low.and_then(|l| typed(l, "psig")),
        high: typed(high, "psig"),
        only_one: low.is_none(),
        volume_l: Some(volume_l),
        ..ComponentDoc::default()
    }
}

/// A package unit's circuit: one section, all of it under test.
fn packaged(charge_lb: &str) -> SurveyDoc {
    let all = "whole circuit";
    SurveyDoc {
        sections: vec![section(all, true, "suction port")],
        components: vec![
            part("evaporator coil", "indoor", all, Some("300"), "450", 2.4),
            part(
                "condenser and compressor",
                "outdoor",
                all,
                Some("300"),
                "450",
                5.1,
            ),
        ],
        charge: typed(charge_lb, "lb"),
        ..SurveyDoc::default()
    }
}

/// The dough room's split: line set and indoor coil under test, the charge shut in outside.
fn split() -> SurveyDoc {
    let (inside, outside) = ("line set and coil", "outdoor unit");
    let tube = |size: &str| TubeDoc {
        size: size.into(),
        length: typed("31", "ft"),
        section: inside.into(),
    };
    let flare = |name: &str, nm: &str| JointDoc {
        name: name.into(),
        kind: "flare".into(),
        section: inside.into(),
        torque: typed(nm, "Nm"),
        is_torqued: true,
    };
    let valve = |name: &str| ValveDoc {
        name: name.into(),
        section: inside.into(),
        is_shut: true,
        behind: "factory_charge".into(),
        other: None,
    };
    SurveyDoc {
        sections: vec![
            section(inside, true, "vapour service port"),
            section(outside, false, ""),
        ],
        components: vec![
            part("indoor coil", "indoor", inside, None, "600", 1.6),
            part("outdoor unit", "outdoor", outside, None, "615", 4.0),
        ],
        tubes: vec![tube("3/8 in"), tube("5/8 in")],
        joints: vec![
            flare("liquid flare, indoor end", "38"),
            flare("vapour flare, indoor end", "68"),
            flare("liquid flare at the service valve", "38"),
            JointDoc {
                is_torqued: false,
                ..flare("vapour flare at the service valve", "68")
            },
        ],
        valves: vec![valve("liquid service valve"), valve("vapour service valve")],
        charge: typed("2.9", "lb"),
    }
}

fn hold_channels() -> Vec<Channel> {
    vec![
        Channel {
            resolution: Some(0.1),
            range: Some(800.0),
            position: Some(Position::Low),
            ..Channel::new("Vapour port", Quantity::GaugePressure, Unit::Psig)
        },
        Channel {
            resolution: Some(0.1),
            position: Some(Position::Line),
            volume_share: Some(1.0),
            ..Channel::new("Pipe probe", Quantity::Temperature, Unit::DegF)
        },
    ]
}

fn vacuum_channels() -> Vec<Channel> {
    vec![Channel {
        resolution: Some(1.0),
        range: Some(25_000.0),
        position: Some(Position::Far),
        ..Channel::new("Far vacuum gauge", Quantity::AbsolutePressure, Unit::Micron)
    }]
}

impl Builder<'_> {
    fn system(
        &self,
        site: &rows::Site,
        name: &str,
        model: &str,
        serial: &str,
        circuits: Vec<(rows::Circuit, String)>,
    ) -> Result<Vec<String>, ApiError> {
        let system = rows::System {
            id: fresh_id(),
            site_id: site.id.clone(),
            name: name.into(),
            model: model.into(),
            serial: serial.into(),
        };
        let circuits: Vec<_> = circuits
            .into_iter()
            .map(|(c, p)| {
                (
                    rows::Circuit {
                        system_id: system.id.clone(),
                        ..c
                    },
                    p,
                )
            })
            .collect();
        let ids = circuits.iter().map(|(c, _)| c.id.clone()).collect();
        self.state.store.add_job(&NewJob {
            site: site.clone(),
            system,
            circuits,
        })?;
        Ok(ids)
    }
    fn step(&self, circuit: &str, step: Step, note: &str, ago: i64) -> Result<(), ApiError> {
        let row = rows::Step {
            id: fresh_id(),
            circuit_id: circuit.into(),
            step: step.code().into(),
            note: note.into(),
            at_ms: self.now - ago,
        };
        Ok(self.state.store.add_step(&row)?)
    }
    fn event(&self, test: &str, kind: EventKind, note: &str, at_ms: i64) -> Result<(), ApiError> {
        let row = rows::Event {
            id: fresh_id(),
            test_id: test.into(),
            kind: kind.code().into(),
            note: note.into(),
            at_ms,
            client_ms: None,
            received_ms: at_ms,
        };
        Ok(self.state.store.add_event(&row)?)
    }
    /// A test that began `ago` ms ago, with `minutes` of readings every `every` s; the plant can go on from there.
    fn test(
        &self,
        circuit: &str,
        kind: Kind,
        plan: Plan,
        mut plant: Plant,
        ago: i64,
        (minutes, every): (f64, f64),
    ) -> Result<(rows::Test, Plant), ApiError> {
        let start = self.now - ago;
        let survey = survey_of(self.state, circuit)?.0.parse()?;
        let of = self.state.store.circuit(circuit)?.circuit;
        let channels = if kind == Kind::PressureHold {
            hold_channels()
        } else {
            vacuum_channels()
        };
        let plan = with_kit(
            self.state,
            &of,
            with_survey(&survey, &of, kind, &channels, plan),
        )?;
        let row = rows::Test {
            id: fresh_id(),
            circuit_id: circuit.into(),
            kind: kind.code().into(),
            attempt: 0,
            plan: plan.json(),
            created_ms: start,
        };
        let channels: Vec<rows::Channel> = channels
            .iter()
            .enumerate()
            .map(|(i, c)| channel_row(c, &row.id, i))
            .collect();
        let mut all = Vec::new();
        for k in 0..=(minutes * 60.0 / every) as i32 {
            let t = f64::from(k) * every;
            all.extend(readings(
                &mut plant,
                &channels,
                &row.id,
                start,
                t,
                start + (t * 1e3) as i64,
            ));
        }
        let row = self.state.store.add_whole_test(row, &channels, &all, &[])?;
        let mark = if kind == Kind::PressureHold {
            EventKind::SupplyIsolated
        } else {
            EventKind::Isolated
        };
        if kind != Kind::PullDown && plan.part.as_deref() != Some("pump") {
            self.event(&row.id, mark, "", start)?;
        }
        Ok((row, plant))
    }
    fn finished(
        &self,
        circuit: &str,
        kind: Kind,
        plan: Plan,
        plant: Plant,
        ago: i64,
        minutes: f64,
    ) -> Result<rows::Test, ApiError> {
        self.finished_with(circuit, kind, plan, plant, (ago, minutes), &[])
    }
    /// A finished test with events, s after its start.
    fn finished_with(
        &self,
        circuit: &str,
        kind: Kind,
        plan: Plan,
        plant: Plant,
        (ago, minutes): (i64, f64),
        events: &[(EventKind, &str, i64)],
    ) -> Result<rows::Test, ApiError> {
        let (row, _) = self.test(circuit, kind, plan, plant, ago, (minutes, 5.0))?;
        for &(kind, note, at_s) in events {
            self.event(&row.id, kind, note, self.now - ago + at_s * 1_000)?;
        }
        end_with_verdict(self.state, &row, self.now - ago + (minutes * 60e3) as i64)?;
        Ok(row)
    }
}

fn hold_plan(psig: f64, minutes: f64) -> Plan {
    Plan {
        school: Some("timed".into()),
        test_pa: Some(psi(psig)),
        planned_s: Some(minutes * 60.0),
        altitude_m: Some(120.0),
        source: Some("habit, unverified".into()),
        ..Plan::default()
    }
}

fn decay_plan(evacuated_min: f64) -> Plan {
    Plan {
        school: Some("below_500_10".into()),
        level_pa: Some(500.0 * MICRON),
        at_s: Some(600.0),
        evacuated_s: Some(evacuated_min * 60.0),
        source: Some("habit, unverified".into()),
        ..Plan::default()
    }
}

fn tight(psig: f64, seed: u64, weather: Weather) -> HoldTruth {
    HoldTruth {
        weather,
        fill_k: 2.5,
        fill_time: 110.0,
        ..HoldPlant::tight(psig, 4.0 * 3600.0, seed)
    }
}

fn holding(truth: HoldTruth) -> Plant {
    Plant::Hold(Box::new(HoldPlant::new(truth)))
}

fn vacuum(truth: VacuumTruth) -> Plant {
    Plant::Vacuum(Box::new(VacuumPlant::new(truth)))
}

/// Fills an empty store with the demo and starts its gauges. A store that has circuits is left as it is.
pub fn fill(state: &AppState) -> Result<(), ApiError> {
    if !state.store.circuits()?.is_empty() {
        return Ok(());
    }
    let b = Builder {
        state,
        now: now_ms(),
    };
    let kit = kit(&b)?;
    let site = rows::Site {
        id: fresh_id(),
        name: "Ferrywick Bakery".into(),
        place: "Hollin Quay 7, roof and plant room".into(),
    };
    signed(&b, &kit, &site)?;
    let roof = b.system(
        &site,
        "Roof unit over the ovens",
        "RT-40/2",
        "invented-0417",
        vec![
            circuit(
                "A",
                "Left circuit, stage one",
                JobKind::PackageCircuit,
                "R-410A",
                "whole circuit, both sides",
                packaged("11.4"),
            ),
            circuit(
                "B",
                "Right circuit, stage two",
                JobKind::PackageCircuit,
                "R-410A",
                "whole circuit, both sides",
                packaged("10.9"),
            ),
        ],
    )?;
    decaying(&b, &kit, &roof[0])?;
    repaired(&b, &roof[1])?;
    let split = b.system(
        &site,
        "Dough room split",
        "WS-9",
        "invented-2203",
        vec![circuit(
            "A",
            "Line set and indoor coil",
            JobKind::NewSplit,
            "R-32",
            "line set and indoor coil; outdoor service valves shut on the factory charge",
            split(),
        )],
    )?;
    hold_running(&b, &split[0])
}

fn signed(b: &Builder<'_>, kit: &DemoKit, site: &rows::Site) -> Result<(), ApiError> {
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
                    part("evaporator", "indoor", "whole circuit", None, "250", 1.8),
                    part(
                        "condensing unit and receiver",
                        "outdoor",
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
    b.step(
        id,
        Step::Released,
        "from the vapour port, 2 psig left",
        at(340),
    )?;
    b.step(id, Step::RigChecked, "pump and hoses: 45 micron", at(335))?;
    b.step(id, Step::Cores, "both cores out, tools sealed", at(330))?;
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
    b.step(
        id,
        Step::VacuumBroken,
        "weighed charge as liquid, to 40 psig",
        at(250),
    )?;
    b.step(id, Step::ChargeWeighed, "9 lb 4 oz of 9 lb 4 oz", at(230))?;
    b.step(
        id,
        Step::StartedUp,
        "superheat 9 °F, subcooling 11 °F after 20 min",
        at(200),
    )?;
    let words = SignatureInput {
        name: "Ilse Marrow".into(),
        role: "Commissioning technician".into(),
        state: "passed".into(),
        statement: "I made these tests myself and the record says what I saw.".into(),
    };
    sign_circuit(b.state, id, &words, b.now - at(190))
}

fn decaying(b: &Builder<'_>, kit: &DemoKit, id: &str) -> Result<(), ApiError> {
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
        200 * MINUTE,
        55.0,
    )?;
    b.step(
        id,
        Step::Released,
        "suction port, 3 psig left",
        140 * MINUTE,
    )?;
    b.step(
        id,
        Step::RigChecked,
        "Roof set: pump and hoses checked this morning",
        150 * MINUTE,
    )?;
    b.step(id, Step::Cores, "out on both ports", 148 * MINUTE)?;
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
        Plant::Pull(Box::new(PullPlant::new(wet))),
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
    let (row, plant) = b.test(
        id,
        Kind::VacuumDecay,
        plan(60.0),
        vacuum(moist(150.0, 45)),
        (minutes * 60e3) as i64,
        (minutes, 2.0),
    )?;
    listen(b.state, &row, plant, row.created_ms)
}

fn repaired(b: &Builder<'_>, id: &str) -> Result<(), ApiError> {
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
        |method: Method, finding: Finding, dwell_s: Option<f64>, note: &str, ago: i64| rows::Look {
            id: fresh_id(),
            circuit_id: id.into(),
            place: "service port cores and caps".into(),
            section: None,
            method: method.code().into(),
            finding: finding.code().into(),
            dwell_s,
            at_pa: Some(psi(293.0)),
            note: note.into(),
            photo_id: None,
            at_ms: b.now - ago,
        };
    b.state.store.add_look(&look(
        Method::Ultrasonic,
        Finding::Suspect,
        Some(40.0),
        "louder at the liquid port",
        198 * MINUTE,
    ))?;
    b.state.store.add_look(&look(
        Method::Bubbles,
        Finding::Leak,
        Some(55.0),
        "bubbles within a minute at the liquid port",
        195 * MINUTE,
    ))?;
    b.state.store.add_repair(&rows::Repair {
        id: fresh_id(),
        circuit_id: id.into(),
        place: "service port cores and caps".into(),
        section: None,
        cause: "worn core".into(),
        words: "core replaced, cap with seal".into(),
        torque_nm: None,
        with_torch: false,
        at_ms: b.now - 190 * MINUTE,
    })?;
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

fn hold_running(b: &Builder<'_>, id: &str) -> Result<(), ApiError> {
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
    let (row, plant) = b.test(
        id,
        Kind::PressureHold,
        plan,
        holding(tight(550.0, 61, Weather::Ramp(-1.6))),
        (minutes * 60e3) as i64,
        (minutes, 2.0),
    )?;
    listen(b.state, &row, plant, row.created_ms)
}
