//! What is entered without the server: each address as the server has it, and the verb it asks.

use crate::wire::{Reply, Request};
use crate::{Pocket, see};
use ruhe_job::act::{self, ArrivalInput, SetInput, TargetInput};
use ruhe_job::log::{Deed, Who};
use ruhe_job::people::{Asked, By, asked};
use ruhe_job::refusal::Refusal;
use ruhe_job::service::{self, Acted, Keeper as _, VERBS, Word};
use ruhe_job::state::Circuit;
use ruhe_job::tell::{
    Created, additional, corrected, enough, nitrogen, pull_time, read_mass, retest, rise,
    saturation, tried_arrival, tried_set, tried_stop, tried_target, volume,
};

/// What needs the server, in words.
const NOT_HERE: &str = "this needs the server, and it cannot be reached now";

/// The address as the rules write it.
fn pattern(path: &[&str]) -> String {
    let parts: Vec<&str> = path
        .iter()
        .enumerate()
        .map(|(i, p)| match (i, path.get(i.wrapping_sub(1))) {
            (2, Some(&("circuits" | "tests" | "readings"))) => "{id}",
            (4, Some(&("entries" | "overrides"))) => "{entry}",
            _ => *p,
        })
        .collect();
    format!("/{}", parts.join("/"))
}

/// Who says what a request says, and when.
struct Said {
    who: Who,
    by: By,
    at_ms: i64,
    now_ms: i64,
}

impl Said {
    fn of(p: &Pocket, r: &Request, id: &str, now: i64) -> Result<Self, Refusal> {
        let by = p.by(r)?;
        Ok(Self {
            who: Who {
                id: id.into(),
                actor: by.name.clone(),
                device: by.device.clone(),
                said_ms: r.said_ms,
            },
            by,
            at_ms: r.at(now),
            now_ms: now,
        })
    }
    fn word(&self) -> Word<'_> {
        Word {
            who: &self.who,
            by: &self.by,
            at_ms: self.at_ms,
            now_ms: self.now_ms,
            // Nobody's password is known here.
            is_confirmed: false,
        }
    }
}

/// Does what is asked.
///
/// # Errors
/// The refusal of the rule, as the server would give it.
pub fn act(
    p: &mut Pocket,
    path: &[&str],
    r: &Request,
    bytes: &[u8],
    now: i64,
) -> Result<Reply, Refusal> {
    match asked(&r.method, &pattern(path)) {
        Some(Asked::Right(right)) => p.by(r)?.must(right)?,
        Some(_) => {}
        None => return Err(Refusal::Missing("address".into())),
    }
    match (r.method.as_str(), path) {
        ("POST", ["api", "circuits", id, "tried", what]) => tried(p, id, what, r, r.at(now)),
        ("POST", ["api", "bench", what]) => bench(what, r),
        ("POST", ["api", "tests", id, "readings"]) => {
            // Readings have ids of their own.
            let said = Said::of(p, r, "readings", now)?;
            Reply::of(201, &service::read(p, id, &r.read()?, &said.word())?)
        }
        ("POST", ["api", "tests", id, "events"]) => {
            let b: act::EventInput = r.read()?;
            let said = Said::of(p, r, &b.id, now)?;
            created(service::mark(p, id, b, &said.word())?)
        }
        _ => said(p, path, r, bytes, &Said::of(p, r, &r.id, now)?),
    }
}

fn created(acted: Acted) -> Result<Reply, Refusal> {
    Reply::of(201, &Created { id: acted.id })
}

/// Keeps what is said, until the server has the last word.
fn said(
    p: &mut Pocket,
    path: &[&str],
    r: &Request,
    bytes: &[u8],
    said: &Said,
) -> Result<Reply, Refusal> {
    let word = &said.word();
    let not_here = || Refusal::Conflict(NOT_HERE.into());
    let mut decide = |id: &str, rule: &dyn Fn(&Circuit) -> Result<Vec<Deed>, Refusal>| {
        service::decide(p, id, word.who, word.now_ms, |_, c| rule(c))
    };
    match (r.method.as_str(), path) {
        ("PUT", ["api", "circuits", id, "survey"]) => {
            let b: act::SurveyInput = r.read()?;
            decide(id, &|c| act::keep_survey(c, b.clone()))?;
            see::survey(p, id)
        }
        ("POST", ["api", "circuits", id, "tests"]) => {
            let b = r.read()?;
            let (who, now) = (word.who, word.now_ms);
            created(service::decide(p, id, who, now, |p, c| {
                service::plan(p, c, b, word, r.units())
            })?)
        }
        ("POST", ["api", "circuits", id, "photos"]) => {
            created(decide(id, &|c| act::take_photo(c, bytes))?)
        }
        ("POST", ["api", "circuits", id, "entries", entry, "strike"]) => {
            let b = r.read()?;
            created(decide(id, &|c| act::strike(c, entry, &b, word.by))?)
        }
        ("POST", ["api", "circuits", id, "overrides", entry, "approval"]) => {
            created(decide(id, &|c| act::approve(c, entry))?)
        }
        ("POST", ["api", "circuits", id, verb]) if VERBS.contains(verb) => {
            created(decide(id, &|c| {
                service::said(verb, r.body.clone(), c, word).unwrap_or_else(|| Err(not_here()))
            })?)
        }
        ("POST", ["api", "tests", id, "clock"]) => {
            created(service::start_clock(p, id, r.read()?, word)?)
        }
        ("POST", ["api", "tests", id, "end"]) => {
            service::end(p, id, word)?;
            Reply::of(201, &serde_json::Value::Null)
        }
        ("POST", ["api", "readings", id, "strike"]) => {
            service::strike_reading(p, id, &r.read()?, word)?;
            Reply::of(201, &serde_json::Value::Null)
        }
        _ => Err(not_here()),
    }
}

fn tried(p: &mut Pocket, id: &str, what: &str, r: &Request, at: i64) -> Result<Reply, Refusal> {
    let c = p.circuit(id)?;
    match what {
        "arrival" => {
            let b: ArrivalInput = r.read()?;
            Reply::of(200, &tried_arrival(&c, &b.arrival, at)?)
        }
        "target" => {
            let b: TargetInput = r.read()?;
            Reply::of(200, &tried_target(&c, &b.target)?)
        }
        "stop" => Reply::of(200, &tried_stop(&c, &r.read()?)?),
        "set" => {
            let b: SetInput = r.read()?;
            Reply::of(200, &tried_set(&c, &b.set, at)?)
        }
        _ => Err(Refusal::Conflict(NOT_HERE.into())),
    }
}

fn bench(what: &str, r: &Request) -> Result<Reply, Refusal> {
    match what {
        "corrected" => Reply::of(200, &corrected(&r.read()?)?),
        "enough" => Reply::of(200, &enough(&r.read()?)?),
        "nitrogen" => Reply::of(200, &nitrogen(&r.read()?)?),
        "volume" => Reply::of(200, &volume(&r.read()?)?),
        "retest" => Reply::of(200, &retest(&r.read()?)?),
        "mass" => Reply::of(200, &read_mass(&r.read()?)?),
        "saturation" => Reply::of(200, &saturation(&r.read()?)?),
        "rise" => Reply::of(200, &rise(&r.read()?)?),
        "pull" => Reply::of(200, &pull_time(&r.read()?)?),
        "additional" => Reply::of(200, &additional(&r.read()?)?),
        _ => Err(Refusal::Conflict(NOT_HERE.into())),
    }
}
