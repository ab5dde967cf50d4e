//! The OpenAPI description: what the code of the routes says, with what no route says of itself: what a success is, who
//! may call, which headers count. Refusals are described once.

use crate::app::routes;
use ruhe_job::people::{ADDRESSES, Asked};
use serde_json::{Map, Value, json};

/// The description.
#[must_use]
pub fn specification() -> Value {
    let mut spec = serde_json::to_value(routes()).unwrap_or_default();
    spec["info"]["description"] = json!(
        "Pressure holds, evacuations and decays of refrigeration circuits: readings, verdicts, signed records. Figures are \
         in SI units unless a field says otherwise; times are ms since 1970 UTC. What is not described here is refused."
    );
    spec["info"]["license"] = json!({"name": "Apache-2.0", "identifier": "Apache-2.0"});
    spec["servers"] = json!([{"url": "/", "description": "Where Ruhe itself listens"}]);
    spec["components"]["securitySchemes"] = json!({
        "session": {"type": "apiKey", "in": "cookie", "name": crate::people::cookie_name(true),
            "description": "Set by POST /api/session. On this machine itself, without TLS, its name has no prefix. Not asked \
                where nobody is known yet."},
        "gauge": {"type": "http", "scheme": "bearer", "description": "The token that was shown when the gauge \
             was let in."},
    });
    spec["components"]["parameters"] = headers();
    let mut refusals = Map::new();
    if let Some(paths) = spec["paths"].as_object_mut() {
        for (path, operations) in paths {
            for (verb, operation) in operations.as_object_mut().into_iter().flatten() {
                describe(path, verb, operation, &mut refusals);
            }
        }
    }
    spec["components"]["responses"] = refusals.into();
    spec["tags"] = TAGS
        .iter()
        .map(|(name, words)| json!({"name": name, "description": words}))
        .collect();
    spec["paths"]["/api/door"]["post"]["requestBody"]["content"]["application/x-ndjson"]["example"] = json!(
        "{\"source\":\"P1\",\"n\":17,\"at\":\"2026-05-04T10:00:00Z\",\"value\":\"300.20\",\"unit\":\"psig\"}\n"
    );
    // What a stream tells, an event each.
    spec["paths"]["/api/live"]["get"]["responses"]["200"]["content"]["text/event-stream"]["schema"] = json!({
        "type": "string", "contentMediaType": "application/json",
        "contentSchema": {"$ref": "#/components/schemas/Changed"}});
    plainer(&mut spec);
    without_unused(&mut spec);
    spec
}

/// Takes out schemas that nothing names.
fn without_unused(spec: &mut Value) {
    loop {
        let text = spec.to_string();
        let Some(all) = spec["components"]["schemas"].as_object_mut() else {
            return;
        };
        let before = all.len();
        all.retain(|name, _| text.contains(&format!("\"#/components/schemas/{name}\"")));
        if all.len() == before {
            return;
        }
    }
}

/// What addresses are about, by their first part.
const TAGS: [(&str, &str); 16] = [
    ("bench", "Single sums, without a job"),
    ("circuits", "A circuit: what is done on it, its record"),
    ("csv", "Loggers' files before they are taken"),
    ("devices", "Devices that were let in"),
    ("door", "Where gauges send"),
    ("drills", "Practice on a simulated plant"),
    ("gauges", "Gauges that send by themselves"),
    ("jobs", "Jobs"),
    ("kit", "What is in the van"),
    ("live", "What changed, as it does"),
    ("meta", "Units, refrigerants, procedures"),
    ("people", "Who works here"),
    ("photos", "Photos"),
    ("session", "Signing in"),
    ("tests", "A test: readings, events, its end"),
    ("today", "What is at work now"),
];

/// Headers of whatever writes.
const HEADERS: [(&str, &str, &str); 5] = [
    (
        "RuheId",
        "Ruhe-Id",
        "Made by who sends, at most 40 letters and digits: sent again under it, an act is kept once.",
    ),
    ("RuheDevice", "Ruhe-Device", "On which device it was said."),
    (
        "RuheClock",
        "Ruhe-Clock",
        "That device's clock when it was said, ms since 1970.",
    ),
    (
        "RuheSent",
        "Ruhe-Sent",
        "The same clock when it was sent: it may have waited for the network.",
    ),
    (
        "RuhePerson",
        "Ruhe-Person",
        "Whose it is: refused where somebody else is signed in by now.",
    ),
];

