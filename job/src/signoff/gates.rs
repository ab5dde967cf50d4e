//! The gates of a job with their evidence.

use super::fine::{by_day, not_fine};
use super::{ChargeFact, Gate, GateCode, GateFacts, HoldFact, PortsFact, StartFact};
use crate::order::{Evidence, Order, is_as_high};
use crate::procedure::Step;
use crate::startup::SetWord;
use ruhe_core::hold::HoldOutcome;
use ruhe_core::vacuum::DecayOutcome;

/// Lists the gates of a visit with their evidence. They follow from what was opened: what nobody touched since it was
/// last shown asks for nothing, and what an earlier visit showed is said.
#[must_use]
pub fn gates(facts: &GateFacts) -> Vec<Gate> {
    let order = facts.order();
    let mut out: Vec<Gate> = vec![];
    let hold = hold_gate(facts, &order);
    let is_held = hold.is_some();
    out.extend(hold);
    if is_held {
        out.push(fine_gate(facts, &order));
    }
    out.extend(retest_gate(facts, &order));
    if !facts.open_places.is_empty() {
        let words = format!("Still open: {}.", facts.open_places.join("; "));
        let gate = Gate::new(GateCode::Search, false, words);
        out.push(if facts.has_open_leak {
            gate.last()
        } else {
            gate
        });
    }
    if is_held {
        out.push(confirmed(facts, GateCode::Boundary, Step::BoundaryValves));
    }
    let decay = facts
        .kind
        .has_vacuum()
        .then(|| decay_gate(facts, &order))
        .flatten();
    if is_held || decay.is_some() || !facts.instrument_marks.is_empty() {
        out.push(match facts.instrument_marks.as_slice() {
            [] => confirmed(facts, GateCode::Instruments, Step::Instruments),
            marks => Gate::new(GateCode::Instruments, false, marks.join(" ")),
        });
    }
    out.extend(decay);
    out.extend(facts.ports.as_ref().map(ports_gate));
    out.extend(facts.charge.as_ref().map(charge_gate));
    if let Some(start) = &facts.start {
        let stems = facts.steps.iter().any(|s| s.0 == Step::StemsOpen);
        out.push(start_gate(start, stems));
    }
    // What an earlier visit was signed with, and nothing asks for again.
    for (code, met, words) in &facts.before {
        if !out.iter().any(|g| g.code == *code) && *met && is_carried(*code) {
            out.push(Gate {
                is_carried: true,
                ..Gate::new(*code, true, words.clone())
            });
        }
    }
    out.push(match &facts.inside {
        Some(why) => Gate::new(GateCode::Inside, false, why.clone()).last(),
        None => Gate::new(
            GateCode::Inside,
            true,
            format!("{}.", facts.stands.join(" · ")),
        ),
    });
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

/// What was shown once stays shown until something is opened.
const fn is_carried(code: GateCode) -> bool {
    matches!(
        code,
        GateCode::Hold
            | GateCode::Fine
            | GateCode::Decay
            | GateCode::Charge
            | GateCode::Ports
            | GateCode::StartUp
    )
}

fn confirmed(facts: &GateFacts, code: GateCode, step: Step) -> Gate {
    match facts.steps.iter().rev().find(|s| s.0 == step) {
        Some((_, note)) if !note.trim().is_empty() => Gate::new(code, true, note.clone()),
        Some(_) => Gate::new(code, true, "confirmed".into()),
        None => Gate::new(
            code,
            false,
            format!("Not confirmed yet: {}.", step.title().to_lowercase()),
        ),
    }
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
    let evidence = each.iter().find(|g| !g.met).map_or_else(
        || together(each.iter().map(|g| g.evidence.as_str()).collect()),
        |g| g.evidence.clone(),
    );
    let reserved = together(
        each.iter()
            .filter_map(|g| g.reservation.as_deref())
            .collect(),
    );
    Gate {
        can_be_answered: each.iter().all(|g| g.met || g.can_be_answered),
        ..Gate::new(code, each.iter().all(|g| g.met), evidence)
            .reserved(Some(reserved).filter(|r| !r.is_empty()))
    }
}

/// The last hold of each section that was opened; the worst of them decides. `None`: nothing was, and nothing was held.
fn hold_gate(facts: &GateFacts, order: &Order) -> Option<Gate> {
    let was_held = |s: &str| {
        facts
            .holds
            .iter()
            .any(|h| h.sections.iter().any(|x| x == s))
    };
    let asked: Vec<&str> = facts
        .all_sections()
        .into_iter()
        .filter(|s| was_held(s) || !facts.untouched.iter().any(|u| u == s))
        .collect();
    if asked.is_empty() {
        return None;
    }
    if facts.holds.is_empty() {
        let words = "No hold has been finished.";
        return Some(Gate::new(GateCode::Hold, false, words.into()));
    }
    let each: Vec<Gate> = asked
        .into_iter()
        .map(|s| section_gate(s, facts, order))
        .collect();
    Some(of_all(GateCode::Hold, &each))
}

fn section_gate(section: &str, facts: &GateFacts, order: &Order) -> Gate {
    let missing = |evidence: String| Gate::new(GateCode::Hold, false, evidence);
    let of = |h: &&HoldFact| h.sections.iter().any(|s| s == section);
    // One that is too low or too old to show anything takes nothing back from one that does.
    let speaks = |h: &&HoldFact| {
        h.outcome != HoldOutcome::Holds || (h.too_low.is_none() && h.too_old.is_none())
    };
    let all = || facts.holds.iter().filter(of);
    let last = all().filter(speaks).max_by_key(|h| h.from_ms);
    let Some(last) = last.or_else(|| all().max_by_key(|h| h.from_ms)) else {
        return missing(format!("No hold of {section} has been finished."));
    };
    if let Some(why) = last.too_old.as_ref().or(last.too_low.as_ref()) {
        return missing(format!("{}: {why}", last.name));
    }
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
            None => Gate::new(
                GateCode::Hold,
                true,
                format!("{}: {}. {}", last.name, last.headline, last.proves)
                    .trim_end()
                    .into(),
            )
            .reserved(
                last.loss_detected
                    .then(|| format!("{}: within the limit, but a loss is proven.", last.name)),
            ),
        },
        // A proven leak: nobody can answer for it.
        HoldOutcome::Falls => missing(format!("{} fell: {}.", last.name, last.headline)).last(),
        HoldOutcome::Undecided => {
            missing(format!("{} is undecided: {}.", last.name, last.headline))
        }
        HoldOutcome::NotApplicable => missing(format!("{} is not a tightness test.", last.name)),
    }
}

