//! Somebody who may write to files, and has not the key: a database that was changed, a record that can be read in two
//! ways. Nothing of it goes out as what was kept.

use crate::support::*;
use diesel::connection::SimpleConnection as _;
use diesel::prelude::*;
use diesel::sql_types::{BigInt, Text};
use serde_json::{Value, json};
use std::path::Path;

#[derive(QueryableByName, Clone)]
struct Row {
    #[diesel(sql_type = Text)]
    log: String,
    #[diesel(sql_type = BigInt)]
    seq: i64,
    #[diesel(sql_type = Text)]
    json: String,
}

/// A signed house: a job signed as failed, with an ended hold and a photo. Its folder and the circuit's id.
pub fn house() -> (tempfile::TempDir, String, String) {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let id = ruhe.job("repair");
    // Two by two pixels.
    let png = include_bytes!("support/two.png");
    let r = ruhe
        .client
        .post(format!("{}/api/circuits/{id}/photos", ruhe.url))
        .header("Content-Type", "application/octet-stream")
        .body(png.to_vec())
        .send()
        .unwrap();
    assert_eq!(r.status(), 201, "{}", r.text().unwrap());
    ruhe.finished_hold(&id, &hold_body(300.0), 300.0, 0.3);
    let words = json!({"name": "Odo Fenn", "role": "Technician", "statement": "Seen.", "state": "failed",
        "carried": {"wrong": "a leak", "left_in": "empty, open", "told": "the cook"}});
    let r = ruhe.post(&format!("/api/circuits/{id}/signature"), &words);
    assert_eq!(r.status(), 201, "{}", r.text().unwrap());
    let key = key_of(&ruhe.record(&id));
    // What was signed is noted beside the database within a second or two.
    let noted = dir.path().join("heads.log");
    for _ in 0..100 {
        if std::fs::read_to_string(&noted).is_ok_and(|t| t.lines().count() == 2) {
            break;
        }
        std::thread::sleep(std::time::Duration::from_millis(50));
    }
    assert_eq!(std::fs::read_to_string(&noted).unwrap().lines().count(), 2);
    (dir, id, key)
}

pub fn copied(from: &Path) -> tempfile::TempDir {
    let to = tempfile::tempdir().unwrap();
    for f in std::fs::read_dir(from).unwrap() {
        let f = f.unwrap();
        if f.file_type().unwrap().is_file() {
            std::fs::copy(f.path(), to.path().join(f.file_name())).unwrap();
        }
    }
    to
}

pub fn open(dir: &Path) -> SqliteConnection {
    SqliteConnection::establish(dir.join("ruhe.sqlite").to_str().unwrap()).unwrap()
}

/// Does something to the database with its guards away, and puts them back as they were.
pub fn unguarded(dir: &Path, act: impl FnOnce(&mut SqliteConnection)) {
    #[derive(QueryableByName)]
    struct Guard {
        #[diesel(sql_type = Text)]
        name: String,
        #[diesel(sql_type = Text)]
        sql: String,
    }
    let mut c = open(dir);
    let guards: Vec<Guard> =
        diesel::sql_query("SELECT name, sql FROM sqlite_master WHERE type = 'trigger'")
            .load(&mut c)
            .unwrap();
    for g in &guards {
        c.batch_execute(&format!("DROP TRIGGER {}", g.name))
            .unwrap();
    }
    act(&mut c);
    for g in &guards {
        c.batch_execute(&g.sql).unwrap();
    }
}

fn rows(c: &mut SqliteConnection, log: &str) -> Vec<Row> {
    diesel::sql_query("SELECT log, seq, json FROM entries WHERE log = ? ORDER BY seq")
        .bind::<Text, _>(log)
        .load(c)
        .unwrap()
}

fn put(c: &mut SqliteConnection, row: &Row, hash: Option<&str>) {
    let sql = match hash {
        Some(_) => "UPDATE entries SET json = ?, hash = ? WHERE log = ? AND seq = ?",
        None => "UPDATE entries SET json = ?, hash = coalesce(?, hash) WHERE log = ? AND seq = ?",
    };
    diesel::sql_query(sql)
        .bind::<Text, _>(&row.json)
        .bind::<diesel::sql_types::Nullable<Text>, _>(hash)
        .bind::<Text, _>(&row.log)
        .bind::<BigInt, _>(row.seq)
        .execute(c)
        .unwrap();
}

