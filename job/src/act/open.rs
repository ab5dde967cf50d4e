//! Taking a job on: a site, a system, its circuits with their plates.

use crate::log::{Deed, Is, Opened};
use crate::procedure::JobKind;
use crate::refusal::{Refusal, filled};
use crate::survey::{
    ComponentDoc, Location, SectionDoc, SurveyDoc, Typed, ValveDoc, usual_sections, with_ids,
};
use serde::Deserialize;

/// Longest name, letters.
const NAME: usize = 200;

/// A rating plate.
#[derive(Debug, Clone, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PlateInput {
    /// Of which part.
    pub part: String,
    /// The low side's figure, as read from the plate.
    #[serde(default)]
    pub low: String,
    /// The high side's, or the only one there is.
    #[serde(default)]
    pub high: String,
    /// Unit of both.
    pub unit: String,
    /// Somebody looked: the plate has only one figure.
    #[serde(default)]
    pub only_one: bool,
}

/// A circuit.
#[derive(Debug, Clone, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CircuitInput {
    /// Letter on the unit.
    pub tag: String,
    /// What it is called.
    pub name: String,
    /// Kind of job.
    pub kind: JobKind,
    /// Refrigerant.
    pub refrigerant: String,
    /// Safety class, of one that is not in the list: A1, A2L, A2, A3, B1, B2L; empty: nobody knows.
    #[serde(default)]
    pub safety_class: String,
    /// What is under test, in words.
    #[serde(default)]
    pub scope: String,
    /// Its volume, L, if known.
    pub volume_l: Option<f64>,
    /// Its plates.
    pub plates: Vec<PlateInput>,
}

/// A job.
#[derive(Debug, Clone, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[allow(missing_docs)]
pub struct JobInput {
    /// A known site …
    pub site_id: Option<String>,
    /// … or a new one.
    pub site_name: Option<String>,
    pub site_place: Option<String>,
    pub system_name: String,
    #[serde(default)]
    pub model: String,
    #[serde(default)]
    pub serial: String,
    pub circuits: Vec<CircuitInput>,
}

/// A job as it is kept: the site, if it is a new one, and a log for each circuit.
#[derive(Debug)]
pub struct OpenedJob {
    /// For the log of the sites.
    pub site: Vec<Deed>,
    /// Id and first deeds of each circuit.
    pub circuits: Vec<(String, Vec<Deed>)>,
}

/// Takes a job on. `known`: name and place of the site that it names; `id`: of the job, from which those of its
/// circuits follow.
///
/// # Errors
/// What is missing or cannot be, with its field.
pub fn open_job(
    b: &JobInput,
    known: Option<(String, String)>,
    id: &str,
) -> Result<OpenedJob, Refusal> {
    let system = filled("system_name", &b.system_name, NAME)?;
    if b.circuits.is_empty() {
        return Err(Refusal::wrong(
            "circuits",
            "a job needs at least one circuit",
        ));
    }
    let (site_id, (site, place), deeds) = match (&b.site_id, known) {
        (Some(id), Some(known)) => (id.clone(), known, vec![]),
        (Some(_), None) => return Err(Refusal::wrong("site_id", "there is no such site")),
        (None, _) => {
            let name = filled("site_name", b.site_name.as_deref().unwrap_or(""), NAME)?;
            let place = b.site_place.as_deref().unwrap_or("").trim().to_owned();
            let site = format!("{id}.site");
            let kept = Deed::SiteKept {
                site: site.clone(),
                name: name.clone(),
                place: place.clone(),
            };
            (site, (name, place), vec![kept])
        }
    };
    let mut circuits: Vec<(String, Vec<Deed>)> = Vec::new();
    for (i, c) in b.circuits.iter().enumerate() {
        let at = format!("circuits.{i}");
        if b.circuits[..i].iter().any(|o| o.tag.trim() == c.tag.trim()) {
            return Err(Refusal::wrong(
                &format!("{at}.tag"),
                "two circuits of one system cannot carry the same letter",
            ));
        }
        let survey = first_survey(c).map_err(|e| e.within(&at))?;
        let opened = opened(c, b).map_err(|e| e.within(&at))?;
        let deed = Deed::Opened(Opened {
            site_id: site_id.clone(),
            site: site.clone(),
            place: place.clone(),
            system_id: format!("{id}.system"),
            system: system.clone(),
            ..opened
        });
        let surveyed = Deed::Surveyed { version: 1, survey };
        circuits.push((format!("{id}-{}", i + 1), vec![deed, surveyed]));
    }
    Ok(OpenedJob {
        site: deeds,
        circuits,
    })
}

fn opened(c: &CircuitInput, b: &JobInput) -> Result<Opened, Refusal> {
    if !c.kind.is_system() {
        return Err(Refusal::wrong(
            "kind",
            "a rig belongs to the kit; register it there",
        ));
    }
    let is = checked(Is {
        system: b.system_name.clone(),
        tag: c.tag.clone(),
        name: c.name.clone(),
        job: c.kind,
        refrigerant: c.refrigerant.clone(),
        safety_class: c.safety_class.clone(),
        model: b.model.clone(),
        serial: b.serial.clone(),
        scope: c.scope.clone(),
        volume_l: c.volume_l,
    })?;
    Ok(Opened {
        site_id: String::new(),
        site: String::new(),
        place: String::new(),
        system_id: String::new(),
        system: is.system,
        model: is.model,
        serial: is.serial,
        tag: is.tag,
        name: is.name,
        job: is.job,
        refrigerant: is.refrigerant,
        safety_class: is.safety_class,
        scope: is.scope,
        volume_l: is.volume_l,
    })
}

