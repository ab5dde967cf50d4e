//! The survey as a document, and what core makes of it.
#![allow(missing_docs)] // a field says what its name says

use super::{Component, Joint, JointKind, Location, POUND_FOOT, Survey, TubeRun, Valve};
use crate::procedure::{Rating, ceiling};
use crate::refusal::{Refusal, filled};
use ruhe_core::matter::tube::TubeSize;
use ruhe_core::quantity::{Dimension, GaugePressure, Unit, parse_number};
use ruhe_core::reading::Behind;
use serde::{Deserialize, Serialize};

/// A figure as typed, with its unit.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Typed {
    pub typed: String,
    pub unit: String,
}

#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
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

#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ComponentDoc {
    pub name: String,
    pub place: Location,
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

#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct TubeDoc {
    /// A size Ruhe knows.
    pub size: String,
    /// m or ft; empty: not measured.
    pub length: Option<Typed>,
    pub section: String,
}

#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct JointDoc {
    /// It stays when the joint is renamed; empty: a new one.
    #[serde(default)]
    pub id: String,
    pub name: String,
    pub kind: JointKind,
    pub section: String,
    /// The maker's torque, Nm or lbft.
    pub torque: Option<Typed>,
    #[serde(default)]
    pub is_torqued: bool,
}

#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ValveDoc {
    /// It stays when the valve is renamed; empty: a new one.
    #[serde(default)]
    pub id: String,
    pub name: String,
    pub section: String,
    pub is_shut: bool,
    pub behind: Behind,
    /// Section on the far side.
    pub other: Option<String>,
}

/// What the technician wrote down.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(default)]
pub struct SurveyDoc {
    pub sections: Vec<SectionDoc>,
    pub components: Vec<ComponentDoc>,
    pub tubes: Vec<TubeDoc>,
    pub joints: Vec<JointDoc>,
    pub valves: Vec<ValveDoc>,
    /// The circuit's charge: g, kg, oz, lb, or lb and oz.
    pub charge: Option<Typed>,
}

#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RatingView {
    pub name: String,
    pub pa: f64,
}

/// What is known of a section under test.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
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
    /// A test above this needs a procedure of its own, Pa gauge.
    pub strength_above_pa: Option<f64>,
    pub ceiling_name: Option<String>,
    /// Shut valves that bound it, each with what stands behind, in words.
    pub bounds: Vec<String>,
    pub missing: Vec<String>,
    /// The pressure each procedure for a hold begins with here; filled in for a circuit.
    pub begin: Vec<BeginView>,
}

#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct BeginView {
    /// Code of the procedure.
    pub procedure: String,
    /// Pa gauge, never above what binds.
    pub pa: f64,
}

#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SurveyView {
    pub version: i64,
    pub survey: SurveyDoc,
    pub sections: Vec<SectionView>,
    pub charge_g: Option<f64>,
}

/// A torque as typed, N·m.
///
/// # Errors
/// If it is none, or its unit is neither Nm nor lbft.
pub fn newton_metres(t: &Typed) -> Result<f64, Refusal> {
    of_unit(t, "torque", TORQUES)
}

fn of_unit(t: &Typed, field: &str, units: &[(&str, f64)]) -> Result<f64, Refusal> {
    let value = parse_number(&t.typed)
        .map_err(|e| Refusal::wrong(&format!("{field}.typed"), e.to_string()))?;
    let all = || units.iter().map(|u| u.0).collect::<Vec<_>>().join(", ");
    let factor = units
        .iter()
        .find(|u| u.0 == t.unit)
        .map(|u| u.1)
        .ok_or_else(|| {
            Refusal::wrong(
                &format!("{field}.unit"),
                format!("“{}” is not one of {}", t.unit, all()),
            )
        })?;
    if value.is_finite() && value > 0.0 {
        Ok(value * factor)
    } else {
        Err(Refusal::wrong(
            &format!("{field}.typed"),
            "this must be above zero",
        ))
    }
}

