//! The survey as a document, and what core makes of it.

use crate::error::ApiError;
use ruhe_core::procedure::{Rating, ceiling};
use ruhe_core::quantity::{Dimension, GaugePressure, Unit, parse_number};
use ruhe_core::survey::{
    Behind, Component, Joint, JointKind, POUND_FOOT, Place, Run, Survey, Valve,
};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// A figure as typed, with its unit.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Typed {
    pub typed: String,
    pub unit: String,
}

#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct SectionDoc {
    pub name: String,
    /// It must hold before the circuit is signed.
    pub is_tested: bool,
    /// Where its gauge sits, in words.
    #[serde(default)]
    pub gauge: String,
    /// Its volume as measured, L.
    #[serde(default)]
    pub volume_l: Option<f64>,
}

#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct ComponentDoc {
    pub name: String,
    /// indoor, line or outdoor.
    pub place: String,
    pub section: String,
    #[serde(default)]
    pub model: String,
    #[serde(default)]
    pub serial: String,
    /// Design pressure of the low side, as on the plate.
    pub low: Option<Typed>,
    /// Design pressure of the high side, or of the part.
    pub high: Option<Typed>,
    /// Somebody looked: the plate has only one figure.
    #[serde(default)]
    pub only_one: bool,
    /// Inside volume, L.
    pub volume_l: Option<f64>,
    /// Photo of the plate.
    pub photo_id: Option<String>,
}

#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct TubeDoc {
    /// A size Ruhe knows.
    pub size: String,
    /// m or ft; empty: not measured.
    pub length: Option<Typed>,
    pub section: String,
}

#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct JointDoc {
    pub name: String,
    /// flare, braze, press, thread or core.
    pub kind: String,
    pub section: String,
    /// The maker's torque, Nm or lbft.
    pub torque: Option<Typed>,
    #[serde(default)]
    pub is_torqued: bool,
}

#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct ValveDoc {
    pub name: String,
    pub section: String,
    pub is_shut: bool,
    /// section, air, nitrogen, vacuum, factory_charge or unknown.
    pub behind: String,
    /// Section on the far side.
    pub other: Option<String>,
}

/// What the technician wrote down.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(default)]
pub struct SurveyDoc {
    pub sections: Vec<SectionDoc>,
    pub components: Vec<ComponentDoc>,
    pub tubes: Vec<TubeDoc>,
    pub joints: Vec<JointDoc>,
    pub valves: Vec<ValveDoc>,
    /// The circuit's charge: g, kg, oz or lb.
    pub charge: Option<Typed>,
}

#[derive(Debug, Deserialize, ToSchema)]
pub struct SurveyInput {
    pub survey: SurveyDoc,
    /// The version it was made from.
    pub version: i64,
}

#[derive(Debug, Serialize, ToSchema)]
pub struct RatingView {
    pub name: String,
    pub pa: f64,
}

/// What is known of a section under test.
#[derive(Debug, Serialize, ToSchema)]
pub struct SectionView {
    pub name: String,
    pub is_tested: bool,
    pub gauge: String,
    /// Sections gas reaches from here.
    pub reached: Vec<String>,
    pub volume_low_l: f64,
    pub volume_high_l: f64,
    pub volume_is_measured: bool,
    pub ratings: Vec<RatingView>,
    /// Lowest plate, Pa gauge.
    pub ceiling_pa: Option<f64>,
    pub ceiling_name: Option<String>,
    /// Shut valves that bound it, each with what stands behind, in words.
    pub bounds: Vec<String>,
    pub missing: Vec<String>,
    /// The pressure each procedure for a hold begins with here; filled in for a circuit.
    pub begin: Vec<BeginView>,
}

#[derive(Debug, Serialize, ToSchema)]
pub struct BeginView {
    /// Code of the procedure.
    pub procedure: String,
    /// Pa gauge, never above what binds.
    pub pa: f64,
}

#[derive(Debug, Serialize, ToSchema)]
pub struct SurveyView {
    pub version: i64,
    pub survey: SurveyDoc,
    pub sections: Vec<SectionView>,
    pub charge_g: Option<f64>,
}

fn of_unit(t: &Typed, field: &str, units: &[(&str, f64)]) -> Result<f64, ApiError> {
    let value = parse_number(&t.typed)
        .map_err(|e| ApiError::wrong(&format!("{field}.typed"), e.to_string()))?;
    let all = || units.iter().map(|u| u.0).collect::<Vec<_>>().join(", ");
    let factor = units
        .iter()
        .find(|u| u.0 == t.unit)
        .map(|u| u.1)
        .ok_or_else(|| {
            ApiError::wrong(
                &format!("{field}.unit"),
                format!("“{}” is not one of {}", t.unit, all()),
            )
        })?;
    if value.is_finite() && value > 0.0 {
        Ok(value * factor)
    } else {
        Err(ApiError::wrong(
            &format!("{field}.typed"),
            "this must be above zero",
        ))
    }
}

