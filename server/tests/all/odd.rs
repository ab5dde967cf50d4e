//! Generated input at every address that takes JSON: numbers, texts and lists that no page sends. Nothing breaks, nothing
//! hangs, and what is kept afterwards is as it was kept. The seed is fixed; `RUHE_ODD=rounds` goes on for longer.

use crate::support::{Ruhe, command, hold_body, now_ms};
use rand::rngs::StdRng;
use rand::seq::IndexedRandom as _;
use rand::{Rng as _, SeedableRng as _};
use serde_json::{Map, Value, json};
use std::path::Path;
use std::time::Duration;

/// What a number may be, beside what it should be.
const NUMBERS: [f64; 14] = [
    0.0,
    -0.0,
    1e300,
    -1e300,
    1e-300,
    5e-324,
    -1.0,
    0.5,
    101_325.0,
    9_007_199_254_740_993.0,
    1e15,
    -273.15,
    1e9,
    1e12,
];
const WHOLE: [i64; 8] = [
    i64::MIN,
    i64::MAX,
    0,
    -1,
    1,
    i64::MAX / 1_000,
    1_700_000_000_000,
    253_402_300_800_000,
];
const TEXTS: [&str; 20] = [
    "",
    " ",
    "0",
    "-29.9",
    "1e309",
    "NaN",
    "inf",
    "300.1",
    "1,5",
    "1.234,5",
    "0x1F",
    "12:61",
    "2026-02-30",
    "\u{202e}abc",
    "\u{0}",
    "Pressure",
    "A",
    "R-410A",
    "psig",
    "’; DROP TABLE entries; --",
];

/// Makes values after the schemas of a description.
struct Maker<'a> {
    schemas: &'a Value,
    /// Ids that are known here.
    ids: Vec<String>,
    rng: StdRng,
}

impl Maker<'_> {
    fn chance(&mut self, p: f64) -> bool {
        self.rng.random_bool(p)
    }

    fn text(&mut self) -> Value {
        if self.chance(0.3) {
            return json!(self.ids.choose(&mut self.rng).unwrap());
        }
        if self.chance(0.05) {
            return json!("x".repeat(5_000));
        }
        json!(TEXTS.choose(&mut self.rng).unwrap())
    }

    fn value(&mut self, schema: &Value, depth: usize) -> Value {
        if let Some(name) = schema["$ref"].as_str() {
            let schemas = self.schemas;
            return self.value(&schemas[name.rsplit('/').next().unwrap()], depth + 1);
        }
        for of in ["oneOf", "anyOf"] {
            if let Some(all) = schema[of].as_array() {
                let one = all.choose(&mut self.rng).unwrap().clone();
                return self.value(&one, depth + 1);
            }
        }
        if let Some(all) = schema["allOf"].as_array() {
            let mut out = Map::new();
            for part in all {
                if let Value::Object(o) = self.value(part, depth + 1) {
                    out.extend(o);
                }
            }
            return Value::Object(out);
        }
        if let Some(all) = schema["enum"].as_array() {
            return if self.chance(0.95) {
                all.choose(&mut self.rng).unwrap().clone()
            } else {
                self.text()
            };
        }
        let mut kind = schema["type"].clone();
        if let Some(kinds) = kind.as_array() {
            kind = kinds.choose(&mut self.rng).unwrap().clone();
        }
        match kind.as_str().unwrap_or("object") {
            "null" => Value::Null,
            "boolean" => json!(self.chance(0.5)),
            "integer" if self.chance(0.5) => json!(now_ms() - self.rng.random_range(0..7_200_000)),
            "integer" => json!(WHOLE.choose(&mut self.rng).unwrap()),
            "number" if self.chance(0.4) => json!(self.rng.random_range(1.0..2_000_000.0)),
            "number" => json!(NUMBERS.choose(&mut self.rng).unwrap()),
            "string" => self.text(),
            "array" => {
                let count = if depth > 8 {
                    0
                } else {
                    self.rng.random_range(0..4)
                };
                let items = schema["items"].clone();
                (0..count).map(|_| self.value(&items, depth + 1)).collect()
            }
            _ => {
                let mut out = Map::new();
                let needed = schema["required"].as_array().cloned().unwrap_or_default();
                for (name, part) in schema["properties"].as_object().into_iter().flatten() {
                    let is_needed = needed.iter().any(|n| n == name);
                    let p = if is_needed {
                        0.97
                    } else if depth > 8 {
                        0.0
                    } else {
                        0.5
                    };
                    if self.chance(p) {
                        out.insert(name.clone(), self.value(part, depth + 1));
                    }
                }
                Value::Object(out)
            }
        }
    }
}