fn pressure(t: &Typed, field: &str) -> Result<GaugePressure, Refusal> {
    let unit = Unit::from_code(&t.unit)
        .filter(|u| u.info().dimension == Dimension::Pressure)
        .ok_or_else(|| {
            Refusal::wrong(
                &format!("{field}.unit"),
                format!("“{}” is not a unit of pressure", t.unit),
            )
        })?;
    if unit.is_absolute() {
        return Err(Refusal::wrong(
            &format!("{field}.unit"),
            format!(
                "“{}” is an absolute unit; a plate gives a gauge pressure: type it in psig, psi, bar, kPa or MPa",
                t.unit
            ),
        ));
    }
    let pa = unit
        .parse(&t.typed)
        .map_err(|e| Refusal::wrong(&format!("{field}.typed"), e.to_string()))?;
    if pa > 0.0 {
        Ok(GaugePressure::from_pa(pa))
    } else {
        Err(Refusal::wrong(
            &format!("{field}.typed"),
            "a plate rating is above zero",
        ))
    }
}

/// Longest name, letters.
const NAME: usize = 120;

fn above_zero(v: Option<f64>, field: impl Fn() -> String) -> Result<(), Refusal> {
    match v.filter(|v| !(v.is_finite() && *v > 0.0)) {
        Some(_) => Err(Refusal::wrong(&field(), "the volume must be above zero")),
        None => Ok(()),
    }
}

/// Names of the sections, to look up where a part lies.
struct Sections(Vec<String>);

impl Sections {
    fn find(&self, name: &str, field: &str) -> Result<String, Refusal> {
        self.0
            .iter()
            .find(|x| *x == name.trim())
            .cloned()
            .ok_or_else(|| Refusal::wrong(field, format!("there is no section “{name}”")))
    }
}

/// One thing of each row, with the path of its fields.
fn each<T, U>(
    list: &str,
    rows: &[T],
    of: impl Fn(&T, &dyn Fn(&str) -> String) -> Result<U, Refusal>,
) -> Result<Vec<U>, Refusal> {
    rows.iter()
        .enumerate()
        .map(|(i, row)| of(row, &|field| format!("{list}.{i}.{field}")))
        .collect()
}

impl SurveyDoc {
    /// What is known of a circuit: nothing where nobody has made a survey yet.
    ///
    /// # Errors
    /// As [`SurveyDoc::parse`].
    pub fn as_known(&self) -> Result<Survey, Refusal> {
        if self.sections.is_empty() {
            return Ok(Survey::default());
        }
        self.parse()
    }

    /// The survey as it is worked with.
    ///
    /// # Errors
    /// What is wrong and where.
    pub fn parse(&self) -> Result<Survey, Refusal> {
        let sections = self.parse_sections()?;
        let out = Survey {
            components: each("components", &self.components, |c, at| {
                above_zero(c.volume_l, || at("volume_l"))?;
                let side = |t: &Option<Typed>, field: &str| {
                    t.as_ref().map(|t| pressure(t, &at(field))).transpose()
                };
                Ok(Component {
                    name: filled(&at("name"), &c.name, NAME)?,
                    place: c.place,
                    section: sections.find(&c.section, &at("section"))?,
                    low: side(&c.low, "low")?,
                    high: side(&c.high, "high")?,
                    only_one: c.only_one,
                    volume_l: c.volume_l,
                })
            })?,
            runs: each("tubes", &self.tubes, |t, at| {
                if TubeSize::from_code(&t.size).is_none() {
                    return Err(Refusal::wrong(
                        &at("size"),
                        format!("“{}” is not a size Ruhe knows", t.size),
                    ));
                }
                let length = t.length.as_ref();
                Ok(TubeRun {
                    size: t.size.clone(),
                    length_m: length
                        .map(|l| of_unit(l, &at("length"), LENGTHS))
                        .transpose()?,
                    section: sections.find(&t.section, &at("section"))?,
                })
            })?,
            joints: each("joints", &self.joints, |j, at| {
                let torque = j.torque.as_ref();
                Ok(Joint {
                    name: filled(&at("name"), &j.name, NAME)?,
                    kind: j.kind,
                    section: sections.find(&j.section, &at("section"))?,
                    torque_nm: torque
                        .map(|t| of_unit(t, &at("torque"), TORQUES))
                        .transpose()?,
                    is_torqued: j.is_torqued,
                })
            })?,
            valves: each("valves", &self.valves, |v, at| valve(v, &sections, at))?,
            measured: self
                .sections
                .iter()
                .filter_map(|s| Some((s.name.trim().to_owned(), s.volume_l?)))
                .collect(),
            sections: sections.0,
        };
        if let Some(c) = &self.charge {
            crate::charge::mass_above_zero(c, "charge")?;
        }
        Ok(out)
    }