/// Chains a log anew from the ground up, hash columns and all.
fn rechained(c: &mut SqliteConnection, log: &str, change: impl Fn(&str) -> String) {
    let mut before = "0".repeat(64);
    for mut row in rows(c, log) {
        let mut v: Value = serde_json::from_str(&change(&row.json)).unwrap();
        v["before"] = json!(before);
        row.json = serde_jcs::to_string(&v).unwrap();
        before = ruhe_job::log::sha256(row.json.as_bytes());
        put(c, &row, Some(&before));
    }
}

/// What the house says of itself, by command.
fn checked(dir: &Path) -> (i32, String) {
    let told = command(&["verify", "--data", dir.to_str().unwrap()]);
    let words = String::from_utf8(told.stdout).unwrap() + &String::from_utf8(told.stderr).unwrap();
    (told.status.code().unwrap(), words)
}

/// Nothing of the circuit is shown, printed or signed, and the rest of the house works.
fn is_closed(dir: &Path, id: &str, what: &str) {
    let (code, words) = checked(dir);
    assert_eq!(code, 4, "{what}: {words}");
    let ruhe = Ruhe::start(dir);
    for path in ["", "/record", "/record.pdf", "/record.zip"] {
        let r = ruhe
            .client
            .get(format!("{}/api/circuits/{id}{path}", ruhe.url))
            .send()
            .unwrap();
        let (status, said) = (r.status().as_u16(), r.text().unwrap());
        assert_eq!(status, 409, "{what} {path}: {said}");
    }
    ruhe.get("/api/today");
    assert!(!ruhe.job("repair").is_empty(), "{what}");
}

