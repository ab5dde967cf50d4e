//! Whole-path cases: a folder is a data package and what a good judge says of it.
//!
//! The series are the trade's (common practice, no source). tests/cases/make_cases.py makes the folders.
#![allow(clippy::unwrap_used)]

use ruhe_core::hold::{HoldOutcome, LeakByOutcome, judge_hold, judge_leak_by};
use ruhe_core::quantity::Units;
use ruhe_core::reading::{Kind, PackageFiles, Recording, read_package};
use ruhe_core::vacuum::pull::{PullOutcome, judge_pull};
use ruhe_core::vacuum::{DecayOutcome, RigOutcome, judge_decay, judge_rig};
use std::path::Path;

fn read(dir: &Path) -> Recording {
    let files = std::fs::read_dir(dir)
        .unwrap()
        .map(|e| e.unwrap())
        .map(|e| {
            (
                e.file_name().to_string_lossy().into_owned(),
                std::fs::read(e.path()).unwrap(),
            )
        });
    read_package(&PackageFiles(files.collect()))
        .unwrap_or_else(|e| panic!("{}: {e}", dir.display()))
}

/// Outcome code, reasons, everything said, leak probability, warning.
fn judge(r: &Recording) -> (&'static str, Vec<&'static str>, String, Option<f64>, bool) {
    let u = Units::default();
    match r.settings.kind {
        Kind::PressureHold => {
            let v = judge_hold(r, u);
            let code = match v.outcome {
                HoldOutcome::Holds => "holds",
                HoldOutcome::Falls => "falls",
                HoldOutcome::Undecided => "undecided",
                HoldOutcome::NotApplicable => "not_applicable",
            };
            (
                code,
                v.reasons,
                format!(
                    "{} {} {} {}",
                    v.headline,
                    v.summary,
                    v.evidence.join(" "),
                    v.next_step
                ),
                None,
                false,
            )
        }
        Kind::LeakBy => {
            let v = judge_leak_by(r, u);
            let code = match v.outcome {
                LeakByOutcome::Outside => "outside",
                LeakByOutcome::LeakBy => "leak_by",
                LeakByOutcome::Both => "both",
                LeakByOutcome::Undecided => "undecided",
            };
            (
                code,
                v.reasons,
                format!(
                    "{} {} {} {}",
                    v.headline,
                    v.summary,
                    v.evidence.join(" "),
                    v.next_step
                ),
                None,
                false,
            )
        }
        Kind::PullDown => {
            let v = judge_pull(r, u);
            let code = match v.outcome {
                PullOutcome::Reached => "reached",
                PullOutcome::Pulling => "pulling",
                PullOutcome::Stalled => "stalled",
                PullOutcome::Break => "break",
                PullOutcome::NotApplicable => "not_applicable",
            };
            (
                code,
                v.reasons,
                format!(
                    "{} {} {} {}",
                    v.headline,
                    v.summary,
                    v.evidence.join(" "),
                    v.next_step
                ),
                None,
                false,
            )
        }
        Kind::RigCheck => {
            let v = judge_rig(r, u);
            let code = match v.outcome {
                RigOutcome::Good => "good",
                RigOutcome::Short => "short",
                RigOutcome::GivesGas => "gives_gas",
                RigOutcome::Leaks => "leaks",
                RigOutcome::Rises => "rises",
                RigOutcome::Undecided => "undecided",
            };
            (
                code,
                v.reasons,
                format!(
                    "{} {} {} {}",
                    v.headline,
                    v.summary,
                    v.evidence.join(" "),
                    v.next_step
                ),
                None,
                false,
            )
        }
        Kind::VacuumDecay => {
            let v = judge_decay(r, u);
            let code = match v.outcome {
                DecayOutcome::Passes => "passes",
                DecayOutcome::Fails => "fails",
                DecayOutcome::Undecided => "undecided",
                DecayOutcome::NotApplicable => "not_applicable",
            };
            (
                code,
                v.reasons,
                format!(
                    "{} {} {} {}",
                    v.headline,
                    v.summary,
                    v.evidence.join(" "),
                    v.next_step
                ),
                v.leak_probability,
                v.warns,
            )
        }
    }
}

