//! The log: canonical bytes, chain, and a record in which a changed digit is always found.

use crate::work::Work;
use ruhe_core::judge::Finding;
use ruhe_core::reading::EventKind;
use ruhe_job::log::{Deed, check, parse, sha256};
use ruhe_job::procedure::Step;
use ruhe_job::record::{Checked, verify};
use ruhe_job::signoff::State;
use serde_json::{Value, json};

/// RFC 8785 (2020), section 3.2.2, sample object and its canonical form.
#[test]
fn canonical_json_is_that_of_rfc_8785() {
    let sample: Value = serde_json::from_str(
        r#"{"numbers":[333333333.33333329,1E30,4.50,2e-3,0.000000000000000000000000001],
            "string":"\u20ac$\u000F\u000aA'\u0042\u0022\u005c\\\"\/","literals":[null,true,false]}"#,
    )
    .unwrap();
    assert_eq!(
        serde_jcs::to_string(&sample).unwrap(),
        r#"{"literals":[null,true,false],"numbers":[333333333.3333333,1e+30,4.5,0.002,1e-27],"string":"€$\u000f\nA'B\"\\\\\"/"}"#
    );
}

/// FIPS 180-4's example: the digest of "abc".
#[test]
fn the_hash_is_sha_256() {
    assert_eq!(
        sha256(b"abc"),
        "ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad"
    );
}

/// A signed job: a hold that holds, with everything confirmed.
fn signed() -> Work {
    let mut w = Work::bench();
    w.step(Step::BoundaryValves, "capped");
    w.step(Step::Instruments, "gauge 800 psig, in date");
    w.step(Step::GasReady, "20 L bottle");
    w.hold(300.0, 0.0);
    w.look_everywhere(300.0);
    w.emptied(Step::Released, "2").unwrap();
    w.labelled();
    w.sign(State::Passed).unwrap();
    w
}

#[test]
fn a_record_is_whole_and_judged_again_it_is_the_same() {
    let w = signed();
    let v = verify(&w.record()).unwrap();
    assert_eq!(v.head, w.chain.hash);
    assert_eq!(v.entries, w.entries.len());
    assert_eq!(v.tests, [("Hold 1".to_owned(), Checked::Same)]);
    assert!(v.is_same() && v.signed[0].starts_with("Ilse Marrow"));
}

/// A generator of numbers that is the same every time (SplitMix64, from memory).
fn draw(state: &mut u64) -> u64 {
    *state = state.wrapping_add(0x9e37_79b9_7f4a_7c15);
    let mut z = *state;
    z = (z ^ (z >> 30)).wrapping_mul(0xbf58_476d_1ce4_e5b9);
    z = (z ^ (z >> 27)).wrapping_mul(0x94d0_49bb_1331_11eb);
    z ^ (z >> 31)
}

#[test]
fn a_changed_digit_is_always_found_and_named() {
    let whole = signed().record();
    let digits: Vec<(String, usize)> = whole
        .iter()
        .flat_map(|(name, bytes)| {
            let at = bytes.iter().enumerate();
            at.filter(|(_, b)| b.is_ascii_digit())
                .map(|(i, _)| (name.clone(), i))
        })
        .collect();
    let mut seed = 11;
    for _ in 0..4_000 {
        let (name, at) = &digits[usize::try_from(draw(&mut seed)).unwrap() % digits.len()];
        let mut changed = whole.clone();
        let byte = &mut changed.get_mut(name).unwrap()[*at];
        *byte = b'0' + (*byte - b'0' + 1 + (draw(&mut seed) % 9) as u8) % 10;
        let found = verify(&changed).expect_err(&format!("digit {at} of {name}"));
        let place = found.place.split(", ").next().unwrap();
        let folder = |n: &str| {
            n.rsplit_once('/')
                .map_or(String::new(), |(f, _)| f.to_owned())
        };
        assert!(
            place == name || (!folder(name).is_empty() && folder(place) == folder(name)),
            "digit {at} of {name} was found in {found}"
        );
    }
}

#[test]
fn a_changed_entry_is_named_by_its_place() {
    let w = signed();
    for seq in 0..w.lines.len() {
        let mut lines = w.lines.clone();
        lines[seq] = lines[seq].replace("Ilse Marrow", "Odo Fenn");
        let found = check(&w.id, lines.iter().map(String::as_str));
        // The last entry has nothing after it that would carry its hash; the manifest and the paper do.
        match found {
            Err(f) => assert_eq!(f.seq, seq as u64 + 1, "{f}"),
            Ok((_, head)) => {
                assert_eq!(seq + 1, lines.len());
                assert_ne!(head, w.chain.hash);
            }
        }
        // Taken out, or in another order.
        let mut less = w.lines.clone();
        less.remove(seq);
        let short = check(&w.id, less.iter().map(String::as_str));
        assert!(short.is_err() || short.unwrap().1 != w.chain.hash);
    }
    let mut swapped = w.lines.clone();
    swapped.swap(2, 3);
    assert_eq!(
        check(&w.id, swapped.iter().map(String::as_str))
            .unwrap_err()
            .seq,
        3
    );
}

