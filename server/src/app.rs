//! The application: routes, headers, limits, and where it may listen.

use crate::connections::{Connections, descriptors};
use crate::drills::{Drills, into_drill};
use crate::error::{ApiError, Problem};
use crate::feed::resume;
use crate::people::{Guarded, gate};
use crate::routes::{api, page};
use crate::service::refresh_forever;
use crate::state::{AppState, Changed};
use crate::tls;
use actix_web::body::MessageBody;
use actix_web::dev::{Server, ServiceRequest, ServiceResponse};
use actix_web::http::{Method, header};
use actix_web::middleware::{Compress, DefaultHeaders, Next, from_fn};
use actix_web::{App, Error, HttpResponse, HttpServer, web};
use std::net::SocketAddr;
use std::path::PathBuf;
use std::sync::Arc;
use utoipa_actix_web::AppExt;

/// Only what ships with Ruhe. The first hash is that of an empty style element, which styled-components fills by
/// script; the second that of the one rule React Aria adds for pressing (touch-action).
const CSP: &str = "default-src 'none'; script-src 'self'; \
    style-src 'self' 'sha256-47DEQpj8HBSa+/TImW+5JCeuQeRkm5NMpJWZG3hSuFU=' 'sha256-38RhXrc7EdReTKsOm23ZPOCUgniTUUcjky8QOOrQx6o='; \
    font-src 'self'; img-src 'self' data:; connect-src 'self'; manifest-src 'self'; worker-src 'self'; base-uri 'none'; form-action 'none'; frame-ancestors 'none'";

/// Threads that take requests; work goes to others.
const WORKERS: usize = 2;
/// How long the head of a request may take.
const HEAD: std::time::Duration = std::time::Duration::from_secs(10);

/// A server that listens.
pub struct Served {
    /// To be awaited.
    pub server: Server,
    /// Where it listens, the first of several.
    pub address: SocketAddr,
}

fn forbidden(request: ServiceRequest, message: &str) -> ServiceResponse {
    request.into_response(HttpResponse::Forbidden().json(Problem {
        message: message.into(),
        field: None,
    }))
}

/// Whether a path says what it means: no address of Ruhe needs signs written as `%61`, doubled slashes or dots for
/// folders, and what reads a path in two ways is where a gate is walked around.
fn is_plain(path: &str) -> bool {
    let signs = |c: char| c.is_ascii_alphanumeric() || "/-_.~".contains(c);
    path.starts_with('/')
        && path.chars().all(signs)
        && !path.contains("//")
        && !path.split('/').any(|part| part == "." || part == "..")
}

/// Refuses paths that could be read in two ways, names that are not this machine's (a page elsewhere may point its
/// name here) and writes from other pages.
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
    let is_here = ["localhost", "127.0.0.1", "[::1]"].contains(&name);
    let bare = name.trim_matches(['[', ']']);
    let is_named = request
        .app_data::<web::Data<Names>>()
        .is_some_and(|n| n.0.iter().any(|n| n.eq_ignore_ascii_case(bare)));
    if !is_here && !is_named {
        return Ok(forbidden(
            request,
            "Ruhe does not answer under this name; names are given with --name",
        )
        .map_into_right_body());
    }
    if !is_plain(request.uri().path()) {
        return Ok(request
            .into_response(HttpResponse::NotFound().json(Problem {
                message: "there is nothing at this address".into(),
                field: None,
            }))
            .map_into_right_body());
    }
    let is_write = ![Method::GET, Method::HEAD, Method::OPTIONS].contains(request.method());
    if is_write
        && text(header::ORIGIN).is_some_and(|o| o.split_once("://").is_none_or(|(_, h)| h != host))
    {
        return Ok(forbidden(request, "this request came from another page").map_into_right_body());
    }
    Ok(next.call(request).await?.map_into_left_body())
}

/// What the code of the routes says of itself.
pub fn routes() -> utoipa::openapi::OpenApi {
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
    let mut parts = vec![];
    <Changed as utoipa::ToSchema>::schemas(&mut parts);
    schemas.extend(parts);
    spec.info = utoipa::openapi::InfoBuilder::new()
        .title("Ruhe")
        .version("1")
        .build();
    spec
}

/// Where Ruhe listens, and as what.
#[derive(Debug, Clone, Default)]
pub struct Reach {
    /// Addresses. On this machine's own Ruhe speaks plain HTTP, on all others TLS.
    pub binds: Vec<SocketAddr>,
    /// Names by which other devices reach this machine, beside those it finds itself.
    pub names: Vec<String>,
    /// The certificate, where there is an address for other devices.
    pub certificate: tls::Source,
    /// The folder with the root.
    pub data: PathBuf,
}

impl Reach {
    /// Names that may stand in an address of Ruhe.
    fn all_names(&self) -> Vec<String> {
        let mut out = self.names.clone();
        if self.binds.iter().any(|b| b.ip().is_unspecified()) {
            let made = matches!(self.certificate, tls::Source::Made);
            // A name that its own root may not vouch for is none by which others reach it.
            out.extend(
                tls::own_names()
                    .into_iter()
                    .filter(|n| !made || tls::is_of_the_house(n)),
            );
        }
        out.extend(
            self.binds
                .iter()
                .filter(|b| !b.ip().is_loopback() && !b.ip().is_unspecified())
                .map(|b| b.ip().to_string()),
        );
        let mut seen = std::collections::HashSet::new();
        out.retain(|n| seen.insert(n.to_ascii_lowercase()));
        out
    }
}

