//! One log for everything that decides: said twice it is kept once, signed once, corrected in the open, and checked
//! by a stranger.

use crate::support::{Ruhe, command, hold_body, key_of, verified};
use reqwest::blocking::{Client, Response};
use serde_json::{Value, json};
use std::io::{Cursor, Read, Write};
use std::sync::{Arc, Barrier};

fn said(ruhe: &Ruhe, path: &str, id: &str, body: &Value) -> Response {
    said_by(&ruhe.client, &format!("{}{path}", ruhe.url), id, body)
}

fn said_by(client: &Client, url: &str, id: &str, body: &Value) -> Response {
    client
        .post(url)
        .header("Ruhe-Id", id)
        .header("Ruhe-Actor", "Ilse%20Marrow")
        .header("Ruhe-Device", "phone")
        .header("Ruhe-Clock", "1777881600000")
        .json(body)
        .send()
        .unwrap()
}

/// The files of a whole record.
fn unzip(bytes: Vec<u8>) -> Vec<(String, Vec<u8>)> {
    let mut zip = zip::ZipArchive::new(Cursor::new(bytes)).unwrap();
    (0..zip.len())
        .map(|i| {
            let mut f = zip.by_index(i).unwrap();
            let mut out = vec![];
            f.read_to_end(&mut out).unwrap();
            (f.name().unwrap().into_owned(), out)
        })
        .collect()
}

/// The log of a circuit, an entry a line.
fn entries(ruhe: &Ruhe, circuit: &str) -> Vec<Value> {
    let files = unzip(ruhe.record(circuit));
    let log = &files.iter().find(|f| f.0 == "log.jsonl").unwrap().1;
    String::from_utf8(log.clone())
        .unwrap()
        .lines()
        .map(|l| serde_json::from_str(l).unwrap())
        .collect()
}

/// A component that may be signed as passed: its circuit and its hold.
fn ready(ruhe: &Ruhe) -> (String, String) {
    let circuit = ruhe.job("bench_component");
    for (step, note) in [
        ("boundary_valves_checked", "two, both shut"),
        ("instruments_in_date", "same set"),
        ("capped_and_labelled", "nitrogen"),
    ] {
        assert_eq!(ruhe.step(&circuit, step, note).status(), 201);
    }
    let hold = ruhe.finished_hold(&circuit, &hold_body(300.0), 300.0, 0.0);
    ruhe.look_everywhere(&circuit);
    (circuit, hold)
}

fn signature(state: &str) -> Value {
    json!({"name": "Odo Fenn", "role": "Technician", "statement": "Seen.", "state": state})
}

#[test]
fn what_is_said_twice_is_kept_once_with_who_where_and_when() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let circuit = ruhe.job("bench_component");
    let path = format!("/api/circuits/{circuit}/steps");
    let body = json!({"step": "instruments_in_date", "note": "same set"});
    let first: Value = said(&ruhe, &path, "tap-1", &body).json().unwrap();
    let again = said(&ruhe, &path, "tap-1", &body);
    assert_eq!(again.status(), 201);
    assert_eq!(again.json::<Value>().unwrap(), first);
    let kept: Vec<Value> = entries(&ruhe, &circuit)
        .into_iter()
        .filter(|e| e["deed"] == "confirmed")
        .collect();
    assert_eq!(kept.len(), 1);
    let e = &kept[0];
    assert_eq!(
        (&e["id"], &e["actor"], &e["device"], &e["said_ms"]),
        (
            &json!("tap-1"),
            &json!("Ilse Marrow"),
            &json!("phone"),
            &json!(1_777_881_600_000i64)
        )
    );
    assert!(e["kept_ms"].as_i64().unwrap() > 1_777_881_600_000);
    // The same id for something else is told, and changes nothing.
    let other = ruhe.job("bench_component");
    let told = said(
        &ruhe,
        &format!("/api/circuits/{other}/steps"),
        "tap-1",
        &body,
    );
    assert_eq!(told.status(), 409);
    // An id that no address could carry is refused by name.
    let (status, refusal) = {
        let r = said(&ruhe, &path, "a b", &body);
        (r.status(), r.json::<Value>().unwrap())
    };
    assert_eq!(
        (status.as_u16(), &refusal["field"]),
        (422, &json!("Ruhe-Id"))
    );
}

