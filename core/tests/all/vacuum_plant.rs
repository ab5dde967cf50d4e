//! The vacuum judges against the simulated plant: arrivals, stalls, valve-offs, breaks, rigs, and what is argued from
//! them.

use ruhe_core::flow::{Pump, Restriction, Rig, Tube};
use ruhe_core::quantity::{MICRON, Unit, Units};
use ruhe_core::reading::*;
use ruhe_core::vacuum::pull::{Hindrance, PullFinding, PullOutcome, Why, judge_pull, say_pull};
use ruhe_core::vacuum::{RigOutcome, judge_decay, judge_rig};
use ruhe_core::words::Words;
use ruhe_sim::{PullPlant, PullTruth, VacuumPlant, VacuumTruth};

fn gauge(position: Position) -> Channel {
    Channel {
        resolution: Some(1.0),
        range: Some(25_000.0),
        position: Some(position),
        ..Channel::new(position.code(), Quantity::AbsolutePressure, Unit::Micron)
    }
}

fn recording(
    kind: Kind,
    channels: Vec<Channel>,
    readings: Vec<(f64, usize, f64)>,
    events: &[(EventKind, f64)],
) -> Recording {
    Recording {
        settings: Settings::new(kind),
        channels,
        readings: readings
            .into_iter()
            .map(|(at_s, channel, value)| Reading {
                at_s,
                channel,
                value,
            })
            .collect(),
        events: events
            .iter()
            .map(|&(kind, at_s)| Event {
                at_s,
                kind,
                note: String::new(),
            })
            .collect(),
        start_ms: None,
        duplicates: 0,
        remarks: vec![],
    }
}

/// A pull-down of the simulated plant, read every ten seconds.
fn pull(truth: PullTruth, minutes: u32, events: &[(EventKind, f64)]) -> Recording {
    let mut plant = PullPlant::new(truth);
    let rows = (1..=minutes * 6)
        .map(|k| plant.show(f64::from(k) * 10.0))
        .map(|s| (s.at_s, 0, s.value / MICRON))
        .collect();
    recording(Kind::PullDown, vec![gauge(Position::Far)], rows, events)
}

fn with_temperature(mut r: Recording, celsius: f64) -> Recording {
    r.channels.push(Channel {
        resolution: Some(0.1),
        ..Channel::new("cold", Quantity::Temperature, Unit::DegC)
    });
    r.readings.push(Reading {
        at_s: r.readings.last().unwrap().at_s,
        channel: 1,
        value: celsius,
    });
    r
}

/// Pulls to these levels, with a nitrogen break between two.
fn pulls(targets: &[f64]) -> Vec<PullStage> {
    let last = targets.len() - 1;
    targets
        .iter()
        .enumerate()
        .map(|(i, &target_pa)| PullStage {
            target_pa,
            break_pa: (i < last).then_some(115_000.0),
            dwell_s: if i < last { 300.0 } else { 0.0 },
        })
        .collect()
}

fn judged(r: &Recording) -> PullFinding {
    judge_pull(r)
}

fn said(v: &PullFinding) -> Words {
    say_pull(v, Units::default())
}

/// A slow rig, so that a pull takes as long as on a large system.
fn slow(litres: f64, seed: u64) -> PullTruth {
    PullTruth {
        viscous: 2.5e-7,
        molecular: 1.4e-5,
        ..PullTruth::dry(litres, seed)
    }
}

#[test]
fn most_arrivals_come_when_they_were_foretold() {
    let (mut inside, mut told) = (0, 0);
    for seed in 0u32..24 {
        let truth = slow(2.0 + f64::from(seed), seed.into());
        let mut plant = PullPlant::new(truth.clone());
        let arrives = (1..4_000)
            .map(|k| f64::from(k) * 10.0)
            .find(|&t| plant.truly(t) <= 500.0 * MICRON)
            .unwrap();
        let v = judged(&pull(truth, (0.6 * arrives / 60.0) as u32, &[]));
        assert_ne!(v.outcome, PullOutcome::Reached);
        if let Some(a) = v.arrival.filter(|_| !v.is_from_rig) {
            told += 1;
            inside += u32::from(
                a.low.unwrap_or(f64::INFINITY) <= arrives
                    && arrives <= a.high.unwrap_or(f64::INFINITY),
            );
        }
    }
    assert!(told >= 20 && inside * 10 >= told * 8, "{inside} of {told}");
}

