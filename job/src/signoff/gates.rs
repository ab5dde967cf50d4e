//! The gates of a job with their evidence.

use super::fine::{by_day, not_fine};
use super::{ChargeFact, Gate, GateCode, GateFacts, PortsFact, StartFact};
use crate::order::{Evidence, Order, is_as_high};
use crate::procedure::Step;
use crate::startup::SetWord;
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
    out.push(fine_gate(facts, &order));
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
    }
    out.extend(facts.ports.as_ref().map(ports_gate));
    out.extend(facts.charge.as_ref().map(charge_gate));
    if let Some(start) = &facts.start {
        let stems = facts.steps.iter().any(|s| s.0 == Step::StemsOpen);
        out.push(start_gate(start, stems));
    }
    for place in &facts.without_consent {
        reserve(
            &mut out,
            GateCode::Hold,
            &format!("Nobody agreed to the risky repair at {place}."),
        );
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
                evidence: format!("{}: {}. {}", last.name, last.headline, last.proves)
                    .trim_end()
                    .into(),
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

/// Every joint made today and every port, looked at under pressure; or a day's hold.
fn fine_gate(facts: &GateFacts, order: &Order) -> Gate {
    let gate = |met, evidence: String| Gate {
        code: GateCode::Fine,
        met,
        evidence,
        reservation: None,
    };
    let f = &facts.fine;
    if by_day(&facts.holds, &facts.all_sections(), order) {
        return gate(true, "Held for a day and more.".into());
    }
    if f.places.is_empty() {
        let words = "Nothing to look at is named: no joint in the survey, no port in the register.";
        return gate(false, words.into());
    }
    let open: Vec<String> = f
        .places
        .iter()
        .filter_map(|p| {
            let why = not_fine(p, &f.looks, &facts.holds, f.has_tracer, order)?;
            Some(format!("{}: {why}", p.name))
        })
        .collect();
    if open.is_empty() {
        let what = match f.places.len() {
            1 => "The one joint or port".to_owned(),
            n => format!("All {n} joints and ports"),
        };
        return gate(
            true,
            format!("{what} looked at under test pressure, clear."),
        );
    }
    gate(
        false,
        format!(
            "{} of {} open. {}.",
            open.len(),
            f.places.len(),
            shortened(&open)
        ),
    )
}

/// A list that is read at a glance: what is left beyond three is counted.
fn shortened(list: &[String]) -> String {
    let shown = list.iter().take(3).cloned().collect::<Vec<_>>().join("; ");
    match list.len().saturating_sub(3) {
        0 => shown,
        n => format!("{shown}; and {n} more"),
    }
}

/// Every port closed, clear, capped.
fn ports_gate(p: &PortsFact) -> Gate {
    let evidence = match (p.is_kept, p.open.is_empty()) {
        (false, _) => "The register of ports has not been filled in.".into(),
        (true, true) => format!("All {} ports closed, clear, capped.", p.count),
        (true, false) => format!("{}.", shortened(&p.open)),
    };
    Gate {
        code: GateCode::Ports,
        met: p.is_kept && p.open.is_empty(),
        evidence,
        reservation: Some(p.deviations.join(" ")).filter(|d| !d.is_empty()),
    }
}

/// The ledger against the target.
fn charge_gate(c: &ChargeFact) -> Gate {
    let gate = |met, evidence: String, reservation: Option<String>| Gate {
        code: GateCode::Charge,
        met,
        evidence,
        reservation,
    };
    let Some(b) = &c.balance else {
        let words = "Nobody has said what the maker wants inside.";
        return gate(false, words.into(), None);
    };
    if let Some(stop) = c.stops.first() {
        return gate(false, stop.clone(), None);
    }
    if c.sum.counted == 0 && !c.wants_nothing {
        return gate(false, "Nothing has been weighed in.".into(), None);
    }
    if b.is_far {
        return gate(false, format!("{}.", capital(&b.words)), None);
    }
    let mut reserved: Vec<String> = c.remarks.clone();
    if !b.is_within {
        let by = c.tolerance.clone().unwrap_or_default();
        reserved.push(format!("Outside the tolerance: {by}."));
    }
    match c.sum.unweighed {
        0 => {}
        1 => reserved.push("One row was not weighed.".into()),
        n => reserved.push(format!("{n} rows were not weighed.")),
    }
    gate(
        true,
        format!("{}.", capital(&b.words)),
        Some(reserved.join(" ")).filter(|r| !r.is_empty()),
    )
}

fn capital(text: &str) -> String {
    let mut letters = text.chars();
    letters.next().map_or_else(String::new, |c| {
        c.to_uppercase().collect::<String>() + letters.as_str()
    })
}

/// Started with the stems open, and at rest.
fn start_gate(s: &StartFact, stems: bool) -> Gate {
    let gate = |met, evidence: String, reservation: Option<String>| Gate {
        code: GateCode::StartUp,
        met,
        evidence,
        reservation,
    };
    if !stems {
        let words = "Not confirmed yet: service valves fully open, before the power goes on.";
        return gate(false, words.into(), None);
    }
    match &s.steadiness {
        None => gate(false, "No reading set of the running unit.".into(), None),
        Some(x) if !x.is_steady => gate(false, x.words.clone(), None),
        Some(x) => gate(
            true,
            x.words.clone(),
            (x.word == SetWord::OffTarget).then(|| x.words.clone()),
        ),
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
