//! New jobs, one circuit, confirmed steps.

use super::dossier::Dossier;
use super::signing::{gate_views, states_of};
use super::summary::{Known, run};
use crate::error::ApiError;
use crate::judge::units_of;
use crate::state::{AppState, fresh_id, now_ms};
use crate::wire::{
    BeginView, CautionView, CircuitInput, CircuitView, ComponentDoc, JobCreated, JobInput,
    RungView, SchoolView, SectionDoc, SignatureView, StageView, StepInput, StepView, SurveyDoc,
    Typed, UnitsQuery, ValveDoc,
};
use actix_web::{HttpResponse, get, post, web};
use ruhe_core::argue::{rung, rung_of_rise};
use ruhe_core::hold::HoldOutcome;
use ruhe_core::matter::atmosphere::SEA_LEVEL;
use ruhe_core::matter::refrigerant::{find, treat_as_flammable};
use ruhe_core::procedure::{
    BEFORE_TORCH, JobKind, Rating, Stage, Step, cautions, default_test_pressure,
};
use ruhe_core::quantity::{GaugePressure, Units};
use ruhe_core::reading::Kind;
use ruhe_core::signoff::{Gate, GateCode, State};
use ruhe_core::survey::{Place, usual_sections};
use ruhe_store::{NewJob, rows};

fn filled<'a>(field: &str, text: &'a str) -> Result<&'a str, ApiError> {
    match text.trim() {
        "" => Err(ApiError::wrong(field, "this must be filled in")),
        t if t.chars().count() > 200 => Err(ApiError::wrong(field, "at most 200 letters")),
        t => Ok(t),
    }
}

fn circuit_rows(
    system: &str,
    i: usize,
    c: &CircuitInput,
) -> Result<(rows::Circuit, String), ApiError> {
    let at = |f: &str| format!("circuits.{i}.{f}");
    if !JobKind::from_code(&c.kind).is_some_and(JobKind::is_system) {
        return Err(ApiError::wrong(
            &at("kind"),
            format!("the job kind must be one of {}", JobKind::codes()),
        ));
    }
    if c.volume_l.is_some_and(|v| !(v.is_finite() && v > 0.0)) {
        return Err(ApiError::wrong(
            &at("volume_l"),
            "the volume must be above zero",
        ));
    }
    let circuit = rows::Circuit {
        id: fresh_id(),
        system_id: system.into(),
        tag: filled(&at("tag"), &c.tag)?.into(),
        name: filled(&at("name"), &c.name)?.into(),
        kind: c.kind.clone(),
        refrigerant: filled(&at("refrigerant"), &c.refrigerant)?.into(),
        scope: c.scope.trim().into(),
        volume_l: c.volume_l,
        created_ms: now_ms() + i as i64,
    };
    // The first survey: the sections this kind of job usually has, with the plates that were typed; the rest is added
    // when it is known.
    let kind = JobKind::from_code(&c.kind).unwrap_or(JobKind::NewSplit);
    let (sections, valves) = usual_sections(kind);
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
                name: v.name,
                section: v.section,
                is_shut: v.is_shut,
                behind: v.behind.code().into(),
                other: v.other,
            })
            .collect(),
        ..SurveyDoc::default()
    };
    for (j, p) in c.plates.iter().enumerate() {
        let at = |f: &str| format!("circuits.{i}.plates.{j}.{f}");
        let place = place_of(&p.part);
        let section = sections
            .iter()
            .find(|(_, _, places)| places.contains(&place))
            .or(sections.first())
            .map_or("", |s| s.0);
        let typed = |text: &str| {
            Some(text.trim()).filter(|t| !t.is_empty()).map(|t| Typed {
                typed: t.into(),
                unit: p.unit.clone(),
            })
        };
        let (low, high) = (typed(&p.low), typed(&p.high));
        if high.is_none() && low.is_none() {
            return Err(ApiError::wrong(
                &at("high"),
                "type the design pressure of the high side as the plate gives it",
            ));
        }
        if (low.is_none() || high.is_none()) && !p.only_one {
            let field = if low.is_none() { "low" } else { "high" };
            return Err(ApiError::wrong(
                &at(field),
                format!(
                    "type the {field} side’s figure too, or say that there is only one on the plate"
                ),
            ));
        }
        survey.components.push(ComponentDoc {
            name: filled(&at("part"), &p.part)?.into(),
            place: place.code().into(),
            section: section.into(),
            low,
            high,
            only_one: p.only_one,
            ..ComponentDoc::default()
        });
    }
    survey.parse().map_err(|e| match e {
        ApiError::Wrong { field, message } => ApiError::Wrong {
            field: field.map(|f| {
                format!(
                    "circuits.{i}.{}",
                    f.replace("components", "plates")
                        .replace(".typed", "")
                        .replace("name", "part")
                )
            }),
            message,
        },
        other => other,
    })?;
    Ok((
        circuit,
        serde_json::to_string(&survey).map_err(|e| ApiError::Inside(e.to_string()))?,
    ))
}

