//! What is kept can be read back: on every path, whatever the numbers.

use ruhe_job::log::{Chain, Deed, Who, check, parse};

fn who(said_ms: i64) -> Who {
    Who {
        id: "a".into(),
        actor: "Ilse Marrow".into(),
        device: "phone".into(),
        said_ms: Some(said_ms),
    }
}

fn site(name: &str) -> Deed {
    Deed::SiteKept {
        site: "s".into(),
        name: name.into(),
        place: String::new(),
    }
}

/// RFC 8785 (3.2.2.3) writes numbers as doubles: 2⁵³ − 1 comes back as it is, 2⁶³ − 1 would not.
#[test]
fn no_number_gets_in_that_would_come_back_as_another() {
    const EXACT: i64 = (1 << 53) - 1;
    for (n, is_kept) in [
        (EXACT, true),
        (-EXACT, true),
        (EXACT + 1, false),
        (-EXACT - 1, false),
        (i64::MAX, false),
        (i64::MIN, false),
    ] {
        let mut chain = Chain::empty("sites");
        let made = chain.append(&who(n), 1_000, vec![site("A")]);
        assert_eq!(made.is_ok(), is_kept, "{n}: {made:?}");
        // What is refused leaves the end of the log where it was.
        assert_eq!(chain.seq, u64::from(is_kept));
        if let Ok(kept) = made {
            let (entry, line, _) = &kept[0];
            assert_eq!(&parse(line, 1).unwrap(), entry);
        }
    }
    let mut chain = Chain::empty("sites");
    assert!(chain.append(&who(0), i64::MAX, vec![site("A")]).is_err());
    assert!(chain.append(&who(0), 0, vec![site("A"), site("B")]).is_ok());
}

#[test]
fn figures_that_are_none_are_not_kept() {
    let looked = |dwell_s| {
        Deed::Looked(ruhe_job::log::Looked {
            place: "flare".into(),
            section: None,
            method: ruhe_job::search::Method::Bubbles,
            finding: ruhe_job::search::LookResult::Clear,
            dwell_s: Some(dwell_s),
            at_pa: None,
            note: String::new(),
            photo_id: None,
            at_ms: 1,
        })
    };
    let mut chain = Chain::empty("c");
    for bad in [f64::NAN, f64::INFINITY, f64::NEG_INFINITY] {
        assert!(
            chain.append(&who(1), 1, vec![looked(bad)]).is_err(),
            "{bad}"
        );
    }
    let mut lines = vec![];
    for good in [60.0, 1e-300, 1.797e308, -0.0, 0.1 + 0.2, 5e-324] {
        let kept = chain.append(&who(1), 1, vec![looked(good)]).unwrap();
        lines.push(kept[0].1.clone());
    }
    let (back, hash) = check("c", lines.iter().map(String::as_str)).unwrap();
    assert_eq!((back.len(), hash), (6, chain.hash));
}
