//! The drills' plant against tables from elsewhere, against closed forms, and against what its own truth says.
#![allow(clippy::unwrap_used)]

use ruhe_sim::plant::{
    BottleGas, By, Doing, DrillPlant, Heat, HeldBack, Leak, Outcome, Part, PlantTruth, Sensor,
    Start, Unit, compressibility, refrigerant_saturation, water_saturation,
};
use ruhe_sim::{ATMOSPHERE, MICRON, PSI};

/// Rows of a table of reference/, without the heading.
fn rows(file: &str) -> Vec<Vec<String>> {
    let path = std::path::Path::new(env!("CARGO_MANIFEST_DIR"))
        .join("../reference")
        .join(file);
    let text = std::fs::read_to_string(path).unwrap();
    let cells = |l: &str| l.split(',').map(str::to_owned).collect();
    text.lines().skip(1).map(cells).collect()
}

fn number(text: &str) -> f64 {
    text.parse().unwrap()
}

/// CoolProp 8.0.0 (Span et al. 2000), reference/nitrogen.csv: another equation of state than the plant's GERG-2008.
#[test]
fn nitrogen_is_that_of_the_table() {
    /// kg/mol; J/(mol·K).
    const NITROGEN: (f64, f64) = (0.028_013_4, 8.314_462_618);
    let mut seen = 0;
    for r in rows("nitrogen.csv") {
        let (t, p, density) = (number(&r[0]) + 273.15, number(&r[1]) * 1e5, number(&r[2]));
        if p > 1e7 || !(243.0..=345.0).contains(&t) {
            continue;
        }
        let z = p * NITROGEN.0 / (density * NITROGEN.1 * t);
        assert!(
            (compressibility(p, t) / z - 1.0).abs() < 5e-4,
            "{t} K, {p} Pa"
        );
        seen += 1;
    }
    assert!(seen > 20, "{seen} rows");
}

/// IAPWS-IF97 and R14-08(2011), reference/water.csv.
#[test]
fn water_boils_where_the_table_says() {
    for r in rows("water.csv") {
        let (t, p) = (number(&r[1]) + 273.15, number(&r[2]));
        if (235.0..330.0).contains(&t) {
            assert!((water_saturation(t) / p - 1.0).abs() < 0.01, "{r:?}");
        }
    }
}

/// CoolProp 8.0.0, reference/saturation.csv.
#[test]
fn the_refrigerant_boils_where_the_table_says() {
    let all = rows("saturation.csv");
    let near = all
        .iter()
        .filter(|r| r[0] == "R-410A" && (-20.0..52.0).contains(&number(&r[1])));
    let mut seen = 0;
    for r in near {
        let (t, p) = (number(&r[1]) + 273.15, number(&r[3]) * 1e3);
        assert!((refrigerant_saturation(t) / p - 1.0).abs() < 0.02, "{r:?}");
        seen += 1;
    }
    assert!(seen > 6);
}

fn shows(p: &DrillPlant, sensor: Sensor) -> Option<f64> {
    p.faces().iter().find(|f| f.sensor == sensor)?.value
}
fn psig(p: &DrillPlant) -> f64 {
    shows(p, Sensor::Pressure).unwrap() / PSI
}
fn micron(p: &DrillPlant) -> f64 {
    shows(p, Sensor::Vacuum).unwrap() / MICRON
}
fn wait(p: &mut DrillPlant, minutes: f64) {
    assert_eq!(p.act(&Doing::Wait { minutes }), Outcome::Done);
}
fn filled(near: f64, far: f64) -> Start {
    Start::Filled {
        near: near * PSI,
        far: far * PSI,
        ago: 7_200.0,
    }
}

/// CoolProp's isochores, reference/isochores.csv: psi for 10 °F at constant density. The sun warms the pipes by 18 K/h.
#[test]
fn a_tight_plant_in_the_sun_follows_the_isochore() {
    let table = rows("isochores.csv");
    for r in table
        .iter()
        .filter(|r| (150.0..600.0).contains(&number(&r[0])))
    {
        let (at, per_ten) = (number(&r[0]), number(&r[1]));
        let mut p = DrillPlant::new(PlantTruth {
            start: filled(at, at),
            sun: 18.0,
            kelvin: 294.26,
            limits: [6e6, 6e6],
            ..PlantTruth::default()
        });
        p.act(&Doing::ShadeGauge);
        p.act(&Doing::ProbeOnPipe);
        wait(&mut p, 10.0);
        let kelvin = |p: &DrillPlant| p.history().last().map(|s| (s.kelvin, s.truly[0])).unwrap();
        let (t0, p0) = kelvin(&p);
        wait(&mut p, 30.0);
        let (t1, p1) = kelvin(&p);
        let moved = (p1 - p0) / PSI / ((t1 - t0) * 1.8) * 10.0;
        assert!(
            (moved / per_ten - 1.0).abs() < 0.03,
            "{at} psig: {moved} of {per_ten}"
        );
    }
}

