//! Writes a [`Recording`] as the files of a data package. Reading them back gives the same recording.

use super::{Channel, PackageFiles, Recording};
use crate::quantity::Unit;
use serde_json::{Value, json};
use std::borrow::Cow;

/// A table as comma-separated values (RFC 4180, lines end in a line feed).
fn table<'a>(rows: impl IntoIterator<Item = Vec<Cow<'a, str>>>) -> Vec<u8> {
    let mut out = csv::Writer::from_writer(Vec::new());
    for row in rows {
        // Writing to memory fails for rows of different lengths alone, and each table below has one width.
        let written = out.write_record(row.iter().map(|cell| cell.as_bytes()));
        debug_assert!(written.is_ok(), "{written:?}");
    }
    out.into_inner().unwrap_or_default()
}

fn opt(v: Option<f64>) -> String {
    v.map_or_else(String::new, |v| v.to_string())
}

fn stamp(start_ms: Option<i64>, at_s: f64) -> String {
    match start_ms
        .and_then(|ms| jiff::Timestamp::from_millisecond(ms + (at_s * 1e3).round() as i64).ok())
    {
        Some(t) => t.to_string(),
        None => at_s.to_string(),
    }
}

fn channel_rows(channels: &[Channel]) -> Vec<Vec<Cow<'_, str>>> {
    let mut extra: Vec<&str> = Vec::new();
    for (name, _) in channels.iter().flat_map(|c| &c.extra) {
        if !extra.contains(&name.as_str()) {
            extra.push(name);
        }
    }
    let known = [
        "channel",
        "quantity",
        "unit",
        "resolution",
        "accuracy",
        "range",
        "position",
        "volume_share",
        "reference",
        "principle",
    ];
    let head = known.iter().chain(&extra).map(|n| Cow::from(*n)).collect();
    let row = |c: &'_ Channel| -> Vec<Cow<'_, str>> {
        let of_extra = |name: &&str| {
            let found = c.extra.iter().find(|(n, _)| n == name);
            found.map_or("", |(_, v)| v.as_str()).to_owned().into()
        };
        [
            c.name.clone().into(),
            c.quantity.code().into(),
            c.unit.code().into(),
            opt(c.resolution).into(),
            opt(c.accuracy).into(),
            opt(c.range).into(),
            c.position.map_or("", |p| p.code()).into(),
            opt(c.volume_share).into(),
            c.reference.map_or("", |r| r.code()).into(),
            c.principle.map_or("", |p| p.code()).into(),
        ]
        .into_iter()
        .chain(extra.iter().map(of_extra))
        .collect()
    };
    std::iter::once(head)
        .chain(channels.iter().map(row))
        .collect()
}

