//! Charge and start-up.

use super::*;
use crate::scenario::Answers;
use ruhe_sim::plant::{PlantTruth, Start, Unit};

/// Kilograms in a pound and in an ounce (exact).
const LB: f64 = 0.453_592_37;
const OZ: f64 = LB / 16.0;

pub fn all() -> Vec<Scenario> {
    vec![weight()]
}

fn weight() -> Scenario {
    // 9 lb on the plate for 25 ft; 41 ft of line, 0.55 oz for each foot more: 9 lb 8.8 oz.
    let right_kg = 9.0 * LB + 16.0 * 0.55 * OZ;
    Scenario {
        truth: PlantTruth {
            kelvin: fahrenheit(84.0),
            start: Start::Open,
            places: places(None),
            unit: Some(Unit {
                right_kg,
                start_kg: 0.0,
                subcooling: f(14.2),
                superheat: f(12.0),
                per_tenth: f(6.0),
                airflow: 1.0,
            }),
            ..PlantTruth::default()
        },
        answers: Answers {
            plates: ["factory charge 9 lb, for 25 ft of line".into(), "0.55 oz for each foot more".into()],
            line: "41 ft of the 50 ft coil were used.".into(),
            before: "Evacuated and dry; the cylinder is on the scale.".into(),
        },
        reveals: "9 lb on the plate and 16 ft more of line at 0.55 oz: 9 lb 8.8 oz. Subcooling takes twelve \
             minutes to come to 14 °F.".into(),
        clues: vec![
            clue(What::Plates { times: 2 }, "The plate was read twice: 9, not 10."),
            did(&["measure_line"], "The line was measured, not taken from the box."),
            clue(What::Charged { kg: right_kg }, "Weighed in to the number, within 2 %."),
            clue(What::Ran { minutes: 12.0 }, "Read when it had come to rest, not at minute 4."),
        ],
        right: right(Cause::Charge),
        par_minutes: 45.0,
        path: vec![
            doing(Doing::ReadPlate { part: Part::Near }),
            doing(Doing::ReadPlate { part: Part::Far }),
            doing(Doing::MeasureLine),
            doing(Doing::Charge { kg: right_kg }),
            doing(Doing::StartUp),
            watch(TestKind::None, 14.0),
        ],
        wrong: vec![
            doing(Doing::Charge { kg: 10.0 * LB + 12.0 * OZ }),
            doing(Doing::StartUp),
            watch(TestKind::None, 4.0),
            doing(Doing::Charge { kg: 6.0 * OZ }),
        ],
        wrong_decision: decides(Cause::Charge, Give::Pass),
        ..blank(
            "By weight",
            Phase::Charge,
            "A split in a school, evacuated and dry. “Ten pounds”, says the man who stood at the plate; the \
             line came as a coil of 50 ft. Weigh it in, start it, and leave it as it should be.",
            sheet("School split", "R-410A", 0.0, 7.0),
        )
    }
}