#[test]
fn no_number_text_or_list_breaks_anything() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let (circuit, other) = (ruhe.job("repair"), ruhe.job("new_split"));
    let bench = ruhe.job("bench_component");
    let (test, p, _) = ruhe.hold(&bench);
    let ended = ruhe.finished_hold(&other, &hold_body(300.0), 300.0, 0.0);
    let file = Path::new(concat!(env!("CARGO_MANIFEST_DIR"), "/../web/openapi.json"));
    let described: Value = serde_json::from_slice(&std::fs::read(file).unwrap()).unwrap();
    let mut maker = Maker {
        schemas: &described["components"]["schemas"],
        ids: vec![
            circuit.clone(),
            other.clone(),
            bench.clone(),
            test.clone(),
            ended.clone(),
            p,
        ],
        rng: StdRng::seed_from_u64(28),
    };
    let rounds: usize = std::env::var("RUHE_ODD").map_or(12, |n| n.parse().unwrap());
    let mut ways = vec![];
    for (path, item) in described["paths"].as_object().unwrap() {
        for method in ["post", "put"] {
            let schema = &item[method]["requestBody"]["content"]["application/json"]["schema"];
            // People are counted and throttled; a drill of its own for each would only be slow.
            if schema.is_object()
                && !["/api/people", "/api/session", "/api/drill"]
                    .iter()
                    .any(|p| path.starts_with(p))
            {
                ways.push((method, path.clone(), schema.clone()));
            }
        }
    }
    assert!(ways.len() > 35, "{}", ways.len());
    let (mut sent, mut taken) = (0, 0);
    for _ in 0..rounds {
        for (method, path, schema) in &ways {
            let id = if path.starts_with("/api/tests") {
                [&test, &ended].choose(&mut maker.rng).unwrap().to_string()
            } else {
                [&circuit, &other, &bench]
                    .choose(&mut maker.rng)
                    .unwrap()
                    .to_string()
            };
            let at = path.split('/').map(|part| {
                if part.starts_with('{') {
                    id.as_str()
                } else {
                    part
                }
            });
            let url = format!("{}{}", ruhe.url, at.collect::<Vec<_>>().join("/"));
            let body = maker.value(schema, 0);
            let request = if *method == "put" {
                ruhe.client.put(&url)
            } else {
                ruhe.client.post(&url)
            };
            let answer = request.json(&body).timeout(Duration::from_secs(30)).send();
            let status = answer.map(|r| r.status().as_u16());
            assert!(
                status.as_ref().is_ok_and(|s| *s < 500),
                "{method} {path}: {status:?}\n{body}"
            );
            sent += 1;
            taken += usize::from(status.unwrap() < 300);
        }
    }
    assert!(
        taken * 20 > sent,
        "too few came through to say anything: {taken} of {sent}"
    );
    for id in [&circuit, &other, &bench] {
        ruhe.get(&format!("/api/circuits/{id}"));
        ruhe.get(&format!("/api/circuits/{id}/record"));
    }
    for id in [&test, &ended] {
        // It may have been struck out, or moved.
        let shown = ruhe
            .client
            .get(format!("{}/api/tests/{id}", ruhe.url))
            .send();
        assert!([200, 404].contains(&shown.unwrap().status().as_u16()));
    }
    drop(ruhe);
    let told = command(&["verify", "--data", dir.path().to_str().unwrap()]);
    assert_eq!(
        told.status.code(),
        Some(0),
        "{}",
        String::from_utf8_lossy(&told.stdout)
    );
}
