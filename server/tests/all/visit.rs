//! The second half of a job through the API: charge, paper, the signed record file, coming back, one pump for two.

use crate::support::*;
use serde_json::{Value, json};
use std::io::{Cursor, Read as _, Write as _};

/// Signed for now, after nothing but the signature.
fn temporary(ruhe: &Ruhe) -> String {
    let id = ruhe.job("repair");
    let words = json!({"name": "Odo Fenn", "role": "Technician", "statement": "Seen.", "state": "temporary",
        "carried": {"done_for_now": "clamp on the tee", "revisit_on": "2099-03-01", "told": "the cook"},
            "drawing": "M1 1L40 30"});
    let told = ruhe.post(&format!("/api/circuits/{id}/signature"), &words);
    assert_eq!(told.status(), 201, "{}", told.text().unwrap());
    id
}

fn bytes(ruhe: &Ruhe, path: &str) -> (u16, Vec<u8>) {
    let r = ruhe
        .client
        .get(format!("{}{path}", ruhe.url))
        .send()
        .unwrap();
    (r.status().as_u16(), r.bytes().unwrap().to_vec())
}

#[test]
fn a_mass_is_read_in_any_unit_and_a_slip_is_asked_about() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let body = json!({"mass": {"typed": "5.5", "unit": "lb"}, "expected_g": 2409.7, "speaks": "The plate"});
    let read: Value = ruhe.post("/api/bench/mass", &body).json().unwrap();
    assert_eq!(read["mass"]["forms"][4], "5 lb 8.0 oz");
    assert_eq!(read["slips"][0]["choices"][1]["typed"], "5 lb 5 oz");
    let comma = json!({"mass": {"typed": "1,98", "unit": "kg"}});
    let (status, why) = ruhe.refused("/api/bench/mass", &comma);
    assert!(status == 422 && why.contains("comma"), "{why}");
}

#[test]
fn a_charge_by_its_number_through_the_api() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let id = ruhe.job("repair");
    let at = |p: &str| format!("/api/circuits/{id}{p}");
    let target = json!({"target": {"scope": "all_lost", "metering": "valve",
        "plate": {"typed": "1.80", "unit": "kg"}, "plate_again": {"typed": "1800", "unit": "g"}}});
    let tried: Value = ruhe.post(&at("/tried/target"), &target).json().unwrap();
    assert_eq!(tried["total"]["g"].as_f64(), Some(1800.0));
    assert_eq!(tried["stops"], json!([]));
    let scale = json!({"mode": "counts_down", "unit": "kg", "step": "0.005", "start": "9.300", "hose_full": true});
    assert_eq!(
        ruhe.refused(&at("/tried/stop"), &scale).0,
        409,
        "no target yet"
    );
    assert_eq!(ruhe.post(&at("/target"), &target).status(), 201);
    let stop: Value = ruhe.post(&at("/tried/stop"), &scale).json().unwrap();
    assert_eq!(stop["stop"], "7.500 kg");
    let row = |refrigerant: &str| {
        json!({"row": {"kind": "liquid", "refrigerant": refrigerant, "cylinder": "no. 4", "is_weighed": true,
            "start": {"typed": "9.300", "unit": "kg"}, "stop": {"typed": "7.500", "unit": "kg"}}})
    };
    let (status, why) = ruhe.refused(&at("/ledger"), &row("R-410A"));
    assert!(status == 422 && why.starts_with("stop:"), "{why}");
    // What is in it is nobody's guess: recovered, pulled down, broken with vapour up to the freeze guard.
    let (status, why) = {
        ruhe.emptied(&id, "recovered", "0");
        ruhe.seen(&id, "300", "micron");
        ruhe.refused(&at("/ledger"), &row("R-32"))
    };
    assert!(
        status == 422 && why.contains("Vapour only until it shows 112 psig"),
        "{why}"
    );
    let broken = json!({"broken": {"gauge_isolated": true, "hose_purged": true, "with": "vapour", "cores": "after",
        "ports": [{"port": "suction service port", "pressure": {"typed": "115", "unit": "psig"}}]}});
    assert_eq!(ruhe.post(&at("/vacuum-broken"), &broken).status(), 201);
    assert_eq!(ruhe.post(&at("/ledger"), &row("R-32")).status(), 201);
    let gate = ruhe.gate(&id, "charge_weighed");
    assert_eq!(gate["met"], true, "{gate}");
    let c = ruhe.get(&at(""));
    let out = &c["this_visit"]["ledger"]["cylinders"][0]["out"];
    assert_eq!(out["forms"][1], "1.800 kg");
}

