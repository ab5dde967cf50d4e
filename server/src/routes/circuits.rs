//! New jobs, one circuit, confirmed steps.

use super::signing::{gate_views, states_of};
use super::summary::{Known, Of, all_of, run};
use crate::error::ApiError;
use crate::judge::units_of;
use crate::state::{AppState, fresh_id, now_ms};
use crate::wire::{
    CircuitInput, CircuitView, ComponentDoc, JobCreated, JobInput, RungView, SectionDoc, SignatureView, StageView, StepInput, StepKind, StepView, SurveyDoc, Typed,
    UnitsQuery,
};
use actix_web::{HttpResponse, get, post, web};
use ruhe_core::argue::{rung, rung_of_rise};
use ruhe_core::procedure::{JobKind, Stage, Step, cautions};
use ruhe_core::reading::Kind;
use ruhe_core::signoff::State;
use ruhe_core::survey::Place;
use ruhe_store::{NewJob, rows};

fn filled<'a>(field: &str, text: &'a str) -> Result<&'a str, ApiError> {
    match text.trim() {
        "" => Err(ApiError::wrong(field, "this must be filled in")),
        t if t.chars().count() > 200 => Err(ApiError::wrong(field, "at most 200 letters")),
        t => Ok(t),
    }
}

fn circuit_rows(system: &str, i: usize, c: &CircuitInput) -> Result<(rows::Circuit, String), ApiError> {
    let at = |f: &str| format!("circuits.{i}.{f}");
    if !JobKind::from_code(&c.kind).is_some_and(JobKind::is_system) {
        return Err(ApiError::wrong(&at("kind"), format!("the job kind must be one of {}", JobKind::codes())));
    }
    if c.volume_l.is_some_and(|v| !(v.is_finite() && v > 0.0)) {
        return Err(ApiError::wrong(&at("volume_l"), "the volume must be above zero"));
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
    // The first survey: one section with the plates that were typed; the rest is added when it is known.
    let section = "whole circuit";
    let mut survey = SurveyDoc { sections: vec![SectionDoc { name: section.into(), is_tested: true, gauge: String::new(), volume_l: None }], ..SurveyDoc::default() };
    for (j, p) in c.plates.iter().enumerate() {
        let at = |f: &str| format!("circuits.{i}.plates.{j}.{f}");
        survey.components.push(ComponentDoc {
            name: filled(&at("part"), &p.part)?.into(),
            place: place_of(&p.part).code().into(),
            section: section.into(),
            high: Some(Typed { typed: p.typed.trim().into(), unit: p.unit.clone() }),
            ..ComponentDoc::default()
        });
    }
    survey.parse().map_err(|e| match e {
        ApiError::Wrong { field, message } => {
            ApiError::Wrong { field: field.map(|f| format!("circuits.{i}.{}", f.replace("components", "plates").replace("high.", "").replace("name", "part"))), message }
        }
        other => other,
    })?;
    Ok((circuit, serde_json::to_string(&survey).map_err(|e| ApiError::Inside(e.to_string()))?))
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
pub async fn add_job(state: web::Data<AppState>, body: web::Json<JobInput>) -> Result<HttpResponse, ApiError> {
    let b = body.into_inner();
    let system = rows::System {
        id: fresh_id(),
        site_id: String::new(),
        name: filled("system_name", &b.system_name)?.into(),
        model: b.model.trim().into(),
        serial: b.serial.trim().into(),
    };
    if b.circuits.is_empty() {
        return Err(ApiError::wrong("circuits", "a job needs at least one circuit"));
    }
    let circuits = b.circuits.iter().enumerate().map(|(i, c)| circuit_rows(&system.id, i, c)).collect::<Result<Vec<_>, _>>()?;
    for (i, (c, _)) in circuits.iter().enumerate() {
        if circuits[..i].iter().any(|(o, _)| o.tag == c.tag) {
            return Err(ApiError::wrong(&format!("circuits.{i}.tag"), "two circuits of one system cannot carry the same letter"));
        }
    }
    let ids: Vec<String> = circuits.iter().map(|(c, _)| c.id.clone()).collect();
    state
        .work(move |s| {
            let site = match b.site_id {
                Some(id) => s.store.sites()?.into_iter().find(|x| x.id == id).ok_or_else(|| ApiError::wrong("site_id", "there is no such site"))?,
                None => rows::Site {
                    id: fresh_id(),
                    name: filled("site_name", b.site_name.as_deref().unwrap_or(""))?.into(),
                    place: b.site_place.unwrap_or_default().trim().into(),
                },
            };
            let system = rows::System { site_id: site.id.clone(), ..system };
            Ok(s.store.add_job(&NewJob { site, system, circuits })?)
        })
        .await?;
    Ok(HttpResponse::Created().json(JobCreated { circuit_ids: ids }))
}

/// A leak that a decay shows with this probability is drawn as one.
const SURE: f64 = 0.95;

fn is_done(stage: Stage, tests: &[Known], steps: &[rows::Step]) -> bool {
    let confirmed = |s: Step| steps.iter().any(|r| r.step == s.code());
    let passed = |k: Kind, word: &str| tests.iter().rev().find(|t| t.row.kind == k.code()).is_some_and(|t| t.ended_ms.is_some() && t.verdict().outcome == word);
    match stage {
        Stage::Hold => passed(Kind::PressureHold, "holds"),
        Stage::Decay => passed(Kind::VacuumDecay, "passes"),
        // Nothing to search for once the last hold holds.
        Stage::Search => passed(Kind::PressureHold, "holds"),
        Stage::SignOff => false,
        other => other.steps().iter().all(|s| confirmed(*s)),
    }
}

/// The stage a circuit is at: that of its running test, the search after a fall that nobody has mended, else the first
/// that is not done. `None`: signed.
pub fn current_stage(circuit: &rows::Circuit, tests: &[Known], steps: &[rows::Step], repairs: &[rows::Repair], is_signed: bool) -> Option<Stage> {
    if is_signed {
        return None;
    }
    let running = tests.iter().rev().find(|t| t.ended_ms.is_none()).and_then(|t| stage_of(&t.row.kind));
    let stages = JobKind::from_code(&circuit.kind).map_or_else(Vec::new, JobKind::stages);
    let holds: Vec<&Known> = tests.iter().filter(|t| t.ended_ms.is_some() && t.row.kind == Kind::PressureHold.code()).collect();
    let mended = repairs.iter().any(|r| usize::try_from(r.holds_before).is_ok_and(|n| n >= holds.len()));
    let searching = holds.last().is_some_and(|t| t.verdict().outcome == "falls") && !mended;
    running.or(searching.then_some(Stage::Search)).or_else(|| stages.into_iter().find(|s| !is_done(*s, tests, steps)))
}

fn stage_of(kind: &str) -> Option<Stage> {
    match Kind::from_code(kind)? {
        Kind::PressureHold | Kind::LeakBy => Some(Stage::Hold),
        Kind::RigCheck => Some(Stage::RigCheck),
        Kind::PullDown => Some(Stage::Evacuate),
        Kind::VacuumDecay => Some(Stage::Decay),
    }
}

fn stage_views(circuit: &rows::Circuit, tests: &[Known], steps: &[rows::Step], repairs: &[rows::Repair], is_signed: bool) -> Vec<StageView> {
    let now = current_stage(circuit, tests, steps, repairs, is_signed);
    let kind = JobKind::from_code(&circuit.kind).unwrap_or(JobKind::NewSplit);
    kind.stages()
        .into_iter()
        .map(|stage| StageView {
            code: stage.code().into(),
            title: stage.title().into(),
            state: if Some(stage) == now {
                "now"
            } else if is_signed || is_done(stage, tests, steps) {
                "done"
            } else {
                "ahead"
            }
            .into(),
            cautions: cautions(stage, &circuit.refrigerant),
            step_kinds: stage.steps().iter().map(|s| StepKind { code: s.code().into(), title: s.title().into(), hint: s.hint().into() }).collect(),
            steps: steps
                .iter()
                .filter_map(|r| {
                    let step = Step::from_code(&r.step).filter(|s| stage.steps().contains(s))?;
                    Some(StepView { step: r.step.clone(), title: step.title().into(), note: r.note.clone(), at_ms: r.at_ms })
                })
                .collect(),
            tests: tests.iter().filter(|t| stage_of(&t.row.kind) == Some(stage)).map(Known::row_view).collect(),
        })
        .collect()
}

/// Everything of one circuit but its readings.
pub fn circuit_view(s: &AppState, id: &str, units: ruhe_core::quantity::Units) -> Result<CircuitView, ApiError> {
    let place = s.store.circuit(id)?;
    let tests = all_of(s, id, units)?;
    let steps = s.store.steps(id)?;
    let signature = s.store.signature(id)?;
    let (doc, version) = super::survey::survey_of(s, id)?;
    let repairs = s.store.repairs(id)?;
    let search = super::search::search_view(s, &place.circuit, &doc, &repairs, &tests, units)?;
    let gates = gate_views(s, &place.circuit, &Of { tests: &tests, steps: &steps, survey: &doc, search: &search, repairs: &repairs })?;
    let survey = doc.view(version)?;
    let c = &place.circuit;
    Ok(CircuitView {
        id: c.id.clone(),
        tag: c.tag.clone(),
        name: c.name.clone(),
        kind: c.kind.clone(),
        kind_title: JobKind::from_code(&c.kind).map_or("", JobKind::title).into(),
        refrigerant: c.refrigerant.clone(),
        scope: c.scope.clone(),
        volume_l: c.volume_l,
        site: place.site.name.clone(),
        place: place.site.place.clone(),
        system: place.system.name.clone(),
        model: place.system.model.clone(),
        serial: place.system.serial.clone(),
        evacuated_s: tests.iter().rev().find_map(|t| t.verdict().pull.as_ref()?.pulls.last().map(|p| (p.to_s - p.from_s).round())),
        ladder: tests.iter().filter_map(|t| rung_view(t, &c.refrigerant, survey.charge_g)).collect(),
        survey,
        search,
        stages: stage_views(c, &tests, &steps, &repairs, signature.is_some()),
        allowed_states: states_of(&gates),
        gates,
        signature: signature.map(|g| SignatureView {
            state_title: State::from_code(&g.state).map_or("", State::title).into(),
            name: g.name,
            role: g.role,
            statement: g.statement,
            state: g.state,
            at_ms: g.at_ms,
            digest: g.digest,
        }),
        run: run(&tests, &steps, &repairs),
    })
}

/// A finished test's rung on the leak ladder: a hold's, or a decay's.
fn rung_view(t: &Known, refrigerant: &str, charge_g: Option<f64>) -> Option<RungView> {
    t.ended_ms?;
    let r = match (&t.verdict().hold, &t.judged.decay) {
        (Some(hold), _) => {
            let p = hold.leaks.as_ref().or(hold.proves.as_ref())?;
            rung((p.low_g_per_year, p.high_g_per_year), hold.leaks.is_some(), charge_g)
        }
        (_, Some(d)) => {
            let is_leak = d.leak_probability? > SURE;
            let rate = if is_leak { d.leak_rate?.value } else { d.hidden_pa_s? };
            let s = &t.judged.recording().settings;
            let litres = s.volume_l.map(|l| (l, l)).or(s.volume_band_l).unwrap_or((3.0, 8.0));
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
pub async fn show_circuit(state: web::Data<AppState>, id: web::Path<String>, q: web::Query<UnitsQuery>) -> Result<web::Json<CircuitView>, ApiError> {
    let units = units_of(&q);
    Ok(web::Json(state.work(move |s| circuit_view(s, &id, units)).await?))
}

/// Confirms a step with words.
#[utoipa::path(request_body = StepInput, responses((status = 201)))]
#[post("/api/circuits/{id}/steps")]
pub async fn add_step(state: web::Data<AppState>, id: web::Path<String>, body: web::Json<StepInput>) -> Result<HttpResponse, ApiError> {
    let (id, b) = (id.into_inner(), body.into_inner());
    if Step::from_code(&b.step).is_none() {
        return Err(ApiError::wrong("step", format!("the step must be one of {}", Step::codes())));
    }
    let circuit = id.clone();
    state
        .work(move |s| {
            s.store.circuit(&id)?;
            Ok(s.store.add_step(&rows::Step { id: fresh_id(), circuit_id: id, step: b.step, note: b.note.trim().chars().take(2000).collect(), at_ms: now_ms() })?)
        })
        .await?;
    state.changed(&circuit, None);
    Ok(HttpResponse::Created().finish())
}
