//! Draws decays from the prior in `core/src/vacuum/prior.json`, judges them, and prints how often the explanation is
//! right and how well its probabilities are calibrated.
//! `cargo run --release -p ruhe-core --example decays -- [N] [FIRST_SEED] [FILE] [PRIOR] [TROUBLE]`; FILE takes one
//! JSON object a line, for the separate optimum in `reference/decay_optimum.py` (`-`: none); PRIOR is another prior
//! to draw from, which the judge does not know (`-`: its own); TROUBLE is what goes wrong: slip, stuck, step or late.
#![allow(clippy::print_stdout)]

use ruhe_core::quantity::MICRON;
use ruhe_core::reason::Reason;
use ruhe_core::vacuum::{Cause, DecayOutcome, judge_decay};
use ruhe_sim::DrawnDecay;
use serde_json::json;
use std::io::Write;

#[path = "../tests/all/plants/mod.rs"]
mod plants;
use plants::{Draw, RULE, Trouble, decay};

const LIMIT: f64 = RULE.0;
const AT: f64 = RULE.1;

#[derive(Default, Clone)]
struct Row {
    n: u32,
    mean: f64,
    called: u32,
    right: u32,
    sure: u32,
    wrong: u32,
    quite_wrong: u32,
    between: u32,
    warned_right: u32,
    could_warn: u32,
    covered: u32,
    has_rate: u32,
    ms: f64,
}

