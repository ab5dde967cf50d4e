//! The whole-path cases of core's tests, taken by a command: what is frozen is what a good judge says.

use crate::work::{START, Work, no_kit, seal_of};
use ruhe_core::reading::{PackageFiles, read_package};
use ruhe_job::act::{freeze, import};
use ruhe_job::plan::Plan;
use ruhe_job::procedure::JobKind;
use ruhe_job::record::verify;
use ruhe_job::state::{Now, record};
use std::path::Path;
use std::sync::Arc;

#[test]
fn every_case_taken_by_command_is_frozen_as_a_good_judge_says() {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("../core/tests/cases");
    let mut count = 0;
    for dir in std::fs::read_dir(root).unwrap().map(|e| e.unwrap().path()) {
        if !dir.is_dir() {
            continue;
        }
        count += 1;
        let files = std::fs::read_dir(&dir)
            .unwrap()
            .map(|e| e.unwrap())
            .map(|e| {
                (
                    e.file_name().to_string_lossy().into_owned(),
                    std::fs::read(e.path()).unwrap(),
                )
            });
        let files = PackageFiles(files.collect());
        let expected: serde_json::Value =
            serde_json::from_slice(&files.0["expected.json"]).unwrap();
        let recording = read_package(&files).unwrap();

        let mut w = Work::of(JobKind::BenchComponent);
        let (id, kit) = (w.fresh(), no_kit());
        let plan = Plan::of_settings(&recording.settings);
        let taken = import(
            &w.circuit(),
            &recording,
            plan,
            (START, "imported"),
            (&kit, None),
            (&id, &ruhe_job::people::By::machine("", "")),
            // Taken in when it is over.
            w.now + 30 * 86_400_000,
        )
        .unwrap();
        w.keep(&id, taken.deeds);
        let mut lines = taken.readings;
        lines.sort_by(|a, b| (a.at_ms, &a.id).cmp(&(b.at_ms, &b.id)));
        let values: Vec<(i64, u32, f64)> = lines
            .iter()
            .map(|l| (l.at_ms, l.channel, l.value))
            .collect();
        w.readings.insert(id.clone(), lines.clone());
        let c = w.circuit();
        let t = c.test(&id).unwrap();
        let now = Now::of(Arc::new(record(t, &values)), false, false);
        let ends = w.fresh();
        w.keep(&ends, vec![freeze(t, &now, seal_of(&lines), w.now)]);

        let c = w.circuit();
        let found = c.test(&id).unwrap().finding();
        assert_eq!(expected["outcome"], found.outcome(), "{}", dir.display());
        // And the record of it is whole, and judged again it is the same.
        let checked = verify(&w.record()).unwrap_or_else(|e| panic!("{}: {e}", dir.display()));
        assert!(checked.is_same(), "{}: {:?}", dir.display(), checked.tests);
    }
    assert!(count > 50, "{count}");
}
