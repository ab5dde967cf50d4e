//! Nobody holds the others out: numbers, times, bodies, connections, guesses and files that are larger, later or slower
//! than anything of this trade.

use crate::support::people::*;
use crate::support::*;
use reqwest::blocking::{Client, Response};
use serde_json::{Value, json};
use std::collections::HashMap;
use std::io::{Read as _, Write as _};
use std::net::{SocketAddr, TcpStream};
use std::time::{Duration, Instant};

fn ruhe() -> (tempfile::TempDir, Ruhe) {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    (dir, ruhe)
}

fn with_headers(ruhe: &Ruhe, path: &str, headers: &[(&str, &str)], body: &Value) -> Response {
    let mut r = ruhe.client.post(format!("{}{path}", ruhe.url)).json(body);
    for (name, value) in headers {
        r = r.header(*name, *value);
    }
    r.send().unwrap()
}

#[test]
fn no_clock_of_a_device_closes_a_log() {
    let (_dir, ruhe) = ruhe();
    let id = ruhe.job("repair");
    let look = json!({"place": "flare", "method": "bubbles", "finding": "clear"});
    let hose = json!({"kind": "hose", "name": "Blue hoses", "bore_mm": 9.5, "length_m": 1.5});
    let own = json!({"title": "Ours", "kind": "pull-down", "time_s": 600.0, "targets_pa": [66.0], "source": "habit"});
    let job = json!({"site_name": "Saltmarsh School", "system_name": "Gym split",
        "circuits": [{"tag": "A", "name": "Line set", "kind": "repair", "refrigerant": "R-32", "plates": []}]});
    for clock in [
        "9223372036854775807",
        "-9223372036854775808",
        "9007199254740993",
        "99999999999999999999999",
        "-1",
        "1e9",
        "noon",
    ] {
        for header in ["Ruhe-Clock", "Ruhe-Sent"] {
            for (path, body) in [
                (format!("/api/circuits/{id}/looks"), &look),
                ("/api/kit".into(), &hose),
                ("/api/procedures".into(), &own),
                ("/api/jobs".into(), &job),
            ] {
                let r = with_headers(&ruhe, &path, &[(header, clock)], body);
                assert_eq!(r.status(), 422, "{header}: {clock} at {path}");
            }
        }
    }
    // Everything can still be read and added to.
    ruhe.get("/api/kit");
    ruhe.get(&format!("/api/circuits/{id}"));
    assert_eq!(ruhe.post("/api/kit", &hose).status(), 201);
    assert_eq!(ruhe.post("/api/procedures", &own).status(), 201);
    assert_eq!(ruhe.look(&id, "flare", "bubbles", "clear").status(), 201);
    let (test, p, _) = ruhe.hold(&id);
    // Numbers that serde takes and a double does not carry, where they come in bodies.
    let big = i64::MAX;
    let at = json!({"readings": [{"id": "r1", "channel_id": p, "typed": "300", "at_ms": big, "client_ms": big}]});
    assert_eq!(
        ruhe.post(&format!("/api/tests/{test}/readings"), &at)
            .status(),
        422
    );
    for client in [i64::MAX, i64::MIN] {
        let at = json!({"readings": [{"id": format!("r{client}"), "channel_id": p, "typed": "300", "logged_ms": i64::MIN, "client_ms": client}]});
        assert_eq!(
            ruhe.post(&format!("/api/tests/{test}/readings"), &at)
                .status(),
            422
        );
    }
    let event = json!({"id": "e1", "kind": "sun", "at_ms": big});
    assert_eq!(
        ruhe.post(&format!("/api/tests/{test}/events"), &event)
            .status(),
        422
    );
    ruhe.get(&format!("/api/circuits/{id}"));
}

#[test]
fn a_log_that_cannot_be_read_closes_itself_and_not_the_house() {
    use diesel::connection::SimpleConnection as _;
    use diesel::prelude::*;
    let (dir, ruhe) = ruhe();
    let hose = json!({"kind": "hose", "name": "Blue hoses", "bore_mm": 9.5, "length_m": 1.5});
    assert_eq!(ruhe.post("/api/kit", &hose).status(), 201);
    let id = ruhe.job("repair");
    let url = dir.path().join("ruhe.sqlite");
    let mut c = SqliteConnection::establish(url.to_str().unwrap()).unwrap();
    // As it lay in a house where one header had closed the kit.
    c.batch_execute(
        "DROP TRIGGER entries_keep; UPDATE entries SET json = replace(json, '\"seq\":1', '\"seq\":9223372036854776000') WHERE log = 'kit';",
    )
    .unwrap();
    ruhe.get("/api/today");
    ruhe.get("/api/kit");
    ruhe.get(&format!("/api/circuits/{id}"));
    let (test, _, _) = ruhe.hold(&id);
    ruhe.get(&format!("/api/tests/{test}"));
    let (status, why) = ruhe.refused("/api/kit", &hose);
    assert!(status == 409 && why.contains("entry 1"), "{status} {why}");
}

