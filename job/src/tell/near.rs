//! What the next value of a channel is expected within: one outside is asked about before it is kept. It is never
//! changed by itself, and no verdict knows of it.

use super::phase::{Phase, phase};
use crate::state::Test;
use ruhe_core::matter::atmosphere::SEA_LEVEL;
use ruhe_core::quantity::Unit;
use ruhe_core::reading::{Kind, Quantity};
use serde::Serialize;

/// Between two readings of a hold a pressure changes by no more than this share, from nothing (common practice, no
/// source).
const SHARE: f64 = 0.2;
/// A level of a decay, to how many times as much or as little (common practice, no source).
const TIMES: f64 = 4.0;
/// A temperature, by how much, K (common practice, no source).
const KELVIN: f64 = 15.0;
/// The air's pressure, as a share.
const AIR: f64 = 0.03;

/// In the unit of the channel.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct NearView {
    pub low: f64,
    pub high: f64,
}

/// What is expected after `last`. None: it may be anything, as while it is pressed up or pumped down.
#[must_use]
pub fn near(t: &Test, quantity: Quantity, unit: Unit, last: f64) -> Option<NearView> {
    let si = unit.to_si(last);
    let waits = matches!(phase(t), Phase::Open | Phase::Over);
    let (low, high) = match (quantity, t.kind) {
        (Quantity::Temperature, _) => (si - KELVIN, si + KELVIN),
        (Quantity::BarometricPressure, _) => (si * (1.0 - AIR), si * (1.0 + AIR)),
        _ if waits => return None,
        (Quantity::AbsolutePressure, Kind::VacuumDecay | Kind::RigCheck) => {
            (si / TIMES, si * TIMES)
        }
        (_, Kind::PressureHold) => {
            let air = if quantity == Quantity::GaugePressure {
                SEA_LEVEL.pa()
            } else {
                0.0
            };
            let off = SHARE * (si + air);
            (si - off, si + off)
        }
        _ => return None,
    };
    Some(NearView {
        low: unit.of_si(low),
        high: unit.of_si(high),
    })
}
