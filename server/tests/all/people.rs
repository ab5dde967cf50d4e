//! Several people: who may do what over every route, passwords, sessions, signing, devices, and other addresses with
//! TLS.

use crate::support::people::*;
use crate::support::*;
use reqwest::Certificate;
use reqwest::blocking::Client;
use serde_json::{Value, json};
use std::io::{BufRead, BufReader, Read as _};
use std::net::SocketAddr;
use std::process::{Command, Stdio};

/// What each role may not do, by method and address. Everything else of the API is open to all four.
fn is_barred(role: &str, method: &str, path: &str) -> bool {
    // Needed to come in, about oneself, or questions that change nothing.
    if path == "/api/refusals" {
        return role != "lead";
    }
    let is_own = path.starts_with("/api/session")
        || path.starts_with("/api/pairing")
        || path.starts_with("/api/devices")
        || path == "/api/door";
    let is_question = path.starts_with("/api/bench/") || path.contains("/tried/");
    if method == "GET" || is_own || is_question {
        return false;
    }
    let for_leads = ["/approval", "/api/procedures", "/api/people"];
    match role {
        "lead" => false,
        "technician" => for_leads.iter().any(|p| path.contains(p)),
        "witness" => !path.ends_with("/witness"),
        _ => true,
    }
}

#[test]
fn every_route_asks_who_calls_and_lets_each_role_do_its_own() {
    let (_dir, ruhe) = house();
    let (_, spec) = call(
        &ruhe,
        &signed_in(&ruhe, LEAD, "desk"),
        "GET",
        "/api/meta",
        &json!(null),
    );
    assert!(spec["units"].is_array());
    let spec: Value = serde_json::from_slice(&command(&["openapi"]).stdout).unwrap();
    let roles = [
        ("nobody", None),
        ("lead", Some(LEAD)),
        ("technician", Some(("Ilse Marrow", PASSWORD))),
        ("witness", Some(("Odo Fenn", PASSWORD))),
        ("office", Some(("Tess Quill", PASSWORD))),
    ];
    let open = [
        ("get", "/api/meta"),
        ("get", "/api/session"),
        ("post", "/api/session"),
        ("post", "/api/pairing/use"),
    ];
    let mut asked = 0;
    for (role, who) in roles {
        let c = who.map_or_else(browser, |w| signed_in(&ruhe, w, role));
        for (path, methods) in spec["paths"].as_object().unwrap() {
            // Answered with a stream that does not end; signing out would end the rest.
            if path == "/api/live" && who.is_some() {
                continue;
            }
            for method in methods.as_object().unwrap().keys() {
                if method == "delete" && path.starts_with("/api/session") && who.is_some() {
                    continue;
                }
                let at = path
                    .replace("{id}", "nothing")
                    .replace("{entry}", "nothing")
                    .replace("{channel}", "nothing");
                let (status, said) = call(&ruhe, &c, &method.to_uppercase(), &at, &json!({}));
                let is_open = open.contains(&(method.as_str(), path.as_str()));
                let wanted = match who {
                    None if is_open => None,
                    None => Some(401),
                    Some(_) if is_barred(role, &method.to_uppercase(), path) => Some(403),
                    Some(_) if path == "/api/door" => Some(401),
                    Some(_) => None,
                };
                match wanted {
                    Some(w) => assert_eq!(status, w, "{role} {method} {path}: {said}"),
                    None => assert!(
                        ![401, 403].contains(&status) && status < 500,
                        "{role} {method} {path}: {status} {said}"
                    ),
                }
                asked += 1;
            }
        }
    }
    assert!(asked > 300, "{asked} calls");
}

