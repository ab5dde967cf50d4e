//! A reading set: as typed, and worked out.

use crate::charge::{given, kelvin, pascal};
use crate::refusal::Refusal;
use crate::survey::Typed;
use ruhe_core::matter::refrigerant::Refrigerant;
use ruhe_core::named;
use ruhe_core::quantity::{Dimension, Unit, parse_number};
use serde::{Deserialize, Serialize};

named! {
    /// Which way it runs.
    #[derive(Default)]
    Mode {
        /// Cooling.
        #[default]
        Cooling = "cooling",
        /// Heating.
        Heating = "heating",
    }
}

named! {
    /// Whether the compressor's speed stands still.
    #[derive(Default)]
    Drive {
        /// One speed.
        #[default]
        Fixed = "fixed",
        /// An inverter, held at a fixed speed for the test.
        InverterHeld = "inverter_held",
        /// An inverter that does as it likes.
        InverterFree = "inverter_free",
    }
}

named! {
    /// Before or after what was done today.
    #[derive(Default)]
    When {
        /// As it was found.
        Before = "before",
        /// As it is left.
        #[default]
        After = "after",
    }
}

impl Mode {
    /// Name on screen.
    #[must_use]
    pub fn title(self) -> &'static str {
        match self {
            Self::Cooling => "cooling",
            Self::Heating => "heating",
        }
    }
}
impl Drive {
    /// Name on screen.
    #[must_use]
    pub fn title(self) -> &'static str {
        match self {
            Self::Fixed => "one speed",
            Self::InverterHeld => "inverter, held at a fixed speed",
            Self::InverterFree => "inverter, free",
        }
    }
}

/// A reading set, as typed.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(default)]
#[allow(missing_docs)]
pub struct SetDoc {
    pub when: When,
    pub mode: Mode,
    pub drive: Drive,
    /// Stage or speed, in words.
    pub stage: String,
    /// Minutes since the start, as typed.
    pub running_min: String,
    /// Suction pressure, and the line's temperature at the same place.
    pub suction: Option<Typed>,
    pub suction_line: Option<Typed>,
    /// Liquid pressure, and the line's temperature at the same place.
    pub liquid: Option<Typed>,
    pub liquid_line: Option<Typed>,
    pub outdoor: Option<Typed>,
    pub return_air: Option<Typed>,
    pub supply_air: Option<Typed>,
    /// Barometer of the site; else that of its altitude, else sea level.
    pub barometer: Option<Typed>,
    /// What the maker wants: a temperature interval in °F or °C.
    pub aim_superheat: Option<Typed>,
    pub aim_subcooling: Option<Typed>,
    pub note: String,
}

/// A set, worked out. Temperatures K, pressures Pa absolute, intervals K.
#[derive(Debug, Clone, Default, PartialEq)]
#[allow(missing_docs)]
pub struct Set {
    pub at_ms: i64,
    pub when: When,
    pub mode: Mode,
    pub drive: Drive,
    pub running_s: Option<f64>,
    /// Since refrigerant was last added, s; `None`: none was, today.
    pub since_gas_s: Option<f64>,
    pub suction: Option<f64>,
    pub suction_line: Option<f64>,
    pub liquid: Option<f64>,
    pub liquid_line: Option<f64>,
    pub outdoor: Option<f64>,
    pub return_air: Option<f64>,
    pub supply_air: Option<f64>,
    /// Dew temperature of the suction pressure.
    pub dew: Option<f64>,
    /// Bubble temperature of the liquid pressure.
    pub bubble: Option<f64>,
    pub superheat: Option<f64>,
    pub subcooling: Option<f64>,
    /// Return less supply.
    pub split: Option<f64>,
    /// Bubble less outdoor air.
    pub approach: Option<f64>,
    pub aim_superheat: Option<f64>,
    pub aim_subcooling: Option<f64>,
}