#[test]
fn of_many_who_sign_at_once_one_does() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let (circuit, hold) = ready(&ruhe);
    let url = format!("{}/api/circuits/{circuit}/signature", ruhe.url);
    let barrier = Arc::new(Barrier::new(9));
    let signers: Vec<_> = (0..8)
        .map(|i| {
            let (url, barrier) = (url.clone(), barrier.clone());
            std::thread::spawn(move || {
                barrier.wait();
                said_by(
                    &Client::new(),
                    &url,
                    &format!("sign-{i}"),
                    &signature("passed"),
                )
                .status()
                .as_u16()
            })
        })
        .collect();
    // Somebody strikes the hold out at the same moment: either it is signed with its hold, or it is not signed.
    let void = {
        let (url, barrier) = (
            format!("{}/api/circuits/{circuit}/entries/{hold}/strike", ruhe.url),
            barrier.clone(),
        );
        std::thread::spawn(move || {
            barrier.wait();
            said_by(
                &Client::new(),
                &url,
                "void",
                &json!({"reason": "wrong circuit"}),
            )
            .status()
            .as_u16()
        })
    };
    let mut told: Vec<u16> = signers.into_iter().map(|s| s.join().unwrap()).collect();
    told.sort_unstable();
    let voided = void.join().unwrap();
    let signed = told.iter().filter(|s| **s == 201).count();
    assert_eq!(
        signed + usize::from(voided == 201),
        1,
        "{told:?}, voided: {voided}"
    );
    let log = entries(&ruhe, &circuit);
    assert_eq!(log.iter().filter(|e| e["deed"] == "signed").count(), signed);
    assert!(log.last().unwrap()["deed"] == if signed == 1 { "signed" } else { "struck" });
}

#[test]
fn an_end_is_undone_a_test_is_voided_and_an_event_struck_out_is_judged_again() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let (circuit, hold) = ready(&ruhe);
    let strike = |entry: &str| {
        let path = format!("/api/circuits/{circuit}/entries/{entry}/strike");
        ruhe.post(&path, &json!({"reason": "pressed by mistake"}))
    };
    let test = |id: &str| ruhe.get(&format!("/api/tests/{id}"));
    let before = test(&hold);
    assert_eq!(before["verdict"]["outcome"], "holds");
    // Struck out, the shut supply is no longer known: what is frozen says so, and the gate is no longer met.
    let shut = before["events"][0]["id"].as_str().unwrap().to_owned();
    assert_eq!(strike(&shut).status(), 201);
    let after = test(&hold);
    assert_eq!(
        after["verdict"]["outcome"], "undecided",
        "{}",
        after["verdict"]
    );
    assert_eq!(after["verdict"]["reasons"][0], "supply_not_isolated");
    assert_eq!(ruhe.gate(&circuit, "hold_with_temperature")["met"], false);
    // An end that is undone lets it run on; what was read meanwhile counts.
    let end = after["end_id"].as_str().unwrap().to_owned();
    assert_eq!(strike(&end).status(), 201);
    let open = test(&hold);
    assert_eq!(open["ended_ms"], Value::Null);
    let channel = open["channels"][0]["id"].as_str().unwrap();
    let reading = json!({"readings": [{"id": "late", "channel_id": channel, "typed": "300.0",
        "client_ms": crate::support::now_ms()}]});
    assert_eq!(
        ruhe.post(&format!("/api/tests/{hold}/readings"), &reading)
            .status(),
        201
    );
    assert_eq!(
        ruhe.post(&format!("/api/tests/{hold}/end"), &json!({}))
            .status(),
        201
    );
    assert_eq!(
        test(&hold)["reading_count"].as_u64().unwrap(),
        before["reading_count"].as_u64().unwrap() + 1
    );
    // Voided, it is shown by nobody and named by the record.
    assert_eq!(strike(&hold).status(), 201);
    assert_eq!(
        ruhe.client
            .get(format!("{}/api/tests/{hold}", ruhe.url))
            .send()
            .unwrap()
            .status(),
        404
    );
    let c = ruhe.get(&format!("/api/circuits/{circuit}"));
    assert!(
        c["struck"]
            .as_array()
            .unwrap()
            .iter()
            .any(|s| s["what"] == "Hold 1"),
        "{}",
        c["struck"]
    );
    // Nothing was erased: the log has it all, and what it sealed is in the record.
    let files = unzip(ruhe.record(&circuit));
    assert!(
        files
            .iter()
            .any(|f| f.0 == "tests/pressure-hold-1/sealed.jsonl" && !f.1.is_empty())
    );
    assert_eq!(
        entries(&ruhe, &circuit)
            .iter()
            .filter(|e| e["deed"] == "struck")
            .count(),
        3
    );
}

