//! Decays that are odd and real: a display that ends, a gap in a straight rise, a day of a slow leak, a rise that
//! levels below the limit, a dial where a micron gauge was wanted.

use ruhe_core::quantity::{MICRON, Unit, Units};
use ruhe_core::reading::*;
use ruhe_core::reason::Reason;
use ruhe_core::vacuum::{Cause, DecayCase, DecayOutcome, Doubt, judge_decay};

use crate::decays::{all_words, recording, said};

/// A noise of three in a thousand that repeats itself, read to whole micron.
fn read(minutes: usize, level: impl Fn(f64) -> f64) -> Vec<(f64, f64)> {
    let noise = [0.0, 0.6, -0.8, 0.3, 1.1, -0.5, -1.0, 0.7, 0.2, -0.3];
    (0..=minutes)
        .map(|k| {
            let shown = level(k as f64) * (1.0 + 0.003 * noise[k % 10]);
            (60.0 * k as f64, shown.round())
        })
        .collect()
}

#[test]
fn a_rise_to_the_end_of_the_display_is_a_leak_and_no_stopped_gauge() {
    for (every, top) in [
        (1.0, 20_000.0),
        (30.0, 12_000.0),
        (60.0, 20_000.0),
        (60.0, 25_000.0),
    ] {
        let points = (0..=(600.0 / every) as u32).map(|k| {
            let t = every * f64::from(k);
            (t, (300.0 + 5_000.0 * t / 60.0).min(top).round())
        });
        let v = judge_decay(&recording(points));
        assert_eq!(v.outcome, DecayOutcome::Fails);
        assert!(v.leak_probability.unwrap() > 0.99, "{every} s, {top}");
        let rate = v.leak_rate.unwrap();
        let per_minute = |pa_s: f64| pa_s * 60.0 / MICRON;
        assert!(per_minute(rate.low) < 5_000.0 && per_minute(rate.high) > 5_000.0);
        assert!(!v.reasons.contains(&Reason::GaugeStuck));
        assert!(
            v.doubts
                .iter()
                .any(|d| matches!(d, Doubt::TopOfDisplay { .. }))
        );
        assert!(
            all_words(&v).contains("its display ends there"),
            "{}",
            all_words(&v)
        );
    }
    // What the hoses give off is taken off every reading, and the end of the display stays where it was.
    let points = (0..=20u32).map(|k| {
        let t = 30.0 * f64::from(k);
        (t, (300.0 + 5_000.0 * t / 60.0).min(20_000.0).round())
    });
    let mut r = recording(points);
    r.settings.rig_share = Some(RigShare {
        low_pa_s: 0.01,
        high_pa_s: 0.02,
        volume_l: 0.2,
        test: "Hoses".into(),
    });
    assert!(judge_decay(&r).leak_probability.unwrap() > 0.99);
    // Past the end after the first reading: at least so much, and nothing says how much more.
    let v = judge_decay(&recording([
        (0.0, 300.0),
        (60.0, 20_000.0),
        (120.0, 20_000.0),
    ]));
    assert!(v.leak_rate.unwrap().high > 4.0 * v.leak_rate.unwrap().low);
}

#[test]
fn a_gap_in_a_straight_rise_is_neither_a_leap_nor_a_bend() {
    for (minutes, gap) in [(20, 4.0..16.0), (40, 8.0..26.0)] {
        let mut points = read(minutes, |t| 250.0 + 8.0 * t);
        points.retain(|p| !(gap.contains(&(p.0 / 60.0))));
        let v = judge_decay(&recording(points));
        let DecayCase::Judged { rise, .. } = &v.case else {
            panic!("{:?}", v.reasons)
        };
        assert!(!rise.bends, "{} and {}", rise.early, rise.late);
        assert!(v.leak_probability.unwrap() > 0.7);
        assert!(v.rising);
    }
}

#[test]
fn a_day_of_a_slow_leak_passes_the_rule_of_minutes_and_is_told() {
    let v = judge_decay(&recording(read(1_440, |t| 250.0 + 0.3 * t)));
    assert_eq!((v.outcome, v.rising), (DecayOutcome::Passes, true));
    assert!(said(&v).summary.contains("has crossed the limit since"));
    assert!(said(&v).next_step.contains("0.30 micron a minute"));
    // Eight hours of it: at the limit in less than as long again.
    let v = judge_decay(&recording(read(480, |t| 250.0 + 0.3 * t)));
    assert!(v.rising);
    assert!(
        (v.reaches_s.unwrap() / 3_600.0 - 5.9).abs() < 0.6,
        "{:?}",
        v.reaches_s
    );
}

#[test]
fn what_slows_down_below_the_limit_is_told_to_go_on() {
    // Half-way up and levelling: no reason to break and pull again.
    let v = judge_decay(&recording(read(20, |t| {
        100.0 + 180.0 * (1.0 - (-t / 10.0).exp())
    })));
    assert!(v.rising && v.explanations[0].cause == Cause::Moisture);
    assert!(
        said(&v).next_step.starts_with("Leave it shut"),
        "{}",
        said(&v).next_step
    );
    // A rise of 250 micron is never "as good as still", whatever it is called.
    let v = judge_decay(&recording(read(20, |t| {
        200.0 + 258.0 * (1.0 - (-t / 5.0).exp())
    })));
    let words = all_words(&v);
    assert!(!words.contains("as good as still") && !words.contains("too little to matter."));
    assert!(
        said(&v).next_step.starts_with("Leave it shut"),
        "{}",
        said(&v).next_step
    );
}

#[test]
fn a_dial_shows_no_deep_vacuum_and_is_told_so() {
    let mut r = recording([(0.0, 29.9), (600.0, 29.9)]);
    r.channels[0] = Channel {
        resolution: Some(0.5),
        ..Channel::new("D", Quantity::GaugePressure, Unit::InHg)
    };
    let v = judge_decay(&r);
    assert_eq!(v.outcome, DecayOutcome::Undecided);
    let words = ruhe_core::vacuum::say_decay(&v, Units::default());
    assert_eq!(words.headline, "A dial shows no deep vacuum");
    assert!(
        words.evidence[0].contains("29.9 inHg"),
        "{:?}",
        words.evidence
    );
}
