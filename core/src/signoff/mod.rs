//! Sign-off: the gates of a job kind with their evidence, overrides with their reason, and the states they allow.

use crate::hold::HoldOutcome;
use crate::procedure::{JobKind, Step};
use crate::reading::named;
use crate::vacuum::DecayOutcome;

named! {
    /// How a circuit may be signed.
    State {
        /// Every gate met.
        Passed = "passed",
        /// Signed with reservations that print.
        PassedWithReservations = "passed_with_reservations",
        /// For now; to be revisited.
        Temporary = "temporary",
        /// Until something outstanding is done.
        Provisional = "provisional",
        /// Not in order.
        Failed = "failed",
    }
}

named! {
    /// What must be shown before a signature.
    GateCode {
        /// A hold with temperature that holds.
        Hold = "hold_with_temperature",
        /// After a fall or a repair, a later hold at least as high.
        Retest = "retest_after_repair",
        /// No suspect place is left open.
        Search = "search_closed",
        /// Boundary valves were checked.
        Boundary = "boundary_valves",
        /// Instruments in date and range.
        Instruments = "instruments",
        /// An isolated decay that passes.
        Decay = "isolation_test",
        /// Cores confirmed.
        Cores = "cores",
        /// Charge weighed.
        Charge = "charge_weighed",
    }
}

impl State {
    /// Name on screen and paper.
    #[must_use]
    pub fn title(self) -> &'static str {
        match self {
            Self::Passed => "Passed",
            Self::PassedWithReservations => "Passed with reservations",
            Self::Temporary => "Temporary, to be revisited",
            Self::Provisional => "Provisional",
            Self::Failed => "Failed",
        }
    }
}

impl GateCode {
    /// Name on screen and paper.
    #[must_use]
    pub fn title(self) -> &'static str {
        match self {
            Self::Hold => "Pressure hold with temperature",
            Self::Retest => "Retest after repair, at least as high",
            Self::Search => "Leak search closed",
            Self::Boundary => "Boundary valves checked",
            Self::Instruments => "Instruments in date and range",
            Self::Decay => "Isolated decay test",
            Self::Cores => "Valve cores confirmed",
            Self::Charge => "Charge weighed in",
        }
    }
}

/// A finished hold, as the gates see it.
#[derive(Debug, Clone, PartialEq)]
pub struct HoldFact {
    /// What it is called on screen ("Hold 2").
    pub name: String,
    /// Section it was made on.
    pub section: String,
    /// Outcome.
    pub outcome: HoldOutcome,
    /// A loss was proven within the limit.
    pub loss_detected: bool,
    /// Highest pressure, Pa gauge.
    pub pressure: f64,
    /// Test pressure it was planned at, Pa gauge.
    pub planned: f64,
    /// The verdict's headline.
    pub headline: String,
}

/// A finished decay, as the gates see it.
#[derive(Debug, Clone, PartialEq)]
pub struct DecayFact {
    /// What it is called on screen.
    pub name: String,
    /// Outcome.
    pub outcome: DecayOutcome,
    /// Passed, but rising.
    pub rising: bool,
    /// The verdict's headline.
    pub headline: String,
}

/// All the gates look at. Lists in the order things happened.
#[derive(Debug, Clone, PartialEq)]
pub struct Facts {
    /// Kind of job.
    pub kind: JobKind,
    /// Finished holds.
    pub holds: Vec<HoldFact>,
    /// Finished decays.
    pub decays: Vec<DecayFact>,
    /// Confirmed steps with their notes.
    pub steps: Vec<(Step, String)>,
    /// Finished holds at each repair.
    pub repairs: Vec<usize>,
    /// Suspect places that are still open, in words.
    pub open_places: Vec<String>,
    /// What was wrong with an instrument during a finished test, in words.
    pub instrument_marks: Vec<String>,
    /// Sections that must each hold.
    pub sections: Vec<String>,
}

/// A gate and whether it is met.
#[derive(Debug, Clone, PartialEq)]
pub struct Gate {
    /// Which.
    pub code: GateCode,
    /// Met by evidence (an override does not make it met).
    pub met: bool,
    /// The evidence, or what is missing.
    pub evidence: String,
    /// Something the record must say although the gate is met.
    pub reservation: Option<String>,
}

/// How far below its plan a hold's pressure may be and still count as that test (common practice).
const PRESSURE_TOLERANCE: f64 = 0.03;

