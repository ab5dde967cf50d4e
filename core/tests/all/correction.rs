//! What a hold finds out about itself: the true loss, gain and lag of its probes, its settled start, its marks.

use ruhe_core::hold::{
    HoldFinding, HoldOutcome, KnownPlant, Loss, judge_hold, loss_bound, say_hold,
};
use ruhe_core::quantity::{Unit, Units};
use ruhe_core::reading::*;
use ruhe_core::reason::Reason;
use ruhe_sim::{HoldPlant, HoldTruth, PSI, Weather};

fn run(truth: &HoldTruth, every: f64) -> Recording {
    let mut plant = HoldPlant::new(truth.clone());
    let channels = vec![
        Channel {
            resolution: Some(truth.gauge.digit),
            range: Some(800.0 * PSI),
            ..Channel::new("P", Quantity::GaugePressure, Unit::Pa)
        },
        Channel::new("T", Quantity::Temperature, Unit::K),
    ];
    let readings = (0..=(truth.duration / every) as i32)
        .flat_map(|k| plant.show(f64::from(k) * every))
        .map(|s| Reading {
            at_s: s.at_s,
            channel: s.gauge,
            value: s.value,
        })
        .collect();
    let mut settings = Settings::new(Kind::PressureHold);
    settings.planned_s = Some(truth.duration);
    Recording {
        settings,
        channels,
        readings,
        events: vec![],
        start_ms: None,
        duplicates: 0,
        remarks: vec![],
    }
}

fn judged(truth: &HoldTruth, every: f64) -> HoldFinding {
    judge_hold(&run(truth, every))
}

fn per_hour(rate: f64) -> f64 {
    rate * 3_600.0 / PSI
}

#[test]
fn the_true_loss_lies_in_the_interval_and_its_middle_near_it() {
    for (seed, loss) in [(1, 0.0), (2, 1.0), (3, 3.0), (4, 8.0)] {
        let truth = HoldTruth {
            loss: loss * PSI / 3_600.0,
            fill_k: 0.5,
            ..HoldPlant::tight(400.0, 4.0 * 3_600.0, seed)
        };
        let r = run(&truth, 10.0);
        let v = judge_hold(&r);
        let l = v.loss.unwrap();
        // A leak follows P² − P_a²; the loss is reported at the settled start, where the filling's heat is gone.
        let drive = |pa: f64| (pa + 101_325.0).powi(2) - 101_325f64.powi(2);
        let at_start = loss * drive(r.series(0).at(v.settled_at_s.unwrap()).unwrap())
            / drive(truth.start_gauge);
        let detected = loss > 0.5;
        let loss = at_start;
        assert!(
            per_hour(l.low) <= loss && loss <= per_hour(l.high),
            "seed {seed}: {} to {} for {loss}",
            per_hour(l.low),
            per_hour(l.high)
        );
        assert!(
            (per_hour(l.value) - loss).abs() < 0.35,
            "seed {seed}: {}",
            per_hour(l.value)
        );
        assert_eq!(v.loss_detected, detected, "seed {seed}");
    }
}

#[test]
fn a_strong_swing_tells_the_gain_and_the_lag() {
    for (seed, gain, lag) in [(5, 0.85, 300.0), (6, 1.15, 900.0), (7, 1.0, 120.0)] {
        let truth = HoldTruth {
            gain,
            lag,
            weather: Weather::Cloud(8.0),
            fill_k: 1.0,
            ..HoldPlant::tight(450.0, 3.0 * 3_600.0, seed)
        };
        let c = judged(&truth, 5.0)
            .correction
            .unwrap_or_else(|| panic!("seed {seed}: nothing was told"));
        let doubt = (3.0 * c.gain_sd).clamp(0.06, 0.15);
        assert!((c.gain - gain).abs() < doubt, "{c:?} for {gain}");
        assert!(
            (c.lag_s - lag).abs() < 0.35 * lag + 60.0,
            "lag {} for {lag}",
            c.lag_s
        );
    }
    // Level weather tells nothing, and nothing is claimed.
    assert_eq!(
        judged(&HoldPlant::tight(450.0, 2_400.0, 8), 5.0).correction,
        None
    );
}

#[test]
fn a_warmer_filling_takes_longer_to_settle() {
    let settled = |fill_k: f64, seed| {
        judged(
            &HoldTruth {
                fill_k,
                fill_time: 240.0,
                ..HoldPlant::tight(400.0, 2.0 * 3_600.0, seed)
            },
            5.0,
        )
        .settled_at_s
        .unwrap()
    };
    for seed in [11, 12, 13] {
        assert!(
            settled(8.0, seed) > settled(0.3, seed) + 120.0,
            "seed {seed}: {} {}",
            settled(8.0, seed),
            settled(0.3, seed)
        );
    }
}

