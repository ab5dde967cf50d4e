//! Simulates holds cell by cell and prints how often the 95 % interval covers the truth, and how the error compares
//! with the Cramér–Rao bound of a judge that knows noise and lag.
//! `cargo run --release -p ruhe-core --example coverage -- [N [FIRST SEED [CELL]]]`
#![allow(clippy::print_stdout, clippy::unwrap_used)]

use ruhe_core::hold::{HoldOutcome, KnownPlant, judge_hold, loss_bound};
use ruhe_core::reading::*;
use ruhe_sim::{HoldTruth, PSI, Weather};

#[path = "../tests/all/plants/mod.rs"]
mod plants;
use plants::{Draw, any_truth, hold, second_probe};

struct Cell {
    name: &'static str,
    minutes: f64,
    every: f64,
    change: fn(&mut HoldTruth, &mut Draw),
}

const CELLS: &[Cell] = &[
    Cell {
        name: "steady, 30 min",
        minutes: 30.0,
        every: 1.0,
        change: |_, _| {},
    },
    Cell {
        name: "ramp ±3 K/h, 45 min",
        minutes: 45.0,
        every: 1.0,
        change: |t, d| t.weather = Weather::Ramp(d.between(-3.0, 3.0)),
    },
    Cell {
        name: "cloud 6 K, 45 min",
        minutes: 45.0,
        every: 1.0,
        change: |t, _| t.weather = Weather::Cloud(6.0),
    },
    Cell {
        name: "day/night ±6 K, 24 h",
        minutes: 1440.0,
        every: 60.0,
        change: |t, d| t.weather = Weather::DayNight(6.0, d.uniform()),
    },
    Cell {
        name: "day/night ±6 K, 24 h, a 1 °F probe each half-hour",
        minutes: 1440.0,
        every: 1_800.0,
        change: |t, d| {
            t.probes[0].gauge.digit = COARSE;
            t.weather = Weather::DayNight(6.0, d.uniform())
        },
    },
    Cell {
        name: "day/night ±6 K, 24 h, a 1 °F probe each 10 min",
        minutes: 1440.0,
        every: 600.0,
        change: |t, d| {
            t.probes[0].gauge.digit = COARSE;
            t.weather = Weather::DayNight(6.0, d.uniform())
        },
    },
    Cell {
        name: "day/night, 8 h",
        minutes: 480.0,
        every: 60.0,
        change: |t, d| t.weather = Weather::DayNight(6.0, d.uniform()),
    },
    Cell {
        name: "lag 60 min, ramp, 2 h",
        minutes: 120.0,
        every: 10.0,
        change: |t, d| {
            t.lag = 3600.0;
            t.weather = Weather::Ramp(d.between(-3.0, 3.0))
        },
    },
    Cell {
        name: "lag −5 min, cloud, 1 h",
        minutes: 60.0,
        every: 5.0,
        change: |t, _| {
            t.lag = -300.0;
            t.weather = Weather::Cloud(6.0)
        },
    },
    Cell {
        name: "two probes, share ±10 %, cloud",
        minutes: 60.0,
        every: 5.0,
        change: |t, d| {
            second_probe(t, d);
            t.weather = Weather::Cloud(6.0)
        },
    },
    Cell {
        name: "wander 60 s",
        minutes: 30.0,
        every: 1.0,
        change: |t, _| {
            t.gauge.wander_time = 60.0;
            t.gauge.wander = 0.15 * PSI
        },
    },
    Cell {
        name: "wander 600 s",
        minutes: 30.0,
        every: 1.0,
        change: |t, _| {
            t.gauge.wander_time = 600.0;
            t.gauge.wander = 0.15 * PSI
        },
    },
    Cell {
        name: "gauge in the sun",
        minutes: 30.0,
        every: 1.0,
        change: |t, d| {
            t.gauge.per_kelvin = 0.16 * PSI * d.normal();
            t.gauge.sun = d.between(2.0, 15.0)
        },
    },
    Cell {
        name: "digit 0.1, no dither",
        minutes: 30.0,
        every: 5.0,
        change: |t, _| {
            t.gauge.fast = 0.0;
            t.gauge.wander = 0.02 * PSI
        },
    },
    Cell {
        name: "digit 0.5, no dither",
        minutes: 30.0,
        every: 5.0,
        change: |t, _| {
            t.gauge.digit = 0.5 * PSI;
            t.gauge.fast = 0.0;
            t.gauge.wander = 0.05 * PSI
        },
    },
    Cell {
        name: "digit 1",
        minutes: 30.0,
        every: 5.0,
        change: |t, _| t.gauge.digit = PSI,
    },
    Cell {
        name: "digit 5 (a dial)",
        minutes: 60.0,
        every: 60.0,
        change: |t, _| t.gauge.digit = 5.0 * PSI,
    },
    Cell {
        name: "read every 5 min, 1 h",
        minutes: 60.0,
        every: 300.0,
        change: |_, _| {},
    },
    Cell {
        name: "read every 60 s, 30 min",
        minutes: 30.0,
        every: 60.0,
        change: |_, _| {},
    },
    Cell {
        name: "10 min",
        minutes: 10.0,
        every: 1.0,
        change: |t, _| t.fill_k = 1.0,
    },
    Cell {
        name: "growing: 20 min",
        minutes: 20.0,
        every: 10.0,
        change: |t, d| ramp(t, d),
    },
    Cell {
        name: "growing: 40 min",
        minutes: 40.0,
        every: 10.0,
        change: |t, d| ramp(t, d),
    },
    Cell {
        name: "growing: 80 min",
        minutes: 80.0,
        every: 10.0,
        change: |t, d| ramp(t, d),
    },
    Cell {
        name: "growing: 160 min",
        minutes: 160.0,
        every: 10.0,
        change: |t, d| ramp(t, d),
    },
    Cell {
        name: "growing, two probes: 40 min",
        minutes: 40.0,
        every: 10.0,
        change: |t, d| two_ramp(t, d),
    },
    Cell {
        name: "growing, two probes: 80 min",
        minutes: 80.0,
        every: 10.0,
        change: |t, d| two_ramp(t, d),
    },
    Cell {
        name: "growing, two probes: 160 min",
        minutes: 160.0,
        every: 10.0,
        change: |t, d| two_ramp(t, d),
    },
];

