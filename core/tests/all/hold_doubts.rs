//! Holds with a reading typed wrongly, a gauge that stopped, a bump: none of them makes a verdict.

use ruhe_core::hold::{HoldFinding, HoldOutcome, judge_hold, say_hold};
use ruhe_core::quantity::Units;
use ruhe_core::reading::Recording;
use ruhe_core::reason::Reason;
use ruhe_sim::{PSI, Weather};

use crate::plants::{Draw, any_truth, any_weather, hold};

/// A hold of 40 min read every minute, as drawn; some tight, some leaking `times` the limit of 0.3 %.
fn drawn(seed: u64, times: f64) -> Recording {
    let mut d = Draw(seed + 5);
    let mut truth = any_truth(&mut d, 2_400.0, seed);
    truth.weather = if seed.is_multiple_of(2) {
        Weather::Steady
    } else {
        Weather::Ramp(2.0)
    };
    truth.gauge.sun = 0.0;
    truth.loss = times * 0.003 * (truth.start_gauge + ruhe_sim::ATMOSPHERE) / 1_800.0;
    let mut r = hold(&truth, 60.0);
    r.settings.planned_s = Some(1_800.0);
    r
}

/// Does something to the `k`th reading of a channel.
fn changed(mut r: Recording, channel: usize, k: usize, how: impl Fn(f64) -> f64) -> Recording {
    let hit = r
        .readings
        .iter_mut()
        .filter(|x| x.channel == channel)
        .nth(k);
    let x = hit.unwrap();
    x.value = how(x.value);
    r
}

fn same_but_asked(slip: &HoldFinding, clean: &HoldFinding, what: &str) {
    assert_eq!(slip.outcome, clean.outcome, "{what}: {:?}", slip.reasons);
    assert!(slip.reasons.contains(&Reason::ReadingInDoubt), "{what}");
    let words = say_hold(slip, Units::default());
    let asks = words
        .evidence
        .iter()
        .any(|e| e.contains("far from its neighbours"));
    assert!(asks, "{what}: {:?}", words.evidence);
}

#[test]
fn a_slip_between_good_readings_changes_no_verdict_and_is_asked_about() {
    for (seed, times) in [(0, 0.0), (1, 0.0), (2, 4.0), (3, 4.0)] {
        let clean = judge_hold(&drawn(seed, times));
        assert!(clean.reasons.iter().all(|r| *r != Reason::ReadingInDoubt));
        let with = |channel: usize, how: &dyn Fn(f64) -> f64| {
            judge_hold(&changed(drawn(seed, times), channel, 22, how))
        };
        same_but_asked(&with(0, &|v| v / 10.0), &clean, "a digit too few");
        same_but_asked(
            &with(0, &|v| v + 18.0 * PSI),
            &clean,
            "digits changed about",
        );
        same_but_asked(
            &with(1, &|k| 273.15 + 10.0 * (k - 273.15)),
            &clean,
            "a point forgotten",
        );
        same_but_asked(&with(1, &|k| k + 6.0), &clean, "a wrong temperature");
    }
}

#[test]
fn an_undisturbed_hold_raises_no_doubt() {
    for seed in 0..90 {
        let mut d = Draw(seed);
        let mut truth = any_truth(&mut d, 3_600.0, seed);
        truth.weather = any_weather(&mut d);
        truth.gauge.digit = [0.01, 0.1, 1.0][seed as usize % 3] * PSI;
        let v = judge_hold(&hold(&truth, [1.0, 10.0, 60.0][seed as usize / 3 % 3]));
        assert!(v.doubts.is_empty(), "{seed} {:?}", v.doubts);
    }
}

#[test]
fn a_bump_or_a_last_reading_that_leaps_makes_no_verdict_on_a_tight_system() {
    for seed in 0..6 {
        let mut stepped = drawn(seed, 0.0);
        stepped
            .readings
            .iter_mut()
            .filter(|x| x.channel == 0 && x.at_s > 1_300.0)
            .for_each(|x| x.value -= 1.5 * PSI);
        let v = judge_hold(&stepped);
        assert_eq!(v.outcome, HoldOutcome::Undecided, "{seed} {:?}", v.reasons);
        let v = judge_hold(&changed(drawn(seed, 0.0), 0, 40, |p| p - 9.0 * PSI));
        assert_eq!(v.outcome, HoldOutcome::Undecided, "{seed} {:?}", v.reasons);
    }
}

#[test]
fn a_gauge_that_stopped_hides_no_leak() {
    // It leaks six times the limit; the gauge stops after a quarter of an hour.
    for seed in 0..6 {
        let mut r = drawn(seed, 6.0);
        let at = |x: &ruhe_core::reading::Reading| x.channel == 0 && x.at_s >= 900.0;
        let shown = r.readings.iter().find(|x| at(x)).unwrap().value;
        r.readings
            .iter_mut()
            .filter(|x| at(x))
            .for_each(|x| x.value = shown);
        let v = judge_hold(&r);
        assert_ne!(v.outcome, HoldOutcome::Holds, "{seed} {:?}", v.loss);
        if v.reasons.contains(&Reason::GaugeStuck) {
            assert_eq!(
                say_hold(&v, Units::default()).headline,
                "Gauge standing still"
            );
        }
    }
}