#[test]
fn the_bound_falls_with_time_and_no_interval_beats_it() {
    let mut last = f64::INFINITY;
    for minutes in [30.0, 60.0, 120.0, 240.0] {
        let truth = HoldPlant::tight(400.0, minutes * 60.0, 21);
        let r = run(&truth, 10.0);
        let known = KnownPlant {
            tau: truth.gauge.wander_time,
            wander: truth.gauge.wander,
            fast: truth.gauge.fast.hypot(truth.gauge.digit / 12f64.sqrt()),
            lag: truth.lag,
            fade: truth.fill_time,
        };
        let bound = loss_bound(&r, &known).unwrap();
        assert!(bound < last, "{minutes} min");
        last = bound;
        if let Some(l) = judge_hold(&r).loss {
            assert!(
                0.5 * (l.high - l.low) > 1.5 * bound,
                "{minutes} min: an interval narrower than what is possible"
            );
        }
    }
}

#[test]
fn a_second_tap_on_supply_shut_does_not_throw_the_hold_away() {
    let truth = HoldPlant::tight(300.0, 3_600.0, 31);
    let mut r = run(&truth, 10.0);
    let tap = |at_s| Event {
        at_s,
        kind: EventKind::SupplyIsolated,
        note: String::new(),
    };
    r.events = vec![tap(0.0)];
    let once = judge_hold(&r).loss.unwrap();
    r.events.push(tap(3_000.0));
    assert_eq!(judge_hold(&r).loss.unwrap(), once);
    // Topping up, though, begins anew.
    r.events.push(Event {
        at_s: 2_400.0,
        kind: EventKind::ToppedUp,
        note: String::new(),
    });
    let anew = judge_hold(&r);
    assert!(
        anew.loss
            .is_none_or(|l| l.high - l.low > 2.0 * (once.high - once.low))
    );
}

#[test]
fn a_gap_with_the_gauge_away_is_bridged_and_the_fall_across_it_counts() {
    for (loss, outcome) in [(0.0, HoldOutcome::Holds), (2.0, HoldOutcome::Falls)] {
        let truth = HoldTruth {
            loss: loss * PSI / 3_600.0,
            ..HoldPlant::tight(500.0, 24.0 * 3_600.0, 41)
        };
        let mut r = run(&truth, 60.0);
        r.readings
            .retain(|x| x.at_s < 2.0 * 3_600.0 || x.at_s > 21.0 * 3_600.0);
        assert_eq!(judge_hold(&r).outcome, outcome, "loss {loss}");
    }
}

#[test]
fn a_gauge_read_beyond_its_range_decides_nothing() {
    let truth = HoldPlant::tight(300.0, 3_600.0, 51);
    let mut r = run(&truth, 10.0);
    r.channels[0].range = Some(290.0 * PSI);
    let v = judge_hold(&r);
    assert_eq!(
        (v.outcome, v.reasons),
        (HoldOutcome::Undecided, vec![Reason::BeyondRange])
    );
}

#[test]
fn an_overdue_calibration_is_a_mark_and_not_a_block() {
    let truth = HoldPlant::tight(300.0, 2.0 * 3_600.0, 52);
    let mut r = run(&truth, 10.0);
    r.start_ms = Some(1_760_000_000_000);
    r.channels[0]
        .extra
        .push((CALIBRATION_DUE.into(), "2025-01-31".into()));
    let v = judge_hold(&r);
    assert!(
        v.outcome == HoldOutcome::Holds && v.reasons.contains(&Reason::CalibrationOverdue),
        "{:?}",
        v.reasons
    );
    r.channels[0].extra[0].1 = "2026-01-31".into();
    assert!(!judge_hold(&r).reasons.contains(&Reason::CalibrationOverdue));
    r.channels[0].extra[0].1 = "when I get to it".into();
    assert_eq!(r.calibration_overdue(), None);
}

#[test]
fn the_sun_on_the_gauge_widens_the_interval_and_asks_for_shade() {
    // The sun warms the gauge by 12 K from the first reading on, with no leak at all.
    let loss = |r: &Recording| judge_hold(r).loss.unwrap();
    let sunny = |seed: u64, is_told: bool| {
        let mut truth = HoldPlant::tight(300.0, 2_400.0, seed);
        truth.gauge.per_kelvin = 0.16 * PSI;
        truth.gauge.sun = 12.0;
        let mut r = run(&truth, 10.0);
        r.events.extend(is_told.then(|| Event {
            at_s: 0.0,
            kind: EventKind::Sun,
            note: String::new(),
        }));
        r
    };
    let both: Vec<(Loss, Loss)> = (61..71)
        .map(|seed| (loss(&sunny(seed, true)), loss(&sunny(seed, false))))
        .collect();
    let count = |f: &dyn Fn(&(Loss, Loss)) -> bool| both.iter().filter(|b| f(b)).count();
    let covers = |l: &Loss| l.low < 0.0 && 0.0 < l.high;
    let (told, untold) = (count(&|b| covers(&b.0)), count(&|b| covers(&b.1)));
    let wider = count(&|(told, untold)| told.high - told.low > untold.high - untold.low);
    // 93 % over many such holds (docs/method.md); ten are few.
    assert!(
        told >= 7 && told > untold && wider >= 6,
        "{told} {untold} {wider} {both:?}"
    );
    let r = sunny(61, true);
    // 0.02 % of 800 psi a kelvin, fifteen kelvin: 2.4 psi (common practice).
    let said = say_hold(&judge_hold(&r), Units::default())
        .evidence
        .join(" ");
    assert!(
        said.contains("up to 2.4 psi") && said.contains("Shade it"),
        "{said}"
    );
}
