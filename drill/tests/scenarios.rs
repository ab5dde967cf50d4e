//! Every drill can be won by its way and lost by the usual one, the same seed gives the same gauges, and nothing of the
//! truth is in what a page gets.
#![allow(clippy::unwrap_used)]

use ruhe_drill::{Cause, Decision, Give, RecordFacts, Scenario, Session, account, all, walk};

fn won(s: &Scenario) -> Decision {
    Decision {
        cause: s.right.cause,
        place: s.right.place.clone(),
        give: s.right.give.unwrap_or(Give::Pass),
        sure: 0.9,
    }
}

/// What the cheapest way decides: pass what is in order by then, nothing else.
fn solved(s: &Scenario) -> f64 {
    let mut d = won(s);
    let w = walk(s.clone(), &s.path, None);
    if s.right.give.is_none() && !w.session.plant().faults().is_empty() {
        d.give = Give::Fail;
    }
    let mut session = w.session;
    session.decide(d);
    let a = account(&session, RecordFacts::default(), 0);
    let why: Vec<&str> = a
        .lines
        .iter()
        .filter(|l| l.points < l.of)
        .map(|l| l.why.as_str())
        .collect();
    assert!(a.lost.is_none(), "{}: {:?}", s.number, a.lost);
    assert!(
        a.total >= 85.0,
        "{} {}: {} {why:?}",
        s.number,
        s.title,
        a.total
    );
    a.total
}

#[test]
fn a_solver_wins_every_drill_by_its_way() {
    for s in all() {
        solved(&s);
    }
}

#[test]
fn the_usual_way_loses_every_drill() {
    for s in all() {
        let w = walk(s.clone(), &s.wrong, s.wrong_decision.clone());
        let a = account(&w.session, RecordFacts::default(), 0);
        let lines = format!("{:#?}", a.lines);
        assert!(
            a.total <= 40.0 || a.lost.is_some(),
            "{} {}: {} {lines}",
            s.number,
            s.title,
            a.total,
        );
        assert!(!a.is_right);
    }
}

#[test]
fn the_same_seed_and_acts_show_the_same_and_another_seed_does_not() {
    for s in all() {
        let once = walk(s.clone(), &s.path, None).session;
        // Asked at other times, and gone again from what was kept.
        let mut again = Session::again(s.clone(), once.did(), None);
        again.run_to(once.plant().now() - 7.3);
        again.run_to(once.plant().now());
        assert_eq!(
            once.plant().history(),
            again.plant().history(),
            "{}",
            s.number
        );
        let other = walk(s.varied(99), &s.path, None).session;
        assert_ne!(
            once.plant().history(),
            other.plant().history(),
            "{}",
            s.number
        );
    }
}

#[test]
fn a_drill_that_nobody_knows_is_won_by_the_same_way() {
    for s in all() {
        let won: usize = (0..6)
            .filter(|seed| solved(&s.varied(7_000 + seed)) >= 85.0)
            .count();
        assert_eq!(won, 6, "{}", s.number);
    }
}

#[test]
fn a_file_that_is_wrong_says_where() {
    let mut s = all().remove(1);
    assert!(s.check().is_ok());
    s.right.place = "nowhere".into();
    assert_eq!(s.check().unwrap_err().0, "right.place");
    s.truth.volumes[1] = -1.0;
    assert_eq!(s.check().unwrap_err().0, "truth.volumes");
    // What is handed out comes back as it was.
    for s in all() {
        let json = serde_json::to_string(&s).unwrap();
        assert_eq!(serde_json::from_str::<Scenario>(&json).unwrap(), s);
        assert!(s.check().is_ok());
    }
}

#[test]
fn what_is_decided_counts_as_it_was_seen() {
    let all = all();
    let tight = &all[0];
    let decide = |give, cause| {
        let mut w = walk(tight.clone(), &tight.path, None).session;
        w.decide(Decision {
            cause,
            place: String::new(),
            give,
            sure: 0.5,
        });
        account(&w, RecordFacts::default(), 0)
    };
    let points = |a: &ruhe_drill::Account| a.lines[0].points;
    assert_eq!(points(&decide(Give::Pass, Cause::Settling)), 40.0);
    assert_eq!(points(&decide(Give::Reserved, Cause::Settling)), 30.0);
    assert_eq!(points(&decide(Give::NotProven, Cause::NothingFound)), 10.0);
    // A look costs two where words were hidden.
    let w = walk(tight.clone(), &tight.path, None).session;
    let (none, two) = (
        account(&w, RecordFacts::default(), 0),
        account(&w, RecordFacts::default(), 2),
    );
    assert_eq!(none.total - two.total, 4.0);
}
