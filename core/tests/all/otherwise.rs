//! Holds and decays by laws that neither the judge nor the simulator uses: what is promised of an interval, of a word
//! and of a probability has to hold there, too. The full tables are those of `examples/otherwise.rs` and
//! `examples/rises.rs` in docs/method.md.

use crate::plants::on_two_cores;
use crate::plants::other::{LAWS, Law, other_hold};
use crate::plants::rises::{RISES, RiseLaw, rise};
use ruhe_core::hold::{HoldOutcome, judge_hold};
use ruhe_core::vacuum::judge_decay;

/// Minutes, and seconds between readings.
const HOLDS: [(f64, f64); 2] = [(40.0, 10.0), (60.0, 10.0)];
const EACH: u64 = 12;

#[test]
fn what_is_promised_holds_by_laws_that_the_judge_does_not_use() {
    let (mut covered, mut judged) = (0, 0);
    for law in LAWS {
        for (minutes, every) in HOLDS {
            for (seed, times, inside, outcome) in on_two_cores(1, EACH, |seed| {
                let times = [0.0, 0.0, 1.5, 3.0][seed as usize % 4];
                let limit = |p: f64| 0.003 * p / (60.0 * minutes);
                let (r, loss) = other_hold(law, seed, minutes, every, times, limit);
                let found = judge_hold(&r);
                let inside = found.loss.map(|l| l.low <= loss && loss <= l.high);
                (seed, times, inside, found.outcome)
            }) {
                // Heat of filling in three paces makes losses seem larger than they are (docs/method.md): its words
                // count.
                if law != Law::Roof {
                    judged += u32::from(inside.is_some());
                    covered += u32::from(inside == Some(true));
                }
                let case = format!("{law:?}, {minutes} min, seed {seed}, {times} limits");
                assert!(times < 2.0 || outcome != HoldOutcome::Holds, "{case}");
                assert!(times > 0.0 || outcome != HoldOutcome::Falls, "{case}");
            }
        }
    }
    // Of 72 at 95 % some four are outside, and more than ten once in 500 times.
    assert!(judged - covered <= 10, "{covered} of {judged}");
    assert!(judged >= 64, "{judged}");
}

#[test]
fn what_is_said_of_leaks_is_right_by_laws_that_the_judge_does_not_use() {
    let (mut judged, mut right, mut wrong) = (0, 0, 0);
    for law in RISES {
        let said = on_two_cores(500, 40, |seed| {
            let r = rise(law, seed);
            let v = judge_decay(&r.recording);
            let (matters, p) = (v.matters_pa_s?, v.matters_probability?);
            Some(if r.leak >= matters { p } else { 1.0 - p })
        });
        for claim in said.into_iter().flatten() {
            judged += 1;
            right += u32::from(claim > 0.5);
            wrong += u32::from(claim < 0.01);
        }
    }
    assert!(judged >= 150, "{judged}");
    // Of 160, some 93 % are right and one is sure and wrong; 85 % and four are far beyond chance.
    assert!(100 * right >= 85 * judged, "{right} of {judged}");
    assert!(wrong <= 4, "{wrong} of {judged}");
}

/// Air by the thousand micron a minute, in a room with a narrow pipe to the gauge: straight to half an atmosphere. It
/// was called free water, in the same breath as "more than water at any place here would give".
#[test]
fn what_stands_higher_than_water_could_lift_it_is_an_inflow() {
    for seed in [1_019, 1_085] {
        let r = rise(RiseLaw::Rooms, seed);
        let v = judge_decay(&r.recording);
        assert!(v.matters_probability.unwrap() > 0.99, "{seed}");
        let top = v.explanations.first().unwrap();
        assert!(top.cause.has_leak(), "{seed}: {:?}", top.cause);
    }
}
