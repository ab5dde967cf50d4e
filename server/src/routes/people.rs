//! Coming in and going out, people, and the devices that are signed in.

use super::verb::confirmed;
use crate::body::Body;
use crate::error::{ApiError, Refusals};
use crate::people::{House, Identity, LONGEST_MS, Secret, ShownBy, cookie_name, place_of};
use crate::service::{Known, PersonChange, Said, now_ms};
use actix_web::cookie::{Cookie, SameSite, time::Duration};
use actix_web::{HttpRequest, HttpResponse, delete, get, post, put, web};
use qrcode::QrCode;
use ruhe_job::log::HouseDeed;
use ruhe_job::people::{PersonInput, Right, Role};
use ruhe_job::tell::Created;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// Somebody.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct PersonView {
    pub id: String,
    pub name: String,
    pub role: Role,
    pub role_title: String,
    pub is_out: bool,
}

/// Who is signed in on this device, and what they may do.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct SessionView {
    /// Nobody, if nobody is signed in.
    pub person: Option<PersonView>,
    /// What this device is called.
    pub device: Option<String>,
    /// What may be done from here.
    pub rights: Vec<Right>,
    /// Somebody is known here: one has to sign in.
    pub must_sign_in: bool,
    /// Nobody is known here yet, and the first may be made from here.
    pub may_found: bool,
}

#[derive(Debug, Clone, Deserialize, ToSchema)]
pub struct SignInInput {
    pub name: String,
    pub password: String,
    /// What this device is to be called.
    #[serde(default)]
    pub device: String,
}

/// A password once more, before a signature. `name`: of a witness on somebody else's device; else one's own.
#[derive(Debug, Clone, Deserialize, ToSchema)]
pub struct ConfirmInput {
    pub name: Option<String>,
    pub password: String,
}

/// Goes with the signature as `Ruhe-Confirmed`.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct ConfirmedView {
    pub token: String,
}

#[derive(Debug, Clone, Deserialize, ToSchema)]
pub struct PasswordInput {
    pub old: String,
    pub new: String,
}

/// A device that is signed in.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct DeviceView {
    pub id: String,
    pub device: String,
    pub person: String,
    pub is_paired: bool,
    pub is_this: bool,
    pub made_ms: i64,
    pub seen_ms: i64,
}

/// A code for another device.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct PairingView {
    pub code: String,
    pub ends_ms: i64,
    /// Where the other device goes, one for each address that it may reach; empty: none but this machine.
    pub urls: Vec<PairingUrl>,
    /// SHA-256 of Ruhe's own root, where the other device has to be told to trust it first.
    pub root_fingerprint: Option<String>,
}

#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct PairingUrl {
    pub url: String,
    /// The same as a QR code, a path of an SVG with one unit a module.
    pub qr: String,
    /// Modules along a side.
    pub modules: u32,
}

/// One's own password once more: whoever finds a device signed in shall not let another in from there.
#[derive(Debug, Clone, Deserialize, ToSchema)]
pub struct ShowCodeInput {
    pub password: String,
}

/// What was refused at the door within an hour.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct RefusedView {
    pub hour_ms: i64,
    pub what: String,
    pub place: String,
    pub address: String,
    pub count: i64,
}

#[derive(Debug, Clone, Deserialize, ToSchema)]
pub struct PairInput {
    pub code: String,
    #[serde(default)]
    pub device: String,
}

fn is_secure(request: &HttpRequest) -> bool {
    request.app_config().secure()
}

fn cookie(request: &HttpRequest, secret: String) -> Cookie<'static> {
    let secure = is_secure(request);
    Cookie::build(cookie_name(secure), secret)
        .http_only(true)
        .secure(secure)
        .same_site(SameSite::Strict)
        .path("/")
        .max_age(Duration::milliseconds(LONGEST_MS))
        .finish()
}

/// The secret by which a device on which somebody signed in before is known again; it lets nobody in.
const DEVICE: &str = "ruhe-device";

fn device_cookie(request: &HttpRequest, secret: String) -> Cookie<'static> {
    let mut c = cookie(request, secret);
    c.set_name(DEVICE);
    c.set_max_age(Duration::days(400));
    c
}

