//! Logger files that may be read in two ways: right, asked about, or refused with the line; never silently wrong. The
//! files are of our own making.

use jiff::tz::TimeZone;
use ruhe_core::quantity::Unit;
use ruhe_core::reading::*;
use ruhe_core::vacuum::{DecayOutcome, judge_decay};

use crate::files::{read_logger, understand};
use crate::plants::Draw;

/// What a file seems to be, as a mapping of every column with a quantity and a unit.
fn mapping(bytes: &[u8], answers: Answers, zone: TimeZone) -> LoggerMapping {
    let seen = understand("log.csv", bytes)
        .unwrap_or_else(|e| panic!("{e}: {}", String::from_utf8_lossy(bytes)));
    let time = seen
        .columns
        .iter()
        .find(|c| c.is_time)
        .unwrap_or_else(|| panic!("no time: {}", String::from_utf8_lossy(bytes)));
    let columns = seen.columns.iter().filter_map(|c| {
        Some(MappedColumn {
            heading: c.heading.clone(),
            channel: Channel::new(&c.heading, c.quantity?, c.unit?),
        })
    });
    LoggerMapping {
        time_heading: time.heading.clone(),
        date_heading: None,
        zone,
        answers,
        columns: columns.collect(),
    }
}

fn take(text: &str, answers: Answers) -> Result<Taken, String> {
    let m = mapping(text.as_bytes(), answers, TimeZone::UTC);
    read_logger("log.csv", text.as_bytes(), &m).map_err(|e| e.to_string())
}

/// Times and values of the first channel.
fn first(t: &Taken) -> Vec<(f64, f64)> {
    t.readings
        .iter()
        .filter(|r| r.channel == 0)
        .map(|r| (r.at_s, r.value))
        .collect()
}

fn asked(text: &str) -> Vec<(Ask, Vec<String>)> {
    let seen = understand("log.csv", text.as_bytes()).unwrap();
    let codes = |q: &Question| q.choices.iter().map(|c| c.code.clone()).collect();
    seen.questions.iter().map(|q| (q.about, codes(q))).collect()
}

const NOTHING: Answers = Answers {
    figures: None,
    time_is: None,
    day_order: None,
    same_time: None,
    every: None,
};

fn time_is(t: TimeIs) -> Answers {
    Answers {
        time_is: Some(t),
        ..NOTHING
    }
}

#[test]
fn what_a_heading_or_a_units_row_says_of_times_counts() {
    for (name, text) in [
        ("minutes", "Elapsed (min),P psig\n0,300\n0.5,299\n1,298\n"),
        (
            "hours",
            "Time h,P psig\n0,300\n0.0083333333,299\n0.0166666667,298\n",
        ),
        (
            "days",
            "Elapsed days,P psig\n0,300\n0.00034722222,299\n0.00069444444,298\n",
        ),
        (
            "milliseconds",
            "Time (ms),P psig\n0,300\n30000,299\n60000,298\n",
        ),
        (
            "mm:ss",
            "Elapsed (mm:ss),P psig\n0:00,300\n0:30,299\n1:00,298\n",
        ),
        ("a unit row", "Elapsed,P\nmin,psig\n0,300\n0.5,299\n1,298\n"),
        (
            "mm:ss in a unit row",
            "Elapsed,P\n(mm:ss),psig\n0:00,300\n0:30,299\n1:00,298\n",
        ),
        (
            "a fraction of a second",
            "Elapsed,P psig\n0:00.0,300\n0:30.0,299\n1:00.0,298\n",
        ),
        (
            "spreadsheet days",
            "Date serial,P psig\n46146.4166666667,300\n46146.4170138889,299\n46146.4173611111,298\n",
        ),
        (
            "since 1970, µs",
            "epoch_us,P psig\n1777888800000000,300\n1777888830000000,299\n1777888860000000,298\n",
        ),
        (
            "since 1970, ns",
            "unix time,P psig\n1777888800000000000,300\n1777888830000000000,299\n1777888860000000000,298\n",
        ),
        ("negative", "Elapsed s,P psig\n-30,300\n0,299\n30,298\n"),
        (
            "an offset behind",
            "Time,P psig\n2026-05-04 12:00:00 +0200,300\n2026-05-04 12:00:30 +0200,299\n2026-05-04 12:01:00 \
             +0200,298\n",
        ),
    ] {
        let taken = take(text, NOTHING).unwrap_or_else(|e| panic!("{name}: {e}"));
        let found = first(&taken);
        for (found, told) in found
            .iter()
            .zip([(0.0, 300.0), (30.0, 299.0), (60.0, 298.0)])
        {
            assert!(
                (found.0 - told.0).abs() < 0.01 && found.1 == told.1,
                "{name}: {found:?}"
            );
        }
        assert_eq!(found.len(), 3, "{name}");
        let is_dated = ["spread", "since", "an off"]
            .iter()
            .any(|n| name.starts_with(n));
        let start = taken.start_ms.map(|ms| ms / 1_000);
        assert_eq!(start, is_dated.then_some(1_777_888_800), "{name}");
    }
}

