//! The kit as JSON: things with their facts, what a test used of it, and the rig put together from it.

use super::{TestRow, Typed};
use crate::error::ApiError;
use ruhe_core::flow::{Pump, Rig, Tube};
use ruhe_core::kit::{Arranged, FlowUnit, Hose, KitKind, assemble, litres};
use ruhe_core::quantity::{Dimension, MICRON, Unit, parse_number};
use ruhe_core::reading::Principle;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// A thing of the kit. Which fields it has depends on what it is.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(default)]
pub struct KitDoc {
    /// vacuum_gauge, pressure_gauge, probe, pump, hose, core_tool, bottle or rig.
    pub kind: String,
    pub name: String,
    /// Gauges and probes: unit its figures are in.
    pub unit: String,
    /// thermal or diaphragm (vacuum gauges).
    pub principle: Option<String>,
    /// In its unit.
    pub resolution: Option<f64>,
    pub accuracy: Option<f64>,
    pub range: Option<f64>,
    /// Day its calibration runs out, ISO 8601.
    pub calibration_due: Option<String>,
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
    pub parts: Vec<String>,
    pub note: String,
    /// No longer in use.
    pub is_retired: bool,
}

/// A thing as the page shows it.
#[derive(Debug, Serialize, ToSchema)]
pub struct KitItem {
    pub id: String,
    pub kind_title: String,
    /// Its facts in words.
    pub words: String,
    /// Of a rig: its last finished check, in words.
    pub checked: Option<String>,
    /// Something to mind: a calibration that has run out, hoses that gave off gas.
    pub warning: Option<String>,
    pub changed_ms: i64,
    pub doc: KitDoc,
    /// Blank-off tests, of a rig.
    pub tests: Vec<TestRow>,
}

#[derive(Debug, Serialize, ToSchema)]
pub struct KitView {
    pub items: Vec<KitItem>,
}

/// What a test used, as it was then.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct KitUsed {
    pub id: String,
    pub kind: String,
    pub name: String,
    pub words: String,
}

/// How the rig is put together for a test.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, ToSchema)]
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

fn day(field: &str, text: Option<&String>) -> Result<(), ApiError> {
    match text.map(|t| t.trim()).filter(|t| !t.is_empty()) {
        Some(t) if t.parse::<jiff::civil::Date>().is_err() => Err(ApiError::wrong(
            field,
            format!("“{t}” is not a date such as 2027-03-31"),
        )),
        _ => Ok(()),
    }
}

fn positive(field: &str, typed: &Typed) -> Result<f64, ApiError> {
    let value = parse_number(&typed.typed)
        .map_err(|e| ApiError::wrong(field, format!("“{}” {e}", typed.typed)))?;
    if value > 0.0 {
        Ok(value)
    } else {
        Err(ApiError::wrong(
            field,
            format!("{field} must be above zero"),
        ))
    }
}

impl KitDoc {
    /// Refuses what cannot be used, naming the field.
    pub fn check(&self) -> Result<KitKind, ApiError> {
        let kind = KitKind::from_code(&self.kind).ok_or_else(|| {
            ApiError::wrong(
                "kind",
                format!("the kind must be one of {}", KitKind::codes()),
            )
        })?;
        if self.name.trim().is_empty() || self.name.chars().count() > 80 {
            return Err(ApiError::wrong(
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
                return Err(ApiError::wrong(
                    name,
                    format!("{} must be above zero", name.replace('_', " ")),
                ));
            }
        }
        if let Some(p) = self
            .principle
            .as_deref()
            .filter(|p| Principle::from_code(p).is_none())
        {
            return Err(ApiError::wrong(
                "principle",
                format!("“{p}” is not one of {}", Principle::codes()),
            ));
        }
        if matches!(
            kind,
            KitKind::VacuumGauge | KitKind::PressureGauge | KitKind::Probe
        ) && Unit::from_code(&self.unit).is_none()
        {
            return Err(ApiError::wrong(
                "unit",
                format!("“{}” is not a unit Ruhe knows", self.unit),
            ));
        }
        if kind == KitKind::PressureGauge
            && Unit::from_code(&self.unit).is_some_and(Unit::is_absolute)
        {
            return Err(ApiError::wrong(
                "unit",
                format!(
                    "“{}” is an absolute unit, and this gauge is read above the air: psig, psi, bar, kPa or MPa",
                    self.unit
                ),
            ));
        }
        day("calibration_due", self.calibration_due.as_ref())?;
        day("oil_changed", self.oil_changed.as_ref())?;
        match kind {
            KitKind::Pump => {
                self.pump()?;
            }
            KitKind::Hose if self.bore_mm.is_none() => {
                return Err(ApiError::wrong(
                    "bore_mm",
                    "a hose needs its bore: it decides how fast it pumps",
                ));
            }
            KitKind::Hose if self.length_m.is_none() => {
                return Err(ApiError::wrong("length_m", "a hose needs its length"));
            }
            KitKind::Rig if self.parts.is_empty() => {
                return Err(ApiError::wrong(
                    "parts",
                    "a rig needs at least a pump or a hose",
                ));
            }
            _ => {}
        }
        Ok(kind)
    }
    /// A pump's speed and what it reaches: 50 micron if nobody said (common practice, no source).
    pub fn pump(&self) -> Result<Pump, ApiError> {
        let flow = self
            .flow
            .as_ref()
            .ok_or_else(|| ApiError::wrong("flow", "a pump needs its flow"))?;
        let unit = FlowUnit::from_code(&flow.unit).ok_or_else(|| {
            ApiError::wrong(
                "flow",
                format!("the flow must be in one of {}", FlowUnit::codes()),
            )
        })?;
        let ultimate = match &self.ultimate {
            None => 50.0 * MICRON,
            Some(t) => Unit::from_code(&t.unit)
                .filter(|u| u.info().dimension == Dimension::Pressure)
                .ok_or_else(|| {
                    ApiError::wrong(
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
    pub fn hose(&self) -> Option<Hose> {
        (self.kind == KitKind::Hose.code()).then_some(())?;
        Some(Hose {
            name: self.name.clone(),
            tube: Tube::mm(self.bore_mm?, self.length_m?),
        })
    }
    /// Its facts in words.
    pub fn words(&self) -> String {
        let mut out: Vec<String> = Vec::new();
        let unit = Unit::from_code(&self.unit).map_or("", |u| u.info().label);
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
        match self.principle.as_deref().and_then(Principle::from_code) {
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
        out.extend(filled(&self.calibration_due).map(|d| format!("calibrated until {d}")));
        out.extend(
            Some(self.note.trim())
                .filter(|n| !n.is_empty())
                .map(str::to_owned),
        );
        out.join(", ")
    }
    /// Its calibration has run out on this day.
    pub fn is_overdue(&self, today: jiff::civil::Date) -> bool {
        self.calibration_due
            .as_deref()
            .and_then(|d| d.trim().parse::<jiff::civil::Date>().ok())
            .is_some_and(|d| d < today)
    }
}

/// The rig from its pieces, with its volume; `None` without a pump or a hose.
pub fn rig_of(parts: &[KitDoc], how: &RigInput) -> Result<Option<(Rig, f64)>, ApiError> {
    let Some(pump) = parts.iter().find(|p| p.kind == KitKind::Pump.code()) else {
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
