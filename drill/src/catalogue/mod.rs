//! The drills that ship with Ruhe. Situations, names and figures are of our own invention.

mod charge;
mod pressure;
mod second;
mod vacuum;

use crate::clue::{Clue, What};
use crate::decision::{Cause, Decision, Give};
use crate::scenario::{Phase, Right, Scenario, Sheet, Step, TestKind};
use ruhe_sim::plant::{By, Doing, Heat, Leak, Part};

const PSI: f64 = ruhe_sim::PSI;
const MICRON: f64 = ruhe_sim::MICRON;

/// All of them, in order.
#[must_use]
pub fn all() -> Vec<Scenario> {
    let mut out = pressure::all();
    out.extend(vacuum::all());
    out.extend(charge::all());
    out.extend(second::all());
    for (s, n) in out.iter_mut().zip(1..) {
        s.number = n;
        s.truth.seed = 4_100 + u64::from(n);
    }
    out
}

/// °F to a difference in K.
fn f(degrees: f64) -> f64 {
    degrees / 1.8
}
/// °F to K.
fn fahrenheit(t: f64) -> f64 {
    (t - 32.0) / 1.8 + 273.15
}
/// A loss of so many psi an hour in a volume, Pa·m³/s.
fn psi_per_hour(psi: f64, volume: f64) -> f64 {
    psi * PSI * volume / 3_600.0
}
/// A rise of so many micron in ten minutes in a volume, Pa·m³/s.
fn micron_in_ten(micron: f64, volume: f64) -> f64 {
    micron * MICRON * volume / 600.0
}

fn doing(doing: Doing) -> Step {
    Step::Do { doing }
}
fn wait(minutes: f64) -> Step {
    doing(Doing::Wait { minutes })
}
fn watch(test: TestKind, minutes: f64) -> Step {
    Step::Watch { test, minutes }
}
fn look(place: &str, minutes: f64) -> Step {
    doing(Doing::Look {
        place: place.into(),
        by: By::Bubbles,
        minutes,
    })
}
fn renew(place: &str) -> Step {
    doing(Doing::Renew {
        place: place.into(),
    })
}
fn vent(psig: f64) -> Step {
    doing(Doing::VentTo { pa: psig * PSI })
}
fn press(psig: f64) -> Step {
    doing(Doing::PressTo { pa: psig * PSI })
}
fn clue(what: What, says: &str) -> Clue {
    Clue {
        what,
        says: says.into(),
    }
}
fn did(any: &[&str], says: &str) -> Clue {
    let any = any.iter().map(|a| (*a).into()).collect();
    clue(What::Did { any }, says)
}
fn found(place: &str, says: &str) -> Clue {
    clue(
        What::Found {
            place: place.into(),
        },
        says,
    )
}
fn mended(place: &str, says: &str) -> Clue {
    clue(
        What::Mended {
            place: place.into(),
        },
        says,
    )
}
fn stood(psig: f64, minutes: f64, says: &str) -> Clue {
    clue(
        What::Stood {
            pa: psig * PSI,
            minutes,
        },
        says,
    )
}
fn isolated(times: u32, minutes: f64, says: &str) -> Clue {
    clue(What::Isolated { minutes, times }, says)
}
fn right(cause: Cause) -> Right {
    Right {
        cause,
        place: String::new(),
        give: None,
    }
}
fn right_at(cause: Cause, place: &str) -> Right {
    Right {
        place: place.into(),
        ..right(cause)
    }
}
fn decides(cause: Cause, give: Give) -> Option<Decision> {
    Some(Decision {
        cause,
        place: String::new(),
        give,
        sure: 0.9,
    })
}
fn decides_at(cause: Cause, place: &str, give: Give) -> Option<Decision> {
    Some(Decision {
        cause,
        place: place.into(),
        give,
        sure: 0.9,
    })
}
fn sheet(system: &str, refrigerant: &str, psig: f64, litres: f64) -> Sheet {
    Sheet {
        system: system.into(),
        refrigerant: refrigerant.into(),
        test_pa: (psig > 0.0).then_some(psig * PSI),
        hold_minutes: None,
        volume: litres * 1e-3,
    }
}

/// A scenario's fixed frame; what belongs to one alone is set on it.
fn blank(title: &str, phase: Phase, told: &str, sheet: Sheet) -> Scenario {
    Scenario {
        number: 0,
        title: title.into(),
        phase,
        told: told.into(),
        sheet,
        answers: Default::default(),
        truth: Default::default(),
        reveals: String::new(),
        clues: vec![],
        right: right(Cause::NothingFound),
        par_minutes: 60.0,
        path: vec![],
        wrong: vec![],
        wrong_decision: None,
    }
}

const INDOOR: [&str; 2] = ["flare, indoor, liquid", "flare, indoor, vapour"];
const OUTDOOR: [&str; 2] = ["flare, outdoor, liquid", "flare, outdoor, vapour"];

/// Four flares and a port's core, one of them leaking or none.
fn places(leaking: Option<(&str, f64, f64)>) -> Vec<Leak> {
    let mut out: Vec<Leak> = INDOOR
        .iter()
        .map(|p| Leak::none(p, Part::Near))
        .chain(OUTDOOR.iter().map(|p| Leak::none(p, Part::Far)))
        .chain([Leak::none("core of the vapour port", Part::Near)])
        .collect();
    if let Some((place, rate, at)) = leaking {
        for l in out.iter_mut().filter(|l| l.place == place) {
            (l.out, l.at) = (rate, at * PSI);
        }
    }
    out
}
