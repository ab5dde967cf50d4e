//! Packages in and out: what is accepted, and that every refusal says where.
use crate::files::{read_logger, understand};
use ruhe_core::reading::*;
use std::collections::HashMap;

fn package(parts: &[(&str, &str)]) -> PackageFiles {
    let mut files: HashMap<String, Vec<u8>> = HashMap::new();
    files.insert(
        "datapackage.json".into(),
        br#"{"ruhe":{"kind":"pressure-hold"}}"#.to_vec(),
    );
    files.insert(
        "channels.csv".into(),
        b"channel,quantity,unit\nP,gauge_pressure,psig\nT,temperature,degF\n".to_vec(),
    );
    files.insert(
        "readings.csv".into(),
        b"elapsed_s,channel,value\n0,P,300\n0,T,70\n60,P,300\n60,T,70\n".to_vec(),
    );
    for (name, text) in parts {
        files.insert((*name).into(), text.as_bytes().to_vec());
    }
    PackageFiles(files)
}

#[test]
fn a_small_package_is_read() {
    let r = read_package(&package(&[])).expect("reads");
    assert_eq!(
        (r.channels.len(), r.readings.len(), r.start_ms),
        (2, 4, None)
    );
    assert!((r.series(0).v[0] - 300.0 * 6894.757293168).abs() < 1e-3);
}