fn headers() -> Value {
    HEADERS
        .iter()
        .map(|(key, name, words)| {
            let header = json!({"name": name, "in": "header", "required": false, "description": words,
                "schema": {"type": "string"}});
            ((*key).to_owned(), header)
        })
        .collect::<Map<_, _>>()
        .into()
}

fn describe(path: &str, verb: &str, operation: &mut Value, refusals: &mut Map<String, Value>) {
    let method = verb.to_uppercase();
    let asked = ADDRESSES
        .iter()
        .find(|a| a.0 == method && a.1 == path)
        .map(|a| a.2);
    operation["security"] = match asked {
        Some(Asked::Nobody) => json!([{}]),
        Some(Asked::Gauge) => json!([{"gauge": []}]),
        _ => json!([{"session": []}]),
    };
    operation["description"] = match asked {
        Some(Asked::Right(right)) => {
            let right = serde_json::to_value(right).unwrap_or_default();
            json!(format!(
                "Asks for the right: {}.",
                right.as_str().unwrap_or_default()
            ))
        }
        Some(Asked::Gauge) => json!("For gauges that were let in."),
        Some(Asked::Nobody) => json!("Open: it is needed to come in at all."),
        Some(Asked::Anybody) | None => json!("For whoever is signed in."),
    };
    let first = path.split('/').nth(2).unwrap_or_default();
    let tag = match first {
        "pairing" => "devices",
        "procedures" => "kit",
        "readings" => "tests",
        "refusals" | "sessions" => "people",
        "search" | "season.zip" => "today",
        "pocket" => "live",
        known => known,
    };
    operation["tags"] = json!([tag]);
    if method != "GET" {
        let named = HEADERS
            .iter()
            .map(|(key, ..)| json!({"$ref": format!("#/components/parameters/{key}")}));
        let mut all = operation["parameters"]
            .as_array()
            .cloned()
            .unwrap_or_default();
        all.extend(named);
        operation["parameters"] = all.into();
    }
    for (status, response) in operation["responses"].as_object_mut().into_iter().flatten() {
        if status.starts_with('2') {
            response["description"] = json!(match status.as_str() {
                "201" => "It is kept.",
                "204" => "It is done.",
                _ => "What was asked for.",
            });
            response.get_mut("content").map(bytes);
            continue;
        }
        let name = format!("Refused{status}");
        if !refusals.contains_key(&name) {
            let mut shared = response.clone();
            shared["content"]["application/json"]["schema"] =
                json!({"$ref": "#/components/schemas/Problem"});
            if status == "429" {
                shared["headers"] = json!({"Retry-After": {"description": "So many seconds",
                    "schema": {"type": "integer"}}});
            }
            refusals.insert(name.clone(), shared);
        }
        *response = json!({"$ref": format!("#/components/responses/{name}")});
    }
    let body = operation.get_mut("requestBody");
    body.and_then(|b| b.get_mut("content")).map(bytes);
}

/// Bodies that are no JSON are bytes or text, no lists of numbers.
fn bytes(content: &mut Value) {
    for (kind, of) in content.as_object_mut().into_iter().flatten() {
        of["schema"] = match kind.as_str() {
            "application/json" => continue,
            k if k.starts_with("text/") || k.ends_with("ndjson") => json!({"type": "string"}),
            _ => json!({"type": "string", "format": "binary"}),
        };
    }
}

/// Pairs of one kind, as every reader of such descriptions understands them: so many, each of that kind.
fn plainer(v: &mut Value) {
    match v {
        Value::Object(o) => {
            let all = o.get("prefixItems").and_then(Value::as_array);
            if let Some(n) = all
                .filter(|a| a.windows(2).all(|w| w[0] == w[1]))
                .map(Vec::len)
            {
                let first = o.get("prefixItems").and_then(|all| all.get(0)).cloned();
                o.remove("prefixItems");
                o.insert("items".into(), first.unwrap_or_default());
                o.insert("minItems".into(), n.into());
                o.insert("maxItems".into(), n.into());
            }
            o.values_mut().for_each(plainer);
        }
        Value::Array(a) => a.iter_mut().for_each(plainer),
        _ => {}
    }
}
