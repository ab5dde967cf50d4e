//! Laws of the pressure side that hold whatever the figures: conservation, units, order, more data.

use proptest::prelude::*;
use ruhe_core::hold::Volume;
use ruhe_core::hold::{
    Foreseen, HoldOutcome, LeakByOutcome, Sky, judge_hold, judge_leak_by, reach,
};
use ruhe_core::judge::{Finding, say};
use ruhe_core::quantity::{Unit, Units};
use ruhe_core::reading::*;
use ruhe_sim::{HoldPlant, HoldTruth, PSI, Probe, Weather};

fn recording(kind: Kind, channels: Vec<Channel>, readings: Vec<(f64, usize, f64)>) -> Recording {
    let mut readings: Vec<Reading> = readings
        .into_iter()
        .map(|(at_s, channel, value)| Reading {
            at_s,
            channel,
            value,
        })
        .collect();
    readings.sort_by(|a, b| a.at_s.total_cmp(&b.at_s));
    Recording {
        settings: Settings::new(kind),
        channels,
        readings,
        events: vec![],
        start_ms: None,
        duplicates: 0,
        remarks: vec![],
    }
}

/// Two halves at one temperature; `through` psi of A's gas goes to B, `out` psi of it outside.
fn halves(a: f64, b: f64, ratio: f64, through: f64, out: f64, unit: Unit) -> Recording {
    let gauge = |name: &str, position| Channel {
        resolution: Some(unit.delta_of_si(0.01 * PSI)),
        position: Some(position),
        ..Channel::new(name, Quantity::GaugePressure, unit)
    };
    let channels = vec![
        gauge("A", Position::HalfA),
        gauge("B", Position::HalfB),
        Channel::new("T", Quantity::Temperature, Unit::K),
    ];
    let readings = (0..=30)
        .flat_map(|k| {
            let share = f64::from(k) / 30.0;
            let show = |psig: f64| unit.of_si(psig * PSI);
            [
                (0, show(a - (through + out) * share)),
                (1, show(b + through / ratio * share)),
                (2, 294.0),
            ]
            .map(|(c, v)| (f64::from(k) * 60.0, c, v))
        })
        .collect();
    let mut r = recording(Kind::LeakBy, channels, readings);
    r.settings.volume_ratio = Some(ratio);
    r
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 48, ..ProptestConfig::default() })]

    /// What A loses is what went through and what went out, whatever the volumes and the unit.
    #[test]
    fn leak_by_conserves_gas(a in 150f64..500.0, b in 0f64..60.0, ratio in 0.3f64..3.0, through in 4f64..30.0,
        out in 0f64..20.0) {
        for unit in [Unit::Psig, Unit::KPa] {
            let v = judge_leak_by(&halves(a, b, ratio, through, out, unit));
            let (outside, by) = (v.outside.unwrap(), v.leak_by.unwrap());
            // The ends are means over a tenth of the time, which see nine tenths of a steady change.
            let seen = (outside.value + by.value) / PSI / 0.9;
            prop_assert!((seen - (through + out)).abs() < 0.05 * (through + out), "{} of {}", seen, through + out);
            prop_assert!((by.value / PSI / 0.9 - through).abs() < 0.05 * through);
            prop_assert!(outside.low / PSI < out && out * 0.9 < outside.high / PSI);
            prop_assert!(out > 0.0 || v.outcome != LeakByOutcome::Outside);
        }
    }
}

#[test]
fn a_stated_ratio_is_said_with_the_digits_it_deserves() {
    let v = judge_leak_by(&halves(180.0, 0.0, 4.0 / 3.0, 16.0, 0.0, Unit::Psig));
    let said = say(&Finding::LeakBy(v), Units::default())
        .evidence
        .join(" ");
    assert!(said.contains("ratio B to A of 1.33, "), "{said}");
}

/// A simulated hold with two probes; the channels in the order and units asked for.
fn simulated(truth: &HoldTruth, minutes: f64, unit: Unit, swap: bool) -> Recording {
    let mut plant = HoldPlant::new(truth.clone());
    let probe = |name: &str, share: f64| Channel {
        volume_share: Some(share),
        ..Channel::new(name, Quantity::Temperature, Unit::K)
    };
    let mut channels = vec![Channel {
        resolution: Some(unit.delta_of_si(0.1 * PSI)),
        range: Some(unit.of_si(800.0 * PSI)),
        ..Channel::new("P", Quantity::GaugePressure, unit)
    }];
    channels.extend(if swap {
        vec![probe("B", 0.4), probe("A", 0.6)]
    } else {
        vec![probe("A", 0.6), probe("B", 0.4)]
    });
    let place = |gauge: usize| if swap && gauge > 0 { 3 - gauge } else { gauge };
    let readings = (0..=(minutes * 6.0) as i32)
        .flat_map(|k| plant.show(f64::from(k) * 10.0))
        .map(|s| {
            (
                s.at_s,
                place(s.gauge),
                if s.gauge == 0 {
                    unit.of_si(s.value)
                } else {
                    s.value
                },
            )
        })
        .collect();
    let mut r = recording(Kind::PressureHold, channels, readings);
    r.settings.hold_limit = Some(HoldLimit {
        drop_pa: PSI,
        over_s: 3_600.0,
    });
    r
}

