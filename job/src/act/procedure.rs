//! Keeping a procedure of one's own; the same code again is its next version.

use crate::log::Deed;
use crate::refusal::{Refusal, filled};
use crate::tell::{ProcedureInput, is_built_in};
use ruhe_core::reading::Kind;

/// Keeps a procedure.
///
/// # Errors
/// What is missing or cannot be, with its field.
pub fn keep_procedure(mut p: ProcedureInput) -> Result<Vec<Deed>, Refusal> {
    p.title = p.title.trim().into();
    p.source = p.source.trim().into();
    for (field, text) in [("title", &p.title), ("source", &p.source)] {
        filled(field, text, 200)?;
    }
    if !matches!(
        p.kind,
        Kind::PressureHold | Kind::VacuumDecay | Kind::PullDown
    ) {
        return Err(Refusal::wrong(
            "kind",
            "a procedure is for a pressure-hold, a pull-down or a vacuum-decay",
        ));
    }
    let positive = |v: Option<f64>| v.is_none_or(|v| v.is_finite() && v > 0.0);
    if p.kind == Kind::PullDown {
        if p.targets_pa.is_empty() || !p.targets_pa.iter().all(|t| positive(Some(*t))) {
            return Err(Refusal::wrong(
                "targets_pa",
                "an evacuation needs the target of each pull, above zero",
            ));
        }
    } else if !positive(Some(p.time_s)) {
        return Err(Refusal::wrong("time_s", "the time must be above zero"));
    }
    if !positive(p.pressure_pa)
        || !positive(p.start_max_pa)
        || (p.kind == Kind::VacuumDecay && p.pressure_pa.is_none())
    {
        return Err(Refusal::wrong(
            "pressure_pa",
            "the pressure must be above zero",
        ));
    }
    if p.share_of_plate.is_some_and(|s| !(0.05..=1.0).contains(&s)) {
        return Err(Refusal::wrong(
            "share_of_plate",
            "a share of the plate lies between 5 and 100 %",
        ));
    }
    if p.kind == Kind::PressureHold && p.pressure_pa.is_some() == p.share_of_plate.is_some() {
        return Err(Refusal::wrong(
            "pressure_pa",
            "give a pressure or a share of the plate",
        ));
    }
    let plain = |c: char| {
        if c.is_ascii_alphanumeric() {
            c.to_ascii_lowercase()
        } else {
            '_'
        }
    };
    let code = p.code.clone().unwrap_or_else(|| {
        format!(
            "own_{}",
            p.title.chars().map(plain).take(60).collect::<String>()
        )
    });
    if is_built_in(&code) {
        return Err(Refusal::wrong(
            "code",
            "a built-in procedure stays as it is; give yours a name of its own",
        ));
    }
    Ok(vec![Deed::ProcedureKept { code, procedure: p }])
}
