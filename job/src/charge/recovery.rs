//! Arriving at a system that had a charge: is liquid still in it, what was recovered, into what, and what is missing.

use super::doc::{mass, mass_above_zero, of_unit};
use super::known::Known;
use crate::refusal::Refusal;
use crate::survey::Typed;
use ruhe_core::matter::refrigerant::{Refrigerant, same_name};
use ruhe_core::named;
use ruhe_core::quantity::{Dimension, Mass, Unit, significant};
use serde::{Deserialize, Serialize};

named! {
    /// What is in a recovery cylinder.
    #[derive(Default)]
    Purity {
        /// The refrigerant alone.
        Pure = "pure",
        /// Nitrogen is in it.
        Mixed = "mixed_with_nitrogen",
        /// Nobody knows.
        #[default]
        Unknown = "unknown",
    }
}

impl Purity {
    /// Name on screen.
    #[must_use]
    pub fn title(self) -> &'static str {
        match self {
            Self::Pure => "the refrigerant alone",
            Self::Mixed => "mixed with nitrogen",
            Self::Unknown => "nobody knows",
        }
    }
}

/// How a system was found, and what was recovered from it. Everything as typed.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(default)]
#[allow(missing_docs)]
pub struct ArrivalDoc {
    pub complaint: String,
    /// Pressure at rest, and the coldest place then.
    pub standing: Option<Typed>,
    pub coldest: Option<Typed>,
    /// Earlier visits and what was topped up, in words.
    pub before: String,
    /// When it was last known to be full: a day, 2026-09-12.
    pub last_full: String,
    pub plate: Option<Typed>,
    pub recovered: Option<RecoveredDoc>,
    /// Why it was done all the same, where a cylinder forbids it: overfilled, out of test, of another refrigerant.
    pub all_the_same: String,
}

/// A recovery into a cylinder.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(default)]
#[allow(missing_docs)]
pub struct RecoveredDoc {
    pub cylinder: String,
    /// As its label says.
    pub refrigerant: String,
    /// Water capacity: L, kg or lb of water.
    pub water: Option<Typed>,
    pub tare: Option<Typed>,
    pub before: Option<Typed>,
    pub after: Option<Typed>,
    /// Until when its test is good: a day.
    pub tested_until: String,
    /// Pressure left in the system at the end.
    pub left: Option<Typed>,
    pub purity: Purity,
}

/// What a cylinder may weigh at most: its tare and 80 % of its water capacity filled with liquid at 25 °C.
#[must_use]
pub fn cylinder_limit(tare: Mass, water_l: f64, r: &Refrigerant) -> Option<Mass> {
    Some(Mass::from_g(tare.g() + 0.8 * water_l * r.liquid(298.15)?))
}

/// What was found, worked out.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Arrival {
    /// Liquid, vapour only, or too high, in words.
    pub standing: Option<String>,
    /// What was recovered.
    pub recovered: Option<Mass>,
    /// What the cylinder may weigh, and what it weighs.
    pub limit: Option<(Mass, Mass)>,
    /// What is missing of the plate's charge.
    pub missing: Option<Mass>,
    /// The leak that this makes on the average, g a day.
    pub per_day: Option<f64>,
    /// What is known, in words.
    pub words: Vec<String>,
    /// What forbids to go on, in words.
    pub stops: Vec<String>,
}

/// As near as this to saturation liquid stands in it (a dial's and a thermometer's error together).
const NEAR: f64 = 0.04;
/// Litres of one unit of water capacity.
const WATER: &[(&str, f64)] = &[("L", 1.0), ("kg", 1.0), ("lb", 0.453_592_37)];
/// Volume taken where nobody stated one, L (common practice, no source).
const LITRES: f64 = 6.0;