fn two_probes(seed: u64, duration: f64, weather: Weather) -> HoldTruth {
    let plain = HoldPlant::tight(350.0, duration, seed);
    let probe = plain.probes[0];
    HoldTruth {
        weather,
        probes: vec![
            Probe {
                share: 0.6,
                ..probe
            },
            Probe {
                share: 0.4,
                swing: 0.7,
                ..probe
            },
        ],
        ..plain
    }
}

#[test]
fn the_loss_depends_neither_on_the_unit_nor_on_the_order_of_the_probes() {
    for seed in 1..5 {
        let truth = two_probes(seed, 3_600.0, Weather::Ramp(2.0));
        let loss = |unit, swap| {
            judge_hold(&simulated(&truth, 60.0, unit, swap))
                .loss
                .unwrap()
        };
        let one = loss(Unit::Psig, false);
        for (unit, swap) in [(Unit::Bar, false), (Unit::KPa, true), (Unit::Psig, true)] {
            let other = loss(unit, swap);
            // A unit rounds the last bit of a reading, no more; the probes' shares are one prior either way round.
            let close = |a: f64, b: f64| (a - b).abs() < 0.02 * (one.high - one.low);
            assert!(
                close(one.value, other.value)
                    && close(one.low, other.low)
                    && close(one.high, other.high),
                "seed {seed} {unit:?} {swap}: {one:?} {other:?}"
            );
        }
    }
}

#[test]
fn more_of_the_same_never_widens_what_was_proven() {
    for seed in 10..22 {
        let truth = two_probes(seed, 4.0 * 3_600.0, Weather::Steady);
        let hidden: Vec<f64> = [45.0, 90.0, 180.0]
            .iter()
            .map(|m| {
                judge_hold(&simulated(&truth, *m, Unit::Psig, false))
                    .loss
                    .map_or(f64::INFINITY, |l| 0.5 * (l.high - l.low))
            })
            .collect();
        assert!(
            hidden.windows(2).all(|w| w[1] < w[0]),
            "seed {seed}: {hidden:?}"
        );
    }
}

#[test]
fn what_was_foretold_before_the_hold_is_what_the_hold_shows() {
    let plan = Foreseen {
        pressure: 350.0 * PSI + 101_325.0,
        air: 101_325.0,
        k: 294.0,
        digit: 0.1 * PSI,
        range: 800.0 * PSI,
        probes: 2,
        probe: None,
        every_s: 10.0,
        has_barometer: false,
        sky: Sky::Steady,
    };
    let five = Volume {
        low: 5.0,
        high: 5.0,
        is_measured: true,
    };
    for minutes in [60.0, 180.0] {
        let foretold = reach(&plan, minutes * 60.0, five, None).unwrap().rate;
        let mut shown: Vec<f64> = (30..45)
            .filter_map(|seed| {
                judge_hold(&simulated(
                    &two_probes(seed, minutes * 60.0, Weather::Steady),
                    minutes,
                    Unit::Psig,
                    false,
                ))
                .loss
            })
            .map(|l| 0.5 * (l.high - l.low))
            .collect();
        shown.sort_by(f64::total_cmp);
        let middle = shown[shown.len() / 2];
        assert!(
            (0.5..2.0).contains(&(foretold / middle)),
            "{minutes} min: foretold {foretold}, shown {middle}"
        );
    }
}

#[test]
fn evening_out_is_no_leak_even_when_nobody_knows_the_shares() {
    // 300 and 280 psig come together; the true shares are 70 and 30, the judge is told nothing.
    let mut falls = 0;
    for seed in 1..13 {
        let truth = HoldTruth {
            fill_k: 0.5,
            ..HoldPlant::tight(300.0, 3_600.0, seed)
        };
        let mut plant = HoldPlant::new(truth);
        let side = |name: &str| Channel {
            resolution: Some(0.1 * PSI),
            ..Channel::new(name, Quantity::GaugePressure, Unit::Pa)
        };
        let channels = vec![
            side("low"),
            side("high"),
            Channel::new("T", Quantity::Temperature, Unit::K),
        ];
        let readings = (0..=360)
            .flat_map(|k| {
                let t = f64::from(k) * 10.0;
                let shown = plant.show(t);
                let apart = 20.0 * PSI * (-t / 500.0).exp();
                [
                    (t, 0, shown[0].value - 0.3 * apart),
                    (t, 1, shown[0].value + 0.7 * apart),
                    (t, 2, shown[1].value),
                ]
            })
            .collect();
        let mut r = recording(Kind::PressureHold, channels, readings);
        r.settings.planned_s = Some(1_800.0);
        falls += i32::from(judge_hold(&r).outcome == HoldOutcome::Falls);
    }
    assert_eq!(falls, 0);
}
