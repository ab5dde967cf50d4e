//! Decays by laws that neither the judge nor the simulator uses: how often what is said of a leak is right, how often
//! it is sure and wrong, and how well its probabilities are calibrated, with and without something else that gives gas.
//! `cargo run --release -p ruhe-core --example rises -- [N [FIRST SEED]]`
#![allow(clippy::print_stdout, clippy::unwrap_used)]

use ruhe_core::quantity::MICRON;
use ruhe_core::vacuum::judge_decay;

#[path = "../tests/all/plants/mod.rs"]
mod plants;
use plants::on_two_cores;
use plants::rises::{RISES, RiseLaw, rise};

/// What was said of one decay: the probability of a leak that matters, whether there is one, and how far off the rate
/// is.
struct Case {
    p: f64,
    is_so: bool,
    gives: bool,
    covered: Option<bool>,
}

impl Case {
    /// Belief in what is true.
    fn claim(&self) -> f64 {
        if self.is_so { self.p } else { 1.0 - self.p }
    }
}

fn run(law: RiseLaw, seed: u64) -> Option<Case> {
    let r = rise(law, seed);
    let v = judge_decay(&r.recording);
    let (matters, p) = (v.matters_pa_s?, v.matters_probability?);
    let case = Case {
        p,
        is_so: r.leak >= matters,
        gives: r.gives,
        covered: v.leak_rate.map(|l| l.low <= r.leak && r.leak <= l.high),
    };
    if case.claim() < 0.01 {
        eprintln!(
            "wrong: {law:?} {seed} p {p:.4} leak {:.2} matters {:.2} micron/min",
            60.0 * r.leak / MICRON,
            60.0 * matters / MICRON
        );
    }
    Some(case)
}

/// Brier score and expected calibration error in ten bins.
fn scores(cases: &[&Case]) -> (f64, f64) {
    let n = cases.len().max(1) as f64;
    let truth = |c: &Case| f64::from(u8::from(c.is_so));
    let brier = cases.iter().map(|c| (c.p - truth(c)).powi(2)).sum::<f64>() / n;
    let mut bins = [0.0; 10];
    for c in cases {
        bins[((10.0 * c.p) as usize).min(9)] += c.p - truth(c);
    }
    (brier, bins.iter().map(|b: &f64| b.abs()).sum::<f64>() / n)
}

fn main() {
    let mut args = std::env::args().skip(1).filter_map(|a| a.parse().ok());
    let (n, first) = (args.next().unwrap_or(400), args.next().unwrap_or(1));
    println!(
        "| law | beside it | n | leaks | right | sure (> 99 %) | sure and wrong (> 99 %) | the same, > 95 % | \
         Brier score | calibration error | rate covered |"
    );
    println!("|---|---|---|---|---|---|---|---|---|---|---|");
    for law in RISES {
        let all: Vec<Case> = on_two_cores(first, n, |seed| run(law, seed))
            .into_iter()
            .flatten()
            .collect();
        for (name, of) in [("nothing", false), ("water, rubber or oil", true)] {
            let cases: Vec<&Case> = all.iter().filter(|c| c.gives == of).collect();
            let share = |is: &dyn Fn(&Case) -> bool| {
                let so = cases.iter().filter(|c| is(c)).count();
                format!("{:.1} %", 100.0 * so as f64 / cases.len().max(1) as f64)
            };
            let count = |is: &dyn Fn(&Case) -> bool| cases.iter().filter(|c| is(c)).count();
            let (brier, off) = scores(&cases);
            println!(
                "| {law:?} | {name} | {} | {} | {} | {} | {} | {} | {brier:.3} | {off:.3} | {} |",
                cases.len(),
                count(&|c| c.is_so),
                share(&|c| c.claim() > 0.5),
                share(&|c| !(0.01..=0.99).contains(&c.p)),
                count(&|c| c.claim() < 0.01),
                count(&|c| c.claim() < 0.05),
                share(&|c| c.covered.unwrap_or(false)),
            );
        }
    }
}
