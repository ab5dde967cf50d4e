//! The kit as JSON: things with their facts, what a test used of it, and the rig put together from it.
#![allow(missing_docs)] // a field says what its name says

use super::{Arranged, FlowUnit, Hose, KitKind, RigChecked, SentBy, assemble, litres};
use crate::refusal::Refusal;
use crate::survey::Typed;
use ruhe_core::flow::{Pump, Rig, Tube};
use ruhe_core::quantity::{Dimension, MICRON, Unit, parse_number};
use ruhe_core::reading::Principle;
use serde::{Deserialize, Serialize};

/// A thing of the kit. Which fields it has depends on what it is.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct KitDoc {
    pub kind: KitKind,
    #[serde(default)]
    pub name: String,
    /// Gauges and probes: unit its figures are in.
    pub unit: Option<Unit>,
    /// Of a vacuum gauge.
    pub principle: Option<Principle>,
    /// In its unit.
    pub resolution: Option<f64>,
    pub accuracy: Option<f64>,
    pub range: Option<f64>,
    /// Day its calibration runs out, ISO 8601.
    pub calibration_due: Option<String>,
    /// As the maker numbered it.
    pub serial: Option<String>,
    /// Number of its last certificate.
    pub certificate: Option<String>,
    /// Id of a photo of that certificate.
    pub certificate_photo: Option<String>,
    /// Gauges and probes that send by themselves: as which gauge of the door.
    pub sends: Option<SentBy>,
    /// It switches itself off after so long, min.
    pub auto_off_min: Option<f64>,
    /// Pump: flow in l/min, m3/h or cfm.
    pub flow: Option<Typed>,
    /// Pump: what it should reach blanked off, a vacuum.
    pub ultimate: Option<Typed>,
    /// Pump: day its oil was changed, ISO 8601.
    pub oil_changed: Option<String>,
    /// Hose: inside diameter, mm.
    pub bore_mm: Option<f64>,
    /// Hose: length, m.
    pub length_m: Option<f64>,
    /// Bottle: volume, L.
    pub volume_l: Option<f64>,
    /// Rig: ids of its pump, hoses and tools.
    #[serde(default)]
    pub parts: Vec<String>,
    #[serde(default)]
    pub note: String,
    /// No longer in use.
    #[serde(default)]
    pub is_retired: bool,
}

/// What a test used, as it was then.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct KitUsed {
    pub id: String,
    pub doc: KitDoc,
    /// Of a rig: its last finished check.
    #[cfg_attr(feature = "schema", schema(value_type = Option<Object>))]
    pub checked: Option<RigChecked>,
}

/// How the rig is put together for a test.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(default)]
pub struct RigInput {
    /// A rig of the kit.
    pub rig_id: Option<String>,
    /// Two hoses on two ports.
    pub side_by_side: bool,
    pub core_tool: bool,
    /// The valve core was left in.
    pub core_in: bool,
    pub tees: u32,
}

fn day(field: &str, text: Option<&String>) -> Result<(), Refusal> {
    match text.map(|t| t.trim()).filter(|t| !t.is_empty()) {
        Some(t) if t.parse::<jiff::civil::Date>().is_err() => Err(Refusal::wrong(
            field,
            format!("“{t}” is not a date such as 2027-03-31"),
        )),
        _ => Ok(()),
    }
}

fn positive(field: &str, typed: &Typed) -> Result<f64, Refusal> {
    let value = parse_number(&typed.typed)
        .map_err(|e| Refusal::wrong(field, format!("“{}” {e}", typed.typed)))?;
    if value > 0.0 {
        Ok(value)
    } else {
        Err(Refusal::wrong(field, format!("{field} must be above zero")))
    }
}

