//! The gate: every address, by every kind of caller, in every spelling that somebody might try. The table is made from
//! the routes; an address that is not in the table of what is asked fails here.

use crate::support::people::*;
use crate::support::*;
use ruhe_job::people::{ADDRESSES, Asked, Right, Role, asked};
use serde_json::{Value, json};
use std::collections::BTreeSet;
use std::io::{Read as _, Write as _};
use std::net::TcpStream;

/// A request byte by byte, so that no client tidies its path: status, and whether JSON came back.
fn raw(ruhe: &Ruhe, method: &str, path: &str, headers: &str) -> (u16, bool) {
    let host = ruhe.url.strip_prefix("http://").unwrap();
    let mut c = TcpStream::connect(host).unwrap();
    let body = "{}";
    write!(
        c,
        "{method} {path} HTTP/1.1\r\nHost: {host}\r\nConnection: close\r\nContent-Type: \
         application/json\r\nContent-Length: {}\r\n{headers}\r\n{body}",
        body.len()
    )
    .unwrap();
    let mut head = Vec::new();
    let mut byte = [0u8; 1];
    while !head.ends_with(b"\r\n\r\n") {
        if c.read(&mut byte).unwrap_or(0) == 0 {
            break;
        }
        head.push(byte[0]);
    }
    let head = String::from_utf8_lossy(&head).to_lowercase();
    let status = head.split(' ').nth(1).unwrap_or("0").parse().unwrap_or(0);
    (status, head.contains("content-type: application/json"))
}

fn spellings(path: &str) -> Vec<(&'static str, String)> {
    let rest = path.strip_prefix("/api/").unwrap();
    let encoded = |t: &str| t.bytes().map(|b| format!("%{b:02X}")).collect::<String>();
    let (first, more) = rest.split_at(1);
    vec![
        ("a", format!("/%61pi/{rest}")),
        ("p", format!("/a%70i/{rest}")),
        ("small hex", format!("/%61%70%69/{rest}")),
        (
            "a letter of the rest",
            format!("/api/{}{more}", encoded(first)),
        ),
        ("all of it", format!("/{}", encoded(&path[1..]))),
        ("encoded slash", format!("/api%2F{rest}")),
        ("encoded twice", format!("/%2561pi/{rest}")),
        ("doubled slash", format!("//api/{rest}")),
        ("doubled within", format!("/api//{rest}")),
        ("a dot", format!("/./api/{rest}")),
        ("two dots", format!("/x/../api/{rest}")),
        ("encoded dots", format!("/x/%2e%2e/api/{rest}")),
        ("large letters", format!("/API/{rest}")),
        ("one large letter", format!("/Api/{rest}")),
        ("trailing slash", format!("/api/{rest}/")),
        ("a parameter", format!("/api;x=1/{rest}")),
        ("a backslash", format!("/api\\{rest}")),
        ("a null", format!("/api/{rest}%00")),
        ("within a drill, spelled", format!("/drill/x/%61pi/{rest}")),
        ("a drill, spelled", format!("/dr%69ll/x/api/{rest}")),
        ("a drill of dots", format!("/drill/../api/{rest}")),
        ("a drill in a drill", format!("/drill/x/drill/y/api/{rest}")),
    ]
}

fn cookie_of(r: &reqwest::blocking::Response) -> String {
    let all = r.headers().get_all("set-cookie").iter();
    let first = all
        .map(|v| v.to_str().unwrap().split(';').next().unwrap().to_owned())
        .find(|c| c.starts_with("ruhe="));
    format!("Cookie: {}\r\n", first.unwrap())
}

/// Signs in and gives the header that goes with every request.
fn header_of(ruhe: &Ruhe, who: (&str, &str), device: &str) -> String {
    let r = sign_in(ruhe, &browser(), who, device);
    assert_eq!(r.status(), 201);
    cookie_of(&r)
}

