//! Whether leak and no leak come apart when it was foretold: decays that are open after ten to twenty minutes,
//! watched on until the foretold time. `cargo run --release -p ruhe-core --example apart -- [N] [FIRST_SEED] [PRIOR]`
#![allow(clippy::print_stdout)]

use ruhe_core::quantity::MICRON;
use ruhe_core::vacuum::judge_decay;
use ruhe_sim::DrawnDecay;

#[path = "../tests/all/plants/mod.rs"]
mod plants;
use plants::{RULE, decay};

fn main() {
    let arg = |k: usize| std::env::args().nth(k);
    let n: u64 = arg(1).and_then(|a| a.parse().ok()).unwrap_or(300);
    let first: u64 = arg(2).and_then(|a| a.parse().ok()).unwrap_or(0);
    let prior = arg(3).map_or_else(
        || include_str!("../src/vacuum/prior.json").to_owned(),
        |f| std::fs::read_to_string(f).unwrap_or_default(),
    );
    let prior: serde_json::Value = serde_json::from_str(&prior).unwrap_or_default();
    let open = |p: f64| p > 0.05 && p < 0.95;
    let (mut opened, mut foretold, mut told, mut wrong, mut ahead) = (0, 0, 0, 0, Vec::new());
    for seed in first..first + n {
        let Ok(mut d) = DrawnDecay::draw(&prior, seed, RULE.0 * MICRON, RULE.1) else {
            continue;
        };
        d.watched_s = d.watched_s.min(1_200.0);
        let v = judge_decay(&decay(&d));
        if !v.leak_probability.is_some_and(open) {
            continue;
        }
        opened += 1;
        let Some(t) = v.comes_apart_s else { continue };
        foretold += 1;
        ahead.push(t - d.watched_s);
        d.watched_s = t;
        let Some(p) = judge_decay(&decay(&d)).leak_probability else {
            continue;
        };
        told += u32::from(!open(p));
        wrong += u32::from(!open(p) && (p > 0.5) != (d.truth.leak > 0.0));
    }
    ahead.sort_by(f64::total_cmp);
    let middle = ahead.get(ahead.len() / 2).copied().unwrap_or(0.0) / 60.0;
    println!(
        "Open {opened}; a time foretold in {foretold} (median {middle:.0} min ahead); told by then in {told}, \
         of these wrong {wrong}"
    );
}
