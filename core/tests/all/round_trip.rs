//! From hidden truths of the simulated plant to verdicts: what must never happen, and what must be found.

use ruhe_core::hold::{HoldFinding, HoldOutcome, judge_hold};
use ruhe_core::quantity::{Unit, Units};
use ruhe_core::reading::*;
use ruhe_core::vacuum::{Cause, DecayFinding, judge_decay, say_decay};
use ruhe_sim::{HoldPlant, HoldTruth, MICRON, PSI, Probe, VacuumPlant, VacuumTruth, Weather};

fn hold(truth: &HoldTruth, every: f64, events: Vec<Event>) -> HoldFinding {
    let mut plant = HoldPlant::new(truth.clone());
    let mut channels = vec![Channel {
        resolution: Some(truth.gauge.digit),
        range: Some(800.0 * PSI),
        ..Channel::new("P", Quantity::GaugePressure, Unit::Pa)
    }];
    channels.extend(truth.probes.iter().enumerate().map(|(i, p)| Channel {
        volume_share: Some(p.share),
        ..Channel::new(&format!("T{i}"), Quantity::Temperature, Unit::K)
    }));
    let steps = (truth.duration / every) as u32;
    let readings = (0..=steps)
        .flat_map(|k| plant.show(f64::from(k) * every))
        .map(|s| Reading {
            at_s: s.at_s,
            channel: s.gauge,
            value: s.value,
        })
        .collect();
    let mut settings = Settings::new(Kind::PressureHold);
    settings.planned_s = Some(truth.duration);
    judge_hold(&Recording {
        settings,
        channels,
        readings,
        events,
        start_ms: None,
        duplicates: 0,
        remarks: vec![],
    })
}

fn decay(truth: VacuumTruth, minutes: u32) -> DecayFinding {
    let mut settings = Settings::new(Kind::VacuumDecay);
    settings.evacuated_s = Some(truth.evacuated);
    let mut plant = VacuumPlant::new(truth);
    let readings = (0..=minutes * 30)
        .map(|k| plant.show(f64::from(k) * 2.0))
        .map(|s| Reading {
            at_s: s.at_s,
            channel: 0,
            value: s.value / MICRON,
        })
        .collect();
    let channels = vec![Channel {
        resolution: Some(1.0),
        ..Channel::new("V", Quantity::AbsolutePressure, Unit::Micron)
    }];
    judge_decay(&Recording {
        settings,
        channels,
        readings,
        events: vec![],
        start_ms: None,
        duplicates: 0,
        remarks: vec![],
    })
}

fn top(v: &DecayFinding) -> Cause {
    v.explanations[0].cause
}

#[test]
fn a_tight_circuit_in_steady_air_holds_and_its_interval_has_zero_in_it() {
    for seed in 0..8 {
        let truth = HoldTruth {
            fill_k: 2.0,
            fill_time: 110.0,
            ..HoldPlant::tight(300.0, 7_200.0, seed)
        };
        let v = hold(&truth, 5.0, vec![]);
        assert_eq!(
            v.outcome,
            HoldOutcome::Holds,
            "seed {seed}: {:?} {:?}",
            v.reasons,
            v.loss
        );
        let l = v.loss.unwrap();
        assert!(l.low < l.value && l.value < l.high, "seed {seed}: {l:?}");
        assert!(v.proves.unwrap().low_g_per_year > 0.0);
    }
}

#[test]
fn a_leak_of_three_times_the_limit_never_holds_and_is_found_in_two_hours() {
    for seed in 0..8 {
        let limit = 0.003 * (300.0 * PSI + 101_325.0) / 7_200.0;
        let truth = HoldTruth {
            loss: 3.0 * limit,
            fill_k: 2.0,
            fill_time: 110.0,
            ..HoldPlant::tight(300.0, 7_200.0, seed)
        };
        let v = hold(&truth, 5.0, vec![]);
        assert_ne!(
            v.outcome,
            HoldOutcome::Holds,
            "seed {seed}: {:?}",
            v.reasons
        );
        assert!(v.loss_detected, "seed {seed}: {:?} {:?}", v.reasons, v.loss);
        assert!(v.leaks.is_some());
    }
}

#[test]
fn warming_air_does_not_hide_a_leak_and_cooling_air_does_not_make_one() {
    let leaking = HoldTruth {
        loss: 6.0 * PSI / 3_600.0,
        weather: Weather::Ramp(4.0),
        ..HoldPlant::tight(300.0, 3_600.0, 3)
    };
    let v = hold(&leaking, 5.0, vec![]);
    assert_eq!(v.outcome, HoldOutcome::Falls, "{:?}", v.reasons);
    // The raw gauge hardly moved: the warming made up for it.
    assert!(
        v.trace.last().unwrap().raw > -3.5 * PSI,
        "{}",
        v.trace.last().unwrap().raw / PSI
    );
    let cooling = HoldTruth {
        weather: Weather::Ramp(-4.0),
        ..HoldPlant::tight(300.0, 3_600.0, 4)
    };
    let v = hold(&cooling, 5.0, vec![]);
    assert_ne!(v.outcome, HoldOutcome::Falls, "{:?}", v.reasons);
    let raw = v.trace.last().unwrap().raw;
    assert!(raw < -3.0 * PSI, "{} {:?}", raw / PSI, v.settled_at_s);
}