/// The same log as another version of the method would have made it: its finding differs, its chain is whole.
fn by_another_engine(w: &Work, change: impl Fn(&mut Finding)) -> Work {
    w.anew(|_, deed, _| {
        if let Deed::Ended(x) = deed {
            x.engine = "ruhe 0.0.9".into();
            change(&mut x.finding);
        }
    })
}

#[test]
fn another_engine_is_told_from_tampering() {
    let w = signed();
    let older = by_another_engine(&w, |f| {
        if let Finding::PressureHold(v) = f {
            v.loss.as_mut().unwrap().high *= 1.5;
        }
    });
    let v = verify(&older.record()).unwrap();
    assert!(!v.is_same());
    match &v.tests[0].1 {
        Checked::Otherwise(words) => assert!(words.contains("ruhe 0.0.9"), "{words}"),
        other => panic!("{other:?}"),
    }
    // The same method cannot have found anything else: whoever wrote this wrote the finding himself.
    let own = w.anew(|_, deed, _| {
        if let Deed::Ended(x) = deed
            && let Finding::PressureHold(v) = &mut x.finding
        {
            v.loss.as_mut().unwrap().high *= 0.5;
        }
    });
    let found = verify(&own.record()).unwrap_err();
    assert!(found.place.contains("the end of Hold 1"), "{found}");
}

#[test]
fn what_does_not_belong_to_a_record_is_named() {
    let whole = signed().record();
    let mut more = whole.clone();
    more.insert("notes.txt".into(), b"mine".to_vec());
    assert_eq!(verify(&more).unwrap_err().place, "notes.txt");
    for name in whole.keys() {
        let mut less = whole.clone();
        less.remove(name);
        let found = verify(&less).unwrap_err();
        assert!(
            found.what.contains("missing") || found.what.contains("does not say"),
            "{found}"
        );
    }
}

#[test]
fn one_entry_reads_as_documented() {
    let mut w = Work::bench();
    let test = w.plan(300.0);
    w.mark(&test, EventKind::SupplyIsolated);
    let last: Value = serde_json::from_str(w.lines.last().unwrap()).unwrap();
    assert_eq!(
        last,
        json!({
            "log": "job-1", "seq": 4, "id": "e2", "actor": "Ilse Marrow", "device": "phone",
            "said_ms": w.now - 40, "kept_ms": w.now, "before": last["before"],
            "format": 1, "ruhe": last["ruhe"], "deed": "marked", "test": "e1", "event": "supply_isolated",
                "note": "", "at_ms": w.now
        })
    );
}

/// The line is what was hashed: an entry of a program that did not yet know a field is whole, one that says something
/// which this program does not know is closed with the place of it, and no other form of the same entry is taken.
#[test]
fn an_older_entry_is_whole_and_a_newer_one_says_so() {
    let mut w = Work::bench();
    w.plan(300.0);
    let line = w.lines.last().unwrap();
    let whole: Value = serde_json::from_str(line).unwrap();
    assert_eq!(whole["deed"], "planned");
    let form = |v: &Value| serde_jcs::to_string(v).unwrap();
    assert!(parse(line, 3).is_ok());
    // Written before this field was there.
    let mut older = whole.clone();
    let plan = older["plan"].as_object_mut().unwrap();
    assert!(plan.remove("dead_volume_ml").unwrap().is_null());
    let read = parse(&form(&older), 3).unwrap();
    assert_eq!(read, parse(line, 3).unwrap());
    for at in ["", "/plan", "/channels/0"] {
        let mut newer = whole.clone();
        newer.pointer_mut(at).unwrap()["humidity"] = json!(0.4);
        let fault = parse(&form(&newer), 3).unwrap_err();
        assert!(
            fault.what.contains("humidity") && fault.what.contains("does not know"),
            "{fault}"
        );
    }
    for other in [
        serde_json::to_string_pretty(&whole).unwrap(),
        line.replacen('{', "{ ", 1),
    ] {
        assert!(parse(&other, 3).unwrap_err().what.contains("canonical"));
    }
}
