//! Under vacuum.

use super::*;
use crate::scenario::Answers;
use ruhe_sim::plant::PlantTruth;

const VOLUME: f64 = 7.3e-3;

pub fn all() -> Vec<Scenario> {
    vec![stands(), far(), leap(), straight(), oil(), seal()]
}

/// Places that speak under vacuum.
fn spots(leaking: Option<(&str, f64)>, only_vacuum: bool) -> Vec<Leak> {
    let mut out = vec![
        Leak::none("slide of the core tool", Part::Near),
        Leak::none("seal of the vapour cap", Part::Near),
        Leak::none("flare, outdoor, vapour", Part::Far),
        Leak::none("core of the liquid port", Part::Near),
    ];
    if let Some((place, draws)) = leaking {
        for l in out.iter_mut().filter(|l| l.place == place) {
            (l.draws, l.shut_by_pressure) = (Some(draws), only_vacuum);
        }
    }
    out
}

fn stands() -> Scenario {
    Scenario {
        truth: PlantTruth {
            kelvin: fahrenheit(52.0),
            free_water: 2e-3,
            places: spots(None, false),
            ..PlantTruth::pumped(60.0, 4_700.0)
        },
        answers: Answers {
            before: "The lines lay open in the rain for a day. The pump's oil is new.".into(),
            ..Answers::default()
        },
        reveals: "Two grams of water lie in the cold coil, and boil off at their own pace.".into(),
        clues: vec![
            did(
                &["probe_on_pipe", "ask"],
                "The place where it stands is near the saturation of water at the coil's temperature.",
            ),
            did(
                &["ballast"],
                "Vapour goes through the pump only with the ballast open.",
            ),
            did(&["warm", "fan"], "Warmth boils it off."),
            did(&["break_and_pull"], "Dry nitrogen carries it out."),
            isolated(1, 10.0, "Isolated, and watched."),
        ],
        right: right(Cause::Water),
        par_minutes: 220.0,
        path: vec![
            doing(Doing::Ask),
            watch(TestKind::Pull, 10.0),
            doing(Doing::Ballast),
            doing(Doing::LockOut),
            doing(Doing::Warm {
                with: Heat::Blanket,
            }),
            doing(Doing::BreakAndPull),
            doing(Doing::BreakAndPull),
            doing(Doing::BreakAndPull),
            doing(Doing::ValveOff),
            watch(TestKind::Decay, 15.0),
        ],
        wrong: vec![doing(Doing::PumpOil), wait(10.0)],
        wrong_decision: decides(Cause::DryAndTight, Give::Pass),
        ..blank(
            "It stands still",
            Phase::Vacuum,
            "An evacuation in a cellar, 52 °F. For half an hour the vacuum has been standing at some 4,700 \
             micron. The pump is known to be good.",
            sheet("Cellar cooler", "R-134a", 0.0, 7.0),
        )
    }
}

fn far() -> Scenario {
    Scenario {
        truth: PlantTruth {
            core_in: true,
            bound_water: (1.2e-5, 2_400.0),
            gauge_near: false,
            places: spots(None, false),
            ..PlantTruth::pumped(1_650.0, 250.0)
        },
        answers: Answers {
            before: "The list of cores has one line without a tick: liquid port.".into(),
            ..Answers::default()
        },
        reveals: "A core was left in, and the far end was pumped through the eye of a needle."
            .into(),
        clues: vec![
            did(&["move_gauge"], "The other end was looked at."),
            did(&["ask"], "The list of cores was read."),
            did(&["core_out"], "The core is out."),
            isolated(1, 10.0, "Isolated, and watched."),
        ],
        right: right(Cause::CoreIn),
        par_minutes: 75.0,
        path: vec![
            doing(Doing::MoveGauge { near: true }),
            doing(Doing::Ask),
            doing(Doing::CoreOut),
            doing(Doing::MoveGauge { near: false }),
            watch(TestKind::Pull, 35.0),
            doing(Doing::ValveOff),
            watch(TestKind::Decay, 15.0),
        ],
        wrong: vec![
            look("flare, outdoor, vapour", 10.0),
            doing(Doing::BreakAndPull),
        ],
        wrong_decision: decides_at(Cause::Leak, "flare, outdoor, vapour", Give::Fail),
        ..blank(
            "Two ends",
            Phase::Vacuum,
            "An evacuation with the gauge at the far end: about 1,900 micron, and falling so slowly that it \
             might be standing. At the pump it would look like 150.",
            sheet("Dairy cooler", "R-134a", 0.0, 7.0),
        )
    }
}

