//! Holds that are read a few times only, as half the trade does: they get an answer, and never a bolder one than all of
//! the readings would give. Many are made by the example `sparse`, whose table stands in docs/method.md.

use crate::plants::{Draw, any_truth, any_weather, hold};
use ruhe_core::hold::{HoldFinding, HoldOutcome, judge_hold};
use ruhe_core::judge::{Finding, say};
use ruhe_core::quantity::Units;
use ruhe_core::reading::{Event, EventKind, HoldLimit, Recording};
use ruhe_core::reason::Reason;
use ruhe_sim::{PSI, Weather};

/// When it is read, min since the supply was shut.
const PATTERNS: [(&str, &[f64]); 6] = [
    ("0 and 24 h", &[0.0, 1_440.0]),
    ("15 min and 24 h", &[15.0, 1_440.0]),
    ("0, 15 min and 24 h", &[0.0, 15.0, 1_440.0]),
    ("10 and 50 min", &[10.0, 50.0]),
    ("0, 30, 60 min", &[0.0, 30.0, 60.0]),
    ("evening and morning", &[20.0, 800.0]),
];

/// A plant read at these minutes after its supply was shut, all that was read between them left out.
fn read_at(
    minutes: &[f64],
    i: u64,
    loses: impl Fn(f64) -> f64,
    weather: Weather,
) -> (Recording, f64) {
    let mut d = Draw(0x5a_0000 + i * 7_919);
    let end = 60.0 * minutes[minutes.len() - 1];
    let mut truth = any_truth(&mut d, end, i * 31 + 11);
    truth.weather = weather;
    let limit = 0.003 * (truth.start_gauge + ruhe_sim::ATMOSPHERE) / end;
    truth.loss = loses(limit);
    let mut r = hold(&truth, 60.0);
    r.readings.retain(|x| {
        let at = x.at_s / 60.0;
        minutes.iter().any(|m| (at - m).abs() < 0.5)
    });
    r.events = vec![Event {
        at_s: 0.0,
        kind: EventKind::SupplyIsolated,
        note: String::new(),
    }];
    r.settings.awaits_isolation = true;
    r.settings.planned_s = Some(end);
    r.settings.hold_limit = Some(HoldLimit {
        drop_pa: limit * 3_600.0,
        over_s: 3_600.0,
    });
    (r, limit)
}

fn settles(v: &HoldFinding) -> bool {
    !v.reasons.contains(&Reason::StillSettling)
}

#[test]
fn two_readings_get_an_answer_and_not_settling_for_ever() {
    for (name, minutes) in PATTERNS {
        for i in 0..6 {
            let (r, _) = read_at(minutes, i, |_| 0.0, Weather::Steady);
            let v = judge_hold(&r);
            assert!(settles(&v), "{name}, draw {i}: {:?}", v.reasons);
            assert!(v.loss.is_some(), "{name}, draw {i}: {:?}", v.reasons);
        }
    }
}

#[test]
fn a_large_loss_falls_on_two_readings_and_a_tight_day_is_bounded() {
    for i in 0..8 {
        // Ten psi are gone after a day, at equal temperature.
        let ten = |_| 10.0 * PSI / 86_400.0;
        let (r, _) = read_at(&[15.0, 1_440.0], i, ten, Weather::Steady);
        let v = judge_hold(&r);
        assert_eq!(v.outcome, HoldOutcome::Falls, "draw {i}: {:?}", v.reasons);
        // Read first as the supply was shut, the heat of filling may be all of it: that is said, and what would tell.
        let (r, _) = read_at(&[0.0, 1_440.0], i, ten, Weather::Steady);
        let v = judge_hold(&r);
        assert_ne!(v.outcome, HoldOutcome::Holds, "draw {i}: {:?}", v.reasons);
        let loss = v.loss.unwrap();
        assert!(loss.high > 10.0 * PSI / 86_400.0, "draw {i}: {loss:?}");
        let said = say(&Finding::PressureHold(v), Units::default())
            .evidence
            .join(" ");
        assert!(
            loss.surely > 0.0 || said.contains("a quarter of an hour later"),
            "draw {i}: {said}"
        );
        // Read a quarter of an hour after the shut supply: what filling left is out of it.
        let (r, limit) = read_at(&[15.0, 1_440.0], i, |_| 0.0, Weather::Steady);
        let v = judge_hold(&r);
        let loss = v.loss.unwrap();
        assert!(loss.low <= 0.0 && loss.high >= 0.0, "draw {i}: {loss:?}");
        assert!(
            loss.high - loss.low < 12.0 * limit,
            "draw {i}: {loss:?} of {limit}"
        );
    }
}

#[test]
fn few_readings_are_never_bolder() {
    let (mut falls, mut holds, mut n) = (0, 0, 0);
    for (_, minutes) in PATTERNS {
        for i in 0..24 {
            let mut d = Draw(0x5a5a + i);
            let weather = any_weather(&mut d);
            let times = d.between(2.0, 4.0);
            let leaks = i % 2 == 1;
            let (r, _) = read_at(minutes, i, |l| if leaks { times * l } else { 0.0 }, weather);
            let v = judge_hold(&r);
            n += 1;
            falls += u32::from(!leaks && v.outcome == HoldOutcome::Falls);
            holds += u32::from(leaks && v.outcome == HoldOutcome::Holds);
        }
    }
    assert_eq!(holds, 0, "a leak of twice the limit was passed");
    assert!(falls * 50 <= n, "{falls} of {n} tight systems were accused");
}

/// 24.6 psi in a quarter of an hour, straight: whatever share of the readings is kept, it falls.
#[test]
fn a_fall_too_large_for_settling_falls_however_often_it_is_read() {
    for (every, minutes) in [(1.0, 15.0), (30.0, 15.0), (60.0, 15.0), (900.0, 15.0)] {
        for i in 0..4 {
            let mut d = Draw(0xfa11 + i);
            let mut truth = any_truth(&mut d, 60.0 * minutes, i * 31 + 5);
            truth.weather = Weather::Steady;
            truth.start_gauge = 300.0 * PSI;
            truth.loss = 24.6 * PSI / (60.0 * minutes);
            let mut r = hold(&truth, every);
            r.settings.planned_s = Some(60.0 * minutes);
            let v = judge_hold(&r);
            assert_eq!(
                v.outcome,
                HoldOutcome::Falls,
                "every {every} s, draw {i}: {:?}",
                v.reasons
            );
        }
    }
}

/// Gas that was let out once and stands still since is no leak: it is asked about.
#[test]
fn gas_that_was_let_out_once_is_not_called_a_leak() {
    for i in 0..4 {
        let mut d = Draw(0x1e7 + i);
        let mut truth = any_truth(&mut d, 3_600.0, i * 31 + 5);
        (truth.weather, truth.fill_k) = (Weather::Steady, 0.2);
        truth.start_gauge = 300.0 * PSI;
        let mut r = hold(&truth, 10.0);
        for x in &mut r.readings {
            if x.channel == 0 && x.at_s > 400.0 {
                x.value -= 25.0 * PSI;
            }
        }
        r.settings.planned_s = Some(3_600.0);
        let v = judge_hold(&r);
        assert_ne!(v.outcome, HoldOutcome::Falls, "draw {i}: {:?}", v.reasons);
        assert_ne!(v.outcome, HoldOutcome::Holds, "draw {i}: {:?}", v.reasons);
    }
}
