//! Whether a running unit has come to rest, and what may then be said of it.

use super::doc::{Drive, Mode, Set, When};
use crate::charge::Metering;
use ruhe_core::named;

named! {
    /// What the sets say.
    SetWord {
        /// Steady, and where the maker wants it.
        InTarget = "in_target",
        /// Steady, and elsewhere.
        OffTarget = "off_target",
        /// Steady; nobody said what the maker wants.
        Steady = "steady",
        /// Not at rest yet.
        NotSteady = "not_steady",
        /// Superheat and subcooling may not be used to trim here: the weight decides.
        WeightDecides = "weight_decides",
    }
}

/// What the sets say, and what is missing.
#[derive(Debug, Clone, PartialEq)]
pub struct Steadiness {
    /// The word.
    pub word: SetWord,
    /// It has come to rest.
    pub is_steady: bool,
    /// In words.
    pub words: String,
    /// How long it still takes at least, s.
    pub wait_s: Option<f64>,
}

/// So many sets, so far apart, that differ by so little, so long after the start and after gas was added: steady.
/// Common practice, no source.
const SETS: usize = 3;
const APART_S: f64 = 110.0;
const KELVIN: f64 = 1.0 / 1.8;
const PRESSURE: f64 = 0.02;
const RUNNING_S: f64 = 600.0;
const SINCE_GAS_S: f64 = 300.0;
/// As near as this to the maker's figure: superheat ±5 °F, subcooling ±3 °F (common practice, no source).
const SUPERHEAT: f64 = 5.0 / 1.8;
const SUBCOOLING: f64 = 3.0 / 1.8;
/// Below this outdoors the head pressure is no measure, K (55 °F; common practice, no source).
const COLD: f64 = 285.93;

/// Why superheat and subcooling may not be used to trim.
#[must_use]
pub fn weight_decides(s: &Set, metering: Metering) -> Option<&'static str> {
    if s.mode == Mode::Heating {
        Some("it is heating")
    } else if s.drive == Drive::InverterFree {
        Some("the inverter is not held at a fixed speed")
    } else if s.outdoor.is_some_and(|k| k < COLD) {
        Some("it is cold outdoors")
    } else if metering == Metering::Critical {
        Some("it is critically charged")
    } else {
        None
    }
}

/// Suction below this is a vacuum, Pa absolute (−4.5 psig; common practice, no source).
const VACUUM: f64 = 70_000.0;
/// What thermometers are off together, K.
const OFF: f64 = 0.5;

/// What cannot be, or must not go on: a unit that shows it is not steady, whatever its sets agree on.
#[must_use]
pub fn wrong(s: &Set) -> Option<&'static str> {
    if s.suction.is_some_and(|p| p < VACUUM) {
        Some(
            "Stop the unit: the suction stands in a vacuum. A valve is shut, the charge is missing or a \
             restriction starves it; a compressor that runs so is lost.",
        )
    } else if s.superheat.is_some_and(|k| k < -OFF) {
        Some(
            "Superheat below zero: liquid comes back to the compressor, or pressure and line were not read at \
             the same place. Airflow first, then the probe; stop the unit if it is so.",
        )
    } else if s.subcooling.is_some_and(|k| k < -OFF) {
        Some(
            "Subcooling below zero: that is no liquid line, or the probe sits wrong. Read both at the same \
             place again.",
        )
    } else if s.mode == Mode::Cooling && s.split.is_some_and(|k| k < -OFF) {
        Some(
            "The supply air is warmer than the return air: the two sensors are swapped, or it is heating. Read \
             them again.",
        )
    } else {
        None
    }
}

fn is_close(a: &Set, b: &Set) -> bool {
    let kelvin = |x: Option<f64>, y: Option<f64>| match (x, y) {
        (Some(x), Some(y)) => (x - y).abs() <= KELVIN,
        (None, None) => true,
        _ => false,
    };
    let pressure = |x: Option<f64>, y: Option<f64>| match (x, y) {
        (Some(x), Some(y)) => (x - y).abs() <= PRESSURE * x.max(y),
        (None, None) => true,
        _ => false,
    };
    pressure(a.suction, b.suction)
        && pressure(a.liquid, b.liquid)
        && kelvin(a.suction_line, b.suction_line)
        && kelvin(a.liquid_line, b.liquid_line)
}

