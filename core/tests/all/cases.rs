//! Whole-path cases: a folder is a data package and what a good judge says of it.
//!
//! The series are the trade's (common practice, no source). tests/cases/make_cases.py makes the folders.

use ruhe_core::judge::{Finding, judge, say};
use ruhe_core::quantity::{Unit, Units};
use ruhe_core::reading::{PackageFiles, Recording, read_package};
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
        let finding = judge(&read(&dir));
        let (outcome, reasons) = (finding.outcome(), finding.reasons());
        let w = say(&finding, Units::default());
        let said = format!(
            "{} {} {} {}",
            w.headline,
            w.summary,
            w.evidence.join(" "),
            w.next_step
        );
        let (leak, warns) = match &finding {
            Finding::VacuumDecay(v) => (v.leak_probability, v.warns),
            _ => (None, false),
        };
        let mut fault = |what: String| {
            faults.push(format!(
                "{name}: {what}\n    said: {said} {reasons:?} leak {leak:?}"
            ))
        };
        if expected["outcome"] != outcome {
            fault(format!("expected {}, got {outcome}", expected["outcome"]));
        }
        for r in expected["reasons"].as_array().unwrap() {
            if !reasons.iter().any(|x| r == x.code()) {
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

/// Every case with its finding.
fn findings() -> Vec<(String, Recording, Finding)> {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/cases");
    std::fs::read_dir(root)
        .unwrap()
        .map(|e| e.unwrap().path())
        .filter(|d| d.is_dir())
        .map(|d| {
            let r = read(&d);
            let finding = judge(&r);
            (
                d.file_name().unwrap().to_string_lossy().into_owned(),
                r,
                finding,
            )
        })
        .collect()
}

#[test]
fn every_sentence_keeps_to_the_units_asked_for_and_ends_as_one() {
    let metric = Units {
        pressure: Unit::Bar,
        temperature: Unit::DegC,
        vacuum: Unit::Pa,
    };
    let mut faults = Vec::new();
    for (name, _, finding) in findings() {
        let w = say(&finding, metric);
        let mut sentences = [vec![w.summary, w.next_step], w.evidence, w.prompts].concat();
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
        sentences.push(w.headline);
        sentences.extend(w.explanations);
        for s in &sentences {
            if ["psi", "°F", "micron"].iter().any(|u| s.contains(u)) {
                faults.push(format!("{name}: {s}"));
            }
        }
    }
    assert!(faults.is_empty(), "\n{}", faults.join("\n"));
}

#[test]
fn a_finding_that_was_kept_is_the_finding_that_was_made() {
    for (name, recording, finding) in findings() {
        let kept: Finding =
            serde_json::from_str(&serde_json::to_string(&finding).unwrap()).unwrap();
        assert_eq!(kept, finding, "{name}");
        assert_eq!(finding.kind(), recording.settings.kind, "{name}");
        assert_eq!(judge(&recording), finding, "{name}: judged twice");
        assert_eq!(
            say(&kept, Units::default()),
            say(&finding, Units::default()),
            "{name}"
        );
    }
}
