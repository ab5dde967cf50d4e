//! Logger files of every shape seen in the field; the files are of our own making.

use crate::files::{read_logger, understand};
use ruhe_core::quantity::Unit;
use ruhe_core::reading::{
    Answers, Ask, Channel, DayOrder, LoggerMapping, MappedColumn, Quantity, Reading,
};

/// 2026-05-04 10:00:00 UTC, ms.
const TEN: i64 = 1_777_888_800_000;

/// Takes a file as it was understood, every column with a quantity.
fn take(bytes: &[u8], day_order: Option<DayOrder>) -> Result<(Option<i64>, Vec<Reading>), String> {
    let seen = understand("log.csv", bytes).map_err(|e| e.to_string())?;
    let time = seen.columns.iter().find(|c| c.is_time).expect("a time");
    let date = seen.columns.iter().find(|c| c.is_date).filter(|_| {
        let at = seen.columns.iter().position(|c| c.is_time).unwrap();
        seen.sample.iter().all(|r| !r[at].contains(['/', '-', 'T']))
    });
    let columns = seen.columns.iter().filter_map(|c| {
        Some(MappedColumn {
            heading: c.heading.clone(),
            channel: Channel::new(&c.heading, c.quantity?, c.unit?),
        })
    });
    let mapping = LoggerMapping {
        time_heading: time.heading.clone(),
        date_heading: date.map(|d| d.heading.clone()),
        zone: jiff::tz::TimeZone::UTC,
        answers: Answers {
            day_order,
            ..Answers::default()
        },
        columns: columns.collect(),
    };
    read_logger("log.csv", bytes, &mapping)
        .map(|t| (t.start_ms, t.readings))
        .map_err(|e| e.to_string())
}

/// Two pressures ten seconds apart, 300.5 and 300.4 psig, and a temperature of 70.1 °F beside the first.
fn is_the_hold(name: &str, found: Result<(Option<i64>, Vec<Reading>), String>, start: Option<i64>) {
    let (at, readings) = found.unwrap_or_else(|e| panic!("{name}: {e}"));
    assert_eq!(at, start, "{name}");
    let flat: Vec<(f64, usize, f64)> = readings
        .iter()
        .map(|r| (r.at_s, r.channel, r.value))
        .collect();
    assert_eq!(
        flat,
        [(0.0, 0, 300.5), (0.0, 1, 70.1), (10.0, 0, 300.4)],
        "{name}"
    );
}