#[test]
fn the_halves_keep_their_gas_between_them() {
    let mut p = DrillPlant::new(PlantTruth {
        start: filled(180.0, 0.0),
        between_open: false,
        between_lets_by: 0.3,
        volumes: [0.3e-3, 3.7e-3, 4.0e-3],
        ..PlantTruth::default()
    });
    let sum = |p: &DrillPlant| p.pressure(Part::Near) + p.pressure(Part::Far);
    let before = sum(&p);
    wait(&mut p, 60.0);
    // Equal volumes: what one loses the other gains, but for real gas and a little weather.
    assert!((sum(&p) / before - 1.0).abs() < 0.01);
    assert!(p.pressure(Part::Far) > 2.0 * ATMOSPHERE);
    // Never past equal, however long.
    wait(&mut p, 900.0);
    assert!((p.pressure(Part::Near) / p.pressure(Part::Far) - 1.0).abs() < 0.02);
}

#[test]
fn a_straight_leak_into_a_vacuum_is_as_large_as_it_says() {
    let volume = 7.3e-3;
    let mut p = DrillPlant::new(PlantTruth {
        places: vec![Leak {
            draws: Some(27.0 * MICRON * volume / 60.0),
            shut_by_pressure: true,
            ..Leak::none("slide", Part::Near)
        }],
        ..PlantTruth::pumped(230.0, 0.0)
    });
    p.act(&Doing::ValveOff);
    let from = micron(&p);
    wait(&mut p, 10.0);
    let rise = micron(&p) - from;
    assert!((rise - 270.0).abs() < 40.0, "{rise}");
    // Pressure from inside pushes it shut: under nitrogen nothing bubbles.
    p.act(&Doing::PressTo { pa: 100.0 * PSI });
    let look = Doing::Look {
        place: "slide".into(),
        by: By::Bubbles,
        minutes: 15.0,
    };
    assert_eq!(p.act(&look), Outcome::Nothing);
}

#[test]
fn gas_from_oil_rises_less_each_time_and_sooner_when_warm() {
    let rises = |is_warmed: bool| {
        let mut p = DrillPlant::new(PlantTruth {
            oil_gas: (2.6, 6_900.0),
            ..PlantTruth::pumped(100.0, 0.0)
        });
        p.act(&Doing::LockOut);
        if is_warmed {
            p.act(&Doing::Warm {
                with: Heat::Blanket,
            });
        }
        let mut out = vec![];
        for _ in 0..3 {
            p.act(&Doing::ValveOff);
            let from = micron(&p);
            wait(&mut p, 10.0);
            out.push(micron(&p) - from);
            p.act(&Doing::BreakAndPull);
        }
        out
    };
    let cold = rises(false);
    assert!(
        cold[0] > 1.2 * cold[1] && cold[1] > 1.2 * cold[2],
        "{cold:?}"
    );
    let warm = rises(true);
    assert!(warm[2] < 0.5 * cold[2], "{warm:?} {cold:?}");
}

#[test]
fn a_core_in_the_way_hides_the_far_end_from_the_pumps_end() {
    let mut p = DrillPlant::new(PlantTruth {
        core_in: true,
        bound_water: (1.2e-5, 2_400.0),
        ..PlantTruth::pumped(1_650.0, 250.0)
    });
    wait(&mut p, 5.0);
    let far = micron(&p);
    p.act(&Doing::MoveGauge { near: true });
    let near = micron(&p);
    assert!(far > 5.0 * near, "{far} {near}");
    p.act(&Doing::CoreOut);
    p.act(&Doing::MoveGauge { near: false });
    wait(&mut p, 20.0);
    assert!(micron(&p) < 0.3 * far);
}

#[test]
fn new_hoses_leap_and_the_system_without_them_stands() {
    let mut p = DrillPlant::new(PlantTruth {
        hose_gas: (0.0132, 1_560.0 * MICRON),
        gauge_near: true,
        ..PlantTruth::pumped(110.0, 0.0)
    });
    p.act(&Doing::ValveOff);
    wait(&mut p, 1.0);
    let two = micron(&p);
    assert!(two > 600.0, "{two}");
    p.act(&Doing::PumpOn);
    wait(&mut p, 5.0);
    p.act(&Doing::HosesOut);
    let from = micron(&p);
    wait(&mut p, 10.0);
    assert!(micron(&p) - from < 40.0);
}

