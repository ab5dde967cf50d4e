//! The gates of a job with their evidence.

use super::{Gate, GateCode, GateFacts};
use crate::order::{Evidence, Order, is_as_high};
use crate::procedure::Step;
use ruhe_core::hold::HoldOutcome;
use ruhe_core::vacuum::DecayOutcome;

/// Lists the gates of a job with their evidence.
#[must_use]
pub fn gates(facts: &GateFacts) -> Vec<Gate> {
    let gate = |code, met, evidence: String| Gate {
        code,
        met,
        evidence,
        reservation: None,
    };
    let order = facts.order();
    let confirmed = |code, step: Step| match facts.steps.iter().rev().find(|s| s.0 == step) {
        Some((_, note)) if !note.trim().is_empty() => gate(code, true, note.clone()),
        Some(_) => gate(code, true, "confirmed".into()),
        None => gate(
            code,
            false,
            format!("Not confirmed yet: {}.", step.title().to_lowercase()),
        ),
    };
    let mut out = vec![hold_gate(facts, &order)];
    out.extend(retest_gate(facts, &order));
    if !facts.open_places.is_empty() {
        out.push(gate(
            GateCode::Search,
            false,
            format!("Still open: {}.", facts.open_places.join("; ")),
        ));
    }
    out.push(confirmed(GateCode::Boundary, Step::BoundaryValves));
    out.push(match facts.instrument_marks.as_slice() {
        [] => confirmed(GateCode::Instruments, Step::Instruments),
        marks => gate(GateCode::Instruments, false, marks.join(" ")),
    });
    if facts.kind.has_vacuum() {
        out.push(decay_gate(facts, &order));
        out.push(confirmed(GateCode::Cores, Step::Cores));
    }
    if facts.kind.has_charge() {
        out.push(confirmed(GateCode::Charge, Step::ChargeWeighed));
    }
    for (code, words) in &facts.struck {
        reserve(&mut out, *code, words);
    }
    out
}

/// Adds to what the record must say of a gate; the first gate takes what belongs to one that this job has not.
fn reserve(gates: &mut [Gate], code: GateCode, words: &str) {
    let at = gates.iter().position(|g| g.code == code).unwrap_or(0);
    if let Some(g) = gates.get_mut(at) {
        let before = g.reservation.take().map_or_else(String::new, |r| r + " ");
        g.reservation = Some(before + words);
    }
}

/// One gate from those of every section: met when all are, led by what is missing.
fn of_all(code: GateCode, each: &[Gate]) -> Gate {
    // One test on several sections says the same of each.
    let together = |words: Vec<&str>| {
        let mut out: Vec<&str> = Vec::new();
        words.into_iter().for_each(|w| {
            if !out.contains(&w) {
                out.push(w);
            }
        });
        out.join(" ")
    };
    Gate {
        code,
        met: each.iter().all(|g| g.met),
        evidence: each.iter().find(|g| !g.met).map_or_else(
            || together(each.iter().map(|g| g.evidence.as_str()).collect()),
            |g| g.evidence.clone(),
        ),
        reservation: Some(together(
            each.iter()
                .filter_map(|g| g.reservation.as_deref())
                .collect(),
        ))
        .filter(|r| !r.is_empty()),
    }
}

/// The last hold of each section that must hold; the worst of them decides.
fn hold_gate(facts: &GateFacts, order: &Order) -> Gate {
    if facts.holds.is_empty() {
        return Gate {
            code: GateCode::Hold,
            met: false,
            evidence: "No hold has been finished.".into(),
            reservation: None,
        };
    }
    let each: Vec<Gate> = facts
        .all_sections()
        .into_iter()
        .map(|s| section_gate(s, facts, order))
        .collect();
    of_all(GateCode::Hold, &each)
}

