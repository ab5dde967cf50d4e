//! A second set: gauges that lie, a bottle left open, a leak that opens late, and nothing to find.

use super::*;
use crate::scenario::Answers;
use ruhe_sim::plant::{PlantTruth, Start};

pub fn all() -> Vec<Scenario> {
    vec![needle(), sleeper(), still(), late(), history(), counter()]
}

fn at(psig: f64) -> Start {
    Start::Filled {
        near: psig * PSI,
        far: psig * PSI,
        ago: 3_600.0,
    }
}

fn needle() -> Scenario {
    let place = INDOOR[1];
    Scenario {
        truth: PlantTruth {
            start: at(300.0),
            sticks: true,
            places: places(Some((place, psi_per_hour(9.0, 7.3e-3), 300.0))),
            ..PlantTruth::default()
        },
        reveals: "The needle sticks, and one flare leaks 9 psi an hour.".into(),
        clues: vec![
            did(
                &["tap_gauge"],
                "A gauge that does not move at all is tapped.",
            ),
            stood(300.0, 25.0, "Watched with a gauge that moves."),
            found(place, "Bubbles at one flare show where."),
        ],
        right: right_at(Cause::Leak, place),
        par_minutes: 65.0,
        path: vec![
            doing(Doing::TapGauge),
            watch(TestKind::None, 15.0),
            doing(Doing::TapGauge),
            watch(TestKind::None, 15.0),
            doing(Doing::TapGauge),
            look(INDOOR[0], 3.0),
            look(place, 3.0),
        ],
        wrong: vec![watch(TestKind::Hold, 30.0)],
        wrong_decision: decides(Cause::Settling, Give::Pass),
        ..blank(
            "Not a tenth",
            Phase::Pressure,
            "A split in a clockmaker's shop, at 300 psig for an hour. The gauge has not moved by a tenth in \
             half an hour.",
            sheet("Workshop split", "R-32", 300.0, 7.0),
        )
    }
}

fn sleeper() -> Scenario {
    Scenario {
        truth: PlantTruth {
            sleeps: Some(900.0),
            has_logger: false,
            places: places(None),
            ..PlantTruth::pumped(180.0, 0.0)
        },
        reveals: "Dry and tight. The gauge goes to sleep after a quarter of an hour, so half an hour was never \
             seen.".into(),
        clues: vec![
            did(&["tap_gauge"], "The gauge was kept awake."),
            isolated(1, 30.0, "Half an hour was really watched."),
        ],
        right: right(Cause::DryAndTight),
        par_minutes: 42.0,
        path: vec![
            doing(Doing::ValveOff),
            watch(TestKind::None, 12.0),
            doing(Doing::TapGauge),
            watch(TestKind::None, 12.0),
            doing(Doing::TapGauge),
            watch(TestKind::None, 12.0),
        ],
        wrong: vec![doing(Doing::ValveOff), wait(30.0)],
        wrong_decision: decides(Cause::DryAndTight, Give::Pass),
        ..blank(
            "Half an hour",
            Phase::Vacuum,
            "A good pull, 180 micron. The rule of the house asks for half an hour after isolation. The gauge is \
             a small one with a battery.",
            sheet("Museum cooler", "R-134a", 0.0, 7.0),
        )
    }
}

fn still() -> Scenario {
    let place = OUTDOOR[0];
    Scenario {
        truth: PlantTruth {
            start: at(300.0),
            left_open: Some(304.5 * PSI),
            places: places(Some((place, psi_per_hour(10.0, 7.3e-3), 300.0))),
            ..PlantTruth::default()
        },
        reveals: "The bottle was still feeding it; one flare leaks 10 psi an hour.".into(),
        clues: vec![
            did(&["shut_bottle"], "The bottle was shut."),
            stood(297.0, 25.0, "Watched with nothing feeding it."),
            found(place, "Bubbles at one flare show where."),
        ],
        right: right_at(Cause::Leak, place),
        par_minutes: 65.0,
        path: vec![
            doing(Doing::ShutBottle),
            watch(TestKind::Hold, 30.0),
            look(OUTDOOR[1], 3.0),
            look(place, 3.0),
        ],
        wrong: vec![watch(TestKind::Hold, 30.0)],
        wrong_decision: decides(Cause::Settling, Give::Pass),
        ..blank(
            "Perfectly still",
            Phase::Pressure,
            "A split over a stable, at 300 psig. It stands perfectly still, warmer or colder. The bottle is \
             still on the hose.",
            sheet("Stable split", "R-32", 300.0, 7.0),
        )
    }
}

