//! Draws pull-downs and prints how often the arrival lies in the forecast's 90 % band, at half the time.
//! `cargo run --release -p ruhe-core --example pulls -- [N] [FIRST_SEED]`
#![allow(clippy::print_stdout)]

use ruhe_core::quantity::MICRON;
use ruhe_core::reading::Series;
use ruhe_core::vacuum::pull::arrive;
use ruhe_sim::{PullPlant, PullTruth};

const LONGEST: f64 = 8.0 * 3600.0;

fn main() {
    let arg = |k: usize| std::env::args().nth(k).and_then(|a| a.parse::<u64>().ok());
    let (n, first) = (arg(1).unwrap_or(200), arg(2).unwrap_or(0));
    println!(
        "| target, micron | share of the time | pulls | too early | inside | too late | open-ended | without a \
         forecast | width / time left (median) |"
    );
    println!("|---|---|---|---|---|---|---|---|---|");
    for target in [500.0, 300.0, 1000.0] {
        for share in [0.5, 0.75] {
            let mut none = 0;
            let (mut early, mut inside, mut late, mut open, mut widths) = (0, 0, 0, 0, vec![]);
            let mut seed = first;
            while early + inside + late < n as usize && seed < first + 20 * n {
                seed += 1;
                let truth = PullTruth::draw(seed);
                let plant_top = truth.top;
                let every = [2.0, 5.0, 10.0, 30.0][(seed % 4) as usize];
                let mut plant = PullPlant::new(truth.clone());
                let Some(arrives) = (1..)
                    .map(|k| every * f64::from(k))
                    .take_while(|t| *t < LONGEST)
                    .find(|&t| plant.truly(t) <= target * MICRON)
                else {
                    continue;
                };
                if arrives < 240.0 {
                    continue;
                }
                let mut plant = PullPlant::new(truth);
                let shown: Vec<_> = (1..)
                    .map(|k| every * f64::from(k))
                    .take_while(|t| *t <= share * arrives)
                    .map(|t| plant.show(t))
                    .collect();
                let series = Series {
                    t: shown.iter().map(|s| s.at_s).collect(),
                    v: shown.iter().map(|s| s.value).collect(),
                };
                let Some(a) = arrive(&series, target * MICRON, Some(plant_top)) else {
                    none += 1;
                    continue;
                };
                let low = a.low.unwrap_or(f64::INFINITY);
                let high = a.high.unwrap_or(f64::INFINITY);
                match () {
                    () if arrives < low => late += 1,
                    () if arrives > high => early += 1,
                    () => inside += 1,
                }
                open += usize::from(high.is_infinite());
                if high.is_finite() {
                    widths.push((high - low) / (arrives - share * arrives));
                }
            }
            widths.sort_by(f64::total_cmp);
            let all = (early + inside + late).max(1) as f64;
            let pct = |x: usize| 100.0 * x as f64 / all;
            let width = widths.get(widths.len() / 2).copied().unwrap_or(f64::NAN);
            println!(
                "| {target} | {share} | {all} | {:.1} % | {:.1} % | {:.1} % | {:.1} % | {:.1} % | {width:.2} |",
                pct(early),
                pct(inside),
                pct(late),
                pct(open),
                100.0 * none as f64 / (all + none as f64)
            );
        }
    }
}
