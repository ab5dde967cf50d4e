//! Looking often must not raise false *holds*: a hold at 1.2 times the limit, judged after every minute as it is
//! watched. `cargo run --release -p ruhe-core --example watched -- [N [FIRST SEED]]`
#![allow(clippy::print_stdout, clippy::unwrap_used)]

use ruhe_core::hold::{HoldOutcome, judge_hold};
use ruhe_core::reading::{Placement, Recording};
use ruhe_sim::Weather;

#[path = "../tests/all/plants/mod.rs"]
mod plants;
use plants::{Draw, any_truth, hold, on_two_cores};

const MINUTES: f64 = 40.0;
/// Loss against the limit.
const TIMES: f64 = 1.2;

/// How many of the looks said *holds*, and whether the last one did.
fn looks(weather: Weather, seed: u64) -> (usize, bool) {
    let mut d = Draw(seed.wrapping_mul(0x9e37_79b9).wrapping_add(77));
    let mut truth = any_truth(&mut d, MINUTES * 60.0, seed);
    truth.gain = 1.0 + 0.10 * d.normal();
    truth.lag = d.between(0.0, 1_200.0);
    truth.weather = weather;
    let planned = (MINUTES - 10.0) * 60.0;
    let limit = 0.003 * (truth.start_gauge + ruhe_sim::ATMOSPHERE) / planned;
    truth.loss = TIMES * limit;
    let mut whole = hold(&truth, 2.0);
    whole.settings.planned_s = Some(planned);
    whole.settings.probe = Some(Placement::Clamped);
    let said = |minute: u32| {
        let until = 60.0 * f64::from(minute);
        let mut r: Recording = whole.clone();
        r.readings.retain(|x| x.at_s <= until);
        judge_hold(&r).outcome == HoldOutcome::Holds
    };
    let all: Vec<bool> = (10..=MINUTES as u32).map(said).collect();
    (all.iter().filter(|h| **h).count(), all[all.len() - 1])
}

fn main() {
    let mut args = std::env::args().skip(1).filter_map(|a| a.parse().ok());
    let n: u64 = args.next().unwrap_or(100);
    let first: u64 = args.next().unwrap_or(900_000);
    println!(
        "| weather | holds watched for 40 min | with a *holds* at any look | at the last look |"
    );
    println!("|---|---|---|---|");
    for (name, weather) in [
        ("steady", Weather::Steady),
        ("ramp 2 K/h", Weather::Ramp(2.0)),
        ("cloud 3 K", Weather::Cloud(3.0)),
    ] {
        let all = on_two_cores(first, n, |seed| looks(weather, seed));
        let any = all.iter().filter(|l| l.0 > 0).count();
        let last = all.iter().filter(|l| l.1).count();
        println!("| {name} | {n} | {any} | {last} |");
    }
}
