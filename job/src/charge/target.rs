//! The target: base, the tubes' share, the maker's other shares. What speaks against it stops it.

use super::doc::{
    Covers, Metering, PlateRead, RATES, Scope, TargetDoc, TubeShare, length, mass, mass_above_zero,
    of_unit,
};
use super::known::{ALIKE, Known};
use super::slip::{Slip, slips};
use crate::refusal::{Refusal, filled};
use crate::survey::Typed;
use ruhe_core::matter::refrigerant::Refrigerant;
use ruhe_core::matter::tube::TubeSize;
use ruhe_core::quantity::{Mass, significant};

/// What a target is made of, in words, each with its mass.
type Parts = Vec<(String, Mass)>;

/// A target with its parts.
#[derive(Debug, Clone, PartialEq)]
pub struct Target {
    /// What it is made of, in words, each with its mass.
    pub parts: Parts,
    /// What must go in, from empty tubes or from an empty system.
    pub total: Mass,
    /// What will then be inside, if the plate's charge is known.
    pub inside: Option<Mass>,
    /// How far off the charge may be.
    pub tolerance: Mass,
    /// Where the tolerance comes from, in words.
    pub tolerance_words: String,
    /// What forbids to work with it, in words.
    pub stops: Vec<String>,
    /// What the record must say, in words.
    pub remarks: Vec<String>,
    /// What may have been meant otherwise.
    pub slips: Vec<(String, Slip)>,
}

/// A maker's rate lies between these times the liquid that a tube holds (common practice, no source).
const PLAUSIBLE: std::ops::RangeInclusive<f64> = 0.6..=1.6;
/// Temperature of the liquid a tube is taken to hold, K (40 °C).
const LIQUID_AT: f64 = 313.15;
/// A metre more than the longest run is measured, not too long, m.
const MEASURED: f64 = 0.05;

/// The refrigerant that a metre of tube holds as liquid at 40 °C, g: an estimate.
#[must_use]
pub fn liquid_in(size: &str, r: &Refrigerant) -> Option<f64> {
    let litres = TubeSize::from_code(size)?.litres_per_metre();
    Some(litres * r.liquid(LIQUID_AT)?)
}

struct Run {
    used: f64,
    included: f64,
    rate: f64,
}

fn run(t: &TubeShare, at: &str, known: &Known) -> Result<Run, Refusal> {
    let of = |t: &Option<Typed>, field: &str| {
        t.as_ref()
            .map(|t| length(t, &format!("{at}.{field}")))
            .transpose()
    };
    if TubeSize::from_code(&t.size).is_none() {
        return Err(Refusal::wrong(
            &format!("{at}.size"),
            format!("“{}” is not a size Ruhe knows", t.size),
        ));
    }
    let missing = |field: &str, what: &str| {
        Refusal::wrong(&format!("{at}.{field}.typed"), format!("type {what}"))
    };
    let left = of(&t.left_over, "left_over")?.unwrap_or(0.0);
    // The survey has what was laid; nothing is taken off that.
    let bought = of(&t.bought, "bought")?
        .or_else(|| known.length(&t.size).map(|m| m + left))
        .ok_or_else(|| missing("bought", "the length"))?;
    if left > bought {
        return Err(Refusal::wrong(
            &format!("{at}.left_over.typed"),
            "more is left over than was there",
        ));
    }
    let rate = t
        .rate
        .as_ref()
        .map(|r| of_unit(r, &format!("{at}.rate"), RATES))
        .transpose()?
        .ok_or_else(|| missing("rate", "the maker’s rate"))?;
    Ok(Run {
        used: bought - left,
        included: of(&t.included, "included")?.unwrap_or(0.0),
        rate,
    })
}

fn metres(m: f64) -> String {
    format!(
        "{} m ({} ft)",
        significant(m, 3),
        significant(m / 0.304_8, 3)
    )
}

/// What a maker adds for a line: its rate for what is longer than the factory charge covers. Whether nothing is left to
/// add for.
///
/// # Errors
/// What is wrong with a figure, at its field.
pub fn addition(line: &Typed, included: &Typed, rate: &Typed) -> Result<(Mass, bool), Refusal> {
    let longer = length(line, "length")? - length(included, "included")?;
    let rate = of_unit(rate, "rate", RATES)?;
    Ok((Mass::from_g(rate * longer.max(0.0)), longer <= 0.0))
}

