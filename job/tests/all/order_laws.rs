//! What happened to a circuit, in any order: a leak is closed by a repair and a later hold at least as high, and by
//! nothing else; no later low hold lowers what a retest needs.

use proptest::prelude::*;
use ruhe_core::hold::HoldOutcome;
use ruhe_job::order::{Happening, Order, What};
use ruhe_job::procedure::{JobKind, Step};
use ruhe_job::search::{Look, LookResult, Method, PlaceEntry, PlaceState, state};
use ruhe_job::signoff::{FineFact, GateCode, GateFacts, HoldFact, gates};

const PLACE: &str = "flare at the coil";

#[derive(Debug, Clone)]
enum Act {
    Look(Look),
    Repair,
    /// Psig, outcome, on the place's own section or another.
    Hold(f64, HoldOutcome, bool),
}

fn act() -> impl Strategy<Value = Act> {
    let look = (
        0..Method::ALL.len(),
        0..LookResult::ALL.len(),
        prop::option::of(10f64..900.0),
    )
        .prop_map(|(m, f, dwell_s)| {
            Act::Look(Look {
                method: Method::ALL[m],
                finding: LookResult::ALL[f],
                dwell_s,
            })
        });
    let outcome = prop_oneof![
        Just(HoldOutcome::Holds),
        Just(HoldOutcome::Falls),
        Just(HoldOutcome::Undecided),
        Just(HoldOutcome::NotApplicable)
    ];
    let hold = (100f64..600.0, outcome, prop::bool::weighted(0.8))
        .prop_map(|(p, o, here)| Act::Hold(p, o, here));
    prop_oneof![3 => look, 1 => Just(Act::Repair), 3 => hold]
}

struct Told {
    state: PlaceState,
    gates: Vec<(GateCode, bool)>,
}

/// What Ruhe makes of acts that followed each other, finds under the pressure held last.
fn told(acts: &[Act]) -> Told {
    let (mut entries, mut holds, mut happened, mut at) = (vec![], vec![], vec![], None);
    for (a, ms) in acts.iter().zip((1i64..).map(|i| 1_000 * i)) {
        let mut note = |what| {
            happened.push(Happening {
                at_ms: ms,
                sections: vec!["line".into()],
                what,
            })
        };
        match a {
            Act::Look(l) => {
                entries.push((ms, PlaceEntry::Look(*l)));
                if l.confirms() {
                    note(What::Found {
                        place: PLACE.into(),
                        pressure: at,
                    });
                }
            }
            Act::Repair => {
                entries.push((ms, PlaceEntry::Repair));
                note(What::Mended {
                    place: PLACE.into(),
                });
            }
            Act::Hold(p, outcome, here) => {
                at = Some(*p).filter(|_| *here).or(at);
                holds.push(HoldFact {
                    name: format!("Hold {}", holds.len() + 1),
                    from_ms: ms,
                    sections: vec![if *here { "line" } else { "rack" }.into()],
                    outcome: *outcome,
                    loss_detected: false,
                    pressure: *p,
                    planned: *p,
                    headline: "said".into(),
                    lasted_s: 1_800.0,
                    proves: String::new(),
                    too_low: None,
                    too_old: None,
                });
            }
        }
    }
    let order = Order::new(
        holds
            .iter()
            .map(HoldFact::entry)
            .chain(happened.iter().cloned())
            .collect(),
    );
    let now = state(PLACE, &["line".into()], &entries, &order);
    let facts = GateFacts {
        kind: JobKind::BenchComponent,
        holds,
        decays: vec![],
        steps: vec![
            (Step::BoundaryValves, "seen".into()),
            (Step::Instruments, "seen".into()),
        ],
        happened,
        open_places: if now.is_open() {
            vec![PLACE.into()]
        } else {
            vec![]
        },
        has_open_leak: false,
        untouched: vec![],
        dry: vec![],
        soiled: vec![],
        inside: None,
        stands: vec![],
        before: vec![],
        instrument_marks: vec![],
        struck: vec![],
        sections: vec!["line".into()],
        fine: FineFact::default(),
        ports: None,
        charge: None,
        start: None,
        without_consent: vec![],
    };
    Told {
        state: now,
        gates: gates(&facts).iter().map(|g| (g.code, g.met)).collect(),
    }
}

/// Worked out the plain way: the highest pressure of a find or fall, and whether a repair and then such a hold came
/// after.
fn is_closed(acts: &[Act]) -> bool {
    let Some(last_find) = acts
        .iter()
        .rposition(|a| matches!(a, Act::Look(l) if l.confirms()))
    else {
        return true;
    };
    let Some(repair) = (last_find + 1..acts.len()).find(|&i| matches!(acts[i], Act::Repair)) else {
        return false;
    };
    let mut needed = 0f64;
    let mut at = 0f64;
    for a in &acts[..repair] {
        match a {
            Act::Hold(p, outcome, true) => {
                at = *p;
                if *outcome == HoldOutcome::Falls {
                    needed = needed.max(*p);
                }
            }
            Act::Look(l) if l.confirms() => needed = needed.max(at),
            _ => {}
        }
    }
    acts[repair..]
        .iter()
        .any(|a| matches!(a, Act::Hold(p, HoldOutcome::Holds, true) if *p >= 0.97 * needed))
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(3_000))]

    #[test]
    fn nothing_but_a_repair_and_a_hold_as_high_closes_a_leak(acts in prop::collection::vec(act(), 1..14)) {
        let t = told(&acts);
        let closed = matches!(t.state, PlaceState::Proven | PlaceState::Clear | PlaceState::NotLooked);
        prop_assert!(!closed || is_closed(&acts), "{:?} after {acts:?}", t.state);
        let blocked = t.gates.iter().any(|(_, met)| !met);
        prop_assert!(blocked || is_closed(&acts), "signed off with a leak open: {acts:?}");
        // Its own section was never held: nothing of another section may stand for it.
        let own = acts.iter().any(|a| matches!(a, Act::Hold(_, HoldOutcome::Holds, true)));
        prop_assert!(own || t.gates.contains(&(GateCode::Hold, false)));
    }

    /// Looks alone never close what was found.
    #[test]
    fn no_sequence_of_looks_clears_a_leak(before in prop::collection::vec(act(), 0..6),
        looks in prop::collection::vec(act(), 0..12)) {
        let found = Act::Look(Look { method: Method::Bubbles, finding: LookResult::Leak, dwell_s: Some(60.0) });
        let looks = looks.into_iter().filter(|a| !matches!(a, Act::Repair));
        let acts: Vec<Act> = before.into_iter().chain([found]).chain(looks).collect();
        prop_assert_eq!(told(&acts).state, PlaceState::Leak);
    }

    /// Whatever is held later and lower, the next hold must be as high as before.
    #[test]
    fn no_later_low_hold_lowers_what_a_retest_needs(fell in 300f64..600.0,
        later in prop::collection::vec((50f64..280.0, any::<bool>()), 0..8)) {
        let held = |i: i64, pressure: f64, holds: bool| Happening {
            at_ms: i,
            sections: vec!["line".into()],
            what: What::Held { name: "Hold".into(), holds, falls: !holds, pressure },
        };
        let mut all = vec![held(0, fell, false)];
        all.extend(later.iter().zip(1..).map(|(&(p, holds), i)| held(i, p, holds)));
        let again = Order::new(all).again("line").unwrap();
        prop_assert_eq!(again.at_least, fell);
        prop_assert_eq!(again.met_by, None);
    }
}