fn pressure(t: &Typed, field: &str) -> Result<GaugePressure, ApiError> {
    let unit = Unit::from_code(&t.unit)
        .filter(|u| u.info().dimension == Dimension::Pressure)
        .ok_or_else(|| {
            ApiError::wrong(
                &format!("{field}.unit"),
                format!("“{}” is not a unit of pressure", t.unit),
            )
        })?;
    if unit.is_absolute() {
        return Err(ApiError::wrong(
            &format!("{field}.unit"),
            format!(
                "“{}” is an absolute unit; a plate gives a gauge pressure: type it in psig, psi, bar, kPa or MPa",
                t.unit
            ),
        ));
    }
    let pa = unit
        .parse(&t.typed)
        .map_err(|e| ApiError::wrong(&format!("{field}.typed"), e.to_string()))?;
    if pa > 0.0 {
        Ok(GaugePressure::from_pa(pa))
    } else {
        Err(ApiError::wrong(
            &format!("{field}.typed"),
            "a plate rating is above zero",
        ))
    }
}

fn name(text: &str, field: &str) -> Result<String, ApiError> {
    match text.trim() {
        "" => Err(ApiError::wrong(field, "this must be filled in")),
        t if t.chars().count() > 120 => Err(ApiError::wrong(field, "at most 120 letters")),
        t => Ok(t.into()),
    }
}

impl SurveyDoc {
    /// What is known of a circuit: nothing where nobody has made a survey yet.
    pub fn as_known(&self) -> Result<Survey, ApiError> {
        if self.sections.is_empty() {
            return Ok(Survey::default());
        }
        self.parse()
    }

