//! The words of a rig check, from its finding.

use super::{DEEP, LEAST, RIG_RISE, RigCase, RigFinding, RigOutcome};
use crate::quantity::{MICRON, Units, significant, span};
use crate::reading::RigPart;
use crate::vacuum::Rise;
use crate::vacuum::words::{Risen, explanations};
use crate::words::{Shape, Words, words};

/// The system in which a rig's share is imagined, L.
const IMAGINED: f64 = 5.0;

/// Says what was found, in these units.
#[must_use]
pub fn say_rig(v: &RigFinding, u: Units) -> Words {
    let (word, shape) = match v.outcome {
        RigOutcome::Good => ("Good", Shape::Holds),
        RigOutcome::Short => ("Falls short", Shape::Notch),
        RigOutcome::GivesGas => ("Gives off gas", Shape::Notch),
        RigOutcome::Leaks => ("Leaks", Shape::Falling),
        RigOutcome::Rises => ("Rises too fast", Shape::Notch),
        RigOutcome::Undecided => ("Can’t tell yet", Shape::Open),
    };
    let said = match &v.case {
        RigCase::NothingRead => words(
            "No vacuum read yet",
            "Nothing has been recorded.",
            begin(v.part),
        ),
        RigCase::TooLittle => words(
            "No vacuum read yet",
            "There is too little since the valve was shut.",
            begin(v.part),
        ),
        RigCase::NotPumpedDown { at } => words(
            &u.level(*at),
            &format!(
                "It was shut off above {}: what hoses give off shows only in a vacuum.",
                u.level(DEEP * MICRON)
            ),
            begin(v.part),
        ),
        RigCase::Pump { lowest } => pump(v, *lowest, u),
        RigCase::Hoses {
            rise,
            early,
            litres,
        } => hoses(v, rise, *early, *litres, u),
    };
    Words {
        word: word.into(),
        shape,
        ..said
    }
}

fn begin(part: RigPart) -> &'static str {
    match part {
        RigPart::Pump => {
            "Blank the pump off on its own gauge, start it, and log the level until it no longer falls."
        }
        RigPart::Hoses => {
            "Pump the hoses down with their far ends shut, shut the valve at the pump, mark it “isolated”, and \
             log the rise."
        }
    }
}

fn pump(v: &RigFinding, lowest: f64, u: Units) -> Words {
    let (summary, next) = match v.outcome {
        RigOutcome::Good => (
            "The pump is fit for this work.".to_owned(),
            "Check hoses and tools alone, then go to the system.",
        ),
        RigOutcome::Short => (
            format!(
                "It stands at {} and goes no lower: do not blame a system for what this pump cannot do.",
                u.level(lowest)
            ),
            "Change the oil while the pump is warm, run it with the ballast open for a while, and check it again.",
        ),
        _ => (
            "It is still on its way down.".into(),
            "Leave it running, ballast shut, until it no longer falls.",
        ),
    };
    Words {
        evidence: vec![format!(
            "A pump with good oil should reach {}.",
            u.level(v.limit_pa)
        )],
        ..words(&format!("{} blanked off", u.level(lowest)), &summary, next)
    }
}

fn hoses(v: &RigFinding, r: &Rise, early: f64, litres: Option<f64>, u: Units) -> Words {
    let (low, high) = v.rate.unwrap_or_default();
    let per_minute = |r: f64| format!("{} a minute", u.level_change(60.0 * r));
    let mut evidence = vec![format!(
        "From {} when shut off; it rose {} at first and {} to {} at the end.",
        u.level(r.first),
        per_minute(early),
        significant(u.vacuum.delta_of_si(60.0 * low), 2),
        per_minute(high)
    )];
    if let Some(((low, high), litres)) = v.flow.zip(litres) {
        let add = |q: f64| 60.0 * q / (IMAGINED + litres);
        evidence.push(format!(
            "In a system of {IMAGINED} L it would add {} to {} a minute.",
            significant(u.vacuum.delta_of_si(add(low)), 2),
            u.level_change(add(high))
        ));
    }
    let (summary, next) = verdict(v, r.lasted, high);
    Words {
        evidence,
        explanations: explanations(&v.explanations, r, Risen::Slightly, u),
        ..words(
            &format!("{} after {}", u.level(r.last), span(r.lasted)),
            summary,
            &next,
        )
    }
}

fn verdict(v: &RigFinding, lasted: f64, high: f64) -> (&'static str, String) {
    match v.outcome {
        RigOutcome::Good => (
            "Hoses and tools hold: what a system shows through them is its own.",
            "Go to the system.".into(),
        ),
        RigOutcome::GivesGas => (
            "It rises and bends: rubber, oil or moisture in the hoses gives off gas. Do not judge a system \
             through them.",
            "Pump the hoses for hours, warm them, or use others; until then valve them off before any decay \
             test.".into(),
        ),
        RigOutcome::Leaks => (
            "It rises straight: a seal, a core tool or a hose end lets air in.",
            "Tighten and swap one piece after the other: gaskets, core depressors, the core tool’s slide.".into(),
        ),
        RigOutcome::Rises => (
            "It rises too fast to judge a system through, whether it leaks or gives off gas.",
            "Swap one piece after the other, or valve the hoses off before any decay test; a longer pull tells \
             gas from a leak.".into(),
        ),
        RigOutcome::Short | RigOutcome::Undecided => (
            if high <= RIG_RISE * MICRON / 60.0 {
                "It rises little so far."
            } else {
                "It rises; what it is that rises is not clear yet."
            },
            format!("Watch it for at least {}.", span(LEAST.max(1.5 * lasted))),
        ),
    }
}