/// Lists the gates of a job with their evidence.
#[must_use]
pub fn gates(facts: &Facts) -> Vec<Gate> {
    let gate = |code, met, evidence: String| Gate { code, met, evidence, reservation: None };
    let confirmed = |code, step: Step| match facts.steps.iter().rev().find(|s| s.0 == step) {
        Some((_, note)) if !note.trim().is_empty() => gate(code, true, note.clone()),
        Some(_) => gate(code, true, "confirmed".into()),
        None => gate(code, false, format!("Not confirmed yet: {}.", step.title().to_lowercase())),
    };
    let mut out = vec![hold_gate(facts)];
    out.extend(retest_gate(facts));
    if !facts.open_places.is_empty() {
        out.push(gate(GateCode::Search, false, format!("Still open: {}.", facts.open_places.join("; "))));
    }
    out.push(confirmed(GateCode::Boundary, Step::BoundaryValves));
    out.push(match facts.instrument_marks.as_slice() {
        [] => confirmed(GateCode::Instruments, Step::Instruments),
        marks => gate(GateCode::Instruments, false, marks.join(" ")),
    });
    if facts.kind.has_vacuum() {
        out.push(decay_gate(facts));
        out.push(confirmed(GateCode::Cores, Step::Cores));
    }
    if facts.kind.has_charge() {
        out.push(confirmed(GateCode::Charge, Step::ChargeWeighed));
    }
    out
}

/// The last hold of each section that must hold; the worst of them decides.
fn hold_gate(facts: &Facts) -> Gate {
    let mut sections: Vec<&str> = facts.sections.iter().map(String::as_str).collect();
    sections.extend(facts.holds.iter().map(|h| h.section.as_str()));
    sections.sort_unstable();
    sections.dedup();
    if sections.is_empty() || facts.holds.is_empty() {
        return Gate { code: GateCode::Hold, met: false, evidence: "No hold has been finished.".into(), reservation: None };
    }
    let each: Vec<Gate> = sections.iter().map(|s| section_gate(s, facts)).collect();
    Gate {
        code: GateCode::Hold,
        met: each.iter().all(|g| g.met),
        evidence: each.iter().find(|g| !g.met).map_or_else(|| each.iter().map(|g| g.evidence.as_str()).collect::<Vec<_>>().join(" "), |g| g.evidence.clone()),
        reservation: Some(each.iter().filter_map(|g| g.reservation.as_deref()).collect::<Vec<_>>().join(" ")).filter(|r| !r.is_empty()),
    }
}

fn section_gate(section: &str, facts: &Facts) -> Gate {
    let missing = |evidence: String| Gate { code: GateCode::Hold, met: false, evidence, reservation: None };
    let Some(last) = facts.holds.iter().rev().find(|h| h.section == section) else {
        return missing(format!("No hold of {section} has been finished."));
    };
    match last.outcome {
        HoldOutcome::Holds if last.pressure < last.planned * (1.0 - PRESSURE_TOLERANCE) => {
            missing(format!("{} was held below its test pressure: only {:.0} % of it was reached.", last.name, 100.0 * last.pressure / last.planned))
        }
        HoldOutcome::Holds => Gate {
            code: GateCode::Hold,
            met: true,
            evidence: format!("{}: {}.", last.name, last.headline),
            reservation: last.loss_detected.then(|| format!("{}: within the limit, but a loss is proven.", last.name)),
        },
        HoldOutcome::Falls => missing(format!("{} fell: {}.", last.name, last.headline)),
        HoldOutcome::Undecided => missing(format!("{} is undecided: {}.", last.name, last.headline)),
        HoldOutcome::NotApplicable => missing(format!("{} is not a tightness test.", last.name)),
    }
}

fn retest_gate(facts: &Facts) -> Option<Gate> {
    let fell = facts.holds.iter().rposition(|h| h.outcome == HoldOutcome::Falls);
    let repaired = facts.repairs.iter().copied().max();
    if fell.is_none() && repaired.is_none() {
        return None;
    }
    let from = fell.map_or(0, |i| i + 1).max(repaired.unwrap_or(0));
    let needed = fell.map_or(0.0, |i| facts.holds[i].pressure);
    let section = fell.map(|i| facts.holds[i].section.as_str());
    let later: Vec<&HoldFact> = facts.holds.iter().skip(from).filter(|h| h.outcome == HoldOutcome::Holds && section.is_none_or(|s| h.section == s)).collect();
    let high = later.iter().find(|h| h.pressure >= needed * (1.0 - PRESSURE_TOLERANCE));
    Some(Gate {
        code: GateCode::Retest,
        met: high.is_some(),
        reservation: None,
        evidence: match (high, later.is_empty()) {
            (Some(h), _) => format!("{} holds at least as high as the test that showed the leak.", h.name),
            (None, false) => "The retest was at a lower pressure than the test that showed the leak.".into(),
            (None, true) => "No hold has passed since.".into(),
        },
    })
}

