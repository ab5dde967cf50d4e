//! A record held against a second verifier, written in another language from docs/interchange.md alone
//! (`verify/verify.mjs`): both say the same of what is whole, changed, and made anew.

use crate::support::*;
use ruhe_job::log::sha256;
use ruhe_job::record::{Files, Key};
use serde_json::{Value, json};
use std::io::Read as _;
use std::path::{Path, PathBuf};
use std::process::Command;

/// A signed record with all that can be in one: two tests, one with a reading struck out, events, a photo.
fn record() -> Files {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let id = ruhe.job("repair");
    let png = include_bytes!("support/two.png").to_vec();
    let photos = format!("{}/api/circuits/{id}/photos", ruhe.url);
    let photo: Value = ruhe
        .client
        .post(photos)
        .body(png)
        .send()
        .unwrap()
        .json()
        .unwrap();
    let hold = ruhe.finished_hold(&id, &hold_body(300.0), 300.0, 0.0);
    let r = ruhe.post(
        &format!("/api/readings/{hold}301/strike"),
        &json!({"reason": "read off wrongly"}),
    );
    assert_eq!(r.status(), 201, "{}", r.text().unwrap());
    let body = vacuum_body("pull-down", json!({"volume_l": 4.0}));
    let pull = ruhe.vacuum(
        &id,
        &body,
        &curve(4, |t| 4_000.0 - 15.0 * t),
        &[("pump_on", 0.0)],
        false,
    );
    let event = json!({"id": "formula", "kind": "other", "note": "=1+1, \"said\"", "photo_id": photo["id"]});
    assert_eq!(
        ruhe.post(&format!("/api/tests/{pull}/events"), &event)
            .status(),
        201
    );
    assert_eq!(
        ruhe.post(&format!("/api/tests/{pull}/end"), &json!({}))
            .status(),
        201
    );
    let words = json!({"name": "Odo Fenn", "role": "Technician", "statement": "Seen.", "state": "failed",
        "carried": {"wrong": "a leak", "left_in": "empty, open", "told": "the cook"}});
    let r = ruhe.post(&format!("/api/circuits/{id}/signature"), &words);
    assert_eq!(r.status(), 201, "{}", r.text().unwrap());
    let mut zip = zip::ZipArchive::new(std::io::Cursor::new(ruhe.record(&id))).unwrap();
    let mut out = Files::new();
    for i in 0..zip.len() {
        let mut f = zip.by_index(i).unwrap();
        let mut bytes = vec![];
        f.read_to_end(&mut bytes).unwrap();
        out.insert(f.name().unwrap().to_string(), bytes);
    }
    out
}

/// What a verifier says: the record is whole.
fn is_whole(code: Option<i32>, words: &[u8]) -> bool {
    let words = String::from_utf8_lossy(words);
    match code {
        Some(0 | 3 | 5 | 6) => true,
        Some(4) => false,
        other => panic!("{other:?}: {words}"),
    }
}

/// What both say of these files.
fn both(files: &Files) -> (bool, bool, String) {
    let dir = tempfile::tempdir().unwrap();
    for (name, bytes) in files {
        let path = dir.path().join(name);
        std::fs::create_dir_all(path.parent().unwrap()).unwrap();
        std::fs::write(path, bytes).unwrap();
    }
    let script = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/all/verify/verify.mjs");
    let args: [PathBuf; 2] = [script, dir.path().into()];
    let other = Command::new("node").args(args).output().unwrap();
    let ours = command(&["verify", dir.path().to_str().unwrap()]);
    let told = [&other.stdout[..], &other.stderr, &ours.stdout, &ours.stderr].concat();
    (
        is_whole(other.status.code(), &told),
        is_whole(ours.status.code(), &told),
        String::from_utf8(told).unwrap(),
    )
}

/// The manifest made anew, as somebody would who changed a file; signed with a key of theirs, if they have one.
fn made_anew(files: &Files, head: Option<String>, key: Option<&Key>) -> Files {
    let mut out = files.clone();
    let mut m: Value = serde_json::from_slice(&out["manifest.json"]).unwrap();
    let names: Vec<String> = m["files"].as_object().unwrap().keys().cloned().collect();
    for n in names {
        m["files"][&n] = sha256(&out[&n]).into();
    }
    if let Some(h) = head {
        m["head"] = h.into();
    }
    m["sha256"] = "".into();
    m["sha256"] = sha256(serde_jcs::to_string(&m).unwrap().as_bytes()).into();
    let text = serde_json::to_string_pretty(&m).unwrap() + "\n";
    out.insert("manifest.json".into(), text.into_bytes());
    if let Some(k) = key {
        out.remove("signature.json");
        k.sign(&mut out);
    }
    out
}

