//! Demo data: an invented bakery and creamery with circuits at every stage of a job; a hold and a decay run.

mod bakery;
mod builder;
mod creamery;
mod kit;
mod plants;
mod surveys;
mod visit;

use self::bakery::{decaying, hold_running, repaired, signed};
use self::builder::{Builder, circuit};
use self::kit::kit;
use self::surveys::{packaged, split};
use crate::error::ApiError;
use crate::service::now_ms;
use crate::state::AppState;
use ruhe_job::procedure::JobKind;

/// Fills an empty store with the demo and starts its gauges. A store that has circuits is left as it is.
pub fn fill(state: &AppState) -> Result<(), ApiError> {
    let is_filled = state
        .store
        .read(|tx| Ok::<_, ApiError>(!tx.sites()?.is_empty()))?;
    if is_filled {
        return Ok(());
    }
    let b = Builder {
        state,
        now: now_ms(),
        site: ("Ferrywick Bakery", "Hollin Quay 7, roof and plant room"),
    };
    let kit = kit(&b)?;
    let mut site = None;
    signed(&b, &kit, &mut site)?;
    let roof = b.system(
        &mut site,
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
        &mut site,
        "Dough room split",
        "WS-9",
        "invented-2203",
        vec![circuit(
            "A",
            "Line set and indoor coil",
            JobKind::NewSplit,
            "R-32",
            "line set and indoor coil; outdoor service valves shut on the factory charge",
            split("31"),
        )],
    )?;
    hold_running(&b, &split[0])?;
    creamery::fill(
        &Builder {
            site: ("Tern Point Creamery", "Tern Point, yard and ripening rooms"),
            ..b
        },
        &kit,
    )
}
