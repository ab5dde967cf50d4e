//! What every form of the log left behind, written by the program of then: it opens, verifies, is shown, goes on and is
//! printed. One file a form in `golden/`: a data folder, a record of a signed circuit, and the lines of a demo's logs.
//!
//! A form that was released is never written again. The form of now, before its release, is written anew with
//! `cargo test -p ruhe-server --test all -- --ignored golden::write`.

use crate::demo::Demo;
use crate::forged::{house, open, unguarded};
use crate::support::*;
use diesel::connection::SimpleConnection as _;
use diesel::prelude::*;
use diesel::sql_types::Text;
use ruhe_job::log::{FORMAT, parse};
use serde_json::{Value, json};
use std::fs::Permissions;
use std::io::Write as _;
use std::os::unix::fs::PermissionsExt as _;
use std::path::{Path, PathBuf};

/// The data folder, without what SQLite lays beside it.
const FOLDER: [&str; 3] = ["ruhe.sqlite", "record.key", "heads.log"];

fn golden(form: u32) -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join(format!("tests/golden/form-{form}.zip"))
}

fn read(form: u32) -> Vec<u8> {
    let file = golden(form);
    std::fs::read(&file).unwrap_or_else(|e| panic!("{}: {e}", file.display()))
}

/// A form's data folder, laid out to be worked with.
fn laid_out(all: &[u8]) -> tempfile::TempDir {
    let dir = tempfile::tempdir().unwrap();
    for name in FOLDER {
        let file = dir.path().join(name);
        std::fs::write(&file, file_of(all, name)).unwrap();
        std::fs::set_permissions(&file, Permissions::from_mode(0o600)).unwrap();
    }
    dir
}

fn verify_house(dir: &Path) -> (i32, String) {
    let told = command(&["verify", "--data", dir.to_str().unwrap()]);
    (
        told.status.code().unwrap(),
        String::from_utf8(told.stdout).unwrap() + &String::from_utf8(told.stderr).unwrap(),
    )
}

#[derive(QueryableByName, Debug, PartialEq)]
struct Derived {
    #[diesel(sql_type = Text)]
    row: String,
}

/// What the index says: everything but what depends on the hour.
fn derived(dir: &Path) -> Vec<Derived> {
    diesel::sql_query(
        "SELECT id || seq || job || site || place || system || tag || name || refrigerant || coalesce(state, '-') || is_open || words AS row FROM circuits
         UNION ALL SELECT id || name || place FROM sites UNION ALL SELECT id || circuit || is_open FROM tests
         UNION ALL SELECT digest || test FROM recordings ORDER BY row",
    )
    .load(&mut open(dir))
    .unwrap()
}

#[test]
fn every_form_opens_verifies_is_shown_goes_on_and_is_printed() {
    for form in 1..=FORMAT {
        let all = read(form);
        let about: Value = serde_json::from_slice(&file_of(&all, "about.json")).unwrap();
        let said = |k: &str| about[k].as_str().unwrap().to_owned();
        let (signed, running, key) = (said("signed"), said("running"), said("key"));
        let dir = laid_out(&all);
        let (code, words) = verify_house(dir.path());
        assert_eq!(code, 0, "{words}");
        // The record of then, with the key of then.
        let (code, words) = verified(dir.path(), &file_of(&all, "record.zip"), Some(&key));
        assert!(code == 0 || code == 3, "form {form}: {words}");
        let ruhe = Ruhe::start(dir.path());
        let c = ruhe.get(&format!("/api/circuits/{signed}"));
        assert_eq!(c["signature"]["state"], "failed", "{c}");
        assert_eq!(c["newer"], Value::Null);
        let paper = ruhe
            .client
            .get(format!("{}/api/circuits/{signed}/record.pdf", ruhe.url));
        assert!(paper.send().unwrap().bytes().unwrap().starts_with(b"%PDF"));
        // A running hold goes on, ends, and the circuit is signed; a signed one gets its witness.
        let test = ruhe.test(&said("test"));
        assert_eq!(test["ended_ms"], Value::Null);
        let at = now_ms();
        let reading = json!({"readings": [{"id": "golden", "channel_id": test["channels"][0]["id"], "typed": "300.1", "at_ms": at, "client_ms": at}]});
        let path = format!("/api/tests/{}", said("test"));
        assert_eq!(
            ruhe.post(&format!("{path}/readings"), &reading).status(),
            201
        );
        assert_eq!(ruhe.post(&format!("{path}/end"), &json!({})).status(), 201);
        let name = json!({"name": "Ilse Marrow", "role": "Technician", "statement": "Seen.", "state": "failed",
            "carried": {"wrong": "nothing was tried", "left_in": "empty, open", "told": "the baker"}});
        let r = ruhe.post(&format!("/api/circuits/{running}/signature"), &name);
        assert_eq!(r.status(), 201, "{}", r.text().unwrap());
        let (code, words) = verified(dir.path(), &ruhe.record(&running), Some(&key));
        assert_eq!(code, 0, "{words}");
        drop(ruhe);
        let (code, words) = verify_house(dir.path());
        assert_eq!(code, 0, "{words}");
    }
}

