//! Procedures of one's own: named, versioned, with their source. The built-in ones stand in core.

use crate::error::ApiError;
use crate::state::{AppState, now_ms};
use crate::wire::{ProcedureInput, SchoolView};
use actix_web::{HttpResponse, post, web};
use ruhe_core::procedure::{DECAY_SCHOOLS, EVACUATION_SCHOOLS, HOLD_SCHOOLS, SCHOOLS_VERSION};
use ruhe_core::quantity::Unit;

const HABIT: &str = "common practice";

fn built_in() -> Vec<SchoolView> {
    let holds = HOLD_SCHOOLS.iter().map(|s| SchoolView {
        code: s.code.into(),
        title: s.title.into(),
        kind: "pressure-hold".into(),
        gives_up: s.gives_up.into(),
        pressure_pa: s.psig.map(|p| Unit::Psig.to_si(p)),
        share_of_plate: s.psig.is_none().then_some(0.75),
        time_s: s.minutes * 60.0,
        start_max_pa: None,
        targets_pa: vec![],
        version: SCHOOLS_VERSION.into(),
        source: HABIT.into(),
        is_verified: false,
        is_own: false,
    });
    let decays = DECAY_SCHOOLS.iter().map(|s| SchoolView {
        code: s.code.into(),
        title: s.title.into(),
        kind: "vacuum-decay".into(),
        gives_up: s.gives_up.into(),
        pressure_pa: Some(Unit::Micron.to_si(s.micron)),
        share_of_plate: None,
        time_s: s.minutes * 60.0,
        start_max_pa: s.start_max.map(|m| Unit::Micron.to_si(m)),
        targets_pa: vec![],
        version: SCHOOLS_VERSION.into(),
        source: HABIT.into(),
        is_verified: false,
        is_own: false,
    });
    let pulls = EVACUATION_SCHOOLS.iter().map(|s| SchoolView {
        code: s.code.into(),
        title: s.title.into(),
        kind: "pull-down".into(),
        gives_up: s.gives_up.into(),
        pressure_pa: None,
        share_of_plate: None,
        time_s: 0.0,
        start_max_pa: None,
        targets_pa: s.pulls().iter().map(|p| p.target_pa).collect(),
        version: SCHOOLS_VERSION.into(),
        source: HABIT.into(),
        is_verified: false,
        is_own: false,
    });
    holds.chain(pulls).chain(decays).collect()
}

/// All procedures: one's own newest versions first, then the built-in ones.
pub fn procedures(s: &AppState) -> Result<Vec<SchoolView>, ApiError> {
    let mut own: Vec<SchoolView> = Vec::new();
    for (code, json) in s.store.procedures()? {
        let p: ProcedureInput = serde_json::from_str(&json)
            .map_err(|e| ApiError::Inside(format!("procedure {code}: {e}")))?;
        let version = own
            .iter()
            .find(|o| o.code == code)
            .map_or(1, |o| o.version.parse::<u32>().unwrap_or(0) + 1);
        own.retain(|o| o.code != code);
        own.push(SchoolView {
            code,
            title: p.title,
            kind: p.kind,
            gives_up: p.gives_up,
            pressure_pa: p.pressure_pa,
            share_of_plate: p.share_of_plate,
            time_s: p.time_s,
            start_max_pa: p.start_max_pa,
            targets_pa: p.targets_pa,
            version: version.to_string(),
            source: p.source,
            is_verified: p.is_verified,
            is_own: true,
        });
    }
    own.extend(built_in());
    Ok(own)
}

/// Keeps a procedure; the same code again is its next version.
#[utoipa::path(request_body = ProcedureInput, responses((status = 201)))]
#[post("/api/procedures")]
pub async fn add_procedure(
    state: web::Data<AppState>,
    body: web::Json<ProcedureInput>,
) -> Result<HttpResponse, ApiError> {
    let mut p = body.into_inner();
    p.title = p.title.trim().into();
    p.source = p.source.trim().into();
    for (field, text) in [("title", &p.title), ("source", &p.source)] {
        if text.is_empty() || text.chars().count() > 200 {
            return Err(ApiError::wrong(
                field,
                "this must be filled in, with at most 200 letters",
            ));
        }
    }
    if !["pressure-hold", "vacuum-decay", "pull-down"].contains(&p.kind.as_str()) {
        return Err(ApiError::wrong(
            "kind",
            "a procedure is for a pressure-hold, a pull-down or a vacuum-decay",
        ));
    }
    let positive = |v: Option<f64>| v.is_none_or(|v| v.is_finite() && v > 0.0);
    if p.kind == "pull-down" {
        if p.targets_pa.is_empty() || !p.targets_pa.iter().all(|t| positive(Some(*t))) {
            return Err(ApiError::wrong(
                "targets_pa",
                "an evacuation needs the target of each pull, above zero",
            ));
        }
    } else if !positive(Some(p.time_s)) {
        return Err(ApiError::wrong("time_s", "the time must be above zero"));
    }
    if !positive(p.pressure_pa)
        || !positive(p.start_max_pa)
        || (p.kind == "vacuum-decay" && p.pressure_pa.is_none())
    {
        return Err(ApiError::wrong(
            "pressure_pa",
            "the pressure must be above zero",
        ));
    }
    if p.share_of_plate.is_some_and(|s| !(0.05..=1.0).contains(&s)) {
        return Err(ApiError::wrong(
            "share_of_plate",
            "a share of the plate lies between 5 and 100 %",
        ));
    }
    if p.kind == "pressure-hold" && p.pressure_pa.is_some() == p.share_of_plate.is_some() {
        return Err(ApiError::wrong(
            "pressure_pa",
            "give a pressure or a share of the plate",
        ));
    }
    let plain = |c: char| {
        if c.is_ascii_alphanumeric() {
            c.to_ascii_lowercase()
        } else {
            '_'
        }
    };
    let code = p.code.clone().unwrap_or_else(|| {
        format!(
            "own_{}",
            p.title.chars().map(plain).take(60).collect::<String>()
        )
    });
    if built_in().iter().any(|b| b.code == code) {
        return Err(ApiError::wrong(
            "code",
            "a built-in procedure stays as it is; give yours a name of its own",
        ));
    }
    let json = serde_json::to_string(&p).map_err(|e| ApiError::Inside(e.to_string()))?;
    state
        .work(move |s| Ok(s.store.add_procedure(&code, &json, now_ms())?))
        .await?;
    Ok(HttpResponse::Created().finish())
}
