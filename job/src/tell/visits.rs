//! Visits: what each one found and left, a line each; and the doubts that travel from one to the next.

use super::gates::gate_views;
use crate::signoff::State;
use crate::state::Circuit;
use ruhe_core::quantity::{Mass, Units};
use serde::Serialize;

/// A visit in a line.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct VisitView {
    /// From 1.
    pub number: usize,
    pub from_ms: i64,
    pub reason: String,
    pub state: Option<State>,
    pub state_title: String,
    /// Charge found and added, leaks found and mended, what the tests say, in words.
    pub words: Vec<String>,
    /// What comes next, in words.
    pub next: String,
    pub revisit_on: Option<String>,
}

/// When a visit began: as it was said, else with the first thing that was done.
fn began(c: &Circuit) -> i64 {
    let first = || {
        let tests = c.tests.iter().map(|t| t.outline().start_ms);
        let steps = c.steps.iter().map(|s| s.said.at_ms);
        let found = c.visit.arrival.iter().map(|a| a.said.at_ms);
        tests
            .chain(steps)
            .chain(found)
            .filter(|ms| *ms > 0)
            .fold(c.created_ms, i64::min)
    };
    c.visit.began.as_ref().map_or_else(first, |v| v.said.at_ms)
}

fn words(c: &Circuit, u: Units) -> Vec<String> {
    let mut out = vec![];
    if let Some(a) = c.arrived() {
        if let Some(m) = a.recovered {
            out.push(format!("{} recovered", m.words()));
        }
        if let Some(m) = a.missing.filter(|m| m.g() > 0.5) {
            out.push(format!("{} was missing", m.words()));
        }
    }
    let s = c.ledger_sum().0;
    if s.counted > 0 {
        let at_least = if s.is_at_least { "at least " } else { "" };
        out.push(format!("{at_least}{} added", s.inside.words()));
    }
    for r in &c.repairs {
        out.push(format!("{} mended: {}", r.said.place, r.said.cause));
    }
    if let Some(h) = c.holds(u).last() {
        out.push(format!("{}: {}", h.name, h.headline));
    }
    out
}

fn visit(c: &Circuit, number: usize, u: Units) -> VisitView {
    let signed = c.signature.as_ref().map(|s| &s.said);
    let carried = signed.map(|s| &s.carries.carried);
    let next = match (signed.map(|s| s.state), carried) {
        (Some(State::Temporary), Some(x)) => format!(
            "Done for now: {}. Revisit on {}.",
            x.done_for_now, x.revisit_on
        ),
        (Some(State::NotProven), Some(x)) => format!("{} Look again on {}.", x.loss, x.revisit_on),
        (Some(State::Provisional), Some(x)) => format!(
            "Outstanding: {}, for {}, by {}.",
            x.outstanding, x.outstanding_for, x.outstanding_by
        ),
        (Some(State::Failed), Some(x)) => format!("{} Left: {}.", x.wrong, x.left_in),
        _ => String::new(),
    };
    VisitView {
        number,
        from_ms: began(c),
        reason: c.visit.began.as_ref().map_or_else(
            || c.opened.job.title().to_owned(),
            |v| v.said.reason.clone(),
        ),
        state: signed.map(|s| s.state),
        state_title: signed.map_or("In work", |s| s.state.title()).into(),
        words: words(c, u),
        next,
        revisit_on: carried
            .map(|x| x.revisit_on.clone())
            .filter(|d| !d.is_empty()),
    }
}

/// All visits, the first one first, the current one last.
#[must_use]
pub fn visit_views(c: &Circuit, u: Units) -> Vec<VisitView> {
    let past = c.past.iter().map(AsRef::as_ref);
    past.chain([c])
        .enumerate()
        .map(|(i, v)| visit(v, i + 1, u))
        .collect()
}

/// What the last signed visit left open: places nobody looked at, what was only done for now, reservations, a charge
/// that went missing.
#[must_use]
pub fn doubts(c: &Circuit, u: Units) -> Vec<String> {
    let Some(last) = c.past.last() else {
        return vec![];
    };
    let mut out = vec![];
    if let Some(s) = last.signature.as_ref().map(|s| &s.said) {
        let x = &s.carries.carried;
        if s.state == State::Temporary {
            out.push(format!(
                "Only for now: {}.",
                x.done_for_now.trim_end_matches('.')
            ));
        }
        let is_done = last.visit.added.iter().any(|a| a.said.completes);
        if s.state == State::Provisional && !is_done {
            out.push(format!(
                "Outstanding: {}.",
                x.outstanding.trim_end_matches('.')
            ));
        }
        if s.state == State::Failed {
            out.push(format!(
                "Left: {}. {}",
                x.left_in.trim_end_matches('.'),
                x.wrong
            ));
        }
        for r in &s.carries.reservations {
            out.push(format!(
                "Reserved: {} ({}); the risk is with {}.",
                r.what, r.why, r.whose
            ));
        }
        for g in gate_views(last, u).iter().filter(|g| !g.met) {
            out.push(format!("{} was not met: {}", g.title, g.evidence));
        }
    }
    if last.history_says_leak() && last.repairs.is_empty() {
        out.push("A part of the charge went missing, and no leak was mended.".into());
    }
    out.extend(plate_differs(c, last));
    out
}

/// The plate was read otherwise on the visit before.
fn plate_differs(c: &Circuit, last: &Circuit) -> Option<String> {
    let plate = |c: &Circuit| {
        let t = c.visit.target.as_ref()?.said.target.plate.clone()?;
        crate::charge::mass(&t, "plate").ok()
    };
    let (now, then): (Mass, Mass) = (plate(c)?, plate(last)?);
    ((now.g() / then.g() - 1.0).abs() > 0.005).then(|| {
        format!(
            "The plate’s charge was read as {} last time and as {} now.",
            then.words(),
            now.words()
        )
    })
}
