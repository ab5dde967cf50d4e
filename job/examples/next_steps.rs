//! Does the order of next steps hold against the simulator? Draws a source, simulates its decay, argues, then really
//! does every action on the simulated plant and counts what its outcome told about the true source, in bits a minute.
//! `cargo run --release -p ruhe-job --example next_steps -- [N] [FIRST_SEED]`
#![allow(clippy::print_stdout, clippy::unwrap_used)]

use ruhe_core::quantity::{MICRON, Unit, Units};
use ruhe_core::reading::Behind;
use ruhe_core::reading::*;
use ruhe_core::vacuum::{DecayFinding, RigOutcome, judge_decay};
use ruhe_job::argue::{
    Action, Compared, RigFact, RiseFacts, Trend, chance, next_steps, repeats, rise, shares,
};
use ruhe_sim::{VacuumPlant, VacuumTruth};
use std::collections::BTreeMap;

/// SplitMix64: neighbouring seeds give unrelated draws.
struct Dice(u64);

impl Dice {
    fn roll(&mut self) -> f64 {
        self.0 = self.0.wrapping_add(0x9e37_79b9_7f4a_7c15);
        let mut z = self.0;
        z = (z ^ (z >> 30)).wrapping_mul(0xbf58_476d_1ce4_e5b9);
        z = (z ^ (z >> 27)).wrapping_mul(0x94d0_49bb_1331_11eb);
        ((z ^ (z >> 31)) >> 11) as f64 / (1u64 << 53) as f64
    }
    fn even(&mut self, a: f64, b: f64) -> f64 {
        a * (b / a).powf(self.roll())
    }
}

const MINUTES: f64 = 14.0;

fn decay(truth: &VacuumTruth, minutes: f64) -> DecayFinding {
    let mut plant = VacuumPlant::new(truth.clone());
    let mut settings = Settings::new(Kind::VacuumDecay);
    settings.evacuated_s = Some(truth.evacuated);
    let channel = Channel {
        resolution: Some(1.0),
        position: Some(Position::Far),
        ..Channel::new("V", Quantity::AbsolutePressure, Unit::Micron)
    };
    let readings = (0..=(minutes * 12.0) as u32)
        .map(|k| plant.show(5.0 * f64::from(k)))
        .map(|s| Reading {
            at_s: s.at_s,
            channel: 0,
            value: s.value / MICRON,
        })
        .collect();
    judge_decay(&Recording {
        settings,
        channels: vec![channel],
        readings,
        events: vec![],
        start_ms: None,
        duplicates: 0,
        remarks: vec![],
    })
}

/// A truth with this source.
fn world(source: &str, d: &mut Dice, seed: u64) -> VacuumTruth {
    let mut t = VacuumTruth {
        evacuated: d.even(1_200.0, 7_200.0),
        ..VacuumTruth::dry(d.even(150.0, 350.0), seed)
    };
    let rise = d.even(60.0, 900.0) * MICRON;
    match source {
        "joint" | "seal" | "fitted" | "charge" | "rig_leak" => {
            t.leak = d.even(4.0, 60.0) * MICRON / 60.0
        }
        "moisture" => (t.moisture, t.moisture_time) = (rise, d.even(200.0, 2_500.0)),
        "water" => {
            (t.moisture, t.moisture_time) =
                (d.even(600.0, 8_000.0) * MICRON, d.even(300.0, 2_500.0))
        }
        "oil" | "rubber" | "rig_gas" => {
            t.outgas = 0.5 * rise / ((t.evacuated + 600.0).sqrt() - t.evacuated.sqrt())
        }
        _ => {}
    }
    t
}

/// The plant after an action, and how long it was pulled again.
fn after(action: &str, source: &str, t: &VacuumTruth, d: &mut Dice) -> VacuumTruth {
    let mut n = VacuumTruth {
        seed: t.seed ^ 0x77,
        ..t.clone()
    };
    let gone = |n: &mut VacuumTruth| (n.leak, n.moisture, n.outgas) = (0.0, 0.0, 0.0);
    match action {
        "hoses_off" if source.starts_with("rig") => gone(&mut n),
        // A cap or a swapped tool stops most of such leaks.
        "caps_cores" if source == "seal" && d.roll() < 0.8 => gone(&mut n),
        "caps_cores" if source == "fitted" && d.roll() < 0.6 => gone(&mut n),
        "stem" if source == "charge" && d.roll() < 0.6 => gone(&mut n),
        "break_repeat" => {
            n.moisture *= if source == "water" { 0.7 } else { 0.35 };
            n.evacuated *= 2.0;
        }
        "warm" => {
            // Ten kelvin: vapour by 6 % a kelvin and quicker, oil gives off more, a leak does not care.
            n.moisture *= 1.8;
            n.moisture_time *= 0.6;
            n.outgas *= if source == "oil" { 1.9 } else { 1.4 };
        }
        _ => {}
    }
    n
}

fn rate(v: &DecayFinding) -> Option<Compared> {
    let (rate, window) = rise(&v.trace, v.isolated_at_s?, 600.0, MICRON)?;
    Some(Compared {
        title: "D".into(),
        rate,
        window,
        kelvin: None,
        hoses_in: false,
        after_break: true,
        pumped_s: None,
    })
}

/// The first outcome of an action, as the plant shows it.
fn outcome(
    action: &Action,
    source: &str,
    truth: &VacuumTruth,
    before: &Compared,
    d: &mut Dice,
) -> bool {
    match action.code {
        // A place that bubbles is found or not: no vacuum is involved.
        "bubbles" => d.roll() < chance("bubbles", source).unwrap(),
        "wait" => decay(truth, MINUTES + action.minutes)
            .leak_probability
            .is_some_and(|p| p > 0.5),
        _ => {
            let Some(now) = rate(&decay(&after(action.code, source, truth, d), MINUTES)) else {
                return false;
            };
            if action.code == "warm" {
                return now.rate.1 > 1.15 * before.rate.2;
            }
            repeats(&[before.clone(), now], Units::default())
                .is_some_and(|r| r.trend == Trend::Smaller)
        }
    }
}