fn section_gate(section: &str, facts: &GateFacts, order: &Order) -> Gate {
    let missing = |evidence: String| Gate {
        code: GateCode::Hold,
        met: false,
        evidence,
        reservation: None,
    };
    let Some(last) = facts
        .holds
        .iter()
        .filter(|h| h.sections.iter().any(|s| s == section))
        .max_by_key(|h| h.from_ms)
    else {
        return missing(format!("No hold of {section} has been finished."));
    };
    match last.outcome {
        HoldOutcome::Holds if !is_as_high(last.pressure, last.planned) => missing(format!(
            "{} was held below its test pressure: only {:.0} % of it was reached.",
            last.name,
            100.0 * last.pressure / last.planned
        )),
        HoldOutcome::Holds => match order.undone(section, last.from_ms, Evidence::Hold) {
            Some(why) => missing(format!(
                "{} held, but {why} after it began: hold again.",
                last.name
            )),
            None => Gate {
                code: GateCode::Hold,
                met: true,
                evidence: format!("{}: {}.", last.name, last.headline),
                reservation: last
                    .loss_detected
                    .then(|| format!("{}: within the limit, but a loss is proven.", last.name)),
            },
        },
        HoldOutcome::Falls => missing(format!("{} fell: {}.", last.name, last.headline)),
        HoldOutcome::Undecided => {
            missing(format!("{} is undecided: {}.", last.name, last.headline))
        }
        HoldOutcome::NotApplicable => missing(format!("{} is not a tightness test.", last.name)),
    }
}

/// Every section that fell, leaked or was mended must be held again, as high as it had shown the leak.
fn retest_gate(facts: &GateFacts, order: &Order) -> Option<Gate> {
    let asked: Vec<(&str, crate::order::Again)> = facts
        .all_sections()
        .into_iter()
        .filter_map(|s| Some((s, order.again(s)?)))
        .collect();
    let gate = |met, evidence| {
        Some(Gate {
            code: GateCode::Retest,
            met,
            evidence,
            reservation: None,
        })
    };
    let several = facts.all_sections().len() > 1;
    let of = |section: &str| {
        if several {
            format!(" of {section}")
        } else {
            String::new()
        }
    };
    match asked.iter().find(|(_, a)| a.met_by.is_none()) {
        Some((s, a)) if a.held_lower => gate(
            false,
            format!(
                "The retest{} was at a lower pressure than {}, which showed the leak.",
                of(s),
                a.because
            ),
        ),
        Some((s, a)) => gate(
            false,
            format!("No hold{} has passed since {}.", of(s), a.because),
        ),
        None => {
            let (_, a) = asked.first()?;
            gate(
                true,
                format!(
                    "{} holds at least as high as {}.",
                    a.met_by.clone().unwrap_or_default(),
                    a.because
                ),
            )
        }
    }
}

/// The last decay of each section.
fn decay_gate(facts: &GateFacts, order: &Order) -> Gate {
    if facts.decays.is_empty() {
        return Gate {
            code: GateCode::Decay,
            met: false,
            evidence: "No decay test has been finished.".into(),
            reservation: None,
        };
    }
    let each: Vec<Gate> = facts
        .sections
        .iter()
        .map(|s| section_decay(s, facts, order))
        .collect();
    of_all(GateCode::Decay, &each)
}

fn section_decay(section: &str, facts: &GateFacts, order: &Order) -> Gate {
    let missing = |evidence: String| Gate {
        code: GateCode::Decay,
        met: false,
        evidence,
        reservation: None,
    };
    let Some(last) = facts
        .decays
        .iter()
        .filter(|d| d.sections.iter().any(|s| s == section))
        .max_by_key(|d| d.from_ms)
    else {
        return missing(format!("No decay test of {section} has been finished."));
    };
    match last.outcome {
        DecayOutcome::Passes => match order.undone(section, last.from_ms, Evidence::Decay) {
            Some(why) => missing(format!(
                "{} passed, but {why} after it began: evacuate and test again.",
                last.name
            )),
            None => Gate {
                code: GateCode::Decay,
                met: true,
                evidence: format!("{}: {}.", last.name, last.headline),
                reservation: last
                    .rising
                    .then(|| format!("{} passes, but the vacuum was still rising.", last.name)),
            },
        },
        DecayOutcome::Fails => missing(format!(
            "{} is over its limit: {}.",
            last.name, last.headline
        )),
        DecayOutcome::Undecided => {
            missing(format!("{} is undecided: {}.", last.name, last.headline))
        }
        DecayOutcome::NotApplicable => missing(format!(
            "{} was not isolated, so it is not a decay test.",
            last.name
        )),
    }
}
