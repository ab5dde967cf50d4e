//! Holds that are read a few times only: how often the interval covers the truth, how often a verdict is reached, and
//! how often it is wrong. `cargo run --release -p ruhe-core --example sparse -- [N [FIRST SEED]]`
#![allow(clippy::print_stdout, clippy::unwrap_used)]

use ruhe_core::hold::{HoldFinding, HoldOutcome, judge_hold};
use ruhe_core::reading::{Event, EventKind, HoldLimit};
use ruhe_sim::{PSI, Weather};

#[path = "../tests/all/plants/mod.rs"]
mod plants;
use plants::{Draw, any_truth, any_weather, hold, on_two_cores};

/// When it is read, min since the supply was shut, and what may be lost in all, psi.
const PATTERNS: &[(&str, &[f64], f64)] = &[
    ("0 and 24 h", &[0.0, 1_440.0], 1.0),
    ("15 min and 24 h", &[15.0, 1_440.0], 1.0),
    ("0, 15 min and 24 h", &[0.0, 15.0, 1_440.0], 1.0),
    ("20 min and 13 h", &[20.0, 800.0], 1.0),
    ("10 and 50 min", &[10.0, 50.0], 1.0),
    ("0, 30 and 60 min", &[0.0, 30.0, 60.0], 1.0),
    (
        "every 10 min, 2 h",
        &[
            0.0, 10.0, 20.0, 30.0, 40.0, 50.0, 60.0, 70.0, 80.0, 90.0, 100.0, 110.0, 120.0,
        ],
        1.0,
    ),
];

struct Said {
    /// Of the limit.
    truth: f64,
    half: f64,
    is_judged: bool,
    covers: bool,
    outcome: HoldOutcome,
}

fn one(i: u64, minutes: &[f64], psi: f64, is_steady: bool) -> Said {
    let mut d = Draw(0x5a_0000 + i * 7_919);
    let end = 60.0 * minutes[minutes.len() - 1];
    let mut truth = any_truth(&mut d, end, i * 31 + 11);
    truth.weather = if is_steady {
        Weather::Steady
    } else {
        any_weather(&mut d)
    };
    let limit = psi * PSI / end;
    // Half are tight; the others lose a part of the limit, or up to ten times it.
    let times = if i.is_multiple_of(2) {
        0.0
    } else {
        10f64.powf(d.between(-0.5, 1.0))
    };
    truth.loss = times * limit;
    let mut r = hold(&truth, 60.0);
    r.readings
        .retain(|x| minutes.iter().any(|m| (x.at_s / 60.0 - m).abs() < 0.5));
    r.events = vec![Event {
        at_s: 0.0,
        kind: EventKind::SupplyIsolated,
        note: String::new(),
    }];
    r.settings.awaits_isolation = true;
    r.settings.planned_s = Some(end);
    r.settings.hold_limit = Some(HoldLimit {
        drop_pa: psi * PSI,
        over_s: end,
    });
    let v: HoldFinding = judge_hold(&r);
    let loss = v.loss;
    Said {
        truth: times,
        half: loss.map_or(f64::NAN, |l| 0.5 * (l.high - l.low) / limit),
        is_judged: loss.is_some(),
        covers: loss.is_some_and(|l| l.low <= truth.loss && truth.loss <= l.high),
        outcome: v.outcome,
    }
}

fn main() {
    let mut args = std::env::args().skip(1);
    let n: u64 = args.next().and_then(|a| a.parse().ok()).unwrap_or(200);
    let first: u64 = args.next().and_then(|a| a.parse().ok()).unwrap_or(1);
    println!(
        "| read at | weather | judged | covered | half width / limit | undecided | tight *holds* | over twice \
         *falls* | false *holds*, *falls* |"
    );
    println!("|---|---|---|---|---|---|---|---|---|");
    for (name, minutes, psi) in PATTERNS {
        for is_steady in [true, false] {
            let all = on_two_cores(first, n, |i| one(i, minutes, *psi, is_steady));
            let judged: Vec<&Said> = all.iter().filter(|s| s.is_judged).collect();
            let share = |of: &dyn Fn(&Said) -> bool, among: &dyn Fn(&Said) -> bool| {
                let n = all.iter().filter(|s| among(s)).count().max(1);
                100.0 * all.iter().filter(|s| among(s) && of(s)).count() as f64 / n as f64
            };
            let mut half: Vec<f64> = judged.iter().map(|s| s.half).collect();
            half.sort_by(f64::total_cmp);
            let is = |o: HoldOutcome| move |s: &Said| s.outcome == o;
            let wrong = |o: HoldOutcome, among: &dyn Fn(&Said) -> bool| {
                all.iter().filter(|s| among(s) && s.outcome == o).count()
            };
            println!(
                "| {name} | {} | {:.0} % | {:.1} % | {:.2} | {:.0} % | {:.0} % | {:.0} % | {}, {} |",
                if is_steady { "steady" } else { "any" },
                100.0 * judged.len() as f64 / all.len() as f64,
                100.0 * judged.iter().filter(|s| s.covers).count() as f64
                    / judged.len().max(1) as f64,
                half.get(half.len() / 2).copied().unwrap_or(f64::NAN),
                share(&is(HoldOutcome::Undecided), &|_| true),
                share(&is(HoldOutcome::Holds), &|s| s.truth == 0.0),
                share(&is(HoldOutcome::Falls), &|s| s.truth > 2.0),
                wrong(HoldOutcome::Holds, &|s| s.truth > 1.0),
                wrong(HoldOutcome::Falls, &|s| s.truth <= 1.0),
            );
        }
    }
}