fn interval(t: &Typed, field: &str) -> Result<f64, Refusal> {
    let unit = Unit::from_code(&t.unit)
        .filter(|u| u.info().dimension == Dimension::Temperature)
        .ok_or_else(|| {
            Refusal::wrong(
                &format!("{field}.unit"),
                format!("“{}” is not a unit of temperature", t.unit),
            )
        })?;
    let v = parse_number(&t.typed)
        .map_err(|e| Refusal::wrong(&format!("{field}.typed"), e.to_string()))?;
    if (0.0..=60.0).contains(&v) {
        Ok(unit.delta_to_si(v))
    } else {
        Err(Refusal::wrong(
            &format!("{field}.typed"),
            "a maker asks for something between 0 and 60 degrees",
        ))
    }
}

/// Works a set out. `site`: the atmosphere where no barometer was read, Pa; `last_gas_ms`: when refrigerant was last
/// added.
///
/// # Errors
/// What cannot be read, with its field; nothing at all was read.
pub fn set(
    d: &SetDoc,
    r: Option<&Refrigerant>,
    site: f64,
    at_ms: i64,
    last_gas_ms: Option<i64>,
) -> Result<Set, Refusal> {
    let t = |t: &Option<Typed>, field: &str| given(t).map(|t| kelvin(t, field)).transpose();
    let atmosphere = given(&d.barometer)
        .map(|t| pascal(t, "barometer", 0.0))
        .transpose()?;
    if let Some(a) = atmosphere.filter(|a| !(50e3..=110e3).contains(a)) {
        return Err(Refusal::wrong(
            "barometer.typed",
            format!("{:.0} hPa is no barometer where people work", a / 100.0),
        ));
    }
    let around = atmosphere.unwrap_or(site);
    let p = |t: &Option<Typed>, field: &str| given(t).map(|t| pascal(t, field, around)).transpose();
    let running_s = match d.running_min.trim() {
        "" => None,
        text => Some(
            parse_number(text)
                .ok()
                .filter(|v| *v >= 0.0)
                .map(|v| v * 60.0)
                .ok_or_else(|| {
                    Refusal::wrong(
                        "running_min",
                        format!("“{text}” is not a number of minutes"),
                    )
                })?,
        ),
    };
    let (suction, liquid) = (p(&d.suction, "suction")?, p(&d.liquid, "liquid")?);
    let mut out = Set {
        at_ms,
        when: d.when,
        mode: d.mode,
        drive: d.drive,
        running_s,
        since_gas_s: last_gas_ms
            .filter(|g| *g <= at_ms)
            .map(|g| (at_ms - g) as f64 / 1e3),
        suction,
        liquid,
        suction_line: t(&d.suction_line, "suction_line")?,
        liquid_line: t(&d.liquid_line, "liquid_line")?,
        outdoor: t(&d.outdoor, "outdoor")?,
        return_air: t(&d.return_air, "return_air")?,
        supply_air: t(&d.supply_air, "supply_air")?,
        dew: suction.and_then(|p| r?.dew_at(p)),
        bubble: liquid.and_then(|p| r?.bubble_at(p)),
        aim_superheat: given(&d.aim_superheat)
            .map(|t| interval(t, "aim_superheat"))
            .transpose()?,
        aim_subcooling: given(&d.aim_subcooling)
            .map(|t| interval(t, "aim_subcooling"))
            .transpose()?,
        ..Set::default()
    };
    let less = |a: Option<f64>, b: Option<f64>| Some(a? - b?);
    out.superheat = less(out.suction_line, out.dew);
    out.subcooling = less(out.bubble, out.liquid_line);
    out.split = less(out.return_air, out.supply_air);
    out.approach = less(out.bubble, out.outdoor);
    let nothing = out.suction.is_none()
        && out.liquid.is_none()
        && out.suction_line.is_none()
        && out.liquid_line.is_none()
        && out.split.is_none();
    if nothing {
        return Err(Refusal::wrong("suction.typed", "type at least one reading"));
    }
    Ok(out)
}

#[cfg(test)]
mod tests {
    use super::*;
    use ruhe_core::matter::refrigerant::find;

