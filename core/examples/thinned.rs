//! Takes readings away from simulated holds and prints what the judge makes of the rest.
//! `cargo run --release -p ruhe-core --example thinned -- [N [FIRST SEED]]`
#![allow(clippy::print_stdout, clippy::unwrap_used)]

#[path = "../tests/plants/mod.rs"]
mod plants;

use plants::{Draw, Missing, any_truth, any_weather, hold, second_probe};
use ruhe_core::hold::{HoldOutcome, judge_hold};
use ruhe_core::quantity::Units;
use ruhe_core::reading::HoldLimit;

#[derive(Default)]
struct Tally {
    fitted: u32,
    covered: u32,
    tight: u32,
    falls: u32,
    undecided: u32,
    leaky: u32,
    holds: u32,
    width: f64,
}

fn main() {
    let mut args = std::env::args().skip(1);
    let n: u64 = args.next().and_then(|a| a.parse().ok()).unwrap_or(200);
    let first: u64 = args.next().and_then(|a| a.parse().ok()).unwrap_or(500_000);
    println!("| taken away | from | judged | covered | half width / limit | undecided (tight) | *falls* on tight | *holds* on twice the limit |");
    println!("|---|---|---|---|---|---|---|---|");
    for (what, name) in [(1, "one probe"), (2, "one of two probes"), (0, "the gauge")] {
        for missing in Missing::EACH {
            let mut y = Tally::default();
            for i in first..first + n {
                one(&mut y, i, what, missing);
            }
            let f = f64::from(y.fitted).max(1.0);
            println!(
                "| {missing:?} | {name} | {} | {:.1} % | {:.2} | {:.0} % | {:.1} % | {:.1} % |",
                y.fitted,
                100.0 * f64::from(y.covered) / f,
                y.width / f,
                100.0 * f64::from(y.undecided) / f64::from(y.tight.max(1)),
                100.0 * f64::from(y.falls) / f64::from(y.tight.max(1)),
                100.0 * f64::from(y.holds) / f64::from(y.leaky.max(1)),
            );
        }
    }
}

/// One hold of 30 to 180 min, its gauge read every 10 s; every second one leaks two to four times the limit.
fn one(y: &mut Tally, i: u64, channel: usize, missing: Missing) {
    let mut d = Draw(0x5eed_0000 + i * 7_919 + channel as u64 * 104_729);
    let duration = 1_800.0 + 9_000.0 * d.uniform().powi(2);
    let mut truth = any_truth(&mut d, duration, i * 31 + 7);
    truth.weather = any_weather(&mut d);
    if channel == 2 {
        second_probe(&mut truth, &mut d);
    }
    let limit = 0.003 * (truth.start_gauge + ruhe_sim::ATMOSPHERE) / truth.duration;
    let leak = if i % 2 == 0 { 0.0 } else { d.between(2.0, 4.0) * limit };
    truth.loss = leak;
    let mut r = missing.from(&hold(&truth, 10.0), channel, &mut d);
    r.settings.hold_limit = Some(HoldLimit { drop_pa: limit * 3_600.0, over_s: 3_600.0 });
    let v = judge_hold(&r, Units::default());
    if leak == 0.0 {
        y.tight += 1;
        y.undecided += u32::from(v.outcome == HoldOutcome::Undecided);
        y.falls += u32::from(v.outcome == HoldOutcome::Falls);
    } else {
        y.leaky += 1;
        y.holds += u32::from(v.outcome == HoldOutcome::Holds);
    }
    if let Some(l) = v.loss {
        let at = v.settled_at_s.unwrap_or(0.0);
        let drive = |p: f64| (p + ruhe_sim::ATMOSPHERE).powi(2) - ruhe_sim::ATMOSPHERE.powi(2);
        let truth_there = leak * drive(r.series(0).at(at).unwrap()) / drive(truth.start_gauge);
        y.fitted += 1;
        y.covered += u32::from(l.low <= truth_there && truth_there <= l.high);
        y.width += 0.5 * (l.high - l.low) / limit;
    }
}
