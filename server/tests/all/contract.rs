//! What is generated is up to date; what the documents name exists.

use serde_json::Value;
use std::path::Path;
use std::process::Command;

fn root() -> &'static Path {
    Path::new(env!("CARGO_MANIFEST_DIR")).parent().unwrap()
}

#[test]
fn the_openapi_file_is_what_the_code_says() {
    let kept: serde_json::Value =
        serde_json::from_slice(&std::fs::read(root().join("web/openapi.json")).unwrap()).unwrap();
    let now: serde_json::Value = ruhe_server::specification();
    assert!(
        kept == now,
        "web/openapi.json is stale: run scripts/types.sh"
    );
}

#[test]
fn the_browser_types_are_made_from_it() {
    let out = std::env::temp_dir().join(format!("ruhe-types-{}.ts", std::process::id()));
    let tool = root().join("web/node_modules/openapi-typescript/bin/cli.js");
    let done = Command::new("node")
        .arg(tool)
        .arg(root().join("web/openapi.json"))
        .args(["--default-non-nullable", "false"])
        .arg("-o")
        .arg(&out)
        .output()
        .unwrap();
    assert!(
        done.status.success(),
        "{}",
        String::from_utf8_lossy(&done.stderr)
    );
    let (made, kept) = (
        std::fs::read_to_string(&out).unwrap(),
        std::fs::read_to_string(root().join("web/src/api/schema.gen.ts")).unwrap(),
    );
    std::fs::remove_file(&out).unwrap();
    assert!(
        made == kept,
        "web/src/api/schema.gen.ts is stale: run scripts/types.sh"
    );
}

#[test]
fn the_page_is_strict_and_clean() {
    let tools: [&[&str]; 3] = [
        &["node_modules/typescript/bin/tsc", "--noEmit"],
        &[
            "node_modules/eslint/bin/eslint.js",
            ".",
            "--max-warnings",
            "0",
        ],
        &["node_modules/prettier/bin/prettier.cjs", "--check", "."],
    ];
    for tool in tools {
        let done = Command::new("node")
            .args(tool)
            .current_dir(root().join("web"))
            .output()
            .unwrap();
        assert!(
            done.status.success(),
            "{}: {}{}",
            tool[0],
            String::from_utf8_lossy(&done.stdout),
            String::from_utf8_lossy(&done.stderr)
        );
    }
}

#[test]
fn every_path_the_documents_name_exists() {
    let mut missing = Vec::new();
    for doc in [
        "ARCHITECTURE.md",
        "README.md",
        "docs/method.md",
        "docs/interchange.md",
        "docs/decisions.md",
        "docs/glossary.md",
        "CHANGELOG.md",
    ] {
        let text = std::fs::read_to_string(root().join(doc)).unwrap();
        for word in text.split(['`', '(', ')', ' ', '\n', '|']) {
            let word = word.trim_end_matches(['.', ',', ':']);
            let is_path = word.contains('/')
                && !word.contains("://")
                && !word.contains(['<', '*', '{', '$', '→'])
                && !word.starts_with("/api");
            let first = word.split('/').next().unwrap_or("");
            if is_path
                && [
                    "core",
                    "job",
                    "sim",
                    "store",
                    "server",
                    "web",
                    "browser",
                    "reference",
                    "docs",
                    "scripts",
                    ".ci",
                ]
                .contains(&first)
                && !root().join(word).exists()
            {
                missing.push(format!("{doc} names {word}"));
            }
        }
    }
    assert!(missing.is_empty(), "{missing:#?}");
}

/// What other people's tools ask of a description; checked besides by three of them (openapi-spec-validator, redocly,
/// spectral): no error.
#[test]
fn the_description_is_one_that_other_tools_read() {
    let spec = ruhe_server::specification();
    let text = spec.to_string();
    let named: std::collections::BTreeSet<&str> = text
        .split("\"$ref\":\"#")
        .skip(1)
        .filter_map(|t| t.split('"').next())
        .collect();
    for name in &named {
        assert!(spec.pointer(name).is_some(), "{name} is not there");
    }
    for kind in ["schemas", "responses", "parameters"] {
        for name in spec["components"][kind].as_object().unwrap().keys() {
            let at = format!("/components/{kind}/{name}");
            assert!(named.contains(at.as_str()), "nothing names {at}");
        }
    }
    let tags: Vec<&Value> = spec["tags"]
        .as_array()
        .unwrap()
        .iter()
        .map(|t| &t["name"])
        .collect();
    let mut ids = std::collections::BTreeSet::new();
    for (path, operations) in spec["paths"].as_object().unwrap() {
        for (verb, o) in operations.as_object().unwrap() {
            let at = format!("{verb} {path}");
            assert!(
                ids.insert(o["operationId"].to_string()),
                "{at}: an id that another has"
            );
            assert!(
                o["summary"].is_string() && o["description"].is_string(),
                "{at}"
            );
            assert!(
                o["security"].is_array() && tags.contains(&&o["tags"][0]),
                "{at}"
            );
            for (status, r) in o["responses"].as_object().unwrap() {
                let is_shared = r["$ref"].is_string();
                assert_eq!(is_shared, !status.starts_with('2'), "{at} {status}");
                assert!(is_shared || r["description"].is_string(), "{at} {status}");
                // A list of bytes is no file.
                let is_list = r["content"]["application/octet-stream"]["schema"]["type"] == "array";
                assert!(!is_list, "{at} {status}");
            }
        }
    }
}