/// A whole degree Fahrenheit, K.
const COARSE: f64 = 1.0 / 1.8;

fn ramp(t: &mut HoldTruth, d: &mut Draw) {
    t.weather = Weather::Ramp(d.between(-3.0, 3.0));
}

fn two_ramp(t: &mut HoldTruth, d: &mut Draw) {
    second_probe(t, d);
    ramp(t, d);
}

/// The growing cells ask one fixed question, 0.3 % of absolute pressure an hour, of ever longer holds.
fn question(cell: &Cell, truth: &HoldTruth) -> f64 {
    let over = if cell.name.starts_with("growing") {
        3_600.0
    } else {
        truth.duration
    };
    0.003 * (truth.start_gauge + ruhe_sim::ATMOSPHERE) / over
}

fn main() {
    let mut args = std::env::args().skip(1);
    let n: u64 = args.next().and_then(|a| a.parse().ok()).unwrap_or(200);
    // Seeds before 100 000 were looked at while the method was tuned; begin there for unseen ones.
    let first: u64 = args.next().and_then(|a| a.parse().ok()).unwrap_or(100_000);
    let only = args.next();
    println!(
        "| cell | n | covered | half width, psi/h | sd of error / bound | half width / (1.96 bound) | undecided \
         (tight) | *falls* on tight | *holds* on twice the limit | judged in, ms |"
    );
    println!("|---|---|---|---|---|---|---|---|---|---|");
    for (k, cell) in CELLS
        .iter()
        .enumerate()
        .filter(|(_, c)| only.as_ref().is_none_or(|o| c.name.contains(o.as_str())))
    {
        let (
            mut covered,
            mut fitted,
            mut width,
            mut square,
            mut bounded,
            mut undecided,
            mut falls,
            mut holds,
            mut tight,
            mut leaky,
            mut ms,
        ) = (0, 0, 0.0, 0.0, 0.0, 0, 0, 0, 0, 0, 0.0);
        for i in first..first + n {
            let mut d = Draw(0x9e37_79b9 + i * 7919 + k as u64 * 104_729);
            for _ in 0..4 {
                d.uniform();
            }
            let mut truth = any_truth(&mut d, cell.minutes * 60.0, i * 31 + k as u64 * 100_003 + 5);
            (cell.change)(&mut truth, &mut d);
            let limit = question(cell, &truth);
            let leak = if i % 2 == 0 {
                0.0
            } else {
                d.between(2.0, 4.0) * limit
            };
            truth.loss = leak;
            let mut rec = hold(&truth, cell.every);
            if truth.probes[0].gauge.digit == COARSE {
                rec.channels[1].resolution = Some(COARSE);
            }
            if cell.name.contains("sun") {
                rec.events.push(Event {
                    at_s: 0.0,
                    kind: EventKind::Sun,
                    note: String::new(),
                });
            }
            rec.settings.hold_limit = Some(HoldLimit {
                drop_pa: limit * 3_600.0,
                over_s: 3_600.0,
            });
            let started = std::time::Instant::now();
            let v = judge_hold(&rec);
            ms += started.elapsed().as_secs_f64() * 1e3;
            if leak == 0.0 {
                tight += 1;
                undecided += i32::from(v.outcome == HoldOutcome::Undecided);
                falls += i32::from(v.outcome == HoldOutcome::Falls);
            } else {
                leaky += 1;
                holds += i32::from(v.outcome == HoldOutcome::Holds);
            }
            // The loss is reported at the settled start, where the pressure is lower than right after filling.
            let from = rec
                .series(0)
                .at(v.settled_at_s.unwrap_or(0.0))
                .unwrap_or(truth.start_gauge);
            let drive = |p: f64| (p + ruhe_sim::ATMOSPHERE).powi(2) - ruhe_sim::ATMOSPHERE.powi(2);
            let leak = leak * drive(from) / drive(truth.start_gauge);
            if let Some(l) = v.loss {
                fitted += 1;
                covered += i32::from(l.low <= leak && leak <= l.high);
                width += 0.5 * (l.high - l.low) * 3600.0 / PSI;
                let known = KnownPlant {
                    tau: truth.gauge.wander_time,
                    wander: truth.gauge.wander,
                    fast: truth.gauge.fast.hypot(truth.gauge.digit / 12f64.sqrt()),
                    lag: truth.lag,
                    fade: truth.fill_time,
                };
                if let Some(b) = loss_bound(&rec, &known) {
                    // Root means over cases that differ widely: each is put in units of its own bound.
                    square += ((l.value - leak) / b).powi(2);
                    bounded += (0.5 * (l.high - l.low) / (1.96 * b)).min(100.0);
                }
            }
        }
        let f = f64::from(fitted).max(1.0);
        println!(
            "| {} | {fitted}/{n} | {:.1} % | {:.2} | {:.2} | {:.2} | {:.0} % | {:.1} % | {:.1} % | {:.1} |",
            cell.name,
            100.0 * f64::from(covered) / f,
            width / f,
            (square / f).sqrt(),
            bounded / f,
            100.0 * f64::from(undecided) / f64::from(tight.max(1)),
            100.0 * f64::from(falls) / f64::from(tight.max(1)),
            100.0 * f64::from(holds) / f64::from(leaky.max(1)),
            ms / n as f64
        );
    }
}