#[test]
fn the_same_id_with_another_act_is_refused() {
    let (_dir, ruhe) = ruhe();
    let id = ruhe.job("repair");
    let at = |p: &str| format!("/api/circuits/{id}{p}");
    let look = |place: &str| json!({"place": place, "method": "bubbles", "finding": "clear"});
    let send = |path: &str, body: &Value| {
        let sent = now_ms().to_string();
        let headers = [("Ruhe-Id", "act-1"), ("Ruhe-Sent", sent.as_str())];
        with_headers(&ruhe, path, &headers, body)
    };
    assert_eq!(send(&at("/looks"), &look("flare")).status(), 201);
    // Sent again it is answered as the first time; anything else is not what was done.
    assert_eq!(send(&at("/looks"), &look("flare")).status(), 201);
    for (path, body) in [
        (at("/looks"), look("valve")),
        (at("/repairs"), look("flare")),
        (at("/steps"), json!({"step": "released", "note": ""})),
        (
            "/api/kit".into(),
            json!({"kind": "hose", "name": "Blue hoses", "bore_mm": 9.5, "length_m": 1.5}),
        ),
        ("/api/procedures".into(), json!({"name": "x"})),
    ] {
        let r = send(&path, &body);
        assert!(
            [409, 422].contains(&r.status().as_u16()),
            "{path}: {}",
            r.status()
        );
    }
    let other = ruhe.job("repair");
    let r = send(&format!("/api/circuits/{other}/looks"), &look("flare"));
    assert_eq!(r.status(), 409);
    let c = ruhe.get(&at(""));
    assert_eq!(c.to_string().matches("\"valve\"").count(), 0);
    // An event carries its id in its body, and its own clock is another the second time.
    let (test, _, _) = ruhe.hold(&id);
    let event = |kind: &str| json!({"id": "e1", "kind": kind, "client_ms": now_ms()});
    let path = format!("/api/tests/{test}/events");
    assert_eq!(ruhe.post(&path, &event("sun")).status(), 201);
    std::thread::sleep(Duration::from_millis(3));
    assert_eq!(ruhe.post(&path, &event("sun")).status(), 201);
    assert_eq!(ruhe.post(&path, &event("opened")).status(), 409);
}

/// A package of a hold with these rows of readings.
pub fn package(rows: &str) -> Vec<u8> {
    let about = json!({"profile": "tabular-data-package", "resources": [], "ruhe": {"version": 1, "kind": "pressure-hold"}});
    let channels =
        "channel,quantity,unit,resolution\nP,gauge_pressure,psig,0.1\nT,temperature,degF,0.1\n";
    let files = HashMap::from([
        (
            "datapackage.json".to_owned(),
            about.to_string().into_bytes(),
        ),
        ("channels.csv".to_owned(), channels.into()),
        ("readings.csv".to_owned(), rows.into()),
    ]);
    ruhe_server::files::zip(&ruhe_core::reading::PackageFiles(files)).unwrap()
}

pub fn send_package(client: &Client, url: &str, circuit: &str, bytes: Vec<u8>) -> (u16, String) {
    let r = client
        .post(format!("{url}/api/circuits/{circuit}/packages?file=x.zip"))
        .header("Content-Type", "application/zip")
        .timeout(Duration::from_secs(300))
        .body(bytes)
        .send()
        .unwrap();
    (r.status().as_u16(), r.text().unwrap())
}