#[test]
fn times_that_may_be_either_are_asked_about() {
    let plain = "Elapsed,P psig\n0,300\n10,299\n20,298\n30,297\n";
    let [(Ask::TimeIs, codes)] = &asked(plain)[..] else {
        panic!("{:?}", asked(plain))
    };
    assert_eq!(codes[..], ["s", "min", "h"]);
    let why = take(plain, NOTHING).unwrap_err();
    assert!(
        why.contains("seconds or minutes or hours: say which"),
        "{why}"
    );
    assert_eq!(
        first(&take(plain, time_is(TimeIs::Minutes)).unwrap())[3].0,
        1_800.0
    );
    let why = take(plain, time_is(TimeIs::EpochSeconds)).unwrap_err();
    assert!(why.contains("not in seconds since 1970"), "{why}");
    // Ten to half past ten, or ten minutes to half past ten.
    let clock = "Time,P psig\n10:00,300\n10:10,299\n10:30,298\n";
    assert_eq!(
        asked(clock),
        [(Ask::TimeIs, vec!["h:mm".to_owned(), "mm:ss".into()])]
    );
    assert!(take(clock, NOTHING).unwrap_err().contains("say which"));
    assert_eq!(
        first(&take(clock, time_is(TimeIs::MinutesSeconds)).unwrap())[2].0,
        30.0
    );
    assert_eq!(
        first(&take(clock, time_is(TimeIs::HoursMinutes)).unwrap())[2].0,
        1_800.0
    );
    // Minutes that go on to the hour are minutes.
    let long = "Elapsed,P psig\n59:00,300\n59:30,299\n1:00:00,298\n";
    assert_eq!(first(&take(long, NOTHING).unwrap())[2].0, 60.0);
}

/// A rise from 850 to 2,720 micron in 40 min was read as 1.25 micron and passed.
#[test]
fn a_sign_before_decimals_or_between_thousands_never_makes_a_pass() {
    let rise = |k: u32| 850.0 + 46.75 * f64::from(k);
    let grouped = |v: f64, by: char| {
        let n = v.round() as u32;
        if n < 1_000 {
            n.to_string()
        } else {
            format!("{}{by}{:03}", n / 1_000, n % 1_000)
        }
    };
    let file = |separator: char, by: char| {
        let rows: String = (0..=40)
            .map(|k| format!("{}{separator}{}\n", 60 * k, grouped(rise(k), by)))
            .collect();
        format!("Elapsed s{separator}V micron\n{rows}")
    };
    for (separator, by) in [('\t', ','), (';', '.'), (';', ',')] {
        let text = file(separator, by);
        assert_eq!(asked(&text)[0].0, Ask::Figures, "{separator:?} {by}");
        let why = take(&text, NOTHING).unwrap_err();
        assert!(why.contains("say which"), "{why}");
        let figures = Some(if by == ',' {
            Figures::Point
        } else {
            Figures::Comma
        });
        let taken = take(&text, Answers { figures, ..NOTHING }).unwrap();
        assert_eq!(first(&taken).last().unwrap().1, 2_720.0);
        let channels = mapping(text.as_bytes(), NOTHING, TimeZone::UTC).columns;
        let channels: Vec<Channel> = channels.into_iter().map(|c| c.channel).collect();
        assert!(doubts(&taken.readings, &channels, Kind::VacuumDecay).is_empty());
        let mut r = crate::plants::blank(Kind::VacuumDecay, channels.clone(), taken.readings);
        r.settings.decay_limit = Some(DecayLimit {
            level_pa: 500.0 * ruhe_core::quantity::MICRON,
            at_s: 600.0,
            start_max_pa: None,
            rise: None,
        });
        assert_eq!(judge_decay(&r).outcome, DecayOutcome::Fails);
        // The other way is named once more: a level does not fall a thousandfold.
        let figures = Some(if by == ',' {
            Figures::Comma
        } else {
            Figures::Point
        });
        let taken = take(&text, Answers { figures, ..NOTHING }).unwrap();
        let odd = doubts(&taken.readings, &channels, Kind::VacuumDecay);
        assert!(odd.iter().any(|d| d.contains("in one step")), "{odd:?}");
    }
    // What no gauge shows is no second way.
    assert!(asked("Elapsed s,P psig,T °F\n0,300.125,70.125\n60,300.250,70.250\n").is_empty());
    // In quotes a comma may stand in a file of commas.
    let quoted = "Elapsed s,V micron\n0,\"1,250.5\"\n60,\"1,300.5\"\n";
    assert_eq!(first(&take(quoted, NOTHING).unwrap())[1].1, 1_300.5);
    let decimal = "Elapsed s,P psig\n0,\"300,5\"\n60,\"299,5\"\n";
    assert_eq!(first(&take(decimal, NOTHING).unwrap())[1].1, 299.5);
    let mixed = "Elapsed s;P psig\n0;300,5\n60;299.5\n";
    let why = take(mixed, NOTHING).unwrap_err();
    assert!(why.contains("line 3") && why.contains("mixed"), "{why}");
}

