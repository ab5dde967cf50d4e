//! Gates, overrides, signatures.

use super::dossier::Dossier;
use crate::error::ApiError;
use crate::state::{AppState, fresh_id, now_ms};
use crate::wire::{GateView, NamedView, OverrideInput, SignatureInput};
use actix_web::{HttpResponse, post, web};
use ruhe_core::quantity::Units;
use ruhe_core::signoff::{Gate, GateCode, State, allowed_states};
use ruhe_store::rows;
use sha2::{Digest, Sha256};

/// The gates of a circuit; of a signed one, as they were signed.
pub fn gate_views(s: &AppState, d: &Dossier, gates: Vec<Gate>) -> Result<Vec<GateView>, ApiError> {
    if let Some(g) = &d.signature {
        return serde_json::from_str(&g.gates).map_err(|e| ApiError::Inside(e.to_string()));
    }
    let overrides = s.store.overrides(&d.place.circuit.id)?;
    Ok(gates
        .into_iter()
        .map(|g| GateView {
            overridden: overrides
                .iter()
                .rev()
                .find(|o| !g.met && o.gate == g.code.code())
                .map(|o| {
                    if o.words.is_empty() {
                        o.preset.clone()
                    } else {
                        format!("{}: {}", o.preset, o.words)
                    }
                }),
            code: g.code.code().into(),
            title: g.code.title().into(),
            met: g.met,
            evidence: g.evidence,
            reservation: g.reservation,
        })
        .collect())
}

fn allowed(views: &[GateView]) -> Vec<State> {
    let gates: Vec<Gate> = views
        .iter()
        .filter_map(|v| {
            Some(Gate {
                code: GateCode::from_code(&v.code)?,
                met: v.met,
                evidence: String::new(),
                reservation: v.reservation.clone(),
            })
        })
        .collect();
    let overridden: Vec<GateCode> = views
        .iter()
        .filter(|v| v.overridden.is_some())
        .filter_map(|v| GateCode::from_code(&v.code))
        .collect();
    allowed_states(&gates, &overridden)
}

pub fn states_of(views: &[GateView]) -> Vec<NamedView> {
    allowed(views)
        .iter()
        .map(|s| NamedView {
            code: s.code().into(),
            title: s.title().into(),
        })
        .collect()
}

/// Overrides a gate with a written reason that prints on the record.
#[utoipa::path(request_body = OverrideInput, responses((status = 201)))]
#[post("/api/circuits/{id}/overrides")]
pub async fn add_override(
    state: web::Data<AppState>,
    id: web::Path<String>,
    body: web::Json<OverrideInput>,
) -> Result<HttpResponse, ApiError> {
    let (id, b) = (id.into_inner(), body.into_inner());
    if GateCode::from_code(&b.gate).is_none() {
        return Err(ApiError::wrong(
            "gate",
            format!("the gate must be one of {}", GateCode::codes()),
        ));
    }
    if b.preset.trim().is_empty() {
        return Err(ApiError::wrong("preset", "choose a reason"));
    }
    if b.preset.contains("see words") && b.words.trim().is_empty() {
        return Err(ApiError::wrong("words", "this reason needs words"));
    }
    let circuit = id.clone();
    state
        .work(move |s| {
            s.store.circuit(&id)?;
            Ok(s.store.add_override(&rows::Override {
                id: fresh_id(),
                circuit_id: id,
                gate: b.gate,
                preset: b.preset.trim().into(),
                words: b.words.trim().chars().take(2000).collect(),
                at_ms: now_ms(),
            })?)
        })
        .await?;
    state.changed(&circuit, None);
    Ok(HttpResponse::Created().finish())
}

