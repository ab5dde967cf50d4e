//! The gate: who calls, and whether they may.
//!
//! Every request passes it before its body is read. What is not in the table of addresses is refused, and the state
//! lies behind the gate: a handler gets it as [`House`] or as `Here`, and both ask for the mark that only the gate
//! sets. A request that came around the gate would find nothing.

use super::{IDLE_MS, Limits};
use crate::drills::{Drill, Drills, InDrill};
use crate::error::ApiError;
use crate::service::now_ms;
use crate::state::AppState;
use actix_web::body::{BoxBody, MessageBody};
use actix_web::dev::{Payload, ServiceRequest, ServiceResponse};
use actix_web::http::header;
use actix_web::middleware::Next;
use actix_web::{Error, FromRequest, HttpMessage as _, HttpRequest, HttpResponse, web};
use actix_web::{HttpResponseBuilder, ResponseError as _};
use ruhe_job::log::sha256;
use ruhe_job::people::{Asked, By, NobodyKnown, Role, Standing, asked, is_in_drills, methods};
use ruhe_store::rows;
use std::future::{Ready, ready};
use std::net::IpAddr;
use std::ops::Deref;
use std::sync::Arc;

/// A session is noted as used at most so often, ms: not with every reading.
const NOTED_MS: i64 = 60_000;

/// The state and the drills, out of reach of whatever did not pass the gate.
pub struct Guarded(AppState, Option<Arc<Drills>>);

impl Guarded {
    /// Puts them behind the gate.
    #[must_use]
    pub fn behind(state: AppState, drills: Option<Drills>) -> web::Data<Self> {
        web::Data::new(Self(state, drills.map(Arc::new)))
    }
}

/// Set by the gate on what it lets through.
#[derive(Debug, Clone, Copy)]
struct Passed(Limits);

/// The state of the house, for a request that passed the gate.
#[derive(Clone)]
pub struct House(AppState);

impl Deref for House {
    type Target = AppState;
    fn deref(&self) -> &AppState {
        &self.0
    }
}

/// The state and the limits of a request that passed the gate.
///
/// # Errors
/// If it did not.
pub fn passed(request: &HttpRequest) -> Result<(AppState, Limits), ApiError> {
    let mark = request.extensions().get::<Passed>().copied();
    let state = request.app_data::<web::Data<Guarded>>();
    match (mark, state) {
        (Some(Passed(limits)), Some(s)) => Ok((s.0.clone(), limits)),
        _ => Err(ApiError::Forbidden("this did not pass the gate".into())),
    }
}

fn no_drills() -> ApiError {
    ApiError::Missing("there are no drills here".into())
}

/// The drills, for whoever passed the gate.
///
/// # Errors
/// If the request did not, or there are none here.
pub fn drills_of(request: &HttpRequest) -> Result<Arc<Drills>, ApiError> {
    passed(request)?;
    let guarded = request.app_data::<web::Data<Guarded>>();
    guarded.and_then(|g| g.1.clone()).ok_or_else(no_drills)
}

impl FromRequest for House {
    type Error = ApiError;
    type Future = Ready<Result<Self, ApiError>>;
    fn from_request(request: &HttpRequest, _: &mut Payload) -> Self::Future {
        ready(passed(request).map(|(s, _)| Self(s)))
    }
}

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
            standing: Standing::Person(self.role),
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

/// The gauge that calls, by its token.
#[derive(Debug, Clone)]
pub struct Calling(pub rows::Gauge);

impl FromRequest for Calling {
    type Error = ApiError;
    type Future = Ready<Result<Self, ApiError>>;
    fn from_request(request: &HttpRequest, _: &mut Payload) -> Self::Future {
        let found = request.extensions().get::<Self>().cloned();
        ready(found.ok_or_else(|| ApiError::SignIn("a gauge shows its token".into())))
    }
}

/// Name of the cookie. Over TLS it is bound to this host and never leaves it in the clear.
pub fn cookie_name(is_secure: bool) -> &'static str {
    if is_secure { "__Host-ruhe" } else { "ruhe" }
}