/// Where a part stands, guessed from its name; the survey can say otherwise.
fn place_of(part: &str) -> Place {
    let part = part.to_lowercase();
    let has = |words: &[&str]| words.iter().any(|w| part.contains(w));
    if has(&["indoor", "evaporator", "coil", "cassette"]) {
        Place::Indoor
    } else if has(&["outdoor", "condens", "compressor", "unit"]) {
        Place::Outdoor
    } else {
        Place::Line
    }
}

/// A new job: site, system, circuits with their plates.
#[utoipa::path(request_body = JobInput, responses((status = 201, body = JobCreated)))]
#[post("/api/jobs")]
pub async fn add_job(
    state: web::Data<AppState>,
    body: web::Json<JobInput>,
) -> Result<HttpResponse, ApiError> {
    let b = body.into_inner();
    let system = rows::System {
        id: fresh_id(),
        site_id: String::new(),
        name: filled("system_name", &b.system_name)?.into(),
        model: b.model.trim().into(),
        serial: b.serial.trim().into(),
    };
    if b.circuits.is_empty() {
        return Err(ApiError::wrong(
            "circuits",
            "a job needs at least one circuit",
        ));
    }
    let circuits = b
        .circuits
        .iter()
        .enumerate()
        .map(|(i, c)| circuit_rows(&system.id, i, c))
        .collect::<Result<Vec<_>, _>>()?;
    for (i, (c, _)) in circuits.iter().enumerate() {
        if circuits[..i].iter().any(|(o, _)| o.tag == c.tag) {
            return Err(ApiError::wrong(
                &format!("circuits.{i}.tag"),
                "two circuits of one system cannot carry the same letter",
            ));
        }
    }
    let ids: Vec<String> = circuits.iter().map(|(c, _)| c.id.clone()).collect();
    state
        .work(move |s| {
            let site = match b.site_id {
                Some(id) => s
                    .store
                    .sites()?
                    .into_iter()
                    .find(|x| x.id == id)
                    .ok_or_else(|| ApiError::wrong("site_id", "there is no such site"))?,
                None => rows::Site {
                    id: fresh_id(),
                    name: filled("site_name", b.site_name.as_deref().unwrap_or(""))?.into(),
                    place: b.site_place.unwrap_or_default().trim().into(),
                },
            };
            let system = rows::System {
                site_id: site.id.clone(),
                ..system
            };
            Ok(s.store.add_job(&NewJob {
                site,
                system,
                circuits,
            })?)
        })
        .await?;
    Ok(HttpResponse::Created().json(JobCreated { circuit_ids: ids }))
}

/// A leak that a decay shows with this probability is drawn as one.
const SURE: f64 = 0.95;

fn is_done(stage: Stage, d: &Dossier, gates: &[Gate]) -> bool {
    let met = |code: GateCode| gates.iter().filter(|g| g.code == code).all(|g| g.met);
    let holds = || met(GateCode::Hold) && met(GateCode::Retest);
    match stage {
        Stage::Hold => holds(),
        // Nothing to search for once every section holds and no place is open.
        Stage::Search => holds() && met(GateCode::Search),
        Stage::Decay => met(GateCode::Decay),
        Stage::Release => {
            d.pressure_left().is_none() && stage.steps().iter().any(|s| d.has_confirmed(*s))
        }
        Stage::SignOff => false,
        other => other.steps().iter().all(|s| d.has_confirmed(*s)),
    }
}