#[test]
fn a_second_probe_narrows_a_hold_in_warming_air() {
    let one = HoldTruth {
        weather: Weather::Ramp(4.0),
        fill_k: 1.0,
        ..HoldPlant::tight(400.0, 3_600.0, 6)
    };
    let probe = one.probes[0];
    let two = HoldTruth {
        probes: vec![
            Probe {
                share: 0.5,
                ..probe
            },
            Probe {
                share: 0.5,
                swing: 1.0,
                ..probe
            },
        ],
        ..one.clone()
    };
    let width = |v: HoldFinding| v.loss.map(|l| l.high - l.low).unwrap();
    assert!(width(hold(&two, 5.0, vec![])) < width(hold(&one, 5.0, vec![])));
}

#[test]
fn the_sun_on_the_gauge_widens_what_is_claimed() {
    let truth = HoldTruth {
        fill_k: 1.0,
        ..HoldPlant::tight(300.0, 3_600.0, 9)
    };
    let sun = vec![Event {
        at_s: 0.0,
        kind: EventKind::Sun,
        note: String::new(),
    }];
    let width = |v: HoldFinding| v.loss.map(|l| l.high - l.low).unwrap();
    assert!(width(hold(&truth, 5.0, sun)) > width(hold(&truth, 5.0, vec![])));
}

#[test]
fn a_fresh_fill_is_never_taken_for_a_leak() {
    for seed in 0..6 {
        let truth = HoldTruth {
            fill_k: 5.0,
            fill_time: 240.0,
            ..HoldPlant::tight(500.0, 300.0, seed)
        };
        let v = hold(&truth, 2.0, vec![]);
        assert_eq!(
            (v.outcome, v.settled_at_s),
            (HoldOutcome::Undecided, None),
            "seed {seed}: {:?}",
            v.reasons
        );
    }
}

#[test]
fn the_shapes_of_a_rise_are_told_apart_where_they_can_be() {
    for seed in 0..5 {
        assert_eq!(
            top(&decay(VacuumTruth::dry(250.0, seed), 20)),
            Cause::Still,
            "seed {seed}"
        );
        let leak = decay(
            VacuumTruth {
                leak: 15.0 * MICRON / 60.0,
                ..VacuumTruth::dry(250.0, seed)
            },
            25,
        );
        assert!(
            leak.leak_probability.unwrap() > 0.7,
            "seed {seed}: {:?}",
            leak.leak_probability
        );
        let r = leak.leak_rate.unwrap();
        let per_minute = |pa: f64| pa * 60.0 / MICRON;
        assert!(
            per_minute(r.low) <= 15.5 && per_minute(r.high) >= 14.5,
            "seed {seed}: {r:?}"
        );
        let wet = decay(
            VacuumTruth {
                moisture: 700.0 * MICRON,
                moisture_time: 400.0,
                ..VacuumTruth::dry(250.0, seed)
            },
            30,
        );
        assert!(
            wet.leak_probability.unwrap() < 0.3,
            "seed {seed}: {:?}",
            wet.leak_probability
        );
    }
}

#[test]
fn outgassing_after_a_long_pull_is_honestly_not_told_from_a_leak() {
    let v = decay(
        VacuumTruth {
            outgas: 12.0 * MICRON,
            evacuated: 7_200.0,
            ..VacuumTruth::dry(250.0, 2)
        },
        15,
    );
    let p = v.leak_probability.unwrap();
    assert!((0.02..0.98).contains(&p), "{p}");
    let said = say_decay(&v, Units::default()).evidence.join(" ");
    assert!(
        said.contains("come apart") || said.contains("Waiting won’t tell"),
        "{said}"
    );
}

#[test]
fn the_ends_evening_out_is_neither_a_leak_nor_dryness() {
    let mut still = 0;
    for seed in 0..6 {
        for uneven in [60.0, -60.0] {
            let v = decay(
                VacuumTruth {
                    uneven: uneven * MICRON,
                    uneven_time: 30.0,
                    ..VacuumTruth::dry(300.0, seed)
                },
                15,
            );
            assert!(
                v.leak_probability.unwrap() < 0.05,
                "seed {seed}, uneven by {uneven}: {:?}",
                v.leak_probability
            );
            still += u32::from(top(&v) == Cause::Still);
        }
    }
    assert!(still >= 10, "{still} of 12");
}