#[test]
fn no_time_is_taken_that_cannot_be() {
    let (_dir, ruhe) = ruhe();
    let id = ruhe.job("bench_component");
    let send = |rows: &str| send_package(&ruhe.client, &ruhe.url, &id, package(rows));
    let stamped = |first: &str| {
        let start: jiff::Timestamp = first.parse().unwrap();
        let row = |k: i64| {
            let at = start
                .checked_add(jiff::SignedDuration::from_secs(60 * k))
                .unwrap();
            format!("{at},P,300.0\n{at},T,70.0\n")
        };
        "time,channel,value\n".to_owned() + &(0..40).map(row).collect::<String>()
    };
    let soon = jiff::Timestamp::from_millisecond(now_ms() + 400 * 86_400_000).unwrap();
    for bad in [
        stamped(&soon.to_string()),
        stamped("1999-01-01T00:00:00Z"),
        "time,channel,value\n-009999-01-01T00:00:00Z,P,300\n".into(),
        "elapsed_s,channel,value\n-1e300,P,300\n0,P,300\n".into(),
        "elapsed_s,channel,value\n0,P,300\n1e300,P,300\n".into(),
        "elapsed_s,channel,value\n0,P,300\n1e13,P,300\n".into(),
        "elapsed_s,channel,value\n0,P,300\nNaN,P,300\n".into(),
        "elapsed_s,channel,value\n0,P,300\n3e8,P,300\n5,P,300\n".into(),
    ] {
        let (status, why) = send(&bad);
        assert_eq!(status, 422, "{}: {why}", &bad[..60]);
        assert!(why.contains("readings.csv"), "{why}");
    }
    let ago = jiff::Timestamp::from_millisecond(now_ms() - 3_600_000).unwrap();
    let (status, why) = send(&stamped(&ago.to_string()));
    assert_eq!(status, 201, "{why}");
    // It prints its own times, with the zone, and ends with its last reading, not when it was sent.
    let made: Value = serde_json::from_str(&why).unwrap();
    let test = ruhe.test(made["id"].as_str().unwrap());
    let end = test["ended_ms"].as_i64().unwrap();
    assert_eq!(end - test["start_ms"].as_i64().unwrap(), 39 * 60_000);
    let path = format!("{}/api/circuits/{id}/record.pdf?offset=120", ruhe.url);
    let pdf = ruhe.client.get(path).send().unwrap().bytes().unwrap();
    let text = pdf_extract::extract_text_from_mem(&pdf).unwrap();
    assert!(text.contains("UTC+02"), "{text}");
    // A reading of years ago does not move the start of a running test, nor does one of tomorrow.
    let (test, p, _) = ruhe.hold(&id);
    let read = |at_ms: i64, n: i64| {
        let body = json!({"readings": [{"id": format!("x{n}"), "channel_id": p, "typed": "300.0", "at_ms": at_ms, "client_ms": now_ms()}]});
        ruhe.refused(&format!("/api/tests/{test}/readings"), &body)
    };
    let (status, why) = read(946_684_900_000, 1);
    assert!(
        status == 422 && why.contains("long before this test"),
        "{why}"
    );
    let (status, why) = read(now_ms() + 86_400_000, 2);
    assert!(status == 422 && why.contains("ahead of the clock"), "{why}");
    assert_eq!(read(now_ms() - 86_400_000, 3).0, 201, "told afterwards");
    // The same at the gauges' door; one line does not take the others with it.
    let made: Value = ruhe
        .post("/api/gauges", &json!({"name": "manifold"}))
        .json()
        .unwrap();
    let bound = ruhe
        .client
        .put(format!("{}/api/tests/{test}/channels/{p}/gauge", ruhe.url))
        .json(&json!({"gauge": made["id"], "source": "P"}))
        .send()
        .unwrap();
    assert_eq!(bound.status(), 201);
    let line = |n: i64, at: &str| {
        json!({"source": "P", "n": n, "at": at, "value": "300.0", "unit": "psig"}).to_string()
    };
    let now = jiff::Timestamp::now().to_string();
    let lines = [
        line(1, "2000-01-02T00:00:00Z"),
        line(2, &now),
        line(3, "9999-12-31T00:00:00Z"),
        line(4, "-009999-01-02T00:00:00Z"),
    ];
    let door = |sent: &str| {
        let r = ruhe
            .client
            .post(format!("{}/api/door", ruhe.url))
            .bearer_auth(made["token"].as_str().unwrap())
            .header("Content-Type", "application/x-ndjson")
            .header("Ruhe-Sent", sent)
            .body(lines.join("\n"))
            .send()
            .unwrap();
        (r.status().as_u16(), r.json::<Value>().unwrap())
    };
    let (status, view) = door(&now_ms().to_string());
    assert_eq!(status, 200, "{view}");
    assert_eq!(
        (&view["stored"], view["refused"].as_array().unwrap().len()),
        (&json!(1), 3),
        "{view}"
    );
    assert_eq!(door("9223372036854775807").0, 422);
}

