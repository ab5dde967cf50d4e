//! Readings that go missing never make a verdict bolder. A few draws of each; many are made by the example `thinned`,
//! whose table stands in docs/method.md.

use crate::plants::{Draw, Missing, RULE, any_truth, any_weather, blank, decay, halves, hold};
use proptest::prelude::*;
use ruhe_core::hold::{HoldOutcome, LeakByOutcome, judge_hold, judge_leak_by};
use ruhe_core::quantity::Unit;
use ruhe_core::reading::*;
use ruhe_core::vacuum::{DecayOutcome, judge_decay};
use ruhe_sim::{DrawnDecay, MICRON, PSI};

/// 15 °F in ten minutes, growing with the root of time, at most 60 °F (common practice, no source), in kelvin.
fn believable(seconds: f64) -> f64 {
    (15.0 / 1.8 * (seconds / 600.0).max(1.0).sqrt()).min(60.0 / 1.8)
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(300))]

    /// Whatever the pressures did: without a temperature, or with one reading of it, nothing holds, and nothing falls
    /// that believable cooling explains.
    #[test]
    fn without_a_thermometer_nothing_holds(
        psig in 80f64..600.0,
        steps in prop::collection::vec((10f64..900.0, -6f64..3.0), 1..40),
        digit in prop_oneof![Just(0.1), Just(1.0), Just(5.0)],
        reading in prop::option::of((0.0f64..1.0, 40f64..100.0)),
        planned in prop::option::of(300f64..7_200.0),
    ) {
        let mut readings = vec![(0.0, 0, psig)];
        let (mut t, mut p) = (0.0, psig);
        for (dt, dp) in steps {
            (t, p) = (t + dt, (p + dp).max(0.0));
            readings.push((t, 0, (p / digit).round() * digit));
        }
        if let Some((share, fahrenheit)) = reading {
            readings.push((share * t, 1, fahrenheit));
        }
        let gauge = Channel { resolution: Some(digit), ..Channel::new("P", Quantity::GaugePressure, Unit::Psig) };
        let rows = readings.iter().map(|&(at_s, channel, value)| Reading { at_s, channel, value }).collect();
        let mut r = blank(Kind::PressureHold, vec![gauge, Channel::new("T", Quantity::Temperature, Unit::DegF)], rows);
        r.settings.planned_s = planned;
        let v = judge_hold(&r);
        prop_assert_ne!(v.outcome, HoldOutcome::Holds, "{:?}", v.reasons);
        if v.outcome == HoldOutcome::Falls {
            // P/T falls by 1/293 a kelvin at room temperature, real gas a little more: two per cent is generous.
            let lowest = readings.iter().filter(|x| x.1 == 0).map(|x| x.2).fold(f64::INFINITY, f64::min);
            let needed = (psig - lowest) / ((psig + 14.7) / 293.15 * 1.02);
            prop_assert!(needed > 0.9 * believable(t) || lowest < 5.0, "{needed} K in {t} s: {:?}", v.reasons);
        }
    }
}

/// Tight holds and holds that leak two to four times the limit, under any weather.
#[test]
fn holds_with_readings_taken_away_are_not_bolder() {
    let (mut falls, mut holds) = (0, 0);
    for missing in Missing::EACH {
        for i in 0..24u64 {
            let mut d = Draw(0xabc_0000 + i * 7_919);
            let mut truth = any_truth(&mut d, 2_700.0 + 1_800.0 * (i % 3) as f64, i * 31 + 11);
            truth.weather = any_weather(&mut d);
            let limit = 0.003 * (truth.start_gauge + ruhe_sim::ATMOSPHERE) / truth.duration;
            truth.loss = if i % 2 == 0 {
                0.0
            } else {
                d.between(2.0, 4.0) * limit
            };
            let mut r = missing.from(&hold(&truth, 10.0), (i % 4 == 3).into(), &mut d);
            r.settings.hold_limit = Some(HoldLimit {
                drop_pa: limit * 3_600.0,
                over_s: 3_600.0,
            });
            let v = judge_hold(&r);
            falls += u32::from(truth.loss == 0.0 && v.outcome == HoldOutcome::Falls);
            holds += u32::from(truth.loss > 0.0 && v.outcome == HoldOutcome::Holds);
        }
    }
    assert_eq!(holds, 0, "a leak of twice the limit was passed");
    assert!(falls <= 2, "{falls} tight systems were accused");
}

