//! The built page. Names with a hash never change; everything else is asked for again.

use actix_web::http::Method;
use actix_web::{HttpRequest, HttpResponse};
use rust_embed::{EmbeddedFile, RustEmbed};

#[derive(RustEmbed)]
#[folder = "$CARGO_MANIFEST_DIR/../web/dist"]
#[allow_missing = true]
struct Page;

/// The same file as it was made small when the page was built, if the browser takes it so.
fn smaller(request: &HttpRequest, name: &str) -> Option<(&'static str, EmbeddedFile)> {
    let taken = request.headers().get("Accept-Encoding")?.to_str().ok()?;
    [("br", "br"), ("gzip", "gz")]
        .into_iter()
        .filter(|(encoding, _)| {
            taken
                .split(',')
                .any(|t| t.trim().split(';').next() == Some(*encoding))
        })
        .find_map(|(encoding, end)| Some((encoding, Page::get(&format!("{name}.{end}"))?)))
}

/// What the worker with the rules may do: compile them, and fetch them from here.
const WORKER_CSP: &str =
    "default-src 'none'; script-src 'self' 'wasm-unsafe-eval'; connect-src 'self'";

/// A file of the page, or the page itself for any of its own addresses.
pub async fn page(request: HttpRequest) -> HttpResponse {
    let path = request.path().trim_start_matches('/');
    let is_asked_for = [Method::GET, Method::HEAD].contains(request.method());
    // No page has such a part: whoever asks for it means the API, which is at no such address.
    if !is_asked_for || path.split('/').any(|part| part.eq_ignore_ascii_case("api")) {
        return HttpResponse::NotFound().json(crate::error::Problem {
            message: "there is nothing at this address".into(),
            field: None,
        });
    }
    let (name, file) = match Page::get(path) {
        Some(f) if !path.is_empty() => (path, Some(f)),
        _ if path.starts_with("assets/") => return HttpResponse::NotFound().finish(),
        _ => ("index.html", Page::get("index.html")),
    };
    let Some(file) = file else {
        return HttpResponse::ServiceUnavailable()
            .body("The page has not been built: run `npm run build` in web/.");
    };
    let is_rules = name == "ruhe.wasm" && !request.query_string().is_empty();
    let cache = if name.starts_with("assets/") || is_rules {
        "public, max-age=31536000, immutable"
    } else {
        "no-cache"
    };
    let mut reply = HttpResponse::Ok();
    if name.starts_with("assets/worker") {
        // The one script that runs the rules; the page itself may compile nothing.
        reply.insert_header(("Content-Security-Policy", WORKER_CSP));
    }
    let small = smaller(&request, name);
    if let Some((encoding, _)) = &small {
        reply.insert_header(("Content-Encoding", *encoding));
        reply.insert_header(("Vary", "Accept-Encoding"));
    }
    let file = small.map_or(file, |(_, f)| f);
    reply
        .content_type(mime_guess::from_path(name).first_or_octet_stream())
        .insert_header(("Cache-Control", cache))
        .body(file.data.into_owned())
}