#[test]
fn what_is_shown_is_what_was_frozen_and_today_is_asked_beside_it() {
    let dir = tempfile::tempdir().unwrap();
    let (circuit, hold) = {
        let ruhe = Ruhe::start(dir.path());
        ready(&ruhe)
    };
    // Another program opens the same data: it shows what was frozen, to the digit.
    let ruhe = Ruhe::start(dir.path());
    let again = ruhe.get(&format!("/api/tests/{hold}/judged-again"));
    assert_eq!(
        (&again["is_sealed"], &again["is_same"]),
        (&json!(true), &json!(true)),
        "{again}"
    );
    assert_eq!(again["differs"], json!([]));
    assert_eq!(
        ruhe.post(
            &format!("/api/circuits/{circuit}/signature"),
            &signature("passed")
        )
        .status(),
        201
    );
    // The units of a page change the words alone.
    let bar = ruhe.get(&format!("/api/tests/{hold}?pressure=bar"));
    let psi = ruhe.get(&format!("/api/tests/{hold}"));
    assert_ne!(bar["verdict"]["summary"], psi["verdict"]["summary"]);
    assert_eq!(bar["verdict"]["trace"], psi["verdict"]["trace"]);
    assert_eq!(
        ruhe.get(&format!("/api/circuits/{circuit}"))["has_older_engine"],
        false
    );
}

/// The record as a file, with one change to one of its files.
fn changed(files: &[(String, Vec<u8>)], name: &str, change: impl Fn(&str) -> String) -> Vec<u8> {
    let mut out = zip::ZipWriter::new(Cursor::new(Vec::new()));
    let options = zip::write::SimpleFileOptions::default();
    for (n, bytes) in files {
        out.start_file(n.as_str(), options).unwrap();
        if n == name {
            let text = String::from_utf8(bytes.clone()).unwrap();
            let made = change(&text);
            assert_ne!(made, text, "nothing was changed in {name}");
            out.write_all(made.as_bytes()).unwrap();
        } else {
            out.write_all(bytes).unwrap();
        }
    }
    out.finish().unwrap().into_inner()
}

#[test]
fn a_stranger_checks_a_signed_record_with_one_command() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let (circuit, _) = ready(&ruhe);
    ruhe.post(
        &format!("/api/circuits/{circuit}/signature"),
        &signature("passed"),
    );
    let record = ruhe.record(&circuit);
    let key = key_of(&record);
    let check = |bytes: &[u8]| verified(dir.path(), bytes, Some(&key));
    let (code, words) = check(&record);
    assert_eq!(code, 0, "{words}");
    let digest = ruhe.get(&format!("/api/circuits/{circuit}"))["hash"]
        .as_str()
        .unwrap()
        .to_owned();
    for part in [
        "Signed by Odo Fenn, Technician: Passed",
        "Hold 1: judged again, the same",
        &digest,
    ] {
        assert!(words.contains(part), "{part}: {words}");
    }
    let files = unzip(record);
    let cases: [(&str, &str, &str, &str); 4] = [
        (
            "log.jsonl",
            "\"outcome\":\"holds\"",
            "\"outcome\":\"falls\"",
            "log.jsonl, entry",
        ),
        ("log.jsonl", "Odo Fenn", "Odo Venn", "log.jsonl, entry"),
        (
            "tests/pressure-hold-1/sealed.jsonl",
            "\"typed\":\"300.0\"",
            "\"typed\":\"300.1\"",
            "tests/pressure-hold-1/sealed.jsonl",
        ),
        (
            "tests/pressure-hold-1/readings.csv",
            ",300.0\n",
            ",301.0\n",
            "tests/pressure-hold-1/readings.csv",
        ),
    ];
    for (name, from, to, place) in cases {
        let (code, words) = check(&changed(&files, name, |t| t.replacen(from, to, 1)));
        assert_eq!(code, 4, "{name}: {words}");
        assert!(words.contains(place), "{words}");
    }
    // What cannot be read, and what is not there, are neither whole nor changed.
    assert_eq!(check(b"no zip").0, 1);
    assert_eq!(command(&["verify", "nowhere.zip"]).status.code(), Some(1));
    assert_eq!(command(&["verify"]).status.code(), Some(2));
}
