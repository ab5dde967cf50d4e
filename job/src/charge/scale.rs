//! The number to stop at, in the scale's own unit and step. It is rounded towards too little: what is missing can be
//! added, what is too much must be taken out.

use super::doc::mass;
use crate::refusal::Refusal;
use crate::survey::Typed;
use ruhe_core::matter::refrigerant::Refrigerant;
use ruhe_core::named;
use ruhe_core::quantity::{Mass, MassUnit, parse_number, significant};
use serde::{Deserialize, Serialize};

named! {
    /// What a scale shows while refrigerant goes in.
    #[derive(Default)]
    ScaleMode {
        /// The cylinder's weight, which falls.
        #[default]
        CountsDown = "counts_down",
        /// Set to zero before: it shows minus.
        Tared = "tared",
        /// What has gone in, which rises.
        Dispenser = "dispenser",
    }
}

impl ScaleMode {
    /// Name on screen.
    #[must_use]
    pub fn title(self) -> &'static str {
        match self {
            Self::CountsDown => "counts down",
            Self::Tared => "zeroed, shows minus",
            Self::Dispenser => "counts up",
        }
    }
}

/// A scale as it stands there.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[allow(missing_docs)]
pub struct ScaleInput {
    pub mode: ScaleMode,
    /// g, kg, oz, lb or lb-oz, as it shows.
    pub unit: String,
    /// Its step in that unit; of lb-oz in ounces.
    pub step: String,
    /// What it shows before the start; of a scale that was set to zero nothing.
    #[serde(default)]
    pub start: String,
    /// The hose was filled with liquid before the start, and stays full.
    #[serde(default)]
    pub hose_full: bool,
    /// Its length, m, and bore, mm, where it is not.
    #[serde(default)]
    pub hose_m: String,
    #[serde(default)]
    pub bore_mm: String,
}

/// The number to stop at.
#[derive(Debug, Clone, PartialEq)]
pub struct Stop {
    /// As the scale will show it.
    pub stop: String,
    /// Throttle from here on: the last tenth.
    pub throttle: String,
    /// What goes into the system if it is stopped there.
    pub adds: Mass,
    /// What stays in a hose that was empty before.
    pub in_hose: Mass,
    /// What is to be known of it, in words.
    pub words: Vec<String>,
}

/// Temperature of the liquid in a hose, K (25 °C).
const HOSE_AT: f64 = 298.15;
/// Part of a step that the arithmetic of a computer may be off.
const TINY: f64 = 1e-6;

/// Refrigerant that a full hose holds as liquid at 25 °C.
#[must_use]
pub fn in_hose(length_m: f64, bore_mm: f64, r: &Refrigerant) -> Option<Mass> {
    let litres = std::f64::consts::FRAC_PI_4 * (bore_mm / 1e3).powi(2) * length_m * 1e3;
    Some(Mass::from_g(litres * r.liquid(HOSE_AT)?))
}

fn positive(text: &str, field: &str) -> Result<f64, Refusal> {
    let v = parse_number(text).map_err(|e| Refusal::wrong(field, e.to_string()))?;
    if v > 0.0 {
        Ok(v)
    } else {
        Err(Refusal::wrong(field, "this must be above zero"))
    }
}

/// A number of steps as the scale shows it.
fn shown(steps: f64, step: f64, unit: MassUnit) -> String {
    let value = steps * step;
    let decimals = (0..4)
        .find(|d| ((step * 10f64.powi(*d)).round() / 10f64.powi(*d) - step).abs() < 1e-9)
        .unwrap_or(4) as usize;
    let sign = if value < -1e-9 { "−" } else { "" };
    let size = value.abs();
    match unit {
        MassUnit::PoundOunce => {
            let pounds = ((size + 1e-9) / 16.0).floor();
            format!(
                "{sign}{pounds:.0} lb {:.decimals$} oz",
                (size - 16.0 * pounds).max(0.0)
            )
        }
        other => format!("{sign}{size:.decimals$} {}", other.code()),
    }
}

