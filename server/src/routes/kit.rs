//! The kit: registering things, rigs with their blank-off tests, and what a test uses of it.

use super::summary::all_of;
use crate::error::ApiError;
use crate::judge::units_of;
use crate::state::{AppState, fresh_id, now_ms};
use crate::wire::{
    Created, KitDoc, KitItem, KitUsed, KitView, Plan, RigShareDoc, SectionDoc, SurveyDoc,
    UnitsQuery, rig_of,
};
use actix_web::{HttpResponse, get, post, put, web};
use ruhe_core::kit::KitKind;
use ruhe_core::procedure::JobKind;
use ruhe_core::quantity::Units;
use ruhe_core::reading::RigPart;
use ruhe_store::{NewJob, rows};

/// Site and system every rig belongs to: not a place, but their tests are kept where all tests are.
pub const SHELF: (&str, &str) = ("Kit", "Rigs");

fn doc_of(row: &rows::KitItem) -> Result<KitDoc, ApiError> {
    serde_json::from_str(&row.json)
        .map_err(|e| ApiError::Inside(format!("kit {}: {e}", row.item_id)))
}

fn items(s: &AppState, units: Units) -> Result<Vec<KitItem>, ApiError> {
    let rows = s.store.kit()?;
    let docs = rows.iter().map(doc_of).collect::<Result<Vec<_>, _>>()?;
    let name = |id: &String| {
        rows.iter()
            .position(|r| r.item_id == *id)
            .map(|i| docs[i].name.clone())
    };
    let today = jiff::tz::Offset::UTC
        .to_datetime(jiff::Timestamp::now())
        .date();
    let mut out = Vec::new();
    for (row, doc) in rows.iter().zip(&docs) {
        let is_rig = row.kind == KitKind::Rig.code();
        let tests = if is_rig {
            all_of(s, &row.item_id, units)?
                .iter()
                .map(super::summary::Known::row_view)
                .collect()
        } else {
            vec![]
        };
        let last = tests
            .iter()
            .rev()
            .find(|t: &&crate::wire::TestRow| t.ended_ms.is_some());
        let warning = if doc.is_overdue(today) {
            Some("Its calibration has run out.".to_owned())
        } else {
            last.filter(|t| ["notch", "falling"].contains(&t.shape.as_str()))
                .map(|t| {
                    format!(
                        "{}: {}. Do not judge a system through it.",
                        t.title,
                        t.word.to_lowercase()
                    )
                })
        };
        let parts: Vec<String> = doc.parts.iter().filter_map(name).collect();
        let checked =
            last.map(|t| format!("{}: {}, {}", t.title, t.word.to_lowercase(), t.headline));
        let words = if is_rig {
            parts.join(", ")
        } else {
            doc.words()
        };
        out.push(KitItem {
            id: row.item_id.clone(),
            kind_title: KitKind::from_code(&row.kind)
                .map_or("", KitKind::title)
                .into(),
            words,
            checked,
            warning,
            changed_ms: row.at_ms,
            doc: doc.clone(),
            tests,
        });
    }
    Ok(out)
}

/// The kit as it is now, rigs with their tests.
#[utoipa::path(params(UnitsQuery), responses((status = 200, body = KitView)))]
#[get("/api/kit")]
pub async fn show_kit(
    state: web::Data<AppState>,
    q: web::Query<UnitsQuery>,
) -> Result<web::Json<KitView>, ApiError> {
    let units = units_of(&q);
    Ok(web::Json(KitView {
        items: state.work(move |s| items(s, units)).await?,
    }))
}

fn save(s: &AppState, id: &str, doc: &KitDoc) -> Result<(), ApiError> {
    let known = s.store.kit()?;
    for part in &doc.parts {
        let kind = known
            .iter()
            .find(|k| k.item_id == *part)
            .map(|k| k.kind.as_str());
        if !kind.is_some_and(|k| {
            [
                KitKind::Pump.code(),
                KitKind::Hose.code(),
                KitKind::CoreTool.code(),
            ]
            .contains(&k)
        }) {
            return Err(ApiError::wrong(
                "parts",
                "a rig is made of pumps, hoses and core tools of the kit",
            ));
        }
    }
    if known.iter().any(|k| {
        k.item_id != id
            && k.kind == doc.kind
            && doc_of(k).is_ok_and(|d| d.name == doc.name && !d.is_retired)
    }) {
        return Err(ApiError::wrong(
            "name",
            format!(
                "the kit has a {} called “{}” already",
                doc.kind.replace('_', " "),
                doc.name
            ),
        ));
    }
    let json = serde_json::to_string(doc).map_err(|e| ApiError::Inside(e.to_string()))?;
    Ok(s.store.add_kit(&rows::KitItem {
        item_id: id.into(),
        kind: doc.kind.clone(),
        json,
        at_ms: now_ms(),
    })?)
}