#[test]
fn rows_of_one_stamp_are_one_asked_about_or_set_apart() {
    let again =
        "Time,P psig\n2026-05-04 10:00:00,300\n2026-05-04 10:00:00,300\n2026-05-04 10:01:00,299\n";
    let taken = take(again, NOTHING).unwrap();
    assert_eq!((first(&taken).len(), taken.duplicates), (2, 1));
    // A log every 20 s whose stamps have no seconds.
    let coarse = "Time,P psig\n2026-05-04 10:00,300\n2026-05-04 10:00,299\n2026-05-04 10:00,298\n2026-05-04 \
         10:01,297\n2026-05-04 10:01,296\n2026-05-04 10:01,295\n";
    assert_eq!(
        asked(coarse),
        [(Ask::SameTime, vec!["spread".to_owned(), "last".into()])]
    );
    let why = take(coarse, NOTHING).unwrap_err();
    assert!(why.contains("line 3") && why.contains("say what"), "{why}");
    let with = |s| Answers {
        same_time: Some(s),
        ..NOTHING
    };
    let times: Vec<f64> = first(&take(coarse, with(SameTime::Spread)).unwrap())
        .iter()
        .map(|r| r.0)
        .collect();
    assert_eq!(times, [0.0, 20.0, 40.0, 60.0, 80.0, 100.0]);
    assert_eq!(
        first(&take(coarse, with(SameTime::Last)).unwrap()),
        [(0.0, 298.0), (60.0, 295.0)]
    );
}

/// Central European clocks went forward on 29 March and back on 25 October 2026, at 01:00 UTC.
#[test]
fn an_hour_that_is_missing_or_comes_twice_is_read_by_the_place() {
    let berlin = || TimeZone::posix("CET-1CEST,M3.5.0,M10.5.0/3").unwrap();
    let there = |text: &str| {
        let m = mapping(text.as_bytes(), NOTHING, berlin());
        read_logger("log.csv", text.as_bytes(), &m)
    };
    let spring =
        "Time,P psig\n2026-03-29 01:00:00,300\n2026-03-29 03:00:00,299\n2026-03-29 04:00:00,298\n";
    assert_eq!(first(&there(spring).unwrap())[2].0, 7_200.0);
    let autumn = "Time,P psig\n2026-10-25 01:00:00,300\n2026-10-25 02:00:00,299\n2026-10-25 \
         02:00:00,298\n2026-10-25 03:00:00,297\n";
    assert_eq!(first(&there(autumn).unwrap())[3].0, 10_800.0);
    let missing = "Time,P psig\n2026-03-29 01:30:00,300\n2026-03-29 02:30:00,299\n";
    let why = there(missing).unwrap_err().to_string();
    assert!(
        why.contains("line 3") && why.contains("no time there"),
        "{why}"
    );
    // A heading that names an offset needs no place, and the file's own date decides which offset the place has.
    let named = "Time (GMT-05:00),P psig\n2026-05-04 05:00:00,300\n2026-05-04 05:00:10,299\n";
    assert_eq!(there(named).unwrap().start_ms, Some(1_777_888_800_000));
    assert!(!understand("x", named.as_bytes()).unwrap().needs_place);
    let plain = "Time,P psig\n2026-05-04 12:00:00,300\n2026-05-04 12:00:10,299\n";
    assert_eq!(there(plain).unwrap().start_ms, Some(1_777_888_800_000));
    assert!(understand("x", plain.as_bytes()).unwrap().needs_place);
}

