//! The real command in a process of its own.
#![allow(dead_code, clippy::unwrap_used)]

pub mod people;

use reqwest::blocking::{Client, Response};
use serde_json::{Value, json};
use std::cell::Cell;
use std::io::{BufRead, BufReader};
use std::path::Path;
use std::process::{Child, Command, Output, Stdio};

pub struct Ruhe {
    pub process: Child,
    pub url: String,
    pub client: Client,
    /// When the next thing of a job happens, ms: jobs are entered afterwards, in the order in which they happened.
    clock: Cell<i64>,
}

impl Ruhe {
    pub fn start(data: &Path) -> Self {
        Self::start_with(data, &[])
    }
    pub fn start_with(data: &Path, more: &[&str]) -> Self {
        let mut process = Command::new(env!("CARGO_BIN_EXE_ruhe"))
            .args(["serve", "--bind", "127.0.0.1:0", "--data"])
            .arg(data)
            .args(more)
            .stdout(Stdio::piped())
            .spawn()
            .unwrap();
        let mut line = String::new();
        BufReader::new(process.stdout.take().unwrap())
            .read_line(&mut line)
            .unwrap();
        let url = line.trim().rsplit(' ').next().unwrap().to_owned();
        assert!(url.starts_with("http://127.0.0.1:"), "{line}");
        Self {
            process,
            url,
            client: Client::new(),
            clock: Cell::new(now_ms() - 20 * 86_400_000),
        }
    }
    /// The next moment of the job, so many minutes after the last.
    pub fn later(&self, minutes: i64) -> i64 {
        self.clock.set(self.clock.get() + minutes * 60_000);
        self.clock.get()
    }
    /// Logs a look at a place, later than all before.
    pub fn look(&self, circuit: &str, place: &str, method: &str, finding: &str) -> Response {
        let body = json!({"place": place, "method": method, "finding": finding, "dwell_s": 300.0,
            "at_ms": self.later(10)});
        self.post(&format!("/api/circuits/{circuit}/looks"), &body)
    }
    /// Logs a repair, later than all before.
    pub fn repair(&self, circuit: &str, place: &str) -> Response {
        self.post(
            &format!("/api/circuits/{circuit}/repairs"),
            &json!({"place": place, "cause": "not tight",
            "words": "tightened", "opened": "nothing", "at_ms": self.later(10)}),
        )
    }
    /// What both sides show after a release or a recovery, or outside any test.
    pub fn both(typed: &str, unit: &str) -> Value {
        json!({"side": "both", "pressure": {"typed": typed, "unit": unit}})
    }
    /// A release or a recovery; both sides show so many psig afterwards.
    pub fn emptied(&self, circuit: &str, step: &str, psig: &str) -> Response {
        let body = json!({"step": step, "note": "", "left": [Self::both(psig, "psig")], "at_ms": self.later(1)});
        self.post(&format!("/api/circuits/{circuit}/steps"), &body)
    }
    /// A reading outside any test, of both sides.
    pub fn seen(&self, circuit: &str, typed: &str, unit: &str) -> Response {
        let body = json!({"left": Self::both(typed, unit), "at_ms": self.later(1)});
        self.post(&format!("/api/circuits/{circuit}/seen"), &body)
    }
    /// Does what comes before a test of this kind: recovers, lets out, locks out, pulls down.
    pub fn made_ready(&self, circuit: &str, kind: &str) {
        let c = self.get(&format!("/api/circuits/{circuit}"));
        let line = c["inside"]["line"].as_str().unwrap();
        let ok = |r: Response| assert_eq!(r.status(), 201, "{}", r.text().unwrap());
        let is_pressed = matches!(kind, "pressure-hold" | "leak-by");
        if line.contains("refrigerant") && !line.contains("factory") {
            ok(self.emptied(circuit, "recovered", "0"));
        } else if !is_pressed && c["pressure_left"].is_string() {
            ok(self.emptied(circuit, "released", "0"));
        }
        if !is_pressed {
            self.step(circuit, "compressor_locked_out", "isolator, own lock");
        }
        if kind == "vacuum-decay" && !line.contains("vacuum") {
            ok(self.seen(circuit, "400", "micron"));
        }
    }
    /// A section beside a charge, looked at just now: at so many psig.
    pub fn looked_at(&self, circuit: &str, section: &str, psig: &str) {
        let mut left = Self::both(psig, "psig");
        left["section"] = json!(section);
        let r = self.post(
            &format!("/api/circuits/{circuit}/seen"),
            &json!({"left": left}),
        );
        assert_eq!(r.status(), 201, "{}", r.text().unwrap());
    }
    /// Looks at every place of the search with fluid, under the pressure of the last hold, and finds nothing.
    pub fn look_everywhere(&self, circuit: &str) {
        let c = self.get(&format!("/api/circuits/{circuit}"));
        let holds = c["stages"].as_array().unwrap().iter();
        let holds = holds
            .filter(|s| s["code"] == "hold")
            .flat_map(|s| s["tests"].as_array().unwrap());
        let last = holds.last().map(|t| self.test(t["id"].as_str().unwrap()));
        let at_pa = last.map_or(Value::Null, |t| t["plan"]["test_pa"].clone());
        for p in c["search"]["places"].as_array().unwrap() {
            let body = json!({"place": p["name"], "method": "bubbles", "finding": "clear", "dwell_s": 150.0,
                "at_pa": at_pa, "at_ms": self.later(3)});
            assert_eq!(
                self.post(&format!("/api/circuits/{circuit}/looks"), &body)
                    .status(),
                201
            );
        }
    }
    pub fn step(&self, circuit: &str, step: &str, note: &str) -> Response {
        self.post(
            &format!("/api/circuits/{circuit}/steps"),
            &json!({"step": step, "note": note}),
        )
    }
    /// A gate of a circuit.
    pub fn gate(&self, circuit: &str, code: &str) -> Value {
        let c = self.get(&format!("/api/circuits/{circuit}"));
        c["gates"]
            .as_array()
            .unwrap()
            .iter()
            .find(|g| g["code"] == code)
            .cloned()
            .unwrap_or_default()
    }
    /// A place of a circuit's leak search.
    pub fn place(&self, circuit: &str, name: &str) -> Value {
        let c = self.get(&format!("/api/circuits/{circuit}"));
        c["search"]["places"]
            .as_array()
            .unwrap()
            .iter()
            .find(|p| p["name"] == name)
            .cloned()
            .unwrap_or_default()
    }
    pub fn post(&self, path: &str, body: &Value) -> Response {
        self.client
            .post(format!("{}{path}", self.url))
            .json(body)
            .send()
            .unwrap()
    }
    pub fn get(&self, path: &str) -> Value {
        let r = self
            .client
            .get(format!("{}{path}", self.url))
            .send()
            .unwrap();
        assert!(r.status().is_success(), "{path}: {}", r.status());
        r.json().unwrap()
    }
    /// The whole record of a circuit, a .zip.
    pub fn record(&self, circuit: &str) -> Vec<u8> {
        let path = format!("{}/api/circuits/{circuit}/record.zip", self.url);
        let r = self.client.get(path).send().unwrap();
        assert_eq!(r.status(), 200);
        r.bytes().unwrap().to_vec()
    }
    /// Status and message of a refusal.
    pub fn refused(&self, path: &str, body: &Value) -> (u16, String) {
        let r = self.post(path, body);
        let status = r.status().as_u16();
        let body: Value = r.json().unwrap_or_default();
        (
            status,
            body["message"].as_str().unwrap_or_default().to_owned(),
        )
    }
    /// What a logger's file seems to be.
    pub fn file(&self, name: &str, content: &str) -> Value {
        let r = self
            .client
            .post(format!("{}/api/csv?file={name}", self.url));
        let r = r.header("Content-Type", "application/octet-stream");
        r.body(content.to_owned()).send().unwrap().json().unwrap()
    }
    /// A job with one circuit and plates of 450 and 600 psig: the circuit's id.
    pub fn job(&self, kind: &str) -> String {
        let made: Value = self
            .post(
                "/api/jobs",
                &json!({
                    "site_name": "Saltmarsh School", "system_name": "Gym split",
                    "circuits": [{"tag": "A", "name": "Line set", "kind": kind, "refrigerant": "R-32", "plates": [
                        {"part": "indoor coil", "high": "450", "only_one": true, "unit": "psig"},
                            {"part": "outdoor unit", "low": "600", "high": "600", "unit": "psig"}]}]
                }),
            )
            .json()
            .unwrap();
        made["circuit_ids"][0].as_str().unwrap().to_owned()
    }
    /// Says that a test's supply was shut.
    pub fn shut_supply(&self, test: &str, at_ms: i64) {
        let body = json!({"id": format!("shut-{test}"), "kind": "supply_isolated", "at_ms": at_ms});
        assert_eq!(
            self.post(&format!("/api/tests/{test}/events"), &body)
                .status(),
            201
        );
    }
    /// A quiet hold of an hour, one reading a minute, entered afterwards; ended.
    pub fn finished_hold(
        &self,
        circuit: &str,
        body: &Value,
        psig: f64,
        loss_per_minute: f64,
    ) -> String {
        self.made_ready(circuit, body["kind"].as_str().unwrap());
        let made: Value = self
            .post(&format!("/api/circuits/{circuit}/tests"), body)
            .json()
            .unwrap();
        let id = made["id"]
            .as_str()
            .unwrap_or_else(|| panic!("{made}"))
            .to_owned();
        let test = self.get(&format!("/api/tests/{id}"));
        let start = self.later(10);
        self.later(60);
        let rows: Vec<Value> = (0..60)
            .flat_map(|k| {
                let p = psig - loss_per_minute * f64::from(k) + 0.02 * f64::from(k * 7 % 5);
                let both = [(0, format!("{p:.1}")), (1, "70.0".to_owned())];
                both.map(|(c, typed)| {
                    json!({"id": format!("{id}{k}{c}"),
                    "channel_id": test["channels"][c]["id"], "typed": typed,
                    "at_ms": start + i64::from(k) * 60_000, "client_ms": now_ms()})
                })
            })
            .collect();
        assert_eq!(
            self.post(
                &format!("/api/tests/{id}/readings"),
                &json!({"readings": rows})
            )
            .status(),
            201
        );
        self.shut_supply(&id, start);
        assert_eq!(
            self.post(&format!("/api/tests/{id}/end"), &json!({}))
                .status(),
            201
        );
        id
    }
    /// A hold at 300 psig with one probe: its id and its channels' ids.
    pub fn hold(&self, circuit: &str) -> (String, String, String) {
        self.made_ready(circuit, "pressure-hold");
        let made: Value = self
            .post(&format!("/api/circuits/{circuit}/tests"), &hold_body(300.0))
            .json()
            .unwrap();
        let id = made["id"].as_str().unwrap().to_owned();
        let test = self.get(&format!("/api/tests/{id}"));
        (
            id,
            test["channels"][0]["id"].as_str().unwrap().into(),
            test["channels"][1]["id"].as_str().unwrap().into(),
        )
    }
}

