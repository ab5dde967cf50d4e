//! The application: routes, headers, limits, and where it may listen.

use crate::body::PACKAGE;
use crate::error::{ApiError, Problem};
use crate::routes::{api, page};
use crate::service::refresh_forever;
use crate::state::{AppState, Changed};
use actix_web::body::MessageBody;
use actix_web::dev::{Server, ServiceRequest, ServiceResponse};
use actix_web::http::{Method, header};
use actix_web::middleware::{Compress, DefaultHeaders, Next, from_fn};
use actix_web::{App, Error, HttpResponse, HttpServer, web};
use std::net::SocketAddr;
use utoipa_actix_web::AppExt;

/// Only what ships with Ruhe. The first hash is that of an empty style element, which styled-components fills by
/// script; the second that of the one rule React Aria adds for pressing (touch-action).
const CSP: &str = "default-src 'none'; script-src 'self'; \
    style-src 'self' 'sha256-47DEQpj8HBSa+/TImW+5JCeuQeRkm5NMpJWZG3hSuFU=' 'sha256-38RhXrc7EdReTKsOm23ZPOCUgniTUUcjky8QOOrQx6o='; \
    font-src 'self'; img-src 'self' data:; connect-src 'self'; manifest-src 'self'; base-uri 'none'; form-action 'none'; frame-ancestors 'none'";

/// A server that listens.
pub struct Served {
    /// To be awaited.
    pub server: Server,
    /// Where it listens.
    pub address: SocketAddr,
}

fn forbidden(request: ServiceRequest, message: &str) -> ServiceResponse {
    request.into_response(HttpResponse::Forbidden().json(Problem {
        message: message.into(),
        field: None,
    }))
}

/// Refuses names that are not this machine's (a page elsewhere may point its name here) and writes from other pages.
async fn guard(
    request: ServiceRequest,
    next: Next<impl MessageBody + 'static>,
) -> Result<ServiceResponse<impl MessageBody>, Error> {
    let text = |name: header::HeaderName| {
        request
            .headers()
            .get(name)
            .and_then(|v| v.to_str().ok())
            .map(str::to_owned)
    };
    let host = text(header::HOST).unwrap_or_default();
    let name = host.rsplit_once(':').map_or(host.as_str(), |(n, p)| {
        if p.chars().all(|c| c.is_ascii_digit()) {
            n
        } else {
            host.as_str()
        }
    });
    if !["localhost", "127.0.0.1", "[::1]"].contains(&name) {
        return Ok(forbidden(request, "Ruhe answers only under localhost").map_into_right_body());
    }
    let is_write = ![Method::GET, Method::HEAD, Method::OPTIONS].contains(request.method());
    if is_write
        && text(header::ORIGIN).is_some_and(|o| o.split_once("://").is_none_or(|(_, h)| h != host))
    {
        return Ok(forbidden(request, "this request came from another page").map_into_right_body());
    }
    Ok(next.call(request).await?.map_into_left_body())
}

/// The OpenAPI description, from the code.
#[must_use]
pub fn specification() -> utoipa::openapi::OpenApi {
    let (_, mut spec) = App::new()
        .into_utoipa_app()
        .configure(api)
        .split_for_parts();
    // Sent outside of any one route's reply: refusals and the live stream.
    let schemas = &mut spec.components.get_or_insert_default().schemas;
    schemas.insert(
        "Problem".into(),
        <Problem as utoipa::PartialSchema>::schema(),
    );
    schemas.insert(
        "Changed".into(),
        <Changed as utoipa::PartialSchema>::schema(),
    );
    spec.info = utoipa::openapi::InfoBuilder::new()
        .title("Ruhe")
        .version("1")
        .build();
    spec
}

/// Binds and serves. Port 0 takes a free one.
///
/// # Errors
/// If the address is not this machine alone, or cannot be bound.
pub fn serve(state: AppState, bind: SocketAddr) -> Result<Served, String> {
    if !bind.ip().is_loopback() {
        return Err(format!(
            "{bind} can be reached from other machines, and Ruhe has no accounts yet: anybody there could write and sign. Bind to 127.0.0.1 or [::1]."
        ));
    }
    actix_web::rt::spawn(refresh_forever(state.clone()));
    let data = web::Data::new(state);
    let server = HttpServer::new(move || {
        App::new()
            .into_utoipa_app()
            .app_data(data.clone())
            .app_data(web::PayloadConfig::new(PACKAGE))
            .app_data(
                web::QueryConfig::default()
                    .error_handler(|e, _| ApiError::Unreadable(e.to_string()).into()),
            )
            .configure(api)
            .into_app()
            .default_service(web::get().to(page))
            .wrap(Compress::default())
            .wrap(from_fn(guard))
            .wrap(
                DefaultHeaders::new()
                    .add(("Content-Security-Policy", CSP))
                    .add(("X-Content-Type-Options", "nosniff"))
                    .add(("Referrer-Policy", "no-referrer"))
                    .add(("Cross-Origin-Opener-Policy", "same-origin")),
            )
    })
    .workers(2)
    .shutdown_timeout(1)
    .bind(bind)
    .map_err(|e| format!("{bind} cannot be bound: {e}"))?;
    let address = server.addrs().first().copied().unwrap_or(bind);
    Ok(Served {
        server: server.run(),
        address,
    })
}