/// Callers: what they are called, the header they send, and their role where they have one.
fn callers(ruhe: &Ruhe) -> Vec<(&'static str, String, Option<Role>)> {
    let lead = signed_in(ruhe, LEAD, "desk");
    let technician = ("Ilse Marrow", PASSWORD);
    let ilse = signed_in(ruhe, technician, "her desk");
    let (_, shown) = call(
        ruhe,
        &ilse,
        "POST",
        "/api/pairing",
        &json!({"password": PASSWORD}),
    );
    let paired = ruhe.post("/api/pairing/use", &json!({"code": shown["code"]}));
    let paired = cookie_of(&paired);
    let (_, gauge) = call(
        ruhe,
        &lead,
        "POST",
        "/api/gauges",
        &json!({"name": "manifold"}),
    );
    // Somebody who is shut out, and a device that is.
    let new =
        json!({"name": "Rafe Tarn", "role": "technician", "password": "gravel bonnet turnip"});
    let (_, made) = call_confirmed(ruhe, &lead, ("POST", "/api/people"), &new, LEAD.1);
    let removed = header_of(ruhe, ("Rafe Tarn", "gravel bonnet turnip"), "his");
    let path = format!("/api/people/{}", made["id"].as_str().unwrap());
    let out = json!({"role": "technician", "is_out": true});
    assert_eq!(
        call_confirmed(ruhe, &lead, ("PUT", &path), &out, LEAD.1).0,
        204
    );
    let lost = header_of(ruhe, technician, "lost phone");
    let devices = call(ruhe, &ilse, "GET", "/api/devices", &Value::Null).1;
    let of = devices
        .as_array()
        .unwrap()
        .iter()
        .find(|d| d["device"] == "lost phone");
    let path = format!("/api/devices/{}", of.unwrap()["id"].as_str().unwrap());
    assert_eq!(call(ruhe, &ilse, "DELETE", &path, &Value::Null).0, 204);
    let token = gauge["token"].as_str().unwrap();
    vec![
        ("nobody", String::new(), None),
        ("lead", header_of(ruhe, LEAD, "x"), Some(Role::Lead)),
        (
            "technician",
            header_of(ruhe, technician, "x"),
            Some(Role::Technician),
        ),
        (
            "witness",
            header_of(ruhe, ("Odo Fenn", PASSWORD), "x"),
            Some(Role::Witness),
        ),
        (
            "office",
            header_of(ruhe, ("Tess Quill", PASSWORD), "x"),
            Some(Role::Office),
        ),
        ("paired", paired, Some(Role::Technician)),
        ("gauge", format!("Authorization: Bearer {token}\r\n"), None),
        ("removed", removed, None),
        ("shut-out device", lost, None),
        ("made-up session", "Cookie: ruhe=00ff\r\n".into(), None),
    ]
}

#[test]
fn the_table_names_every_route_and_no_other() {
    let spec: Value = serde_json::from_slice(&command(&["openapi"]).stdout).unwrap();
    let mut routes = BTreeSet::new();
    for (path, methods) in spec["paths"].as_object().unwrap() {
        for m in methods.as_object().unwrap().keys() {
            routes.insert((m.to_uppercase(), path.clone()));
        }
    }
    let table: BTreeSet<(String, String)> = ADDRESSES
        .iter()
        .map(|(m, p, ..)| ((*m).to_owned(), (*p).to_owned()))
        .collect();
    assert_eq!(routes, table, "job/src/people/asked.rs names every route");
}

