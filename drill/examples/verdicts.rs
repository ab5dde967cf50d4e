//! Every test that the cheapest way of a drill watches, judged by Ruhe over many seeds and figures up to 30 % away: how
//! often each outcome comes. `cargo run --release -p ruhe-drill --example verdicts -- [SEEDS [NUMBER]]`
#![allow(clippy::print_stdout)]

use ruhe_core::judge::{Finding, judge, say};
use ruhe_core::quantity::{MICRON, Unit, Units};
use ruhe_core::reading::*;
use ruhe_drill::{Scenario, TestKind, Walked, all, walk};
use ruhe_sim::plant::Sensor;
use std::collections::BTreeMap;

fn gauge(name: &str, position: Option<Position>) -> Channel {
    Channel {
        resolution: Some(0.1 * ruhe_sim::PSI),
        range: Some(800.0 * ruhe_sim::PSI),
        position,
        ..Channel::new(name, Quantity::GaugePressure, Unit::Pa)
    }
}

fn probe() -> Channel {
    Channel {
        volume_share: Some(1.0),
        ..Channel::new("T", Quantity::Temperature, Unit::K)
    }
}

/// What was watched, as a test's recording.
fn recording(
    w: &Walked,
    s: &Scenario,
    (test, from, to): (TestKind, f64, f64),
) -> Option<Recording> {
    let (kind, sensors, channels) = match test {
        TestKind::Hold => (
            Kind::PressureHold,
            vec![Sensor::Pressure, Sensor::Probe],
            vec![gauge("P", None), probe()],
        ),
        TestKind::LeakBy => (
            Kind::LeakBy,
            vec![Sensor::Pressure, Sensor::SecondPressure, Sensor::Probe],
            vec![
                gauge("A", Some(Position::HalfA)),
                gauge("B", Some(Position::HalfB)),
                probe(),
            ],
        ),
        TestKind::Decay | TestKind::Pull => {
            let position = if s.truth.gauge_near {
                Position::NearPump
            } else {
                Position::Far
            };
            let channel = Channel {
                resolution: Some(MICRON),
                position: Some(position),
                ..Channel::new("V", Quantity::AbsolutePressure, Unit::Pa)
            };
            let kind = if test == TestKind::Decay {
                Kind::VacuumDecay
            } else {
                Kind::PullDown
            };
            (kind, vec![Sensor::Vacuum], vec![channel])
        }
        TestKind::None => return None,
    };
    let mut readings = vec![];
    for seen in w
        .session
        .plant()
        .history()
        .iter()
        .filter(|x| x.at_s >= from && x.at_s <= to)
    {
        if to - from > 4.0 * 3_600.0 && seen.at_s % 60.0 > 0.5 {
            continue;
        }
        for (channel, sensor) in sensors.iter().enumerate() {
            if let Some(value) = seen
                .faces
                .iter()
                .find(|f| f.sensor == *sensor)
                .and_then(|f| f.value)
            {
                readings.push(Reading {
                    at_s: seen.at_s - from,
                    channel,
                    value,
                });
            }
        }
    }
    let mut settings = Settings::new(kind);
    settings.refrigerant = Some(s.sheet.refrigerant.clone());
    settings.volume_l = Some(s.sheet.volume * 1e3);
    settings.test_pa = s.sheet.test_pa;
    let [hoses, near, far] = s.truth.volumes;
    settings.volume_ratio = Some(far / (hoses + near));
    let mut events = vec![];
    if kind == Kind::VacuumDecay {
        settings.evacuated_s = Some(3_600.0);
        settings.decay_limit = Some(DecayLimit {
            level_pa: 500.0 * MICRON,
            at_s: 600.0,
            start_max_pa: None,
            rise: None,
        });
        events.push(Event {
            at_s: 0.0,
            kind: EventKind::Isolated,
            note: String::new(),
        });
    }
    if kind == Kind::PullDown {
        settings.stages = vec![PullStage {
            target_pa: 500.0 * MICRON,
            break_pa: None,
            dwell_s: 0.0,
        }];
    }
    Some(Recording {
        settings,
        channels,
        readings,
        events,
        start_ms: None,
        duplicates: 0,
        remarks: vec![],
    })
}

/// What the truth asks of a watched test: outcomes that are right, by drill and place on the way. What is decided
/// otherwise is wrong.
fn right(number: u32, watch: usize) -> &'static [&'static str] {
    match (number, watch) {
        (2, 0) | (5 | 18 | 19, _) => &["falls"],
        (1 | 2 | 6 | 7 | 8 | 20, _) => &["holds"],
        (3, 0) => &["leak_by"],
        (4, 0) => &["Gained: check"],
        (9, 0) => &["stalled", "pulling"],
        (10, 0) => &["reached"],
        (11, 0) => &["fails"],
        // The rule's word is one thing; that a leak is not excluded is the other.
        (12, 0) | (14, 0 | 1) => &["fails", "passes, a leak not excluded"],
        (13 | 21, _) => &["fails", "passes"],
        (9..=17, _) => &["passes"],
        _ => &[],
    }
}

