//! Refrigerant in the test gas is told from the readings, and nitrogen is never taken for it.

use ruhe_core::hold::{HoldOutcome, judge_hold, say_hold};
use ruhe_core::matter::refrigerant::find;
use ruhe_core::quantity::Units;
use ruhe_core::reading::Recording;
use ruhe_core::reason::Reason;
use ruhe_sim::{PSI, Weather};

use crate::plants::{Draw, any_truth, any_weather, hold};

/// Three hours read every minute, in weather that is not a straight line.
fn nitrogen(seed: u64, weather: Weather, loss_psi_h: f64) -> Recording {
    let mut d = Draw(seed + 11);
    let mut truth = any_truth(&mut d, 3.0 * 3_600.0, seed);
    truth.weather = weather;
    truth.loss = loss_psi_h * PSI / 3_600.0;
    let mut r = hold(&truth, 60.0);
    r.settings.planned_s = Some(2.0 * 3_600.0);
    r
}

/// The same with liquid R-410A inside: the pressure stands at its bubble line of what the probe shows.
fn with_liquid(seed: u64) -> Recording {
    let mut r = nitrogen(seed, Weather::Cloud(6.0), 0.0);
    let refrigerant = find("R-410A").unwrap();
    let t = r
        .channels
        .iter()
        .position(|c| c.quantity == ruhe_core::reading::Quantity::Temperature)
        .unwrap();
    let unit = |r: &Recording, i: usize| r.channels[i].unit;
    let (pu, tu) = (unit(&r, 0), unit(&r, t));
    let shown: Vec<(f64, f64)> = r
        .readings
        .iter()
        .filter(|x| x.channel == t)
        .map(|x| (x.at_s, tu.to_si(x.value)))
        .collect();
    for x in r.readings.iter_mut().filter(|x| x.channel == 0) {
        let k = shown
            .iter()
            .min_by(|a, b| (a.0 - x.at_s).abs().total_cmp(&(b.0 - x.at_s).abs()))
            .unwrap()
            .1;
        x.value = pu.of_si(refrigerant.standing(k) - 101_325.0);
    }
    r
}

/// R-410A at 70 °F moves by 3.3 psi a degree Fahrenheit (CoolProp 8.0.0), nitrogen there by some 0.4.
#[test]
fn liquid_inside_is_told_though_nobody_ticked_it() {
    let r = find("R-410A").unwrap();
    let per_degree = (r.standing(294.54) - r.standing(293.98)) / PSI;
    assert!((per_degree - 3.3).abs() < 0.1, "{per_degree}");
    let v = judge_hold(&with_liquid(3));
    assert_eq!(v.outcome, HoldOutcome::NotApplicable, "{:?}", v.reasons);
    assert_eq!(v.reasons, [Reason::RefrigerantInside]);
    let words = say_hold(&v, Units::default());
    assert!(words.evidence[0].contains("times as far"), "{words:?}");
}

#[test]
fn nitrogen_is_never_taken_for_refrigerant() {
    for seed in 0..40 {
        let mut d = Draw(seed);
        let weather = any_weather(&mut d);
        for loss in [0.0, 6.0] {
            let v = judge_hold(&nitrogen(seed, weather, loss));
            assert!(
                !v.reasons.contains(&Reason::RefrigerantInside),
                "{seed} {loss}: {:?}",
                v.case
            );
        }
    }
}
