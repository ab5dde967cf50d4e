//! How much a hold that holds proves, said wherever the word stands: coarse, with how fast a hidden leak would empty
//! the system, or fine.

use crate::signoff::GateCode;
use crate::state::{Circuit, Test};
use ruhe_core::hold::{HoldOutcome, Proof};
use ruhe_core::judge::Finding;
use ruhe_core::quantity::{Mass, Units};
use serde::{Deserialize, Serialize};

/// How much a hold proves.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Tightness {
    /// The word on screen: "Holds, coarse" or "Holds, fine".
    pub word: String,
    /// What it says, a sentence.
    pub words: String,
}

/// A time that a leak takes, rounded down: it is not said longer than it is.
fn within(years: f64) -> String {
    let at_least = |n: f64, one: &str, many: &str| {
        let n = n.floor();
        if n <= 1.0 {
            format!("1 {one}")
        } else {
            format!("{n:.0} {many}")
        }
    };
    let months = 12.0 * years;
    if years >= 3.0 {
        at_least(years, "year", "years")
    } else if months >= 1.0 {
        at_least(months, "month", "months")
    } else if years * 365.25 >= 1.0 {
        at_least(years * 365.25, "day", "days")
    } else {
        "a day".into()
    }
}

/// What a hold rules out, by how fast a leak would empty a charge. Nobody knows on which side a hidden leak is: the
/// high side, where it empties the system sooner, is said, so that the word is never stronger than the hold.
fn coarse(p: &Proof, charge: Option<Mass>) -> String {
    let Some(c) = charge.filter(|c| c.g() > 0.0) else {
        return "How fast a hidden leak would empty it is not known without the charge.".into();
    };
    let high = within(c.g() / p.high_g_per_year);
    format!(
        "Any leak that would empty this system within {high} would have shown. Smaller ones may still be there."
    )
}

/// How much a test of a circuit proves, if it is a hold that holds. `is_fine`: the gate of fine tightness is met.
#[must_use]
pub fn tightness(t: &Test, charge: Option<Mass>, is_fine: bool) -> Option<Tightness> {
    let Finding::PressureHold(v) = t.finding() else {
        return None;
    };
    // A hold within its limit that loses gas all the same has shown a leak: no word of tightness stands over it.
    if v.outcome != HoldOutcome::Holds || v.loss_detected {
        return None;
    }
    let known = v.proves.as_ref().map(|p| coarse(p, charge));
    Some(if is_fine {
        Tightness {
            word: "Holds, fine".into(),
            words: "Every joint and port was clear under test pressure, or it held for a day."
                .into(),
        }
    } else {
        Tightness {
            word: "Holds, coarse".into(),
            words: known.unwrap_or_else(|| "What it could not have shown is not known.".into()),
        }
    })
}

impl Circuit {
    /// Fine tightness is shown.
    #[must_use]
    pub fn is_fine(&self) -> bool {
        self.gates(Units::default())
            .iter()
            .any(|g| g.code == GateCode::Fine && g.met)
    }
    /// How much one of its tests proves, if it is a hold that holds.
    #[must_use]
    pub fn tightness(&self, t: &Test) -> Option<Tightness> {
        // Only a hold asks for the gates, which cost more.
        tightness(t, self.whole_charge(), false)?;
        tightness(t, self.whole_charge(), self.is_fine())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Charge / hidden leak, rounded down: 3 kg and 90 kg a year are 12.2 days.
    #[test]
    fn months_are_rounded_down() {
        let p = Proof {
            low_g_per_year: 14_000.0,
            high_g_per_year: 90_000.0,
            refrigerant: "R-410A".into(),
            is_assumed: false,
            litres: None,
        };
        let words = coarse(&p, Some(Mass::from_g(3_000.0)));
        assert_eq!(
            words,
            "Any leak that would empty this system within 12 days would have shown. Smaller ones may still be there."
        );
        assert!(coarse(&p, None).contains("not known"));
        assert_eq!(
            (within(1.6), within(3.9), within(0.0001)),
            ("19 months".into(), "3 years".into(), "a day".into())
        );
    }
}
