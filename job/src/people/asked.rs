//! What each address of the API asks of whoever calls it.

use super::Right;

/// What an address asks for.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Asked {
    /// Nothing: it is needed to come in at all.
    Nobody,
    /// A gauge's own token.
    Gauge,
    /// Somebody who is signed in, whatever they are.
    Anybody,
    /// A right.
    Right(Right),
}

/// Addresses that ask for something else than looking (GET) and working (all others).
const OTHERS: [(&str, &str, Asked); 20] = [
    ("GET", "/api/meta", Asked::Nobody),
    ("GET", "/api/session", Asked::Nobody),
    ("POST", "/api/session", Asked::Nobody),
    ("POST", "/api/pairing/use", Asked::Nobody),
    // Allowed to nobody in particular only as long as there is nobody, and then on the machine itself.
    ("POST", "/api/people", Asked::Right(Right::People)),
    ("PUT", "/api/people/{id}", Asked::Right(Right::People)),
    ("POST", "/api/door", Asked::Gauge),
    ("DELETE", "/api/session", Asked::Anybody),
    ("DELETE", "/api/sessions", Asked::Anybody),
    ("POST", "/api/session/again", Asked::Anybody),
    ("PUT", "/api/session/password", Asked::Anybody),
    ("GET", "/api/devices", Asked::Anybody),
    // One's own, or with the right to say who comes in: the handler tells them apart.
    ("DELETE", "/api/devices/{id}", Asked::Anybody),
    ("POST", "/api/pairing", Asked::Anybody),
    ("GET", "/api/people", Asked::Anybody),
    (
        "POST",
        "/api/circuits/{id}/overrides",
        Asked::Right(Right::Override),
    ),
    (
        "POST",
        "/api/circuits/{id}/signature",
        Asked::Right(Right::Sign),
    ),
    (
        "POST",
        "/api/circuits/{id}/witness",
        Asked::Right(Right::Countersign),
    ),
    ("POST", "/api/procedures", Asked::Right(Right::Procedures)),
    ("POST", "/api/csv", Asked::Right(Right::Work)),
];

/// Questions that are asked with a body and change nothing.
const QUESTIONS: [&str; 2] = ["/api/bench/", "/tried/"];

/// What an address asks for; `pattern` as the routes write it, with `{id}`.
#[must_use]
pub fn asked(method: &str, pattern: &str) -> Asked {
    if let Some((_, _, a)) = OTHERS
        .iter()
        .find(|(m, p, _)| *m == method && *p == pattern)
    {
        return *a;
    }
    let is_question = QUESTIONS.iter().any(|q| pattern.contains(q));
    match method {
        "GET" | "HEAD" => Asked::Right(Right::Look),
        "POST" if is_question => Asked::Right(Right::Look),
        _ => Asked::Right(Right::Work),
    }
}
