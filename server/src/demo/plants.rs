//! The demo's gauges, plans and plants.

use crate::plants::Truth;
use ruhe_core::quantity::Unit;
use ruhe_core::reading::{Channel, Kind, Position, Quantity};
use ruhe_job::plan::{Plan, procedure_used};
use ruhe_sim::{HoldPlant, HoldTruth, MICRON, PSI, VacuumTruth, Weather};

pub fn psi(psig: f64) -> f64 {
    psig * PSI
}

pub fn hold_channels() -> Vec<Channel> {
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

pub fn vacuum_channels() -> Vec<Channel> {
    vec![Channel {
        resolution: Some(1.0),
        range: Some(25_000.0),
        position: Some(Position::Far),
        ..Channel::new("Far vacuum gauge", Quantity::AbsolutePressure, Unit::Micron)
    }]
}

pub fn hold_plan(psig: f64, minutes: f64) -> Plan {
    Plan {
        school: Some("timed".into()),
        test_pa: Some(psi(psig)),
        planned_s: Some(minutes * 60.0),
        altitude_m: Some(120.0),
        procedure: procedure_used(&[], Kind::PressureHold, "timed").map(Box::new),
        ..Plan::default()
    }
}

pub fn decay_plan(evacuated_min: f64) -> Plan {
    Plan {
        school: Some("below_500_10".into()),
        level_pa: Some(500.0 * MICRON),
        at_s: Some(600.0),
        evacuated_s: Some(evacuated_min * 60.0),
        procedure: procedure_used(&[], Kind::VacuumDecay, "below_500_10").map(Box::new),
        ..Plan::default()
    }
}

pub fn tight(psig: f64, seed: u64, weather: Weather) -> HoldTruth {
    HoldTruth {
        weather,
        fill_k: 2.5,
        fill_time: 110.0,
        ..HoldPlant::tight(psig, 4.0 * 3600.0, seed)
    }
}

pub fn holding(truth: HoldTruth) -> Truth {
    Truth::Hold(truth)
}

pub fn vacuum(truth: VacuumTruth) -> Truth {
    Truth::Vacuum(truth)
}