/// The package's files, ready to be put in a folder or a .zip.
#[must_use]
pub fn write_package(recording: &Recording, title: &str) -> PackageFiles {
    let time = if recording.start_ms.is_some() {
        "time"
    } else {
        "elapsed_s"
    };
    let head = |names: [&'static str; 3]| names.map(Cow::from).to_vec();
    let at = |at_s: f64| Cow::from(stamp(recording.start_ms, at_s));
    let readings = recording.readings.iter().map(|r| {
        let channel = recording.channels[r.channel].name.as_str();
        vec![at(r.at_s), channel.into(), r.value.to_string().into()]
    });
    let events = (recording.events.iter())
        .map(|e| vec![at(e.at_s), e.kind.code().into(), e.note.as_str().into()]);
    let descriptor = descriptor(recording, title, time);
    let files = [
        (
            "datapackage.json",
            serde_json::to_vec_pretty(&descriptor).unwrap_or_default(),
        ),
        ("channels.csv", table(channel_rows(&recording.channels))),
        (
            "readings.csv",
            table(std::iter::once(head([time, "channel", "value"])).chain(readings)),
        ),
        (
            "events.csv",
            table(std::iter::once(head([time, "event", "note"])).chain(events)),
        ),
    ];
    PackageFiles(files.map(|(n, bytes)| (n.into(), bytes)).into())
}

fn resource(name: &str, fields: &[(&str, &str)]) -> Value {
    let fields: Vec<Value> = fields
        .iter()
        .map(|(n, t)| json!({"name": n, "type": t}))
        .collect();
    json!({"name": name, "path": format!("{name}.csv"), "profile": "tabular-data-resource", "schema": {"fields": fields}})
}

fn descriptor(recording: &Recording, title: &str, time: &str) -> Value {
    let s = &recording.settings;
    let pressure = |pa: f64, unit: Unit| json!({"value": unit.of_si(pa), "unit": unit.code()});
    let mut ruhe =
        json!({"version": 1, "kind": s.kind.code(), "gas": s.gas.code(), "isolated": s.isolated});
    let mut put = |name: &str, value: Option<Value>| {
        if let Some(v) = value {
            ruhe[name] = v;
        }
    };
    put("barometer", s.barometer_pa.map(|pa| pressure(pa, Unit::Pa)));
    put("altitude_m", s.altitude_m.map(Value::from));
    put("volume_l", s.volume_l.map(Value::from));
    put("volume_low_l", s.volume_band_l.map(|b| Value::from(b.0)));
    put("volume_high_l", s.volume_band_l.map(|b| Value::from(b.1)));
    put("evacuated_s", s.evacuated_s.map(Value::from));
    put("planned_s", s.planned_s.map(Value::from));
    put("settled_override_s", s.settled_override_s.map(Value::from));
    put("refrigerant", s.refrigerant.clone().map(Value::from));
    put("volume_ratio", s.volume_ratio.map(Value::from));
    put("test_pressure", s.test_pa.map(|pa| pressure(pa, Unit::Pa)));
    put("ceiling", s.ceiling_pa.map(|pa| pressure(pa, Unit::Pa)));
    put("ceiling_b", s.ceiling_b_pa.map(|pa| pressure(pa, Unit::Pa)));
    put("tracer", s.tracer_pa.map(|pa| pressure(pa, Unit::Pa)));
    put(
        "awaits_isolation",
        s.awaits_isolation.then_some(Value::from(true)),
    );
    put("behind", s.behind.map(|b| Value::from(b.code())));
    put("simulated", s.is_simulated.then_some(Value::from(true)));
    put("part", s.part.map(|p| Value::from(p.code())));
    put(
        "rig",
        s.rig.as_ref().and_then(|r| serde_json::to_value(r).ok()),
    );
    put("rig_share", s.rig_share.as_ref().map(|r| json!({"low_pa_s": r.low_pa_s, "high_pa_s": r.high_pa_s, "volume_l": r.volume_l, "test": r.test})));
    let stage = |p: &super::PullStage| json!({"target": pressure(p.target_pa, Unit::Pa), "break": p.break_pa.map(|pa| pressure(pa, Unit::Pa)), "dwell_s": p.dwell_s});
    put(
        "stages",
        (!s.stages.is_empty()).then(|| s.stages.iter().map(stage).collect()),
    );
    put(
        "limit",
        s.hold_limit
            .map(|l| json!({"drop": pressure(l.drop_pa, Unit::Pa), "over_s": l.over_s})),
    );
    put(
        "limit",
        s.decay_limit.map(|l| {
            let mut v = json!({"level": pressure(l.level_pa, Unit::Pa), "at_s": l.at_s});
            if let Some(pa) = l.start_max_pa {
                v["start_max"] = pressure(pa, Unit::Pa);
            }
            if let Some((pa, over_s)) = l.rise {
                v["rise"] = json!({"value": pa, "unit": "Pa", "over_s": over_s});
            }
            v
        }),
    );
    let stamp = if time == "time" { "datetime" } else { "number" };
    let text = [
        "channel",
        "quantity",
        "unit",
        "position",
        "reference",
        "principle",
    ]
    .map(|n| (n, "string"));
    let numbers = ["resolution", "accuracy", "range", "volume_share"].map(|n| (n, "number"));
    json!({
        "profile": "tabular-data-package",
        "name": "ruhe-test",
        "title": title,
        "resources": [
            resource("channels", &[&text[..3], &numbers[..3], &text[3..4], &numbers[3..], &text[4..]].concat()),
            resource("readings", &[(time, stamp), ("channel", "string"), ("value", "number")]),
            resource("events", &[(time, stamp), ("event", "string"), ("note", "string")]),
        ],
        "ruhe": ruhe,
    })
}