/// What a request shows of itself.
struct Shown {
    token: Option<String>,
    bearer: Option<String>,
    drill: Option<String>,
    is_at_machine: bool,
}

/// Who was let in, and to where.
#[derive(Default)]
struct LetIn {
    who: Option<Identity>,
    nobody: Option<NobodyKnown>,
    gauge: Option<Calling>,
    drill: Option<Arc<Drill>>,
}

/// Whether somebody is known here at all, and who calls.
fn look(
    state: &AppState,
    token: Option<&str>,
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

fn gauge(state: &AppState, bearer: Option<&str>) -> Result<Calling, ApiError> {
    let kept = sha256(bearer.unwrap_or_default().trim().as_bytes());
    let found = state
        .store
        .read(|tx| Ok::<_, ApiError>(tx.gauge_of(&kept)?))?;
    let row = found.ok_or_else(|| {
        ApiError::SignIn("this token opens nothing: it is wrong, or the gauge was shut out".into())
    })?;
    state.throttle.call(&row.id)?;
    Ok(Calling(row))
}

/// Lets a caller in, or says why not.
fn let_in(
    Guarded(state, drills): &Guarded,
    wanted: Asked,
    shown: &Shown,
) -> Result<LetIn, ApiError> {
    let (has_people, who) = look(state, shown.token.as_deref(), now_ms())?;
    // Before anybody is known, whoever sits at the machine is trusted; nobody else is.
    let nobody = NobodyKnown::if_so(has_people).filter(|_| shown.is_at_machine);
    let mut out = LetIn {
        nobody,
        ..LetIn::default()
    };
    match (wanted, &who) {
        (Asked::Nobody, _) | (Asked::Anybody, Some(_)) => {}
        (Asked::Gauge, _) => out.gauge = Some(gauge(state, shown.bearer.as_deref())?),
        (Asked::Right(r), Some(i)) => i.by().must(r)?,
        (Asked::Anybody | Asked::Right(_), None) if nobody.is_some() => {}
        (Asked::Anybody | Asked::Right(_), None) => {
            return Err(ApiError::SignIn("sign in first".into()));
        }
    }
    if let Some(id) = &shown.drill {
        // A drill is loaded only for whoever may look at it; signing in is the house's own business.
        if who.is_some() || nobody.is_some() {
            let drill = drills.as_ref().ok_or_else(no_drills)?.get(state, id)?;
            drill.must_be_of(who.as_ref().map(|i| i.person.as_str()))?;
            out.drill = Some(drill);
        }
    }
    out.who = who;
    Ok(out)
}

/// Where a request comes from, as guesses and connections are counted: of IPv6 the network, since one machine has all
/// addresses of it.
#[must_use]
pub fn place(of: IpAddr) -> String {
    match of.to_canonical() {
        IpAddr::V4(a) => a.to_string(),
        IpAddr::V6(a) => {
            let s = a.segments();
            format!("{:x}:{:x}:{:x}:{:x}::/64", s[0], s[1], s[2], s[3])
        }
    }
}

/// The same of a request.
#[must_use]
pub fn place_of(request: &HttpRequest) -> String {
    request
        .peer_addr()
        .map_or_else(|| "here".into(), |a| place(a.ip()))
}

fn refused(request: ServiceRequest, e: &ApiError, note: Option<&AppState>) -> ServiceResponse {
    let mut reply = e.error_response();
    no_store(&mut reply);
    if let Some(state) = note {
        let at = format!("{} {}", request.method(), request.match_info().as_str());
        state.refusals.note(e, &place_of(request.request()), &at);
    }
    request.into_response(reply)
}

/// What the API says is kept by no cache, unless it says so itself.
fn no_store(reply: &mut HttpResponse<impl MessageBody>) {
    let headers = reply.headers_mut();
    if !headers.contains_key(header::CACHE_CONTROL) {
        let none = header::HeaderValue::from_static("no-store");
        headers.insert(header::CACHE_CONTROL, none);
    }
}

/// Whether a path belongs to the API, in whatever letters.
fn is_api(path: &str) -> bool {
    let mut parts = path.split('/').filter(|p| !p.is_empty());
    parts.next().is_some_and(|p| p.eq_ignore_ascii_case("api"))
}

/// Lets a request through, or answers it with the reason.
///
/// # Errors
/// What is further in.
pub async fn gate(
    request: ServiceRequest,
    next: Next<impl MessageBody + 'static>,
) -> Result<ServiceResponse<impl MessageBody>, Error> {
    // The path as the router reads it.
    let path = request.match_info().as_str().to_owned();
    let drill = request.extensions().get::<InDrill>().map(|d| d.0.clone());
    let pattern = request.resource_map().match_pattern(&path);
    let pattern = match pattern.filter(|p| p.starts_with("/api/")) {
        Some(p) => p,
        None if is_api(&path) || drill.is_some() => {
            let e = ApiError::Missing("there is nothing at this address".into());
            return Ok(refused(request, &e, None).map_into_right_body());
        }
        // The page itself: nothing of the data, and no mark.
        None => return Ok(next.call(request).await?.map_into_left_body()),
    };
    let method = request.method().as_str().to_owned();
    let wanted =
        asked(&method, &pattern).filter(|_| drill.is_none() || is_in_drills(&method, &pattern));
    let Some(wanted) = wanted else {
        return Ok(request
            .into_response(not_taken(&pattern))
            .map_into_right_body());
    };
    let shown = Shown {
        token: request
            .cookie(cookie_name(request.app_config().secure()))
            .map(|c| c.value().to_owned()),
        bearer: request
            .headers()
            .get(header::AUTHORIZATION)
            .and_then(|v| v.to_str().ok()?.strip_prefix("Bearer "))
            .map(str::to_owned),
        drill,
        is_at_machine: request.peer_addr().is_none_or(|a| a.ip().is_loopback()),
    };
    let guarded = request.app_data::<web::Data<Guarded>>().cloned();
    let state = guarded.as_ref().map(|g| g.0.clone());
    let found = match guarded {
        Some(g) => g.0.clone().work(move |_| let_in(&g, wanted, &shown)).await,
        None => Err(ApiError::Inside("there is no state".into())),
    };
    match found {
        Ok(found) => {
            {
                let mut all = request.extensions_mut();
                all.insert(Passed(Limits::of(&method, &pattern)));
                if let Some(i) = found.who {
                    all.insert(i);
                }
                if let Some(n) = found.nobody {
                    all.insert(n);
                }
                if let Some(g) = found.gauge {
                    all.insert(g);
                }
                if let Some(d) = found.drill {
                    all.insert(d);
                }
            }
            let mut reply = next.call(request).await?;
            no_store(reply.response_mut());
            if reply.status().is_client_error()
                && let (Some(s), Some(e)) = (&state, reply.response().error())
                && let Some(e) = e.as_error::<ApiError>()
            {
                let at = format!("{method} {pattern}");
                s.refusals.note(e, &place_of(reply.request()), &at);
            }
            Ok(reply.map_into_left_body())
        }
        Err(e) => Ok(refused(request, &e, state.as_ref()).map_into_right_body()),
    }
}

/// An address that does not take this method, or that a drill does not have.
fn not_taken(pattern: &str) -> HttpResponse<BoxBody> {
    let all = methods(pattern).join(", ");
    let e = ApiError::Missing("there is nothing at this address, or not by this method".into());
    let mut reply = HttpResponseBuilder::new(actix_web::http::StatusCode::METHOD_NOT_ALLOWED);
    if !all.is_empty() {
        reply.insert_header((header::ALLOW, all));
    }
    let mut reply = reply.json(crate::error::Problem {
        message: e.to_string(),
        field: None,
    });
    no_store(&mut reply);
    reply
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_place_is_an_address_or_a_network() {
        let of = |t: &str| place(t.parse().unwrap());
        assert_eq!(of("10.0.0.7"), "10.0.0.7");
        assert_eq!(of("::ffff:10.0.0.7"), "10.0.0.7");
        assert_eq!(of("2001:db8:1:2:3::4"), of("2001:db8:1:2:ffff::1"));
        assert_ne!(of("2001:db8:1:2::4"), of("2001:db8:1:3::4"));
    }
}