/// The outcome, and whether a decay that passes still allows for a leak.
fn outcome(f: &Finding, has_leak: bool) -> String {
    let json = serde_json::to_value(f).unwrap_or_default();
    let word = json["outcome"].as_str().unwrap_or("?").to_owned();
    // A hold that gains is open by its outcome, and says so by its word.
    if word == "undecided" {
        let said = say(f, Units::default()).word;
        return if said.starts_with("Gained") {
            said
        } else {
            word
        };
    }
    if !has_leak || word != "passes" {
        return word;
    }
    let explained = json["explanations"].as_array().cloned().unwrap_or_default();
    let leak: f64 = explained
        .iter()
        .filter(|e| e["cause"].as_str().is_some_and(|c| c.contains("leak")))
        .filter_map(|e| e["probability"].as_f64())
        .sum();
    if leak >= 0.05 {
        "passes, a leak not excluded".into()
    } else {
        "passes, a leak excluded".into()
    }
}

fn is_decided(word: &str) -> bool {
    !matches!(
        word,
        "undecided" | "Gained: check" | "not_applicable" | "settling" | "?"
    )
}

#[derive(Default, Clone)]
struct Row {
    right: u64,
    undecided: u64,
    wrong: u64,
    /// Decided rightly at half of the time already.
    early: u64,
    words: BTreeMap<String, u64>,
}

fn main() {
    let mut args = std::env::args()
        .skip(1)
        .filter_map(|a| a.parse::<u64>().ok());
    let (seeds, only) = (args.next().unwrap_or(200), args.next());
    println!(
        "| drill | test | watched | right | undecided | wrong | right at half of it | outcomes |"
    );
    println!("|---|---|---|---|---|---|---|---|");
    for s in all()
        .into_iter()
        .filter(|s| only.is_none_or(|n| u64::from(s.number) == n))
    {
        let run = |from: u64, to: u64| {
            let mut rows: BTreeMap<usize, (String, f64, Row)> = BTreeMap::new();
            for seed in from..to {
                let v = s.varied(9_000 + seed);
                let w = walk(v.clone(), &v.path, None);
                for (i, (test, from_s, to_s)) in w.watched.iter().copied().enumerate() {
                    let Some(r) = recording(&w, &v, (test, from_s, to_s)) else {
                        continue;
                    };
                    let wanted = right(s.number, i);
                    let has_leak = matches!(s.number, 12 | 14) && i < w.watched.len() - 1;
                    let word = outcome(&judge(&r), has_leak);
                    let row = rows.entry(i).or_insert((
                        format!("{test:?}"),
                        (to_s - from_s) / 60.0,
                        Row::default(),
                    ));
                    let row = &mut row.2;
                    if wanted.contains(&word.as_str()) {
                        row.right += 1;
                    } else if is_decided(&word) {
                        row.wrong += 1;
                    } else {
                        row.undecided += 1;
                    }
                    let half = recording(&w, &v, (test, from_s, 0.5 * (from_s + to_s)));
                    if half
                        .is_some_and(|r| wanted.contains(&outcome(&judge(&r), has_leak).as_str()))
                    {
                        row.early += 1;
                    }
                    *row.words.entry(word).or_default() += 1;
                }
            }
            rows
        };
        let half = seeds / 2;
        let (mut a, b) = std::thread::scope(|t| {
            let a = t.spawn(|| run(0, half));
            let b = t.spawn(|| run(half, seeds));
            (a.join().unwrap_or_default(), b.join().unwrap_or_default())
        });
        for (k, (_, _, row)) in b {
            if let Some((_, _, x)) = a.get_mut(&k) {
                x.right += row.right;
                x.undecided += row.undecided;
                x.wrong += row.wrong;
                x.early += row.early;
                for (w, n) in row.words {
                    *x.words.entry(w).or_default() += n;
                }
            }
        }
        for (test, minutes, row) in a.into_values() {
            let words: Vec<String> = row.words.iter().map(|(w, n)| format!("{w} {n}")).collect();
            println!(
                "| {}. {} | {test} | {minutes:.0} min | {} | {} | {} | {} | {} |",
                s.number,
                s.title,
                row.right,
                row.undecided,
                row.wrong,
                row.early,
                words.join(", ")
            );
        }
    }
}
