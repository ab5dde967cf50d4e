//! The demo's kit: gauges, a pump, good and bad hoses, two rigs with their checks; and how its evacuations are pumped.

use super::builder::{Builder, DAY, MINUTE};
use super::plants::vacuum;
use crate::error::ApiError;
use crate::plants::Truth;
use crate::service::Said;
use ruhe_core::quantity::Unit;
use ruhe_core::reading::{Kind, Principle, RigPart};
use ruhe_job::kit::{KitDoc, KitKind, RigInput};
use ruhe_job::plan::Plan;
use ruhe_job::procedure::{EVACUATION_SCHOOLS, EvacuationSchool};
use ruhe_job::survey::Typed;
use ruhe_sim::{MICRON, PullTruth, VacuumTruth};

/// A pull-down of so many litres, wet or dry, with its breaks (s).
pub fn pulled(litres: f64, wet_kg: f64, breaks: Vec<(f64, f64, f64)>, seed: u64) -> PullTruth {
    PullTruth {
        bound: (wet_kg, 700.0),
        breaks,
        viscous: 2.5e-7,
        molecular: 1.4e-5,
        ..PullTruth::dry(litres, seed)
    }
}
pub fn pull_down(litres: f64, wet_kg: f64, breaks: Vec<(f64, f64, f64)>, seed: u64) -> Truth {
    Truth::Pull(pulled(litres, wet_kg, breaks, seed))
}

/// What the evacuations of the demo are planned as.
pub fn pull_plan(kit: &DemoKit, school: &str) -> Plan {
    let targets_pa = EVACUATION_SCHOOLS
        .iter()
        .find(|s| s.code == school)
        .map_or_else(Vec::new, EvacuationSchool::targets);
    Plan {
        school: Some(school.into()),
        targets_pa,
        kit: vec![kit.gauge.clone()],
        rig: Some(RigInput {
            rig_id: Some(kit.rig.clone()),
            core_tool: true,
            ..RigInput::default()
        }),
        ..Plan::default()
    }
}

/// Ids of the kit.
pub struct DemoKit {
    pub gauge: String,
    pub rig: String,
}

/// The van's kit: gauges, a pump, good and bad hoses, and two rigs with their checks.
pub fn kit(b: &Builder<'_>) -> Result<DemoKit, ApiError> {
    let put = |doc: KitDoc| b.state.keep_kit(None, doc, &Said::by_machine("", "demo"));
    let named = |kind: KitKind, name: &str| KitDoc {
        kind,
        name: name.into(),
        ..KitDoc::default()
    };
    let gauge = put(KitDoc {
        unit: Some(Unit::Micron),
        principle: Some(Principle::Thermal),
        resolution: Some(1.0),
        range: Some(25_000.0),
        calibration_due: Some("2027-08-31".into()),
        auto_off_min: Some(15.0),
        ..named(KitKind::VacuumGauge, "Far vacuum gauge")
    })?;
    put(KitDoc {
        unit: Some(Unit::Micron),
        principle: Some(Principle::Diaphragm),
        resolution: Some(10.0),
        range: Some(20_000.0),
        ..named(KitKind::VacuumGauge, "Gauge at the pump")
    })?;
    put(KitDoc {
        unit: Some(Unit::Psig),
        resolution: Some(0.1),
        range: Some(800.0),
        accuracy: Some(2.0),
        calibration_due: Some("2027-03-31".into()),
        ..named(KitKind::PressureGauge, "Digital gauge 800")
    })?;
    let pump = put(KitDoc {
        flow: Some(Typed {
            typed: "142".into(),
            unit: "l/min".into(),
        }),
        ultimate: Some(Typed {
            typed: "25".into(),
            unit: "micron".into(),
        }),
        oil_changed: Some("2026-11-16".into()),
        ..named(KitKind::Pump, "Two-stage pump")
    })?;
    let wide = put(KitDoc {
        bore_mm: Some(9.5),
        length_m: Some(1.5),
        note: "vacuum-rated".into(),
        ..named(KitKind::Hose, "Wide hose, short")
    })?;
    let old = put(KitDoc {
        bore_mm: Some(4.8),
        length_m: Some(1.8),
        note: "charging hose".into(),
        ..named(KitKind::Hose, "Old charging hose")
    })?;
    put(KitDoc {
        volume_l: Some(20.0),
        ..named(KitKind::Bottle, "Nitrogen bottle, 20 L")
    })?;
    let rig = put(KitDoc {
        parts: vec![pump.clone(), wide],
        ..named(KitKind::Rig, "Roof set")
    })?;
    let bad = put(KitDoc {
        parts: vec![pump, old],
        ..named(KitKind::Rig, "Old hoses")
    })?;
    let check = |part: RigPart| Plan {
        part: Some(part),
        kit: vec![gauge.clone()],
        ..Plan::default()
    };
    let blank = Truth::Pull(PullTruth {
        gas: (2e-5, 0.9),
        ..PullTruth::dry(0.3, 71)
    });
    b.finished(
        &rig,
        Kind::RigCheck,
        check(RigPart::Pump),
        blank,
        DAY + 500 * MINUTE,
        8.0,
    )?;
    let used = VacuumTruth {
        moisture: 110.0 * MICRON,
        moisture_time: 80.0,
        ..VacuumTruth::dry(60.0, 72)
    };
    b.finished(
        &rig,
        Kind::RigCheck,
        Plan {
            evacuated_s: Some(1_800.0),
            ..check(RigPart::Hoses)
        },
        vacuum(used),
        DAY + 488 * MINUTE,
        10.0,
    )?;
    let new = VacuumTruth {
        outgas: 150.0 * MICRON,
        evacuated: 120.0,
        ..VacuumTruth::dry(75.0, 73)
    };
    b.finished(
        &bad,
        Kind::RigCheck,
        Plan {
            evacuated_s: Some(120.0),
            ..check(RigPart::Hoses)
        },
        vacuum(new),
        DAY + 470 * MINUTE,
        8.0,
    )?;
    Ok(DemoKit { gauge, rig })
}