/// A pressure as typed, Pa absolute.
pub(crate) fn pascal(t: &Typed, field: &str, atmosphere: f64) -> Result<f64, Refusal> {
    let unit = Unit::from_code(&t.unit)
        .filter(|u| u.info().dimension == Dimension::Pressure)
        .ok_or_else(|| {
            Refusal::wrong(
                &format!("{field}.unit"),
                format!("“{}” is not a unit of pressure", t.unit),
            )
        })?;
    let pa = unit
        .parse(&t.typed)
        .map_err(|e| Refusal::wrong(&format!("{field}.typed"), e.to_string()))?;
    let pa = if unit.is_absolute() {
        pa
    } else {
        pa + atmosphere
    };
    if pa >= 0.0 {
        Ok(pa)
    } else {
        Err(Refusal::wrong(
            &format!("{field}.typed"),
            "no pressure is below a full vacuum",
        ))
    }
}

/// A temperature as typed, K.
pub(crate) fn kelvin(t: &Typed, field: &str) -> Result<f64, Refusal> {
    let unit = Unit::from_code(&t.unit)
        .filter(|u| u.info().dimension == Dimension::Temperature)
        .ok_or_else(|| {
            Refusal::wrong(
                &format!("{field}.unit"),
                format!("“{}” is not a unit of temperature", t.unit),
            )
        })?;
    let k = unit
        .parse(&t.typed)
        .map_err(|e| Refusal::wrong(&format!("{field}.typed"), e.to_string()))?;
    if (173.15..=423.15).contains(&k) {
        Ok(k)
    } else {
        Err(Refusal::wrong(
            &format!("{field}.typed"),
            "no part of such a system has this temperature",
        ))
    }
}

/// A day as typed: 2026-09-12.
///
/// # Errors
/// If it is none.
pub fn day(text: &str, field: &str) -> Result<Option<jiff::civil::Date>, Refusal> {
    match text.trim() {
        "" => Ok(None),
        t => t.parse().map(Some).map_err(|_| {
            Refusal::wrong(field, format!("“{t}” is not a day; write it as 2026-09-12"))
        }),
    }
}

/// What was typed, if anything was.
pub(crate) fn given(t: &Option<Typed>) -> Option<&Typed> {
    t.as_ref().filter(|t| !t.typed.trim().is_empty())
}

/// Works out what was found. `today`: the day it was found; `litres`: the system's volume if it is known; `known`:
/// what the survey says.
///
/// # Errors
/// What cannot be read, with its field.
pub fn arrival(
    d: &ArrivalDoc,
    r: Option<&Refrigerant>,
    known: &Known,
    litres: Option<f64>,
    atmosphere: f64,
    today: jiff::civil::Date,
) -> Result<Arrival, Refusal> {
    let mut out = Arrival::default();
    let standing = given(&d.standing)
        .map(|t| pascal(t, "standing", atmosphere))
        .transpose()?;
    let coldest = given(&d.coldest)
        .map(|t| kelvin(t, "coldest"))
        .transpose()?;
    if let (Some(p), Some(k), Some(r)) = (standing, coldest, r) {
        let (dew, bubble) = (r.dew(k), r.standing(k));
        out.standing = Some(if p > bubble * (1.0 + NEAR) {
            format!(
                "More than {} alone can show at that temperature: air or nitrogen is in it, or the coldest \
                 place was warmer.",
                r.name
            )
        } else if p >= dew * (1.0 - NEAR) {
            "Liquid is still in it. The pressure says nothing about how much.".into()
        } else {
            format!(
                "Only vapour is left: {} % of the pressure that liquid would show.",
                significant(100.0 * p / bubble, 2)
            )
        });
    }
    let plate = given(&d.plate)
        .map(|t| mass_above_zero(t, "plate"))
        .transpose()?;
    out.words
        .extend(known.differ(plate.map(|p| ("arrival", p))));
    let plate = plate.or(known.plate());
    let since = day(&d.last_full, "last_full")?;
    if since.is_some_and(|s| s > today) {
        return Err(Refusal::wrong("last_full", "that day is still to come"));
    }
    if let Some(x) = &d.recovered {
        recovered(x, r, litres, atmosphere, today, plate, &mut out)
            .map_err(|e| e.within("recovered"))?;
    }
    if let (Some(m), Some(since)) = (out.missing.filter(|m| m.g() > 0.0), since) {
        let days = f64::from((today - since).get_days());
        if days >= 1.0 {
            let per_day = m.g() / days;
            out.per_day = Some(per_day);
            out.words.push(format!(
                "Full {days:.0} days ago: on the average {} g a day, {} kg a year. If it began later, it leaks \
                 faster. A hold of half an hour may well not show this.",
                significant(per_day, 2),
                significant(per_day * 365.25 / 1e3, 2)
            ));
        }
    }
    Ok(out)
}