pub fn hold_body(psig: f64) -> Value {
    json!({"kind": "pressure-hold", "plan": {"test_pa": psig * 6894.757, "planned_s": 1800.0}, "channels": [
        {"name": "P", "quantity": "gauge_pressure", "unit": "psig", "resolution": 0.1, "range": 800.0},
        {"name": "T", "quantity": "temperature", "unit": "degF", "resolution": 0.1}]})
}

impl Drop for Ruhe {
    fn drop(&mut self) {
        let _ = self.process.kill();
        let _ = self.process.wait();
    }
}

pub fn now_ms() -> i64 {
    i64::try_from(
        std::time::SystemTime::now()
            .duration_since(std::time::UNIX_EPOCH)
            .unwrap()
            .as_millis(),
    )
    .unwrap()
}

/// Lets the writers end, whatever happens to who watches them.
pub struct Stop<'a>(pub &'a std::sync::atomic::AtomicBool);

impl Drop for Stop<'_> {
    fn drop(&mut self) {
        self.0.store(true, std::sync::atomic::Ordering::Relaxed);
    }
}

pub fn command(args: &[&str]) -> Output {
    Command::new(env!("CARGO_BIN_EXE_ruhe"))
        .args(args)
        .output()
        .unwrap()
}

/// A file of a record.
pub fn file_of(record: &[u8], name: &str) -> Vec<u8> {
    let mut zip = zip::ZipArchive::new(std::io::Cursor::new(record.to_vec())).unwrap();
    let mut out = vec![];
    std::io::Read::read_to_end(&mut zip.by_name(name).unwrap(), &mut out).unwrap();
    out
}

