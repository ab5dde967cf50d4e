//! Who may do what, and what each address asks for.

use ruhe_job::people::*;
use ruhe_job::refusal::Refusal;

fn by(name: &str, role: Role) -> By {
    By {
        name: name.into(),
        standing: Standing::Person(role),
        device: "phone".into(),
    }
}

#[test]
fn the_table_of_roles() {
    use Right as R;
    let table = [
        (R::Look, "LTWO"),
        (R::Work, "LT"),
        (R::StrikeOthers, "L"),
        (R::Override, "L"),
        (R::Sign, "LT"),
        (R::Countersign, "LTW"),
        (R::Procedures, "L"),
        (R::People, "L"),
    ];
    assert_eq!(
        table.len(),
        Right::all().count(),
        "every right is in the table"
    );
    for (right, who) in table {
        for role in Role::all() {
            let letter = role.title().chars().next().unwrap();
            assert_eq!(role.may(right), who.contains(letter), "{role:?} {right:?}");
            assert_eq!(by("x", role).must(right).is_ok(), role.may(right));
        }
    }
    // Where nobody is known by name, whoever sits there may do everything.
    assert!(Right::all().all(|r| By::machine("", "").must(r).is_ok()));
}

#[test]
fn a_refusal_says_who_may() {
    let Err(Refusal::Denied(why)) = by("Ilse Marrow", Role::Technician).must(Right::Override)
    else {
        panic!("a technician overrides");
    };
    assert_eq!(
        why,
        "Ilse Marrow (technician) may not override a gate; that takes: lead"
    );
}

#[test]
fn one_strikes_out_what_one_said_oneself() {
    let ilse = by("Ilse Marrow", Role::Technician);
    assert!(ilse.must_own("Ilse Marrow").is_ok());
    assert!(ilse.must_own("").is_ok(), "said before anybody was known");
    assert!(ilse.must_own("Odo Fenn").is_err());
    assert!(by("Marten Vale", Role::Lead).must_own("Odo Fenn").is_ok());
    assert!(
        by("Tess Quill", Role::Office)
            .must_own("Tess Quill")
            .is_err()
    );
}

#[test]
fn names_are_tidy_and_a_lead_stays() {
    assert_eq!(person_name("  Odo \u{a0} Fenn ").unwrap(), "Odo Fenn");
    assert!(person_name("Odo\nFenn").is_err() && person_name(" ").is_err());
    assert!(person_name(&"x".repeat(81)).is_err());
    // Nothing that is not seen, nothing that only looks like a known name.
    for bad in [
        "Odo\u{200b} Fenn",
        "Odo\u{200d}Fenn",
        "\u{202e}nneF odO",
        "Od\u{43e} Fenn",
        "Odo\u{ad} Fenn",
        "()",
    ] {
        assert!(person_name(bad).is_err(), "{bad:?}");
    }
    for good in [
        "Zoë Åström",
        "O’Fenn-Marrow",
        "Ольга Нева",
        "伊藤 梅",
        "Technician 2",
    ] {
        assert_eq!(person_name(good).unwrap(), good);
    }
    assert!(
        looks_like("Ilse Marrow", "IIse  marrow"),
        "a capital i for an l"
    );
    assert!(looks_like("Odo Fenn", "0do Fenn") && !looks_like("Odo Fenn", "Odo Penn"));
    let p = |id: &str, role, is_out| PersonKept {
        person: id.into(),
        name: id.into(),
        role,
        is_out,
    };
    let all = [p("a", Role::Lead, false), p("b", Role::Technician, false)];
    assert!(must_keep_a_lead(&all, &p("a", Role::Office, false)).is_err());
    assert!(must_keep_a_lead(&all, &p("a", Role::Lead, true)).is_err());
    assert!(must_keep_a_lead(&all, &p("b", Role::Lead, false)).is_ok());
}

#[test]
fn what_is_not_listed_is_no_address() {
    for (method, pattern) in [
        ("GET", "/api/anything/new"),
        ("HEAD", "/api/today"),
        ("POST", "/api/today"),
        ("GET", "/api/door"),
        ("get", "/api/today"),
        ("GET", "/api/today/"),
    ] {
        assert_eq!(asked(method, pattern), None, "{method} {pattern}");
    }
    assert_eq!(
        asked("POST", "/api/circuits/{id}/tried/set"),
        Some(Asked::Right(Right::Look))
    );
    assert_eq!(asked("POST", "/api/door"), Some(Asked::Gauge));
    assert_eq!(methods("/api/door"), ["POST"]);
    // No address stands twice, and nothing that is asked of nobody changes what is kept.
    let mut seen = std::collections::HashSet::new();
    for (method, pattern, wanted, in_drills) in ADDRESSES {
        assert!(seen.insert((method, pattern)), "{method} {pattern}");
        assert_eq!(is_in_drills(method, pattern), in_drills);
        if wanted == Asked::Nobody {
            assert!(
                method == "GET"
                    || pattern.starts_with("/api/session")
                    || pattern == "/api/pairing/use",
                "{method} {pattern}"
            );
        }
    }
}

#[test]
fn nobody_acts_without_a_name_where_people_are_known() {
    assert_eq!(NobodyKnown::if_so(true), None);
    assert!(NobodyKnown::if_so(false).is_some());
}