#[test]
fn the_first_person_is_made_on_the_machine_and_then_everybody_is_asked() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let c = browser();
    let (_, s) = call(&ruhe, &c, "GET", "/api/session", &json!(null));
    assert_eq!(
        (&s["may_found"], &s["must_sign_in"]),
        (&json!(true), &json!(false))
    );
    let body = json!({"name": "  Marten   Vale ", "role": "technician", "password": "password1"});
    let (status, said) = call(&ruhe, &c, "POST", "/api/people", &body);
    assert_eq!((status, &said["field"]), (422, &json!("password")));
    let body = json!({"name": "  Marten   Vale ", "role": "technician", "password": LEAD.1});
    assert_eq!(call(&ruhe, &c, "POST", "/api/people", &body).0, 201);
    // Signed in at once, as a lead, under a tidy name.
    let (_, s) = call(&ruhe, &c, "GET", "/api/session", &json!(null));
    assert_eq!(s["person"]["name"], "Marten Vale");
    assert_eq!(s["person"]["role"], "lead");
    // Everybody else is asked now, on this machine too.
    assert_eq!(
        call(&ruhe, &browser(), "GET", "/api/today", &json!(null)).0,
        401
    );
    let again = json!({"name": "marten vale", "role": "lead", "password": PASSWORD});
    assert_eq!(call(&ruhe, &c, "POST", "/api/people", &again).0, 422);
    let (status, said) = call_confirmed(&ruhe, &c, ("POST", "/api/people"), &again, LEAD.1);
    assert!(
        status == 422
            && said["message"]
                .as_str()
                .unwrap()
                .contains("never given twice"),
        "{said}"
    );
    // The last lead cannot go, nor become something less.
    let id = s["person"]["id"].as_str().unwrap();
    for change in [
        json!({"role": "lead", "is_out": true}),
        json!({"role": "office", "is_out": false}),
    ] {
        assert_eq!(
            call_confirmed(
                &ruhe,
                &c,
                ("PUT", &format!("/api/people/{id}")),
                &change,
                LEAD.1
            )
            .0,
            409
        );
    }
    // What is secret is kept as a digest, and what was told stands in a log.
    drop(ruhe);
    let raw = std::fs::read(dir.path().join("ruhe.sqlite")).unwrap();
    let wal = std::fs::read(dir.path().join("ruhe.sqlite-wal")).unwrap_or_default();
    let holds = |what: &str| {
        [&raw, &wal]
            .iter()
            .any(|b| b.windows(what.len()).any(|w| w == what.as_bytes()))
    };
    assert!(holds("$argon2id$") && holds("person_kept"));
    assert!(!holds(LEAD.1));
}

#[test]
fn a_session_is_a_strict_cookie_and_guessing_is_slowed_down() {
    let (_dir, ruhe) = house();
    let c = browser();
    let r = sign_in(&ruhe, &c, LEAD, "desk");
    let cookie = r.headers()["set-cookie"].to_str().unwrap().to_owned();
    for part in ["HttpOnly", "SameSite=Strict", "Path=/"] {
        assert!(cookie.contains(part), "{cookie}");
    }
    assert!(
        !cookie.contains("Secure"),
        "plain HTTP on this machine: {cookie}"
    );
    // The same words for a wrong name and a wrong password.
    let (a, b) = (
        sign_in(&ruhe, &browser(), ("Nobody Here", PASSWORD), "x"),
        sign_in(&ruhe, &browser(), ("Ilse Marrow", "wrong guess here"), "x"),
    );
    assert_eq!(
        (a.status(), b.status()),
        (422.try_into().unwrap(), 422.try_into().unwrap())
    );
    assert_eq!(a.text().unwrap(), b.text().unwrap());
    let own = signed_in(&ruhe, ("Ilse Marrow", PASSWORD), "her own");
    let mut last = None;
    for _ in 0..7 {
        last = Some(sign_in(
            &ruhe,
            &browser(),
            ("ilse marrow", "wrong guess here"),
            "x",
        ));
    }
    let last = last.unwrap();
    assert_eq!(last.status(), 429);
    let wait: u64 = last.headers()["retry-after"]
        .to_str()
        .unwrap()
        .parse()
        .unwrap();
    assert!((1..=20).contains(&wait), "{wait}");
    // On a device that is not known the right password has to wait too; other people need not, and nor does she on her
    // own device, whatever strangers guessed.
    assert_eq!(
        sign_in(&ruhe, &browser(), ("Ilse Marrow", PASSWORD), "x").status(),
        429
    );
    assert_eq!(
        sign_in(&ruhe, &browser(), ("Odo Fenn", PASSWORD), "x").status(),
        201
    );
    assert_eq!(
        sign_in(&ruhe, &own, ("Ilse Marrow", PASSWORD), "x").status(),
        201
    );
    confirmed(&ruhe, &own, &json!({"password": PASSWORD}));
    // What is right is not counted.
    for _ in 0..20 {
        assert_eq!(sign_in(&ruhe, &browser(), LEAD, "x").status(), 201);
    }
}

