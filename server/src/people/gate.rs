//! The gate: who calls, and whether they may. Every request of the API passes it; what is not listed is refused.

use super::IDLE_MS;
use crate::error::ApiError;
use crate::service::now_ms;
use crate::state::AppState;
use actix_web::body::MessageBody;
use actix_web::dev::{Payload, ServiceRequest, ServiceResponse};
use actix_web::middleware::Next;
use actix_web::{Error, FromRequest, HttpMessage as _, HttpRequest, ResponseError as _, web};
use ruhe_job::log::sha256;
use ruhe_job::people::{Asked, By, Role, asked};
use ruhe_store::rows;
use std::future::{Ready, ready};

/// A session is noted as used at most so often, ms: not with every reading.
const NOTED_MS: i64 = 60_000;

/// Who calls, as the gate found.
#[derive(Debug, Clone)]
pub struct Identity {
    /// Id of the person.
    pub person: String,
    /// Their name.
    pub name: String,
    /// As what.
    pub role: Role,
    /// Id of the session.
    pub session: String,
    /// What the device is called.
    pub device: String,
}

impl Identity {
    fn of(session: rows::Session, person: rows::Person) -> Option<Self> {
        Some(Self {
            role: Role::of(&person.role)?,
            person: person.id,
            name: person.name,
            session: session.id,
            device: session.device,
        })
    }
    /// As the rules ask for it.
    #[must_use]
    pub fn by(&self) -> By {
        By {
            name: self.name.clone(),
            role: Some(self.role),
            device: self.device.clone(),
        }
    }
}

impl FromRequest for Identity {
    type Error = ApiError;
    type Future = Ready<Result<Self, ApiError>>;
    fn from_request(request: &HttpRequest, _: &mut Payload) -> Self::Future {
        let found = request.extensions().get::<Self>().cloned();
        ready(found.ok_or_else(|| ApiError::SignIn("sign in first".into())))
    }
}

/// Name of the cookie. Over TLS it is bound to this host and never leaves it in the clear.
pub fn cookie_name(is_secure: bool) -> &'static str {
    if is_secure { "__Host-ruhe" } else { "ruhe" }
}

/// Whether somebody is known here at all, and who calls.
fn look(
    state: &AppState,
    token: Option<String>,
    now: i64,
) -> Result<(bool, Option<Identity>), ApiError> {
    let (has_people, found) = state.store.read(|tx| {
        let found = match token {
            Some(t) => tx.session(&sha256(t.as_bytes()), now)?,
            None => None,
        };
        Ok::<_, ApiError>((found.is_some() || tx.has_people()?, found))
    })?;
    let Some((session, person)) = found.filter(|(s, _)| now - s.seen_ms < IDLE_MS) else {
        return Ok((has_people, None));
    };
    if now - session.seen_ms > NOTED_MS {
        state
            .store
            .write(|tx| Ok::<_, ApiError>(tx.seen(&session.id, now)?))?;
    }
    Ok((has_people, Identity::of(session, person)))
}

fn decide(
    wanted: Asked,
    (has_people, who): (bool, Option<&Identity>),
    is_at_machine: bool,
) -> Result<(), ApiError> {
    let right = match wanted {
        Asked::Nobody | Asked::Gauge => return Ok(()),
        Asked::Anybody => None,
        Asked::Right(r) => Some(r),
    };
    match (who, right) {
        (Some(_), None) => Ok(()),
        (Some(i), Some(r)) => Ok(i.by().must(r)?),
        // Before anybody is known, whoever sits at the machine is trusted; nobody else is.
        (None, _) if !has_people && is_at_machine => Ok(()),
        (None, _) => Err(ApiError::SignIn("sign in first".into())),
    }
}

/// Lets a request through, or answers it with the reason.
///
/// # Errors
/// What is further in.
pub async fn gate(
    request: ServiceRequest,
    next: Next<impl MessageBody + 'static>,
) -> Result<ServiceResponse<impl MessageBody>, Error> {
    let Some(pattern) = request.match_pattern().filter(|p| p.starts_with("/api/")) else {
        // The page itself, and what is at no address of the API: nothing of the data.
        return Ok(next.call(request).await?.map_into_left_body());
    };
    let wanted = asked(request.method().as_str(), &pattern);
    let is_at_machine = request.peer_addr().is_none_or(|a| a.ip().is_loopback());
    let name = cookie_name(request.app_config().secure());
    let token = request.cookie(name).map(|c| c.value().to_owned());
    let state = request.app_data::<web::Data<AppState>>().cloned();
    let found = match state {
        Some(s) => s.work(move |s| look(s, token, now_ms())).await,
        None => Err(ApiError::Inside("there is no state".into())),
    };
    let passed = found.and_then(|(has_people, who)| {
        decide(wanted, (has_people, who.as_ref()), is_at_machine)?;
        Ok(who)
    });
    match passed {
        Ok(who) => {
            if let Some(i) = who {
                request.extensions_mut().insert(i);
            }
            Ok(next.call(request).await?.map_into_left_body())
        }
        Err(e) => Ok(request
            .into_response(e.error_response())
            .map_into_right_body()),
    }
}