/// The secret of this device, or a fresh one.
fn device_secret(request: &HttpRequest) -> Result<String, ApiError> {
    match request.cookie(DEVICE).filter(|c| c.value().len() == 64) {
        Some(c) => Ok(c.value().to_owned()),
        None => Ok(Secret::fresh()?.text),
    }
}

fn signed_in(request: &HttpRequest, secret: String, device: String) -> HttpResponse {
    HttpResponse::Created()
        .cookie(cookie(request, secret))
        .cookie(device_cookie(request, device))
        .finish()
}

fn no_cookie(request: &HttpRequest) -> Cookie<'static> {
    let mut c = cookie(request, String::new());
    c.make_removal();
    c
}

fn person_view(p: ruhe_job::people::PersonKept) -> PersonView {
    PersonView {
        id: p.person,
        name: p.name,
        role: p.role,
        role_title: p.role.title().into(),
        is_out: p.is_out,
    }
}

fn seen(who: Option<&Identity>, has_people: bool, is_at_machine: bool) -> SessionView {
    SessionView {
        person: who.map(|i| PersonView {
            id: i.person.clone(),
            name: i.name.clone(),
            role: i.role,
            role_title: i.role.title().into(),
            is_out: false,
        }),
        device: who.map(|i| i.device.clone()),
        rights: match who {
            Some(i) => i.role.rights(),
            None if !has_people => Right::all().collect(),
            None => vec![],
        },
        must_sign_in: has_people && who.is_none(),
        may_found: !has_people && is_at_machine,
    }
}

/// Who is signed in here.
#[utoipa::path(responses((status = 200, body = SessionView), Refusals))]
#[get("/api/session")]
pub async fn session(
    state: House,
    request: HttpRequest,
    who: Option<Identity>,
) -> Result<web::Json<SessionView>, ApiError> {
    let has_people = state
        .work(|s| s.store.read(|tx| Ok::<_, ApiError>(tx.has_people()?)))
        .await?;
    let is_here = request.peer_addr().is_none_or(|a| a.ip().is_loopback());
    Ok(web::Json(seen(who.as_ref(), has_people, is_here)))
}

/// Signs in.
#[utoipa::path(request_body = SignInInput, responses((status = 201), Refusals))]
#[post("/api/session")]
pub async fn sign_in(
    state: House,
    request: HttpRequest,
    body: Body<SignInInput>,
) -> Result<HttpResponse, ApiError> {
    let (b, from) = (body.into_inner(), place_of(&request));
    let device = device_secret(&request)?;
    let own = device.clone();
    let secret = state
        .work(move |s| {
            let known = Known::Device(&own);
            let person = s.recognised(&b.name, &b.password, &from, known)?;
            s.sign_in(&person.id, &b.device, None, Some(&own))
        })
        .await?;
    Ok(signed_in(&request, secret, device))
}

/// Signs this device out.
#[utoipa::path(responses((status = 204), Refusals))]
#[delete("/api/session")]
pub async fn sign_out(
    state: House,
    request: HttpRequest,
    said: Said,
) -> Result<HttpResponse, ApiError> {
    if let Some(c) = said.caller.clone() {
        state
            .work(move |s| s.sign_out(&c.session, &said, true))
            .await?;
    }
    Ok(gone(&request))
}

/// Signs every device of this person out, this one too.
#[utoipa::path(responses((status = 204), Refusals))]
#[delete("/api/sessions")]
pub async fn sign_out_everywhere(
    state: House,
    request: HttpRequest,
    who: Identity,
    said: Said,
) -> Result<HttpResponse, ApiError> {
    state
        .work(move |s| s.sign_out_everywhere(&who, &said))
        .await?;
    Ok(gone(&request))
}

/// Signed out: the cookie goes, and the browser is told to forget what its caches hold of this address.
fn gone(request: &HttpRequest) -> HttpResponse {
    HttpResponse::NoContent()
        .cookie(no_cookie(request))
        .insert_header(("Clear-Site-Data", "\"cache\""))
        .finish()
}

