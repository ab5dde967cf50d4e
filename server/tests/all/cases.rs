//! The whole-path cases of core's tests through the last door: as packages over HTTP, and as records that are
//! downloaded and checked by the command.

use crate::support::{Ruhe, key_of, verified};
use ruhe_core::reading::PackageFiles;
use ruhe_server::files::zip;
use serde_json::Value;
use std::path::Path;

#[test]
fn every_case_sent_as_a_package_is_shown_as_a_good_judge_says() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let circuit = ruhe.job("bench_component");
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("../core/tests/cases");
    let mut faults = vec![];
    let mut count = 0;
    for case in std::fs::read_dir(root).unwrap().map(|e| e.unwrap().path()) {
        if !case.is_dir() {
            continue;
        }
        count += 1;
        let files = std::fs::read_dir(&case)
            .unwrap()
            .map(|e| e.unwrap())
            .map(|e| {
                (
                    e.file_name().to_string_lossy().into_owned(),
                    std::fs::read(e.path()).unwrap(),
                )
            });
        let files = PackageFiles(files.collect());
        let expected: Value = serde_json::from_slice(&files.0["expected.json"]).unwrap();
        let sent = ruhe
            .client
            .post(format!(
                "{}/api/circuits/{circuit}/packages?file=case.zip",
                ruhe.url
            ))
            .body(zip(&files).unwrap())
            .send()
            .unwrap();
        let status = sent.status();
        let made: Value = sent.json().unwrap();
        assert_eq!(status, 201, "{}: {made}", case.display());
        let test = ruhe.get(&format!("/api/tests/{}", made["id"].as_str().unwrap()));
        if test["verdict"]["outcome"] != expected["outcome"] {
            faults.push(format!(
                "{}: {}",
                case.display(),
                test["verdict"]["outcome"]
            ));
        }
    }
    assert!(count > 50, "{count}");
    assert!(faults.is_empty(), "{faults:#?}");

    let record = ruhe.record(&circuit);
    let (code, words) = verified(dir.path(), &record, Some(&key_of(&record)));
    assert_eq!(code, 0, "{words}");
    assert_eq!(words.matches("judged again, the same").count(), count);
}
