//! Laws of what is said before and while pressing up, and of the search: never above a ceiling, never a clean bill
//! too soon.

use proptest::prelude::*;
use ruhe_core::quantity::{GaugePressure, Units};
use ruhe_core::reading::Behind;
use ruhe_job::procedure::{
    Rating, StrengthTest, ceiling, check_test_pressure, press_steps, pressing,
};
use ruhe_job::survey::{Component, Location, Survey, TubeRun, Valve};

const PSI: f64 = 6_894.757_293;

fn psig(x: f64) -> GaugePressure {
    GaugePressure::from_pa(x * PSI)
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 128, ..ProptestConfig::default() })]

    /// Whatever the pressures are, above the ceiling the word is to let down, and nobody is sent higher than the plan.
    #[test]
    fn nobody_is_sent_above_plan_or_ceiling(target in 60f64..600.0, over in 0f64..0.3,
        now in prop::collection::vec(0f64..700.0, 0..3), since in 0f64..400.0) {
        let limit = target * (1.0 + over);
        let pa: Vec<f64> = now.iter().map(|p| p * PSI).collect();
        let steps = press_steps(target * PSI);
        prop_assert!(steps.windows(2).all(|w| w[0].to_pa < w[1].to_pa) && steps.last().unwrap().to_pa <= target * PSI);
        let p = pressing(&steps, Some(limit * PSI), &pa, Some(since), false, 0.1 * PSI, Units::default());
        let high = now.iter().copied().fold(0.0, f64::max);
        prop_assert_eq!(p.over_ceiling.is_some(), high > limit);
        if high > limit {
            prop_assert!(p.words.contains("hut the regulator and let "), "{}", p.words);
            // Within what a gauge may be wrong, or beyond it.
            prop_assert_eq!(p.words.contains("strained"), high > limit * 1.02);
        } else if p.headline.starts_with("Up to") {
            prop_assert!(high <= target * 1.02 + 0.3);
        }
        prop_assert!(!p.is_isolated);
    }

    /// What passes the check is under every hard stop, and under every plate unless a strength test of a believable
    /// factor says otherwise.
    #[test]
    fn what_passes_is_under_all_that_binds(test in 1f64..900.0, plates in prop::collection::vec(50f64..800.0,
        1..5), range in 100f64..1000.0, factor in 0.9f64..2.0, strong in any::<bool>()) {
        let mut all: Vec<Rating> = plates.iter().map(|p| Rating::plate("part", psig(*p))).collect();
        all.push(Rating::gauge("gauge", psig(range)));
        let strength = strong.then(|| StrengthTest { code: "code".into(), edition: "2020".into(), factor,
            reason: "asked".into() });
        let lowest = plates.iter().copied().fold(f64::INFINITY, f64::min);
        let passes = check_test_pressure(psig(test), &all, strength.as_ref(), Units::default()).is_ok();
        // A factor no code asks for moves nothing.
        let allowed = if strong && (1.0..=1.5).contains(&factor) { lowest * factor } else { lowest };
        prop_assert_eq!(passes, test <= allowed * (1.0 + 1e-8) && test <= 0.95 * range * (1.0 + 1e-8));
        prop_assert!(ceiling(&all).unwrap().most.pa() <= lowest.min(0.95 * range) * PSI * (1.0 + 1e-8));
    }

    /// Opening a valve never raises what may be pressed in, and never shrinks the volume.
    #[test]
    fn opening_a_valve_brings_more_into_scope(plates in prop::collection::vec(100f64..700.0, 2..5),
        lengths in prop::collection::vec(1f64..40.0, 2..5)) {
        let names: Vec<String> = (0..plates.len().min(lengths.len())).map(|i| format!("s{i}")).collect();
        let mut s = Survey { sections: names.clone(), ..Survey::default() };
        for (i, name) in names.iter().enumerate() {
            s.components.push(Component { name: format!("part {i}"), place: Location::Line,
                section: name.clone(), low: None, high: Some(psig(plates[i])), only_one: true, volume_l: Some(0.4) });
            s.runs.push(TubeRun { size: "1/2 in".into(), length_m: Some(lengths[i]), section: name.clone() });
        }
        for w in names.windows(2) {
            s.valves.push(Valve { name: format!("{}-{}", w[0], w[1]), section: w[0].clone(), is_shut: true,
                behind: Behind::Section, other: Some(w[1].clone()) });
        }
        let lowest = |s: &Survey| s.ratings("s0").iter().map(|r| r.1.pa()).fold(f64::INFINITY, f64::min);
        let mut before = (lowest(&s), s.volume("s0").low, s.bounds("s0").len());
        prop_assert_eq!(before.2, 1);
        for i in 0..s.valves.len() {
            s.valves[i].is_shut = false;
            let after = (lowest(&s), s.volume("s0").low, s.bounds("s0").len());
            prop_assert!(after.0 <= before.0 && after.1 > before.1);
            prop_assert_eq!(s.reached("s0").len(), i + 2);
            before = after;
        }
        prop_assert_eq!(before.2, 0);
        // From the other end it is the same gas.
        prop_assert!((s.volume(names.last().unwrap()).low - before.1).abs() < 1e-9);
    }
}