#[test]
fn gauges_stick_sleep_and_warm_in_the_sun() {
    let leak = Leak {
        out: 20.0 * PSI * 7.3e-3 / 3_600.0,
        ..Leak::none("flare", Part::Near)
    };
    let mut sticks = DrillPlant::new(PlantTruth {
        sticks: true,
        places: vec![leak],
        ..PlantTruth::default()
    });
    let from = psig(&sticks);
    wait(&mut sticks, 30.0);
    assert_eq!(psig(&sticks), from);
    sticks.act(&Doing::TapGauge);
    assert!(psig(&sticks) < from - 5.0);

    let mut sleeps = DrillPlant::new(PlantTruth {
        sleeps: Some(900.0),
        ..PlantTruth::pumped(180.0, 0.0)
    });
    wait(&mut sleeps, 20.0);
    assert_eq!(shows(&sleeps, Sensor::Vacuum), None);
    sleeps.act(&Doing::TapGauge);
    assert!(shows(&sleeps, Sensor::Vacuum).is_some());

    let sun = |is_shaded: bool| {
        let mut p = DrillPlant::new(PlantTruth {
            sun: 0.001,
            seed: 5,
            ..PlantTruth::default()
        });
        if is_shaded {
            p.act(&Doing::ShadeGauge);
        }
        wait(&mut p, 60.0);
        let seen = p.history().last().unwrap();
        psig(&p) - (seen.truly[1] - seen.outside) / PSI
    };
    assert!(
        sun(false) > sun(true) + 0.1,
        "a gauge in the sun reads high"
    );
}

#[test]
fn a_look_finds_as_often_as_its_time_says() {
    // τ at this flow: 60 s·√(0.05/q); q at 300 psig as the leak says.
    let q: f64 = 5e-3;
    let tau = 60.0 * (0.05 / q).sqrt();
    let (minutes, n) = (2.0, 400);
    let found = (0..n)
        .filter(|seed| {
            let mut p = DrillPlant::new(PlantTruth {
                places: vec![Leak {
                    out: q,
                    ..Leak::none("flare", Part::Near)
                }],
                seed: *seed,
                ..PlantTruth::default()
            });
            let look = Doing::Look {
                place: "flare".into(),
                by: By::Bubbles,
                minutes,
            };
            p.act(&look) == Outcome::Found
        })
        .count();
    let chance = 1.0 - (-60.0 * minutes / tau).exp();
    let spread = (f64::from(n as u32) * chance * (1.0 - chance)).sqrt();
    let wanted = f64::from(n as u32) * chance;
    assert!(
        (found as f64 - wanted).abs() < 4.0 * spread,
        "{found} of {wanted}"
    );
}

#[test]
fn bubbles_need_pressure_and_a_detector_needs_refrigerant() {
    let leak = Leak {
        out: 0.05,
        ..Leak::none("flare", Part::Near)
    };
    let look = |by| Doing::Look {
        place: "flare".into(),
        by,
        minutes: 15.0,
    };
    let mut p = DrillPlant::new(PlantTruth {
        places: vec![leak.clone()],
        ..PlantTruth::default()
    });
    assert_eq!(p.act(&look(By::Detector)), Outcome::Nothing);
    assert_eq!(p.act(&look(By::Bubbles)), Outcome::Found);
    p.act(&Doing::VentTo { pa: 0.0 });
    assert_eq!(p.act(&look(By::Bubbles)), Outcome::Nothing);
    // Mended, nothing shows under pressure either.
    wait(&mut p, 10.0);
    p.act(&Doing::VentTo { pa: 0.0 });
    assert_eq!(
        p.act(&Doing::Renew {
            place: "flare".into()
        }),
        Outcome::Done
    );
    p.act(&Doing::PressTo { pa: 300.0 * PSI });
    assert_eq!(p.act(&look(By::Bubbles)), Outcome::Nothing);
    assert!(p.faults().is_empty());
    // A place that is not there is named.
    let nowhere = Doing::Tighten {
        place: "cap".into(),
    };
    assert!(matches!(p.act(&nowhere), Outcome::Short { why } if why.contains("cap")));
}