fn decay_gate(facts: &Facts) -> Gate {
    let missing = |evidence: String| Gate { code: GateCode::Decay, met: false, evidence, reservation: None };
    let Some(last) = facts.decays.last() else { return missing("No decay test has been finished.".into()) };
    match last.outcome {
        DecayOutcome::Passes => Gate {
            code: GateCode::Decay,
            met: true,
            evidence: format!("{}: {}.", last.name, last.headline),
            reservation: last.rising.then(|| format!("{} passes, but the vacuum was still rising.", last.name)),
        },
        DecayOutcome::Fails => missing(format!("{} is over its limit: {}.", last.name, last.headline)),
        DecayOutcome::Undecided => missing(format!("{} is undecided: {}.", last.name, last.headline)),
        DecayOutcome::NotApplicable => missing(format!("{} was not isolated, so it is not a decay test.", last.name)),
    }
}

/// The states a circuit may be signed in, given which missing gates were overridden. Empty: blocked.
#[must_use]
pub fn allowed_states(gates: &[Gate], overridden: &[GateCode]) -> Vec<State> {
    let blocked = gates.iter().any(|g| !g.met && !overridden.contains(&g.code));
    let reserved = gates.iter().any(|g| !g.met || g.reservation.is_some());
    match (blocked, reserved) {
        (true, _) => vec![],
        (false, true) => vec![State::PassedWithReservations, State::Temporary, State::Provisional, State::Failed],
        (false, false) => vec![State::Passed, State::Temporary, State::Provisional, State::Failed],
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn hold(outcome: HoldOutcome, psig: f64) -> HoldFact {
        HoldFact { name: "Hold".into(), section: "all".into(), outcome, loss_detected: false, pressure: psig, planned: psig, headline: "Tight".into() }
    }
    fn facts(holds: Vec<HoldFact>) -> Facts {
        Facts {
            kind: JobKind::BenchComponent,
            holds,
            decays: vec![],
            steps: vec![(Step::BoundaryValves, "done".into()), (Step::Instruments, "done".into())],
            repairs: vec![],
            open_places: vec![],
            instrument_marks: vec![],
            sections: vec![],
        }
    }
    fn missing(f: &Facts) -> Vec<GateCode> {
        gates(f).into_iter().filter(|g| !g.met).map(|g| g.code).collect()
    }

    #[test]
    fn a_bench_component_needs_no_vacuum_and_no_charge() {
        assert_eq!(missing(&facts(vec![hold(HoldOutcome::Holds, 300.0)])), vec![]);
        let split = Facts { kind: JobKind::NewSplit, ..facts(vec![hold(HoldOutcome::Holds, 300.0)]) };
        assert_eq!(missing(&split), vec![GateCode::Decay, GateCode::Cores, GateCode::Charge]);
    }

    #[test]
    fn a_retest_must_be_at_least_as_high_as_the_fall() {
        let low = facts(vec![hold(HoldOutcome::Falls, 450.0), hold(HoldOutcome::Holds, 200.0)]);
        assert_eq!(missing(&low), vec![GateCode::Retest]);
        let high = facts(vec![hold(HoldOutcome::Falls, 450.0), hold(HoldOutcome::Holds, 450.0)]);
        assert_eq!(missing(&high), vec![]);
    }

    #[test]
    fn a_repair_after_the_last_hold_asks_for_another() {
        let f = Facts { repairs: vec![1], ..facts(vec![hold(HoldOutcome::Holds, 300.0)]) };
        assert_eq!(missing(&f), vec![GateCode::Retest]);
    }

    #[test]
    fn every_section_under_test_must_hold() {
        let of = |section: &str, outcome| HoldFact { section: section.into(), ..hold(outcome, 300.0) };
        let one = Facts { sections: vec!["line".into(), "rack".into()], ..facts(vec![of("line", HoldOutcome::Holds)]) };
        assert_eq!(missing(&one), vec![GateCode::Hold]);
        assert!(gates(&one)[0].evidence.contains("No hold of rack"));
        let both = Facts { holds: vec![of("rack", HoldOutcome::Falls), of("rack", HoldOutcome::Holds), of("line", HoldOutcome::Holds)], ..one };
        assert_eq!(missing(&both), vec![]);
    }

    #[test]
    fn an_open_place_and_a_gauge_out_of_date_stand_in_the_way() {
        let good = facts(vec![hold(HoldOutcome::Holds, 300.0)]);
        let f = Facts { open_places: vec!["flare: unconfirmed hit".into()], instrument_marks: vec!["Gauge out of date.".into()], ..good };
        assert_eq!(missing(&f), vec![GateCode::Search, GateCode::Instruments]);
    }

    #[test]
    fn an_override_opens_the_door_only_with_reservations() {
        let g = gates(&facts(vec![hold(HoldOutcome::Undecided, 300.0)]));
        assert!(allowed_states(&g, &[]).is_empty());
        let states = allowed_states(&g, &[GateCode::Hold]);
        assert!(!states.contains(&State::Passed) && states.contains(&State::PassedWithReservations));
        let reservation = HoldFact { loss_detected: true, ..hold(HoldOutcome::Holds, 300.0) };
        assert!(!allowed_states(&gates(&facts(vec![reservation])), &[]).contains(&State::Passed));
    }
}