/// What an earlier try of the same file laid beside the log is what is judged and sealed: a server that was stopped in
/// between, or a log that went on, closes no circuit.
#[test]
fn a_file_whose_earlier_try_was_cut_short_is_sealed_as_it_lies() {
    use diesel::connection::SimpleConnection as _;
    use diesel::prelude::*;
    let (dir, ruhe) = ruhe();
    let id = ruhe.job("bench_component");
    let url = dir.path().join("ruhe.sqlite");
    let mut c = SqliteConnection::establish(url.to_str().unwrap()).unwrap();
    let start = now_ms() - 3_600_000;
    c.batch_execute(&format!(
        "PRAGMA busy_timeout = 5000; INSERT INTO tests (id, circuit, is_open) VALUES ('cut', '{id}', 1);
         INSERT INTO readings (id, test, channel, at_ms, typed, value, origin, actor, device, client_ms, received_ms, skewed)
         SELECT 'cut.0', n, 0, {start}, '300', 300.0, 'imported', '', '', NULL, {}, 0 FROM tests WHERE id = 'cut';",
        start + 5_000
    ))
    .unwrap();
    let at = |k: i64| jiff::Timestamp::from_millisecond(start + 60_000 * k).unwrap();
    let row = |k| format!("{0},P,300\n{0},T,70\n", at(k));
    let rows = (0..40).map(row).collect::<String>();
    let r = ruhe
        .client
        .post(format!("{}/api/circuits/{id}/packages", ruhe.url))
        .header("Ruhe-Id", "cut")
        .header("Content-Type", "application/zip")
        .body(package(&format!("time,channel,value\n{rows}")))
        .send()
        .unwrap();
    assert_eq!(r.status(), 201, "{}", r.text().unwrap());
    ruhe.get(&format!("/api/circuits/{id}"));
    let record = ruhe.record(&id);
    let (code, words) = verified(dir.path(), &record, Some(&key_of(&record)));
    assert_eq!(code, 0, "{words}");
}

#[test]
fn a_file_is_bounded_and_others_read_and_type_while_it_is_judged() {
    let (_dir, ruhe) = ruhe();
    let id = ruhe.job("bench_component");
    let send = |rows: &str| send_package(&ruhe.client, &ruhe.url, &id, package(rows));
    // Three million exact duplicates in a few kilobytes; more readings than a test has; more bytes than are unpacked.
    let bomb = "elapsed_s,channel,value\n".to_owned() + &"0,P,300\n".repeat(3_000_000);
    let (status, why) = send(&bomb);
    assert!(status == 422 && why.contains("more than"), "{status} {why}");
    let wide = format!("elapsed_s,channel,value\n0,P,300{}\n", " ".repeat(80 << 20));
    let (status, why) = send(&wide);
    assert!(
        status == 422 && why.contains("unpacks to more than"),
        "{status} {why}"
    );
    let many = (0..450_000).fold("elapsed_s,channel,value\n".to_owned(), |mut t, k| {
        t += &format!("{k},P,300\n");
        t
    });
    let (status, why) = send(&many);
    assert!(status == 422 && why.contains("at most"), "{status} {why}");
    // A picture of four hundred million points in some kilobytes.
    let r = ruhe
        .client
        .post(format!("{}/api/circuits/{id}/photos", ruhe.url))
        .header("Content-Type", "application/octet-stream")
        .body(vast_picture())
        .send()
        .unwrap();
    let (status, why) = (r.status(), r.text().unwrap());
    assert!(status == 422 && why.contains("points"), "{status} {why}");
    // A day at a reading a second: judged meanwhile, nobody waits long to write.
    let other = ruhe.job("bench_component");
    let (test, p, _) = ruhe.hold(&other);
    let day = (0..43_200).fold("elapsed_s,channel,value\n".to_owned(), |mut t, k| {
        t += &format!(
            "{0},P,{1}\n{0},T,{2}\n",
            2 * k,
            300.0 + f64::from(k % 3) / 10.0,
            70.0 + f64::from(k % 2) / 10.0
        );
        t
    });
    let (url, circuit) = (ruhe.url.clone(), id.clone());
    let import =
        std::thread::spawn(move || send_package(&Client::new(), &url, &circuit, package(&day)));
    let (mut written, mut refused) = (0, vec![]);
    while !import.is_finished() {
        let body = json!({"readings": [{"id": format!("w{written}"), "channel_id": p, "typed": "300.0", "at_ms": null, "client_ms": now_ms()}]});
        let r = ruhe.post(&format!("/api/tests/{test}/readings"), &body);
        if r.status() != 201 {
            refused.push(r.text().unwrap());
        }
        written += 1;
    }
    let (status, why) = import.join().unwrap();
    assert_eq!(status, 201, "{why}");
    assert!(
        refused.is_empty() && written > 3,
        "{written} written, refused: {refused:?}"
    );
    let record = ruhe.get(&format!("/api/circuits/{id}/record"));
    let tests = record["tests"].as_array().unwrap();
    assert_eq!(tests.len(), 1);
    let words = tests[0].to_string();
    assert!(
        words.contains("86400") || words.contains("86,400"),
        "{words}"
    );
}