/// A rate beside the liquid that the tube holds: another unit may be meant.
fn rate_slip(t: &TubeShare, typed: &Typed, rate: f64, r: &Refrigerant) -> Option<Slip> {
    let holds = liquid_in(&t.size, r)?;
    if rate <= 0.0 || PLAUSIBLE.contains(&(rate / holds)) {
        return None;
    }
    let holds_words = format!(
        "{} holds about {} g/m ({} oz/ft) of liquid {} at 40 °C (estimate)",
        t.size,
        significant(holds, 2),
        significant(holds / RATES[2].1, 2),
        r.name
    );
    let number = of_unit(typed, "", RATES).ok()? / RATES.iter().find(|u| u.0 == typed.unit)?.1;
    let mut choices = vec![typed.clone()];
    let other = RATES
        .iter()
        .map(|u| (number, u.0))
        .chain([(number * 10.0, &*typed.unit), (number / 10.0, &*typed.unit)])
        .find(|(n, unit)| {
            let factor = RATES.iter().find(|u| u.0 == *unit).map_or(0.0, |u| u.1);
            PLAUSIBLE.contains(&(n * factor / holds))
        });
    choices.extend(other.map(|(n, unit)| Typed {
        // Without the last bits of a float.
        typed: format!("{}", (n * 1e6).round() / 1e6),
        unit: unit.into(),
    }));
    Some(Slip {
        words: format!(
            "{holds_words}; {} {} is {} times that.",
            typed.typed,
            typed.unit,
            significant(rate / holds, 2)
        ),
        choices,
    })
}

/// How far off a charge may be, with the words for it. `inside`: the whole charge.
fn tolerance(d: &TargetDoc, inside: Mass) -> Result<(Mass, String), Refusal> {
    if let Some(t) = &d.tolerance {
        let m = mass_above_zero(t, "tolerance")?;
        return Ok((m, "the maker’s own".into()));
    }
    let g = inside.g();
    let (grams, words) = match d.metering {
        Metering::Critical => ((0.01 * g).max(15.0), "±1 % or ±15 g, the larger"),
        Metering::Valve => (0.03 * g, "±3 %"),
        Metering::Receiver => (0.05 * g, "±5 %"),
    };
    Ok((
        Mass::from_g(grams),
        format!("{words}, {} (common practice)", d.metering.title()),
    ))
}

fn base(
    d: &TargetDoc,
    known: &Known,
    stops: &mut Vec<String>,
    remarks: &mut Vec<String>,
    slipped: &mut Vec<(String, Slip)>,
) -> Result<(Option<Mass>, Parts), Refusal> {
    let of =
        |t: &Option<Typed>, field: &str| t.as_ref().map(|t| mass_above_zero(t, field)).transpose();
    let (plate, again) = (of(&d.plate, "plate")?, of(&d.plate_again, "plate_again")?);
    stops.extend(known.differ(plate.map(|p| ("target", p))));
    match (plate, again) {
        (Some(a), Some(b)) if (a.g() / b.g() - 1.0).abs() > ALIKE => {
            stops.push(format!(
                "The plate was read as {} and as {}. Look again.",
                a.words(),
                b.words()
            ));
            if let Some(t) = &d.plate {
                slipped.extend(
                    slips(t, Some((b, "The second reading")))
                        .into_iter()
                        .map(|s| ("plate".into(), s)),
                );
            }
        }
        (Some(_), None) if known.plates.is_empty() => {
            remarks.push("The plate’s charge was read once.".into());
        }
        (None, None) if known.plates.len() == 1 => {
            remarks.push("The plate’s charge was read once.".into());
        }
        _ => {}
    }
    let plate = plate.or(known.plate());
    if plate.is_some() && d.plate_read == PlateRead::FromMemory {
        remarks.push("The plate’s charge is from memory.".into());
    }
    let parts = match d.scope {
        Scope::FactoryStays => vec![],
        Scope::AllLost => {
            let m = plate
                .ok_or_else(|| Refusal::wrong("plate.typed", "type the charge on the plate"))?;
            vec![("charge on the plate".into(), m)]
        }
        Scope::Part => {
            let m = of(&d.part, "part")?
                .ok_or_else(|| Refusal::wrong("part.typed", "type what goes back in"))?;
            vec![("the part that goes back".into(), m)]
        }
    };
    Ok((plate, parts))
}