/// SHA-256 over who signed what: every valid reading as typed, every event, every verdict, the survey, steps, looks and
/// repairs, the gates and their overrides, the words.
fn digest(
    s: &AppState,
    circuit: &str,
    b: &SignatureInput,
    gates: &str,
) -> Result<String, ApiError> {
    let mut h = Sha256::new();
    let mut put = |text: &str| {
        h.update(text.as_bytes());
        h.update([0]);
    };
    for text in [circuit, &b.name, &b.role, &b.statement, &b.state, gates] {
        put(text);
    }
    for t in s.store.tests_of(circuit)? {
        put(&t.id);
        for r in s.store.valid_readings(&t.id)? {
            put(&format!(
                "{} {} {} {}",
                r.id, r.channel_id, r.at_ms, r.typed
            ));
        }
        for e in s.store.events(&t.id)? {
            put(&format!("{} {} {} {}", e.id, e.kind, e.at_ms, e.note));
        }
        for v in s.store.verdicts(&t.id)? {
            put(&v.json);
        }
    }
    let (survey, version) = s.store.survey(circuit)?;
    put(&format!("{version} {}", survey.unwrap_or_default()));
    for x in s.store.steps(circuit)? {
        put(&format!("{} {} {} {}", x.id, x.step, x.at_ms, x.note));
    }
    for x in s.store.looks(circuit)? {
        put(&format!(
            "{} {} {:?} {} {} {:?} {:?} {} {:?} {}",
            x.id,
            x.place,
            x.section,
            x.method,
            x.finding,
            x.dwell_s,
            x.at_pa,
            x.note,
            x.photo_id,
            x.at_ms
        ));
    }
    for x in s.store.repairs(circuit)? {
        put(&format!(
            "{} {} {:?} {} {} {:?} {} {}",
            x.id, x.place, x.section, x.cause, x.words, x.torque_nm, x.with_torch, x.at_ms
        ));
    }
    for x in s.store.overrides(circuit)? {
        put(&format!(
            "{} {} {} {} {}",
            x.id, x.gate, x.preset, x.words, x.at_ms
        ));
    }
    Ok(h.finalize().iter().map(|b| format!("{b:02x}")).collect())
}

/// Signs a circuit as of `at_ms`, if its gates and overrides allow the state.
pub fn sign_circuit(
    s: &AppState,
    id: &str,
    b: &SignatureInput,
    at_ms: i64,
) -> Result<(), ApiError> {
    for (field, text) in [
        ("name", &b.name),
        ("role", &b.role),
        ("statement", &b.statement),
    ] {
        if text.trim().is_empty() {
            return Err(ApiError::wrong(
                field,
                format!("a signature needs a {field}"),
            ));
        }
    }
    let wanted = State::from_code(&b.state).ok_or_else(|| {
        ApiError::wrong(
            "state",
            format!("the state must be one of {}", State::codes()),
        )
    })?;
    let d = Dossier::read(s, id, Units::default())?;
    if let Some(open) = d.tests.iter().find(|t| t.ended_ms.is_none()) {
        return Err(ApiError::wrong(
            "state",
            format!("{} is still running; end it first", open.title),
        ));
    }
    let views = gate_views(s, &d, d.gates())?;
    if !allowed(&views).contains(&wanted) {
        let missing: Vec<&str> = views
            .iter()
            .filter(|g| !g.met && g.overridden.is_none())
            .map(|g| g.title.as_str())
            .collect();
        let why = if missing.is_empty() {
            "there are reservations, which the state must say".into()
        } else {
            format!("still missing: {}", missing.join("; "))
        };
        return Err(ApiError::wrong(
            "state",
            format!("it cannot be signed as “{}”: {why}", wanted.title()),
        ));
    }
    let gates = serde_json::to_string(&views).map_err(|e| ApiError::Inside(e.to_string()))?;
    let digest = digest(s, id, b, &gates)?;
    Ok(s.store.sign(&rows::Signature {
        id: fresh_id(),
        circuit_id: id.into(),
        name: b.name.trim().into(),
        role: b.role.trim().into(),
        statement: b.statement.trim().into(),
        state: b.state.clone(),
        gates,
        digest,
        at_ms,
    })?)
}

/// Signs a circuit; afterwards it is read-only.
#[utoipa::path(request_body = SignatureInput, responses((status = 201)))]
#[post("/api/circuits/{id}/signature")]
pub async fn sign(
    state: web::Data<AppState>,
    id: web::Path<String>,
    body: web::Json<SignatureInput>,
) -> Result<HttpResponse, ApiError> {
    let circuit = id.clone();
    state
        .work(move |s| sign_circuit(s, &id, &body, now_ms()))
        .await?;
    state.changed(&circuit, None);
    Ok(HttpResponse::Created().finish())
}
