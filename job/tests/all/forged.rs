//! Records that somebody made anew: whatever is re-made is told from what was kept, or is not signed by the key that
//! was named.

use crate::work::Work;
use ruhe_job::log::Deed;
use ruhe_job::procedure::Step;
use ruhe_job::record::{Files, Key, SIGNATURE, verify};
use ruhe_job::signoff::State;
use serde_json::{Value, json};

/// A hold that falls, signed as failed.
fn failed() -> Work {
    let mut w = Work::bench();
    w.step(Step::Instruments, "gauge 800 psig, in date");
    w.hold(300.0, 3.0);
    w.sign(State::Failed).unwrap();
    w
}

/// The same log with some deeds said otherwise.
fn remade(w: &Work, change: impl Fn(&mut Deed)) -> Work {
    w.anew(|_, deed, _| change(deed))
}

fn sealed(w: &Work, secret: u8) -> Files {
    let mut files = w.record();
    Key::from_secret([secret; 32]).sign(&mut files);
    files
}

#[test]
fn a_state_that_its_gates_do_not_allow_is_no_state() {
    let w = failed();
    assert!(verify(&sealed(&w, 7)).is_ok());
    // Turned to passed: the log before it does not amount to that.
    let passed = remade(&w, |d| {
        if let Deed::Signed(s) = d {
            s.state = State::Passed;
        }
    });
    let found = verify(&sealed(&passed, 7)).unwrap_err();
    assert!(found.what.contains("gates"), "{found}");
    // With its gates emptied, or all of them said to be met.
    for met in [false, true] {
        let made = remade(&w, |d| {
            if let Deed::Signed(s) = d {
                s.state = State::Passed;
                s.gates.retain(|_| met);
                for g in &mut s.gates {
                    (g.met, g.is_reserved) = (true, false);
                }
            }
        });
        assert!(verify(&sealed(&made, 7)).is_err(), "{met}");
    }
    // With the deciding finding turned too: it is not what its sealed readings say.
    let made = remade(&w, |d| {
        if let Deed::Ended(x) = d {
            let text = serde_json::to_string(&x.finding).unwrap();
            let text = text.replacen("\"outcome\":\"falls\"", "\"outcome\":\"holds\"", 1);
            x.finding = serde_json::from_str(&text).unwrap();
        }
    });
    assert!(verify(&sealed(&made, 7)).is_err());
}

#[test]
fn only_a_strict_signature_by_a_named_key_is_one() {
    let w = failed();
    let honest = sealed(&w, 7);
    let v = verify(&honest).unwrap();
    let key = v.key.unwrap();
    assert!(key.is(&key.fingerprint) && key.is(&key.public));
    assert!(key.is(&key.fingerprint.replace(' ', "").to_uppercase()));
    assert!(!key.is("") && !key.is(&key.fingerprint[..20]));
    // Signed again with another key it verifies, and is not the key that was named.
    let other = verify(&sealed(&w, 8)).unwrap().key.unwrap();
    assert!(!other.is(&key.fingerprint));
    // Without a signature it says so.
    let mut bare = honest.clone();
    bare.remove(SIGNATURE);
    assert_eq!(verify(&bare).unwrap().key, None);
    // A point of small order "signs" anything (RFC 8032, 5.1.7 with the cofactor; refused by a strict check), and so
    // does no algorithm at all.
    let with = |change: &dyn Fn(&mut Value)| {
        let mut files = honest.clone();
        let mut s: Value = serde_json::from_slice(&files[SIGNATURE]).unwrap();
        change(&mut s);
        files.insert(SIGNATURE.into(), serde_json::to_vec(&s).unwrap());
        verify(&files)
    };
    let identity = format!("01{}", "00".repeat(31));
    let small = with(&|s| {
        s["public_key"] = json!(identity);
        s["signature"] = json!(format!("{identity}{}", "00".repeat(32)));
        s["fingerprint"] = json!("01d0 fabd");
    });
    assert!(small.is_err());
    assert!(with(&|s| s["algorithm"] = json!("none")).is_err());
    assert!(with(&|s| s["signs"] = json!("log.jsonl")).is_err());
    assert!(with(&|s| s["fingerprint"] = json!("0000")).is_err());
    assert!(with(&|_| ()).is_ok());
    // The printed record replaced: the manifest no longer names it, and a manifest made anew is not signed.
    let mut files = honest.clone();
    files.insert("record.pdf".into(), b"%PDF false".to_vec());
    assert!(verify(&files).is_err());
}

#[test]
fn clocks_that_run_back_and_what_was_told_afterwards_are_said() {
    let w = failed();
    let n = w.entries.len();
    // The server's clock is set back by a year before the signature.
    let out = w.anew(|i, _, kept_ms| {
        if i + 1 == n {
            *kept_ms -= 365 * 86_400_000;
        }
    });
    let v = verify(&sealed(&out, 7)).unwrap();
    assert!(
        v.notes.iter().any(|n| n.contains("had run back by")),
        "{:?}",
        v.notes
    );
}