fn main() {
    let arg = |k: usize| std::env::args().nth(k);
    let n: u64 = arg(1).and_then(|a| a.parse().ok()).unwrap_or(200);
    let first: u64 = arg(2).and_then(|a| a.parse().ok()).unwrap_or(0);
    let mut file = arg(3)
        .filter(|f| f != "-")
        .and_then(|f| std::fs::File::create(f).ok());
    let prior = arg(4).filter(|f| f != "-").map_or_else(
        || include_str!("../src/vacuum/prior.json").to_owned(),
        |f| std::fs::read_to_string(f).unwrap_or_default(),
    );
    let prior: serde_json::Value = serde_json::from_str(&prior).unwrap_or_default();
    let trouble = match arg(5).as_deref() {
        Some("slip") => Trouble::Slip,
        Some("stuck") => Trouble::Stuck,
        Some("step") => Trouble::Step,
        Some("late") => Trouble::Late,
        _ => Trouble::None,
    };
    let (mut drawn, mut told, mut false_pass) = (0, 0, 0);
    let mut rows = vec![Row::default(); Cause::ALL.len()];
    let mut bins = [(0u32, 0.0, 0u32); 10];
    for seed in first..first + n {
        let Ok(d) = DrawnDecay::draw(&prior, seed, LIMIT * MICRON, AT) else {
            continue;
        };
        let mut rec = decay(&d);
        trouble.to(&mut rec, &mut Draw(seed));
        let started = std::time::Instant::now();
        let v = judge_decay(&rec);
        let ms = started.elapsed().as_secs_f64() * 1e3;
        drawn += 1;
        told += u32::from(!v.doubts.is_empty() || v.reasons.contains(&Reason::NoShapeFits));
        let is_over = d.truly(AT) > 1.1 * LIMIT * MICRON;
        false_pass += u32::from(v.outcome == DecayOutcome::Passes && is_over);
        let (Some(matters), Some(p)) = (v.matters_pa_s, v.matters_probability) else {
            continue;
        };
        let truth = d.truth.leak >= matters;
        let row = &mut rows[Cause::ALL
            .iter()
            .position(|c| c.code() == d.cause)
            .unwrap_or(0)];
        row.n += 1;
        row.mean += p;
        row.ms += ms;
        row.called += u32::from(p > 0.5);
        let claim = if truth { p } else { 1.0 - p };
        row.right += u32::from(claim > 0.5);
        row.sure += u32::from(!(0.01..=0.99).contains(&p));
        row.wrong += u32::from(claim < 0.05);
        row.quite_wrong += u32::from(claim < 0.01);
        if claim < 0.01 {
            eprintln!(
                "wrong: seed {seed} {} p {p:.4} leak {:.3} matters {:.3}",
                d.cause,
                d.truth.leak / MICRON * 60.0,
                matters / MICRON * 60.0
            );
        }
        row.between += u32::from((0.05..=0.95).contains(&p));
        let crosses = d.truly(d.watched_s + 3600.0) > LIMIT * MICRON;
        if v.outcome != DecayOutcome::Fails {
            row.could_warn += 1;
            row.warned_right += u32::from(v.warns == crosses);
        }
        if let Some(r) = v.leak_rate {
            row.has_rate += 1;
            row.covered += u32::from((r.low..=r.high).contains(&d.truth.leak));
        }
        let bin = &mut bins[((p * 10.0) as usize).min(9)];
        *bin = (bin.0 + 1, bin.1 + p, bin.2 + u32::from(truth));
        if let Some(f) = &mut file {
            let first_v = rec.readings[0].value;
            let series: Vec<(f64, f64)> = rec
                .readings
                .iter()
                .filter(|r| r.channel == 0)
                .map(|r| (r.at_s, r.value))
                .collect();
            let line = json!({
                "seed": seed, "cause": d.cause, "first": first_v, "evacuated": d.truth.evacuated,
                    "digit": d.truth.digit / MICRON, "near": d.near_pump,
                "kelvin": d.has_probe.then_some(d.truth.kelvin), "drift": d.has_probe.then_some(d.truth.drift),
                    "matters": matters / MICRON * 60.0,
                "leak": d.truth.leak / MICRON * 60.0, "p": p,
                    "t": series.iter().map(|s| s.0).collect::<Vec<_>>(),
                    "v": series.iter().map(|s| s.1).collect::<Vec<_>>(),
            });
            let _ = writeln!(f, "{line}");
        }
    }
    println!(
        "| truth | n | mean probability of a leak that matters | called one (> 50 %) | right | sure (> 99 %) | \
         sure and wrong (> 99 %) | the same, > 95 % | between (5–95 %) | warning right | rate covered (95 %) | \
         ms |"
    );
    println!("|---|---|---|---|---|---|---|---|---|---|---|---|");
    let all = rows.iter().fold(Row::default(), |mut a, r| {
        a.n += r.n;
        a.mean += r.mean;
        a.called += r.called;
        a.right += r.right;
        a.sure += r.sure;
        a.wrong += r.wrong;
        a.quite_wrong += r.quite_wrong;
        a.between += r.between;
        a.warned_right += r.warned_right;
        a.could_warn += r.could_warn;
        a.covered += r.covered;
        a.has_rate += r.has_rate;
        a.ms += r.ms;
        a
    });
    let names: Vec<String> = Cause::ALL
        .iter()
        .map(|c| c.code().replace('_', " "))
        .chain(["all".into()])
        .collect();
    for (name, r) in names.iter().zip(rows.iter().chain([&all])) {
        let of = |x: u32, n: u32| {
            if n == 0 {
                "–".into()
            } else {
                format!("{:.1} %", 100.0 * f64::from(x) / f64::from(n))
            }
        };
        let n = f64::from(r.n.max(1));
        println!(
            "| {name} | {} | {:.2} | {} | {} | {} | {} | {} | {} | {} | {} | {:.0} |",
            r.n,
            r.mean / n,
            of(r.called, r.n),
            of(r.right, r.n),
            of(r.sure, r.n),
            of(r.quite_wrong, r.n),
            of(r.wrong, r.n),
            of(r.between, r.n),
            of(r.warned_right, r.could_warn),
            of(r.covered, r.has_rate),
            r.ms / n
        );
    }
    println!(
        "\nOf {drawn} decays {told} were asked about or fit no shape; {false_pass} passed that truly stood over \
         the limit by a tenth."
    );
    let total: f64 = bins.iter().map(|b| f64::from(b.0)).sum();
    let ece: f64 = bins
        .iter()
        .filter(|b| b.0 > 0)
        .map(|b| (b.1 - f64::from(b.2)).abs() / total)
        .sum();
    println!("\nExpected calibration error {ece:.4}; by tenths (n, mean, share true):");
    for (n, sum, yes) in bins.iter().filter(|b| b.0 > 0) {
        println!(
            "  {n:5}  {:.3}  {:.3}",
            sum / f64::from(*n),
            f64::from(*yes) / f64::from(*n)
        );
    }
}
