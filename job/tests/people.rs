//! Who may do what, and what each address asks for.
#![allow(clippy::unwrap_used)]

use ruhe_job::people::*;
use ruhe_job::refusal::Refusal;

fn by(name: &str, role: Role) -> By {
    By {
        name: name.into(),
        role: Some(role),
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
    assert!(Right::all().all(|r| By::default().must(r).is_ok()));
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
fn what_is_not_listed_asks_for_looking_or_working() {
    let right = |m, p| asked(m, p);
    assert_eq!(right("GET", "/api/anything/new"), Asked::Right(Right::Look));
    assert_eq!(
        right("HEAD", "/api/anything/new"),
        Asked::Right(Right::Look)
    );
    assert_eq!(
        right("POST", "/api/anything/new"),
        Asked::Right(Right::Work)
    );
    assert_eq!(
        right("DELETE", "/api/anything/new"),
        Asked::Right(Right::Work)
    );
    assert_eq!(
        right("POST", "/api/circuits/{id}/tried/set"),
        Asked::Right(Right::Look)
    );
    assert_eq!(right("POST", "/api/door"), Asked::Gauge);
    assert_eq!(right("GET", "/api/door"), Asked::Right(Right::Look));
}
