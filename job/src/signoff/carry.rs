//! What a state must carry: whose risk, until when, who was told.

use super::State;
use crate::charge::day;
use crate::refusal::{Refusal, filled};
use serde::{Deserialize, Serialize};

/// A reservation.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(default)]
#[allow(missing_docs)]
pub struct Reservation {
    pub what: String,
    pub why: String,
    /// Who bears the risk.
    pub whose: String,
}

/// What goes with a state. Only what the state asks for is filled in.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(default)]
#[allow(missing_docs)]
pub struct Carried {
    /// Temporary: what was done for now.
    pub done_for_now: String,
    /// Temporary, not proven: the day to come back.
    pub revisit_on: String,
    /// Temporary, failed: who was told.
    pub told: String,
    /// Provisional: what is outstanding, for whom, by which day.
    pub outstanding: String,
    pub outstanding_for: String,
    pub outstanding_by: String,
    /// Not proven: the loss from the charge, beside what the tests rule out.
    pub loss: String,
    /// Failed: what is wrong, and the state it was left in.
    pub wrong: String,
    pub left_in: String,
}

const WORDS: usize = 2_000;

fn future(field: &str, text: &str, today: jiff::civil::Date) -> Result<(), Refusal> {
    match day(text, field)? {
        None => Err(Refusal::wrong(field, "choose the day")),
        Some(d) if d <= today => Err(Refusal::wrong(field, "that day is not to come")),
        Some(_) => Ok(()),
    }
}

/// Whether a state carries what it must.
///
/// # Errors
/// What is missing, with its field.
pub fn check_carried(
    state: State,
    c: &Carried,
    reservations: &[Reservation],
    today: jiff::civil::Date,
) -> Result<(), Refusal> {
    let needed = |field: &str, text: &str, what: &str| {
        filled(field, text, WORDS)
            .map(|_| ())
            .map_err(|_| Refusal::wrong(field, format!("{} needs {what}", state.title())))
    };
    let rows = || {
        for (i, r) in reservations.iter().enumerate() {
            let at = |f: &str| format!("reservations.{i}.{f}");
            filled(&at("what"), &r.what, WORDS)
                .map_err(|_| Refusal::wrong(&at("what"), "say what is reserved"))?;
            filled(&at("why"), &r.why, WORDS).map_err(|_| Refusal::wrong(&at("why"), "say why"))?;
            filled(&at("whose"), &r.whose, WORDS)
                .map_err(|_| Refusal::wrong(&at("whose"), "say whose risk it is"))?;
        }
        Ok(())
    };
    match state {
        State::Passed | State::Inspected if !reservations.is_empty() => Err(Refusal::wrong(
            "state",
            "with a reservation it is not simply passed",
        )),
        State::Passed | State::Inspected => Ok(()),
        State::PassedWithReservations if reservations.is_empty() => Err(Refusal::wrong(
            "reservations",
            "write each reservation down: what, why, and whose risk it is",
        )),
        State::PassedWithReservations => Ok(()),
        State::Temporary => {
            needed("done_for_now", &c.done_for_now, "what was done for now")?;
            future("revisit_on", &c.revisit_on, today)?;
            needed("told", &c.told, "who was told")
        }
        State::Provisional => {
            needed("outstanding", &c.outstanding, "what is outstanding")?;
            needed("outstanding_for", &c.outstanding_for, "for whom")?;
            future("outstanding_by", &c.outstanding_by, today)
        }
        State::NotProven => {
            needed(
                "loss",
                &c.loss,
                "the loss from the charge beside what the tests rule out",
            )?;
            future("revisit_on", &c.revisit_on, today)
        }
        State::Failed => {
            needed("wrong", &c.wrong, "what is wrong")?;
            needed("left_in", &c.left_in, "the state it was left in")?;
            needed("told", &c.told, "who was told")
        }
    }?;
    rows()
}

/// Longest drawing, bytes.
const DRAWING: usize = 40_000;

/// A signature as the path of an SVG: only moves and lines with numbers.
///
/// # Errors
/// If it is anything else.
pub fn drawing(path: &str, field: &str) -> Result<String, Refusal> {
    let path = path.trim();
    let is_plain = path
        .chars()
        .all(|c| c.is_ascii_digit() || "ML .,-".contains(c));
    if path.len() > DRAWING || !is_plain || (!path.is_empty() && !path.starts_with('M')) {
        return Err(Refusal::wrong(field, "this is not a drawn signature"));
    }
    Ok(path.into())
}

#[cfg(test)]
mod tests {
    use super::*;

    fn field(state: State, c: &Carried, r: &[Reservation]) -> Option<String> {
        match check_carried(state, c, r, jiff::civil::date(2026, 11, 26)) {
            Ok(()) => None,
            Err(Refusal::Wrong { field, .. }) => field,
            Err(e) => panic!("{e}"),
        }
    }

    #[test]
    fn each_state_asks_for_its_own() {
        let is = |f: &str| Some(f.to_owned());
        let mut c = Carried::default();
        assert_eq!(field(State::Passed, &c, &[]), None);
        assert_eq!(
            field(State::PassedWithReservations, &c, &[]),
            is("reservations")
        );
        let mut r = Reservation {
            what: "one cap missing".into(),
            why: "none in the van".into(),
            whose: String::new(),
        };
        assert_eq!(
            field(State::PassedWithReservations, &c, &[r.clone()]),
            is("reservations.0.whose")
        );
        r.whose = "the owner".into();
        assert_eq!(field(State::PassedWithReservations, &c, &[r.clone()]), None);
        assert_eq!(field(State::Passed, &c, &[r]), is("state"));
        assert_eq!(field(State::Temporary, &c, &[]), is("done_for_now"));
        c.done_for_now = "clamp on the tee".into();
        assert_eq!(field(State::Temporary, &c, &[]), is("revisit_on"));
        c.revisit_on = "2026-11-26".into();
        assert_eq!(field(State::Temporary, &c, &[]), is("revisit_on"));
        c.revisit_on = "2026-12-03".into();
        assert_eq!(field(State::Temporary, &c, &[]), is("told"));
        c.told = "the shift lead".into();
        assert_eq!(field(State::Temporary, &c, &[]), None);
        assert_eq!(field(State::Provisional, &c, &[]), is("outstanding"));
        assert_eq!(field(State::NotProven, &c, &[]), is("loss"));
        assert_eq!(field(State::Failed, &c, &[]), is("wrong"));
        c.revisit_on = "soon".into();
        assert_eq!(field(State::Temporary, &c, &[]), is("revisit_on"));
    }

    #[test]
    fn a_drawing_is_moves_and_lines() {
        assert_eq!(drawing(" M1 2L3 4.5 ", "d").unwrap(), "M1 2L3 4.5");
        assert!(
            drawing("<script>", "d").is_err()
                && drawing("L1 2", "d").is_err()
                && drawing("", "d").is_ok()
        );
    }
}