/// The key that a record is signed with.
pub fn key_of(record: &[u8]) -> String {
    let signature: Value = serde_json::from_slice(&file_of(record, "signature.json")).unwrap();
    signature["fingerprint"].as_str().unwrap().to_owned()
}

/// `ruhe verify` on a record, with the key it should be signed with if that is known: exit code and words.
pub fn verified(dir: &Path, bytes: &[u8], key: Option<&str>) -> (i32, String) {
    let file = dir.join("handed-over.zip");
    std::fs::write(&file, bytes).unwrap();
    let mut args = vec!["verify", file.to_str().unwrap()];
    if let Some(k) = key {
        args.extend(["--key", k]);
    }
    let told = command(&args);
    let words = String::from_utf8(told.stdout).unwrap() + &String::from_utf8(told.stderr).unwrap();
    (told.status.code().unwrap(), words)
}

/// A body of a vacuum test with one gauge in micron.
pub fn vacuum_body(kind: &str, plan: Value) -> Value {
    json!({"kind": kind, "plan": plan, "channels": [{"name": "Far gauge", "quantity": "absolute_pressure",
        "unit": "micron", "resolution": 1.0, "range": 25_000.0, "position": "far"}]})
}

impl Ruhe {
    /// Registers a thing of the kit: its id.
    pub fn register_kit(&self, doc: &Value) -> String {
        let r = self.post("/api/kit", doc);
        let status = r.status();
        let made: Value = r.json().unwrap();
        assert_eq!(status, 201, "{made}");
        made["id"].as_str().unwrap().to_owned()
    }
    /// A vacuum test whose readings (s, micron) ended just now, with events (kind, s); ended if `ended`.
    pub fn vacuum(
        &self,
        circuit: &str,
        body: &Value,
        readings: &[(f64, f64)],
        events: &[(&str, f64)],
        ended: bool,
    ) -> String {
        if body["kind"] != "rig-check" {
            self.made_ready(circuit, body["kind"].as_str().unwrap());
        }
        let r = self.post(&format!("/api/circuits/{circuit}/tests"), body);
        let status = r.status();
        let made: Value = r.json().unwrap();
        assert_eq!(status, 201, "{made}");
        let id = made["id"].as_str().unwrap().to_owned();
        let test = self.get(&format!("/api/tests/{id}"));
        let start = now_ms() - (readings.last().map_or(0.0, |r| r.0) * 1e3) as i64 - 1_000;
        let at = |t: f64| start + (t * 1e3) as i64;
        let rows: Vec<Value> = readings
            .iter()
            .enumerate()
            .map(|(k, (t, v))| {
                json!({"id": format!("{id}{k}"), "channel_id": test["channels"][0]["id"],
                "typed": format!("{v:.0}"), "at_ms": at(*t), "client_ms": now_ms()})
            })
            .collect();
        assert_eq!(
            self.post(
                &format!("/api/tests/{id}/readings"),
                &json!({"readings": rows})
            )
            .status(),
            201
        );
        for (k, (kind, t)) in events.iter().enumerate() {
            assert_eq!(
                self.post(
                    &format!("/api/tests/{id}/events"),
                    &json!({"id": format!("{id}e{k}"), "kind": kind, "at_ms": at(*t)})
                )
                .status(),
                201
            );
        }
        if ended {
            assert_eq!(
                self.post(&format!("/api/tests/{id}/end"), &json!({}))
                    .status(),
                201
            );
        }
        id
    }
    pub fn test(&self, id: &str) -> Value {
        self.get(&format!("/api/tests/{id}"))
    }
}

/// A level every ten seconds for so many minutes.
pub fn curve(minutes: u32, level: impl Fn(f64) -> f64) -> Vec<(f64, f64)> {
    (0..=minutes * 6)
        .map(|k| f64::from(k) * 10.0)
        .map(|t| (t, level(t)))
        .collect()
}