#[test]
fn every_shape_of_file_is_the_same_hold() {
    let dated = [
        (
            "plain",
            "Time,P psig,T °F\n2026-05-04 10:00:00,300.5,70.1\n2026-05-04 10:00:10,300.4,\n",
        ),
        (
            "a preamble",
            "Logger 7\nSerial: 0815\nStarted by, nobody\n\nTime,P psig,T °F\n2026-05-04 \
             10:00:00,300.5,70.1\n2026-05-04 10:00:10,300.4,\n",
        ),
        (
            "sep=",
            "sep=;\nTime;P psig;T °F\n2026-05-04 10:00:00;300,5;70,1\n2026-05-04 10:00:10;300,4;\n",
        ),
        (
            "tabs and decimal commas",
            "Time\tP psig\tT °F\n2026-05-04 10:00:00\t300,5\t70,1\n2026-05-04 10:00:10\t300,4\t\n",
        ),
        (
            "units in a row of their own",
            "Time,P,T\n,psig,°F\n2026-05-04 10:00:00,300.5,70.1\n2026-05-04 10:00:10,300.4,\n",
        ),
        (
            "units in brackets",
            "Time,P [psig],T (degF)\n2026-05-04 10:00:00,300.5,70.1\n2026-05-04 10:00:10,300.4,\n",
        ),
        (
            "units behind the values",
            "Time,P,T\n2026-05-04 10:00:00,300.5 psig,70.1 °F\n2026-05-04 10:00:10,300.4 psig,\n",
        ),
        (
            "a 12-hour clock",
            "Time,P psig,T °F\n2026-05-04 10:00:00 AM,300.5,70.1\n2026-05-04 10:00:10 a.m.,300.4,\n",
        ),
        (
            "month first by its days",
            "Time,P psig,T °F\n05/04/2026 10:00:00,300.5,70.1\n05/04/2026 10:00:10,300.4,\n05/13/2026 \
             10:00:00,---,---\n",
        ),
        (
            "German dates",
            "Zeit;P psig;T °F\n04.05.2026 10:00:00;300,5;70,1\n04.05.2026 10:00:10;300,4;\n",
        ),
        (
            "a month by its name",
            "Time,P psig,T °F\n04-May-2026 10:00:00,300.5,70.1\n04-May-26 10:00:10,300.4,\n",
        ),
        (
            "date and time in two columns",
            "Date,Time,P psig,T °F\n2026-05-04,10:00:00,300.5,70.1\n2026-05-04,10:00:10,300.4,\n",
        ),
        (
            "an offset of its own",
            "Time,P psig,T °F\n2026-05-04T12:00:00+02:00,300.5,70.1\n2026-05-04T12:00:10+02:00,300.4,\n",
        ),
        (
            "seconds since 1970",
            "Timestamp,P psig,T °F\n1777888800,300.5,70.1\n1777888810,300.4,\n",
        ),
        (
            "milliseconds since 1970",
            "Timestamp,P psig,T °F\n1777888800000,300.5,70.1\n1777888810000,300.4,\n",
        ),
        (
            "newest first",
            "Time,P psig,T °F\n2026-05-04 10:00:10,300.4,\n2026-05-04 10:00:00,300.5,70.1\n",
        ),
        (
            "dropouts",
            "Time,P psig,T °F\n2026-05-04 10:00:00,300.5,70.1\n2026-05-04 10:00:05,---,OL\n2026-05-04 \
             10:00:10,300.4,N/A\n",
        ),
        (
            "a footer",
            "Time,P psig,T °F\n2026-05-04 10:00:00,300.5,70.1\n2026-05-04 10:00:10,300.4,\n\nEnd of \
             log\nChecksum: 0x4F\n",
        ),
        (
            "a separator at the end",
            "Time,P psig,T °F,\n2026-05-04 10:00:00,300.5,70.1,\n2026-05-04 10:00:10,300.4,,\n",
        ),
        (
            "quoted",
            "\"Time\",\"P psig\",\"T °F\"\n\"2026-05-04 10:00:00\",\"300.5\",\"70.1\"\n\"2026-05-04 \
             10:00:10\",\"300.4\",\"\"\n",
        ),
        (
            "Windows line ends",
            "Time,P psig,T °F\r\n2026-05-04 10:00:00,300.5,70.1\r\n2026-05-04 10:00:10,300.4,\r\n",
        ),
    ];
    for (name, text) in dated {
        is_the_hold(name, take(text.as_bytes(), None), Some(TEN));
    }
    let undated = [
        (
            "elapsed seconds",
            "Elapsed s,P psig,T °F\n0,300.5,70.1\n10,300.4,\n",
        ),
        (
            "elapsed h:mm:ss",
            "Elapsed,P psig,T °F\n0:00:00,300.5,70.1\n0:00:10,300.4,\n",
        ),
        (
            "elapsed over a day",
            "Elapsed,P psig,T °F\n25:59:55,300.5,70.1\n26:00:05,300.4,\n",
        ),
        (
            "a time of day over midnight",
            "Time,P psig,T °F\n23:59:55,300.5,70.1\n00:00:05,300.4,\n",
        ),
    ];
    for (name, text) in undated {
        is_the_hold(name, take(text.as_bytes(), None), None);
    }
}

#[test]
fn every_encoding_is_the_same_hold() {
    let text = "Time;P psig;T °F\n2026-05-04 10:00:00;300,5;70,1\n2026-05-04 10:00:10;300,4;\n";
    let utf16 = |big: bool, bom: bool| -> Vec<u8> {
        let units = bom
            .then_some(0xFEFFu16)
            .into_iter()
            .chain(text.encode_utf16());
        units
            .flat_map(|u| {
                if big {
                    u.to_be_bytes()
                } else {
                    u.to_le_bytes()
                }
            })
            .collect()
    };
    let latin: Vec<u8> = text
        .chars()
        .map(|c| u8::try_from(u32::from(c)).unwrap())
        .collect();
    let with_bom = [b"\xEF\xBB\xBF".as_slice(), text.as_bytes()].concat();
    for (name, bytes) in [
        ("UTF-16LE", utf16(false, true)),
        ("UTF-16BE", utf16(true, true)),
        ("UTF-16LE", utf16(false, false)),
        ("Latin-1", latin),
        ("UTF-8", with_bom),
    ] {
        is_the_hold(name, take(&bytes, None), Some(TEN));
        let seen = understand("log.csv", &bytes).unwrap();
        assert!(seen.words[0].contains(name), "{:?}", seen.words);
    }
    let err = understand("x.bin", b"\x00\x01\x02\x00\x00\x07")
        .unwrap_err()
        .to_string();
    assert!(err.contains("is not text"), "{err}");
}

