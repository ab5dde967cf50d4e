//! Breaking the vacuum: with what, up to where vapour only, to what pressure, and when the cores go back.

use crate::charge::pascal;
use crate::refusal::Refusal;
use crate::survey::Typed;
use ruhe_core::matter::refrigerant::Refrigerant;
use ruhe_core::named;
use ruhe_core::quantity::Units;
use serde::{Deserialize, Serialize};

named! {
    /// With what a vacuum is broken.
    BreakWith {
        /// Dry nitrogen.
        Nitrogen = "nitrogen",
        /// The refrigerant's vapour.
        Vapour = "vapour",
        /// Its liquid.
        Liquid = "liquid",
        /// The factory charge, through the unit's own valve.
        FactoryCharge = "factory_charge",
    }
}

named! {
    /// When the cores go back.
    #[derive(Default)]
    CoresBack {
        /// Now, at positive pressure.
        #[default]
        After = "after",
        /// They went back inside a sealed tool, under vacuum.
        Sealed = "sealed_tool",
        /// They were never out.
        NeverOut = "never_out",
    }
}

impl BreakWith {
    /// Name on screen.
    #[must_use]
    pub fn title(self) -> &'static str {
        match self {
            Self::Nitrogen => "dry nitrogen",
            Self::Vapour => "refrigerant vapour",
            Self::Liquid => "refrigerant liquid",
            Self::FactoryCharge => "the factory charge, through the unit’s valve",
        }
    }
}
impl CoresBack {
    /// Name on screen.
    #[must_use]
    pub fn title(self) -> &'static str {
        match self {
            Self::After => "go back now, at positive pressure",
            Self::Sealed => "went back inside a sealed tool, under vacuum",
            Self::NeverOut => "were never out",
        }
    }
}

/// Pressure at a port afterwards.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[allow(missing_docs)]
pub struct PortPressure {
    pub port: String,
    pub pressure: Typed,
}

/// How the vacuum was broken, as typed.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(default)]
#[allow(missing_docs)]
pub struct BreakDoc {
    pub gauge_isolated: bool,
    /// With what; none: nobody said.
    pub with: Option<BreakWith>,
    /// Pressure up to which it went in as vapour.
    pub vapour_to: Option<Typed>,
    pub hose_purged: bool,
    /// A coil with water in it: a plate exchanger, a chiller.
    pub has_water_coil: bool,
    pub ports: Vec<PortPressure>,
    pub cores: CoresBack,
}

/// What stands in the way of breaking the vacuum like this. `proven`: hold and decay both stand after the last opening.
///
/// # Errors
/// What is missing, with its field.
pub fn check_break(
    d: &BreakDoc,
    r: Option<&Refrigerant>,
    proven: bool,
    atmosphere: f64,
    u: Units,
) -> Result<(), Refusal> {
    if !d.gauge_isolated {
        return Err(Refusal::wrong(
            "gauge_isolated",
            "isolate the vacuum gauge first: pressure or liquid ruins it",
        ));
    }
    let with = d
        .with
        .ok_or_else(|| Refusal::wrong("with", "say with what the vacuum was broken"))?;
    if with != BreakWith::Nitrogen && !d.hose_purged && with != BreakWith::FactoryCharge {
        return Err(Refusal::wrong(
            "hose_purged",
            "purge or evacuate the charging hose first: its air goes in with the refrigerant",
        ));
    }
    if with == BreakWith::FactoryCharge && !proven {
        return Err(Refusal::wrong(
            "with",
            "the factory charge goes in only when a hold and a decay both stand after the last opening: once it \
             is open, a leak loses it",
        ));
    }
    let needs_vapour =
        with == BreakWith::Liquid || (with != BreakWith::Nitrogen && d.has_water_coil);
    if needs_vapour {
        let guard = r.map(Refrigerant::freeze_guard);
        let told = |words: String| Refusal::wrong("vapour_to", words);
        let wanted = guard.map_or_else(
            || "the pressure the maker names".to_owned(),
            |g| u.gauge(g - atmosphere),
        );
        let why =
            "liquid into a vacuum freezes what water is left, and a coil with water in it bursts";
        let to = d
            .vapour_to
            .as_ref()
            .filter(|t| !t.typed.trim().is_empty())
            .ok_or_else(|| {
                told(format!(
                    "vapour only until {wanted}: {why}; type where liquid began"
                ))
            })?;
        let pa = pascal(to, "vapour_to", atmosphere)?;
        if let Some(g) = guard.filter(|g| pa < *g) {
            return Err(told(format!(
                "vapour only until {}: {why}; this is {}",
                u.gauge(g - atmosphere),
                u.gauge(pa - atmosphere)
            )));
        }
    }
    if d.ports.is_empty() {
        return Err(Refusal::wrong(
            "ports",
            "write down the pressure afterwards, at each port",
        ));
    }
    for (i, p) in d.ports.iter().enumerate() {
        let at = format!("ports.{i}.pressure");
        let pa = pascal(&p.pressure, &at, atmosphere)?;
        if d.cores != CoresBack::Sealed && pa <= atmosphere {
            return Err(Refusal::wrong(
                &format!("{at}.typed"),
                "that is not a positive pressure: a core put back now pulls air in",
            ));
        }
    }
    Ok(())
}

