//! Whose work is inside: every crate and npm package stands in the notices, under a licence that the project takes. The
//! lists lie in the project; nothing is asked of the network.

use std::path::Path;
use std::process::Command;

/// Licences whose terms are met by naming the work and giving its text. Of a choice, one has to be among them.
const TAKEN: [&str; 12] = [
    "Apache-2.0",
    "MIT",
    "ISC",
    "BSD-2-Clause",
    "BSD-3-Clause",
    "0BSD",
    "Zlib",
    "Unicode-3.0",
    "Unlicense",
    "CC0-1.0",
    // Its text goes along, and the file that is under it is unchanged.
    "MPL-2.0",
    // Fonts.
    "OFL-1.1",
];
/// Whose manifest names a file instead: looked at by hand.
const BY_HAND: [&str; 1] = ["aga8 "];

fn root() -> &'static Path {
    Path::new(concat!(env!("CARGO_MANIFEST_DIR"), "/.."))
}

fn notices() -> String {
    std::fs::read_to_string(root().join("web/public/notices.txt")).unwrap()
}

/// The lines that name a work.
fn works(notices: &str) -> Vec<&str> {
    let list = notices.split("\n\n").nth(1).unwrap();
    list.lines().collect()
}

#[test]
fn every_work_inside_stands_in_the_notices() {
    let notices = notices();
    let works = works(&notices);
    let named = |name: &str| works.iter().any(|w| w.starts_with(&format!("{name}: ")));
    let mut count = 0;
    for of in ["ruhe-server", "ruhe-wasm"] {
        let told = Command::new(env!("CARGO"))
            .args([
                "tree",
                "--locked",
                "--offline",
                "-p",
                of,
                "-e",
                "normal",
                "--prefix",
                "none",
                "-f",
                "{p}",
            ])
            .current_dir(root())
            .output()
            .unwrap();
        assert!(
            told.status.success(),
            "{}",
            String::from_utf8_lossy(&told.stderr)
        );
        for line in String::from_utf8(told.stdout).unwrap().lines() {
            let mut parts = line.split(' ');
            let (Some(name), Some(version)) = (parts.next(), parts.next()) else {
                continue;
            };
            if !name.is_empty() && !name.starts_with("ruhe-") {
                let work = format!("{name} {}", version.trim_start_matches('v'));
                assert!(
                    named(&work),
                    "{work} is not in the notices: run scripts/notices.mjs"
                );
                count += 1;
            }
        }
    }
    let lock = std::fs::read_to_string(root().join("web/package-lock.json")).unwrap();
    let lock: serde_json::Value = serde_json::from_str(&lock).unwrap();
    for (path, p) in lock["packages"].as_object().unwrap() {
        if path.is_empty() || p["dev"] == true || p["optional"] == true {
            continue;
        }
        let name = path.rsplit("node_modules/").next().unwrap();
        let work = format!("{name} {}", p["version"].as_str().unwrap());
        assert!(
            named(&work),
            "{work} is not in the notices: run scripts/notices.mjs"
        );
        count += 1;
    }
    assert!(count > 300, "{count}");
}

#[test]
fn every_licence_is_one_that_the_project_takes() {
    let notices = notices();
    for work in works(&notices) {
        if BY_HAND.iter().any(|b| work.starts_with(b)) {
            continue;
        }
        let licence = work.split_once(": ").unwrap().1;
        let licence = licence
            .split(" [")
            .next()
            .unwrap()
            .replace(" WITH LLVM-exception", "");
        // What is joined by *and* has to be taken all; a slash is how *or* was written once.
        let is_taken = licence.split(" AND ").all(|part| {
            part.replace('/', " OR ")
                .split(" OR ")
                .any(|one| TAKEN.contains(&one.trim().trim_matches(['(', ')'])))
        });
        assert!(is_taken, "{work}");
    }
}