#[test]
fn leak_bys_with_readings_taken_away_are_not_bolder() {
    let (mut wrong, mut judged) = (0, 0);
    for (channel, missing) in (0..3).flat_map(|c| Missing::EACH.map(|m| (c, m))) {
        for i in 0..12u64 {
            let mut d = Draw(0x1eab_1000 + i * 7_919);
            let duration = d.between(600.0, 2_400.0);
            let mut truth = any_truth(&mut d, duration, i * 37 + 3);
            (truth.fill_k, truth.weather) = (0.3 * d.uniform(), any_weather(&mut d));
            let through = if i % 2 == 0 {
                d.between(5.0, 20.0) * PSI / duration
            } else {
                0.0
            };
            truth.loss = through;
            let v = judge_leak_by(&missing.from(
                &halves(&truth, through, 10.0, &mut d),
                channel,
                &mut d,
            ));
            judged += u32::from(v.outside.is_some());
            wrong += u32::from(matches!(
                v.outcome,
                LeakByOutcome::Outside | LeakByOutcome::Both
            ));
            assert!(
                through > 0.0 || v.outcome != LeakByOutcome::LeakBy,
                "{missing:?} of channel {channel}, draw {i}: {:?}",
                v.reasons
            );
        }
    }
    assert!(
        judged > 150 && wrong * 50 <= judged,
        "{wrong} of {judged} accused the outside of a tight system"
    );
}

#[test]
fn decays_with_readings_taken_away_never_pass_what_fails() {
    let prior: serde_json::Value =
        serde_json::from_str(include_str!("../../src/vacuum/prior.json")).unwrap();
    for i in 0..60 {
        let whole = decay(&DrawnDecay::draw(&prior, 40_000 + i, RULE.0 * MICRON, RULE.1).unwrap());
        let truth = judge_decay(&whole).outcome;
        for missing in Missing::EACH {
            let said = judge_decay(&missing.from(&whole, 0, &mut Draw(i))).outcome;
            assert!(
                said != DecayOutcome::Passes || truth == DecayOutcome::Passes,
                "{missing:?}, draw {i}: {said:?} of {truth:?}"
            );
            assert!(
                said != DecayOutcome::Fails || truth != DecayOutcome::Passes,
                "{missing:?}, draw {i}: {said:?} of {truth:?}"
            );
        }
    }
}

/// How strong a word is: a plain pass the strongest.
fn strength(r: &Recording) -> u8 {
    let v = judge_decay(r);
    match v.outcome {
        DecayOutcome::Passes if v.leak_likely => 1,
        DecayOutcome::Passes if v.rising => 2,
        DecayOutcome::Passes => 3,
        _ => 0,
    }
}

/// Thinned in any way (every second, fifth, tenth reading, the ends, a random half), a decay that passes gets no
/// stronger word and loses no warning, but for what lies at the edge of one.
#[test]
fn a_decay_that_is_thinned_gets_no_stronger_word() {
    let prior: serde_json::Value =
        serde_json::from_str(include_str!("../../src/vacuum/prior.json")).unwrap();
    let (mut n, mut stronger) = (0, vec![]);
    for i in 0..100u64 {
        let whole = decay(&DrawnDecay::draw(&prior, 90_000 + i, RULE.0 * MICRON, RULE.1).unwrap());
        let was = strength(&whole);
        if was == 0 {
            continue;
        }
        let count = whole.readings.len();
        let mut d = Draw(i);
        let half: Vec<bool> = (0..count).map(|_| d.uniform() < 0.5).collect();
        let keeps: [(&str, &dyn Fn(usize) -> bool); 5] = [
            ("every second", &|k| k % 2 == 0),
            ("every fifth", &|k| k % 5 == 0),
            ("every tenth", &|k| k % 10 == 0),
            ("the ends", &|_| false),
            ("a half", &|k| half[k]),
        ];
        for (name, keep) in keeps {
            let mut r = whole.clone();
            let mut k = 0;
            r.readings.retain(|_| {
                k += 1;
                keep(k - 1) || k == 1 || k == count
            });
            n += 1;
            let now = strength(&r);
            if now > was {
                stronger.push((i, name, was, now));
            }
        }
    }
    assert!(n > 150, "{n}");
    assert!(
        stronger.len() * 50 <= n,
        "{} of {n} became bolder: {stronger:?}",
        stronger.len()
    );
}
