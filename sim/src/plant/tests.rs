#![allow(clippy::unwrap_used)]
use super::*;
use crate::{MICRON, PSI};

fn shows(p: &DrillPlant, sensor: Sensor) -> f64 {
    p.faces()
        .iter()
        .find(|f| f.sensor == sensor)
        .unwrap()
        .value
        .unwrap()
}
fn psig(p: &DrillPlant) -> f64 {
    shows(p, Sensor::Pressure) / PSI
}
fn micron(p: &DrillPlant) -> f64 {
    shows(p, Sensor::Vacuum) / MICRON
}

#[test]
fn asking_more_often_changes_nothing() {
    let truth = PlantTruth {
        seed: 7,
        ..PlantTruth::default()
    };
    let mut often = DrillPlant::new(truth.clone());
    for i in 1..=200 {
        often.run_to(f64::from(i) * 3.7);
    }
    let mut once = DrillPlant::new(truth);
    once.run_to(740.0);
    assert_eq!(often.faces(), once.faces());
}

#[test]
fn a_leak_loses_what_it_says() {
    // 4 psi an hour in 7.3 L at 300 psig.
    let out = 4.0 * PSI * 7.3e-3 / 3_600.0;
    let mut p = DrillPlant::new(PlantTruth {
        places: vec![Leak {
            out,
            ..Leak::none("flare", Part::Near)
        }],
        ..PlantTruth::default()
    });
    let first = p.pressure(Part::Near);
    p.run_to(3_600.0);
    let lost = (first - p.pressure(Part::Near)) / PSI;
    assert!((lost - 4.0).abs() < 1.0, "{lost}");
}

#[test]
fn filling_warms_and_the_warmth_fades() {
    let mut p = DrillPlant::new(PlantTruth {
        start: Start::Open,
        ..PlantTruth::default()
    });
    assert_eq!(p.act(&Doing::PressTo { pa: 300.0 * PSI }), Outcome::Done);
    let at = psig(&p);
    assert!((at - 300.0).abs() < 6.0, "{at}");
    p.act(&Doing::Wait { minutes: 40.0 });
    assert!(psig(&p) < at && psig(&p) > at - 8.0, "{} {at}", psig(&p));
}

#[test]
fn a_bottle_that_is_too_small_says_so() {
    let mut p = DrillPlant::new(PlantTruth {
        start: Start::Open,
        volumes: [0.3e-3, 3.0e-3, 2.7e-3],
        bottle: (7.5e-3, 520.0 * PSI),
        ..PlantTruth::default()
    });
    assert!(matches!(
        p.act(&Doing::PressTo { pa: 300.0 * PSI }),
        Outcome::Short { .. }
    ));
    // Boyle: 7.5 L at 535 psia into 6 L of air: about 300 psia.
    assert!((285.0..305.0).contains(&psig(&p)), "{}", psig(&p));
}

#[test]
fn water_holds_the_pump_up_and_the_ballast_helps() {
    let mut p = DrillPlant::new(PlantTruth {
        free_water: 2e-3,
        kelvin: 284.26,
        ..PlantTruth::pumped(40.0, 4_700.0)
    });
    p.run_to(900.0);
    let stands = micron(&p);
    p.run_to(1_800.0);
    assert!(
        (0.75..1.15).contains(&(micron(&p) / stands)),
        "{stands} {}",
        micron(&p)
    );
    assert!((2_500.0..8_000.0).contains(&stands), "{stands}");
    p.act(&Doing::Ballast);
    p.act(&Doing::LockOut);
    assert_eq!(
        p.act(&Doing::Warm {
            with: Heat::Blanket
        }),
        Outcome::Done
    );
    p.act(&Doing::BreakAndPull);
    p.act(&Doing::BreakAndPull);
    p.act(&Doing::BreakAndPull);
    assert!(micron(&p) < 600.0, "{}", micron(&p));
}

#[test]
fn harm_ends_it() {
    let mut p = DrillPlant::new(PlantTruth::default());
    let open = Doing::Renew {
        place: "flare".into(),
    };
    assert!(matches!(p.act(&open), Outcome::Harm { .. }));
    let mut p = DrillPlant::new(PlantTruth {
        limits: [3.2e6, 1.05e6],
        start: Start::Open,
        ..PlantTruth::default()
    });
    assert!(matches!(
        p.act(&Doing::PressTo { pa: 450.0 * PSI }),
        Outcome::Harm { .. }
    ));
    let oxygen = Doing::ChangeBottle {
        gas: BottleGas::Oxygen,
    };
    assert!(matches!(
        DrillPlant::new(PlantTruth::default()).act(&oxygen),
        Outcome::Harm { .. }
    ));
}

#[test]
fn refrigerant_that_weeps_in_stops_at_its_saturation() {
    let mut p = DrillPlant::new(PlantTruth {
        start: Start::Filled {
            near: 0.0,
            far: 0.0,
            ago: 3_600.0,
        },
        between_open: false,
        held_back: Some(HeldBack {
            part: Part::Near,
            lets_by: 2.0,
        }),
        ..PlantTruth::default()
    });
    p.run_to(30_000.0);
    let behind = gas::refrigerant_saturation(p.metal[0]);
    assert!((p.pressure(Part::Near) / behind - 1.0).abs() < 0.1);
    assert_eq!(p.act(&Doing::Sniff), Outcome::Found);
    assert!(matches!(
        p.act(&Doing::VentTo { pa: 0.0 }),
        Outcome::Harm { .. }
    ));
}
