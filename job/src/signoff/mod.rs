//! Sign-off: the gates of a job kind with their evidence, overrides with their reason, and the states they allow.

use crate::order::{Evidence, Happening, Order, What, is_as_high};
use crate::procedure::{JobKind, Step};
use ruhe_core::hold::HoldOutcome;
use ruhe_core::named;
use ruhe_core::vacuum::DecayOutcome;

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
    /// When it began, ms since 1970.
    pub from_ms: i64,
    /// Sections it was made on: all that the gas reached.
    pub sections: Vec<String>,
    /// Outcome.
    pub outcome: HoldOutcome,
    /// A loss was proven within the limit.
    pub loss_detected: bool,
    /// Pressure it stood at when it began to count, Pa gauge.
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
    /// When it began, ms since 1970.
    pub from_ms: i64,
    /// Sections that were under vacuum together.
    pub sections: Vec<String>,
    /// Outcome.
    pub outcome: DecayOutcome,
    /// Passed, but rising.
    pub rising: bool,
    /// The verdict's headline.
    pub headline: String,
}

/// Holds and what else happened, in the order of time.
#[must_use]
pub fn in_order(holds: &[HoldFact], happened: &[Happening]) -> Order {
    let held = holds.iter().map(HoldFact::entry);
    Order::new(held.chain(happened.iter().cloned()).collect())
}

/// All the gates look at. Tests in the order they began.
#[derive(Debug, Clone, PartialEq)]
pub struct GateFacts {
    /// Kind of job.
    pub kind: JobKind,
    /// Finished holds.
    pub holds: Vec<HoldFact>,
    /// Finished decays.
    pub decays: Vec<DecayFact>,
    /// Confirmed steps with their notes.
    pub steps: Vec<(Step, String)>,
    /// Leaks found, repairs, openings and cores moved.
    pub happened: Vec<Happening>,
    /// Suspect places that are still open, in words.
    pub open_places: Vec<String>,
    /// What was wrong with an instrument during a finished test, in words.
    pub instrument_marks: Vec<String>,
    /// What was struck out though it spoke against a gate, in words.
    pub struck: Vec<(GateCode, String)>,
    /// Sections that must each hold and be evacuated; at least one.
    pub sections: Vec<String>,
}

impl HoldFact {
    /// The hold as something that happened.
    #[must_use]
    pub fn entry(&self) -> Happening {
        let what = What::Held {
            name: self.name.clone(),
            holds: self.outcome == HoldOutcome::Holds,
            falls: self.outcome == HoldOutcome::Falls,
            pressure: self.pressure,
        };
        Happening {
            at_ms: self.from_ms,
            sections: self.sections.clone(),
            what,
        }
    }
}

