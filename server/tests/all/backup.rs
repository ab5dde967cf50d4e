//! Copies of a data folder while Ruhe runs, the way back, and what the doctor says.

use crate::support::{Ruhe, Stop, command, hold_body, key_of, now_ms, verified};
use ruhe_server::backup::{copies, to_drop};
use serde_json::json;
use std::path::{Path, PathBuf};
use std::process::Output;
use std::sync::atomic::{AtomicBool, Ordering};
use std::time::{Duration, Instant};

fn text(p: &Path) -> &str {
    p.to_str().unwrap()
}

fn back_up(data: &Path, into: &Path) -> PathBuf {
    let told = command(&["backup", text(into), "--data", text(data)]);
    assert!(told.status.success(), "{}", words(&told));
    copies(into).pop().unwrap().1
}

fn words(told: &Output) -> String {
    String::from_utf8_lossy(&told.stdout).into_owned() + &String::from_utf8_lossy(&told.stderr)
}

fn restore(copy: &Path, data: &Path) -> (bool, String) {
    let told = command(&["restore", text(copy), "--data", text(data)]);
    (told.status.success(), words(&told))
}

/// A copy that is made while a gauge sends is whole, carries the key, and goes on elsewhere as if nothing had happened.
#[test]
fn a_copy_made_at_work_is_put_back_elsewhere_and_goes_on() {
    let dir = tempfile::tempdir().unwrap();
    let (house, into, other) = (
        dir.path().join("house"),
        dir.path().join("copies"),
        dir.path().join("other"),
    );
    let ruhe = Ruhe::start(&house);
    let circuit = ruhe.job("bench_component");
    let (test, p, _) = ruhe.hold(&circuit);
    let done = AtomicBool::new(false);
    let (copy, acknowledged) = std::thread::scope(|s| {
        let writer = s.spawn({
            let (url, client) = (ruhe.url.clone(), ruhe.client.clone());
            let (test, p, done) = (&test, &p, &done);
            move || {
                let mut n = 0;
                while !done.load(Ordering::Relaxed) {
                    let reading = json!({"id": format!("r{n}"), "channel_id": p, "typed": "300.1",
                        "client_ms": now_ms()});
                    let path = format!("{url}/api/tests/{test}/readings");
                    let body = json!({"readings": [reading]});
                    let r = client.post(path).json(&body).send().unwrap();
                    assert_eq!(r.status(), 201);
                    n += 1;
                }
                n
            }
        });
        let stop = Stop(&done);
        std::thread::sleep(Duration::from_millis(300));
        let before = ruhe.get(&format!("/api/tests/{test}"))["reading_count"].as_u64();
        let copy = back_up(&house, &into);
        drop(stop);
        assert!(writer.join().unwrap() > 5);
        (copy, before.unwrap())
    });
    let key = key_of(&ruhe.record(&circuit));
    drop(ruhe);
    let (is_back, told) = restore(&copy, &other);
    assert!(is_back, "{told}");
    let ruhe = Ruhe::start(&other);
    let kept = ruhe.get(&format!("/api/tests/{test}"))["reading_count"].as_u64();
    assert!(
        kept.unwrap() >= acknowledged && acknowledged > 5,
        "{kept:?}"
    );
    ruhe.shut_supply(&test, now_ms());
    assert_eq!(
        ruhe.post(&format!("/api/tests/{test}/end"), &json!({}))
            .status(),
        201
    );
    let record = ruhe.record(&circuit);
    let (code, told) = verified(dir.path(), &record, Some(&key));
    assert_eq!(code, 0, "{told}");
    drop(ruhe);
    let told = command(&["verify", "--data", text(&other)]);
    assert_eq!(told.status.code(), Some(0), "{}", words(&told));
}

