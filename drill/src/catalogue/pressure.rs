//! Under pressure.

use super::*;
use crate::scenario::{Answers, Sheet};
use ruhe_sim::Weather;
use ruhe_sim::plant::{BottleGas, HeldBack, PlantTruth, Start};

fn filled(psig: f64, ago_minutes: f64) -> Start {
    let p = psig * PSI;
    Start::Filled {
        near: p,
        far: p,
        ago: 60.0 * ago_minutes,
    }
}

pub fn all() -> Vec<Scenario> {
    vec![
        fresh(),
        roof(),
        half(),
        creeping(),
        coil(),
        bottle(),
        plate(),
        night(),
    ]
}

fn fresh() -> Scenario {
    Scenario {
        truth: PlantTruth {
            kelvin: 294.0,
            start: filled(310.0, 0.2),
            fill: (1.5, 200.0),
            probe_in_air: true,
            places: places(None),
            ..PlantTruth::default()
        },
        reveals: "Tight. The nitrogen was warmed by filling, and the warmth fades within minutes."
            .into(),
        clues: vec![
            stood(
                310.0,
                18.0,
                "The fall dies away within twenty minutes: heat does that, a leak does not.",
            ),
            did(
                &["probe_on_pipe"],
                "The pipe's temperature says how much of it is heat.",
            ),
        ],
        right: right(Cause::Settling),
        par_minutes: 45.0,
        path: vec![doing(Doing::ProbeOnPipe), watch(TestKind::Hold, 40.0)],
        wrong: vec![
            doing(Doing::Tighten {
                place: INDOOR[0].into(),
            }),
            doing(Doing::Tighten {
                place: INDOOR[1].into(),
            }),
            look(INDOOR[0], 3.0),
        ],
        wrong_decision: decides_at(Cause::Leak, INDOOR[0], Give::Fail),
        ..blank(
            "Bakery counter, just filled",
            Phase::Pressure,
            "A new split behind a bakery's counter. You have just pressed it up to about 310 psig, indoors. \
             Your colleague watched the first minutes: it falls by some 4 psi in 8 minutes, he says, and he \
             wants to start on the flares.",
            sheet("Counter split", "R-32", 310.0, 7.0),
        )
    }
}

fn roof() -> Scenario {
    let place = OUTDOOR[1];
    Scenario {
        truth: PlantTruth {
            kelvin: fahrenheit(58.0),
            start: filled(420.0, 45.0),
            sun: f(7.2),
            probe_in_air: true,
            places: places(Some((place, psi_per_hour(4.0, 7.3e-3), 420.0))),
            ..PlantTruth::default()
        },
        reveals: "One flare at the outdoor unit leaks 4 psi an hour at 420 psig. The sun warms the pipes by 7 \
             °F an hour and hides it.".into(),
        clues: vec![
            did(&["probe_on_pipe"], "The probe was in the air; the sun warms the pipe."),
            found(place, "Bubbles at one flare show where."),
            mended(place, "What leaked was mended."),
            stood(420.0, 30.0, "Held again, as high as it had leaked."),
        ],
        right: right_at(Cause::Leak, place),
        par_minutes: 190.0,
        path: vec![
            doing(Doing::ProbeOnPipe),
            doing(Doing::ShadeGauge),
            watch(TestKind::Hold, 40.0),
            look(OUTDOOR[0], 3.0),
            look(place, 4.0),
            vent(0.0),
            renew(place),
            press(420.0),
            watch(TestKind::Hold, 75.0),
        ],
        wrong: vec![watch(TestKind::Hold, 25.0)],
        wrong_decision: decides(Cause::Settling, Give::Pass),
        ..blank(
            "A roof in the morning",
            Phase::Pressure,
            "A split on a flat roof, pressed up to 420 psig at seven in the morning. In the last 25 minutes the \
             gauge went up by nearly 1 psi. The probe hangs beside the unit. “It went up, so it is tight”, says \
             the foreman.",
            sheet("Roof split", "R-410A", 420.0, 7.0),
        )
    }
}