/// What the maker wants, from what was typed. `r`: the circuit's refrigerant, if its properties are known; `known`:
/// what the job says elsewhere already.
///
/// # Errors
/// What cannot be read, with its field.
pub fn target(d: &TargetDoc, r: Option<&Refrigerant>, known: &Known) -> Result<Target, Refusal> {
    let (mut stops, mut remarks, mut slipped) = (vec![], vec![], vec![]);
    let (plate, mut parts) = base(d, known, &mut stops, &mut remarks, &mut slipped)?;
    let longest = d
        .longest
        .as_ref()
        .map(|t| length(t, "longest"))
        .transpose()?;
    for (i, t) in d.tubes.iter().enumerate() {
        let at = format!("tubes.{i}");
        let x = run(t, &at, known)?;
        remarks.extend(known.longer(&t.size, x.used));
        let over = (x.used - x.included).max(0.0);
        parts.push((
            format!(
                "{}: {} used, {} included, {} to count",
                t.size,
                metres(x.used),
                metres(x.included),
                metres(over)
            ),
            Mass::from_g(over * x.rate),
        ));
        if let Some(most) = longest.filter(|most| x.used > most + MEASURED) {
            let long = format!(
                "{} of {} is longer than the maker’s {}",
                metres(x.used),
                t.size,
                metres(most)
            );
            match d.longest_words.trim() {
                "" => stops.push(format!("{long}. Only the maker’s own words allow that.")),
                words => remarks.push(format!("{long}; the maker: {words}")),
            }
        }
        if let (Some(r), Some(typed)) = (r, &t.rate)
            && t.covers != Covers::Both
            && let Some(s) = rate_slip(t, typed, x.rate, r)
        {
            slipped.push((format!("{at}.rate"), s));
        }
        if t.source.trim().is_empty() && over * x.rate > 0.0 {
            remarks.push(format!("The rate for {} has no source.", t.size));
        }
    }
    if d.tubes.len() > 1 && d.tubes.iter().any(|t| t.covers == Covers::Both) {
        stops.push("A rate for both tubes stands beside another tube’s rate: is a tube counted twice? Take one \
             of them away, or say what each rate covers.".into());
    }
    for (i, o) in d.others.iter().enumerate() {
        let at = format!("others.{i}");
        let what = filled(&format!("{at}.what"), &o.what, 200)?;
        parts.push((what, mass(&o.mass, &format!("{at}.mass"))?));
    }
    let total = Mass::from_g(parts.iter().map(|p| p.1.g()).sum());
    let inside = match d.scope {
        Scope::AllLost => Some(total),
        // A part goes back to what is still there: all of it is what the plate and the tubes say.
        Scope::FactoryStays => plate.map(|p| Mass::from_g(p.g() + total.g())),
        Scope::Part => plate,
    };
    if let Some(t) = &d.total {
        let sum = mass(t, "total")?;
        if (sum.g() - total.g()).abs() > (0.01 * total.g()).max(1.0) {
            remarks.push(format!(
                "The sum was given as {}; the parts make {}.",
                sum.words(),
                total.words()
            ));
            slipped.extend(
                slips(t, Some((total, "The sum of the parts")))
                    .into_iter()
                    .map(|s| ("total".into(), s)),
            );
        }
    }
    if let Some(t) = &d.room_limit {
        let most = mass_above_zero(t, "room_limit")?;
        match inside {
            Some(m) if m > most => stops.push(format!(
                "{} would be inside, and the maker’s page allows {} for this room.",
                m.words(),
                most.words()
            )),
            None => remarks.push(
                "The limit for the room was not compared: the plate’s charge is not known.".into(),
            ),
            Some(_) => {}
        }
    }
    let (tolerance, tolerance_words) = tolerance(d, inside.unwrap_or(total))?;
    Ok(Target {
        parts,
        total,
        inside,
        tolerance,
        tolerance_words,
        stops,
        remarks,
        slips: slipped,
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::charge::OtherShare;
    use ruhe_core::matter::refrigerant::find;
    use ruhe_core::quantity::MassUnit;

    fn typed(text: &str, unit: &str) -> Option<Typed> {
        Some(Typed {
            typed: text.into(),
            unit: unit.into(),
        })
    }
    fn tube(size: &str, bought: &str, left: &str, included: &str, rate: (&str, &str)) -> TubeShare {
        TubeShare {
            size: size.into(),
            bought: typed(bought, "m"),
            left_over: typed(left, "m"),
            included: typed(included, "m"),
            rate: typed(rate.0, rate.1),
            source: "manual, page 12".into(),
            ..TubeShare::default()
        }
    }
    fn of(tubes: Vec<TubeShare>) -> Target {
        target(
            &TargetDoc {
                tubes,
                ..TargetDoc::default()
            },
            find("R-410A"),
            &Known::default(),
        )
        .unwrap()
    }

    /// Worked by hand.
    #[test]
    fn what_a_tube_adds() {
        let t = of(vec![tube("1/4 in", "12.5", "1.7", "7.5", ("22", "g/m"))]);
        assert!((t.total.g() - 72.6).abs() < 1e-9);
        assert_eq!(
            (
                t.total.shown(MassUnit::Pound),
                format!("{:.2}", t.total.in_unit(MassUnit::Ounce))
            ),
            ("0.16 lb".into(), "2.56".into())
        );
        assert!(t.stops.is_empty() && t.slips.is_empty(), "{t:?}");
        assert_eq!(
            of(vec![tube("1/4 in", "6", "0", "7.5", ("22", "g/m"))])
                .total
                .g(),
            0.0,
            "never below zero"
        );
        let heads = of(vec![
            tube("1/4 in", "14", "0", "0", ("22", "g/m")),
            tube("3/8 in", "8", "0", "0", ("59", "g/m")),
        ]);
        assert_eq!(
            (heads.total.g(), heads.total.shown(MassUnit::PoundOunce)),
            (780.0, "1 lb 11.5 oz".into())
        );
    }

    /// Common practice, no source: worked additions of the trade.
    #[test]
    fn additions_in_ounces_and_feet() {
        let feet = |bought: &str, included: &str, rate: &str| {
            let mut t = tube("3/8 in", "0", "0", "0", (rate, "oz/ft"));
            (t.bought, t.included) = (typed(bought, "ft"), typed(included, "ft"));
            of(vec![t]).total.in_unit(MassUnit::Ounce)
        };
        assert!((feet("23", "15", "0.6") - 4.8).abs() < 1e-9);
        assert!((feet("10", "0", "0.224") - 2.24).abs() < 1e-9);
    }

    #[test]
    fn a_run_beyond_the_longest_stops_until_the_maker_speaks() {
        let long = |words: &str| {
            let d = TargetDoc {
                tubes: vec![tube("1/4 in", "46", "0", "7.5", ("22", "g/m"))],
                longest: typed("30", "m"),
                longest_words: words.into(),
                ..TargetDoc::default()
            };
            target(&d, None, &Known::default()).unwrap()
        };
        assert!(long("").stops[0].contains("longer than the maker’s 30"));
        let allowed = long("bulletin 7: up to 50 m with the larger suction tube");
        assert!(allowed.stops.is_empty() && allowed.remarks[0].contains("bulletin 7"));
    }

    #[test]
    fn a_plate_is_asked_twice() {
        let plate = |a: &str, b: &str| {
            target(
                &TargetDoc {
                    scope: Scope::AllLost,
                    plate: typed(a, "lb"),
                    plate_again: typed(b, "lb-oz"),
                    ..TargetDoc::default()
                },
                None,
                &Known::default(),
            )
            .unwrap()
        };
        let t = plate("5.5", "5 lb 5 oz");
        assert!(t.stops[0].contains("read as"), "{t:?}");
        assert_eq!(t.slips[0].1.choices[1].typed, "5 lb 5 oz");
        assert!(plate("5.5", "5 lb 8 oz").stops.is_empty());
        let empty = target(
            &TargetDoc {
                scope: Scope::AllLost,
                ..TargetDoc::default()
            },
            None,
            &Known::default(),
        );
        assert!(empty.unwrap_err().to_string().contains("plate"));
    }

    /// Liquid in a tube, CoolProp 8.0.0 at 40 °C, g/m: outside ×0.6 to ×1.6 another unit is offered.
    #[test]
    fn a_rate_is_held_against_the_tube() {
        for (size, name, grams) in [
            ("1/4 in", "R-410A", 18.0),
            ("3/8 in", "R-410A", 48.0),
            ("1/2 in", "R-410A", 94.0),
            ("5/8 in", "R-410A", 152.0),
            ("3/8 in", "R-32", 44.0),
            ("3/8 in", "R-454B", 45.0),
            ("1/2 in", "R-407C", 103.0),
            ("5/8 in", "R-134a", 179.0),
            ("3/8 in", "R-22", 55.0),
            ("1/4 in", "R-290", 9.0),
        ] {
            let ours = liquid_in(size, find(name).unwrap()).unwrap();
            assert!(
                (ours - grams).abs() < 0.02 * grams + 0.5,
                "{size} {name}: {ours}"
            );
        }
        let t = of(vec![tube("1/4 in", "12", "0", "0", ("0.22", "g/m"))]);
        assert_eq!(
            t.slips[0].1.choices[1],
            Typed {
                typed: "0.22".into(),
                unit: "oz/ft".into()
            }
        );
        assert!(
            of(vec![tube("3/8 in", "12", "0", "0", ("0.6", "oz/ft"))])
                .slips
                .is_empty()
        );
    }

    #[test]
    fn what_is_counted_twice_or_does_not_add_up_is_said() {
        let both = TubeShare {
            covers: Covers::Both,
            ..tube("3/8 in", "12", "0", "5", ("60", "g/m"))
        };
        let twice = of(vec![
            both.clone(),
            tube("5/8 in", "12", "0", "5", ("4", "g/m")),
        ]);
        assert!(twice.stops[0].contains("counted twice"));
        let d = TargetDoc {
            scope: Scope::AllLost,
            plate: typed("2.9", "kg"),
            plate_again: typed("2.9", "kg"),
            tubes: vec![both],
            others: vec![OtherShare {
                what: "second head".into(),
                mass: typed("150", "g").unwrap(),
                source: String::new(),
            }],
            total: typed("3.74", "kg"),
            ..TargetDoc::default()
        };
        let t = target(&d, None, &Known::default()).unwrap();
        assert!((t.total.g() - 3_470.0).abs() < 1e-9);
        assert!(
            t.remarks.iter().any(|r| r.contains("the parts make")),
            "{:?}",
            t.remarks
        );
    }

    #[test]
    fn a_room_has_a_limit() {
        let d = |limit: &str| TargetDoc {
            scope: Scope::AllLost,
            plate: typed("1.8", "kg"),
            plate_again: typed("1.8", "kg"),
            room_limit: typed(limit, "kg"),
            ..TargetDoc::default()
        };
        assert!(target(&d("1.5"), None, &Known::default()).unwrap().stops[0].contains("allows"));
        assert!(
            target(&d("2.5"), None, &Known::default())
                .unwrap()
                .stops
                .is_empty()
        );
    }

    #[test]
    fn tolerance_by_what_meters() {
        let g = |metering, plate: &str| {
            let d = TargetDoc {
                scope: Scope::AllLost,
                metering,
                plate: typed(plate, "kg"),
                plate_again: typed(plate, "kg"),
                ..TargetDoc::default()
            };
            target(&d, None, &Known::default()).unwrap().tolerance.g()
        };
        assert_eq!(g(Metering::Critical, "1.0"), 15.0);
        assert_eq!(g(Metering::Critical, "4.0"), 40.0);
        assert_eq!(g(Metering::Valve, "4.0"), 120.0);
        assert_eq!(g(Metering::Receiver, "4.0"), 200.0);
    }
}
