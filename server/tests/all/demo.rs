//! The demo is what its readers are told: four circuits at different stages, each with the verdict its truth deserves.

use serde_json::Value;
use std::io::{BufRead, BufReader};
use std::process::{Child, Command, Stdio};

pub struct Demo {
    process: Child,
    url: String,
}

impl Demo {
    pub fn start(data: &std::path::Path) -> Self {
        let mut process = Command::new(env!("CARGO_BIN_EXE_ruhe"))
            .args(["demo", "--bind", "127.0.0.1:0", "--data"])
            .arg(data)
            .stdout(Stdio::piped())
            .spawn()
            .unwrap();
        let mut line = String::new();
        BufReader::new(process.stdout.take().unwrap())
            .read_line(&mut line)
            .unwrap();
        Self {
            url: line.trim().rsplit(' ').next().unwrap().to_owned(),
            process,
        }
    }
    fn get(&self, path: &str) -> Value {
        reqwest::blocking::get(format!("{}{path}", self.url))
            .unwrap()
            .json()
            .unwrap()
    }
}

impl Drop for Demo {
    fn drop(&mut self) {
        let _ = self.process.kill();
        let _ = self.process.wait();
    }
}

#[test]
fn every_circuit_stands_where_the_readme_says() {
    let dir = tempfile::tempdir().unwrap();
    let demo = Demo::start(dir.path());
    let today = demo.get("/api/today");
    let rows = today.as_array().unwrap();
    // What is in work; the signed one is found by its serial number.
    assert_eq!(rows.len(), 8);
    let found = demo.get("/api/search?q=1180");
    let row = |name: &str| {
        rows.iter()
            .chain(found.as_array().unwrap())
            .find(|r| r["name"].as_str().unwrap().contains(name))
            .unwrap()
    };
    let circuit = |name: &str| {
        demo.get(&format!(
            "/api/circuits/{}",
            row(name)["circuit_id"].as_str().unwrap()
        ))
    };
    let outcome = |c: &Value, stage: &str, i: usize| {
        let tests = c["stages"]
            .as_array()
            .unwrap()
            .iter()
            .find(|s| s["code"] == stage)
            .unwrap()["tests"]
            .clone();
        demo.get(&format!("/api/tests/{}", tests[i]["id"].as_str().unwrap()))["verdict"].clone()
    };

    // One at each stage of the second half; one waits for somebody to come back, one was come back to.
    for (system, stage) in [
        ("Ripening room two", "Survey"),
        ("Shop split", "Charge"),
        ("Yard cold room", "Sign-off"),
        ("Milk store", "Signed"),
        ("Whey cooler", "Start up"),
    ] {
        let r = rows.iter().find(|r| r["system"] == system).unwrap();
        assert_eq!(r["stage"], stage, "{system}");
    }
    let milk = rows.iter().find(|r| r["system"] == "Milk store").unwrap();
    assert_eq!(milk["clock"]["label"], "the revisit");

    // Signed, with all its gates met.
    let cold = circuit("Cold store");
    assert_eq!(
        (
            row("Cold store")["state"].as_str(),
            cold["signature"]["state"].as_str()
        ),
        (Some("passed"), Some("passed"))
    );
    assert!(
        cold["gates"]
            .as_array()
            .unwrap()
            .iter()
            .all(|g| g["met"] == true),
        "{}",
        cold["gates"]
    );
    assert_eq!(
        (
            outcome(&cold, "hold", 0)["outcome"].as_str(),
            outcome(&cold, "decay", 0)["outcome"].as_str()
        ),
        (Some("holds"), Some("passes"))
    );

    // Failed, found, mended, tested again as high.
    let right = circuit("Right circuit");
    assert_eq!(
        (
            outcome(&right, "hold", 0)["outcome"].as_str(),
            outcome(&right, "hold", 1)["outcome"].as_str()
        ),
        (Some("falls"), Some("holds"))
    );
    let place = right["search"]["places"]
        .as_array()
        .unwrap()
        .iter()
        .find(|p| p["log"].as_array().unwrap().len() == 3)
        .unwrap()
        .clone();
    assert_eq!(place["state"], "proven");
    let ladder = right["ladder"].as_array().unwrap();
    assert_eq!(
        (
            ladder[0]["is_leak"].as_bool(),
            ladder[1]["is_leak"].as_bool()
        ),
        (Some(true), Some(false))
    );
    assert!(
        ladder[1]["low_percent"].as_f64().unwrap() > 0.0,
        "the charge is known"
    );

    // A hold and a decay run, each listened to, what is due next on top.
    let (split, left) = (row("Line set and indoor coil"), row("Left circuit"));
    assert!(split["is_live"] == true && left["is_live"] == true);
    assert!(rows[0]["clock"]["at_ms"].as_i64() <= rows[1]["clock"]["at_ms"].as_i64());
    // What is signed is on Today only while somebody has to come back.
    let signed = rows.iter().filter(|r| r["is_signed"] == true);
    assert!(
        signed
            .clone()
            .all(|r| r["state_title"] == "Temporary, to be revisited")
    );
    assert_eq!(signed.count(), 1);
    let survey = circuit("Line set and indoor coil")["survey"]["sections"][0].clone();
    assert_eq!(survey["ceiling_name"], "indoor coil");
    assert!(
        survey["bounds"][0]
            .as_str()
            .unwrap()
            .contains("factory charge")
            && survey["missing"].as_array().unwrap().len() == 1,
        "{survey}"
    );
}

#[test]
fn a_demo_started_again_keeps_what_is_there() {
    let dir = tempfile::tempdir().unwrap();
    let ids = |d: &Demo| {
        let mut ids: Vec<String> = d
            .get("/api/today")
            .as_array()
            .unwrap()
            .iter()
            .map(|r| r["circuit_id"].as_str().unwrap().to_owned())
            .collect();
        ids.sort();
        ids
    };
    let first = ids(&Demo::start(dir.path()));
    assert_eq!(ids(&Demo::start(dir.path())), first);
}

/// On the right way nobody is asked for more than a careful person reads anyway: the pressures after a release and a
/// recovery, and what a test shows. No reading was needed besides.
#[test]
fn no_job_of_the_demo_needed_a_reading_outside_its_tests() {
    let dir = tempfile::tempdir().unwrap();
    let demo = Demo::start(dir.path());
    let mut steps = 0;
    for q in ["", "1180"] {
        let found = demo.get(&format!("/api/search?q={q}"));
        for row in found.as_array().unwrap() {
            let id = row["circuit_id"].as_str().unwrap();
            let c = demo.get(&format!("/api/circuits/{id}"));
            let story = c["inside"]["story"].as_array().unwrap();
            assert!(story.iter().all(|m| m["words"] != "reading"), "{story:?}");
            let stages = c["stages"].as_array().unwrap();
            let release = stages.iter().filter(|s| s["code"] == "release");
            steps += release
                .map(|s| s["steps"].as_array().unwrap().len())
                .sum::<usize>();
        }
    }
    assert!(steps > 3, "{steps}");
}
