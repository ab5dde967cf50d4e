//! Simulates decays of every shape and prints how often the explanation is right.
//! `cargo run --release -p ruhe-core --example decays -- [N]`
#![allow(clippy::print_stdout)]

use ruhe_core::quantity::{Unit, Units};
use ruhe_core::reading::*;
use ruhe_core::vacuum::judge_decay;
use ruhe_sim::{MICRON, VacuumPlant, VacuumTruth};

fn main() {
    let n: u64 = std::env::args().nth(1).and_then(|a| a.parse().ok()).unwrap_or(100);
    println!("| truth | mean probability of a leak | called leak (> 50 %) | sure and wrong (> 95 %) | undecided between (5–95 %) | ms |");
    println!("|---|---|---|---|---|---|");
    for (k, name) in ["still", "leak", "moisture", "outgassing, short pull", "outgassing, long pull", "leak and moisture", "leak and outgassing"].iter().enumerate() {
        let (mut mean, mut called, mut wrong, mut between, mut ms) = (0.0, 0, 0, 0, 0.0);
        for i in 0..n {
            let mut seed = i * 9_176 + k as u64 * 77_003 + 11;
            let mut draw = |a: f64, b: f64| {
                // SplitMix64: neighbouring seeds give unrelated draws.
                seed = seed.wrapping_add(0x9e37_79b9_7f4a_7c15);
                let mut z = (seed ^ (seed >> 30)).wrapping_mul(0xbf58_476d_1ce4_e5b9);
                z = (z ^ (z >> 27)).wrapping_mul(0x94d0_49bb_1331_11eb);
                a + (b - a) * (((z ^ (z >> 31)) >> 11) as f64 / (1u64 << 53) as f64)
            };
            for _ in 0..3 {
                draw(0.0, 1.0);
            }
            let minutes = draw(10.0, 40.0);
            let mut t = VacuumTruth::dry(draw(100.0, 400.0), i + 1_000 * k as u64);
            t.wander = draw(0.001, 0.002);
            t.fast = draw(0.002, 0.01);
            t.evacuated = 60.0 * draw(10.0, 150.0);
            t.uneven = draw(-0.15, 0.15) * t.start;
            t.uneven_time = draw(8.0, 60.0);
            let leak = MICRON / 60.0 * draw(0.7, 4.0).exp();
            let water = MICRON * draw(4.0, 7.0).exp();
            t.moisture_time = draw(5.0, 8.0).exp();
            match k {
                1 => t.leak = leak,
                2 => t.moisture = water,
                3 => {
                    t.evacuated = draw(300.0, 900.0);
                    t.outgas = draw(2.0, 20.0) * MICRON
                }
                4 => {
                    t.evacuated = draw(3600.0, 9000.0);
                    t.outgas = draw(2.0, 20.0) * MICRON
                }
                5 => {
                    t.leak = leak;
                    t.moisture = water
                }
                6 => {
                    t.leak = leak;
                    t.outgas = draw(2.0, 20.0) * MICRON
                }
                _ => {}
            }
            let evacuated = t.evacuated;
            let mut plant = VacuumPlant::new(t);
            let mut settings = Settings::new(Kind::VacuumDecay);
            settings.evacuated_s = Some(evacuated);
            let readings = (0..=(minutes * 60.0 / 2.0) as u32)
                .map(|j| plant.show(f64::from(j) * 2.0))
                .map(|s| Reading { at_s: s.at_s, channel: 0, value: s.value / MICRON })
                .collect();
            let rec = Recording {
                settings,
                channels: vec![Channel { resolution: Some(1.0), ..Channel::new("V", Quantity::AbsolutePressure, Unit::Micron) }],
                readings,
                events: vec![],
                start_ms: None,
                duplicates: 0,
                remarks: vec![],
            };
            let started = std::time::Instant::now();
            let v = judge_decay(&rec, Units::default());
            ms += started.elapsed().as_secs_f64() * 1e3;
            let p = v.leak_probability.unwrap_or(0.5);
            let truth = matches!(k, 1 | 5 | 6);
            mean += p;
            called += u64::from(p > 0.5);
            wrong += u64::from((p > 0.95 && !truth) || (p < 0.05 && truth));
            between += u64::from((0.05..=0.95).contains(&p));
        }
        let pct = |x: u64| 100.0 * x as f64 / n as f64;
        println!("| {name} | {:.2} | {:.0} % | {:.1} % | {:.0} % | {:.0} |", mean / n as f64, pct(called), pct(wrong), pct(between), ms / n as f64);
    }
}