/// Every joint made today and every port, looked at under pressure; or a day's hold.
fn fine_gate(facts: &GateFacts, order: &Order) -> Gate {
    let gate = |met, evidence: String| Gate::new(GateCode::Fine, met, evidence);
    let f = &facts.fine;
    if by_day(&facts.holds, &facts.all_sections(), order) {
        return gate(true, "Held for a day and more.".into());
    }
    if f.names_no_joint {
        let words = "Pipes were joined, and no joint of them is named in the survey: an empty list is not all \
             looked at.";
        return gate(false, words.into());
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
    Gate::new(GateCode::Ports, p.is_kept && p.open.is_empty(), evidence)
        .reserved(Some(p.deviations.join(" ")).filter(|d| !d.is_empty()))
}

/// The ledger against the target.
fn charge_gate(c: &ChargeFact) -> Gate {
    let gate = |met, evidence: String, reservation: Option<String>| {
        Gate::new(GateCode::Charge, met, evidence).reserved(reservation)
    };
    if let Some(stop) = c.stops.first() {
        return gate(false, stop.clone(), None);
    }
    if let Some(words) = &c.topped_up {
        return match c.reason.trim() {
            _ if c.sum.unweighed > 0 => gate(
                false,
                format!("{words}, and not all of it was weighed."),
                None,
            ),
            "" => gate(false, format!("{words}: say in the arrival why."), None),
            why => gate(
                true,
                format!("{words}. Why: {}.", why.trim_end_matches('.')),
                Some(format!("{words}, and where the charge went is not shown.")),
            ),
        };
    }
    let Some(b) = &c.balance else {
        let words = "Nobody has said what the maker wants inside.";
        return gate(false, words.into(), None);
    };
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

pub(crate) fn capital(text: &str) -> String {
    let mut letters = text.chars();
    letters.next().map_or_else(String::new, |c| {
        c.to_uppercase().collect::<String>() + letters.as_str()
    })
}

/// Started with the stems open, and at rest.
fn start_gate(s: &StartFact, stems: bool) -> Gate {
    let gate = |met, evidence: String, reservation: Option<String>| {
        Gate::new(GateCode::StartUp, met, evidence).reserved(reservation)
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
    // What fell or leaked was proven: only a hold takes it back.
    let gate = |met, evidence| Some(Gate::new(GateCode::Retest, met, evidence).last());
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

/// The last decay of each section that something came into. `None`: nothing did, and nothing was tested.
fn decay_gate(facts: &GateFacts, order: &Order) -> Option<Gate> {
    let was_tested = |s: &str| {
        facts
            .decays
            .iter()
            .any(|d| d.sections.iter().any(|x| x == s))
    };
    let asked: Vec<&str> = facts
        .sections
        .iter()
        .map(String::as_str)
        .filter(|s| {
            // A part or a line set may be left under nitrogen: it is evacuated when its unit is there.
            let will_hold = facts.kind.has_charge() && !facts.dry.iter().any(|d| d == s);
            was_tested(s) || will_hold
        })
        .collect();
    if asked.is_empty() {
        return None;
    }
    if facts.decays.is_empty() {
        let words = "No decay test has been finished.";
        return Some(Gate::new(GateCode::Decay, false, words.into()));
    }
    let each: Vec<Gate> = asked
        .into_iter()
        .map(|s| section_decay(s, facts, order))
        .collect();
    Some(of_all(GateCode::Decay, &each))
}

/// Why a decay that began then says nothing of what is there now.
fn no_longer(section: &str, from_ms: i64, facts: &GateFacts, order: &Order) -> Option<String> {
    order.undone(section, from_ms, Evidence::Decay).or_else(|| {
        // A charge must meet nothing else; what is left under nitrogen may.
        let came = facts
            .soiled
            .iter()
            .any(|(s, at)| s == section && *at > from_ms);
        (came && facts.kind.has_charge()).then(|| "nitrogen or air came in".into())
    })
}

fn section_decay(section: &str, facts: &GateFacts, order: &Order) -> Gate {
    let missing = |evidence: String| Gate::new(GateCode::Decay, false, evidence);
    let Some(last) = facts
        .decays
        .iter()
        .filter(|d| d.sections.iter().any(|s| s == section))
        .max_by_key(|d| d.from_ms)
    else {
        return missing(format!("No decay test of {section} has been finished."));
    };
    if let Some(why) = &last.too_old {
        return missing(format!("{}: {why}", last.name));
    }
    match last.outcome {
        DecayOutcome::Passes if last.stands_wet => missing(format!(
            "{} keeps its own limit, but it ended above 4584 micron, where liquid water stands: {}.",
            last.name, last.headline
        )),
        DecayOutcome::Passes => match no_longer(section, last.from_ms, facts, order) {
            Some(why) => missing(format!(
                "{} passed, but {why} after it began: evacuate and test again.",
                last.name
            )),
            None => Gate::new(
                GateCode::Decay,
                true,
                format!("{}: {}.", last.name, last.headline),
            )
            .reserved(
                last.rising
                    .then(|| {
                        if last.leak_likely {
                            format!("{} passes its rule, but a leak is likely.", last.name)
                        } else {
                            format!("{} passes, but the vacuum was still rising.", last.name)
                        }
                    })
                    .or(last.is_lax.then(|| {
                        format!(
                            "{} keeps a limit of one’s own, above 1000 micron.",
                            last.name
                        )
                    })),
            ),
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
