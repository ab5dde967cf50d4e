//! A house in which people are known: who they are, how they sign in, and requests as they send them.

use super::Ruhe;
use reqwest::Method;
use reqwest::blocking::{Client, Response};
use serde_json::{Value, json};
use std::io::Write as _;
use std::path::Path;
use std::process::{Command, Stdio};

pub const LEAD: (&str, &str) = ("Marten Vale", "kettle fence lantern");
pub const PASSWORD: &str = "ochre pulley thimble";

/// `ruhe people …` with a line on its standard input: whether it went well, and what it said.
pub fn people(data: &Path, args: &[&str], line: &str) -> (bool, String) {
    let mut child = Command::new(env!("CARGO_BIN_EXE_ruhe"))
        .args(["people", "--data"])
        .arg(data)
        .args(args)
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .spawn()
        .unwrap();
    writeln!(child.stdin.take().unwrap(), "{line}").unwrap();
    let out = child.wait_with_output().unwrap();
    let said =
        String::from_utf8_lossy(&out.stdout).into_owned() + &String::from_utf8_lossy(&out.stderr);
    (out.status.success(), said)
}

pub fn browser() -> Client {
    Client::builder().cookie_store(true).build().unwrap()
}

/// A browser in which somebody is signed in.
pub fn signed_in(ruhe: &Ruhe, (name, password): (&str, &str), device: &str) -> Client {
    let c = browser();
    let r = sign_in(ruhe, &c, (name, password), device);
    assert_eq!(r.status(), 201, "{}", r.text().unwrap());
    c
}

pub fn sign_in(ruhe: &Ruhe, c: &Client, (name, password): (&str, &str), device: &str) -> Response {
    c.post(format!("{}/api/session", ruhe.url))
        .json(&json!({"name": name, "password": password, "device": device}))
        .send()
        .unwrap()
}

pub fn call(ruhe: &Ruhe, c: &Client, method: &str, path: &str, body: &Value) -> (u16, Value) {
    let method = Method::from_bytes(method.as_bytes()).unwrap();
    let request = c.request(method.clone(), format!("{}{path}", ruhe.url));
    let request = if method == Method::GET {
        request
    } else {
        request.json(body)
    };
    let r = request.send().unwrap();
    (r.status().as_u16(), r.json().unwrap_or_default())
}

/// A server on which a lead, a technician, a witness and an office worker are known.
pub fn house() -> (tempfile::TempDir, Ruhe) {
    let dir = tempfile::tempdir().unwrap();
    let (well, said) = people(dir.path(), &["add", LEAD.0, "--role", "office"], LEAD.1);
    // The first is a lead, whatever was asked.
    assert!(well && said.contains("as Lead"), "{said}");
    for (name, role) in [
        ("Ilse Marrow", "technician"),
        ("Odo Fenn", "witness"),
        ("Tess Quill", "office"),
    ] {
        let (well, said) = people(dir.path(), &["add", name, "--role", role], PASSWORD);
        assert!(well, "{said}");
    }
    let ruhe = Ruhe::start(dir.path());
    (dir, ruhe)
}

/// The token that says that whoever is signed in gave their password just now.
pub fn confirmed(ruhe: &Ruhe, c: &Client, body: &Value) -> String {
    let (status, said) = call(ruhe, c, "POST", "/api/session/again", body);
    assert_eq!(status, 201, "{said}");
    said["token"].as_str().unwrap().to_owned()
}

/// A request with such a token.
pub fn call_confirmed(
    ruhe: &Ruhe,
    c: &Client,
    (method, path): (&str, &str),
    body: &Value,
    password: &str,
) -> (u16, Value) {
    let token = confirmed(ruhe, c, &json!({"password": password}));
    let method = Method::from_bytes(method.as_bytes()).unwrap();
    let r = c
        .request(method, format!("{}{path}", ruhe.url))
        .header("Ruhe-Confirmed", token)
        .json(body)
        .send()
        .unwrap();
    (r.status().as_u16(), r.json().unwrap_or_default())
}

/// A browser that came in by a code which another showed.
pub fn paired(ruhe: &Ruhe, by: &Client, password: &str, device: &str) -> Client {
    let (status, shown) = call(
        ruhe,
        by,
        "POST",
        "/api/pairing",
        &json!({"password": password}),
    );
    assert_eq!(status, 201, "{shown}");
    let c = browser();
    let body = json!({"code": shown["code"], "device": device});
    assert_eq!(call(ruhe, &c, "POST", "/api/pairing/use", &body).0, 201);
    c
}