#[test]
fn every_harm_ends_with_its_caution() {
    let harm = |truth: PlantTruth, doing: Doing| match DrillPlant::new(truth).act(&doing) {
        Outcome::Harm { caution, .. } => caution,
        other => panic!("{doing:?}: {other:?}"),
    };
    let plain = PlantTruth::default;
    assert!(harm(plain(), Doing::CoreOut).contains("Nothing is opened before"));
    assert!(
        harm(
            plain(),
            Doing::ChangeBottle {
                gas: BottleGas::Oxygen
            }
        )
        .contains("never oxygen")
    );
    let burns = PlantTruth {
        flammable: true,
        ..PlantTruth::pumped(300.0, 0.0)
    };
    assert!(harm(burns, Doing::Warm { with: Heat::Gun }).contains("nothing that glows"));
    assert!(harm(PlantTruth::pumped(200.0, 0.0), Doing::StartUp).contains("locked out"));
    let weak = PlantTruth {
        limits: [4e6, 1.1e6],
        start: Start::Open,
        ..plain()
    };
    assert!(harm(weak, Doing::PressTo { pa: 450.0 * PSI }).contains("Read every plate"));
    let charged = PlantTruth {
        start: filled(150.0, 150.0),
        between_open: false,
        held_back: Some(HeldBack {
            part: Part::Near,
            lets_by: 0.2,
        }),
        ..plain()
    };
    assert!(harm(charged.clone(), Doing::OpenBetween).contains("recover"));
    let mut p = DrillPlant::new(charged);
    wait(&mut p, 30.0);
    assert!(
        matches!(p.act(&Doing::VentTo { pa: 0.0 }), Outcome::Harm { caution, .. } if caution.contains("never vented"))
    );
}

#[test]
fn what_is_done_against_a_caution_is_named_and_goes_on() {
    let against = |p: &mut DrillPlant, doing: Doing| match p.act(&doing) {
        Outcome::Against { caution } => caution,
        other => panic!("{doing:?}: {other:?}"),
    };
    let leak = Leak::none("flare", Part::Near);
    let mut p = DrillPlant::new(PlantTruth {
        places: vec![leak],
        ..PlantTruth::default()
    });
    assert!(
        against(
            &mut p,
            Doing::Tighten {
                place: "flare".into()
            }
        )
        .contains("under test pressure")
    );
    assert!(
        against(
            &mut p,
            Doing::ChangeBottle {
                gas: BottleGas::ShopAir
            }
        )
        .contains("shop air")
    );
    let mut p = DrillPlant::new(PlantTruth::pumped(200.0, 0.0));
    assert!(
        against(
            &mut p,
            Doing::Warm {
                with: Heat::Blanket
            }
        )
        .contains("Lock the compressor out")
    );
    p.act(&Doing::LockOut);
    assert_eq!(
        p.act(&Doing::Warm {
            with: Heat::Blanket
        }),
        Outcome::Done
    );
    assert!(p.harm().is_none());
}

#[test]
fn a_unit_comes_to_rest_by_its_charge() {
    let unit = Unit {
        right_kg: 4.3,
        start_kg: 0.0,
        subcooling: 7.9,
        superheat: 6.7,
        per_tenth: 3.3,
        airflow: 1.0,
    };
    let subcooling = |kg: f64, minutes: f64| {
        let mut p = DrillPlant::new(PlantTruth {
            start: Start::Open,
            kelvin: 302.0,
            unit: Some(unit),
            ..PlantTruth::default()
        });
        p.act(&Doing::Charge { kg });
        p.act(&Doing::StartUp);
        wait(&mut p, minutes);
        let liquid = shows(&p, Sensor::Liquid).unwrap() + ATMOSPHERE;
        ruhe_sim::plant::refrigerant_boils(liquid) - shows(&p, Sensor::LiquidLine).unwrap()
    };
    let (early, late) = (subcooling(4.3, 4.0), subcooling(4.3, 14.0));
    assert!(
        early < 0.6 * late && (late - 7.9).abs() < 1.0,
        "{early} {late}"
    );
    assert!(
        subcooling(4.8, 14.0) > late + 2.0,
        "more charge, more subcooling"
    );
    // The scale shows what was taken from the cylinder.
    let mut p = DrillPlant::new(PlantTruth {
        start: Start::Open,
        unit: Some(unit),
        ..PlantTruth::default()
    });
    p.act(&Doing::Charge { kg: 4.3 });
    assert!((shows(&p, Sensor::Scale).unwrap() - 4.3).abs() < 0.01);
    assert!(p.faults().is_empty());
    p.act(&Doing::Charge { kg: 0.3 });
    assert_eq!(p.faults().len(), 1);
}
