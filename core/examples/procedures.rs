//! Holds as they are done, cell by cell: how often the interval covers the truth, how often a tight one is called, and
//! how often a verdict is wrong.
//! `cargo run --release -p ruhe-core --example procedures -- [N [FIRST SEED [CELL]]]`
#![allow(clippy::print_stdout, clippy::unwrap_used)]

use ruhe_core::hold::{self, Foreseen, HoldFinding, HoldOutcome, Volume, judge_hold, reach};
use ruhe_core::reading::{Event, EventKind, Placement, Recording, Sky};
use ruhe_core::reason::Reason;
use ruhe_sim::{HoldTruth, PSI, Weather};
use std::time::Instant;

#[path = "../tests/all/plants/mod.rs"]
mod plants;
use plants::{Draw, Missing, any_truth, hold, on_two_cores};

/// A procedure: minutes to settle, minutes to hold, seconds between readings.
struct Procedure(&'static str, f64, f64, f64);

const PROCEDURES: &[Procedure] = &[
    Procedure("10+10", 10.0, 10.0, 1.0),
    Procedure("10+20", 10.0, 20.0, 1.0),
    Procedure("10+30", 10.0, 30.0, 1.0),
    Procedure("15 after repair", 0.0, 15.0, 5.0),
    Procedure("60 min", 0.0, 60.0, 5.0),
    Procedure("24 h", 0.0, 1_440.0, 60.0),
];

struct Cell {
    name: String,
    procedure: &'static Procedure,
    weather: Drawn,
    digit: f64,
    /// How the probe really sits, and what was told.
    sits: Option<Placement>,
    told: Option<Placement>,
    sky: Option<Sky>,
    before: fn(&mut HoldTruth),
    after: fn(Recording, &mut Draw) -> Recording,
}

fn steady(_: &mut Draw) -> Weather {
    Weather::Steady
}
fn ramp(d: &mut Draw) -> Weather {
    Weather::Ramp(d.between(-3.0, 3.0))
}
fn cloud(_: &mut Draw) -> Weather {
    Weather::Cloud(3.0)
}
fn sun(_: &mut Draw) -> Weather {
    Weather::Cloud(6.0)
}
fn day(d: &mut Draw) -> Weather {
    Weather::DayNight(6.0, d.uniform())
}

type Broken = fn(Recording, &mut Draw) -> Recording;

/// Ways in which the probe's readings are missing.
const BROKEN: &[(&str, Broken)] = &[
    ("a third of the probe's readings gone", |r, d| {
        Missing::Gap.from(&r, 1, d)
    }),
    ("probe read at the ends only", |r, d| {
        Missing::AllButEnds.from(&r, 1, d)
    }),
    ("probe dies in the second half", |r, d| {
        let end = r.readings.last().map_or(0.0, |x| x.at_s) * d.between(0.5, 1.0);
        let mut r = r;
        r.readings.retain(|x| x.channel != 1 || x.at_s <= end);
        r
    }),
    ("probe read every 10 min", |mut r, _| {
        r.readings
            .retain(|x| x.channel != 1 || x.at_s % 600.0 == 0.0);
        r
    }),
];

/// The sky that is told with the probe.
fn sky_of(weather: Drawn) -> Option<Sky> {
    match weather(&mut Draw(1)) {
        Weather::Steady => Some(Sky::Overcast),
        Weather::Cloud(_) => Some(Sky::SunCloud),
        _ => None,
    }
}

type Sits = Option<Placement>;
/// Weather, drawn.
type Drawn = fn(&mut Draw) -> Weather;
const STRAPPED: Sits = Some(Placement::Strapped);
const CLAMPED: Sits = Some(Placement::Clamped);
const IN_THE_AIR: Sits = Some(Placement::Air);
const INFRARED: Sits = Some(Placement::Infrared);

/// Name, procedure, weather, digit of the gauge in psi, how the probe sits, and what is told of it.
type Row = (&'static str, &'static str, Drawn, f64, Sits, Sits);

/// Done in each of the three: ten minutes to settle, then ten, twenty or thirty.
const TENS: [Row; 7] = [
    ("steady, clamped, not told", "", steady, 0.1, CLAMPED, None),
    ("steady, clamped", "", steady, 0.1, CLAMPED, CLAMPED),
    ("ramp, clamped", "", ramp, 0.1, CLAMPED, CLAMPED),
    ("cloud 3 K, clamped", "", cloud, 0.1, CLAMPED, CLAMPED),
    ("cloud 3 K, strapped", "", cloud, 0.1, STRAPPED, STRAPPED),
    ("cloud 6 K, clamped", "", sun, 0.1, CLAMPED, CLAMPED),
    ("cloud 6 K, strapped", "", sun, 0.1, STRAPPED, STRAPPED),
];
const OTHERS: [Row; 16] = [
    (
        "cloud 3 K, clamped, not told",
        "10+20",
        cloud,
        0.1,
        CLAMPED,
        None,
    ),
    (
        "cloud 3 K, strapped, not told",
        "10+20",
        cloud,
        0.1,
        STRAPPED,
        None,
    ),
    (
        "cloud 6 K, in the air, not told",
        "10+20",
        sun,
        0.1,
        IN_THE_AIR,
        None,
    ),
    (
        "cloud 6 K, in the air, told strapped",
        "10+20",
        sun,
        0.1,
        IN_THE_AIR,
        STRAPPED,
    ),
    (
        "ramp, in the air",
        "60 min",
        ramp,
        0.1,
        IN_THE_AIR,
        IN_THE_AIR,
    ),
    (
        "ramp, in the air, not told",
        "60 min",
        ramp,
        0.1,
        IN_THE_AIR,
        None,
    ),
    (
        "ramp, in the air, told strapped",
        "60 min",
        ramp,
        0.1,
        IN_THE_AIR,
        STRAPPED,
    ),
    ("steady, digit 0.5", "10+20", steady, 0.5, CLAMPED, CLAMPED),
    ("steady, digit 1", "10+20", steady, 1.0, CLAMPED, CLAMPED),
    ("steady, dial of 5", "60 min", steady, 5.0, CLAMPED, CLAMPED),
    ("steady", "15 after repair", steady, 0.1, CLAMPED, CLAMPED),
    ("ramp", "15 after repair", ramp, 0.1, CLAMPED, CLAMPED),
    ("ramp, anyhow, not told", "60 min", ramp, 0.1, None, None),
    (
        "cloud 6 K, anyhow, not told",
        "60 min",
        sun,
        0.1,
        None,
        None,
    ),
    (
        "day and night, anyhow, not told",
        "24 h",
        day,
        0.1,
        None,
        None,
    ),
    ("day and night, digit 1", "24 h", day, 1.0, CLAMPED, CLAMPED),
];
/// Where the probe's readings are broken.
const BROKEN_IN: [(&str, Drawn); 2] = [("10+20", ramp), ("60 min", sun)];

fn cell((name, p, weather, digit, sits, told): Row) -> Cell {
    Cell {
        name: format!("{p}, {name}"),
        procedure: PROCEDURES.iter().find(|x| x.0 == p).unwrap(),
        weather,
        digit,
        sits,
        told,
        sky: told.and(sky_of(weather)),
        before: |_| {},
        after: |r, _| r,
    }
}

fn cells() -> Vec<Cell> {
    let tens = ["10+10", "10+20", "10+30"]
        .into_iter()
        .flat_map(|p| TENS.map(|row| cell((row.0, p, row.2, row.3, row.4, row.5))));
    let broken = BROKEN_IN.into_iter().flat_map(|(p, weather)| {
        let of = move |name| cell((name, p, weather, 0.1, CLAMPED, CLAMPED));
        let coarse = Cell {
            before: |t| t.probes[0].gauge.digit = 1.0 / 1.8,
            ..of("probe of 1 °F")
        };
        BROKEN
            .iter()
            .map(move |&(name, after)| Cell { after, ..of(name) })
            .chain([coarse])
    });
    let infrared = Cell {
        before: |t| t.probes[0].gauge.fast = 1.0,
        after: |r, d| Missing::AllButEnds.from(&r, 1, d),
        ..cell((
            "infrared at the ends",
            "60 min",
            ramp,
            0.1,
            INFRARED,
            INFRARED,
        ))
    };
    let sun_on_it = Cell {
        before: |t| {
            t.gauge.per_kelvin = 0.16 * PSI;
            t.gauge.sun = 12.0;
        },
        after: |mut r, _| {
            r.events.push(Event {
                at_s: 0.0,
                kind: EventKind::Sun,
                note: String::new(),
            });
            r
        },
        ..cell((
            "sun on the gauge, said",
            "10+30",
            steady,
            0.1,
            CLAMPED,
            CLAMPED,
        ))
    };
    tens.chain(OTHERS.map(cell))
        .chain([sun_on_it])
        .chain(broken)
        .chain([infrared])
        .collect()
}

/// How gas and probe belong together when it sits so.
fn sit(t: &mut HoldTruth, d: &mut Draw, placement: Option<Placement>) {
    let (sd, longest) = match placement {
        Some(Placement::Strapped) => (0.05, 300.0),
        Some(Placement::Clamped) => (0.10, 1_200.0),
        Some(Placement::Air) => (0.20, 3_600.0),
        Some(Placement::Infrared) => (0.25, 1_200.0),
        None => (0.15, 1_200.0),
    };
    t.gain = 1.0 + sd * d.normal();
    t.lag = d.between(0.0, longest);
}

/// What became of one case.
struct Case {
    is_tight: bool,
    is_large: bool,
    covered: Option<bool>,
    /// Error of the loss in standard deviations as told.
    off: f64,
    half: f64,
    /// Half width as it is foretold before the hold, as a ratio of what came out.
    foretold: f64,
    found: HoldFinding,
    ms: f64,
}

/// The half width that is foretold before such a hold, Pa/s.
fn before(cell: &Cell, truth: &HoldTruth, every: f64) -> Option<f64> {
    let sky = match truth.weather {
        Weather::Steady => hold::Sky::Steady,
        Weather::Ramp(k) => hold::Sky::Ramp(k),
        Weather::Cloud(k) => hold::Sky::Cloud(k),
        Weather::DayNight(k, _) => hold::Sky::Day(k, 12.0),
    };
    let plan = Foreseen {
        pressure: truth.start_gauge + ruhe_sim::ATMOSPHERE,
        air: ruhe_sim::ATMOSPHERE,
        k: 294.0,
        digit: cell.digit * PSI,
        range: 800.0 * PSI,
        probes: 1,
        probe: cell.told,
        every_s: every,
        has_barometer: false,
        sky,
    };
    let five = Volume {
        low: 5.0,
        high: 5.0,
        is_measured: true,
    };
    Some(reach(&plan, truth.duration, five, None)?.rate)
}

fn run(cell: &Cell, seed: u64) -> Case {
    let mut d = Draw(seed.wrapping_mul(0x9e37_79b9).wrapping_add(77));
    let Procedure(_, settle, minutes, every) = *cell.procedure;
    let duration = (settle + minutes) * 60.0;
    let mut truth = any_truth(&mut d, duration, seed);
    sit(&mut truth, &mut d, cell.sits);
    truth.weather = (cell.weather)(&mut d);
    truth.gauge.digit = cell.digit * PSI;
    let limit = 0.003 * (truth.start_gauge + ruhe_sim::ATMOSPHERE) / (minutes * 60.0);
    let times = match seed % 4 {
        0 | 1 => 0.0,
        2 => d.between(0.3, 2.0),
        _ => d.between(2.0, 4.0),
    };
    truth.loss = times * limit;
    (cell.before)(&mut truth);
    let mut r = hold(&truth, every);
    r.settings.planned_s = Some(minutes * 60.0);
    r.settings.probe = cell.told;
    r.settings.sky = cell.sky;
    let r = (cell.after)(r, &mut d);
    let began = Instant::now();
    let found = judge_hold(&r);
    let ms = began.elapsed().as_secs_f64() * 1e3;
    // The loss told is that at the settled start, when the pressure has hardly moved.
    let share = 1.0
        - 2.0 * truth.loss * found.settled_at_s.unwrap_or(0.0)
            / (truth.start_gauge + ruhe_sim::ATMOSPHERE);
    let true_loss = truth.loss * share;
    let covered = found
        .loss
        .map(|l| l.low <= true_loss && true_loss <= l.high);
    let off = found.loss.map_or(f64::NAN, |l| {
        (l.value - true_loss) / ((l.high - l.low) / 3.92)
    });
    if std::env::var("EACH").is_ok() {
        println!("{seed} {times:.2} off {off:.2} {truth:?} {:?}", found.loss);
    }
    Case {
        is_tight: times == 0.0,
        is_large: times >= 2.0,
        covered,
        off,
        half: found
            .loss
            .map_or(f64::NAN, |l| 0.5 * (l.high - l.low) / limit),
        foretold: before(cell, &truth, every)
            .zip(found.loss)
            .map_or(f64::NAN, |(f, l)| 2.0 * f / (l.high - l.low)),
        found,
        ms,
    }
}

fn share(n: usize, of: usize) -> String {
    format!("{:.1} %", 100.0 * n as f64 / of.max(1) as f64)
}

fn row(cell: &Cell, n: u64, first: u64) -> String {
    let cases = on_two_cores(first, n, |seed| run(cell, seed));
    let of = |f: &dyn Fn(&Case) -> bool| cases.iter().filter(|c| f(c)).count();
    let is = |c: &Case, o: HoldOutcome| c.found.outcome == o;
    let (tight, large) = (of(&|c| c.is_tight), of(&|c| c.is_large));
    let mut halves: Vec<f64> = cases
        .iter()
        .map(|c| c.half)
        .filter(|h| h.is_finite())
        .collect();
    halves.sort_by(f64::total_cmp);
    let mut foretold: Vec<f64> = cases
        .iter()
        .map(|c| c.foretold)
        .filter(|h| h.is_finite())
        .collect();
    foretold.sort_by(f64::total_cmp);
    let fitted = halves.len();
    let off: Vec<f64> = cases
        .iter()
        .map(|c| c.off)
        .filter(|x| x.is_finite())
        .collect();
    let bias = off.iter().sum::<f64>() / off.len() as f64;
    let spread = (off.iter().map(|x| (x - bias).powi(2)).sum::<f64>() / off.len() as f64).sqrt();
    format!(
        "| {} | {} | {} | {bias:.2} ± {spread:.2} | {:.2} | {:.2} | {} | {} | {} | {} | {} | {:.0} |",
        cell.name,
        fitted,
        share(of(&|c| c.covered == Some(true)), fitted),
        halves.get(fitted / 2).copied().unwrap_or(f64::NAN),
        foretold
            .get(foretold.len() / 2)
            .copied()
            .unwrap_or(f64::NAN),
        share(of(&|c| c.is_tight && is(c, HoldOutcome::Holds)), tight),
        share(of(&|c| c.is_tight && is(c, HoldOutcome::Falls)), tight),
        share(
            of(&|c| c.is_tight && c.found.reasons.contains(&Reason::Gained)),
            tight
        ),
        share(of(&|c| c.is_large && is(c, HoldOutcome::Holds)), large),
        share(of(&|c| c.is_large && is(c, HoldOutcome::Falls)), large),
        cases.iter().map(|c| c.ms).sum::<f64>() / cases.len() as f64,
    )
}

fn main() {
    let mut args = std::env::args().skip(1);
    let n: u64 = args.next().and_then(|a| a.parse().ok()).unwrap_or(200);
    // Seeds before 900 000 were looked at while the method was tuned; begin there for unseen ones.
    let first: u64 = args.next().and_then(|a| a.parse().ok()).unwrap_or(900_000);
    let only = args.next();
    println!(
        "| cell | n | covered | error / sd | half width / limit | foretold / shown | *holds* on tight | *falls* \
         on tight | *gained* on tight | *holds* on twice the limit | *falls* on twice | ms |"
    );
    println!("|---|---|---|---|---|---|---|---|---|---|---|---|");
    for cell in cells()
        .iter()
        .filter(|c| only.as_ref().is_none_or(|o| c.name.contains(o.as_str())))
    {
        println!("{}", row(cell, n, first));
    }
}