#[test]
fn every_refusal_names_file_line_and_column() {
    let head = "elapsed_s,channel,value\n0,P,300\n";
    let cases: Vec<(&str, String, &str)> = vec![
        ("readings.csv", format!("{head}5,Q,1\n"), "readings.csv, line 3, column channel: “Q” is not in channels.csv"),
        ("readings.csv", format!("{head}5,P,abc\n"), "readings.csv, line 3, column value: “abc” is not a number"),
        ("readings.csv", format!("{head}5,P,\n"), "readings.csv, line 3, column value: no number given"),
        ("readings.csv", format!("{head}5,P,NaN\n"), "readings.csv, line 3, column value: “NaN” is not a finite \
             number"),
        ("readings.csv", format!("{head}5,P,inf\n"), "readings.csv, line 3, column value: “inf” is not a finite \
             number"),
        ("readings.csv", format!("{head}5,P,\"300,5\"\n"), "readings.csv, line 3, column value: “300,5” has a comma"),
        ("readings.csv", format!("{head}5,P,300,5\n"), "readings.csv, line 3: has 4 cells where the heading has 3"),
        ("readings.csv", format!("{head}-5,P,300\n"), "readings.csv, line 3, column elapsed_s: time runs back"),
        ("readings.csv", format!("{head}0,P,301\n"), "readings.csv, line 3, column value: channel P already has 300"),
        ("readings.csv", format!("{head}5,P,-20\n"), "readings.csv, line 3, column value: -20 psig: is below a \
             perfect vacuum"),
        ("readings.csv", "channel,value\nP,3\n".into(), "readings.csv, line 1, column time"),
        ("readings.csv", "time,channel,value\n2026-05-04 10:00,P,3\n".into(), "readings.csv, line 2, column \
             time: “2026-05-04 10:00” is not an ISO 8601"),
        ("channels.csv", "channel,quantity,unit\nP,gauge_pressure,degF\n".into(), "channels.csv, line 2, column \
             unit: degF is not a unit of gauge pressure"),
        ("channels.csv", "channel,quantity,unit\nP,gauge_pressure,psia\n".into(), "channels.csv, line 2, column \
             unit: psia is not a unit of gauge pressure"),
        ("channels.csv", "channel,quantity,unit\nP,push,psi\n".into(), "channels.csv, line 2, column quantity: \
             “push” is not one of"),
        ("channels.csv", "channel,unit\nP,psi\n".into(), "channels.csv, line 1, column quantity: this column is \
             missing"),
        ("datapackage.json", "{".into(), "datapackage.json, line 1: is not JSON"),
        ("datapackage.json", "[]".into(), "datapackage.json, column ruhe"),
        ("datapackage.json", r#"{"ruhe":{"kind":"hold"}}"#.into(),
            "datapackage.json, column ruhe.kind: “hold” is not one of"),
        ("datapackage.json", r#"{"ruhe":{"kind":"pressure-hold","volume_l":-2}}"#.into(),
            "datapackage.json, column ruhe.volume_l: -2 is not a positive number"),
        ("datapackage.json",
            r#"{"ruhe":{"kind":"pressure-hold","limit":{"drop":{"value":1,"unit":"degF"},"over_s":60}}}"#.into(), "column ruhe.limit.drop.unit"),
        ("datapackage.json",
            r#"{"ruhe":{"kind":"pressure-hold","barometer":{"value":29.9,"unit":"psi"}}}"#.into(),
            "column ruhe.barometer"),
        ("readings.csv", "elapsed_s,channel,value\n0,P,\u{0}\n".into(), "readings.csv: is not text"),
        ("events.csv", "elapsed_s,event,note\n1,party,\n".into(), "events.csv, line 2, column event"),
    ];
    for (file, text, says) in cases {
        let fault = read_package(&package(&[(file, &text)]))
            .expect_err(&text)
            .to_string();
        assert!(fault.contains(says), "\n said: {fault}\n not:  {says}");
    }
    let mut missing = package(&[]);
    missing.0.remove("readings.csv");
    assert_eq!(
        read_package(&missing).expect_err("missing").to_string(),
        "readings.csv: is missing from the package"
    );
}

/// `porbe` once turned *Holds* into *Needs longer*, and nobody was told.
#[test]
fn what_a_descriptor_says_beyond_what_is_known_is_named() {
    let read = |ruhe: &str| {
        let text = format!(r#"{{"ruhe":{{"kind":"pressure-hold",{ruhe}}}}}"#);
        read_package(&package(&[("datapackage.json", &text)]))
            .unwrap()
            .remarks
            .iter()
            .map(ToString::to_string)
            .collect::<Vec<_>>()
            .join(" ")
    };
    assert_eq!(read(r#""probe":"clamped","refrigerant":"R-32""#), "");
    let said = read(
        r#""porbe":"clamped","limit":{"drop":{"value":1,"unit":"psi"},"over_s":600,"ovre":3}"#,
    );
    assert!(
        said.contains("“ruhe.porbe”") && said.contains("“ruhe.limit.ovre”"),
        "{said}"
    );
    let said = read(r#""refrigerant":"R-9999""#);
    assert!(said.contains("R-9999"), "{said}");
}

#[test]
fn duplicates_are_counted_and_shares_are_scaled_aloud() {
    let r = read_package(&package(&[
        ("readings.csv", "elapsed_s,channel,value\n0,P,300\n0,P,300\n9,P,299\n"),
        ("channels.csv",
            "channel,quantity,unit,volume_share,colour\nP,gauge_pressure,psig,,red\nT,temperature,degF,0.5,\nU,temperature,degF,0.3,\n"),
    ]))
    .expect("reads");
    assert_eq!((r.duplicates, r.readings.len()), (1, 2));
    assert!(
        r.remarks
            .iter()
            .any(|m| m.to_string().contains("sum to 0.80")),
        "{:?}",
        r.remarks
    );
    assert_eq!(
        r.channels[0].extra,
        vec![("colour".to_owned(), "red".to_owned())]
    );
}

#[test]
fn what_is_written_reads_back_the_same() {
    let mut r = read_package(&package(&[
        ("readings.csv", "time,channel,value\n2026-05-04T10:00:00+02:00,P,300.2\n2026-05-04T10:01:00.5+02:00,T,70.1\n"),
        ("events.csv", "time,event,note\n2026-05-04T09:59:00+02:00,supply_isolated,\"shut, tagged \"\"A\"\"\"\n"),
        ("datapackage.json",
            r#"{"ruhe":{"version":1,"kind":"pressure-hold","volume_l":4.5,"altitude_m":300,"limit":{"rate":{"value":1,"unit":"psi/h"}}}}"#),
    ]))
    .expect("reads");
    r.remarks.clear();
    let back = read_package(&write_package(&r, "Test")).expect("reads back");
    assert_eq!(back.readings, r.readings);
    assert_eq!(back.events, r.events);
    assert_eq!(back.start_ms, r.start_ms);
    let (a, b) = (
        back.settings.hold_limit.expect("limit"),
        r.settings.hold_limit.expect("limit"),
    );
    assert!((a.rate() - b.rate()).abs() < 1e-9 * b.rate());
    assert_eq!(back.events[0].at_s, -60.0);
}

#[test]
fn an_evacuation_with_its_rig_reads_back_the_same() {
    let mut r = read_package(&package(&[
        ("readings.csv", "elapsed_s,channel,value\n0,P,20000\n60,P,9000\n"),
        ("channels.csv", "channel,quantity,unit,principle\nP,absolute_pressure,micron,thermal\n"),
        (
            "datapackage.json",
            r#"{"ruhe":{"kind":"pull-down","stages":[{"target":{"value":2000,"unit":"micron"},"break":{"value":103,"unit":"kPa"},"dwell_s":300},{"target":{"value":500,"unit":"micron"}}],
            "rig":{"pump":{"speed":0.002,"ultimate":2},"line":[{"name":"hose","tube":{"bore":0.008,"length":1.5},"side_by_side":1,"can_go":false}]},
            "rig_share":{"low_pa_s":0.001,"high_pa_s":0.002,"volume_l":0.3,"test":"Hoses 2"}}}"#,
        ),
    ]))
    .expect("reads");
    r.remarks.clear();
    assert_eq!(
        (r.settings.stages.len(), r.settings.stages[1].break_pa),
        (2, None)
    );
    let back = read_package(&write_package(&r, "Test")).expect("reads back");
    assert_eq!(
        (back.settings.rig, back.settings.rig_share),
        (r.settings.rig, r.settings.rig_share)
    );
    assert!((back.settings.stages[0].target_pa - 266.645).abs() < 0.01);
    let bad = read_package(&package(&[(
        "datapackage.json",
        r#"{"ruhe":{"kind":"pull-down","stages":[{"target":{"value":0,"unit":"micron"}}]}}"#,
    )]))
    .unwrap_err();
    assert!(bad.to_string().contains("stages[0].target"), "{bad}");
}

#[test]
fn a_logger_file_is_guessed_then_read_as_confirmed() {
    let csv = "Time;High side psig;Pipe temp °F\n2026/05/04 10:00:00;300,5;70,1\n2026/05/04 10:00:10;300,4;\n";
    let guess = understand("log.csv", csv.as_bytes())
        .expect("guesses")
        .columns;
    assert!(guess[0].is_time);
    assert_eq!(
        (guess[1].quantity, guess[1].unit),
        (
            Some(Quantity::GaugePressure),
            Some(ruhe_core::quantity::Unit::Psig)
        )
    );
    assert_eq!(
        (guess[2].quantity, guess[2].unit),
        (
            Some(Quantity::Temperature),
            Some(ruhe_core::quantity::Unit::DegF)
        )
    );
    let mapping = LoggerMapping {
        time_heading: "Time".into(),
        date_heading: None,
        zone: jiff::tz::Offset::constant(2).to_time_zone(),
        answers: Answers::default(),
        columns: guess[1..]
            .iter()
            .map(|g| MappedColumn {
                heading: g.heading.clone(),
                channel: Channel::new(&g.heading, g.quantity.expect("q"), g.unit.expect("u")),
            })
            .collect(),
    };
    let Taken {
        start_ms: start,
        readings,
        ..
    } = read_logger("log.csv", csv.as_bytes(), &mapping).expect("reads");
    assert_eq!(
        start,
        Some(
            "2026-05-04T08:00:00Z"
                .parse::<jiff::Timestamp>()
                .expect("time")
                .as_millisecond()
        )
    );
    assert_eq!(readings.len(), 3);
    assert_eq!((readings[2].at_s, readings[2].value), (10.0, 300.4));
    let bad = csv.replace("300,4", "3oo");
    let fault = read_logger("log.csv", bad.as_bytes(), &mapping)
        .expect_err("bad")
        .to_string();
    assert_eq!(
        fault,
        "log.csv, line 3, column High side psig: “3oo” is not a number"
    );
    assert!(
        understand("x.csv", b"\x00\x01\x02")
            .expect_err("binary")
            .to_string()
            .contains("not text")
    );
}

#[test]
fn date_and_time_in_two_columns_are_put_together_and_a_date_alone_is_refused() {
    let csv = "Date,Time,P psig\n2026-05-04,23:59:50,300.5\n2026-05-05,00:00:10,300.4\n";
    let guess = understand("log.csv", csv.as_bytes())
        .expect("guesses")
        .columns;
    assert_eq!(
        (guess[0].is_date, guess[0].is_time, guess[1].is_time),
        (true, false, true)
    );
    let column = MappedColumn {
        heading: "P psig".into(),
        channel: Channel::new(
            "P",
            Quantity::GaugePressure,
            ruhe_core::quantity::Unit::Psig,
        ),
    };
    let mapping = LoggerMapping {
        time_heading: "Time".into(),
        date_heading: Some("Date".into()),
        zone: jiff::tz::TimeZone::UTC,
        answers: Answers::default(),
        columns: vec![column],
    };
    let Taken { readings, .. } = read_logger("log.csv", csv.as_bytes(), &mapping).expect("reads");
    assert_eq!(
        readings.iter().map(|r| r.at_s).collect::<Vec<_>>(),
        [0.0, 20.0]
    );
    // The date alone would put every reading at midnight.
    let alone = LoggerMapping {
        time_heading: "Date".into(),
        date_heading: None,
        ..mapping.clone()
    };
    let fault = read_logger("log.csv", csv.as_bytes(), &alone)
        .expect_err("date only")
        .to_string();
    assert!(
        fault.contains("line 2, column Date") && fault.contains("without a time of day"),
        "{fault}"
    );
    let frozen = "Time,P psig\n2026-05-04 10:00:00,300.5\n2026-05-04 10:00:00,299.0\n";
    let fault = read_logger(
        "log.csv",
        frozen.as_bytes(),
        &LoggerMapping {
            date_heading: None,
            ..mapping
        },
    )
    .expect_err("frozen")
    .to_string();
    assert!(fault.contains("every row has the same time"), "{fault}");
}

#[test]
fn events_on_another_clock_than_the_readings_are_refused() {
    let files = package(&[
        (
            "readings.csv",
            "time,channel,value\n2026-05-04T09:00:00Z,P,300\n2026-05-04T09:10:00Z,P,300\n",
        ),
        ("events.csv", "elapsed_s,event,note\n120,supply_isolated,\n"),
    ]);
    let fault = read_package(&files).expect_err("two clocks").to_string();
    assert!(
        fault.contains("events.csv, line 2") && fault.contains("one clock"),
        "{fault}"
    );
}

#[test]
fn an_absolute_unit_is_no_test_pressure() {
    let fault = read_package(&package(&[(
        "datapackage.json",
        r#"{"ruhe":{"kind":"pressure-hold","test_pressure":{"value":300,"unit":"psia"}}}"#,
    )]))
    .expect_err("psia");
    assert!(
        fault.to_string().contains("ruhe.test_pressure.unit")
            && fault.to_string().contains("absolute unit"),
        "{fault}"
    );
}

/// A limit goes out as it was said: in its unit, with its digits, and back to the same figure.
#[test]
fn a_limit_keeps_its_unit_and_digits() {
    let said = r#"{"ruhe":{"kind":"pressure-hold","limit":{"drop":{"value":0.5,"unit":"psi"},"over_s":1800},
        "test_pressure":{"value":300,"unit":"psig"},"ceiling":{"value":42.5,"unit":"bar"},"barometer":{"value":1002,"unit":"hPa"}}}"#;
    let first = read_package(&package(&[("datapackage.json", said)])).unwrap();
    let written = write_package(&first, "as said");
    let text = String::from_utf8(written.0["datapackage.json"].clone()).unwrap();
    let told: serde_json::Value = serde_json::from_str(&text).unwrap();
    let of = |field: &str| told["ruhe"][field].to_string();
    assert_eq!(of("test_pressure"), r#"{"value":300.0,"unit":"psig"}"#);
    assert_eq!(of("ceiling"), r#"{"value":42.5,"unit":"bar"}"#);
    assert_eq!(of("barometer"), r#"{"value":1002.0,"unit":"hPa"}"#);
    assert!(
        of("limit").contains(r#""drop":{"value":0.5,"unit":"psi"}"#),
        "{text}"
    );
    let again = read_package(&written).unwrap();
    assert_eq!(again.settings, first.settings);
    // What nobody would say so stays what it is.
    let odd = said.replace(
        "\"value\":300,\"unit\":\"psig\"",
        "\"value\":1234567.891,\"unit\":\"Pa\"",
    );
    let odd = read_package(&package(&[("datapackage.json", &odd)])).unwrap();
    let back = read_package(&write_package(&odd, "odd")).unwrap();
    assert_eq!(back.settings.test_pa, Some(1_234_567.891));
}

/// Tables lie where the descriptor says, under any name; what is wrong in them is told of the file that holds it.
#[test]
fn a_table_may_lie_under_another_name() {
    let about = r#"{"resources":[{"name":"readings","path":"data/measured.csv"},{"name":"channels","path":["gauges.csv"]}],
        "ruhe":{"kind":"pressure-hold"}}"#;
    let mut files = package(&[("datapackage.json", about)]);
    let readings = files.0.remove("readings.csv").unwrap();
    let channels = files.0.remove("channels.csv").unwrap();
    files.0.insert("gauges.csv".into(), channels);
    let missing = read_package(&files).unwrap_err();
    assert_eq!(missing.file, "measured.csv");
    files.0.insert("measured.csv".into(), readings);
    assert_eq!(read_package(&files).unwrap().readings.len(), 4);
    let bad = b"elapsed_s,channel,value\n0,P,three hundred\n".to_vec();
    files.0.insert("measured.csv".into(), bad);
    let fault = read_package(&files).unwrap_err();
    assert_eq!(
        (fault.file.as_str(), fault.line),
        ("measured.csv", Some(2)),
        "{fault}"
    );
}