/// Confirms who signs, just before it.
#[utoipa::path(request_body = ConfirmInput, responses((status = 201, body = ConfirmedView), Refusals))]
#[post("/api/session/again")]
pub async fn again(
    state: House,
    request: HttpRequest,
    who: Identity,
    body: Body<ConfirmInput>,
) -> Result<HttpResponse, ApiError> {
    let (b, from) = (body.into_inner(), place_of(&request));
    let token = state
        .work(move |s| s.confirm_again(b.name.as_deref(), &who, &b.password, &from))
        .await?;
    Ok(HttpResponse::Created().json(ConfirmedView { token }))
}

/// Changes one's own password.
#[utoipa::path(request_body = PasswordInput, responses((status = 204), Refusals))]
#[put("/api/session/password")]
pub async fn change_password(
    state: House,
    request: HttpRequest,
    who: Identity,
    said: Said,
    body: Body<PasswordInput>,
) -> Result<HttpResponse, ApiError> {
    let (b, from) = (body.into_inner(), place_of(&request));
    state
        .work(move |s| s.change_password(&who, (&b.old, &b.new), &from, &said))
        .await?;
    Ok(HttpResponse::NoContent().finish())
}

/// Everybody who is known here.
#[utoipa::path(responses((status = 200, body = Vec<PersonView>), Refusals))]
#[get("/api/people")]
pub async fn people(state: House) -> Result<web::Json<Vec<PersonView>>, ApiError> {
    let all = state.work(|s| s.people()).await?;
    Ok(web::Json(all.into_iter().map(person_view).collect()))
}

/// Lets somebody in. The first, made on the machine itself, is a lead and is signed in at once.
#[utoipa::path(request_body = PersonInput, responses((status = 201, body = Created), Refusals))]
#[post("/api/people")]
pub async fn add_person(
    state: House,
    request: HttpRequest,
    said: Said,
    body: Body<PersonInput>,
) -> Result<HttpResponse, ApiError> {
    let b = body.into_inner();
    let is_first = said.caller.is_none();
    let token = confirmed(&request).map(str::to_owned);
    let known = device_secret(&request)?;
    let own = known.clone();
    let (id, secret) = state
        .work(move |s| {
            let device = said.by.device.clone();
            let id = s.add_person(&b, &said, token.as_deref())?;
            let secret = if is_first {
                Some(s.sign_in(&id, &device, None, Some(&own))?)
            } else {
                None
            };
            Ok((id, secret))
        })
        .await?;
    let mut reply = HttpResponse::Created();
    if let Some(s) = secret {
        reply.cookie(cookie(&request, s));
        reply.cookie(device_cookie(&request, known));
    }
    Ok(reply.json(Created { id }))
}

/// Changes what somebody is here, or shuts them out.
#[utoipa::path(request_body = PersonChange, responses((status = 204), Refusals))]
#[put("/api/people/{id}")]
pub async fn change_person(
    state: House,
    request: HttpRequest,
    id: web::Path<String>,
    said: Said,
    body: Body<PersonChange>,
) -> Result<HttpResponse, ApiError> {
    let token = confirmed(&request).map(str::to_owned);
    state
        .work(move |s| s.change_person(&id, &body.0, &said, token.as_deref()))
        .await?;
    Ok(HttpResponse::NoContent().finish())
}

/// Devices that are signed in: one's own, or everybody's for who may say who comes in.
#[utoipa::path(responses((status = 200, body = Vec<DeviceView>), Refusals))]
#[get("/api/devices")]
pub async fn devices(
    state: House,
    who: Option<Identity>,
) -> Result<web::Json<Vec<DeviceView>>, ApiError> {
    let Some(who) = who else {
        return Ok(web::Json(vec![]));
    };
    let views = state
        .work(move |s| {
            s.store.read(|tx| {
                let own = (!who.role.may(Right::People)).then_some(who.person.as_str());
                let sessions = tx.sessions(own, now_ms())?;
                let known = tx.people()?;
                let name = |id: &str| {
                    let p = known.iter().find(|p| p.id == id);
                    p.map_or_else(String::new, |p| p.name.clone())
                };
                let view = |d: ruhe_store::rows::Session| DeviceView {
                    is_this: d.id == who.session,
                    person: name(&d.person),
                    id: d.id,
                    device: d.device,
                    is_paired: d.is_paired,
                    made_ms: d.made_ms,
                    seen_ms: d.seen_ms,
                };
                Ok::<_, ApiError>(sessions.into_iter().map(view).collect())
            })
        })
        .await?;
    Ok(web::Json(views))
}