/// What the last sets say. `sets` in the order of time; those of another mode, or of before the work, count apart.
#[must_use]
pub fn steadiness(sets: &[Set], metering: Metering) -> Option<Steadiness> {
    let last = sets.last()?;
    let alike: Vec<&Set> = sets
        .iter()
        .filter(|s| s.when == last.when && s.mode == last.mode)
        .collect();
    // One set every two minutes: those in between repeat what is known.
    let mut spaced: Vec<&Set> = vec![last];
    for s in alike.iter().rev().skip(1) {
        let before = spaced.last().map_or(last.at_ms, |b| b.at_ms);
        if (before - s.at_ms) as f64 / 1e3 >= APART_S {
            spaced.push(s);
        }
        if spaced.len() == SETS {
            break;
        }
    }
    let wait = |s: f64, why: String| {
        Some(Steadiness {
            word: SetWord::NotSteady,
            is_steady: false,
            words: why,
            wait_s: Some(s),
        })
    };
    let minutes = |s: f64| (s / 60.0).ceil().max(1.0);
    if let Some(why) = wrong(last) {
        return wait(0.0, why.into());
    }
    match last.running_s {
        None => {
            return wait(0.0, "Say how long it has been running.".into());
        }
        Some(s) if s < RUNNING_S => {
            let left = RUNNING_S - s;
            return wait(
                left,
                format!(
                    "Not steady yet, {:.0} min: it runs less than 10.",
                    minutes(left)
                ),
            );
        }
        _ => {}
    }
    if let Some(s) = last.since_gas_s.filter(|s| *s < SINCE_GAS_S) {
        let left = SINCE_GAS_S - s;
        return wait(
            left,
            format!(
                "Not steady yet, {:.0} min: refrigerant was just added.",
                minutes(left)
            ),
        );
    }
    if spaced.len() < SETS {
        let left = (SETS - spaced.len()) as f64 * 120.0;
        return wait(
            left,
            format!(
                "Not steady yet, {:.0} min: three sets two minutes apart show it.",
                minutes(left)
            ),
        );
    }
    if !(is_close(spaced[0], spaced[1])
        && is_close(spaced[0], spaced[2])
        && is_close(spaced[1], spaced[2]))
    {
        return wait(
            120.0,
            "Not steady yet: the last three sets differ by more than 1 °F or 2 % of pressure."
                .into(),
        );
    }
    let steady = |word, words: String| {
        Some(Steadiness {
            word,
            is_steady: true,
            words,
            wait_s: None,
        })
    };
    if let Some(why) = weight_decides(last, metering) {
        return steady(
            SetWord::WeightDecides,
            format!(
                "Steady. Weight decides: {why}, so superheat and subcooling may not be used to trim."
            ),
        );
    }
    let held = [
        ("superheat", last.superheat, last.aim_superheat, SUPERHEAT),
        (
            "subcooling",
            last.subcooling,
            last.aim_subcooling,
            SUBCOOLING,
        ),
    ];
    let known: Vec<_> = held
        .iter()
        .filter_map(|(name, is, aim, within)| Some((name, (*is)? - (*aim)?, *within)))
        .collect();
    if known.is_empty() {
        return steady(
            SetWord::Steady,
            "Steady. Nothing here says what the maker wants.".into(),
        );
    }
    let off: Vec<String> = known
        .iter()
        .filter(|(_, by, within)| by.abs() > *within)
        .map(|(name, by, _)| {
            format!(
                "{name} {} the maker’s figure",
                if *by > 0.0 { "above" } else { "below" }
            )
        })
        .collect();
    if off.is_empty() {
        steady(SetWord::InTarget, "Steady, in target.".into())
    } else {
        steady(
            SetWord::OffTarget,
            format!("Steady, off target: {}.", off.join(", ")),
        )
    }
}