impl KitDoc {
    /// Refuses what cannot be used, naming the field.
    ///
    /// # Errors
    /// What cannot be.
    pub fn check(&self) -> Result<KitKind, Refusal> {
        let kind = self.kind;
        if self.name.trim().is_empty() || self.name.chars().count() > 80 {
            return Err(Refusal::wrong(
                "name",
                "it needs a name of at most 80 letters",
            ));
        }
        for (name, v) in [
            ("resolution", self.resolution),
            ("accuracy", self.accuracy),
            ("range", self.range),
            ("auto_off_min", self.auto_off_min),
            ("bore_mm", self.bore_mm),
            ("length_m", self.length_m),
            ("volume_l", self.volume_l),
        ] {
            if v.is_some_and(|v| !(v.is_finite() && v > 0.0)) {
                return Err(Refusal::wrong(
                    name,
                    format!("{} must be above zero", name.replace('_', " ")),
                ));
            }
        }
        let is_read = matches!(
            kind,
            KitKind::VacuumGauge | KitKind::PressureGauge | KitKind::Probe
        );
        if is_read && self.unit.is_none() {
            return Err(Refusal::wrong("unit", "a gauge needs the unit it shows"));
        }
        if let Some(unit) = self
            .unit
            .filter(|u| kind == KitKind::PressureGauge && u.is_absolute())
        {
            return Err(Refusal::wrong(
                "unit",
                format!(
                    "“{}” is an absolute unit, and this gauge is read above the air: psig, psi, bar, kPa or MPa",
                    unit.code()
                ),
            ));
        }
        for (name, text) in [("serial", &self.serial), ("certificate", &self.certificate)] {
            if text.as_ref().is_some_and(|t| t.chars().count() > 80) {
                return Err(Refusal::wrong(name, "at most 80 letters"));
            }
        }
        if self.sends.is_some() && !is_read {
            return Err(Refusal::wrong("sends", "only what reads something sends"));
        }
        day("calibration_due", self.calibration_due.as_ref())?;
        day("oil_changed", self.oil_changed.as_ref())?;
        match kind {
            KitKind::Pump => {
                self.pump()?;
            }
            KitKind::Hose if self.bore_mm.is_none() => {
                return Err(Refusal::wrong(
                    "bore_mm",
                    "a hose needs its bore: it decides how fast it pumps",
                ));
            }
            KitKind::Hose if self.length_m.is_none() => {
                return Err(Refusal::wrong("length_m", "a hose needs its length"));
            }
            KitKind::Rig if self.parts.is_empty() => {
                return Err(Refusal::wrong(
                    "parts",
                    "a rig needs at least a pump or a hose",
                ));
            }
            _ => {}
        }
        Ok(kind)
    }
    /// A pump's speed and what it reaches: 50 micron if nobody said (common practice, no source).
    ///
    /// # Errors
    /// What is missing.
    pub fn pump(&self) -> Result<Pump, Refusal> {
        let flow = self
            .flow
            .as_ref()
            .ok_or_else(|| Refusal::wrong("flow", "a pump needs its flow"))?;
        let unit = FlowUnit::from_code(&flow.unit).ok_or_else(|| {
            Refusal::wrong(
                "flow",
                format!("the flow must be in one of {}", FlowUnit::codes()),
            )
        })?;
        let ultimate = match &self.ultimate {
            None => 50.0 * MICRON,
            Some(t) => Unit::from_code(&t.unit)
                .filter(|u| u.info().dimension == Dimension::Pressure)
                .ok_or_else(|| {
                    Refusal::wrong(
                        "ultimate",
                        format!("“{}” is not a unit of pressure", t.unit),
                    )
                })?
                .to_si(positive("ultimate", t)?),
        };
        Ok(Pump {
            speed: unit.to_si(positive("flow", flow)?),
            ultimate,
        })
    }
    /// As a hose, if it is one.
    #[must_use]
    pub fn hose(&self) -> Option<Hose> {
        (self.kind == KitKind::Hose).then_some(())?;
        Some(Hose {
            name: self.name.clone(),
            tube: Tube::mm(self.bore_mm?, self.length_m?),
        })
    }
    /// Its facts in words.
    #[must_use]
    pub fn words(&self) -> String {
        let mut out: Vec<String> = Vec::new();
        let unit = self.unit.map_or("", |u| u.info().label);
        let mut say =
            |value: Option<f64>, words: &dyn Fn(f64) -> String| out.extend(value.map(words));
        say(self.range, &|v| format!("to {v} {unit}"));
        say(self.resolution, &|v| format!("step {v} {unit}"));
        say(self.accuracy, &|v| format!("±{v} {unit}"));
        say(self.bore_mm, &|v| format!("{v} mm bore"));
        say(self.length_m, &|v| format!("{v} m"));
        say(self.volume_l, &|v| format!("{v} L"));
        say(self.auto_off_min, &|v| format!("off after {v} min"));
        out.extend(
            self.flow
                .as_ref()
                .map(|f| format!("{} {}", f.typed, f.unit)),
        );
        out.extend(
            self.ultimate
                .as_ref()
                .map(|u| format!("reaches {} {}", u.typed, u.unit)),
        );
        match self.principle {
            Some(Principle::Thermal) => out.push("heat-loss".into()),
            Some(Principle::Diaphragm) => out.push("diaphragm".into()),
            None => {}
        }
        let filled = |t: &Option<String>| {
            t.as_deref()
                .map(str::trim)
                .filter(|t| !t.is_empty())
                .map(str::to_owned)
        };
        out.extend(filled(&self.oil_changed).map(|d| format!("oil {d}")));
        out.extend(filled(&self.serial).map(|s| format!("serial {s}")));
        out.extend(filled(&self.certificate).map(|c| format!("certificate {c}")));
        out.extend(filled(&self.calibration_due).map(|d| format!("calibrated until {d}")));
        out.extend(
            Some(self.note.trim())
                .filter(|n| !n.is_empty())
                .map(str::to_owned),
        );
        out.join(", ")
    }
    /// The day its calibration runs out, if one was said.
    #[must_use]
    pub fn due(&self) -> Option<jiff::civil::Date> {
        self.calibration_due.as_deref()?.trim().parse().ok()
    }
    /// Its calibration has run out on this day.
    #[must_use]
    pub fn is_overdue(&self, today: jiff::civil::Date) -> bool {
        self.due().is_some_and(|d| d < today)
    }
}

/// The rig from its pieces, with its volume; `None` without a pump or a hose.
///
/// # Errors
/// What a pump lacks.
pub fn rig_of(parts: &[KitDoc], how: &RigInput) -> Result<Option<(Rig, f64)>, Refusal> {
    let Some(pump) = parts.iter().find(|p| p.kind == KitKind::Pump) else {
        return Ok(None);
    };
    let hoses: Vec<Hose> = parts.iter().filter_map(KitDoc::hose).collect();
    if hoses.is_empty() {
        return Ok(None);
    }
    let arranged = Arranged {
        side_by_side: how.side_by_side && hoses.len() > 1,
        core_tool: how.core_tool,
        core_in: how.core_in,
        tees: how.tees,
    };
    Ok(Some((
        assemble(pump.pump()?, &hoses, arranged),
        litres(&hoses),
    )))
}