/// The head of a PNG of 20,000 by 20,000.
fn vast_picture() -> Vec<u8> {
    let mut out = b"\x89PNG\r\n\x1a\n".to_vec();
    let mut head = b"IHDR".to_vec();
    head.extend_from_slice(&20_000u32.to_be_bytes());
    head.extend_from_slice(&20_000u32.to_be_bytes());
    head.extend_from_slice(&[8, 2, 0, 0, 0]);
    out.extend_from_slice(&13u32.to_be_bytes());
    out.extend_from_slice(&head);
    out.extend_from_slice(&crc32fast::hash(&head).to_be_bytes());
    out.extend_from_slice(&[0; 64]);
    out
}

/// Memory of a process that is its own, bytes.
fn resident(pid: u32) -> u64 {
    let text = std::fs::read_to_string(format!("/proc/{pid}/statm")).unwrap();
    text.split(' ').nth(1).unwrap().parse::<u64>().unwrap() * 4_096
}

fn connect(ruhe: &Ruhe) -> TcpStream {
    let at: SocketAddr = ruhe.url.strip_prefix("http://").unwrap().parse().unwrap();
    TcpStream::connect(at).unwrap()
}

/// Somebody else on the network: from another address.
fn elsewhere(last: u8) -> Client {
    Client::builder()
        .local_address(std::net::IpAddr::from([127, 0, 0, last]))
        .cookie_store(true)
        .timeout(Duration::from_secs(20))
        .build()
        .unwrap()
}

#[test]
fn before_sign_in_nobody_holds_memory_or_connections() {
    let (_dir, ruhe) = house();
    let pid = ruhe.process.id();
    let host = ruhe.url.strip_prefix("http://").unwrap().to_owned();
    let before = resident(pid);
    // Large bodies for what needs a name and a password, and for the door without a token: refused, not gathered.
    let mut open = vec![];
    for (path, wanted) in [
        ("/api/session", "413"),
        ("/api/pairing/use", "413"),
        ("/api/door", "401"),
        ("/api/people", "401"),
    ] {
        for _ in 0..10 {
            let mut c = connect(&ruhe);
            write!(c, "POST {path} HTTP/1.1\r\nHost: {host}\r\nContent-Type: application/json\r\nContent-Length: 60000000\r\n\r\n").unwrap();
            let part = vec![b' '; 64 << 10];
            let mut sent = 0;
            while sent < 4 << 20 {
                match c.write(&part) {
                    Ok(n) => sent += n,
                    Err(_) => break,
                }
            }
            c.set_read_timeout(Some(Duration::from_secs(10))).unwrap();
            let mut head = [0u8; 12];
            // It may have closed the door in the face of what was still being sent.
            if c.read_exact(&mut head).is_ok() {
                assert_eq!(std::str::from_utf8(&head[9..]).unwrap(), wanted, "{path}");
            }
            open.push(c);
        }
    }
    let grown = resident(pid).saturating_sub(before);
    assert!(grown < 100 << 20, "{grown} bytes more");
    drop(open);
    // Eleven hundred unfinished bodies and streams from one place: another place is served.
    let mut held = vec![];
    for k in 0..1_100 {
        let Ok(mut c) = std::panic::catch_unwind(std::panic::AssertUnwindSafe(|| connect(&ruhe)))
        else {
            break;
        };
        let _ = if k % 2 == 0 {
            write!(
                c,
                "POST /api/session HTTP/1.1\r\nHost: {host}\r\nContent-Type: application/json\r\nContent-Length: 900\r\n\r\n{{"
            )
        } else {
            write!(c, "GET /api/live HTTP/1.1\r\nHost: {host}\r\n\r\n")
        };
        held.push(c);
    }
    assert!(held.len() > 1_000, "{}", held.len());
    let c = elsewhere(9);
    let begun = Instant::now();
    assert_eq!(sign_in(&ruhe, &c, LEAD, "desk").status(), 201);
    assert_eq!(call(&ruhe, &c, "GET", "/api/today", &Value::Null).0, 200);
    assert!(begun.elapsed() < Duration::from_secs(15));
}