fn recovered(
    x: &RecoveredDoc,
    r: Option<&Refrigerant>,
    litres: Option<f64>,
    atmosphere: f64,
    today: jiff::civil::Date,
    plate: Option<Mass>,
    out: &mut Arrival,
) -> Result<(), Refusal> {
    let of = |t: &Option<Typed>, field: &str| given(t).map(|t| mass(t, field)).transpose();
    let (tare, before, after) = (
        of(&x.tare, "tare")?,
        of(&x.before, "before")?,
        of(&x.after, "after")?,
    );
    if let (Some(b), Some(a)) = (before, after) {
        if a < b {
            return Err(Refusal::wrong(
                "after.typed",
                "a cylinder that takes refrigerant gets heavier",
            ));
        }
        out.recovered = Some(Mass::from_g(a.g() - b.g()));
    }
    let water = given(&x.water)
        .map(|t| of_unit(t, "water", WATER))
        .transpose()?;
    if let (Some(tare), Some(water), Some(r)) = (tare, water, r)
        && let Some(limit) = cylinder_limit(tare, water, r)
    {
        let now = after.or(before).unwrap_or(tare);
        out.limit = Some((limit, now));
        if now > limit {
            out.stops.push(format!(
                "The cylinder weighs {} and may weigh {}: it is overfilled by {}. Stop, and move some into \
                 another one.",
                now.words(), limit.words(), Mass::from_g(now.g() - limit.g()).words()
            ));
        }
    }
    if day(&x.tested_until, "tested_until")?.is_some_and(|d| d < today) {
        out.stops
            .push("The cylinder’s test has run out. Take another one.".into());
    }
    if let Some(r) =
        r.filter(|r| !x.refrigerant.trim().is_empty() && !same_name(&x.refrigerant, r.name))
    {
        out.stops.push(format!(
            "The cylinder is labelled {} and the circuit holds {}. Mixed, neither can be \
             used again.",
            x.refrigerant.trim(),
            r.name
        ));
    }
    if x.purity == Purity::Mixed {
        out.words.push(format!(
            "Label the cylinder: {} mixed with nitrogen, for disposal or reclaim, not for use.",
            r.map_or("refrigerant", |r| r.name)
        ));
    }
    let left = given(&x.left)
        .map(|t| pascal(t, "left", atmosphere))
        .transpose()?;
    if let (Some(plate), Some(got)) = (plate, out.recovered) {
        let vapour = match (left, r) {
            (Some(p), Some(r)) => litres.unwrap_or(LITRES) * r.vapour(p, 294.26),
            _ => 0.0,
        };
        let missing = plate.g() - got.g() - vapour;
        out.missing = Some(Mass::from_g(missing.max(0.0)));
        let beside = if vapour > 0.5 {
            format!(
                ", {vapour:.0} g of vapour still inside{}",
                if litres.is_none() { " (6 L taken)" } else { "" }
            )
        } else {
            String::new()
        };
        out.words.push(if missing > 0.0 {
            format!(
                "{} is missing: plate {}, recovered {}{beside}; what the oil keeps is not counted.",
                Mass::from_g(missing).words(),
                plate.words(),
                got.words()
            )
        } else {
            format!(
                "Nothing is missing: {} recovered of {}.",
                got.words(),
                plate.words()
            )
        });
    }
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;
    use ruhe_core::matter::refrigerant::find;

    const SEA: f64 = 101_325.0;
    fn typed(text: &str, unit: &str) -> Option<Typed> {
        Some(Typed {
            typed: text.into(),
            unit: unit.into(),
        })
    }
    fn today() -> jiff::civil::Date {
        jiff::civil::date(2026, 11, 26)
    }

    /// Worked by hand: 2.90 kg less 2.31 kg less 6 L of vapour at 0 psig (17 g); 75 days.
    #[test]
    fn what_is_missing_and_how_fast_it_went() {
        let d = ArrivalDoc {
            plate: typed("2.90", "kg"),
            last_full: "2026-09-12".into(),
            recovered: Some(RecoveredDoc {
                before: typed("9.00", "kg"),
                after: typed("11.31", "kg"),
                left: typed("0", "psig"),
                ..RecoveredDoc::default()
            }),
            ..ArrivalDoc::default()
        };
        let a = arrival(
            &d,
            find("R-410A"),
            &Known::default(),
            Some(6.0),
            SEA,
            today(),
        )
        .unwrap();
        assert!((a.missing.unwrap().g() - 572.0).abs() < 5.0, "{a:?}");
        assert!((a.per_day.unwrap() - 7.6).abs() < 0.1);
        assert!(
            a.words[1].contains("75 days") && a.words[1].contains("2.8 kg a year"),
            "{:?}",
            a.words
        );
    }

    #[test]
    fn liquid_vapour_or_air() {
        let says = |psig: &str| {
            let d = ArrivalDoc {
                standing: typed(psig, "psig"),
                coldest: typed("70", "degF"),
                ..ArrivalDoc::default()
            };
            arrival(&d, find("R-410A"), &Known::default(), None, SEA, today())
                .unwrap()
                .standing
                .unwrap()
        };
        assert!(says("200").starts_with("Liquid is still in it"));
        assert!(says("90").starts_with("Only vapour"));
        assert!(says("260").starts_with("More than R-410A"));
    }

    /// 0.8 · 12 L · 1.059 kg/L = 10.17 kg above the tare (CoolProp 8.0.0: R-410A at 25 °C).
    #[test]
    fn a_cylinder_has_a_limit() {
        let limit = cylinder_limit(Mass::from_g(8_000.0), 12.0, find("R-410A").unwrap()).unwrap();
        assert!((limit.g() - 18_170.0).abs() < 20.0, "{limit:?}");
        let d = |after: &str, label: &str, until: &str| ArrivalDoc {
            recovered: Some(RecoveredDoc {
                refrigerant: label.into(),
                water: typed("12", "L"),
                tare: typed("8", "kg"),
                before: typed("15", "kg"),
                after: typed(after, "kg"),
                tested_until: until.into(),
                ..RecoveredDoc::default()
            }),
            ..ArrivalDoc::default()
        };
        let stops = |d: ArrivalDoc| {
            arrival(&d, find("R-410A"), &Known::default(), None, SEA, today())
                .unwrap()
                .stops
        };
        assert!(stops(d("18.0", "r410a", "2030-01-01")).is_empty());
        assert!(stops(d("19.0", "R-410A", ""))[0].contains("overfilled"));
        assert!(stops(d("18.0", "R-32", ""))[0].contains("labelled R-32"));
        assert!(stops(d("18.0", "", "2026-01-01"))[0].contains("run out"));
        let back = arrival(
            &d("14", "", ""),
            None,
            &Known::default(),
            None,
            SEA,
            today(),
        )
        .unwrap_err();
        assert!(back.to_string().contains("heavier"), "{back}");
    }
}