/// A rig's tests hang on a circuit of its own, with the rig's id.
fn shelve(s: &AppState, id: &str, name: &str) -> Result<(), ApiError> {
    let all = s.store.circuits()?;
    let mut of_kit = all.iter().filter(|c| c.circuit.kind == JobKind::Kit.code());
    let tag = format!("R{}", of_kit.clone().count() + 1);
    let (site, system) = of_kit.next_back().map_or_else(
        || {
            let site = rows::Site {
                id: fresh_id(),
                name: SHELF.0.into(),
                place: String::new(),
            };
            let system = rows::System {
                id: fresh_id(),
                site_id: site.id.clone(),
                name: SHELF.1.into(),
                model: String::new(),
                serial: String::new(),
            };
            (site, system)
        },
        |c| {
            (
                c.site.clone(),
                rows::System {
                    id: fresh_id(),
                    ..c.system.clone()
                },
            )
        },
    );
    let circuit = rows::Circuit {
        id: id.into(),
        system_id: system.id.clone(),
        tag,
        name: name.into(),
        kind: JobKind::Kit.code().into(),
        refrigerant: "none".into(),
        scope: "pump, hoses and tools alone".into(),
        volume_l: None,
        created_ms: now_ms(),
    };
    let whole = SectionDoc {
        name: "the rig".into(),
        is_tested: false,
        gauge: String::new(),
        volume_l: None,
    };
    let survey = serde_json::to_string(&SurveyDoc {
        sections: vec![whole],
        ..SurveyDoc::default()
    })
    .map_err(|e| ApiError::Inside(e.to_string()))?;
    Ok(s.store.add_job(&NewJob {
        site,
        system,
        circuits: vec![(circuit, survey)],
    })?)
}

/// Registers a thing.
pub fn register(s: &AppState, mut doc: KitDoc) -> Result<String, ApiError> {
    doc.name = doc.name.trim().into();
    let kind = doc.check()?;
    let id = fresh_id();
    save(s, &id, &doc)?;
    if kind == KitKind::Rig {
        shelve(s, &id, &doc.name)?;
    }
    Ok(id)
}

/// Registers a thing of the kit.
#[utoipa::path(request_body = KitDoc, responses((status = 201, body = Created)))]
#[post("/api/kit")]
pub async fn add_kit(
    state: web::Data<AppState>,
    body: web::Json<KitDoc>,
) -> Result<HttpResponse, ApiError> {
    let doc = body.into_inner();
    let id = state.work(move |s| register(s, doc)).await?;
    Ok(HttpResponse::Created().json(Created { id }))
}

/// Changes a thing: its next version. Tests keep what it was when they used it.
#[utoipa::path(request_body = KitDoc, responses((status = 201)))]
#[put("/api/kit/{id}")]
pub async fn change_kit(
    state: web::Data<AppState>,
    id: web::Path<String>,
    body: web::Json<KitDoc>,
) -> Result<HttpResponse, ApiError> {
    let (id, mut doc) = (id.into_inner(), body.into_inner());
    state
        .work(move |s| {
            doc.name = doc.name.trim().into();
            doc.check()?;
            match s.store.kit()?.iter().find(|k| k.item_id == id) {
                None => Err(ApiError::Missing("thing of the kit".into())),
                Some(k) if k.kind != doc.kind => {
                    Err(ApiError::wrong("kind", "a thing stays what it is"))
                }
                Some(_) => save(s, &id, &doc),
            }
        })
        .await?;
    Ok(HttpResponse::Created().finish())
}

/// The plan with what it uses of the kit as it is now, the rig put together, and what the rig gives off: so that neither
/// record nor verdict changes when the kit does.
pub fn with_kit(s: &AppState, circuit: &rows::Circuit, mut plan: Plan) -> Result<Plan, ApiError> {
    let all = items(s, Units::default())?;
    let find = |id: &String| {
        all.iter()
            .find(|i| i.id == *id)
            .ok_or_else(|| ApiError::wrong("kit", "there is no such thing in the kit"))
    };
    // A rig's own check is of that rig.
    if circuit.kind == JobKind::Kit.code() {
        plan.rig.get_or_insert_default().rig_id = Some(circuit.id.clone());
    }
    let mut ids = std::mem::take(&mut plan.kit);
    let rig = plan.rig.as_ref().and_then(|r| r.rig_id.clone());
    if let Some(rig) = &rig {
        ids.push(rig.clone());
        ids.extend(find(rig)?.doc.parts.clone());
    }
    ids.dedup();
    plan.used.clear();
    for id in &ids {
        let i = find(id)?;
        if !plan.used.iter().any(|u| u.id == *id) {
            // A record that used a rig prints what its last check was worth.
            let words = [Some(i.words.clone()), i.checked.clone()]
                .into_iter()
                .flatten()
                .collect::<Vec<_>>()
                .join("; ");
            plan.used.push(KitUsed {
                id: id.clone(),
                kind: i.doc.kind.clone(),
                name: i.doc.name.clone(),
                words,
            });
        }
    }
    let docs: Vec<KitDoc> = ids
        .iter()
        .filter_map(|id| all.iter().find(|i| i.id == *id))
        .map(|i| i.doc.clone())
        .collect();
    let assembled = plan
        .rig
        .as_ref()
        .map(|how| rig_of(&docs, how))
        .transpose()?
        .flatten();
    if circuit.kind == JobKind::Kit.code() && plan.volume_l.is_none() {
        plan.volume_l = assembled.as_ref().map(|a| a.1);
    }
    if let (Some(rig), true) = (&rig, plan.hoses_in) {
        plan.rig_share = all_of(s, rig, Units::default())?
            .iter()
            .rev()
            .find_map(|t| {
                let d = t
                    .verdict()
                    .rig
                    .as_ref()
                    .filter(|d| t.ended_ms.is_some() && d.part == RigPart::Hoses.code())?;
                let volume_l = t.plan.volume_l.or(assembled.as_ref().map(|a| a.1))?;
                Some(RigShareDoc {
                    low_pa_s: d.low_pa_s?,
                    high_pa_s: d.high_pa_s?,
                    volume_l,
                    test: t.title.clone(),
                })
            });
    }
    plan.assembled = assembled.map(|a| a.0);
    plan.kit = ids;
    Ok(plan)
}