#[test]
fn columns_are_what_their_headings_say() {
    let guess = |heading: &str| {
        let text = format!("Elapsed s,{heading}\n0,101\n10,102\n");
        let seen = understand("x", text.as_bytes()).unwrap();
        (seen.columns[1].quantity, seen.columns[1].unit)
    };
    let absolute = Some(Quantity::AbsolutePressure);
    for (heading, unit) in [
        ("P mbar abs", Unit::Mbar),
        ("P kPa abs", Unit::KPa),
        ("Vacuum mmHg", Unit::MmHg),
        ("P bara", Unit::Bar),
        ("V mTorr", Unit::Micron),
    ] {
        assert_eq!(guess(heading), (absolute, Some(unit)), "{heading}");
    }
    assert_eq!(
        guess("P bar"),
        (Some(Quantity::GaugePressure), Some(Unit::Bar))
    );
    assert_eq!(
        guess("Vacuum inHg").0,
        None,
        "a dial counts down, another up"
    );
    for heading in ["Delta T °F", "dT K"] {
        assert_eq!(guess(heading).0, None, "{heading}");
    }
    let faulty = "Elapsed s,P psig,State\n0,300,OK\n10,812,FAULT\n20,299,OK\n";
    let taken = take(faulty, NOTHING).unwrap();
    assert_eq!((first(&taken).len(), taken.bad), (2, 1));
    let said = understand("x", faulty.as_bytes()).unwrap().words.join(" ");
    assert!(said.contains("In 1 rows the logger says"), "{said}");
    let summed = "Time,P psig\n2026-05-04 10:00:00,300\n2026-05-04 10:00:10,299\nMinimum,299\nAverage,299.5\n";
    let seen = understand("x", summed.as_bytes()).unwrap().words.join(" ");
    assert!(
        seen.contains("2 lines after the last row") && !seen.contains("newest"),
        "{seen}"
    );
    assert_eq!(first(&take(summed, NOTHING).unwrap()).len(), 2);
}

/// Two thousand files by a grammar of such habits, each with the truth it was made from: taken as it is, asked about,
/// or refused; the right answer given, none is read otherwise.
#[test]
fn none_of_two_thousand_files_is_silently_wrong() {
    let mut d = Draw(26);
    let (mut asked, mut taken, mut refused) = (0, 0, 0);
    for case in 0..2_000 {
        let (text, truth, right) = generated(&mut d);
        let is_same = |t: &Taken| {
            let found = first(t);
            found.len() == truth.len()
                && found
                    .iter()
                    .zip(&truth)
                    .all(|(a, b)| (a.0 - b.0).abs() < 0.6 && (a.1 - b.1).abs() < 1e-6 * b.1.abs())
        };
        match take(&text, NOTHING) {
            Ok(t) => {
                taken += 1;
                assert!(
                    is_same(&t),
                    "case {case}: taken wrongly\n{text}\n{:?}",
                    first(&t)
                );
            }
            Err(_) => {
                let seen = understand("x", text.as_bytes()).unwrap();
                let about: Vec<Ask> = seen.questions.iter().map(|q| q.about).collect();
                let said = Answers {
                    figures: right.figures.filter(|_| about.contains(&Ask::Figures)),
                    time_is: right.time_is.filter(|_| about.contains(&Ask::TimeIs)),
                    day_order: right.day_order.filter(|_| about.contains(&Ask::DayOrder)),
                    same_time: right.same_time.filter(|_| about.contains(&Ask::SameTime)),
                    every: None,
                };
                match take(&text, said) {
                    Ok(t) => {
                        asked += 1;
                        assert!(
                            is_same(&t),
                            "case {case}: answered, and wrong\n{text}\n{:?}",
                            first(&t)
                        );
                    }
                    Err(_) => refused += 1,
                }
            }
        }
    }
    assert!(
        refused <= 40,
        "{refused} refused, {asked} asked, {taken} taken"
    );
    assert!(taken >= 600 && asked >= 400, "{taken} taken, {asked} asked");
}

