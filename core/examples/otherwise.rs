//! Holds by laws that neither the judge nor the simulator uses: how often the interval covers the truth and what is
//! said of tight ones, of those over the limit and of those over twice it.
//! `cargo run --release -p ruhe-core --example otherwise -- [N [FIRST SEED]]`
#![allow(clippy::print_stdout, clippy::unwrap_used)]

use ruhe_core::hold::{HoldFinding, HoldOutcome, judge_hold};

#[path = "../tests/all/plants/mod.rs"]
mod plants;
use plants::other::{LAWS, Law, other_hold};
use plants::{Draw, on_two_cores};

/// Minutes, and seconds between readings.
const HOLDS: [(f64, f64); 4] = [(20.0, 5.0), (40.0, 5.0), (60.0, 10.0), (1_440.0, 120.0)];

struct Case {
    times: f64,
    covered: bool,
    half: f64,
    /// Error of the loss in standard deviations as told.
    off: f64,
    found: HoldFinding,
}

fn run(law: Law, minutes: f64, every: f64, seed: u64) -> Case {
    let mut d = Draw(seed.wrapping_mul(0x9e37).wrapping_add(5));
    let times = match seed % 4 {
        0 | 1 => 0.0,
        2 => d.between(1.0, 2.0),
        _ => d.between(2.0, 4.0),
    };
    let over = 60.0 * minutes;
    let limit = |p: f64| 0.003 * p / over;
    let (r, loss) = other_hold(law, seed, minutes, every, times, limit);
    let found = judge_hold(&r);
    let limit = found.limit.rate();
    let l = found.loss;
    Case {
        times: loss / limit,
        covered: l.is_some_and(|l| l.low <= loss && loss <= l.high),
        half: l.map_or(f64::NAN, |l| 0.5 * (l.high - l.low) / limit),
        off: l.map_or(f64::NAN, |l| (l.value - loss) / ((l.high - l.low) / 3.92)),
        found,
    }
}

fn main() {
    let mut args = std::env::args().skip(1).filter_map(|a| a.parse().ok());
    let (n, first) = (args.next().unwrap_or(200), args.next().unwrap_or(1));
    println!(
        "| law | hold, min | covered | error / sd | half width / limit | *holds* on tight | *falls* on tight | \
         *holds* on 1 to 2 times the limit | *holds* on more | *falls* on more |"
    );
    println!("|---|---|---|---|---|---|---|---|---|---|");
    for law in LAWS {
        for (minutes, every) in HOLDS {
            let cases = on_two_cores(first, n, |seed| run(law, minutes, every, seed));
            let share = |of: &dyn Fn(&Case) -> bool, is: HoldOutcome| {
                let all: Vec<&Case> = cases.iter().filter(|c| of(c)).collect();
                let so = all.iter().filter(|c| c.found.outcome == is).count();
                format!("{so} of {}", all.len())
            };
            let judged: Vec<&Case> = cases.iter().filter(|c| c.half.is_finite()).collect();
            let covered = judged.iter().filter(|c| c.covered).count();
            let mut halves: Vec<f64> = judged.iter().map(|c| c.half).collect();
            halves.sort_by(f64::total_cmp);
            let (tight, some, more) = (
                |c: &Case| c.times == 0.0,
                |c: &Case| c.times > 0.0 && c.times < 2.0,
                |c: &Case| c.times >= 2.0,
            );
            let many = judged.len().max(1) as f64;
            let bias = judged.iter().map(|c| c.off).sum::<f64>() / many;
            let spread = judged.iter().map(|c| (c.off - bias).powi(2)).sum::<f64>() / many;
            println!(
                "| {law:?} | {minutes} | {:.1} % of {} | {bias:.2} ± {:.2} | {:.2} | {} | {} | {} | {} | {} |",
                100.0 * covered as f64 / many,
                judged.len(),
                spread.sqrt(),
                halves.get(halves.len() / 2).copied().unwrap_or(f64::NAN),
                share(&tight, HoldOutcome::Holds),
                share(&tight, HoldOutcome::Falls),
                share(&some, HoldOutcome::Holds),
                share(&more, HoldOutcome::Holds),
                share(&more, HoldOutcome::Falls),
            );
        }
    }
}