    const SEA: f64 = 101_325.0;
    fn typed(v: f64, unit: &str) -> Option<Typed> {
        Some(Typed {
            typed: v.to_string(),
            unit: unit.into(),
        })
    }

    /// CoolProp 8.0.0: superheat by the dew line, subcooling by the bubble line, °F.
    #[test]
    fn superheat_and_subcooling_by_their_own_lines() {
        for (name, suction, line, sh, liquid, cold, sc) in [
            ("R-410A", 130.0, 54.0, 9.0, 365.0, 96.0, 13.7),
            ("R-32", 131.0, 53.0, 8.8, 372.0, 97.0, 12.4),
            ("R-454B", 118.0, 52.0, 7.2, 330.0, 97.0, 9.0),
            ("R-407C", 68.0, 52.0, 8.8, 250.0, 100.0, 7.2),
            ("R-134a", 35.0, 50.0, 10.0, 150.0, 100.0, 11.5),
            ("R-22", 70.0, 50.0, 9.0, 230.0, 100.0, 11.1),
        ] {
            let d = SetDoc {
                suction: typed(suction, "psig"),
                suction_line: typed(line, "degF"),
                liquid: typed(liquid, "psig"),
                liquid_line: typed(cold, "degF"),
                ..SetDoc::default()
            };
            let s = set(&d, find(name), SEA, 0, None).unwrap();
            let f = |k: Option<f64>| k.unwrap() * 1.8;
            assert!(
                (f(s.superheat) - sh).abs() <= 0.1,
                "{name}: {}",
                f(s.superheat)
            );
            assert!(
                (f(s.subcooling) - sc).abs() <= 0.1,
                "{name}: {}",
                f(s.subcooling)
            );
        }
    }

    /// At 1,600 m R-134a at 20 psig boils 3.7 °F lower than at the sea (US Standard Atmosphere 1976: 83.5 kPa).
    #[test]
    fn the_atmosphere_of_the_site_counts() {
        let d = SetDoc {
            suction: typed(20.0, "psig"),
            suction_line: typed(50.0, "degF"),
            ..SetDoc::default()
        };
        let at = |pa: f64| {
            set(&d, find("R-134a"), pa, 0, None)
                .unwrap()
                .superheat
                .unwrap()
                * 1.8
        };
        assert!(
            (at(83_524.0) - at(SEA) - 3.7).abs() < 0.15,
            "{}",
            at(83_524.0) - at(SEA)
        );
        let with = SetDoc {
            barometer: typed(835.24, "hPa"),
            ..d.clone()
        };
        let typed_in = set(&with, find("R-134a"), SEA, 0, None).unwrap();
        assert!((typed_in.superheat.unwrap() * 1.8 - at(83_524.0)).abs() < 1e-6);
    }

    #[test]
    fn what_is_not_a_reading_is_refused_where_it_stands() {
        let field = |d: SetDoc| match set(&d, find("R-32"), SEA, 0, None).unwrap_err() {
            Refusal::Wrong { field, .. } => field.unwrap(),
            other => panic!("{other}"),
        };
        assert_eq!(field(SetDoc::default()), "suction.typed");
        assert_eq!(
            field(SetDoc {
                suction: typed(1.0, "degF"),
                ..SetDoc::default()
            }),
            "suction.unit"
        );
        assert_eq!(
            field(SetDoc {
                outdoor: typed(900.0, "degC"),
                ..SetDoc::default()
            }),
            "outdoor.typed"
        );
        assert_eq!(
            field(SetDoc {
                running_min: "soon".into(),
                ..SetDoc::default()
            }),
            "running_min"
        );
        assert_eq!(
            field(SetDoc {
                barometer: typed(30.0, "psia"),
                ..SetDoc::default()
            }),
            "barometer.typed"
        );
        let unknown = SetDoc {
            suction: typed(100.0, "psig"),
            suction_line: typed(50.0, "degF"),
            ..SetDoc::default()
        };
        assert_eq!(
            set(&unknown, None, SEA, 0, None).unwrap().superheat,
            None,
            "no line, no superheat"
        );
    }
}
