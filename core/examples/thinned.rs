//! Takes readings away from simulated holds, leak-bys and decays and prints what the judges make of the rest.
//! `cargo run --release -p ruhe-core --example thinned -- [N [FIRST SEED [holds|leak-bys|decays]]]`
#![allow(clippy::print_stdout, clippy::unwrap_used)]

#[path = "../tests/all/plants/mod.rs"]
mod plants;

use plants::{Draw, Missing, RULE, any_truth, any_weather, decay, halves, hold, second_probe};
use ruhe_core::hold::{HoldOutcome, LeakByOutcome, judge_hold, judge_leak_by};
use ruhe_core::reading::HoldLimit;
use ruhe_core::vacuum::{DecayOutcome, judge_decay};
use ruhe_sim::DrawnDecay;

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
    let only = args.next();
    let is_asked = |part: &str| only.as_deref().is_none_or(|o| o == part);
    if is_asked("holds") {
        holds(n, first);
    }
    if is_asked("leak-bys") {
        leak_bys(n, first);
    }
    if is_asked("decays") {
        decays(n, first);
    }
}

fn holds(n: u64, first: u64) {
    println!(
        "| taken away | from | judged | covered | half width / limit | undecided (tight) | *falls* on tight | \
         *holds* on twice the limit |"
    );
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
                share(y.undecided, y.tight),
                share(y.falls, y.tight),
                share(y.holds, y.leaky),
            );
        }
    }
}

fn share(a: u32, of: u32) -> f64 {
    100.0 * f64::from(a) / f64::from(of.max(1))
}

/// Leak-bys of 10 to 40 min: tight, through the valve, outside, or both, 5 to 20 psi.
fn leak_bys(n: u64, first: u64) {
    println!(
        "\n| taken away | from | judged | outside covered | *outside* where none is | *lets by* where it does \
         not | undecided where something leaks |"
    );
    println!("|---|---|---|---|---|---|---|");
    for (what, name) in [(2, "the probe"), (0, "half A"), (1, "half B")] {
        for missing in Missing::EACH {
            let (
                mut judged,
                mut covered,
                mut out_false,
                mut tight,
                mut by_false,
                mut shut,
                mut open,
                mut leaks,
            ) = (0, 0, 0, 0, 0, 0, 0, 0);
            for i in first..first + n {
                let mut d = Draw(0x1eab_0000 + i * 7_919);
                let duration = d.between(600.0, 2_400.0);
                let mut truth = any_truth(&mut d, duration, i * 37 + 3);
                (truth.fill_k, truth.weather) = (0.3 * d.uniform(), any_weather(&mut d));
                let amount = |d: &mut Draw| d.between(5.0, 20.0) * ruhe_sim::PSI / duration;
                let (through, out) = (
                    if i % 2 == 0 { amount(&mut d) } else { 0.0 },
                    if i % 4 < 2 { amount(&mut d) } else { 0.0 },
                );
                truth.loss = through + out;
                let r = missing.from(&halves(&truth, through, 10.0, &mut d), what, &mut d);
                let v = judge_leak_by(&r);
                let says_out = matches!(v.outcome, LeakByOutcome::Outside | LeakByOutcome::Both);
                let says_by = matches!(v.outcome, LeakByOutcome::LeakBy | LeakByOutcome::Both);
                (tight, shut) = (
                    tight + u32::from(out == 0.0),
                    shut + u32::from(through == 0.0),
                );
                out_false += u32::from(out == 0.0 && says_out);
                by_false += u32::from(through == 0.0 && says_by);
                leaks += u32::from(truth.loss > 0.0);
                open += u32::from(truth.loss > 0.0 && v.outcome == LeakByOutcome::Undecided);
                if let Some((o, &(t, ..))) = v.outside.zip(v.trace.last()) {
                    let seen = 0.9 * (t - v.trace[0].0);
                    judged += 1;
                    covered += u32::from(o.low <= out * seen && out * seen <= o.high);
                }
            }
            println!(
                "| {missing:?} | {name} | {judged} | {:.1} % | {:.1} % | {:.1} % | {:.0} % |",
                share(covered, judged),
                share(out_false, tight),
                share(by_false, shut),
                share(open, leaks)
            );
        }
    }
}

/// Decays from the prior: what the whole record says, and what the rest of it says.
fn decays(n: u64, first: u64) {
    println!(
        "\n| taken away | passes | fails | undecided | *passes* where the whole fails | *fails* where the whole \
         passes |"
    );
    println!("|---|---|---|---|---|---|");
    let prior: serde_json::Value =
        serde_json::from_str(include_str!("../src/vacuum/prior.json")).unwrap();
    let mut rows = Missing::EACH.map(|missing| (missing, [0; 5]));
    for i in first..first + n {
        let mut d = Draw(0xdeca_0000 + i * 7_919);
        let (level, at_s) = (RULE.0 * ruhe_sim::MICRON, RULE.1);
        let whole = decay(&DrawnDecay::draw(&prior, i, level, at_s).unwrap());
        let truth = judge_decay(&whole).outcome;
        for (missing, counts) in &mut rows {
            let rest = missing.from(&whole, 0, &mut d);
            let said = judge_decay(&rest).outcome;
            let is = [
                said == DecayOutcome::Passes,
                said == DecayOutcome::Fails,
                said == DecayOutcome::Undecided,
                said == DecayOutcome::Passes && truth == DecayOutcome::Fails,
                said == DecayOutcome::Fails && truth == DecayOutcome::Passes,
            ];
            for (count, is) in counts.iter_mut().zip(is) {
                *count += u32::from(is);
            }
        }
    }
    for (missing, [passes, fails, open, wrong_pass, wrong_fail]) in rows {
        println!("| {missing:?} | {passes} | {fails} | {open} | {wrong_pass} | {wrong_fail} |");
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
    let leak = if i.is_multiple_of(2) {
        0.0
    } else {
        d.between(2.0, 4.0) * limit
    };
    truth.loss = leak;
    let mut r = missing.from(&hold(&truth, 10.0), channel, &mut d);
    r.settings.hold_limit = Some(HoldLimit {
        drop_pa: limit * 3_600.0,
        over_s: 3_600.0,
    });
    let v = judge_hold(&r);
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