/// A file, its first channel's times and values, and what a person who knows the logger would say.
fn generated(d: &mut Draw) -> (String, Vec<(f64, f64)>, Answers) {
    let pick = |d: &mut Draw, n: usize| ((d.uniform() * n as f64) as usize).min(n - 1);
    let is_vacuum = d.uniform() < 0.5;
    let decimals = pick(d, 4);
    let n = 12 + pick(d, 30);
    let step = [5.0, 10.0, 30.0, 60.0][pick(d, 4)];
    let comma = d.uniform() < 0.4;
    let thousands = d.uniform() < 0.4;
    let separator = if comma {
        [';', '\t'][pick(d, 2)]
    } else {
        [',', ';', '\t'][pick(d, 3)]
    };
    let start = if is_vacuum {
        d.between(300.0, 1_500.0)
    } else {
        d.between(80.0, 600.0)
    };
    let slope = d.between(0.0, 0.02);
    let value = |k: usize| {
        let v = start * (1.0 + slope * k as f64);
        let by = 10f64.powi(decimals as i32);
        (v * by).round() / by
    };
    let write = |v: f64| {
        let plain = format!("{v:.decimals$}");
        let (whole, rest) = plain.split_once('.').unwrap_or((&plain, ""));
        let (point, group) = if comma { (",", ".") } else { (".", ",") };
        let whole = if thousands && whole.len() > 3 {
            let (a, b) = whole.split_at(whole.len() - 3);
            format!("{a}{group}{b}")
        } else {
            whole.to_owned()
        };
        let text = if rest.is_empty() {
            whole
        } else {
            format!("{whole}{point}{rest}")
        };
        if separator == ',' && text.contains(',') {
            format!("\"{text}\"")
        } else {
            text
        }
    };
    let number = |x: f64, places: usize| {
        let text = format!("{x:.places$}");
        if comma { text.replace('.', ",") } else { text }
    };
    let way = pick(d, 9);
    let (heading, is) = match way {
        0 => ("Elapsed (s)", TimeIs::Seconds),
        1 => ("Elapsed (min)", TimeIs::Minutes),
        2 => ("Elapsed", TimeIs::Seconds),
        3 => ("Elapsed", TimeIs::Minutes),
        4 => ("Elapsed (mm:ss)", TimeIs::MinutesSeconds),
        5 => ("Elapsed", TimeIs::MinutesSeconds),
        6 => ("Time", TimeIs::Stamp),
        7 => ("epoch", TimeIs::EpochSeconds),
        _ => ("Time", TimeIs::Stamp),
    };
    let month_first = d.uniform() < 0.5;
    let clock = |s: f64| {
        let s = s as u64;
        format!("{:02}:{:02}:{:02}", 9 + s / 3_600, s / 60 % 60, s % 60)
    };
    let time = |s: f64| match way {
        0 | 2 => number(s, 0),
        1 | 3 => number(s / 60.0, 4),
        4 | 5 => format!("{:02}:{:02}", s as u64 / 60, s as u64 % 60),
        6 => format!("2026-05-04 {}", clock(s)),
        7 => format!("{}", 1_777_888_800 + s as u64),
        _ if month_first => format!("05/04/2026 {}", clock(s)),
        _ => format!("04/05/2026 {}", clock(s)),
    };
    let head = if is_vacuum { "V micron" } else { "P psig" };
    let mut text = String::new();
    if d.uniform() < 0.3 {
        text += "Logger 12\nName;a log\n";
    }
    text += &format!("{heading}{separator}{head}\n");
    let mut truth = Vec::new();
    for k in 0..n {
        let (s, v) = (step * k as f64, value(k));
        text += &format!("{}{separator}{}\n", time(s), write(v));
        truth.push((s, v));
    }
    if d.uniform() < 0.2 {
        text += &format!("Average{separator}{}\n", write(value(n / 2)));
    }
    let right = Answers {
        figures: Some(if comma {
            Figures::Comma
        } else {
            Figures::Point
        }),
        time_is: Some(is),
        day_order: Some(if month_first {
            DayOrder::Month
        } else {
            DayOrder::Day
        }),
        same_time: Some(SameTime::Spread),
        every: None,
    };
    (text, truth, right)
}