#[test]
fn the_target_is_reached_once_and_stays_reached() {
    let truth = slow(5.0, 3);
    let outcomes: Vec<PullOutcome> = [4, 20, 40]
        .iter()
        .map(|&m| judged(&pull(truth.clone(), m, &[])).outcome)
        .collect();
    assert_eq!(
        outcomes,
        [
            PullOutcome::Pulling,
            PullOutcome::Reached,
            PullOutcome::Reached
        ]
    );
}

#[test]
fn a_reading_that_touches_the_target_has_not_reached_it() {
    // Stands at 540 micron and flickers by 60: single readings are below 500, no half minute is.
    let level = |k: u32| {
        if k < 40 {
            3_000.0 - 61.5 * f64::from(k)
        } else {
            540.0
        }
    };
    let rows = (0..160u32)
        .map(|k| {
            let flicker = [60.0, -60.0, 25.0, -25.0][k as usize % 4];
            (3.0 * f64::from(k), 0, level(k) + flicker)
        })
        .collect();
    let v = judged(&recording(
        Kind::PullDown,
        vec![gauge(Position::Far)],
        rows,
        &[],
    ));
    assert_ne!(v.outcome, PullOutcome::Reached);
    assert!(v.pulls[0].lowest.unwrap() > 520.0 * MICRON);
}

#[test]
fn free_water_is_the_first_thought_where_its_level_fits_and_not_where_it_does_not() {
    let wet = pull(
        PullTruth {
            free: 4e-3,
            kelvin: 293.15,
            ..PullTruth::dry(5.0, 7)
        },
        30,
        &[],
    );
    let v = judged(&with_temperature(wet.clone(), 20.0));
    assert_eq!(v.outcome, PullOutcome::Stalled, "{:?}", v.reasons);
    let stall = v.stall.unwrap();
    assert_eq!(stall.by[0].held, Hindrance::Water, "{stall:?}");
    // On a roof at −30 °C no water stands at this level.
    let cold = judged(&with_temperature(wet, -30.0)).stall.unwrap();
    assert_ne!(cold.by[0].held, Hindrance::Water, "{cold:?}");
}

#[test]
fn a_leak_stalls_it_and_the_valve_off_tells_its_floor() {
    // Long enough for the floor: V·dp/dt in against S·p out.
    let leaking = |shut: Vec<(f64, f64)>| PullTruth {
        leak: 1.6e-3,
        shut,
        ..slow(8.0, 9)
    };
    let floor = {
        let mut plant = PullPlant::new(leaking(vec![]));
        plant.truly(4.0 * 3_600.0)
    };
    let v = judged(&pull(leaking(vec![]), 150, &[]));
    assert_eq!(v.outcome, PullOutcome::Stalled, "{:?}", v.reasons);
    assert!(
        v.stall
            .unwrap()
            .by
            .iter()
            .any(|h| h.held == Hindrance::Leak)
    );
    // Twenty seconds of valve-off on the way down foretell where it will end.
    let events = [(EventKind::Isolated, 600.0), (EventKind::PumpOn, 640.0)];
    let off = judged(&pull(leaking(vec![(600.0, 640.0)]), 13, &events)).valve_offs[0];
    assert!(
        (0.4..2.5).contains(&(off.floor.unwrap() / floor)),
        "{off:?} {floor}"
    );
    let tight = judged(&pull(
        PullTruth {
            shut: vec![(600.0, 640.0)],
            ..slow(8.0, 9)
        },
        13,
        &events,
    ))
    .valve_offs[0];
    assert!(tight.rate < 0.3 * off.rate, "{tight:?} {off:?}");
}

fn rig(ultimate_micron: f64, core: bool) -> Rig {
    let piece = |name: &str, tube: Tube, can_go: bool| Restriction {
        name: name.into(),
        tube,
        side_by_side: 1.0,
        can_go,
    };
    let mut line = vec![piece("the hose", Tube::mm(9.5, 1.5), false)];
    line.extend(core.then(|| piece("the valve core", Tube::mm(1.8, 0.012), true)));
    Rig {
        pump: Pump {
            speed: 2.4e-3,
            ultimate: ultimate_micron * MICRON,
        },
        line,
    }
}

#[test]
fn a_worn_pump_is_named_by_its_own_blank_off() {
    let mut r = pull(
        PullTruth {
            ultimate: 620.0 * MICRON,
            ..PullTruth::dry(5.0, 4)
        },
        30,
        &[],
    );
    r.settings.rig = Some(rig(600.0, false));
    let stall = judged(&r).stall.unwrap();
    assert_eq!(stall.by[0].held, Hindrance::Pump, "{stall:?}");
    let ultimate = 600.0 * MICRON;
    assert_eq!(stall.by[0].why, Why::PumpWorn { ultimate });
}

