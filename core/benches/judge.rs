//! Speed of the judges. `cargo bench -p ruhe-core`; beside a script of the same method: reference/speed.py.
#![allow(clippy::unwrap_used, missing_docs)]

use ruhe_core::hold::judge_hold;
use ruhe_core::quantity::Unit;
use ruhe_core::reading::*;
use ruhe_core::vacuum::judge_decay;
use ruhe_sim::{HoldPlant, MICRON, VacuumPlant, VacuumTruth, Weather};

fn main() {
    divan::main();
}

/// A 24 h hold at 1 Hz with one gauge and three probes: 345 600 readings.
fn day(seconds: u32) -> Recording {
    let mut truth = HoldPlant::tight(500.0, f64::from(seconds), 3);
    truth.weather = Weather::DayNight(5.0, 0.2);
    let probe = truth.probes[0];
    truth.probes = vec![
        ruhe_sim::Probe {
            share: 0.4,
            ..probe
        },
        ruhe_sim::Probe {
            share: 0.3,
            swing: 0.8,
            ..probe
        },
        ruhe_sim::Probe {
            share: 0.3,
            swing: 1.2,
            ..probe
        },
    ];
    let mut plant = HoldPlant::new(truth);
    let mut channels = vec![Channel {
        resolution: Some(700.0),
        ..Channel::new("P", Quantity::GaugePressure, Unit::Pa)
    }];
    channels.extend([0.4, 0.3, 0.3].iter().enumerate().map(|(i, s)| Channel {
        volume_share: Some(*s),
        ..Channel::new(&format!("T{i}"), Quantity::Temperature, Unit::K)
    }));
    let readings = (0..seconds)
        .flat_map(|t| plant.show(f64::from(t)))
        .map(|s| Reading {
            at_s: s.at_s,
            channel: s.gauge,
            value: s.value,
        })
        .collect();
    Recording {
        settings: Settings::new(Kind::PressureHold),
        channels,
        readings,
        events: vec![],
        start_ms: None,
        duplicates: 0,
        remarks: vec![],
    }
}

#[divan::bench(sample_count = 10)]
fn hold_24_h_1_hz_4_channels(b: divan::Bencher) {
    let r = day(86_400);
    b.bench(|| judge_hold(divan::black_box(&r)));
}

#[divan::bench(sample_count = 10)]
fn hold_30_min_1_hz_4_channels(b: divan::Bencher) {
    let r = day(1_800);
    b.bench(|| judge_hold(divan::black_box(&r)));
}

#[divan::bench(sample_count = 10)]
fn decay_60_min_1_hz(b: divan::Bencher) {
    let mut plant = VacuumPlant::new(VacuumTruth {
        leak: 3.0 * MICRON / 60.0,
        moisture: 200.0 * MICRON,
        ..VacuumTruth::dry(250.0, 3)
    });
    let mut settings = Settings::new(Kind::VacuumDecay);
    settings.evacuated_s = Some(5_400.0);
    let readings = (0..3_600)
        .map(|t| plant.show(f64::from(t)))
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
    let r = Recording {
        settings,
        channels,
        readings,
        events: vec![],
        start_ms: None,
        duplicates: 0,
        remarks: vec![],
    };
    b.bench(|| judge_decay(divan::black_box(&r)));
}
