//! What was entered about the wrong thing is put right, with its trace: what a circuit is, and where a test was made.

use crate::support::{Ruhe, file_of, hold_body};
use serde_json::{Value, json};

/// Two circuits of one system.
fn two(ruhe: &Ruhe) -> [String; 2] {
    let circuit = |tag: &str| {
        json!({"tag": tag, "name": "Line set and coil", "kind": "bench_component", "refrigerant": "R-32",
            "plates": [{"part": "coil", "high": "600", "unit": "psig", "only_one": true}]})
    };
    let body = json!({"site_name": "Ferrywick Bakery", "system_name": "Dough room", "circuits": [circuit("A"),
        circuit("B")]});
    let made: Value = ruhe.post("/api/jobs", &body).json().unwrap();
    [0, 1].map(|i| made["circuit_ids"][i].as_str().unwrap().to_owned())
}

fn is(tag: &str, refrigerant: &str) -> Value {
    json!({"system_name": "Dough room", "tag": tag, "name": "Line set and coil", "kind": "bench_component",
        "refrigerant": refrigerant,
        "reason": "the plate was misread"})
}

#[test]
fn a_corrected_circuit_is_judged_again_and_says_what_it_was() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let [a, _] = two(&ruhe);
    let path = format!("/api/circuits/{a}/correction");
    let test = ruhe.finished_hold(&a, &hold_body(300.0), 300.0, 0.0);
    ruhe.finished_hold(&a, &hold_body(300.0), 300.0, 0.0);
    // The other circuit carries that letter.
    let (status, told) = ruhe.refused(&path, &is("B", "R-32"));
    assert!(status == 422 && told.contains("letter"), "{told}");
    let mut other = is("C", "R-410A");
    other["system_name"] = json!("Proof room");
    assert!(ruhe.refused(&path, &other).1.contains("its name stays"));
    assert_eq!(ruhe.post(&path, &is("C", "R-410A")).status(), 201);
    let c = ruhe.get(&format!("/api/circuits/{a}"));
    assert_eq!(
        (&c["tag"], &c["refrigerant"]),
        (&json!("C"), &json!("R-410A"))
    );
    let told = c["corrections"][0]["what"].as_str().unwrap();
    assert_eq!(told, "letter A, now C; refrigerant R-32, now R-410A");
    assert_eq!(ruhe.test(&test)["plan"]["refrigerant"], "R-410A");
    // A system of the same name, taken on by itself, has letters of its own.
    let [other, _] = two(&ruhe);
    let path = format!("/api/circuits/{other}/correction");
    assert_eq!(ruhe.post(&path, &is("C", "R-410A")).status(), 201);
    // Both tests were judged again: their ends stand twice in the log.
    let log = String::from_utf8(file_of(&ruhe.record(&a), "log.jsonl")).unwrap();
    assert_eq!(log.matches("\"deed\":\"ended\"").count(), 4);
    // It is found and listed as what it is.
    let found = ruhe.get("/api/search?words=R-410A");
    assert!(found.to_string().contains(&a), "{found}");
}

#[test]
fn a_test_goes_to_the_circuit_it_was_made_on_once() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let [a, b] = two(&ruhe);
    let test = ruhe.finished_hold(&a, &hold_body(300.0), 300.0, 0.2);
    let was = ruhe.test(&test);
    let path = format!("/api/tests/{test}/moved");
    let body = json!({"to": b, "reason": "the letters were mixed up"});
    let (status, _) = ruhe.refused(&path, &json!({"to": "nowhere", "reason": "x"}));
    assert_eq!(status, 404);
    let send = || {
        let request = ruhe.client.post(format!("{}{path}", ruhe.url));
        let request = request.header("Ruhe-Id", "moved-1").json(&body);
        let r = request.send().unwrap();
        assert_eq!(r.status(), 201, "{}", r.text().unwrap());
        r.json::<Value>().unwrap()["id"]
            .as_str()
            .unwrap()
            .to_owned()
    };
    let there = send();
    assert_eq!(send(), there);
    let now = ruhe.test(&there);
    for what in ["outcome", "headline"] {
        assert_eq!(now["verdict"][what], was["verdict"][what]);
    }
    assert_eq!(now["reading_count"], was["reading_count"]);
    let holds = |id: &str| {
        let c = ruhe.get(&format!("/api/circuits/{id}"));
        let stages = c["stages"].as_array().unwrap().clone();
        let hold = stages.into_iter().find(|s| s["code"] == "hold").unwrap();
        (hold["tests"].as_array().unwrap().len(), c["struck"].clone())
    };
    let (count, struck) = holds(&a);
    assert_eq!(count, 0);
    let told = struck[0]["what"].as_str().unwrap();
    assert_eq!(told, "Hold 1, moved to Dough room, circuit B");
    assert_eq!(holds(&b).0, 1);
    // Both records are whole, readings and all.
    for id in [&a, &b] {
        let record = ruhe.record(id);
        let key = crate::support::key_of(&record);
        let (code, words) = crate::support::verified(dir.path(), &record, Some(&key));
        assert_eq!(code, 0, "{words}");
    }
}