/// `ruhe verify` on a record, by its own key.
fn verify(dir: &std::path::Path, bytes: &[u8]) -> (i32, String) {
    verified(dir, bytes, Some(&key_of(bytes)))
}

/// The record with the last digit of one file changed.
fn forged(record: &[u8], name: &str) -> Vec<u8> {
    let mut zip = zip::ZipArchive::new(Cursor::new(record.to_vec())).unwrap();
    let mut out = zip::ZipWriter::new(Cursor::new(Vec::new()));
    for i in 0..zip.len() {
        let mut f = zip.by_index(i).unwrap();
        let (n, mut b) = (f.name().unwrap().into_owned(), vec![]);
        f.read_to_end(&mut b).unwrap();
        if n == name {
            let k = b.iter().rposition(u8::is_ascii_digit).unwrap();
            b[k] = if b[k] == b'1' { b'2' } else { b'1' };
        }
        let options = zip::write::SimpleFileOptions::default();
        out.start_file(n, options).unwrap();
        out.write_all(&b).unwrap();
    }
    out.finish().unwrap().into_inner()
}

#[test]
fn the_record_is_printed_for_each_reader_and_signed_with_a_key() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let id = temporary(&ruhe);
    for reader in [
        "owner",
        "inspector",
        "maker",
        "regulator",
        "technician",
        "all",
    ] {
        for paper in ["a4", "letter"] {
            let path = format!("/api/circuits/{id}/record.pdf?reader={reader}&paper={paper}");
            let (status, pdf) = bytes(&ruhe, &path);
            assert!(status == 200 && pdf.starts_with(b"%PDF-"), "{path}");
            assert!(pdf.len() < 1 << 20);
        }
    }
    // It can be searched and read aloud: every word is text, in its order; page one is one page.
    let (_, pdf) = bytes(
        &ruhe,
        &format!("/api/circuits/{id}/record.pdf?reader=owner"),
    );
    let pages = pdf_extract::extract_text_from_mem_by_pages(&pdf).unwrap();
    assert_eq!(pages.len(), 1);
    let plain = pages[0].split_whitespace().collect::<Vec<_>>().join(" ");
    for words in [
        "Gym split, circuit A",
        "Temporary, to be revisited",
        "Done for now: clamp on the tee. Come back on 2099-03-01. Told: the cook.",
        "What is inside: whole circuit: refrigerant as found, pressure not seen",
        "Odo Fenn, Technician",
    ] {
        assert!(plain.contains(words), "{words}: {plain}");
    }
    let tagged = String::from_utf8_lossy(&pdf);
    assert!(tagged.contains("/StructTreeRoot") && tagged.contains("/Lang"));
    // To be kept for years, and made at a moment.
    assert!(tagged.contains("pdfaid:part") && tagged.contains("/CreationDate"));
    let refused = |query: &str| bytes(&ruhe, &format!("/api/circuits/{id}/record.pdf?{query}")).0;
    assert_eq!(
        (
            refused("reader=nobody"),
            refused("paper=a5"),
            refused("visit=7")
        ),
        (422, 422, 404)
    );
    let record = ruhe.record(&id);
    let mut zip = zip::ZipArchive::new(Cursor::new(record.clone())).unwrap();
    assert!(zip.by_name("record.pdf").is_ok());
    let signed: Value = serde_json::from_reader(zip.by_name("signature.json").unwrap()).unwrap();
    let key = signed["fingerprint"].as_str().unwrap();
    let (code, words) = verify(dir.path(), &record);
    assert!(code == 0 && words.contains(key), "{words}");
    for name in ["record.pdf", "signature.json"] {
        let (code, words) = verify(dir.path(), &forged(&record, name));
        assert!(code == 4 && words.contains(name), "{name}: {words}");
    }
    // The key stays: another start signs with the same one.
    drop(ruhe);
    let again = Ruhe::start(dir.path());
    assert!(verify(dir.path(), &again.record(&id)).1.contains(key));
}