    fn parse_sections(&self) -> Result<Sections, Refusal> {
        let mut out: Vec<String> = Vec::new();
        for (i, s) in self.sections.iter().enumerate() {
            let field = format!("sections.{i}.name");
            let n = filled(&field, &s.name, NAME)?;
            if out.contains(&n) {
                return Err(Refusal::wrong(
                    &field,
                    "two sections cannot have the same name",
                ));
            }
            above_zero(s.volume_l, || format!("sections.{i}.volume_l"))?;
            out.push(n);
        }
        if out.is_empty() {
            return Err(Refusal::wrong(
                "sections",
                "a circuit has at least one section",
            ));
        }
        Ok(Sections(out))
    }

    /// The circuit's charge, g.
    #[must_use]
    pub fn charge_g(&self) -> Option<f64> {
        self.charge
            .as_ref()
            .and_then(|c| crate::charge::mass_above_zero(c, "charge").ok())
            .map(ruhe_core::quantity::Mass::g)
    }

    /// As the page shows it.
    ///
    /// # Errors
    /// As [`SurveyDoc::parse`].
    pub fn view(self, version: i64) -> Result<SurveyView, Refusal> {
        let survey = self.parse()?;
        let sections = self
            .sections
            .iter()
            .map(|s| section_view(s, &survey))
            .collect();
        Ok(SurveyView {
            version,
            sections,
            charge_g: self.charge_g(),
            survey: self,
        })
    }
}

/// Units of length, m (NIST SP 811, 2008, appendix B.8).
const LENGTHS: &[(&str, f64)] = &[("m", 1.0), ("ft", 0.3048)];
/// Units of torque, N·m.
const TORQUES: &[(&str, f64)] = &[("Nm", 1.0), ("lbft", POUND_FOOT)];

fn valve(v: &ValveDoc, sections: &Sections, at: &dyn Fn(&str) -> String) -> Result<Valve, Refusal> {
    let is_section = v.behind == Behind::Section;
    let other = v
        .other
        .as_deref()
        .filter(|_| is_section)
        .map(|s| sections.find(s, &at("other")))
        .transpose()?;
    if is_section && other.is_none() {
        return Err(Refusal::wrong(
            &at("other"),
            "say which section stands behind it",
        ));
    }
    Ok(Valve {
        name: filled(&at("name"), &v.name, NAME)?,
        section: sections.find(&v.section, &at("section"))?,
        is_shut: v.is_shut,
        behind: v.behind,
        other,
    })
}

fn section_view(s: &SectionDoc, survey: &Survey) -> SectionView {
    let volume = survey.volume(&s.name);
    let ratings: Vec<Rating> = survey
        .ratings(&s.name)
        .into_iter()
        .map(|(n, p)| Rating::plate(&n, p))
        .collect();
    let lowest = ceiling(&ratings);
    let bound = |v: &Valve| {
        let behind = if v.behind == Behind::Section {
            v.other.as_deref().unwrap_or("another section")
        } else {
            v.behind.title()
        };
        format!("{} shut, behind it {behind}", v.name)
    };
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
        strength_above_pa: lowest.map(|r| r.most_asked().pa()),
        ceiling_name: lowest.map(|r| r.name.clone()),
        ratings: ratings
            .iter()
            .map(|r| RatingView {
                name: r.name.clone(),
                pa: r.most.pa(),
            })
            .collect(),
        bounds: survey.bounds(&s.name).into_iter().map(bound).collect(),
        missing: survey.missing(&s.name),
        begin: vec![],
        name: s.name.clone(),
    }
}