fn leap() -> Scenario {
    Scenario {
        truth: PlantTruth {
            hose_gas: (0.0132, 1_560.0 * MICRON),
            gauge_near: true,
            places: spots(None, false),
            ..PlantTruth::pumped(110.0, 0.0)
        },
        answers: Answers {
            before: "The hoses were new this morning, of a kind that nobody here has used before."
                .into(),
            ..Answers::default()
        },
        reveals: "The new hoses give off gas. The system itself is dry and tight.".into(),
        clues: vec![
            isolated(
                1,
                2.0,
                "The rise leaps, and slows at once: not how a system leaks.",
            ),
            did(&["hoses_out"], "The hoses were shut out of the test."),
            isolated(2, 2.0, "And watched again."),
        ],
        right: right(Cause::Hoses),
        par_minutes: 40.0,
        path: vec![
            doing(Doing::ValveOff),
            watch(TestKind::Decay, 5.0),
            doing(Doing::PumpOn),
            watch(TestKind::None, 5.0),
            doing(Doing::HosesOut),
            watch(TestKind::Decay, 12.0),
        ],
        wrong: vec![doing(Doing::ValveOff), watch(TestKind::Decay, 2.0)],
        wrong_decision: decides_at(Cause::Leak, "flare, outdoor, vapour", Give::Fail),
        ..blank(
            "A leap",
            Phase::Vacuum,
            "A good, quick pull to some 110 micron. Your colleague shut the valve for two minutes and saw 700, \
             then 1,050, and opened it again. “It is full of holes.”",
            sheet("Florist cooler", "R-32", 0.0, 7.0),
        )
    }
}

fn straight() -> Scenario {
    let place = "slide of the core tool";
    Scenario {
        truth: PlantTruth {
            places: spots(Some((place, micron_in_ten(270.0, VOLUME))), true),
            ..PlantTruth::pumped(230.0, 0.0)
        },
        answers: Answers {
            before: "The hold was tight to 0.4 psi. The core tools were fitted after it.".into(),
            ..Answers::default()
        },
        reveals: "The slide of a core tool that was fitted after the hold draws air.".into(),
        clues: vec![
            isolated(1, 10.0, "The rise is straight: a leak."),
            did(&["ask"], "What was fitted since the hold that was tight?"),
            mended(place, "The tool was changed."),
            isolated(2, 10.0, "And watched again."),
        ],
        right: right_at(Cause::Tool, place),
        par_minutes: 110.0,
        path: vec![
            doing(Doing::ValveOff),
            watch(TestKind::Decay, 12.0),
            doing(Doing::Ask),
            renew(place),
            doing(Doing::BreakAndPull),
            doing(Doing::ValveOff),
            watch(TestKind::Decay, 15.0),
        ],
        wrong: vec![
            doing(Doing::ValveOff),
            watch(TestKind::Decay, 10.0),
            doing(Doing::BreakAndPull),
            doing(Doing::BreakAndPull),
            doing(Doing::BreakAndPull),
        ],
        wrong_decision: decides(Cause::Water, Give::Fail),
        ..blank(
            "A straight line",
            Phase::Vacuum,
            "The hold this morning was tight. Now, under vacuum, it goes from 230 to about 500 micron in ten \
             minutes. The pump runs again.",
            sheet("Library split", "R-32", 0.0, 7.0),
        )
    }
}

