//! Laws the judges keep whatever the numbers, and a standing list of degenerate recordings.

use proptest::prelude::*;
use ruhe_core::hold::{HoldOutcome, judge_hold, judge_leak_by, say_hold};
use ruhe_core::matter::nitrogen::density;
use ruhe_core::quantity::{AbsolutePressure, Temperature, Unit, Units};
use ruhe_core::reading::*;
use ruhe_core::vacuum::pull::{PullOutcome, judge_pull, say_pull};
use ruhe_core::vacuum::{DecayOutcome, RigOutcome, judge_decay, judge_rig, say_decay};
use ruhe_core::words::Words;

/// Time (s), channel, value.
type Rows = Vec<(f64, usize, f64)>;

const ATMOSPHERE: f64 = 101_325.0;

fn blank(kind: Kind, channels: Vec<Channel>, readings: Rows) -> Recording {
    let readings = readings
        .into_iter()
        .map(|(at_s, channel, value)| Reading {
            at_s,
            channel,
            value,
        })
        .collect();
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

fn gauge(unit: Unit) -> Channel {
    Channel {
        resolution: Some(unit.delta_of_si(10.0)),
        ..Channel::new("P", Quantity::GaugePressure, unit)
    }
}

fn probe(name: &str, unit: Unit, share: f64) -> Channel {
    Channel {
        volume_share: Some(share),
        ..Channel::new(name, Quantity::Temperature, unit)
    }
}

/// Pressure at which parts of a closed volume at these temperatures hold `amount`.
fn isochore(amount: f64, parts: &[(f64, f64)], start: &[(f64, f64)]) -> f64 {
    let held = |p: f64| -> f64 {
        parts
            .iter()
            .zip(start)
            .map(|((w, t), (_, t0))| {
                w * density(AbsolutePressure::from_pa(p), Temperature::from_k(*t))
                    * (1.0 + 5e-5 * (t - t0))
            })
            .sum()
    };
    let (mut low, mut high) = (1e4, 2e7);
    for _ in 0..80 {
        let mid = 0.5 * (low + high);
        if held(mid) < amount {
            low = mid
        } else {
            high = mid
        }
    }
    0.5 * (low + high)
}

/// A closed volume of three parts whose temperatures wander, read once a minute for an hour.
fn closed(
    psig: f64,
    swing: [f64; 3],
    shares: [f64; 3],
    units: (Unit, Unit),
    order: [usize; 3],
) -> Recording {
    let at =
        |i: usize, minute: f64| 293.0 + swing[i] * (minute / 60.0 + 0.2 * (minute / 9.0).sin());
    let start: Vec<(f64, f64)> = (0..3).map(|i| (shares[i], at(i, 0.0))).collect();
    let p0 = psig * 6_894.757 + ATMOSPHERE;
    let amount: f64 = start
        .iter()
        .map(|(w, t)| w * density(AbsolutePressure::from_pa(p0), Temperature::from_k(*t)))
        .sum();
    let mut channels = vec![gauge(units.0)];
    channels.extend(
        order
            .iter()
            .map(|&i| probe(&format!("T{i}"), units.1, shares[i])),
    );
    let mut readings = Vec::new();
    for minute in 0..=60 {
        let parts: Vec<(f64, f64)> = (0..3)
            .map(|i| (shares[i], at(i, f64::from(minute))))
            .collect();
        let t = f64::from(minute) * 60.0;
        readings.push((
            t,
            0,
            units.0.of_si(isochore(amount, &parts, &start) - ATMOSPHERE),
        ));
        readings.extend(
            order
                .iter()
                .enumerate()
                .map(|(k, &i)| (t, k + 1, units.1.of_si(parts[i].1))),
        );
    }
    blank(Kind::PressureHold, channels, readings)
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    #[test]
    fn the_amount_of_gas_does_not_change_with_temperature(psig in 60f64..600.0, a in -6f64..6.0,
        b in -6f64..6.0, c in -6f64..6.0) {
        let v = judge_hold(&closed(psig, [a, b, c], [0.5, 0.3, 0.2], (Unit::Psig, Unit::DegF), [0, 1, 2]));
        let worst = v.trace.iter().filter_map(|p| p.corrected).fold(0f64, |m, x| m.max(x.abs()));
        // A ten-thousandth of the pressure, from rounding in degrees and from the solver.
        prop_assert!(worst < 1e-4 * psig * 6_894.757, "corrected change of {worst} Pa");
        prop_assert!(v.outcome != HoldOutcome::Falls, "{:?}", v.reasons);
    }

    /// A gauge of a wide range, a low pressure and a steady trace: gauge, lag and a leak could share the change.
    #[test]
    fn a_low_and_steady_hold_of_closed_parts_never_falls(psig in 60f64..120.0, a in 4f64..6.0) {
        let v = judge_hold(&closed(psig, [a, 0.8 * a, 0.0], [0.5, 0.3, 0.2], (Unit::Psig, Unit::DegF), [0, 1, 2]));
        let loss = v.loss.unwrap();
        prop_assert!(loss.low < 0.0 && loss.high > 0.0, "{loss:?}");
    }

    #[test]
    fn the_loss_depends_on_neither_units_nor_the_order_of_probes(psig in 100f64..500.0, a in -3f64..3.0) {
        let loss = |units, order| judge_hold(&closed(psig, [a, 0.5 * a, 0.1], [0.5, 0.3, 0.2], units,
            order)).loss.unwrap();
        let one = loss((Unit::Psig, Unit::DegF), [0, 1, 2]);
        let other = loss((Unit::KPa, Unit::DegC), [0, 1, 2]);
        let width = one.high - one.low;
        prop_assert!((one.value - other.value).abs() < 0.01 * width && (one.high - other.high).abs() < 0.01 * width, "{one:?} {other:?}");
        let turned = loss((Unit::Psig, Unit::DegF), [2, 0, 1]);
        prop_assert!((one.value - turned.value).abs() < 0.25 * width, "{one:?} {turned:?}");
    }

    #[test]
    fn an_explanation_does_not_depend_on_the_unit(start in 100f64..400.0, rate in 0f64..20.0) {
        let decay = |unit: Unit, factor: f64| {
            let readings = (0..120).map(|k| (f64::from(k) * 10.0, 0,
                (start + rate * f64::from(k) / 6.0 + f64::from(k * 7 % 3)) * factor)).collect();
            judge_decay(&blank(Kind::VacuumDecay, vec![Channel { resolution: Some(factor), ..Channel::new("V",
                Quantity::AbsolutePressure, unit) }], readings))
        };
        let (a, b) = (decay(Unit::Micron, 1.0), decay(Unit::Pa, 101_325.0 / 760_000.0));
        prop_assert_eq!(a.outcome, b.outcome);
        prop_assert!((a.leak_probability.unwrap() - b.leak_probability.unwrap()).abs() < 1e-3);
    }

    #[test]
    fn leak_by_conserves_gas(a in 50f64..300.0, moved in 2f64..20.0) {
        let half = |name: &str, position| Channel { position: Some(position), resolution: Some(0.1),
            ..Channel::new(name, Quantity::GaugePressure, Unit::Psig) };
        // Equal volumes, real gas: B gains the amount that A loses, which is not quite the same pressure.
        let room = [(1.0, 293.15)];
        let amount = |psig: f64| density(AbsolutePressure::from_pa(psig * 6_894.757 + ATMOSPHERE),
            Temperature::from_k(293.15));
        let gained = (isochore(amount(0.0) + amount(a) - amount(a - moved), &room, &room) - ATMOSPHERE) / 6_894.757;
        let readings = vec![(0.0, 0, a), (0.0, 1, 0.0), (600.0, 0, a - moved), (600.0, 1, gained)];
        let mut r = blank(Kind::LeakBy, vec![half("A", Position::HalfA), half("B", Position::HalfB)], readings);
        r.settings.volume_ratio = Some(1.0);
        let v = judge_leak_by(&r);
        let outside = v.outside.unwrap();
        prop_assert!(outside.value.abs() < 2.0 && outside.low < 0.0 && outside.high > 0.0, "{outside:?}");
    }
}

/// A closed volume on a gauge without error, its probes noisier or quieter than any judge can know beforehand. It was
/// said to fall once, and nine of ten intervals missed, as a size of that noise was taken for granted.
#[test]
fn how_noisy_probes_are_is_not_taken_for_granted() {
    let mut d = crate::plants::Draw(7);
    let (mut missed, mut all) = (0, 0);
    let met = [[5.234_9, 3.379_2, -3.769_3], [2.0, -5.0, 4.0]];
    for noise in [0.0, 0.005, 0.02, 0.05, 0.1] {
        for k in 0..12 {
            let swing = met
                .get(k)
                .copied()
                .unwrap_or_else(|| [0; 3].map(|_| d.between(-6.0, 6.0)));
            let psig = if k == 0 {
                592.94
            } else {
                d.between(60.0, 600.0)
            };
            let mut r = closed(
                psig,
                swing,
                [0.5, 0.3, 0.2],
                (Unit::Psig, Unit::K),
                [0, 1, 2],
            );
            for x in r.readings.iter_mut().filter(|x| x.channel > 0) {
                x.value += noise * d.normal();
            }
            let v = judge_hold(&r);
            assert!(
                v.outcome != HoldOutcome::Falls,
                "{noise} K: {psig} psig, {swing:?}: {:?}",
                v.loss
            );
            all += 1;
            missed += u32::from(v.loss.is_some_and(|l| l.low > 0.0 || l.high < 0.0));
        }
    }
    // An interval of 95 % would miss 3; what gauges without error show of a model is more than it knows.
    assert!(missed <= 12, "{missed} of {all}");
}

#[test]
fn degenerate_holds_are_outcomes_and_never_passes() {
    let channels = || vec![gauge(Unit::Psig), probe("T", Unit::DegF, 1.0)];
    let steady = |n: u32, step: f64| -> Vec<(f64, usize, f64)> {
        (0..n)
            .flat_map(|k| {
                [
                    (f64::from(k) * step, 0, 300.0),
                    (f64::from(k) * step, 1, 70.0),
                ]
            })
            .collect()
    };
    let cases: Vec<(&str, Rows)> = vec![
        ("nothing", vec![]),
        ("only temperature", vec![(0.0, 1, 70.0), (60.0, 1, 71.0)]),
        ("one reading", vec![(0.0, 0, 300.0)]),
        ("two at once", vec![(0.0, 0, 300.0), (0.0, 1, 70.0)]),
        ("two readings", steady(2, 60.0)),
        ("three in three seconds", steady(3, 1.0)),
        (
            "one temperature only",
            vec![
                (0.0, 1, 70.0),
                (0.0, 0, 300.0),
                (60.0, 0, 300.0),
                (120.0, 0, 299.0),
            ],
        ),
        (
            "no pressure in it",
            (0..60)
                .flat_map(|k| {
                    [
                        (f64::from(k) * 60.0, 0, 0.0),
                        (f64::from(k) * 60.0, 1, 70.0),
                    ]
                })
                .collect(),
        ),
        (
            "falls to nothing",
            (0..20)
                .flat_map(|k| {
                    [
                        (
                            f64::from(k) * 60.0,
                            0,
                            (300.0 - 30.0 * f64::from(k)).max(0.0),
                        ),
                        (f64::from(k) * 60.0, 1, 70.0),
                    ]
                })
                .collect(),
        ),
        (
            "a jump in temperature of 200 degrees",
            (0..30)
                .flat_map(|k| {
                    [
                        (f64::from(k) * 60.0, 0, 300.0),
                        (f64::from(k) * 60.0, 1, if k < 15 { 0.0 } else { 200.0 }),
                    ]
                })
                .collect(),
        ),
        (
            "a gap of a week",
            [
                steady(5, 10.0),
                steady(5, 10.0)
                    .into_iter()
                    .map(|(t, c, v)| (t + 604_800.0, c, if c == 0 { v - 20.0 } else { v }))
                    .collect(),
            ]
            .concat(),
        ),
    ];
    for (name, readings) in cases {
        let v = judge_hold(&blank(Kind::PressureHold, channels(), readings));
        assert_ne!(v.outcome, HoldOutcome::Holds, "{name}: {:?}", v.reasons);
        speaks(name, &say_hold(&v, Units::default()));
    }
}

/// It says something, and no figure of it is broken.
fn speaks(name: &str, w: &Words) {
    assert!(
        !w.headline.is_empty() && !w.next_step.is_empty(),
        "{name} says nothing"
    );
    let said = format!("{} {:?} {:?}", w.summary, w.evidence, w.explanations);
    assert!(
        !said.contains("NaN") && !said.contains("inf "),
        "{name}: {said}"
    );
}

#[test]
fn degenerate_decays_are_outcomes_and_never_passes() {
    let channel = || {
        vec![Channel {
            resolution: Some(1.0),
            ..Channel::new("V", Quantity::AbsolutePressure, Unit::Micron)
        }]
    };
    let cases: Vec<(&str, Rows)> = vec![
        ("nothing", vec![]),
        ("one reading", vec![(0.0, 0, 300.0)]),
        ("all at once", vec![(0.0, 0, 300.0), (0.0, 0, 300.0)]),
        (
            "constant but short",
            (0..20).map(|k| (f64::from(k), 0, 300.0)).collect(),
        ),
        (
            "zero",
            vec![(0.0, 0, 0.0), (1.0, 0, 0.0), (2.0, 0, 0.0), (30.0, 0, 0.0)],
        ),
        (
            "air",
            (0..30)
                .map(|k| (f64::from(k) * 60.0, 0, 760_000.0))
                .collect(),
        ),
        (
            "falling all the time",
            (0..10)
                .map(|k| (f64::from(k) * 10.0, 0, 1000.0 - 50.0 * f64::from(k)))
                .collect(),
        ),
    ];
    for (name, readings) in cases {
        let v = judge_decay(&blank(Kind::VacuumDecay, channel(), readings));
        assert_ne!(v.outcome, DecayOutcome::Passes, "{name}: {:?}", v.reasons);
        speaks(name, &say_decay(&v, Units::default()));
    }
}

#[test]
fn a_longer_steady_hold_proves_more() {
    let widths: Vec<f64> = [40, 120, 480]
        .iter()
        .map(|&minutes| {
            let readings = (0..=minutes)
                .flat_map(|k| {
                    [
                        (f64::from(k) * 60.0, 0, 300.0 + 0.02 * f64::from(k * 7 % 5)),
                        (f64::from(k) * 60.0, 1, 70.0),
                    ]
                })
                .collect();
            let v = judge_hold(&blank(
                Kind::PressureHold,
                vec![
                    Channel {
                        resolution: Some(0.01),
                        ..gauge(Unit::Psig)
                    },
                    probe("T", Unit::DegF, 1.0),
                ],
                readings,
            ));
            let l = v.loss.unwrap();
            l.high - l.low
        })
        .collect();
    assert!(widths[0] > widths[1] && widths[1] > widths[2], "{widths:?}");
}

fn vacuum(kind: Kind, rows: Vec<(f64, f64)>) -> Recording {
    let channel = Channel {
        resolution: Some(1.0),
        range: Some(25_000.0),
        ..Channel::new("V", Quantity::AbsolutePressure, Unit::Micron)
    };
    blank(
        kind,
        vec![channel],
        rows.into_iter().map(|(t, v)| (t, 0, v)).collect(),
    )
}

#[test]
fn degenerate_pulls_and_rig_checks_are_outcomes_and_never_passes() {
    let constant = |v: f64| {
        (0..200)
            .map(|k| (10.0 * f64::from(k), v))
            .collect::<Vec<_>>()
    };
    for (what, rows) in [
        ("nothing", vec![]),
        ("one reading", vec![(0.0, 900.0)]),
        ("two at once", vec![(0.0, 900.0), (0.0, 901.0)]),
        ("at the top of the range", constant(25_000.0)),
        ("zero", constant(0.0)),
        (
            "rising",
            (0..100)
                .map(|k| (10.0 * f64::from(k), 100.0 + f64::from(k)))
                .collect(),
        ),
    ] {
        let pull = judge_pull(&vacuum(Kind::PullDown, rows.clone()));
        let reached = pull.outcome == PullOutcome::Reached;
        assert!(!reached || what == "rising", "{what}: {pull:?}");
        speaks(what, &say_pull(&pull, Units::default()));
        let hoses = judge_rig(&vacuum(Kind::RigCheck, rows));
        assert!(
            hoses.outcome != RigOutcome::Good || what == "rising",
            "{what}: {hoses:?}"
        );
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    /// Whatever the way down, an arrival lies ahead, its band in order.
    #[test]
    fn an_arrival_lies_ahead_with_its_band_in_order(k in 30f64..300.0, floor in 1f64..400.0, power in 0.6f64..1.6) {
        let level = |t: f64| floor + 24_000.0 * (1.0 + t / k).powf(-power);
        let rows: Vec<(f64, f64)> = (0..120).map(|i| (10.0 * f64::from(i), level(10.0 * f64::from(i)))).collect();
        let v = judge_pull(&vacuum(Kind::PullDown, rows));
        if let Some(a) = v.arrival {
            let (low, middle, high) = (a.low.unwrap_or(f64::INFINITY), a.middle.unwrap_or(f64::INFINITY),
                a.high.unwrap_or(f64::INFINITY));
            prop_assert!(low >= 1_190.0 * 0.99 && low <= middle && middle <= high, "{a:?}");
        }
        prop_assert!(v.outcome != PullOutcome::NotBegun);
    }
}