fn half() -> Scenario {
    Scenario {
        truth: PlantTruth {
            start: Start::Filled {
                near: 180.0 * PSI,
                far: 0.0,
                ago: 1_800.0,
            },
            between_open: false,
            between_lets_by: 0.297,
            places: places(None),
            ..PlantTruth::default()
        },
        answers: Answers {
            before: "The outdoor half was vented and left shut. Nothing was fitted since.".into(),
            ..Answers::default()
        },
        reveals: "Both halves are tight to the outside. The service valve between them lets by, and what one \
             loses the other gains.".into(),
        clues: vec![
            did(&["second_gauge"], "The other half was never looked at."),
            stood(170.0, 10.0, "What one half loses the other gains."),
            did(&["open_between"], "With the valve open, both together stand still."),
        ],
        right: Right { give: Some(Give::Fail), ..right(Cause::LetsBy) },
        par_minutes: 60.0,
        path: vec![
            doing(Doing::SecondGauge),
            watch(TestKind::LeakBy, 15.0),
            doing(Doing::OpenBetween),
            watch(TestKind::Hold, 30.0),
        ],
        wrong: vec![
            look(INDOOR[0], 10.0),
            look(INDOOR[1], 10.0),
            doing(Doing::Tighten { place: INDOOR[0].into() }),
            doing(Doing::Tighten { place: INDOOR[1].into() }),
            look(INDOOR[0], 10.0),
        ],
        wrong_decision: decides_at(Cause::Leak, INDOOR[1], Give::Fail),
        ..blank(
            "The half that loses",
            Phase::Pressure,
            "A heat pump in a weaving mill. Only the indoor half is under test, at 180 psig; the service valve \
             is shut. It falls by some 14 psi in 12 minutes, and in two hours of soaping nobody saw a bubble.",
            sheet("Mill heat pump", "R-410A", 180.0, 7.0),
        )
    }
}

fn creeping() -> Scenario {
    Scenario {
        truth: PlantTruth {
            start: Start::Filled {
                near: 150.0 * PSI,
                far: 150.0 * PSI,
                ago: 3_600.0,
            },
            between_open: false,
            held_back: Some(HeldBack {
                part: Part::Near,
                lets_by: 0.203,
            }),
            places: places(None),
            ..PlantTruth::default()
        },
        answers: Answers {
            before: "The outdoor unit came with its charge. Nobody has opened its valves.".into(),
            ..Answers::default()
        },
        reveals: "The unit's own charge weeps through its service valve into the line set.".into(),
        clues: vec![
            stood(150.0, 10.0, "It creeps up, whatever the temperature does."),
            did(&["sniff"], "Refrigerant is in what should be nitrogen."),
            did(&["recover"], "It was recovered before anything was opened."),
        ],
        right: right(Cause::RefrigerantIn),
        par_minutes: 70.0,
        path: vec![
            watch(TestKind::Hold, 12.0),
            doing(Doing::Sniff),
            doing(Doing::Recover),
        ],
        wrong: vec![watch(TestKind::Hold, 15.0), doing(Doing::OpenBetween)],
        wrong_decision: decides(Cause::Settling, Give::Pass),
        ..blank(
            "It creeps up",
            Phase::Pressure,
            "A line set to a new outdoor unit, whose service valves have stayed shut. You hold nitrogen at 150 \
             psig in the lines. The gauge creeps up, by about 0.4 psi a minute. It is noon, and somebody waits \
             for you to open the valves.",
            sheet("Canteen split", "R-410A", 150.0, 3.3),
        )
    }
}

fn coil() -> Scenario {
    let (first, second) = ("brazed joint, bend 3", "brazed joint, header");
    let mut all = vec![
        Leak::none(first, Part::Near),
        Leak::none(second, Part::Far),
        Leak::none("brazed joint, bend 5", Part::Near),
        Leak::none("core of the port", Part::Near),
    ];
    (all[1].out, all[1].at) = (psi_per_hour(12.0, 7.3e-3), 520.0 * PSI);
    Scenario {
        truth: PlantTruth {
            start: filled(175.0, 30.0),
            places: all,
            ..PlantTruth::default()
        },
        answers: Answers {
            before: "The leak had shown at 520 psig, at bend 3. It was brazed again this morning. Nobody looked \
                 at the rest.".into(),
            plates: ["650 psig".into(), "650 psig".into()],
            ..Answers::default()
        },
        reveals: "A second joint, at the header, leaks 0.2 psi a minute at 520 psig, and next to nothing at \
             175.".into(),
        clues: vec![
            did(&["ask"], "The leak had shown at 520 psig: a lower test shows less."),
            stood(520.0, 15.0, "Tested as high as it had leaked."),
            found(second, "Looked on after the first find."),
        ],
        right: right_at(Cause::Leak, second),
        par_minutes: 95.0,
        path: vec![
            doing(Doing::Ask),
            press(520.0),
            watch(TestKind::Hold, 40.0),
            look(first, 3.0),
            look(second, 4.0),
        ],
        wrong: vec![watch(TestKind::Hold, 15.0)],
        wrong_decision: decides(Cause::Settling, Give::Pass),
        ..blank(
            "A coil that was repaired",
            Phase::Pressure,
            "A coil on the bench, repaired after a leak was found in it. It stands at 175 psig; the customer \
             offers fifteen minutes of that as the retest, because the van leaves.",
            sheet("Bench coil", "R-410A", 520.0, 7.0),
        )
    }
}

