//! What each address of the API asks of whoever calls it. The table names every address: what is not in it is refused,
//! so that an address that somebody adds and forgets here opens nothing. A test of the server holds it against the
//! routes.

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

/// An address: its method, its pattern as the routes write it, what it asks for, and whether a drill answers it too.
pub type Address = (&'static str, &'static str, Asked, bool);

const NOBODY: Asked = Asked::Nobody;
const GAUGE: Asked = Asked::Gauge;
const ANYBODY: Asked = Asked::Anybody;
const LOOK: Asked = Asked::Right(Right::Look);
const WORK: Asked = Asked::Right(Right::Work);
const OVERRIDE: Asked = Asked::Right(Right::Override);
const SIGN: Asked = Asked::Right(Right::Sign);
const COUNTERSIGN: Asked = Asked::Right(Right::Countersign);
const PROCEDURES: Asked = Asked::Right(Right::Procedures);
const PEOPLE: Asked = Asked::Right(Right::People);
/// Of the house alone.
const HOUSE: bool = false;
/// Of the house and of each drill.
const BOTH: bool = true;

/// Every address there is. `POST /api/people` is open to whoever sits at the machine as long as nobody is known;
/// `DELETE /api/devices/{id}` asks for the right over people where the device is another's.
#[rustfmt::skip] // a row an address
pub const ADDRESSES: [Address; 105] = [
    ("POST", "/api/bench/additional", LOOK, BOTH),
    ("POST", "/api/bench/corrected", LOOK, BOTH),
    ("POST", "/api/bench/enough", LOOK, BOTH),
    ("POST", "/api/bench/mass", LOOK, BOTH),
    ("POST", "/api/bench/nitrogen", LOOK, BOTH),
    ("POST", "/api/bench/pull", LOOK, BOTH),
    ("POST", "/api/bench/retest", LOOK, BOTH),
    ("POST", "/api/bench/rise", LOOK, BOTH),
    ("POST", "/api/bench/saturation", LOOK, BOTH),
    ("POST", "/api/bench/volume", LOOK, BOTH),
    ("GET", "/api/circuits/{id}", LOOK, BOTH),
    ("POST", "/api/circuits/{id}/additions", WORK, BOTH),
    ("POST", "/api/circuits/{id}/arrival", WORK, BOTH),
    ("GET", "/api/circuits/{id}/bag", LOOK, HOUSE),
    ("POST", "/api/circuits/{id}/consents", WORK, BOTH),
    ("POST", "/api/circuits/{id}/correction", WORK, BOTH),
    ("POST", "/api/circuits/{id}/csv", WORK, BOTH),
    ("POST", "/api/circuits/{id}/csv/look", WORK, BOTH),
    ("POST", "/api/circuits/{id}/entries/{entry}/strike", WORK, BOTH),
    ("POST", "/api/circuits/{id}/ledger", WORK, BOTH),
    ("POST", "/api/circuits/{id}/looks", WORK, BOTH),
    ("POST", "/api/circuits/{id}/overrides", WORK, BOTH),
    ("POST", "/api/circuits/{id}/overrides/{entry}/approval", OVERRIDE, BOTH),
    ("POST", "/api/circuits/{id}/packages", WORK, BOTH),
    ("POST", "/api/circuits/{id}/photos", WORK, BOTH),
    ("POST", "/api/circuits/{id}/ports", WORK, BOTH),
    ("GET", "/api/circuits/{id}/record", LOOK, BOTH),
    ("GET", "/api/circuits/{id}/record.pdf", LOOK, BOTH),
    ("GET", "/api/circuits/{id}/record.zip", LOOK, BOTH),
    ("POST", "/api/circuits/{id}/repairs", WORK, BOTH),
    ("GET", "/api/circuits/{id}/revisit.ics", LOOK, BOTH),
    ("POST", "/api/circuits/{id}/seen", WORK, BOTH),
    ("POST", "/api/circuits/{id}/sets", WORK, BOTH),
    ("POST", "/api/circuits/{id}/signature", SIGN, BOTH),
    ("POST", "/api/circuits/{id}/steps", WORK, BOTH),
    ("PUT", "/api/circuits/{id}/survey", WORK, BOTH),
    ("POST", "/api/circuits/{id}/target", WORK, BOTH),
    ("POST", "/api/circuits/{id}/tests", WORK, BOTH),
    ("POST", "/api/circuits/{id}/tried/arrival", LOOK, BOTH),
    ("POST", "/api/circuits/{id}/tried/set", LOOK, BOTH),
    ("POST", "/api/circuits/{id}/tried/stop", LOOK, BOTH),
    ("POST", "/api/circuits/{id}/tried/target", LOOK, BOTH),
    ("POST", "/api/circuits/{id}/vacuum-broken", WORK, BOTH),
    ("POST", "/api/circuits/{id}/visits", WORK, BOTH),
    ("POST", "/api/circuits/{id}/witness", COUNTERSIGN, BOTH),
    ("POST", "/api/csv", WORK, BOTH),
    ("GET", "/api/devices", ANYBODY, HOUSE),
    ("DELETE", "/api/devices/{id}", ANYBODY, HOUSE),
    ("POST", "/api/door", GAUGE, HOUSE),
    ("GET", "/api/drills", LOOK, HOUSE),
    ("POST", "/api/drills", WORK, HOUSE),
    ("POST", "/api/drills/files", WORK, HOUSE),
    ("GET", "/api/drills/files/{id}", LOOK, HOUSE),
    ("POST", "/api/drills/forms", WORK, HOUSE),
    ("DELETE", "/api/drills/{id}", WORK, HOUSE),
    ("GET", "/api/drills/{id}", LOOK, HOUSE),
    ("POST", "/api/drills/{id}/acts", WORK, HOUSE),
    ("POST", "/api/drills/{id}/decision", WORK, HOUSE),
    ("POST", "/api/drills/{id}/looks", WORK, HOUSE),
    ("GET", "/api/drills/{id}/result", LOOK, HOUSE),
    ("PUT", "/api/drills/{id}/speed", WORK, HOUSE),
    ("GET", "/api/gauges", LOOK, HOUSE),
    ("POST", "/api/gauges", WORK, HOUSE),
    ("DELETE", "/api/gauges/{id}", WORK, HOUSE),
    ("POST", "/api/jobs", WORK, HOUSE),
    ("GET", "/api/kit", LOOK, BOTH),
    ("POST", "/api/kit", WORK, BOTH),
    ("GET", "/api/kit/in-use", LOOK, BOTH),
    ("POST", "/api/kit/photos", WORK, BOTH),
    ("PUT", "/api/kit/{id}", WORK, BOTH),
    ("GET", "/api/live", LOOK, BOTH),
    ("GET", "/api/meta", NOBODY, BOTH),
    ("POST", "/api/pairing", ANYBODY, HOUSE),
    ("POST", "/api/pairing/use", NOBODY, HOUSE),
    ("GET", "/api/people", ANYBODY, HOUSE),
    ("POST", "/api/people", PEOPLE, HOUSE),
    ("PUT", "/api/people/{id}", PEOPLE, HOUSE),
    ("GET", "/api/photos/{id}", LOOK, BOTH),
    ("GET", "/api/pocket", LOOK, HOUSE),
    ("POST", "/api/procedures", PROCEDURES, BOTH),
    ("POST", "/api/readings/{id}/strike", WORK, BOTH),
    ("GET", "/api/search", LOOK, HOUSE),
    ("GET", "/api/season.zip", LOOK, HOUSE),
    ("DELETE", "/api/session", ANYBODY, BOTH),
    ("GET", "/api/session", NOBODY, BOTH),
    ("GET", "/api/refusals", PEOPLE, HOUSE),
    ("POST", "/api/session", NOBODY, BOTH),
    ("POST", "/api/session/again", ANYBODY, BOTH),
    ("PUT", "/api/session/password", ANYBODY, HOUSE),
    ("DELETE", "/api/sessions", ANYBODY, HOUSE),
    ("GET", "/api/tests/{id}", LOOK, BOTH),
    ("GET", "/api/tests/{id}/calendar.ics", LOOK, BOTH),
    ("DELETE", "/api/tests/{id}/channels/{channel}/gauge", WORK, HOUSE),
    ("PUT", "/api/tests/{id}/channels/{channel}/gauge", WORK, HOUSE),
    ("POST", "/api/tests/{id}/clock", WORK, BOTH),
    ("POST", "/api/tests/{id}/end", WORK, BOTH),
    ("POST", "/api/tests/{id}/events", WORK, BOTH),
    ("DELETE", "/api/tests/{id}/gauge", WORK, BOTH),
    ("POST", "/api/tests/{id}/gauge", WORK, BOTH),
    ("GET", "/api/tests/{id}/judged-again", LOOK, BOTH),
    ("POST", "/api/tests/{id}/moved", WORK, BOTH),
    ("GET", "/api/tests/{id}/package", LOOK, BOTH),
    ("GET", "/api/tests/{id}/readings", LOOK, BOTH),
    ("POST", "/api/tests/{id}/readings", WORK, BOTH),
    ("GET", "/api/today", LOOK, BOTH),
];

/// What an address asks for; `pattern` as the routes write it, with `{id}`. Nothing: there is no such address.
#[must_use]
pub fn asked(method: &str, pattern: &str) -> Option<Asked> {
    ADDRESSES
        .iter()
        .find(|(m, p, ..)| *m == method && *p == pattern)
        .map(|a| a.2)
}

/// Methods that an address takes; none: there is no such address.
#[must_use]
pub fn methods(pattern: &str) -> Vec<&'static str> {
    let at = ADDRESSES.iter().filter(|(_, p, ..)| *p == pattern);
    at.map(|a| a.0).collect()
}

/// Whether a drill answers it too.
#[must_use]
pub fn is_in_drills(method: &str, pattern: &str) -> bool {
    ADDRESSES
        .iter()
        .any(|(m, p, _, both)| *m == method && *p == pattern && *both)
}