/// Cases, their bits a minute, and the same of every action in them.
type Told = (u32, f64, BTreeMap<&'static str, (u32, f64)>);

fn main() {
    let arg = |k: usize| std::env::args().nth(k).and_then(|a| a.parse::<u64>().ok());
    let (n, first) = (arg(1).unwrap_or(300), arg(2).unwrap_or(0));
    // By action that was first: cases, its bits a minute, and those of every action in the same cases.
    let mut told: BTreeMap<&str, Told> = BTreeMap::new();
    let (mut ours, mut by_best, mut total) = (0.0, 0.0, 0u32);
    for seed in first..first + n {
        let mut d = Dice(seed.wrapping_mul(0x2545_f491_4f6c_dd1d));
        let hoses_in = d.roll() < 0.5;
        let rig = (hoses_in && d.roll() < 0.4).then(|| RigFact {
            title: "Rig check".into(),
            outcome: if d.roll() < 0.5 {
                RigOutcome::Good
            } else {
                RigOutcome::GivesGas
            },
        });
        let behind = if d.roll() < 0.4 {
            vec![(Behind::FactoryCharge, Some(1.5e6))]
        } else {
            vec![]
        };
        let blank = RiseFacts {
            causes: vec![],
            rate: (0.0, 0.0, 0.0),
            rise: 0.0,
            holds: vec![],
            changed: (d.roll() < 0.6).then(|| {
                if d.roll() < 0.5 {
                    vec![]
                } else {
                    vec!["core tool".into()]
                }
            }),
            behind,
            hoses_in,
            rig,
            has_oil: d.roll() < 0.5,
            is_flammable: false,
            litres: 5.0,
            evacuated_s: None,
            lasted_s: MINUTES * 60.0,
            comes_apart_s: None,
            near_pump: false,
            atmosphere: 101_325.0,
            trend: None,
        };
        // The source is drawn as Ruhe thinks of sources before any data: equal shapes, then its shares.
        let prior = RiseFacts {
            causes: ruhe_core::vacuum::prior_shares(),
            evacuated_s: Some(3_000.0),
            ..blank.clone()
        };
        let mut left = d.roll();
        let drawn = shares(&prior)
            .0
            .into_iter()
            .filter(|s| s.0 != "still")
            .collect::<Vec<_>>();
        let sum: f64 = drawn.iter().map(|s| s.1).sum();
        let Some(source) = drawn
            .iter()
            .find(|s| {
                left -= s.1 / sum;
                left <= 0.0
            })
            .map(|s| s.0)
        else {
            continue;
        };
        let truth = world(source, &mut d, seed);
        let v = decay(&truth, MINUTES);
        let Some(before) = rate(&v).filter(|_| !v.explanations.is_empty()) else {
            continue;
        };
        let facts = RiseFacts {
            causes: v
                .explanations
                .iter()
                .map(|e| (e.cause, e.probability))
                .collect(),
            rate: v
                .leak_rate
                .map_or((0.0, 0.0, 0.0), |l| (l.value, l.low, l.high)),
            rise: before.rate.0,
            evacuated_s: Some(truth.evacuated),
            comes_apart_s: v.comes_apart_s.filter(|t| *t > MINUTES * 60.0),
            ..blank
        };
        let (shares, _) = shares(&facts);
        let list = next_steps(&facts);
        if list.is_empty() {
            continue;
        }
        // What each action told about the true source: log2 of what its share became over what it was.
        let gains: Vec<f64> = list
            .iter()
            .map(|a| {
                let first = outcome(a, source, &truth, &before, &mut d);
                let likely = |s: &str| {
                    let c = chance(a.code, s).unwrap();
                    if first { c } else { 1.0 - c }
                };
                let all: f64 = shares.iter().map(|s| s.1 * likely(s.0)).sum();
                (likely(source) / all).log2() / a.minutes
            })
            .collect();
        total += 1;
        ours += gains[0];
        let row = told.entry(list[0].code).or_default();
        row.0 += 1;
        row.1 += gains[0];
        for (a, g) in list.iter().zip(&gains) {
            let other = row.2.entry(a.code).or_default();
            *other = (other.0 + 1, other.1 + g);
        }
    }
    println!(
        "| first by Ruhe | cases | bits per 10 min, of it | best other in the same cases | its bits per 10 min |"
    );
    println!("|---|---|---|---|---|");
    for (code, (n, sum, others)) in &told {
        let best = others
            .iter()
            .filter(|o| o.0 != code && o.1.0 * 2 >= *n)
            .map(|(c, (k, s))| (*c, 10.0 * s / f64::from(*k)))
            .max_by(|a, b| a.1.total_cmp(&b.1));
        let mine = 10.0 * sum / f64::from(*n);
        by_best += f64::from(*n) / 10.0 * best.map_or(mine, |b| b.1.max(mine));
        let (other, theirs) = best.unwrap_or(("none", 0.0));
        println!("| {code} | {n} | {mine:.3} | {other} | {theirs:.3} |");
    }
    println!(
        "\n{total} cases; by Ruhe's order {:.3} bits per 10 min, by the better of the two columns {:.3}: {:.0} %",
        10.0 * ours / f64::from(total),
        10.0 * by_best / f64::from(total),
        100.0 * ours / by_best
    );
}