/// The last set before the work and the last after it, where both are there.
#[must_use]
pub fn before_and_after(sets: &[Set]) -> Option<(usize, usize)> {
    let last = |when: When| sets.iter().rposition(|s| s.when == when);
    Some((last(When::Before)?, last(When::After)?))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn at(min: i64) -> Set {
        Set {
            at_ms: min * 60_000,
            running_s: Some(60.0 * (min + 12) as f64),
            suction: Some(1_000e3),
            suction_line: Some(285.0),
            liquid: Some(2_600e3),
            liquid_line: Some(309.0),
            superheat: Some(5.0),
            subcooling: Some(6.0),
            outdoor: Some(300.0),
            ..Set::default()
        }
    }
    fn word(sets: &[Set]) -> SetWord {
        steadiness(sets, Metering::Valve).unwrap().word
    }

    #[test]
    fn three_sets_two_minutes_apart() {
        assert_eq!(steadiness(&[], Metering::Valve), None);
        assert_eq!(word(&[at(0)]), SetWord::NotSteady);
        assert_eq!(
            word(&[at(0), at(1), at(2)]),
            SetWord::NotSteady,
            "too close in time"
        );
        assert_eq!(word(&[at(0), at(2), at(4)]), SetWord::Steady);
        let mut warm = at(4);
        warm.suction_line = Some(286.0);
        assert_eq!(word(&[at(0), at(2), warm]), SetWord::NotSteady);
        let mut early = at(4);
        early.running_s = Some(420.0);
        let s = steadiness(&[at(0), at(2), early], Metering::Valve).unwrap();
        assert!(s.words.contains("3 min"), "{}", s.words);
        let mut gas = at(4);
        gas.since_gas_s = Some(60.0);
        assert!(
            steadiness(&[at(0), at(2), gas], Metering::Valve)
                .unwrap()
                .words
                .contains("4 min")
        );
    }

    #[test]
    fn what_cannot_be_is_never_steady() {
        let with = |change: fn(&mut Set)| {
            let mut sets = [at(0), at(2), at(4)];
            sets.iter_mut().for_each(change);
            let s = steadiness(&sets, Metering::Critical).unwrap();
            (s.is_steady, s.words)
        };
        for (change, says) in [
            (
                (|s| s.superheat = Some(-2.2)) as fn(&mut Set),
                "liquid comes back",
            ),
            (|s| s.subcooling = Some(-1.7), "no liquid line"),
            (|s| s.split = Some(-10.0), "swapped"),
            (|s| s.suction = Some(5_000.0), "Stop the unit"),
        ] {
            let (is_steady, words) = with(change);
            assert!(!is_steady && words.contains(says), "{words}");
        }
        assert!(with(|_| ()).0);
    }

    #[test]
    fn the_maker_decides_what_is_in_target() {
        let aimed = |sc: f64| {
            let mut s = at(4);
            s.aim_subcooling = Some(sc);
            s
        };
        assert_eq!(word(&[at(0), at(2), aimed(5.5)]), SetWord::InTarget);
        assert_eq!(word(&[at(0), at(2), aimed(9.0)]), SetWord::OffTarget);
        let mut cold = aimed(9.0);
        cold.outdoor = Some(278.0);
        assert_eq!(word(&[at(0), at(2), cold]), SetWord::WeightDecides);
        assert_eq!(
            steadiness(&[at(0), at(2), aimed(9.0)], Metering::Critical)
                .unwrap()
                .word,
            SetWord::WeightDecides
        );
    }

    #[test]
    fn before_counts_apart_from_after() {
        let mut found = at(0);
        found.when = When::Before;
        assert_eq!(word(&[found.clone(), at(2), at(4)]), SetWord::NotSteady);
        assert_eq!(before_and_after(&[found, at(2), at(4)]), Some((0, 2)));
        assert_eq!(before_and_after(&[at(2)]), None);
    }
}