#[test]
fn what_is_said_stands_under_a_name_and_only_its_own_is_struck_out() {
    let (_dir, ruhe) = house();
    let ilse = signed_in(&ruhe, ("Ilse Marrow", PASSWORD), "phone");
    let lead = signed_in(&ruhe, LEAD, "desk");
    let job = json!({"site_name": "Saltmarsh School", "system_name": "Gym split",
        "circuits": [{"tag": "A", "name": "Line set", "kind": "repair", "refrigerant": "R-32", "plates": []}]});
    let (status, made) = call(&ruhe, &lead, "POST", "/api/jobs", &job);
    assert_eq!(status, 201, "{made}");
    let id = made["circuit_ids"][0].as_str().unwrap().to_owned();
    let at = |p: &str| format!("/api/circuits/{id}{p}");
    let look = json!({"place": "flare", "method": "bubbles", "finding": "clear", "dwell_s": 60.0});
    let (_, by_lead) = call(&ruhe, &lead, "POST", &at("/looks"), &look);
    let (_, by_ilse) = call(&ruhe, &ilse, "POST", &at("/looks"), &look);
    let why = json!({"reason": "wrong joint"});
    let strike = |who: &Client, entry: &Value| {
        let path = at(&format!(
            "/entries/{}/strike",
            entry["id"].as_str().unwrap()
        ));
        call(&ruhe, who, "POST", &path, &why)
    };
    let (status, said) = strike(&ilse, &by_lead);
    assert_eq!(status, 403);
    assert!(
        said["message"]
            .as_str()
            .unwrap()
            .contains("Ilse Marrow (technician) may not strike out"),
        "{said}"
    );
    assert_eq!(strike(&ilse, &by_ilse).0, 201);
    assert_eq!(strike(&lead, &by_lead).0, 201);
    // The log names who and on what, whatever the headers claim.
    let record = lead
        .get(format!("{}{}", ruhe.url, at("/record.zip")))
        .send()
        .unwrap()
        .bytes()
        .unwrap();
    let mut zip = zip::ZipArchive::new(std::io::Cursor::new(record.to_vec())).unwrap();
    let mut log = String::new();
    zip.by_name("log.jsonl")
        .unwrap()
        .read_to_string(&mut log)
        .unwrap();
    assert!(
        log.contains(r#""actor":"Ilse Marrow""#) && log.contains(r#""device":"phone""#),
        "{log}"
    );
    let forged = ilse
        .post(format!("{}{}", ruhe.url, at("/looks")))
        .header("Ruhe-Actor", "Marten Vale")
        .json(&look)
        .send()
        .unwrap();
    let id_of = forged.json::<Value>().unwrap();
    assert_eq!(strike(&ilse, &id_of).0, 201, "it is still her own");
}

#[test]
fn signing_asks_again_once_and_a_witness_signs_beside() {
    let (_dir, ruhe) = house();
    let ilse = signed_in(&ruhe, ("Ilse Marrow", PASSWORD), "phone");
    let job = json!({"site_name": "Saltmarsh School", "system_name": "Gym split",
        "circuits": [{"tag": "A", "name": "Line set", "kind": "repair", "refrigerant": "R-32", "plates": []}]});
    let (_, made) = call(&ruhe, &ilse, "POST", "/api/jobs", &job);
    let id = made["circuit_ids"][0].as_str().unwrap().to_owned();
    let at = |p: &str| format!("/api/circuits/{id}{p}");
    let words = json!({"name": "Somebody Else", "role": "Technician", "statement": "Seen.", "state": "temporary",
        "carried": {"done_for_now": "clamp on the tee", "revisit_on": "2099-03-01", "told": "the cook"}});
    let (status, said) = call(&ruhe, &ilse, "POST", &at("/signature"), &words);
    assert_eq!((status, &said["field"]), (422, &json!("password")));
    let again = |body: Value| call(&ruhe, &ilse, "POST", "/api/session/again", &body);
    assert_eq!(again(json!({"password": "not this one at all"})).0, 422);
    let token = |body: Value| again(body).1["token"].as_str().unwrap().to_owned();
    let send = |path: &str, token: &str, body: &Value| {
        let r = ilse
            .post(format!("{}{}", ruhe.url, at(path)))
            .header("Ruhe-Confirmed", token)
            .json(body)
            .send()
            .unwrap();
        (r.status().as_u16(), r.text().unwrap())
    };
    // Somebody else's confirmation does not make them the signer where they may not sign.
    let odo = token(json!({"name": "Odo Fenn", "password": PASSWORD}));
    assert_eq!(send("/signature", &odo, &words).0, 403);
    let own = token(json!({"password": PASSWORD}));
    let (status, said) = send("/signature", &own, &words);
    assert_eq!(status, 201, "{said}");
    let (_, c) = call(&ruhe, &ilse, "GET", &at(""), &json!(null));
    assert_eq!(
        c["signature"]["name"], "Ilse Marrow",
        "who is known signs under their own name"
    );
    let beside = json!({"name": "Ilse Marrow", "role": "Owner's engineer"});
    assert_eq!(
        send("/witness", &own, &beside).0,
        422,
        "a confirmation is used once"
    );
    let odo = token(json!({"name": "Odo Fenn", "password": PASSWORD}));
    let (status, said) = send("/witness", &odo, &beside);
    assert_eq!(status, 201, "{said}");
    let (_, c) = call(&ruhe, &ilse, "GET", &at(""), &json!(null));
    assert!(c.to_string().contains("Odo Fenn"));
}

#[test]
fn devices_are_listed_paired_and_shut_out() {
    let (dir, ruhe) = house();
    let desk = signed_in(&ruhe, ("Ilse Marrow", PASSWORD), "desk");
    assert_eq!(
        call(&ruhe, &desk, "POST", "/api/pairing", &json!({})).0,
        422
    );
    let own = json!({"password": PASSWORD});
    let (status, pairing) = call(&ruhe, &desk, "POST", "/api/pairing", &own);
    assert_eq!(status, 201);
    let code = pairing["code"].as_str().unwrap();
    let phone = browser();
    let pair = |c: &Client, code: &str| {
        call(
            &ruhe,
            c,
            "POST",
            "/api/pairing/use",
            &json!({"code": code, "device": "roof phone"}),
        )
        .0
    };
    assert_eq!(pair(&phone, "AAAAAAAAAA"), 422);
    assert_eq!(pair(&phone, code), 201);
    assert_eq!(pair(&browser(), code), 422, "a code opens once");
    let today = |c: &Client| call(&ruhe, c, "GET", "/api/today", &json!(null)).0;
    assert_eq!(today(&phone), 200);
    let devices = |c: &Client| {
        call(&ruhe, c, "GET", "/api/devices", &json!(null))
            .1
            .as_array()
            .unwrap()
            .clone()
    };
    let all = devices(&desk);
    assert_eq!(all.len(), 2);
    let roof = all.iter().find(|d| d["device"] == "roof phone").unwrap();
    assert_eq!(
        (&roof["is_paired"], &roof["is_this"]),
        (&json!(true), &json!(false))
    );
    // Another technician can neither see nor end it; a lead can.
    let odo = signed_in(&ruhe, ("Odo Fenn", PASSWORD), "x");
    let path = format!("/api/devices/{}", roof["id"].as_str().unwrap());
    assert_eq!(devices(&odo).len(), 1);
    assert_eq!(call(&ruhe, &odo, "DELETE", &path, &json!({})).0, 403);
    let lead = signed_in(&ruhe, LEAD, "x");
    assert_eq!(devices(&lead).len(), 4);
    assert_eq!(call(&ruhe, &lead, "DELETE", &path, &json!({})).0, 204);
    assert_eq!((today(&phone), today(&desk)), (401, 200));
    // A new password signs out everywhere but here; signing out everywhere, here too.
    let other = signed_in(&ruhe, ("Ilse Marrow", PASSWORD), "other");
    let new = json!({"old": PASSWORD, "new": "gravel bonnet turnip"});
    assert_eq!(
        call(&ruhe, &desk, "PUT", "/api/session/password", &new).0,
        204
    );
    assert_eq!((today(&other), today(&desk)), (401, 200));
    assert_eq!(
        call(&ruhe, &desk, "DELETE", "/api/sessions", &json!({})).0,
        204
    );
    assert_eq!(today(&desk), 401);
    // Who is shut out is out at once, and on the machine itself too.
    let (well, said) = people(dir.path(), &["out", "odo fenn"], "");
    assert!(well, "{said}");
    assert_eq!(today(&odo), 401);
    assert_eq!(
        sign_in(&ruhe, &browser(), ("Odo Fenn", PASSWORD), "x").status(),
        422
    );
}

#[test]
fn other_addresses_take_people_and_tls() {
    let dir = tempfile::tempdir().unwrap();
    let told = command(&[
        "serve",
        "--bind",
        "0.0.0.0:0",
        "--data",
        dir.path().to_str().unwrap(),
    ]);
    let why = String::from_utf8_lossy(&told.stderr).into_owned();
    assert!(
        !told.status.success() && why.contains("ruhe people add"),
        "{why}"
    );
    assert!(people(dir.path(), &["add", LEAD.0], LEAD.1).0);
    let outside = command(&[
        "serve",
        "--bind",
        "0.0.0.0:0",
        "--name",
        "ruhe.example",
        "--data",
        dir.path().to_str().unwrap(),
    ]);
    let why = String::from_utf8_lossy(&outside.stderr).into_owned();
    assert!(
        why.contains("ruhe.example") && why.contains("--certificate"),
        "{why}"
    );

    let mut process = Command::new(env!("CARGO_BIN_EXE_ruhe"))
        .args([
            "serve",
            "--bind",
            "0.0.0.0:0",
            "--name",
            "shed.local",
            "--data",
        ])
        .arg(dir.path())
        .stdout(Stdio::piped())
        .spawn()
        .unwrap();
    let lines: Vec<String> = BufReader::new(process.stdout.take().unwrap())
        .lines()
        .map_while(Result::ok)
        .take(2)
        .collect();
    let port: u16 = lines[0].rsplit(':').next().unwrap().parse().unwrap();
    assert!(
        lines[0].starts_with("Ruhe listens on https://"),
        "{lines:?}"
    );
    assert!(
        lines[1].contains(&format!("https://shed.local:{port}")),
        "{lines:?}"
    );
    let root = std::fs::read(dir.path().join("tls/ruhe-root.crt")).unwrap();
    let local: SocketAddr = format!("127.0.0.1:{port}").parse().unwrap();
    let with = |roots: bool| {
        let c = Client::builder()
            .cookie_store(true)
            .resolve("shed.local", local)
            .resolve("barn.local", local);
        let c = if roots {
            c.add_root_certificate(Certificate::from_pem(&root).unwrap())
        } else {
            c
        };
        c.build().unwrap()
    };
    let url = format!("https://shed.local:{port}");
    assert!(
        with(false).get(&url).send().is_err(),
        "nobody trusts it unasked"
    );
    let c = with(true);
    let r = c
        .post(format!("{url}/api/session"))
        .json(&json!({"name": LEAD.0, "password": LEAD.1}))
        .send()
        .unwrap();
    assert_eq!(r.status(), 201);
    let cookie = r.headers()["set-cookie"].to_str().unwrap().to_owned();
    assert!(
        cookie.starts_with("__Host-ruhe=") && cookie.contains("Secure"),
        "{cookie}"
    );
    assert_eq!(
        c.get(format!("{url}/api/today")).send().unwrap().status(),
        200
    );
    // The certificate is of these names alone, and another name gets no answer even past that.
    assert!(c.get(format!("https://barn.local:{port}")).send().is_err());
    let other = c
        .get(format!("{url}/api/meta"))
        .header("Host", "barn.local")
        .send()
        .unwrap();
    assert_eq!(other.status(), 403);
    // The root is offered to whoever wants to trust it; the pairing code leads to these addresses.
    let offered = c.get(format!("{url}/ruhe-root.crt")).send().unwrap();
    assert_eq!(
        offered.headers()["content-type"],
        "application/x-x509-ca-cert"
    );
    assert_eq!(offered.bytes().unwrap().as_ref(), root.as_slice());
    let p: Value = c
        .post(format!("{url}/api/pairing"))
        .json(&json!({"password": LEAD.1}))
        .send()
        .unwrap()
        .json()
        .unwrap();
    let code = p["code"].as_str().unwrap();
    assert_eq!(p["urls"][0]["url"], format!("{url}/pair#{code}"));
    assert!(p["urls"][0]["modules"].as_u64().unwrap() >= 25);
    assert_eq!(p["root_fingerprint"].as_str().unwrap().len(), 95);
    // Written from another page: refused.
    let forged = c
        .post(format!("{url}/api/pairing"))
        .header("Origin", "https://elsewhere.example")
        .json(&json!({}))
        .send()
        .unwrap();
    assert_eq!(forged.status(), 403);
    let _ = process.kill();
    let _ = process.wait();
}

#[test]
fn a_drill_is_its_learners_own() {
    let (_dir, ruhe) = house();
    let ilse = signed_in(&ruhe, ("Ilse Marrow", PASSWORD), "phone");
    let lead = signed_in(&ruhe, LEAD, "desk");
    let begin = json!({"number": 2, "level": "words"});
    let (status, made) = call(&ruhe, &ilse, "POST", "/api/drills", &begin);
    assert_eq!(status, 201);
    let id = made["id"].as_str().unwrap();
    let (status, view) = call(
        &ruhe,
        &ilse,
        "GET",
        &format!("/api/drills/{id}"),
        &Value::Null,
    );
    assert_eq!(status, 200);
    let inside = format!(
        "/drill/{id}/api/circuits/{}",
        view["circuit_id"].as_str().unwrap()
    );
    assert_eq!(call(&ruhe, &ilse, "GET", &inside, &Value::Null).0, 200);
    // Nobody else's, signed in or not, from either side.
    for path in [format!("/api/drills/{id}"), inside.clone()] {
        assert_eq!(
            call(&ruhe, &lead, "GET", &path, &Value::Null).0,
            403,
            "{path}"
        );
        assert_eq!(
            call(&ruhe, &browser(), "GET", &path, &Value::Null).0,
            401,
            "{path}"
        );
    }
    let shelf = |c: &Client| {
        call(&ruhe, c, "GET", "/api/drills", &Value::Null).1["drills"]
            .as_array()
            .unwrap()
            .len()
    };
    assert_eq!((shelf(&ilse), shelf(&lead)), (1, 0));
    // The office looks at the shelf and begins nothing.
    let tess = signed_in(&ruhe, ("Tess Quill", PASSWORD), "office");
    assert_eq!(call(&ruhe, &tess, "POST", "/api/drills", &begin).0, 403);
}