#[test]
fn a_shut_way_shows_as_two_gauges_far_apart() {
    let mut rows = Vec::new();
    for k in 1..=90 {
        let t = f64::from(k) * 10.0;
        rows.extend([
            (t, 0, 60.0 + 20_000.0 * (-t / 8.0).exp()),
            (t, 1, 18_000.0 - 0.3 * t),
        ]);
    }
    let v = judged(&recording(
        Kind::PullDown,
        vec![gauge(Position::NearPump), gauge(Position::Far)],
        rows,
        &[],
    ));
    let evidence = said(&v).evidence;
    assert!(
        evidence
            .iter()
            .any(|e| e.starts_with("At the pump 60 micron")),
        "{evidence:?}"
    );
    assert_eq!(
        (v.outcome, v.stall.unwrap().by[0].held),
        (PullOutcome::Stalled, Hindrance::ShutValve)
    );
}

#[test]
fn before_the_first_reading_the_conductances_speak_and_the_core_costs_most() {
    let mut r = recording(Kind::PullDown, vec![gauge(Position::Far)], vec![], &[]);
    r.settings.volume_l = Some(10.0);
    let arrival = |r: &Recording| judged(r).arrival.unwrap().middle.unwrap();
    r.settings.rig = Some(rig(25.0, true));
    let with_core = arrival(&r);
    r.settings.rig = Some(rig(25.0, false));
    let without = arrival(&r);
    assert!(with_core > 3.0 * without, "{with_core} {without}");
    // A larger system takes longer in proportion.
    r.settings.volume_l = Some(20.0);
    assert!((arrival(&r) / without - 2.0).abs() < 0.01);
}

#[test]
fn breaks_cut_the_run_into_pulls_and_prompts_follow_the_level() {
    let breaks = vec![(420.0, 115_000.0, 300.0), (1_260.0, 115_000.0, 300.0)];
    let events = [
        (EventKind::NitrogenBreak, 420.0),
        (EventKind::NitrogenBreak, 1_260.0),
    ];
    let mut r = pull(
        PullTruth {
            breaks,
            ..slow(7.5, 44)
        },
        42,
        &events,
    );
    r.settings.stages = pulls(&[2_000.0 * MICRON, 1_000.0 * MICRON, 500.0 * MICRON]);
    let v = judged(&r);
    assert_eq!(
        (v.outcome, v.at, v.pulls.len()),
        (PullOutcome::Reached, (2, 3), 3)
    );
    assert!(
        v.pulls
            .windows(2)
            .all(|w| w[1].from > w[0].to - 1.0 && w[1].target < w[0].target)
    );
    // A wet system is drier after each break, a dry one takes as long.
    let compared = |wet: f64| {
        let breaks = vec![(900.0, 115_000.0, 300.0)];
        let mut r = pull(
            PullTruth {
                bound: (wet, 500.0),
                breaks,
                ..slow(7.5, 45)
            },
            30,
            &[(EventKind::NitrogenBreak, 900.0)],
        );
        r.settings.stages = pulls(&[2_000.0 * MICRON, 500.0 * MICRON]);
        said(&judged(&r)).evidence.join(" ")
    };
    assert!(
        compared(1.5e-4).contains("drier than before"),
        "{}",
        compared(1.5e-4)
    );
    assert!(
        compared(0.0).contains("not loose water"),
        "{}",
        compared(0.0)
    );
    let early = judged(&pull(slow(7.5, 44), 4, &[]));
    assert_eq!(said(&early).prompts, ["Gas ballast open."]);
    let late = pull(slow(7.5, 44), 60, &[]);
    let at = |low: f64, high: f64| {
        let mut part = late.clone();
        let until = part
            .readings
            .iter()
            .position(|x| (low..high).contains(&x.value))
            .unwrap();
        part.readings.truncate(until + 1);
        part.settings.stages = pulls(&[300.0 * MICRON]);
        said(&judged(&part)).prompts
    };
    assert!(
        at(500.0, 690.0).iter().any(|p| p.contains("ball valve")),
        "{:?}",
        at(500.0, 690.0)
    );
    assert!(at(900.0, 1_400.0)[0].contains("ballast shut"));
}