#[test]
fn every_route_by_every_caller_in_every_spelling() {
    let (_dir, ruhe) = house();
    let mut sent = 0;
    for (caller, header, role) in callers(&ruhe) {
        for (method, pattern, wanted, in_drills) in ADDRESSES {
            let path = pattern
                .replace("{id}", "nothing")
                .replace("{entry}", "nothing")
                .replace("{channel}", "nothing");
            let is_sign_out = method == "DELETE" && pattern.starts_with("/api/session");
            let may = match wanted {
                Asked::Nobody => true,
                Asked::Gauge => caller == "gauge",
                Asked::Anybody => role.is_some(),
                Asked::Right(r) => role.is_some_and(|role| role.may(r)),
            };
            // As it is written.
            if !(is_sign_out && role.is_some()) {
                let (status, _) = raw(&ruhe, method, &path, &header);
                let what = format!("{caller} {method} {path}: {status}");
                match (may, role) {
                    (true, _) => {
                        assert!(![401, 403, 405].contains(&status) && status < 500, "{what}")
                    }
                    (false, Some(_)) if wanted != Asked::Gauge => assert_eq!(status, 403, "{what}"),
                    (false, _) => assert_eq!(status, 401, "{what}"),
                }
                sent += 1;
            }
            // In any other way it is no address, whoever asks.
            for (how, spelled) in spellings(&path) {
                let (status, _) = raw(&ruhe, method, &spelled, &header);
                assert!(
                    [400, 404].contains(&status),
                    "{caller} {method} {spelled} ({how}): {status}"
                );
                sent += 1;
            }
            // Below a drill that is none: nothing but what coming in needs.
            if !(is_sign_out && role.is_some()) {
                let below = format!("/drill/nothing{path}");
                let (status, _) = raw(&ruhe, method, &below, &header);
                let what = format!("{caller} {method} {below}: {status}");
                let allowed: &[u16] = match (in_drills, wanted, role) {
                    (false, ..) => &[405],
                    (true, Asked::Nobody, _) => &[200, 404, 422],
                    (true, _, None) => &[401],
                    (true, _, Some(_)) => &[403, 404],
                };
                assert!(allowed.contains(&status), "{what}");
                sent += 1;
            }
            // By a method that the table does not name.
            for other in [
                "GET", "HEAD", "POST", "PUT", "DELETE", "PATCH", "OPTIONS", "PROPFIND",
            ] {
                if asked(other, pattern).is_none() {
                    let (status, _) = raw(&ruhe, other, &path, &header);
                    assert_eq!(status, 405, "{caller} {other} {path}");
                    sent += 1;
                }
            }
        }
    }
    assert!(sent > 20_000, "{sent}");
    // Nothing came of it: nobody was let in, and no circuit was made.
    let lead = signed_in(&ruhe, LEAD, "desk");
    let known = call(&ruhe, &lead, "GET", "/api/people", &Value::Null).1;
    assert_eq!(known.as_array().unwrap().len(), 5);
    // What was refused stands where a lead reads it, and nobody else.
    let (status, noted) = call(&ruhe, &lead, "GET", "/api/refusals", &Value::Null);
    assert_eq!(status, 200);
    let of = |what: &str| noted.as_array().unwrap().iter().any(|r| r["what"] == what);
    assert!(of("not signed in") && of("not allowed"), "{noted}");
    assert!(!Role::Technician.may(Right::People));
}

#[test]
fn nobody_in_particular_acts_only_while_nobody_is_known() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let id = ruhe.job("repair");
    // Six at once: one is the first, and the others are told to sign in.
    let made: Vec<u16> = std::thread::scope(|s| {
        let all: Vec<_> = (0..6)
            .map(|i| {
                let url = format!("{}/api/people", ruhe.url);
                s.spawn(move || {
                    let name = ["Una", "Bo", "Cy", "Dag", "Eli", "Fay"][i];
                    let body =
                        json!({"name": name, "role": "lead", "password": "kettle fence lantern"});
                    let r = browser().post(url).json(&body).send().unwrap();
                    r.status().as_u16()
                })
            })
            .collect();
        all.into_iter().map(|t| t.join().unwrap()).collect()
    });
    assert_eq!(made.iter().filter(|s| **s == 201).count(), 1, "{made:?}");
    assert!(made.iter().all(|s| [201, 401].contains(s)), "{made:?}");
    // From then on a header names nobody.
    let look = json!({"place": "flare", "method": "bubbles", "finding": "clear"});
    let r = ruhe
        .client
        .post(format!("{}/api/circuits/{id}/looks", ruhe.url))
        .header("Ruhe-Actor", "Una")
        .json(&look)
        .send()
        .unwrap();
    assert_eq!(r.status(), 401);
}
