//! What of the kit is on which circuit: one pump and one gauge cannot be in two places.

use super::KitKind;
use crate::kit::KitUsed;
use crate::refusal::Refusal;
use crate::state::{Circuit, Test};
use crate::tell::due_ms;
use ruhe_core::reading::{EventKind, Kind};
use serde::{Deserialize, Serialize};

/// A thing of the kit that is on a circuit.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct InUse {
    /// Id of the thing.
    pub item: String,
    /// What it is called.
    pub name: String,
    /// The circuit.
    pub circuit_id: String,
    /// Which that is, in words.
    pub place: String,
    /// The test it is in.
    pub test_id: String,
    /// What that is called.
    pub title: String,
    /// Since when, ms since 1970 UTC.
    pub since_ms: i64,
    /// When it will be free, where that can be said, ms since 1970 UTC.
    pub free_ms: Option<i64>,
    /// What is marked there when it is taken away.
    pub freed_by: EventKind,
}

/// What takes a kind of thing off a kind of test; `None`: it is not held by it.
fn freed_by(kind: KitKind, t: &Test) -> Option<EventKind> {
    match kind {
        KitKind::VacuumGauge | KitKind::PressureGauge | KitKind::Probe => {
            Some(EventKind::GaugeTakenOff)
        }
        KitKind::Pump | KitKind::Hose | KitKind::CoreTool | KitKind::Rig => {
            let pumps =
                t.kind == Kind::PullDown || (t.kind == Kind::VacuumDecay && t.plan.hoses_in);
            pumps.then_some(EventKind::PumpOff)
        }
        KitKind::Bottle
        | KitKind::Regulator
        | KitKind::Scale
        | KitKind::LeakDetector
        | KitKind::RecoveryMachine => None,
    }
}

/// It was taken off, and not put on again since.
fn is_free(t: &Test, by: EventKind) -> bool {
    let last = |kinds: &[EventKind]| {
        let of = t.events.iter().filter(|(_, e)| kinds.contains(&e.event));
        of.map(|(_, e)| e.at_ms).max().unwrap_or(i64::MIN)
    };
    let on: &[EventKind] = match by {
        EventKind::PumpOff => &[EventKind::PumpOn],
        _ => &[EventKind::GaugeReattached],
    };
    last(&[by]) > last(on)
}

/// What of the kit is on a circuit now.
#[must_use]
pub fn in_use(c: &Circuit) -> Vec<InUse> {
    let place = format!("{}, circuit {}", c.opened.system, c.opened.tag);
    let of = |t: &Test, u: &KitUsed| {
        let by = freed_by(u.doc.kind, t).filter(|by| !is_free(t, *by))?;
        Some(InUse {
            item: u.id.clone(),
            name: u.doc.name.clone(),
            circuit_id: c.id.clone(),
            place: place.clone(),
            test_id: t.id.clone(),
            title: t.title.clone(),
            since_ms: t.outline().start_ms.max(t.created_ms),
            free_ms: due_ms(t),
            freed_by: by,
        })
    };
    c.tests
        .iter()
        .filter(|t| !t.is_over())
        .flat_map(|t| t.plan.used.iter().filter_map(move |u| of(t, u)))
        .collect()
}

/// Whether what a test wants to use is free.
///
/// # Errors
/// What is on which other circuit.
pub fn must_be_free(circuit: &str, wanted: &[KitUsed], others: &[InUse]) -> Result<(), Refusal> {
    let taken = wanted.iter().find_map(|w| {
        others
            .iter()
            .find(|o| o.item == w.id && o.circuit_id != circuit)
    });
    match taken {
        Some(o) => Err(Refusal::wrong(
            "kit",
            format!(
                "{} is on {} ({}): move it here first, or take another",
                o.name, o.place, o.title
            ),
        )),
        None => Ok(()),
    }
}
