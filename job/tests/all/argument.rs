//! Where a rise comes from, and what to do next, by what else is known.

use ruhe_core::quantity::{MICRON, Units};
use ruhe_core::reading::Behind;
use ruhe_core::vacuum::{Cause, RigOutcome};
use ruhe_job::argue::{HoldBound, RigFact, RiseFacts, Standing, Trend, argue, next_steps};

fn facts(causes: Vec<(Cause, f64)>, per_minute: f64) -> RiseFacts {
    let r = per_minute * MICRON / 60.0;
    RiseFacts {
        causes,
        rate: (r, 0.9 * r, 1.1 * r),
        rise: r,
        holds: vec![],
        changed: None,
        behind: vec![],
        hoses_in: true,
        rig: None,
        has_oil: false,
        is_flammable: false,
        litres: 5.0,
        evacuated_s: Some(3_000.0),
        lasted_s: 900.0,
        comes_apart_s: None,
        near_pump: false,
        atmosphere: 101_325.0,
        trend: None,
    }
}

#[test]
fn the_rigs_own_history_speaks_for_and_against_it() {
    let rig = |outcome| {
        Some(RigFact {
            title: "Rig check 1".into(),
            outcome,
        })
    };
    let of = |outcome, code: &str| {
        let f = RiseFacts {
            rig: rig(outcome),
            ..facts(vec![(Cause::Outgassing, 1.0)], 0.0)
        };
        let a = argue(&f, Units::default());
        a.sources.iter().find(|s| s.code == code).unwrap().clone()
    };
    assert_eq!(
        of(RigOutcome::GivesGas, "rig_gas").standing,
        Standing::Likely
    );
    let good = of(RigOutcome::Good, "rig_gas");
    assert!(
        good.standing == Standing::Unlikely && good.against[0].contains("showed that they hold"),
        "{good:?}"
    );
}

#[test]
fn only_what_can_be_done_is_offered_in_the_order_of_bits_a_minute() {
    let even = vec![
        (Cause::Leak, 0.5),
        (Cause::Moisture, 0.3),
        (Cause::Outgassing, 0.2),
    ];
    let codes = |f: &RiseFacts| next_steps(f).iter().map(|a| a.code).collect::<Vec<_>>();
    let plain = facts(even.clone(), 20.0);
    let list = next_steps(&plain);
    assert_eq!(list[0].code, "hoses_off");
    assert!(
        list.windows(2)
            .all(|w| w[0].bits / w[0].minutes >= w[1].bits / w[1].minutes)
    );
    let without = RiseFacts {
        hoses_in: false,
        ..plain.clone()
    };
    assert!(
        !codes(&without).contains(&"hoses_off")
            && !codes(&plain).contains(&"wait")
            && !codes(&plain).contains(&"stem")
    );
    let charged = RiseFacts {
        behind: vec![(Behind::FactoryCharge, Some(1.5e6))],
        hoses_in: false,
        changed: Some(vec![]),
        ..plain.clone()
    };
    assert!(codes(&charged).contains(&"stem"));
    let waiting = RiseFacts {
        comes_apart_s: Some(1_200.0),
        hoses_in: false,
        ..plain.clone()
    };
    let wait = next_steps(&waiting)
        .into_iter()
        .find(|a| a.code == "wait")
        .unwrap();
    assert!(
        (wait.minutes - 5.0).abs() < 1e-9 && wait.title.contains("20 min"),
        "{wait:?}"
    );
    // A repeat takes a pull as long as all before: after three hours it is dear.
    let repeat = |evacuated_s| {
        let f = RiseFacts {
            evacuated_s,
            ..plain.clone()
        };
        next_steps(&f)
            .into_iter()
            .find(|a| a.code == "break_repeat")
            .unwrap()
            .minutes
    };
    assert!(repeat(Some(10_800.0)) > 180.0 && repeat(Some(1_200.0)) < 60.0);
    assert!(repeat(None) > repeat(Some(1_200.0)));
    // Where nothing is in doubt nothing is asked for.
    let sure = RiseFacts {
        causes: vec![(Cause::Moisture, 1.0)],
        hoses_in: false,
        ..plain
    };
    assert!(next_steps(&sure).is_empty(), "{:?}", codes(&sure));
}

#[test]
fn no_hold_bounds_what_came_after_it_nor_seals_that_pressure_shuts() {
    let hold = HoldBound {
        title: "Hold 1".into(),
        at_pa: 3.6e6,
        lost_pa_s: 6_894.757 / 86_400.0,
        followed_s: 86_400.0,
        litres: 5.0,
    };
    let f = RiseFacts {
        holds: vec![hold],
        changed: Some(vec!["gauge tee".into()]),
        hoses_in: false,
        ..facts(vec![(Cause::Leak, 1.0)], 10.0)
    };
    let a = argue(&f, Units::default());
    let standing = |code: &str| a.sources.iter().find(|s| s.code == code).unwrap().standing;
    assert_eq!(standing("joint"), Standing::RuledOut);
    assert!(
        standing("fitted") <= Standing::Possible && standing("seal") <= Standing::Possible,
        "{:?}",
        a.sources
    );
    // Worked apart: 1 psi in 24 h at 500 psig bounds its joints to about 1.06 micron a minute.
    let wedge = a.wedge.unwrap();
    assert!(
        (wedge.careful * 60.0 / MICRON - 1.06).abs() < 0.05,
        "{wedge:?}"
    );
    let same = argue(
        &RiseFacts {
            trend: Some(Trend::Same),
            ..f
        },
        Units::default(),
    );
    assert!(
        same.sources
            .iter()
            .find(|s| s.code == "fitted")
            .unwrap()
            .speaks_for
            .iter()
            .any(|w| w.contains("same slope"))
    );
}