#[test]
fn nothing_is_overwritten_and_no_copy_that_was_changed_is_put_back() {
    let dir = tempfile::tempdir().unwrap();
    let (house, into, other) = (
        dir.path().join("house"),
        dir.path().join("copies"),
        dir.path().join("other"),
    );
    let ruhe = Ruhe::start(&house);
    let circuit = ruhe.job("repair");
    ruhe.made_ready(&circuit, "pressure-hold");
    assert_eq!(
        ruhe.post(&format!("/api/circuits/{circuit}/tests"), &hold_body(300.0))
            .status(),
        201
    );
    drop(ruhe);
    let copy = back_up(&house, &into);
    // Over a house that is there, or into a folder with something else in it: never.
    let (is_back, told) = restore(&copy, &house);
    assert!(!is_back && told.contains("Nothing was changed"), "{told}");
    std::fs::create_dir(&other).unwrap();
    std::fs::write(other.join("letter.txt"), "dear").unwrap();
    let (is_back, told) = restore(&copy, &other);
    assert!(!is_back && told.contains("is not empty"), "{told}");
    assert_eq!(
        std::fs::read_to_string(other.join("letter.txt")).unwrap(),
        "dear"
    );
    std::fs::remove_dir_all(&other).unwrap();
    // No copy at all.
    let (is_back, told) = restore(dir.path(), &other);
    assert!(!is_back && told.contains("there is no database"), "{told}");
    // An entry that was taken away, or a key that is another one.
    let changed = |file: &str, change: &dyn Fn(&Path)| {
        let bad = dir.path().join("bad");
        let _ = std::fs::remove_dir_all(&bad);
        assert!(restore(&copy, &bad).0);
        change(&bad.join(file));
        let (is_back, told) = restore(&bad, &other);
        assert!(!is_back && !other.exists(), "{told}");
        told
    };
    let told = changed("ruhe.sqlite", &|db| {
        use diesel::prelude::*;
        let mut c = SqliteConnection::establish(text(db)).unwrap();
        let names: Vec<Named> =
            diesel::sql_query("SELECT name FROM sqlite_master WHERE type = 'trigger'")
                .load(&mut c)
                .unwrap();
        for n in &names {
            diesel::sql_query(format!("DROP TRIGGER {}", n.name))
                .execute(&mut c)
                .unwrap();
        }
        diesel::sql_query("DELETE FROM entries WHERE seq = 1")
            .execute(&mut c)
            .unwrap();
    });
    assert!(!told.is_empty());
    changed("record.key", &|key| std::fs::write(key, [7u8; 32]).unwrap());
    changed("record.key", &|key| std::fs::remove_file(key).unwrap());
    // Nothing half-made is left behind.
    let left: Vec<_> = std::fs::read_dir(dir.path())
        .unwrap()
        .filter_map(|f| f.unwrap().file_name().into_string().ok())
        .filter(|n| n.ends_with(".part"))
        .collect();
    assert!(left.is_empty(), "{left:?}");
}

#[derive(diesel::QueryableByName)]
struct Named {
    #[diesel(sql_type = diesel::sql_types::Text)]
    name: String,
}

#[test]
fn copies_are_made_by_a_timetable() {
    let dir = tempfile::tempdir().unwrap();
    let (house, into) = (dir.path().join("house"), dir.path().join("copies"));
    std::fs::create_dir(&into).unwrap();
    std::fs::write(into.join("notes.txt"), "not ours").unwrap();
    let ruhe = Ruhe::start_with(&house, &["--backups", text(&into)]);
    ruhe.job("repair");
    let until = Instant::now() + Duration::from_secs(60);
    while copies(&into).is_empty() {
        assert!(Instant::now() < until, "no copy was made");
        std::thread::sleep(Duration::from_millis(100));
    }
    drop(ruhe);
    let (_, copy) = copies(&into).pop().unwrap();
    let told = command(&["verify", "--data", text(&copy)]);
    assert_eq!(told.status.code(), Some(0), "{}", words(&told));
    assert!(into.join("notes.txt").exists());
}