impl GateFacts {
    /// Everything that bears on evidence, in the order of time.
    #[must_use]
    pub fn order(&self) -> Order {
        in_order(&self.holds, &self.happened)
    }
    /// The sections that must be shown tight: those named, and those a hold was made on.
    fn all_sections(&self) -> Vec<&str> {
        let mut out: Vec<&str> = self.sections.iter().map(String::as_str).collect();
        for s in self.holds.iter().flat_map(|h| &h.sections) {
            if !out.contains(&s.as_str()) {
                out.push(s);
            }
        }
        out
    }
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

/// The states a circuit may be signed in, given which missing gates were overridden. Empty: blocked.
#[must_use]
pub fn allowed_states(gates: &[Gate], overridden: &[GateCode]) -> Vec<State> {
    let blocked = gates
        .iter()
        .any(|g| !g.met && !overridden.contains(&g.code));
    let reserved = gates.iter().any(|g| !g.met || g.reservation.is_some());
    match (blocked, reserved) {
        (true, _) => vec![],
        (false, true) => vec![
            State::PassedWithReservations,
            State::Temporary,
            State::Provisional,
            State::Failed,
        ],
        (false, false) => vec![
            State::Passed,
            State::Temporary,
            State::Provisional,
            State::Failed,
        ],
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn hold(from_ms: i64, outcome: HoldOutcome, psig: f64) -> HoldFact {
        HoldFact {
            name: "Hold".into(),
            from_ms,
            sections: vec!["all".into()],
            outcome,
            loss_detected: false,
            pressure: psig,
            planned: psig,
            headline: "Tight".into(),
        }
    }
    fn facts(holds: Vec<HoldFact>) -> GateFacts {
        GateFacts {
            kind: JobKind::BenchComponent,
            holds,
            decays: vec![],
            steps: vec![
                (Step::BoundaryValves, "done".into()),
                (Step::Instruments, "done".into()),
            ],
            happened: vec![],
            open_places: vec![],
            instrument_marks: vec![],
            struck: vec![],
            sections: vec!["all".into()],
        }
    }
    fn missing(f: &GateFacts) -> Vec<GateCode> {
        gates(f)
            .into_iter()
            .filter(|g| !g.met)
            .map(|g| g.code)
            .collect()
    }
    fn mended(at_ms: i64) -> Happening {
        Happening {
            at_ms,
            sections: vec![],
            what: What::Mended {
                place: "flare".into(),
            },
        }
    }

    #[test]
    fn a_bench_component_needs_no_vacuum_and_no_charge() {
        assert_eq!(
            missing(&facts(vec![hold(1, HoldOutcome::Holds, 300.0)])),
            vec![]
        );
        let split = GateFacts {
            kind: JobKind::NewSplit,
            ..facts(vec![hold(1, HoldOutcome::Holds, 300.0)])
        };
        assert_eq!(
            missing(&split),
            vec![GateCode::Decay, GateCode::Cores, GateCode::Charge]
        );
    }

    #[test]
    fn a_retest_must_be_at_least_as_high_as_the_highest_fall() {
        let low = facts(vec![
            hold(1, HoldOutcome::Falls, 450.0),
            hold(2, HoldOutcome::Falls, 175.0),
            hold(3, HoldOutcome::Holds, 175.0),
        ]);
        assert_eq!(missing(&low), vec![GateCode::Retest]);
        let high = facts(vec![
            hold(1, HoldOutcome::Falls, 450.0),
            hold(2, HoldOutcome::Holds, 450.0),
        ]);
        assert_eq!(missing(&high), vec![]);
    }

    #[test]
    fn what_comes_after_a_test_takes_its_gate_back() {
        let f = GateFacts {
            happened: vec![mended(5)],
            ..facts(vec![hold(1, HoldOutcome::Holds, 300.0)])
        };
        assert_eq!(missing(&f), vec![GateCode::Hold, GateCode::Retest]);
        let decay = |from_ms| DecayFact {
            name: "Decay 1".into(),
            from_ms,
            sections: vec!["all".into()],
            outcome: DecayOutcome::Passes,
            rising: false,
            headline: "270 micron".into(),
        };
        let job = |decay_ms, happened| GateFacts {
            kind: JobKind::NewSplit,
            decays: vec![decay(decay_ms)],
            happened,
            ..facts(vec![
                hold(1, HoldOutcome::Holds, 300.0),
                hold(9, HoldOutcome::Holds, 300.0),
            ])
        };
        assert!(!missing(&job(2, vec![])).contains(&GateCode::Decay));
        let opened = Happening {
            at_ms: 5,
            sections: vec![],
            what: What::Opened,
        };
        for disturbance in [
            mended(5),
            opened,
            Happening {
                at_ms: 5,
                sections: vec![],
                what: What::CoreMoved,
            },
        ] {
            assert!(
                missing(&job(2, vec![disturbance.clone()])).contains(&GateCode::Decay),
                "{disturbance:?}"
            );
            assert!(!missing(&job(7, vec![disturbance])).contains(&GateCode::Decay));
        }
        let mut fell = job(2, vec![]);
        fell.holds.insert(1, hold(5, HoldOutcome::Falls, 300.0));
        assert!(
            gates(&fell)
                .iter()
                .any(|g| g.code == GateCode::Decay && !g.met && g.evidence.contains("Hold fell"))
        );
    }

    #[test]
    fn every_section_under_test_must_hold_and_be_evacuated() {
        let of = |section: &str, from_ms, outcome| HoldFact {
            sections: vec![section.into()],
            ..hold(from_ms, outcome, 300.0)
        };
        let one = GateFacts {
            sections: vec!["line".into(), "rack".into()],
            ..facts(vec![of("line", 1, HoldOutcome::Holds)])
        };
        assert_eq!(missing(&one), vec![GateCode::Hold]);
        assert!(gates(&one)[0].evidence.contains("No hold of rack"));
        let both = GateFacts {
            holds: vec![
                of("rack", 1, HoldOutcome::Falls),
                of("rack", 2, HoldOutcome::Holds),
                of("line", 3, HoldOutcome::Holds),
            ],
            ..one.clone()
        };
        assert_eq!(missing(&both), vec![]);
        // The rack fell; the line set's hold proves nothing of it.
        let other = GateFacts {
            holds: vec![
                of("rack", 1, HoldOutcome::Falls),
                of("line", 3, HoldOutcome::Holds),
            ],
            ..one
        };
        assert_eq!(missing(&other), vec![GateCode::Hold, GateCode::Retest]);
        let decay = DecayFact {
            name: "Decay 1".into(),
            from_ms: 9,
            sections: vec!["line".into()],
            outcome: DecayOutcome::Passes,
            rising: false,
            headline: "270 micron".into(),
        };
        let vacuum = GateFacts {
            kind: JobKind::NewSplit,
            decays: vec![decay],
            ..both
        };
        assert!(
            gates(&vacuum)
                .iter()
                .any(|g| g.code == GateCode::Decay && !g.met && g.evidence.contains("rack"))
        );
    }

    #[test]
    fn an_open_place_and_a_gauge_out_of_date_stand_in_the_way() {
        let good = facts(vec![hold(1, HoldOutcome::Holds, 300.0)]);
        let f = GateFacts {
            open_places: vec!["flare: unconfirmed hit".into()],
            instrument_marks: vec!["Gauge out of date.".into()],
            ..good
        };
        assert_eq!(missing(&f), vec![GateCode::Search, GateCode::Instruments]);
    }

    #[test]
    fn an_override_opens_the_door_only_with_reservations() {
        let g = gates(&facts(vec![hold(1, HoldOutcome::Undecided, 300.0)]));
        assert!(allowed_states(&g, &[]).is_empty());
        let states = allowed_states(&g, &[GateCode::Hold]);
        assert!(
            !states.contains(&State::Passed) && states.contains(&State::PassedWithReservations)
        );
        let reservation = HoldFact {
            loss_detected: true,
            ..hold(1, HoldOutcome::Holds, 300.0)
        };
        assert!(!allowed_states(&gates(&facts(vec![reservation])), &[]).contains(&State::Passed));
    }
}