#[test]
fn every_case_gets_the_verdict_a_good_judge_gives() {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/cases");
    let mut faults = Vec::new();
    let mut cases = 0;
    for entry in std::fs::read_dir(root).unwrap() {
        let dir = entry.unwrap().path();
        if !dir.is_dir() {
            continue;
        }
        cases += 1;
        let name = dir.file_name().unwrap().to_string_lossy().into_owned();
        let expected: serde_json::Value =
            serde_json::from_slice(&std::fs::read(dir.join("expected.json")).unwrap()).unwrap();
        let (outcome, reasons, said, leak, warns) = judge(&read(&dir));
        let mut fault = |what: String| {
            faults.push(format!(
                "{name}: {what}\n    said: {said} {reasons:?} leak {leak:?}"
            ))
        };
        if expected["outcome"] != outcome {
            fault(format!("expected {}, got {outcome}", expected["outcome"]));
        }
        for r in expected["reasons"].as_array().unwrap() {
            if !reasons.iter().any(|x| r == x) {
                fault(format!("reason {r} is missing"));
            }
        }
        for words in expected["says"].as_array().unwrap() {
            if !said.contains(words.as_str().unwrap()) {
                fault(format!("never says {words}"));
            }
        }
        if expected["leak_below"]
            .as_f64()
            .is_some_and(|p| leak.unwrap_or(1.0) >= p)
            || expected["leak_above"]
                .as_f64()
                .is_some_and(|p| leak.unwrap_or(0.0) <= p)
        {
            fault("leak probability".into());
        }
        if expected["warns"].as_bool().is_some_and(|w| w != warns) {
            fault("warning".into());
        }
    }
    assert!(cases >= 20, "only {cases} cases were found");
    assert!(faults.is_empty(), "\n{}", faults.join("\n"));
}

#[test]
fn every_sentence_keeps_to_the_units_asked_for_and_ends_as_one() {
    use ruhe_core::quantity::Unit;
    let metric = Units {
        pressure: Unit::Bar,
        temperature: Unit::DegC,
        vacuum: Unit::Pa,
    };
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/cases");
    let mut faults = Vec::new();
    for dir in std::fs::read_dir(root)
        .unwrap()
        .map(|e| e.unwrap().path())
        .filter(|d| d.is_dir())
    {
        let r = read(&dir);
        let (headline, mut sentences) = match r.settings.kind {
            Kind::PressureHold => {
                let v = judge_hold(&r, metric);
                (
                    v.headline,
                    [vec![v.summary, v.next_step], v.evidence].concat(),
                )
            }
            Kind::LeakBy => {
                let v = judge_leak_by(&r, metric);
                (
                    v.headline,
                    [vec![v.summary, v.next_step], v.evidence].concat(),
                )
            }
            Kind::PullDown => {
                let v = judge_pull(&r, metric);
                (
                    v.headline,
                    [vec![v.summary, v.next_step], v.evidence, v.prompts].concat(),
                )
            }
            Kind::RigCheck => {
                let v = judge_rig(&r, metric);
                (
                    v.headline,
                    [vec![v.summary, v.next_step], v.evidence].concat(),
                )
            }
            Kind::VacuumDecay => {
                let v = judge_decay(&r, metric);
                (
                    v.headline,
                    [vec![v.summary, v.next_step], v.evidence].concat(),
                )
            }
        };
        let name = dir.file_name().unwrap().to_string_lossy().into_owned();
        for s in &sentences {
            let first = s.chars().next().unwrap_or(' ');
            if !s.ends_with('.')
                || first.is_lowercase()
                || s.contains("  ")
                || s.contains("NaN")
                || s.contains("inf ")
            {
                faults.push(format!("{name}: not a sentence: {s}"));
            }
        }
        sentences.push(headline);
        for s in &sentences {
            if ["psi", "°F", "micron"].iter().any(|u| s.contains(u)) {
                faults.push(format!("{name}: {s}"));
            }
        }
    }
    assert!(faults.is_empty(), "\n{}", faults.join("\n"));
}
