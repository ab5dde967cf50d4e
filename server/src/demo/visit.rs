//! How the demo does the second half of a job: the acts of a person, with times in the past.

use super::builder::Builder;
use super::plants::psi;
use super::surveys::typed;
use crate::error::ApiError;
use ruhe_core::quantity::Units;
use ruhe_job::act::{
    ArrivalInput, BreakInput, LookInput, PortsInput, RowInput, SetInput, SignatureInput,
    TargetInput, arrive, break_vacuum, keep_ports, keep_target, measure, weigh,
};
use ruhe_job::charge::{ArrivalDoc, LedgerKind, RowDoc, Scope, TargetDoc};
use ruhe_job::ports::PortDoc;
use ruhe_job::procedure::{BreakDoc, BreakWith, PortPressure};
use ruhe_job::search::{LookResult, Method};
use ruhe_job::signoff::{Carried, State};
use ruhe_job::startup::SetDoc;
use ruhe_job::survey::Typed;

/// Changes the register of ports, every port alike.
pub fn closed(
    b: &Builder<'_>,
    id: &str,
    ago: i64,
    change: impl Fn(&mut PortDoc),
) -> Result<(), ApiError> {
    b.act(id, |c, now| {
        let mut ports = c.ports();
        ports.ports.iter_mut().for_each(&change);
        let input = PortsInput {
            ports,
            version: c.ports_version(),
            at_ms: Some(now - ago),
        };
        keep_ports(c, input, now)
    })
}

/// Looks at every joint and port with fluid, under so many psig, and finds nothing.
pub fn looked(b: &Builder<'_>, id: &str, psig: f64, ago: i64) -> Result<(), ApiError> {
    let places = b
        .state
        .shown(id)?
        .circuit
        .gate_facts(Units::default())
        .fine
        .places;
    for (k, p) in places.into_iter().enumerate() {
        let look = LookInput {
            place: p.name,
            method: Method::Bubbles,
            finding: LookResult::Clear,
            dwell_s: Some(150.0),
            at_pa: Some(psi(psig)),
            section: None,
            note: String::new(),
            photo_id: None,
            at_ms: Some(b.now - ago + 20_000 * k as i64),
        };
        b.look(id, look)?;
    }
    Ok(())
}

pub fn arrived(b: &Builder<'_>, id: &str, arrival: ArrivalDoc, ago: i64) -> Result<(), ApiError> {
    b.act(id, |c, now| {
        arrive(
            c,
            ArrivalInput {
                arrival,
                at_ms: Some(now - ago),
                may_answer: true,
            },
            now,
        )
    })
}

pub fn broken(
    b: &Builder<'_>,
    id: &str,
    with: BreakWith,
    vapour_to: Option<&str>,
    psig: &str,
    ago: i64,
) -> Result<(), ApiError> {
    let pressure = |port: &str| PortPressure {
        port: port.into(),
        pressure: Typed {
            typed: psig.into(),
            unit: "psig".into(),
        },
    };
    let broken = BreakDoc {
        gauge_isolated: true,
        hose_purged: true,
        with: Some(with),
        vapour_to: vapour_to.and_then(|v| typed(v, "psig")),
        ports: vec![pressure("suction"), pressure("liquid")],
        ..BreakDoc::default()
    };
    b.act(id, |c, now| {
        break_vacuum(
            c,
            BreakInput {
                broken,
                at_ms: Some(now - ago),
            },
            now,
        )
    })
}

/// The plate's whole charge goes in.
pub fn all_lost(plate: &str) -> TargetDoc {
    TargetDoc {
        scope: Scope::AllLost,
        plate: typed(plate, ""),
        plate_again: typed(plate, ""),
        ..TargetDoc::default()
    }
}

pub fn targeted(b: &Builder<'_>, id: &str, target: TargetDoc, ago: i64) -> Result<(), ApiError> {
    b.act(id, |c, now| {
        keep_target(
            c,
            TargetInput {
                target,
                at_ms: Some(now - ago),
            },
            now,
        )
    })
}

/// A row as liquid, with the scale before and after.
pub fn liquid(
    refrigerant: &str,
    cylinder: &str,
    (start, stop): (&str, &str),
    unit: &str,
) -> RowDoc {
    RowDoc {
        kind: LedgerKind::Liquid,
        refrigerant: refrigerant.into(),
        cylinder: cylinder.into(),
        start: typed(start, unit),
        stop: typed(stop, unit),
        is_weighed: true,
        port: "liquid service port".into(),
        ..RowDoc::default()
    }
}

pub fn weighed(b: &Builder<'_>, id: &str, row: &RowDoc, ago: i64) -> Result<(), ApiError> {
    let row = row.clone();
    b.act(id, |c, now| {
        weigh(
            c,
            RowInput {
                row,
                at_ms: Some(now - ago),
            },
            now,
        )
    })
}

/// Suction and liquid pressure with their lines, psig and °F.
pub fn refrigerant_readings(suction: &str, line: &str, liquid: &str, cold: &str) -> SetDoc {
    SetDoc {
        suction: typed(suction, "psig"),
        suction_line: typed(line, "degF"),
        liquid: typed(liquid, "psig"),
        liquid_line: typed(cold, "degF"),
        ..SetDoc::default()
    }
}

pub fn measured(b: &Builder<'_>, id: &str, set: SetDoc, ago: i64) -> Result<(), ApiError> {
    b.act(id, |c, now| {
        measure(
            c,
            SetInput {
                set,
                at_ms: Some(now - ago),
            },
            now,
        )
    })
}

pub fn signature(state: State) -> SignatureInput {
    SignatureInput {
        seen: None,
        name: "Ilse Marrow".into(),
        role: "Commissioning technician".into(),
        state,
        statement: "I made these tests myself and the record says what I saw.".into(),
        carried: Carried::default(),
        reservations: vec![],
        drawing: String::new(),
    }
}