/// The stage a circuit is at: that of its running test, the search after a fall or a find that nobody has mended, else
/// the first that is not done. `None`: signed.
pub fn current_stage(d: &Dossier, gates: &[Gate]) -> Option<Stage> {
    if d.signature.is_some() {
        return None;
    }
    let running = d
        .tests
        .iter()
        .rev()
        .find(|t| t.ended_ms.is_none())
        .and_then(|t| stage_of(&t.row.kind));
    let holds = d.holds();
    let fell = holds.last().filter(|h| h.outcome == HoldOutcome::Falls);
    let mended = fell.is_some_and(|h| d.repairs.iter().any(|r| r.at_ms >= h.from_ms));
    let searching = fell.is_some() && !mended;
    running.or(searching.then_some(Stage::Search)).or_else(|| {
        d.kind()
            .stages()
            .into_iter()
            .find(|s| !is_done(*s, d, gates))
    })
}

fn stage_of(kind: &str) -> Option<Stage> {
    match Kind::from_code(kind)? {
        Kind::PressureHold | Kind::LeakBy => Some(Stage::Hold),
        Kind::RigCheck => Some(Stage::RigCheck),
        Kind::PullDown => Some(Stage::Evacuate),
        Kind::VacuumDecay => Some(Stage::Decay),
    }
}

fn stage_views(d: &Dossier, gates: &[Gate]) -> Vec<StageView> {
    let now = current_stage(d, gates);
    let is_signed = d.signature.is_some();
    let has_refrigerant = d.refrigerant_in().is_some();
    d.kind()
        .stages()
        .into_iter()
        .map(|stage| StageView {
            code: stage.code().into(),
            title: stage.title().into(),
            state: if Some(stage) == now {
                "now"
            } else if is_signed || is_done(stage, d, gates) {
                "done"
            } else {
                "ahead"
            }
            .into(),
            cautions: cautions(stage, &d.place.circuit.refrigerant, has_refrigerant)
                .into_iter()
                .map(|c| CautionView {
                    words: c.words.into(),
                    can_kill: c.can_kill,
                })
                .collect(),
            step_kinds: stage.steps().iter().map(|s| (*s).into()).collect(),
            steps: d
                .steps
                .iter()
                .filter_map(|r| {
                    let step = Step::from_code(&r.step).filter(|s| stage.steps().contains(s))?;
                    Some(StepView {
                        step: r.step.clone(),
                        title: step.title().into(),
                        note: r.note.clone(),
                        at_ms: r.at_ms,
                    })
                })
                .collect(),
            tests: d
                .tests
                .iter()
                .filter(|t| stage_of(&t.row.kind) == Some(stage))
                .map(Known::row_view)
                .collect(),
        })
        .collect()
}

/// Everything of one circuit but its readings.
pub fn circuit_view(s: &AppState, id: &str, units: Units) -> Result<CircuitView, ApiError> {
    let d = Dossier::read(s, id, units)?;
    let core_gates = d.gates();
    let stages = stage_views(&d, &core_gates);
    let gates = gate_views(s, &d, core_gates)?;
    let search = super::search::search_view(&d, units);
    let mut survey = d.doc.clone().view(d.version)?;
    let schools = super::procedures::procedures(s)?;
    for section in &mut survey.sections {
        let plates: Vec<Rating> = d
            .survey
            .ratings(&section.name)
            .into_iter()
            .map(|(n, p)| Rating::plate(&n, p))
            .collect();
        let begin = |p: &SchoolView| {
            let pa = default_test_pressure(
                p.pressure_pa.map(GaugePressure::from_pa),
                p.share_of_plate,
                &plates,
            )?
            .pa();
            Some(BeginView {
                procedure: p.code.clone(),
                pa,
            })
        };
        section.begin = schools
            .iter()
            .filter(|p| p.kind == Kind::PressureHold.code())
            .filter_map(begin)
            .collect();
    }
    let c = &d.place.circuit;
    Ok(CircuitView {
        id: c.id.clone(),
        tag: c.tag.clone(),
        name: c.name.clone(),
        kind: c.kind.clone(),
        kind_title: JobKind::from_code(&c.kind)
            .map_or("", JobKind::title)
            .into(),
        refrigerant: c.refrigerant.clone(),
        is_flammable: treat_as_flammable(&c.refrigerant),
        scope: c.scope.clone(),
        volume_l: c.volume_l,
        site: d.place.site.name.clone(),
        place: d.place.site.place.clone(),
        system: d.place.system.name.clone(),
        model: d.place.system.model.clone(),
        serial: d.place.system.serial.clone(),
        evacuated_s: d.tests.iter().rev().find_map(|t| {
            t.verdict()
                .pull
                .as_ref()?
                .pulls
                .last()
                .map(|p| (p.to_s - p.from_s).round())
        }),
        ladder: d
            .tests
            .iter()
            .filter_map(|t| rung_view(t, &c.refrigerant, survey.charge_g))
            .collect(),
        pressure_left: d.pressure_left().map(|(test, pa)| {
            format!(
                "{test} still showed {} and nobody has confirmed its release.",
                units.gauge(pa)
            )
        }),
        refrigerant_in: d.refrigerant_in().map(Into::into),
        freeze_guard_pa: find(&c.refrigerant).map(|r| r.freeze_guard() - SEA_LEVEL.pa()),
        torch_caution: BEFORE_TORCH.words.into(),
        survey,
        search,
        stages,
        allowed_states: states_of(&gates),
        gates,
        run: run(&d.tests, &d.steps, &d.repairs),
        signature: d.signature.map(|g| SignatureView {
            state_title: State::from_code(&g.state).map_or("", State::title).into(),
            name: g.name,
            role: g.role,
            statement: g.statement,
            state: g.state,
            at_ms: g.at_ms,
            digest: g.digest,
        }),
    })
}