#[test]
fn day_or_month_first_is_asked_when_both_fit() {
    let text = "Time,P psig,T °F\n04/05/2026 10:00:00,300.5,70.1\n04/05/2026 10:00:10,300.4,\n";
    let seen = understand("log.csv", text.as_bytes()).unwrap();
    assert!(seen.questions.iter().any(|q| q.about == Ask::DayOrder));
    let why = take(text.as_bytes(), None).unwrap_err();
    assert!(why.contains("line 2") && why.contains("say which"), "{why}");
    is_the_hold(
        "day first",
        take(text.as_bytes(), Some(DayOrder::Day)),
        Some(TEN),
    );
    let (april, _) = take(text.as_bytes(), Some(DayOrder::Month)).unwrap();
    assert_eq!(april, Some(TEN - 29 * 86_400_000), "the fifth of April");
    // Where the file decides it, nobody can say otherwise.
    let clear = text.replace("04/05", "13/05");
    assert!(
        !understand("log.csv", clear.as_bytes())
            .unwrap()
            .questions
            .iter()
            .any(|q| q.about == Ask::DayOrder)
    );
    assert!(
        take(clear.as_bytes(), Some(DayOrder::Month))
            .unwrap_err()
            .contains("above 12")
    );
}

#[test]
fn what_was_understood_is_said() {
    let text = "Logger 7\nSerial: 0815\nTime,P,T\n,psig,°F\n2026-05-04 10:00:10,300.4,OL\n2026-05-04 \
         10:00:00,300.5,70.1\nEnd\n";
    let seen = understand("log.csv", text.as_bytes()).unwrap();
    let said = seen.words.join(" ");
    for words in [
        "2 rows of 3 columns",
        "2 lines before the heading and 1 after the last row are left out",
        "units stand in a row of their own",
        "1 cells say that nothing was read",
        "newest row comes first",
    ] {
        assert!(said.contains(words), "{words}: {said}");
    }
    let [_, p, t] = &seen.columns[..] else {
        panic!("{:?}", seen.columns)
    };
    assert_eq!(
        (p.quantity, p.unit),
        (Some(Quantity::GaugePressure), Some(Unit::Psig))
    );
    assert_eq!(
        (t.quantity, t.unit, t.example.as_str()),
        (Some(Quantity::Temperature), Some(Unit::DegF), "70.1")
    );
    let other = text.replace("300.4", "299.0").replace("0815", "4711");
    assert_eq!(
        understand("x.csv", other.as_bytes()).unwrap().shape,
        seen.shape,
        "the next file of that shape"
    );
}

#[test]
fn what_is_wrong_is_named_with_its_place() {
    let head = "Time,P psig,T °F\n2026-05-04 10:00:00,300.5,70.1\n";
    for (rest, wanted) in [
        (
            "2026-05-04 10:00:10,3oo,70.1\n",
            "line 3, column P psig: “3oo” is not a number",
        ),
        (
            "2026-05-04 10:00:10,20.7 bar,70.1\n",
            "line 3, column P psig: “20.7 bar” is in bar",
        ),
        (
            "2026-05-04 10:00:10,-99,70.1\n",
            "line 3, column P psig: -99: is below a perfect vacuum",
        ),
        (
            "2026-05-04 10:00:10,300.1\n2026-05-04 10:00:20,300.1,70.2\n",
            "line 3: has a row with another number of cells",
        ),
        (
            "2026-05-04 10:00:10,300.1,70.0\n2026-05-04 10:00:05,300.1,70.0\n2026-05-04 10:00:20,300.1,70.0\n",
            "line 4, column Time: time runs back",
        ),
        (
            "soon,300.1,70.0\n2026-05-04 10:00:20,300.1,70.0\n",
            "line 3, column Time: “soon” is neither a time",
        ),
    ] {
        let why = take(format!("{head}{rest}").as_bytes(), None).unwrap_err();
        assert!(why.contains(wanted), "{wanted}\n{why}");
    }
    for nothing in ["", "\n\n", "just words\nand more\n", "one\n1\n2\n"] {
        let why = understand("x.csv", nothing.as_bytes())
            .unwrap_err()
            .to_string();
        assert!(why.contains("no table"), "{nothing:?}: {why}");
    }
}