impl BreakDoc {
    /// In words, as the record gives it.
    #[must_use]
    pub fn words(&self) -> String {
        let ports: Vec<String> = self
            .ports
            .iter()
            .map(|p| format!("{} {} {}", p.port, p.pressure.typed, p.pressure.unit))
            .collect();
        let first = self
            .vapour_to
            .as_ref()
            .filter(|t| self.with != Some(BreakWith::Nitrogen) && !t.typed.trim().is_empty())
            .map_or_else(String::new, |t| {
                format!(", vapour first to {} {}", t.typed, t.unit)
            });
        format!(
            "with {}{first}; {}; cores {}",
            self.with.map_or("nobody said what", BreakWith::title),
            ports.join(", "),
            self.cores.title()
        )
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use ruhe_core::matter::refrigerant::find;

    fn typed(text: &str) -> Typed {
        Typed {
            typed: text.into(),
            unit: "psig".into(),
        }
    }
    fn doc(with: BreakWith) -> BreakDoc {
        BreakDoc {
            gauge_isolated: true,
            hose_purged: true,
            with: Some(with),
            ports: vec![PortPressure {
                port: "suction".into(),
                pressure: typed("3"),
            }],
            ..BreakDoc::default()
        }
    }
    fn check(d: &BreakDoc, proven: bool) -> Result<(), String> {
        check_break(d, find("R-410A"), proven, 101_325.0, Units::default())
            .map_err(|e| e.to_string())
    }

    #[test]
    fn what_each_way_needs() {
        check(&doc(BreakWith::Nitrogen), false).unwrap();
        check(&doc(BreakWith::Vapour), false).unwrap();
        assert!(
            check(
                &BreakDoc {
                    gauge_isolated: false,
                    ..doc(BreakWith::Nitrogen)
                },
                true
            )
            .unwrap_err()
            .contains("gauge")
        );
        assert!(
            check(
                &BreakDoc {
                    hose_purged: false,
                    ..doc(BreakWith::Vapour)
                },
                true
            )
            .unwrap_err()
            .contains("hose")
        );
        assert!(
            check(&doc(BreakWith::FactoryCharge), false)
                .unwrap_err()
                .contains("hold and a decay")
        );
        check(&doc(BreakWith::FactoryCharge), true).unwrap();
        let flat = BreakDoc {
            ports: vec![PortPressure {
                port: "x".into(),
                pressure: typed("0"),
            }],
            ..doc(BreakWith::Nitrogen)
        };
        assert!(check(&flat, true).unwrap_err().contains("positive"));
        check(
            &BreakDoc {
                cores: CoresBack::Sealed,
                ..flat
            },
            true,
        )
        .unwrap();
    }

    /// R-410A: dew at 36 °F is 109 psig (CoolProp 8.0.0).
    #[test]
    fn vapour_only_up_to_the_freeze_guard() {
        let to = |with, p: &str, water| BreakDoc {
            vapour_to: Some(typed(p)),
            has_water_coil: water,
            ..doc(with)
        };
        assert!(
            check(&doc(BreakWith::Liquid), true)
                .unwrap_err()
                .contains("109")
        );
        assert!(
            check(&to(BreakWith::Liquid, "100", false), true)
                .unwrap_err()
                .contains("109")
        );
        check(&to(BreakWith::Liquid, "112", false), true).unwrap();
        assert!(
            check(&to(BreakWith::FactoryCharge, "60", true), true)
                .unwrap_err()
                .contains("bursts")
        );
        assert!(
            check(
                &BreakDoc {
                    has_water_coil: true,
                    ..doc(BreakWith::Vapour)
                },
                true
            )
            .is_err()
        );
    }
}