/// A reading a row: taken as it stands, pressure and temperature would be one channel.
#[test]
fn a_table_with_a_reading_a_row_has_a_column_a_channel() {
    let rows: String = (0..30)
        .flat_map(|k| {
            let at = format!("2026-05-04T10:{k:02}:00Z");
            [
                format!("{at},Suction,{:.1},psig\n", 300.0 - 0.1 * f64::from(k)),
                format!("{at},Pipe,{:.1},degF\n", 70.0 + 0.1 * f64::from(k)),
            ]
        })
        .collect();
    let text = format!("time,sensor,value,unit\n{rows}");
    let seen = understand("long.csv", text.as_bytes()).unwrap();
    assert!(seen.words.join(" ").contains("one reading a row"));
    let columns: Vec<_> = seen
        .columns
        .iter()
        .map(|c| (c.heading.as_str(), c.quantity, c.unit))
        .collect();
    assert_eq!(
        columns[1..],
        [
            (
                "Suction (psig)",
                Some(Quantity::GaugePressure),
                Some(Unit::Psig)
            ),
            ("Pipe (degF)", Some(Quantity::Temperature), Some(Unit::DegF)),
        ]
    );
    let taken = take(&text, NOTHING).unwrap();
    assert_eq!(taken.readings.len(), 60);
    let last = |k: usize| taken.readings.iter().rfind(|r| r.channel == k).unwrap();
    assert_eq!((last(0).at_s, last(0).value), (1_740.0, 297.1));
    assert_eq!((last(1).at_s, last(1).value), (1_740.0, 72.9));
    // What was wrong is told at its line in the file.
    let bad = text.replace("Suction,299.5,", "Suction,high,");
    let why = take(&bad, NOTHING).unwrap_err();
    assert!(why.contains("line 12") && why.contains("Suction"), "{why}");
    // A column that says what was going on makes no channels.
    let phases: String = (0..40)
        .map(|k| {
            format!(
                "{},{},{}\n",
                60 * k,
                500 + k,
                if k < 20 { "pumping" } else { "shut" }
            )
        })
        .collect();
    let seen = understand(
        "x",
        format!("elapsed s,V micron,phase\n{phases}").as_bytes(),
    )
    .unwrap();
    let heads: Vec<&str> = seen.columns.iter().map(|c| c.heading.as_str()).collect();
    assert_eq!(heads, ["elapsed s", "V micron", "phase"]);
}

/// A file of more readings than a test takes is thinned only when somebody says so, evenly, with its last row.
#[test]
fn a_file_that_is_too_long_is_thinned_when_that_is_said() {
    let rows: String = (0..250_001)
        .map(|k| format!("{k},{}.{},70.1\n", 300 - k / 100_000, k % 10))
        .collect();
    let text = format!("elapsed s,P psig,T degF\n{rows}");
    assert_eq!(asked(&text), [(Ask::Every, vec!["2".to_owned()])]);
    assert!(
        take(&text, NOTHING)
            .unwrap_err()
            .contains("say how it is thinned")
    );
    let by = |n: u32| Answers {
        every: Some(n),
        ..NOTHING
    };
    let taken = take(&text, by(2)).unwrap();
    assert_eq!(taken.readings.len(), 250_002);
    let ends = |k: usize| taken.readings.iter().filter(move |r| r.channel == k);
    assert_eq!(ends(0).next_back().map(|r| r.at_s), Some(250_000.0));
    assert_eq!(ends(0).nth(1).map(|r| r.at_s), Some(2.0));
    // More than is needed is not offered, and a file that fits is taken whole.
    assert!(take(&text, by(1_000)).is_err());
    let short = "elapsed s,P psig,T degF\n0,300.1,70.1\n60,300.0,70.1\n120,300.0,70.1\n";
    assert!(take(short, by(2)).unwrap_err().contains("whole"));
}