/// Pumped to about 300 micron by a pump that gets no further.
fn weary(truth: PlantTruth) -> PlantTruth {
    PlantTruth {
        ultimate: 270.0 * MICRON,
        ..truth
    }
}

fn oil() -> Scenario {
    Scenario {
        truth: weary(PlantTruth {
            oil_gas: (2.6, 6_900.0),
            places: spots(None, false),
            ..PlantTruth::pumped(300.0, 0.0)
        }),
        answers: Answers {
            before: "A compressor was changed; its oil stood open for an hour. The hold before was tight.".into(),
            ..Answers::default()
        },
        reveals: "Gas dissolved in the oil comes off, less each time. There is no leak.".into(),
        clues: vec![
            isolated(3, 10.0, "Three rises, each smaller than the one before."),
            did(&["lock_out"], "The compressor was locked out."),
            did(&["warm"], "Warmth drives the gas out of the oil."),
        ],
        right: Right { give: Some(Give::Reserved), ..right(Cause::OilGas) },
        par_minutes: 165.0,
        path: vec![
            doing(Doing::ValveOff),
            watch(TestKind::Decay, 11.0),
            doing(Doing::LockOut),
            doing(Doing::BreakAndPull),
            doing(Doing::ValveOff),
            watch(TestKind::Decay, 11.0),
            doing(Doing::PumpOn),
            doing(Doing::Warm { with: Heat::Blanket }),
            doing(Doing::ValveOff),
            watch(TestKind::Decay, 15.0),
        ],
        wrong: vec![
            doing(Doing::ValveOff),
            watch(TestKind::Decay, 10.0),
            look("flare, outdoor, vapour", 15.0),
            renew("flare, outdoor, vapour"),
            doing(Doing::BreakAndPull),
            wait(400.0),
        ],
        wrong_decision: decides_at(Cause::Leak, "flare, outdoor, vapour", Give::Fail),
        ..blank(
            "After the compressor",
            Phase::Vacuum,
            "A repair: a compressor was changed. The pull gets to about 300 micron, and the first rise, in ten \
             minutes, was from 300 to 520.",
            sheet("Brewery chiller", "R-134a", 0.0, 7.0),
        )
    }
}

fn seal() -> Scenario {
    let place = "seal of the vapour cap";
    Scenario {
        truth: weary(PlantTruth {
            places: spots(Some((place, micron_in_ten(225.0, VOLUME))), true),
            ..PlantTruth::pumped(300.0, 0.0)
        }),
        answers: Answers {
            before: "A compressor was changed; its oil stood open for an hour. The hold before was tight. The \
                 caps are the old ones.".into(),
            ..Answers::default()
        },
        reveals: "A cap's seal leaks under vacuum only; pressure from inside pushes it shut.".into(),
        clues: vec![
            isolated(2, 10.0, "The rise is the same again: gas from oil would be less."),
            did(&["ask"], "Seals that only a vacuum opens."),
            mended(place, "The seal was changed."),
            isolated(3, 10.0, "And watched again."),
        ],
        right: right_at(Cause::Leak, place),
        par_minutes: 160.0,
        path: vec![
            doing(Doing::ValveOff),
            watch(TestKind::Decay, 11.0),
            doing(Doing::BreakAndPull),
            doing(Doing::ValveOff),
            watch(TestKind::Decay, 11.0),
            doing(Doing::Ask),
            renew(place),
            doing(Doing::BreakAndPull),
            doing(Doing::ValveOff),
            watch(TestKind::Decay, 15.0),
        ],
        wrong: vec![doing(Doing::ValveOff), watch(TestKind::Decay, 11.0), doing(Doing::BreakAndPull)],
        wrong_decision: decides(Cause::OilGas, Give::Reserved),
        ..blank(
            "After another compressor",
            Phase::Vacuum,
            "A repair: a compressor was changed. The pull gets to about 300 micron, and the first rise, in ten \
             minutes, was from 300 to 520.",
            sheet("Print works chiller", "R-134a", 0.0, 7.0),
        )
    }
}