/// Every copy of a fortnight, one a week for a quarter of a year, one in thirty days after that: and the newest always.
#[test]
fn copies_grow_fewer_with_age() {
    const DAY: i64 = 86_400_000;
    let mut kept: Vec<i64> = vec![];
    let first = 20_000 * DAY;
    for day in 0..3_650 {
        let now = first + day * DAY;
        kept.push(now);
        let old = to_drop(&kept, now);
        assert!(!old.contains(&now));
        kept.retain(|ms| !old.contains(ms));
    }
    let now = first + 3_649 * DAY;
    let within = |days: i64| kept.iter().filter(|ms| now - **ms < days * DAY).count();
    assert_eq!(within(14), 14);
    assert!((10..=13).contains(&(within(90) - 14)), "{}", within(90));
    // Ten years: some 119 months more.
    assert!(
        (115..=122).contains(&(kept.len() - within(90))),
        "{}",
        kept.len()
    );
    // No gap is longer than what is left of two months.
    assert!(kept.windows(2).all(|w| w[1] - w[0] <= 60 * DAY));
    assert!(to_drop(&[], now).is_empty());
    // A copy from the future stays.
    assert!(to_drop(&[now, now + 400 * DAY], now).is_empty());
}

#[test]
fn the_doctor_says_what_is_wrong_and_how_to_mend_it() {
    let dir = tempfile::tempdir().unwrap();
    let (house, into) = (dir.path().join("house"), dir.path().join("copies"));
    let doctor = |more: &[&str]| {
        let mut args = vec!["doctor", "--data", text(&house), "--bind", "127.0.0.1:0"];
        args.extend_from_slice(more);
        let told = command(&args);
        (told.status.code(), words(&told))
    };
    let (code, told) = doctor(&[]);
    assert!(code == Some(0) && told.contains("not there yet"), "{told}");
    assert!(!house.exists(), "it changes nothing");
    let ruhe = Ruhe::start(&house);
    ruhe.job("repair");
    let (code, told) = doctor(&[]);
    assert!(code == Some(0) && !told.contains("wrong:"), "{told}");
    for says in [
        "of this version",
        "is sound",
        "free",
        "clock is not behind",
        "signed with the key",
    ] {
        assert!(told.contains(says), "{says}: {told}");
    }
    drop(ruhe);
    let (code, told) = doctor(&["--backups", text(&into)]);
    assert!(
        code == Some(1) && told.contains("there is no copy"),
        "{told}"
    );
    back_up(&house, &into);
    let (code, told) = doctor(&["--backups", text(&into)]);
    assert!(
        code == Some(0) && told.contains("the last copy is"),
        "{told}"
    );
    // An address that this machine does not have: 192.0.2.0/24 is for examples (RFC 5737).
    let (code, told) = doctor(&["--bind", "192.0.2.1:7420"]);
    assert!(
        code == Some(1) && told.contains("cannot be listened on"),
        "{told}"
    );
    use std::os::unix::fs::PermissionsExt as _;
    let open = std::fs::Permissions::from_mode(0o755);
    std::fs::set_permissions(&house, open).unwrap();
    let (code, told) = doctor(&[]);
    assert!(code == Some(1) && told.contains("chmod 700"), "{told}");
    std::fs::set_permissions(&house, std::fs::Permissions::from_mode(0o700)).unwrap();
    let (key, aside) = (house.join("record.key"), dir.path().join("aside"));
    std::fs::rename(&key, &aside).unwrap();
    let (code, told) = doctor(&[]);
    assert!(code == Some(1) && told.contains("ruhe renew-key"), "{told}");
    std::fs::rename(&aside, &key).unwrap();
    let db = house.join("ruhe.sqlite");
    let mut bytes = std::fs::read(&db).unwrap();
    let half = bytes.len() / 2;
    bytes[half..half + 4096].fill(0xAA);
    std::fs::write(&db, &bytes).unwrap();
    let (code, told) = doctor(&[]);
    assert!(
        code == Some(1) && told.contains("ruhe restore COPY"),
        "{told}"
    );
    std::fs::write(&db, b"no database at all, but some letters").unwrap();
    let (code, told) = doctor(&[]);
    assert!(code == Some(1) && told.contains("cannot be read"), "{told}");
}
