//! The bench's sums against figures of others.

use approx::assert_relative_eq;
use ruhe_core::quantity::MICRON;
use ruhe_job::survey::Typed;
use ruhe_job::tell::{
    AdditionalInput, PullInput, RiseInput, SaturationInput, additional, pull_time, rise,
    saturation, torques,
};

const AIR: f64 = 101_325.0;

fn asked(
    refrigerant: &str,
    pa: Option<f64>,
    k: Option<f64>,
    pipe_k: Option<f64>,
) -> SaturationInput {
    SaturationInput {
        refrigerant: refrigerant.into(),
        air_pa: AIR,
        pa,
        k,
        pipe_k,
    }
}

/// R-134a boils at 25 °C under 665.4 kPa (ASHRAE Handbook, Fundamentals, table of R-134a; from memory).
#[test]
fn a_pure_refrigerant_boils_and_condenses_at_one_pressure() {
    let v = saturation(&asked("R-134a", None, Some(298.15), None)).unwrap();
    assert_relative_eq!(v.bubble_pa + AIR, 665_400.0, max_relative = 0.003);
    assert_relative_eq!(v.bubble_pa, v.dew_pa, max_relative = 1e-3);
    let back = saturation(&asked("R-134a", Some(v.bubble_pa), None, Some(308.15))).unwrap();
    assert_relative_eq!(back.bubble_k, 298.15, epsilon = 0.05);
    // Ten kelvin warmer than it boils: superheat, and no subcooling.
    assert_relative_eq!(back.superheat_k.unwrap(), 10.0, epsilon = 0.1);
    assert_eq!(back.subcooling_k, None);
}

#[test]
fn a_blend_has_two_lines_and_superheat_counts_from_the_dew_line() {
    let v = saturation(&asked("R-407C", Some(400_000.0), None, Some(283.15))).unwrap();
    let glide = v.glide_k.unwrap();
    // Its glide is 5 to 7 K (maker's data sheets, common practice).
    assert!((4.5..7.5).contains(&glide), "{glide}");
    assert_relative_eq!(v.superheat_k.unwrap(), 283.15 - v.dew_k, epsilon = 1e-9);
    // Between the two lines there is neither.
    let between = 0.5 * (v.bubble_k + v.dew_k);
    let v = saturation(&asked("R-407C", Some(400_000.0), None, Some(between))).unwrap();
    assert_eq!((v.superheat_k, v.subcooling_k), (None, None));
}

#[test]
fn what_lies_outside_the_table_is_refused_and_not_guessed() {
    for bad in [
        asked("R-134a", Some(50e6), None, None),
        asked("R-134a", None, Some(600.0), None),
        asked("R-134a", None, Some(f64::NAN), None),
        asked("R-134a", None, None, None),
        asked("R-134a", Some(1e5), Some(300.0), None),
        asked("R-nothing", Some(1e5), None, None),
    ] {
        assert!(saturation(&bad).is_err(), "{bad:?}");
    }
}

/// 10 L of vapour at 1000 Pa and 20 °C hold 73.9 mg: p·V/(R·T) with R = 461.5 J/(kg·K).
#[test]
fn a_rise_is_so_much_water_or_so_much_leak() {
    let b = |low_l, high_l| RiseInput {
        rise_pa: 1_000.0,
        over_s: 600.0,
        low_l,
        high_l,
        k: 293.15,
        refrigerant: "R-32".into(),
    };
    let v = rise(&b(10.0, 20.0)).unwrap();
    assert_relative_eq!(v.low_water_mg, 73.9, max_relative = 2e-3);
    assert_relative_eq!(v.high_water_mg, 147.8, max_relative = 2e-3);
    assert_relative_eq!(v.low, 1_000.0 * 0.010 / 600.0, max_relative = 1e-9);
    assert!(v.low_g_per_year > 0.0 && v.low_g_per_year < v.high_g_per_year);
    assert!(rise(&b(20.0, 10.0)).is_err());
}

#[test]
fn a_pull_takes_longer_through_a_thin_hose_and_a_core() {
    let b = |bore_mm, core_in| PullInput {
        speed: 1e-3,
        ultimate_pa: 2.0,
        bore_mm,
        length_m: 1.5,
        two_hoses: false,
        core_in,
        volume_l: 10.0,
        target_pa: 500.0 * MICRON,
    };
    let takes = |bore, core| pull_time(&b(bore, core)).unwrap().takes_s.unwrap();
    // Through a hose that is no hindrance: V/S·ln(p0/p1).
    let free = 10.0 * (101_325.0_f64 / (500.0 * MICRON)).ln();
    assert!((0.98..1.25).contains(&(takes(38.0, false) / free)));
    assert!(takes(9.5, false) < takes(4.8, false));
    assert!(takes(9.5, false) < takes(9.5, true));
    let gains = pull_time(&b(4.8, true)).unwrap().gains;
    assert!(gains.iter().any(|g| g.is_taken_away), "{gains:?}");
    // Below what the pump reaches it never gets.
    let mut never = b(9.5, false);
    never.target_pa = 1.0;
    assert_eq!(pull_time(&never).unwrap().takes_s, None);
}

#[test]
fn an_addition_counts_what_is_longer_than_the_factory_charge_covers() {
    let t = |typed: &str, unit: &str| Typed {
        typed: typed.into(),
        unit: unit.into(),
    };
    let b = |length: &str| AdditionalInput {
        length: t(length, "ft"),
        included: t("25", "ft"),
        rate: t("0.55", "oz/ft"),
    };
    // 41 of 50 ft, 25 included, 0.55 oz/ft: 8.8 oz.
    let v = additional(&b("41")).unwrap();
    assert_relative_eq!(v.mass.g, 8.8 * 28.349_523_125, max_relative = 1e-9);
    assert!(!v.is_covered);
    let v = additional(&b("20")).unwrap();
    assert_eq!((v.mass.g, v.is_covered), (0.0, true));
    assert!(additional(&b("-3")).is_err());
}

#[test]
fn torques_grow_with_the_size() {
    let all = torques();
    assert!(all.iter().all(|t| t.low_nm < t.high_nm));
    assert!(all.windows(2).all(|t| t[0].high_nm < t[1].low_nm));
}