/// A finished test's rung on the leak ladder: a hold's, or a decay's.
fn rung_view(t: &Known, refrigerant: &str, charge_g: Option<f64>) -> Option<RungView> {
    t.ended_ms?;
    let r = match (&t.verdict().hold, &t.judged.decay) {
        (Some(hold), _) => {
            let p = hold.leaks.as_ref().or(hold.proves.as_ref())?;
            rung(
                (p.low_g_per_year, p.high_g_per_year),
                hold.leaks.is_some(),
                charge_g,
            )
        }
        (_, Some(d)) => {
            let is_leak = d.leak_probability? > SURE;
            let rate = if is_leak {
                d.leak_rate?.value
            } else {
                d.hidden_pa_s?
            };
            let s = &t.judged.recording().settings;
            let litres = s
                .volume_l
                .map(|l| (l, l))
                .or(s.volume_band_l)
                .unwrap_or((3.0, 8.0));
            rung_of_rise(rate, is_leak, litres, refrigerant, charge_g)?
        }
        _ => return None,
    };
    Some(RungView {
        test_id: t.row.id.clone(),
        title: t.title.clone(),
        is_leak: r.is_leak,
        low: r.low,
        high: r.high,
        low_percent: r.percent.map(|p| p.0),
        high_percent: r.percent.map(|p| p.1),
    })
}

/// One circuit.
#[utoipa::path(params(UnitsQuery), responses((status = 200, body = CircuitView)))]
#[get("/api/circuits/{id}")]
pub async fn show_circuit(
    state: web::Data<AppState>,
    id: web::Path<String>,
    q: web::Query<UnitsQuery>,
) -> Result<web::Json<CircuitView>, ApiError> {
    let units = units_of(&q);
    Ok(web::Json(
        state.work(move |s| circuit_view(s, &id, units)).await?,
    ))
}

/// Confirms a step with words.
#[utoipa::path(request_body = StepInput, responses((status = 201)))]
#[post("/api/circuits/{id}/steps")]
pub async fn add_step(
    state: web::Data<AppState>,
    id: web::Path<String>,
    body: web::Json<StepInput>,
) -> Result<HttpResponse, ApiError> {
    let (id, b) = (id.into_inner(), body.into_inner());
    if Step::from_code(&b.step).is_none() {
        return Err(ApiError::wrong(
            "step",
            format!("the step must be one of {}", Step::codes()),
        ));
    }
    let circuit = id.clone();
    state
        .work(move |s| {
            let d = Dossier::read(s, &id, Units::default())?;
            if let Some(test) = d.refrigerant_in().filter(|_| b.step == Step::Released.code()) {
                let why = format!("refrigerant or tracer is in the gas of {test}: recover it into a cylinder and confirm that; it is not let out");
                return Err(ApiError::wrong("step", why));
            }
            Ok(s.store.add_step(&rows::Step { id: fresh_id(), circuit_id: id, step: b.step, note: b.note.trim().chars().take(2000).collect(), at_ms: now_ms() })?)
        })
        .await?;
    state.changed(&circuit, None);
    Ok(HttpResponse::Created().finish())
}
