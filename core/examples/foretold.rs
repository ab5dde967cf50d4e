//! Holds judged every two minutes as they run: is what was foretold of the decision's time true?
//! `cargo run --release -p ruhe-core --example foretold -- [N [FIRST SEED]]`
#![allow(clippy::print_stdout, clippy::unwrap_used)]

use ruhe_core::hold::{HoldOutcome, judge_hold};
use ruhe_core::reading::{Placement, Recording};
use ruhe_sim::Weather;

#[path = "../tests/all/plants/mod.rs"]
mod plants;
use plants::{Draw, any_truth, hold};

const END: f64 = 7_200.0;
const EVERY: f64 = 120.0;

/// When it was decided, and what was foretold at `asked` seconds.
struct Run {
    decided: Option<f64>,
    foretold: Option<(Option<f64>, Option<f64>)>,
}

fn until(r: &Recording, t: f64) -> Recording {
    let mut part = r.clone();
    part.readings.retain(|x| x.at_s <= t);
    part
}

fn run(weather: Weather, asked: f64, seed: u64) -> Run {
    let mut d = Draw(seed.wrapping_mul(0x9e37_79b9).wrapping_add(5));
    let mut truth = any_truth(&mut d, END, seed);
    truth.gain = 1.0 + 0.1 * d.normal();
    truth.lag = d.between(0.0, 1_200.0);
    truth.weather = weather;
    let limit = 0.0015 * (truth.start_gauge + ruhe_sim::ATMOSPHERE) / 1_200.0;
    truth.loss = if seed.is_multiple_of(4) {
        3.0 * limit
    } else {
        0.0
    };
    let mut r = hold(&truth, 5.0);
    r.settings.planned_s = Some(1_200.0);
    r.settings.probe = Some(Placement::Clamped);
    r.settings.hold_limit = Some(ruhe_core::reading::HoldLimit {
        drop_pa: limit * 1_200.0,
        over_s: 1_200.0,
    });
    let first = judge_hold(&until(&r, asked));
    if first.outcome != HoldOutcome::Undecided {
        return Run {
            decided: Some(asked),
            foretold: None,
        };
    }
    let mut at = asked;
    while at < END {
        at += EVERY;
        if judge_hold(&until(&r, at)).outcome != HoldOutcome::Undecided {
            return Run {
                decided: Some(at),
                foretold: first.foretold.map(|f| (f.likely_s, f.surely_s)),
            };
        }
    }
    Run {
        decided: None,
        foretold: first.foretold.map(|f| (f.likely_s, f.surely_s)),
    }
}

fn main() {
    let mut args = std::env::args().skip(1);
    let n: u64 = args.next().and_then(|a| a.parse().ok()).unwrap_or(100);
    let first: u64 = args.next().and_then(|a| a.parse().ok()).unwrap_or(950_000);
    println!(
        "| weather | asked after, min | open then | with a \"9 in 10\" time | decided by it | decided by the \
         middle time | median of decided / middle |"
    );
    println!("|---|---|---|---|---|---|---|");
    for (name, weather) in [
        ("steady", Weather::Steady),
        ("ramp 2 K/h", Weather::Ramp(2.0)),
        ("cloud 3 K", Weather::Cloud(3.0)),
    ] {
        for asked in [600.0, 1_200.0] {
            let runs: Vec<Run> = (0..n).map(|i| run(weather, asked, first + i)).collect();
            let open: Vec<&Run> = runs.iter().filter(|r| r.foretold.is_some()).collect();
            let by = |t: f64, r: &Run| r.decided.is_some_and(|d| d <= t + EVERY);
            let sure: Vec<bool> = open
                .iter()
                .filter_map(|r| r.foretold?.1.filter(|t| *t < END).map(|t| by(t, r)))
                .collect();
            let likely: Vec<(f64, bool, f64)> = open
                .iter()
                .filter_map(|r| {
                    let t = r.foretold?.0.filter(|t| *t < END)?;
                    Some((t, by(t, r), r.decided.unwrap_or(2.0 * END) / t))
                })
                .collect();
            let mut ratio: Vec<f64> = likely.iter().map(|x| x.2).collect();
            ratio.sort_by(f64::total_cmp);
            let share = |n: usize, of: usize| 100.0 * n as f64 / of.max(1) as f64;
            println!(
                "| {name} | {:.0} | {} | {} | {:.0} % | {:.0} % | {:.2} |",
                asked / 60.0,
                open.len(),
                sure.len(),
                share(sure.iter().filter(|x| **x).count(), sure.len()),
                share(likely.iter().filter(|x| x.1).count(), likely.len()),
                ratio.get(ratio.len() / 2).copied().unwrap_or(f64::NAN),
            );
        }
    }
}