fn late() -> Scenario {
    let place = OUTDOOR[1];
    let mut all = places(Some((place, psi_per_hour(14.0, 7.3e-3), 450.0)));
    for l in all.iter_mut().filter(|l| l.place == place) {
        l.opens_above = 400.0 * PSI;
    }
    Scenario {
        truth: PlantTruth {
            start: at(300.0),
            places: all,
            ..PlantTruth::default()
        },
        answers: Answers {
            before: "It lost its charge within a summer. The maker asks for 450 psig.".into(),
            plates: ["600 psig".into(), "600 psig".into()],
            ..Answers::default()
        },
        reveals: "A flare that opens only above 400 psig.".into(),
        clues: vec![
            did(
                &["ask"],
                "It lost its charge: something leaks, and the maker asks for 450 psig.",
            ),
            stood(450.0, 20.0, "Tested as high as the maker asks."),
            found(place, "Found while it was open."),
        ],
        right: right_at(Cause::Leak, place),
        par_minutes: 85.0,
        path: vec![
            doing(Doing::Ask),
            press(450.0),
            watch(TestKind::Hold, 30.0),
            look(OUTDOOR[0], 3.0),
            look(place, 4.0),
        ],
        wrong: vec![watch(TestKind::Hold, 30.0)],
        wrong_decision: decides(Cause::Settling, Give::Pass),
        ..blank(
            "Only at 300",
            Phase::Pressure,
            "A split in a ferry's waiting room, at 300 psig, and as steady as can be. It is here because it \
             lost its charge.",
            sheet("Waiting room split", "R-410A", 450.0, 7.0),
        )
    }
}

fn history() -> Scenario {
    let place = INDOOR[0];
    let mut all = places(Some((place, psi_per_hour(6.0, 7.3e-3), 420.0)));
    for l in all.iter_mut().filter(|l| l.place == place) {
        l.opens_above = 400.0 * PSI;
    }
    Scenario {
        truth: PlantTruth {
            start: at(300.0),
            limits: [350.0 * PSI, 350.0 * PSI],
            places: all,
            ..PlantTruth::default()
        },
        answers: Answers {
            before: "Two charges in three years, and no leak was ever found.".into(),
            plates: ["330 psig".into(), "330 psig".into()],
            ..Answers::default()
        },
        reveals: "A crack that opens only hot and high, above what the plate allows. Nothing can be found \
             today; that is not the same as tight.".into(),
        clues: vec![
            did(&["ask"], "The history says that it leaks."),
            clue(What::Plates { times: 1 }, "The plate allows no more."),
            did(&["look"], "It was looked for."),
            stood(300.0, 40.0, "Held for long enough to see what can be seen."),
        ],
        right: Right { give: Some(Give::NotProven), ..right(Cause::NothingFound) },
        par_minutes: 75.0,
        path: vec![
            doing(Doing::Ask),
            doing(Doing::ReadPlate { part: Part::Near }),
            watch(TestKind::Hold, 45.0),
            doing(Doing::Look { place: INDOOR[0].into(), by: By::Bubbles, minutes: 3.0 }),
        ],
        wrong: vec![watch(TestKind::Hold, 45.0)],
        wrong_decision: decides(Cause::Settling, Give::Pass),
        ..blank(
            "Two charges in three years",
            Phase::Pressure,
            "A split in a signal box, at 300 psig. The owner has paid for two charges in three years, and wants \
             to hear that it is tight.",
            sheet("Signal box split", "R-32", 300.0, 7.0),
        )
    }
}

fn counter() -> Scenario {
    Scenario {
        truth: PlantTruth {
            flammable: true,
            ultimate: 270.0 * MICRON,
            oil_gas: (2.4, 6_900.0),
            places: vec![
                Leak::none("process tube", Part::Near),
                Leak::none("brazed joint, drier", Part::Far),
            ],
            ..PlantTruth::pumped(300.0, 0.0)
        },
        answers: Answers {
            before: "R-290 was recovered, the drier changed, the hold was tight. A heat gun lies on the bench.".into(),
            ..Answers::default()
        },
        reveals: "R-290 dissolved in the oil comes off, less each time. There is no leak; but what comes off \
             burns.".into(),
        clues: vec![
            did(&["ask"], "What had been in it?"),
            isolated(2, 10.0, "Two rises, the second smaller."),
            did(&["warm"], "Warmth drives it out of the oil, without a glow."),
        ],
        right: Right { give: Some(Give::Reserved), ..right(Cause::OilGas) },
        par_minutes: 125.0,
        path: vec![
            doing(Doing::Ask),
            doing(Doing::ValveOff),
            watch(TestKind::Decay, 11.0),
            doing(Doing::PumpOn),
            doing(Doing::LockOut),
            doing(Doing::Warm { with: Heat::Blanket }),
            doing(Doing::BreakAndPull),
            doing(Doing::ValveOff),
            watch(TestKind::Decay, 15.0),
        ],
        wrong: vec![
            doing(Doing::ValveOff),
            watch(TestKind::Decay, 11.0),
            doing(Doing::LockOut),
            doing(Doing::Warm { with: Heat::Gun }),
        ],
        wrong_decision: decides(Cause::OilGas, Give::Reserved),
        ..blank(
            "Under the counter",
            Phase::Vacuum,
            "A small cooler under a tea room's counter, its drier just changed. The pull gets to about 300 \
             micron and then rises by some 200 in ten minutes; it has to be back in use tonight.",
            sheet("Tea room cooler", "R-290", 0.0, 7.0),
        )
    }
}