/// What a circuit is, as it was typed: trimmed, and refused where something is missing or cannot be.
pub(super) fn checked(is: Is) -> Result<Is, Refusal> {
    if is.volume_l.is_some_and(|v| !(v.is_finite() && v > 0.0)) {
        return Err(Refusal::wrong("volume_l", "the volume must be above zero"));
    }
    Ok(Is {
        system: filled("system_name", &is.system, NAME)?,
        tag: filled("tag", &is.tag, NAME)?,
        name: filled("name", &is.name, NAME)?,
        job: is.job,
        refrigerant: filled("refrigerant", &is.refrigerant, NAME)?,
        safety_class: class(&is.safety_class)?,
        model: is.model.trim().into(),
        serial: is.serial.trim().into(),
        scope: is.scope.trim().into(),
        volume_l: is.volume_l,
    })
}

/// Safety classes of ASHRAE 34.
const CLASSES: [&str; 8] = ["A1", "A2L", "A2", "A3", "B1", "B2L", "B2", "B3"];

fn class(text: &str) -> Result<String, Refusal> {
    match text.trim() {
        "" => Ok(String::new()),
        t if CLASSES.contains(&t) => Ok(t.into()),
        t => Err(Refusal::wrong(
            "safety_class",
            format!("“{t}” is not one of {}", CLASSES.join(", ")),
        )),
    }
}

/// The first survey: the sections this kind of job usually has, with the plates that were typed; the rest is added when
/// it is known.
fn first_survey(c: &CircuitInput) -> Result<SurveyDoc, Refusal> {
    let (sections, valves) = usual_sections(c.kind);
    let section_of = |place: Location| {
        sections
            .iter()
            .find(|(_, _, places)| places.contains(&place))
            .or(sections.first())
            .map_or("", |s| s.0)
    };
    let components = c
        .plates
        .iter()
        .enumerate()
        .map(|(j, p)| plate(p, section_of).map_err(|e| e.within(&format!("plates.{j}"))))
        .collect::<Result<_, _>>()?;
    let mut survey = SurveyDoc {
        sections: sections
            .iter()
            .map(|(name, is_tested, _)| SectionDoc {
                name: (*name).into(),
                is_tested: *is_tested,
                ..SectionDoc::default()
            })
            .collect(),
        valves: valves
            .into_iter()
            .map(|v| ValveDoc {
                id: String::new(),
                name: v.name,
                section: v.section,
                is_shut: v.is_shut,
                behind: v.behind,
                other: v.other,
            })
            .collect(),
        components,
        ..SurveyDoc::default()
    };
    with_ids("valves", &mut survey.valves, &[], 1)?;
    survey.parse().map_err(as_plate)?;
    Ok(survey)
}

/// A fault of the first survey named by the field of the job.
fn as_plate(e: Refusal) -> Refusal {
    match e {
        Refusal::Wrong { field, message } => Refusal::Wrong {
            field: field.map(|f| {
                f.replace("components", "plates")
                    .replace(".typed", "")
                    .replace("name", "part")
            }),
            message,
        },
        other => other,
    }
}

fn plate<'a>(
    p: &PlateInput,
    section_of: impl Fn(Location) -> &'a str,
) -> Result<ComponentDoc, Refusal> {
    let place = place_of(&p.part);
    let typed = |text: &str| {
        Some(text.trim()).filter(|t| !t.is_empty()).map(|t| Typed {
            typed: t.into(),
            unit: p.unit.clone(),
        })
    };
    let (low, high) = (typed(&p.low), typed(&p.high));
    if high.is_none() && low.is_none() {
        return Err(Refusal::wrong(
            "high",
            "type the design pressure of the high side as the plate gives it",
        ));
    }
    if (low.is_none() || high.is_none()) && !p.only_one {
        let field = if low.is_none() { "low" } else { "high" };
        return Err(Refusal::wrong(
            field,
            format!(
                "type the {field} side’s figure too, or say that there is only one on the plate"
            ),
        ));
    }
    Ok(ComponentDoc {
        name: filled("part", &p.part, NAME)?,
        place,
        section: section_of(place).into(),
        low,
        high,
        only_one: p.only_one,
        ..ComponentDoc::default()
    })
}

/// Where a part stands, guessed from its name; the survey can say otherwise.
fn place_of(part: &str) -> Location {
    let part = part.to_lowercase();
    let has = |words: &[&str]| words.iter().any(|w| part.contains(w));
    if has(&["indoor", "evaporator", "coil", "cassette"]) {
        Location::Indoor
    } else if has(&["outdoor", "condens", "compressor", "unit"]) {
        Location::Outdoor
    } else {
        Location::Line
    }
}