/// Names that the guard lets pass beside those of the machine itself.
struct Names(Vec<String>);

/// Binds and serves, with drills if there are any. Port 0 takes a free one.
///
/// # Errors
/// If other devices could reach it and nobody is known here, or an address cannot be bound.
pub fn serve(state: AppState, drills: Option<Drills>, reach: &Reach) -> Result<Served, String> {
    let open = reach.binds.iter().find(|b| !b.ip().is_loopback());
    let has_people = state
        .store
        .read(|tx| tx.has_people())
        .map_err(|e| e.to_string())?;
    if let Some(bind) = open.filter(|_| !has_people) {
        return Err(format!(
            "{bind} can be reached from other machines, and nobody is known here yet: anybody there could write \
             and sign. Make the first person with `ruhe people add NAME --role lead`, or bind to 127.0.0.1 or \
             [::1]."
        ));
    }
    let names = reach.all_names();
    let tls = match (open, &reach.certificate) {
        (None, _) => None,
        (_, tls::Source::Own(chain, key)) => Some(tls::own(chain, key)?),
        (_, tls::Source::Made) => Some(tls::made(&reach.data, &names)?),
    };
    let root = tls.as_ref().and_then(|t| t.root.clone());
    let state = AppState {
        root: Arc::new(root.clone()),
        ..state
    };
    let (reached, door, kept) = (state.reached.clone(), state.door.clone(), state.clone());
    actix_web::rt::spawn(refresh_forever(state.clone()));
    // Looked through beside the work, so that whoever starts it need not wait.
    let through = state.clone();
    std::thread::spawn(move || match through.check_house() {
        Ok(found) => {
            for fault in found.faults {
                tracing::error!("not as it was kept: {fault}");
            }
        }
        Err(e) => tracing::error!(%e, "what is kept could not be looked through"),
    });
    let data = Guarded::behind(state, drills);
    let root = web::Data::new(RootFile(root));
    let known = web::Data::new(Names(names.clone()));
    let (connections, most) = (Connections::default(), descriptors());
    let mut server = HttpServer::new(move || {
        App::new()
            .into_utoipa_app()
            .app_data(data.clone())
            .app_data(known.clone())
            .app_data(root.clone())
            .app_data(
                web::QueryConfig::default()
                    .error_handler(|e, _| ApiError::Unreadable(e.to_string()).into()),
            )
            .configure(api)
            .into_app()
            .route(&format!("/{}", tls::ROOT_FILE), web::get().to(root_file))
            .default_service(web::get().to(page))
            .wrap(Compress::default())
            .wrap(from_fn(gate))
            .wrap(from_fn(into_drill))
            // First of all: what comes after it reads a path that can be read in one way only.
            .wrap(from_fn(guard))
            .wrap(
                DefaultHeaders::new()
                    .add(("Content-Security-Policy", CSP))
                    .add(("X-Content-Type-Options", "nosniff"))
                    .add(("Referrer-Policy", "no-referrer"))
                    .add(("Cross-Origin-Opener-Policy", "same-origin")),
            )
    })
    .workers(WORKERS)
    .max_connections(most / WORKERS)
    .client_request_timeout(HEAD)
    .on_connect(move |connection, kept| connections.greet(connection, kept))
    .shutdown_timeout(1);
    let config = tls.map(|t| t.config);
    for bind in &reach.binds {
        let told = |e: std::io::Error| format!("{bind} cannot be bound: {e}");
        server = match (&config, bind.ip().is_loopback()) {
            (Some(config), false) => server
                .bind_rustls_0_23(bind, config.clone())
                .map_err(told)?,
            _ => server.bind(bind).map_err(told)?,
        };
    }
    let all = server.addrs();
    let urls = all
        .iter()
        .filter(|a| !a.ip().is_loopback())
        .flat_map(|a| names.iter().map(|n| https(n, a.port())));
    let _ = reached.set(urls.collect());
    if let Some(own) = all.iter().find(|a| a.ip().is_loopback()) {
        let _ = door.set(format!("http://{own}"));
        resume(&kept).map_err(|e| e.to_string())?;
    }
    let address = all
        .first()
        .copied()
        .ok_or("there is no address to listen on")?;
    Ok(Served {
        server: server.run(),
        address,
    })
}

/// The address of a page over TLS.
fn https(name: &str, port: u16) -> String {
    let host = if name.contains(':') {
        format!("[{name}]")
    } else {
        name.into()
    };
    if port == 443 {
        format!("https://{host}")
    } else {
        format!("https://{host}:{port}")
    }
}

/// Ruhe's own root, for other devices to trust. It is no secret.
struct RootFile(Option<tls::Root>);

async fn root_file(root: web::Data<RootFile>) -> HttpResponse {
    match &root.0 {
        Some(root) => HttpResponse::Ok()
            .content_type("application/x-x509-ca-cert")
            .body(root.pem.clone()),
        None => HttpResponse::NotFound().finish(),
    }
}