/// A break that nobody had planned: the pull after it reaches the target like any other.
#[test]
fn pulls_follow_the_breaks_as_they_were_done() {
    let truth = PullTruth {
        breaks: vec![(600.0, 115_000.0, 300.0)],
        ..slow(5.0, 3)
    };
    let mut r = pull(truth, 45, &[(EventKind::NitrogenBreak, 600.0)]);
    r.settings.stages = pulls(&[500.0 * MICRON]);
    let v = judged(&r);
    assert_eq!(
        (v.outcome, v.at, v.pulls.len()),
        (PullOutcome::Reached, (1, 2), 2)
    );
    assert!(!said(&v).summary.contains("about 0 s"), "{:?}", said(&v));
}

/// Hoses of the simulated plant, alone, for so many minutes.
fn hoses(truth: VacuumTruth, minutes: u32) -> RigOutcome {
    let evacuated = truth.evacuated;
    let mut plant = VacuumPlant::new(truth);
    let rows = (0..=minutes * 12)
        .map(|k| plant.show(f64::from(k) * 5.0))
        .map(|s| (s.at_s, 0, s.value / MICRON))
        .collect();
    let mut r = recording(Kind::RigCheck, vec![gauge(Position::Far)], rows, &[]);
    (r.settings.part, r.settings.evacuated_s) = (Some(RigPart::Hoses), Some(evacuated));
    judge_rig(&r).outcome
}

#[test]
fn hoses_are_told_apart_by_how_they_rise() {
    for seed in 0..4 {
        assert_eq!(
            hoses(
                VacuumTruth {
                    moisture: 100.0 * MICRON,
                    moisture_time: 80.0,
                    ..VacuumTruth::dry(60.0, seed)
                },
                10
            ),
            RigOutcome::Good,
            "used, seed {seed}"
        );
        assert_eq!(
            hoses(
                VacuumTruth {
                    outgas: 150.0 * MICRON,
                    evacuated: 120.0,
                    ..VacuumTruth::dry(75.0, seed)
                },
                8
            ),
            RigOutcome::GivesGas,
            "new, seed {seed}"
        );
        assert_eq!(
            hoses(
                VacuumTruth {
                    leak: 90.0 * MICRON / 60.0,
                    evacuated: 600.0,
                    ..VacuumTruth::dry(60.0, seed)
                },
                20
            ),
            RigOutcome::Leaks,
            "leaking, seed {seed}"
        );
        // After a long pull rubber and a leak draw the same line: unfit all the same.
        let long = hoses(
            VacuumTruth {
                leak: 90.0 * MICRON / 60.0,
                evacuated: 9_000.0,
                ..VacuumTruth::dry(60.0, seed)
            },
            7,
        );
        assert!(
            matches!(long, RigOutcome::Rises | RigOutcome::Leaks),
            "{long:?}, seed {seed}"
        );
        assert_eq!(
            hoses(
                VacuumTruth {
                    leak: 90.0 * MICRON / 60.0,
                    ..VacuumTruth::dry(60.0, seed)
                },
                1
            ),
            RigOutcome::Undecided,
            "a minute, seed {seed}"
        );
    }
}

#[test]
fn what_the_hoses_add_is_taken_off_before_the_shapes_are_weighed() {
    // Hoses of 0.4 L that rise 30 micron a minute alone add 2.2 a minute to 5 L.
    let alone = 30.0 * MICRON / 60.0;
    let truth = VacuumTruth {
        leak: alone * 0.4 / 5.4,
        evacuated: 3_600.0,
        ..VacuumTruth::dry(250.0, 6)
    };
    let mut plant = VacuumPlant::new(truth);
    let rows = (0..=240)
        .map(|k| plant.show(f64::from(k) * 5.0))
        .map(|s| (s.at_s, 0, s.value / MICRON))
        .collect();
    let mut r = recording(Kind::VacuumDecay, vec![gauge(Position::Far)], rows, &[]);
    r.settings.evacuated_s = Some(3_600.0);
    r.settings.volume_l = Some(5.0);
    let before = judge_decay(&r);
    r.settings.rig_share = Some(RigShare {
        low_pa_s: 0.95 * alone,
        high_pa_s: 1.05 * alone,
        volume_l: 0.4,
        test: "Rig check 2".into(),
    });
    let after = judge_decay(&r);
    assert!(
        after.leak_probability.unwrap() < 0.1 && after.leak_probability < before.leak_probability,
        "{:?} {:?}",
        before.leak_probability,
        after.leak_probability
    );
    // The rule is applied to what the gauge read, hoses and all.
    assert_eq!(
        (before.outcome, before.at_rule),
        (after.outcome, after.at_rule)
    );
}