#[test]
fn a_temporary_job_stays_on_today_until_somebody_comes_back() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let id = temporary(&ruhe);
    let at = |p: &str| format!("/api/circuits/{id}{p}");
    let today = ruhe.get("/api/today");
    assert_eq!(today[0]["state_title"], "Temporary, to be revisited");
    assert_eq!(today[0]["clock"]["label"], "the revisit");
    let (_, calendar) = bytes(&ruhe, &at("/revisit.ics"));
    let calendar = String::from_utf8(calendar).unwrap();
    assert!(
        calendar.contains("DTSTART;VALUE=DATE:20990301")
            && calendar.contains("RELATED=START:PT28800S"),
        "a day wherever one is, and eight in the morning there: {calendar}"
    );
    // Asked again it is the same event with the same alarm.
    let same = |text: &str| -> Vec<String> {
        let of = text.lines().filter(|l| !l.starts_with("DTSTAMP"));
        of.map(Into::into).collect()
    };
    let (_, again) = bytes(&ruhe, &at("/revisit.ics"));
    assert_eq!(same(&String::from_utf8(again).unwrap()), same(&calendar));
    assert!(calendar.contains("SEQUENCE:"), "{calendar}");
    assert_eq!(ruhe.step(&id, "instruments_in_date", "x").status(), 409);
    let post = |path: &str, body: Value| ruhe.post(&at(path), &body).status().as_u16();
    let words = json!({"name": "Odo Fenn", "words": "The tube is ordered."});
    assert_eq!(post("/additions", words), 201);
    assert_eq!(
        post("/witness", json!({"name": "Bram Holt", "role": "owner"})),
        201
    );
    assert_eq!(
        post(
            "/visits",
            json!({"reason": "new length of tube", "job": "repair"})
        ),
        201
    );
    assert_eq!(
        ruhe.step(&id, "instruments_in_date", "same set").status(),
        201
    );
    let c = ruhe.get(&at(""));
    assert_eq!(c["visits"].as_array().unwrap().len(), 2);
    assert!(c["signature"].is_null());
    assert!(
        c["doubts"][0]
            .as_str()
            .unwrap()
            .contains("clamp on the tee")
    );
    // The visit before is printed as it was signed; what was said after it too.
    let first = ruhe.get(&at("/record?visit=1"));
    assert_eq!(first["circuit"]["signature"]["state"], "temporary");
    let after = first["circuit"]["this_visit"]["after"].as_array().unwrap();
    assert_eq!(after.len(), 2);
    let found = ruhe.get("/api/search?q=length+tube");
    assert_eq!(found[0]["circuit_id"].as_str(), Some(id.as_str()));
}

#[test]
fn one_gauge_is_on_one_circuit_at_a_time() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let (a, b) = (ruhe.job("bench_component"), ruhe.job("bench_component"));
    let gauge = json!({"kind": "pressure_gauge", "name": "Blue set", "unit": "psig", "range": 800.0,
        "resolution": 0.1});
    let gauge: Value = ruhe.post("/api/kit", &gauge).json().unwrap();
    let mut hold = hold_body(300.0);
    hold["plan"]["kit"] = json!([gauge["id"]]);
    let first: Value = ruhe
        .post(&format!("/api/circuits/{a}/tests"), &hold)
        .json()
        .unwrap();
    let used = ruhe.get("/api/kit/in-use");
    assert_eq!(used[0]["name"], "Blue set", "{used}");
    assert_eq!(used[0]["freed_by"], "gauge_taken_off");
    let (status, why) = ruhe.refused(&format!("/api/circuits/{b}/tests"), &hold);
    let told = "Blue set is on Gym split, circuit A";
    assert!(status == 422 && why.contains(told), "{why}");
    // Moved: an event there, and it is free here.
    let event =
        json!({"id": "moved-1", "kind": "gauge_taken_off", "note": "moved to another circuit"});
    let test = first["id"].as_str().unwrap();
    let marked = ruhe.post(&format!("/api/tests/{test}/events"), &event);
    assert_eq!(marked.status(), 201);
    assert_eq!(ruhe.get("/api/kit/in-use"), json!([]));
    let second = ruhe.post(&format!("/api/circuits/{b}/tests"), &hold);
    assert_eq!(second.status(), 201);
}