/// Where to stop to add `add`. `r`: the refrigerant, for the hose.
///
/// # Errors
/// What cannot be read, with its field; nothing to add.
pub fn stop(b: &ScaleInput, add: Mass, r: Option<&Refrigerant>) -> Result<Stop, Refusal> {
    let unit = MassUnit::from_code(&b.unit).ok_or_else(|| {
        Refusal::wrong(
            "unit",
            format!("“{}” is not one of {}", b.unit, MassUnit::codes()),
        )
    })?;
    let step = positive(&b.step, "step")?;
    let per_step = step
        * if unit == MassUnit::PoundOunce {
            MassUnit::Ounce.grams()
        } else {
            unit.grams()
        };
    if add.g() <= 0.0 {
        return Err(Refusal::Conflict("nothing is left to add".into()));
    }
    let mut words = vec![];
    let hose = if b.hose_full || b.hose_m.trim().is_empty() {
        Mass::default()
    } else {
        let r = r.ok_or_else(|| {
            Refusal::wrong(
                "hose_m",
                "the density of this refrigerant is not known here: fill the hose before the start",
            )
        })?;
        in_hose(
            positive(&b.hose_m, "hose_m")?,
            positive(&b.bore_mm, "bore_mm")?,
            r,
        )
        .unwrap_or_default()
    };
    if hose.g() > 0.0 {
        words.push(format!(
            "{} stays in the hose, as liquid at 25 °C (estimate): it leaves the cylinder and is \
             not in the system.",
            hose.words()
        ));
    }
    let start = match b.mode {
        ScaleMode::CountsDown => {
            let m = mass(
                &Typed {
                    typed: b.start.clone(),
                    unit: b.unit.clone(),
                },
                "start",
            )
            .map_err(|e| match e {
                Refusal::Wrong { message, .. } => Refusal::wrong("start", message),
                other => other,
            })?;
            if m.g() < add.g() + hose.g() {
                return Err(Refusal::wrong(
                    "start",
                    format!("the scale shows less than the {} to add", add.words()),
                ));
            }
            m
        }
        ScaleMode::Tared | ScaleMode::Dispenser => Mass::default(),
    };
    // All in steps of the scale. A falling number is rounded up, a rising one down: less goes in.
    let steps = |leaves: f64| match b.mode {
        ScaleMode::Dispenser => (leaves / per_step + TINY).floor(),
        _ => ((start.g() - leaves) / per_step - TINY).ceil(),
    };
    let leaves = add.g() + hose.g();
    let at = steps(leaves);
    let out = match b.mode {
        ScaleMode::Dispenser => at * per_step,
        _ => start.g() - at * per_step,
    };
    let share = 100.0 * per_step / add.g();
    if share >= 2.0 {
        words.push(format!(
            "One step of this scale is {}: {} % of what is to go in.",
            Mass::from_g(per_step).shown(MassUnit::Ounce),
            significant(share, 2)
        ));
    }
    if out <= hose.g() + TINY {
        words.push("What is to go in is less than this scale can show. Take a finer one.".into());
    }
    Ok(Stop {
        stop: shown(at, step, unit),
        throttle: shown(steps(hose.g() + 0.9 * add.g()), step, unit),
        adds: Mass::from_g(out - hose.g()),
        in_hose: hose,
        words,
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use ruhe_core::matter::refrigerant::find;

    fn scale(mode: ScaleMode, unit: &str, step: &str, start: &str) -> ScaleInput {
        ScaleInput {
            mode,
            unit: unit.into(),
            step: step.into(),
            start: start.into(),
            hose_full: true,
            ..ScaleInput::default()
        }
    }
    fn at(b: &ScaleInput, add: &str) -> Stop {
        stop(b, Mass::parse(add, None).unwrap(), find("R-410A")).unwrap()
    }

    /// Worked by hand.
    #[test]
    fn the_number_to_stop_at() {
        let s = at(
            &scale(ScaleMode::CountsDown, "lb-oz", "0.2", "18 lb 9.0 oz"),
            "6.4 oz",
        );
        assert_eq!(s.stop, "18 lb 2.6 oz");
        let s = at(
            &scale(ScaleMode::CountsDown, "lb", "0.02", "18.56"),
            "6.4 oz",
        );
        assert_eq!(
            (s.stop.as_str(), s.throttle.as_str()),
            ("18.16 lb", "18.20 lb")
        );
        assert!(s.words[0].contains("0.3 oz: 5.0 %"), "{:?}", s.words);
        assert_eq!(
            at(&scale(ScaleMode::Tared, "oz", "0.2", ""), "6.4 oz").stop,
            "−6.4 oz"
        );
        assert_eq!(
            at(&scale(ScaleMode::Dispenser, "g", "5", ""), "6.4 oz").stop,
            "180 g"
        );
        assert_eq!(
            at(&scale(ScaleMode::Tared, "kg", "0.005", ""), "183 g").stop,
            "−0.180 kg"
        );
    }

    /// 1.5 m of 4.8 mm bore: 27 mL, 29 g of liquid R-410A (CoolProp 8.0.0 at 25 °C).
    #[test]
    fn a_hose_that_was_empty_keeps_its_share() {
        let mut b = scale(ScaleMode::Tared, "g", "1", "");
        (b.hose_full, b.hose_m, b.bore_mm) = (false, "1.5".into(), "4.8".into());
        let s = at(&b, "181.4 g");
        assert!((s.in_hose.g() - 29.0).abs() < 0.5, "{s:?}");
        assert_eq!(s.stop, "−210 g");
        assert!(s.adds.g() <= 181.4 && s.adds.g() > 179.0);
    }

    #[test]
    fn what_a_scale_cannot_do_is_refused_or_said() {
        let tell = |b: ScaleInput, g: f64| stop(&b, Mass::from_g(g), None).unwrap_err().to_string();
        assert!(
            tell(scale(ScaleMode::CountsDown, "kg", "0.01", "0.1"), 500.0).contains("shows less")
        );
        assert!(tell(scale(ScaleMode::CountsDown, "stone", "1", "1"), 5.0).contains("not one of"));
        assert!(tell(scale(ScaleMode::Tared, "g", "0", ""), 5.0).contains("above zero"));
        assert!(tell(scale(ScaleMode::Tared, "g", "1", ""), 0.0).contains("nothing is left"));
        let coarse = at(&scale(ScaleMode::Tared, "kg", "0.05", ""), "20 g");
        assert!(coarse.words.iter().any(|w| w.contains("finer")));
    }

    proptest::proptest! {
        /// Whatever the scale, stopping where it says never puts in more than is wanted, nor a step less.
        #[test]
        fn rounding_never_overcharges(add in 5.0f64..5_000.0, start in 6_000.0f64..30_000.0, mode in 0usize..3,
            unit in 0usize..5, step in 0usize..3) {
            let unit = MassUnit::ALL[unit];
            let step = match unit { MassUnit::Gram => ["1", "2", "5"], MassUnit::Kilogram => ["0.005", "0.01",
                "0.002"], MassUnit::Ounce | MassUnit::PoundOunce => ["0.1", "0.2", "0.5"],
                MassUnit::Pound => ["0.01", "0.02", "0.005"] }[step];
            let n: f64 = step.parse().unwrap();
            let per = n * if unit == MassUnit::PoundOunce { MassUnit::Ounce.grams() } else { unit.grams() };
            let shown_start = shown((start / per).round(), n, unit);
            let b = scale(ScaleMode::ALL[mode], unit.code(), step, &shown_start);
            let s = stop(&b, Mass::from_g(add), None).unwrap();
            proptest::prop_assert!(s.adds.g() <= add + 2e-6 * per && s.adds.g() > add - per - 1e-3, "{:?} {}", s, add);
            // What the scale shows, read back, is what goes in.
            let read = Mass::parse(&s.stop, Some(unit)).unwrap().g();
            let from = if b.mode == ScaleMode::CountsDown { Mass::parse(&shown_start,
                Some(unit)).unwrap().g() } else { 0.0 };
            proptest::prop_assert!(((from - read).abs() - s.adds.g()).abs() < 1e-6 * start, "{:?}", s);
        }
    }
}