    /// Core's survey, or what is wrong and where.
    pub fn parse(&self) -> Result<Survey, ApiError> {
        let (mut sections, mut measured): (Vec<String>, Vec<(String, f64)>) =
            (Vec::new(), Vec::new());
        for (i, s) in self.sections.iter().enumerate() {
            let field = format!("sections.{i}.name");
            let n = name(&s.name, &field)?;
            if sections.contains(&n) {
                return Err(ApiError::wrong(
                    &field,
                    "two sections cannot have the same name",
                ));
            }
            if let Some(l) = s.volume_l {
                if !(l.is_finite() && l > 0.0) {
                    return Err(ApiError::wrong(
                        &format!("sections.{i}.volume_l"),
                        "the volume must be above zero",
                    ));
                }
                measured.push((n.clone(), l));
            }
            sections.push(n);
        }
        if sections.is_empty() {
            return Err(ApiError::wrong(
                "sections",
                "a circuit has at least one section",
            ));
        }
        let section = |s: &str, field: &str| {
            sections
                .iter()
                .find(|x| *x == s.trim())
                .cloned()
                .ok_or_else(|| ApiError::wrong(field, format!("there is no section “{s}”")))
        };
        macro_rules! code {
            ($ty:ident, $text:expr, $field:expr) => {
                $ty::from_code($text).ok_or_else(|| {
                    ApiError::wrong(
                        &$field,
                        format!("“{}” is not one of {}", $text, $ty::codes()),
                    )
                })?
            };
        }
        let components = self
            .components
            .iter()
            .enumerate()
            .map(|(i, c)| {
                let at = |f: &str| format!("components.{i}.{f}");
                if c.volume_l.is_some_and(|v| !(v.is_finite() && v > 0.0)) {
                    return Err(ApiError::wrong(
                        &at("volume_l"),
                        "the volume must be above zero",
                    ));
                }
                Ok(Component {
                    name: name(&c.name, &at("name"))?,
                    place: code!(Place, &c.place, at("place")),
                    section: section(&c.section, &at("section"))?,
                    low: c
                        .low
                        .as_ref()
                        .map(|t| pressure(t, &at("low")))
                        .transpose()?,
                    high: c
                        .high
                        .as_ref()
                        .map(|t| pressure(t, &at("high")))
                        .transpose()?,
                    only_one: c.only_one,
                    volume_l: c.volume_l,
                })
            })
            .collect::<Result<_, ApiError>>()?;
        let runs = self
            .tubes
            .iter()
            .enumerate()
            .map(|(i, t)| {
                let at = |f: &str| format!("tubes.{i}.{f}");
                if ruhe_core::matter::tube::Tube::from_code(&t.size).is_none() {
                    return Err(ApiError::wrong(
                        &at("size"),
                        format!("“{}” is not a size Ruhe knows", t.size),
                    ));
                }
                let length_m = t
                    .length
                    .as_ref()
                    .map(|l| of_unit(l, &at("length"), &[("m", 1.0), ("ft", 0.3048)]))
                    .transpose()?;
                Ok(Run {
                    size: t.size.clone(),
                    length_m,
                    section: section(&t.section, &at("section"))?,
                })
            })
            .collect::<Result<_, ApiError>>()?;
        let joints = self
            .joints
            .iter()
            .enumerate()
            .map(|(i, j)| {
                let at = |f: &str| format!("joints.{i}.{f}");
                Ok(Joint {
                    name: name(&j.name, &at("name"))?,
                    kind: code!(JointKind, &j.kind, at("kind")),
                    section: section(&j.section, &at("section"))?,
                    torque_nm: j
                        .torque
                        .as_ref()
                        .map(|t| of_unit(t, &at("torque"), &[("Nm", 1.0), ("lbft", POUND_FOOT)]))
                        .transpose()?,
                    is_torqued: j.is_torqued,
                })
            })
            .collect::<Result<_, ApiError>>()?;
        let valves = self
            .valves
            .iter()
            .enumerate()
            .map(|(i, v)| {
                let at = |f: &str| format!("valves.{i}.{f}");
                let behind = code!(Behind, &v.behind, at("behind"));
                let other = v
                    .other
                    .as_deref()
                    .filter(|_| behind == Behind::Section)
                    .map(|s| section(s, &at("other")))
                    .transpose()?;
                if behind == Behind::Section && other.is_none() {
                    return Err(ApiError::wrong(
                        &at("other"),
                        "say which section stands behind it",
                    ));
                }
                Ok(Valve {
                    name: name(&v.name, &at("name"))?,
                    section: section(&v.section, &at("section"))?,
                    is_shut: v.is_shut,
                    behind,
                    other,
                })
            })
            .collect::<Result<_, ApiError>>()?;
        if let Some(c) = &self.charge {
            of_unit(c, "charge", MASSES)?;
        }
        Ok(Survey {
            sections,
            components,
            runs,
            joints,
            valves,
            measured,
        })
    }
    pub fn charge_g(&self) -> Option<f64> {
        self.charge
            .as_ref()
            .and_then(|c| of_unit(c, "charge", MASSES).ok())
    }
    pub fn view(self, version: i64) -> Result<SurveyView, ApiError> {
        let survey = self.parse()?;
        let sections = self
            .sections
            .iter()
            .map(|s| {
                let volume = survey.volume(&s.name);
                let ratings: Vec<Rating> = survey
                    .ratings(&s.name)
                    .into_iter()
                    .map(|(n, p)| Rating::plate(&n, p))
                    .collect();
                let lowest = ceiling(&ratings);
                SectionView {
                    is_tested: s.is_tested,
                    gauge: s.gauge.clone(),
                    reached: survey
                        .reached(&s.name)
                        .into_iter()
                        .map(Into::into)
                        .collect(),
                    volume_low_l: volume.low,
                    volume_high_l: volume.high,
                    volume_is_measured: volume.is_measured,
                    ceiling_pa: lowest.map(|r| r.most.pa()),
                    ceiling_name: lowest.map(|r| r.name.clone()),
                    ratings: ratings
                        .iter()
                        .map(|r| RatingView {
                            name: r.name.clone(),
                            pa: r.most.pa(),
                        })
                        .collect(),
                    bounds: survey
                        .bounds(&s.name)
                        .into_iter()
                        .map(|v| {
                            format!(
                                "{} shut, behind it {}",
                                v.name,
                                if v.behind == Behind::Section {
                                    v.other.as_deref().unwrap_or("another section")
                                } else {
                                    v.behind.title()
                                }
                            )
                        })
                        .collect(),
                    missing: survey.missing(&s.name),
                    begin: vec![],
                    name: s.name.clone(),
                }
            })
            .collect();
        Ok(SurveyView {
            version,
            sections,
            charge_g: self.charge_g(),
            survey: self,
        })
    }
}

/// Units of mass, g (NIST SP 811, 2008, appendix B.8).
const MASSES: &[(&str, f64)] = &[
    ("g", 1.0),
    ("kg", 1e3),
    ("oz", 28.349_523_125),
    ("lb", 453.592_37),
];