fn bottle() -> Scenario {
    Scenario {
        truth: PlantTruth {
            start: Start::Open,
            volumes: [0.3e-3, 2.7e-3, 3.0e-3],
            bottle: (7.5e-3, 520.0 * PSI),
            places: places(None),
            ..PlantTruth::default()
        },
        answers: Answers {
            before: "The bottle holds 7.5 L; its gauge shows 520 psig. A second one is in the other van.".into(),
            ..Answers::default()
        },
        reveals: "Tight; but 7.5 L at 520 psig into 6 L gives less than 300 psig.".into(),
        clues: vec![
            did(&["ask"], "The bottle's sum can be made before it is opened."),
            did(&["change_bottle"], "Another bottle was fetched."),
            stood(300.0, 25.0, "Held at the pressure that was asked for."),
        ],
        right: right(Cause::BottleTooSmall),
        par_minutes: 85.0,
        path: vec![
            doing(Doing::Ask),
            doing(Doing::ChangeBottle { gas: BottleGas::Nitrogen }),
            press(300.0),
            watch(TestKind::Hold, 50.0),
        ],
        wrong: vec![press(300.0), watch(TestKind::Hold, 30.0)],
        wrong_decision: decides(Cause::Settling, Give::Pass),
        ..blank(
            "What the bottle gives",
            Phase::Pressure,
            "A split in a laundry, 6 L in all, still open. It is to be held at 300 psig. The bottle on the \
             trolley is not new.",
            sheet("Laundry split", "R-32", 300.0, 6.0),
        )
    }
}

fn plate() -> Scenario {
    Scenario {
        truth: PlantTruth {
            start: Start::Open,
            limits: [450.0 * PSI, 165.0 * PSI],
            places: places(None),
            ..PlantTruth::default()
        },
        answers: Answers {
            plates: ["high side 450 psig".into(), "low side 150 psig".into()],
            before: "The heat pump is twenty years old. Nothing was fitted since.".into(),
            ..Answers::default()
        },
        reveals: "The low side is made for 150 psig, and both sides are joined.".into(),
        clues: vec![
            clue(
                crate::clue::What::Plates { times: 2 },
                "Both figures of the plate were read.",
            ),
            stood(148.0, 25.0, "Held as high as the weakest part allows."),
        ],
        right: right(Cause::LowerLimit),
        par_minutes: 75.0,
        path: vec![
            doing(Doing::ReadPlate { part: Part::Near }),
            doing(Doing::ReadPlate { part: Part::Far }),
            press(150.0),
            watch(TestKind::Hold, 45.0),
        ],
        wrong: vec![doing(Doing::ReadPlate { part: Part::Near }), press(450.0)],
        wrong_decision: decides(Cause::Settling, Give::Pass),
        ..blank(
            "An old plate",
            Phase::Pressure,
            "An old heat pump in a chapel, both sides joined and empty. “450 is on the plate”, says the note \
             that came with the job.",
            sheet("Chapel heat pump", "R-410A", 0.0, 7.0),
        )
    }
}

fn night() -> Scenario {
    Scenario {
        truth: PlantTruth {
            kelvin: fahrenheit(74.0),
            start: filled(480.0, 60.0),
            weather: Weather::DayNight(f(6.0), 0.25),
            barometer: -37.5,
            places: places(None),
            ..PlantTruth::default()
        },
        reveals: "Tight. Twelve degrees colder take some 11 psi, and the barometer fell by 9 hPa."
            .into(),
        clues: vec![
            did(
                &["probe_on_pipe", "shade_gauge"],
                "The temperature is the pipe's.",
            ),
            did(
                &["read_barometer"],
                "The gauge reads against the air, and the air has changed.",
            ),
            clue(
                crate::clue::What::After { hours: 22.0 },
                "Read again when it was as warm again.",
            ),
        ],
        right: right(Cause::Weather),
        par_minutes: 1_460.0,
        path: vec![
            doing(Doing::ProbeOnPipe),
            doing(Doing::ReadBarometer),
            watch(TestKind::Hold, 1_440.0),
        ],
        wrong: vec![wait(720.0), look(INDOOR[0], 10.0)],
        wrong_decision: decides_at(Cause::Leak, INDOOR[0], Give::Fail),
        ..blank(
            "A day and a night",
            Phase::Pressure,
            "Piping of a cold store, pressed up yesterday's way: 480 psig in the warmth of the afternoon, to be \
             held for a day. The logger runs. In the morning it will be some 12 °F colder, and by then about 12 \
             psi will be missing; you know the owner will call.",
            Sheet {
                hold_minutes: Some(1_440.0),
                ..sheet("Cold store piping", "R-410A", 480.0, 7.0)
            },
        )
    }
}