/// One figure in the middle of a file is another.
fn with_another_figure(bytes: &[u8]) -> Vec<u8> {
    let mut out = bytes.to_vec();
    let is = |b: &u8| b.is_ascii_digit();
    let from = out.len() / 2;
    let at = out[from..].iter().position(is).map(|i| from + i);
    let at = at.or_else(|| out.iter().position(is)).unwrap_or(0);
    out[at] = if out[at] == b'7' { b'3' } else { b'7' };
    out
}

/// The log with one entry changed and every entry behind it made anew: its text, and its end.
fn chained(log: &[u8], change: impl Fn(&mut Value)) -> (Vec<u8>, String) {
    let mut before = "0".repeat(64);
    let mut out = String::new();
    for line in std::str::from_utf8(log).unwrap().lines() {
        let mut e: Value = serde_json::from_str(line).unwrap();
        e["before"] = before.into();
        change(&mut e);
        let line = serde_jcs::to_string(&e).unwrap();
        before = sha256(line.as_bytes());
        out += &line;
        out.push('\n');
    }
    (out.into_bytes(), before)
}

#[test]
fn a_verifier_made_from_the_document_says_the_same() {
    let whole = record();
    let (other, ours, words) = both(&whole);
    assert!(other && ours, "{words}");
    let key = Key::from_secret([7; 32]);
    let told = made_anew(&whole, None, Some(&key));
    let (other, ours, words) = both(&told);
    assert!(other && ours, "{words}");
    for name in whole.keys() {
        let mut changed = whole.clone();
        changed.insert(name.clone(), with_another_figure(&whole[name]));
        let mut cases = vec![("changed", changed.clone())];
        if !["manifest.json", "signature.json"].contains(&name.as_str()) {
            cases.push(("manifest anew", made_anew(&changed, None, None)));
            cases.push(("signed anew", made_anew(&changed, None, Some(&key))));
        }
        for (what, files) in cases {
            let (other, ours, words) = both(&files);
            assert_eq!(other, ours, "{name}, {what}: {words}");
            // The printed page is made for the eye: whoever has a key of their own may print another.
            let may_be = name == "record.pdf" && what == "signed anew";
            assert_eq!(ours, may_be, "{name}, {what}: {words}");
        }
        let mut less = whole.clone();
        less.remove(name);
        if !["manifest.json", "signature.json"].contains(&name.as_str()) {
            let (other, ours, words) = both(&less);
            assert_eq!((other, ours), (false, false), "without {name}: {words}");
        }
    }
}

#[test]
fn a_log_made_anew_is_another_record_or_none() {
    let whole = record();
    let key = Key::from_secret([7; 32]);
    let set = |deed: &'static str, field: &'static str, to: Value| {
        move |e: &mut Value| {
            if e["deed"] == deed {
                e[field] = to.clone();
            }
        }
    };
    // Who said it: a record like any other, with another end. What readings, tables and seals hang on: none.
    type Change = Box<dyn Fn(&mut Value)>;
    let cases: Vec<(&str, Change, bool)> = vec![
        (
            "who",
            Box::new(set("photo_taken", "actor", json!("Somebody"))),
            true,
        ),
        (
            "photo",
            Box::new(set("photo_taken", "sha256", json!("0".repeat(64)))),
            false,
        ),
        (
            "note",
            Box::new(set("marked", "note", json!("another"))),
            false,
        ),
        (
            "time",
            Box::new(set("marked", "at_ms", json!(1_796_000_000_000_i64))),
            false,
        ),
        (
            "struck",
            Box::new(set("reading_struck", "reading", json!("none"))),
            false,
        ),
        (
            "limit",
            Box::new(|e: &mut Value| {
                if e["deed"] == "planned" && e["kind"] == "pull-down" {
                    e["plan"]["volume_l"] = json!(40.0);
                }
            }),
            false,
        ),
        (
            "seal",
            Box::new(|e: &mut Value| {
                if e["deed"] == "ended" {
                    e["seal"]["count"] = json!(1);
                }
            }),
            false,
        ),
    ];
    for (what, change, is_record) in cases {
        let (log, head) = chained(&whole["log.jsonl"], change);
        let mut files = whole.clone();
        files.insert("log.jsonl".into(), log);
        let (other, ours, words) = both(&made_anew(&files, Some(head), Some(&key)));
        assert_eq!((other, ours), (is_record, is_record), "{what}: {words}");
    }
}