/// Whoever changes what an entry says finds here that it takes a new number, and a step from the one before.
#[test]
fn every_line_of_the_form_of_now_is_what_this_program_would_write() {
    let lines = String::from_utf8(file_of(&read(FORMAT), "demo.jsonl")).unwrap();
    let mut deeds: Vec<String> = vec![];
    for line in lines.lines() {
        let said: Value = serde_json::from_str(line).unwrap();
        let entry = parse(line, said["seq"].as_u64().unwrap()).unwrap();
        assert_eq!(entry.canonical().unwrap(), line);
        deeds.push(entry.deed.name().into());
    }
    deeds.sort();
    deeds.dedup();
    assert!(deeds.len() > 15, "{deeds:?}");
}

#[test]
fn the_index_is_written_anew_from_the_logs() {
    let dir = laid_out(&read(FORMAT));
    let before = derived(dir.path());
    unguarded(dir.path(), |c| {
        c.batch_execute(
            "UPDATE circuits SET site = 'elsewhere', state = NULL, words = '', is_open = 1; DELETE FROM sites;
             DELETE FROM recordings; UPDATE tests SET is_open = 1 - is_open;",
        )
        .unwrap();
    });
    assert_ne!(derived(dir.path()), before);
    assert_eq!(verify_house(dir.path()).0, 4);
    let told = command(&["rebuild", "--data", dir.path().to_str().unwrap()]);
    assert!(
        told.status.success(),
        "{}",
        String::from_utf8_lossy(&told.stderr)
    );
    assert_eq!(derived(dir.path()), before);
    assert_eq!(verify_house(dir.path()).0, 0);
}

#[test]
#[ignore = "writes the form of now; only before it is released"]
fn write() {
    let (dir, signed, key) = house();
    let ruhe = Ruhe::start(dir.path());
    let running = ruhe.job("new_split");
    let (test, ..) = ruhe.hold(&running);
    ruhe.shut_supply(&test, now_ms());
    let record = ruhe.record(&signed);
    drop(ruhe);
    let copy = tempfile::tempdir().unwrap();
    let told = command(&[
        "backup",
        copy.path().to_str().unwrap(),
        "--data",
        dir.path().to_str().unwrap(),
    ]);
    assert!(told.status.success());
    let made = std::fs::read_dir(copy.path()).unwrap().next().unwrap();
    let whole = made.unwrap().path().join("ruhe.sqlite");
    let demo = tempfile::tempdir().unwrap();
    drop(Demo::start(demo.path()));
    let lines: Vec<Derived> =
        diesel::sql_query("SELECT json AS row FROM entries ORDER BY log, seq")
            .load(&mut open(demo.path()))
            .unwrap();
    let lines: String = lines.into_iter().map(|l| l.row + "\n").collect();
    let about = json!({"signed": signed, "running": running, "test": test, "key": key}).to_string();
    let kept = |name: &str| std::fs::read(dir.path().join(name)).unwrap();
    let files = [
        ("ruhe.sqlite", std::fs::read(&whole).unwrap()),
        ("record.key", kept("record.key")),
        ("heads.log", kept("heads.log")),
        ("record.zip", record),
        ("demo.jsonl", lines.into_bytes()),
        ("about.json", about.into_bytes()),
    ];
    std::fs::create_dir_all(golden(FORMAT).parent().unwrap()).unwrap();
    let mut zip = zip::ZipWriter::new(std::fs::File::create(golden(FORMAT)).unwrap());
    for (name, bytes) in files {
        zip.start_file(name, zip::write::SimpleFileOptions::default())
            .unwrap();
        zip.write_all(&bytes).unwrap();
    }
    zip.finish().unwrap();
}