#[test]
fn a_database_that_was_changed_without_the_key_is_told() {
    let (honest, id, _) = house();
    let (code, words) = checked(honest.path());
    assert_eq!(code, 0, "{words}");
    assert!(
        words.contains("1 sealed tests, 1 photos: all as they were kept"),
        "{words}"
    );
    type Change<'a> = &'a dyn Fn(&mut SqliteConnection);
    let swap = |from: &'static str, to: &'static str| move |t: &str| t.replacen(from, to, 1);
    let failed_to_passed = swap("\"state\":\"failed\"", "\"state\":\"passed\"");
    let changes: [(&str, Change<'_>); 7] = [
        ("the last entry, its hash column as it was", &|c| {
            let mut last = rows(c, &id).pop().unwrap();
            last.json = failed_to_passed(&last.json);
            put(c, &last, None);
        }),
        ("the last entry with its hash", &|c| {
            let mut last = rows(c, &id).pop().unwrap();
            last.json = failed_to_passed(&last.json);
            let hash = ruhe_job::log::sha256(last.json.as_bytes());
            put(c, &last, Some(&hash));
        }),
        ("all of it chained anew", &|c| {
            rechained(c, &id, failed_to_passed)
        }),
        ("an entry in the middle", &|c| {
            let all = rows(c, &id);
            let photo = all.iter().find(|r| r.json.contains("image/png")).unwrap();
            let mut row = photo.clone();
            row.json = row.json.replace("image/png", "image/jpg");
            put(c, &row, None);
        }),
        ("a reading of an ended test", &|c| {
            c.batch_execute("UPDATE readings SET typed = '300.1', value = 300.1 WHERE seq = 3")
                .unwrap();
        }),
        ("the last entry gone", &|c| {
            let n = rows(c, &id).len();
            c.batch_execute(&format!(
                "DELETE FROM entries WHERE log = '{id}' AND seq = {n}"
            ))
            .unwrap();
        }),
        ("signatures of all entries gone", &|c| {
            c.batch_execute("DELETE FROM signatures").unwrap();
        }),
    ];
    for (what, change) in changes {
        let forged = copied(honest.path());
        unguarded(forged.path(), change);
        if what.starts_with("signatures") {
            assert_eq!(checked(forged.path()).0, 4, "{what}");
        } else {
            is_closed(forged.path(), &id, what);
        }
    }
    // The photo: the page says nothing of its bytes, what is printed and handed over does.
    let forged = copied(honest.path());
    unguarded(forged.path(), |c| {
        c.batch_execute("UPDATE photos SET bytes = x'89504e47'")
            .unwrap();
    });
    assert_eq!(checked(forged.path()).0, 4);
    let ruhe = Ruhe::start(forged.path());
    let r = ruhe
        .client
        .get(format!("{}/api/circuits/{id}/record.zip", ruhe.url));
    assert_eq!(r.send().unwrap().status(), 409);
    // The index says what the log says, or it is told.
    let forged = copied(honest.path());
    unguarded(forged.path(), |c| {
        c.batch_execute("UPDATE circuits SET state = 'passed'")
            .unwrap();
    });
    let (code, words) = checked(forged.path());
    assert!(code == 4 && words.contains("the index"), "{words}");
}

#[test]
fn a_running_server_signs_nothing_that_was_changed_under_it() {
    let (dir, id, key) = house();
    let ruhe = Ruhe::start(dir.path());
    let path = format!("{}/api/circuits/{id}/record.zip", ruhe.url);
    let fetch = || ruhe.client.get(&path).send().unwrap();
    let honest = fetch().bytes().unwrap();
    assert_eq!(verified(dir.path(), &honest, Some(&key)).0, 0);
    ruhe.get(&format!("/api/circuits/{id}"));
    unguarded(dir.path(), |c| {
        let mut last = rows(c, &id).pop().unwrap();
        last.json = last
            .json
            .replacen("\"state\":\"failed\"", "\"state\":\"passed\"", 1);
        put(c, &last, None);
    });
    let r = fetch();
    assert_eq!(r.status(), 409);
    assert!(r.text().unwrap().contains("not as it was kept"));
}

#[test]
fn an_older_database_or_one_without_guards_or_key_is_not_taken_for_the_house() {
    let dir = tempfile::tempdir().unwrap();
    let id = {
        let ruhe = Ruhe::start(dir.path());
        ruhe.job("repair")
    };
    let older = copied(dir.path());
    {
        let ruhe = Ruhe::start(dir.path());
        let words = json!({"name": "Odo Fenn", "role": "Technician", "statement": "Seen.", "state": "failed",
            "carried": {"wrong": "a leak", "left_in": "empty, open", "told": "the cook"}});
        assert_eq!(
            ruhe.post(&format!("/api/circuits/{id}/signature"), &words)
                .status(),
            201
        );
        for _ in 0..100 {
            if dir.path().join("heads.log").exists() {
                break;
            }
            std::thread::sleep(std::time::Duration::from_millis(50));
        }
    }
    // The older database in place of the newer one, the rest of the folder as it is.
    for f in ["ruhe.sqlite", "ruhe.sqlite-wal", "ruhe.sqlite-shm"] {
        let _ = std::fs::remove_file(dir.path().join(f));
        if older.path().join(f).exists() {
            std::fs::copy(older.path().join(f), dir.path().join(f)).unwrap();
        }
    }
    is_closed(dir.path(), &id, "an older database");
    let starts = |dir: &Path| {
        let told = command(&[
            "serve",
            "--bind",
            "127.0.0.1:0",
            "--data",
            dir.to_str().unwrap(),
            "--key",
            "x",
        ]);
        String::from_utf8(told.stderr).unwrap()
    };
    let refused = |dir: &Path| {
        let (code, words) = checked(dir);
        assert_eq!(code, 1, "{words}");
        words
    };
    assert!(starts(dir.path()).contains("--certificate"));
    // Guards taken away; something added; a newer version's.
    for sql in [
        "DROP TRIGGER entries_keep",
        "CREATE TABLE more (x INTEGER)",
        "INSERT INTO __diesel_schema_migrations (version) VALUES ('99990101000000')",
    ] {
        let copy = copied(older.path());
        open(copy.path()).batch_execute(sql).unwrap();
        let words = refused(copy.path());
        assert!(words.contains("database could not be opened"), "{words}");
    }
    // The key gone, or readable by others.
    let copy = copied(older.path());
    let key = copy.path().join("record.key");
    use std::os::unix::fs::PermissionsExt as _;
    std::fs::set_permissions(&key, std::fs::Permissions::from_mode(0o644)).unwrap();
    assert!(refused(copy.path()).contains("chmod 600"));
    std::fs::remove_file(&key).unwrap();
    assert!(refused(copy.path()).contains("renew-key"));
    // Renewed, everything is signed anew, and the log of the house says so.
    let told = command(&["renew-key", "--data", copy.path().to_str().unwrap()]);
    assert!(told.status.success(), "{told:?}");
    let (code, words) = checked(copy.path());
    assert_eq!(code, 0, "{words}");
    let ruhe = Ruhe::start(copy.path());
    ruhe.get(&format!("/api/circuits/{id}"));
    // A chain that is not whole is not signed anew.
    drop(ruhe);
    unguarded(copy.path(), |c| {
        let mut row = rows(c, &id)[0].clone();
        row.json = row.json.replacen("Saltmarsh", "Saltmarch", 1);
        put(c, &row, None);
    });
    let told = command(&["renew-key", "--data", copy.path().to_str().unwrap()]);
    assert!(!told.status.success());
}

#[test]
fn files_are_their_owners_alone() {
    use std::os::unix::fs::PermissionsExt as _;
    let outer = tempfile::tempdir().unwrap();
    let dir = outer.path().join("house");
    let ruhe = Ruhe::start(&dir);
    ruhe.job("repair");
    let r = ruhe.post("/api/drills", &json!({"number": 2, "level": "words"}));
    assert_eq!(r.status(), 201);
    let backup = outer.path().join("copies");
    let told = command(&[
        "backup",
        backup.to_str().unwrap(),
        "--data",
        dir.to_str().unwrap(),
    ]);
    assert!(told.status.success());
    let mode = |p: &Path| std::fs::metadata(p).unwrap().permissions().mode() & 0o777;
    let mut seen = 0;
    let mut left = vec![dir.clone(), backup];
    while let Some(at) = left.pop() {
        assert_eq!(mode(&at) & 0o077, 0, "{}", at.display());
        seen += 1;
        if at.is_dir() {
            left.extend(std::fs::read_dir(&at).unwrap().map(|f| f.unwrap().path()));
        }
    }
    assert!(seen > 10, "{seen}");
}

/// A .zip of stored files, as somebody writes it who wants it read in two ways: names may stand twice.
fn stored(files: &[(&str, &[u8])]) -> Vec<u8> {
    let (mut out, mut central) = (Vec::new(), Vec::new());
    for (name, bytes) in files {
        let at = out.len() as u32;
        let (crc, size, n) = (
            crc32fast::hash(bytes),
            bytes.len() as u32,
            name.len() as u16,
        );
        let mut common = Vec::new();
        common.extend_from_slice(&[20, 0, 0, 0, 0, 0, 0, 0, 33, 0]);
        for v in [crc, size, size] {
            common.extend_from_slice(&v.to_le_bytes());
        }
        common.extend_from_slice(&n.to_le_bytes());
        common.extend_from_slice(&[0, 0]);
        out.extend_from_slice(b"PK\x03\x04");
        out.extend_from_slice(&common);
        out.extend_from_slice(name.as_bytes());
        out.extend_from_slice(bytes);
        central.extend_from_slice(b"PK\x01\x02\x14\x00");
        central.extend_from_slice(&common);
        central.extend_from_slice(&[0; 10]);
        central.extend_from_slice(&at.to_le_bytes());
        central.extend_from_slice(name.as_bytes());
    }
    let (n, start, size) = (files.len() as u16, out.len() as u32, central.len() as u32);
    out.extend_from_slice(&central);
    out.extend_from_slice(b"PK\x05\x06\0\0\0\0");
    out.extend_from_slice(&n.to_le_bytes());
    out.extend_from_slice(&n.to_le_bytes());
    out.extend_from_slice(&size.to_le_bytes());
    out.extend_from_slice(&start.to_le_bytes());
    out.extend_from_slice(&[0, 0]);
    out
}

#[test]
fn a_record_can_be_read_in_one_way_only() {
    let (dir, id, key) = house();
    let record = {
        let ruhe = Ruhe::start(dir.path());
        ruhe.record(&id)
    };
    let check = |bytes: &[u8]| verified(dir.path(), bytes, Some(&key));
    assert_eq!(check(&record).0, 0);
    let mut zip = zip::ZipArchive::new(std::io::Cursor::new(record.clone())).unwrap();
    let names: Vec<String> = (0..zip.len())
        .map(|i| zip.by_index(i).unwrap().name().unwrap().into_owned())
        .collect();
    let files: Vec<(String, Vec<u8>)> = names
        .iter()
        .map(|n| (n.clone(), file_of(&record, n)))
        .collect();
    let as_refs = |extra: &[(&'static str, &'static [u8])], at_front: bool| {
        let mut all: Vec<(&str, &[u8])> = files
            .iter()
            .map(|(n, b)| (n.as_str(), b.as_slice()))
            .collect();
        let at = if at_front { 0 } else { all.len() };
        all.splice(at..at, extra.iter().copied());
        stored(&all)
    };
    // Packed by another program it is the same record.
    let (code, words) = check(&as_refs(&[], true));
    assert_eq!(code, 0, "{words}");
    let mut faults = vec![];
    let mut wants = |what: &str, bytes: &[u8], wanted: i32| {
        let (code, words) = check(bytes);
        if code != wanted {
            faults.push(format!("{what}: {code}, not {wanted}: {words}"));
        }
    };
    // A false page under the same name, first or last.
    let double: &[(&str, &[u8])] = &[("record.pdf", b"%PDF-1.7 false")];
    wants("a false page first", &as_refs(double, true), 4);
    wants("a false page last", &as_refs(double, false), 4);
    wants("a file more", &as_refs(&[("note.txt", b"x")], false), 4);
    wants(
        "another archive in front",
        &[stored(&[("record.pdf", b"%PDF false")]), record.clone()].concat(),
        4,
    );
    wants(
        "bytes in front",
        &[b"x".to_vec(), record.clone()].concat(),
        4,
    );
    wants("bytes behind", &[record.clone(), b"x".to_vec()].concat(), 4);
    // The name in the local header is another than in the directory.
    let mut two_names = as_refs(&[], true);
    let at = two_names
        .windows(14)
        .position(|w| w == b"record.pdf%PDF")
        .unwrap();
    two_names[at] = b'R';
    wants("two names", &two_names, 4);
    // Without its signature it is whole, and signed by nobody's key; unnamed keys prove nothing.
    let unsigned: Vec<(&str, &[u8])> = files
        .iter()
        .filter(|(n, _)| n != "signature.json")
        .map(|(n, b)| (n.as_str(), b.as_slice()))
        .collect();
    wants("without a signature", &stored(&unsigned), 6);
    wants("no zip", b"no zip", 1);
    assert!(faults.is_empty(), "{}", faults.join("\n"));
    assert_eq!(verified(dir.path(), &record, None).0, 5);
    assert_eq!(verified(dir.path(), &record, Some(&"0".repeat(40))).0, 5);
    assert_eq!(verified(dir.path(), &record, Some("nonsense")).0, 1);
    // Against paper: the hash of the last entry.
    let file = dir.path().join("handed-over.zip");
    std::fs::write(&file, &record).unwrap();
    let by_head = |head: &str| {
        let told = command(&[
            "verify",
            file.to_str().unwrap(),
            "--key",
            &key,
            "--head",
            head,
        ]);
        told.status.code().unwrap()
    };
    let manifest: Value = serde_json::from_slice(&file_of(&record, "manifest.json")).unwrap();
    let head = manifest["head"].as_str().unwrap();
    assert_eq!((by_head(head), by_head(&head[..16])), (0, 0));
    assert_eq!((by_head(&"a".repeat(64)), by_head("abc")), (4, 1));
    // Unpacked into a folder it is the same record.
    let folder = dir.path().join("unpacked");
    for (n, b) in &files {
        let at = folder.join(n);
        std::fs::create_dir_all(at.parent().unwrap()).unwrap();
        std::fs::write(at, b).unwrap();
    }
    let told = command(&["verify", folder.to_str().unwrap(), "--key", &key]);
    assert_eq!(told.status.code(), Some(0), "{told:?}");
    std::fs::write(folder.join("record.pdf"), b"%PDF false").unwrap();
    let told = command(&["verify", folder.to_str().unwrap(), "--key", &key]);
    assert_eq!(told.status.code(), Some(4));
}

#[test]
fn paper_says_the_hash_and_the_key_that_the_record_is_checked_by() {
    let (dir, id, key) = house();
    let ruhe = Ruhe::start(dir.path());
    let record = ruhe.record(&id);
    let manifest: Value = serde_json::from_slice(&file_of(&record, "manifest.json")).unwrap();
    let head = manifest["head"].as_str().unwrap();
    let text = pdf_extract::extract_text_from_mem(&file_of(&record, "record.pdf")).unwrap();
    let plain = |t: &str| t.split_whitespace().collect::<String>();
    let text = plain(&text);
    assert!(text.contains(head), "the whole hash at the signature");
    assert!(text.contains(&plain(&key)), "the key");
    assert!(
        text.matches(&head[..16]).count() >= 2,
        "short on every page"
    );
}