/// Shuts a device out: one's own, or anybody's for who may say who comes in; with all that were let in from there.
#[utoipa::path(responses((status = 204), Refusals))]
#[delete("/api/devices/{id}")]
pub async fn shut_out(
    state: House,
    id: web::Path<String>,
    said: Said,
) -> Result<HttpResponse, ApiError> {
    state.work(move |s| s.sign_out(&id, &said, false)).await?;
    Ok(HttpResponse::NoContent().finish())
}

/// What was refused at the door lately, for who may say who comes in.
#[utoipa::path(responses((status = 200, body = Vec<RefusedView>), Refusals))]
#[get("/api/refusals")]
pub async fn refusals(state: House) -> Result<web::Json<Vec<RefusedView>>, ApiError> {
    let rows = state
        .work(|s| {
            s.write_refusals()?;
            s.store.read(|tx| Ok::<_, ApiError>(tx.refused(100)?))
        })
        .await?;
    let view = |r: ruhe_store::rows::Refused| RefusedView {
        hour_ms: r.hour_ms,
        what: r.what,
        place: r.place,
        address: r.address,
        count: r.count,
    };
    Ok(web::Json(rows.into_iter().map(view).collect()))
}

fn as_qr(url: String) -> Result<PairingUrl, ApiError> {
    let code = QrCode::new(url.as_bytes()).map_err(|e| ApiError::Inside(e.to_string()))?;
    let side = code.width();
    let mut qr = String::new();
    for (i, c) in code.to_colors().into_iter().enumerate() {
        if c == qrcode::Color::Dark {
            qr.push_str(&format!("M{} {}h1v1h-1z", i % side, i / side));
        }
    }
    Ok(PairingUrl {
        url,
        qr,
        modules: u32::try_from(side).unwrap_or(0),
    })
}

/// Shows a code with which another device signs in as the same person, once, within ten minutes. It asks for the
/// password.
#[utoipa::path(request_body = ShowCodeInput, responses((status = 201, body = PairingView), Refusals))]
#[post("/api/pairing")]
pub async fn pairing(
    state: House,
    request: HttpRequest,
    who: Identity,
    said: Said,
    body: Body<ShowCodeInput>,
) -> Result<HttpResponse, ApiError> {
    let from = place_of(&request);
    let (code, ends_ms) = state
        .work(move |s| {
            s.recognised(&who.name, &body.0.password, &from, Known::Session(&who))?;
            let by = ShownBy {
                person: who.person.clone(),
                session: who.session,
            };
            let done = HouseDeed::CodeShown { person: who.person };
            s.write_for(&said, |tx| s.note_house(tx, &said, done))?;
            s.pairings.show(by, now_ms())
        })
        .await?;
    let urls = state
        .reached
        .get()
        .map(Vec::as_slice)
        .unwrap_or_default()
        .iter()
        // Behind the sign #, so that the code stands in no log of addresses.
        .map(|base| as_qr(format!("{base}/pair#{code}")))
        .collect::<Result<_, _>>()?;
    Ok(HttpResponse::Created().json(PairingView {
        code,
        ends_ms,
        urls,
        root_fingerprint: state.root.as_ref().as_ref().map(|r| r.fingerprint.clone()),
    }))
}

/// Gives a code back: this device is signed in.
#[utoipa::path(request_body = PairInput, responses((status = 201), Refusals))]
#[post("/api/pairing/use")]
pub async fn pair(
    state: House,
    request: HttpRequest,
    body: Body<PairInput>,
) -> Result<HttpResponse, ApiError> {
    let (b, from) = (body.into_inner(), place_of(&request));
    let device = device_secret(&request)?;
    let own = device.clone();
    let secret = state
        .work(move |s| {
            let guess = s.throttle.code(&from)?;
            let by = s.pairings.take(&b.code, now_ms()).ok_or_else(|| {
                ApiError::wrong(
                    "code",
                    "this code is not right, was used, or is older than ten minutes: show another",
                )
            })?;
            guess.was_right();
            s.sign_in(&by.person, &b.device, Some(&by.session), Some(&own))
        })
        .await?;
    Ok(signed_in(&request, secret, device))
}
