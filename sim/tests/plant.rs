//! The simulated plant does what its truth says, so that what is judged from it can be trusted.
#![allow(clippy::unwrap_used)]

use ruhe_sim::{Gauge, HoldPlant, HoldTruth, PSI, Probe, VacuumPlant, VacuumTruth, Weather};

fn quiet(weather: Weather, seed: u64) -> HoldTruth {
    let plain = HoldPlant::tight(300.0, 4.0 * 3_600.0, seed);
    HoldTruth {
        weather,
        fill_k: 0.0,
        gauge: Gauge::ideal(0.0),
        probes: vec![Probe {
            gauge: Gauge::ideal(0.0),
            ..plain.probes[0]
        }],
        ..plain
    }
}

/// Pressure (Pa gauge) and first probe (K) at a time.
fn at(plant: &mut HoldPlant, t: f64) -> (f64, f64) {
    let shown = plant.show(t);
    (shown[0].value, shown[1].value)
}

#[test]
fn the_filling_fades_with_its_own_times() {
    let truth = HoldTruth {
        fill_k: 6.0,
        fill_time: 200.0,
        fill_slow: 0.3,
        fill_slower: 4.0,
        ..quiet(Weather::Steady, 1)
    };
    let mut plant = HoldPlant::new(truth);
    let p: Vec<f64> = [0.0, 200.0, 800.0, 4_000.0]
        .iter()
        .map(|t| at(&mut plant, *t).0 / PSI)
        .collect();
    // Six kelvin at 300 psig are some 6.7 psi; what is left is 0.7 e^(−t/200) + 0.3 e^(−t/800).
    let left = |t: f64| 0.7 * (-t / 200.0f64).exp() + 0.3 * (-t / 800.0f64).exp();
    let whole = (p[0] - p[3]) / (1.0 - left(4_000.0));
    assert!((6.0..7.6).contains(&whole), "{whole}");
    for (i, t) in [(1, 200.0), (2, 800.0)] {
        assert!(
            ((p[i] - p[3]) / whole - (left(t) - left(4_000.0))).abs() < 0.08,
            "{t} s: {p:?}"
        );
    }
}

#[test]
fn gain_and_lag_part_the_gas_from_its_probe() {
    let pressure_after = |gain: f64, lag: f64| {
        let mut plant = HoldPlant::new(HoldTruth {
            gain,
            lag,
            ..quiet(Weather::Ramp(3.0), 2)
        });
        let (p0, t0) = at(&mut plant, 0.0);
        let (p1, t1) = at(&mut plant, 3_600.0);
        (p1 - p0) / (t1 - t0) / PSI
    };
    let plain = pressure_after(1.0, 0.0);
    assert!(
        (0.95..1.3).contains(&plain),
        "about 1.1 psi a kelvin at 300 psig: {plain}"
    );
    assert!((pressure_after(0.8, 0.0) / plain - 0.8).abs() < 0.05);
    // Behind a long lag the gas has a history to catch up with, but a steady ramp moves it as fast.
    assert!((pressure_after(1.0, 600.0) / plain - 1.0).abs() < 0.2);
}

#[test]
fn a_late_probe_shows_yesterdays_gas() {
    let swing = |lag: f64| {
        let mut plant = HoldPlant::new(HoldTruth {
            lag,
            ..quiet(Weather::Cloud(8.0), 3)
        });
        let shown: Vec<(f64, f64)> = (0..240)
            .map(|k| at(&mut plant, f64::from(k) * 30.0))
            .collect();
        let spread = |v: Vec<f64>| {
            v.iter().copied().fold(f64::MIN, f64::max) - v.iter().copied().fold(f64::MAX, f64::min)
        };
        (
            spread(shown.iter().map(|s| s.0).collect()),
            spread(shown.iter().map(|s| s.1).collect()),
        )
    };
    let (gas_ahead, probe_late) = swing(-300.0);
    let (gas_behind, probe_ahead) = swing(300.0);
    assert!(
        gas_ahead > gas_behind && probe_late < probe_ahead,
        "a low-pass makes a swing smaller, in the probe or in the gas"
    );
}

#[test]
fn a_gauge_rounds_wanders_and_feels_the_sun() {
    let gauge = Gauge {
        digit: 0.5 * PSI,
        ..Gauge::ideal(0.5 * PSI)
    };
    let mut plant = HoldPlant::new(HoldTruth {
        gauge,
        ..quiet(Weather::Steady, 4)
    });
    for k in 0..20 {
        let v = at(&mut plant, f64::from(k) * 60.0).0 / (0.5 * PSI);
        assert!((v - v.round()).abs() < 1e-9, "{v}");
    }
    let sunny = Gauge {
        per_kelvin: 0.2 * PSI,
        sun: 10.0,
        ..Gauge::ideal(0.0)
    };
    let mut plant = HoldPlant::new(HoldTruth {
        gauge: sunny,
        ..quiet(Weather::Steady, 5)
    });
    let mut shaded = HoldPlant::new(quiet(Weather::Steady, 5));
    let drift = |p: &mut HoldPlant| at(p, 3_600.0).0;
    // Ten kelvin approached in quarter hours: 98 % after an hour.
    let warmed = (drift(&mut plant) - drift(&mut shaded)) / PSI;
    assert!((warmed - 1.96).abs() < 0.15, "{warmed}");
}

#[test]
fn a_bigger_leak_loses_more_and_a_tight_plant_nothing_but_temperature() {
    let fallen = |psi_per_hour: f64| {
        let mut plant = HoldPlant::new(HoldTruth {
            loss: psi_per_hour * PSI / 3_600.0,
            gain: 0.0,
            ..quiet(Weather::Steady, 6)
        });
        (at(&mut plant, 0.0).0 - at(&mut plant, 2.0 * 3_600.0).0) / PSI
    };
    let (none, one, five) = (fallen(0.0), fallen(1.0), fallen(5.0));
    // The barometer wanders under a vented gauge; the plant itself loses nothing.
    assert!(
        none.abs() < 0.06 && (one - none - 2.0).abs() < 0.05 && (five - none - 10.0).abs() < 0.4,
        "{none} {one} {five}"
    );
}

#[test]
fn a_dry_vacuum_stays_and_a_leaking_one_rises_straight() {
    let rise = |leak: f64| {
        let mut plant = VacuumPlant::new(VacuumTruth {
            leak,
            ..VacuumTruth::dry(250.0, 7)
        });
        let first = plant.show(0.0).value;
        let (middle, last) = (plant.show(600.0).value, plant.show(1_200.0).value);
        (middle - first, last - middle)
    };
    let micron = 0.133_322;
    let (a, b) = rise(20.0 * micron / 60.0);
    assert!(
        (a / micron - 200.0).abs() < 15.0 && (b / a - 1.0).abs() < 0.1,
        "{a} {b}"
    );
    let (a, _) = rise(0.0);
    assert!(a.abs() / micron < 15.0, "{a}");
}
